"""What several takes say together: fretted pitches of a guitar, a student's vibrato, strings that rang."""

from __future__ import annotations

from dataclasses import dataclass
from statistics import median, pstdev
from typing import Any

from fortimetra import Drill as DrillContent
from fortimetra.model import FrettedPitch
from fortimetra.units import hz_to_cents, midi_to_hz

from apps.drills.models import Drill
from apps.people.models import Student, User
from apps.takes.models import Take
from apps.takes.selectors import SET_UP, takes

MOST_EARLIER_TAKES = 8
MOST_VOICE_TAKES = 40
MOST_RUNG = 50
# A note further from its pitch than this was another one.
WITHIN_CENTS = 50.0


def fretted_notes(take: Take, drill: DrillContent) -> tuple[FrettedPitch, ...]:
    """Plainly fretted notes of earlier takes of the same guitar in the drill's tuning, the median of each place.

    Of no actor: a worker reads it, for a take it has claimed.
    """
    if take.guitar_id is None or not any(e.bend for e in drill.events):
        return ()
    earlier = (
        Take.objects.filter(guitar_id=take.guitar_id, played_at__lt=take.played_at, current__isnull=False)
        .exclude(drill_version__drill__family=SET_UP)
        .order_by("-played_at")
        .values_list("current__content", flat=True)[:MOST_EARLIER_TAKES]
    )
    found: dict[tuple[int, int], list[tuple[float, float]]] = {}
    for content in earlier:
        for note in content["notes"]:
            pitch, string, fret = note["pitch"], note["string"], note["fret"]
            plain = note["status"] == "played" and note["bend"] is None and note["vibrato"] is None
            if not plain or not pitch or not pitch["median_hz"] or pitch["u"] is None or string > len(drill.tuning):
                continue
            cents = hz_to_cents(pitch["median_hz"], reference_hz=midi_to_hz(drill.open_midi(string) + fret))
            if abs(cents) < WITHIN_CENTS:
                found.setdefault((string, fret), []).append((cents, pitch["u"]))
    return tuple(
        FrettedPitch(
            string=string,
            fret=fret,
            error_cents=median(c for c, _ in values),
            u=max(median(u for _, u in values), 2.0 * (pstdev([c for c, _ in values]) if len(values) > 1 else 2.5)),
        )
        for (string, fret), values in found.items()
    )


def voice(actor: User, student: Student) -> list[dict[str, Any]]:
    """The student's vibrato by context, from their newest takes: what it is, without a judgement."""
    summaries = (
        takes(actor)
        .filter(student=student, current__isnull=False, drill_version__drill__family__startswith="vibrato")
        .values_list("current__summary", flat=True)[:MOST_VOICE_TAKES]
    )
    groups: dict[tuple[str, int], list[dict[str, Any]]] = {}
    for summary in summaries:
        for row in summary.get("vibratos", ()):
            groups.setdefault((row["on"], row["string"]), []).append(row)
    return [
        {
            "on": on,
            "string": string,
            "takes": len(rows),
            "count": sum(r["count"] for r in rows),
            **{name: median(r[name] for r in rows) for name in ("rate_hz", "extent_cents", "rate_cv", "extent_cv")},
            "rate_range": (min(r["rate_hz"] for r in rows), max(r["rate_hz"] for r in rows)),
            "extent_range": (min(r["extent_cents"] for r in rows), max(r["extent_cents"] for r in rows)),
        }
        for (on, string), rows in sorted(groups.items(), key=lambda g: (g[0][0] == "bent", g[0][1]))
    ]


@dataclass(frozen=True)
class StringRung:
    """How often a string rang where it should not, over the newest takes of a drill; level_db: median, against the
    notes.
    """

    string: int
    takes: int
    of: int
    level_db: float


def rung(actor: User, drill: Drill, *, student: Student | None = None) -> list[StringRung]:
    """Strings that rang in the newest takes of a drill, the most often first: of one student, or of all this person
    may see.
    """
    found = takes(actor).filter(drill_version__drill=drill, current__isnull=False)
    if student is not None:
        found = found.filter(student=student)
    rows = list(found.order_by("-played_at").values_list("current__summary", flat=True)[:MOST_RUNG])
    levels: dict[int, list[float]] = {}
    for summary in rows:
        jobs = summary.get("rings") or ()
        for string in {j["string"] for j in jobs}:
            levels.setdefault(string, []).append(max(j["level_db"] for j in jobs if j["string"] == string))
    out = [StringRung(string, len(row), len(rows), median(row)) for string, row in levels.items()]
    return sorted(out, key=lambda r: (-r.takes, -r.level_db))

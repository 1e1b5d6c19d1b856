"""What a person may see of takes."""

from __future__ import annotations

from dataclasses import dataclass
from statistics import median, pstdev
from typing import Any, Literal
from uuid import UUID

from config.problems import ServiceError, not_found
from django.db.models import QuerySet
from django.db.models.fields.files import FieldFile
from fortimetra import Drill as DrillContent
from fortimetra.model import FrettedPitch
from fortimetra.model import Guitar as GuitarContent
from fortimetra.units import hz_to_cents, midi_to_hz

from apps.drills.models import Drill
from apps.guitars.models import Guitar
from apps.jobs import services as jobs
from apps.people import selectors as people
from apps.people.models import Student, User
from apps.takes.models import Analysis, Take

SET_UP = "set_up"
MEASURE = "takes.measure"
MOST_EARLIER_TAKES = 8
MOST_VOICE_TAKES = 40
MOST_RUNG = 50
# A note further from its pitch than this was another one.
WITHIN_CENTS = 50.0


def takes(actor: User) -> QuerySet[Take]:
    """Takes of the students this person may see, newest first, without the large columns. A student does not see what
    they have hidden.
    """
    shown = {"hidden_at": None} if actor.role == User.Role.STUDENT else {}
    return (
        Take.objects.filter(student__in=people.students(actor), **shown)
        .select_related("student", "guitar", "drill_version__drill", "current", "judged_by")
        .defer("drill_version__content", "current__content", "guitar__description")
    )


def newest(found: QuerySet[Take], limit: int) -> list[Take]:
    """The first so many. Keys are put in order first: thousands of wide rows are slow to sort."""
    keys = list(found.values_list("pk", flat=True)[:limit])
    by_key = {t.pk: t for t in found.filter(pk__in=keys).order_by()}
    return with_progress([by_key[key] for key in keys if key in by_key])


def with_progress(found: list[Take]) -> list[Take]:
    """The takes with how far the measuring of those is that are being measured."""
    running = jobs.of(MEASURE, [t.pk for t in found if t.state == Take.State.MEASURING])
    for take in found:
        job = running.get(str(take.pk))
        take.stage, take.fraction = ("", float(take.state == Take.State.MEASURED))
        if job is not None:
            take.stage, take.fraction = job.stage, job.fraction
    return found


def take(actor: User, take_id: UUID) -> Take:
    """One of them, or 404."""
    found = takes(actor).filter(pk=take_id).first()
    if found is None:
        raise not_found()
    return with_progress([found])[0]


def analysis(actor: User, take_id: UUID) -> Analysis:
    """The newest analysis of a take.

    Raises ServiceError: the take's own problem if it was refused, 409 while it is not measured yet.
    """
    found = take(actor, take_id)
    if found.current is not None:
        # With what the page says of its drill, in one statement.
        around = ("drill_version__drill__partner", "drill_version__drill__after", "setup_take")
        return Analysis.objects.select_related(*around).get(pk=found.current.pk)
    if found.state in (Take.State.REFUSED, Take.State.FAILED):
        raise ServiceError(422, found.problem_code, found.problem_detail)
    raise ServiceError(409, "not_measured_yet", "This take is still being measured; ask again in a moment.")


def drawn(actor: User, take_id: UUID, what: Literal["curves", "listening"]) -> FieldFile:
    """What a sheet draws or plays. Raises ServiceError as `analysis`, and 409 while a worker is still writing it."""
    stored: FieldFile = getattr(analysis(actor, take_id), what)
    if not stored:
        raise ServiceError(409, "not_drawn_yet", "This is still being written; ask again in a moment.")
    return stored


def set_ups(actor: User, guitar: Guitar) -> QuerySet[Take]:
    """Measured set-up takes of a guitar, newest first."""
    return (
        takes(actor)
        .filter(guitar=guitar, drill_version__drill__family=SET_UP, current__setup__isnull=False)
        .defer(None)
        .defer("drill_version__content")
    )


def set_up_for(take: Take) -> Take | None:
    """The newest measured set-up take of the same guitar before this one, in the tuning the guitar has now.

    Of no actor: a worker reads it, for a take it has claimed.
    """
    if take.guitar_id is None or take.guitar is None or take.drill_version.drill.family == SET_UP:
        return None
    guitar = GuitarContent.model_validate(take.guitar.description)
    tuning = [guitar.open_midi(s) for s in range(1, len(guitar.tuning) + 1)]
    earlier = (
        Take.objects.filter(
            guitar_id=take.guitar_id,
            drill_version__drill__family=SET_UP,
            played_at__lte=take.played_at,
            current__setup__isnull=False,
        )
        .exclude(pk=take.pk)
        .select_related("current")
        .order_by("-played_at", "-created_at")
    )
    for found in earlier[:20]:
        if found.current is not None and (found.current.setup or {}).get("tuning") == tuning:
            return found
    return None


def takes_after_set_up(set_up: Take) -> QuerySet[Take]:
    """Finished takes of its guitar that a set-up take has a say in: from it to the next set-up take."""
    later = Take.objects.filter(guitar=set_up.guitar, played_at__gte=set_up.played_at).exclude(pk=set_up.pk)
    following = later.filter(drill_version__drill__family=SET_UP, current__setup__isnull=False).order_by("played_at")
    until = following.values_list("played_at", flat=True).first()
    others = later.exclude(drill_version__drill__family=SET_UP).filter(state=Take.State.MEASURED)
    return others if until is None else others.filter(played_at__lt=until)


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

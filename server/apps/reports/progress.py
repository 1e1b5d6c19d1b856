"""How it goes from take to take: trends with their uncertainty, the tempo at which a drill is clean, maps, the
voice.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from statistics import median
from typing import Any
from uuid import UUID

from django.db.models import Count, Max, Min
from fortimetra import Drill as DrillContent
from fortimetra.coach import FOLLOWED, Followed, Pooled, Trend, Value, pool_bends, share_interval, trend, values_of
from fortimetra.model import MemberCounts, RingJob, Summary

from apps.drills.models import Drill
from apps.guitars.models import Guitar
from apps.people.models import Student, User
from apps.plans import selectors as plans
from apps.takes import selectors
from apps.takes.models import Take

MOST_TAKES = 400
CLEAN_PERCENT = 95.0
MOST_OF_A_SET = 6
MOST_SHARES = 24
COLUMNS = (
    "pk",
    "played_at",
    "current__core_version",
    "current__bpm",
    "current__per_click",
    "current__summary",
    "current__tolerances",
    "guitar_id",
    "current__setup_take_id",
)


@dataclass(frozen=True)
class Point:
    """One take in a series."""

    take_id: UUID
    played_at: dt.datetime
    core_version: str
    bpm: float | None
    per_click: int | None
    guitar_id: int | None
    setup_take_id: UUID | None
    values: dict[str, Value]
    members: tuple[MemberCounts, ...] = ()
    rings: tuple[RingJob, ...] = ()


@dataclass(frozen=True)
class Series:
    """A measure over the takes of a drill. trend: of the newest core version's takes alone, towards what is wanted
    (positive is better) but for a voice, which has a direction and no better."""

    followed: Followed
    limit: float | None
    trend: Trend | None
    says: str


def drills_of(actor: User, student: Student) -> list[dict[str, Any]]:
    """Drills a student has takes of, the newest first."""
    found: Any = (
        selectors.takes(actor)
        .filter(student=student, current__isnull=False)
        .exclude(drill_version__drill__family=selectors.SET_UP)
        .order_by()
        .values("drill_version__drill_id", "drill_version__drill__title", "drill_version__drill__family")
        .annotate(takes=Count("pk"), first=Min("played_at"), last=Max("played_at"))
        .order_by("-last")
    )
    return list(found)


def points(actor: User, student: Student, drill: Drill) -> list[Point]:
    """Measured takes of a drill, oldest first; the newest 400."""
    rows = (
        selectors.takes(actor)
        .filter(student=student, drill_version__drill=drill, current__isnull=False)
        .order_by("-played_at")
        .values_list(*COLUMNS)[:MOST_TAKES]
    )
    found = []
    for pk, at, core, bpm, per_click, summary, _tolerances, guitar, setup in reversed(list(rows)):
        told = Summary.model_validate(summary)
        found.append(Point(pk, at, core, bpm, per_click, guitar, setup, values_of(told), told.members, told.rings))
    return found


def members(found: Sequence[Point]) -> list[tuple[str, list[tuple[UUID, dt.datetime, float]]]]:
    """Of a set: the clean share of each of its drills in the newest takes, oldest first; drills in the order of the
    newest take.
    """
    newest = [p for p in found if p.members][-MOST_OF_A_SET:]
    titles = [m.title for m in newest[-1].members] if newest else []
    return [
        (
            title,
            [
                (p.take_id, p.played_at, round(100.0 * m.clean / m.asked, 1))
                for p in newest
                for m in p.members
                if m.title == title and m.asked
            ],
        )
        for title in titles
    ]


@dataclass(frozen=True)
class Rung:
    """Strings that rang in the newest takes, by whose job they were. moving: how many where that part has to move."""

    says: str
    strings: tuple[int, ...]
    count: int
    takes: int
    level_db: float
    moving: int


def rung(found: Sequence[Point]) -> list[Rung]:
    """What rang in the newest takes by who should have damped it, the most often first."""
    rows: dict[str, list[tuple[UUID, RingJob]]] = {}
    for point in found[-MOST_OF_A_SET:]:
        for job in point.rings:
            rows.setdefault(job.says, []).append((point.take_id, job))
    out = [
        Rung(
            says, tuple(sorted({j.string for _, j in row})), sum(j.count for _, j in row), len({t for t, _ in row}),
            median(j.level_db for _, j in row), sum(j.moving for _, j in row),
        )
        for says, row in rows.items()
    ]  # fmt: skip
    return sorted(out, key=lambda r: -r.count)


def series(drill: Drill, found: Sequence[Point]) -> list[Series]:
    """Every measure that two takes at least say something of."""
    assert drill.current is not None
    limits = DrillContent.model_validate(drill.current.content).limits()
    out = []
    for followed in FOLLOWED:
        there = [p for p in found if followed.key in p.values]
        if len(there) < 2:
            continue
        newest = there[-1].core_version
        alike = [p for p in there if p.core_version == newest]
        towards = trend(
            [p.played_at.timestamp() / 86_400.0 for p in alike],
            [_good(followed, p.values[followed.key].value) for p in alike],
        )
        limit = limits.get(followed.limit) if followed.limit else None
        out.append(Series(followed, limit, towards, _says(followed, towards, len(alike))))
    return out


def _good(followed: Followed, value: float) -> float:
    """A number that grows as things get better."""
    if followed.wanted == "zero":
        return -abs(value)
    return -value if followed.wanted == "low" else value


def _says(followed: Followed, found: Trend | None, takes: int) -> str:
    if found is None:
        return f"{takes} takes: too few, or all of one day, to tell a trend."
    if not found.sure:
        return f"No change that can be told from {takes} takes."
    u = (found.high - found.low) / 2.0
    size = f"{abs(found.per_week):.2g} ± {u:.1g} {followed.unit}".strip()
    if followed.wanted == "voice":
        return f"{'Up' if found.per_week > 0 else 'Down'} by {size} a week, over {takes} takes."
    return f"{'Better' if found.per_week > 0 else 'Worse'} by {size} a week, over {takes} takes."


def clean_tempo(student: Student, found: Sequence[Point]) -> dict[tuple[dt.date, int | None], float]:
    """The fastest tempo of a day of the studio at which a take was clean (95 %), by the notes to its click."""
    best: dict[tuple[dt.date, int | None], float] = {}
    for p in found:
        share = p.values.get("clean")
        if share is not None and p.bpm is not None and share.value >= CLEAN_PERCENT:
            key = (plans.day_of(student, p.played_at), p.per_click)
            best[key] = max(best.get(key, 0.0), p.bpm)
    return best


@dataclass(frozen=True)
class CleanShare:
    """Clean notes of one take in percent, between what they may be of so few."""

    take_id: UUID
    played_at: dt.datetime
    core_version: str
    percent: float
    low: float
    high: float


@dataclass(frozen=True)
class DrillLine:
    """A drill of a student in a line; shares: of its newest takes, oldest first; says: what they conclude."""

    drill_id: int
    drill: str
    family: str
    takes: int
    first: dt.datetime
    last: dt.datetime
    shares: Sequence[CleanShare]
    clean_bpm: float | None
    says: str


def overview(actor: User, student: Student) -> list[DrillLine]:
    """Each drill of a student: how clean its takes were, from then to now, and the fastest clean tempo."""
    rows = list(
        selectors.takes(actor)
        .filter(student=student, current__isnull=False)
        .exclude(drill_version__drill__family=selectors.SET_UP)
        .order_by("-played_at")
        .values_list(
            "drill_version__drill_id", "pk", "played_at", "current__core_version", "current__counts", "current__bpm"
        )[: MOST_TAKES * 5]
    )
    shares: dict[int, list[CleanShare]] = {}
    tempos: dict[int, list[float]] = {}
    for drill_id, pk, at, core, counts, bpm in reversed(rows):
        clean, counted = clean_of(counts)
        if counted <= 0:
            continue
        share = CleanShare(pk, at, core, 100.0 * clean / counted, *share_interval(clean, counted))
        shares.setdefault(drill_id, []).append(share)
        if bpm is not None and share.percent >= CLEAN_PERCENT:
            tempos.setdefault(drill_id, []).append(bpm)
    return [
        DrillLine(
            drill_id=(key := row["drill_version__drill_id"]),
            drill=row["drill_version__drill__title"],
            family=row["drill_version__drill__family"],
            takes=row["takes"],
            first=row["first"],
            last=row["last"],
            shares=shares.get(key, [])[-MOST_SHARES:],
            clean_bpm=max(tempos.get(key, []), default=None),
            says=concluded(shares.get(key, [])),
        )
        for row in drills_of(actor, student)
    ]


def clean_of(counts: Mapping[str, int]) -> tuple[int, int]:
    """Clean notes of a take's counts, and of how many: those a teacher took out do not count."""
    return counts.get("clean", 0), counts.get("asked", 0) - counts.get("excluded", 0)


def concluded(shares: Sequence[CleanShare]) -> str:
    """What the first and the newest take say of each other, in a few words: a difference where their intervals do not
    meet, within one version of the measuring.
    """
    if not shares:
        return ""
    alike = [s for s in shares if s.core_version == shares[-1].core_version]
    if len(alike) < 2:
        return "One take: the next will tell." if len(shares) == 1 else "The first take of a newer version."
    first, now = alike[0], alike[-1]
    if now.low > first.high:
        return "Better than at first."
    if now.high < first.low:
        return "Less clean than at first."
    return "Clean from the first on." if first.percent >= CLEAN_PERCENT <= now.percent else "No sure change yet."


def bend_map(actor: User, student: Student, *, guitar: Guitar | None) -> list[Pooled]:
    """Bends of a student's newest takes by string, fret and target: all families, one core version, one guitar where
    named.
    """
    takes = selectors.takes(actor).filter(student=student, current__isnull=False)
    if guitar is not None:
        takes = takes.filter(guitar=guitar)
    rows = list(takes.order_by("-played_at").values_list("current__core_version", "current__summary")[:MOST_TAKES])
    if not rows:
        return []
    newest = rows[0][0]
    return pool_bends(
        [
            (b["string"], b["fret"], b["target_cents"], b["count"], b["median_error_cents"], b["u"])
            for core, summary in rows
            if core == newest
            for b in summary.get("bends", ())
        ]
    )


def voice(actor: User, student: Student) -> list[tuple[dt.datetime, UUID, str, str, float, float]]:
    """A student's vibrato take by take: when, take, core version, on what, rate and width. No better, no worse."""
    rows = (
        selectors.takes(actor)
        .filter(student=student, current__isnull=False, drill_version__drill__family__startswith="vibrato")
        .order_by("-played_at")
        .values_list("played_at", "pk", "current__core_version", "current__summary")[:MOST_TAKES]
    )
    out = []
    for at, pk, core, summary in reversed(list(rows)):
        for on in ("fretted", "bent"):
            found = [v for v in summary.get("vibratos", ()) if v["on"] == on]
            if found:
                rate, extent = median(v["rate_hz"] for v in found), median(v["extent_cents"] for v in found)
                out.append((at, pk, core, on, rate, extent))
    return out


def set_up_changes(actor: User, student: Student) -> list[tuple[dt.datetime, UUID, str]]:
    """Set-up takes of the student's guitars, oldest first: what lies on the two sides of one may differ by the
    guitar.
    """
    rows = (
        selectors.takes(actor)
        .filter(student=student, drill_version__drill__family=selectors.SET_UP, state=Take.State.MEASURED)
        .order_by("played_at")
        .values_list("played_at", "pk", "guitar__name")[:100]
    )
    return [(at, pk, name or "a guitar") for at, pk, name in rows]

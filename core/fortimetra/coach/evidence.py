"""What a judged take shows, arranged so that rules can ask for patterns; no rule and no advice in here."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property
from math import hypot, sqrt
from statistics import median

from fortimetra.coach.settings import CAUSE_EVIDENCE
from fortimetra.model.analysis import Analysis, NoiseEvent, NoteFound
from fortimetra.model.drill import Drill, Event
from fortimetra.model.word import Place


@dataclass(frozen=True)
class ShownBy:
    """notes: those a pattern explains, of so many it could have shown itself in; text: the measured evidence."""

    notes: tuple[NoteFound, ...]
    of: int
    text: str

    @property
    def weight(self) -> float:
        """The least share of them it likely explains."""
        return least_share(len(self.notes), self.of)


def least_share(k: int, n: int) -> float:
    """k of n as the least share it likely is: Wilson's lower bound (J. Am. Stat. Assoc. 22, 1927), one-sided 90 %.

    Zero for fewer than two: once is chance.

    >>> round(least_share(4, 4), 2), round(least_share(2, 8), 2), least_share(1, 1)
    (0.71, 0.11, 0.0)
    """
    n = max(k, n)
    if k < CAUSE_EVIDENCE.least_explained:
        return 0.0
    share, z2 = k / n, CAUSE_EVIDENCE.z_share**2
    return (share + z2 / (2 * n) - CAUSE_EVIDENCE.z_share * sqrt(share * (1 - share) / n + z2 / (4 * n * n))) / (
        1 + z2 / n
    )


@dataclass(frozen=True)
class Judged:
    """A judged take and its drill. What the teacher excluded or called meant is not evidence."""

    analysis: Analysis
    drill: Drill

    @cached_property
    def notes(self) -> tuple[NoteFound, ...]:
        return tuple(n for n in self.analysis.notes if n.said is None)

    @cached_property
    def played(self) -> tuple[NoteFound, ...]:
        return tuple(n for n in self.notes if n.status == "played")

    @cached_property
    def events(self) -> dict[str, Event]:
        return {e.id: e for e in self.drill.events}

    @cached_property
    def limits(self) -> dict[str, float]:
        return self.drill.limits()

    def event(self, note: NoteFound) -> Event | None:
        """What was asked for where a note stands."""
        return self.events.get(note.id)

    def articulation(self, note: NoteFound) -> str:
        """How a note is asked to be played."""
        event = self.event(note)
        return "" if event is None else event.articulation

    def asks(self, measure: str) -> bool:
        """Whether the drill asks for a measure."""
        return measure in self.drill.measures

    @cached_property
    def follows(self) -> dict[tuple[str, int, int | None], NoteFound]:
        """The note before each note of the same repeat."""
        found: dict[tuple[str, int, int | None], NoteFound] = {}
        before: NoteFound | None = None
        for note in self.analysis.notes:
            if before is not None and before.repeat == note.repeat and before.id != note.id:
                found[key(note)] = before
            before = note
        return found

    def changes_string(self, note: NoteFound) -> bool | None:
        """Whether a note follows one on another string; None for the first of a repeat."""
        before = self.follows.get(key(note))
        return None if before is None else before.string != note.string

    def during(self, event: NoiseEvent) -> list[NoteFound]:
        """Notes that sound while a noise event does."""
        return [
            n
            for n in self.played
            if n.onset_s is not None and n.end_s is not None and n.onset_s < event.to_s and n.end_s > event.from_s
        ]

    @cached_property
    def rings(self) -> list[tuple[NoiseEvent, NoteFound, frozenset[int]]]:
        """Strings that ring and are judged to, with each note it spoils and the strings meant to sound there."""
        found = []
        for event in self.analysis.noise_events:
            if event.verdict != "outside" or event.string is None:
                continue
            for note in self.during(event):
                asked = self.event(note)
                if asked is not None and note.noise is not None and note.noise.verdict == "outside":
                    found.append((event, note, frozenset(n.string for n in asked.notes if not n.muted)))
        return found


Pattern = Callable[[Judged], ShownBy | None]


def late_ms(note: NoteFound) -> float:
    """How late a note comes; 0 where that is not known."""
    return 0.0 if note.timing is None else note.timing.error_ms or 0.0


def louder_db(note: NoteFound) -> float:
    """How much louder than what it should equal a note is; 0 where that is not known."""
    return 0.0 if note.level is None else note.level.deviation_db or 0.0


def key(note: NoteFound) -> tuple[str, int, int | None]:
    """What tells a note from all others of its take."""
    return note.id, note.repeat, note.string


def place(note: NoteFound) -> Place:
    """Where a note stands."""
    return Place(id=note.id, repeat=note.repeat, string=note.string)


Value = Callable[[NoteFound], float | None]


def outside(notes: Iterable[NoteFound], measure: str) -> list[NoteFound]:
    """Notes whose measure was judged outside."""
    return [n for n in notes if (found := getattr(n, measure)) is not None and found.verdict == "outside"]


def judged(notes: Iterable[NoteFound], measure: str) -> list[NoteFound]:
    """Notes of which a measure could be judged at all."""
    return [n for n in notes if (found := getattr(n, measure)) is not None and found.verdict in ("inside", "outside")]


def middle(notes: Iterable[NoteFound], value: Value) -> float | None:
    """Median of a value over the notes that have it."""
    values = [v for n in notes if (v := value(n)) is not None]
    return median(values) if values else None


def one_sided(notes: Sequence[NoteFound], of: Sequence[NoteFound], value: Value, sign: int) -> list[NoteFound]:
    """Those of `notes` on one side, if what is usual over all of `of` lies on that side too: else it is scatter, not
    a habit.
    """
    usual = middle(of, value)
    if usual is None or usual * sign <= 0:
        return []
    return [n for n in notes if (value(n) or 0.0) * sign > 0]


def slope(pairs: Sequence[tuple[float, float]]) -> tuple[float, float] | None:
    """Least-squares slope of y over x and its standard error; None for too few or for one x only."""
    if len(pairs) < CAUSE_EVIDENCE.least_for_slope:
        return None
    n = len(pairs)
    mx, my = sum(x for x, _ in pairs) / n, sum(y for _, y in pairs) / n
    sxx = sum((x - mx) ** 2 for x, _ in pairs)
    if sxx <= 0 or len({x for x, _ in pairs}) < 3:
        return None
    b = sum((x - mx) * (y - my) for x, y in pairs) / sxx
    rest = sum((y - my - b * (x - mx)) ** 2 for x, y in pairs)
    return b, sqrt(rest / (n - 2) / sxx)


def sure_slope(pairs: Sequence[tuple[float, float]]) -> float | None:
    """The slope where it stands clear of chance, else None."""
    found = slope(pairs)
    if found is None or abs(found[0]) < CAUSE_EVIDENCE.sure_slope * found[1] or found[0] == 0.0:
        return None
    return found[0]


def clearly_beyond(value: float | None, u: float | None, limit: float = 0.0) -> bool:
    """Whether a value of the whole take lies beyond a limit by more than its uncertainty."""
    return value is not None and u is not None and value - u > limit


def apart(a: Sequence[float], b: Sequence[float]) -> tuple[float, float] | None:
    """Mean of a less mean of b and its expanded uncertainty; None for fewer than three of either."""
    if min(len(a), len(b)) < 3:
        return None
    means, variances = [], []
    for values in (a, b):
        mean = sum(values) / len(values)
        means.append(mean)
        variances.append(sum((v - mean) ** 2 for v in values) / (len(values) - 1) / len(values))
    return means[0] - means[1], 2.0 * hypot(*(sqrt(v) for v in variances))


def signed(value: float, digits: int = 0) -> str:
    """ "−8", "+1.5"."""
    return f"{value:+.{digits}f}".replace("-", "−")


def counted(notes: int, of: int, what: str) -> str:
    """ "3 of 8 bends"."""
    return f"{notes} of {of} {what}"

"""Two takes of a drill side by side: what is different, and whether the difference exceeds the uncertainty of both."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from math import hypot, sqrt
from statistics import fmean, median
from typing import Literal

from fortimetra.judge.settings import COMPARE
from fortimetra.judge.spread import robust_spread
from fortimetra.model.analysis import Analysis, NoteFound
from fortimetra.model.base import Model
from fortimetra.model.verdict import Verdict
from fortimetra.units import rounded

MEDIAN_TO_MEAN_SD = 1.2533


class Difference(Model):
    """One value in both takes. difference: later less earlier; u: its expanded uncertainty; clear: it exceeds u, and a
    fifth of what is allowed, under which nobody hears it.

    better: the later one is nearer to what is asked; None where the value has no good side or the difference is not
    clear.
    """

    code: str
    unit: Literal["notes", "%", "cents", "ms", "dB", "notes/s", "bpm"]
    before: float | None
    after: float | None
    difference: float | None
    u: float | None
    clear: bool
    better: bool | None


class NotePair(Model):
    """One asked note in both takes: verdicts, and the differences of its values by measure (later less earlier)."""

    id: str
    repeat: int
    string: int | None
    before: Verdict | None
    after: Verdict | None
    differences: tuple[Difference, ...]


class Comparison(Model):
    """a is the earlier take, b the later. pairs: notes asked in both; matched by id, repeat and string."""

    overall: tuple[Difference, ...]
    pairs: tuple[NotePair, ...]
    gained: int
    lost: int
    only_before: int
    only_after: int


@dataclass(frozen=True)
class _Value:
    """A value of a note: nearer to `zero` is better, or, without one, it has no good side; limit: its tolerance."""

    code: str
    unit: Literal["cents", "ms", "dB"]
    read: Callable[[NoteFound], tuple[float | None, float | None]]
    zero: float | None = 0.0
    limit: str = ""


VALUES: tuple[_Value, ...] = (
    _Value(
        "bend_error",
        "cents",
        lambda n: (n.bend.error_cents, n.bend.u) if n.bend else (None, None),
        limit="bend_error_cents",
    ),
    _Value(
        "pitch_error",
        "cents",
        lambda n: (n.pitch.error_cents, n.pitch.u) if n.pitch and not n.bend and not n.vibrato else (None, None),
        limit="plain_pitch_cents",
    ),
    _Value(
        "vibrato_return",
        "cents",
        lambda n: (n.vibrato.return_error_cents, n.vibrato.u_return) if n.vibrato else (None, None),
        limit="vibrato_return_cents",
    ),
    _Value("onset_error", "ms", lambda n: (n.timing.error_ms, n.timing.u) if n.timing else (None, None)),
    _Value(
        "level_deviation",
        "dB",
        lambda n: (n.level.deviation_db, n.level.u) if n.level else (None, None),
        limit="level_db",
    ),
    _Value("ring", "dB", lambda n: (n.noise.worst_ring_db, n.noise.u) if n.noise else (None, None), zero=None),
)


def compare(a: Analysis, b: Analysis, limits: Mapping[str, float] | None = None) -> Comparison:
    """Note by note and as a whole; a and b of one drill, or of drills that share event ids (slow and fast).

    limits: the drill's tolerances, a fifth of which a difference has to exceed.
    """
    least = _least(b, limits or {})
    before = {(n.id, n.repeat, n.string): n for n in a.notes}
    after = {(n.id, n.repeat, n.string): n for n in b.notes}
    both = [k for k in before if k in after]
    pairs = tuple(_pair(before[k], after[k], least) for k in both)
    return Comparison(
        overall=_overall(a, b, least),
        pairs=pairs,
        gained=sum(p.before != "inside" and p.after == "inside" for p in pairs),
        lost=sum(p.before == "inside" and p.after != "inside" for p in pairs),
        only_before=len(before) - len(both),
        only_after=len(after) - len(both),
    )


def _least(of: Analysis, limits: Mapping[str, float]) -> dict[str, float]:
    """By value, the difference that matters at least."""
    found = {v.code: COMPARE.matters_share * limits[v.limit] for v in VALUES if v.limit in limits}
    onsets = [n.timing.limit_ms for n in of.notes if n.timing is not None and n.timing.limit_ms is not None]
    if onsets:
        found["onset_error"] = COMPARE.matters_share * median(onsets)
    return found


def _pair(a: NoteFound, b: NoteFound, least: Mapping[str, float]) -> NotePair:
    found = []
    for value in VALUES:
        (x, ux), (y, uy) = value.read(a), value.read(b)
        if x is not None and y is not None and ux is not None and uy is not None:
            u = hypot(ux, uy)
            found.append(
                _difference(value.code, value.unit, x, y, u, zero=value.zero, least=least.get(value.code, 0.0))
            )
    return NotePair(id=a.id, repeat=a.repeat, string=a.string, before=a.clean, after=b.clean, differences=tuple(found))


def _difference(
    code: str,
    unit: Literal["notes", "%", "cents", "ms", "dB", "notes/s", "bpm"],
    x: float | None,
    y: float | None,
    u: float | None,
    *,
    zero: float | None = None,
    more_is_better: bool | None = None,
    least: float = 0.0,
    digits: int = 2,
) -> Difference:
    difference = None if x is None or y is None else y - x
    clear = difference is not None and u is not None and abs(difference) > max(u, least)
    better: bool | None = None
    if clear and x is not None and y is not None and u is not None:
        if zero is not None:
            nearer = abs(x - zero) - abs(y - zero)
            better = nearer > 0 if abs(nearer) > u / COMPARE.coverage else None
        elif more_is_better is not None:
            better = (y > x) == more_is_better
    return Difference(
        code=code,
        unit=unit,
        before=rounded(x, digits),
        after=rounded(y, digits),
        difference=rounded(difference, digits),
        u=rounded(u, digits),
        clear=clear,
        better=better,
    )


def _overall(a: Analysis, b: Analysis, least: Mapping[str, float]) -> tuple[Difference, ...]:
    """Clean rate, then for each value how far off it usually is and how much it spreads, then what the take says as a
    whole.
    """
    found = [_clean_rates(a, b)]
    for value in VALUES:
        xs, ys = _values(a.notes, value), _values(b.notes, value)
        if min(len(xs), len(ys)) < COMPARE.least_notes:
            continue
        u = hypot(_median_u(xs), _median_u(ys))
        matters = least.get(value.code, 0.0)
        found.append(_difference(value.code, value.unit, median(xs), median(ys), u, zero=value.zero, least=matters))
        if value.zero is not None:
            sx, sy = robust_spread(xs), robust_spread(ys)
            u = hypot(_spread_u(sx, len(xs)), _spread_u(sy, len(ys)))
            found.append(
                _difference(f"{value.code}_spread", value.unit, sx, sy, u, more_is_better=False, least=matters)
            )
    found += _of_takes(a, b)
    return tuple(found)


def _clean_rates(a: Analysis, b: Analysis) -> Difference:
    """Shares of clean notes; uncertainty of each by Agresti & Coull (Am. Stat. 52, 1998)."""
    rates = [s.clean_rate for s in (a.summary, b.summary)]
    us = []
    for s in (a.summary, b.summary):
        n = s.asked - s.excluded + 4
        share = (s.clean + 2) / n
        us.append(COMPARE.coverage * sqrt(share * (1 - share) / n))
    x, y = (None if r is None else 100.0 * r for r in rates)
    return _difference("clean_rate", "%", x, y, 100.0 * hypot(*us), more_is_better=True, digits=1)


def _of_takes(a: Analysis, b: Analysis) -> list[Difference]:
    found = []
    levels = a.summary.level, b.summary.level
    if levels[0] is not None and levels[1] is not None and levels[0].slur_deficit_db is not None:
        x, y = (level.slur_deficit_db for level in levels if level is not None)
        us = [level.u_slur_deficit_db or 0.0 for level in levels if level is not None]
        found.append(_difference("slur_deficit", "dB", x, y, hypot(*us), zero=0.0))
    fast = a.summary.fastest_even_run_nps, b.summary.fastest_even_run_nps
    if fast[0] is not None and fast[1] is not None:
        found.append(_difference("fastest_even_run", "notes/s", *fast, None, more_is_better=True))
    tempos = a.summary.timing, b.summary.timing
    if tempos[0] is not None and tempos[1] is not None and tempos[0].tempo_bpm and tempos[1].tempo_bpm:
        found.append(_difference("tempo", "bpm", tempos[0].tempo_bpm, tempos[1].tempo_bpm, None))
    return found


def _values(notes: Sequence[NoteFound], value: _Value) -> list[float]:
    return [v for n in notes if n.said != "excluded" and (v := value.read(n)[0]) is not None]


def _median_u(values: Sequence[float]) -> float:
    """Expanded uncertainty of a median of n values, from their own scatter (normal approximation)."""
    mean = fmean(values)
    sd = sqrt(sum((v - mean) ** 2 for v in values) / (len(values) - 1))
    return COMPARE.coverage * MEDIAN_TO_MEAN_SD * sd / sqrt(len(values))


def _spread_u(spread: float, n: int) -> float:
    """Expanded uncertainty of a robust standard deviation; its efficiency against the plain one is 37 %."""
    return COMPARE.coverage * spread / sqrt(2.0 * (n - 1) * 0.37)

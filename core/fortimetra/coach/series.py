"""What a take's summary says in numbers that can be followed from take to take."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import sqrt
from statistics import median
from typing import Literal

from fortimetra.model.summary import BendsOf, Summary, VibratosOf

Wanted = Literal["zero", "low", "high", "voice"]
Z_95 = 1.959963985


@dataclass(frozen=True)
class Value:
    """One take's number and how far it is known; u None where the take does not say."""

    value: float
    u: float | None


@dataclass(frozen=True)
class Followed:
    """A number to follow. wanted: near zero, low, high, or nobody's business but the player's (a voice).

    limit: the tolerance of the drill it is read against, if any.
    """

    key: str
    title: str
    unit: str
    wanted: Wanted
    limit: str | None
    read: Callable[[Summary], Value | None]


def clean_share(clean: int, counted: int) -> Value | None:
    """Share of clean notes in percent; u is the distance to the farther end of Wilson's 95 % interval.

    >>> found = clean_share(19, 20)
    >>> round(found.value), round(found.u, 1)
    (95, 18.6)
    >>> round(clean_share(16, 16).u, 1)
    19.4
    """
    if counted <= 0:
        return None
    share, (low, high) = 100.0 * clean / counted, share_interval(clean, counted)
    return Value(share, max(share - low, high - share))


def share_interval(part: int, of: int) -> tuple[float, float]:
    """Between which shares, in percent, `part` of `of` lies with 95 %; of at least 1.

    Wilson's interval (E. B. Wilson, J. Am. Stat. Assoc. 22, 1927): never under 0 or over 100.

    >>> [round(end, 1) for end in share_interval(19, 20)]
    [76.4, 99.1]
    """
    share, z2 = part / of, Z_95**2
    middle = (share + z2 / (2 * of)) / (1 + z2 / of)
    half = Z_95 * sqrt(share * (1 - share) / of + z2 / (4 * of**2)) / (1 + z2 / of)
    return 100.0 * max(0.0, middle - half), 100.0 * min(1.0, middle + half)


def _clean(summary: Summary) -> Value | None:
    return clean_share(summary.clean, summary.asked - summary.excluded)


def _bend(summary: Summary) -> Value | None:
    rows = summary.bends
    if not rows:
        return None
    return Value(_weighted(rows, lambda r: r.median_error_cents), max(r.u for r in rows))


def _bend_spread(summary: Summary) -> Value | None:
    spreads = [r.spread_cents for r in summary.bends if r.spread_cents is not None]
    return Value(median(spreads), None) if spreads else None


def _weighted(rows: Sequence[BendsOf], read: Callable[[BendsOf], float]) -> float:
    return sum(r.count * read(r) for r in rows) / sum(r.count for r in rows)


def _vibrato(read: Callable[[VibratosOf], float]) -> Callable[[Summary], Value | None]:
    def found(summary: Summary) -> Value | None:
        rows = summary.vibratos
        return Value(median(read(r) for r in rows), None) if rows else None

    return found


def _timing(name: str, u_name: str | None = None) -> Callable[[Summary], Value | None]:
    def found(summary: Summary) -> Value | None:
        value = getattr(summary.timing, name) if summary.timing else None
        u = getattr(summary.timing, u_name) if u_name and summary.timing else None
        return None if value is None else Value(value, u)

    return found


def _level(name: str, u_name: str | None = None) -> Callable[[Summary], Value | None]:
    def found(summary: Summary) -> Value | None:
        value = getattr(summary.level, name) if summary.level else None
        u = getattr(summary.level, u_name) if u_name and summary.level else None
        return None if value is None else Value(value, u)

    return found


def _length(summary: Summary) -> Value | None:
    spread = summary.length.spread if summary.length else None
    return None if spread is None else Value(100.0 * spread, None)


def _ring(summary: Summary) -> Value | None:
    worst = [s.worst_db for s in summary.noise.strings if s.worst_db is not None] if summary.noise else []
    return Value(max(worst), None) if worst else None


def _decay(summary: Summary) -> Value | None:
    value = summary.noise.decay_ms if summary.noise else None
    return None if value is None else Value(value, None)


def _run(summary: Summary) -> Value | None:
    value = summary.fastest_even_run_nps
    return None if value is None else Value(value, None)


FOLLOWED: tuple[Followed, ...] = (
    Followed("clean", "Clean notes", "%", "high", None, _clean),
    Followed("bend_error", "Bend error", "cents", "zero", "bend_error_cents", _bend),
    Followed("bend_spread", "Spread of bends", "cents", "low", None, _bend_spread),
    Followed(
        "vibrato_rate_cv",
        "Unevenness of the vibrato's rate",
        "",
        "low",
        "vibrato_rate_cv",
        _vibrato(lambda r: r.rate_cv),
    ),
    Followed(
        "vibrato_extent_cv", "Unevenness of its width", "", "low", "vibrato_extent_cv", _vibrato(lambda r: r.extent_cv)
    ),
    Followed("vibrato_rate", "Rate of the vibrato", "Hz", "voice", None, _vibrato(lambda r: r.rate_hz)),
    Followed("vibrato_extent", "Width of the vibrato", "cents", "voice", None, _vibrato(lambda r: r.extent_cents)),
    Followed("bias", "Early or late as a whole", "ms", "zero", None, _timing("bias_ms", "u_bias_ms")),
    Followed("jitter", "Unevenness of time", "ms", "low", None, _timing("jitter_ms")),
    Followed(
        "string_change",
        "Late after a change of string",
        "ms",
        "zero",
        None,
        _timing("string_change_ms", "u_string_change_ms"),
    ),
    Followed("level_spread", "Unevenness of volume", "dB", "low", "level_db", _level("spread_db")),
    Followed(
        "slur_deficit",
        "Slurs softer than picked notes",
        "dB",
        "low",
        "slur_deficit_db",
        _level("slur_deficit_db", "u_slur_deficit_db"),
    ),
    Followed("length_spread", "Unevenness of lengths", "%", "low", None, _length),
    Followed("ring", "Loudest string that rings", "dB", "low", "ring_db", _ring),
    Followed("decay", "Time to silence after a stop", "ms", "low", "stop_ms", _decay),
    Followed("fastest_run", "Fastest even run", "notes/s", "high", None, _run),
)


def values_of(summary: Summary) -> dict[str, Value]:
    """Everything a take says of what can be followed."""
    found = {f.key: f.read(summary) for f in FOLLOWED}
    return {key: value for key, value in found.items() if value is not None}

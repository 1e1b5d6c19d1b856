"""A take seen through windows that hold neither attack nor stop: what is meant to sound cut out, combs sought in the
rest.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fortimetra.hear.combs import Combs, Found, Mask, Spectra, covered, find, spectra, surroundings
from fortimetra.hear.contour import Contour
from fortimetra.hear.settings import COMBS
from fortimetra.measure.settings import LOOKING
from fortimetra.measure.strings import Span
from fortimetra.medians import finite_median
from fortimetra.sound.samples import Samples, let_go
from fortimetra.units import FloatArray, cents_to_ratio


@dataclass(frozen=True)
class Seen:
    """Everything read in the windows, in order of time; arrays of shape (n_windows, ...)."""

    middle_s: FloatArray
    length_s: FloatArray
    span: NDArray[np.int64]
    found: Found
    wanted: FloatArray
    pitch_hz: FloatArray


# Of each voice of what is meant to sound: windows, lowest and highest pitch in each, and stiffness.
_Ranges = Sequence[tuple[NDArray[np.int64], FloatArray, FloatArray, FloatArray]]


def _windows(
    spans: Sequence[Span], numbers: range, *, driven: bool
) -> dict[float, tuple[FloatArray, NDArray[np.int64]]]:
    """Starts of windows and their spans, by length: the longest that fits each span. Drive makes of two notes tones
    so close that only a longer window sees between them.
    """
    lengths = (*LOOKING.driven_windows_s, *LOOKING.windows_s)
    placed: dict[float, tuple[list[FloatArray], list[NDArray[np.int64]]]] = {length: ([], []) for length in lengths}
    for number in numbers:
        span = spans[number]
        room = span.to_s - span.from_s
        close = driven and len(span.parts) > 1
        length = next((w for w in (lengths if close else LOOKING.windows_s) if w <= room), None)
        if length is None:
            continue
        count = 1 + int(np.ceil((room - length) / (LOOKING.hop_share * length)))
        starts = span.from_s + np.linspace(0.0, max(0.0, room - length), count)
        placed[length][0].append(starts)
        placed[length][1].append(np.full(count, number))
    return {w: (np.concatenate(s), np.concatenate(n)) for w, (s, n) in placed.items() if s}


def _pitch_ranges(
    contour: Contour, spans: Sequence[Span], span: NDArray[np.int64], windows: Spectra
) -> list[tuple[NDArray[np.int64], FloatArray, FloatArray, FloatArray]]:
    """For each voice of the wanted sound: windows, lowest and highest pitch in each, and stiffness."""
    ranges: dict[int, list[tuple[int, float, float, float]]] = {}
    for w, number in enumerate(span):
        parts = spans[number].parts
        a, b = windows.start_s[w], windows.start_s[w] + windows.length_s
        for voice, part in enumerate(parts):
            low = high = part.hz
            if len(parts) == 1 or part.bent:
                f0 = contour.f0_hz[contour.frames(a, b)]
                reach = (part.hz * cents_to_ratio(-100.0), part.hz * cents_to_ratio(650.0 if part.bent else 100.0))
                near = f0[(f0 > reach[0]) & (f0 < reach[1])]
                if len(near):
                    low, high = float(near.min()), float(near.max())
            stiff = 1.5 * COMBS.most_stiffness * 4.0 ** (part.fret / 12.0)
            ranges.setdefault(voice, []).append((w, low, high, stiff))
    return [
        (np.array([r[0] for r in rows]), *(np.array([r[i] for r in rows]) for i in (1, 2, 3)))  # type: ignore[misc]
        for rows in ranges.values()
    ]


def _cut(windows: Spectra, ranges: _Ranges, *, driven: bool) -> Mask:
    """What is meant to sound, in the spectrum; of two notes through drive also their products m·f₁ + n·f₂."""
    k = np.arange(1, COMBS.harmonics + 1)
    where, lows, highs = [np.zeros(0, np.int64)], [np.zeros(0)], [np.zeros(0)]
    off = cents_to_ratio(LOOKING.note_cents)
    for window, low, high, stiff in ranges:
        where.append(np.repeat(window, COMBS.harmonics))
        lows.append((low[:, None] * k / off).ravel())
        highs.append((high[:, None] * k * np.sqrt(1.0 + stiff[:, None] * k**2) * off).ravel())
    if driven and len(ranges) > 1:
        (first, a, _, _), (second, b, _, _) = ranges[:2]
        both = np.intersect1d(first, second)
        f1, f2 = a[np.searchsorted(first, both)], b[np.searchsorted(second, both)]
        m, n = (
            v.ravel()
            for v in np.meshgrid(np.arange(-LOOKING.products, LOOKING.products + 1), np.arange(1, LOOKING.products + 1))
        )
        hz = np.abs(m[None, :] * f1[:, None] + n[None, :] * f2[:, None])
        where.append(np.repeat(both, hz.shape[1]))
        lows.append((hz / off).ravel())
        highs.append((hz * off).ravel())
    return covered(windows, np.concatenate(where), np.concatenate(lows), np.concatenate(highs))


def look(
    sound: Samples, contour: Contour, spans: Sequence[Span], combs: Combs, *, numbers: range, driven: bool
) -> Seen | None:
    """Look for combs in some of the spans; None where none of them is long enough.

    sound: float32, shape (n_samples,), at `COMBS.rate_hz`. numbers: which spans. driven: what drive makes of two
    notes is cut out with them.
    """
    let_go()
    parts: list[Seen] = []
    for length, (starts, span) in _windows(spans, numbers, driven=driven).items():
        windows = spectra(sound, starts, length)
        ranges = _pitch_ranges(contour, spans, span, windows)
        mask = _cut(windows, ranges, driven=driven)
        wanted = np.asarray((windows.power * mask).sum(axis=1, dtype=np.float64) / windows.per_line)
        pitch = np.zeros(len(starts))
        for window, low, high, _ in ranges[:1]:
            pitch[window] = 0.5 * (low + high)
        parts.append(
            Seen(
                windows.middle_s,
                np.full(len(starts), length),
                span,
                find(windows, combs, mask, surroundings(windows, mask)),
                wanted,
                pitch,
            )
        )
    if not parts:
        return None
    order = np.argsort(np.concatenate([p.middle_s for p in parts]), kind="stable")

    def joined(get: str) -> NDArray[np.generic]:
        return np.concatenate([getattr(p, get) for p in parts])[order]

    def partials(get: str) -> NDArray[np.generic]:
        return np.concatenate([getattr(p.found, get) for p in parts])[order]

    found = Found(partials("power"), partials("around"), partials("clear"))  # type: ignore[arg-type]
    seen = Seen(
        joined("middle_s"), joined("length_s"), joined("span"), found, joined("wanted"), joined("pitch_hz")  # type: ignore[arg-type]
    )  # fmt: skip
    return _with_reference(seen, spans)


def _with_reference(seen: Seen, spans: Sequence[Span]) -> Seen:
    """What levels are against: the wanted sound; in a rest, the note before it when it sounded; never the end of a
    note alone.
    """
    wanted = seen.wanted.copy()
    last = 0.0
    for number in np.unique(seen.span):
        own = seen.span == number
        if spans[number].rest:
            wanted[own] = last
        else:
            top = float(wanted[own].max())
            wanted[own] = np.maximum(wanted[own], top * 10.0 ** (-LOOKING.over_db / 10.0))
            last = finite_median(wanted[own])
    wanted[wanted <= 0] = np.inf
    return Seen(seen.middle_s, seen.length_s, seen.span, seen.found, wanted, seen.pitch_hz)

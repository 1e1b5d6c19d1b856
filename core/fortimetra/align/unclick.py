"""A recording with the click taken out, so that a note beside a click is read where it begins, not where the click
does.

What the click sounds like is known from the count-in, where nothing else sounds; at every later click that sound is
taken away, as loud and as late as it is found there (matched filter on the bright part of both, which the guitar
disturbs least).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import fft, signal

from fortimetra.align.click import FoundClick, count_in_of
from fortimetra.align.settings import CLICK, UNCLICK
from fortimetra.sound.samples import Samples, copied
from fortimetra.units import FloatArray


@dataclass(frozen=True)
class _Shape:
    """What one kind of click sounds like, whole and bright part, shape (n,)."""

    whole: FloatArray
    bright: FloatArray


def without_click(mono: Samples, found: FoundClick, *, rate_hz: int) -> Samples:
    """The recording less its click; the same samples where the count-in does not tell what it sounds like.

    mono: float32, shape (n_samples,).
    """
    sos = signal.butter(4, CLICK.high_pass_hz, "high", fs=rate_hz, output="sos")
    lead = round((found.times_s[0] - UNCLICK.lead_s) * rate_hz) if len(found.times_s) else 0
    start = max(0, lead)
    early = mono[start : start + round(UNCLICK.count_in_s * rate_hz)].astype(np.float64)
    bright = signal.sosfiltfilt(sos, early)
    times = found.times_s - start / rate_hz
    times = times[times < UNCLICK.count_in_s - 2.0 * UNCLICK.length_s]
    shapes = _shapes(early, bright, count_in_of(bright, times, rate_hz), rate_hz)
    if not shapes:
        return mono
    out = copied(mono)
    last = int((len(mono) / rate_hz - found.first_s) / found.spacing_s)
    for number in range(last + 1):
        _take_out(out, sos, found.first_s + number * found.spacing_s, shapes, rate_hz)
    return out


def _shapes(sound: FloatArray, bright: FloatArray, count_in_s: FloatArray, rate: int) -> list[_Shape]:
    """The click and, where one differs, its accent; each averaged over the count-in."""
    length, before = round(UNCLICK.length_s * rate), round(UNCLICK.before_s * rate)
    groups: list[list[_Shape]] = []
    for time in count_in_s:
        start = round(time * rate) - before
        if start < 0 or start + length > len(sound):
            continue
        own = _Shape(sound[start : start + length], bright[start : start + length])
        for group in groups:
            late, likeness = _delay(own.bright, group[0].bright)
            if likeness >= UNCLICK.alike:
                group.append(_Shape(_shifted(own.whole, -late), _shifted(own.bright, -late)))
                break
        else:
            groups.append([own])
    fade = np.ones(length)
    tail = length // 4
    fade[-tail:] = 0.5 + 0.5 * np.cos(np.pi * np.arange(tail) / tail)
    return [
        _Shape(np.mean([s.whole for s in group], axis=0) * fade, np.mean([s.bright for s in group], axis=0) * fade)
        for group in groups[:2]
    ]


def _take_out(sound: Samples, sos: FloatArray, time: float, shapes: list[_Shape], rate: int) -> None:
    """Subtract, in place, the click that stands at a time, where one is found."""
    length, before = len(shapes[0].whole), round(UNCLICK.before_s * rate)
    reach, margin = round(UNCLICK.search_s * rate), round(UNCLICK.margin_s * rate)
    start = round(time * rate) - before
    if start - margin < 0 or start + length + margin > len(sound):
        return
    around = signal.sosfiltfilt(sos, sound[start - margin : start + length + margin].astype(np.float64))
    part = around[margin : margin + length]
    found = [(*_delay(part, s.bright, reach), s) for s in shapes]
    late, likeness, shape = max(found, key=lambda f: f[1])
    if likeness < UNCLICK.least_likeness:
        return
    moved = _shifted(shape.bright, late)
    # Weighed where the click is loudest: the guitar goes on, the click is over at once.
    weight = moved**2
    gain = float((weight * part * moved).sum() / max(float((weight * moved * moved).sum()), 1e-20))
    if UNCLICK.least_gain <= gain <= UNCLICK.most_gain:
        sound[start : start + length] -= (gain * _shifted(shape.whole, late)).astype(np.float32)


def _delay(one: FloatArray, other: FloatArray, reach: int | None = None) -> tuple[float, float]:
    """By how many samples the first is later than the second, to a fraction; and how alike they then are."""
    n = len(other)
    size = fft.next_fast_len(2 * n)
    match = fft.irfft(fft.rfft(one, size) * np.conj(fft.rfft(other, size)), size)
    lags = np.concatenate((np.arange(size - n // 2, size), np.arange(0, n // 2)))
    values = match[lags]
    centre = len(lags) // 2
    if reach is not None:
        lags, values = lags[centre - reach : centre + reach + 1], values[centre - reach : centre + reach + 1]
    best = int(np.argmax(values))
    place = float(best)
    if 0 < best < len(values) - 1:
        a, b, c = values[best - 1 : best + 2]
        if a - 2.0 * b + c < 0:
            place += 0.5 * float((a - c) / (a - 2.0 * b + c))
    middle = centre if reach is None else reach
    norm = float(np.sqrt((one**2).sum() * (other**2).sum()))
    return place - middle, float(values[best]) / max(norm, 1e-20)


def _shifted(sound: FloatArray, samples: float) -> FloatArray:
    """The sound later by a fraction of samples too (band-limited; what leaves the end is gone)."""
    n = len(sound)
    size = fft.next_fast_len(2 * n)
    turn = np.exp(-2j * np.pi * np.arange(size // 2 + 1) / size * samples)
    return np.asarray(fft.irfft(fft.rfft(sound, size) * turn, size)[:n])

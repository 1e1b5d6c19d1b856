"""Scrapes: bursts without pitch between attacks, as fingers make on wound strings.

Method: in short spectra, what lies between all partials is a low quantile of the bins of each band; a scrape lifts it
in many bands at once, without an attack. How far it has to rise is learned from how much it moves just before and
after.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy import fft, ndimage, signal

from fortimetra.measure.settings import SCRAPE
from fortimetra.sound.decode import resampled
from fortimetra.sound.parts import powers
from fortimetra.sound.samples import Samples, let_go
from fortimetra.units import FloatArray

# A scrape need not reach over the whole band.
GROUPS = (slice(0, SCRAPE.n_bands), slice(0, 4), slice(3, 8), slice(8, SCRAPE.n_bands), slice(0, 2), slice(2, 4))
# Mean of noise against its lower quarter: a power spectrum's bins are exponentially distributed.
MEAN_OVER_QUARTER = 1.0 / -np.log(1.0 - SCRAPE.quantile)
# A normal distribution's lower tenth lies so many standard deviations under its middle.
TEN_PERCENT = 1.2816


@dataclass(frozen=True)
class HeardScrape:
    """A burst without pitch; level_db of its band against the note that sounds or sounded last."""

    from_s: float
    to_s: float
    level_db: float
    u_db: float


def scrapes(
    mono: Samples,
    attacks_s: FloatArray,
    stops_s: Sequence[float],
    slides_s: Sequence[tuple[float, float]] = (),
    *,
    rate_hz: int,
) -> list[HeardScrape]:
    """Every scrape between attacks and stops.

    mono: float32, shape (n_samples,). attacks_s: everything that begins, asked or not. stops_s: where strings are
    stopped, which clicks. slides_s: from when to when slides travel that are asked for: every fret on their way clicks,
    and a pitch that moves fills what lies between partials.
    """
    if rate_hz < SCRAPE.rate_hz or not len(attacks_s):
        return []
    sound = resampled(mono, from_hz=rate_hz, to_hz=SCRAPE.rate_hz)
    between, whole = _between(sound)
    time = np.asarray(np.arange(len(between)) * SCRAPE.hop_s + 0.5 * SCRAPE.window_s, dtype=np.float64)
    db = 10.0 * np.log10(np.maximum(between, 1e-16))
    busy = _near(
        time, attacks_s, SCRAPE.attack_before_s + 0.5 * SCRAPE.window_s, SCRAPE.attack_after_s + 0.5 * SCRAPE.window_s
    )
    busy |= _near(
        time, np.asarray(list(stops_s)), SCRAPE.attack_before_s + 0.5 * SCRAPE.window_s, SCRAPE.attack_after_s
    )
    ways = np.asarray(slides_s, dtype=np.float64).reshape(-1, 2)
    busy |= _near(time, ways[:, 0], 0.5 * SCRAPE.window_s, ways[:, 1] - ways[:, 0] + 0.5 * SCRAPE.window_s)
    busy |= _falls(whole)
    inside = (time > attacks_s[0]) & ~busy
    if np.count_nonzero(inside) < SCRAPE.least_frames:
        return []
    rise, base_db = np.zeros(len(db)), np.zeros_like(db)
    for group in GROUPS:
        own = db[:, group].mean(axis=1)
        base, spread = _base(np.where(busy, np.nan, own))
        rise = np.maximum(
            rise, np.where(inside, (own - base) / np.maximum(SCRAPE.least_rise_db, SCRAPE.spreads * spread), 0.0)
        )
        base_db[:, group] = base[:, None] if group == GROUPS[0] else base_db[:, group]
    found = []
    edges = np.diff(np.concatenate(([0], (rise > SCRAPE.edge_share).astype(np.int8), [0])))
    loudness = _note_power(whole, time, attacks_s)
    for a, b in zip(np.flatnonzero(edges == 1), np.flatnonzero(edges == -1), strict=True):
        seconds = (b - a) * SCRAPE.hop_s
        # What only goes down from an attack is the attack's.
        begins = a > 0 and bool(inside[a - 1])
        if not begins or rise[a:b].max() < 1.0 or seconds < SCRAPE.least_s:
            continue
        top = a + int(np.argmax(rise[a:b]))
        around = slice(max(a, top - 2), min(b, top + 3))
        excess = (between[around] - 10.0 ** (base_db[around] / 10.0)).clip(0.0).mean(axis=0).sum() * MEAN_OVER_QUARTER
        level = 10.0 * float(np.log10(max(excess, 1e-20) / max(loudness[top], 1e-20)))
        if level >= SCRAPE.lowest_db:
            found.append(HeardScrape(float(time[a]), float(time[b - 1]), level, SCRAPE.u_db))
    return found


def _between(sound: Samples) -> tuple[FloatArray, FloatArray]:
    """Power between the partials of each band, shape (n_frames, SCRAPE.n_bands), and the whole power of each frame."""
    length, hop = round(SCRAPE.window_s * SCRAPE.rate_hz), round(SCRAPE.hop_s * SCRAPE.rate_hz)
    window = signal.windows.kaiser(length, 8.0, sym=False)
    window = (window / np.sqrt(np.sum(window**2))).astype(np.float32)
    if len(sound) <= length:
        sound = np.pad(sound, (0, length))
    frames = np.lib.stride_tricks.sliding_window_view(sound, length)[::hop]
    edges = np.round(
        np.linspace(SCRAPE.band_hz[0], SCRAPE.band_hz[1], SCRAPE.n_bands + 1) * length / SCRAPE.rate_hz
    ).astype(int)
    lower, whole = [], []
    for first in range(0, len(frames), 2048):
        let_go()
        found = fft.rfft(frames[first : first + 2048] * window, axis=1)
        power = np.empty(found.shape, np.float32)
        powers(found, power)
        lower.append(
            np.stack(
                [_quantile(power[:, a:b], SCRAPE.quantile) * (b - a) for a, b in pairwise(edges)],
                axis=1,
            )
        )
        whole.append(power.sum(axis=1))
    return np.concatenate(lower).astype(np.float64), np.concatenate(whole).astype(np.float64)


def _quantile(values: NDArray[np.float32], share: float) -> FloatArray:
    """numpy's linear quantile of each row; shape (n, k) to (n,). Sorting short rows whole is the quicker way."""
    ordered = np.sort(values, axis=1)
    place = share * (values.shape[1] - 1)
    low = int(place)
    high = min(low + 1, values.shape[1] - 1)
    return np.asarray(ordered[:, low] + (ordered[:, high] - ordered[:, low]) * (place - low), dtype=np.float64)


def _near(time: FloatArray, places: FloatArray, before_s: float, after_s: float | FloatArray) -> NDArray[np.bool_]:
    """Frames near some places; after_s: for all, or for each."""
    if not len(places):
        return np.zeros(len(time), bool)
    marks = np.zeros(len(time) + 1, np.int32)
    first = np.searchsorted(time, places - before_s)
    last = np.searchsorted(time, places + after_s, side="right")
    np.add.at(marks, np.minimum(first, len(time)), 1)
    np.add.at(marks, np.minimum(last, len(time)), -1)
    return np.asarray(np.cumsum(marks)[:-1] > 0)


def _falls(whole: FloatArray) -> NDArray[np.bool_]:
    """Frames about which the sound falls steeply: a string that is stopped clicks."""
    level = 10.0 * np.log10(np.maximum(whole, 1e-16))
    reach = round(SCRAPE.stop_s / SCRAPE.hop_s)
    before, after = np.roll(level, reach), np.roll(level, -reach)
    before[:reach], after[-reach:] = level[:reach], level[-reach:]
    return np.asarray(ndimage.binary_dilation(before - after > SCRAPE.stop_db, iterations=reach))


def _base(db: FloatArray) -> tuple[FloatArray, FloatArray]:
    """The usual level about each frame and how much it moves: of what can be read, before it and after it, the
    larger.
    """
    known = ~np.isnan(db)
    filled = np.interp(np.arange(len(db)), np.flatnonzero(known), db[known])
    size = round(SCRAPE.base_s / SCRAPE.hop_s)
    sides = []
    for origin in (size // 2 - 1, -(size // 2) + 1):
        usual, low = (
            ndimage.percentile_filter(filled, q, size=size, origin=origin, mode="nearest") for q in (50.0, 10.0)
        )
        sides.append((usual, (usual - low) / TEN_PERCENT))
    base = np.maximum(sides[0][0], sides[1][0])
    return base, np.maximum(sides[0][1], sides[1][1])


def _note_power(whole: FloatArray, time: FloatArray, attacks_s: FloatArray) -> FloatArray:
    """Power of the note that sounds at each frame: the most just after its attack, or now."""
    first = np.searchsorted(time, attacks_s)
    tops = np.array([whole[a : a + 12].max(initial=0.0) for a in first])
    own = np.clip(np.searchsorted(attacks_s, time, side="right") - 1, 0, len(tops) - 1)
    return np.maximum(0.25 * tops[own], whole)

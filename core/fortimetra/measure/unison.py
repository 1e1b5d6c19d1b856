"""Unison bends: two strings at once, one bent up to the other; how far apart they still are, and since when not.

Conventions: difference_cents is bent − steady, positive: went past. beat_hz is the residual beating of the lowest
partial both strings share, which for a unison is the first: f·|2^(difference/1200) − 1|. merge_ms runs from the
attack to the time from which the difference stays within the tolerance.

Method. Each partial k of the steady string is brought to zero frequency and low-passed. In short windows its samples
are explained by two exponentials, at the steady and at the bent string's pitch, by least squares; what the pair
leaves unexplained gives a likelihood (maximum likelihood for tones in white noise: Rife & Boorstyn, Bell Syst. Tech.
J. 55(9), 1976), and the partials' likelihoods add up, because both pitches are common to them. The steady pitch is
one for the whole note: while the bend is still far away it is told apart from the bent one, so the sign of a small
difference is known. The bent pitch may move from window to window (cheapest path). The stretch after the merge is
fitted once more in longer windows. The uncertainty is where the likelihood has fallen by 1.92 (95 %). Strings are
stiff, each in its own way: partial k of each lies γ·(k² − 1) cents over its multiple, which is fitted with the rest,
so that the difference is that of the first partials.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numba import njit
from numpy.typing import NDArray
from scipy import ndimage, signal

from fortimetra.measure.settings import UNISON
from fortimetra.sound.samples import Samples
from fortimetra.units import FloatArray, cents_to_ratio

USABLE_SHARE = 0.45  # of a sample rate: above it filters have not risen
State = Literal["under", "there", "past"]
Complex = NDArray[np.complex128]


@dataclass(frozen=True)
class UnisonMeasured:
    """Values of one unison bend; None where they cannot be had, `reasons` says why."""

    difference_cents: float | None = None
    u_difference: float | None = None
    beat_hz: float | None = None
    u_beat: float | None = None
    merge_ms: float | None = None
    start_cents: float | None = None
    steady_hz: float | None = None
    u_steady: float | None = None
    plateau: tuple[float, float] | None = None
    state: State | None = None
    reasons: tuple[str, ...] = field(default=())


@dataclass(frozen=True)
class _Partial:
    """One partial of the steady string, brought to zero frequency."""

    number: int
    samples: Complex
    rate_hz: float


def measure_unison(
    mono: Samples,
    *,
    rate_hz: int,
    onset_s: float,
    end_s: float,
    steady_hz: float,
    target_cents: float,
    tolerance_hz: float,
) -> UnisonMeasured:
    """Measure a unison bend.

    mono: float32, shape (n_samples,). steady_hz: expected pitch of the steady string. target_cents: how far the other
    is to be bent, so that it starts as far below.
    """
    first, last = round((onset_s + UNISON.skip_s) * rate_hz), min(len(mono), round((end_s - UNISON.end_s) * rate_hz))
    if last - first < UNISON.least_hold_s * rate_hz:
        return UnisonMeasured(reasons=("too_short",))
    partials = _partials(mono[first:last].astype(np.float64), rate_hz, steady_hz)
    if not partials:
        return UnisonMeasured(reasons=("no_pitch",))
    bent = np.arange(-target_cents - UNISON.below_cents, UNISON.above_cents + UNISON.step_cents, UNISON.step_cents)
    steady = np.arange(-UNISON.steady_reach_cents, UNISON.steady_reach_cents + 0.1, UNISON.steady_step_cents)
    times, likelihood = _windows(partials, steady_hz, steady, bent, UNISON.window_s, UNISON.hop_s, most=3)
    apart = _apart(likelihood, bent)
    place = _steady_place(likelihood, bent, apart)
    path = bent[_path(likelihood[:, place, :], UNISON.step_cents)] - steady[place]
    if _second_share(partials, steady_hz, float(steady[place]), path) < UNISON.second_share:
        return UnisonMeasured(reasons=("one_string",))
    early = slice(0, max(1, round(0.1 / UNISON.hop_s)))
    held = _held(path)
    if (held.stop - held.start) * UNISON.hop_s < UNISON.least_hold_s:
        return UnisonMeasured(start_cents=float(np.median(path[early])), reasons=("no_plateau",))
    from_s = float(times[held.start]) - UNISON.window_s / 2.0
    about = float(np.median(path[held]))
    known = _steady_while_apart(partials, steady_hz, float(steady[place]), apart, -target_cents)
    difference, u, offset, u_steady = _settled(partials, steady_hz, known, about, from_s)
    # So close that either might be the higher one: the size is known, the sign is not.
    u_signed = u if abs(difference) >= UNISON.sign_lost_cents else 2.0 * abs(difference) + u
    own_hz = steady_hz * cents_to_ratio(offset)
    tolerance_cents = 1200.0 * float(np.log2(1.0 + tolerance_hz / own_hz))
    return UnisonMeasured(
        difference_cents=difference,
        u_difference=u_signed,
        beat_hz=own_hz * abs(cents_to_ratio(difference) - 1.0),
        u_beat=own_hz * (cents_to_ratio(u) - 1.0),
        merge_ms=_merge_ms(times, path, difference, tolerance_cents),
        start_cents=float(np.median(path[early])),
        steady_hz=own_hz,
        u_steady=u_steady,
        plateau=(round(onset_s + UNISON.skip_s + max(0.0, from_s), 4), round(end_s - UNISON.end_s, 4)),
        state=_state(difference, u, u_signed, tolerance_cents),
    )


def _state(difference: float, u_size: float, u_signed: float, tolerance_cents: float) -> State | None:
    """There by its size; under or past only where the sign is known, too."""
    if abs(difference) + u_size <= tolerance_cents:
        return "there"
    if abs(difference) - u_signed <= 0.0:
        return None
    return "past" if difference > 0 else "under"


def _merge_ms(times: FloatArray, path: FloatArray, difference: float, tolerance_cents: float) -> float | None:
    """When the two come and stay together. Short windows blur a little, so the settled difference is let in, too."""
    if abs(difference) > tolerance_cents:
        return None
    smooth = ndimage.median_filter(path, size=5, mode="nearest")
    apart = np.flatnonzero(np.abs(smooth) > max(tolerance_cents, abs(difference) + UNISON.step_cents))
    at = int(apart[-1]) + 1 if len(apart) else 0
    return None if at >= len(times) else 1000.0 * (UNISON.skip_s + float(times[at]))


def _partials(x: FloatArray, rate: int, steady_hz: float) -> list[_Partial]:
    found = []
    down = np.exp(-2j * np.pi * steady_hz / rate * np.arange(len(x)))
    turned = x.astype(np.complex128)
    for k in range(1, UNISON.partials + 1):
        centre = k * steady_hz
        band = min(UNISON.band_share * centre, 0.45 * steady_hz)
        if centre + band > USABLE_SHARE * rate:
            break
        turned = turned * down  # one multiple of the steady pitch lower each time
        step = max(1, int(rate / (3.0 * band)))
        taps = signal.firwin(2 * (4 * step) + 1, band, fs=rate)
        # Only the samples that are kept are filtered; the filter's delay is four of them.
        low = signal.upfirdn(taps, turned, 1, step)[4 : 4 - (-len(x) // step)]
        found.append(_Partial(k, _undecayed(low, rate / step), rate / step))
    return found


def _undecayed(samples: Complex, rate_hz: float) -> Complex:
    """A partial without its decay, which two tones close together would be taken for."""
    power = np.abs(samples) ** 2
    time = np.arange(len(samples)) / rate_hz
    slope = float(np.polyfit(time, np.log(np.maximum(power, 1e-30)), 1, w=np.sqrt(power / power.max()))[0]) / 2.0
    return samples * np.exp(-np.clip(slope, -UNISON.most_decay_per_s, 0.0) * time)


def _windows(
    partials: list[_Partial],
    steady_hz: float,
    steady: FloatArray,
    bent: FloatArray,
    window_s: float,
    hop_s: float,
    *,
    most: int,
    stretch: tuple[float, float] = (0.0, 0.0),
) -> tuple[FloatArray, FloatArray]:
    """Middle of each window, s, and the log likelihood of every pair of pitches in it; shape (windows, steady, bent).

    stretch: cents per (k² − 1) of the steady and the bent string's partials.
    """
    duration = min(len(p.samples) / p.rate_hz for p in partials)
    starts = np.arange(0.0, max(hop_s, duration - window_s), hop_s)
    total = np.zeros((len(starts), len(steady), len(bent)))
    for partial in partials[:most]:
        count = max(8, round(window_s * partial.rate_hz))
        index = np.minimum(
            np.round(starts * partial.rate_hz).astype(int)[:, None] + np.arange(count), len(partial.samples) - 1
        )
        frames = partial.samples[index]
        power = np.sum(np.abs(frames) ** 2, axis=1)
        t = (np.arange(count) - 0.5 * (count - 1)) / partial.rate_hz
        over = partial.number**2 - 1.0
        hz_steady = partial.number * steady_hz * (2.0 ** ((steady + stretch[0] * over) / 1200.0) - 1.0)
        hz_bent = partial.number * steady_hz * (2.0 ** ((bent + stretch[1] * over) / 1200.0) - 1.0)
        tones = np.outer(2.0 * np.pi * t, np.concatenate([hz_steady, hz_bent]))
        c, s = np.cos(tones), np.sin(tones)
        n = len(steady)
        found = _turned(frames, c, s)
        # Inner products of unit tones; real, because t is centred.
        g = (c[:, :n].T @ c[:, n:] + s[:, :n].T @ s[:, n:]) / count
        _add_likelihood(total, found[:, :n], found[:, n:], g, power, count, UNISON.most_explained)
    return starts + window_s / 2.0, total


def _turned(frames: Complex, c: FloatArray, s: FloatArray) -> Complex:
    """frames @ exp(−i·tones), from the tones' cosines and sines: real products are many times as quick as complex."""
    both = np.concatenate([frames.real, frames.imag])
    by_c, by_s = both @ c, both @ s
    half = len(frames)
    return np.asarray((by_c[:half] + by_s[half:]) + 1j * (by_c[half:] - by_s[:half]))


@njit(cache=True)
def _add_likelihood(total, xs, xb, g, power, count, most_explained):  # type: ignore[no-untyped-def]
    """Add, in place, what one partial says: total of shape (windows, steady, bent), xs and xb what each tone alone
    explains of each window, power the windows' own.
    """
    steady, bent = g.shape
    apart = 1.0 - g * g
    scale = 1.0 / (count * np.maximum(apart, 1e-6))
    for w in range(total.shape[0]):
        least = 1.0 / max(power[w], 1e-30)
        for i in range(steady):
            a = xs[w, i]
            alone = a.real * a.real + a.imag * a.imag
            for j in range(bent):
                b = xb[w, j]
                other = b.real * b.real + b.imag * b.imag
                if apart[i, j] > 1e-4:
                    both = alone + other - 2.0 * g[i, j] * (a.real * b.real + a.imag * b.imag)
                    explained = both * scale[i, j] * least
                else:
                    explained = max(alone, other) / count * least
                explained = min(max(explained, 0.0), most_explained)
                total[w, i, j] -= 0.5 * count * np.log(1.0 - explained)


def _second_share(partials: list[_Partial], steady_hz: float, offset: float, path: FloatArray) -> float:
    """Share of the power, in the first windows, that the bent string explains beyond what one tone does."""
    shares = []
    for i, apart in enumerate(path[: max(2, round(0.16 / UNISON.hop_s))]):
        for partial in partials[:3]:
            count = max(8, round(UNISON.window_s * partial.rate_hz))
            start = round(i * UNISON.hop_s * partial.rate_hz)
            x = partial.samples[start : start + count]
            t = np.arange(len(x)) / partial.rate_hz
            cents = np.array([offset, offset + apart])
            hz = partial.number * steady_hz * (2.0 ** (cents / 1200.0) - 1.0)
            tones = np.exp(2j * np.pi * t[:, None] * hz)
            pair = tones @ np.linalg.lstsq(tones, x, rcond=None)[0]
            alone = [tone * (np.vdot(tone, x) / len(x)) for tone in tones.T]
            power = float(np.sum(np.abs(x) ** 2))
            least = min(float(np.sum(np.abs(x - a) ** 2)) for a in alone)
            shares.append((least - float(np.sum(np.abs(x - pair) ** 2))) / max(power, 1e-30))
    return float(np.median(shares))


def _path(likelihood: FloatArray, step_cents: float) -> np.ndarray:
    """The likeliest course of the bent pitch, which moves, but does not jump."""
    count = likelihood.shape[1]
    cost = UNISON.move_cost_per_cent * step_cents * np.abs(np.arange(count)[:, None] - np.arange(count)[None, :])
    total = likelihood[0].copy()
    back = np.zeros(likelihood.shape, dtype=np.int64)
    for i in range(1, len(likelihood)):
        ways = total[None, :] - cost
        back[i] = np.argmax(ways, axis=1)
        total = likelihood[i] + ways[np.arange(count), back[i]]
    path = np.empty(len(likelihood), dtype=np.int64)
    path[-1] = int(np.argmax(total))
    for i in range(len(likelihood) - 1, 0, -1):
        path[i - 1] = back[i, path[i]]
    return path


def _held(path: FloatArray) -> slice:
    """From when on the difference stays near what it is at the end."""
    end = float(np.median(path[-max(3, round(0.3 / UNISON.hop_s)) :]))
    away = np.flatnonzero(np.abs(path - end) > UNISON.hold_cents)
    return slice(int(away[-1]) + 1 if len(away) else 0, len(path))


def _apart(likelihood: FloatArray, bent: FloatArray) -> int:
    """How many windows from the first on say that the strings are still far apart."""
    far = bent < -UNISON.apart_cents
    gain = likelihood[:, :, far].max(axis=(1, 2)) - likelihood[:, :, ~far].max(axis=(1, 2))
    near = np.flatnonzero(gain < UNISON.apart_gain)
    return int(near[0]) if len(near) else len(gain)


def _steady_place(likelihood: FloatArray, bent: FloatArray, apart: int) -> int:
    """Which pitch is the steady string's: once both are close either might be, so the time before decides."""
    if apart < 2:
        return int(np.argmax(likelihood.max(axis=2).sum(axis=0)))
    far = likelihood[:apart][:, :, bent < -UNISON.apart_cents].max(axis=2).sum(axis=0)
    good = far > far.max() - UNISON.apart_gain
    return int(np.argmax(np.where(good, likelihood.max(axis=2).sum(axis=0), -np.inf)))


def _steady_while_apart(
    partials: list[_Partial], steady_hz: float, offset: float, apart: int, lowest_cents: float
) -> tuple[float, float]:
    """Offset of the steady pitch and its standard deviation, from the time when the other string is still far below."""
    if apart < 2:
        return offset, UNISON.steady_step_cents
    end_s = (apart - 1) * UNISON.hop_s + UNISON.window_s
    cut = [_Partial(p.number, p.samples[: round(end_s * p.rate_hz)], p.rate_hz) for p in partials]
    steady = offset + np.arange(
        -2.0 * UNISON.steady_step_cents, 2.0 * UNISON.steady_step_cents + 0.01, UNISON.fine_step_cents
    )
    bent = offset + np.arange(lowest_cents - UNISON.below_cents, -UNISON.apart_cents / 2.0, UNISON.step_cents)
    _times, likelihood = _windows(cut, steady_hz, steady, bent, UNISON.window_s, UNISON.hop_s, most=3)
    total = likelihood.max(axis=2).sum(axis=0) * (UNISON.hop_s / UNISON.window_s)
    near = np.flatnonzero(total > total.max() - UNISON.likelihood_drop)
    half = 0.5 * float(steady[near[-1]] - steady[near[0]])
    return float(steady[int(np.argmax(total))]), max(UNISON.steady_sd_cents, half / 2.0)


def _stretches(each: list[FloatArray], numbers: list[int], steady: FloatArray, bent: FloatArray) -> tuple[float, float]:
    """Cents per (k² − 1) of both strings, from where each partial by itself puts them near what all of them say."""
    _si, bi = np.unravel_index(int(np.argmax(np.sum(each, axis=0))), each[0].shape)
    reach = round(UNISON.stretch_reach_cents / (bent[1] - bent[0]))
    near = slice(max(0, bi - reach), bi + reach + 1)
    over, found, weights = [], [], []
    for number, likelihood in zip(numbers, each, strict=True):
        part = likelihood[:, near]
        s, b = np.unravel_index(int(np.argmax(part)), part.shape)
        likely = part > part.max() - UNISON.likelihood_drop
        width = max(1.0, float(np.count_nonzero(likely.any(axis=0)))) * (bent[1] - bent[0])
        over.append(number**2 - 1.0)
        found.append((steady[s], bent[near][b]))
        weights.append(1.0 / width**2)
    x, y, w = np.array(over), np.array(found), np.array(weights)
    x = x - np.average(x, weights=w)
    # A little is taken for granted: that strings are hardly stiff (ridge).
    slope = (w[:, None] * x[:, None] * y).sum(axis=0) / ((w * x * x).sum() + 1.0 / UNISON.stretch_sd**2)
    return float(np.clip(slope[0], 0.0, UNISON.most_stretch)), float(np.clip(slope[1], 0.0, UNISON.most_stretch))


def _narrowed(partial: _Partial, steady_hz: float, from_s: float) -> _Partial:
    """A partial from a time on, low-passed to what is left to tell apart once the strings are close."""
    band = UNISON.narrow_share * partial.number * steady_hz
    step = max(1, int(partial.rate_hz / (3.0 * band)))
    taps = signal.firwin(2 * (4 * step) + 1, min(band, 0.45 * partial.rate_hz), fs=partial.rate_hz)
    low = signal.fftconvolve(partial.samples, taps, mode="same")
    return _Partial(partial.number, low[max(0, round(from_s * partial.rate_hz)) :: step], partial.rate_hz / step)


def _settled(
    partials: list[_Partial], steady_hz: float, known: tuple[float, float], about: float, from_s: float
) -> tuple[float, float, float, float]:
    """Difference, its uncertainty, the steady pitch's offset, and its uncertainty, from the stretch after the merge.

    known: the steady pitch's offset and its standard deviation, from before.
    """
    cut = [_narrowed(p, steady_hz, from_s) for p in partials]
    steady = known[0] + np.arange(
        -UNISON.fine_steady_cents, UNISON.fine_steady_cents + 0.01, 2.0 * UNISON.fine_step_cents
    )
    bent = (
        known[0] + about + np.arange(-UNISON.fine_reach_cents, UNISON.fine_reach_cents + 0.01, UNISON.fine_step_cents)
    )

    # The longer, the closer the tones that can be told apart; a hand that wavers sets the limit.
    window_s = float(np.clip(len(cut[0].samples) / cut[0].rate_hz / 2.5, *UNISON.long_window_s))
    unlike = -0.5 * ((steady - known[0]) / known[1]) ** 2

    def likelihood(of: list[_Partial], stretch: tuple[float, float]) -> FloatArray:
        found = _windows(of, steady_hz, steady, bent, window_s, window_s / 3.0, most=UNISON.partials, stretch=stretch)[
            1
        ]
        # Windows overlap: a third of them are independent.
        return found.sum(axis=0) / 3.0 + unlike[:, None]

    each = [likelihood([partial], (0.0, 0.0)) for partial in cut]
    stretch = _stretches(each, [p.number for p in cut], steady, bent)
    total = likelihood(cut, stretch)
    si, bi = np.unravel_index(int(np.argmax(total)), total.shape)
    difference = bent[None, :] - steady[:, None]
    near = total > total.max() - UNISON.likelihood_drop
    u = 0.5 * float(difference[near].max() - difference[near].min())
    rows = np.flatnonzero(near.any(axis=1))
    found = float(bent[bi] - steady[si])
    return (
        found,
        float(np.hypot(u, UNISON.method_u_cents)),
        float(steady[si]),
        float(0.5 * (steady[rows[-1]] - steady[rows[0]]) + UNISON.method_u_cents),
    )

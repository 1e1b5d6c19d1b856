"""A moving pitch read in time that is warped until it stands still.

A window as short as CONTOUR's follows a swing, and takes in what a room or another string adds to it; a long one is
deaf to both, and smears the swing. So each partial is turned back by its multiple of the contour's own phase: where the
contour is right, the string's own sound stands still at 0 Hz, and what a room holds of earlier pitches, or another
string sounds, does not. A long window then parts them, and what is left to turn is the contour's error, which is taken
off until nothing is left (time warping: Képesi and Weruaga, Speech Communication 48(5), 2006; from memory). A window
of length L lets through H(r) of an error that moves at rate r, so each turn leaves 1 − WARPED.step·H of it.

Conventions: as `hear.contour`; what stands still is read at its frames.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy import fft, ndimage, signal

from fortimetra.hear.contour import Contour
from fortimetra.hear.inharmonicity import first_partial
from fortimetra.hear.settings import CONTOUR, WARPED
from fortimetra.sound.samples import Samples
from fortimetra.units import FloatArray

_TO_CENTS = 1200.0 / np.log(2.0)
_PER_FRAME = 2  # of the slow samples in which partials are kept
_SLOW_HZ = _PER_FRAME / CONTOUR.hop_s
_STEPS = 3  # and of blocks before these are filtered, so many a slow sample
_LOW_TAPS = 8  # length of that filter, in slow samples


def warped(sound: Samples, contour: Contour, frames: slice, *, rate_hz: int) -> Contour:
    """The contour of a stretch of one note, read anew; frames: of `contour`, some of which have a pitch.

    sound: float32, shape (n_samples,), at rate_hz, a multiple of 1200 Hz. Gaps are bridged: f0_hz has no NaN.
    """
    time_s, before = contour.time_s[frames], contour.f0_hz[frames]
    voiced = ~np.isnan(before)
    f0 = _first_course(np.interp(time_s, time_s[voiced], before[voiced]))
    still = _Still.of(sound, time_s, f0, rate_hz=rate_hz)
    f0 = _at_rest(still, f0)
    (cents, sigma), _short = still.read(f0, weighed=True)
    of_long = _Weights.of(cents, sigma)
    off = cents - of_long.common(cents)[:, None]
    found = replace(
        contour,
        time_s=time_s,
        f0_hz=f0,
        sigma_cents=1.0 / np.sqrt(np.maximum(of_long.total, 1e-6)),
        confidence=contour.confidence[frames],
        level_dbfs=contour.level_dbfs[frames],
        partial_cents=np.where(of_long.each > 0.0, off, np.nan).astype(np.float32),
        partial_sigma_cents=(1.0 / np.sqrt(np.maximum(of_long.each, 1e-6))).astype(np.float32),
    )
    # The course moved as one: where its first partial lies is read as of any note.
    lies_cents = first_partial(found, slice(None)).place_cents
    return replace(
        found,
        f0_hz=found.f0_hz * 2.0 ** (lies_cents / 1200.0),
        partial_cents=(found.partial_cents - lies_cents).astype(np.float32),
    )


def _at_rest(still: _Still, f0_hz: FloatArray) -> FloatArray:
    """The course in which the partials stand still, or as still as they get, shape (n_frames,); f0_hz: a first one."""
    rest_cents = np.inf
    for turn in range(WARPED.most_turns):
        seen = still.read(f0_hz, weighed=turn < WARPED.turns_weighed)
        if turn < WARPED.turns_weighed:
            weights = [_Weights.of(cents, sigma) for cents, sigma in seen]
        left = _left(*(w.sums(cents) for w, (cents, _sigma) in zip(weights, seen, strict=True)))
        f0_hz = f0_hz * 2.0 ** (WARPED.step * left / 1200.0)
        before_cents, rest_cents = rest_cents, float(np.median(np.abs(left)))
        if rest_cents < WARPED.at_rest_cents or rest_cents > WARPED.least_gain * before_cents:
            break
    return f0_hz


def _first_course(f0_hz: FloatArray) -> FloatArray:
    """A course without what is too quick for a hand, and for what it is to be set right with."""
    width = round(WARPED.smooth_s / CONTOUR.hop_s) | 1
    middle = ndimage.median_filter(f0_hz, width, mode="nearest")
    return np.asarray(signal.savgol_filter(middle, width, 2, mode="interp")) if len(f0_hz) >= width else middle


def _blurred(values: FloatArray, over_s: float) -> FloatArray:
    """Under a Hann window of a length, the ends as they are."""
    window = signal.windows.hann((round(over_s / CONTOUR.hop_s) | 1) + 2)
    return np.asarray(ndimage.convolve1d(values, window / window.sum(), mode="nearest"))


@dataclass(frozen=True)
class _Window:
    """A Hann window as transforms of `size` points: itself, and moved to both sides of a partial; shape (3, size)."""

    length: int
    size: int
    spectra: NDArray[np.complex64]

    @staticmethod
    def of(length_s: float, size: int) -> _Window:
        """For transforms of so many points."""
        window = signal.windows.hann(round(length_s * _SLOW_HZ) | 1)
        length = len(window)
        aside = np.exp(2j * np.pi * WARPED.aside * (np.arange(length) - length // 2) / length)
        moved = np.stack((window, window * aside, window * aside.conj())).astype(np.complex64)
        return _Window(length, size, fft.fft(moved, size))


@dataclass(frozen=True)
class _Still:
    """The partials of a stretch, each turned back by its multiple of a first course, in slow samples, _PER_FRAME a
    frame, beyond of them before its first frame: complex, shape (n_partials, n_slow).
    """

    partials: NDArray[np.complex64]
    first_hz: FloatArray
    beyond: int
    long: _Window
    short: _Window

    @staticmethod
    def of(sound: Samples, time_s: FloatArray, f0_hz: FloatArray, *, rate_hz: int) -> _Still:
        """Turned back by f0_hz, shape (n_frames,), at time_s; beyond it the course goes on as it ends."""
        every = round(rate_hz / _SLOW_HZ / _STEPS)
        beyond = _PER_FRAME * (1 + round(WARPED.window_s / CONTOUR.hop_s / 2.0))
        reach = _LOW_TAPS // 2
        first = round(time_s[0] * rate_hz) - round((_STEPS * (beyond + reach) + 0.5) * every)
        count = (len(time_s) * _PER_FRAME + 2 * (beyond + reach)) * _STEPS * every
        own = np.zeros(count, np.complex64)
        inside = slice(max(0, first), max(0, min(len(sound), first + count)))
        own[inside.start - first : inside.stop - first] = sound[inside]
        at_s = (first + np.arange(count)) / rate_hz
        turn = np.exp(-2j * np.pi * np.cumsum(np.interp(at_s, time_s, f0_hz)) / rate_hz).astype(np.complex64)
        number = min(WARPED.n_partials, int(0.45 * rate_hz / f0_hz.max()))
        # Means over blocks first: what is left of a partial a whole block's rate away is 40 dB under it.
        blocks = np.empty((number, count // every), np.complex64)
        for k in range(number):
            own *= turn
            own.reshape(-1, every).mean(axis=1, out=blocks[k])
        taps = signal.firwin(_LOW_TAPS * _STEPS + 1, 0.5 / _STEPS).astype(np.float32)
        slow = signal.upfirdn(taps, blocks, down=_STEPS)[:, _LOW_TAPS:-_LOW_TAPS]
        size = fft.next_fast_len(slow.shape[1] + round(WARPED.window_s * _SLOW_HZ) + 1)
        return _Still(
            slow, f0_hz, beyond, _Window.of(WARPED.window_s, size), _Window.of(WARPED.short_s, size)
        )  # fmt: skip

    def read(self, f0_hz: FloatArray, *, weighed: bool) -> list[tuple[FloatArray, FloatArray]]:
        """How far each partial is from its multiple of a course, cents, by the long window and by the short one, and
        its standard deviation, all of shape (n_frames, n_partials). Where it is to be weighed, a partial that does not
        stand out of what is beside it is NaN; otherwise the standard deviation is left out (empty).
        """
        number, count = self.partials.shape
        frames = (np.arange(count) - self.beyond) / _PER_FRAME
        more = np.interp(frames, np.arange(len(f0_hz)), f0_hz - self.first_hz)
        turn = np.exp(-2j * np.pi * np.cumsum(more) / _SLOW_HZ).astype(np.complex64)
        turned = self.partials * np.cumprod(np.broadcast_to(turn, (number, count)), axis=0)
        spectra = fft.fft(turned, self.long.size)
        return [self._through(window, spectra, f0_hz, weighed=weighed) for window in (self.long, self.short)]

    def _through(
        self, window: _Window, spectra: NDArray[np.complex64], f0_hz: FloatArray, *, weighed: bool
    ) -> tuple[FloatArray, FloatArray]:
        seen = fft.ifft(spectra * window.spectra[: 3 if weighed else 1, None])
        at = self.beyond + window.length // 2 + _PER_FRAME * np.arange(len(f0_hz))
        off_hz = np.angle(seen[0][:, at + 1] * seen[0][:, at - 1].conj()) * (_SLOW_HZ / (4.0 * np.pi))
        multiple = np.arange(1.0, len(spectra) + 1.0)[:, None] * f0_hz
        cents = _TO_CENTS * np.log1p(np.maximum(off_hz / multiple, -0.5))
        if not weighed:
            return cents.T, np.empty((0, 0))
        power = np.square(np.abs(seen[:, :, at]))
        floor = 0.5 * (power[1] + power[2])
        # As of the contour's own reading: a line in noise, by the window's derivative.
        gain = np.sqrt(4.0 / 3.0) * np.pi / (window.length / _SLOW_HZ)
        sigma = _TO_CENTS * np.sqrt(floor / np.maximum(power[0], 1e-30) / 2.0) * gain / (2.0 * np.pi * multiple)
        return np.where(power[0] > WARPED.stands_out * floor, cents, np.nan).T, sigma.T


@dataclass(frozen=True)
class _Weights:
    """How much each partial counts in each frame, shape (n_frames, n_partials), 0 where it is not heard: by its noise,
    and by how far it strays from the others. The lowest ones swing by so few Hz that a room's answer stays beside them.
    place: where each lies over the stretch, cents, shape (n_partials,): stiffness is no movement.
    """

    each: FloatArray
    place: FloatArray

    @property
    def total(self) -> FloatArray:
        """Of each frame."""
        return np.asarray(self.each.sum(axis=1))

    @staticmethod
    def of(cents: FloatArray, sigma: FloatArray) -> _Weights:
        """cents: NaN where a partial is not heard; sigma: its standard deviation; both shape (n_frames, n_partials)."""
        heard = ~np.isnan(cents)
        heard &= heard.mean(axis=0) >= WARPED.least_share
        noise = sigma**2 + CONTOUR.partial_sigma_floor_cents**2
        values = np.where(heard, cents, 0.0)
        found = _Weights(heard / noise, np.zeros(cents.shape[1]))
        for _ in range(1 + WARPED.weighings):
            found = replace(found, place=(found.each * values).sum(axis=0) / np.maximum(found.each.sum(axis=0), 1e-12))
            share = (found.each / np.maximum(found.total[:, None], 1e-12)).mean(axis=0)
            apart = np.where(heard, values - found.place - found.common(values)[:, None], 0.0)
            # What a partial itself draws the mean towards it is not to count for it.
            strays = (apart**2).sum(axis=0) / np.maximum(heard.sum(axis=0), 1) / np.maximum(1.0 - share, 0.1) ** 2
            found = replace(found, each=heard / (noise + strays))
        return found

    def sums(self, cents: FloatArray) -> tuple[FloatArray, FloatArray]:
        """What all partials of a frame are off by, times its weight, and that weight; both of shape (n_frames,)."""
        return (self.each * np.where(self.each > 0.0, cents - self.place, 0.0)).sum(axis=1), self.total

    def common(self, cents: FloatArray) -> FloatArray:
        """What all partials of a frame are off by, shape (n_frames,)."""
        top, total = self.sums(cents)
        return np.asarray(top / np.maximum(total, 1e-12))


def _left(*of_windows: tuple[FloatArray, FloatArray]) -> FloatArray:
    """What a course is off by, cents, shape (n_frames,): as the long window has it, and of what that is too slow for
    (a swing's second harmonic), as the short one has it. Where a window reaches over an end of the stretch it sees an
    edge, and less is believed.
    """
    slow, quick = (
        _blurred(top, WARPED.smooth_s) / np.maximum(_blurred(total, WARPED.smooth_s), 1e-12)
        for top, total in of_windows
    )
    inside_s = np.minimum(np.arange(len(slow)), np.arange(len(slow))[::-1]) * CONTOUR.hop_s
    believed = np.sin(0.5 * np.pi * np.minimum(1.0, inside_s / (0.5 * WARPED.window_s))) ** 2
    return np.asarray(believed * (slow + quick - _blurred(quick, WARPED.window_s)))

"""Which pitches a short stretch of sound holds, semitone by semitone, where no contour can be followed yet.

Method: the spectrum after an attack, and what in it is new since before the attack, each with its envelope taken out
and compared (cosine) with combs of equal partials, as wide as the window makes a partial (harmonic templates;
Klapuri, IEEE Trans. Speech Audio Process. 11(6), 2003, for the whitening). Long enough for one semitone at a few
partials is enough: at 50 ms neighbours differ from the fourth partial of low E on.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy import fft, ndimage

from fortimetra.hear.settings import SALIENCE
from fortimetra.sound.parts import hann
from fortimetra.sound.samples import Samples, copied, let_go
from fortimetra.units import FloatArray

_AT_ONCE = 512
# The longest window fits in.
_N_FFT = 1 << int(np.ceil(np.log2(max(SALIENCE.lengths_s) * SALIENCE.rate_hz)))

Scores = NDArray[np.float32]


@dataclass(frozen=True)
class Salience:
    """score: how well each semitone fits, shape (n_places, n_semitones), about 0 to 1.5; lowest_midi: the first of
    them. tonal: how well the best of all semitones of a guitar fits, shape (n_places,): a note's is over 0.7, that of
    noise and speech under it. new: the same of what begins there alone, about 0 to 0.9. bright: share of its energy
    over SALIENCE.bright_hz. all_score, from all_midi on: as score, of all semitones of a guitar.
    """

    score: Scores
    lowest_midi: int
    tonal: Scores
    new: Scores
    bright: Scores
    all_score: Scores
    all_midi: int

    def misfit(self, place: int, midi: float) -> float:
        """How much worse a pitch fits than the one that fits best."""
        row = self.score[place]
        at = round(midi) - self.lowest_midi
        return float(row.max() - row[at]) if 0 <= at < len(row) else float(row.max())

    def best_midi(self, place: int) -> int:
        """The semitone that fits best."""
        return self.lowest_midi + int(np.argmax(self.score[place]))


def salience(
    sound: Samples,
    places_s: FloatArray,
    until_s: FloatArray,
    *,
    rate_hz: int,
    midi: tuple[int, int],
    offset_cents: float,
) -> Salience:
    """Scores of all semitones from midi[0] to midi[1] after each place, heard no longer than until_s.

    sound: shape (n_samples,), at SALIENCE.rate_hz. offset_cents: how far the guitar is off equal temperament at 440 Hz.
    """
    lengths = np.array(SALIENCE.lengths_s)
    room = until_s - places_s - SALIENCE.after_s
    group = np.minimum((room[:, None] < lengths).sum(axis=1), len(lengths) - 1)
    lowest, highest = min(midi[0], SALIENCE.range_midi[0]), max(midi[1], SALIENCE.range_midi[1])
    score = np.zeros((len(places_s), highest - lowest + 1), np.float32)
    fresh, bright = np.zeros(len(places_s), np.float32), np.zeros(len(places_s), np.float32)
    pad = _N_FFT
    padded = copied(sound, before=pad, after=pad)
    for number, length_s in enumerate(SALIENCE.lengths_s):
        own = np.flatnonzero(group == number)
        if not len(own):
            continue
        length = round(length_s * rate_hz)
        window = hann(length)
        combs = _combs(length, rate_hz, (lowest, highest), offset_cents)
        views = np.lib.stride_tricks.sliding_window_view(padded, length)
        for first in range(0, len(own), _AT_ONCE):
            let_go()
            part = own[first : first + _AT_ONCE]
            at = np.round(places_s[part] * rate_hz).astype(np.int64) + pad
            after = _magnitudes(views, at + round(SALIENCE.after_s * rate_hz), window)
            before = _magnitudes(views, at - round(SALIENCE.before_s * rate_hz) - length, window)
            new = np.maximum(after - before, 0.0)
            share = np.minimum(1.0, (new**2).sum(axis=1) / np.maximum((after**2).sum(axis=1), 1e-20))
            of_new = _fit(new, combs, rate_hz)
            score[part] = _fit(after, combs, rate_hz) + share[:, None] * of_new
            fresh[part] = of_new.max(axis=1)
            power = new**2
            over = power[:, round(SALIENCE.bright_hz / rate_hz * _N_FFT) :].sum(axis=1)
            bright[part] = over / np.maximum(power.sum(axis=1), 1e-20)
    own_range = score[:, midi[0] - lowest : midi[1] - lowest + 1]
    return Salience(own_range, midi[0], score.max(axis=1, initial=0.0), fresh, bright, score, lowest)


def _magnitudes(views: NDArray[np.float32], starts: NDArray[np.int64], window: NDArray[np.float32]) -> Scores:
    frames = views[np.clip(starts, 0, len(views) - 1)] * window
    return np.abs(fft.rfft(frames, _N_FFT, axis=1)).astype(np.float32)


def _flat(spectra: Scores, rate: int) -> Scores:
    """Square-rooted, envelope taken out, cut at SALIENCE.highest_hz, of length 1."""
    root = np.sqrt(spectra[:, : round(SALIENCE.highest_hz / rate * _N_FFT)])
    root = root - ndimage.uniform_filter1d(root, round(SALIENCE.envelope_hz / rate * _N_FFT) | 1, axis=1)
    return np.asarray(root / np.maximum(np.linalg.norm(root, axis=1, keepdims=True), 1e-12), dtype=np.float32)


def _fit(spectra: Scores, combs: Scores, rate: int) -> Scores:
    return np.asarray(_flat(spectra, rate) @ combs.T, dtype=np.float32)


@lru_cache(maxsize=16)
def _combs(length: int, rate: int, midi: tuple[int, int], offset_cents: float) -> Scores:
    """The spectrum of equal partials of each semitone, as a window of this length shows it; shape (n_semitones,
    n_bins). Kept: most guitars are not off as a whole, and the next take asks for the same.
    """
    fine = 16
    lobe = np.abs(fft.rfft(hann(length), _N_FFT * fine))
    bins = np.arange(_N_FFT // 2 + 1)
    rows = []
    for number in range(midi[0], midi[1] + 1):
        hz = 440.0 * 2.0 ** ((number - 69 + offset_cents / 100.0) / 12.0)
        partials = np.arange(1, int(SALIENCE.highest_hz / hz) + 1) * hz / rate * _N_FFT
        away = np.round(np.abs(bins[None, :] - partials[:, None]) * fine).astype(np.int64)
        rows.append(lobe[np.minimum(away, len(lobe) - 1)].max(axis=0))
    return _flat(np.array(rows, dtype=np.float32), rate)

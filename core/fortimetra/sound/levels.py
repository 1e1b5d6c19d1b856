"""Levels of a whole take: peak, loudness, noise floor, clipping, mains hum.

Conventions: dBFS of an RMS value takes a full-scale sine as −3.01 dBFS. Loudness is ITU-R BS.1770-4
(gated), with the filters of pyloudnorm.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from pyloudnorm import IIRfilter
from scipy import fft, signal

from fortimetra.sound.clipping import clipped_fraction
from fortimetra.sound.decode import Take, resampled
from fortimetra.sound.parts import energies
from fortimetra.sound.samples import BLOCK_FRAMES, Samples, blocks, extremes
from fortimetra.sound.settings import LEVELS
from fortimetra.units import FloatArray, amplitude_to_db

# ITU-R BS.1770-4, annex 1: blocks of 400 ms that overlap by 75 %, gates at −70 LUFS and 10 LU under what passes it.
LOUDNESS_BLOCK_S, LOUDNESS_STEP_S, LOUDNESS_LEAST_S = 0.4, 0.1, 0.5
ABSOLUTE_GATE_LUFS, RELATIVE_GATE_LU = -70.0, 10.0


@dataclass(frozen=True)
class HumLevels:
    """Mains hum: frequency of the mains, level of all harmonics together, and (number, dBFS) of each."""

    hz: float
    level_dbfs: float
    harmonics: tuple[tuple[int, float], ...]


@dataclass(frozen=True)
class Levels:
    """Levels of a take; hum None where no mains hum stands out."""

    peak_dbfs: float
    loudness_lufs: float | None
    noise_floor_dbfs: float
    clipped_fraction: float
    hum: HumLevels | None


def measure_levels(take: Take, mono: Samples) -> Levels:
    """Levels of a take; mono: the measured channel, shape (n_samples,)."""
    rate, own = take.sample_rate_hz, take.as_recorded
    frames = frame_rms(mono, rate_hz=rate, frame_s=LEVELS.floor_frame_s)
    floor = amplitude_to_db(float(np.percentile(frames, LEVELS.floor_percentile)))
    peak = float(np.max(np.abs(extremes(take.samples)))) if own is None else own.peak
    return Levels(
        peak_dbfs=amplitude_to_db(peak),
        loudness_lufs=_loudness(take),
        noise_floor_dbfs=floor,
        clipped_fraction=clipped_fraction(take.samples) if own is None else own.clipped_fraction,
        hum=find_hum(mono, frames, rate_hz=rate),
    )


def frame_rms(mono: Samples, *, rate_hz: int, frame_s: float) -> FloatArray:
    """RMS of consecutive frames without DC; float64, shape (n_frames,), at least one frame."""
    length = max(1, min(round(frame_s * rate_hz), len(mono)))
    count = len(mono) // length
    frames = mono[: count * length].reshape(count, length)
    mean, square = np.empty(count), np.empty(count)
    for part in blocks(count, BLOCK_FRAMES // length):
        mean[part] = np.mean(frames[part], axis=1, dtype=np.float64)
        square[part] = np.einsum("ij,ij->i", frames[part], frames[part], dtype=np.float64) / length
    return np.sqrt(np.maximum(square - mean**2, 0.0))


def _loudness(take: Take) -> float | None:
    """Gated loudness, LUFS; None where nothing is over the gate.

    pyloudnorm's filters, sound by sound in parts: its own meter holds a long take five times over in memory.
    """
    rate, samples = take.sample_rate_hz, take.samples
    if take.duration_s < LOUDNESS_LEAST_S:
        return None
    step = round(LOUDNESS_STEP_S * rate)
    energy = np.zeros(samples.shape[1] // step)
    for channel in samples:
        energy += _weighted_energy(channel, rate, step)
    # Blocks of 400 ms, a new one every 100 ms.
    per_block = round(LOUDNESS_BLOCK_S / LOUDNESS_STEP_S)
    blocks = np.convolve(energy, np.full(per_block, 1.0 / per_block), mode="valid")
    loud = blocks[_lufs(blocks) >= ABSOLUTE_GATE_LUFS]
    if len(loud) == 0:
        return None
    loud = loud[_lufs(loud) > _lufs(loud.mean()) - RELATIVE_GATE_LU]
    return float(_lufs(loud.mean()))


def _weighted_energy(channel: Samples, rate_hz: int, step: int) -> FloatArray:
    """Mean square of the K-weighted sound, every `step` samples; shape (n_samples // step,)."""
    stages = (
        IIRfilter(4.0, 1.0 / np.sqrt(2.0), 1500.0, rate_hz, "high_shelf"),
        IIRfilter(0.0, 0.5, 38.0, rate_hz, "high_pass"),
    )
    sos = np.array([[*stage.b, *stage.a] for stage in stages])
    return energies(sos, channel, np.arange(len(channel) // step + 1) * step) / step


def _lufs(energy: FloatArray) -> FloatArray:
    return -0.691 + 10.0 * np.log10(np.maximum(energy, 1e-30))


def find_hum(mono: Samples, frames: FloatArray, *, rate_hz: int) -> HumLevels | None:
    """Mains hum in the quiet parts of a take, or None.

    Reported when at least three of the first eight harmonics of a mains frequency stand 12 dB out of the spectrum
    around them in the longest quiet stretch (0.3 s at least). The frequency is read from the strongest of them.
    mono: shape (n_samples,); frames: its RMS by LEVELS.floor_frame_s, shape (n_frames,).
    """
    quiet = _longest_quiet(frames)
    length = round(LEVELS.floor_frame_s * rate_hz)
    part = mono[quiet[0] * length : quiet[1] * length]
    if len(part) < LEVELS.hum_least_s * rate_hz:
        return None
    # Sampled so that the highest harmonic lies half-way to the end of the spectrum.
    low_hz = min(rate_hz, round(4 * LEVELS.hum_harmonics * max(LEVELS.mains_hz)))
    part = resampled(part[: 4 * rate_hz], from_hz=rate_hz, to_hz=low_hz).astype(np.float64)
    rate_hz = low_hz
    window = signal.windows.hann(len(part), sym=False)
    n_fft = 1 << int(np.ceil(np.log2(4 * len(part))))
    bin_hz = rate_hz / n_fft
    lobe = max(1, round(2.0 / (len(part) / rate_hz) / bin_hz))
    used = round(LEVELS.hum_harmonics * max(LEVELS.mains_hz) / bin_hz) + 6 * lobe + 1
    spectrum = fft.rfft((part - part.mean()) * window, n_fft)[:used]
    power = np.abs(spectrum) ** 2 / (window.sum() / 2.0) ** 2 / 2.0
    found = [_harmonics(power, mains, bin_hz, lobe) for mains in LEVELS.mains_hz]
    best = max(found, key=lambda harmonics: (len(harmonics), sum(p for _, _, p in harmonics)))
    if len(best) < 3:
        return None
    number, hz, _ = max(best, key=lambda h: h[2])
    return HumLevels(
        hz=round(hz / number, 1),
        level_dbfs=10.0 * float(np.log10(sum(p for _, _, p in best))),
        harmonics=tuple((n, 10.0 * float(np.log10(p))) for n, _, p in best),
    )


def _harmonics(power: FloatArray, mains_hz: float, bin_hz: float, lobe: int) -> list[tuple[int, float, float]]:
    """Number, frequency and power of the harmonics that stand out."""
    standing = []
    for number in range(1, LEVELS.hum_harmonics + 1):
        centre, reach = round(mains_hz * number / bin_hz), 6 * lobe
        if centre + reach >= len(power):
            break
        first = max(0, centre - lobe)
        at = first + int(np.argmax(power[first : centre + lobe + 1]))
        around = np.concatenate(
            (
                power[max(0, centre - reach) : max(0, centre - 2 * lobe)],
                power[centre + 2 * lobe : centre + reach],
            )
        )
        if power[at] > float(np.median(around)) * 10.0 ** (LEVELS.hum_lift_db / 10.0):
            standing.append((number, (at + _top(power, at)) * bin_hz, float(power[at])))
    return standing


def _top(power: FloatArray, at: int) -> float:
    """Where the top of a peak lies beside its highest bin, by the parabola through three levels in dB; bins."""
    if not 0 < at < len(power) - 1 or power[at - 1 : at + 2].min() <= 0.0:
        return 0.0
    before, here, after = np.log(power[at - 1 : at + 2])
    curve = before - 2.0 * here + after
    return float(0.5 * (before - after) / curve) if curve < 0.0 else 0.0


def _longest_quiet(frames: FloatArray) -> tuple[int, int]:
    limit = float(np.percentile(frames, LEVELS.floor_percentile)) * 2.0
    quiet = np.concatenate(([0], (frames <= limit).astype(np.int8), [0]))
    edges = np.flatnonzero(np.diff(quiet))
    starts, ends = edges[::2], edges[1::2]
    longest = int(np.argmax(ends - starts))
    return int(starts[longest]), int(ends[longest])

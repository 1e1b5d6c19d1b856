"""What stands between a guitar and its recording: an amplifier in a room, a phone on a chair, codecs, noise
suppression.

Rooms are exponentially decaying noise of a stated reverberation time (ISO 3382's RT60) with a direct sound before it.
Automatic gain is a compressor with slow release. Codecs are the real ones, through PyAV. Other sounds of a room are
made of shaped noise and of a voice: glottal pulses through three formants of a vowel (Peterson and Barney, J. Acoust.
Soc. Am. 24, 1952; from memory). Another maker's amplifier and room: `benchmarks/_plugins`.
"""

from __future__ import annotations

import io
from collections.abc import Callable

import av
import numpy as np
from scipy import signal

from benchmarks._notes import RATE_HZ, Samples
from benchmarks._plugins import room, tube_amp

FLOOR_DBFS = -72.0
ROOM_S = {"amp": 0.25, "phone": 0.4}
Chain = Callable[[Samples, np.random.Generator], Samples]


def _floor(sound: Samples, rng: np.random.Generator, dbfs: float = FLOOR_DBFS) -> Samples:
    return np.asarray(sound + rng.standard_normal(len(sound)) * 10.0 ** (dbfs / 20.0))


def _room(sound: Samples, rng: np.random.Generator, *, rt60_s: float, wet_db: float) -> Samples:
    """wet_db: energy of the reverberation against the direct sound."""
    time = np.arange(round(1.2 * rt60_s * RATE_HZ)) / RATE_HZ
    tail = rng.standard_normal(len(time)) * 10.0 ** (-3.0 * time / rt60_s)
    tail[: round(0.004 * RATE_HZ)] = 0.0
    tail *= 10.0 ** (wet_db / 20.0) / np.sqrt(np.sum(tail**2))
    tail[0] = 1.0
    return np.asarray(signal.oaconvolve(sound, tail)[: len(sound)])


def _band(sound: Samples, low_hz: float, high_hz: float) -> Samples:
    sos = signal.butter(2, [low_hz, high_hz], "bandpass", fs=RATE_HZ, output="sos")
    return np.asarray(signal.sosfilt(sos, sound))


def _gain(sound: Samples, *, ratio: float = 3.0, threshold_db: float = -30.0) -> Samples:
    """Automatic gain: level above a threshold is pressed together; up in 10 ms, down in 300 ms."""
    power = sound**2
    attack, release = np.exp(-1.0 / (0.01 * RATE_HZ / 64)), np.exp(-1.0 / (0.3 * RATE_HZ / 64))
    blocks = power[: len(power) // 64 * 64].reshape(-1, 64).mean(axis=1)
    level = np.empty(len(blocks))
    now = 0.0
    for i, value in enumerate(blocks):
        keep = attack if value > now else release
        now = keep * now + (1.0 - keep) * value
        level[i] = now
    over = np.maximum(0.0, 10.0 * np.log10(level + 1e-12) - threshold_db)
    gain_db = -over * (1.0 - 1.0 / ratio)
    gain = 10.0 ** (np.interp(np.arange(len(sound)), np.arange(len(blocks)) * 64 + 32, gain_db) / 20.0)
    return np.asarray(sound * gain)


def _coded(sound: Samples, codec: str, container: str, bit_rate: int, rate_hz: int) -> Samples:
    """Through a codec and back."""
    peak = max(1e-9, float(np.abs(sound).max()))
    whole = signal.resample_poly(sound / peak * 0.7, rate_hz, RATE_HZ).astype(np.float32)
    file = io.BytesIO()
    with av.open(file, "w", format=container) as out:
        stream = out.add_stream(codec, rate=rate_hz)
        stream.bit_rate = bit_rate
        stream.codec_context.layout = "mono"
        resampler = av.AudioResampler(format=stream.codec_context.format or "fltp", layout="mono", rate=rate_hz)
        frame = av.AudioFrame.from_ndarray(whole[None, :], format="flt", layout="mono")
        frame.sample_rate = rate_hz
        fifo = av.AudioFifo()
        for part in resampler.resample(frame):
            fifo.write(part)
        size = stream.codec_context.frame_size or 1024
        while (part := fifo.read(size)) is not None or (part := fifo.read(0, partial=True)) is not None:
            for packet in stream.encode(part):
                out.mux(packet)
        for packet in stream.encode(None):
            out.mux(packet)
    file.seek(0)
    with av.open(file) as back:
        pieces = [f.to_ndarray() for f in av.AudioResampler(format="flt", layout="mono", rate=rate_hz).resample(None)]
        to_float = av.AudioResampler(format="flt", layout="mono", rate=rate_hz)
        for got in back.decode(audio=0):
            pieces += [f.to_ndarray() for f in to_float.resample(got)]
    found = np.concatenate([p.ravel() for p in pieces]).astype(np.float64)
    return np.asarray(signal.resample_poly(found, RATE_HZ, rate_hz) * peak / 0.7)


def straight(sound: Samples, rng: np.random.Generator) -> Samples:
    """Into an interface."""
    return _floor(sound, rng)


def driven(sound: Samples, loudest: float) -> Samples:
    """A driven amplifier and its cabinet, before any room. loudest: the peak of the whole take."""
    return _band(np.tanh(6.0 * sound / max(1e-9, loudest)) * 0.4, 80.0, 5000.0)


def amp(sound: Samples, rng: np.random.Generator) -> Samples:
    """A driven amplifier, a cabinet, a small room."""
    loud = driven(sound, float(np.abs(sound).max()))
    return _floor(_room(loud, rng, rt60_s=ROOM_S["amp"], wet_db=-12.0), rng, -62.0)


def phone_room(sound: Samples, rng: np.random.Generator) -> Samples:
    """What a phone on a chair hears, before its own gain and codec."""
    return _floor(_band(_room(sound, rng, rt60_s=ROOM_S["phone"], wet_db=-3.0), 120.0, 14000.0), rng, -58.0)


def phone(sound: Samples, rng: np.random.Generator) -> Samples:
    """A phone on a chair: room, automatic gain, Opus at 32 kbit/s."""
    return _coded(_gain(phone_room(sound, rng)), "libopus", "ogg", 32_000, 48_000)


def mp3(sound: Samples, rng: np.random.Generator) -> Samples:
    """An interface, then MP3 at 128 kbit/s."""
    return _coded(straight(sound, rng), "libmp3lame", "mp3", 128_000, 44_100)


def aac(sound: Samples, rng: np.random.Generator) -> Samples:
    """An interface, then AAC at 96 kbit/s."""
    return _coded(straight(sound, rng), "aac", "adts", 96_000, 44_100)


def laptop(sound: Samples, rng: np.random.Generator) -> Samples:
    """A laptop's microphone with its noise suppression: spectral subtraction with a gate."""
    heard = _gain(phone_room(sound, rng))
    _, _, bins = signal.stft(heard, RATE_HZ, nperseg=1024)
    power = np.abs(bins) ** 2
    noise = np.quantile(power, 0.15, axis=1, keepdims=True)
    keep = np.maximum(0.05, 1.0 - 3.0 * noise / np.maximum(power, 1e-20))
    _, back = signal.istft(bins * keep, RATE_HZ, nperseg=1024)
    return np.asarray(back[: len(sound)])


def tube(sound: Samples, rng: np.random.Generator) -> Samples:
    """Another maker's tube amplifier at a third of its gain, and its cabinet, by cable."""
    return _floor(tube_amp(sound, gain=0.35, cabinet=9), rng)


def lead(sound: Samples, rng: np.random.Generator) -> Samples:
    """The same amplifier at seven tenths of its gain, with another cabinet."""
    return _floor(tube_amp(sound, gain=0.7, cabinet=12), rng)


def hall(sound: Samples, rng: np.random.Generator) -> Samples:
    """A microphone in another maker's room of half a second, and noise."""
    return _floor(room(sound, rt60_s=0.5, wet=0.4), rng, -58.0)


CHAINS: dict[str, Chain] = {
    "straight": straight, "amp": amp, "phone": phone, "mp3": mp3, "aac": aac, "laptop": laptop, "tube": tube,
    "lead": lead, "hall": hall,
}  # fmt: skip


# -- what is not the guitar --------------------------------------------------------------------------------


def _shaped(seconds: float, low_hz: float, high_hz: float, rng: np.random.Generator, rise_s: float = 0.02) -> Samples:
    time = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
    swell = np.minimum(1.0, time / rise_s) * np.exp(-4.0 * time / seconds)
    made = _band(rng.standard_normal(len(time)), low_hz, high_hz) * swell
    return np.asarray(made / np.abs(made).max())


def cough(rng: np.random.Generator) -> Samples:
    """Two bursts of broad noise."""
    return np.concatenate(
        [_shaped(0.22, 300, 4000, rng), np.zeros(round(0.12 * RATE_HZ)), 0.7 * _shaped(0.2, 300, 3500, rng)]
    )


def knock(rng: np.random.Generator) -> Samples:
    """On wood: a low thud."""
    return _shaped(0.12, 90, 700, rng, rise_s=0.001)


def chair(rng: np.random.Generator) -> Samples:
    """A chair that is moved: rough noise with a creak in it."""
    noise = _shaped(0.6, 150, 2500, rng, rise_s=0.1)
    time = np.arange(len(noise)) / RATE_HZ
    return np.asarray(noise * (0.6 + 0.4 * np.sign(np.sin(2 * np.pi * 23 * time))))


def voice(rng: np.random.Generator, seconds: float = 0.9) -> Samples:
    """A word or two: glottal pulses through formants that move."""
    time = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
    pitch = 125.0 * 2.0 ** (0.15 * np.sin(2 * np.pi * 1.3 * time + rng.uniform(0, 6)))
    pulses = signal.sawtooth(2 * np.pi * np.cumsum(pitch) / RATE_HZ)
    total = np.zeros(len(time))
    for hz, gain in ((650.0, 1.0), (1100.0, 0.6), (2500.0, 0.25)):
        total += gain * _band(pulses, hz / 1.2, hz * 1.2)
    syllables = np.maximum(0.0, np.sin(2 * np.pi * 2.6 * time)) ** 0.5
    made = total * syllables
    return np.asarray(made / np.abs(made).max())


def with_room_sounds(sound: Samples, rng: np.random.Generator, first_note_s: float) -> Samples:
    """A voice before the start, and a cough, a knock and a chair somewhere under the notes, as loud as notes or
    softer.
    """
    found = sound.copy()
    peak = float(np.abs(sound).max())

    def add(made: Samples, at_s: float, level_db: float) -> None:
        at = max(0, round(at_s * RATE_HZ))
        part = made[: max(0, len(found) - at)]
        found[at : at + len(part)] += part * peak * 10.0 ** (level_db / 20.0)

    add(voice(rng), max(0.05, first_note_s - 1.3), -12.0)
    seconds = len(sound) / RATE_HZ
    for made, level in ((cough(rng), -12.0), (knock(rng), -10.0), (chair(rng), -18.0)):
        add(made, float(rng.uniform(first_note_s + 1.0, max(first_note_s + 1.5, seconds - 2.0))), level)
    return found

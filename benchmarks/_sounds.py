"""Phrases with known pitch: a recorded note played back along an exact curve, then noise, hum, drive, click.

What a note's own pitch does is read from the undisturbed note by the phases of its partials (band-pass, analytic
signal), which none of the compared trackers uses; playing it back at a speed 2^(c/1200) adds c cents exactly. Real
strings have no one pitch where their partials disagree (a body's resonance pulls one of them): the absolute pitch is
judged only where partials, stiffness taken out, agree within AGREE_CENTS.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
import soxr
from scipy import ndimage, signal

from benchmarks._notes import RATE_HZ, RawNote, Samples

UP = 4
TRUTH_STEP_SAMPLES = 44
TRUTH_STEP_S = TRUTH_STEP_SAMPLES / RATE_HZ
GAP_S = 0.25
FADE_S = 0.02
PARTIALS = 6
AGREE_CENTS = 0.3
CONDITIONS = ("clean", "noise", "hum", "drive", "click")


@dataclass(frozen=True)
class TrueNote:
    """One note of a phrase: kind target, bend or vibrato; curve: what was added, cents, every TRUTH_STEP_S."""

    kind: str
    onset_s: float
    end_s: float
    curve_cents: Samples
    hz: Samples
    hold_from_s: float = 0.0
    target_cents: float = 0.0
    edges_s: Samples = field(default_factory=lambda: np.empty(0))
    widths_cents: Samples = field(default_factory=lambda: np.empty(0))


@dataclass(frozen=True)
class Phrase:
    """Three notes from one: the fretted target, a bend to near it, a vibrato."""

    name: str
    samples: Samples
    notes: tuple[TrueNote, ...]
    one_pitch: bool

    def truth(self, time_s: Samples) -> Samples:
        """Hz at times; 0 between notes."""
        hz = np.zeros(len(time_s))
        for note in self.notes:
            inside = (time_s >= note.onset_s) & (time_s < note.end_s - 0.01)
            own = np.arange(len(note.hz)) * TRUTH_STEP_S
            hz[inside] = np.interp(time_s[inside] - note.onset_s, own, note.hz)
        return hz


@dataclass(frozen=True)
class OwnPitch:
    """A note's own pitch, Hz, every TRUTH_STEP_S; spread_cents: how far its partials disagree."""

    hz: Samples
    spread_cents: float


def own_pitch(raw: RawNote) -> OwnPitch | None:
    """None where nothing like the pitch it is called by is in the note."""
    n = len(raw.samples)
    spectrum = np.abs(np.fft.rfft(raw.samples * np.hanning(n)))
    hz = np.fft.rfftfreq(n, 1 / RATE_HZ)
    curves, powers, numbers, middles = [], [], [], []
    for k in range(1, PARTIALS + 1):
        near = np.abs(1200 * np.log2(np.maximum(hz, 1) / (k * raw.hz))) < 90 / np.sqrt(k)
        if k * raw.hz > 0.4 * RATE_HZ or spectrum[near].max(initial=0.0) < 0.03 * spectrum.max():
            continue
        at = float(hz[near][np.argmax(spectrum[near])])
        width = 0.35 * raw.hz
        sos = signal.butter(3, (at - width, at + width), "band", fs=RATE_HZ, output="sos")
        analytic = signal.hilbert(signal.sosfiltfilt(sos, raw.samples))
        step = TRUTH_STEP_SAMPLES
        inst = np.gradient(np.unwrap(np.angle(analytic))[::step]) / (2 * np.pi * step / RATE_HZ)
        smooth = ndimage.gaussian_filter1d(inst, 0.015 / TRUTH_STEP_S, mode="nearest")
        power = ndimage.gaussian_filter1d(np.abs(analytic[::step]) ** 2, 0.015 / TRUTH_STEP_S, mode="nearest")
        middle = float(np.median(smooth[60:250]))
        curves.append(1200 * np.log2(np.maximum(smooth, 1.0) / middle))
        powers.append(power * k * k)
        numbers.append(k)
        middles.append(1200 * np.log2(middle / (k * raw.hz)))
    if not curves:
        return None
    weight = np.array(powers)
    drift = (weight * np.array(curves)).sum(axis=0) / weight.sum(axis=0)
    k2 = np.array(numbers, dtype=float) ** 2
    root = np.sqrt(weight[:, 60:250].mean(axis=1))
    design = np.stack((np.ones_like(k2), k2), axis=1)[:, : 2 if len(k2) > 2 else 1]
    fit, *_ = np.linalg.lstsq(design * root[:, None], np.array(middles) * root, rcond=None)
    rest = np.array(middles) - design @ fit
    spread = float(np.sqrt((root**2 * rest**2).sum() / (root**2).sum())) if len(k2) > 2 else np.inf
    first = raw.hz * 2.0 ** (float(design[0] @ fit if numbers[0] == 1 else fit[0]) / 1200.0)
    return OwnPitch(first * 2.0 ** (drift / 1200.0), spread)


def along(raw: RawNote, own_hz: Samples, cents: Samples) -> tuple[Samples, Samples]:
    """The note along a curve (cents every TRUTH_STEP_S): samples and their true pitch."""
    count = round(len(cents) * TRUTH_STEP_S * RATE_HZ)
    time = np.arange(count) / RATE_HZ
    speed = 2.0 ** (np.interp(time, np.arange(len(cents)) * TRUTH_STEP_S, cents) / 1200.0)
    place = np.concatenate(([0.0], np.cumsum(speed)))[:-1]
    dense = soxr.resample(raw.samples, RATE_HZ, RATE_HZ * UP, quality="VHQ")
    sound = ndimage.map_coordinates(dense, [place * UP], order=3, mode="constant")
    step = TRUTH_STEP_SAMPLES
    at = place[::step] / RATE_HZ
    hz = np.interp(at, np.arange(len(own_hz)) * TRUTH_STEP_S, own_hz) * speed[::step]
    fade = round(FADE_S * RATE_HZ)
    sound[-fade:] *= np.linspace(1, 0, fade)
    return sound, hz


def bend_curve(seconds: float, target: float, rise_s: float, delay_s: float = 0.08) -> tuple[Samples, float]:
    """A raised-cosine rise; and from when it holds."""
    time = np.arange(round(seconds / TRUTH_STEP_S)) * TRUTH_STEP_S
    whole = rise_s / 0.59
    return target * (0.5 - 0.5 * np.cos(np.pi * np.clip((time - delay_s) / whole, 0, 1))), delay_s + whole


def vibrato_curve(
    seconds: float, rate: float, extent: float, cv: tuple[float, float], rng: np.random.Generator, straight_s: float
) -> tuple[Samples, Samples, Samples]:
    """Cycles from the bottom, each with its own length and width: cents, where cycles begin and end, their widths."""
    time = np.arange(round(seconds / TRUTH_STEP_S)) * TRUTH_STEP_S
    cents = np.zeros(len(time))
    edges, widths = [straight_s], []
    while True:
        length = max(0.6, 1 + cv[0] * rng.standard_normal()) / rate
        width = extent * max(0.2, 1 + cv[1] * rng.standard_normal())
        if edges[-1] + length > seconds - 0.08:
            break
        inside = (time >= edges[-1]) & (time < edges[-1] + length)
        cents[inside] = width * (0.5 - 0.5 * np.cos(2 * np.pi * (time[inside] - edges[-1]) / length))
        edges.append(edges[-1] + length)
        widths.append(width)
    return cents, np.array(edges), np.array(widths)


def phrase(raw: RawNote, rng: np.random.Generator) -> Phrase | None:
    """The three notes; None for a note that is too short or has no first partial to go by."""
    own = own_pitch(raw)
    if own is None:
        return None
    target = float(rng.choice((100.0, 200.0, 300.0)))
    off = float(rng.uniform(-30, 30))
    seconds = min(2.4, raw.seconds / 2.0 ** ((target + 40) / 1200.0) - 0.02)
    if seconds < 0.9:
        return None
    bend, hold = bend_curve(seconds, target + off, float(rng.uniform(0.08, 0.3)))
    rate = float(rng.choice((rng.uniform(4, 7.5), rng.uniform(1.5, 3.0)), p=(0.75, 0.25)))
    vibrato, edges, widths = vibrato_curve(
        seconds, rate, float(rng.uniform(20, 130)), (rng.uniform(0.02, 0.15), rng.uniform(0.03, 0.25)), rng, 0.25
    )
    curves = (
        ("target", np.full(round(min(1.0, seconds) / TRUTH_STEP_S), target)),
        ("bend", bend),
        ("vibrato", vibrato),
    )
    sounds, notes, at = [np.zeros(round(0.3 * RATE_HZ))], [], 0.3
    for kind, curve in curves:
        sound, hz = along(raw, own.hz, curve)
        length = len(sound) / RATE_HZ
        shape = (edges, widths) if kind == "vibrato" else (np.empty(0), np.empty(0))
        notes.append(TrueNote(kind, at, at + length, curve, hz, hold if kind == "bend" else 0.0, target, *shape))
        gap = np.zeros(round(GAP_S * RATE_HZ))
        sounds += [sound, gap]
        at += length + len(gap) / RATE_HZ
    whole = np.concatenate(sounds)
    return Phrase(raw.name, 0.5 * whole / np.max(np.abs(whole)), tuple(notes), own.spread_cents < AGREE_CENTS)


def under(sound: Samples, condition: str, *, seed: int = 3) -> Samples:
    """The phrase with what a room, a rig or a click adds."""
    rng = np.random.default_rng(seed)
    n = len(sound)
    time = np.arange(n) / RATE_HZ
    rms = np.sqrt(np.mean(sound[np.abs(sound) > 0.01] ** 2))
    if condition == "noise":
        white = np.fft.rfft(rng.standard_normal(n))
        pink = np.fft.irfft(white / np.sqrt(np.maximum(np.fft.rfftfreq(n, 1 / RATE_HZ), 20.0)), n)
        return sound + pink / np.std(pink) * rms * 10 ** (-40 / 20)
    if condition == "hum":
        hum = sum(np.sin(2 * np.pi * 50.0 * k * time + k) / k for k in range(1, 8))
        return sound + hum / np.std(hum) * 10 ** (-50 / 20)
    if condition == "drive":
        return 0.5 * np.tanh(sound / 0.5 * 10 ** (20 / 20))
    if condition == "click":
        click = np.zeros(n)
        one = np.sin(2 * np.pi * 1175 * np.arange(round(0.03 * RATE_HZ)) / RATE_HZ) * np.exp(
            -np.arange(round(0.03 * RATE_HZ)) / (0.008 * RATE_HZ)
        )
        for at in range(round(0.1 * RATE_HZ), n - len(one), round(0.5 * RATE_HZ)):
            click[at : at + len(one)] += one
        return sound + 0.5 * click * 10 ** (-25 / 20)
    return sound


def corpus(raws: Sequence[RawNote], *, seed: int = 11) -> list[Phrase]:
    """A phrase of every note that gives one."""
    rng = np.random.default_rng(seed)
    return [p for p in (phrase(raw, rng) for raw in raws) if p is not None]

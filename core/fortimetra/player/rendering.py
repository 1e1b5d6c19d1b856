"""Render a drill with faults: strings, bridge, colour, drive, noise; and the truth beside it."""

from __future__ import annotations

import numpy as np
from scipy import signal

from fortimetra.errors import DrillError
from fortimetra.model.drill import Drill
from fortimetra.player.faults import Faults, Truth
from fortimetra.player.performance import Played, perform, pitch_cents, time_of
from fortimetra.player.rig import automatic_gain, gate
from fortimetra.player.string import design_loop, loop_delay, pluck, run_loop
from fortimetra.sound.samples import Samples
from fortimetra.units import FloatArray, cents_to_ratio, midi_to_hz

RATE_HZ = 48_000
MAX_SECONDS = 1200.0
DAMP_S = 0.05
LANDING_S = 0.01
STILL_AFTER_S = 1.0  # 1200 dB
TOUCH_S = 0.008
TOUCHED_S = 0.005
# How the simulated student plays what is asked (common practice, no source).
THUD_DB = -9.0
SLIDE_SHARE = 0.1
SLUR_SHARE = 0.8
PALM_SHARE = 0.12  # of the decay of an open string
TAP_SHARE = 0.95
FINGERTIP_MS = 0.8


def render(drill: Drill, faults: Faults, *, rate_hz: int = RATE_HZ) -> tuple[Samples, Truth]:
    """Play a drill.

    Returns float32 samples, shape (n_samples,), and the truth. Deterministic for the same arguments.
    Raises DrillError for a fault that names no note of the drill, or a take that would be endless.
    """
    spb = drill.seconds_per_beat / faults.tempo_factor
    total_s = faults.lead_in_s + drill.repeats * drill.length_beats * spb + faults.tail_s
    _check(drill, faults, total_s)
    rng = np.random.default_rng(faults.seed)
    played, truth = perform(drill, faults, spb, rng)
    count = round(total_s * rate_hz)
    strings = len(drill.tuning)
    mix = np.zeros(count)
    for string in range(1, strings + 1):
        own = [p for p in played if p.asked.note.string == string]
        if own:
            mix += _string(own, count, rate_hz, faults)
    mix += _thuds(drill, faults, spb, count, rate_hz)
    for ring in faults.rings:
        mix += _ring(
            ring.string,
            ring.level_db,
            ring.length_s,
            time_of(ring.event, ring.repeat, played),
            drill,
            count,
            rate_hz,
            faults,
        )
    for scrape in faults.scrapes:
        at_s = time_of(scrape.event, scrape.repeat, played) + scrape.after_s
        mix += _scrape(scrape.level_db, scrape.length_s, at_s, count, rate_hz, rng)
    if faults.sympathetic_db > -100.0:
        used = {p.asked.note.string for p in played}
        mix += _sympathetic(mix, [s for s in range(1, strings + 1) if s not in used], drill, rate_hz, faults)
    sound = _coloured(mix, rate_hz, faults)
    sound = sound / max(1e-9, float(np.max(np.abs(sound)))) * 10.0 ** (faults.peak_dbfs / 20.0)
    sound = sound + _noise(count, rate_hz, faults, rng)
    sound = _through_rig(sound, rate_hz, faults)
    bpm = 60.0 / spb if drill.tempo else None
    return sound.astype(np.float32), Truth(
        sample_rate_hz=rate_hz, bpm=bpm, first_beat_s=faults.lead_in_s, notes=tuple(truth)
    )


def _check(drill: Drill, faults: Faults, total_s: float) -> None:
    known = {e.id for e in drill.events}
    for name in [
        *(key.split("@")[0] for key in faults.notes),
        *(r.event for r in faults.rings),
        *(s.event for s in faults.scrapes),
    ]:
        if name not in known:
            raise DrillError("faults_invalid", f"notes.{name}: the drill has no event {name}")
    if total_s > MAX_SECONDS:
        raise DrillError(
            "faults_invalid", f"the take would last {total_s:.0f} s; at most {MAX_SECONDS:.0f} s are rendered"
        )


def _through_rig(sound: FloatArray, rate: int, faults: Faults) -> FloatArray:
    """What the recording chain does, where it does anything."""
    if faults.automatic_gain_db_per_s is not None:
        sound = automatic_gain(sound, rate_hz=rate, release_db_per_s=faults.automatic_gain_db_per_s)
    if faults.gate_dbfs is not None:
        sound = gate(sound, rate_hz=rate, threshold_dbfs=faults.gate_dbfs)
    return np.clip(sound + faults.dc_fraction, -1.0, 1.0)


def _decay_s(faults: Faults, hz: float) -> float:
    """Shorter for higher pitches (common practice, no source)."""
    return faults.decay_s * (82.4 / hz) ** 0.55


def _string(notes: list[Played], count: int, rate: int, faults: Faults) -> FloatArray:
    excitation, delay, gain, allpass = (np.zeros(count) for _ in range(4))
    for i, note in enumerate(notes):
        start = round(note.onset_s * rate)
        stop = min(count, round(notes[i + 1].onset_s * rate) if i + 1 < len(notes) else count)
        if start >= stop:
            continue
        end = min(stop, max(start, round(note.end_s * rate)))
        # Then the string is still, and nothing is asked of its loop.
        stop = min(stop, end + round(STILL_AFTER_S * rate))
        fret = note.asked.note.fret or 0
        # B grows with the square of the shortening of the string.
        loop = design_loop(
            note.hz,
            rate_hz=rate,
            stiffness=faults.stiffness * 4.0 ** (fret / 12.0),
            decay_s=_decay_s(faults, note.hz) * (PALM_SHARE if note.asked.event.articulation == "palm_mute" else 1.0),
        )
        step = 16
        knots = np.arange(start, stop + step, step)
        # A loop sounds what its length was half a period ago.
        time = knots / rate - note.onset_s + 0.5 / note.hz
        length = loop_delay(note.hz * 2.0 ** (pitch_cents(note, time, faults) / 1200.0), rate_hz=rate, loop=loop)
        moves = length.min() < length.max()
        delay[start:stop] = np.interp(np.arange(start, stop), knots, length) if moves else length[0]
        allpass[start:stop] = loop.allpass
        gain[start:end] = loop.gain
        _damp(gain[end:stop], loop.gain, note.hz, rate)
        wave = _stroke(note, rate, faults)
        part = wave[: count - start]
        excitation[start : start + len(part)] += part
        if note.fault.double_ms is not None:
            again = start + round(note.fault.double_ms / 1000.0 * rate)
            second = wave[: max(0, count - again)]
            excitation[again : again + len(second)] += second
            _touch(gain, again, note.hz, rate)
        if note.asked.event.articulation != "slide":
            # What strikes a string lies on it first: what sounded there is gone.
            _touch(gain, start, note.hz, rate)
    return np.asarray(run_loop(excitation, delay, gain, allpass, np.zeros(count)))


def _touch(gain: FloatArray, start: int, hz: float, rate: int) -> None:
    """Lay a pick or a finger on the string, in place, for as long as it takes before it leaves it again."""
    touch = slice(max(0, start - round(TOUCH_S * rate)), start)
    firm = np.linspace(0.0, 1.0, touch.stop - touch.start) ** 2
    gain[touch] = gain[touch] * 10.0 ** (-3.0 / (hz * TOUCHED_S) * firm)


def _damp(gain: FloatArray, loop_gain: float, hz: float, rate: int) -> None:
    """The loop's gain from where a finger lands on its string, in place: it takes LANDING_S to lie down."""
    landing = round(LANDING_S * rate) + 1
    lies = np.clip(np.arange(min(len(gain), landing)) / (LANDING_S * rate), 0.0, 1.0)
    gain[: len(lies)] = loop_gain * (10.0 ** (-3.0 / DAMP_S * lies)) ** (1.0 / hz)
    gain[landing:] = loop_gain * (10.0 ** np.array([-3.0 / DAMP_S])) ** (1.0 / hz)


def _stroke(note: Played, rate: int, faults: Faults) -> FloatArray:
    """What sets the string moving: a pick; a fingertip, softer; a slide, nothing but what the fret wires do."""
    share = 10.0 ** (note.level_db / 20.0)
    if not note.slurred and note.asked.event.articulation != "tap":
        return pluck(note.hz, rate_hz=rate, position=faults.pick_position) * share
    if note.asked.event.articulation == "slide":
        share *= SLIDE_SHARE
    elif note.slurred:
        share *= SLUR_SHARE
    else:
        share *= TAP_SHARE
    return pluck(note.hz, rate_hz=rate, position=0.45, softness_ms=FINGERTIP_MS) * share


def _thuds(drill: Drill, faults: Faults, spb: float, count: int, rate: int) -> FloatArray:
    """Strings that are struck and must not sound: what a laid finger leaves of a stroke."""
    mix = np.zeros(count)
    for asked in drill.asked():
        if asked.note.muted and not faults.of(asked.event.id, asked.repeat).missed:
            hz = midi_to_hz(asked.midi, a4_hz=drill.a4_hz)
            wave = pluck(hz, rate_hz=rate, position=faults.pick_position) * 10.0 ** (THUD_DB / 20.0)
            wave = np.concatenate([wave, 0.4 * wave, 0.15 * wave])
            start = round((faults.lead_in_s + drill.played_beat(asked.beat) * spb) * rate)
            part = wave[: max(0, count - start)]
            mix[start : start + len(part)] += part
    return mix


def _open_string(string: int, drill: Drill, faults: Faults, rate: int) -> tuple[float, float, float, float]:
    """Pitch, delay, loop gain and allpass of an open string."""
    offset = faults.tuning_offset_cents[string - 1] if string <= len(faults.tuning_offset_cents) else 0.0
    hz = midi_to_hz(drill.open_midi(string), a4_hz=drill.a4_hz) * cents_to_ratio(offset)
    loop = design_loop(hz, rate_hz=rate, stiffness=faults.stiffness, decay_s=_decay_s(faults, hz))
    return hz, float(loop_delay(np.array([hz]), rate_hz=rate, loop=loop)[0]), loop.gain, loop.allpass


def _ring(
    string: int, level_db: float, length_s: float, at_s: float, drill: Drill, count: int, rate: int, faults: Faults
) -> FloatArray:
    hz, delay, gain, allpass = _open_string(string, drill, faults, rate)
    excitation = np.zeros(count)
    start = round(at_s * rate)
    part = (pluck(hz, rate_hz=rate, position=faults.pick_position) * 10.0 ** (level_db / 20.0))[: count - start]
    excitation[start : start + len(part)] = part
    gains = np.full(count, gain)
    _damp(gains[min(count, start + round(length_s * rate)) :], gain, hz, rate)
    return np.asarray(run_loop(excitation, np.full(count, delay), gains, np.full(count, allpass), np.zeros(count)))


def _scrape(
    level_db: float, length_s: float, at_s: float, count: int, rate: int, rng: np.random.Generator
) -> FloatArray:
    """A burst of noise between 1 and 6 kHz, as loud in its middle as a plain note less level_db."""
    noise = signal.sosfilt(
        signal.butter(2, (1000.0, 6000.0), "band", fs=rate, output="sos"), rng.standard_normal(round(length_s * rate))
    )
    burst = noise / float(np.std(noise)) * np.hanning(len(noise)) * 10.0 ** (level_db / 20.0)
    sound = np.zeros(count)
    start = round(at_s * rate)
    part = burst[: max(0, count - start)]
    sound[start : start + len(part)] = part
    return sound


def _sympathetic(mix: FloatArray, strings: list[int], drill: Drill, rate: int, faults: Faults) -> FloatArray:
    """Open strings nobody touches, driven through the bridge."""
    total, nothing = np.zeros_like(mix), np.zeros_like(mix)
    delays, gains, allpasses = (np.empty_like(mix) for _ in range(3))
    driven = mix * (10.0 ** (faults.sympathetic_db / 20.0) * 0.1)
    for string in strings:
        _hz, delay, gain, allpass = _open_string(string, drill, faults, rate)
        delays.fill(delay)
        gains.fill(gain)
        allpasses.fill(allpass)
        total += run_loop(nothing, delays, gains, allpasses, driven)
    return total


def _coloured(mix: FloatArray, rate: int, faults: Faults) -> FloatArray:
    sound = mix / max(1e-9, float(np.max(np.abs(mix))))
    if faults.drive_db > 0:
        sound = np.tanh(sound * 10.0 ** (faults.drive_db / 20.0))
    if faults.colour == "none":
        return np.asarray(sound)
    low, high = (70.0, 5000.0) if faults.colour == "cabinet" else (60.0, 9000.0)
    sections = [
        signal.butter(2, low, "high", fs=rate, output="sos"),
        signal.butter(2, high, "low", fs=rate, output="sos"),
    ]
    resonances = (
        ((110.0, 4.0), (2500.0, 2.0)) if faults.colour == "cabinet" else ((105.0, 8.0), (200.0, 6.0), (400.0, 5.0))
    )
    out = signal.sosfilt(np.concatenate(sections), sound)
    for hz, q in resonances:
        b, a = signal.iirpeak(hz, q, fs=rate)
        out = out + 0.5 * signal.lfilter(b, a, out)
    return np.asarray(out)


def _noise(count: int, rate: int, faults: Faults, rng: np.random.Generator) -> FloatArray:
    """Pinkish floor at a stated RMS, and hum with harmonics."""
    white = rng.standard_normal(count)
    # Three poles that slope white noise by about 3 dB an octave (common practice, no source).
    pink = signal.lfilter([0.049922, -0.095993, 0.050612, -0.004408], [1.0, -2.494956, 2.017265, -0.522189], white)
    pink *= 10.0 ** (faults.floor_dbfs / 20.0) / max(1e-12, float(np.std(pink)))
    if faults.hum_hz is not None:
        time = np.arange(count) / rate
        hum = sum(np.sin(2.0 * np.pi * faults.hum_hz * k * time + k) / k for k in (1, 2, 3, 4, 5))
        pink += hum / float(np.std(hum)) * 10.0 ** (faults.hum_dbfs / 20.0)
    return np.asarray(pink)

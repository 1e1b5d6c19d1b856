"""Render a drill with faults: strings, bridge, colour, drive, noise; and the truth beside it."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from scipy import signal

from fortimetra.errors import DrillError
from fortimetra.model.drill import AskedNote, Drill
from fortimetra.player.faults import Faults, NoteFault, TrueNote, Truth
from fortimetra.player.rig import automatic_gain, gate
from fortimetra.player.string import design_loop, loop_delay, pluck, run_loop
from fortimetra.player.vibrato import Vibrato, vibrato_of
from fortimetra.sound.decode import Samples
from fortimetra.units import FloatArray, cents_to_ratio, hz_to_cents, midi_to_hz

RATE_HZ = 48_000
MAX_SECONDS = 1200.0
DAMP_S = 0.05
LANDING_S = 0.01
TOUCH_S = 0.008
TOUCHED_S = 0.005
BEND_DELAY_S = 0.05
SETTLE_S = 0.06
WOBBLE_HZ = 5.0
# A slurred note follows within this, or the note before it had ended. A slide takes this long.
LONGEST_JOIN_S = 0.15
SLIDE_S = 0.06
LET_RING_S = 2.0
# How the simulated student plays what is asked (common practice, no source).
ACCENT_DB = 5.0
THUD_DB = -9.0
SLIDE_SHARE = 0.1
STEP_SHARE = 0.6  # of the time from fret to fret the pitch moves
SLUR_SHARE = 0.8
PALM_SHARE = 0.12  # of the decay of an open string
TAP_SHARE = 0.95
FINGERTIP_MS = 0.8
# A raised cosine spends this share of its length between 10 % and 90 %.
_RISE_SHARE = float((np.arccos(-0.8) - np.arccos(0.8)) / np.pi)


@dataclass(frozen=True)
class _Played:
    """One note as it will be played."""

    asked: AskedNote
    fault: NoteFault
    onset_s: float
    end_s: float
    hz: float
    cents_off: float
    level_db: float
    late_ms: float
    wobble: Vibrato | None = None
    slid_from_cents: float = 0.0  # the pitch a slide comes from, above the note's own
    slides_s: float = 0.0  # how long that takes, after its onset; 0: SLIDE_S
    leaves_cents: float = 0.0  # where a slide takes it before it ends
    leaves_s: float = 0.0  # how long before its end that begins

    @property
    def slurred(self) -> bool:
        """Sounds on from the note before on its string."""
        return self.asked.event.articulation in {"hammer", "pull", "slide"}


def render(drill: Drill, faults: Faults, *, rate_hz: int = RATE_HZ) -> tuple[Samples, Truth]:
    """Play a drill.

    Returns float32 samples, shape (n_samples,), and the truth. Deterministic for the same arguments.
    Raises DrillError for a fault that names no note of the drill, or a take that would be endless.
    """
    spb = drill.seconds_per_beat / faults.tempo_factor
    total_s = faults.lead_in_s + drill.repeats * drill.length_beats * spb + faults.tail_s
    _check(drill, faults, total_s)
    rng = np.random.default_rng(faults.seed)
    played, truth = _perform(drill, faults, spb, rng)
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
            _time_of(ring.event, ring.repeat, played),
            drill,
            count,
            rate_hz,
            faults,
        )
    for scrape in faults.scrapes:
        at_s = _time_of(scrape.event, scrape.repeat, played) + scrape.after_s
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


def _perform(
    drill: Drill, faults: Faults, spb: float, rng: np.random.Generator
) -> tuple[list[_Played], list[TrueNote]]:
    played: list[_Played] = []
    truth: list[TrueNote] = []
    for asked in drill.asked():
        fault = faults.of(asked.event.id, asked.repeat)
        cents, ms, db = rng.normal(0.0, 1.0, 3) * (faults.random_cents, faults.random_ms, faults.random_db)
        if fault.missed or asked.note.muted or asked.note.fret is None:
            truth.append(_true(asked, None, drill))
            continue
        late_ms = fault.late_ms + float(ms)
        onset = max(0.05, faults.lead_in_s + drill.played_beat(asked.beat) * spb + late_ms / 1000.0)
        slot_s = (drill.played_beat(asked.beat + asked.event.length) - drill.played_beat(asked.beat)) * spb
        offset = (
            faults.tuning_offset_cents[asked.note.string - 1]
            if asked.note.string <= len(faults.tuning_offset_cents)
            else 0.0
        )
        cents_off = fault.cents + float(cents)
        # What is off in a bend is the bend, not the string beside it.
        plain = 0.0 if asked.event.bend else cents_off
        hz = midi_to_hz(asked.midi + fault.wrong_frets, a4_hz=drill.a4_hz) * cents_to_ratio(offset + plain)
        note = _Played(
            asked,
            fault,
            onset,
            onset + fault.length * slot_s,
            hz,
            cents_off,
            fault.level_db + float(db) + (ACCENT_DB if asked.event.accent else 0.0),
            late_ms,
            vibrato_of(asked, fault, slot_s, rng, seconds_per_beat=spb),
        )
        slide = asked.event.slide
        if slide is not None and slide.from_fret is not None:
            # Of a shape every string comes from as far away as the first.
            away = 100.0 * (slide.from_fret - (asked.event.notes[0].fret or 0))
            note = replace(note, slid_from_cents=away, slides_s=(slide.length or 0.0) * spb)
        played.append(note)
        truth.append(_true(asked, note, drill))
    return _joined(played, len(drill.tuning), spb), truth


def _joined(played: list[_Played], strings: int, spb: float) -> list[_Played]:
    """Notes that ring on: until a slur takes them over, or the next note on their string where that is asked for."""
    joined: list[_Played] = []
    for string in range(1, strings + 1):
        own = [p for p in played if p.asked.note.string == string]
        before: _Played | None = None
        for note, after in zip(own, [*own[1:], None], strict=False):
            note = _into_next(note, after, spb)
            if note.asked.event.articulation == "slide" and before is not None and not before.leaves_s:
                note = replace(note, slid_from_cents=hz_to_cents(before.hz, reference_hz=note.hz))
            joined.append(note)
            before = note
    return joined


def _into_next(note: _Played, after: _Played | None, spb: float) -> _Played:
    """A note with how it goes on into the next one on its string."""
    if after is not None and after.slurred and after.onset_s - note.end_s < LONGEST_JOIN_S:
        note = replace(note, end_s=after.onset_s)
        slide = after.asked.event.slide
        if slide is not None and slide.length is not None:
            # It travels before the beat and has arrived on it.
            away = hz_to_cents(after.hz, reference_hz=note.hz)
            note = replace(note, leaves_cents=away, leaves_s=slide.length * spb)
    elif note.asked.event.let_ring:
        note = replace(note, end_s=after.onset_s if after is not None else note.end_s + LET_RING_S)
    return note


def _true(asked: AskedNote, note: _Played | None, drill: Drill) -> TrueNote:
    bend = asked.bend
    return TrueNote(
        id=asked.event.id,
        repeat=asked.repeat,
        string=asked.note.string,
        fret=asked.note.fret,
        missed=note is None,
        onset_s=None if note is None else note.onset_s,
        end_s=None if note is None else note.end_s,
        hz=None if note is None else note.hz,
        cents_from_temperament=None if note is None else hz_to_cents(note.hz, reference_hz=drill.hz(asked.note)),
        reached_cents=None if note is None or bend is None else bend.middle_cents + note.cents_off,
        rise_ms=None if note is None or bend is None else note.fault.rise_ms,
        drift_cents_per_s=None if note is None or bend is None else note.fault.hold_drift_cents_per_s,
        late_ms=None if note is None else note.late_ms,
        level_db=None if note is None else note.level_db,
    )


def _time_of(event: str, repeat: int, played: list[_Played]) -> float:
    return next(
        (p.onset_s for p in played if p.asked.event.id == event and p.asked.repeat == repeat),
        played[0].onset_s if played else 0.5,
    )


def _cents(note: _Played, time: FloatArray, faults: Faults) -> FloatArray:
    """Pitch above the fretted pitch at times after the onset: settling, and the bend."""
    cents = faults.attack_sharp_cents * np.exp(-np.maximum(time, 0.0) / SETTLE_S)
    if note.slurred:
        cents = np.zeros_like(time)  # nothing plucks the string sharp
    tube = note.asked.note.finger == "slide"
    if note.slid_from_cents:
        arrived = np.clip(time / (note.slides_s or SLIDE_S), 0.0, 1.0)
        cents = cents + note.slid_from_cents * (1.0 - _slid(arrived, note.slid_from_cents, smooth=tube))
    if note.leaves_s:
        gone = np.clip((time - (note.end_s - note.onset_s)) / note.leaves_s + 1.0, 0.0, 1.0)
        cents = cents + note.leaves_cents * _slid(gone, note.leaves_cents, smooth=tube)
    if note.wobble is not None:
        cents = cents + note.wobble.cents(time)
    bend = note.asked.bend
    if bend is None:
        return cents
    target = bend.middle_cents + note.cents_off
    whole = note.fault.rise_ms / 1000.0 / _RISE_SHARE
    at_once = bend.kind in {"prebend", "release"} or note.asked.event.articulation == "repluck"
    way = (
        np.ones_like(time) if at_once else 0.5 - 0.5 * np.cos(np.pi * np.clip((time - BEND_DELAY_S) / whole, 0.0, 1.0))
    )
    if bend.kind in {"prebend", "release"} and note.asked.event.articulation != "repluck":
        let_down = 0.5 * (note.end_s - note.onset_s)
        way = 0.5 + 0.5 * np.cos(np.pi * np.clip((time - let_down) / whole, 0.0, 1.0))
        return cents + way * target
    top = BEND_DELAY_S + whole
    held = np.maximum(0.0, time - top)
    length = max(0.1, note.end_s - note.onset_s - top)
    # Drift is about the middle of the hold, so that the truth is its median.
    drift = note.fault.hold_drift_cents_per_s * np.where(
        time > top, np.minimum(held, length) - length / 2.0, -length / 2.0 * way
    )
    over = note.fault.overshoot_cents * np.where(
        time < top, 0.5 - 0.5 * np.cos(np.pi * np.clip((time - BEND_DELAY_S) / whole, 0.0, 1.0)), np.exp(-held / 0.04)
    )
    wobble = note.fault.wobble_cents * np.sin(2.0 * np.pi * WOBBLE_HZ * held) * (time > top)
    return cents + way * target + drift + over + wobble


def _slid(way: FloatArray, cents: float, *, smooth: bool) -> FloatArray:
    """How far a slide has come at shares of its time: a tube glides, a finger steps from fret to fret, the last on
    time.
    """
    if smooth:
        return np.asarray(0.5 - 0.5 * np.cos(np.pi * way))
    steps = max(1, round(abs(cents) / 100.0))
    inside = way * steps - np.floor(way * steps)
    return np.asarray((np.floor(way * steps) + np.clip((inside - 1.0 + STEP_SHARE) / STEP_SHARE, 0.0, 1.0)) / steps)


def _decay_s(faults: Faults, hz: float) -> float:
    """Shorter for higher pitches (common practice, no source)."""
    return faults.decay_s * (82.4 / hz) ** 0.55


def _string(notes: list[_Played], count: int, rate: int, faults: Faults) -> FloatArray:
    excitation = np.zeros(count)
    delay = np.full(count, 400.0)
    gain = np.full(count, 0.0)
    allpass = np.zeros(count)
    for i, note in enumerate(notes):
        start = round(note.onset_s * rate)
        stop = min(count, round(notes[i + 1].onset_s * rate) if i + 1 < len(notes) else count)
        if start >= stop:
            continue
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
        length = loop_delay(note.hz * 2.0 ** (_cents(note, time, faults) / 1200.0), rate_hz=rate, loop=loop)
        delay[start:stop] = np.interp(np.arange(start, stop), knots, length)
        allpass[start:stop] = loop.allpass
        end = min(stop, max(start, round(note.end_s * rate)))
        gain[start:end] = loop.gain
        gain[end:stop] = loop.gain * _damping(stop - end, rate) ** (1.0 / note.hz)
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


def _damping(count: int, rate: int) -> FloatArray:
    """What a finger that lands on a string leaves of it in a second, sample by sample: it takes LANDING_S to lie
    down.
    """
    lies = np.clip(np.arange(count) / (LANDING_S * rate), 0.0, 1.0)
    return np.asarray(10.0 ** (-3.0 / DAMP_S * lies))


def _stroke(note: _Played, rate: int, faults: Faults) -> FloatArray:
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
    stopped = min(count, start + round(length_s * rate))
    gains[stopped:] = gain * _damping(count - stopped, rate) ** (1.0 / hz)
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
    total = np.zeros_like(mix)
    nothing = np.zeros_like(mix)
    for string in strings:
        _hz, delay, gain, allpass = _open_string(string, drill, faults, rate)
        driven = mix * (10.0 ** (faults.sympathetic_db / 20.0) * 0.1)
        total += run_loop(
            nothing, np.full(len(mix), delay), np.full(len(mix), gain), np.full(len(mix), allpass), driven
        )
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

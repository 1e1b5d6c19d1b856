"""How a drill is played by the simulated student: each note's time, pitch and volume with its faults, and the truth."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from fortimetra.model.drill import AskedNote, Drill
from fortimetra.player.faults import Faults, NoteFault, TrueNote
from fortimetra.player.vibrato import Vibrato, vibrato_of
from fortimetra.units import FloatArray, cents_to_ratio, hz_to_cents, midi_to_hz

BEND_DELAY_S = 0.05
SETTLE_S = 0.06
WOBBLE_HZ = 5.0
# A slurred note follows within this, or the note before it had ended. A slide takes this long.
LONGEST_JOIN_S = 0.15
SLIDE_S = 0.06
LET_RING_S = 2.0
ACCENT_DB = 5.0  # common practice, no source
STEP_SHARE = 0.1  # of the time from fret to fret the pitch moves: as the finger passes the wire
# A raised cosine spends this share of its length between 10 % and 90 %.
_RISE_SHARE = float((np.arccos(-0.8) - np.arccos(0.8)) / np.pi)


@dataclass(frozen=True)
class Played:
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


def perform(drill: Drill, faults: Faults, spb: float, rng: np.random.Generator) -> tuple[list[Played], list[TrueNote]]:
    """Every note that will sound, and the truth of every note that is asked, in the drill's order. spb: seconds per
    beat.
    """
    played: list[Played] = []
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
        note = Played(
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


def _joined(played: list[Played], strings: int, spb: float) -> list[Played]:
    """Notes that ring on: until a slur takes them over, or the next note on their string where that is asked for."""
    joined: list[Played] = []
    for string in range(1, strings + 1):
        own = [p for p in played if p.asked.note.string == string]
        before: Played | None = None
        for note, after in zip(own, [*own[1:], None], strict=False):
            note = _into_next(note, after, spb)
            if note.asked.event.articulation == "slide" and before is not None and not before.leaves_s:
                note = replace(note, slid_from_cents=hz_to_cents(before.hz, reference_hz=note.hz))
            joined.append(note)
            before = note
    return joined


def _into_next(note: Played, after: Played | None, spb: float) -> Played:
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


def _true(asked: AskedNote, note: Played | None, drill: Drill) -> TrueNote:
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


def time_of(event: str, repeat: int, played: list[Played]) -> float:
    """When an event is played, s; where it is not, when the first is."""
    return next(
        (p.onset_s for p in played if p.asked.event.id == event and p.asked.repeat == repeat),
        played[0].onset_s if played else 0.5,
    )


def pitch_cents(note: Played, time: FloatArray, faults: Faults) -> FloatArray:
    """Pitch above the fretted pitch, cents, at times after the onset, s, shape (n,): settling, and the bend."""
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

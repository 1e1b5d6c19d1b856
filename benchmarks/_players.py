"""Whole drills played by hands that are known: clean ones, faulty ones, and messy ones, as notes with their truth.

Clean is human: onsets scatter by 8 ms, volume by 1 dB, bends by 3 cents; onsets and bends stay within 0.7 of what is
allowed. A faulty player makes stated mistakes in about one note of eight. A messy one plays cleanly but breaks off and
begins again, pauses, leaves a note out, plays a wrong one, coughs, knocks, speaks before the start, and has a guitar 18
cents flat.
Nothing of it is the simulated student's.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np
from fortimetra.model.drill import AskedNote, Drill, Event
from fortimetra.model.hand import VibratoAsked
from fortimetra.model.tolerance import onset_limit_ms
from fortimetra.units import cents_to_ratio, midi_to_hz

Player = Literal["clean", "faulty", "messy"]
PLAYERS: tuple[Player, ...] = ("clean", "faulty", "messy")
START_S, TAIL_S = 1.5, 1.0
HAND_MS, HAND_DB, HAND_CENTS = 8.0, 1.0, 3.0
RISE_S, SHIFT_S = 0.15, 0.1
SOUNDS_SHARE = 0.97
CLEAN_SHARE = 0.7
FAULTY_SHARE = 0.12
RING_DB = -14.0
PAUSE_S = 1.5
FLAT_CENTS = -18.0

Course = list[tuple[float, float]]
NoteKey = tuple[str, int, int]  # event, repeat, string


@dataclass
class Sounding:
    """One stroke and everything that sounds on from it: breakpoints (s after its onset, cents)."""

    key: int
    onset_s: float
    end_s: float
    velocity: int
    channel: int
    bend: Course = field(default_factory=list)
    muted: bool = False


@dataclass(frozen=True)
class Also:
    """Something that sounds with an event and should not: from so long after its onset, for so many seconds."""

    string: int
    fret: int
    after_s: float
    seconds: float
    level_db: float


@dataclass(frozen=True)
class Step:
    """One event as it is played. counts: False of an attempt that was broken off; shape: what becomes of its course of
    pitch, of so many seconds; by_string: (dB, cents) of single strings, None of one that is not struck; also: what else
    sounds.
    """

    event: Event
    repeat: int
    at_s: float
    seconds: float
    counts: bool = True
    late_ms: float = 0.0
    level_db: float = 0.0
    cents: float = 0.0
    frets_off: int = 0
    held: float = 1.0
    ring: int | None = None
    fault: str | None = None
    left_out: bool = False
    shape: Callable[[Course, float], Course] | None = None
    by_string: Mapping[int, tuple[float, float] | None] = field(default_factory=dict)
    also: tuple[Also, ...] = ()


@dataclass(frozen=True)
class Truth:
    """How an asked note was played, of the attempt that counts. key: MIDI; bent_cents: over its fret, None of a plain
    note; rate_hz, extent_cents: of its vibrato, None without, or where its rate changes.
    """

    key: int
    onset_s: float
    velocity: int
    seconds: float
    bent_cents: float | None = None
    rate_hz: float | None = None
    extent_cents: float | None = None


@dataclass
class Performance:
    """What was played. onsets_s: when each asked note was played, of every attempt; faults: what is wrong with which
    note; truths: how it was played.
    """

    soundings: list[Sounding]
    onsets_s: dict[NoteKey, list[float]]
    faults: dict[NoteKey, str]
    cents: float = 0.0
    begins_again: int = 0
    truths: dict[NoteKey, Truth] = field(default_factory=dict)

    @property
    def seconds(self) -> float:
        """To the end of the last note, and a little more."""
        return max(s.end_s for s in self.soundings) + TAIL_S


def play(drill: Drill, player: Player, rng: np.random.Generator) -> Performance:
    """A performance of a drill."""
    steps = clean_steps(drill)
    again = 0
    if player == "faulty":
        steps = _with_faults(drill, steps, rng)
    elif player == "messy":
        steps, again = _with_mess(drill, steps, rng)
    made = _sounded(drill, steps, rng)
    made.begins_again = again
    # Under a slide a flat guitar is a flat slide: the hand sets the pitch.
    tube = any(n.finger == "slide" for e in drill.events for n in e.notes)
    made.cents = FLAT_CENTS if player == "messy" and not tube else 0.0
    return made


def play_steps(drill: Drill, steps: list[Step], rng: np.random.Generator) -> Performance:
    """A performance of events as they are played."""
    return _sounded(drill, steps, rng)


def moves(drill: Drill) -> bool:
    """Whether a pitch has to move while it sounds."""
    return any(e.bend or e.vibrato or e.slide for e in drill.events)


def clean_steps(drill: Drill) -> list[Step]:
    """Every event of every repeat as it is asked for."""
    spb = drill.seconds_per_beat
    found = []
    for repeat in range(drill.repeats):
        for event in drill.events:
            beat = repeat * drill.length_beats + event.beat
            at, end = drill.played_beat(beat), drill.played_beat(beat + event.length)
            found.append(Step(event, repeat, START_S + at * spb, (end - at) * spb))
    return found


# -- faults ------------------------------------------------------------------------------------------------


def _possible(drill: Drill, step: Step) -> list[str]:
    """What can be wrong with an event, of what the drill is judged for."""
    event, measures = step.event, set(drill.measures)
    if not any(not n.muted for n in event.notes):
        return []
    kinds = []
    if "bend" in measures and event.bend is not None and event.bend.kind in {"bend", "prebend", "release"}:
        kinds.append("bend")
    if "timing" in measures and drill.tempo is not None and event.articulation != "slide":
        kinds.append("timing")
    if "level" in measures and len(event.notes) == 1 and event.articulation in {"pick", "hammer", "pull"}:
        kinds.append("level")
    if "length" in measures and step.seconds > 0.4 and event.bend is None:
        kinds.append("length")
    if "noise" in measures and event.articulation not in {"slide"} and step.seconds > 0.25:
        kinds.append("noise")
    return kinds


def _with_faults(drill: Drill, steps: list[Step], rng: np.random.Generator) -> list[Step]:
    count = len(drill.tuning)
    found = []
    for step in steps:
        kinds = _possible(drill, step)
        if not kinds or rng.random() > FAULTY_SHARE:
            found.append(step)
            continue
        kind = str(rng.choice(kinds))
        sign = float(rng.choice([-1.0, 1.0]))
        if kind == "bend":
            limit = drill.limits()["bend_error_cents"]
            step = replace(step, cents=sign * float(rng.uniform(limit + 15.0, limit + 35.0)), fault=kind)
        elif kind == "timing":
            limit = onset_limit_ms(drill.profile, step.seconds, drill.tolerances.onset_ms)
            away = min(float(rng.uniform(2.0, 3.0)) * limit, 400.0 * step.seconds)
            step = replace(step, late_ms=away if sign > 0 or step.repeat + step.event.beat == 0 else -away, fault=kind)
        elif kind == "level":
            step = replace(step, level_db=-float(rng.uniform(8.0, 11.0)), fault=kind)
        elif kind == "length":
            step = replace(step, held=0.45, fault=kind)
        else:
            used = {n.string for n in step.event.notes}
            # An open string of the very pitch that is played cannot be told from it.
            sounding = {round(drill.midi(n)) for n in step.event.notes if n.fret is not None and not n.muted}
            free = [s for s in range(1, count + 1) if s not in used and round(drill.open_midi(s)) not in sounding]
            step = replace(step, ring=int(rng.choice(free)), fault=kind) if free else step
        found.append(step)
    return found


# -- mess --------------------------------------------------------------------------------------------------


def _with_mess(drill: Drill, steps: list[Step], rng: np.random.Generator) -> tuple[list[Step], int]:
    """One restart, one pause, one note left out, one wrong note; later notes keep to the beat."""
    spb = drill.seconds_per_beat
    playable = [i for i, s in enumerate(steps) if any(not n.muted for n in s.event.notes)]
    if len(playable) < 8:
        return steps, 0

    def whole_beats(seconds: float) -> float:
        return float(np.ceil(seconds / spb)) * spb

    found = list(steps)
    plain = [i for i in playable if found[i].event.bend is None and found[i].event.articulation in {"pick", "hammer"}]
    if len(plain) > 4:
        out, wrong = (int(i) for i in rng.choice(plain[1:], 2, replace=False))
        # A slur from a note that was left out would be another fault.
        after = found[out + 1].event.articulation if out + 1 < len(found) else "pick"
        if after in {"pick", "none", "strum"}:
            found[out] = replace(found[out], left_out=True, fault="missed")
        if wrong != out:
            found[wrong] = replace(found[wrong], frets_off=int(rng.choice([1, 2])), fault="wrong")
    pause_at = int(rng.choice(playable[2:]))
    wait = whole_beats(PAUSE_S)
    found = [replace(s, at_s=s.at_s + wait) if i >= pause_at else s for i, s in enumerate(found)]
    broken = int(rng.choice(playable[3:-1]))
    repeat = found[broken].repeat
    if broken + 1 == len(found) or found[broken + 1].repeat != repeat:
        broken -= 1  # who has played a repeat to its end does not begin it again
    first = next(i for i, s in enumerate(found) if s.repeat == repeat)
    if drill.tempo is not None and rng.random() < 0.5:
        bar = drill.tempo.beats_per_bar
        bar_begins = bar * np.floor(found[broken].event.beat / bar)
        first = next(i for i, s in enumerate(found) if s.repeat == repeat and s.event.beat >= bar_begins)
    tried = [replace(s, counts=False) for s in found[first : broken + 1]]
    wait = whole_beats(found[broken].at_s + float(rng.uniform(0.9, 1.6)) - found[first].at_s)
    later = [replace(s, at_s=s.at_s + wait) for s in found[first:]]
    return [*found[:first], *tried, *later], 1


# -- sound -------------------------------------------------------------------------------------------------


def _bend(asked: AskedNote, seconds: float, cents: float) -> Course:
    bend = asked.bend
    if bend is None:
        return [(0.0, 0.0)]
    top = bend.middle_cents + cents
    if asked.event.articulation == "repluck":
        return [(0.0, top)]
    if bend.kind in {"prebend", "release"}:
        return [(0.0, top), (0.45 * seconds, top), (0.45 * seconds + RISE_S, 0.0)]
    return [(0.0, 0.0), (0.05, 0.0), (0.05 + RISE_S, top)]


def _bend_limit_cents(drill: Drill, asked: AskedNote) -> float:
    """What a bend may be off; of a unison, what makes it beat against the steady string as often as is allowed."""
    limits = drill.limits()
    if asked.bend is None or asked.bend.kind != "unison":
        return limits["bend_error_cents"]
    target_hz = midi_to_hz(asked.midi) * cents_to_ratio(asked.bend.middle_cents)
    return min(limits["bend_error_cents"], 1200.0 * float(np.log2(1.0 + limits["beat_hz"] / target_hz)))


def _swing(wanted: VibratoAsked, spb: float) -> tuple[float, list[float]]:
    """Width in cents and rate in Hz, one after the other, as a vibrato is asked for."""
    extent = sum(wanted.extent_cents) / 2.0 if wanted.extent_cents else 60.0
    cycles = wanted.cycles_per_beat
    if cycles is not None:
        return extent, [c / spb for c in (cycles if isinstance(cycles, tuple) else (cycles,))]
    return extent, [sum(wanted.rate_hz) / 2.0 if wanted.rate_hz else 5.0]


def _vibrato(asked: AskedNote, course: Course, seconds: float, spb: float) -> Course:
    wanted = asked.event.vibrato
    if wanted is None or asked.index:
        return course
    extent, rates = _swing(wanted, spb)
    low = {"bottom": 0.0, "centre": 0.5, "top": 1.0}[wanted.return_line]
    at, base = course[-1]
    begins = at + (0.1 if asked.bend else min(0.2, 0.1 * seconds))
    step = 0.01
    found = [*course, (begins, base)]
    ends = seconds * SOUNDS_SHARE
    phase, now = 0.0, begins
    while now < ends:
        rate = rates[min(len(rates) - 1, int(len(rates) * now / seconds))]
        phase += rate * step
        now += step
        swing = 0.5 - 0.5 * np.cos(2.0 * np.pi * phase) if low != 0.5 else 0.5 * np.sin(2.0 * np.pi * phase)
        found.append((now, base + extent * float(swing if low != 1.0 else -swing)))
    return found


def _slide(from_cents: float, to_cents: float, leaves_s: float, arrives_s: float, *, tube: bool) -> Course:
    """A tube glides; a finger goes from fret to fret, and has the last one on time."""
    if tube:
        return [(leaves_s, from_cents), (arrives_s, to_cents)]
    count = max(1, round(abs(to_cents - from_cents) / 100.0))
    found: Course = [(leaves_s, from_cents)]
    for step in range(count):
        at = leaves_s + (arrives_s - leaves_s) * (step + 1) / count
        cents = [from_cents + (to_cents - from_cents) * k / count for k in (step, step + 1)]
        found += [(at - 0.004, cents[0]), (at, cents[1])]
    return found


def _sounded(drill: Drill, steps: list[Step], rng: np.random.Generator) -> Performance:
    spb = drill.seconds_per_beat
    found: list[Sounding] = []
    on_string: dict[int, Sounding] = {}
    onsets: dict[NoteKey, list[float]] = defaultdict(list)
    faults: dict[NoteKey, str] = {}
    truths: dict[NoteKey, Truth] = {}
    for step in steps:
        event = step.event
        # What is called clean lies within the tolerance: of a normal scatter one note in a hundred would not.
        limit = CLEAN_SHARE * onset_limit_ms(drill.profile, step.seconds, drill.tolerances.onset_ms)
        scatter = float(np.clip(rng.normal(0.0, HAND_MS), -limit, limit))
        onset = step.at_s + (scatter + step.late_ms) / 1000.0
        for index, note in enumerate(event.notes):
            asked = AskedNote(event, note, index, step.repeat, event.beat, drill.midi(note))
            own = step.by_string.get(note.string, (0.0, 0.0))
            if note.muted or note.fret is None or own is None:
                continue
            key = (event.id, step.repeat, note.string)
            if step.fault is not None and step.counts:
                faults[key] = step.fault
            before = on_string.get(note.string)
            if before is not None:
                before.end_s = min(before.end_s, onset - 0.002)
            if step.left_out:
                continue
            onsets[key].append(onset)
            if event.articulation == "slide" and before is not None:
                # The same stroke sounds on: the pitch travels, and has arrived on the beat.
                travels = (event.slide.length if event.slide and event.slide.length else SHIFT_S / spb) * spb
                target = 100.0 * (asked.midi - before.key)
                here = onset - before.onset_s
                leaves = max(before.bend[-1][0], here - travels)
                before.bend += _slide(before.bend[-1][1], target, leaves, here, tube=note.finger == "slide")
                most = CLEAN_SHARE * _bend_limit_cents(drill, asked)
                off = step.cents + (float(np.clip(rng.normal(0.0, HAND_CENTS), -most, most)) if event.bend else 0.0)
                course = _vibrato(asked, _bend(asked, step.seconds, off), step.seconds, spb)
                before.bend += [(here + t, target + c) for t, c in course[1:]]
                before.end_s = onset + step.seconds * SOUNDS_SHARE
                continue
            most = CLEAN_SHARE * _bend_limit_cents(drill, asked)
            off = step.cents + (float(np.clip(rng.normal(0.0, HAND_CENTS), -most, most)) if event.bend else 0.0)
            course = _vibrato(asked, _bend(asked, step.seconds, off), step.seconds, spb)
            course = step.shape(course, step.seconds) if step.shape is not None else course
            course = [(t, c + own[1]) for t, c in course]
            if event.slide is not None and event.slide.from_fret is not None:
                away = 100.0 * (event.slide.from_fret - (event.notes[0].fret or 0))
                takes = (event.slide.length or SHIFT_S / spb) * spb
                course = [(0.0, away), *_slide(away, 0.0, 0.02, takes, tube=note.finger == "slide"), *course[1:]]
            level = float(rng.normal(0.0, HAND_DB)) + step.level_db + own[0]
            velocity = 92 * 10.0 ** (level / 40.0) * (10.0 ** (5.0 / 40.0) if event.accent else 1.0)
            share = (0.5 if event.articulation == "palm_mute" else SOUNDS_SHARE) * step.held
            sounding = Sounding(
                round(asked.midi) + step.frets_off, onset, onset + step.seconds * share,
                int(np.clip(velocity, 20, 127)), note.string - 1, course,
            )  # fmt: skip
            found.append(sounding)
            on_string[note.string] = sounding
            if step.counts:
                truths[key] = _truth(asked, sounding, off, spb)
        if step.ring is not None:
            quiet = int(np.clip(92 * 10.0 ** (RING_DB / 40.0), 20, 127))
            key = round(drill.open_midi(step.ring))
            found.append(
                Sounding(key, onset + 0.01, onset + SOUNDS_SHARE * step.seconds, quiet, step.ring - 1, [(0.0, 0.0)])
            )
        for also in step.also:
            loud = int(np.clip(round(92 * 10.0 ** (also.level_db / 40.0)), 1, 127))
            at, key = onset + also.after_s, round(drill.open_midi(also.string)) + also.fret
            found.append(Sounding(key, at, at + also.seconds, loud, also.string - 1, [(0.0, 0.0)]))
    found.sort(key=lambda s: s.onset_s)
    return Performance(found, dict(onsets), faults, truths=truths)


def _truth(asked: AskedNote, sounding: Sounding, off_cents: float, spb: float) -> Truth:
    bent = None if asked.bend is None else asked.bend.middle_cents + off_cents
    extent, rates = (None, []) if asked.event.vibrato is None or asked.index else _swing(asked.event.vibrato, spb)
    return Truth(
        sounding.key, sounding.onset_s, sounding.velocity, sounding.end_s - sounding.onset_s, bent,
        rates[0] if len(rates) == 1 else None, extent,
    )  # fmt: skip

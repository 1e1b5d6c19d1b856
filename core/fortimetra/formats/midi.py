"""Drills as Standard MIDI Files (format 1): a track and a channel per string, so that a bend bends its own string
alone.

Pitch bends after the MIDI 1.0 Detailed Specification: 14 bits, range set to BEND_RANGE_SEMITONES by registered
parameter 0. What MIDI cannot hold (muted strings, how a note is struck) is named beside the file.
"""

from __future__ import annotations

import io
import json
from dataclasses import dataclass

import mido

from fortimetra.model.drill import AskedNote, Drill

TICKS_PER_BEAT = 960
BEND_RANGE_SEMITONES = 12
ASIDE = "fortimetra-drill:"
PROGRAM = 27  # General MIDI, clean electric guitar (counted from 0)
PLAIN_VELOCITY, ACCENT_VELOCITY, SLUR_VELOCITY = 92, 118, 76
SOUNDS_SHARE = 0.95
BEND_FROM_BEATS, BEND_RISE_BEATS, BEND_STEPS = 0.1, 0.3, 24
SLURRED = {"hammer", "pull", "tap", "slide"}


@dataclass(frozen=True)
class MidiWritten:
    """A file, and what it could not hold, as sentences."""

    content: bytes
    lost: tuple[str, ...]


def drill_to_midi(drill: Drill) -> MidiWritten:
    """A drill with its repeats played out.

    A free drill is written at its nominal tempo.
    """
    file = mido.MidiFile(type=1, ticks_per_beat=TICKS_PER_BEAT)
    head = mido.MidiTrack()
    head.append(mido.MetaMessage("track_name", name=drill.title.encode("latin-1", "replace").decode("latin-1")))
    head.append(mido.MetaMessage("set_tempo", tempo=round(drill.seconds_per_beat * 1e6)))
    if drill.tempo is not None:
        head.append(mido.MetaMessage("time_signature", numerator=drill.tempo.beats_per_bar, denominator=4))
    # The whole drill beside its notes: read back where the notes still are what it plays.
    aside = json.dumps(json.loads(drill.model_dump_json(by_alias=True, exclude_defaults=True)))
    head.append(mido.MetaMessage("text", text=ASIDE + aside))
    file.tracks.append(head)
    lost: dict[str, None] = {}
    if drill.tempo is not None and drill.tempo.swing != 0.5:
        lost["Swing is left to the player; eighths are written straight."] = None
    notes = list(drill.asked())
    for string in range(1, len(drill.tuning) + 1):
        own = [n for n in notes if n.note.string == string]
        if own:
            file.tracks.append(_track(string, own, drill, lost))
    out = io.BytesIO()
    file.save(file=out)
    return MidiWritten(out.getvalue(), tuple(lost))


def _track(string: int, notes: list[AskedNote], drill: Drill, lost: dict[str, None]) -> mido.MidiTrack:
    channel = string - 1
    events: list[tuple[int, int, mido.Message]] = [(0, 1, message) for message in bend_range(channel)]

    def at(beat: float, order: int, kind: str, **values: int) -> None:
        events.append((round(beat * TICKS_PER_BEAT), order, mido.Message(kind, channel=channel, **values)))

    at(0.0, 0, "program_change", program=PROGRAM)
    for note in notes:
        if note.note.muted:
            lost["Muted strings do not sound in MIDI and are left out."] = None
            continue
        number = round(note.midi)
        rest = 100.0 * (note.midi - number)
        for beat, cents in _bend_course(note, lost):
            at(beat, 2, "pitchwheel", pitch=bend_word(rest + cents))
        velocity = (
            ACCENT_VELOCITY if note.event.accent
            else SLUR_VELOCITY if note.event.articulation in SLURRED else PLAIN_VELOCITY
        )  # fmt: skip
        at(note.beat, 3, "note_on", note=number, velocity=velocity)
        at(note.beat + SOUNDS_SHARE * note.event.length, 0, "note_off", note=number, velocity=0)
        if note.event.vibrato is not None:
            lost["Vibrato is left to the player; the notes are written straight."] = None
    return in_order(events, name=f"String {string}")


def bend_range(channel: int) -> list[mido.Message]:
    """Registered parameter 0 set to the range that `bend_word` counts in."""
    return [
        mido.Message("control_change", channel=channel, control=control, value=value)
        for control, value in ((101, 0), (100, 0), (6, BEND_RANGE_SEMITONES), (38, 0))
    ]


def in_order(events: list[tuple[int, int, mido.Message]], *, name: str) -> mido.MidiTrack:
    """A track of (tick, order within the tick, message)."""
    track = mido.MidiTrack()
    track.append(mido.MetaMessage("track_name", name=name))
    now = 0
    for tick, _order, message in sorted(events, key=lambda e: e[:2]):
        message.time = tick - now
        now = tick
        track.append(message)
    return track


def _bend_course(note: AskedNote, lost: dict[str, None]) -> list[tuple[float, float]]:
    """(beat, cents above the fretted pitch) of a note, from its start on."""
    bend = note.bend
    if bend is None:
        return [(note.beat, 0.0)]
    if isinstance(bend.target_cents, tuple):
        lost["A corridor is written as its middle."] = None
    top = bend.middle_cents
    length = note.event.length
    if note.event.articulation == "repluck":
        return [(note.beat, top)]
    rise = min(BEND_RISE_BEATS, 0.6 * length)
    first = min(BEND_FROM_BEATS, 0.1 * length)
    start, end = 0.0, top
    if bend.kind in {"prebend", "release"}:
        start, end, first = top, 0.0, 0.5 * length
        rise = min(rise, 0.3 * length)
    steps = [
        (note.beat + first + rise * i / BEND_STEPS, start + (end - start) * i / BEND_STEPS)
        for i in range(1, BEND_STEPS + 1)
    ]
    return [(note.beat, start), *steps]


def bend_word(cents: float) -> int:
    """Pitch-wheel value, −8192 to 8191.

    >>> bend_word(0.0), bend_word(200.0)
    (0, 1365)
    """
    return max(-8192, min(8191, round(cents / (100.0 * BEND_RANGE_SEMITONES) * 8192)))


__all__ = ["MidiWritten", "bend_range", "bend_word", "drill_to_midi", "in_order"]

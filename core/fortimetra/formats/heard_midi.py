"""What was heard of a take as a Standard MIDI File: onsets as they were, and pitches to the cent by pitch bend.

A track and a channel per string, as drills are written; the contour of a note moves its own string's pitch wheel.
"""

from __future__ import annotations

import io

import mido
import numpy as np

from fortimetra.formats.curve import Curve
from fortimetra.formats.midi import PLAIN_VELOCITY, PROGRAM, TICKS_PER_BEAT, bend_range, bend_word, in_order
from fortimetra.model.analysis import Analysis, NoteFound
from fortimetra.units import hz_to_midi

WITHOUT_GRID_BPM = 120.0
WHEEL_EVERY_S = 0.02
DB_PER_VELOCITY = 0.5


def heard_midi(analysis: Analysis, curve: Curve, *, title: str = "") -> bytes:
    """Heard notes at the times they were heard; tick 0 is the beginning of the recording.

    The tempo is that of the take's grid, so that a click set to it shows early and late notes; without a grid 120.
    """
    bpm = analysis.reference.grid.bpm or WITHOUT_GRID_BPM
    ticks_per_s = TICKS_PER_BEAT * bpm / 60.0
    file = mido.MidiFile(type=1, ticks_per_beat=TICKS_PER_BEAT)
    head = mido.MidiTrack()
    head.append(mido.MetaMessage("track_name", name=title.encode("latin-1", "replace").decode("latin-1")))
    head.append(mido.MetaMessage("set_tempo", tempo=round(60e6 / bpm)))
    file.tracks.append(head)
    heard = [
        n for n in analysis.notes if n.onset_s is not None and n.end_s is not None and n.pitch and n.pitch.median_hz
    ]
    for string in sorted({n.string or 1 for n in heard}):
        own = [n for n in heard if (n.string or 1) == string]
        file.tracks.append(_track(string, own, curve, analysis.reference.a4_hz, ticks_per_s))
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


def _track(string: int, notes: list[NoteFound], curve: Curve, a4_hz: float, ticks_per_s: float) -> mido.MidiTrack:
    channel = string - 1
    events: list[tuple[int, int, mido.Message]] = [
        (0, 0, mido.Message("program_change", channel=channel, program=PROGRAM)),
        *((0, 1, message) for message in bend_range(channel)),
    ]
    for note in notes:
        assert note.onset_s is not None and note.end_s is not None
        course = _course(note, curve, a4_hz)
        # The key nearest to where it begins: a bent note is its fretted note, bent.
        number = max(0, min(127, round(course[0][1] / 100.0)))
        began, ended = round(note.onset_s * ticks_per_s), round(note.end_s * ticks_per_s)
        for time_s, cents in course:
            word = bend_word(cents - 100.0 * number)
            events.append((round(time_s * ticks_per_s), 2, mido.Message("pitchwheel", channel=channel, pitch=word)))
        level = note.level.level_db if note.level and note.level.level_db is not None else 0.0
        velocity = max(1, min(127, round(PLAIN_VELOCITY + level / DB_PER_VELOCITY)))
        events.append((began, 3, mido.Message("note_on", channel=channel, note=number, velocity=velocity)))
        events.append((max(began + 1, ended), 0, mido.Message("note_off", channel=channel, note=number, velocity=0)))
    return in_order(events, name=f"String {string}")


def _course(note: NoteFound, curve: Curve, a4_hz: float) -> list[tuple[float, float]]:
    """(time, cents above MIDI 0) of a note: a plain one has one value, a bent or swung one its contour."""
    assert note.onset_s is not None and note.end_s is not None and note.pitch and note.pitch.median_hz
    plain = [(note.onset_s, 100.0 * hz_to_midi(note.pitch.median_hz, a4_hz=a4_hz))]
    if note.bend is None and note.vibrato is None:
        return plain
    frames = curve.frames(note.onset_s, note.end_s)
    time, hz = curve.time_s[frames], curve.f0_hz[frames]
    voiced = ~np.isnan(hz)
    if not voiced.any():
        return plain
    time = time[voiced]
    cents = 6900.0 + 1200.0 * np.log2(hz[voiced] / a4_hz)
    apart = float(np.median(np.diff(time))) if len(time) > 1 else WHEEL_EVERY_S
    step = max(1, round(WHEEL_EVERY_S / max(1e-3, apart)))
    course = [(float(t), float(c)) for t, c in zip(time[::step], cents[::step], strict=True)]
    return [(note.onset_s, course[0][1]), *course[1:]]

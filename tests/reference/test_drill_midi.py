"""Drills written as MIDI and text, read by others.

Sources: MIDI 1.0 Detailed Specification (pitch bend and registered parameter 0; Standard MIDI Files 1.0); FluidSynth
with Debian's timgm6mb-soundfont plays the file, Praat (praat-parselmouth) reads the pitches, mido the events.
"""

import io
import subprocess

import mido
import numpy as np
import parselmouth
import pytest
from fortimetra.drills.generator import generate
from fortimetra.drills.library import GENERATORS, built_in_drills
from fortimetra.formats.midi import BEND_RANGE_SEMITONES, drill_to_midi
from fortimetra.formats.text_tab import text_tab
from fortimetra.units import hz_to_cents

from tests.reference.fluid import SOUNDFONT


def heard_notes(content):
    """(beat, string, MIDI note, velocity) of every note-on, and the file."""
    file = mido.MidiFile(file=io.BytesIO(content))
    found = []
    for track in file.tracks:
        tick = 0
        for message in track:
            tick += message.time
            if message.type == "note_on" and message.velocity:
                found.append((tick / file.ticks_per_beat, message.channel + 1, message.note, message.velocity))
    return sorted(found), file


@pytest.mark.parametrize("drill", built_in_drills(), ids=lambda d: d.title)
def test_every_built_in_drill_keeps_its_pitches_and_onsets(drill):
    found, _file = heard_notes(drill_to_midi(drill).content)
    asked = sorted((n.beat, n.note.string, n.midi) for n in drill.asked() if not n.note.muted)
    assert [(round(b, 2), s, m) for b, s, m, _ in found] == [(round(b, 2), s, m) for b, s, m in asked]


def test_tempo_and_accents_are_in_the_file():
    drill = generate(GENERATORS["alternate_picking"], {"bpm": "93", "groups": "4"})
    found, file = heard_notes(drill_to_midi(drill).content)
    tempo = next(m.tempo for m in file.tracks[0] if m.type == "set_tempo")
    assert mido.tempo2bpm(tempo) == pytest.approx(93.0, abs=0.01)
    loud = [v > 110 for _, _, _, v in found]
    assert loud == [i % 4 == 0 for i in range(len(loud))]


def test_what_midi_cannot_hold_is_said():
    assert drill_to_midi(generate(GENERATORS["mute_check"], {})).lost
    assert drill_to_midi(generate(GENERATORS["curl"], {})).lost
    assert drill_to_midi(generate(GENERATORS["prebend"], {})).lost == ()


@pytest.mark.parametrize(
    ("family", "size", "cents"),
    [("fretted_then_bend", "full", 200.0), ("bend_ladder", "half", 100.0), ("prebend", "full", 200.0)],
)
def test_a_synthesiser_bends_by_what_the_drill_asks(family, size, cents, tmp_path):
    drill = generate(GENERATORS[family], {"size": size, "string": "2", "fret": "8", "bpm": "60"})
    path, wave = tmp_path / "a.mid", tmp_path / "a.wav"
    path.write_bytes(drill_to_midi(drill).content)
    subprocess.run(
        ["fluidsynth", "-ni", "-q", "-R", "0", "-C", "0", "-g", "0.8", "-F", str(wave), str(SOUNDFONT), str(path)],
        check=True, capture_output=True,
    )  # fmt: skip
    bend = next(e for e in drill.events if e.bend)
    target = next(e for e in drill.events if e.notes and not e.bend)
    pitch = parselmouth.Sound(str(wave)).to_pitch_ac(time_step=0.005, pitch_floor=200, pitch_ceiling=700)
    f0, at = pitch.selected_array["frequency"], pitch.xs()

    def hz(event, first, last):
        return float(np.median(f0[(at > event.beat + first) & (at < event.beat + last) & (f0 > 0)]))

    held = (0.2, 0.8) if family == "prebend" else (0.9, 1.6)
    # By the SoundFont specification a wheel sounds 0.8 % less than MIDI says.
    assert hz_to_cents(hz(bend, *held), reference_hz=hz(target, 0.2, 0.7)) == pytest.approx(-0.008 * cents, abs=2.5)
    if family == "prebend":
        landed = hz_to_cents(hz(bend, 1.4, 1.6), reference_hz=hz(target, 0.2, 0.7))
        assert landed == pytest.approx(-cents, abs=2.5)
    assert cents < BEND_RANGE_SEMITONES * 100


# -- text -----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("drill", built_in_drills(), ids=lambda d: d.title)
def test_text_tab_is_square_and_holds_every_fret(drill):
    text = text_tab(drill)
    lines = [line for line in text.splitlines() if "|" in line]
    assert len(lines) % 6 == 0
    for first in range(0, len(lines), 6):
        assert len({len(line) for line in lines[first : first + 6]}) == 1
    rows = {s: "".join(line.split("|", 1)[1] for line in lines[s - 1 :: 6]) for s in range(1, 7)}
    for event in drill.events:
        for note in event.notes:
            assert ("x" if note.muted else str(note.fret)) in rows[note.string]


def test_text_tab_writes_bends_slurs_and_mutes_as_they_are_read():
    assert "7b9" in text_tab(generate(GENERATORS["fretted_then_bend"], {"fret": "7"}))
    assert "8pb10r" in text_tab(generate(GENERATORS["prebend"], {}))
    slurs = text_tab(generate(GENERATORS["finger_pairs"], {}))
    assert "h7" in slurs
    assert "p5" in slurs
    assert "x" in text_tab(generate(GENERATORS["mute_check"], {}))
    assert ">" in text_tab(generate(GENERATORS["alternate_picking"], {}))
    assert "~" in text_tab(generate(GENERATORS["vibrato_fretted"], {}))

"""Causes from another maker's sound: MIDI files with written faults, rendered by FluidSynth (sources in fluid.py).

Which cause belongs to which fault is the handbook's table of families and causes; that it is so is common practice,
no source.
"""

import re

import pytest
from fortimetra import load_take
from fortimetra.drills.library import library

from tests.kept import analyse
from tests.reference.fluid import GUITARS, Tone, bend_word, midi_cents, render, sounded_cents

START_S = 1.0


def drill(start):
    return next(b.drill for b in library() if b.drill.title.startswith(start))


def played(asked, folder, guitar, *, bend_error=0.0, late_ms=lambda before, now: 0.0, velocity=lambda event: 100):
    """The drill as written, note by note, with stated errors."""
    spb, tones, before = asked.seconds_per_beat, [], None
    for note in asked.asked():
        onset = START_S + asked.played_beat(note.beat) * spb
        length = 0.92 * note.event.length * spb
        shape = ((0.0, 0.0),)
        if note.event.bend is not None:
            top = midi_cents(bend_word(note.event.bend.middle_cents + bend_error))
            shape = ((0.0, 0.0), (0.15, 0.0), (0.35, top), (length, top))
        again = before if before is not None and before.repeat == note.repeat else None
        tones.append(
            Tone(
                round(note.midi),
                onset + late_ms(again, note) / 1000.0,
                length,
                shape,
                velocity(note.event),
                channel=note.note.string,
            )
        )
        before = note
    return analyse(load_take(render(tones, folder, program=GUITARS[guitar])), drill=asked)


def codes(analysis):
    return [c.code for c in analysis.causes]


@pytest.mark.parametrize("guitar", ["steel", "clean", "jazz", "overdriven"])
@pytest.mark.parametrize(("error", "cause"), [(-32.0, "bend_flat"), (30.0, "bend_sharp")])
def test_written_bends_that_miss_name_their_side(tmp_path, guitar, error, cause):
    found = played(drill("String 3: full bend at fret 7"), tmp_path, guitar, bend_error=error)
    assert cause in codes(found)
    told = next(c for c in found.causes if c.code == cause)
    assert {p.id for p in told.places} == {"bend"}
    sounds = sounded_cents(200.0 + error) - 200.0
    said = float(re.search(r"lie (\d+) cents", told.evidence).group(1))
    assert said == pytest.approx(abs(sounds), abs=1.5)


@pytest.mark.parametrize("guitar", ["steel", "clean", "jazz", "overdriven"])
def test_bends_as_written_have_no_cause_of_their_own(tmp_path, guitar):
    found = played(drill("String 3: full bend at fret 7"), tmp_path, guitar)
    assert not [c for c in found.causes if c.measure in ("bend", "pitch", "timing")]


@pytest.mark.parametrize("guitar", ["steel", "clean", "nylon"])
def test_notes_written_late_after_a_change_of_string_name_the_stroke(tmp_path, guitar):
    asked = drill("Alternate picking 1 2 3 4, up")

    def late(before, now):
        return 55.0 if before is not None and before.note.string != now.note.string else 0.0

    found = played(asked, tmp_path, guitar, late_ms=late, velocity=lambda e: 115 if e.accent else 90)
    assert codes(found)[:1] == ["late_after_string_change"]
    assert found.summary.timing.string_change_ms == pytest.approx(55.0, abs=6.0)


@pytest.mark.parametrize("guitar", ["steel", "clean", "nylon"])
def test_the_same_notes_on_time_do_not(tmp_path, guitar):
    asked = drill("Alternate picking 1 2 3 4, up")
    found = played(asked, tmp_path, guitar, velocity=lambda e: 115 if e.accent else 90)
    assert not [c for c in found.causes if c.measure == "timing"]

"""Bends rendered by FluidSynth from MIDI files with exact pitch-bend values; sources in fluid.py."""

import numpy as np
import pytest
import soundfile
from fortimetra import Drill, load_take
from fortimetra.hear.contour import track
from fortimetra.model.drill import Bend, DrillNote, Event, Tempo
from fortimetra.units import midi_to_hz

from tests.kept import analyse
from tests.reference.fluid import GUITARS, Tone, bend_word, midi_cents, render, sounded_cents, soundfont_cents

MEDIAN_CENTS = 3.0
ON_WHOLE_CENTS = ("nylon", "steel", "jazz", "clean")
KEYS = (50, 57, 62, 67, 72)
BENDS_CENTS = (100.0, 187.3, 213.0, 305.5)
OPEN_MIDI = {1: 64, 2: 59, 3: 55, 4: 50}


def test_a_held_bend_sounds_the_whole_cents_under_what_is_written(tmp_path):
    """Read by the turn of the phase between the halves of a second, which needs none of our readings."""
    asked = np.concatenate([[0.0], 190.0 + np.arange(12) * 0.44])
    tones = [Tone(64, 2.0 * i, 1.9, ((0.0, cents),)) for i, cents in enumerate(asked)]
    sound, rate_hz = soundfile.read(render(tones, tmp_path, program=GUITARS["clean"]))
    half = round(0.5 * rate_hz)
    time_s = np.arange(half) / rate_hz

    def turn(part, hz):
        return np.sum(part * np.hanning(half) * np.exp(-2j * np.pi * hz * time_s))

    hz = []
    for i, cents in enumerate(asked):
        part = sound[round((2.0 * i + 0.7) * rate_hz) :][: 2 * half, 0]
        near = midi_to_hz(64) * 2.0 ** (cents / 1200.0)
        turned = turn(part[half:], near) / turn(part[:half], near) * np.exp(-2j * np.pi * near * half / rate_hz)
        hz.append(near + np.angle(turned) / (2.0 * np.pi * half / rate_hz))
    read = 1200.0 * np.log2(np.array(hz) / hz[0])
    assert read[1:] == pytest.approx([sounded_cents(c) for c in asked[1:]], abs=0.01)
    # Both of what a cent may be rounded to are there.
    assert np.ptp([soundfont_cents(bend_word(c)) % 1.0 for c in asked[1:]]) > 0.7


@pytest.mark.parametrize("guitar", GUITARS)
def test_bends_are_read_against_the_unbent_note(guitar, tmp_path):
    by_midi, by_sound = [], []
    for key in KEYS:
        words = [bend_word(c) for c in BENDS_CENTS]
        tones = [Tone(key, 0.5, 1.8)] + [
            Tone(key, 2.5 + 2 * i, 1.8, ((0.0, 0.0), (0.15, 0.0), (0.35, midi_cents(w)), (1.8, midi_cents(w))))
            for i, w in enumerate(words)
        ]
        take = load_take(render(tones, tmp_path, program=GUITARS[guitar]))
        contour = track(take.guitar(), rate_hz=take.sample_rate_hz)

        def median(onset, contour=contour):
            return float(np.nanmedian(contour.f0_hz[contour.frames(onset + 0.5, onset + 1.5)]))

        for i, word in enumerate(words):
            read = 1200 * np.log2(median(2.5 + 2 * i) / median(0.5))
            by_midi.append(read - midi_cents(word))
            by_sound.append(read - sounded_cents(midi_cents(word)))
    assert np.median(np.abs(by_midi)) < MEDIAN_CENTS
    # Where a key of the sound font is not tuned to a whole cent, what lies over it counts toward the next one.
    errors = np.array(by_sound)
    if guitar in ON_WHOLE_CENTS:
        assert np.max(np.abs(errors)) < 0.05
    assert np.max(np.minimum(np.abs(errors), np.abs(errors - 1.0))) < 0.25


def _drill(string, fret):
    def note(f):
        return (DrillNote(string=string, fret=f),)

    events = []
    for i, target in enumerate((100, 200, 100, 200)):
        frets, beat = target // 100, 4.0 * i
        bend = Bend(kind="bend", target_cents=float(target), reference=f"r{i}")
        events += [
            Event(id=f"r{i}", beat=beat, length=1, articulation="pick", notes=note(fret + frets)),
            Event(id=f"b{i}", beat=beat + 1, length=2, articulation="pick", notes=note(fret), bend=bend),
        ]
    return Drill(
        format="fortimetra-drill", version=1, title="t", family="fretted_then_bend", tempo=Tempo(bpm=60),
        tuning=("E4", "B3", "G3", "D3", "A2", "E2"), measures=("pitch", "bend"), events=tuple(events),
    )  # fmt: skip


@pytest.mark.parametrize("guitar", GUITARS)
@pytest.mark.parametrize(("per_s", "said"), [(-60.0, "outside"), (-8.0, "inside")])
def test_a_bend_that_sinks_is_told_by_its_slope(guitar, per_s, said, tmp_path):
    tones = []
    for i, target in enumerate((100, 200, 100, 200)):
        key, beat = OPEN_MIDI[3] + 7, 0.5 + 4.0 * i
        steps = np.arange(0.0, 1.55, 0.05)
        sinking = tuple((0.35 + t, midi_cents(bend_word(target + 12.0 + per_s * t))) for t in steps)
        start = 12.0 + per_s * 0.75  # so that the middle of the hold is where it should be
        sinking = tuple((t, c - start) for t, c in sinking)
        tones += [
            Tone(key + target // 100, beat, 0.9),
            Tone(key, beat + 1, 1.9, ((0.0, 0.0), (0.15, 0.0), *sinking)),
        ]
    take = load_take(render(tones, tmp_path, program=GUITARS[guitar]))
    found = [n.bend for n in analyse(take, drill=_drill(3, 7)).notes if n.bend is not None]
    assert len(found) == 4
    assert {b.verdict for b in found} == {said}
    assert [b.hold_drift_cents_per_s for b in found] == pytest.approx([per_s] * 4, abs=6.0)


@pytest.mark.parametrize("guitar", ["clean", "nylon"])
def test_a_bend_that_is_let_down_does_not_sink_while_it_is_held(guitar, tmp_path):
    tones = []
    for i, target in enumerate((100, 200, 100, 200)):
        key, beat, top = OPEN_MIDI[3] + 7, 0.5 + 4.0 * i, midi_cents(bend_word(target))
        down = ((0.0, 0.0), (0.15, 0.0), (0.3, top), (0.65, top), (0.95, 0.55 * top), (1.0, 0.0))
        tones += [Tone(key + target // 100, beat, 0.9), Tone(key, beat + 1, 1.9, down)]
    take = load_take(render(tones, tmp_path, program=GUITARS[guitar]))
    found = [n for n in analyse(take, drill=_drill(3, 7)).notes if n.bend is not None]
    assert not any("hold_drifts" in n.reasons for n in found)


PLACES = ((1, 8), (2, 8), (3, 7), (3, 12), (4, 9))


@pytest.mark.parametrize("guitar", GUITARS)
def test_a_whole_take_is_judged_with_the_written_errors(guitar, tmp_path):
    rng = np.random.default_rng(GUITARS[guitar])
    errors, matched = [], 0
    first = list(GUITARS).index(guitar)
    places = [PLACES[(first + step) % len(PLACES)] for step in (0, 2)]  # all of them by all guitars together
    for string, fret in places:
        tones, written = [], {}
        for i, target in enumerate((100, 200, 100, 200)):
            word = bend_word(target + rng.uniform(-40, 40))
            key, beat = OPEN_MIDI[string] + fret, 4.0 * i
            written[f"b{i}"] = sounded_cents(midi_cents(word)) - target
            curve = ((0.0, 0.0), (0.13, 0.0), (0.3, midi_cents(word)), (1.9, midi_cents(word)))
            tones += [Tone(key + target // 100, 1 + beat, 0.9), Tone(key, 2 + beat, 1.9, curve)]
        found = analyse(render(tones, tmp_path, program=GUITARS[guitar]), drill=_drill(string, fret))
        assert found.extras == ()
        for note in found.notes:
            matched += note.status == "played"
            if note.bend:
                errors.append(note.bend.error_cents - written[note.id])
    assert matched == 2 * 8
    # The fretted note is another key of the sound font, tuned to whole cents of its own.
    assert np.median(np.abs(errors)) < MEDIAN_CENTS
    assert np.max(np.abs(errors)) < 5.0

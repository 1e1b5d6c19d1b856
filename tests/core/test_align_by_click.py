"""Which sound is which note where only the click, a stroke's clearness or a vibrato tells."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from fortimetra.align.costs import _chord_costs
from fortimetra.align.grid import due_times
from fortimetra.align.match import Match, asked_events
from fortimetra.align.pair import match
from fortimetra.align.settings import MATCH
from fortimetra.align.strokes import first_of_doubles, strokes_for_chances
from fortimetra.align.swings import Swings, asked_swings, heard_swings, swing_costs, tells_by_swing
from fortimetra.drills.library import library
from fortimetra.hear.contour import Contour
from fortimetra.hear.notes import HeardNote
from fortimetra.hear.salience import Salience
from fortimetra.model.analysis import Grid
from fortimetra.model.drill import Drill


def drill(start: str, repeats: int = 1) -> Drill:
    return next(b.drill for b in library() if b.drill.title.startswith(start)).model_copy(update={"repeats": repeats})


def note(onset_s, midi, length_s=0.1, rise_db=12.0, contrast_db=20.0):
    return HeardNote(
        onset_s, onset_s + length_s, midi, midi, midi, -20.0, "attack", rise_db=rise_db, contrast_db=contrast_db
    )


SAME = drill("Fastest even run: string 3, fret 7")
FIRST_S = 1.5


def run(skip=(), late=None):
    """One note again and again, as asked."""
    spb, events = SAME.seconds_per_beat, asked_events(SAME)
    return [
        note(FIRST_S + e.beat * spb + (late or {}).get(i, 0.0), e.start_midi)
        for i, e in enumerate(events)
        if i not in skip
    ]


def test_of_like_notes_the_click_says_which_one_is_missing():
    heard = run(skip={1})
    found = match(heard, SAME, first_beat_s=FIRST_S)
    assert [i for i, n in enumerate(found.heard) if n is None] == [1]
    for event, n in zip(found.events, found.heard, strict=True):
        if n is not None:
            assert n.onset_s == pytest.approx(FIRST_S + event.beat * SAME.seconds_per_beat)


def test_a_late_note_among_like_ones_is_that_note():
    late_s = 0.4 * 0.25 * SAME.seconds_per_beat
    heard = run(late={7: late_s})
    found = match(heard, SAME, first_beat_s=FIRST_S)
    assert list(found.heard) == heard


def test_a_first_repeat_is_kept_where_a_later_one_is_played_again():
    asked = drill("Alternate picking 1 2 4, up: string 2", repeats=2)
    spb, events = asked.seconds_per_beat, asked_events(asked)
    once = len(events) // 2
    times = [FIRST_S + e.beat * spb for e in events]
    again_s = asked.length_beats * spb
    played = [(t, e) for t, e in zip(times, events, strict=True)]
    # The second repeat once more: whoever leaves the first out would have two whole ones left.
    played += [(t + again_s, e) for t, e in played[once:]]
    heard = [note(t, e.start_midi, 0.3) for t, e in played]
    found = match(heard, asked, first_beat_s=FIRST_S)
    assert [n.onset_s for n in found.heard[:once]] == pytest.approx(times[:once])


def told(count: int, tonal: float = 0.8) -> Salience:
    one = np.full(count, tonal, np.float32)
    none = np.zeros((count, 12), np.float32)
    return Salience(none, 60, one, one, np.zeros(count, np.float32), none, 60)


def taken(heard, extras, asked=SAME):
    events = asked_events(asked)[: len(heard)]
    return Match(events, tuple(heard), tuple(extras), 0.0, (0.0,) * len(heard))


def test_a_stroke_is_the_note_rather_than_a_faint_rise_where_it_is_due():
    midi, slot_s = asked_events(SAME)[0].start_midi, 0.125
    heard = [note(1.5, midi), note(1.5 + slot_s, midi, rise_db=0.9, contrast_db=0.0), note(1.5 + 2 * slot_s, midi)]
    stroke = note(1.5 + 1.4 * slot_s, midi, rise_db=18.0)
    found = strokes_for_chances(taken(heard, [stroke]), [*heard, stroke], told(4), SAME, frozenset())
    assert found.heard[1] is stroke
    assert found.extras == ()


@pytest.mark.parametrize(
    ("change", "tonal"),
    [
        ({"start_midi": 40.0}, 0.8),  # another pitch
        ({"rise_db": 5.0}, 0.8),  # hardly clearer
        ({"onset_s": 1.9}, 0.8),  # after the next note
        ({}, 0.1),  # no string: a knock
    ],
)
def test_a_faint_note_stays_where_no_stroke_of_it_is_near(change, tonal):
    midi, slot_s = asked_events(SAME)[0].start_midi, 0.125
    heard = [note(1.5, midi), note(1.5 + slot_s, midi, rise_db=0.9, contrast_db=0.0), note(1.5 + 2 * slot_s, midi)]
    other = replace(note(1.5 + 1.4 * slot_s, midi, rise_db=18.0), **change)
    found = strokes_for_chances(taken(heard, [other]), [*heard, other], told(4, tonal), SAME, frozenset())
    assert found.heard[1] is heard[1]


def test_what_somebody_pointed_at_stays():
    midi = asked_events(SAME)[0].start_midi
    heard = [note(1.5, midi), note(1.625, midi, rise_db=0.9, contrast_db=0.0), note(1.75, midi)]
    stroke = note(1.675, midi, rise_db=18.0)
    found = strokes_for_chances(taken(heard, [stroke]), [*heard, stroke], told(4), SAME, frozenset({1}))
    assert found.heard[1] is heard[1]


VIBRATO = drill("Vibrato to the click, one and two: string 3", repeats=2)


def swinging(rates_hz, seconds=4.0):
    """A contour of notes one after the other, each with its vibrato; 0 is a straight note."""
    hop = 0.005
    time = np.arange(0.0, seconds * len(rates_hz), hop)
    cents = np.zeros(len(time))
    for i, rate in enumerate(rates_hz):
        own = (time >= i * seconds) & (time < (i + 1) * seconds)
        cents[own] = 30.0 * np.sin(2.0 * np.pi * rate * (time[own] - i * seconds)) if rate else 0.0
    f0 = 293.66 * 2.0 ** (cents / 1200.0)
    nothing = np.zeros((len(time), 8), np.float32)
    contour = Contour(
        time, f0, np.full(len(time), 0.5), np.ones(len(time)), np.full(len(time), -20.0), nothing, nothing
    )
    return contour, [note(i * seconds, 62.0, seconds - 0.1) for i in range(len(rates_hz))]


@pytest.mark.parametrize("rate", [0.0, 1.0, 2.0, 5.0])
def test_the_rate_of_a_swing_is_read(rate):
    contour, heard = swinging([rate])
    found = heard_swings(heard, contour)
    # Half a cycle more or less in four seconds; 30 cents to either side.
    assert found.hz[0] == pytest.approx(rate, abs=0.2)
    assert found.cents[0] == pytest.approx(60.0 if rate else 0.0, rel=0.1)


def test_a_note_too_short_to_swing_tells_nothing():
    contour, heard = swinging([5.0])
    short = replace(heard[0], end_s=heard[0].onset_s + 0.5)
    found = heard_swings([short], contour)
    assert np.isnan(found.hz[0])
    assert swing_costs(found, Swings(np.array([2.0]), np.array([40.0])))[0, 0] == 0.0


def test_vibratos_of_one_rate_are_told_apart_by_their_width():
    heard = Swings(np.array([4.0]), np.array([60.0]))
    narrow, wide = swing_costs(heard, Swings(np.array([4.0, 4.0]), np.array([25.0, 60.0])))[0]
    assert wide == 0.0
    assert narrow > 0.5


def test_notes_of_one_pitch_are_told_apart_by_their_vibrato():
    assert tells_by_swing(VIBRATO)
    assert not tells_by_swing(SAME)
    events = asked_events(VIBRATO)
    asked_hz = asked_swings(events, VIBRATO).hz
    spb = VIBRATO.seconds_per_beat
    # The first repeat is broken off after its first note and begun again: what is heard second swings as the first
    # asked note does.
    rates = [asked_hz[0], *asked_hz]
    contour, _ = swinging([float(r) for r in rates], seconds=events[0].notes[0].event.length * spb)
    length_s = events[0].notes[0].event.length * spb
    heard = [note(i * length_s, events[0].start_midi, length_s - 0.1) for i in range(len(rates))]
    found = match(heard, VIBRATO, swings=heard_swings(heard, contour))
    assert [n.onset_s for n in found.heard] == pytest.approx([(i + 1) * length_s for i in range(len(events))])


def test_who_plays_one_repeat_of_four_has_left_out_nothing_on_the_way():
    # The figure's six notes come again and again: its end may as well be the next repeat's beginning.
    asked = drill("Legato 3+3 over sixteenths, up, whole tones: strings 3 and 2", repeats=4)
    spb, rows = asked.seconds_per_beat, asked_events(asked)
    once = len(rows) // 4
    heard = [note(FIRST_S + e.beat * spb, e.start_midi, 0.2) for e in rows[:once]]
    # One comes early, and when it was due something of its pitch rises again.
    early = once - 7
    again = replace(heard[early], onset_s=heard[early].onset_s + 0.03)
    heard[early] = replace(heard[early], onset_s=heard[early].onset_s - 0.045)
    found = match(sorted([*heard, again], key=lambda n: n.onset_s), asked)
    assert sum(n is not None for n in found.heard[:once]) == once
    assert set(found.heard[once:]) == {None}


def test_a_stop_in_a_drill_of_struck_slides_moves_what_follows():
    asked = drill("Bottleneck melody on string 2: A major, from fret 3, behind the slide damped")
    events, spb = asked_events(asked), asked.seconds_per_beat
    heard = tuple(note(1.5 + e.beat * spb + (2.0 if i >= 5 else 0.0), e.main_midi, 1.5) for i, e in enumerate(events))
    grid = Grid(source="recorder", bpm=asked.tempo.bpm, first_beat_s=1.5, u_ms=1.0)
    due = due_times(Match(events, heard, (), 0.0, breaks=(5,)), asked, grid)
    assert due.moved_beats[5:] == pytest.approx(2.0 / spb)
    assert np.array([n.onset_s for n in heard]) == pytest.approx(due.time_s)


@pytest.mark.parametrize("waits_beats", [2, 3])
def test_a_stretch_after_a_stop_is_moved_however_few_notes_it_has(waits_beats):
    asked = drill("Slide, then vibrato: string 3, fret 5 to 9", repeats=4)
    spb = asked.seconds_per_beat
    rows = asked_events(asked)
    heard = [note(FIRST_S + (e.beat + waits_beats * (i >= 4)) * spb, e.start_midi, 0.8) for i, e in enumerate(rows)]
    found = replace(match(heard, asked, first_beat_s=FIRST_S), heard=tuple(heard), breaks=(4,))
    grid = Grid(source="recorder", bpm=60.0 / spb, first_beat_s=FIRST_S, u_ms=1.0)
    due = due_times(found, asked, grid)
    assert due.moved_beats == pytest.approx([0.0] * 4 + [waits_beats] * (len(rows) - 4))


def flat_level(count, level_dbfs) -> Contour:
    quiet = np.full((count, 8), np.nan, np.float32)
    ones = np.ones(count)
    return Contour(np.arange(count) * 0.005, 220.0 * ones, ones, ones, level_dbfs, quiet, quiet)


@pytest.mark.parametrize(
    ("rise_db", "contrast_db", "falls", "heard"),
    [
        (0.6, 0.1, True, False),  # a note ends there
        (0.6, 0.1, False, True),
        (0.6, 7.0, True, True),  # a soft stroke on a string that rang
        (5.0, 0.1, True, True),
    ],
)
def test_a_chance_where_nothing_rises_and_the_sound_falls_is_no_note(rise_db, contrast_db, falls, heard):
    rows, found = asked_events(SAME), match(run(), SAME, first_beat_s=FIRST_S)
    notes = list(found.heard)
    at_s = notes[5].onset_s
    notes[5] = replace(notes[5], rise_db=rise_db, contrast_db=contrast_db)
    frames = np.arange(400 * len(rows)) * 0.005
    level = np.where(falls & (frames >= at_s) & (frames < at_s + 0.1), -24.0, -20.0)
    left = first_of_doubles(replace(found, heard=tuple(notes)), flat_level(len(frames), level), SAME, frozenset())
    assert (left.heard[5] is not None) == heard


@pytest.mark.parametrize(
    ("semitones", "under_db", "length_s", "heard"),
    [
        (0.0, 16.0, 0.1, True),  # as asked, and another pitch before it
        (0.0, 16.0, 0.04, False),  # hardly longer than the stroke
        (1.0, 16.0, 0.1, False),  # another pitch than asked
        (0.0, 26.0, 0.1, False),  # nobody hears it
    ],
)
def test_a_soft_stroke_is_a_note_where_the_asked_pitch_comes_with_it(semitones, under_db, length_s, heard):
    asked = drill("Alternate picking 1 2 4, up: string 2")
    rows, spb = asked_events(asked), asked.seconds_per_beat
    notes = [note(FIRST_S + e.beat * spb, e.start_midi, 0.3) for e in rows]
    found = replace(match(notes, asked, first_beat_s=FIRST_S), extras=())
    soft = note(notes[4].onset_s, rows[4].start_midi + semitones, length_s, rise_db=0.6, contrast_db=0.2)
    notes[4] = replace(soft, level_dbfs=-20.0 - under_db)
    count = 400 * len(rows)
    # Where it begins the sound of the note before falls.
    level = np.where(np.arange(count) * 0.005 >= soft.onset_s, -20.0 - under_db, -20.0)
    left = first_of_doubles(replace(found, heard=tuple(notes)), flat_level(count, level), asked, frozenset())
    assert (left.heard[4] is not None) == heard


def test_a_soft_rise_of_the_pitch_that_sounds_already_is_none():
    notes = run()
    notes[5] = replace(notes[5], rise_db=0.6, contrast_db=0.2, level_dbfs=-36.0)
    count = 400 * len(notes)
    found = replace(match(run(), SAME, first_beat_s=FIRST_S), heard=tuple(notes), extras=())
    left = first_of_doubles(found, flat_level(count, np.full(count, -20.0)), SAME, frozenset())
    assert left.heard[5] is None


def chord_told(chord, best, fits=0.6):
    """A spectrum that fits each note of a chord so well, and one semitone best of all."""
    score = np.zeros((1, 60), np.float32)
    score[0, np.array(chord) - 30] = fits
    score[0, best - 30] = 1.4
    one = np.full(1, 1.4, np.float32)
    return Salience(score, 30, one, one, np.zeros(1, np.float32), score, 30)


@pytest.mark.parametrize(
    ("chord", "best", "own"),
    [
        ((57, 64), 45, True),  # of a fifth: half of its lower note
        ((67, 76), 48, True),  # of a sixth: a third
        ((67, 76), 60, True),  # the difference of its two, as drive makes it
        ((60, 70), 36, False),  # a seventh is 31 cents beside the seventh partial
        ((57, 64), 55, False),
        ((67, 76), 71, False),
    ],
)
def test_a_low_pitch_that_a_chord_makes_by_itself_does_not_speak_against_it(chord, best, own):
    costs = _chord_costs(chord_told(chord, best), [chord, (50, 53)], 0.0)
    assert bool(costs[0, 0] < 0.5) is own
    assert costs[0, 1] == pytest.approx(0.5 * MATCH.together_cost + MATCH.chord_cost_most)


@pytest.mark.parametrize(("under_db", "heard"), [(10.0, True), (30.0, False)])
def test_a_slur_nobody_can_hear_is_none(under_db, heard):
    asked = drill("Slurs through A minor pentatonic, 2 notes a string, up")
    rows = asked_events(asked)
    spb = asked.seconds_per_beat
    slurred = next(i for i, e in enumerate(rows) if e.notes[0].event.articulation != "pick")
    notes = [note(FIRST_S + e.beat * spb, e.start_midi, 0.4) for e in rows]
    notes[slurred] = replace(notes[slurred], level_dbfs=-20.0 - under_db, kind="step")
    found = replace(match(notes, asked, first_beat_s=FIRST_S), heard=tuple(notes), extras=())
    count = 400 * len(rows)
    left = first_of_doubles(found, flat_level(count, np.full(count, -20.0)), asked, frozenset())
    assert (left.heard[slurred] is not None) == heard

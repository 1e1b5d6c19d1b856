"""Heard against asked, with known departures."""

import itertools
from dataclasses import replace

import pytest
from fortimetra import TakeError
from fortimetra.align.grid import find_grid
from fortimetra.align.pair import match
from fortimetra.drills.fretted_then_bend import fretted_then_bend
from fortimetra.drills.library import built_in_drills
from fortimetra.guess import rank
from fortimetra.hear.notes import HeardNote
from fortimetra.model.context import Click

DRILL = fretted_then_bend(title="t", string=3, fret=7, target_cents=200, repeats=3, bpm=60)
SCORE = [(0, 64, 64), (1, 62, 62), (2, 62, 64), (4, 64, 64)]


def note(onset_s, start, main=None, length_s=0.8):
    main = start if main is None else main
    return HeardNote(onset_s, onset_s + length_s, start, start, main, -20.0, "attack")


def performance(*, spb=1.0, first_s=2.0, shift=0.0, repeats=3):
    return [
        note(first_s + spb * (8 * repeat + beat), start + shift, main + shift)
        for repeat in range(repeats)
        for beat, start, main in SCORE
    ]


def played(result):
    return [n is not None for n in result.heard]


def test_a_take_as_asked_is_paired_one_to_one():
    heard = performance()
    result = match(heard, DRILL)
    assert list(result.heard) == heard
    assert result.extras == ()
    assert all(result.fits(i) for i in range(12))


@pytest.mark.parametrize("gone", range(12))
def test_one_missing_note_is_missing_and_shifts_nothing(gone):
    heard = performance()
    lost = heard.pop(gone)
    result = match(heard, DRILL)
    assert played(result) == [i != gone for i in range(12)]
    assert lost not in result.heard


@pytest.mark.parametrize("at", range(1, 12))
def test_one_extra_note_is_extra_and_shifts_nothing(at):
    heard = performance()
    extra = note(heard[at].onset_s - 0.35, 57)
    result = match(sorted([*heard, extra], key=lambda n: n.onset_s), DRILL)
    assert list(result.heard) == heard
    assert result.extras == (extra,)


def test_noodling_before_and_after_is_not_held_against_the_take():
    before = [note(0.2 * i, 55 + i % 3) for i in range(6)]
    after = [note(40 + 0.2 * i, 70 - i) for i in range(6)]
    heard = performance(first_s=3.0)
    result = match([*before, *heard, *after], DRILL)
    assert list(result.heard) == heard
    assert result.extras == ()


def test_a_wrong_pitch_at_the_right_time_is_played_but_does_not_fit():
    heard = performance()
    heard[4] = note(heard[4].onset_s, 65)
    result = match(heard, DRILL)
    assert result.heard[4] == heard[4]
    assert [result.fits(i) for i in range(12)] == [i != 4 for i in range(12)]


@pytest.mark.parametrize("cents", [-80.0, -45.0, 60.0, 80.0])
def test_a_guitar_out_of_tune_as_a_whole_is_told(cents):
    result = match(performance(shift=cents / 100), DRILL)
    assert all(played(result))
    assert result.offset_cents == pytest.approx(cents, abs=1.0)
    assert all(result.fits(i) for i in range(12))


def test_a_flat_bend_still_fits():
    heard = performance()
    heard[2] = note(heard[2].onset_s, 62, 63.2)
    assert match(heard, DRILL).fits(2)


def test_half_a_take_is_half_missed_not_a_wrong_drill():
    result = match(performance(repeats=1), DRILL)
    assert played(result) == [True] * 4 + [False] * 8


@pytest.mark.parametrize(
    "heard",
    [
        [note(1 + 0.25 * i, 40 + (i * 7) % 12) for i in range(24)],
        [note(1 + i, 52) for i in range(12)],
    ],
    ids=["a run low down", "one note over and over"],
)
def test_another_drill_is_called_so(heard):
    with pytest.raises(TakeError, match=r"does not look like the drill .t.: \d+ of its 12 notes fit") as error:
        match(heard, DRILL)
    assert error.value.code == "wrong_drill"


def test_no_notes_at_all_is_a_sentence():
    with pytest.raises(TakeError) as error:
        match([], DRILL)
    assert error.value.code == "no_notes"


def test_a_long_take_is_matched_within_its_band():
    drill = DRILL.model_copy(update={"repeats": 190})
    heard = performance(repeats=190)
    del heard[300]
    result = match(heard, drill)
    assert sum(played(result)) == len(heard)


def test_grid_is_fitted_with_tempo_and_phase():
    result = match(performance(spb=0.9, first_s=2.5), DRILL)
    grid = find_grid(result, DRILL, None)
    assert grid.source == "fitted"
    assert grid.bpm == pytest.approx(60 / 0.9, rel=1e-3)
    assert grid.first_beat_s == pytest.approx(2.5, abs=1e-3)


def test_a_recorders_click_wins_and_its_latency_counts():
    click = Click(format="fortimetra-click", version=1, source="recorder", bpm=60, first_beat_s=2.0, latency_ms=12.0)
    grid = find_grid(match(performance(), DRILL), DRILL, click)
    assert (grid.source, grid.first_beat_s) == ("recorder", pytest.approx(2.012))


def test_free_time_has_no_grid():
    drill = DRILL.model_copy(update={"tempo": None})
    assert find_grid(match(performance(), drill), drill, None).source == "none"


def test_the_drill_whose_notes_were_played_is_guessed_among_the_whole_library():
    drills = [d for d in built_in_drills() if d.family != "set_up"]
    found = rank(performance(), [*drills, DRILL])
    assert found[0].drill == len(drills) or drills[found[0].drill].events == DRILL.events
    assert found[0].share == 1.0
    assert all(a.share >= b.share for a, b in itertools.pairwise(found))


def test_notes_of_no_drill_are_no_guess():
    nothing = [note(i * 0.61, 47.3 + 1.7 * (i % 5)) for i in range(20)]
    assert rank(nothing, [DRILL]) == ()


@pytest.mark.parametrize("count", [1, 2])
def test_who_stops_early_played_the_first_repeats(count):
    result = match(performance(repeats=count), DRILL)
    assert played(result) == [i < 4 * count for i in range(12)]


@pytest.mark.parametrize("skipped", [0, 1, 2])
def test_the_recorders_click_says_which_repeat_it_was(skipped):
    heard = performance(first_s=2.0 + 8.0 * skipped, repeats=1)
    result = match(heard, DRILL, first_beat_s=2.0)
    assert played(result) == [i // 4 == skipped for i in range(12)]


def test_where_the_click_lies_outweighs_nothing_that_was_heard():
    heard = performance(repeats=3)
    assert match(heard, DRILL, first_beat_s=500.0).heard == match(heard, DRILL).heard == tuple(heard)


def test_a_click_is_heard_after_its_round_trip():
    click = Click(format="fortimetra-click", version=1, source="recorder", bpm=60, first_beat_s=1.5, latency_ms=40.0)
    assert click.heard_s == pytest.approx(1.54)
    assert click.model_copy(update={"first_beat_s": None}).heard_s is None


# -- breaking off and beginning again ------------------------------------------------------------------------

SCALE = next(d for d in built_in_drills() if d.title.startswith("Scale over quiet low strings: A minor"))


def scale(first_s=2.0, *, until=None, repeats=1, drill=SCALE):
    """The scale's events as heard: (event of its repeat, note), up to an event of the last repeat."""
    spb = drill.seconds_per_beat
    sounding = [e for e in drill.events if e.notes]
    found = []
    for repeat in range(repeats):
        last = until if repeat == repeats - 1 and until is not None else len(sounding)
        for event in sounding[:last]:
            at = first_s + (repeat * drill.length_beats + event.beat) * spb
            found.append(note(at, round(drill.midi(event.notes[0])), length_s=0.9 * event.length * spb))
    return found


def beats(count, drill=SCALE):
    return count * drill.seconds_per_beat


@pytest.mark.parametrize("broken_at", [4, 7, 11])
@pytest.mark.parametrize("click", [True, False])
def test_a_passage_begun_again_counts_once_and_is_no_extra(broken_at, click):
    drill = SCALE.model_copy(update={"repeats": 2})
    first = scale(until=broken_at)
    again_s = first[-1].onset_s + 1.4
    again_s = 2.0 + beats(round((again_s - 2.0) / beats(1)))
    whole = scale(again_s, repeats=2)
    result = match([*first, *whole], drill, first_beat_s=2.0 if click else None)
    assert list(result.heard) == whole
    assert result.extras == ()
    (attempt,) = result.attempts
    assert list(attempt.notes) == first
    assert attempt.events == tuple(range(broken_at))


def test_a_passage_begun_again_is_told_though_a_room_rises_after_each_note():
    drill = SCALE.model_copy(update={"repeats": 1})
    first = scale(until=len(scale()) - 2)
    whole = scale(2.0 + beats(round((first[-1].onset_s + 1.4 - 2.0) / beats(1))))
    # It answers each note after a tenth of a second, with a rise of its pitch and without an attack.
    answers = [
        replace(n, onset_s=n.onset_s + 0.1, rise_db=4.0, contrast_db=1.0, onset_u_ms=15.0) for n in [*first, *whole]
    ]
    heard = sorted([*first, *whole, *answers], key=lambda n: n.onset_s)
    result = match(heard, drill, first_beat_s=2.0)
    assert list(result.heard) == whole
    (attempt,) = result.attempts
    assert list(attempt.notes) == first
    assert result.extras == ()


def test_beginning_again_from_the_bar_keeps_what_was_good():
    drill = SCALE.model_copy(update={"repeats": 1})
    per_bar = drill.tempo.beats_per_bar
    sounding = [e for e in drill.events if e.notes]
    bar = next(i for i, e in enumerate(sounding) if e.beat >= per_bar)
    head = scale(until=bar + 3)
    gap = beats(4)
    tail = [
        note(n.onset_s + gap, n.start_midi, length_s=0.3)
        for n in scale()[bar:]
    ]  # fmt: skip
    tail = [n for n in tail if n.onset_s > head[-1].onset_s]
    result = match([*head, *tail], drill, first_beat_s=2.0)
    assert list(result.heard[:bar]) == head[:bar]
    assert list(result.heard[bar:]) == tail
    assert len(result.attempts) == 1


def test_a_long_stop_moves_nothing():
    drill = SCALE.model_copy(update={"repeats": 2})
    heard = scale(repeats=2)
    late = [n if i < 9 else note(n.onset_s + 60.0, n.start_midi, length_s=0.3) for i, n in enumerate(heard)]
    result = match(late, drill)
    assert list(result.heard) == late
    assert result.attempts == ()


def test_a_repeat_played_once_more_is_an_attempt_and_no_wrong_note():
    drill = SCALE.model_copy(update={"repeats": 1})
    heard = scale(repeats=2)
    result = match(heard, drill)
    assert played(result) == [True] * len(result.events)
    assert result.extras == ()


def test_a_clean_take_has_no_attempts():
    drill = SCALE.model_copy(update={"repeats": 3})
    heard = scale(repeats=3)
    assert match(heard, drill).attempts == ()
    assert list(match(heard, drill).heard) == heard


def test_sounds_between_attempts_are_not_of_the_drill():
    drill = SCALE.model_copy(update={"repeats": 1})
    first = scale(until=6)
    cough = [note(first[-1].onset_s + 0.8 + 0.1 * i, 90.5, length_s=0.05) for i in range(3)]
    whole = scale(first[-1].onset_s + beats(4))
    result = match([*first, *cough, *whole], drill)
    assert list(result.heard) == whole
    assert not set(cough) & set(result.extras)


@pytest.mark.parametrize(("cents", "told"), [(-18, True), (-9, True), (-4, False), (14, False), (25, True)])
def test_flat_all_alike_is_the_guitar_a_little_sharp_is_not(cents, told):
    heard = scale()
    off = [note(n.onset_s, n.start_midi + cents / 100.0, length_s=0.3) for n in heard]
    result = match(off, SCALE.model_copy(update={"repeats": 1}))
    assert (abs(result.offset_cents) > 0) == told


def test_a_slide_may_be_flat_all_alike_by_itself():
    tube = next(d for d in built_in_drills() if d.family == "bottleneck" and max(len(e.notes) for e in d.events) == 1)
    tube = tube.model_copy(update={"repeats": 1})
    off = [note(n.onset_s, n.start_midi - 0.18, length_s=0.3) for n in scale(drill=tube)]
    assert match(off, tube).offset_cents == 0.0

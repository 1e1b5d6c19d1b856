"""What is told of two strokes for one note."""

import pytest
from fortimetra.align.doubles import _RisesAfter
from fortimetra.align.settings import LISTEN

LATER_S = 0.037


def rises(*after_s):
    """One rise after each of the notes of a pitch, so much later; None where there is none."""
    return _RisesAfter(len(after_s), [(number, s) for number, s in enumerate(after_s) if s is not None])


def test_what_rises_as_late_after_every_stroke_is_the_rooms_or_the_guitars():
    assert rises(0.036, 0.037, 0.038, 0.037).comes_every_time(1, LATER_S, 0.4)


def test_what_rises_after_one_stroke_in_four_is_the_hands():
    assert not rises(None, LATER_S, None, None).comes_every_time(1, LATER_S, 0.4)


def test_a_hand_that_strikes_every_note_twice_is_not_even_to_the_millisecond():
    assert not rises(0.028, 0.037, 0.046, 0.054).comes_every_time(1, LATER_S, 0.4)


def test_what_breaks_what_rings_is_a_stroke_however_often_it_comes():
    assert not rises(*[LATER_S] * 8).comes_every_time(1, LATER_S, LISTEN.every_time_contrast_db)


@pytest.mark.parametrize("notes", [1, 2, 3])
def test_few_notes_of_a_pitch_do_not_tell(notes):
    assert not rises(*[LATER_S] * notes).comes_every_time(0, LATER_S, 0.4)

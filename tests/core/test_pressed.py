"""Strings that are pressed instead of touched, and rings that are only the room's."""

from __future__ import annotations

from dataclasses import replace

import pytest
from fortimetra.drills.library import library
from fortimetra.judge.note import as_asked, missed_note
from fortimetra.measure.pressed import Place, pressed_places
from fortimetra.measure.quiet import Quiet
from fortimetra.measure.ring import Ringing
from fortimetra.measure.settings import OVERLAP
from fortimetra.measure.strings import Part, Span, Suspect, roles_in
from fortimetra.measure.tail import Tail
from fortimetra.model.analysis import LevelFound, TimingFound

OPEN_HZ = (329.63, 246.94, 196.0, 146.83, 110.0, 82.41)


def part(string, fret, from_s=0.0, until_s=1.0, *, bent=False, under=()):
    hz = OPEN_HZ[string - 1] * 2.0 ** (fret / 12.0)
    return Part(0, string, fret, hz, from_s, until_s, bent, frozenset(under))


def suspect(string, fret=0):
    return Suspect(string, fret, OPEN_HZ[string - 1] * 2.0 ** (fret / 12.0))


def test_a_finger_presses_where_it_lies_and_the_first_over_all_thinner_strings():
    quiet = [4, 3, 2, 1]
    assert pressed_places([Place(6, 3), Place(5, 5)], quiet, slide=False) == {(4, 3), (4, 5), (3, 3), (2, 3), (1, 3)}


def test_under_a_slide_every_string_lies():
    assert pressed_places([Place(4, 7), Place(2, 7)], [1, 3, 5, 6], slide=True) == {(s, 7) for s in (1, 3, 5, 6)}


def test_open_strings_press_nothing():
    assert pressed_places([Place(5, 0), Place(4, 0)], [1, 2, 3, 6], slide=False) == set()


def test_a_pressed_string_is_a_suspect_only_under_the_hand_that_lies_on_it():
    under = part(3, 7, under={(2, 7)})
    suspects = [suspect(2), suspect(2, 7), suspect(4, 7)]
    assert roles_in(Span(0.1, 0.9, (under,), 0, (under,)), suspects) == {0: "open", 1: "pressed"}


def test_an_open_string_of_the_same_pitch_is_believed_first():
    # String 3 at fret 4 and string 2 open are one pitch.
    under = part(4, 6, under={(3, 4)})
    roles = roles_in(Span(0.1, 0.9, (under,), 0, (under,)), [suspect(2), suspect(3, 4)])
    assert roles == {0: "open"}


def test_what_a_bend_has_passed_is_the_rooms_not_the_open_strings():
    bent = part(4, 5, bent=True)  # begins at the pitch of open string 3
    span = Span(0.1, 0.9, (bent,), 0, (bent,))
    assert roles_in(span, [suspect(3)]) == {0: "echo"}
    assert roles_in(replace(span, parts=(part(4, 5),)), [suspect(3)]) == {0: "open"}


@pytest.mark.parametrize(
    ("level_db", "room"),
    # 150 ms after the string has left it, a room whose tail is 150 ms holds it 20 dB down.
    [(-OVERLAP.within_db - 3.0, True), (-OVERLAP.within_db + 8.0, False)],
)
def test_a_room_holds_what_a_string_has_left(level_db, room):
    left = part(4, 5, until_s=1.0)
    ring = Ringing(3, 0, left.hz, "open", 1.1, 1.2, level_db, 2.0, 0.0)
    quiet = Quiet((left,), (), None, (), (), (), None, tail=Tail(150.0))
    assert quiet.is_the_rooms(ring) is room
    assert not replace(quiet, tail=Tail(None)).is_the_rooms(ring)
    assert not replace(quiet, parts=(part(4, 7, until_s=1.0),)).is_the_rooms(ring)


def test_what_is_not_asked_for_is_null():
    drill = next(b.drill for b in library() if b.drill.title.startswith("Alternate picking 1 2 3 4, up"))
    note = missed_note(next(iter(drill.asked()))).model_copy(
        update={
            "timing": TimingFound(grid_s=1.0, error_ms=90.0, u=1.0, verdict="outside"),
            "level": LevelFound(level_db=0.0, deviation_db=9.0, u=1.0, dies=False, verdict="outside"),
        }
    )
    assert as_asked(note, drill.measures) == note
    bare = as_asked(note, ("pitch", "level"))
    assert bare.timing is None
    assert bare.level == note.level

"""What is told of two strokes for one note."""

from dataclasses import replace

import numpy as np
import pytest
from fortimetra.align import doubles
from fortimetra.align.doubles import _RisesAfter, _Unlike, _unlike_others
from fortimetra.align.match import asked_events
from fortimetra.align.pair import match
from fortimetra.align.settings import EXTRAS, LISTEN
from fortimetra.drills.library import library
from fortimetra.hear.notes import HeardNote

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


PICKED = next(b.drill for b in library() if b.drill.title.startswith("Alternate picking 1 2 3 4, up: strings 3 and 2"))
SLURRED = next(b.drill for b in library() if b.drill.title.startswith("Finger pairs 1-2: string 3"))
FIRST_S = 1.0
AFTER_S = np.arange(0.025, 0.061, 0.0025)
PLACE = 8


def unlike(monkeypatch, risen_db, *, drill=PICKED, single_db=0.2, early_s=0.0):
    """What is told where the second note rises so far at one of the times, and all others by single_db; the third is
    early. Also how many strokes were looked at.
    """
    looked_at = []

    def fake(_mono, onsets_s, *_rest, **_options):
        looked_at.append(len(onsets_s))
        told = np.full((len(onsets_s), len(AFTER_S)), single_db)
        told[1:2, PLACE] = risen_db
        return AFTER_S, told

    monkeypatch.setattr(doubles, "risen_unlike_others", fake)
    times = [FIRST_S + e.beat * drill.seconds_per_beat for e in asked_events(drill)]
    notes = [
        HeardNote(t, t + 0.1, e.start_midi, e.start_midi, e.start_midi, -20.0, "attack", rise_db=12.0, contrast_db=20.0)
        for t, e in zip(times, asked_events(drill), strict=True)
    ]
    matched = match(notes, drill)
    matched = replace(
        matched,
        heard=tuple(replace(n, onset_s=n.onset_s - early_s) if i == 2 else n for i, n in enumerate(matched.heard)),
    )
    found = _unlike_others(matched, drill, np.zeros(1, np.float32), 44_100)
    return {i: u.alone_s for i, u in found.items() if u.alone_s is not None}, looked_at[0]


@pytest.mark.parametrize(("risen_db", "told"), [(1.79, False), (1.81, True)])
def test_so_much_has_to_rise_that_rises_after_no_other(monkeypatch, risen_db, told):
    assert LISTEN.double_unlike_db == 1.8
    found, _ = unlike(monkeypatch, risen_db)
    assert list(found) == [1] * told
    assert all(s == pytest.approx(AFTER_S[PLACE]) for s in found.values())


@pytest.mark.parametrize(("risen_db", "told"), [(2.69, False), (2.71, True)])
def test_and_so_many_times_what_single_strokes_of_the_take_rise(monkeypatch, risen_db, told):
    assert LISTEN.double_unlike_times == 3.0
    assert list(unlike(monkeypatch, risen_db, single_db=0.9)[0]) == [1] * told


@pytest.mark.parametrize(("left_s", "told"), [(0.019, False), (0.021, True)])
def test_what_is_just_before_the_next_note_is_its_own(monkeypatch, left_s, told):
    assert LISTEN.double_clear_s == 0.02
    slot_s = PICKED.events[0].length * PICKED.seconds_per_beat
    early_s = slot_s - AFTER_S[PLACE] - left_s
    assert early_s < slot_s - EXTRAS.double_s + 0.02
    assert list(unlike(monkeypatch, 4.0, early_s=early_s)[0]) == [1] * told


@pytest.mark.parametrize(
    ("risen_db", "rise_db", "contrast_db", "after_s", "told"),
    [
        (0.91, 1.31, 0.51, 0.045, True),
        (0.89, 1.31, 0.51, 0.045, False),
        (0.91, 1.29, 0.51, 0.045, False),
        (0.91, 1.31, 0.49, 0.045, False),
        (0.91, 1.31, 0.51, 0.0565, True),
        (0.91, 1.31, 0.51, 0.0575, False),
        (3.0, 3.0, 3.0, 0.024, False),
    ],
)
def test_a_rise_that_breaks_what_rings_is_a_stroke_where_half_of_what_tells_alone_comes_with_it(
    risen_db, rise_db, contrast_db, after_s, told
):
    risen = np.full(len(AFTER_S), -np.inf)
    risen[PLACE] = risen_db
    assert AFTER_S[PLACE] == pytest.approx(0.045)
    assert _Unlike(AFTER_S, risen, LISTEN.double_unlike_db).bears_out(after_s, rise_db, contrast_db) is told


def test_of_slurs_nothing_is_asked(monkeypatch):
    _, looked_at = unlike(monkeypatch, 4.0, drill=SLURRED)
    picked = [e for e in asked_events(SLURRED) if e.notes[0].event.articulation == "pick"]
    assert looked_at == len(picked) < len(asked_events(SLURRED))

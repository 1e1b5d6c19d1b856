"""What a reverb or a delay brings back is told from what a hand plays beside the drill."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from fortimetra.align.echoes import without_echoes
from fortimetra.align.match import Match, asked_events
from fortimetra.drills.library import built_in_drills
from fortimetra.hear.notes import HeardNote

DRILL = next(d for d in built_in_drills() if d.title.startswith("Finger pairs 1-2"))
EVENTS = tuple(asked_events(DRILL))
SLOT_S = 0.5


def note(onset_s, level_dbfs=-20.0, contrast_db=20.0):
    return HeardNote(
        onset_s, onset_s + 0.2, 57.0, 57.0, 57.0, level_dbfs, "attack", rise_db=2.0, contrast_db=contrast_db
    )


def after(delays_s, *, level_dbfs=-24.0, contrast_db=7.0):
    """The extras that are left of those that come so long after the notes, one each."""
    heard = tuple(note(1.0 + SLOT_S * i) for i in range(len(EVENTS)))
    extras = tuple(note(1.0 + SLOT_S * i + delay, level_dbfs, contrast_db) for i, delay in enumerate(delays_s))
    return without_echoes(Match(EVENTS, heard, extras, offset_cents=0.0)).extras


@pytest.mark.parametrize(("count", "left"), [(2, 2), (3, 0)])
def test_what_comes_back_after_the_same_time_thrice_is_an_echo(count, left):
    assert len(after([0.1] * count)) == left


@pytest.mark.parametrize(("apart_s", "left"), [(0.0028, 0), (0.0032, 3)])
def test_an_echo_comes_within_three_milliseconds_of_the_same_time(apart_s, left):
    assert len(after([0.1, 0.1 + apart_s, 0.1 - apart_s])) == left


def test_extras_that_a_hand_plays_scatter_and_stay():
    hand = np.random.default_rng(3).normal(0.1, 0.006, 12)
    assert len(after(hand.tolist())) == 12


@pytest.mark.parametrize(("beside", "left"), [(1, 1), (2, 6)])
def test_nearly_all_that_comes_about_then_comes_so_evenly(beside, left):
    assert len(after([0.1] * 4 + [0.11] * beside)) == left


def test_what_comes_later_than_a_hand_scatters_is_another_thing():
    assert len(after([0.1] * 4 + [0.116] * 2)) == 2


@pytest.mark.parametrize(("level_dbfs", "left"), [(-23.1, 0), (-22.9, 3)])
def test_an_echo_is_three_decibels_softer_than_its_note(level_dbfs, left):
    assert len(after([0.1] * 3, level_dbfs=level_dbfs)) == left


@pytest.mark.parametrize(("contrast_db", "left"), [(9.9, 0), (10.1, 3)])
def test_what_breaks_what_rings_was_struck(contrast_db, left):
    assert len(after([0.1] * 3, contrast_db=contrast_db)) == left


def test_what_comes_before_every_note_is_no_echo():
    heard = tuple(note(1.0 + SLOT_S * i) for i in range(len(EVENTS)))
    early = tuple(note(t, -24.0, 7.0) for t in (0.3, 0.5, 0.7))
    matched = Match(EVENTS, heard, early, offset_cents=0.0)
    assert without_echoes(matched) == matched
    assert without_echoes(replace(matched, extras=())).extras == ()

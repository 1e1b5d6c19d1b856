"""Like notes in a row: which sound is which is told by the beat."""

from dataclasses import replace

import numpy as np
import pytest
from fortimetra.align.alike import by_the_beat
from fortimetra.align.match import Match, asked_events
from fortimetra.drills.library import built_in_drills
from fortimetra.hear.notes import HeardNote

DRILL = next(d for d in built_in_drills() if d.title.startswith("Fastest even run: string 3")).model_copy(
    update={"repeats": 1}
)
EVENTS = asked_events(DRILL)
SPB = DRILL.seconds_per_beat
DUE_S = np.array([2.0 + e.beat * SPB for e in EVENTS])
SLOT_S = float(np.min(np.diff(DUE_S)))


def note(onset_s):
    return HeardNote(onset_s, onset_s + 0.8 * SLOT_S, 62.0, 62.0, 62.0, -20.0, "attack")


def played(seed=0):
    """Everything as asked, as hands play it."""
    scatter = np.random.default_rng(seed).normal(0.0, 0.08 * SLOT_S, len(EVENTS))
    return [note(t) for t in DUE_S + scatter]


def matched(heard, extras=(), **other):
    return Match(EVENTS, tuple(heard), tuple(extras), 0.0, tuple(0.0 if n else None for n in heard), **other)


def test_what_is_right_stays_as_it_is():
    match = matched(played())
    assert by_the_beat(match, SPB) == match


@pytest.mark.parametrize("first", [3, 9])
@pytest.mark.parametrize("last", [12, 19])
def test_a_gap_that_was_pushed_along_is_put_where_nothing_sounded(first, last):
    # Nothing sounded at `first`; each sound after it was taken for the event before its own, up to `last`.
    right = played()
    right[first] = None
    wrong = [*right[:first], *right[first + 1 : last + 1], None, *right[last + 1 :]]
    found = by_the_beat(matched(wrong), SPB, first_beat_s=2.0)
    assert list(found.heard) == right
    assert found.extras == ()
    assert [t is None for t in found.told_semitones] == [n is None for n in right]


def test_without_a_click_the_notes_about_a_gap_tell():
    right = played()
    right[9] = None
    wrong = [*right[:9], *right[10:13], None, *right[13:]]
    assert list(by_the_beat(matched(wrong), SPB).heard) == right


def test_a_sound_too_many_is_the_one_off_the_beat():
    # A sound between 14 and 15 was taken for 14, and 5 to 13 for those before their own: 5 was left over.
    right = played()
    stray = note(DUE_S[14] + 0.5 * SLOT_S)
    wrong = [*right[:5], *right[6:15], stray, *right[15:]]
    found = by_the_beat(matched(wrong, [right[5]]), SPB, first_beat_s=2.0)
    assert list(found.heard) == right
    assert found.extras == (stray,)


def test_who_plays_late_is_late():
    # Half a slot late from some place on, as after a hesitation, is no other note.
    late = [n if i < 10 else replace(n, onset_s=n.onset_s + 0.45 * SLOT_S) for i, n in enumerate(played())]
    match = matched(late)
    assert by_the_beat(match, SPB) == match


def test_who_loses_a_slot_and_goes_on_has_left_out_no_note():
    slipped = [n if i < 10 else replace(n, onset_s=n.onset_s + SLOT_S) for i, n in enumerate(played())]
    match = matched(slipped)
    assert by_the_beat(match, SPB, first_beat_s=2.0) == match


def test_a_sound_somebody_has_named_and_a_stop_are_left_alone():
    right = played()
    right[5] = None
    wrong = [*right[:5], *right[6:13], None, *right[13:]]
    for match, fixed in (
        (matched(wrong), frozenset(range(len(EVENTS)))),
        (matched(wrong, breaks=(6, 9, 12)), frozenset()),
    ):
        assert by_the_beat(match, SPB, fixed, first_beat_s=2.0).heard[12] is None

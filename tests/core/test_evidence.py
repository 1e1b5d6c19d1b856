"""What is asked of a comb's partials, as its sentences say it."""

import numpy as np
from fortimetra.measure.evidence import _fitting, _own_and_filled
from fortimetra.measure.settings import EVIDENCE

ENOUGH = EVIDENCE.own_evidence + 1.0


def fits(partials, *, own=None, loud=False):
    """The evidence of one comb in one window."""
    values = np.array(partials, np.float32)[None, None]
    mine = np.ones(values.shape, bool) if own is None else np.array(own)[None, None]
    return _fitting(values, mine, np.array([[loud]]), EVIDENCE.own_evidence)[0, 0]


def test_a_row_of_partials_counts_whole():
    assert fits([ENOUGH] * 6) == 6 * ENOUGH


def test_one_strong_partial_is_a_body_or_a_hum_and_no_string():
    assert fits([9 * ENOUGH, 0.0, 0.0, 0.0, 0.0, 0.0]) == 0.0


def test_partials_that_are_all_of_an_octave_or_a_twelfth_above_are_that_ones():
    assert fits([0.0, ENOUGH] * 3) == 0.0
    assert fits([0.0, 0.0, ENOUGH] * 2) == 0.0


def test_what_notes_just_played_set_ringing_counts_where_it_is_louder_than_their_answer():
    answers = [False] * 6
    assert fits([ENOUGH] * 6, own=answers) == 0.0
    assert fits([ENOUGH] * 6, own=answers, loud=True) == 6 * ENOUGH


def test_what_speaks_against_a_comb_is_kept():
    assert fits([-2.0, 0.0, 0.0]) == -2.0


def powers(power, clear):
    """Power of one comb's own partials and of covered ones; what lies around is at 1, a partial stands out at 10."""
    shape = (1, 1, len(power))
    own, filled = _own_and_filled(
        np.array(power, np.float32).reshape(shape), np.ones(shape, np.float32), np.array(clear).reshape(shape), 10.0
    )
    return own[0, 0], filled[0, 0]


def test_only_clear_partials_that_stand_out_are_a_combs_own():
    assert powers([100.0, 5.0, 1e6], [True, True, False]) == (100.0, 0.0)


def test_a_covered_partial_lies_between_its_clear_neighbours_in_the_logarithm():
    own, filled = powers([1e4, 7.0, 100.0], [True, False, True])
    np.testing.assert_allclose((own, filled), (1e4 + 100.0, 1e3))


def test_one_under_the_first_clear_partial_has_its_level_and_one_over_the_last_none():
    own, filled = powers([7.0, 100.0, 7.0], [False, True, False])
    np.testing.assert_allclose((own, filled), (100.0, 100.0))

from types import SimpleNamespace

import pytest
from fortimetra.judge.other_sounds import cut_short
from fortimetra.judge.reasons import SENTENCES
from fortimetra.judge.verdict import corridor_verdict, together, verdict


@pytest.mark.parametrize(
    ("value", "u", "tolerance", "wanted"),
    [
        (0.0, 1.0, 15.0, "inside"),
        (14.0, 1.0, 15.0, "inside"),
        (-14.0, 1.0, 15.0, "inside"),
        (14.1, 1.0, 15.0, "unclear"),
        (16.0, 1.0, 15.0, "unclear"),
        (16.1, 1.0, 15.0, "outside"),
        (-16.1, 1.0, 15.0, "outside"),
        (3.0, 20.0, 15.0, "unclear"),
        (None, 1.0, 15.0, "unclear"),
        (3.0, None, 15.0, "unclear"),
    ],
)
def test_verdict_is_unclear_where_the_tolerance_lies_within_the_uncertainty(value, u, tolerance, wanted):
    assert verdict(value, u, tolerance) == wanted


@pytest.mark.parametrize(
    ("value", "wanted"), [(20.0, "unclear"), (21.5, "inside"), (50.0, "inside"), (82.0, "outside"), (15.0, "outside")]
)
def test_corridor_is_inside_between_its_ends(value, wanted):
    assert corridor_verdict(value, 1.0, 20.0, 80.0) == wanted


@pytest.mark.parametrize(
    ("verdicts", "wanted"),
    [
        ([], "inside"),
        (["inside"], "inside"),
        (["inside", "unclear"], "unclear"),
        (["unclear", "outside", "inside"], "outside"),
    ],
)
def test_the_worst_verdict_counts(verdicts, wanted):
    assert together(verdicts) == wanted


def test_every_sentence_is_one():
    for code, sentence in SENTENCES.items():
        assert code == code.lower()
        assert sentence[0].isupper()
        assert sentence.endswith(".")


@pytest.mark.parametrize(
    ("extra_s", "end_s", "cut"),
    [(1.2, 1.21, True), (1.2, 1.9, False), (2.6, 2.6, False), (None, 1.2, False)],
)
def test_a_note_is_cut_short_by_what_nobody_asked_for_before_its_half(extra_s, end_s, cut):
    # Begun at 1 s, asked for 2 s.
    match = SimpleNamespace(extras=[] if extra_s is None else [SimpleNamespace(onset_s=extra_s)])
    heard = SimpleNamespace(onset_s=1.0, end_s=end_s)
    assert cut_short(match, heard, 2.0) is cut

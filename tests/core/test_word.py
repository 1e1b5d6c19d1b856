"""The teacher's word changes verdicts and counts, never a measured value; comparing takes; correcting what is what."""

import numpy as np
import pytest
from fortimetra.coach.word import with_word
from fortimetra.drills.fretted_then_bend import fretted_then_bend
from fortimetra.judge.compare import compare
from fortimetra.model.word import Mark, Pin, Place
from fortimetra.player.faults import Faults, NoteFault
from pydantic import ValidationError
from scipy import stats

from tests.core.sounds import take
from tests.kept import analyse, render

N = NoteFault
ASKED = fretted_then_bend(title="t", string=3, fret=7, repeats=3, bpm=80.0)
FAULTY = {"bend@0": N(cents=-34.0), "bend@1": N(cents=-33.0), "back@2": N(cents=40.0)}
VALUES = ("onset_s", "end_s", "string", "fret", "status", "reasons")


def played(notes=None, **faults):
    return render(ASKED, Faults(notes=notes or {}, seed=5, **faults))


@pytest.fixture(scope="module")
def found():
    return analyse(take(played(FAULTY)[0]), drill=ASKED)


def note(analysis, id, repeat):
    return next(n for n in analysis.notes if (n.id, n.repeat) == (id, repeat))


def place(id, repeat):
    return (Place(id=id, repeat=repeat),)


def _values(analysis):
    """Everything measured: what is left when verdicts and words are taken away."""
    rows = []
    for n in analysis.model_dump()["notes"]:
        for part in n.values():
            if isinstance(part, dict):
                part.pop("verdict", None)
        rows.append({k: v for k, v in n.items() if k not in ("clean", "said", "measured")})
    return rows


def test_without_a_word_nothing_changes(found):
    assert with_word(found, ASKED, []) is found
    assert with_word(found, ASKED, [Mark(kind="comment", text="Good hold")]) is found


def test_meant_makes_a_note_clean_and_keeps_its_value(found):
    left = with_word(found, ASKED, [Mark(kind="meant", notes=place("bend", 0), text="the lick wants it")])
    was, now = note(found, "bend", 0), note(left, "bend", 0)
    assert (was.clean, now.clean, now.said) == ("outside", "inside", "meant")
    assert now.bend.error_cents == was.bend.error_cents
    assert {(m.measure, m.verdict) for m in now.measured} == {("bend", "outside"), ("clean", "outside")}
    assert left.summary.clean == found.summary.clean + 1
    assert left.summary.by_measure["bend"].outside == found.summary.by_measure["bend"].outside - 1
    assert _values(left) == _values(found)
    # Of two flat bends one was meant: that is no habit any more.
    assert [c.code for c in found.causes] == ["bend_flat"]
    assert left.causes == ()


def test_excluded_notes_are_asked_but_counted_nowhere(found):
    left = with_word(found, ASKED, [Mark(kind="excluded", notes=(*place("bend", 0), *place("bend", 1)))])
    s = left.summary
    assert (s.asked, s.excluded) == (found.summary.asked, 2)
    assert s.clean + s.not_clean + s.unclear + s.missed + s.excluded == s.asked
    assert s.not_clean == found.summary.not_clean - 2
    assert note(left, "bend", 0).clean is None
    assert s.clean_rate == s.clean / (s.asked - 2)
    assert {(b.string, b.fret): b.count for b in s.bends}[3, 7] == 1


def test_a_verdict_of_ones_own_needs_a_reason_and_counts(found):
    with pytest.raises(ValidationError, match="why"):
        Mark(kind="verdict", notes=place("bend", 2), verdict="outside")
    left = with_word(found, ASKED, [Mark(kind="verdict", notes=place("bend", 2), verdict="outside", text="thin tone")])
    assert note(left, "bend", 2).clean == "outside"
    assert left.summary.not_clean == found.summary.not_clean + 1


def test_one_measure_may_be_meant_while_another_stays_off(found):
    late = analyse(take(played({"bend@0": N(cents=-34.0, late_ms=90.0)})[0]), drill=_timed())
    both = note(late, "bend", 0)
    assert (both.bend.verdict, both.timing.verdict) == ("outside", "outside")
    left = with_word(late, _timed(), [Mark(kind="meant", notes=place("bend", 0), measure="bend")])
    now = note(left, "bend", 0)
    assert (now.bend.verdict, now.timing.verdict, now.clean) == ("inside", "outside", "outside")


def _timed():
    return ASKED.model_copy(update={"measures": ("pitch", "bend", "timing")})


def test_a_wrong_pitch_stays_wrong_where_only_its_tuning_is_meant():
    wrong = analyse(take(played({"target@1": N(wrong_frets=2)})[0]), drill=ASKED)
    assert note(wrong, "target", 1).status == "wrong_pitch"
    left = with_word(wrong, ASKED, [Mark(kind="meant", notes=place("target", 1), measure="pitch")])
    assert note(left, "target", 1).clean == "outside"
    left = with_word(wrong, ASKED, [Mark(kind="meant", notes=place("target", 1))])
    assert note(left, "target", 1).clean == "inside"


def test_the_last_word_counts(found):
    marks = [
        Mark(kind="excluded", notes=place("bend", 0)),
        Mark(kind="verdict", notes=place("bend", 0), verdict="inside", text="fine by me"),
    ]
    assert note(with_word(found, ASKED, marks), "bend", 0).clean == "inside"


def test_a_missed_note_that_was_left_out_on_purpose_is_not_counted():
    gone = analyse(take(played({"target@1": N(missed=True)})[0]), drill=ASKED)
    assert gone.summary.missed == 1
    left = with_word(gone, ASKED, [Mark(kind="meant", notes=place("target", 1))])
    assert (left.summary.missed, left.summary.excluded) == (0, 1)


def test_a_word_on_a_note_of_another_drill_changes_nothing(found):
    left = with_word(found, ASKED, [Mark(kind="meant", notes=place("elsewhere", 0))])
    assert left.summary == found.summary


@pytest.mark.parametrize(
    "wrong",
    [
        {"kind": "meant"},
        {"kind": "comment", "text": "  "},
        {"kind": "meant", "notes": [{"id": "a", "repeat": 0}], "verdict": "inside"},
        {"kind": "excluded", "notes": [{"id": "a", "repeat": 0}], "measure": "bend"},
        {"kind": "meant", "notes": [{"id": "a", "repeat": 0}] * 2001},
    ],
)
def test_marks_that_say_nothing_or_too_much_are_refused(wrong):
    with pytest.raises(ValidationError):
        Mark.model_validate(wrong)


# -- comparing --------------------------------------------------------------------------------------


def test_a_better_take_is_better_where_it_exceeds_the_uncertainty(found):
    better = analyse(take(played()[0]), drill=ASKED)
    told = compare(found, better)
    assert told.gained == 3
    assert told.lost == 0
    pair = next(p for p in told.pairs if (p.id, p.repeat) == ("bend", 0))
    (bend,) = [d for d in pair.differences if d.code == "bend_error"]
    assert bend.difference == pytest.approx(34.0, abs=2.0)
    assert (bend.clear, bend.better) == (True, True)
    rate = next(d for d in told.overall if d.code == "clean_rate")
    assert rate.difference == pytest.approx(100.0 * 3 / found.summary.asked, abs=0.1)


def test_a_take_against_itself_differs_in_nothing(found):
    told = compare(found, found)
    assert told.gained == told.lost == 0
    assert not any(d.clear for p in told.pairs for d in p.differences)
    assert not any(d.clear for d in told.overall)


@pytest.mark.parametrize(("cents", "clear"), [(2.0, False), (6.0, True)])
def test_a_difference_has_to_exceed_a_fifth_of_what_is_allowed(found, cents, clear):
    def moved(note):
        if note.pitch is None or note.pitch.error_cents is None or note.bend is not None:
            return note
        error = note.pitch.error_cents + cents
        return note.model_copy(update={"pitch": note.pitch.model_copy(update={"error_cents": error, "u": 0.2})})

    later = found.model_copy(update={"notes": tuple(moved(n) for n in found.notes)})
    told = compare(found, later, {"plain_pitch_cents": 20.0})
    own = [d for p in told.pairs for d in p.differences if d.code == "pitch_error" and d.u < 1.9]
    assert own
    assert {d.clear for d in own} == {clear}


def test_the_uncertainty_of_a_clean_rate_is_that_of_a_share(found):
    # Agresti & Coull's interval follows Wilson's, which SciPy has, closely also for few notes.
    told = next(d for d in compare(found, found).overall if d.code == "clean_rate")
    interval = stats.binomtest(found.summary.clean, found.summary.asked).proportion_ci(0.954, method="wilson")
    assert told.u / np.sqrt(2.0) == pytest.approx(100.0 * (interval.high - interval.low) / 2.0, rel=0.1)


# -- what is what -----------------------------------------------------------------------------------


def test_a_pinned_note_is_the_one_that_was_pointed_at():
    sound, _ = played({"target@1": N(wrong_frets=2)})
    as_heard = analyse(take(sound), drill=ASKED)
    onset = note(as_heard, "target", 1).onset_s
    moved = analyse(take(sound), drill=ASKED, pins=[Pin(id="target", repeat=1, at_s=None)])
    assert note(moved, "target", 1).status == "missed"
    again = analyse(take(sound), drill=ASKED, pins=[Pin(id="target", repeat=1, at_s=onset + 0.01)])
    assert note(again, "target", 1).onset_s == pytest.approx(onset, abs=1e-3)
    others = [n for n in as_heard.notes if (n.id, n.repeat) != ("target", 1)]
    assert [(n.id, n.repeat, n.onset_s) for n in others] == [
        (n.id, n.repeat, n.onset_s) for n in again.notes if (n.id, n.repeat) != ("target", 1)
    ]


def test_a_pin_moves_a_note_to_another_sound_and_frees_its_own():
    sound, _ = played()
    as_heard = analyse(take(sound), drill=ASKED)
    first, second = (note(as_heard, i, 1).onset_s for i in ("target", "back"))
    moved = analyse(take(sound), drill=ASKED, pins=[Pin(id="target", repeat=1, at_s=second)])
    assert note(moved, "target", 1).onset_s == pytest.approx(second, abs=1e-3)
    assert note(moved, "back", 1).onset_s != pytest.approx(second, abs=1e-3)
    assert first != second
    onsets = [n.onset_s for n in moved.notes if n.onset_s is not None]
    assert onsets == sorted(onsets)


def test_a_pin_to_silence_or_to_no_note_of_the_drill_changes_nothing():
    sound, _ = played()
    as_heard = analyse(take(sound), drill=ASKED)
    pins = [Pin(id="nowhere", repeat=0, at_s=2.0), Pin(id="target", repeat=99, at_s=2.0)]
    assert analyse(take(sound), drill=ASKED, pins=pins) == as_heard

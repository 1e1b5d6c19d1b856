"""What another version of the core changes: verdicts that flip, by measure."""

import json
from pathlib import Path

import pytest
from fortimetra import Analysis
from fortimetra.judge import Flip, added, flips

EXAMPLE = Path(__file__).parents[2] / "docs/formats/examples/analysis.example.json"


@pytest.fixture(scope="module")
def content():
    return json.loads(EXAMPLE.read_text())


def changed(content, **verdicts):
    """The example with other verdicts in its first note."""
    other = json.loads(json.dumps(content))
    note = other["notes"][0]
    for part, verdict in verdicts.items():
        if part == "clean":
            note["clean"] = verdict
        else:
            note[part]["verdict"] = verdict
    return Analysis.model_validate(other)


def rows(found):
    return [(f.measure, f.before, f.after, f.count) for f in found]


def test_the_same_flips_nothing(content):
    same = Analysis.model_validate(content)
    assert flips(same, same, {"pitch", "timing", "level", "bend"}) == ()


def test_each_measure_counts_where_the_drill_asks_for_it(content):
    timing = content["notes"][0]["timing"]["verdict"]
    other = "outside" if timing != "outside" else "inside"
    before, after = Analysis.model_validate(content), changed(content, timing=other)
    assert rows(flips(before, after, {"timing"})) == [("timing", timing, other, 1)]
    assert flips(before, after, {"pitch"}) == ()


def test_the_note_as_a_whole_counts_always(content):
    clean = content["notes"][0]["clean"]
    other = "unclear" if clean != "unclear" else "inside"
    found = flips(Analysis.model_validate(content), changed(content, clean=other), set())
    assert rows(found) == [("note", clean, other, 1)]


def test_notes_that_are_not_in_both_are_passed_over(content):
    other = json.loads(json.dumps(content))
    other["notes"][0]["id"] = "another"
    other["notes"][0]["clean"] = "outside"
    assert flips(Analysis.model_validate(content), Analysis.model_validate(other), {"timing"}) == ()


def test_several_takes_are_added_up_the_most_frequent_first():
    one = Flip(measure="timing", before="unclear", after="inside", count=2)
    two = Flip(measure="level", before="inside", after="outside", count=3)
    assert rows(added([one, two, one])) == [
        ("timing", "unclear", "inside", 4), ("level", "inside", "outside", 3)
    ]  # fmt: skip

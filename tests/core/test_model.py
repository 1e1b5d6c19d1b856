import json
from pathlib import Path

import pytest
from fortimetra import Analysis, Click, Drill, DrillError, Guitar, Setup
from fortimetra.drills.fretted_then_bend import fretted_then_bend, starter_drills
from fortimetra.model.tolerance import Tolerances

EXAMPLES = Path(__file__).parents[2] / "docs" / "formats" / "examples"
SHARED = Path(__file__).parents[3] / "shared" / "contract"
MODELS = {"drill": Drill, "click": Click, "setup": Setup, "analysis": Analysis}


@pytest.mark.parametrize("name", MODELS)
def test_example_of_the_contract_validates_and_survives_a_round_trip(name):
    model = MODELS[name].read(EXAMPLES / f"{name}.example.json")
    again = MODELS[name].parse(model.model_dump_json(by_alias=True))
    assert again == model


def test_the_guitar_and_set_up_examples_validate():
    assert Guitar.read(EXAMPLES / "guitar.example.json").kind == "solid"
    assert Drill.read(EXAMPLES / "set-up-drill.example.json").family == "set_up"


@pytest.mark.parametrize("name", MODELS)
def test_example_is_the_one_the_contract_gives(name):
    theirs = SHARED / f"{name}.example.json"
    if not theirs.exists():
        pytest.skip("the contract's folder is not beside this checkout")
    assert json.loads(theirs.read_text()) == json.loads((EXAMPLES / theirs.name).read_text())


def test_no_field_of_the_example_is_lost_by_the_model():
    given = json.loads((EXAMPLES / "analysis.example.json").read_text())
    kept = Analysis.model_validate(given).model_dump(mode="json", by_alias=True)

    def missing(want, have, path=""):
        if isinstance(want, dict):
            return [
                p
                for k, v in want.items()
                for p in (missing(v, have[k], f"{path}.{k}") if k in have else [f"{path}.{k}"])
            ]
        if isinstance(want, list):
            return [p for i, v in enumerate(want) for p in missing(v, have[i], f"{path}[{i}]")]
        return [] if want == have else [f"{path}: {want} != {have}"]

    assert missing(given, kept) == []


def _drill(**changes):
    base = json.loads((EXAMPLES / "drill.example.json").read_text())
    return json.dumps(base | changes)


def _event(**changes):
    return {"id": "e1", "beat": 0, "length": 1, "articulation": "pick", "notes": [{"string": 2, "fret": 5}]} | changes


@pytest.mark.parametrize(
    ("text", "names"),
    [
        ("{", "JSON"),
        ("[]", "Drill"),
        (_drill(version=2), "version"),
        (_drill(surprise=1), "surprise"),
        (_drill(tuning=["E4", "B3", "H3", "D3"]), "tuning"),
        (_drill(tuning=["E4", "B3"]), "tuning"),
        (_drill(tuning=[500, 50, 50, 50]), "outside the range"),
        (_drill(a4_hz=44.0), "a4_hz"),
        (_drill(tempo={"bpm": 0}), "tempo.bpm"),
        (_drill(repeats=0), "repeats"),
        (_drill(measures=["loudness"]), "measures"),
        (_drill(events=[]), "events"),
        (_drill(events=[_event(), _event()]), "used twice"),
        (_drill(events=[_event(beat=2), _event(id="e2", beat=1)]), "sort by beat"),
        (_drill(events=[_event(notes=[{"string": 7, "fret": 1}])]), "string 7 of 6"),
        (_drill(events=[_event(notes=[{"string": 1, "fret": 99}])]), "fret"),
        (_drill(events=[_event(notes=[{"string": 1, "fret": None}])]), "needs a fret"),
        (_drill(events=[_event(notes=[{"string": 1, "fret": 1}, {"string": 1, "fret": 2}])]), "one string"),
        (_drill(events=[_event(notes=[])]), "rest"),
        (_drill(events=[_event(bend={"kind": "bend", "target_cents": 700})]), "500 cents"),
        (_drill(events=[_event(bend={"kind": "curl", "target_cents": [80, 20]})]), "low before high"),
        (_drill(events=[_event(bend={"kind": "bend", "target_cents": 100, "reference": "e9"})]), "reference e9"),
        (_drill(events=[_event(bend={"kind": "unison", "target_cents": 200})]), "two notes"),
        (_drill(repeats=200, events=[_event(id=f"e{i}", beat=i) for i in range(200)]), "fewer repeats"),
        (_drill(tempo={"bpm": float("nan")}), "bpm"),
    ],
    ids=lambda v: v[:60] if isinstance(v, str) else None,
)
def test_invalid_drill_is_refused_with_the_place(text, names):
    with pytest.raises(DrillError) as error:
        Drill.parse(text)
    assert error.value.code == "drill_invalid"
    assert names in error.value.detail
    assert "\n" not in error.value.detail


def test_file_that_is_not_there_or_huge_is_a_sentence(tmp_path):
    with pytest.raises(DrillError, match="cannot be read"):
        Drill.read(tmp_path / "none.json")
    (tmp_path / "huge.json").write_bytes(b" " * 4_000_001)
    with pytest.raises(DrillError, match="larger than 4 MB"):
        Drill.read(tmp_path / "huge.json")


def test_repeats_follow_each_other_by_whole_bars():
    drill = Drill.read(EXAMPLES / "drill.example.json")
    assert drill.length_beats == 4.0
    asked = list(drill.asked())
    assert [(a.event.id, a.repeat, a.beat) for a in asked[3:6]] == [("e4", 0, 3.5), ("e1", 1, 4.0), ("e2", 1, 5.0)]
    longer = drill.model_copy(
        update={"events": (*drill.events, drill.events[0].model_copy(update={"id": "x", "beat": 4.0}))}
    )
    assert longer.length_beats == 8.0


def test_capo_and_lowered_tuning_shift_the_pitch():
    drill = fretted_then_bend(title="t", string=1, fret=0, tuning=(63.0, "Bb3", "F#3", "C#3", "Ab2", "Eb2"))
    note = drill.events[1].notes[0]
    assert drill.midi(note) == 63.0
    assert drill.model_copy(update={"capo": 2}).midi(note) == 65.0


def test_tolerances_of_the_drill_win_over_the_profile():
    limits = Tolerances(bend_error_cents=12.0).over("steady")
    assert limits["bend_error_cents"] == 12.0
    assert limits["plain_pitch_cents"] == 15.0


def test_starter_drills_ask_for_their_own_fretted_target():
    for drill in starter_drills():
        bend = next(e for e in drill.events if e.bend)
        reference = next(e for e in drill.events if e.id == bend.bend.reference)
        assert drill.midi(reference.notes[0]) - drill.midi(bend.notes[0]) == bend.bend.target_cents / 100

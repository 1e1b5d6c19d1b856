"""Every family makes drills that can be played, and what cannot be played is said with its place."""

import itertools
import typing

import numpy as np
import pytest
from fortimetra import Drill, DrillError
from fortimetra.drills.check import check
from fortimetra.drills.generator import generate
from fortimetra.drills.library import GENERATORS, built_in_drills
from fortimetra.drills.score import NAMES, SCALES, Score, in_position, open_midi
from fortimetra.model.drill import Bend, DrillNote, Family
from fortimetra.model.guitar import preset

ALL = [(family, i) for family, g in GENERATORS.items() for i in range(len(g.examples))]


def made(family, **values):
    return generate(GENERATORS[family], {k: str(v) for k, v in values.items()})


def codes(drill, guitar=None):
    return [(p.level, p.code) for p in check(drill, guitar=guitar)]


def test_every_family_of_the_contract_has_a_generator_or_is_the_set_up():
    assert set(typing.get_args(Family)) == set(GENERATORS) | {"set_up", "free"}


@pytest.mark.parametrize(("family", "example"), ALL)
def test_examples_can_be_played_and_survive_their_file(family, example):
    drill = generate(GENERATORS[family], GENERATORS[family].examples[example])
    assert drill.family == family
    assert check(drill) == []
    assert Drill.parse(drill.model_dump_json(by_alias=True)) == drill
    beats = [e.beat for e in drill.events]
    ends = [e.beat + e.length for e in drill.events]
    # Nothing overlaps, nothing is left open: a bar ends where its rests end.
    assert beats[1:] == pytest.approx(ends[:-1], abs=1e-5)
    assert drill.length_beats == pytest.approx(np.ceil(ends[-1] / 4) * 4)


def test_the_library_has_two_of_every_family_and_no_title_twice():
    drills = built_in_drills()
    titles = [d.title for d in drills]
    assert len(set(titles)) == len(titles)
    for family in GENERATORS:
        assert sum(d.family == family for d in drills) >= 2


@pytest.mark.parametrize("family", list(GENERATORS))
def test_any_values_within_their_ranges_make_a_playable_drill_or_a_sentence(family):
    generator = GENERATORS[family]
    rng = np.random.default_rng(7)
    made_some = 0
    for _ in range(60):
        values = {}
        for field in generator.inputs:
            if field.choices:
                values[field.name] = str(rng.choice(field.choices))
            elif field.low is not None:
                value = rng.uniform(field.low, field.high)
                values[field.name] = str(round(value) if field.whole else round(value, 2))
        try:
            drill = generate(generator, values)
        except DrillError as error:
            assert error.detail.endswith((".", "8", "7"))
            continue
        made_some += 1
        assert not [p for p in check(drill) if p.level == "error"]
    assert made_some > 2


@pytest.mark.parametrize(
    ("family", "values", "names"),
    [
        ("curl", {"low": 90, "high": 40}, "At least"),
        ("tapping", {"tap": 5}, "Frets"),
        ("slur_vs_pick", {"frets": "7"}, "Frets"),
        ("slur_vs_pick", {"frets": "7 99"}, "Frets"),
        ("mute_check", {"frets": "x"}, "Frets"),
        ("vibrato_fretted", {"strings": "9"}, "Strings"),
        ("muted_double_stops", {"scale": "minor pentatonic"}, "Scale"),
        ("bend_in_scale", {"degrees": "24"}, "Bent notes"),
        ("bend_ladder", {"fret": 21, "positions": 12}, "fret 2"),
        ("bend_ladder", {"times": 2.5}, "not a whole number"),
        ("bend_ladder", {"bpm": 9999}, "20 to 300"),
        ("sweep", {"mood": "sad"}, "no such field"),
    ],
)
def test_what_a_form_cannot_mean_is_a_sentence_with_its_field(family, values, names):
    with pytest.raises(DrillError) as error:
        made(family, **values)
    assert error.value.code == "drill_invalid"
    assert names in error.value.detail


def test_ladders_climb_and_keep_their_reference():
    drill = made("bend_ladder", string=3, fret=5, positions=3, times=4, size="half")
    targets = [e for e in drill.events if e.notes and not e.bend]
    assert [e.notes[0].fret for e in targets] == [6, 7, 8]
    for event in drill.events:
        if event.bend:
            reference = next(e for e in drill.events if e.id == event.bend.reference)
            assert drill.midi(reference.notes[0]) - drill.midi(event.notes[0]) == event.bend.target_cents / 100


@pytest.mark.parametrize(("string", "fret", "size"), itertools.product((1, 2, 4), (8, 12), ("half", "full")))
def test_a_unison_bend_arrives_at_its_steady_string(string, fret, size):
    event = made("unison_bend", string=string, fret=fret, size=size).events[0]
    bent, steady = event.notes
    assert open_midi(bent.string) + bent.fret + event.bend.target_cents / 100 == open_midi(steady.string) + steady.fret


def test_power_chords_are_root_fifth_and_octave_with_every_other_string_muted():
    # Common practice, no source.
    for root in ("6", "5", "4"):
        event = made("mute_check", root=root, sounding="3", frets="3").events[0]
        sounding = sorted((n for n in event.notes if not n.muted), key=lambda n: -n.string)
        pitches = [open_midi(n.string) + n.fret for n in sounding]
        assert [p - pitches[0] for p in pitches] == [0, 7, 12]
        assert sum(n.muted for n in event.notes) == 3


@pytest.mark.parametrize(
    "shape", ["sixths on 3 and 1", "sixths on 4 and 2", "octaves on 6 and 4", "octaves on 5 and 3"]
)
def test_double_stops_keep_their_interval_and_mute_the_string_between(shape):
    drill = made("muted_double_stops", shape=shape, key="G", scale="major")
    scale = {(NAMES.index("G") + s) % 12 for s in SCALES["major"]}
    for event in drill.events:
        if event.notes:
            low, high = (n for n in event.notes if not n.muted)
            step = open_midi(high.string) + high.fret - open_midi(low.string) - low.fret
            assert step in ({12} if shape.startswith("oct") else {8, 9})
            assert {(open_midi(n.string) + n.fret) % 12 for n in (low, high)} <= scale
            assert [n.string for n in event.notes if n.muted] == list(range(low.string - 1, high.string, -1))


@pytest.mark.parametrize("size", ["3", "4"])
def test_picking_figures_accent_their_first_note(size):
    drill = made("alternate_picking", figure=size, groups=5)
    accents = [i for i, e in enumerate(e for e in drill.events if e.notes) if e.accent]
    assert accents == [i * int(size) for i in range(5)]


def test_scales_in_position_are_the_scale_and_nothing_else():
    notes = in_position("A", SCALES["minor pentatonic"], 5, strings=(1, 2, 3, 4, 5, 6))
    # The first position of A minor pentatonic (common practice, no source).
    assert notes == [(6, 5), (6, 8), (5, 5), (5, 7), (4, 5), (4, 7), (3, 5), (3, 7), (2, 5), (2, 8), (1, 5), (1, 8)]
    for key, steps in itertools.product(("C", "F#"), SCALES.values()):
        found = in_position(key, steps, 7, strings=(1, 2, 3, 4, 5, 6))
        assert {(open_midi(s) + f - NAMES.index(key)) % 12 for s, f in found} == set(steps)


# -- the checker -------------------------------------------------------------------------------------------------


def drill_of(*write):
    score = Score()
    for one in write:
        one(score)
    return score.drill("t", "free", ("pitch",), {"bpm": 60.0})


@pytest.mark.parametrize(
    ("write", "found"),
    [
        ([lambda s: s.note(3, 7, 1, "hammer")], ("error", "slur_from_nothing")),
        ([lambda s: s.note(3, 7, 1), lambda s: s.rest(1), lambda s: s.note(3, 9, 1, "hammer")], ("error", "slur_from_nothing")),
        ([lambda s: s.note(2, 7, 1), lambda s: s.note(3, 9, 1, "hammer")], ("error", "slur_from_nothing")),
        ([lambda s: s.note(3, 7, 1), lambda s: s.note(3, 5, 1, "hammer")], ("error", "slur_direction")),
        ([lambda s: s.note(3, 7, 1), lambda s: s.note(3, 9, 1, "pull")], ("error", "slur_direction")),
        ([lambda s: s.note(3, 7, 1), lambda s: s.note(3, 7, 1, "slide")], ("error", "slur_direction")),
        ([lambda s: s.note(3, 7, 1), lambda s: s.note(3, 7, 1, "repluck")], ("error", "repluck_without_bend")),
        ([lambda s: s.together([DrillNote(string=6, fret=1), DrillNote(string=1, fret=9)], 1)], ("error", "reach")),
        ([lambda s: s.note(3, 0, 1, bend=Bend(kind="bend", target_cents=100.0))], ("error", "bend_open")),
        ([lambda s: s.note(3, 5, 1, bend=Bend(kind="bend", target_cents=400.0))], ("warning", "bend_far")),
        ([lambda s: s.note(3, 1, 0.1), lambda s: s.note(3, 19, 0.1)], ("warning", "shift")),
        ([lambda s: s.note(3, 8, 1), lambda s: s.note(3, 7, 1, bend=Bend(kind="bend", target_cents=200.0, reference="e1"))], ("error", "reference_pitch")),
    ],
)  # fmt: skip
def test_what_cannot_be_played_is_said_with_its_place(write, found):
    drill = drill_of(*write)
    assert codes(drill) == [found]
    (problem,) = check(drill)
    assert problem.event == drill.events[-1].id
    bar, beat = divmod(problem.beat, 4)
    assert problem.text.startswith(f"Bar {bar + 1:.0f}, beat {beat + 1:g}: ")


def test_what_a_guitar_bears_depends_on_the_guitar():
    full = drill_of(lambda s: s.note(3, 7, 1, bend=Bend(kind="bend", target_cents=200.0)))
    assert codes(full, preset("solid")) == []
    assert codes(full, preset("steel_acoustic")) == [("warning", "bend_heavy")]
    high = drill_of(lambda s: s.note(1, 21, 1))
    assert codes(high, preset("solid")) == []
    assert codes(high, preset("nylon")) == [("error", "beyond_fretboard")]

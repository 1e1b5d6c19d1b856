"""Every family makes drills that can be played, and what cannot be played is said with its place."""

import itertools
import typing

import numpy as np
import pytest
from fortimetra import Drill, DrillError
from fortimetra.drills.check import check
from fortimetra.drills.generator import generate
from fortimetra.drills.library import GENERATORS, built_in_drills
from fortimetra.drills.scales import NAMES, SCALES, in_position, open_midi
from fortimetra.drills.score import Score
from fortimetra.model.drill import Bend, DrillNote, Family
from fortimetra.model.guitar import preset

ALL = [(name, i) for name, g in GENERATORS.items() for i in range(len(g.examples))]
FAMILIES = {g.family for g in GENERATORS.values()}


def made(family, **values):
    return generate(GENERATORS[family], {k: str(v) for k, v in values.items()})


def codes(drill, guitar=None):
    return [(p.level, p.code) for p in check(drill, guitar=guitar)]


def test_every_family_of_the_contract_has_a_generator_or_is_the_set_up():
    assert set(typing.get_args(Family)) == FAMILIES | {"set_up", "free"}


@pytest.mark.parametrize(("family", "example"), ALL)
def test_examples_can_be_played_and_survive_their_file(family, example):
    drill = generate(GENERATORS[family], GENERATORS[family].examples[example])
    assert drill.family == GENERATORS[family].family
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
    assert len(drills) >= 150
    for family in FAMILIES:
        assert sum(d.family == family for d in drills) >= 2


@pytest.mark.parametrize("family", list(GENERATORS))
def test_any_values_within_their_ranges_make_a_playable_drill_or_a_sentence(family):
    generator = GENERATORS[family]
    rng = np.random.default_rng(7)
    made_some = 0
    for _ in range(60):
        values = {}
        for field in generator.inputs:
            if field.many:
                values[field.name] = " ".join(rng.choice(field.choices, rng.integers(1, 4)))
            elif field.choices:
                values[field.name] = str(rng.choice(field.choices))
            elif field.low is not None:
                value = rng.uniform(field.low, field.high)
                values[field.name] = str(round(value) if field.whole else round(value, 2))
        try:
            drill = generate(generator, values)
        except DrillError as error:
            assert error.code == "drill_invalid"
            assert error.detail[-1] in ".'8715"
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
        ("bend_map", {"map": "4-5"}, "Bent notes"),
        ("bend_map", {"map": "1>5"}, "Bent notes"),
        ("bend_map", {"map": "5>b6"}, "Bent notes"),
        ("fretted_then_bend", {"target": "an open string", "fret": 12}, "Target"),
        ("fretted_then_bend", {"target": "fretted on the next string", "string": 1}, "Target"),
        ("alternate_picking", {"figure": "1 5"}, "Fingers"),
        ("alternate_picking", {"figure": "1 2 / 3 4 / 1", "strings": "two"}, "Fingers"),
        ("picking_scale", {"strings": "1 2 3"}, "Strings"),
        ("picking_scale", {"scale": "minor pentatonic"}, "Notes a string"),
        ("stop_and_rest", {"rests": "0 9"}, "Rests"),
        ("slides", {"frets": "5 5"}, "Frets"),
        ("slides", {"travels": 2}, "Travels"),
        ("bottleneck_changes", {"chords": "I X"}, "Chords"),
        ("finger_pairs", {"judged": ""}, "Judged for"),
        ("finger_pairs", {"judged": "beauty"}, "Judged for"),
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


@pytest.mark.parametrize("figure", ["1 2 4", "1 2 3 4"])
def test_picking_figures_accent_their_first_note(figure):
    drill = made("alternate_picking", figure=figure, groups=5)
    accents = [i for i, e in enumerate(e for e in drill.events if e.notes) if e.accent]
    assert accents == [i * len(figure.split()) for i in range(5)]


def frets_of(drill):
    return [(e.notes[0].string, e.notes[0].fret) for e in drill.events if e.notes]


def test_a_figure_comes_out_for_the_fingers_it_is_written_for():
    drill = made("alternate_picking", figure="4 3 1", strings="one", groups=2, position=5, string=2)
    assert frets_of(drill) == [(2, 8), (2, 7), (2, 5)] * 2
    assert [e.notes[0].finger for e in drill.events if e.notes] == ["4", "3", "1"] * 2
    down = made("alternate_picking", figure="1 3 4", strings="one", groups=2, position=5, way="down")
    assert frets_of(down) == [(2, 8), (2, 7), (2, 5)] * 2


def test_strokes_alternate_and_groups_of_three_turn_round():
    drill = made("alternate_picking", figure="1 2 4", strings="one", groups=4)
    strokes = [e.stroke for e in drill.events if e.notes]
    assert strokes == ["down", "up"] * 6
    # The second round of a group of three begins with an up-stroke (common practice, no source).
    assert [e.stroke for e in drill.events if e.accent] == ["down", "up", "down", "up"]
    assert made("alternate_picking", first="up").events[0].stroke == "up"


def test_cycles_of_different_groups_are_different_notes_and_go_both_ways():
    figures = {g: frets_of(made("legato_cycle", group=g, way="up")) for g in ("2+2", "3+2", "2+3", "3+3", "4+3")}
    assert len({tuple(f) for f in figures.values()}) == 5
    for way, slur in (("up", "hammer"), ("down", "pull")):
        drill = made("legato_cycle", group="3+2", way=way)
        per_cycle = [e.articulation for e in drill.events if e.notes][:5]
        assert per_cycle.count("pick") == 2
        assert set(per_cycle) == {"pick", slur}


def test_a_repeated_note_in_a_slurred_line_is_picked():
    drill = made("slur_vs_pick", frets="5 7 7 9", times=1)
    ways = [e.articulation for e in drill.events if e.notes][:4]
    assert ways == ["pick", "hammer", "pick", "hammer"]


def test_the_usual_bends_of_a_minor_box_lead_from_scale_note_to_scale_note():
    # Fourth up to the fifth, flat seventh up to the root (common practice, no source).
    drill = made("bend_map", key="A", position=5, map="4>5 b7>1", plain="yes")
    bends = {(e.notes[0].string, e.notes[0].fret): e.bend for e in drill.events if e.bend}
    assert {(3, 7), (2, 8)} <= set(bends)
    scale = {(NAMES.index("A") + s) % 12 for s in SCALES["minor pentatonic"]}
    for (string, fret), bend in bends.items():
        pitch = open_midi(string) + fret
        assert pitch % 12 in scale
        assert (pitch + bend.target_cents / 100) % 12 in scale


@pytest.mark.parametrize(("where", "string"), [("fretted on the next string", 2), ("fretted on the same string", 3)])
def test_a_target_elsewhere_sounds_the_same_pitch(where, string):
    drill = made("fretted_then_bend", string=3, fret=9, target=where)
    target, bent = drill.events[0], next(e for e in drill.events if e.bend)
    assert target.notes[0].string == string
    assert drill.midi(target.notes[0]) == drill.midi(bent.notes[0]) + 2
    assert bent.bend.reference == target.id


def test_the_highest_fret_can_be_bent_with_its_target_on_another_string():
    drill = made("fretted_then_bend", string=3, fret=21, target="fretted on the next string")
    assert max(n.fret for e in drill.events for n in e.notes) == 21
    assert check(drill, guitar=preset("solid")) == []


def test_bends_are_pushed_where_the_neck_is():
    # The two lowest strings toward the thinner side (common practice, no source).
    for string, push in (
        (1, "toward_thicker"),
        (3, "toward_thicker"),
        (4, "toward_thicker"),
        (5, "toward_thinner"),
        (6, "toward_thinner"),
    ):
        drill = made("fretted_then_bend", string=string, fret=7, size="half")
        assert next(e.bend for e in drill.events if e.bend).direction == push


def test_sweeps_name_one_motion_and_begin_the_circle_anew_with_a_down_stroke():
    drill = made("sweep", slurs="pull above", per_click="3", times=2)
    strokes = [(e.articulation, e.stroke) for e in drill.events if e.notes]
    # Down, down, down, then the pull-off on top and back up; the next circle begins down (common practice, no source).
    assert strokes[:4] == [("pick", "down"), ("pick", "sweep_down"), ("pick", "sweep_down"), ("pull", None)]
    assert strokes[4] == ("pick", "up")
    assert strokes[5][1] in {"down", "sweep_up"}


def test_fingers_stay_in_position_and_the_third_bends():
    drill = made("fretted_then_bend", string=3, fret=7)
    bent = next(e for e in drill.events if e.bend)
    assert (bent.notes[0].finger, bent.bend.helpers) == ("3", ("1", "2"))
    scale = made("picking_chromatic", frets=1)
    assert [e.notes[0].finger for e in scale.events if e.notes] == ["1", "2", "3", "4"] * 6


@pytest.mark.parametrize("share", [30, 50, 80])
def test_short_notes_take_their_share_of_the_slot(share):
    drill = made("staccato", share=share, per_click=1)
    lengths = [e.length for e in drill.events if e.notes]
    assert lengths == pytest.approx([share / 100] * len(lengths))


def test_vibrato_to_the_click_asks_for_cycles_and_not_for_hertz():
    drill = made("vibrato_click", cycles="one to four")
    asked = [e.vibrato.cycles_per_beat for e in drill.events if e.vibrato]
    assert asked == [1.0, 2.0, 3.0, 4.0, None]
    path = made("vibrato_click", cycles="slow to quick in one note", free="no")
    assert path.events[0].vibrato.path == (1.0, 2.0, 3.0, 4.0)


def test_all_six_strings_are_struck_and_one_two_then_three_sound():
    drill = made("mute_check", sounding="1, 2, then 3", frets="5")
    struck = [e for e in drill.events if e.notes]
    assert [sum(not n.muted for n in e.notes) for e in struck] == [1, 2, 3]
    assert all(len(e.notes) == 6 for e in struck)


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
        ([lambda s: s.note(3, 7, 1, "pull")], ("error", "slur_from_nothing")),
        (
            [lambda s: s.note(3, 7, 1), lambda s: s.rest(1), lambda s: s.note(3, 5, 1, "pull")],
            ("error", "slur_from_nothing"),
        ),
        ([lambda s: s.note(2, 7, 1), lambda s: s.note(3, 5, 1, "slide")], ("error", "slur_from_nothing")),
        (
            [lambda s: s.note(3, 7, 1), lambda s: s.rest(1), lambda s: s.note(3, 0, 1, "hammer")],
            ("error", "slur_from_nothing"),
        ),
        ([lambda s: s.note(3, 7, 1), lambda s: s.note(3, 5, 1, "hammer")], ("error", "slur_direction")),
        ([lambda s: s.note(3, 7, 1), lambda s: s.note(3, 9, 1, "pull")], ("error", "slur_direction")),
        ([lambda s: s.note(3, 7, 1), lambda s: s.note(3, 7, 1, "slide")], ("error", "slur_direction")),
        ([lambda s: s.note(3, 7, 1), lambda s: s.note(3, 7, 1, "repluck")], ("error", "repluck_without_bend")),
        ([lambda s: s.together([DrillNote(string=6, fret=1), DrillNote(string=1, fret=9)], 1)], ("error", "reach")),
        ([lambda s: s.note(3, 0, 1, bend=Bend(kind="bend", target_cents=100.0))], ("error", "bend_open")),
        ([lambda s: s.note(3, 5, 1, bend=Bend(kind="bend", target_cents=400.0))], ("warning", "bend_far")),
        ([lambda s: s.note(3, 1, 0.1), lambda s: s.note(3, 19, 0.1)], ("warning", "shift")),
        (
            [
                lambda s: s.note(3, 8, 1),
                lambda s: s.note(3, 7, 1, bend=Bend(kind="bend", target_cents=200.0, reference="e1")),
            ],
            ("error", "reference_pitch"),
        ),
    ],
)
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

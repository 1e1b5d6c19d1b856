"""The lines that decide, each at its limit: the house's tolerances, the edge of a verdict, of a caution, of a break.

Tolerances and doses are the house's (common practice, no source), written out here by hand from the table that
teachers see.
"""

from __future__ import annotations

from datetime import date
from types import SimpleNamespace

import pytest
from fortimetra.coach import cautions
from fortimetra.coach.ladder import Pair, next_step, standing
from fortimetra.coach.planner import WantedDrill, week
from fortimetra.coach.step import at_step, notes_per_click, picked_per_second
from fortimetra.drills.library import library
from fortimetra.formats.notes_csv import COLUMNS, notes_csv
from fortimetra.judge.summary import _bends, _vibratos, summarise
from fortimetra.judge.verdict import at_least_verdict, verdict
from fortimetra.model.drill import Drill
from fortimetra.model.guitar import preset
from fortimetra.model.ladder import LadderRule, Step
from fortimetra.model.tolerance import PROFILES, Tolerances, onset_limit_ms, onset_tolerance_ms

from tests.core.test_ladder import BENDS, PICKING, takes

HOUSE = """
measure             starting  steady  exacting
plain_pitch_cents   25        15      8
bend_error_cents    25        15      8
hold_sd_cents       15        10      6
vibrato_return_cents 25       15      8
vibrato_rate_cv     0.30      0.20    0.12
vibrato_extent_cv   0.35      0.25    0.15
beat_hz             4         2       1
level_db            5         3.5     2
slur_deficit_db     6         3       2
accent_lift_db      2         3       4
length_fraction     0.30      0.20    0.12
overlap_ms          120       60      30
ring_db             -18       -26     -34
stop_ms             400       250     150
"""


def test_the_tolerances_are_those_of_the_table():
    _head, *names = HOUSE.strip().splitlines()[0].split()
    rows = [line.split() for line in HOUSE.strip().splitlines()[1:]]
    for place, profile in enumerate(names, 1):
        assert PROFILES[profile] == {row[0]: float(row[place]) for row in rows}
    assert onset_tolerance_ms("starting") == (0.12, 60.0, 25.0)
    assert onset_tolerance_ms("steady") == (0.08, 40.0, 20.0)
    assert onset_tolerance_ms("exacting") == (0.05, 25.0, 12.0)


@pytest.mark.parametrize(
    ("profile", "slot_s", "ms"),
    [("steady", 0.25, 20.0), ("steady", 0.375, 30.0), ("steady", 2.0, 40.0), ("starting", 0.3, 36.0),
     ("exacting", 0.1, 12.0), ("exacting", 0.4, 20.0), ("exacting", 0.6, 25.0)],
)  # fmt: skip
def test_an_onset_may_be_off_by_a_share_of_its_slot_within_two_limits(profile, slot_s, ms):
    assert onset_limit_ms(profile, slot_s) == pytest.approx(ms)
    assert onset_limit_ms(profile, slot_s, 7.0) == 7.0


def test_what_a_drill_gives_counts_before_the_profile():
    own = Tolerances(bend_error_cents=5.0).over("steady")
    assert own["bend_error_cents"] == 5.0
    assert own["plain_pitch_cents"] == 15.0
    assert "onset_ms" not in own
    assert Tolerances(onset_ms=9.0).over("steady")["onset_ms"] == 9.0


@pytest.mark.parametrize(
    ("value", "wanted"), [(3.5, "inside"), (3.4, "unclear"), (3.0, "unclear"), (2.5, "unclear"), (2.4, "outside")]
)
def test_what_has_to_reach_a_limit_reaches_it_with_its_uncertainty(value, wanted):
    assert at_least_verdict(value, 0.5, 3.0) == wanted


def test_a_deviation_at_the_very_limit_is_inside():
    assert verdict(15.0, 0.0, 15.0) == "inside"
    assert verdict(-15.0, 0.0, 15.0) == "inside"
    assert verdict(15.0 + 1e-9, 0.0, 15.0) == "outside"


# -- cautions ----------------------------------------------------------------------------------------------------


def bending(cents) -> Drill:
    events = [
        e.model_copy(update={"bend": e.bend and e.bend.model_copy(update={"target_cents": cents})})
        for e in BENDS.events
    ]
    return BENDS.model_copy(update={"events": tuple(events)})


def strung(kind, gauge_mm=None):
    guitar = preset(kind)
    if gauge_mm is None:
        return guitar
    first = guitar.strings[0].model_copy(update={"gauge_mm": gauge_mm})
    return guitar.model_copy(update={"strings": (first, *guitar.strings[1:])})


@pytest.mark.parametrize(
    ("cents", "guitar", "codes"),
    [
        (100.0, strung("steel_acoustic"), []),
        (101.0, strung("steel_acoustic"), ["wide_bend", "breaking"]),
        (200.0, strung("nylon"), ["wide_bend", "breaking"]),
        (200.0, strung("solid", 0.254), ["breaking"]),
        (200.0, strung("solid", 0.28), ["breaking"]),
        (200.0, strung("solid", 0.29), ["wide_bend", "breaking"]),
        (200.0, None, ["breaking"]),
        (100.0, strung("solid", 0.33), []),
    ],
)
def test_a_bend_past_a_half_step_is_a_caution_on_acoustics_and_heavy_strings(cents, guitar, codes):
    assert [c.code for c in cautions.for_drill(bending(cents), guitar)] == codes


def test_a_day_has_each_caution_once_and_strain_from_twenty_minutes_on():
    far = bending(200.0)
    assert [c.code for c in cautions.for_day(19.9, [far, far], strung("nylon"))] == ["wide_bend", "breaking"]
    assert [c.code for c in cautions.for_day(20.0, [], None)] == ["strain"]
    assert cautions.widest_bend_cents(PICKING) == 0.0
    assert cautions.widest_bend_cents(far) == 200.0
    bends = [e for e in far.events if e.bend]
    small = bends[0].model_copy(update={"bend": bends[0].bend.model_copy(update={"target_cents": 50.0})})
    both = far.model_copy(update={"events": (small, *(e for e in bends if e is not bends[0]), bends[0])})
    assert cautions.widest_bend_cents(both) == 200.0


# -- steps and ladders ---------------------------------------------------------------------------------------------


def even(per_click, *, count=24, odd=()):
    """A line of picked notes, so many to a click; odd: places that take half a click more."""
    events, beat = [], 0.0
    for i in range(count):
        length = 1 / per_click + (0.5 if i in odd else 0.0)
        events.append(
            {"id": f"e{i}", "beat": round(beat, 6), "length": round(length, 6), "articulation": "pick",
             "notes": [{"string": 3, "fret": 5}]}
        )  # fmt: skip
        beat += length
    return Drill.model_validate(
        {
            "format": "fortimetra-drill",
            "version": 1,
            "title": "line",
            "family": "alternate_picking",
            "tuning": ["E4", "B3", "G3", "D3", "A2", "E2"],
            "tempo": {"bpm": 60.0},
            "measures": ["timing"],
            "events": events,
        }
    )


@pytest.mark.parametrize("count", [1, 2, 3, 4, 6, 8, 12])
def test_notes_to_a_click_are_counted_up_to_twelve(count):
    assert notes_per_click(even(count)) == count


def test_more_than_twelve_or_mostly_uneven_is_no_even_line():
    assert notes_per_click(even(13, count=26)) is None
    assert notes_per_click(even(4, count=25, odd=range(1, 24, 2))) == 4  # 12 of 24 gaps are alike
    assert notes_per_click(even(4, count=25, odd=range(24))) is None
    assert notes_per_click(even(4).model_copy(update={"tempo": None})) is None


def test_a_step_moves_every_place_by_the_same_share():
    there = at_step(even(4), Step(bpm=72.0, per_click=3))
    assert [round(e.beat, 3) for e in there.events[:4]] == [0.0, 0.333, 0.667, 1.0]
    assert there.events[0].length == pytest.approx(1 / 3, abs=1e-6)
    assert there.tempo.bpm == 72.0
    assert there.tempo.swing == 0.5
    assert picked_per_second(even(4), Step(bpm=90.0, per_click=4)) == pytest.approx(6.0)
    assert picked_per_second(even(4), Step(bpm=90.0, per_click=2)) == pytest.approx(3.0)


@pytest.mark.parametrize(
    ("step", "way", "wanted"),
    [
        (Step(bpm=66), 1, (70.0, None)),
        (Step(bpm=66), -1, (62.0, None)),
        (Step(bpm=396), 1, (400.0, None)),
        (Step(bpm=397), 1, None),
        (Step(bpm=24), -1, (20.0, None)),
        (Step(bpm=23), -1, None),
    ],
)
def test_tempo_steps_end_where_a_click_does(step, way, wanted):
    found = next_step(step, LadderRule(), way=way)
    assert (found and (found.bpm, found.per_click)) == wanted


@pytest.mark.parametrize(
    ("per_click", "way", "wanted"), [(1, 1, 2), (4, 1, 6), (6, 1, None), (3, -1, 2), (1, -1, None), (5, -1, 4)]
)
def test_subdivisions_go_to_the_nearest(per_click, way, wanted):
    found = next_step(Step(bpm=60, per_click=per_click), LadderRule(speed="notes_per_click"), way=way)
    assert (found and found.per_click) == wanted


def test_only_what_is_picked_counts_against_the_fastest_run():
    slurred = even(4).model_copy(
        update={
            "events": tuple(
                e.model_copy(update={"articulation": "hammer"}) if i % 2 else e for i, e in enumerate(even(4).events)
            )
        }
    )
    assert picked_per_second(slurred, Step(bpm=60.0)) == pytest.approx(2.0)
    only = slurred.model_copy(update={"events": slurred.events[1:2]})
    assert picked_per_second(only, Step(bpm=60.0)) is None


def test_a_goal_is_reached_at_its_tempo_and_its_notes_not_before():
    def move(step, goal, written=None):
        drill = even(written) if written else BENDS
        return standing(
            drill, step, takes(100, 100, 100, bpm=step.bpm, per_click=step.per_click), rule=LadderRule(), goal=goal
        ).move

    assert move(Step(bpm=66), Step(bpm=66)) == "goal"
    assert move(Step(bpm=66), Step(bpm=70)) == "up"
    assert move(Step(bpm=70), Step(bpm=66)) == "goal"
    assert move(Step(bpm=60, per_click=4), Step(bpm=60, per_click=4), 4) == "goal"
    assert move(Step(bpm=60, per_click=3), Step(bpm=60, per_click=4), 4) == "up"


def test_a_place_off_twice_in_one_take_or_once_in_two_holds():
    def said(*outside):
        rows = [t for one in outside for t in takes(100, outside=one)]
        rows = [SimpleNamespace(**{**vars(t), "id": f"t{i}"}) for i, t in enumerate(rows)]
        return standing(
            BENDS, Step(bpm=66), [*takes(100, 100, 100)[: 3 - len(outside)], *_dated(outside)], rule=LadderRule()
        )

    def _dated(outside):
        return [
            type(t)(**{**t.__dict__, "outside": o})
            for t, o in zip(takes(*[100] * 3)[3 - len(outside) :], outside, strict=True)
        ]

    assert said({"bend": 1}).move == "up"
    assert said({"bend": 2}).move == "stay"
    assert said({"bend": 1}, {"bend": 1}).move == "stay"
    assert said({"bend": 1}, {"target": 1}).move == "up"
    assert "more than once" in said({"bend": 2}).says


def test_a_pair_stays_within_one_step():
    def move(other):
        pair = Pair(title="down", step=Step(bpm=other))
        return standing(BENDS, Step(bpm=66), takes(100, 100, 100), rule=LadderRule(), pair=pair).move

    assert move(66) == "up"
    assert move(65) == "pair"  # 70 would be a step and a quarter above
    assert move(62) == "pair"
    assert move(90) == "up"


def test_a_ceiling_is_a_share_of_the_fastest_even_run():
    def move(fastest):
        return standing(PICKING, Step(bpm=66), takes(100, 100, 100), rule=LadderRule(), fastest_nps=fastest).move

    asked = picked_per_second(PICKING, Step(bpm=70))
    assert move(asked / 0.85 + 0.01) == "up"
    assert move(asked / 0.85 - 0.01) == "ceiling"


# -- the week ------------------------------------------------------------------------------------------------------

MONDAY = date(2026, 3, 2)


@pytest.mark.parametrize(
    ("minutes", "parts"),
    [
        (15, [15]),
        (20, [20]),
        (21, [10.5, "break", 10.5]),
        (40, [20, "break", 20]),
        (45, [15, "break", 15, "break", 15]),
    ],
)
def test_a_long_dose_stands_in_equal_parts_with_breaks(minutes, parts):
    (day, *_rest) = week([WantedDrill(1, minutes, 7)], monday=MONDAY, minutes=[120.0] * 7)
    assert [("break" if b.id is None else b.minutes) for b in day.blocks] == parts


def test_breaks_come_when_twenty_minutes_are_full_and_not_before():
    def blocks(*minutes):
        wanted = [WantedDrill(i, m, 7, weakness=1.0 - i / 10) for i, m in enumerate(minutes, 1)]
        (day, *_rest) = week(wanted, monday=MONDAY, minutes=[240.0] * 7)
        return [b.id for b in day.blocks]

    assert blocks(10, 10) == [1, 2]
    assert blocks(10, 11) == [1, None, 2]
    assert blocks(8, 8, 8) == [1, 2, None, 3]


# -- what a take comes to --------------------------------------------------------------------------------------------


def bend(error, u=1.0, string=3, fret=7, target=200.0):
    return SimpleNamespace(
        bend=SimpleNamespace(error_cents=error, u=u, target_cents=target), vibrato=None, string=string, fret=fret
    )


def test_bends_are_counted_by_place_with_their_median_and_spread():
    found = _bends(
        [bend(-10.0), bend(-20.0, 3.0), bend(-60.0), bend(5.0, fret=9), bend(7.0, target=(20.0, 80.0), string=2)]
    )
    assert [(b.string, b.fret, b.target_cents, b.count) for b in found] == [
        (2, 7, 50.0, 1), (3, 7, 200.0, 3), (3, 9, 200.0, 1),
    ]  # fmt: skip
    assert (found[1].median_error_cents, found[1].u) == (-20.0, 1.0)
    assert found[1].spread_cents == pytest.approx(26.46)  # of −10, −20, −60, by hand: √(1400 / 2)
    assert found[2].spread_cents is None
    (two,) = _bends([bend(-1.0, 0.123), bend(3.0, 0.456)])
    assert two.u == 0.29
    assert two.spread_cents == pytest.approx(2.83)  # √8, by hand
    assert _bends([bend(None), bend(1.0, u=None), bend(1.0, string=None), bend(1.0, fret=None)]) == ()


def test_vibratos_are_counted_by_string_fretted_and_bent_apart():
    def vibrato(rate, extent, string=3, bent=False):
        part = SimpleNamespace(rate_hz=rate, extent_cents=extent, rate_cv=0.12345, extent_cv=0.98765 if bent else None)
        return SimpleNamespace(bend=object() if bent else None, vibrato=part, string=string)

    found = _vibratos(
        [
            vibrato(5.0, 40.0),
            vibrato(6.0, 61.26),
            vibrato(4.0, 30.0, bent=True),
            vibrato(None, 9.0),
            vibrato(5, 5, None),
        ]
    )
    assert [(v.string, v.on, v.count) for v in found] == [(3, "bent", 1), (3, "fretted", 2)]
    assert found[0].extent_cv == 0.988
    assert (found[1].rate_hz, found[1].extent_cents, found[1].rate_cv, found[1].extent_cv) == (5.5, 50.6, 0.123, 0.0)


def note(clean, status="played", pitch=None):
    part = None if pitch is None else SimpleNamespace(verdict=pitch)
    return SimpleNamespace(clean=clean, status=status, pitch=part, bend=None, vibrato=None, string=1, fret=0)


def test_a_missed_note_is_missed_and_nothing_else():
    notes = [
        note("inside", pitch="inside"),
        note("outside", "wrong_pitch", "outside"),
        note("unclear", pitch="unclear"),
        note("outside", "missed"),
        note("inside", pitch="inside"),
    ]
    found = summarise(notes, measures=("pitch",), extra=2)
    assert (found.asked, found.clean, found.not_clean, found.unclear, found.missed, found.extra) == (5, 2, 1, 1, 1, 2)
    counts = found.by_measure["pitch"]
    assert (counts.inside, counts.outside, counts.unclear) == (2, 1, 1)


def test_every_column_of_the_notes_has_its_value(pytestconfig):
    from fortimetra.model.analysis import Analysis

    analysis = Analysis.model_validate_json(
        (pytestconfig.rootpath / "docs/formats/examples/analysis.example.json").read_text()
    )
    head, *rows = [line.split(",") for line in notes_csv(analysis).strip().splitlines()]
    assert tuple(head) == COLUMNS
    assert len(rows) == len(analysis.notes)
    row = dict(zip(head, rows[0], strict=True))
    first = analysis.notes[0]
    assert (row["note_id"], row["status"], row["clean"]) == (first.id, first.status, first.clean)
    assert float(row["onset_s"]) == first.onset_s
    if first.bend is not None:
        assert float(row["bend_error_cents"]) == first.bend.error_cents
        assert float(row["u_bend_cents"]) == first.bend.u
    if first.pitch is not None and first.pitch.error_cents is not None:
        assert float(row["pitch_error_cents"]) == first.pitch.error_cents


def test_every_drill_of_the_library_has_the_notes_to_a_click_it_is_written_in():
    found = {b.drill.title: notes_per_click(b.drill) for b in library()}
    assert found[PICKING.title] == 2
    assert found[BENDS.title] is None

"""Settings of causes, ladders, plans and advice at their limits, each held by what changes a quarter beside it.

Values are the house's (common practice, no source), written out here by hand.
"""

from __future__ import annotations

import importlib
from datetime import UTC, datetime
from types import SimpleNamespace as Made

import numpy as np
import pytest
from fortimetra.coach import cautions, conclude
from fortimetra.coach import patterns_pitch as of_pitch
from fortimetra.coach import patterns_place as of_place
from fortimetra.coach import patterns_quiet as of_quiet
from fortimetra.coach import patterns_slurs as of_slurs
from fortimetra.coach import patterns_time as of_time
from fortimetra.coach.causes import _enough, _unexplained
from fortimetra.coach.evidence import ShownBy, least_share, slope, sure_slope
from fortimetra.coach.ladder import LadderTake, _reached, at_this_step, next_step
from fortimetra.coach.patterns_place import always_same_note
from fortimetra.coach.planner import Block, WantedDrill, _Group, _with_breaks
from fortimetra.coach.progress import trend
from fortimetra.coach.rules import HAND
from fortimetra.coach.set_up import _rig, _tune
from fortimetra.coach.step import notes_per_click, picked_per_second
from fortimetra.coach.word import _extra
from fortimetra.hear.notes import HeardNote
from fortimetra.measure.reference import BendReference
from fortimetra.model.ladder import LadderRule, Step
from scipy import stats

likely = importlib.import_module("fortimetra.coach.causes")
NOTE = HeardNote(0.0, 1.0, 57.0, 57.0, 57.0, -20.0, "attack")
REFERENCE = BendReference(440.0, 1.0, "temperament")


# -- which causes are said -------------------------------------------------------------------------------------------


def test_three_causes_are_said_of_a_take(monkeypatch):
    rules = [Made(name=i) for i in range(5)]
    monkeypatch.setattr(likely, "Judged", lambda *_a: None)
    for name, own in (("OUTER", rules), ("HAND", ()), ("PLACE", ())):
        monkeypatch.setattr(likely, name, own)
    monkeypatch.setattr(likely, "_shown", lambda *_a: Made(weight=1.0))
    monkeypatch.setattr(likely, "_unexplained", lambda _rule, shown, _chosen: shown)
    monkeypatch.setattr(likely, "_enough", lambda *_a: True)
    monkeypatch.setattr(likely, "_cause", lambda rule, _shown, _school: rule.name)
    assert likely.likely_causes(None, Made(school=None)) == (0, 1, 2)


def note(number=0, *, repeat=0, string=3, fret=5, onset_s=None, **measured):
    said = dict.fromkeys(("pitch", "bend", "timing", "level", "noise", "vibrato"))
    return Made(id=f"e{number}", repeat=repeat, string=string, fret=fret, onset_s=onset_s, **(said | measured))


def seen_of(notes, **more):
    told = {"asks": lambda _measure: True, "played": notes, "notes": notes, "event": lambda _n: None, "limits": {}}
    return Made(**(told | more))


def rung(seconds):
    own = note(noise=Made(verdict="outside"))
    event = Made(from_s=1.0, to_s=1.0 + seconds, string=4, level_db=-20.0, kind="open_ring")
    return seen_of([own], rings=[(event, own, {3})])


@pytest.mark.parametrize(("seconds", "built_up"), [(0.78, False), (0.82, True)])
def test_rings_of_eight_tenths_of_a_second_have_built_up(monkeypatch, seconds, built_up):
    (rule,) = (r for r in HAND if r.code == "neighbours_build_up")
    monkeypatch.setattr(of_quiet, "_rung", lambda seen, _sides, _told: [(e, n) for e, n, _ in seen.rings])
    assert (rule.seen(rung(seconds)) is not None) is built_up


# -- whose job it was ------------------------------------------------------------------------------------------------


def job(string, says, *, count=4, moving=0):
    return Made(string=string, says=says, count=count, moving=moving)


def damper(monkeypatch, jobs):
    monkeypatch.setattr(conclude, "_jobs", lambda _own, _plan: jobs)
    own = [(None, note(0), Made(string=jobs[0].string, says=jobs[0].says))]
    cause = Made(
        measure="noise", places=[Made(id="e0", repeat=0, string=3)], model_copy=lambda update: update["damper"]
    )
    return conclude._named(cause, own, Made(at=lambda _id: None))


@pytest.mark.parametrize(("count", "late"), [(4, True), (5, False)])
def test_a_part_comes_late_that_has_to_move_where_half_of_it_rang(monkeypatch, count, late):
    text = damper(monkeypatch, [job(5, "the side of the hand", count=count, moving=2)])
    assert ("it comes late" in text) is late


def test_two_parts_are_named(monkeypatch):
    text = damper(monkeypatch, [job(5, "the thumb"), job(2, "the first finger"), job(1, "the palm")])
    assert "the thumb" in text
    assert "the first finger" in text
    assert "the palm" not in text


# -- hands to be spared ----------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("cents", "codes"), [(99.0, []), (101.0, ["wide_bend", "breaking"])])
def test_bends_over_a_semitone_are_named(cents, codes):
    drill = Made(events=[Made(bend=Made(middle_cents=cents))])
    guitar = Made(kind="nylon", strings=[Made(gauge_mm=0.2)])
    assert [c.code for c in cautions.for_drill(drill, guitar)] == codes


@pytest.mark.parametrize(("gauge_mm", "heavy"), [(0.28, False), (0.29, True)])
def test_a_first_string_of_twenty_nine_hundredths_makes_a_heavy_set(gauge_mm, heavy):
    assert cautions.heavy(Made(kind="electric", strings=[Made(gauge_mm=gauge_mm)])) is heavy


@pytest.mark.parametrize(("minutes", "count"), [(19.0, 0), (20.0, 1)])
def test_twenty_minutes_are_long(minutes, count):
    assert len(cautions.for_day(minutes, [], None)) == count


# -- ladders, plans, trends ------------------------------------------------------------------------------------------


def take(bpm):
    return LadderTake("t", datetime(2026, 11, 2, tzinfo=UTC), bpm, None, 10, 9, 0, {})


@pytest.mark.parametrize(("bpm", "same"), [(80.45, True), (80.55, False)])
def test_tempos_within_half_a_beat_a_minute_are_one_step(bpm, same):
    assert at_this_step(take(bpm), Step(bpm=80.0), written=None) is same
    assert _reached(Step(bpm=80.0), Step(bpm=bpm), None) is same


@pytest.mark.parametrize(
    ("bpm", "way", "there"), [(25.0, -1, True), (23.0, -1, False), (395.0, 1, True), (397.0, 1, False)]
)
def test_a_ladder_ends_at_twenty_and_at_four_hundred(bpm, way, there):
    assert (next_step(Step(bpm=bpm), LadderRule(), way=way) is not None) is there


@pytest.mark.parametrize(
    ("minutes", "parts"),
    [([20.0], [20.0]), ([21.0], [10.5, 10.5]), ([12.0, 9.0], [12.0, 5.0, 9.0]), ([0.4], []), ([0.6], [0.5])],
)
def test_a_day_has_a_break_of_five_minutes_after_twenty(minutes, parts):
    found = _with_breaks([Block(i, m) for i, m in enumerate(minutes)])
    with_rest = [parts[0], 5.0, parts[1]] if minutes == [21.0] else parts
    assert [b.minutes for b in found] == with_rest


def test_the_weaker_of_a_pair_gets_twice_the_others_minutes_at_most():
    own = tuple(WantedDrill(i, 15.0, 3, weakness=w, pair=1 - i) for i, w in enumerate((0.9, 0.1)))
    found = _Group(own).on(datetime(2026, 11, 2, tzinfo=UTC).date())
    assert [b.minutes for b in found] == pytest.approx([20.0, 10.0])


@pytest.mark.parametrize(("count", "told"), [(4, None), (5, 5), (400, 400), (420, 400)])
def test_a_trend_has_five_takes_and_looks_at_four_hundred(count, told):
    found = trend(list(range(count)), [float(i) for i in range(count)])
    assert (None if found is None else found.points) == told


# -- set-up ----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("cents", "careful"), [(-48.0, False), (-52.0, True)])
def test_a_string_half_a_semitone_flat_is_tuned_up_with_care(cents, careful):
    string = Made(string=1, name="E4", offset_cents=cents, open_hz=320.0, status="other_pitch", u_offset=1.0)
    drill = Made(limits=lambda: {"plain_pitch_cents": 10.0}, a4_hz=440.0)
    (advice,) = _tune(Made(common_offset_cents=None, strings=[string]), drill)
    assert ("Keep the face away" in advice.text) is careful


@pytest.mark.parametrize(("share", "codes"), [(0.0095, []), (0.0105, ["dc"]), (-0.0105, ["dc"])])
def test_an_offset_of_a_hundredth_is_named(share, codes):
    quiet = Made(found=False, value_db=0.0)
    rig = Made(automatic_gain=quiet, noise_gate=quiet, level_change_db=None, signal_to_noise_db=60.0, dc_fraction=share)
    assert [a.code for a in _rig(Made(clipped_fraction=0.0, hum=None), rig)] == codes


# -- notes a click ---------------------------------------------------------------------------------------------------


def line(gaps):
    beats = np.concatenate(([0.0], np.cumsum(gaps)))
    events = [
        Made(beat=b, length=0.5, bend=None, vibrato=None, articulation="pick", accent=False, notes=()) for b in beats
    ]
    return Made(events=events, tempo=Made(bpm=60.0), seconds_per_beat=1.0, at=lambda _bpm: line(gaps))


@pytest.mark.parametrize(("even", "told"), [(4, None), (5, 4)])
def test_half_of_the_notes_of_an_even_line_are_alike(monkeypatch, even, told):
    gaps = [0.25] * even + [0.3, 0.35, 0.4, 0.45, 0.55]
    monkeypatch.setattr("fortimetra.coach.step._gaps", lambda drill, picked=False: gaps)
    assert notes_per_click(line(gaps)) == told


@pytest.mark.parametrize(("gap", "told"), [(0.252, 4), (0.254, None)])
def test_gaps_within_a_thousandth_of_a_beat_of_each_are_alike(monkeypatch, gap, told):
    # Twelve of them: the most notes to a click.
    monkeypatch.setattr("fortimetra.coach.step._gaps", lambda drill, picked=False: [gap] * 6)
    assert notes_per_click(line([gap] * 6)) == told
    monkeypatch.setattr("fortimetra.coach.step._gaps", lambda drill, picked=False: [0.0009, 0.5])
    monkeypatch.setattr("fortimetra.coach.step.at_step", lambda drill, _step: drill)
    assert picked_per_second(line([0.5]), Step(bpm=60.0)) == pytest.approx(2.0)


@pytest.mark.parametrize(("off_s", "said"), [(0.028, "meant"), (0.032, None), (-0.028, "meant")])
def test_a_mark_is_about_an_extra_sound_within_thirty_milliseconds(off_s, said):
    extra = Made(onset_s=2.0, said=None, model_copy=lambda update: Made(onset_s=2.0, **update))
    assert _extra(extra, [Made(at_s=2.0 + off_s, notes=(), kind="meant")]).said == said


# -- causes of pitch -------------------------------------------------------------------------------------------------


def pitched(errors, *, frets=(2, 3, 5, 7, 9, 10)):
    return [
        note(
            i,
            fret=frets[i % len(frets)],
            pitch=Made(error_cents=e, verdict="outside" if abs(e) > 8.0 else "inside", u=1.0),
        )
        for i, e in enumerate(errors)
    ]


@pytest.mark.parametrize(
    ("errors", "as_one"),
    [
        ([10.0, 10.0, 10.0], False),
        ([10.0, 10.0, 10.0, 10.0], True),
        # Around their median by 5.8 cents, by 6.2.
        ([14.2, 20.0, 25.8, 25.8, 14.2], True),
        ([13.8, 20.0, 26.2, 26.2, 13.8], False),
    ],
)
def test_a_string_is_out_of_tune_where_four_notes_lie_within_six_cents(errors, as_one):
    assert (of_pitch._off_as_one(3, pitched(errors)) is not None) is as_one


@pytest.mark.parametrize(("drift", "sinks"), [(-6.6, False), (-7.4, True)])
def test_a_hold_sinks_by_six_cents_a_second_for_sure(drift, sinks):
    assert of_pitch._sinks(Made(bend=Made(hold_drift_cents_per_s=drift, u_hold_drift=1.0))) is sinks


@pytest.mark.parametrize(("fade", "count"), [(-3.9, None), (-4.1, 1)])
def test_a_vibrato_is_choked_that_fades_by_four_decibels_a_second_more(fade, count):
    own = note(bend=Made(), vibrato=Made(fade_db_per_s=fade, verdict="inside"))
    found = of_pitch.swings_fade(seen_of([own]))
    assert (None if found is None else len(found.notes)) == count


@pytest.mark.parametrize(("opened", "told"), [(2, False), (3, True)])
def test_three_open_notes_tell_how_a_string_is_tuned(monkeypatch, opened, told):
    monkeypatch.setattr(of_pitch, "apart", lambda a, b: (10.0, 1.0))
    notes = pitched([0.0] * opened, frets=(0,)) + pitched([10.0] * 4)
    assert of_pitch._sharper_than_open(notes) is told


def test_twelve_frets_are_an_octave(monkeypatch):
    monkeypatch.setattr(of_pitch, "sure_slope", lambda _pairs: 1.0)
    limits = {"plain_pitch_cents": 11.5}
    seen = seen_of(pitched([10.0] * 4), drill=Made(family="scales"), limits=limits)
    found = of_pitch.frets_stretch(seen)
    assert "12 cents sharp by the 12th fret" in found.text
    limits["plain_pitch_cents"] = 12.5
    assert of_pitch.frets_stretch(seen) is None


# -- causes of place and of slurs ------------------------------------------------------------------------------------


def ending(of, *, before, after, drift_ms=None):
    """Notes of a take; before, after: how many of the first two thirds and of the last are off."""
    last = of // 3
    off = set(range(before)) | {of - 1 - i for i in range(after)}
    notes = [note(i, onset_s=float(i), timing=Made(verdict="outside" if i in off else "inside")) for i in range(of)]
    summary = Made(timing=Made(drift_ms_per_beat=drift_ms))
    seen = seen_of(notes, analysis=Made(summary=summary), drill=Made(seconds_per_beat=1.0))
    assert last >= after
    return of_place.worse_at_end("timing")(seen) is not None


@pytest.mark.parametrize(
    ("of", "before", "after", "drift_ms", "worse"),
    [
        (15, 0, 5, None, True),
        (14, 0, 4, None, False),
        (30, 0, 4, None, True),
        (30, 0, 3, None, False),
        # Of a hundred and of fifty: three times as often, and more than that.
        (150, 10, 15, None, False),
        (150, 10, 16, None, True),
        # One in 104 by chance (hypergeometric, by hand), one in 98.
        (33, 1, 5, None, True),
        (36, 1, 5, None, False),
        (30, 0, 5, 9.0, True),
        (30, 0, 5, 11.0, False),
    ],
)
def test_a_take_is_worse_at_its_end_by_three_times_and_four_notes_of_fifteen(of, before, after, drift_ms, worse):
    assert ending(of, before=before, after=after, drift_ms=drift_ms) is worse


@pytest.mark.parametrize(("frets", "shifts"), [(3, False), (4, True), (-4, True)])
def test_a_hand_that_goes_four_frets_moves(frets, shifts):
    own = note(1, fret=5 + frets)
    follows = {("e1", 0, 3): note(0, fret=5)}
    assert of_place._shifts(Made(follows=follows), own) is shifts


@pytest.mark.parametrize(("after_s", "begins"), [(0.11, True), (0.13, False)])
def test_a_string_that_rings_within_an_eighth_of_a_second_was_set_off_by_the_slur(after_s, begins):
    own = note(onset_s=1.0, noise=Made(verdict="outside"))
    seen = seen_of([own], rings=[(Made(from_s=1.0 + after_s, string=4), own, {3})], articulation=lambda _n: "hammer")
    assert (of_slurs.neighbour_rings_at("hammer")(seen) is not None) is begins


# -- causes of time --------------------------------------------------------------------------------------------------


def timed(errors, **summary):
    notes = [note(i, timing=Made(error_ms=e, verdict="outside", u=1.0)) for i, e in enumerate(errors)]
    told = {"bias_ms": None, "u_bias_ms": 1.0, "jitter_ms": None, "drift_ms_per_beat": None, "swing": None} | summary
    return seen_of(
        notes, analysis=Made(summary=Made(timing=Made(**told))), drill=Made(seconds_per_beat=1.0, tempo=Made(swing=0.5))
    )


@pytest.mark.parametrize(("jitter_ms", "shifted"), [(14.5, True), (15.5, False)])
def test_a_take_is_shifted_as_a_whole_by_twice_its_spread(jitter_ms, shifted):
    found = of_time.all_shifted(1)(timed([30.0] * 4, bias_ms=30.0, jitter_ms=jitter_ms))
    assert (found is not None) is shifted


@pytest.mark.parametrize(("drift_ms", "creeps"), [(19.5, False), (20.5, True)])
def test_a_tempo_creeps_by_a_fiftieth(drift_ms, creeps):
    assert (of_time.tempo_creeps(1)(timed([30.0] * 4, drift_ms_per_beat=drift_ms)) is not None) is creeps


@pytest.mark.parametrize(("ratio", "other"), [(1.41, True), (1.42, False), (1.26, True), (1.25, False)])
def test_a_tempo_within_six_in_a_hundred_of_another_number_a_click_is_that_number(ratio, other):
    # Four where three are asked would be 4/3 of the time.
    found = of_time.other_division(timed([30.0] * 4, drift_ms_per_beat=1000.0 * (ratio - 1.0)))
    assert (found is not None and "three to where four" in found.text) is other


@pytest.mark.parametrize(("kinds", "one"), [(["a"] * 3 + ["b"], False), (["a"] * 4 + ["b"], True)])
def test_soft_slurs_are_of_one_kind_where_more_than_three_quarters_are(kinds, one):
    assert of_time._of_one_kind(kinds) is one


@pytest.mark.parametrize(("swing", "swings"), [(0.565, False), (0.575, True)])
def test_eighths_swing_from_fifty_seven_in_a_hundred(swing, swings):
    seen = timed([30.0] * 4, swing=swing)
    seen.event = lambda _n: Made(beat=1.5)
    assert (of_time.eighths_swing(seen) is not None) is swings


@pytest.mark.parametrize(("db", "changes"), [(1.9, False), (2.1, True)])
def test_strokes_two_decibels_apart_for_sure_are_two_motions(db, changes):
    notes = [
        note(i, level=Made(way="picked", deviation_db=db if i < 4 else 0.0, verdict="outside"), fret=1 if i < 4 else 2)
        for i in range(8)
    ]
    seen = seen_of(notes)
    seen.event = lambda n: Made(length=1.0 if n.fret == 1 else 0.25)
    assert (of_time.motion_changes(seen) is not None) is changes


# -- causes ----------------------------------------------------------------------------------------------------------


def off_click(*places):
    """Notes by place, each with whether it is off in each repeat."""
    return [
        Made(
            id=f"e{i}", repeat=r, string=3, fret=5, status="played",
            timing=Made(verdict="outside" if is_off else "inside"), onset_s=float(r), end_s=r + 0.4,
        )
        for i, repeats in enumerate(places)
        for r, is_off in enumerate(repeats)
    ]  # fmt: skip


ALWAYS, NEVER, MOSTLY, OFTEN = [True] * 4, [False] * 4, [True, True, True, False], [True, True, False, False]
ONCE = [True, False, False, False]


@pytest.mark.parametrize(
    ("places", "named"),
    [
        ([ALWAYS, NEVER, NEVER, NEVER], 4),
        ([MOSTLY, NEVER, NEVER, NEVER], 3),
        ([OFTEN, NEVER, NEVER, NEVER], None),
        ([[True] * 3, [False] * 3, [False] * 3], 3),
        ([[True] * 2, [False] * 2, [False] * 2], None),
        ([ALWAYS, ALWAYS, NEVER, NEVER, NEVER, NEVER], 8),
        ([ALWAYS, ALWAYS, ALWAYS, NEVER, NEVER, NEVER, NEVER], None),
        # Elsewhere three notes of 20 are off: 15 %; then four.
        (
            [
                ALWAYS,
                [True, False, False, False],
                [True, False, False, False],
                [True, False, False, False],
                NEVER,
                NEVER,
            ],
            4,
        ),
        ([ALWAYS, OFTEN, [True, False, False, False], [True, False, False, False], NEVER, NEVER], None),
    ],
)
def test_the_same_note_is_named_where_one_place_or_two_are_off_and_the_others_hardly(places, named):
    seen = Made(asks=lambda _: True, played=off_click(*places), event=lambda _: None, drill=None)
    found = always_same_note("timing")(seen)
    assert (None if found is None else len(found.notes)) == named


def rule(*, outer=False, least=2, measure="timing", besides=False):
    return Made(outer=outer, least=least, measure=measure, besides=besides)


@pytest.mark.parametrize(
    ("shown", "of", "off", "outer", "enough"),
    [
        # Two are enough where they are 8 % for sure (of 10), three where they are 3 % (of 48), and then no more.
        (2, 10, 2, False, True),
        (2, 11, 2, False, False),
        (3, 11, 3, False, True),
        (3, 48, 3, False, True),
        (3, 49, 3, False, False),
        # A cause outside of the hands takes 8 % in any case.
        (3, 18, 3, True, True),
        (3, 19, 3, True, False),
    ],
)
def test_a_cause_takes_so_many_notes_and_such_a_share_of_them(shown, of, off, outer, enough):
    notes = off_click([True] * off + [False] * (of - off))
    seen = Made(notes=notes)
    assert _enough(rule(outer=outer), ShownBy(tuple(notes[:shown]), of, ""), seen) is enough


def test_a_cause_explains_a_quarter_of_what_is_off_at_least_for_sure():
    notes = off_click([True] * 40)

    def enough(count):
        return _enough(rule(), ShownBy(tuple(notes[:count]), 40, ""), Made(notes=notes))

    # 13 of 40 are 24 % for sure, 14 are 26 %.
    assert [enough(n) for n in (13, 14)] == [False, True]


@pytest.mark.parametrize(("k", "n"), [(2, 8), (4, 4), (3, 48), (14, 40)])
def test_the_least_share_is_wilsons_bound_and_one_note_is_chance(k, n):
    assert least_share(k, n) == pytest.approx(stats.binomtest(k, n).proportion_ci(0.8, "wilson").low, abs=1e-4)
    assert least_share(1, n) == 0.0


def test_a_cause_whose_notes_are_explained_to_seven_tenths_is_not_said_as_well():
    notes = off_click([True] * 10)
    stronger = [(rule(), ShownBy(tuple(notes[:7]), 10, ""))], [(rule(), ShownBy(tuple(notes[:6]), 10, ""))]
    whole = ShownBy(tuple(notes), 10, "")
    assert [_unexplained(rule(), whole, chosen) is None for chosen in stronger] == [True, False]
    assert _unexplained(rule(measure="pitch"), whole, stronger[0]) is whole
    assert _unexplained(rule(besides=True), whole, stronger[0]) is whole


def test_a_slope_is_sure_from_three_standard_errors_and_six_points_on():
    line = [(float(i), 2.0 * i + (1.0 if i % 2 else -1.0)) for i in range(6)]
    assert slope(line) is not None
    assert slope(line[:5]) is None
    b, se = slope(line)
    flat = [(x, y - (b - 2.9 * se) * x) for x, y in line]
    steep = [(x, y - (b - 3.1 * se) * x) for x, y in line]
    assert sure_slope(flat) is None
    assert sure_slope(steep) == pytest.approx(3.1 * se)

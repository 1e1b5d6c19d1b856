"""Who keeps which string quiet: postures worked out by hand. Common practice, no source."""

import pytest
from fortimetra.drills.library import library
from fortimetra.model.drill import Drill
from fortimetra.technique.damping import damping_plan
from fortimetra.technique.damping_words import strings_words

STANDARD = ["E4", "B3", "G3", "D3", "A2", "E2"]


def drill(*events, family="free", school=None, tuning=STANDARD, length=1.0):
    """A drill from events: lists of (string, fret, finger); fret None is struck and muted; a dict adds to its event."""
    rows = []
    for i, event in enumerate(events):
        notes, more = event if isinstance(event, tuple) and isinstance(event[-1], dict) else (event, {})
        rows.append(
            {
                "id": f"e{i + 1}", "beat": i * length, "length": length, "articulation": "pick" if notes else "none",
                "notes": [
                    {"string": s, "fret": f, "muted": f is None, "finger": g} for s, f, g in notes
                ],
            } | more
        )  # fmt: skip
    return Drill.model_validate(
        {
            "format": "fortimetra-drill", "version": 1, "title": "A posture", "family": family, "tuning": tuning,
            "tempo": {"bpm": 120}, "measures": ["noise"], "events": rows,
            "school": {"damping": school} if school else {},
        }
    )  # fmt: skip


def jobs(posture):
    """string: part, with the finger where it is one of the fretting hand."""
    return {d.string: f"{d.part} {d.finger}" if d.finger else d.part for d in posture.quiet}


STRUM = {"articulation": "strum"}


def chord(*notes):
    """All six strings struck: what is not named is struck and muted."""
    named = {s for s, _, _ in notes}
    return ([*notes, *((s, None, None) for s in range(1, 7) if s not in named)], STRUM)


FLAT = "underside 1"
POSTURES = [
    # Power chords: all six struck; the first finger's print lies over the thinner strings, its tip leans on the next
    # thicker, the idle second finger lies across what is thicker still.
    ("root 6, two notes", "mute_check", chord((6, 3, "1"), (5, 5, "3")), dict.fromkeys((1, 2, 3, 4), FLAT)),
    ("root 6, three notes", "mute_check", chord((6, 3, "1"), (5, 5, "3"), (4, 5, "4")), dict.fromkeys((1, 2, 3), FLAT)),
    ("root 6, one note", "mute_check", chord((6, 3, "1")), dict.fromkeys((1, 2, 3, 4, 5), FLAT)),
    ("root 5, two notes", "mute_check", chord((5, 3, "1"), (4, 5, "3")), dict.fromkeys((1, 2, 3), FLAT) | {6: "tip 1"}),
    ("root 5, three notes", "mute_check", chord((5, 3, "1"), (4, 5, "3"), (3, 5, "4")), {1: FLAT, 2: FLAT, 6: "tip 1"}),
    ("root 5, one note", "mute_check", chord((5, 3, "1")), dict.fromkeys((1, 2, 3, 4), FLAT) | {6: "tip 1"}),
    (
        "root 4, two notes",
        "mute_check",
        chord((4, 5, "1"), (3, 7, "3")),
        {1: FLAT, 2: FLAT, 5: "tip 1", 6: "idle_finger 2"},
    ),
    (
        "root 4, three notes",
        "mute_check",
        chord((4, 5, "1"), (3, 7, "3"), (2, 8, "4")),
        {1: FLAT, 5: "tip 1", 6: "idle_finger 2"},
    ),
    (
        "root 4, one note",
        "mute_check",
        chord((4, 5, "1")),
        dict.fromkeys((1, 2, 3), FLAT) | {5: "tip 1", 6: "idle_finger 2"},
    ),
    # Octaves struck over muted strings: the first finger quiets the string between and the one outside.
    ("octave 6-4", "muted_double_stops", chord((6, 3, "1"), (4, 5, "3")), dict.fromkeys((1, 2, 3, 5), FLAT)),
    (
        "octave 5-3",
        "muted_double_stops",
        chord((5, 3, "1"), (3, 5, "3")),
        dict.fromkeys((1, 2, 4), FLAT) | {6: "tip 1"},
    ),
    (
        "octave 4-2",
        "muted_double_stops",
        chord((4, 5, "1"), (2, 8, "4")),
        {1: FLAT, 3: FLAT, 5: "tip 1", 6: "idle_finger 2"},
    ),
    ("octave 3-1", "muted_double_stops", chord((3, 5, "1"), (1, 8, "4")), {2: FLAT, 4: "tip 1", 5: "idle_finger 2"}),
    ("octave 6-3, stretched", "muted_double_stops", chord((6, 5, "4"), (3, 2, "1")), {1: FLAT, 2: FLAT}),
    ("octave 5-2", "muted_double_stops", chord((5, 5, "4"), (2, 3, "1")), {1: FLAT, 6: "tip 4"}),
    ("octave 4-1", "muted_double_stops", chord((4, 5, "4"), (1, 3, "1")), {5: "tip 4"}),
    # The same plucked: the picking hand lies on what is thicker.
    ("octave 5-3, plucked", "free", [(5, 3, "1"), (3, 5, "3")], {1: FLAT, 2: FLAT, 6: "palm"}),
    ("octave 4-2, plucked", "free", [(4, 5, "1"), (2, 8, "4")], {1: FLAT, 5: "palm", 6: "palm"}),
    # Sixths between muted strings: two fingers hold them, the first lies flat over the string between or stays out.
    (
        "sixth 3-1, plucked",
        "muted_double_stops",
        [(3, 6, "3"), (1, 5, "2")],
        {2: FLAT, 4: "palm", 5: "palm", 6: "palm"},
    ),
    ("sixth 4-2, plucked", "muted_double_stops", [(4, 7, "3"), (2, 6, "2")], {1: FLAT, 3: FLAT, 5: "palm", 6: "palm"}),
    (
        "sixth 4-2 at one fret",
        "muted_double_stops",
        [(4, 7, "2"), (2, 7, "3")],
        {1: FLAT, 3: FLAT, 5: "palm", 6: "palm"},
    ),
    ("thirds 2-1", "muted_double_stops", [(2, 8, "2"), (1, 7, "1")], {3: "palm", 4: "palm", 5: "palm", 6: "palm"}),
    # Long bends: what the bend pushes along is the picking hand's; above lies the first finger.
    (
        "bend on 2",
        "long_note_noise",
        ([(2, 8, "3")], {"bend": {"kind": "bend", "target_cents": 200}}),
        {1: FLAT, 3: "palm", 4: "palm", 5: "palm", 6: "palm"},
    ),
    (
        "bend on 3",
        "long_note_noise",
        ([(3, 7, "3")], {"bend": {"kind": "bend", "target_cents": 200}}),
        {1: FLAT, 2: FLAT, 4: "palm", 5: "palm", 6: "palm"},
    ),
    (
        "bend on 4",
        "long_note_noise",
        ([(4, 7, "3")], {"bend": {"kind": "bend", "target_cents": 100}}),
        {1: FLAT, 2: FLAT, 3: FLAT, 5: "palm", 6: "palm"},
    ),
    (
        "bend on 5, pulled in",
        "long_note_noise",
        ([(5, 7, "3")], {"bend": {"kind": "bend", "target_cents": 100}}),
        {1: FLAT, 2: FLAT, 3: FLAT, 4: FLAT, 6: "palm"},
    ),
    (
        "unison bend 3 to 2",
        "unison_bend",
        ([(3, 12, "3"), (2, 10, "1")], {"bend": {"kind": "unison", "target_cents": 200}}),
        {1: FLAT, 4: "palm", 5: "palm", 6: "palm"},
    ),
    # Scales with drive: on 6 the fretting hand covers all above; from then on the thumb's side follows inward.
    ("scale, on 6", "low_string_muting", [(6, 5, "1")], dict.fromkeys((1, 2, 3, 4, 5), FLAT)),
    ("scale, on 5", "low_string_muting", [(5, 7, "3")], dict.fromkeys((1, 2, 3, 4), FLAT) | {6: "palm"}),
    ("scale, on 4", "low_string_muting", [(4, 5, "1")], dict.fromkeys((1, 2, 3), FLAT) | {5: "palm", 6: "palm"}),
    ("scale, on 3", "low_string_muting", [(3, 5, "1")], {1: FLAT, 2: FLAT, 4: "palm", 5: "palm", 6: "palm"}),
    ("scale, on 2", "low_string_muting", [(2, 8, "4")], {1: FLAT, 3: "palm", 4: "palm", 5: "palm", 6: "palm"}),
    ("scale, on 1", "low_string_muting", [(1, 5, "1")], {2: "tip 1", 3: "palm", 4: "palm", 5: "palm", 6: "palm"}),
    # Tapping: the side of the tapping hand lies on the thick strings.
    ("tap on 2", "tapping", ([(2, 12, "tap")], {"articulation": "tap"}), {3: "palm", 4: "palm", 5: "palm", 6: "palm"}),
    (
        "hammer on 3",
        "finger_pairs",
        ([(3, 7, "3")], {"articulation": "hammer"}),
        {1: FLAT, 2: FLAT, 4: "palm", 5: "palm", 6: "palm"},
    ),
    (
        "legato on 1",
        "legato_cycle",
        ([(1, 8, "4")], {"articulation": "hammer"}),
        {3: "palm", 4: "palm", 5: "palm", 6: "palm"},
    ),
    # Slide: the first finger of the picking hand stays on the string between, the thumb's side below.
    (
        "slide 3-1",
        "bottleneck",
        [(3, 5, "slide"), (1, 5, "slide")],
        {2: "picking_finger", 4: "palm", 5: "palm", 6: "palm"},
    ),
    (
        "slide 4-2",
        "bottleneck",
        [(4, 7, "slide"), (2, 6, "slide")],
        {1: "free_fingers", 3: "picking_finger", 5: "palm", 6: "palm"},
    ),
    ("slide on 2", "bottleneck", [(2, 5, "slide")], {1: "free_fingers", 3: "palm", 4: "palm", 5: "palm", 6: "palm"}),
    # An open string that has to sound: nothing may lie flat over it.
    ("drone on open 1", "free", [(3, 5, "1"), (1, 0, None)], {4: "palm", 5: "palm", 6: "palm"}),
    ("open 5 alone", "free", [(5, 0, None)], {6: "palm"}),
    # A rest: both hands lie on everything.
    ("a stop", "stop_and_rest", [], dict.fromkeys(range(1, 7), "palm")),
]


def posture_of(family, event, **more):
    events = [[(3, 5, "1")], event] if not event else [event]
    return damping_plan(drill(*events, family=family, **more)).postures[-1]


@pytest.mark.parametrize(("family", "event", "expected"), [p[1:] for p in POSTURES], ids=[p[0] for p in POSTURES])
def test_the_plan_is_what_players_do(family, event, expected):
    found = jobs(posture_of(family, event, school="picking_hand" if not event else None))
    assert {s: found.get(s) for s in expected} == expected


def test_as_many_postures_are_checked_as_promised():
    assert len(POSTURES) >= 40


@pytest.mark.parametrize(
    ("event", "school", "string", "part"),
    [
        ([(4, 5, "1")], "fretting_hand", 5, "tip"),
        ([(4, 5, "1")], "picking_hand", 5, "palm"),
        ([(2, 8, "3")], "fretting_hand", 1, "underside"),
        ([(2, 8, "3")], "picking_hand", 1, "free_fingers"),
    ],
)
def test_the_school_decides_where_both_hands_could(event, school, string, part):
    posture = posture_of("free", (event, {"length": 1.0}), school=school)
    # Where the picking hand moves fast its free fingers are busy: a long note leaves them time.
    if part == "free_fingers":
        slow = drill(event, school=school, length=4.0)
        posture = damping_plan(slow).postures[0]
    assert posture.damper(string).part == part


def test_no_string_is_both_sounding_and_damped_and_none_is_forgotten():
    for built in library():
        count = len(built.drill.tuning)
        for posture in damping_plan(built.drill).postures:
            quiet = {d.string for d in posture.quiet}
            assert not quiet & set(posture.sounding)
            assert quiet | set(posture.sounding) | set(posture.unreachable) == set(range(1, count + 1))
            assert len(quiet) == len(posture.quiet)


def test_a_flat_finger_never_lies_on_an_open_string_that_sounds():
    for built in library():
        for posture in damping_plan(built.drill).postures:
            opened = {h.string for h in posture.held if h.fret == 0}
            flat = {d.string for d in posture.quiet if d.part == "underside"}
            assert not opened or not flat or max(flat) < min(opened)


def test_the_palm_follows_the_strings_and_the_places_where_it_moves_are_named():
    up = drill(*[[(s, 5, "1")] for s in (6, 5, 4, 3, 2, 1)], family="low_string_muting", length=0.5)
    plan = damping_plan(up)
    palms = [{d.string for d in p.quiet if d.part == "palm"} for p in plan.postures]
    assert palms == [set(), {6}, {5, 6}, {4, 5, 6}, {3, 4, 5, 6}, {3, 4, 5, 6}]
    assert plan.moves == ("e2", "e3", "e4", "e5")
    assert plan.postures[2].moved == ("the side of the picking hand's thumb",)


def test_what_stays_costs_nothing():
    still = damping_plan(drill(*[[(3, 5, "1")]] * 8, length=0.5))
    assert still.moves == ()


def test_strings_that_nothing_reaches_are_said_with_what_players_do():
    # Two fingers press strings 6 and 1, everything between is struck.
    posture = posture_of("mute_check", chord((6, 5, "1"), (1, 9, "4"), (2, 0, None)))
    assert posture.unreachable
    assert any("pluck the notes" in line for line in posture.says)


def test_one_finger_that_presses_two_strings_presses_what_lies_between():
    posture = posture_of("muted_double_stops", chord((3, 2, "1"), (1, 2, "1")))
    assert posture.damper(2) is None or posture.damper(2).part != "underside"


@pytest.mark.parametrize("count", [4, 7, 8])
def test_other_numbers_of_strings_have_plans_too(count):
    tuning = ["E4", "B3", "G3", "D3", "A2", "E2", "B1", "F#1"][:count]
    plan = damping_plan(drill([(2, 5, "1")], tuning=tuning))
    assert {d.string for d in plan.postures[0].quiet} | set(plan.postures[0].unreachable) == set(
        range(1, count + 1)
    ) - {2}


def test_a_note_that_rings_on_is_not_damped():
    picked = drill(([(1, 5, "4")], {"let_ring": True, "length": 4.0}), [(3, 5, "1")])
    plan = damping_plan(picked)
    assert 1 in plan.at("e2").sounding


def test_strings_in_words():
    assert [strings_words(s) for s in ([3], [3, 1], [1, 2, 3], [1, 2, 5])] == [
        "string 3", "strings 1 and 3", "strings 1 to 3", "strings 1, 2 and 5",
    ]  # fmt: skip

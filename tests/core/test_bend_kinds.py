"""Pre-bends, releases, curls and unison bends, from sounds with known pitch and from the simulated student."""

import numpy as np
import pytest
from fortimetra.drills.library import built_in_drills
from fortimetra.hear.contour import track
from fortimetra.hear.notes import HeardNote
from fortimetra.judge.bends import _rests
from fortimetra.measure.bend import BendMeasured, measure_bend
from fortimetra.measure.reference import BendReference
from fortimetra.measure.release import measure_release
from fortimetra.measure.unison import measure_unison
from fortimetra.model.context import FrettedPitch, Setup
from fortimetra.player.faults import Faults, NoteFault

from tests.core.sounds import RATE_HZ, noise, times, tone
from tests.core.sounds import take as take_of
from tests.kept import measure_take, render

CENTS = 1.5
SECONDS = 2.0


def note(until=SECONDS):
    return HeardNote(0.0, until, 60.0, 60.0, 60.0, -20.0, "attack")


def contour_of(cents, hz=220.0):
    sound = tone(hz * 2 ** (cents / 1200), SECONDS) + noise(SECONDS, -75.0)
    return track(sound, rate_hz=RATE_HZ)


def fall(start, end, *, at=0.8, takes=0.15):
    way = 0.5 - 0.5 * np.cos(np.pi * np.clip((times(SECONDS) - at) / takes, 0, 1))
    return start + (end - start) * way


REFERENCE = BendReference(220.0 * 2 ** (200 / 1200), 0.2, "target")


@pytest.mark.parametrize(("start", "end"), [(200.0, 0.0), (178.0, 0.0), (205.0, 12.0), (100.0, -6.0)])
@pytest.mark.parametrize("at", [0.1, 0.3, 0.9])
def test_a_release_has_a_start_and_a_landing(start, end, at):
    found = measure_release(contour_of(fall(start, end, at=at)), note(), REFERENCE, target_cents=200.0)
    assert found.start_cents == pytest.approx(start, abs=CENTS)
    assert found.landing_error_cents == pytest.approx(end, abs=CENTS)
    assert found.rise_ms == pytest.approx(150 * 0.59, abs=25)
    assert found.reasons == ()


def test_a_landing_is_held_against_the_fretted_note_that_was_played():
    landing = BendReference(220.0 * 2 ** (5 / 1200), 0.2, "fretted")
    found = measure_release(contour_of(fall(200, 0)), note(), REFERENCE, target_cents=200.0, landing=landing)
    assert found.landing_error_cents == pytest.approx(-5.0, abs=CENTS)


@pytest.mark.parametrize(
    ("cents", "until", "reason"),
    [
        (np.full(round(SECONDS * RATE_HZ), 200.0), SECONDS, "no_release"),
        (fall(200, 0, at=1.8, takes=0.3), SECONDS, "no_landing"),
        (fall(200, 0), 0.07, "too_short"),
    ],
)
def test_what_a_release_lacks_is_said(cents, until, reason):
    found = measure_release(contour_of(cents), note(until), REFERENCE, target_cents=200.0)
    assert found.reasons == (reason,)
    assert found.landing_error_cents is None


def test_a_curl_is_its_peak():
    cents = 46.0 * np.sin(np.pi * np.clip(times(SECONDS) / 1.0, 0, 1)) ** 2
    found = measure_bend(
        contour_of(cents), note(1.0), BendReference(220.0 * 2 ** (50 / 1200), 0.0, "temperament"),
        target_cents=50.0, already_bent=False, peak=True,
    )  # fmt: skip
    assert found.reached_cents == pytest.approx(46.0, abs=CENTS)
    assert "no_plateau" not in found.reasons


def two_strings(hz, difference, *, seconds=2.5, rise_s=0.2, start=-200.0, loudness=1.0, noise_dbfs=-70.0):
    """A steady string and one that comes up to it; each stiff in its own way."""
    time = times(seconds)
    cents = start + (difference - start) * (0.5 - 0.5 * np.cos(np.pi * np.clip((time - 0.1) / rise_s, 0, 1)))
    return (
        tone(hz, seconds, stiffness=3e-5)
        + loudness * tone(hz * 2 ** (cents / 1200), seconds, stiffness=8e-5, decay_per_s=0.7)
        + noise(seconds, noise_dbfs)
    )


def read_unison(sound, hz, **changes):
    asked = {"onset_s": 0.0, "end_s": 2.5, "steady_hz": hz, "target_cents": 200.0, "tolerance_hz": 2.0}
    return measure_unison(sound, rate_hz=RATE_HZ, **(asked | changes))


@pytest.mark.parametrize("hz", [246.9, 440.0])
@pytest.mark.parametrize("difference", [-28.0, -12.0, -5.0, -2.5, 0.0, 2.5, 5.0, 12.0, 28.0])
def test_a_unison_is_told_to_a_cent_or_so_with_its_sign(hz, difference):
    found = read_unison(two_strings(hz, difference), hz * 2 ** (4 / 1200))
    if abs(difference) > 4:
        assert found.difference_cents == pytest.approx(difference, abs=CENTS)
    else:  # which of the two is the higher one cannot be told any more, and u says so
        assert abs(found.difference_cents) == pytest.approx(abs(difference), abs=CENTS)
    assert abs(found.difference_cents - difference) <= found.u_difference + 0.3
    # Two tones that far apart beat so many times a second: f·(2^(c/1200) − 1).
    assert found.beat_hz == pytest.approx(hz * abs(2 ** (difference / 1200) - 1), abs=hz * 0.001)
    tolerance = 1200 * np.log2(1 + 2.0 / hz)
    wanted = "there" if abs(difference) < tolerance - 2 else "past" if difference > 0 else "under"
    if abs(abs(difference) - tolerance) > 2:
        assert found.state == wanted
    if found.state == "there":
        assert 200 <= found.merge_ms <= 420


def test_a_string_that_is_softer_by_10_db_is_still_told():
    found = read_unison(two_strings(330.0, -14.0, loudness=0.32), 330.0)
    assert found.difference_cents == pytest.approx(-14.0, abs=CENTS)
    assert found.state == "under"


def test_a_difference_too_small_for_its_sign_is_neither_under_nor_past():
    # Half a hertz is under 3 cents here: the beating is outside, but which string is the higher one cannot be told.
    found = read_unison(two_strings(329.6, 3.0), 329.6, tolerance_hz=0.2)
    assert abs(found.difference_cents) < 4.0
    assert found.state is None
    assert found.beat_hz - found.u_beat > 0.2


def test_one_string_alone_is_no_unison():
    sound = tone(330.0, 2.5) + noise(2.5, -70.0)
    assert read_unison(sound, 330.0).reasons == ("one_string",)


def test_a_unison_too_short_says_so():
    assert read_unison(two_strings(330.0, 0.0), 330.0, end_s=0.3).reasons == ("too_short",)


def drill(title):
    return next(d for d in built_in_drills() if d.title == title)


def analysed(title, faults=None, **known):
    content = drill(title)
    sound, truth = render(content, faults or Faults())
    return measure_take(take_of(sound), drill=content, **known).analysis, truth


FAMILIES = [
    d for d in built_in_drills()
    if d.family in {"bend_ladder", "prebend", "unison_bend", "curl", "bend_in_scale", "vibrato_fretted", "vibrato_bent"}
]  # fmt: skip


@pytest.mark.parametrize("content", FAMILIES, ids=lambda d: d.title)
def test_every_family_of_bends_and_vibrato_is_clean_where_it_was_played_clean(content):
    content = content.model_copy(update={"repeats": 1})
    sound, _truth = render(content, Faults(random_cents=1.0, random_ms=4.0))
    analysis = measure_take(take_of(sound), drill=content).analysis
    assert analysis.summary.missed == 0
    for measure in {"pitch", "bend", "vibrato"} & set(content.measures):
        counts = analysis.summary.by_measure[measure]
        assert counts.outside == 0, measure
        assert counts.unclear <= 0.1 * (counts.inside + counts.unclear), measure


@pytest.mark.parametrize("extent_cents", [45.0, 0.0])
def test_a_bend_that_holds_before_a_vibrato_too_short_to_be_read_is_judged_by_that(extent_cents):
    content = drill("Vibrato on a full bend: string 2, fret 8")
    assert content.tempo is not None
    content = content.model_copy(update={"tempo": content.tempo.model_copy(update={"bpm": 3.0 * content.tempo.bpm})})
    # Two cycles in a note: where the swing's line is cannot be told from them.
    slow = NoteFault(vibrato_rate_hz=2.0, vibrato_extent_cents=extent_cents)
    sound, _ = render(content, Faults(notes={"e2": slow}))
    found = measure_take(take_of(sound), drill=content).analysis
    bends = [n.bend for n in found.notes if n.bend is not None]
    assert {b.verdict for b in bends} == {"inside"}
    assert all(b.u < 2.0 for b in bends)


@pytest.mark.parametrize(
    ("plateau", "held_s", "reasons", "arrives_s", "rests"),
    [
        ((1.1, 1.2), 0.1, (), 1.0, True),
        ((1.16, 1.25), 0.09, (), 1.0, False),
        ((2.0, 2.3), 0.3, (), 1.0, True),
        ((2.0, 2.29), 0.29, (), 1.0, False),
        ((1.1, 3.0), 1.9, ("unsteady_hold",), 1.0, False),
        (None, 0.0, (), 1.0, False),
        ((2.0, 2.1), 0.1, (), None, False),
    ],
)
def test_a_hold_without_vibrato_in_it_is_steady_and_long_or_where_the_bend_arrives(
    plateau, held_s, reasons, arrives_s, rests
):
    found = BendMeasured(REFERENCE, plateau=plateau, held_s=held_s, reasons=reasons)
    assert _rests(found, arrives_s) is rests


def test_a_bend_is_read_against_the_guitars_other_takes_where_this_one_has_no_fretted_target():
    title = "Bends in A minor pentatonic, position 5"
    alone, _ = analysed(title)
    bent = [(n.string, n.fret, n.bend) for n in alone.notes if n.bend]
    sources = {b.reference_source for _s, _f, b in bent}
    assert {s for s in sources if not s.startswith("fret ")} <= {"temperament"} | {n.id for n in alone.notes}
    string, fret, first = next(x for x in bent if x[2].reference_source == "temperament")
    step = round(first.target_cents / 100)
    known = Setup(
        format="fortimetra-setup", version=1, string_offset_cents=(None,) * 6,
        fretted=(FrettedPitch(string=string, fret=fret + step, error_cents=6.0, u=1.0),),
    )  # fmt: skip
    told, _ = analysed(title, setup=known)
    bend = next(n.bend for n in told.notes if n.bend and (n.string, n.fret) == (string, fret))
    assert bend.reference_source == "other takes"
    assert bend.error_cents == pytest.approx(first.error_cents - 6.0, abs=0.05)
    # How a guitar is tuned is known less well than how it was fretted.
    assert bend.u < first.u


def test_errors_of_a_ladder_are_counted_by_place():
    title = "Bend ladder: string 4, half, frets 5 to 8"
    faults = {f"e{2 + 6 * place + i}": NoteFault(cents=-6.0 * place) for place in range(4) for i in range(4)}
    found, _ = analysed(title, Faults(notes=faults))
    assert [(b.string, b.fret, b.count) for b in found.summary.bends] == [(4, f, 4) for f in (5, 6, 7, 8)]
    assert [b.median_error_cents for b in found.summary.bends] == pytest.approx([0, -6, -12, -18], abs=1.0)
    assert all(b.spread_cents < 1.0 for b in found.summary.bends)


def test_vibratos_are_counted_by_string():
    faults = {"e2": NoteFault(vibrato_rate_hz=1.5, vibrato_extent_cents=90.0)}
    found, _ = analysed("Vibrato, slow and wide: fret 7, strings 3 2 1", Faults(notes=faults))
    rows = {v.string: v for v in found.summary.vibratos}
    assert set(rows) == {1, 2, 3}
    assert (rows[2].rate_hz, rows[2].extent_cents) == pytest.approx((1.5, 90.0), abs=1.0)
    assert {v.on for v in rows.values()} == {"fretted"}


def chorus(sound, *, depth_s=0.002, rate_hz=1.0, mix=0.7):
    time = np.arange(len(sound)) / RATE_HZ
    back = (0.012 + depth_s * np.sin(2 * np.pi * rate_hz * time)) * RATE_HZ
    return (sound + mix * np.interp(np.arange(len(sound)) - back, np.arange(len(sound)), sound)).astype(np.float32)


def test_through_a_chorus_nothing_is_judged():
    content = drill("String 3: full bend at fret 7")
    sound, _ = render(content, Faults(notes={"bend": NoteFault(cents=-18.0)}))
    found = measure_take(take_of(0.6 * chorus(sound)), drill=content).analysis
    assert "pitch_wavers" in found.take.warnings
    assert {n.clean for n in found.notes} == {"unclear"}
    assert all(n.bend.error_cents is not None for n in found.notes if n.bend)


@pytest.mark.parametrize("drive_db", [0.0, 20.0])
def test_a_bend_that_is_flat_is_told_through_clipping_and_a_telephone(drive_db):
    content = drill("String 3: full bend at fret 7")
    sound, _ = render(content, Faults(notes={"bend": NoteFault(cents=-18.0)}, drive_db=drive_db))
    for heard, rate in ((np.clip(6 * sound, -0.9, 0.9), RATE_HZ), (sound[::6], RATE_HZ // 6)):
        found = measure_take(take_of(heard.astype(np.float32), rate), drill=content).analysis
        errors = [n.bend.error_cents for n in found.notes if n.bend]
        assert errors == pytest.approx([-18.0] * 4, abs=1.5)

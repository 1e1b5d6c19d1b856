"""Settings of timing, of notes together, of scrapes and of slides at their limits, held by what changes beside them.

Values are the house's, from its benchmarks, written out here by hand. What is read is made, its truth is known.
"""

from __future__ import annotations

import importlib
from types import SimpleNamespace as Made

import numpy as np
import pytest
from fortimetra.hear.notes import HeardNote
from fortimetra.measure import scrape, slide
from fortimetra.measure.scrape import _falls, scrapes
from fortimetra.measure.slide import _settled, _slid, arrivals_of, follow, measure_slides
from fortimetra.measure.timing import _drift, fastest_even_run_nps, group_places, summarise_timing

from .sounds import cents_up, contour_of

chords = importlib.import_module("fortimetra.measure.together")
RATE_HZ = 12_000


def note(onset_s, end_s=None):
    return HeardNote(onset_s, onset_s + 0.2 if end_s is None else end_s, 57.0, 57.0, 57.0, -20.0, "attack")


# -- timing ----------------------------------------------------------------------------------------------------------


EIGHTH = {"articulation": "pick", "length": 0.5}


def eighths(count, *, beats=None, accents=()):
    """Events an eighth apart, or at some beats."""
    at = 0.5 * np.arange(count) if beats is None else beats
    return [
        Made(beat=b, notes=[Made(repeat=0, note=Made(string=2), event=Made(accent=i in accents, **EIGHTH))])
        for i, b in enumerate(at)
    ]


def drill(bpm=120.0, profile="steady"):
    return Made(
        tempo=Made(bpm=bpm), seconds_per_beat=60.0 / bpm, played_beat=lambda beat: beat, profile=profile,
    )  # fmt: skip


@pytest.mark.parametrize(("count", "told"), [(3, False), (4, True)])
def test_four_notes_tell_of_the_timing_of_a_take(count, told):
    match = Made(events=eighths(count), heard=[note(0.25 * i) for i in range(count)])
    timings = [Made(error_ms=3.0, u_ms=3.0, relative=False)] * count
    grid = Made(source="click", u_ms=1.0, bpm=120.0)
    assert (summarise_timing(match, timings, drill(), grid) is not None) is told


@pytest.mark.parametrize(("bpm", "told"), [(126.5, True), (127.5, False), (113.5, True), (112.5, False)])
def test_a_tempo_within_six_in_a_hundred_is_a_drift(bpm, told):
    found = _drift(np.zeros(4), np.arange(4.0), drill(), Made(source="fitted", bpm=bpm))
    assert (found is not None) is told


def even_run(count, apart_s):
    return fastest_even_run_nps(Made(notes=[note(apart_s * i) for i in range(count)]), drill())


@pytest.mark.parametrize(("count", "held"), [(19, None), (20, 10.0)])
def test_a_run_of_two_seconds_counts_as_held(count, held):
    # The last note sounds for its slot, too: twenty tenths of a second.
    assert even_run(count, 0.1) == held


def test_and_one_that_lacks_a_fiftieth_of_it():
    assert even_run(20, 0.0985) == pytest.approx(1.0 / 0.0985, abs=0.01)
    assert even_run(20, 0.0975) is None


@pytest.mark.parametrize(("count", "held"), [(5, None), (6, 2.0)])
def test_and_has_six_notes(count, held):
    assert even_run(count, 0.5) == held


@pytest.mark.parametrize(("off", "place"), [(0.009, 1), (0.011, 3)])
def test_a_place_within_a_hundredth_is_on_the_beat(off, place):
    assert group_places(Made(events=eighths(3, beats=[0.0, 0.5, 1.0 + off])), drill())[2] == place


def test_sixteen_places_of_a_group_are_told_apart():
    places = group_places(Made(events=eighths(20, accents=(0, 18))), drill())
    assert places == [*range(1, 17), None, None, 1, 2]


# -- notes together --------------------------------------------------------------------------------------------------


def looked_at(monkeypatch, hz, others, *, rise_db=40.0):
    """What is asked of a sound about an onset at 0.5 s, and when a pitch begins that comes at 0.5 s."""
    asked = {}

    def powers(_sound, starts, length, frequencies, *, rate_hz):
        middle_s = (starts + length // 2) / rate_hz
        asked.update(hz=frequencies, length_s=length / rate_hz, middle_s=middle_s)
        level = np.where(middle_s < 0.5, -rise_db, 0.0)
        return np.tile(10.0 ** (level / 10.0)[:, None], (1, len(frequencies)))

    monkeypatch.setattr(chords, "powers_at", powers)
    found = chords._begins_s(np.zeros(RATE_HZ, np.float32), hz, others, 0.5, rate_hz=RATE_HZ)
    return asked, found


def test_notes_together_are_looked_at_from_a_twentieth_of_a_second_before_to_a_tenth_after(monkeypatch):
    asked, found = looked_at(monkeypatch, 500.0, [7001.0])
    assert asked["length_s"] == 0.03
    assert (asked["middle_s"][0], asked["middle_s"][-1]) == pytest.approx((0.45, 0.598), abs=1e-4)
    assert np.diff(asked["middle_s"]) == pytest.approx(0.002, abs=1e-4)
    assert found == pytest.approx(0.5, abs=0.002)


def test_in_eight_partials_up_to_forty_five_hundred_hertz(monkeypatch):
    assert looked_at(monkeypatch, 500.0, [8900.0])[0]["hz"].tolist() == [500.0 * k for k in range(1, 9)]
    assert looked_at(monkeypatch, 720.0, [8900.0])[0]["hz"].tolist() == [720.0 * k for k in range(1, 7)]


@pytest.mark.parametrize(("apart_hz", "alone"), [(58.0, False), (62.0, True)])
def test_that_lie_sixty_hertz_apart(monkeypatch, apart_hz, alone):
    asked, _ = looked_at(monkeypatch, 500.0, [500.0 + apart_hz, 8900.0])
    assert bool((asked.get("hz", np.zeros(1)) == 500.0).any()) is alone


@pytest.mark.parametrize(("rise_db", "begins"), [(8.5, False), (9.5, True)])
def test_a_pitch_begins_that_rises_by_nine_decibels(monkeypatch, rise_db, begins):
    assert (looked_at(monkeypatch, 500.0, [7001.0], rise_db=rise_db)[1] is not None) is begins


@pytest.mark.parametrize(("count", "told"), [(1, None), (2, 12.0)])
def test_two_chords_tell_how_nearly_at_once_they_are_struck(monkeypatch, count, told):
    rates = []

    def spread(_sound, _hz, _onset_s, *, rate_hz):
        rates.append(rate_hz)
        return 12.0

    monkeypatch.setattr(chords, "spread_ms", spread)
    event = Made(notes=[Made(note=Made(muted=False), bend=None, midi=m) for m in (52.0, 59.0)])
    match = Made(events=[event] * count, heard=[note(0.5)] * count, offset_cents=0.0)
    assert chords.together_ms(np.zeros(44_100, np.float32), match, rate_hz=44_100) == told
    assert set(rates) <= {12_000}


# -- scrapes ---------------------------------------------------------------------------------------------------------

USUAL = 1e-9


def scraped(monkeypatch, rise_db, *, frames=(150, 155), usual_db=None, whole=1e-3, attacks_s=(0.2,)):
    """What is found of a burst over what lies between partials; rise_db: of each of its frames, or of all."""
    count = 300
    level = np.zeros(count) if usual_db is None else usual_db(np.arange(count))
    level[slice(*frames)] = rise_db
    between = USUAL * 10.0 ** (np.tile(level[:, None], (1, 14)) / 10.0)
    monkeypatch.setattr(scrape, "_between", lambda _sound: (between, np.full(count, whole)))
    return scrapes(np.zeros(18_000 * 3, np.float32), np.asarray(attacks_s), [], rate_hz=18_000)


@pytest.mark.parametrize(("rise_db", "count"), [(5.5, 0), (6.5, 1)])
def test_a_scrape_rises_by_six_decibels(monkeypatch, rise_db, count):
    found = scraped(monkeypatch, rise_db)
    assert [s.u_db for s in found] == [4.0] * count


@pytest.mark.parametrize(("rise_db", "count"), [(9.5, 0), (10.5, 1)])
def test_and_by_five_standard_deviations_of_what_is_usual(monkeypatch, rise_db, count):
    # A lower tenth 1.2816 times 2 dB under the middle.
    found = scraped(monkeypatch, rise_db, usual_db=lambda at: np.where(at % 7 == 0, -1.2816 * 2.0, 0.0))
    assert len(found) == count


@pytest.mark.parametrize(("shoulder_db", "frames"), [(2.7, 4), (3.3, 8)])
def test_it_begins_and_ends_at_half_its_rise(monkeypatch, shoulder_db, frames):
    # Of what it has to rise by, 6 dB.
    course = np.array([shoulder_db] * 2 + [12.0] * 4 + [shoulder_db] * 2)
    (found,) = scraped(monkeypatch, course, frames=(150, 158))
    assert found.to_s - found.from_s == pytest.approx(0.01 * (frames - 1))


@pytest.mark.parametrize(("frames", "count"), [(2, 0), (3, 1)])
def test_it_lasts_three_hundredths(monkeypatch, frames, count):
    assert len(scraped(monkeypatch, 12.0, frames=(150, 150 + frames))) == count


@pytest.mark.parametrize(("frames", "count"), [(33, 1), (42, 0)])
def test_what_lasts_four_tenths_of_a_second_is_usual(monkeypatch, frames, count):
    assert len(scraped(monkeypatch, 12.0, frames=(150, 150 + frames))) == count


@pytest.mark.parametrize(
    ("attack_s", "count"),
    # Frames from 1.525 to 1.545 s, each 0.05 s long; the attack reaches from 0.055 before itself to 0.095 after.
    [(1.602, 1), (1.598, 0), (1.418, 1), (1.442, 0)],
)
def test_nothing_is_said_about_an_attack(monkeypatch, attack_s, count):
    assert len(scraped(monkeypatch, 12.0, frames=(150, 153), attacks_s=(0.2, attack_s))) == count


@pytest.mark.parametrize(("fall_db", "frames"), [(8.5, 0), (9.5, 16)])
def test_a_stop_falls_by_nine_decibels_and_is_heard_four_hundredths_to_each_side(fall_db, frames):
    whole = 10.0 ** (np.where(np.arange(100) < 50, 0.0, -fall_db) / 10.0)
    assert np.count_nonzero(_falls(whole)) == frames


@pytest.mark.parametrize(("level_db", "count"), [(-39.0, 1), (-41.0, 0)])
def test_a_scrape_forty_decibels_under_its_note_is_reported(monkeypatch, level_db, count):
    # Of noise a lower quarter stands so far under the mean: 1 / −ln(3/4).
    power = 14 * USUAL * (10.0**2.0 - 1.0) / -np.log(0.75)
    assert len(scraped(monkeypatch, 20.0, whole=power * 10.0 ** (-level_db / 10.0))) == count


# -- slides ----------------------------------------------------------------------------------------------------------


def test_a_slide_is_looked_for_from_a_third_of_a_second_before_what_was_heard(monkeypatch):
    asked = []

    def look(_contour, **what):
        asked.append(what["between_s"])

    monkeypatch.setattr(slide, "follow", look)
    first = Made(notes=[Made(note=Made(string=2, fret=3, finger=None), event=Made(slide=None))])
    slid = Made(
        notes=[Made(note=Made(string=2, fret=5, finger=None), event=Made(slide=Made(from_fret=None, length=None)))]
    )
    match = Made(events=[first, slid], heard=[note(1.0, 2.0), note(2.0, 3.0)])
    guitar = Made(open_midi=lambda _s: 55.0, a4_hz=440.0, seconds_per_beat=0.5)
    measure_slides(np.zeros(10, np.float32), None, match, guitar, Made(at=lambda *_: 0.0), rate_hz=RATE_HZ)
    assert asked == [(pytest.approx(1.65), pytest.approx(2.35))]


@pytest.mark.parametrize(("frames", "share"), [(7, 1.2), (8, 1.0)])
def test_a_pitch_is_reached_where_it_stays_for_half_of_eight_hundredths(frames, share):
    assert _settled(np.array([1.0] * frames + [1.2] * 20), 0.3) == share


def followed(reached_cents, *, frames=120):
    course = np.concatenate((np.zeros(50), np.linspace(0.0, reached_cents, 20), np.full(frames - 70, reached_cents)))
    found = contour_of(cents_up(course))
    return follow(found, from_hz=220.0, to_hz=cents_up(500.0), between_s=(0.0, 0.6), near_s=0.3)


@pytest.mark.parametrize(("off_cents", "told"), [(70.0, True), (80.0, False), (-70.0, True), (-80.0, False)])
def test_a_slide_reaches_its_pitch_within_seventy_five_cents(off_cents, told):
    assert (followed(500.0 + off_cents) is not None) is told


@pytest.mark.parametrize(("frames", "told"), [(7, False), (9, True)])
def test_a_slide_is_followed_in_eight_frames(frames, told):
    f0 = np.full(60, np.nan)
    f0[10 : 10 + frames] = cents_up(np.where(np.arange(frames) < 3, 0.0, 200.0))
    found = follow(contour_of(f0), from_hz=220.0, to_hz=cents_up(200.0), between_s=(0.0, 0.3), near_s=0.07)
    # Too few stay there to say where it settled, so it is where it came to.
    assert (found is not None) is told


def test_a_slide_that_could_not_be_followed_took_a_quarter_of_a_second_at_most():
    event = Made(notes=[Made(note=Made(muted=False), event=Made(articulation="slide", slide=Made(length=None)))])
    match = Made(events=[event], heard=[note(1.0)])
    # It was heard somewhere on its way, and arrives in the other half.
    assert arrivals_of(match, {}, 0.5) == {0: (pytest.approx(1.0625), pytest.approx(125.0), False)}


@pytest.mark.parametrize(("way_s", "frets", "u_ms"), [(0.2, 2, 100.0), (0.01, 2, 25.0), (0.01, 1, 5.0)])
def test_of_a_shapes_way_half_stays_unknown_and_of_more_than_a_fret_twenty_five_milliseconds(way_s, frets, u_ms):
    read = Made(clear=True, leaves_s=1.0, arrives_s=1.0 + way_s, u_ms=5.0)
    before = Made(most_frets_to=lambda _event: frets)
    found = _slid(read, before, Made(lead=Made(note=Made(finger="first"))))
    assert found.u_arrives_ms == pytest.approx(np.hypot(5.0, u_ms))


@pytest.mark.parametrize(("frames", "looked"), [(19, False), (20, True)])
def test_scrapes_are_looked_for_in_a_fifth_of_a_second_clear_of_attacks(monkeypatch, frames, looked):
    asked = []
    monkeypatch.setattr(scrape, "_base", lambda own: asked.append(1) or (own, np.zeros(len(own))))
    # From 0.095 s after the last attack on there are so many.
    attack_s = 3.0 + 0.025 - 0.01 * frames - 0.096
    scraped(monkeypatch, 12.0, attacks_s=(attack_s,))
    assert bool(asked) is looked

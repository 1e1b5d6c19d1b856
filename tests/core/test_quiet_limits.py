"""Settings of what should be silent, at their limits, each held by what changes a quarter beside it.

Values are the house's, from its benchmarks, written out here by hand. What is read is made, its truth is known.
"""

from __future__ import annotations

import importlib
from dataclasses import replace
from types import SimpleNamespace as Made

import numpy as np
import pytest
from fortimetra.hear.combs import Combs
from fortimetra.hear.notes import HeardNote
from fortimetra.measure.chord import ChordNote
from fortimetra.measure.evidence import Fit, answers_of, own_partials
from fortimetra.measure.quiet import Quiet, _as_heard, _rises
from fortimetra.measure.ring import (
    RingReading,
    _combs,
    _echo_share,
    _goes_on,
    _others,
    _ring,
    _runs,
    ringing,
)
from fortimetra.measure.scrape import _between
from fortimetra.measure.strings import Part, Span, Suspect, _clear_of, same_pitch, spans_of
from fortimetra.measure.tail import (
    Tail,
    _fall_ms,
    _followed,
    _level_db,
    _partial_levels,
    _partials_of,
    _straightness,
    tail,
)

from .sounds import contour_of

tails = importlib.import_module("fortimetra.measure.tail")
RATE_HZ = 12_000


def note(onset_s, end_s, midi=57.0):
    return HeardNote(onset_s, end_s, midi, midi, midi, -20.0, "attack")


def part(string, hz, from_s, until_s, *, fret=0, event=0):
    return Part(event, string, fret, hz, from_s, until_s, False)


# -- evidence of strings that ring -----------------------------------------------------------------------------------

A_STRING = Suspect(5, 0, 110.0)


def fit(by_window, middle_s, *, suspects=1, explained=0.0):
    """Combs with what their four partials say, alike; by_window: shape (n_windows, n_combs), of each partial."""
    values = np.repeat(np.asarray(by_window, dtype=np.float32)[:, :, None], 4, axis=2)
    values[:, :, 3] -= explained
    shape = values.shape[:2]
    seen = Made(middle_s=np.asarray(middle_s), length_s=np.full(len(middle_s), 0.2))
    own, answers_db = np.ones(values.shape, np.bool_), np.full(shape[0], -27.0)
    return Fit(values, values > -1.0, own, None, np.zeros(shape), seen, suspects, answers_db)


def test_a_string_has_to_fit_better_by_six_than_pitches_no_string_has_within_two_fifths_of_a_second():
    # A decoy that fits with 40, four partials of 10, in the middle of three windows.
    def threshold(apart_s):
        decoy = np.zeros((3, 25))
        decoy[1, 3] = 10.0
        return fit(decoy, [0.0, apart_s, 2.0 * apart_s]).threshold()

    assert threshold(0.39) == pytest.approx([46.0, 46.0, 46.0])
    assert threshold(0.41) == pytest.approx([24.0, 46.0, 24.0])


def test_the_threshold_is_that_of_the_decoys_own_evidence():
    # Their partials are not set ringing by what was played; the string's are.
    rng = np.random.default_rng(4)
    made = fit(rng.uniform(0.0, 30.0, (40, 27)), np.arange(40) * 0.15, suspects=2)
    made.level_db[:] = -90.0
    made.own[:, :2] = False
    decoys = made.evidence()[:, 2:26].max(axis=1)
    near = [decoys[max(0, i - 2) : i + 3].max() for i in range(40)]
    assert made.threshold() == pytest.approx(np.array(near) + 6.0)
    assert made.evidence()[:, :2].max() == 0.0


@pytest.mark.parametrize(("apart_s", "evidence"), [(0.12, 20.0), (0.13, 40.0)])
def test_what_speaks_for_a_string_is_averaged_over_a_quarter_of_a_second(apart_s, evidence):
    found = fit([[10.0], [0.0]], [0.0, apart_s]).evidence()
    assert found[0, 0] == pytest.approx(evidence)


@pytest.mark.parametrize(("each", "speaks"), [(4.4, False), (4.6, True)])
def test_a_comb_fits_by_nine_without_what_an_octave_above_explains(each, speaks):
    # Of four partials two are the octave's.
    assert fit([[each]], [0.0]).evidence()[0, 0] == pytest.approx(4.0 * each if speaks else min(4.0 * each, 0.0))


def test_pitches_between_the_semitones_of_two_octaves_are_chance():
    found = _combs([A_STRING]).hz
    between = [hz for hz in found if abs((12.0 * np.log2(hz / 110.0)) % 1.0 - 0.5) < 0.01]
    assert len(between) == 24
    assert max(between) == pytest.approx(110.0 * 2.0 ** (23.5 / 12.0))


@pytest.mark.parametrize(("off_hz", "rings_along"), [(1.6, True), (2.4, False)])
def test_a_string_rings_along_with_a_partial_two_hertz_away(off_hz, rings_along):
    # The string's first partial, sought in one interval of bins of 12000/8192 Hz.
    combs = Combs(np.array([110.0]), np.array([12.0]), np.array([0.0]))
    first, last = combs.intervals()
    edge_hz = last[0, 0] * 12_000 / 8192
    played = part(5, edge_hz + off_hz, 0.5, 1.0)
    seen = Made(middle_s=np.array([1.2]), span=np.array([0]))
    own = own_partials(seen, [Span(1.0, 1.4, (), 0, (played,))], [A_STRING], combs)
    assert own[0, 0, 0] == (not rings_along)
    assert first[0, 0] < last[0, 0]


def test_a_room_holds_no_more_of_a_note_than_fourteen_decibels_under_it():
    seen = Made(middle_s=np.array([1.0, 1.1, 1.5]), span=np.array([0, 0, 0]))
    found = answers_of(seen, [Span(1.0, 2.0, (), 0)], 100.0)
    assert found.tolist() == pytest.approx([-14.0, -20.0, -27.0])


# -- strings that ring -----------------------------------------------------------------------------------------------


def reading(level_db, middle_s, *, length_s=0.2, echo_share=None):
    level = np.asarray(level_db, dtype=np.float64).reshape(len(middle_s), -1)
    return RingReading(
        (), np.asarray(middle_s, dtype=np.float64), np.full(len(middle_s), length_s), np.zeros(len(middle_s), np.int64),
        level, np.full(level.shape, -50.0), echo_share, 0.0,
    )  # fmt: skip


@pytest.mark.parametrize(("gap_s", "rings"), [(0.19, 1), (0.21, 2)])
def test_rings_of_a_string_within_a_fifth_of_a_second_are_one(gap_s, rings):
    # Each window speaks for its middle half, 0.1 s.
    assert len(_runs(reading([-20.0, -20.0], [1.0, 1.1 + gap_s]), 0)) == rings


def ring(level_db, middle_s, *, hidden=0.0):
    own = np.arange(len(middle_s))
    told = Made(roles=np.full((len(own), 1), "open"), hidden=np.broadcast_to(hidden, len(own))[:, None])
    spans = [Span(0.0, 9.0, (), 0)]
    return _ring(reading(level_db, middle_s), told, spans, [], [A_STRING], 0, own)


@pytest.mark.parametrize(("apart_s", "told"), [(0.01, False), (0.03, True)])
def test_a_ring_lasts_twelve_hundredths_of_a_second(apart_s, told):
    assert (ring([-20.0, -20.0], [1.0, 1.0 + apart_s]) is not None) is told


def test_the_level_of_a_ring_is_known_to_so_much_and_less_where_it_lies_under_other_partials():
    assert ring([-20.0] * 3, [1.0, 1.1, 1.2]).u_db == pytest.approx(2.8)
    assert ring([-20.0] * 3, [1.0, 1.1, 1.2], hidden=1.0).u_db == pytest.approx(2.0 * np.hypot(1.4, 4.0))


@pytest.mark.parametrize(("hidden", "level_db", "filled"), [(0.49, -15.2, 0.36), (0.51, -30.0, 0.3)])
def test_the_level_of_a_ring_is_read_where_at_most_half_of_it_is_filled_in(hidden, level_db, filled):
    found = ring([-30.0, -30.0, -10.5], [1.0, 1.1, 1.2], hidden=(0.3, 0.3, hidden))
    assert found.level_db == pytest.approx(level_db, abs=0.1)
    assert found.filled == pytest.approx(filled, abs=0.01)
    assert found.to_s == pytest.approx(1.25)
    # Where it is seen nowhere, all of it is what there is.
    assert ring([-30.0, -10.5], [1.0, 1.1], hidden=0.6).filled == pytest.approx(0.6)


@pytest.mark.parametrize(("silent", "goes_on"), [(2, True), (3, False)])
def test_a_string_has_stopped_that_was_silent_in_three_windows(silent, goes_on):
    seen = reading([-np.inf] * silent, 1.0 + 0.1 * np.arange(1, silent + 1))
    assert _goes_on(seen, A_STRING, 1.95, [part(5, 110.0, 0.5, 1.0)]) is goes_on


def test_thirty_semitones_are_what_something_else_may_sound():
    # From the guitar's lowest on, without the strings' own.
    hz = 12.0 * np.log2(_combs([A_STRING]).hz / 110.0)
    scale = [round(v) for v in hz[1:] if abs(v - round(v)) < 0.01]
    assert scale == list(range(1, 30))


@pytest.mark.parametrize(("each", "others"), [(8.9, False), (9.1, True)])
def test_another_pitch_has_to_speak_by_twelve_more_than_chance(each, others):
    # Four partials, and 24 for a string: 36.
    row = np.zeros((1, 26))
    row[0, 25] = each
    assert _others(fit(row, [0.0]))[0] == others


def echoes(floor_db, chances, heard):
    """Notes whose string has left them, a span each."""
    suspects = [Suspect(3, 2, 220.0)]
    level = np.where(np.arange(chances) < heard, -20.0, -np.inf)[:, None]
    told = Made(
        roles=np.full((chances, 1), "echo"), floor_db=np.full((chances, 1), floor_db), level_db=level,
        span=np.arange(chances),
    )  # fmt: skip
    return _echo_share(told, suspects)


@pytest.mark.parametrize(("floor_db", "chances", "told"), [(-27.0, 4, True), (-25.0, 4, False), (-27.0, 3, False)])
def test_an_echo_has_four_chances_to_be_heard_over_minus_twenty_six(floor_db, chances, told):
    assert echoes(floor_db, chances, 1) == (pytest.approx(1.0 / chances) if told else None)


@pytest.mark.parametrize(("share", "found"), [(0.29, False), (0.31, True), (None, None)])
def test_an_echo_is_heard_at_three_tenths_of_its_chances(share, found):
    assert reading([-20.0], [1.0], echo_share=share).echoes is found


def six_strings():
    return [Suspect(6 - i, 0, hz) for i, hz in enumerate((82.41, 110.0, 146.83, 196.0, 246.94, 329.63))]


def plucked(hz, from_s, to_s, level_db, seconds=3.0):
    time = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
    k = np.arange(1, 13)
    tones = np.sin(2.0 * np.pi * hz * np.outer(time, k) + k) @ (1.0 / k)
    return 0.1 * 10.0 ** (level_db / 20.0) * tones * ((time >= from_s) & (time < to_s))


def rung(strings, *, span, sounding=(330.0, 0.0), before=None):
    """What rings of strings, (Hz, dB), in a span, beside or after a note."""
    sound = plucked(sounding[0], 0.0, span.to_s if span.parts else 1.0, sounding[1])
    for hz, level_db in strings:
        sound = sound + plucked(hz, 0.0 if before else 1.0, 3.0, level_db)
    sound += 1e-5 * np.random.default_rng(1).standard_normal(len(sound))
    own = part(2, sounding[0], 0.0, span.to_s if span.parts else 1.0, fret=5)
    first = Span(0.1, 1.0, (own,), 0, (own,))
    quiet = contour_of(np.full(600, np.nan))
    suspects = [*six_strings(), Suspect(2, 5, sounding[0]), *(() if before is None else (before,))]
    spans = [span] if span.parts else [first, span]
    return ringing(sound.astype(np.float32), quiet, spans, [own], suspects, rate_hz=RATE_HZ), suspects


def test_four_strings_may_ring_at_once():
    low = [(82.41, -10.0), (110.0, -12.0), (146.83, -11.0), (196.0, -13.0)]
    found, suspects = rung(low, span=Span(1.1, 2.5, (), 0))
    rest = found.middle_s > 1.3
    heard = np.isfinite(found.level_db[rest][:, :4])
    assert heard.sum(axis=1).max() == 4
    assert [s.string for s in suspects[:4]] == [6, 5, 4, 3]


@pytest.mark.parametrize(("level_db", "hides"), [(-9.5, True), (-14.5, False)])
def test_a_note_that_rings_on_loudly_hides_what_else_rings(level_db, hides):
    left = Suspect(4, 2, 164.81)
    sounding = part(2, 330.0, 0.0, 2.0, fret=5)
    before = part(4, 164.81 * 1.0, 0.0, 0.3, fret=2)
    span = Span(0.4, 2.0, (sounding,), 1, (before, sounding))
    found, _ = rung([(164.81 * 1.035, level_db)], span=span, before=Suspect(4, 2, 164.81 * 1.035))
    assert left.string == 4
    floors = found.floor_db[:, 0]
    assert bool(np.median(floors) >= 0.0) is hides


# -- what is told of a recording -------------------------------------------------------------------------------------


def quiet(*, scrapes=(), parts=(), tail=Tail(None), echo_share=None):  # noqa: B008
    found = reading([-20.0], [1.0], echo_share=echo_share)
    return Quiet(tuple(parts), (), found, (), tuple(scrapes), (), None, tail)


@pytest.mark.parametrize(("onset_s", "scrape"), [(0.951, True), (0.949, False), (1.249, True), (1.251, False)])
def test_bursts_within_five_hundredths_of_a_second_are_one(onset_s, scrape):
    assert quiet(scrapes=[Made(from_s=1.0, to_s=1.2)]).is_scrape(note(onset_s, 2.0)) is scrape


@pytest.mark.parametrize(("until_s", "rooms"), [(1.09, True), (1.11, False)])
def test_a_string_has_left_its_pitch_a_tenth_of_a_second_before_the_room_rings(until_s, rooms):
    rings = Made(string=4, from_s=1.0, to_s=1.4, hz=220.0, level_db=-50.0, u_db=3.0)
    assert quiet(parts=[part(3, 220.0, 0.5, until_s)], tail=Tail(100.0)).is_the_rooms(rings) is rooms


@pytest.mark.parametrize(
    ("off_cents", "u_cents", "heard"),
    [
        (3.0, 2.0, True),
        (1.9, 2.0, False),  # as asked, within what is known
        (-3.0, 2.0, True),
        (10.0, 7.9, True),
        (10.0, 8.1, False),  # hardly known
        (10.0, None, False),
    ],
)
def test_notes_of_a_chord_are_cut_out_where_they_are_known_to_be_heard(off_cents, u_cents, heard):
    asked, other = part(6, 98.0, 0.5, 1.0), part(5, 146.8, 0.5, 1.0)
    hz = 98.0 * 2.0 ** (off_cents / 1200.0)
    found = _as_heard([asked, other], [[ChordNote(asked, True, -3.0, hz, u_cents)]])
    assert found[0].hz == pytest.approx(hz if heard else 98.0)
    assert found[1].hz == 146.8


@pytest.mark.parametrize(
    ("to_s", "bent", "string", "passed"),
    [(0.99, True, 3, True), (1.01, True, 3, False), (0.99, False, 3, False), (0.99, True, 1, False)],
)
def test_half_a_second_after_its_stroke_a_bend_has_left_the_pitch_it_began_at(to_s, bent, string, passed):
    rings = Made(string=1, from_s=0.6, to_s=to_s, hz=220.0, level_db=-10.0, u_db=3.0)
    assert quiet(parts=[replace(part(string, 220.0, 0.5, 3.0), bent=bent)]).is_a_bends(rings) is passed


@pytest.mark.parametrize(("rise_db", "struck"), [(1.4, False), (1.6, True)])
def test_a_string_that_is_struck_again_rises_by_a_decibel_and_a_half(rise_db, struck):
    level = np.where(np.arange(100) < 50, -30.0, -30.0 + rise_db)
    assert _rises(note(0.25, 0.4), contour_of(np.full(100, 220.0), level)) is struck


@pytest.mark.parametrize(("ms", "room"), [(115.0, False), (125.0, True)])
def test_where_no_partial_tells_a_room_falls_for_twelve_hundredths(ms, room):
    assert quiet(tail=Tail(ms), echo_share=0.5).in_a_room is room


# -- how a recording becomes quiet -----------------------------------------------------------------------------------


def test_levels_are_of_hundredths_of_a_second_averaged_over_five():
    sound = np.zeros(RATE_HZ, np.float32)
    sound[6010] = 1.0
    level = _level_db(sound, RATE_HZ)
    assert len(level) == 100
    assert np.count_nonzero(level > -100.0) == 5


@pytest.mark.parametrize(("floor_db", "told"), [(-26.5, True), (-25.5, False)])
def test_a_fall_is_followed_to_six_decibels_over_the_floor(floor_db, told):
    level = np.concatenate((np.zeros(10), np.full(10, -20.0), np.full(10, floor_db)))
    assert (_fall_ms(level, floor_db) is not None) is told


@pytest.mark.parametrize(("frames", "ms"), [(34, 340.0), (36, None)])
def test_a_fall_longer_than_a_third_of_a_second_is_a_strings_own(frames, ms):
    level = np.concatenate((-20.0 * np.arange(frames + 1) / frames, np.full(20, -20.0)))
    assert _fall_ms(level, -60.0) == (None if ms is None else pytest.approx(ms))


def tail_of(monkeypatch, *, gap_s=0.5, partials=3):
    """What a tail is read from: the lengths of its falls, in frames, and the floor."""
    asked = []
    level = -np.arange(201.0) / 2.0  # from 0 to -100 dB

    def fall(part_db, floor_db):
        asked.append((len(part_db), floor_db))
        return 100.0

    monkeypatch.setattr(tails, "_level_db", lambda *_a: level)
    monkeypatch.setattr(tails, "_fall_ms", fall)
    monkeypatch.setattr(tails, "_followed", lambda *_a: [])
    monkeypatch.setattr(tails, "_partial_falls", lambda *_a: np.full((partials, 2), 7.0))
    match = Made(notes=[note(0.5, 1.0), note(1.0 + gap_s, 2.0)])
    found = tails.tail(np.zeros(2 * RATE_HZ, np.float32), match, rate_hz=RATE_HZ)
    return asked, found


def test_the_floor_is_what_a_twentieth_of_the_levels_are_under(monkeypatch):
    (frames, floor_db), *_ = tail_of(monkeypatch)[0]
    assert floor_db == pytest.approx(-95.0)
    # From its attack to 20 ms before the next.
    assert frames == 100 - 2


@pytest.mark.parametrize(("gap_s", "read"), [(0.145, 0), (0.155, 1)])
def test_a_fall_is_read_in_a_gap_of_fifteen_hundredths(monkeypatch, gap_s, read):
    assert len(tail_of(monkeypatch, gap_s=gap_s)[0]) == read


@pytest.mark.parametrize(("partials", "told"), [(2, None), (3, 7.0)])
def test_three_partials_tell_how_evenly_a_recording_falls(monkeypatch, partials, told):
    assert tail_of(monkeypatch, partials=partials)[1].uneven_db == told


def test_the_last_two_dozen_notes_are_followed():
    notes = [note(float(i), i + 0.5) for i in range(30)]
    event = Made(notes=[Made(note=Made(muted=False), bend=None)])
    gaps = [(n, n.onset_s + 1.0) for n in notes]
    found = _followed(gaps, Made(events=[event] * 30, heard=notes, offset_cents=0.0))
    assert [n.onset_s for n, _, _ in found] == [float(i) for i in range(6, 30)]


def test_ten_partials_are_followed_and_of_a_chord_those_forty_five_hertz_apart():
    own = Made(note=Made(muted=False), bend=None, midi=57.0)
    assert _partials_of(Made(notes=[own]), note(0.0, 1.0), 0.0) == pytest.approx(220.0 * np.arange(1, 11))
    # A second string whose first partials lie 40 and 50 Hz beside those of the first.
    for apart_hz, alone in ((43.0, False), (47.0, True)):
        other = Made(note=Made(muted=False), bend=None, midi=69.0 + 12.0 * np.log2((220.0 + apart_hz) / 440.0))
        found = _partials_of(Made(notes=[own, other]), note(0.0, 1.0), 0.0)
        assert bool(np.isclose(found, 220.0).any()) is alone


@pytest.mark.parametrize(("level_dbfs", "rooms"), [(-148.0, False), (-152.0, True)])
def test_what_is_softer_than_the_steps_of_24_bits_is_where_a_recording_was_cut(monkeypatch, level_dbfs, rooms):
    # A note that falls by 20 dB in 0.2 s, and is over at once after 0.35 s; what follows is that soft.
    level = np.concatenate((np.full(100, -20.0), -20.0 - np.arange(35.0), np.full(100, level_dbfs)))
    monkeypatch.setattr(tails, "_level_db", lambda *_: level)
    monkeypatch.setattr(tails, "_partial_falls", lambda *_: np.zeros((0, 2)))
    own = Made(notes=[note(0.0, 1.0)], events=[], heard=[], offset_cents=0.0)
    found = tail(np.zeros(round(2.35 * RATE_HZ), np.float32), own, rate_hz=RATE_HZ)
    assert found.ms == (pytest.approx(200.0, abs=10.0) if rooms else pytest.approx(10.0, abs=10.0))


@pytest.mark.parametrize(("kind", "strings", "followed"), [
    ("bend", 1, True), ("prebend", 1, True), ("curl", 1, True), ("release", 1, False), ("unison", 1, False),
    ("bend", 2, False),
])  # fmt: skip
def test_a_bend_that_stays_up_is_followed_where_it_has_arrived(kind, strings, followed):
    bent = Made(note=Made(muted=False), bend=Made(kind=kind), midi=57.0)
    other = Made(note=Made(muted=False), bend=None, midi=64.0)
    own = replace(note(0.0, 1.0), plain_midi=57.0, main_midi=59.0)
    found = _partials_of(Made(notes=[bent, other][:strings]), own, 0.0)
    expected = 440.0 * 2.0 ** ((59.0 - 69.0) / 12.0) * np.arange(1, 11) if followed else []
    assert found == pytest.approx(np.array(expected))


def test_a_fall_is_followed_from_a_little_before_a_notes_end_for_three_tenths_of_a_second(monkeypatch):
    asked = []

    def levels(_mono, first_s, last_s, hz, _rate):
        asked.append((round(first_s, 4), round(last_s, 4), hz.max()))
        return np.zeros((0, 0))

    monkeypatch.setattr(tails, "_partial_levels", levels)
    hz = 500.0 * np.arange(1, 11)
    for own, begins in ((note(1.0, 1.08), 3.0), (note(1.0, 1.5), 3.0), (note(1.0, 1.5), 1.7)):
        tails._partial_falls(np.zeros(10), [(own, begins, hz)], RATE_HZ)
    assert asked == [(1.05, 1.38, 2500.0), (1.44, 1.8, 2500.0), (1.44, 1.68, 2500.0)]
    hz[-1] = 2999.0
    tails._partial_falls(np.zeros(10), [(note(1.0, 1.5), 3.0, hz)], RATE_HZ)
    assert asked[-1][2] == 2999.0


@pytest.mark.parametrize(("level_db", "count"), [(-24.0, 2), (-26.0, 1)])
def test_a_partial_is_followed_that_stands_within_twenty_five_decibels_of_the_strongest(level_db, count):
    time = np.arange(RATE_HZ) / RATE_HZ
    sound = 0.1 * np.sin(2.0 * np.pi * 300.0 * time) + 0.1 * 10.0 ** (level_db / 20.0) * np.sin(
        2.0 * np.pi * 900.0 * time
    )
    found = _partial_levels(sound.astype(np.float32), 0.3, 0.6, np.array([300.0, 900.0]), RATE_HZ)
    # Windows of 40 ms, one each hundredth of a second.
    assert found.shape == (31, count)


def test_a_fall_begins_where_a_partial_is_last_three_decibels_under_its_start():
    # A step by 2.9 dB, and from there down as a line.
    falling = np.concatenate((np.zeros(6), np.full(4, -2.9), -2.9 - 2.0 * np.arange(1, 12)))
    uneven_db, ms = _straightness(falling)
    assert uneven_db == pytest.approx(0.0, abs=1e-6)
    assert ms == pytest.approx(1000.0 * 0.01 * 20.0 / 2.0)


@pytest.mark.parametrize(
    ("frames", "fall_db", "told"), [(6, 14.0, True), (5, 14.0, False), (12, 11.5, False), (12, 12.5, True)]
)
def test_a_fall_has_six_frames_and_twelve_decibels(frames, fall_db, told):
    # At once by more than the three decibels within which it has not begun.
    level = np.concatenate((np.full(3, -3.1), [0.0], np.linspace(-3.2, -fall_db, frames - 1)))
    assert (_straightness(level) is not None) is told


# -- stretches in which strings are looked for -----------------------------------------------------------------------


def test_nothing_is_read_six_hundredths_after_a_stop():
    assert _clear_of(1.0, 2.0, {2.0}, {}) == pytest.approx((1.06, 1.994))


@pytest.mark.parametrize(("seconds", "count"), [(0.114, 1), (0.118, 2)])
def test_a_stretch_is_a_twentieth_of_a_second_long(seconds, count):
    # From 15 ms after an attack to 6 ms before the next; from 60 ms after a stop.
    played = part(5, 110.0, 1.0, 1.5)
    match = Made(notes=[note(1.0, 1.5), note(1.5 + seconds, 3.0)])
    later = part(4, 146.83, 1.5 + seconds, 1.55 + seconds)
    found = spans_of(match, [played, later], 1.6 + seconds)
    assert len([s for s in found if s.from_s < 1.5 + seconds]) == count


@pytest.mark.parametrize(("seconds", "looked"), [(29.5, True), (30.5, False)])
def test_what_sounds_half_a_minute_after_the_drill_is_none_of_its(seconds, looked):
    played = part(5, 110.0, 1.0, 1.5)
    match = Made(notes=[note(1.0, 1.5), note(1.5 + seconds, 40.0)])
    assert any(s.from_s > 1.5 + seconds for s in spans_of(match, [played], 41.0)) is looked
    quiet = Made(notes=[note(1.0, 1.5)])
    assert spans_of(quiet, [played], 900.0)[-1].to_s == pytest.approx(31.5)


@pytest.mark.parametrize(("cents", "same"), [(34.0, True), (36.0, False)])
def test_two_pitches_within_thirty_five_cents_are_the_same(cents, same):
    assert same_pitch(220.0 * 2.0 ** (cents / 1200.0), 220.0) is same


# -- scrapes ---------------------------------------------------------------------------------------------------------


def test_scrapes_are_looked_for_in_fourteen_parts_of_a_band_between_partials_that_fill_most_of_it():
    # Lines with 12 of each 25 bins in all, 3 bins at least to either side of each.
    time = np.arange(18_000) / 18_000.0
    few, many = (
        0.01 * np.sin(2.0 * np.pi * np.outer(time, np.arange(1000.0, 8000.0, spacing))).sum(axis=1)
        for spacing in (500.0 / 3.0, 500.0 / 4.0)
    )
    between, whole = _between(few.astype(np.float32))
    crowded, _ = _between(many.astype(np.float32))
    assert between.shape[1] == 14
    low, high = (10.0 * np.log10(np.median(v) / np.median(whole)) for v in (between, crowded))
    assert low < -63.0
    assert high > -40.0

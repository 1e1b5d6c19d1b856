"""Settings of what sounds how long, how loud and beside what, at their limits, held by what changes beside them.

Values are the house's, from its benchmarks, written out here by hand. What is read is made, its truth is known.
"""

from __future__ import annotations

from types import SimpleNamespace as Made

import numpy as np
import pytest
from fortimetra.align.match import Match, asked_events
from fortimetra.drills.library import built_in_drills
from fortimetra.hear.notes import HeardNote
from fortimetra.measure import length, overlap
from fortimetra.measure.length import _end, _fades, _sounds_on, note_lengths, summarise_lengths
from fortimetra.measure.level import NoteLevel, _compared, _hand_db, note_levels, reference_u
from fortimetra.measure.level_summary import _drift, _tap_excess
from fortimetra.measure.overlap import Overlap, _settled, _softer_by_db, note_overlaps, overlap_of, overlap_wanted
from fortimetra.measure.settings import OVERLAP

from .sounds import wave

RATE_HZ = 12_000


def note(onset_s, end_s=None, midi=57.0):
    return HeardNote(onset_s, onset_s + 0.2 if end_s is None else end_s, midi, midi, midi, -20.0, "attack")


# -- how long notes sound --------------------------------------------------------------------------------------------


def one_note(end_s, monkeypatch):
    """The length of a note of a second that ends by itself, silent after that."""
    monkeypatch.setattr(length, "note_overlaps", lambda *_a, **_k: [None])
    asked = Made(note=Made(muted=False), event=Made(length=1.0, articulation="pick", let_ring=False, voice=1))
    event = Made(lead=asked, notes=[asked], beat=0.0, main_midi=57.0)
    heard = note(0.0, end_s)
    match = Made(events=[event], heard=[heard], aside_s=lambda _spb: ())
    drill = Made(played_beat=lambda beat: beat, seconds_per_beat=1.0)
    sound = wave(lambda t: np.where(t < end_s, 0.0, -80.0), 1.0)
    return note_lengths(sound, match, drill, rate_hz=RATE_HZ)[0]


@pytest.mark.parametrize(("end_s", "dies"), [(0.39, True), (0.41, False)])
def test_a_note_that_ends_within_two_fifths_of_its_slot_has_died(monkeypatch, end_s, dies):
    assert one_note(end_s, monkeypatch).dies is dies


@pytest.mark.parametrize(("count", "told"), [(2, False), (3, True)])
def test_three_notes_tell_how_long_they_are(count, told):
    events = [Made(notes=[Made(event=Made(let_ring=False))])] * count
    notes = [Made(ratio=0.9, over_next=Overlap(5.0, 12.0, -10.0))] * count
    assert (summarise_lengths(Made(events=events), notes) is not None) is told


@pytest.mark.parametrize(("gap_s", "to_next"), [(0.0045, True), (0.0055, False)])
def test_a_note_that_ends_five_milliseconds_before_the_next_ends_there(gap_s, to_next):
    assert _end(note(0.0, 0.5), note(0.5 + gap_s), ()).to_next is to_next


def fades(level_db, end_s, midi):
    return _fades(wave(level_db, 2.0), note(0.0, end_s), midi, RATE_HZ)


@pytest.mark.parametrize(("end_s", "faded"), [(0.58, False), (0.62, True)])
def test_a_low_string_has_faded_after_six_tenths_of_a_second(end_s, faded):
    # It falls by 40 dB a second, too quickly for one that goes on as strings do.
    assert fades(lambda t: -40.0 * t, end_s, 40) is faded


@pytest.mark.parametrize(("end_s", "faded"), [(0.118, False), (0.132, True)])
def test_a_string_of_quality_150_has_faded_by_twenty_decibels(end_s, faded):
    # At 880 Hz: ln(10) · 150 / (π · 880), 125 ms.
    assert fades(lambda t: -40.0 * t, end_s, 81) is faded


@pytest.mark.parametrize(("end_s", "faded"), [(0.135, False), (0.145, True)])
def test_what_a_pluck_adds_is_over_after_seven_hundredths(end_s, faded):
    # As long again has to be heard of what the string then holds.
    assert fades(lambda t: np.zeros(len(t)), end_s, 40) is faded


@pytest.mark.parametrize(("level_db", "goes_on"), [(-14.0, True), (-16.0, False)])
def test_a_note_has_died_fifteen_decibels_under_its_start(level_db, goes_on):
    sound = wave(lambda t: np.where(t < 0.5, 0.0, level_db), 1.0)
    assert _sounds_on(sound, note(0.0, 0.5), np.inf, RATE_HZ) is goes_on


# -- how loud they are -----------------------------------------------------------------------------------------------


def played(title):
    return asked_events(
        next(d for d in built_in_drills() if d.title.startswith(title)).model_copy(update={"repeats": 1})
    )


@pytest.mark.parametrize(("apart_s", "known"), [(0.0215, False), (0.0225, True)])
def test_the_level_of_a_note_is_read_over_fifteen_milliseconds_at_least(apart_s, known):
    # From 5 ms after the attack to 2 ms before the next.
    events = played("Alternate picking 1 2 3 4, up: strings 3 and 2")[:6]
    at_s = [0.3, 0.6, 0.9, 0.9 + apart_s, 1.2, 1.5]
    match = Match(events, tuple(note(t, midi=e.start_midi) for t, e in zip(at_s, events, strict=True)), (), 0.0)
    found = note_levels(wave(lambda t: np.zeros(len(t)), 2.0), match, rate_hz=RATE_HZ)
    assert (found[2] is not None) is known


def test_nobody_plays_more_evenly_than_three_tenths_of_a_decibel():
    found = reference_u(np.zeros(8), 0.1)
    assert found == pytest.approx(2.0 * np.sqrt(np.pi / 16.0) * 0.3)


@pytest.mark.parametrize(
    ("from_s", "to_s", "counts"), [(-0.04, -0.0315, False), (-0.028, -0.02, True), (-0.0035, 0.0, False)]
)
def test_what_sounded_from_thirty_to_four_milliseconds_before_an_attack_may_sound_on(from_s, to_s, counts):
    # On another string, and longer than anything that is read.
    events = played("Alternate picking 1 2 3 4, up: strings 3 and 2")
    change = next(i for i in range(1, len(events)) if events[i].lead.note.string < events[i - 1].lead.note.string)
    events = events[change - 4 : change + 1]
    at_s = np.array([0.3, 0.6, 0.9, 1.2, 1.5])

    def level(t):
        before = np.where((t >= 1.5 + from_s) & (t < 1.5 + to_s), 20.0, -60.0)
        return np.where((t % 0.3 < 0.1) & (t > 0.25), 0.0, before)

    match = Match(events, tuple(note(t, midi=e.start_midi) for t, e in zip(at_s, events, strict=True)), (), 0.0)
    found = note_levels(wave(level, 2.0, hz=1000.0), match, rate_hz=RATE_HZ, overlaps_s=[None] * 5)[4]
    assert (found.u_db > 1.0) is counts


def test_two_notes_on_each_string_tell_how_much_a_hand_scatters():
    # Strings are loud as they are; a hand scatters by 0.9 dB.
    rng = np.random.default_rng(7)
    strings = np.repeat(np.arange(1.0, 7.0), 2)
    ways = np.array(["picked"] * 12)
    found = [_hand_db(5.0 * np.sin(strings) + rng.normal(0.0, 0.9, 12), ways, strings)["picked"] for _ in range(800)]
    assert np.mean(found) == pytest.approx(0.9, rel=0.12)


@pytest.mark.parametrize(
    ("notes_of", "told"), [((6,), True), ((5,), False), ((2,) * 5, True), ((2,) * 4, False), ((1,) * 6, False)]
)
def test_five_notes_beyond_the_first_of_each_string_tell_how_much_a_hand_scatters(notes_of, told):
    strings = np.repeat(np.arange(len(notes_of), dtype=float), notes_of)
    level = np.resize([0.0, 1.0], len(strings))
    assert ("picked" in _hand_db(level, np.array(["picked"] * len(strings)), strings)) is told


def test_another_string_may_be_louder_or_softer_by_three_decibels():
    level = np.zeros(6)
    ways, strings = np.array(["picked"] * 6), np.array([1.0, 2.0, 2.0, 3.0, 3.0, 3.0])
    alone = _compared(NoteLevel(0.0, 0.4, "picked"), 0, level, ways, strings, {"picked": 0.3})
    of_five = reference_u(np.zeros(5), 0.3)
    assert (alone.against, alone.u_deviation_db) == ("take", pytest.approx(np.sqrt(0.4**2 + of_five**2 + 3.0**2)))


@pytest.mark.parametrize(("away", "deviation_db"), [(4, 4.5), (5, 6.0)])
def test_an_accent_stands_out_of_the_four_notes_on_either_side(away, deviation_db):
    # Two notes 3 dB louder than the others of its string, so far from it; it is 6 dB louder.
    ways = np.array(["picked"] * 11 + ["accented"] + ["picked"] * 11)
    strings = np.full(23, 2.0)
    level = np.full(23, np.nan)
    level[[11 - away, 11 + away]] = 3.0
    level[[10, 12]] = 0.0
    found = _compared(NoteLevel(6.0, 0.3, "accented"), 11, level, ways, strings, {})
    assert found.deviation_db == pytest.approx(deviation_db)


@pytest.mark.parametrize(("count", "told"), [(2, False), (3, True)])
def test_three_tapped_notes_are_compared(count, told):
    ways = ["tapped"] * count + ["picked"] * 3
    known = [(i, NoteLevel(1.0 if way == "tapped" else 0.0, 0.3, way)) for i, way in enumerate(ways)]
    match = Made(events=[Made(lead=Made(note=Made(string=2)))] * len(ways))
    assert _tap_excess(match, known) == (1.0 if told else None)


# -- how long they go on under the next ------------------------------------------------------------------------------


def asked_overlap(monkeypatch, *, apart_s, later_s=None):
    """Until when the overlap of the first of two notes is looked for; None where it is not."""
    asked = []

    def look(_sound, **what):
        asked.append(what["until_s"] - what["new_s"])

    monkeypatch.setattr(overlap, "overlap_of", look)
    monkeypatch.setattr(overlap, "overlap_wanted", lambda _match, i: i == 0)
    heard = (note(1.0), note(1.0 + apart_s), *(() if later_s is None else (note(later_s),)))
    events = [Made(main_midi=57.0, start_midi=57.0)] * len(heard)
    match = Made(events=events, heard=heard, breaks=(), fits=lambda _i: True, offset_cents=0.0)
    note_overlaps(np.zeros(RATE_HZ, np.float32), match, rate_hz=RATE_HZ)
    return asked[0] if asked else None


def test_an_overlap_is_looked_for_over_a_second_or_to_the_next_note(monkeypatch):
    assert asked_overlap(monkeypatch, apart_s=0.5) == pytest.approx(1.0)
    assert asked_overlap(monkeypatch, apart_s=0.5, later_s=1.9) == pytest.approx(0.4)


def wanted(midi, *, start_midi, main_midi):
    """Whether an old note of string 1 is to have stopped under a next one on string 2 that goes from pitch to pitch."""

    def event(string, start, main):
        own = Made(let_ring=False, voice=1, articulation="pick", bend=None)
        return Made(notes=[Made(event=own, note=Made(string=string, muted=False))], start_midi=start, main_midi=main)

    return overlap_wanted(Made(events=[event(1, midi, midi), event(2, start_midi, main_midi)]), 0)


@pytest.mark.parametrize(
    ("midi", "asked"), [(66.4, True), (66.6, False), (68.0, False), (69.0, False), (69.4, False), (69.6, True)]
)
def test_of_a_note_the_next_one_bends_to_nothing_is_asked(midi, asked):
    assert wanted(midi, start_midi=67.0, main_midi=69.0) is asked
    assert wanted(midi, start_midi=69.0, main_midi=67.0) is asked
    assert wanted(midi, start_midi=60.0, main_midi=60.0)


@pytest.mark.parametrize(("apart_s", "looked"), [(0.029, False), (0.031, True)])
def test_a_note_of_thirty_milliseconds_may_go_on(monkeypatch, apart_s, looked):
    assert (asked_overlap(monkeypatch, apart_s=apart_s) is not None) is looked


def settled(ms, *, level_db=0.0, untouched_ms=None, stroke_ms=70.0):
    """An old note that stops at once `ms` after the new one's beginning, so loud beside it; untouched_ms: the partials
    that the stroke does not reach stop then; stroke_ms: how long that may last.
    """
    middle_s = np.arange(-10, 200) * 0.004 + 1.0
    after_ms = 1000.0 * (middle_s - 1.0)
    softer_db = [np.where(after_ms <= end, 0.0, -60.0) for end in (ms, ms if untouched_ms is None else untouched_ms)]
    return _settled(level_db + np.array(softer_db), middle_s, 1.0, stroke_ms, level_db)


def test_a_clean_end_is_known_to_twelve_milliseconds_and_one_within_seventy_may_be_the_strokes():
    long, short = settled(100.0), settled(60.0)
    # What its level may be wrong by adds less than a millisecond to an end that is cut.
    assert (long.u_ms, short.u_ms) == (pytest.approx(12.5, abs=0.5), pytest.approx(20.5, abs=0.5))
    # Where the window's reach has been taken off, 76 ms come to 70.
    ends = [settled(float(ms)) for ms in range(60, 100, 4)]
    assert all((found.u_ms < 14.0) == (found.ms >= 69.0) for found in ends)
    assert {found.u_ms < 14.0 for found in ends} == {True, False}


@pytest.mark.parametrize(("level_db", "sure"), [(-17.9, True), (-18.1, False)])
def test_a_note_two_decibels_over_what_is_heard_may_not_be_heard_at_all(level_db, sure):
    found = settled(200.0, level_db=level_db)
    assert (found.u_ms < 20.0) is sure
    assert found.ms + found.u_ms > 195.0
    assert (found.ms - found.u_ms > 0.0) is sure
    assert found.level_db == level_db


def falling(level_db, *, held_ms=100.0, db_per_s=300.0, back_ms=0.0):
    """An old note so loud beside the new one, that keeps its level and then falls; back_ms: and is heard again at its
    own for so long, 30 dB down.
    """
    middle_s = np.arange(-10, 200) * 0.004 + 1.0
    after_ms = 1000.0 * (middle_s - 1.0)
    softer_db = -np.maximum(0.0, after_ms - held_ms) * db_per_s / 1000.0
    softer_db[(after_ms > held_ms + 100.0) & (after_ms < held_ms + 100.0 + back_ms)] = 0.0
    return _settled(level_db + np.array([softer_db, softer_db]), middle_s, 1.0, 70.0, level_db)


def test_a_note_is_held_until_it_has_fallen_by_ten_decibels_or_is_no_longer_heard():
    # 10 dB take 33 ms of 300 dB a second, 8.5 take 28.
    assert falling(0.0).held_ms == pytest.approx((133.3 - 12.0, 133.3 + 12.0), abs=0.5)
    assert falling(-11.5).held_ms == pytest.approx((128.3 - 12.0, 128.3 + 12.0), abs=0.5)
    assert falling(0.0, held_ms=-200.0).held_ms == (0.0, 12.0)
    # What is within a stroke may be the stroke's.
    assert falling(0.0, held_ms=40.0).held_ms[1] > 60.0
    assert falling(0.0, held_ms=30.0).held_ms[0] == 0.0
    # What comes back after more than a beat is another sound.
    assert falling(0.0, back_ms=40.0).held_ms == falling(0.0).held_ms


@pytest.mark.parametrize(("level_db", "told"), [(-11.9, True), (-12.1, False)])
def test_what_may_fall_by_eight_decibels_tells_how_long_it_is_held(level_db, told):
    assert (falling(level_db).held_ms != (0.0, np.inf)) is told


def test_a_note_sounds_at_least_as_long_as_it_is_held():
    slow = falling(-11.5, db_per_s=60.0)
    assert slow.ms - slow.u_ms >= slow.held_ms[0] > 100.0
    assert slow.ms + slow.u_ms >= slow.held_ms[1]
    # A clean end keeps its uncertainty.
    assert settled(100.0).held_ms == pytest.approx((88.0, 112.0), abs=4.0)


def test_under_a_stroke_the_partials_it_does_not_reach_tell_how_short_a_note_may_be():
    sure, perhaps = settled(50.0), settled(50.0, untouched_ms=-20.0)
    assert perhaps.ms + perhaps.u_ms == pytest.approx(sure.ms + sure.u_ms, abs=2.0)
    assert perhaps.ms - perhaps.u_ms == pytest.approx(-20.0)
    # A longer one is no stroke's, unless that lasts longer.
    assert settled(200.0, untouched_ms=-20.0) == settled(200.0)
    assert settled(200.0, untouched_ms=-20.0, stroke_ms=300.0).u_ms > 100.0


@pytest.mark.parametrize(("periods", "strokes"), [(17.0, True), (19.0, False)])
def test_a_stroke_on_a_low_string_may_last_eighteen_periods(monkeypatch, periods, strokes):
    lasts = []
    monkeypatch.setattr(overlap, "_settled", lambda _db, _s, _new, stroke_ms, _level: lasts.append(stroke_ms))
    overlapping()
    assert lasts == [70.0]
    time = np.arange(RATE_HZ) / RATE_HZ
    sound = np.sin(2.0 * np.pi * 110.0 * time) + np.sin(2.0 * np.pi * 165.0 * time)
    times = {"old_s": 0.1, "new_s": 0.4, "until_s": 0.9}
    overlap_of(sound.astype(np.float32), rate_hz=RATE_HZ, old_hz=110.0, new_hz=165.0, **times)
    assert (lasts[1] > 1000.0 * periods / 165.0) is strokes


def softer(*partials_db, amplitudes=None, share=0.5):
    """How much softer partials of so much less each have become together."""
    before = np.ones(len(partials_db)) if amplitudes is None else np.square(amplitudes)
    power = before * 10.0 ** (np.array(partials_db) / 10.0)
    return _softer_by_db(power[None, :], before, (share,))[0, 0]


def test_what_the_new_note_adds_to_less_than_half_of_the_old_partials_does_not_count():
    assert softer(-30.0, -32.0, 12.0) == pytest.approx(-30.0)
    assert softer(-30.0, 12.0, 12.0) == pytest.approx(1.8)
    # By their amplitudes: two soft ones do not outweigh a loud one.
    assert softer(-30.0, 0.0, 0.0, amplitudes=(3.0, 1.0, 1.0)) == pytest.approx(-30.0)


@pytest.mark.parametrize(("louder_db", "read_db"), [(1.7, 1.7), (1.9, 1.8)])
def test_a_string_nobody_strikes_seems_louder_by_its_beats_at_most(louder_db, read_db):
    assert softer(louder_db) == pytest.approx(read_db)


@pytest.mark.parametrize(("count", "read_db"), [(9, -40.0), (11, 0.0)])
def test_a_stroke_leaves_a_tenth_of_the_partials_as_they_are(count, read_db):
    assert softer(-40.0, *[0.0] * count, share=OVERLAP.stroke_share) == pytest.approx(read_db)


def overlapping(*, shared=1.0):
    """220 Hz that goes on under 330 Hz, each in three partials; shared: amplitude of the one both have."""
    time = np.arange(round(1.5 * RATE_HZ)) / RATE_HZ
    old = (time >= 0.1) & (time < 0.8)
    own = (
        np.sin(2.0 * np.pi * 220.0 * time)
        + np.sin(2.0 * np.pi * 440.0 * time)
        + shared * np.sin(2.0 * np.pi * 660.0 * time)
    )
    new = (time >= 0.5) * (np.sin(2.0 * np.pi * 330.0 * time) + np.sin(2.0 * np.pi * 990.0 * time))
    times = {"old_s": 0.1, "new_s": 0.5, "until_s": 1.2}
    return overlap_of(
        (0.1 * (old * own + new)).astype(np.float32), rate_hz=RATE_HZ, old_hz=220.0, new_hz=330.0, **times
    )


@pytest.mark.parametrize(("whole", "told"), [(14.0, True), (18.0, False)])
def test_what_a_note_does_not_share_has_to_hold_a_sixteenth_of_it(monkeypatch, whole, told):
    monkeypatch.setattr(overlap, "_settled", lambda *_seen: True)
    # Two partials of its own, and one with so many times their power less one.
    assert (overlapping(shared=np.sqrt(2.0 * (whole - 1.0))) is not None) is told


@pytest.mark.parametrize(("ratio", "left"), [(1.49, 4), (1.51, 3)])
def test_a_note_half_as_long_again_as_its_slot_is_left_out(ratio, left):
    events = [Made(notes=[Made(event=Made(let_ring=False))])] * 4
    notes = [Made(ratio=r, over_next=None) for r in (0.8, 0.8, 0.8, ratio)]
    found = summarise_lengths(Made(events=events), notes)
    assert (found.spread, found.ratio) == (0.0, 0.8)
    # Of three alike and one apart the median is theirs; of two and one it is not.
    fewer = summarise_lengths(Made(events=events[1:]), notes[1:])
    assert (fewer is None) is (left == 3)


@pytest.mark.parametrize(("minutes", "told"), [(0.095, False), (0.105, True)])
def test_a_tenth_of_a_minute_tells_whether_a_take_gets_louder(minutes, told):
    known = [(i, NoteLevel(0.0, 0.3, "picked", 0.1 * i, 0.5, "string")) for i in range(8)]
    match = Made(heard=[note(60.0 * minutes * i / 7.0) for i in range(8)])
    assert (_drift(match, known) is not None) is told


@pytest.mark.parametrize(("windows", "looked"), [(3, False), (4, True)])
def test_an_overlap_is_looked_for_in_four_windows(windows, looked):
    # From 33 ms before the new note on, each 50 ms long, 4 ms apart.
    sound = (plain_wave(220.0) + plain_wave(330.0)).astype(np.float32)
    until_s = 0.5 - 0.033 + 0.05 + 0.004 * (windows - 0.5)
    times = {"old_s": 0.1, "new_s": 0.5, "until_s": until_s}
    found = overlap_of(sound, rate_hz=RATE_HZ, old_hz=220.0, new_hz=330.0, **times)
    assert (found is not None) is looked


def plain_wave(hz, seconds=1.0):
    time = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
    return 0.1 * (np.sin(2.0 * np.pi * hz * time) + np.sin(4.0 * np.pi * hz * time))


@pytest.mark.parametrize(("power", "partials"), [(0.009, 1), (0.011, 2)])
def test_a_partial_is_heard_with_a_hundredth_of_the_strongest(monkeypatch, power, partials):
    counted = []
    look = overlap._softer_by_db
    monkeypatch.setattr(overlap, "_softer_by_db", lambda p, b, s: counted.append(len(b)) or look(p, b, s))
    time = np.arange(round(1.2 * RATE_HZ)) / RATE_HZ
    sound = np.sin(2.0 * np.pi * 220.0 * time) + np.sqrt(power) * np.sin(2.0 * np.pi * 440.0 * time)
    sound += (time >= 0.5) * np.sin(2.0 * np.pi * 330.0 * time)
    times = {"old_s": 0.1, "new_s": 0.5, "until_s": 1.1}
    overlap_of((0.1 * sound).astype(np.float32), rate_hz=RATE_HZ, old_hz=220.0, new_hz=330.0, **times)
    assert counted == [partials]

"""What rooms, drive and automatic gain do to a recording, and what is left open because of it: synthetic sounds of
stated decay.
"""

from dataclasses import replace
from types import SimpleNamespace

import numpy as np
import pytest
from fortimetra.align.grid import due_times, find_grid
from fortimetra.align.match import AskedEvent, Match, OtherSound
from fortimetra.align.pair import match
from fortimetra.drills.library import built_in_drills
from fortimetra.hear.contour import Contour
from fortimetra.hear.crossing import crossing
from fortimetra.hear.notes import HeardNote, note_from
from fortimetra.judge.noise_events import _hidden, _ring_event
from fortimetra.judge.other_sounds import Disturbed
from fortimetra.judge.time_and_touch import TimeAndTouch, _accent, _against_its_like
from fortimetra.measure.chord import ChordNote, chords_offset_cents
from fortimetra.measure.level import NoteLevel, _same_pitch
from fortimetra.measure.level_in_room import _u_again, in_a_room
from fortimetra.measure.quiet import Quiet
from fortimetra.measure.ring import Ringing
from fortimetra.measure.settings import LEVEL
from fortimetra.measure.strings import Part
from fortimetra.measure.tail import Tail, tail
from fortimetra.model.analysis import NoiseEvent
from fortimetra.model.context import Click
from fortimetra.model.word import Pin
from pydantic import ValidationError
from scipy import signal

RATE_HZ = 48_000
HOP_S = 0.005
DRILL = next(d for d in built_in_drills() if d.title.startswith("Scale over quiet low strings: A minor"))


def heard(onset_s: float, midi: float, length_s: float = 0.4) -> HeardNote:
    return HeardNote(onset_s, onset_s + length_s, midi, midi, midi, -20.0, "attack")


def scale(first_s: float = 2.0, spb: float | None = None) -> list[HeardNote]:
    """The drill's first repeat, as it would be heard."""
    spb = spb or DRILL.seconds_per_beat
    sounding = [e for e in DRILL.events if e.notes]
    return [heard(first_s + e.beat * spb, round(DRILL.midi(e.notes[0])), 0.8 * e.length * spb) for e in sounding]


def once() -> list[HeardNote]:
    drill = DRILL.model_copy(update={"repeats": 1})
    return match(scale(), drill)


# -- the room's own tail -------------------------------------------------------------------------------------


def room_take(rt60_s: float, *, gap_s: float = 1.0, decay_per_s: float = 1.0):
    """Notes of 0.5 s that are stopped at once, in a room of a stated reverberation time."""
    matched = once()
    rng = np.random.default_rng(1)
    notes = [replace(n, onset_s=0.5 + i * (0.5 + gap_s), end_s=1.0 + i * (0.5 + gap_s)) for i, n in enumerate(
        n for n in matched.heard if n is not None
    )]  # fmt: skip
    seconds = notes[-1].end_s + 1.5
    time = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
    level = np.zeros(len(time))
    for note in notes:
        on = (time >= note.onset_s) & (time < note.end_s)
        level[on] = np.exp(-decay_per_s * (time[on] - note.onset_s))
        after = time >= note.end_s
        level[after] = np.maximum(level[after], level[on][-1] * 10 ** (-3.0 * (time[after] - note.end_s) / rt60_s))
    sound = (0.1 * level * rng.standard_normal(len(time)) + 1e-5 * rng.standard_normal(len(time))).astype(np.float32)
    return sound, replace(matched, heard=tuple(notes[: len(matched.heard)]), extras=())


@pytest.mark.parametrize("rt60_s", [0.2, 0.4, 0.8])
def test_a_rooms_tail_is_read_where_notes_end(rt60_s):
    sound, matched = room_take(rt60_s)
    # ISO 3382-1: 20 dB are a third of the reverberation time.
    assert tail(sound, matched, rate_hz=RATE_HZ).ms == pytest.approx(1000.0 * rt60_s / 3.0, rel=0.2)


def test_where_every_note_ends_in_the_next_no_tail_is_known():
    sound, matched = room_take(0.4, gap_s=0.0)
    notes = list(matched.heard)
    until = notes[-1].end_s
    assert tail(sound[: round(until * RATE_HZ)], matched, rate_hz=RATE_HZ).ms is None


def test_a_string_that_rings_out_is_no_room():
    sound, matched = room_take(3.0)
    assert tail(sound, matched, rate_hz=RATE_HZ).ms is None


def plucked_take(
    rt60_s: float | None, *, stop_s: float = 0.15, above: tuple[float, ...] = ()
) -> tuple[np.ndarray, Match]:
    """Tones of twelve partials that are stopped within stop_s (20 dB), each before a rest; heard directly or with a
    room of a stated reverberation time round them, 3 dB softer than what comes directly. above: so many semitones
    higher another string sounds with each.
    """
    matched = once()
    rng = np.random.default_rng(2)
    notes = [
        replace(n, onset_s=0.5 + 0.9 * i, end_s=1.0 + 0.9 * i)
        for i, n in enumerate(n for n in matched.heard if n is not None)
    ]
    time = np.arange(round((notes[-1].end_s + 1.0) * RATE_HZ)) / RATE_HZ
    sound = np.zeros(len(time))
    for note in notes:
        part = slice(round(note.onset_s * RATE_HZ), round((note.end_s + 4.0 * stop_s) * RATE_HZ))
        since, stopped = time[part] - note.onset_s, np.maximum(time[part] - note.end_s, 0.0)
        level = np.exp(-2.0 * since) * 10.0 ** (-stopped / stop_s)
        for semitones in (0.0, *above):
            hz = 440.0 * 2.0 ** ((note.plain_midi + semitones - 69.0) / 12.0)
            for k in range(1, 13):
                sound[part] += 0.05 / k * level * np.sin(2.0 * np.pi * k * hz * time[part] + k)
    if rt60_s is not None:
        at = np.arange(round(1.2 * rt60_s * RATE_HZ)) / RATE_HZ
        room = rng.standard_normal(len(at)) * 10.0 ** (-3.0 * at / rt60_s)
        room *= 10.0 ** (-3.0 / 20.0) / np.sqrt(np.sum(room**2))
        room[0] += 1.0
        sound = signal.oaconvolve(sound, room)[: len(time)]
    sound += 1e-5 * rng.standard_normal(len(time))
    events = tuple(
        replace(e, notes=(*e.notes, *(replace(e.lead, midi=e.lead.midi + semitones) for semitones in above)))
        for e in matched.events
    )
    heard = tuple(notes[: len(matched.heard)])
    return sound.astype(np.float32), replace(matched, events=events, heard=heard, extras=())


@pytest.mark.parametrize("rt60_s", [0.45, 0.6, 1.1])
def test_notes_that_end_slowly_and_unevenly_were_played_in_a_room(rt60_s):
    # Stopped at once: what is heard after it is the room.
    found = tail(*plucked_take(rt60_s, stop_s=0.02), rate_hz=RATE_HZ)
    assert found.is_a_rooms
    assert found.uneven_db > 0.8


@pytest.mark.parametrize("stop_s", [0.15, 0.25])
def test_a_slow_hand_is_no_room(stop_s):
    found = tail(*plucked_take(None, stop_s=stop_s), rate_hz=RATE_HZ)
    assert found.ms == pytest.approx(1000.0 * stop_s, rel=0.2)
    assert found.uneven_db < 0.2
    assert not found.is_a_rooms


@pytest.mark.parametrize(
    ("uneven_db", "fall_ms", "ms", "room"),
    [
        (0.59, 90.0, 90.0, False),
        (0.61, 90.0, 90.0, True),
        # A hand is quick: of what falls half as slowly again, two thirds of that are enough, of a quicker one no more.
        (0.39, 135.0, 120.0, False),
        (0.41, 135.0, 120.0, True),
        (0.59, 60.0, 120.0, False),
        (0.61, 60.0, 120.0, True),
        (3.0, 135.0, 89.0, False),
        (3.0, 451.0, 120.0, False),
    ],
)
def test_the_slower_a_recording_falls_the_less_uneven_a_room_has_to_be(uneven_db, fall_ms, ms, room):
    assert Tail(ms, uneven_db=uneven_db, fall_ms=fall_ms).is_a_rooms is room


def test_a_quick_stop_is_no_room_however_uneven():
    assert not tail(*plucked_take(0.1, stop_s=0.02), rate_hz=RATE_HZ).is_a_rooms


@pytest.mark.parametrize("above", [(9.0,), (7.0, 16.0)])
def test_chords_tell_a_room_as_single_notes_do(above):
    assert tail(*plucked_take(0.5, stop_s=0.02, above=above), rate_hz=RATE_HZ).is_a_rooms
    direct = tail(*plucked_take(None, above=above), rate_hz=RATE_HZ)
    assert direct.uneven_db < 0.3
    assert not direct.is_a_rooms


def test_strings_that_sound_the_same_pitch_tell_nothing_of_a_room():
    # All their partials beat.
    assert tail(*plucked_take(0.5, stop_s=0.02, above=(0.0,)), rate_hz=RATE_HZ).uneven_db is None


# -- how loud a note is in a room ----------------------------------------------------------------------------


def in_room(deviations_db: dict[int, float]) -> list[NoteLevel | None]:
    """Two repeats of the scale, by a microphone in a room: some notes deviate, the others do not."""
    matched = match(scale() + scale(2.0 + DRILL.length_beats * DRILL.seconds_per_beat), DRILL)
    levels = [
        NoteLevel(d, 0.5, "picked", d, 0.8, "string")
        for i in range(len(matched.events))
        for d in [deviations_db.get(i, 0.0)]
    ]
    return in_a_room(levels, matched, 150.0)


def test_one_soft_note_of_a_pitch_is_the_hands():
    found = in_room({3: -6.0})
    assert found[3].deviation_db == pytest.approx(-6.0)
    # Its like in the other repeat is as loud as it should be: that says what the room does to this pitch.
    once_only = 2.0 * LEVEL.room_db
    assert found[3].u_deviation_db < once_only


def test_a_pitch_that_is_soft_in_every_repeat_is_mostly_the_rooms():
    matched = match(scale() + scale(2.0 + DRILL.length_beats * DRILL.seconds_per_beat), DRILL)
    there = [i for i, e in enumerate(matched.events) if (e.lead.note.string, e.lead.note.fret) == (6, 5)]
    assert len(there) >= 2
    found = in_room(dict.fromkeys(there, -4.0))
    for i in there:
        assert -2.5 < found[i].deviation_db < -0.5
        assert found[i].u_deviation_db > 1.5


# -- dips and ends -------------------------------------------------------------------------------------------


def contour(level_db, midi) -> Contour:
    count = len(level_db)
    f0 = 440.0 * 2.0 ** ((np.asarray(midi, dtype=float) - 69.0) / 12.0)
    nothing = np.full((count, 8), np.nan, np.float32)
    ones = np.ones(count)
    return Contour(np.arange(count) * HOP_S, f0, 0.1 * ones, ones, np.asarray(level_db, dtype=float), nothing, nothing)


@pytest.mark.parametrize(("back_midi", "ends_s"), [(60.0, 1.5), (67.0, 0.5)])
def test_a_dip_ends_a_note_only_where_another_pitch_comes_back(back_midi, ends_s):
    level = np.full(300, -20.0)
    level[100:160] = -45.0
    midi = np.full(300, 60.0)
    midi[160:] = back_midi
    found = note_from(contour(level, midi), 0.0, 1.5, "attack")
    assert found.end_s == pytest.approx(ends_s, abs=0.02)


def test_a_note_that_stays_gone_has_ended():
    level = np.full(300, -20.0)
    level[100:] = -45.0
    found = note_from(contour(level, np.full(300, 60.0)), 0.0, 1.5, "attack")
    assert found.end_s == pytest.approx(0.5, abs=0.02)


# -- pressed levels ------------------------------------------------------------------------------------------


def accents(lifts_db: list[float], u_db: float = 0.5) -> TimeAndTouch:
    levels = [NoteLevel(0.0, 0.3, "accented", lift, u_db, "neighbours") for lift in lifts_db]
    nothing = tuple(False for _ in levels)
    return TimeAndTouch([None] * len(levels), levels, [None] * len(levels), nothing, Disturbed(nothing, nothing))


@pytest.mark.parametrize(
    ("lifts_db", "said"),
    [
        ([1.5, 1.4, 1.7, 1.6], "unclear"),  # all alike, and too small: drive, or a weak hand
        ([1.5, -0.4, -0.2, 0.1], "outside"),  # most are not there
        ([1.5], "outside"),  # one alone tells nothing of the chain
    ],
)
def test_accents_that_all_stand_out_too_little_are_left_open(lifts_db, said):
    assert _accent(accents(lifts_db), lifts_db[0], 0.5, 3.0) == said


@pytest.mark.parametrize(
    ("deviation_db", "u_louder_db", "said"),
    [
        (-6.0, 0.6, "outside"),  # too soft at least by so much
        (-6.0, None, "unclear"),
        (6.0, 0.6, "unclear"),  # what rang on may be all of it
        (-2.0, 0.6, "unclear"),  # it may be much softer
    ],
)
def test_a_note_that_may_only_be_softer_still_is_too_soft(deviation_db, u_louder_db, said):
    note = NoteLevel(deviation_db, 3.5, "picked", deviation_db, 3.6, "string", u_louder_db=u_louder_db)
    limits = {"level_db": 4.0, "slur_deficit_db": 6.0, "accent_lift_db": 3.0}
    assert _against_its_like(accents([]), note, limits, [], asked=True) == said


def test_an_accent_that_is_not_there_is_missing_whatever_the_others_do():
    assert _accent(accents([1.5, 1.4, -0.3, 1.6]), -0.3, 0.5, 3.0) == "outside"


@pytest.mark.parametrize("fall_ms", [100.0, 200.0, 300.0])
def test_a_pitch_that_a_room_still_holds_makes_its_next_note_louder_or_softer_as_their_phases_lie(fall_ms):
    before = 1.4
    # Thirteen hundredths of it are the room's, which falls by 20 dB in fall_ms; 5 to 85 ms after the stroke are read.
    time_s = np.linspace(0.005, 0.085, 2001)
    share = 0.13 * before * np.mean(10.0 ** (-2.0 * time_s / (0.001 * fall_ms)))
    phases = np.exp(2j * np.pi * np.random.default_rng(3).uniform(size=100_000))
    level_db = 20.0 * np.log10(np.abs(1.0 + np.sqrt(share) * phases))
    assert _u_again(before, fall_ms) == pytest.approx(2.0 * np.std(level_db), rel=0.05)


@pytest.mark.parametrize(("before", "said"), [(0.0, "outside"), (1.5, "unclear")])
def test_a_soft_note_over_the_same_pitch_in_a_room_may_be_as_loud_as_the_others(before, said):
    # 5.5 dB under the others, of which 3.5 are allowed.
    limits = {"level_db": 3.5, "slur_deficit_db": 6.0, "accent_lift_db": 3.0}
    soft = NoteLevel(-5.5, 0.5, "picked", -5.5, 0.8, "string", before=before)
    levels = [NoteLevel(0.0, 0.5, "picked", 0.0, 0.8, "string", before=before)] * 11 + [soft]
    found = in_a_room(levels, same_places(12), 150.0)[-1]
    assert _against_its_like(accents([]), found, limits, [], asked=True) == said


def test_a_pitch_comes_again_where_a_note_begins_at_what_the_one_before_ended_at():
    # Bent from 60 to 62; then 62 plainly, 60, and 60 again.
    pitches = [(60.0, 62.0), (62.0, 62.0), (60.0, 60.0), (60.0, 60.0)]
    events = [AskedEvent((), float(i), start, main) for i, (start, main) in enumerate(pitches)]
    assert _same_pitch(SimpleNamespace(events=events)).tolist() == [False, True, False, True]


def same_places(count: int) -> Match:
    """A match of so many picked notes of one fret."""
    asked = SimpleNamespace(
        note=SimpleNamespace(string=3, fret=7),
        event=SimpleNamespace(articulation="pick", accent=False, palm_mute=False, slide=None, bend=None),
    )
    return SimpleNamespace(events=[SimpleNamespace(notes=[asked])] * count)


# -- slurs in a room -----------------------------------------------------------------------------------------


@pytest.mark.parametrize("rt60_s", [0.0, 0.4])
def test_a_slur_is_timed_where_the_new_pitch_comes_not_where_the_old_one_has_gone(rt60_s):
    rate, at_s = 12_000, 0.5
    time = np.arange(rate) / rate
    gone = np.where(time < at_s, 1.0, 0.0 if not rt60_s else 10 ** (-3.0 * (time - at_s) / rt60_s))
    old = sum(np.sin(2 * np.pi * 220.0 * k * time) / k for k in range(1, 8)) * gone
    new = sum(np.sin(2 * np.pi * 246.9 * k * time) / k for k in range(1, 8)) * (time >= at_s) * 0.5
    found = crossing((old + new).astype(np.float32), rate_hz=rate, old_hz=[220.0], new_hz=[246.9], from_s=0.3, to_s=0.7)
    assert found.time_s == pytest.approx(at_s, abs=0.008)
    assert abs(found.time_s - at_s) * 1000.0 <= found.u_ms


# -- the beat after a stop, and another tempo ----------------------------------------------------------------


def test_one_note_before_a_stop_keeps_its_beat():
    drill = DRILL.model_copy(update={"repeats": 1})
    late = [n if i < 1 else replace(n, onset_s=n.onset_s + 4.0, end_s=n.end_s + 4.0) for i, n in enumerate(scale())]
    click = Click(
        format="fortimetra-click", version=1, source="recorder", bpm=drill.tempo.bpm, first_beat_s=2.0, latency_ms=0.0
    )
    matched = match(late, drill, first_beat_s=2.0)
    due = due_times(matched, drill, find_grid(matched, drill, click))
    errors = np.array([n.onset_s for n in matched.heard]) - due.time_s
    assert np.abs(errors).max() < 0.01
    assert due.jumps


@pytest.mark.parametrize("pace", [2.0, 0.5])
def test_half_and_double_tempo_are_the_drill(pace):
    drill = DRILL.model_copy(update={"repeats": 1})
    slow = scale(spb=pace * DRILL.seconds_per_beat)
    matched = match(slow, drill, first_beat_s=2.0)
    assert list(matched.heard) == slow
    assert matched.pace == pace


# -- what a person said --------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    "given",
    [
        {"id": "e1", "repeat": 0, "at_s": 1.0, "to_s": 2.0},
        {"at_s": 1.0},
        {"at_s": 2.0, "to_s": 1.0},
        {"at_s": None, "to_s": 1.0},
    ],
)
def test_a_pin_is_of_a_note_or_of_a_stretch(given):
    with pytest.raises(ValidationError):
        Pin.model_validate(given)
    assert Pin(at_s=1.0, to_s=2.0).id is None
    assert Pin(id="e1", repeat=0, at_s=None).to_s is None


# -- guitars that are flat, heard in chords only -----------------------------------------------------------------


def chords(off_cents, count=8, scatter=0.0):
    """Notes of double stops that lie off by so much, or each by another."""
    off = np.broadcast_to(np.asarray(off_cents, float), count) + scatter * np.linspace(-1.0, 1.0, count)
    parts = [Part(i, 5 - 3 * (i % 2), 5, 220.0, float(i), i + 0.5, False) for i in range(count)]
    return [[ChordNote(p, True, 0.0, p.hz * 2.0 ** (c / 1200.0), 2.0)] for p, c in zip(parts, off, strict=True)]


@pytest.mark.parametrize(
    ("off", "scatter", "tuned"), [(-18.0, 2.0, -18.0), (24.0, 10.0, 24.0), (-18.0, 25.0, 0.0), (4.0, 1.0, 0.0)]
)
def test_a_guitar_that_is_off_as_a_whole_is_read_from_its_chords(off, scatter, tuned):
    assert chords_offset_cents(chords(off, scatter=scatter), DRILL) == pytest.approx(tuned, abs=0.5)


def test_a_few_notes_of_chords_say_nothing_of_the_guitar():
    assert chords_offset_cents(chords(-18.0, count=4), DRILL) == 0.0


# -- other sounds beside a string that rings ---------------------------------------------------------------------


def ring(kind="open_ring", string=4):
    return NoiseEvent(
        kind=kind, string=string, from_s=12.56, to_s=12.96, level_db=-9.0, u=3.0, near="e1", repeat=0, verdict="outside"
    )


def with_others(*stretches):
    return replace(once(), others=tuple(OtherSound(a, b, -20.0) for a, b in stretches))


def test_a_string_that_is_heard_beside_a_knock_rings_by_itself():
    assert not _hidden(ring(), with_others((12.6, 12.7)))


def test_a_ring_all_under_a_voice_may_be_the_voice():
    assert _hidden(ring(), with_others((12.5, 12.9)))


def test_a_scrape_beside_a_knock_may_be_part_of_it():
    assert _hidden(ring("scrape", None), with_others((12.6, 12.7)))
    assert not _hidden(ring("scrape", None), with_others((13.0, 13.2)))


def test_a_brief_ring_in_a_room_says_that_it_may_be_the_rooms():
    brief = Ringing(4, 0, 146.8, "open", 3.0, 3.15, -12.0, 3.0, 0.0)
    room = Tail(150.0, uneven_db=1.2, fall_ms=120.0)
    matched = once()
    quiet = Quiet((), (), None, (), (), (), None, room)
    assert quiet.in_a_room
    assert quiet.room_ms == pytest.approx(300.0)
    limits = DRILL.limits()
    found = _ring_event(brief, matched, with_parts(quiet), limits, (), echo=False)
    assert (found.verdict, found.reasons) == ("unclear", ("brief_in_a_room",))
    longer = _ring_event(replace(brief, to_s=3.5), matched, with_parts(quiet), limits, (), echo=False)
    assert longer.verdict == "outside"
    by_cable = _ring_event(brief, matched, with_parts(replace(quiet, tail=Tail(40.0))), limits, (), echo=False)
    assert by_cable.verdict == "outside"


@pytest.mark.parametrize(("level_db", "said"), [(-8.8, "unclear"), (-8.5, "outside")])
def test_where_nothing_tells_of_a_room_the_slowest_may_hold_what_another_string_has_left(level_db, said):
    # 20 dB in 450 ms are 10.7 in the 240 to its middle; the level is known to 2.
    left = Part(0, 6, 5, 110.0, 0.0, 1.0, False)
    ring = Ringing(5, 0, 110.0, "open", 1.14, 1.34, level_db, 2.0, 0.0)
    unknown = Quiet((left,), (), None, (), (), (), None, Tail(None))

    def judged(quiet):
        found = _ring_event(ring, once(), quiet, DRILL.limits(), (), echo=False)
        return found.verdict, found.reasons

    assert judged(unknown) == (said, ("room_rings",) if said == "unclear" else ())
    assert judged(replace(unknown, tail=Tail(50.0))) == ("outside", ())
    assert judged(replace(unknown, parts=(replace(left, hz=123.5),))) == ("outside", ())


@pytest.mark.parametrize(("filled", "said"), [(0.49, "outside"), (0.51, "unclear")])
def test_a_ring_of_which_most_lies_under_the_note_is_not_sure(filled, said):
    mostly = Ringing(4, 0, 146.8, "open", 3.0, 3.5, -12.0, 6.0, 0.0, 0.1, filled)
    quiet = with_parts(Quiet((), (), None, (), (), (), None, Tail(40.0)))
    found = _ring_event(mostly, once(), quiet, DRILL.limits(), (), echo=False)
    assert (found.verdict, found.reasons) == (said, ("mostly_covered",) if said == "unclear" else ())


@pytest.mark.parametrize(
    ("tail", "most_ms"),
    [
        (Tail(80.0, uneven_db=0.1, fall_ms=100.0), 88.0),
        (Tail(None, uneven_db=0.1, fall_ms=100.0), 0.0),
        (Tail(120.0, uneven_db=1.2, fall_ms=140.0), 210.0),
        (Tail(160.0, uneven_db=1.2, fall_ms=140.0), 240.0),
        (Tail(None, uneven_db=1.2, fall_ms=140.0), 210.0),
    ],
)
def test_a_stopped_note_falls_little_slower_than_the_quickest_and_half_as_slowly_again_in_a_room(tail, most_ms):
    assert Quiet((), (), None, (), (), (), None, tail).stopped_ms == pytest.approx(most_ms)


@pytest.mark.parametrize(("level_db", "kept"), [(-22.9, True), (-20.9, False)])
def test_a_room_may_keep_of_a_note_what_falls_evenly_from_where_it_was_left(level_db, kept):
    # 20 dB in 200 ms; half-way through what is heard 250 ms have gone, and so 25 dB; the level is known to 3.
    room = Quiet((), (), None, (), (), (), None, Tail(150.0, uneven_db=1.2, fall_ms=400.0 / 3.0))
    with_room = replace(with_parts(room), tail=Tail(400.0 / 3.0, uneven_db=1.2, fall_ms=120.0))
    ring = Ringing(6, 5, 110.0, "last", 1.1, 1.4, level_db, 3.0, 0.0)
    assert with_room.is_kept_by_the_room(ring) is kept
    assert not replace(with_room, tail=Tail(40.0)).is_kept_by_the_room(replace(ring, level_db=-40.0))


@pytest.mark.parametrize(("fall_ms", "room"), [(449.0, True), (451.0, False)])
def test_a_fall_as_slow_as_that_of_a_small_hall_may_be_a_rooms(fall_ms, room):
    assert Tail(None, uneven_db=1.2, fall_ms=fall_ms).is_a_rooms is room


def with_parts(quiet):
    """Something was begun, so that a sound has its place."""
    return replace(quiet, parts=(Part(0, 6, 5, 110.0, 0.0, 1.0, False),))

"""What rooms, drive and automatic gain do to a recording, and what is left open because of it: synthetic sounds of
stated decay.
"""

from dataclasses import replace

import numpy as np
import pytest
from fortimetra.align.grid import due_times, find_grid
from fortimetra.align.pair import match
from fortimetra.drills.library import built_in_drills
from fortimetra.hear.contour import Contour
from fortimetra.hear.crossing import crossing
from fortimetra.hear.notes import HeardNote, note_from
from fortimetra.judge.other_sounds import Disturbed
from fortimetra.judge.time_and_touch import TimeAndTouch, _accent
from fortimetra.measure.level import NoteLevel
from fortimetra.measure.tail import tail_ms
from fortimetra.model.context import Click
from fortimetra.model.word import Pin
from pydantic import ValidationError

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
    assert tail_ms(sound, matched, rate_hz=RATE_HZ) == pytest.approx(1000.0 * rt60_s / 3.0, rel=0.2)


def test_where_every_note_ends_in_the_next_no_tail_is_known():
    sound, matched = room_take(0.4, gap_s=0.0)
    notes = list(matched.heard)
    until = notes[-1].end_s
    assert tail_ms(sound[: round(until * RATE_HZ)], matched, rate_hz=RATE_HZ) is None


def test_a_string_that_rings_out_is_no_room():
    sound, matched = room_take(3.0)
    assert tail_ms(sound, matched, rate_hz=RATE_HZ) is None


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


def test_an_accent_that_is_not_there_is_missing_whatever_the_others_do():
    assert _accent(accents([1.5, 1.4, -0.3, 1.6]), -0.3, 0.5, 3.0) == "outside"


# -- slurs in a room -----------------------------------------------------------------------------------------


@pytest.mark.parametrize("rt60_s", [0.0, 0.4])
def test_a_slur_is_timed_where_the_new_pitch_comes_not_where_the_old_one_has_gone(rt60_s):
    rate, at_s = 12_000, 0.5
    time = np.arange(rate) / rate
    gone = np.where(time < at_s, 1.0, 0.0 if not rt60_s else 10 ** (-3.0 * (time - at_s) / rt60_s))
    old = sum(np.sin(2 * np.pi * 220.0 * k * time) / k for k in range(1, 8)) * gone
    new = sum(np.sin(2 * np.pi * 246.9 * k * time) / k for k in range(1, 8)) * (time >= at_s) * 0.5
    found = crossing((old + new).astype(np.float32), rate_hz=rate, old_hz=220.0, new_hz=246.9, from_s=0.3, to_s=0.7)
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

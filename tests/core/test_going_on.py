"""How long a note may sound into the next one: what is said of it, beside a room, an echo, and how the take's own
notes fall whose string is taken.

Limits are the house's (common practice, no source), written out here by hand.
"""

from __future__ import annotations

from types import SimpleNamespace as Made

import numpy as np
import pytest
from fortimetra.hear.notes import HeardNote
from fortimetra.judge.noise_events import _bleeds, noise_events
from fortimetra.judge.time_and_touch import IntoNext, _into_next
from fortimetra.measure import own_falls as falls_module
from fortimetra.measure.overlap import Overlap
from fortimetra.measure.own_falls import OwnFalls, own_falls

RATE_HZ = 12000
NOTE = HeardNote(0.0, 1.0, 57.0, 57.0, 57.0, -20.0, "attack")


@pytest.mark.parametrize(("level_db", "said"), [(-1.0, "outside"), (1.0, "unclear")])
def test_a_stopped_note_falls_by_twenty_decibels_in_its_time_from_the_level_it_had(level_db, said):
    # Surely 100 ms under the next; a stop takes 100 ms for 20 dB, and so 95 for 19.
    judged, why = into_next(Overlap(112.0, 12.0, level_db))
    assert (judged, why) == (said, "rings_on" if said == "outside" else "room_rings")


def into_next(found, *, stopped_ms=100.0, in_a_room=False, falls=None):
    """What is said of a note under the next, of which 60 ms are allowed."""
    measured = Made(
        stopped_ms=stopped_ms, in_a_room=in_a_room, timings=[None, None], levels=[None, None], own_falls=falls
    )
    return _into_next(measured, 0, found, {"overlap_ms": 60.0, "level_db": 3.5})


@pytest.mark.parametrize(
    ("held_ms", "stopped_ms", "said"),
    [(61.0, 100.0, "outside"), (59.9, 100.0, "unclear"), (86.0, 170.0, "outside"), (84.0, 170.0, "unclear")],
)
def test_what_is_held_for_longer_than_is_allowed_and_than_a_stop_takes_was_not_let_go(held_ms, stopped_ms, said):
    # A room keeps half a second of it; 10 dB of a fall by 20 in 170 ms take 85.
    kept = Overlap(300.0, 12.0, -5.0, (held_ms, held_ms + 24.0))
    assert into_next(kept, stopped_ms=stopped_ms, in_a_room=True)[0] == said
    # Next to a soft note 8 dB are all that is heard of it.
    assert into_next(Overlap(300.0, 12.0, -11.9, (61.0, 85.0)), stopped_ms=149.0, in_a_room=True)[0] == "outside"


def test_in_a_room_only_what_is_held_was_not_let_go():
    late = Overlap(300.0, 12.0, -5.0)
    assert into_next(late) == ("outside", "rings_on")
    assert into_next(late, in_a_room=True) == ("unclear", "room_rings")


@pytest.mark.parametrize(
    ("at_most_ms", "in_a_room", "said"), [(59.0, True, "inside"), (61.0, True, "unclear"), (59.0, False, "outside")]
)
def test_what_falls_in_time_in_a_room_was_let_go_in_time(at_most_ms, in_a_room, said):
    # By cable it has to be gone: a string that is half damped falls at once, and sounds on.
    assert into_next(Overlap(300.0, 12.0, -5.0, (0.0, at_most_ms)), in_a_room=in_a_room)[0] == said


@pytest.mark.parametrize(("stopped_ms", "said"), [(91.0, "inside"), (89.0, "unclear")])
def test_a_note_that_falls_in_time_is_let_go_where_the_rest_is_how_the_recording_falls(stopped_ms, said):
    # Somewhere from 45 to 69 ms; 10 dB of a fall by 20 in 90 ms take 45.
    assert into_next(Overlap(57.0, 12.0, -10.0, (0.0, 50.0)), stopped_ms=stopped_ms)[0] == said


@pytest.mark.parametrize(("let_go", "said"), [(False, "outside"), (True, "inside")])
def test_of_a_note_that_was_let_go_in_time_windows_show_the_room(let_go, said):
    ring = Made(string=4, from_s=1.0, to_s=1.4, level_db=-10.0, u_db=1.0, seen_s=0.05)
    read = IntoNext(Overlap(40.0, 12.0, -5.0), 1.0, "inside", excused=False, let_go=let_go)
    quiet = Made(in_a_room=False, is_kept_by_the_room=lambda _r: False, room_ms=0.0)
    assert _bleeds(ring, 400.0, read, {"ring_db": -26.0, "overlap_ms": 60.0}, quiet)[0] == said


def unseen(*seen, verdict="outside", echo=False, held=False):
    """The bleeds of a note of string 4 that goes on for 100 ms under the next at 1 s; seen: (string, from, to)."""
    asked = Made(note=Made(string=4, fret=5), event=Made(id="e1"), repeat=0)
    after = Made(note=Made(string=3, fret=5), event=Made(id="e2"), repeat=0)
    match = Made(
        heard=[NOTE, NOTE], others=[], offset_cents=0.0,
        events=[Made(notes=[asked], main_midi=55.0), Made(notes=[after], main_midi=60.0)],
    )  # fmt: skip
    rings = [Made(string=s, from_s=a, to_s=b, rest=0.0, role="open", fret=0, hz=147.0, level_db=-10.0, u_db=2.0,
                  filled=0.0)
             for s, a, b in seen]  # fmt: skip
    parts = [Made(from_s=0.0, until_s=1.0, event=0, string=4), Made(from_s=1.0, until_s=2.0, event=1, string=3)]
    quiet = Made(
        reading=Made(rings=rings), scrapes=(), parts=parts, is_the_rooms=lambda _r: False,
        is_a_bends=lambda _r: False, may_be_a_rooms=lambda _r: False, room_ms=0.0, in_a_room=False,
    )  # fmt: skip
    goes_on = [IntoNext(Overlap(100.0, 12.0, -8.04), 1.0004, verdict, excused=False, held=held), None]
    found = noise_events(match, quiet, [], {"ring_db": -26.0, "overlap_ms": 60.0}, goes_on=goes_on, echo=echo)
    return [e for e in found if e.kind == "bleed"]


def test_a_note_that_goes_on_too_long_is_bleed_though_no_window_showed_it():
    (event,) = unseen()
    assert (event.string, event.fret, event.near, event.verdict) == (4, 5, "e2", "outside")
    # Under the next note, not under its own.
    assert (event.from_s, event.to_s) == (1.001, 1.1)
    assert (event.level_db, event.u, event.hz) == (-8.0, 2.0, 196.0)


@pytest.mark.parametrize("verdict", ["inside", "unclear"])
def test_a_note_that_may_be_in_time_is_no_bleed(verdict):
    assert unseen(verdict=verdict) == []


def test_what_a_window_showed_on_that_string_is_told_once():
    assert unseen((4, 1.08, 1.2)) == []
    assert len(unseen((4, 1.2, 1.4))) == len(unseen((5, 1.08, 1.2))) == 1


def test_where_notes_go_on_after_their_string_has_left_them_an_overlap_says_nothing():
    assert unseen(echo=True) == []
    # But for a note that is held longer than those whose string was taken.
    assert len(unseen(echo=True, held=True)) == 1


# -- notes whose string is taken -------------------------------------------------------------------------------------

ROOM = OwnFalls(quick_ms=45.0, half_ms=65.0, slow_ms=80.0)


@pytest.mark.parametrize(("held_ms", "said"), [(99.0, "unclear"), (101.0, "outside")])
def test_a_note_is_held_where_it_goes_on_for_longer_than_allowed_beyond_those_nobody_holds(held_ms, said):
    # Half of those go on for 65 ms, 25 of them the window's: 60 + 40. The quickest end of a note says far less.
    held = Overlap(300.0, 12.0, -5.0, (held_ms, held_ms + 24.0))
    assert into_next(held, stopped_ms=400.0, in_a_room=True, falls=ROOM)[0] == said
    assert into_next(held, stopped_ms=400.0, in_a_room=True)[0] == "unclear"


@pytest.mark.parametrize(("held_ms", "said"), [(143.0, "unclear"), (145.0, "outside")])
def test_no_note_is_held_that_goes_on_a_fifth_longer_than_nearly_all_that_nobody_holds(held_ms, said):
    uneven = OwnFalls(quick_ms=45.0, half_ms=65.0, slow_ms=120.0)
    held = Overlap(300.0, 12.0, -5.0, (held_ms, held_ms + 24.0))
    assert into_next(held, stopped_ms=400.0, in_a_room=True, falls=uneven)[0] == said


def test_the_quickest_end_of_a_note_tells_where_it_is_quicker():
    # 10 dB of a fall by 20 in 100 ms take 50: longer than 60 is too long, whatever the taken strings leave.
    assert into_next(Overlap(300.0, 12.0, -5.0, (61.0, 85.0)), in_a_room=True, falls=ROOM)[0] == "outside"
    # Nothing else tells how the recording becomes quiet.
    assert into_next(Overlap(300.0, 12.0, -5.0, (61.0, 85.0)), stopped_ms=0.0, falls=ROOM)[0] == "outside"
    assert into_next(Overlap(130.0, 12.0, -5.0, (61.0, 85.0)), stopped_ms=0.0, falls=ROOM)[0] == "unclear"


@pytest.mark.parametrize(("at_most_ms", "said"), [(79.0, "inside"), (81.0, "unclear")])
def test_a_note_is_let_go_in_time_where_it_goes_on_no_longer_than_the_quick_ones_nobody_holds(at_most_ms, said):
    # A quarter of them go on for 45 ms at most, 25 of them the window's: 60 + 20.
    assert into_next(Overlap(300.0, 12.0, -5.0, (0.0, at_most_ms)), in_a_room=True, falls=ROOM)[0] == said


def test_a_held_note_is_bleed_however_briefly_a_room_shows_it():
    ring = Made(string=4, from_s=1.0, to_s=1.1, level_db=-10.0, u_db=1.0, seen_s=0.05)
    hall = Made(in_a_room=True, is_kept_by_the_room=lambda _r: True, room_ms=300.0)
    limits = {"ring_db": -26.0, "overlap_ms": 60.0}
    held = IntoNext(Overlap(140.0, 12.0, -5.0), 1.0, "outside", excused=False, held=True)
    assert _bleeds(ring, 100.0, held, limits, hall) == ("outside", ())
    assert _bleeds(ring, 600.0, None, limits, hall) == ("unclear", ("brief_in_a_room",))
    hall.room_ms = 50.0
    assert _bleeds(ring, 600.0, None, limits, hall) == ("unclear", ("room_rings",))
    hall.is_kept_by_the_room = lambda _r: False
    assert _bleeds(ring, 600.0, None, limits, hall) == ("outside", ())


def line(count, *, fall_db_per_s, strings=(4, 4), same_pitch=False):
    """Notes of 0.25 s in turn on two strings, each falling by so much a second after the next begins (white noise
    through a room of T60 s falls by 60 / T60: ISO 3382-1); the sound and the match.
    """
    midi = [57.0, 57.0 if same_pitch else 62.0]
    time = np.arange(round((0.25 * count + 0.8) * RATE_HZ)) / RATE_HZ
    sound, events, heard = np.zeros(len(time)), [], []
    for i in range(count):
        at_s, hz = 0.1 + 0.25 * i, 440.0 * 2.0 ** ((midi[i % 2] - 69.0) / 12.0)
        after = np.maximum(0.0, time - at_s)
        level_db = -np.maximum(0.0, after - 0.25) * fall_db_per_s
        tone = np.sum([np.sin(2.0 * np.pi * k * hz * time) / k for k in range(1, 6)], axis=0)
        sound += np.where(time >= at_s, 0.1 * tone * 10.0 ** (level_db / 20.0), 0.0)
        asked = Made(
            note=Made(string=strings[i % 2], muted=False),
            event=Made(bend=None, articulation="pick", let_ring=False, voice=1),
        )
        events.append(Made(notes=[asked], start_midi=midi[i % 2], main_midi=midi[i % 2]))
        heard.append(Made(onset_s=at_s))
    match = Made(events=events, heard=heard, breaks=(), offset_cents=0.0, fits=lambda _i: True)
    return sound.astype(np.float32), match


@pytest.mark.parametrize("reverberation_s", [0.3, 0.5, 0.8])
def test_how_notes_fall_whose_string_is_taken_is_how_the_room_falls(reverberation_s):
    sound, match = line(12, fall_db_per_s=60.0 / reverberation_s)
    found = own_falls(sound, match, rate_hz=RATE_HZ)
    expected_ms = 10.0 * 1000.0 * reverberation_s / 60.0
    assert found.half_ms == pytest.approx(expected_ms, abs=12.0)
    assert found.quick_ms <= found.half_ms <= found.slow_ms < expected_ms + 24.0


def test_another_string_or_the_same_pitch_tells_nothing_of_it():
    assert own_falls(*line(12, fall_db_per_s=120.0, strings=(4, 3)), rate_hz=RATE_HZ) is None
    assert own_falls(*line(12, fall_db_per_s=120.0, same_pitch=True), rate_hz=RATE_HZ) is None


@pytest.mark.parametrize("spoilt", ["slurred", "bent", "muted", "broken off"])
def test_what_is_slurred_bent_muted_or_broken_off_is_no_string_that_is_taken(spoilt):
    sound, match = line(12, fall_db_per_s=120.0)
    for event in match.events:
        asked = event.notes[0]
        asked.event.articulation = "hammer" if spoilt == "slurred" else "pick"
        asked.event.bend = Made() if spoilt == "bent" else None
        asked.note.muted = spoilt == "muted"
    match.breaks = tuple(range(12)) if spoilt == "broken off" else ()
    assert own_falls(sound, match, rate_hz=RATE_HZ) is None


@pytest.mark.parametrize(("changes", "told"), [(5, False), (6, True)])
def test_six_changes_tell_how_a_take_lets_go(changes, told):
    found = own_falls(*line(changes + 1, fall_db_per_s=120.0), rate_hz=RATE_HZ)
    assert (found is not None) is told


def taken(monkeypatch, held_ms):
    """What is told of changes that seem held for so long, in order."""
    read = iter(held_ms)
    seen = []

    def one(_sound, _match, index, *, rate_hz):
        seen.append(index)
        return Made(held_ms=(0.0, next(read) + 12.0))

    monkeypatch.setattr(falls_module, "overlap_at", one)
    sound, match = line(len(held_ms) + 1, fall_db_per_s=120.0)
    return own_falls(sound[:RATE_HZ], match, rate_hz=RATE_HZ), seen


def test_a_quarter_a_half_and_nearly_all_of_them_are_told(monkeypatch):
    found, _ = taken(monkeypatch, [float(ms) for ms in range(41)])
    assert (found.quick_ms, found.half_ms, found.slow_ms) == (10.0, 20.0, 38.0)


def test_of_many_changes_forty_eight_over_the_take_are_read(monkeypatch):
    _, seen = taken(monkeypatch, [20.0] * 48)
    assert seen == list(range(48))
    _, seen = taken(monkeypatch, [20.0] * 95)
    assert len(seen) == 48
    assert (seen[0], seen[-1]) == (0, 94)


def test_what_is_too_soft_to_tell_is_left_out(monkeypatch):
    assert taken(monkeypatch, [20.0] * 5 + [np.inf] * 5)[0] is None
    assert taken(monkeypatch, [20.0] * 6 + [np.inf] * 5)[0] == OwnFalls(20.0, 20.0, 20.0)

"""What of one stroke is unlike the others: strokes of partials that die away, in other phases each time."""

import numpy as np
import pytest
from fortimetra.hear.settings import ONSETS, UNLIKE
from fortimetra.hear.unlike import risen_unlike_others

RATE_HZ = 24_000
HZ = 220.0
APART_S, FROM_S, UNTIL_S, BEGINS_S = 0.4, 0.025, 0.06, 0.5
AGAIN_S = 0.04
CLEAR_DB, LITTLE_DB = 4.0, 1.0


def strokes(count, *, again=(), swells=(), again_s=AGAIN_S, seed=3, floor=1e-4, swell=0.05):
    """Strokes that die away, their high partials sooner; those in again begin once more after again_s as loud, those
    in swells come back, 6 dB softer than they were. Returns the sound and when each begins.
    """
    rng = np.random.default_rng(seed)
    onsets = BEGINS_S + APART_S * np.arange(count)
    sound = floor * rng.standard_normal(round((onsets[-1] + 0.5) * RATE_HZ))

    def put(at_s, gain):
        time = np.arange(round(0.3 * RATE_HZ)) / RATE_HZ
        at = round(at_s * RATE_HZ)
        for k in range(1, 24):
            dies = 10.0 ** (-3.0 * time / (0.3 + 0.6 / k))
            sound[at : at + len(time)] += gain / k * dies * np.sin(2 * np.pi * (k * HZ * time + rng.random()))

    for i, at_s in enumerate(onsets):
        put(at_s, 0.1)
        if i in again:
            put(at_s + again_s, 0.1)
        if i in swells:
            put(at_s + again_s, swell)
    return sound.astype(np.float32), onsets


def told(sound, onsets, midi=None, ways=None, until_s=UNTIL_S):
    midi = np.array(midi or [57] * len(onsets), float)
    ways = ways or ["pick"] * len(onsets)
    return risen_unlike_others(sound, onsets, midi, ways, rate_hz=RATE_HZ, from_s=FROM_S, until_s=until_s)


def test_a_stroke_that_comes_again_after_one_note_stands_out_where_it_comes():
    after_s, risen_db = told(*strokes(6, again={2}))
    assert risen_db[2].max() > CLEAR_DB
    assert after_s[np.argmax(risen_db[2])] == pytest.approx(AGAIN_S, abs=0.01)
    assert np.delete(risen_db, 2, axis=0).max() < LITTLE_DB


def test_what_comes_back_after_every_stroke_is_not_of_one():
    _, risen_db = told(*strokes(6, swells=set(range(6))))
    assert risen_db.max() < 1.5 * LITTLE_DB


def test_a_stroke_that_comes_again_stands_out_of_what_comes_back_every_time():
    _, risen_db = told(*strokes(6, swells=set(range(6)), again={4}))
    assert np.argmax(risen_db.max(axis=1)) == 4


def test_single_strokes_among_many_that_come_again_do_not_rise():
    # What the others have and they have not falls again after it; beyond the median they would rise there.
    _, risen_db = told(*strokes(8, again={0, 1, 2, 3, 4}), until_s=0.1)
    assert risen_db[5:].max() < LITTLE_DB


SELDOM = [50, 52, 53, 55, 57, 59]


def test_pitches_that_come_seldom_are_held_against_the_nearest():
    _, risen_db = told(*strokes(6, again={3}), SELDOM)
    assert risen_db[3].max() > CLEAR_DB
    assert np.delete(risen_db, 3, axis=0).max() < LITTLE_DB


def test_so_many_have_to_be_near_and_struck_in_the_same_way():
    assert len(SELDOM) == UNLIKE.nearest == 6
    assert np.isnan(told(*strokes(5), SELDOM[:5])[1]).all()
    _, risen_db = told(*strokes(7), [*SELDOM, 60], [*["pick"] * 6, "palm_mute"])
    assert np.isnan(risen_db).all(axis=1).tolist() == [False] * 6 + [True]


def test_strokes_that_still_swell_are_held_against_their_own_pitch_alone():
    sound, onsets = strokes(6, again={3}, swells=set(range(6)), swell=0.2)
    assert np.isnan(told(sound, onsets, SELDOM)[1]).all()
    assert np.isfinite(told(sound, onsets)[1]).all()


def test_each_pitch_has_a_way_of_its_own_to_go_on():
    # What always comes back after one pitch and never after the other is told of neither.
    sound, onsets = strokes(8, swells={0, 2, 4, 6})
    assert told(sound, onsets, [57, 59] * 4)[1].max() < 1.5 * LITTLE_DB
    assert told(sound, onsets)[1].max() > told(sound, onsets, [57, 59] * 4)[1].max()


@pytest.mark.parametrize("count", [1, 2, 3, 4])
def test_two_strokes_tell_nothing_of_each_other(count):
    _, risen_db = told(*strokes(count))
    assert risen_db.shape[0] == count
    assert np.isnan(risen_db).all() == (count < UNLIKE.least_alike == 3)


def test_strokes_at_both_ends_of_the_sound_are_read_as_far_as_there_is_any():
    sound, onsets = strokes(5)
    cut = slice(round((onsets[0] - 0.004) * RATE_HZ), round((onsets[-1] + 0.03) * RATE_HZ))
    _, risen_db = told(sound[cut], onsets - cut.start / RATE_HZ)
    assert np.isfinite(risen_db).all()


def test_a_stroke_under_what_is_there_anyway_does_not_count():
    # 40 dB under the strokes a floor of noise begins to cover what comes again 50 dB under them.
    _, loud_db = told(*strokes(6, floor=1e-3))
    assert loud_db.max() < LITTLE_DB


def test_times_are_those_of_the_frames():
    after_s, risen_db = told(*strokes(3))
    assert risen_db.shape == (3, len(after_s))
    assert np.allclose(np.diff(after_s), ONSETS.hop_s)
    assert (after_s[0], after_s[-1]) == pytest.approx((FROM_S, UNTIL_S), abs=ONSETS.hop_s)

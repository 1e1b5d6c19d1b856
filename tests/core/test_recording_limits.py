"""Settings of reading a recording at their limits, each held by what changes a quarter beside it.

Values are the house's (common practice, no source), written out here by hand. Sounds are made, their truth is known.
"""

from __future__ import annotations

import numpy as np
import pytest
import soundfile
from fortimetra.errors import TakeError
from fortimetra.sound import decode, samples
from fortimetra.sound.decode import Limits, _Kept, load_take, resampled
from fortimetra.sound.levels import _harmonics, find_hum, measure_levels
from fortimetra.sound.rig import (
    _climb_db,
    _gaps,
    _levels,
    _noise_fall,
    _stop_in,
    _verdict,
    find_automatic_gain,
    find_noise_gate,
)

from .sounds import noise, take

RATE_HZ = 44_100


def code_of(path):
    try:
        load_take(path)
    except TakeError as error:
        return error.code
    return None


# -- what counts as a recording --------------------------------------------------------------------------------------


@pytest.mark.parametrize(("peak_dbfs", "said"), [(-71.0, "silent"), (-69.0, None)])
def test_a_recording_is_silent_under_minus_seventy(tmp_path, peak_dbfs, said):
    wave = 10.0 ** (peak_dbfs / 20.0) * np.sin(np.arange(RATE_HZ) * 0.1)
    soundfile.write(tmp_path / "a.wav", wave, RATE_HZ, subtype="FLOAT")
    assert code_of(tmp_path / "a.wav") == said


@pytest.mark.parametrize(("seconds", "said"), [(0.19, "too_short"), (0.21, None)])
def test_a_fifth_of_a_second_is_a_recording(tmp_path, seconds, said):
    soundfile.write(tmp_path / "a.wav", noise(seconds, -20.0, rate_hz=RATE_HZ), RATE_HZ)
    assert code_of(tmp_path / "a.wav") == said


@pytest.mark.parametrize(("taken_s", "said"), [(24.5, None), (25.5, "damaged")])
def test_a_minute_of_sound_may_take_twenty_five_seconds_to_decode(monkeypatch, taken_s, said):
    now = iter((0.0, taken_s))
    monkeypatch.setattr(decode.time, "monotonic", lambda: next(now))
    kept = _Kept(10, 1, Limits(), promised_s=60.0)
    try:
        kept.add(np.zeros((600, 1), np.float32))
    except TakeError as error:
        assert error.code == said
    else:
        assert said is None


@pytest.mark.parametrize(("count", "files"), [(3_950_000, 0), (4_050_000, 1)])
def test_sound_is_held_in_memory_up_to_four_million_samples(monkeypatch, count, files):
    asked = []

    def file(**_):
        asked.append(1)
        raise OSError

    monkeypatch.setattr(samples.tempfile, "TemporaryFile", file)
    samples.empty(count)
    assert len(asked) == files


# -- floor, clipping, hum --------------------------------------------------------------------------------------------


def test_the_floor_is_what_a_twentieth_of_frames_of_fifty_milliseconds_are_under():
    # Forty-one frames, of which the three quiet ones are each as long as a frame and lie apart.
    frame = round(0.05 * RATE_HZ)
    sound = noise(41 * 0.05, -20.0, rate_hz=RATE_HZ)[: 41 * frame]
    for quiet in (4, 17, 30):
        sound[quiet * frame : (quiet + 1) * frame] *= 10.0 ** (-40.0 / 20.0)
    assert measure_levels(take(sound, RATE_HZ), sound).noise_floor_dbfs == pytest.approx(-60.0, abs=0.5)
    # With two of them the twentieth is a loud one.
    sound[4 * frame : 5 * frame] *= 10.0 ** (40.0 / 20.0)
    assert measure_levels(take(sound, RATE_HZ), sound).noise_floor_dbfs == pytest.approx(-20.0, abs=0.5)


@pytest.mark.parametrize(("over_db", "count"), [(11.5, 0), (12.5, 3)])
def test_a_harmonic_of_the_mains_stands_twelve_decibels_out(over_db, count):
    power = np.ones(1000)
    power[[100, 300, 500]] = 10.0 ** (over_db / 10.0)
    assert [n for n, _, _ in _harmonics(power, 50.0, 0.5, 4)] == [1, 3, 5][:count]


@pytest.mark.parametrize(("numbers", "found"), [((1, 3, 8), True), ((1, 3, 9), False)])
def test_eight_harmonics_of_the_mains_are_looked_at(numbers, found):
    seconds = np.arange(2 * RATE_HZ) / RATE_HZ
    sound = noise(2.0, -80.0, rate_hz=RATE_HZ)
    for number in numbers:
        sound += (0.002 * np.sin(2.0 * np.pi * 50.0 * number * seconds)).astype(np.float32)
    hum = measure_levels(take(sound, RATE_HZ), sound).hum
    assert (hum is not None and hum.hz == 50.0) is found


# -- signs of automatic gain -----------------------------------------------------------------------------------------

# Notes of 0.5 s, each stopped; pauses of 0.75 s.
NOTE_S, PAUSE_S = 0.5, 0.75


def with_pauses(pause_db, *, notes=4, pause_s=PAUSE_S, rate_hz=RATE_HZ):
    """Tones at −10 dBFS with pauses between them of a given course; pause_db: dBFS by seconds since the stop."""
    since_s = np.arange(round(pause_s * rate_hz)) / rate_hz
    # The note swells a little, so that where it falls most is its very end.
    one = np.concatenate((np.linspace(-13.0, -10.0, round(NOTE_S * rate_hz)), pause_db(since_s)))
    level = np.tile(one, notes)
    wave = np.sqrt(2.0) * np.sin(2.0 * np.pi * 500.0 * np.arange(len(level)) / rate_hz)
    onsets_s = np.arange(notes) * (NOTE_S + pause_s)
    return (wave * 10.0 ** (level / 20.0)).astype(np.float32), onsets_s


def gain_in(pause_db, **more):
    sound, onsets_s = with_pauses(pause_db, **more)
    return find_automatic_gain(sound, rate_hz=RATE_HZ, onsets_s=onsets_s)


def climbing(db, *, from_dbfs=-60.0, to_s=PAUSE_S):
    """A climb by `db` from a fifth of a second after the stop on, over in the middle of what is read."""
    return lambda since_s: from_dbfs + db * np.clip((since_s - 0.25) / 0.1, 0.0, 1.0)


@pytest.mark.parametrize(("climb_db", "found"), [(2.7, False), (3.3, True)])
def test_a_floor_that_climbs_by_three_decibels_is_automatic_gain(climb_db, found):
    sign = gain_in(climbing(climb_db))
    assert sign.found is found
    assert sign.value_db == pytest.approx(climb_db, abs=0.15)


@pytest.mark.parametrize(("pause_s", "reason"), [(0.60, "no_pauses"), (0.64, None)])
def test_a_climb_is_looked_for_in_a_third_of_a_second_of_pause(pause_s, reason):
    # Read from 0.13 s after the stop to 0.12 s before the next note.
    assert gain_in(climbing(6.0), pause_s=pause_s).reason == reason


@pytest.mark.parametrize(("floor_dbfs", "reason"), [(-90.0, "digital_silence"), (-80.0, None)])
def test_nothing_is_said_of_a_pause_of_digital_silence(floor_dbfs, reason):
    assert gain_in(climbing(6.0, from_dbfs=floor_dbfs)).reason == reason


@pytest.mark.parametrize(("before_s", "found"), [(0.105, False), (0.16, True)])
def test_what_sounds_just_before_the_next_note_is_its_own(before_s, found):
    # A finger that is laid on: the level leaps for good, soon or well before the next note.
    def laid_on(since_s):
        return np.where(since_s >= PAUSE_S - before_s, -50.0, -60.0)

    # A third of what is read is 0.16 s: its median climbs where half of that does.
    def early(since_s):
        return np.where(since_s >= PAUSE_S - before_s - 0.05, -50.0, -60.0)

    assert gain_in(laid_on if not found else early).found is found


def test_a_flutter_of_a_tenth_of_a_second_is_smoothed_away():
    # ±4 dB in power at ten a second, on a floor that climbs: no smoother than that, it would go up and down.
    def fluttering(since_s):
        return climbing(5.0)(since_s) + 10.0 * np.log10(1.0 + 0.6 * np.sin(2.0 * np.pi * 10.0 * since_s))

    assert gain_in(fluttering).found is True


@pytest.mark.parametrize(("back_db", "climb"), [(4.3, 10.0), (4.7, 0.0)])
def test_a_climb_may_be_taken_back_by_a_third_and_one_decibel(back_db, climb):
    level = np.concatenate((np.linspace(-60.0, -50.0, 20), np.full(5, -50.0 - back_db), np.full(20, -50.0)))
    assert _climb_db(level) == pytest.approx(climb)


@pytest.mark.parametrize(
    ("values", "found"),
    [([9.0, 9.0], None), ([9.0, 9.0, 9.0], True), ([9.0, 9.0, 9.0, 0.0, 0.0], True), ([9.0, 0.0, 0.0, 9.0], False)],
)
def test_a_sign_is_told_of_three_pauses_and_shown_by_three_of_five(values, found):
    assert _verdict(values, 8.0, "no_pauses").found is found


def test_levels_are_of_fiftieths_of_a_second():
    assert len(_levels(noise(1.0, -20.0, rate_hz=RATE_HZ), RATE_HZ)) == 50


@pytest.mark.parametrize(
    ("fall_db", "frames", "stops"), [(15.5, 5, True), (14.5, 5, False), (15.5, 6, False), (18.5, 6, True)]
)
def test_a_stop_falls_by_fifteen_decibels_within_a_tenth_of_a_second(fall_db, frames, stops):
    level = np.concatenate((np.full(40, -10.0), -10.0 - fall_db * np.arange(1, frames + 1) / frames))
    level = np.concatenate((level, np.full(20, -10.0 - fall_db)))
    assert (_stop_in(level, 0.0, 1.2) is not None) is stops


def test_a_pause_is_no_shorter_than_half_a_second():
    assert _gaps(np.array([0.0, 0.5, 1.1]), 1.5) == [(0.5, 1.1)]


# -- signs of noise suppression --------------------------------------------------------------------------------------


def gate_in(noise_dbfs, *, notes=4, pause_s=0.7):
    """A tone that is stopped, with noise of a course beside it; noise_dbfs: by seconds since the stop."""
    note_s = 0.9
    since_s = np.tile(np.arange(round((note_s + pause_s) * RATE_HZ)) / RATE_HZ - note_s, notes)
    # It swells at its end, so that where it falls most is the last frame of it, 0.02 s before the pause.
    swell = 0.9 * 10.0 ** (3.0 * np.maximum(since_s, -0.1))
    tones = swell * (since_s < 0.0) * np.sin(2.0 * np.pi * 500.0 * np.arange(len(since_s)) / RATE_HZ)
    hiss = noise(len(since_s) / RATE_HZ, 0.0, rate_hz=RATE_HZ)[: len(since_s)] * 10.0 ** (noise_dbfs(since_s) / 20.0)
    sound = (tones + hiss).astype(np.float32)
    onsets_s = np.arange(notes) * (note_s + pause_s)
    return find_noise_gate(take(sound, RATE_HZ), sound, onsets_s=onsets_s)


@pytest.mark.parametrize(("fall_db", "found"), [(7.0, False), (9.0, True)])
def test_noise_that_falls_by_eight_decibels_with_the_note_is_a_gate(fall_db, found):
    sign = gate_in(lambda since_s: np.where(since_s < 0.0, -60.0, -60.0 - fall_db))
    assert sign.found is found
    assert sign.value_db == pytest.approx(fall_db, abs=0.7)


@pytest.mark.parametrize(
    ("from_s", "to_s", "found"),
    # Louder by 30 dB for a while: within what is compared, and just outside.
    [(-0.55, -0.44, False), (-0.55, -0.3, True), (-0.09, 0.15, False), (-0.25, 0.0, True), (0.53, 0.7, False)],
)
def test_noise_is_compared_within_four_tenths_before_a_stop(from_s, to_s, found):
    sign = gate_in(lambda since_s: np.where((since_s >= from_s) & (since_s < to_s), -40.0, -70.0))
    assert (sign.found, sign.value_db is not None and sign.value_db >= 8.0) == (found, found)


@pytest.mark.parametrize(("from_s", "to_s", "value_db"), [(0.0, 0.17, 0.0), (0.53, 0.7, 0.0), (0.44, 0.7, -20.5)])
def test_and_from_two_tenths_to_half_a_second_after_it(from_s, to_s, value_db):
    sign = gate_in(lambda since_s: np.where((since_s >= from_s) & (since_s < to_s), -40.0, -70.0))
    assert sign.value_db == pytest.approx(value_db, abs=2.0)


def bands(*, louder_hz=(), louder_db=0.0, peak_db=0.0, gone_db=10.0, dbfs=-60.0):
    """A spectrum of noise before a stop, one after; louder_hz: where it is louder before; peak_db: of each tenth."""
    hz = np.arange(1025) * RATE_HZ / 2048
    level = np.full(len(hz), dbfs - 10.0 * np.log10(RATE_HZ / 2.0))
    before = level + gone_db
    if louder_hz:
        before = np.where((hz >= louder_hz[0]) & (hz < louder_hz[1]), before + louder_db, before)
    before[::10] += peak_db
    return 10.0 ** (before / 10.0), 10.0 ** (level / 10.0)


@pytest.mark.parametrize(("peak_db", "told"), [(7.5, True), (8.5, False)])
def test_a_band_with_lines_that_stand_eight_decibels_out_is_no_noise(peak_db, told):
    assert (_noise_fall(*bands(peak_db=peak_db), RATE_HZ) is not None) is told


@pytest.mark.parametrize(("dbfs", "told"), [(-87.0, True), (-89.0, False)])
def test_where_nothing_was_recorded_nothing_falls(dbfs, told):
    assert (_noise_fall(*bands(gone_db=0.0, dbfs=dbfs), RATE_HZ) is not None) is told


@pytest.mark.parametrize(
    ("from_hz", "to_hz", "fall_db"),
    [(0.0, 1900.0, 10.0), (16100.0, 22000.0, 10.0), (2000.0, 7990.0, 10.0), (2000.0, 9010.0, 40.0)],
)
def test_bands_of_a_thousand_hertz_from_two_to_sixteen_thousand_are_compared(from_hz, to_hz, fall_db):
    # Thirteen bands, of which the seventh is the median.
    found = _noise_fall(*bands(louder_hz=(from_hz, to_hz), louder_db=30.0), RATE_HZ)
    assert found == pytest.approx(fall_db, abs=0.1)


# -- channels and lengths --------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("power", "both"), [(0.009, False), (0.011, True)])
def test_a_channel_with_a_hundredth_of_the_others_power_is_the_guitars_too(power, both):
    loud = noise(0.5, -20.0)
    heard = take(np.stack((loud, np.sqrt(power).astype(np.float32) * loud))).guitar()
    assert (np.max(np.abs(heard)) < 0.9 * np.max(np.abs(loud))) == both


@pytest.mark.parametrize(("left", "both"), [(0.09, False), (0.11, True)])
def test_two_channels_cancel_whose_mean_has_a_tenth_of_their_power(left, both):
    loud = noise(0.5, -20.0)
    # Against each other, but for so much.
    other = (2.0 * np.sqrt(left) - 1.0) * loud
    heard = take(np.stack((loud, other.astype(np.float32)))).guitar()
    assert (np.max(np.abs(heard)) < 0.9 * np.max(np.abs(loud))) == both


@pytest.mark.parametrize(
    ("found_s", "promised_s", "short"), [(9.35, 10.0, True), (9.45, 10.0, False), (0.68, 1.0, False), (0.66, 1.0, True)]
)
def test_a_coded_file_holds_its_promised_length_but_for_three_hundredths_and_three_tenths(found_s, promised_s, short):
    assert decode._falls_short(found_s, promised_s) is short


@pytest.mark.parametrize(("frames", "found"), [(5, False), (6, True)])
def test_hum_is_looked_for_in_three_tenths_of_a_second(frames, found):
    seconds = np.arange(2 * RATE_HZ) / RATE_HZ
    hum = sum(0.001 * np.sin(2.0 * np.pi * 50.0 * k * seconds) for k in (1, 2, 3, 4, 5))
    levels = np.full(40, 1.0)
    levels[:frames] = 1e-3
    assert (find_hum(hum.astype(np.float32), levels, rate_hz=RATE_HZ) is not None) is found


def test_what_is_compared_of_a_pause_ends_before_the_next_note():
    # From 0.02 s before the pause on: 0.54 s, and 0.03 s to the next note.
    def noisy(since_s):
        return np.full(len(since_s), -60.0)

    assert gate_in(noisy, pause_s=0.555).value_db is not None
    assert gate_in(noisy, pause_s=0.543).value_db is None


# -- other rates -----------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("to_hz", "at_once"), [(12_000, 3), (18_000, 2), (24_000, 2), (36_000, 1), (8_000, 1)])
def test_a_rate_is_made_from_one_that_is_needed_anyway_and_sounds_as_if_it_were_not(monkeypatch, to_hz, at_once):
    mono = noise(2.0, -20.0, rate_hz=RATE_HZ)
    asked = []
    made = decode.soxr.resample
    monkeypatch.setattr(decode.soxr, "resample", lambda *a, **k: asked.append(a[1:]) or made(*a, **k))
    found = resampled(mono, from_hz=RATE_HZ, to_hz=to_hz)
    assert len(asked) == at_once
    direct = made(mono, RATE_HZ, to_hz, quality="VHQ")
    assert len(found) == len(direct)
    # 80 dB under it up to four fifths of the band; the filters' edges lie over that.
    faded = np.hanning(len(direct))
    off, whole = np.abs(np.fft.rfft([faded * (found - direct), faded * direct]))[:, : round(0.4 * len(direct))]
    assert np.sqrt(np.mean(off**2) / np.mean(whole**2)) < 1e-4
    # Asked again, nothing is made.
    assert resampled(mono, from_hz=RATE_HZ, to_hz=to_hz) is found
    assert len(asked) == at_once

"""The contour against tones with a known pitch."""

import numpy as np
import pytest
from fortimetra.hear.contour import track
from fortimetra.hear.inharmonicity import without_stiffness
from fortimetra.hear.notes import segment
from fortimetra.hear.settings import CONTOUR

from tests.core.sounds import RATE_HZ, noise, times, tone

STEADY_CENTS = 0.1
EDGE = 20


def _error_cents(contour, truth_hz):
    return 1200.0 * np.log2(contour.f0_hz / truth_hz)[EDGE:-EDGE]


@pytest.mark.parametrize("hz", [61.74, 82.41, 146.83, 329.63, 659.26, 1318.5])
def test_steady_tone_is_read_to_a_tenth_of_a_cent(hz):
    contour = track(tone(hz, 1.0), rate_hz=RATE_HZ)
    error = _error_cents(contour, hz)
    assert np.isnan(error).sum() == 0
    assert abs(np.median(error)) < STEADY_CENTS


@pytest.mark.parametrize(("dbfs", "limit_cents"), [(-60.0, 0.3), (-40.0, 2.0)])
def test_noise_scatters_frames_without_bias_and_sigma_tells_how_much(dbfs, limit_cents):
    contour = track(tone(220.0, 2.0) + noise(2.0, dbfs), rate_hz=RATE_HZ)
    error = _error_cents(contour, 220.0)
    assert abs(np.nanmean(error)) < limit_cents / 4
    assert np.nanstd(error) < limit_cents
    assert 0.3 < np.nanmedian(contour.sigma_cents[EDGE:-EDGE]) / np.nanstd(error) < 3.0


@pytest.mark.parametrize("rise_s", [0.08, 0.2])
def test_a_bend_is_followed_all_the_way(rise_s):
    t = times(1.2)
    cents = 200.0 * (0.5 - 0.5 * np.cos(np.pi * np.clip((t - 0.4) / rise_s, 0, 1)))
    contour = track(tone(330.0 * 2 ** (cents / 1200), 1.2), rate_hz=RATE_HZ)
    truth = 330.0 * 2 ** (np.interp(contour.time_s, t, cents) / 1200)
    assert np.nanmax(np.abs(_error_cents(contour, truth))) < 4.0


def test_vibrato_is_followed_without_shrinking_it():
    t = times(2.0)
    cents = 50.0 * np.sin(2 * np.pi * 6.0 * t)
    contour = track(tone(330.0 * 2 ** (cents / 1200), 2.0), rate_hz=RATE_HZ)
    truth = 330.0 * 2 ** (np.interp(contour.time_s, t, cents) / 1200)
    assert np.nanmax(np.abs(_error_cents(contour, truth))) < 1.0


def test_silence_and_noise_have_no_pitch():
    for sound in (np.zeros(RATE_HZ, np.float32) + 1e-9, noise(1.0, -30.0)):
        contour = track(sound.astype(np.float32), rate_hz=RATE_HZ)
        assert np.mean(~np.isnan(contour.f0_hz)) < 0.03


def test_a_missing_fundamental_is_still_the_pitch():
    t = times(1.0)
    sound = sum(np.sin(2 * np.pi * 110.0 * k * t) / k for k in range(2, 9)).astype(np.float32) * 0.2
    error = _error_cents(track(sound, rate_hz=RATE_HZ), 110.0)
    assert np.nanmax(np.abs(error)) < 1.0


@pytest.mark.parametrize("stiffness", [5e-5, 2e-4, 6e-4])
def test_stiffness_does_not_make_a_note_sharp(stiffness):
    sound = np.concatenate((np.zeros(9600, np.float32), tone(196.0, 1.0, stiffness=stiffness)))
    contour = track(sound, rate_hz=RATE_HZ)
    first_partial = 196.0 * np.sqrt(1.0 + stiffness)
    notes = segment(contour, np.array([0.2]))
    corrected = without_stiffness(contour, notes)
    frames = corrected.frames(0.3, 1.0)
    plain = np.nanmedian(1200 * np.log2(contour.f0_hz[frames] / first_partial))
    fixed = np.nanmedian(1200 * np.log2(corrected.f0_hz[frames] / first_partial))
    assert plain > 3 * abs(fixed)
    assert abs(fixed) < 0.15


@pytest.mark.parametrize("rate_hz", [8_000, 22_050, 44_100, 96_000, 192_000])
def test_any_sample_rate_gives_the_same_pitch(rate_hz):
    contour = track(tone(440.0, 0.8, rate_hz=rate_hz), rate_hz=rate_hz)
    assert abs(np.nanmedian(_error_cents(contour, 440.0))) < STEADY_CENTS
    assert len(contour.time_s) == int(0.8 / CONTOUR.hop_s)


def test_octave_slip_after_an_attack_is_undone():
    # The first 100 ms carry a strong tone an octave below, as some instruments' bodies do.
    sound = tone(392.0, 1.0)
    t = times(0.1)
    sound[: len(t)] += (0.25 * np.sin(2 * np.pi * 196.0 * t) * np.exp(-12 * t)).astype(np.float32)
    contour = track(sound, rate_hz=RATE_HZ, onsets_s=np.array([0.0]))
    error = 1200 * np.log2(contour.f0_hz[6:-EDGE] / 392.0)
    assert np.nanmax(np.abs(error)) < 100.0


@pytest.mark.parametrize("rate_hz", [8_000, 44_100, 48_000])
def test_levels_are_the_rms_of_ten_milliseconds_around_each_frame(rate_hz):
    """Against the definition, sample by sample; read in pieces, so that a long take fits into memory."""
    sound = tone(220.0, 6.0, rate_hz=rate_hz, decay_per_s=1.0) + noise(6.0, -50.0, rate_hz=rate_hz)
    contour = track(sound, rate_hz=rate_hz)
    for frame in (0, 1, 7, 500, 1023, 1024, 1199):
        middle = round(contour.time_s[frame] * rate_hz)
        half = round(0.005 * rate_hz)
        part = sound[max(0, middle - half) : middle + half].astype(np.float64)
        assert contour.level_dbfs[frame] == pytest.approx(10 * np.log10(np.mean(part**2)), abs=0.15)


def test_an_octave_that_a_fading_note_jumps_to_is_undone_and_one_that_is_struck_is_kept():
    low, high = tone(196.0, 1.6, decay_per_s=0.3), tone(392.0, 0.5, decay_per_s=0.3)
    quiet = noise(2.1, -75.0)
    fading = np.concatenate([low, 0.02 * high]) + quiet
    struck = np.concatenate([low, 1.5 * high]) + quiet
    end = slice(340, 400)
    faded = track(fading, rate_hz=RATE_HZ, onsets_s=np.array([0.0])).f0_hz[end]
    kept = track(struck, rate_hz=RATE_HZ, onsets_s=np.array([0.0])).f0_hz[end]
    assert np.nanmedian(faded) < 220 or np.isnan(faded).all()
    assert np.nanmedian(kept) == pytest.approx(392.0, rel=0.01)

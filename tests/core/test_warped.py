"""A moving pitch read in warped time: what a room or another string adds is parted from it."""

from dataclasses import replace

import numpy as np
import pytest
from fortimetra.drills.library import built_in_drills
from fortimetra.hear.contour import track
from fortimetra.hear.settings import WARPED
from fortimetra.hear.warped import warped
from fortimetra.measure.turns import find_turns
from fortimetra.player.faults import Faults
from fortimetra.sound.decode import resampled

from tests.core.sounds import RATE_HZ, contour_of, in_a_room, noise, take, times, tone
from tests.kept import measure_take, render

SECONDS = 2.0


def swinging(rate, extent, seconds=SECONDS):
    return extent * (0.5 - 0.5 * np.cos(2 * np.pi * rate * times(seconds)))


def read(sound, hz, cents):
    """How far the contour and what is read in warped time are off the truth at each frame, cents; and the latter."""
    contour = track(sound, rate_hz=RATE_HZ, range_hz=(0.6 * hz, 1.7 * hz))
    frames = contour.frames(0.15, SECONDS - 0.1)
    at = resampled(sound, from_hz=RATE_HZ, to_hz=WARPED.rate_hz)
    course = warped(at, contour, frames, rate_hz=WARPED.rate_hz)
    truth = np.interp(course.time_s, times(SECONDS), cents)
    return tuple(
        1200 * np.log2(c / hz) - truth for c in (contour.f0_hz[frames], course.f0_hz)
    ), course  # fmt: skip


def rms(values):
    return float(np.sqrt(np.nanmean(np.square(values))))


# On low strings a swing is so few Hz that more of a room stays in it.
@pytest.mark.parametrize(("hz", "left"), [(220.0, 0.8), (440.0, 0.7)])
@pytest.mark.parametrize(("rate", "extent"), [(2.0, 110.0), (5.0, 60.0), (5.5, 75.0), (6.5, 40.0)])
def test_a_room_is_parted_from_a_swing(hz, left, rate, extent):
    cents = swinging(rate, extent)
    sound = tone(hz * 2 ** (cents / 1200), SECONDS)
    before, after = [], []
    for seed in (1, 2, 3):
        (plain, warp), _course = read(in_a_room(sound, seed=seed) + noise(SECONDS, -70.0), hz, cents)
        before.append(rms(plain))
        after.append(rms(warp))
    assert np.mean(after) < left * np.mean(before)


@pytest.mark.parametrize("hz", [110.0, 220.0, 660.0])
@pytest.mark.parametrize(("rate", "extent"), [(2.0, 110.0), (5.5, 75.0), (7.0, 40.0)])
def test_without_a_room_it_is_what_was_played(hz, rate, extent):
    cents = swinging(rate, extent)
    sound = tone(hz * 2 ** (cents / 1200), SECONDS) + noise(SECONDS, -70.0)
    (_plain, warp), course = read(sound, hz, cents)
    assert rms(warp) < 1.0
    assert np.nanmedian(course.sigma_cents) < 0.5
    assert not np.isnan(course.f0_hz).any()


def test_a_steady_string_beside_it_is_no_part_of_it():
    """An open A rings at -20 dB under a B that swings; two of its partials lie beside the B's."""
    cents = swinging(5.0, 60.0)
    sound = tone(246.94 * 2 ** (cents / 1200), SECONDS) + 0.1 * tone(np.full(len(cents), 220.0), SECONDS)
    (plain, warp), _course = read((sound + noise(SECONDS, -75.0)).astype(np.float32), 246.94, cents)
    assert rms(warp) < 0.5 * rms(plain)


def test_a_gap_is_bridged_and_the_grid_is_the_contours():
    cents = swinging(5.0, 60.0)
    sound = tone(330.0 * 2 ** (cents / 1200), SECONDS) + noise(SECONDS, -70.0)
    contour = track(sound, rate_hz=RATE_HZ)
    frames = contour.frames(0.3, 1.7)
    f0 = contour.f0_hz.copy()
    f0[frames.start + 60 : frames.start + 66] = np.nan
    at = resampled(sound, from_hz=RATE_HZ, to_hz=WARPED.rate_hz)
    course = warped(at, contour.with_f0(f0), frames, rate_hz=WARPED.rate_hz)
    assert np.array_equal(course.time_s, contour.time_s[frames])
    truth = np.interp(course.time_s, times(SECONDS), cents)
    assert np.max(np.abs(1200 * np.log2(course.f0_hz / 330.0) - truth)[55:71]) < 2.0


def test_what_was_read_anew_replaces_the_pitch_where_there_was_one_and_nothing_else():
    f0 = np.full(40, 220.0)
    f0[22:25] = np.nan
    contour = replace(contour_of(f0), sigma_cents=np.full(40, 2.0))
    course = replace(contour_of(np.full(10, 230.0)), time_s=contour.time_s[20:30], sigma_cents=np.full(10, 0.5))
    drawn = contour.overlaid([course])
    anew = np.r_[20:22, 25:30]
    assert np.all(drawn.f0_hz[anew] == 230.0)
    assert np.all(drawn.sigma_cents[anew] == 0.5)
    assert np.all(np.isnan(drawn.f0_hz[22:25]))
    beside = np.r_[0:20, 30:40]
    assert np.all(drawn.f0_hz[beside] == 220.0)
    assert np.all(drawn.sigma_cents[beside] == 2.0)
    assert np.all(contour.f0_hz[anew] == 220.0)


def test_the_curve_of_a_take_is_the_one_its_vibratos_were_read_from():
    """In a room the contour's own swings are narrower than the width that is said; what is drawn is as wide."""
    content = next(d for d in built_in_drills() if d.title == "Vibrato, medium: fret 12, strings 3 2 1")
    sound, _truth = render(content, Faults(random_cents=1.0, random_ms=4.0))
    found = measure_take(take(in_a_room(sound, seed=3)), drill=content)
    own = track(in_a_room(sound, seed=3), rate_hz=RATE_HZ)

    def width(contour, region):
        frames = contour.frames(region[0] - 0.01, region[1] + 0.02)
        cents = 1200.0 * np.log2(contour.f0_hz[frames] / 220.0)
        return np.mean(np.abs(np.diff(find_turns(contour.time_s[frames], cents, np.full(len(cents), 1.0)).cents)))

    vibratos = [n.vibrato for n in found.analysis.notes if n.vibrato is not None and n.vibrato.region is not None]
    assert len(vibratos) >= 6
    said = np.array([v.extent_cents for v in vibratos])
    drawn = np.array([width(found.contour, v.region) for v in vibratos])
    before = np.array([width(own, v.region) for v in vibratos])
    assert np.median(np.abs(drawn - said)) < 0.5
    assert np.max(np.abs(drawn - said)) < 4.0
    assert np.median(np.abs(before - said)) > 2.0

"""Settings of hearing attacks, changes of pitch and combs at their limits, held by what changes beside them.

Values are the house's, from its benchmarks, written out here by hand. What is heard is made, its truth is known.
"""

from __future__ import annotations

import numpy as np
import pytest
from fortimetra.hear import crossing as crossings
from fortimetra.hear import onsets
from fortimetra.hear.attack import Attacks, _step, attacks_near
from fortimetra.hear.combs import _BINS, BIN_HZ, Combs, Found, Spectra, surroundings
from fortimetra.hear.crossing import Crossing, _unshared, crossing
from fortimetra.hear.onsets import _stops, find_candidates
from fortimetra.hear.salience import _flat
from fortimetra.measure.looking import _cut

NOTHING = np.zeros(0)


# -- attacks ---------------------------------------------------------------------------------------------------------


def candidates(monkeypatch, rises, moved_s=(), contrast_db=9.0):
    """What is found of a curve of rises, (time, dB); moved_s: by how much each one's instant lies off its place."""
    curve = np.zeros(401)
    for at_s, rise_db in rises:
        curve[round(at_s / 0.0025)] = rise_db

    def near(_sound, places_s, *, rate_hz, quiet_s=None):
        off = np.zeros(len(places_s))
        off[: len(moved_s)] = moved_s
        same = np.full(len(places_s), 1.0)
        return Attacks(places_s + off, contrast_db * same, 3.0 * same)

    monkeypatch.setattr(onsets, "_rise_db", lambda _bands: curve)
    monkeypatch.setattr(onsets, "attacks_near", near)
    sound = np.random.default_rng(1).standard_normal(24_000).astype(np.float32)
    return find_candidates(sound, rate_hz=24_000)


@pytest.mark.parametrize(("rise_db", "count"), [(0.35, 1), (0.45, 2)])
def test_a_place_that_rises_by_two_fifths_of_a_decibel_may_be_a_soft_note(monkeypatch, rise_db, count):
    found = candidates(monkeypatch, [(0.3, 5.0), (0.6, rise_db)])
    assert len(found.time_s) == count
    assert found.strong.tolist() == [True, False][:count]


@pytest.mark.parametrize(("apart_s", "count"), [(0.0110, 1), (0.0130, 2)])
def test_two_places_within_twelve_milliseconds_are_one(monkeypatch, apart_s, count):
    found = candidates(monkeypatch, [(0.3, 5.0), (0.35, 5.0)], moved_s=(0.05 - apart_s,))
    assert len(found.time_s) == count


def test_an_instant_only_the_bands_tell_is_known_to_fifteen_milliseconds(monkeypatch):
    assert candidates(monkeypatch, [(0.3, 5.0)], contrast_db=2.0).u_ms.tolist() == [15.0]
    assert candidates(monkeypatch, [(0.3, 5.0)], contrast_db=9.0).u_ms.tolist() == [3.0]


@pytest.mark.parametrize(
    ("fall_db", "kept_db", "stop"), [(9.0, 0.0, False), (11.0, 0.0, True), (11.0, 0.9, True), (11.0, 1.1, False)]
)
def test_a_burst_after_which_ten_decibels_are_gone_is_a_stop_unless_a_band_keeps_a_rise(fall_db, kept_db, stop):
    # Four bands: the loudest falls; another rises by four times the mean that is asked about.
    bands = np.full((4, 60), -60.0, np.float32)
    bands[0, :30] = -20.0
    bands[0, 30:] = -20.0 - fall_db
    bands[1, 30:] += 4.0 * kept_db
    assert _stops(bands, np.array([30]))[0] == stop


def test_what_comes_of_digital_silence_is_as_clear_as_it_stands_over_the_step_of_a_fine_converter():
    # 10⁻⁴ of full scale over 3·10⁻⁶.
    rate = 36_000
    sound = np.zeros(rate, np.float32)
    sound[18_000:] = 1e-4 * np.random.default_rng(1).choice([-1.0, 1.0], 18_000)
    found = attacks_near(sound, np.array([0.5]), rate_hz=rate)
    assert found.contrast_db[0] == pytest.approx(20.0 * np.log10(1e-4 / 3e-6), abs=1.2)


@pytest.mark.parametrize(("excess", "may_be_off"), [(7.7, True), (8.3, False)])
def test_an_attack_may_be_where_its_cost_exceeds_the_least_by_four_times_the_scatter(excess, may_be_off):
    # Log energy that scatters by ±1 before, and steps by the root of so much: a block later costs that more. Smoothing
    # over two blocks leaves half of them independent: four times 2.
    block = 7
    level = np.where(np.arange(60) < 30, 0.0, np.sqrt(excess))
    known = np.exp(np.tile([-1.0, 1.0], 100))[None]
    energy = np.repeat(np.exp(level), block)[None]
    at, _, slack = _step(energy.astype(np.float32), known.astype(np.float32), 0, 36_000)
    assert at[0] == 30 * block
    assert bool(slack[0] > 0.0) is may_be_off


# -- crossings -------------------------------------------------------------------------------------------------------


def test_ten_partials_up_to_four_thousand_hertz_are_followed():
    assert _unshared(200.0, [7001.0], 40.0).tolist() == [200.0 * k for k in range(1, 11)]
    assert _unshared(450.0, [7001.0], 40.0).tolist() == [450.0 * k for k in range(1, 9)]


def crossed(monkeypatch, old, new, *, from_s=0.2, to_s=None):
    """A crossing of given amplitudes, one a window; and what was asked of the sound."""
    asked = {}

    def powers(_sound, starts, length, hz, *, rate_hz):
        asked.update(steps_s=np.diff(starts) / rate_hz, length_s=length / rate_hz)
        rows = np.zeros((len(starts), len(hz)))
        low = hz % 220.0 < 1.0
        rows[:, np.flatnonzero(low)[0]] = old[: len(starts)] ** 2
        rows[:, np.flatnonzero(~low)[0]] = new[: len(starts)] ** 2
        return rows

    monkeypatch.setattr(crossings, "powers_at", powers)
    end_s = from_s + (len(old) - 1) * 0.004 if to_s is None else to_s
    sound = np.zeros(24_000, np.float32)
    return crossing(sound, rate_hz=12_000, old_hz=[220.0], new_hz=[233.1], from_s=from_s, to_s=end_s), asked


def test_windows_are_forty_five_to_twenty_five_milliseconds_long_and_four_apart(monkeypatch):
    ramp = np.linspace(0.0, 1.0, 200)
    _, long = crossed(monkeypatch, 1.0 - ramp, ramp, to_s=0.5)
    _, short = crossed(monkeypatch, 1.0 - ramp, ramp, to_s=0.25)
    assert long["length_s"] == 0.045
    assert short["length_s"] == 0.025
    assert long["steps_s"] == pytest.approx(0.004, abs=1e-6)


def test_in_a_room_the_change_is_where_the_new_pitch_comes_and_known_the_less_the_later_the_old_one_goes(monkeypatch):
    at = np.arange(80.0)
    new = np.clip((at - 10.0) / 20.0, 0.0, 1.0)  # half at window 20
    old = np.clip(1.0 - (at - 20.0) / 40.0, 0.0, 1.0)
    found, _ = crossed(monkeypatch, old, new)
    # As high as each other at window 26 2/3: 27 ms later, of which two fifths stay unknown beside 5 ms.
    assert found.time_s == pytest.approx(0.2 + 20 * 0.004)
    assert found.u_ms == pytest.approx(np.hypot(5.0, 0.4 * 1000.0 * 0.004 * 20.0 / 3.0))


@pytest.mark.parametrize(("later", "follows"), [(1.7, False), (2.3, True)])
def test_a_lag_of_eight_milliseconds_is_a_rooms(monkeypatch, later, follows):
    # The new pitch is half there at window 20; both are as high `later` windows after that.
    at = np.arange(80.0)
    new = np.clip((at - 10.0) / 20.0, 0.0, 1.0)
    high = 0.5 + later / 20.0
    old = np.clip(high - (at - 20.0 - later) / 40.0, 0.0, 1.0)
    found, _ = crossed(monkeypatch, old, new)
    assert (found.time_s == pytest.approx(0.2 + 20 * 0.004)) is follows


@pytest.mark.parametrize(("rise_db", "fall_db", "clear"), [(8.5, 20.0, False), (20.0, 8.5, False), (9.5, 9.5, True)])
def test_a_change_is_one_by_nine_decibels(rise_db, fall_db, clear):
    assert Crossing(0.0, rise_db, fall_db).clear is clear


@pytest.mark.parametrize(("windows", "looked"), [(7, False), (8, True)])
def test_a_change_is_looked_for_in_eight_windows(monkeypatch, windows, looked):
    ramp = np.linspace(0.0, 1.0, windows)
    _, asked = crossed(monkeypatch, 1.0 - ramp, ramp, to_s=0.2 + 0.004 * (windows - 1))
    assert bool(asked) is looked


# -- combs -----------------------------------------------------------------------------------------------------------


def comb(levels_db, *, clear=None):
    """One comb of twelve partials in one window, each so far over surroundings of 0 dB."""
    level = np.full(12, 0.0)
    level[: len(levels_db)] = levels_db
    seen = np.ones(12, np.bool_) if clear is None else clear
    return Found(
        (10.0 ** (level / 10.0)).astype(np.float32)[None, None], np.ones((1, 1, 12), np.float32), seen[None, None]
    ).fit[0, 0]


def test_a_partial_over_twenty_five_decibels_speaks_no_louder():
    assert comb([20.0])[0] == pytest.approx(13.0)
    assert comb([40.0])[0] == pytest.approx(18.0)


def test_a_partial_that_is_surely_missed_takes_eight_decibels():
    # The first one stands at 40 dB; the second is expected at 28, 21 over what counts as there.
    assert comb([40.0, 0.0])[1] == pytest.approx(-8.0, abs=0.01)


@pytest.mark.parametrize(("free", "known"), [(7, False), (9, True)])
def test_the_noise_of_a_band_is_known_from_eight_free_bins(free, known):
    # The bands before and after are a hundred times louder.
    power = np.full((1, _BINS), 100.0, np.float32)
    mask = np.zeros((1, _BINS), np.bool_)
    band = slice(5 * 136, 6 * 136)
    power[:, band] = 1.0
    mask[:, band.start + free : band.stop] = True
    found = surroundings(Spectra(np.zeros(1), 0.2, power), mask)[0, band.start + 68]
    assert found == pytest.approx(10.0**0.6 * (1.0 if known else 100.0), rel=0.05)


def test_of_a_low_string_every_partial_that_is_looked_at_is_known_to_sound():
    windows = Spectra(np.zeros(1), 0.2, np.ones((1, _BINS), np.float32))
    low_e = (np.array([0]), np.array([82.41]), np.array([82.41]), np.array([0.0]))
    mask = _cut(windows, [low_e], driven=False)[0]
    assert all(mask[round(82.41 * k / BIN_HZ)] for k in range(1, int(3200 / 82.41) + 1))


@pytest.mark.parametrize(("cents", "looked"), [(250.0, True), (265.0, False)])
def test_a_partial_is_sought_in_less_than_a_third_of_what_lies_between_two(cents, looked):
    # Of the first one from so many cents under it to as many over it: 29 %, 31 %.
    first, last = Combs(np.array([200.0]), np.array([cents]), np.array([0.0])).intervals()
    assert bool(last[0, 0] > first[0, 0] > 0) is looked


# -- salience --------------------------------------------------------------------------------------------------------


def test_the_envelope_that_is_taken_out_is_three_hundred_and_fifty_hertz_wide():
    spectrum = np.zeros((1, 1025), np.float32)
    spectrum[0, 300] = 1.0
    width_hz = np.count_nonzero(_flat(spectrum, 12_000)) * 12_000 / 2048
    assert width_hz == pytest.approx(350.0, abs=10.0)

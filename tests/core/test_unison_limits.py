"""Settings of reading unison bends at their limits, each held by what changes a quarter beside it.

Values are the house's, from its benchmarks, written out here by hand. What is read is made, its truth is known.
"""

from __future__ import annotations

import numpy as np
import pytest
from fortimetra.measure import unison
from fortimetra.measure.unison import (
    _apart,
    _held,
    _narrowed,
    _Partial,
    _partials,
    _path,
    _settled,
    _steady_while_apart,
    _stretches,
    _undecayed,
    _windows,
    measure_unison,
)

RATE_HZ = 12_000
STEADY_HZ = 220.0


def duet(seconds=1.6, *, apart_cents=0.0, from_cents=-200.0, rise_s=0.3, level=1.0):
    """A steady string, and one that is bent up to it, or nearly; level: of the bent one."""
    time = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
    cents = from_cents + (apart_cents - from_cents) * np.clip((time - 0.2) / rise_s, 0.0, 1.0)
    phase = 2.0 * np.pi * np.cumsum(STEADY_HZ * 2.0 ** (cents / 1200.0)) / RATE_HZ
    sound = np.zeros(len(time))
    for k in range(1, 7):
        steady = np.sin(2.0 * np.pi * STEADY_HZ * k * time + k)
        sound += (steady + level * np.sin(k * phase)) * np.exp(-0.5 * k * time) / k
    return (0.1 * sound).astype(np.float32)


def measured(sound, *, end_s=None, target_cents=200.0):
    return measure_unison(
        sound, rate_hz=RATE_HZ, onset_s=0.0, end_s=len(sound) / RATE_HZ if end_s is None else end_s,
        steady_hz=STEADY_HZ, target_cents=target_cents, tolerance_hz=1.0,
    )  # fmt: skip


# -- what is looked for ----------------------------------------------------------------------------------------------


class Enough(Exception):
    """What was to be seen has been seen."""


def searched(monkeypatch):
    """How a unison of a whole tone is searched."""
    seen = {}

    def windows(partials, _steady_hz, steady, bent, window_s, hop_s, **_more):
        seen.update(partials=partials, steady=steady, bent=bent, window_s=window_s, hop_s=hop_s)
        raise Enough

    monkeypatch.setattr(unison, "_windows", windows)
    with pytest.raises(Enough):
        measured(duet(2.0))
    return seen


def test_a_bent_string_is_looked_for_from_a_little_flat_of_its_fret_to_a_semitone_over_the_steady_one(monkeypatch):
    seen = searched(monkeypatch)
    bent, steady = seen["bent"], seen["steady"]
    assert (bent[0], bent[1] - bent[0]) == (-260.0, 3.0)
    assert 100.0 <= bent[-1] <= 103.0
    assert (steady[0], steady[1] - steady[0], steady[-1]) == (-24.0, 2.0, 24.0)
    assert (seen["window_s"], seen["hop_s"]) == (0.12, 0.02)


def test_from_forty_milliseconds_after_the_attack_to_fifty_before_the_end(monkeypatch):
    partial = searched(monkeypatch)["partials"][0]
    assert len(partial.samples) / partial.rate_hz == pytest.approx(2.0 - 0.04 - 0.05, abs=0.01)


def test_in_six_partials_each_in_a_fifth_of_its_frequency_to_both_sides():
    found = _partials(duet().astype(np.float64), RATE_HZ, STEADY_HZ)
    assert [p.number for p in found] == [1, 2, 3, 4, 5, 6]
    # Three samples a half width: 44 Hz of the first, of the higher ones 45 % of what lies between two.
    assert [p.rate_hz for p in found[:3]] == pytest.approx([132.0, 264.0, 297.0], rel=0.03)


@pytest.mark.parametrize(("decay_per_s", "left_per_s"), [(10.0, 0.0), (14.0, 2.0)])
def test_a_decay_of_twelve_a_second_is_taken_out(decay_per_s, left_per_s):
    time = np.arange(200) / 200.0
    found = np.abs(_undecayed(np.exp(-decay_per_s * time).astype(complex), 200.0))
    assert -np.polyfit(time, np.log(found), 1)[0] == pytest.approx(left_per_s, abs=0.2)


@pytest.mark.parametrize(("end_s", "told"), [(0.38, False), (0.40, True)])
def test_a_hold_of_three_tenths_of_a_second_is_read(end_s, told):
    assert ("too_short" not in measured(duet(1.0), end_s=end_s).reasons) is told


# -- where the strings are -------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("gain", "moves"), [(4.3, False), (4.7, True)])
def test_a_cent_of_movement_costs_fifteen_hundredths(gain, moves):
    # Thirty cents: 4.5. One window says where the bent string begins, one that it is elsewhere.
    likelihood = np.zeros((2, 40))
    likelihood[:, 5] = 100.0
    likelihood[1, 15] = 100.0 + gain
    assert (_path(likelihood, 3.0)[1] == 15) == moves


@pytest.mark.parametrize(("away", "held"), [(11.5, 50), (12.5, 20)])
def test_a_bent_string_moves_by_twelve_cents_within_its_hold(away, held):
    path = np.concatenate((np.full(10, -200.0), np.full(20, -away), np.zeros(20)))
    found = _held(path)
    assert found.stop - found.start == (40 if held == 50 else 20)


@pytest.mark.parametrize(("bent_cents", "gain", "apart"), [(-47.0, 4.2, 5), (-43.0, 4.2, 0), (-47.0, 3.8, 0)])
def test_strings_forty_five_cents_apart_are_read_each_by_itself(bent_cents, gain, apart):
    bent = np.array([-100.0, bent_cents, 0.0])
    likelihood = np.zeros((5, 3, 3))
    likelihood[:, 1, 1] = gain
    assert _apart(likelihood, bent) == apart


@pytest.mark.parametrize(("share", "two"), [(0.0028, False), (0.0032, True)])
def test_a_second_string_holds_three_thousandths_of_the_power(monkeypatch, share, two):
    monkeypatch.setattr(unison, "_second_share", lambda *_a: share)
    assert ("one_string" not in measured(duet()).reasons) is two


def test_two_tones_explain_all_but_a_hundred_thousandth_at_most():
    time = np.arange(300) / 300.0
    partial = _Partial(1, np.exp(2j * np.pi * 2.0 * time), 300.0)
    cents = 1200.0 * np.log2(1.0 + 2.0 / STEADY_HZ)
    _, found = _windows([partial], STEADY_HZ, np.array([0.0]), np.array([cents]), 0.2, 0.1, most=1)
    assert found.max() == pytest.approx(-0.5 * 60 * np.log(1e-5), rel=1e-3)


# -- how they are read -----------------------------------------------------------------------------------------------


def reading(monkeypatch, *, seconds=2.0, sd=(1.0, 1.0)):
    """What is asked of the stretch after a merge, and what comes of a likelihood that is normal in both pitches."""
    asked = {}

    def windows(partials, _hz, steady, bent, window_s, _hop_s, **_more):
        asked.update(steady=steady, bent=bent, window_s=window_s, rate_hz=partials[0].rate_hz)
        near = -0.5 * (steady[:, None] / sd[0]) ** 2 - 0.5 * ((bent[None, :] - 1.0) / sd[1]) ** 2
        return np.zeros(1), 3.0 * near[None]

    monkeypatch.setattr(unison, "_windows", windows)
    partials = _partials(duet(seconds).astype(np.float64), RATE_HZ, STEADY_HZ)
    return asked, _settled(partials, STEADY_HZ, (0.0, 50.0), 0.0, 0.0)


def test_the_difference_is_read_in_steps_of_a_quarter_of_a_cent(monkeypatch):
    asked, found = reading(monkeypatch)
    assert (asked["bent"][0], asked["bent"][-1], asked["bent"][1] - asked["bent"][0]) == (-12.0, 12.0, 0.25)
    assert (asked["steady"][0], asked["steady"][-1], asked["steady"][1] - asked["steady"][0]) == (-3.0, 3.0, 0.5)
    assert found[0] == 1.0


@pytest.mark.parametrize(("seconds", "window_s"), [(0.4, 0.2), (1.0, 0.4), (3.0, 0.8)])
def test_in_windows_from_a_fifth_to_four_fifths_of_a_second(monkeypatch, seconds, window_s):
    assert reading(monkeypatch, seconds=seconds)[0]["window_s"] == pytest.approx(window_s, abs=0.02)


def test_known_to_where_the_likelihood_has_fallen_by_half_the_95_percent_point_of_chi_squared(monkeypatch):
    # Of a pitch known to 2 cents, the other for certain: 1.96 times as much (Wilks, 1938), and 0.7 of the method's own.
    _, (_, u, _, u_steady) = reading(monkeypatch, sd=(0.01, 2.0))
    assert u == pytest.approx(np.hypot(1.96 * 2.0, 0.7), abs=0.26)
    assert u_steady == pytest.approx(0.7)


def test_in_a_band_of_its_partial_that_is_no_wider_than_what_is_left_to_tell_apart():
    first = _partials(duet().astype(np.float64), RATE_HZ, STEADY_HZ)[0]
    # Half its width is 4.5 % of its frequency: three samples for each.
    assert _narrowed(first, STEADY_HZ, 0.0).rate_hz == pytest.approx(first.rate_hz / 4)
    assert _narrowed(_Partial(2, first.samples, 264.0), STEADY_HZ, 0.0).rate_hz == pytest.approx(264.0 / 4)
    assert _narrowed(_Partial(1, first.samples, 100.0), STEADY_HZ, 0.0).rate_hz == pytest.approx(100.0 / 3)


@pytest.mark.parametrize(("difference", "u"), [(3.7, 8.4), (4.3, 1.0)])
def test_nearer_than_four_cents_sharp_and_flat_are_not_told_apart(monkeypatch, difference, u):
    monkeypatch.setattr(unison, "_settled", lambda *_a: (difference, 1.0, 0.0, 0.5))
    found = measured(duet())
    assert (found.difference_cents, found.u_difference) == (difference, pytest.approx(u))


@pytest.mark.parametrize(("sd", "known"), [(0.1, 0.4), (1.0, 0.875)])
def test_the_steady_string_is_known_to_two_fifths_of_a_cent_at_best(monkeypatch, sd, known):
    def windows(_partials, _hz, steady, bent, window_s, hop_s, **_more):
        near = -0.5 * (steady / sd) ** 2 * (window_s / hop_s)
        return np.zeros(1), np.repeat(near[:, None], len(bent), axis=1)[None]

    monkeypatch.setattr(unison, "_windows", windows)
    partials = _partials(duet().astype(np.float64), RATE_HZ, STEADY_HZ)
    assert _steady_while_apart(partials, STEADY_HZ, 0.0, 5, -200.0)[1] == pytest.approx(known, abs=0.05)


def stretched(per_number, *, off_cents=0.0, sharp=200.0):
    """Stretches from partials that each put the bent string so far over its multiple: cents per (k² − 1); off_cents:
    the third one besides. sharp: how fast a likelihood falls, by the cent.
    """
    steady, bent = np.arange(-3.0, 3.01, 0.5), np.arange(-12.0, 12.01, 0.25)
    numbers = [1, 2, 3]
    places = [per_number * (k**2 - 1.0) + (off_cents if k == 3 else 0.0) for k in numbers]
    each = [-sharp * (np.abs(steady)[:, None] + np.abs(bent[None, :] - place)) for place in places]
    return _stretches(each, numbers, steady, bent)[1]


def test_strings_are_taken_to_be_hardly_stiff_and_no_stiffer_than_the_stiffest():
    # Least squares over 0, 3 and 8, each known to a step of 0.25, beside a prior of 0 with a standard deviation 0.15.
    known = np.var([0.0, 3.0, 8.0]) * 3.0 / 0.25**2
    assert stretched(0.25) == pytest.approx(0.25 * known / (known + 1.0 / 0.15**2), abs=0.002)
    assert stretched(0.5) == pytest.approx(0.35)


def test_each_partial_is_looked_at_four_cents_about_what_all_of_them_say():
    # The third lies beside the two that agree; one further off than that is read at the edge.
    far = stretched(0.0, off_cents=9.0, sharp=1.0)
    assert stretched(0.0, off_cents=4.0, sharp=1.0) == pytest.approx(far)
    assert stretched(0.0, off_cents=3.75, sharp=1.0) < 0.9 * far

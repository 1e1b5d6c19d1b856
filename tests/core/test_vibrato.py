"""Vibrato read cycle by cycle, from sounds with known cycles."""

import numpy as np
import pytest
from fortimetra.hear.contour import track
from fortimetra.hear.notes import HeardNote
from fortimetra.measure.turns import window_response
from fortimetra.measure.vibrato import Swing, measure_vibrato, rate_of_crossings

from tests.core.sounds import RATE_HZ, noise, times, tone

RATE_TOLERANCE_HZ = 0.05
EXTENT_TOLERANCE_CENTS = 1.5
CV_TOLERANCE = 0.03
RETURN_TOLERANCE_CENTS = 1.5
SECONDS = 2.6
STRAIGHT_S = 0.4


def cycles(rate, extent, *, rate_cv=0.0, extent_cv=0.0, line="bottom", back=0.0, straight=STRAIGHT_S, seed=4):
    """Cents over time, and the lengths and widths of the cycles."""
    rng = np.random.default_rng(seed)
    time = times(SECONDS)
    cents = np.zeros_like(time)
    edge, lengths, widths = straight, [], []
    while True:
        length = max(0.6, 1 + rate_cv * rng.standard_normal()) / rate
        width = extent * max(0.3, 1 + extent_cv * rng.standard_normal())
        if edge + length > SECONDS - 0.1:
            break
        inside = (time >= edge) & (time < edge + length)
        phase = (time[inside] - edge) / length
        up = 0.5 - 0.5 * np.cos(2 * np.pi * phase)
        cents[inside] = width * {"bottom": up, "top": -up, "centre": np.sin(2 * np.pi * phase) / 2}[line]
        edge, lengths, widths = edge + length, [*lengths, length], [*widths, width]
    return cents + back * (time >= straight), np.array(lengths), np.array(widths)


def read(cents, *, hz=220.0, line="bottom", noise_dbfs=-75.0, until=SECONDS, from_s=None):
    sound = tone(hz * 2 ** (cents / 1200), SECONDS) + noise(SECONDS, noise_dbfs)
    contour = track(sound, rate_hz=RATE_HZ)
    note = HeardNote(0.0, until, 57.0, 57.0, 57.0, -20.0, "attack")
    return measure_vibrato(sound, contour, note, Swing(line, hz), rate_hz=RATE_HZ, from_s=from_s)


@pytest.mark.parametrize("hz", [82.4, 196.0, 440.0, 987.8])
@pytest.mark.parametrize(("rate", "extent"), [(2.0, 140.0), (5.0, 30.0), (5.5, 80.0), (7.5, 60.0), (9.0, 50.0)])
def test_rate_and_width_are_those_that_were_played(hz, rate, extent):
    cents, lengths, _widths = cycles(rate, extent)
    found = read(cents, hz=hz)
    assert found.cycles == len(lengths)
    assert found.rate_hz == pytest.approx(rate, abs=RATE_TOLERANCE_HZ)
    # A width that the window has averaged is set right: without that, 9 Hz at the low E is 6 cents too narrow.
    assert found.extent_cents == pytest.approx(extent, abs=EXTENT_TOLERANCE_CENTS)
    assert found.rate_cv < CV_TOLERANCE
    assert found.extent_cv < CV_TOLERANCE
    assert found.return_error_cents == pytest.approx(0.0, abs=RETURN_TOLERANCE_CENTS)


@pytest.mark.parametrize("line", ["bottom", "top", "centre"])
@pytest.mark.parametrize("seed", [1, 2, 3])
def test_unevenness_is_told_as_it_is(line, seed):
    cents, lengths, widths = cycles(5.0, 70.0, rate_cv=0.12, extent_cv=0.2, line=line, back=-8.0, seed=seed)
    found = read(cents, line=line)
    # About the middle the first crossing is the end of the straight stretch: one cycle less is read.
    assert found.rate_hz == pytest.approx(1 / lengths.mean(), abs=0.25 if line == "centre" else 0.1)
    assert found.rate_cv == pytest.approx(lengths.std(ddof=1) / lengths.mean(), abs=2 * CV_TOLERANCE)
    assert found.extent_cents == pytest.approx(widths.mean(), abs=3.5)
    if line != "centre":  # of a swing about the middle each half may be as wide as it likes
        assert found.extent_cv == pytest.approx(widths.std(ddof=1) / widths.mean(), abs=CV_TOLERANCE)
        assert found.return_error_cents == pytest.approx(-8.0, abs=2.0)


@pytest.mark.parametrize(("extent", "shape"), [(30.0, "subtle"), (75.0, "medium"), (130.0, "wide")])
def test_the_width_has_a_house_class(extent, shape):
    assert read(cycles(5.0, extent)[0]).shape == shape


@pytest.mark.parametrize(
    ("cents", "reason"),
    [
        (np.zeros(round(SECONDS * RATE_HZ)), "too_few_cycles"),
        (60 * np.clip(times(SECONDS) - 1.0, 0, 1), "too_few_cycles"),
        (cycles(1.0, 90.0)[0], "too_few_cycles"),
    ],
    ids=["straight", "a drift", "two cycles"],
)
def test_what_is_no_vibrato_is_none(cents, reason):
    found = read(cents)
    assert (found.rate_hz, found.reasons) == (None, (reason,))


def test_a_note_too_short_says_so():
    assert read(cycles(5.0, 60.0)[0], until=0.08).reasons == ("too_short",)


def test_values_lie_within_their_uncertainty():
    inside = []
    for seed in range(12):
        cents, lengths, widths = cycles(5.5, 60.0, rate_cv=0.05, extent_cv=0.1, seed=seed)
        found = read(cents, noise_dbfs=-55.0)
        inside += [
            abs(found.rate_hz - 1 / lengths.mean()) <= found.u_rate,
            abs(found.extent_cents - widths.mean()) <= found.u_extent,
            abs(found.return_error_cents) <= found.u_return,
        ]
    assert np.mean(inside) >= 0.85


@pytest.mark.parametrize("uneven", [0.0, 0.03, 0.1])
@pytest.mark.parametrize("noise_s", [0.0005, 0.003])
@pytest.mark.parametrize("cycles_played", [4, 8, 16])
def test_the_rate_by_crossings_holds_what_it_says(uneven, noise_s, cycles_played):
    rng = np.random.default_rng(cycles_played)
    inside, width = [], []
    for _ in range(200):
        periods = (1 + uneven * rng.standard_normal(cycles_played)) / 5.5
        begins = np.cumsum(periods) - periods
        crossings = np.sort(np.concatenate((begins + 0.25 * periods, begins + 0.75 * periods)))
        rate, u = rate_of_crossings(crossings + noise_s * rng.standard_normal(len(crossings)))
        inside.append(abs(rate - 1.0 / periods.mean()) <= u)
        width.append(u)
    assert np.mean(inside) >= 0.9
    # Of an even hand nothing is left unknown but the noise of the crossings: 12 s² / n³ of a line through n of them.
    if not uneven and cycles_played == 16:
        assert np.median(width) < 4.0 * 5.5**2 * 2.0 * noise_s * np.sqrt(12.0 / 32.0**3)


def test_the_rate_by_crossings_does_not_mind_an_unknown_middle():
    crossings = 0.1 * np.arange(9) + np.where(np.arange(9) % 2, 0.012, -0.012)
    assert rate_of_crossings(crossings) == pytest.approx((5.0, 0.0), abs=1e-9)


def test_a_hann_window_leaves_what_its_transform_says():
    # Worked out by hand from Harris (1978): half a swing at r·L = 1.
    assert window_response(20.0, 0.05) == 0.5
    t = np.linspace(-0.5, 0.5, 20001)
    for x in (0.1, 0.3, 0.7, 1.3):
        kept = np.mean(np.cos(np.pi * t) ** 2 * np.cos(2 * np.pi * x * t)) / np.mean(np.cos(np.pi * t) ** 2)
        assert window_response(x, 1.0) == pytest.approx(kept, abs=1e-4)


@pytest.mark.parametrize("line", ["bottom", "centre"])
def test_where_a_swing_begins_half_way_is_no_return(line):
    """A student slides into the note from above: the first turn is not where the swing comes back to."""
    cents, _lengths, _widths = cycles(5.0, 60.0, line=line)
    into = np.interp(times(SECONDS), [0.0, STRAIGHT_S - 0.1, STRAIGHT_S], [32.0, 32.0, 0.0])
    found = read(cents + into, line=line)
    assert found.return_error_cents == pytest.approx(0.0, abs=2.0 if line == "centre" else RETURN_TOLERANCE_CENTS)


@pytest.mark.parametrize("held_s", [0.06, 0.1, 0.16])
def test_a_hold_before_the_swing_is_no_cycle_of_it(held_s):
    """A bend arrives, is held for a moment, and then swings down from its pitch."""
    cents, lengths, _widths = cycles(5.5, 32.0, line="top")
    arrives_s = STRAIGHT_S - held_s
    rises = np.interp(times(SECONDS), [0.0, arrives_s - 0.15, arrives_s], [-200.0, -200.0, 0.0])
    found = read(cents + rises, line="top", from_s=arrives_s - 0.03)
    assert found.cycles == len(lengths)
    assert found.rate_hz == pytest.approx(5.5, abs=0.03)
    assert found.rate_cv < CV_TOLERANCE


def test_partials_that_swing_unlike_say_that_the_width_is_not_sure():
    """What a room answers differs from partial to partial: every second one swings by a tenth less."""
    cents, _lengths, widths = cycles(5.0, 60.0)
    found = []
    for of_even in (1.0, 0.9):
        partials = (
            np.sin(2 * np.pi * np.cumsum(220.0 * k * 2 ** ((1.0 if k % 2 else of_even) * cents / 1200)) / RATE_HZ) / k
            for k in range(1, 9)
        )
        sound = (0.2 * sum(partials)).astype(np.float32) + noise(SECONDS, -75.0)
        note = HeardNote(0.0, SECONDS, 57.0, 57.0, 57.0, -20.0, "attack")
        contour = track(sound, rate_hz=RATE_HZ)
        found.append(measure_vibrato(sound, contour, note, Swing("bottom", 220.0), rate_hz=RATE_HZ))
    alike, unlike = found
    assert alike.u_extent < 1.0
    assert unlike.u_extent > 4.0
    assert abs(widths.mean() - unlike.extent_cents) < unlike.u_extent


def test_a_swing_that_comes_back_elsewhere_each_time_counts_every_time():
    cents, _lengths, _widths = cycles(5.0, 60.0, back=18.0)
    assert read(cents).return_error_cents == pytest.approx(18.0, abs=2.0)


def one_long_cycle(rate=5.0, extent=60.0, *, longer=1.9):
    """Even cycles but for one, as where a turn is missed."""
    time = times(SECONDS)
    cents = np.zeros_like(time)
    edge = STRAIGHT_S
    for number in range(7):
        length = (longer if number == 3 else 1.0) / rate
        inside = (time >= edge) & (time < edge + length)
        cents[inside] = extent * (0.5 - 0.5 * np.cos(2 * np.pi * (time[inside] - edge) / length))
        edge += length
    return cents


def test_what_one_cycle_decides_is_not_sure():
    limit = 0.2
    found = read(one_long_cycle())
    assert found.rate_cv > limit
    assert found.rate_cv - found.u_rate_cv < limit
    # A hand that is uneven throughout stays surely so.
    cents, lengths, _widths = cycles(5.0, 60.0, rate_cv=0.35, seed=3)
    uneven = read(cents)
    assert np.std(lengths, ddof=1) / np.mean(lengths) > limit
    assert uneven.rate_cv - uneven.u_rate_cv > limit


@pytest.mark.parametrize("cut_s", [2.0, 2.06, 2.12, 2.18])
def test_a_last_swing_that_is_cut_is_no_narrower_one(cut_s):
    """The next note stops a slow, wide vibrato in the middle of a swing."""
    cents, _lengths, _widths = cycles(2.0, 110.0)
    found = read(cents, until=cut_s)
    assert found.extent_cents == pytest.approx(110.0, abs=EXTENT_TOLERANCE_CENTS)
    assert found.extent_cv < CV_TOLERANCE

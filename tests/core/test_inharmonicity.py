"""The first partial of stiff strings, from partials that scatter about their line by amounts that are known here."""

import numpy as np
import pytest
from fortimetra.hear.contour import Contour
from fortimetra.hear.inharmonicity import first_partial, without_stiffness
from fortimetra.hear.notes import HeardNote
from fortimetra.hear.settings import CONTOUR, NOTES, WARPED

FRAMES = 60
HZ = 220.0
NOTE = HeardNote(0.0, FRAMES * CONTOUR.hop_s, 57.0, 57.0, 57.0, -20.0, "attack", FRAMES * CONTOUR.hop_s)
ALL = slice(0, FRAMES)


def played(places_cents, noise_cents, rng, first_heard=True) -> Contour:
    """A contour whose pitch is the mean of partials that lie so far from k·HZ, in noise that a window spans."""
    count = len(places_cents)
    together = round(0.5 * CONTOUR.window_periods / HZ / CONTOUR.hop_s)
    own = rng.normal(0.0, noise_cents, (FRAMES // together + 1, count))
    cents = places_cents + np.repeat(own, together, axis=0)[:FRAMES]
    if not first_heard:
        cents[:, 0] = np.nan
    mean = np.nanmean(cents, axis=1)
    whole = np.full((FRAMES, max(count, CONTOUR.n_partials)), np.nan, np.float32)
    sigma = whole.copy()
    whole[:, :count] = cents - mean[:, None]
    sigma[:, :count] = noise_cents
    time_s = np.arange(FRAMES) * CONTOUR.hop_s
    flat = np.ones(FRAMES)
    return Contour(time_s, HZ * 2.0 ** (mean / 1200.0), flat * noise_cents, flat, -20.0 * flat, whole, sigma)


def read_cents(contour) -> float:
    return float(np.median(1200.0 * np.log2(without_stiffness(contour, [NOTE]).f0_hz / HZ)))


@pytest.mark.parametrize(("of_string", "of_room"), [(0.02, 0.0), (0.2, 0.0), (0.1, 0.8)])
@pytest.mark.parametrize("first_heard", [True, False])
@pytest.mark.parametrize("partials", [CONTOUR.n_partials, WARPED.n_partials])
def test_the_stated_error_covers_the_first_partial_nineteen_times_of_twenty(of_string, of_room, first_heard, partials):
    rng = np.random.default_rng(5)
    number = np.arange(1, partials + 1)
    within = []
    for _ in range(300):
        places = 0.04 * (number**2 - 1.0) + rng.normal(0.0, of_string, len(number))
        contour = played(places + rng.normal(0.0, of_room, len(number)), 0.15, rng, first_heard)
        within.append(abs(read_cents(contour) - places[0]) <= 2.0 * first_partial(contour, ALL).sd_cents)
    assert 0.9 < np.mean(within) <= 0.995


def test_a_first_partial_that_is_heard_well_counts_by_itself_and_a_faint_one_hardly():
    rng = np.random.default_rng(1)
    places = np.array([0.0, 0.25, -0.2, 0.15, 0.3, -0.25, 0.1, 0.2])
    well, faint = played(places, 0.05, rng), played(places, 3.0, rng)
    assert first_partial(well, ALL).own_share > 0.9
    assert first_partial(faint, ALL).own_share < 0.3
    assert read_cents(well) == pytest.approx(0.0, abs=0.1)


@pytest.mark.parametrize("off_cents", [5.0, -5.0, 2.0])
def test_a_first_partial_that_another_string_pulls_hardly_moves_a_pitch_whose_others_agree(off_cents):
    rng = np.random.default_rng(2)
    number = np.arange(1, 9)
    places = 0.05 * (number**2 - 1.0)
    assert read_cents(played(places, 0.3, rng)) == pytest.approx(0.0, abs=0.25)
    pulled = played(places + np.where(number == 1, off_cents, 0.0), 0.3, rng)
    # Its share in the line itself, and no more.
    assert abs(read_cents(pulled)) < 0.45 * abs(off_cents)
    assert first_partial(pulled, ALL).own_share < 0.05


def test_few_partials_say_little():
    rng = np.random.default_rng(3)
    contour = played(np.array([0.0, 0.1]), 0.2, rng)
    assert first_partial(contour, ALL).sd_cents == NOTES.few_partials_sd_cents
    assert first_partial(contour, ALL).own_share == 0.0
    assert read_cents(contour) == pytest.approx(0.05, abs=0.1)


def test_a_note_of_fewer_than_a_dozen_frames_is_left_as_it_is():
    rng = np.random.default_rng(4)
    contour = played(0.2 * (np.arange(1, 7) ** 2 - 1.0), 0.05, rng)
    short = HeardNote(0.0, 0.05, 57.0, 57.0, 57.0, -20.0, "attack", 0.05)
    assert np.array_equal(without_stiffness(contour, [short]).f0_hz, contour.f0_hz)

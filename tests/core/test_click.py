"""The click of an upload: found on its own channel or with the guitar, and not found where there is none."""

import numpy as np
import pytest
from fortimetra.align.click import audible_click, click_in_channel
from fortimetra.drills.fretted_then_bend import fretted_then_bend
from fortimetra.drills.generator import generate
from fortimetra.drills.library import GENERATORS
from fortimetra.hear.onsets import find_onsets
from fortimetra.model.context import Click
from fortimetra.player.faults import Faults
from fortimetra.sound.decode import Take

from tests.kept import analyse, render

RATE = 48_000
FIRST_S = 5.0
BPM = 66.0
SPB = 60.0 / BPM


def clicks(seconds, *, level=0.5, hz=1175.0, accent_hz=1760.0, per_bar=4, count_in=4, ppm=0.0, bpm=BPM):
    """Sine bursts from the count-in on, as many metronomes make them."""
    sound = np.zeros(round(seconds * RATE), dtype=np.float64)
    spb = 60.0 / bpm * (1.0 + ppm * 1e-6)
    time = np.arange(round(0.03 * RATE)) / RATE
    for beat in range(-count_in, int((seconds - FIRST_S) / spb)):
        start = round((FIRST_S + beat * spb) * RATE)
        burst = level * np.sin(2 * np.pi * (accent_hz if beat % per_bar == 0 else hz) * time) * np.exp(-time / 0.006)
        part = sound[start : start + len(burst)]
        part += burst[: len(part)]
    return sound


@pytest.fixture(scope="module")
def played():
    drill = fretted_then_bend(title="t", string=3, fret=7, repeats=4, bpm=BPM)
    sound, truth = render(drill, Faults(lead_in_s=FIRST_S, peak_dbfs=-9, random_ms=12.0))
    return drill, sound.astype(np.float64), truth


def take(*channels) -> Take:
    from tests.core.sounds import take as made

    found = made(np.asarray(channels[0], dtype=np.float32))
    return found if len(channels) == 1 else Take(**{**vars(found), "samples": np.stack(channels).astype(np.float32)})


@pytest.mark.parametrize("channel", [0, 1])
def test_a_click_on_its_own_channel_gives_the_grid(played, channel):
    drill, sound, _truth = played
    both = [clicks(len(sound) / RATE), sound]
    found = analyse(take(*(both if channel == 0 else both[::-1])), drill=drill)
    grid = found.reference.grid
    assert grid.source == "channel"
    assert grid.first_beat_s == pytest.approx(FIRST_S, abs=0.001)
    assert grid.bpm == pytest.approx(BPM, abs=0.01)
    assert found.extras == ()
    assert all(n.status == "played" for n in found.notes)


@pytest.mark.parametrize("level", [0.5, 0.1, 0.04])
def test_a_click_heard_with_the_guitar_gives_the_grid(played, level):
    drill, sound, truth = played
    found = analyse(take(sound + clicks(len(sound) / RATE, level=level)), drill=drill)
    grid = found.reference.grid
    assert grid.source == "audible"
    assert grid.first_beat_s == pytest.approx(FIRST_S, abs=0.002)
    assert grid.bpm == pytest.approx(BPM, abs=0.05)
    late = [n.onset_s - truth.first_beat_s for n in truth.notes if n.id == "target" and n.repeat == 0]
    note = next(n for n in found.notes if n.id == "target" and n.repeat == 0)
    if note.onset_s is not None:
        assert note.onset_s - grid.first_beat_s == pytest.approx(late[0], abs=0.01)


def test_another_clock_and_another_tempo_are_followed(played):
    _drill, sound, _truth = played
    mixed = (sound + clicks(len(sound) / RATE, level=0.3, ppm=120.0, bpm=BPM * 1.02)).astype(np.float32)
    found = audible_click(mixed, find_onsets(mixed, rate_hz=RATE), rate_hz=RATE, seconds_per_beat=SPB)
    assert found is not None
    assert found.seconds_per_beat == pytest.approx(SPB / 1.02 * (1 + 120e-6), rel=2e-5)


@pytest.mark.parametrize(
    "family", ["alternate_picking", "fastest_run", "finger_pairs", "fretted_then_bend", "stop_and_rest"]
)
def test_a_guitar_on_every_beat_is_no_click(family):
    drill = generate(GENERATORS[family], {"bpm": "80"})
    sound, _ = render(drill, Faults(lead_in_s=1.0))
    onsets = find_onsets(sound, rate_hz=RATE)
    assert audible_click(sound, onsets, rate_hz=RATE, seconds_per_beat=drill.seconds_per_beat) is None
    assert click_in_channel(np.stack([sound, sound]), rate_hz=RATE, seconds_per_beat=drill.seconds_per_beat) is None


def test_a_quiet_second_channel_is_no_click(played):
    _drill, sound, _truth = played
    rng = np.random.default_rng(1)
    for other in (0.001 * rng.standard_normal(len(sound)), 0.1 * sound, np.zeros(len(sound))):
        both = np.stack([sound, other]).astype(np.float32)
        assert click_in_channel(both, rate_hz=RATE, seconds_per_beat=SPB) is None


def test_a_click_that_is_told_counts_before_one_that_is_heard(played):
    drill, sound, _truth = played
    told = Click(
        format="fortimetra-click", version=1, source="recorder", bpm=BPM, first_beat_s=FIRST_S, latency_ms=30.0
    )
    mixed = take(sound + clicks(len(sound) / RATE, level=0.3))
    assert analyse(mixed, drill=drill, click=told).reference.grid.source == "recorder"
    none = told.model_copy(update={"source": "none", "first_beat_s": None})
    assert analyse(mixed, drill=drill, click=none).reference.grid.source == "fitted"

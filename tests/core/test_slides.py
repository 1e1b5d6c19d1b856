"""Slides: in time where they arrive, in tune there, alive; and rates of a vibrato that follow the click."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from fortimetra import Click
from fortimetra.align.match import Match, asked_events
from fortimetra.drills.generator import generate
from fortimetra.drills.library import GENERATORS, library
from fortimetra.hear.contour import Contour
from fortimetra.hear.notes import HeardNote
from fortimetra.hear.settings import CONTOUR
from fortimetra.measure.slide import _shapes, follow
from fortimetra.measure.vibrato import VibratoMeasured, path_of
from fortimetra.player.faults import Faults, NoteFault

from tests.core.sounds import take as recorded
from tests.kept import analyse, render


def contour_of(hz, level_dbfs=-20.0):
    n = len(hz)
    flat = np.full(n, 0.1)
    level = np.broadcast_to(np.asarray(level_dbfs, dtype=float), (n,)).copy()
    return Contour(
        np.arange(n) * CONTOUR.hop_s, np.asarray(hz, dtype=float), flat, flat + 0.8, level,
        np.full((n, CONTOUR.n_partials), np.nan, np.float32), np.full((n, CONTOUR.n_partials), np.nan, np.float32),
    )  # fmt: skip


def way(from_hz, to_hz, *, leaves_s, arrives_s, seconds=1.0, steps=None):
    """A contour that goes from one pitch to another along a straight line in cents, or in steps."""
    time = np.arange(round(seconds / CONTOUR.hop_s)) * CONTOUR.hop_s
    share = np.clip((time - leaves_s) / (arrives_s - leaves_s), 0.0, 1.0)
    if steps:
        share = np.floor(share * steps + 1e-9) / steps
    return from_hz * (to_hz / from_hz) ** share


@pytest.mark.parametrize(("from_hz", "to_hz"), [(220.0, 246.94), (246.94, 220.0), (196.0, 293.66)])
def test_a_straight_slide_is_read_between_a_tenth_and_the_end_of_its_way(from_hz, to_hz):
    contour = contour_of(way(from_hz, to_hz, leaves_s=0.3, arrives_s=0.5))
    read = follow(contour, from_hz=from_hz, to_hz=to_hz, between_s=(0.0, 1.0), near_s=0.4)
    assert read is not None
    assert read.leaves_s == pytest.approx(0.32, abs=CONTOUR.hop_s)
    # At 98 hundredths of the way, good to half of what lies between that and nine tenths (0.48 s).
    assert read.arrives_s == pytest.approx(0.496, abs=CONTOUR.hop_s)
    assert read.u_arrives_ms > 1000.0 * 0.5 * (0.496 - 0.48)
    assert read.level_change_db == pytest.approx(0.0, abs=0.01)


@pytest.mark.parametrize("frets", [2, 4, 7])
def test_fret_by_fret_it_arrives_with_the_last_fret(frets):
    to_hz = 220.0 * 2.0 ** (frets / 12.0)
    contour = contour_of(way(220.0, to_hz, leaves_s=0.2, arrives_s=0.5, steps=frets))
    read = follow(contour, from_hz=220.0, to_hz=to_hz, between_s=(0.0, 1.0), near_s=0.45)
    assert read is not None
    assert read.arrives_s == pytest.approx(0.5, abs=2 * CONTOUR.hop_s)


# -- several strings ------------------------------------------------------------------------------------------

RATE_HZ = 12_000
SHAPE = next(b.drill for b in library() if b.drill.title.startswith("Tar and twine, in A"))


def two_strings(leaves_s, travel_s, *, seconds=1.2):
    """Fret 6 of string 3 and fret 5 of string 2, slid on together to fret 7 of both; sinusoids of falling partials."""
    time = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
    share = np.clip((time - leaves_s) / travel_s, 0.0, 1.0)
    total = np.zeros(len(time))
    for low, high in ((61, 62), (64, 66)):
        hz = 440.0 * 2.0 ** ((low + (high - low) * share - 69.0) / 12.0)
        phase = 2.0 * np.pi * np.cumsum(hz) / RATE_HZ
        total += sum(np.sin(k * phase + k) / k for k in range(1, 9))
    return (0.1 * total * np.exp(-time)).astype(np.float32)


@pytest.mark.parametrize("tube", [True, False])
@pytest.mark.parametrize("travel_s", [0.02, 0.06, 0.1, 0.15])
def test_a_shape_of_two_strings_arrives_as_both_new_pitches_have_come(travel_s, tube):
    # Over frets in a step at the end of the way, under a tube along it.
    sound = two_strings(0.5, travel_s) if tube else two_strings(0.5 + travel_s - 0.002, 0.002)
    first, second = asked_events(SHAPE)[:2]
    if tube:
        lead = second.notes[0]
        second = replace(second, notes=(replace(lead, note=lead.note.model_copy(update={"finger": "slide"})),))
        second = replace(second, notes=(*second.notes, *asked_events(SHAPE)[1].notes[1:]))
    notes = tuple(HeardNote(at, until, 61.0, 61.0, 61.0, -20.0, "step") for at, until in ((0.0, 0.5), (0.52, 1.2)))
    heard = Match((first, second), notes, (), 0.0)
    (read,) = _shapes(sound, heard, SHAPE.seconds_per_beat, rate_hz=RATE_HZ).values()
    assert abs(read.arrives_s - (0.5 + travel_s)) * 1000.0 < read.u_arrives_ms < 40.0
    held = two_strings(5.0, travel_s)
    assert _shapes(held, heard, SHAPE.seconds_per_beat, rate_hz=RATE_HZ) == {}


def test_a_slide_that_is_let_go_loses_its_level():
    hz = way(220.0, 246.94, leaves_s=0.3, arrives_s=0.5)
    time = np.arange(len(hz)) * CONTOUR.hop_s
    contour = contour_of(hz, np.where(time < 0.4, -20.0, -40.0))
    read = follow(contour, from_hz=220.0, to_hz=246.94, between_s=(0.0, 1.0), near_s=0.4)
    assert read is not None
    assert read.level_change_db == pytest.approx(-20.0)


@pytest.mark.parametrize(
    "hz", [np.full(200, 220.0), np.full(200, np.nan), way(220.0, 233.08, leaves_s=0.3, arrives_s=0.5)]
)
def test_what_does_not_come_near_the_pitch_is_not_followed(hz):
    assert follow(contour_of(hz), from_hz=220.0, to_hz=261.63, between_s=(0.0, 1.0), near_s=0.4) is None


def take(name, faults=None, **values):
    drill = generate(GENERATORS[name], {k: str(v) for k, v in values.items()}).model_copy(update={"repeats": 1})
    sound, truth = render(drill, faults or Faults())
    click = Click(format="fortimetra-click", version=1, source="recorder", bpm=truth.bpm,
                  first_beat_s=truth.first_beat_s, beats_per_bar=4, latency_ms=0.0, channel=None)  # fmt: skip
    return analyse(recorded(sound), drill=drill, click=click)


def test_a_slide_is_in_time_where_it_arrives_and_a_late_one_is_late():
    clean = take("slides", frets="5 9", length=2, times=2)
    slid = [n for n in clean.notes if n.slide is not None]
    assert len(slid) == 2
    assert all(n.clean == "inside" for n in slid)
    assert all(abs(n.timing.error_ms) <= n.timing.u for n in slid)
    late = take("slides", Faults(notes={"e2": NoteFault(late_ms=45.0)}), frets="5 9", length=2, times=2)
    note = next(n for n in late.notes if n.id == "e2")
    assert note.timing.error_ms == pytest.approx(45.0, abs=note.timing.u)
    assert note.timing.verdict != "inside"


def test_a_note_slid_into_is_in_tune_after_the_way_and_not_on_it():
    notes = take("slide_into", count=3, length=2).notes
    assert [n.pitch.verdict for n in notes] == ["inside"] * 3
    assert all(n.slide.travel_ms is not None for n in notes)
    flat = take("slide_into", Faults(notes={"e2": NoteFault(cents=-30.0)}), count=3, length=2).notes
    assert [n.pitch.verdict for n in flat] == ["inside", "outside", "inside"]


def test_a_vibrato_follows_the_click_or_does_not():
    clean = take("vibrato_click", cycles="one and two", free="no")
    assert [n.vibrato.verdict for n in clean.notes] == ["inside", "inside"]
    hurried = take(
        "vibrato_click", Faults(notes={"e2": NoteFault(vibrato_rate_hz=3.0)}), cycles="one and two", free="no"
    )
    assert [n.vibrato.verdict for n in hurried.notes] == ["inside", "outside"]


def test_a_path_of_rates_is_read_in_equal_shares_of_the_note():
    edges = np.concatenate([np.arange(0.0, 2.0, 0.5), np.arange(2.0, 4.01, 0.25)])
    found = VibratoMeasured(12, region=(0.0, 4.0), edges_s=tuple(edges))
    rates = path_of(found, 2, (0.0, 4.0))
    assert [r for r, _ in rates] == pytest.approx([2.0, 4.0])
    assert path_of(found, 2, (8.0, 12.0)) == ((None, None), (None, None))


@pytest.mark.parametrize(("arrives", "judged"), [(2.0, "inside"), (0.2, "outside")])
def test_a_bend_may_be_asked_to_arrive_in_time(arrives, judged):
    notes = take("fretted_then_bend", Faults(notes={"e3": NoteFault(rise_ms=300.0)}), arrives=arrives).notes
    bend = next(n.bend for n in notes if n.bend)
    assert bend.verdict == judged
    assert bend.arrives_ms > 300.0

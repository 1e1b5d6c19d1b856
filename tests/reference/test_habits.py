"""Habits of a hand on another maker's guitars (FluidSynth), by the benchmark's own players: a fitting cause is named,
and none for the clean take of the same drill. What fits is common practice, no source.
"""

from __future__ import annotations

import tempfile
import zlib
from pathlib import Path

import numpy as np
import pytest

from benchmarks import _habits, _players
from benchmarks._chains import straight
from benchmarks._habits import HABITS
from benchmarks._lines import guitars
from benchmarks._players import clean_steps, play_steps
from benchmarks.causes import drill_of
from benchmarks.takes import judged, sound_of
from tests.kept import value

BY_NAME = {h.name: h for h in HABITS}
# What is kept of earlier runs holds as long as the players are the same.
PLAYERS = tuple(zlib.crc32(Path(m.__file__).read_bytes()) for m in (_habits, _players))
NAMES = (
    "pre-bends flat", "holds waver", "bends die", "vibrato too narrow", "late after string changes", "slurs hurry",
    "sixteenths as triplets", "a fret beside", "always the same note", "middle pressed under the slide",
    "high strings barred", "one string of the shape missing", "stops late", "worse at the end",
)  # fmt: skip


def take(name: str, guitar: str, *, clean: bool):
    habit = BY_NAME[name]
    drill = drill_of(habit.drill)

    def make():
        rng = np.random.default_rng([3, zlib.crc32(habit.name.encode())])
        steps = clean_steps(drill)
        made = play_steps(drill, steps if clean else habit.change(drill, steps, rng), rng)
        with tempfile.TemporaryDirectory() as folder:
            (player,) = guitars(Path(folder), [guitar])
            return judged(straight(sound_of(player, made, Path(folder)), rng), drill, Path(folder))

    return value("habits", (habit.name, guitar, clean, PLAYERS), make)


@pytest.mark.parametrize("guitar", ["clean", "steel"])
@pytest.mark.parametrize("name", NAMES)
def test_a_habit_is_named(name, guitar):
    found = take(name, guitar, clean=False)
    assert {c.code for c in found.causes} & BY_NAME[name].fits, [(c.code, c.evidence) for c in found.causes]


@pytest.mark.parametrize("name", NAMES[::2])
def test_a_clean_take_of_the_same_drill_has_no_cause(name):
    assert take(name, "clean", clean=True).causes == ()


def test_a_flat_pre_bend_is_a_note_between_two_frets():
    found = take("pre-bends flat", "clean", clean=False)
    assert {n.status for n in found.notes} == {"played"}
    bends = [n.bend for n in found.notes if n.bend is not None]
    assert all(b.error_cents is not None and -40.0 < b.error_cents < -28.0 for b in bends)


def test_pressed_strings_are_named_with_their_fret():
    found = take("middle pressed under the slide", "clean", clean=False)
    pressed = [e for e in found.noise_events if e.kind == "pressed"]
    assert pressed
    assert {e.string for e in pressed} == {2}
    assert all(e.fret for e in pressed)
    assert "other_sounds" not in found.take.warnings

"""Strings that ring at stated levels under the notes of whole drills: how many are found, and on which string.

A level is the ring's power over that of what is meant to sound, both as the guitar plays them alone. A string an octave
or a twelfth over a sounding one is covered: each of its partials is the other's, too; those are counted apart.
"""

from __future__ import annotations

import tempfile
import zlib
from collections.abc import Iterable
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from fortimetra import Drill, TakeError

from benchmarks._lines import Guitar
from benchmarks._players import Also, Step, clean_steps, play_steps
from benchmarks._readings import alone
from benchmarks.takes import drill_of, guitar_in, judged_through

LEVELS_DB = (-10.0, -15.0, -20.0, -25.0, -30.0)
DRILLS = (
    "Scale over quiet low strings: G major, position 7",
    "Double stops: sixths on 3 and 1, A major, from fret 2",
    "Long note without and with damping: string 4, fret 7",
    "Finger pairs 1-2: string 3, position 5",
)
EVERY = 3
# Semitones from a pitch to those whose partials are all its own: twice to eight times its frequency.
OVERTONES = (12, 19, 24, 28, 31, 36)


@dataclass(frozen=True)
class RingCase:
    """One take with a string ringing under every third note."""

    title: str
    chain: str
    guitar: str
    level_db: float


@dataclass(frozen=True)
class Rung:
    """rung: strings that rang; said: of those, the strings that were found at the time, () where none was; covered:
    of those, whether what was meant to sound has all of their partials; false: rings found where none was.
    """

    case: RingCase
    rung: tuple[int, ...]
    said: tuple[tuple[int, ...], ...]
    covered: tuple[bool, ...]
    false: int
    minutes: float

    def pairs(self, *, covered: bool = False) -> list[tuple[int, tuple[int, ...]]]:
        """Strings that rang, covered or not, each with what was said."""
        told = zip(self.rung, self.said, self.covered, strict=True)
        return [(string, said) for string, said, hidden in told if hidden is covered]


def ring_cases(chains: tuple[str, ...], names: tuple[str, ...]) -> list[RingCase]:
    """Every drill at every level on every chain; guitars in turn."""
    return [
        RingCase(title, chain, names[(i + j) % len(names)], level)
        for i, title in enumerate(DRILLS)
        for j, level in enumerate(LEVELS_DB)
        for chain in chains
    ]


def rung(case: RingCase) -> Rung | None:
    """What was found of one take; None where it was refused."""
    drill = drill_of(case.title)
    rng = np.random.default_rng([zlib.crc32(case.title.encode()), int(-case.level_db)])
    with tempfile.TemporaryDirectory() as name:
        guitar = guitar_in(Path(name), case.guitar)
        made_of, rings, covered = _with_rings(case, drill, guitar, rng)
    made = play_steps(drill, made_of, rng)
    try:
        found = judged_through(case.guitar, made, drill, case.chain, rng)
    except TakeError:
        return None
    events = [e for e in found.noise_events if e.kind in {"open_ring", "pressed", "bleed", "after_stop"}]
    said = tuple(
        tuple(sorted({e.string or 0 for e in events if e.from_s < end_s and e.to_s > from_s + 0.03}))
        for _, from_s, end_s in rings
    )
    free_of = [e for e in events if not any(e.from_s < end_s + 0.3 and e.to_s > from_s for _, from_s, end_s in rings)]
    false = sum(e.verdict == "outside" for e in free_of)
    return Rung(case, tuple(s for s, _, _ in rings), said, tuple(covered), false, made.seconds / 60.0)


def _with_rings(
    case: RingCase, drill: Drill, guitar: Guitar, rng: np.random.Generator
) -> tuple[list[Step], list[tuple[int, float, float]], list[bool]]:
    """The steps, under every third a string that rings; which and from when to when, and whether it is covered."""
    made_of: list[Step] = []
    rings: list[tuple[int, float, float]] = []
    covered: list[bool] = []
    for number, step in enumerate(clean_steps(drill)):
        used = {n.string for n in step.event.notes}
        sounding = {round(drill.midi(n)) for n in step.event.notes if n.fret is not None and not n.muted}
        free = [s for s in range(1, 7) if s not in used and round(drill.open_midi(s)) not in sounding]
        if sounding and number % EVERY == 1 and free and step.seconds > 0.2:
            string = int(rng.choice(free))
            rings.append((string, step.at_s + 0.01, step.at_s + step.seconds))
            key = round(drill.open_midi(string))
            covered.append(any(key - other in OVERTONES for other in sounding))
            # Velocities mean the same level of no two keys.
            level_db = case.level_db + _together_db(guitar, sounding) - alone(guitar, key)[1]
            step = replace(step, also=(Also(string, 0, 0.01, 0.95 * step.seconds, level_db),))
        made_of.append(step)
    return made_of, rings, covered


def _together_db(guitar: Guitar, keys: Iterable[int]) -> float:
    """The level of keys struck together, as each is alone."""
    return float(10.0 * np.log10(sum(10.0 ** (alone(guitar, key)[1] / 10.0) for key in keys)))

"""Strings that ring at stated levels under the notes of whole drills: how many are found, and on which string."""

from __future__ import annotations

import zlib
from dataclasses import dataclass, replace

import numpy as np
from fortimetra import TakeError

from benchmarks._players import Also, clean_steps, play_steps
from benchmarks.takes import drill_of, judged_through

LEVELS_DB = (-8.0, -14.0, -20.0, -26.0, -32.0)
DRILLS = (
    "Scale over quiet low strings: G major, position 7",
    "Double stops: sixths on 3 and 1, A major, from fret 2",
    "Long note without and with damping: string 4, fret 7",
    "Finger pairs 1-2: string 3, position 5",
)
EVERY = 3


@dataclass(frozen=True)
class RingCase:
    """One take with a string ringing under every third note."""

    title: str
    chain: str
    guitar: str
    level_db: float


@dataclass(frozen=True)
class Rung:
    """rung: strings that rang; said: of those, the strings that were found at the time, () where none was; false:
    rings found where none was.
    """

    case: RingCase
    rung: tuple[int, ...]
    said: tuple[tuple[int, ...], ...]
    false: int
    minutes: float


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
    made_of, rings = [], []
    for number, step in enumerate(clean_steps(drill)):
        used = {n.string for n in step.event.notes}
        sounding = {round(drill.midi(n)) for n in step.event.notes if n.fret is not None and not n.muted}
        free = [s for s in range(1, 7) if s not in used and round(drill.open_midi(s)) not in sounding]
        if step.event.notes and number % EVERY == 1 and free and step.seconds > 0.2:
            string = int(rng.choice(free))
            rings.append((string, step.at_s + 0.01, step.at_s + step.seconds))
            step = replace(step, also=(Also(string, 0, 0.01, 0.95 * step.seconds, case.level_db),))
        made_of.append(step)
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
    return Rung(case, tuple(s for s, _, _ in rings), said, false, made.seconds / 60.0)

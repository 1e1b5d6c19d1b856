"""The simulated student's vibrato: cycle by cycle, from its return line, as even as the faults let it be."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fortimetra.model.drill import AskedNote
from fortimetra.model.hand import VibratoAsked
from fortimetra.player.faults import NoteFault
from fortimetra.units import FloatArray

# What is played where the drill does not say (common practice, no source).
RATE_HZ = 5.0
EXTENT_CENTS = 40.0
STARTS_S = 0.3
LONGEST_WAIT_SHARE = 0.25


@dataclass(frozen=True)
class Vibrato:
    """edges_s: where cycles begin and end, after the onset. extents_cents: peak to peak, one per cycle.

    low: the share of the extent that lies under the return line (bottom 0, centre 0.5, top 1).
    """

    edges_s: FloatArray
    extents_cents: FloatArray
    low: float
    return_cents: float

    def cents(self, time: FloatArray) -> FloatArray:
        """Above the note's own pitch at times after its onset."""
        cycle = np.clip(np.searchsorted(self.edges_s, time, side="right") - 1, 0, len(self.extents_cents) - 1)
        start, end = self.edges_s[cycle], self.edges_s[cycle + 1]
        phase = np.clip((time - start) / (end - start), 0.0, 1.0)
        up = 0.5 - 0.5 * np.cos(2.0 * np.pi * phase)
        swing = np.where(self.low == 0.5, np.sin(2.0 * np.pi * phase) / 2.0, up * (1.0 if self.low == 0 else -1.0))
        settled = np.clip((time - self.edges_s[0]) / (self.edges_s[1] - self.edges_s[0]), 0.0, 1.0)
        return np.asarray(
            np.where(time < self.edges_s[0], 0.0, self.extents_cents[cycle] * swing + self.return_cents * settled)
        )


def vibrato_of(
    asked: AskedNote, fault: NoteFault, seconds: float, rng: np.random.Generator, *, seconds_per_beat: float = 1.0
) -> Vibrato | None:
    """The vibrato of a note that is asked to have one (of a chord, its first note)."""
    wanted = asked.event.vibrato
    if wanted is None or asked.index > 0:
        return None
    rates, usual = _rates(wanted, seconds_per_beat)
    rate = fault.vibrato_rate_hz or usual
    extent = _extent(wanted) if fault.vibrato_extent_cents is None else fault.vibrato_extent_cents
    starts = min(STARTS_S, LONGEST_WAIT_SHARE * seconds)
    if asked.bend is not None and asked.event.articulation != "repluck":
        starts += fault.rise_ms / 1000.0 * 1.7
    # A path of rates: as many cycles of each as fill its share of the note.
    path = (
        np.concatenate([np.full(max(1, round((seconds - starts) / len(rates) * r)), r) for r in rates * rate / usual])
        if len(rates) > 1
        else None
    )
    count = max(1, int((seconds - starts) * rate)) if path is None else len(path)
    # Drawn for every vibrato, so that the same seed gives the same take with and without unevenness elsewhere.
    uneven = rng.normal(0.0, 1.0, (2, count))
    lengths = np.maximum(0.3, 1.0 + fault.vibrato_rate_cv * uneven[0]) / (rate if path is None else path)
    extents = np.maximum(0.0, 1.0 + fault.vibrato_extent_cv * uneven[1]) * extent
    low = {"bottom": 0.0, "centre": 0.5, "top": 1.0}[wanted.return_line]
    return Vibrato(starts + np.concatenate([[0.0], np.cumsum(lengths)]), extents, low, fault.vibrato_return_cents)


def _rates(wanted: VibratoAsked, seconds_per_beat: float) -> tuple[FloatArray, float]:
    """The rates asked for by the click, Hz, shape (n_rates,); and the rate it has on the whole."""
    cycles = wanted.cycles_per_beat
    rates = np.array(cycles if isinstance(cycles, tuple) else (cycles,) if cycles else ()) / seconds_per_beat
    if len(rates):
        return rates, float(np.mean(rates))
    return rates, sum(wanted.rate_hz) / 2.0 if wanted.rate_hz else RATE_HZ


def _extent(wanted: VibratoAsked) -> float:
    return sum(wanted.extent_cents) / 2.0 if wanted.extent_cents else EXTENT_CENTS

"""Notes struck together: how far apart their strings begin.

Method: the level of each note in the partials it shares with none of the others, through a moving Hann window. At the
instant a string begins the window holds half of what it will hold, whatever its level; the spread is from the first
string to the last.
"""

from __future__ import annotations

import numpy as np

from fortimetra.align.match import Match
from fortimetra.hear.partials import powers_at
from fortimetra.measure.settings import TOGETHER
from fortimetra.sound.decode import resampled
from fortimetra.sound.samples import Samples
from fortimetra.units import midi_to_hz


def together_ms(mono: Samples, match: Match, *, rate_hz: int) -> float | None:
    """Median over a take's chords and double stops of the time from their first string to their last, ms.

    mono: float32, shape (n_samples,). None where fewer than TOGETHER.least_events can be told.
    """
    chords = [
        (event, note)
        for event, note in zip(match.events, match.heard, strict=True)
        if note is not None
        and sum(not asked.note.muted for asked in event.notes) > 1
        and all(asked.bend is None for asked in event.notes)
    ]
    if len(chords) < TOGETHER.least_events:
        return None
    rate = min(TOGETHER.rate_hz, rate_hz)
    sound = resampled(mono, from_hz=rate_hz, to_hz=rate)
    shift = match.offset_cents / 100.0
    spreads = []
    for event, note in chords:
        hz = [midi_to_hz(asked.midi + shift) for asked in event.notes if not asked.note.muted]
        spread = spread_ms(sound, hz, note.onset_s, rate_hz=rate)
        if spread is not None:
            spreads.append(spread)
    return round(float(np.median(spreads)), 1) if len(spreads) >= TOGETHER.least_events else None


def spread_ms(sound: Samples, hz: list[float], onset_s: float, *, rate_hz: int) -> float | None:
    """From the first of some pitches to the last, about an onset, ms; None where one of them cannot be told. sound:
    float32, shape (n_samples,).
    """
    begins = [_begins_s(sound, own, [h for h in hz if h != own], onset_s, rate_hz=rate_hz) for own in dict.fromkeys(hz)]
    known = [t for t in begins if t is not None]
    return 1000.0 * (max(known) - min(known)) if len(known) == len(begins) > 1 else None


def _begins_s(sound: Samples, own_hz: float, others_hz: list[float], onset_s: float, *, rate_hz: int) -> float | None:
    """When a pitch begins, by the partials that are its alone."""
    own = np.arange(1, int(TOGETHER.highest_hz / own_hz) + 1) * own_hz
    others = np.concatenate([np.arange(1, int(2 * TOGETHER.highest_hz / h) + 1) * h for h in others_hz])
    alone = own[np.min(np.abs(own[:, None] - others[None, :]), axis=1) > TOGETHER.apart / TOGETHER.window_s][
        : TOGETHER.most_partials
    ]
    length = round(TOGETHER.window_s * rate_hz)
    middles = np.arange(onset_s - TOGETHER.before_s, onset_s + TOGETHER.after_s, TOGETHER.hop_s)
    starts = np.round(middles * rate_hz).astype(np.int64) - length // 2
    if not len(alone) or starts[0] < 0 or starts[-1] + length > len(sound):
        return None
    level = np.sqrt(powers_at(sound, starts, length, alone, rate_hz=rate_hz).sum(axis=1))
    top = int(np.argmax(level))
    before = float(level[: max(1, round((TOGETHER.before_s - TOGETHER.window_s) / TOGETHER.hop_s))].mean())
    if 20.0 * np.log10((level[top] + 1e-12) / (before + 1e-12)) < TOGETHER.least_rise_db:
        return None
    half = 0.5 * (float(level[top]) + before)
    under = np.flatnonzero(level[: top + 1] < half)
    if not len(under) or under[-1] + 1 > top:
        return None
    i = int(under[-1])
    return float(middles[i] + TOGETHER.hop_s * (half - level[i]) / (level[i + 1] - level[i]))

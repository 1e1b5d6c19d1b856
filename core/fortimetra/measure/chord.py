"""Notes that sound together: whether each is there, how loud against the others, and its pitch.

Method: each note in the partials it shares with none of the others, in one window after the attack (`hear/combs`).
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fortimetra.align.match import under_slide
from fortimetra.align.pair import whole_guitar
from fortimetra.hear.combs import BIN_HZ, Combs, Mask, Spectra, covered, find, spectra, surroundings
from fortimetra.hear.settings import COMBS
from fortimetra.measure.settings import CHORD
from fortimetra.measure.strings import Part
from fortimetra.medians import robust_sd
from fortimetra.model.drill import Drill
from fortimetra.sound.decode import resampled
from fortimetra.sound.samples import Samples
from fortimetra.units import FloatArray, hz_to_cents

# Lowest orders of what drive makes of two tones, as (m, n) of m·f₁ + n·f₂.
_PRODUCTS = ((-1, 1), (2, -1), (-1, 2), (3, -2), (-2, 3))


@dataclass(frozen=True)
class ChordNote:
    """One note of a chord. level_db: against the whole chord; hz None where no partial of its own could be read;
    present None: cannot be told.
    """

    part: Part
    present: bool | None
    level_db: float | None
    hz: float | None
    u_cents: float | None


@dataclass(frozen=True)
class Balance:
    """How much louder a note is against its chord than its string usually is in the take; u: expanded."""

    db: float
    u: float


def chords_offset_cents(chords: Sequence[Sequence[ChordNote]], drill: Drill) -> float:
    """How far the guitar is out of tune as a whole, as the single notes of its chords say, cents; 0 where they do not.

    The contour follows no note of a chord for certain, so that the search cannot tell. The chords' parts are at their
    nominal pitch. A slide sets the pitch itself, and says nothing of the guitar.
    """
    if under_slide(drill):
        return 0.0
    found = [
        hz_to_cents(n.hz, reference_hz=n.part.hz) for chord in chords for n in chord if n.hz is not None and n.present
    ]
    return float(np.median(found)) if len(found) >= CHORD.least_for_tuning and whole_guitar(found, drill) else 0.0


def chord_notes(mono: Samples, chords: Sequence[Sequence[Part]], *, rate_hz: int) -> tuple[list[list[ChordNote]], bool]:
    """Every note of some chords, each a sequence of the parts that begin together; and whether drive makes tones of
    them. mono: float32, shape (n_samples,).
    """
    if not chords:
        return [], False
    sound = resampled(mono, from_hz=rate_hz, to_hz=COMBS.rate_hz)
    found = []
    products: dict[int, list[float]] = defaultdict(list)
    for chord in chords:
        notes, own = _read(sound, chord)
        found.append(notes)
        for order, product_db in own:
            products[order].append(product_db)
    return found, _are_driven(products)


def _are_driven(products_db: Mapping[int, Sequence[float]]) -> bool:
    """Whether drive makes tones, from their levels by order: one that clips both sides alike makes odd orders only, any
    other even ones, too. Two orders that say so need not be as loud each.
    """
    enough = [levels for levels in products_db.values() if len(levels) >= CHORD.least_products]
    first, second, *_ = sorted((float(np.median(levels)) for levels in enough), reverse=True) + [-np.inf] * 2
    return first > CHORD.driven_db or second > CHORD.driven_twice_db


def _read(sound: Samples, chord: Sequence[Part]) -> tuple[list[ChordNote], list[tuple[int, float]]]:
    start = max(p.from_s for p in chord) + CHORD.from_s
    room = min(p.until_s for p in chord) - start
    length = next((w for w in CHORD.lengths_s if w <= room), CHORD.lengths_s[-1])
    windows = spectra(sound, np.array([start]), length)
    k = np.arange(1, COMBS.harmonics + 1)
    whole = _cover(windows, chord, k)
    around = surroundings(windows, whole)
    total = float((windows.power * whole).sum() / windows.per_line)
    notes = []
    for part in chord:
        others = [p for p in chord if p is not part]
        combs = Combs(
            np.array([part.hz]),
            np.array([CHORD.off_cents]),
            np.array([COMBS.most_stiffness * 4.0 ** (part.fret / 12.0)]),
        )
        seen = find(windows, combs, _cover(windows, others, k), around)
        clear, stands = seen.clear[0, 0], seen.stands[0, 0]
        if clear.sum() < 2:
            notes.append(ChordNote(part, None, None, None, None))
            continue
        level = 10.0 * float(np.log10(max(_filled(seen.power[0, 0], clear, stands), 1e-20) / max(total, 1e-20)))
        present = bool(level > CHORD.absent_db and stands.sum() >= min(2, clear.sum()))
        hz, u = _pitch(windows.power[0], combs, clear & stands) if present else (None, None)
        notes.append(ChordNote(part, present, level if present else None, hz, u))
    return notes, _products(windows, chord, total, whole)


def _cover(windows: Spectra, chord: Sequence[Part], k: NDArray[np.int64]) -> Mask:
    low = np.concatenate([p.hz * k * 2.0 ** (-CHORD.off_cents / 3600.0) for p in chord])
    high = np.concatenate(
        [
            p.hz
            * k
            * np.sqrt(1.0 + 1.5 * COMBS.most_stiffness * 4.0 ** (p.fret / 12.0) * k**2)
            * 2.0 ** (CHORD.off_cents / 3600.0)
            for p in chord
        ]
    )
    return covered(windows, np.zeros(len(low), np.int64), low, high)


def _filled(power: FloatArray, clear: FloatArray, stands: FloatArray) -> float:
    """Power of a comb; its covered partials by their neighbours."""
    log = np.log(np.maximum(power, 1e-20))
    k = np.arange(len(power))
    own = np.flatnonzero(clear)
    between = np.exp(np.interp(k, own, log[own]))
    inside = k <= own[-1]
    return float(np.where(clear, np.where(stands, power, 0.0), np.where(inside, between, 0.0)).sum())


def _pitch(power: FloatArray, combs: Combs, use: FloatArray) -> tuple[float | None, float | None]:
    """The pitch most of the power agrees on, and its expanded uncertainty in cents."""
    first, last = combs.intervals()
    hz, weight = [], []
    for k in np.flatnonzero(use):
        a, b = int(first[0, k]), int(last[0, k])
        at = a + int(np.argmax(power[a : b + 1]))
        if not 0 < at < len(power) - 1:
            continue
        left, middle, right = np.log(np.maximum(power[at - 1 : at + 2].astype(np.float64), 1e-20))
        shift = 0.5 * (left - right) / (left - 2.0 * middle + right) if left - 2.0 * middle + right < 0 else 0.0
        # Half the greatest stiffness, with the other half as its uncertainty.
        stiff = np.sqrt(1.0 + 0.5 * float(combs.stiffness[0]) * (k + 1) ** 2)
        hz.append((at + shift) * BIN_HZ / (k + 1) / stiff)
        weight.append(np.sqrt(power[at]) * (k + 1))
    if not hz:
        return None, None
    values, weights = np.array(hz), np.array(weight)
    mean = float(np.sum(values * weights) / weights.sum())
    cents = 1200.0 * np.log2(values / mean)
    spread = float(np.sqrt(np.sum(weights * cents**2) / weights.sum()))
    return mean, 2.0 * float(
        np.hypot(CHORD.u_cents, spread / np.sqrt(max(1, len(hz) - 1)) if len(hz) > 1 else CHORD.many)
    )


def _products(windows: Spectra, chord: Sequence[Part], total: float, whole: Mask) -> list[tuple[int, float]]:
    """Order and level of the tones that drive would make of the first two notes, where nothing else covers them."""
    if len(chord) < 2 or total <= 0:
        return []
    levels = []
    for m, n in _PRODUCTS:
        hz = abs(m * chord[0].hz + n * chord[1].hz)
        at = round(hz / BIN_HZ)
        if not CHORD.products_hz[0] < hz < CHORD.products_hz[1] or whole[0, max(0, at - 1) : at + 2].any():
            continue
        reach = max(2, round(0.006 * hz / BIN_HZ))
        power = float(windows.power[0, at - reach : at + reach + 1].max())
        levels.append((abs(m) + abs(n), 10.0 * float(np.log10(max(power, 1e-20) / total))))
    return levels


def balances(chords: Sequence[Sequence[ChordNote]]) -> dict[tuple[int, int], Balance]:
    """For (event, string), where enough chords of a kind tell.

    A guitar answers some pitches louder than others, and so does every room: how far a string's usual level differs
    from fret to fret is not the hand's, and is part of the uncertainty.
    """
    usual: dict[tuple[int, int], dict[float, list[float]]] = {}
    for chord in chords:
        for note in chord:
            if note.level_db is not None:
                frets = usual.setdefault((note.part.string, len(chord)), {})
                frets.setdefault(round(note.part.hz, 1), []).append(note.level_db)
    found = {}
    for kind, frets in usual.items():
        levels = np.concatenate([np.array(v) for v in frets.values()])
        if len(levels) < CHORD.many:
            continue
        by_fret = np.array([np.median(v) for v in frets.values()])
        between = robust_sd(by_fret) if len(by_fret) > 2 else float(np.ptp(by_fret)) / 2.0
        found[kind] = float(np.median(levels)), 2.0 * float(np.hypot(CHORD.u_level_db, between))
    return {
        (note.part.event, note.part.string): Balance(note.level_db - found[kind][0], found[kind][1])
        for chord in chords
        for note in chord
        if note.level_db is not None and (kind := (note.part.string, len(chord))) in found
    }

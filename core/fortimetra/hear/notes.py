"""Heard notes: the contour cut at attacks and at steps of pitch."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numba import njit

from fortimetra.hear.contour import Contour
from fortimetra.hear.settings import CONTOUR, NOTES, ONSETS
from fortimetra.medians import finite_median
from fortimetra.units import FloatArray

# In frames of the contour, as compiled functions take them.
_HOLD, _GAP, _STOP, _DIP = (
    round(s / CONTOUR.hop_s) for s in (NOTES.end_hold_s, NOTES.gap_s, NOTES.stop_s, NOTES.dip_s)
)
_EARLY = round(0.03 / CONTOUR.hop_s)


@dataclass(frozen=True)
class HeardNote:
    """One sounding note; midi values are of the take as it sounds (A4 = 440 Hz scale, no tuning offset).

    start_midi: median 30-120 ms after the onset. plain_midi: median 60-250 ms after it (shorter: the middle half).
    main_midi: median of the note's last 60 %. kind: by attack, or by a step of pitch alone. sounds_to_s: until when
    its pitch can be followed, which may be long after end_s, where it is 20 dB under its start. rise_db, contrast_db:
    how clear an attack is (`hear/onsets`); a step of pitch is as clear as can be. onset_u_ms: expanded uncertainty of
    onset_s.
    """

    onset_s: float
    end_s: float
    start_midi: float
    plain_midi: float
    main_midi: float
    level_dbfs: float
    kind: Literal["attack", "step"]
    sounds_to_s: float = 0.0
    rise_db: float = float("inf")
    contrast_db: float = float("inf")
    onset_u_ms: float = NOTES.step_u_ms

    @property
    def followed_to_s(self) -> float:
        """Until when its pitch is read: past the end where the string sounds on."""
        return max(self.end_s, self.sounds_to_s)

    @property
    def clearness(self) -> float:
        """0 to 1: how near its rise comes to that of an attack that needs no drill to be believed."""
        return min(1.0, self.rise_db / ONSETS.rise_db)

    @property
    def strong(self) -> bool:
        """An attack, or a step of pitch, also where nothing is asked."""
        return self.rise_db >= ONSETS.rise_db

    @property
    def hardly_rises(self) -> bool:
        """Whether nothing speaks for it but that a note was looked for there."""
        return self.rise_db < NOTES.alone_rise_db and self.contrast_db < ONSETS.clear_db

    @property
    def stands_alone(self) -> bool:
        """Whether it is a note although nothing asks for it: a rise that is large, or clear beside what sounded before.

        In a driven sound and in a room the bands move by themselves, by a little and without an attack.
        """
        if self.rise_db >= NOTES.alone_firm_rise_db or self.kind == "step":
            return True
        return self.rise_db >= NOTES.alone_rise_db and self.contrast_db >= NOTES.alone_contrast_db


def segment(contour: Contour, onsets_s: FloatArray, *, pitchless: bool = False) -> list[HeardNote]:
    """Notes in order of time; a stretch without a pitch is none, unless pitchless ones are wanted (strings struck
    together). onsets_s: shape (n_onsets,).
    """
    starts = [(float(t), "attack") for t in onsets_s] + [(t, "step") for t in steps(contour, onsets_s)]
    starts.sort()
    notes: list[HeardNote] = []
    for i, (onset, kind) in enumerate(starts):
        limit = starts[i + 1][0] if i + 1 < len(starts) else contour.time_s[-1] + CONTOUR.hop_s
        note = note_from(contour, onset, limit, "attack" if kind == "attack" else "step")
        if note is None and pitchless and kind == "attack":
            note = pitchless_note(contour, onset, limit)
        if note is not None:
            notes.append(note)
    return notes


def pitchless_note(
    contour: Contour, onset: float, limit: float, *, least_s: float = NOTES.min_note_s
) -> HeardNote | None:
    """An attack without one pitch, or too short for it; its midi values are NaN."""
    level = contour.level_dbfs[contour.frames(onset, limit)]
    if len(level) == 0 or limit - onset < least_s:
        return None
    top = float(np.max(level[: max(1, round(0.1 / CONTOUR.hop_s))]))
    end = _end(level, np.zeros(len(level)), top, onset, limit)
    nothing = float("nan")
    return HeardNote(onset, end, nothing, nothing, nothing, top, "attack", end) if end - onset >= least_s else None


def steps(contour: Contour, onsets_s: FloatArray) -> list[float]:
    """Times at which the pitch steps without an attack: slurs. onsets_s: shape (n_onsets,).

    A bend is slower than NOTES.step_s. The pitch must be there all the way, and the level must hold: what is left
    when a note stops (another string, the floor) is no slur.
    """
    reach = round(NOTES.step_reach_s / CONTOUR.hop_s)
    half = max(1, round(NOTES.step_s / 2.0 / CONTOUR.hop_s))
    span = 2 * (reach + half) + 1
    if len(contour.f0_hz) < span + 1:
        return []
    cents = 1200.0 * np.log2(contour.f0_hz)
    above = np.flatnonzero(
        _steep(cents, contour.level_dbfs, reach, span, NOTES.step_cents, NOTES.step_flat_share, NOTES.step_most_fall_db)
    )
    found: list[float] = []
    for group in np.split(above, np.flatnonzero(np.diff(above) > 2) + 1) if len(above) else []:
        middle = int(group[len(group) // 2]) + reach + half
        if _transition_s(cents[middle - reach - half : middle + reach + half + 1]) > NOTES.step_s:
            continue  # a swing of a vibrato, or a quick bend
        time = float(contour.time_s[middle])
        if not len(onsets_s) or np.min(np.abs(onsets_s - time)) >= NOTES.step_from_attack_s:
            found.append(time)
    return found


@njit(cache=True)
def _steep(
    cents: Any, level_db: Any, reach: int, span: int, least_cents: float, flat_share: float, most_fall_db: float
) -> Any:
    """Whether a step lies in the middle of `span` frames, from each frame on; shape (n_frames - span + 1,)."""
    found = np.zeros(len(cents) - span + 1, np.bool_)
    voiced = 0
    for last in range(len(cents)):
        voiced = 0 if np.isnan(cents[last]) else voiced + 1
        # A gap anywhere in the window is no step.
        if voiced < span:
            continue
        i, then = last - span + 1, last - reach + 1
        low, high = _range(cents, i, i + reach)
        later_low, later_high = _range(cents, then, last + 1)
        if max(later_high - low, high - later_low) < least_cents:
            continue
        size = abs(finite_median(cents[then : last + 1]) - finite_median(cents[i : i + reach]))
        # A vibrato or a quick bend moves on either side of its steepest place, too; a slur is flat there.
        flat = max(high - low, later_high - later_low) < flat_share * size
        holds = _range(level_db, then, last + 1)[1] > _range(level_db, i, i + reach)[1] - most_fall_db
        found[i] = flat and holds and size >= least_cents
    return found


@njit(cache=True)
def _range(values: Any, first: int, last: int) -> tuple[float, float]:
    """Least and most of the values from first to before last."""
    low = high = values[first]
    for i in range(first + 1, last):
        low, high = min(low, values[i]), max(high, values[i])
    return low, high


def _transition_s(cents: FloatArray) -> float:
    """Time a step takes from 10 to 90 % of its way."""
    first, last = float(np.median(cents[:3])), float(np.median(cents[-3:]))
    way = (cents - first) / (last - first)
    above_90 = int(np.argmax(way >= NOTES.transition[1]))
    below_10 = np.flatnonzero(way[: above_90 + 1] <= NOTES.transition[0])
    bottom = int(below_10[-1]) if len(below_10) else 0
    part = way[bottom : above_90 + 1]
    low, high = np.interp(NOTES.transition, np.maximum.accumulate(part), np.arange(len(part)))
    return float(high - low) * CONTOUR.hop_s


def plain_window(onset_s: float, end_s: float) -> tuple[float, float]:
    """Where plain pitch is read: 60-250 ms after the attack, of shorter notes the middle half."""
    length = end_s - onset_s
    if length >= NOTES.plain_s[1]:
        return onset_s + NOTES.plain_s[0], onset_s + NOTES.plain_s[1]
    return onset_s + length / 4.0, onset_s + 3.0 * length / 4.0


def note_from(contour: Contour, onset: float, limit: float, kind: Literal["attack", "step"]) -> HeardNote | None:
    """The note from an onset to its end or the limit; None where no pitch is heard for long enough."""
    frames = contour.frames(onset, limit)
    f0 = contour.f0_hz[frames]
    level = contour.level_dbfs[frames]
    if np.count_nonzero(~np.isnan(f0)) * CONTOUR.hop_s < NOTES.min_note_s:
        return None
    top = float(np.max(level[: max(1, round(0.1 / CONTOUR.hop_s))]))
    midi = 69.0 + 12.0 * np.log2(f0 / 440.0)
    end = _end(level, midi, top, onset, limit)
    if end - onset < NOTES.min_note_s:
        return None
    time = contour.time_s[frames]
    a, b = plain_window(onset, end)
    plain = _median_between(midi, time, a, b)
    start = _median_between(midi, time, onset + NOTES.start_s[0], min(end, onset + NOTES.start_s[1]))
    main = _median_between(midi, time, onset + NOTES.main_share * (end - onset), end)
    if np.isnan(plain):
        return None
    return HeardNote(
        onset,
        end,
        plain if np.isnan(start) else start,
        plain,
        plain if np.isnan(main) else main,
        top,
        kind,
        _sounds_to(midi, level, round((end - onset) / CONTOUR.hop_s), onset),
    )


@njit(cache=True)
def _median_between(values: Any, time: Any, from_s: float, to_s: float) -> float:
    """Median of what is a number of values from one time to before another; NaN where there is none."""
    first, last = np.searchsorted(time, from_s), np.searchsorted(time, to_s)
    return float(finite_median(values[first:last])) if last > first else np.nan


def _sounds_to(midi: FloatArray, level: FloatArray, end: int, onset: float) -> float:
    """Until the pitch is gone or jumps, or the level drops as when a string is stopped."""
    return onset + _sounds_frames(midi, level, end, _STOP, _GAP, NOTES.jump_semitones, NOTES.stop_db) * CONTOUR.hop_s


@njit(cache=True)
def _sounds_frames(midi: Any, level: Any, end: int, span: int, gap: int, jump_semitones: float, stop_db: float) -> int:
    """The same in frames from the onset on."""
    n = len(midi)
    if end + span >= n:
        return n
    for i in range(end, n):
        jumps = i > end and abs(midi[i] - midi[i - 1]) > jump_semitones
        stops = level[max(i - span, 0)] - level[i] > stop_db
        if jumps or stops or np.isnan(midi[i : i + gap]).all():
            return i
    return n


def _end(level: FloatArray, midi: FloatArray, top: float, onset: float, limit: float) -> float:
    """First time from which the level stays 20 dB under the note's start for 30 ms, or no pitch comes any more.

    A gap in the pitch alone ends nothing: low strings have no steady one for their first tenth of a second. Nor does a
    dip from which the same pitch comes back, as where two strings beat.
    """
    end = _end_frame(level < top - NOTES.end_drop_db, midi, max(1, _HOLD), _EARLY, _DIP, NOTES.jump_semitones)
    return limit if end < 0 else onset + end * CONTOUR.hop_s


@njit(cache=True)
def _end_frame(gone: Any, midi: Any, hold: int, early: int, dip: int, jump_semitones: float) -> int:
    """The frame of that time, from the onset on; -1 where there is none. gone: whether the level is, written to."""
    n = len(gone)
    gone[:early] = False
    voiced = np.flatnonzero(~np.isnan(midi))
    if len(voiced) and voiced[-1] + hold < n:
        gone[voiced[-1] + 1 :] = True
    end = 0
    while end + hold <= n:
        if not gone[end : end + hold].all():
            end += 1
            continue
        back = _back_frame(midi, gone, end, dip, jump_semitones)
        if back < 0:
            return end
        end = back
    return -1


@njit(cache=True)
def _back_frame(midi: Any, gone: Any, end: int, dip: int, jump_semitones: float) -> int:
    """The last frame at which a pitch that went at `end` is back, soon enough; -1 where it is not."""
    middle = finite_median(midi[max(0, end - dip) : end])
    for i in range(min(len(midi), end + dip) - 1, end - 1, -1):
        if not gone[i] and abs(midi[i] - middle) < jump_semitones:
            return i
    return -1

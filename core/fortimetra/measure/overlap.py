"""How long a note goes on under the next one, where that is on another string and the drill wants it stopped.

Method: the levels of both notes through a moving Hann window, the old one in the partials it does not share with the
new one. A string that is stopped gets softer in all its partials; what the new note adds is added to some: the old
note's course is the median of its partials' courses. The window sees a string for a while after it stops; how long is
known from the window and from how steeply the level falls, and taken out. The stroke of the new note reaches all
partials for some tens of ms, and short overlaps are the less certain for that. How loud the new note is does not say
when a hand let go: where the old one is loud enough beside it, it sounds at least as long as it keeps near its own
level, and that also tells a hand from a room, in which a stopped note falls at once.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from fortimetra.align.match import AskedEvent, Match
from fortimetra.hear.partials import powers_at
from fortimetra.measure.settings import OVERLAP
from fortimetra.model.drill import SLURRED
from fortimetra.sound.decode import resampled
from fortimetra.sound.samples import Samples
from fortimetra.units import FloatArray, midi_to_hz

_GRID = 2048  # places a sample rate's range is looked at
_BESIDE = 2
_GAP = 3  # windows: what falls for no longer than this is a beat


@dataclass(frozen=True)
class Overlap:
    """How long a note goes on under the next, ms, and the expanded uncertainty of that; level_db: how loud it still was
    when the next began, against that one.

    held_ms: how long it keeps to within depth_db of that, at least and at most: a room only makes it longer, and so may
    the stroke of the new note. 0 and infinity where it was too soft to tell.
    """

    ms: float
    u_ms: float
    level_db: float
    held_ms: tuple[float, float] = (0.0, np.inf)

    @property
    def depth_db(self) -> float:
        """By how much a note has to fall to be no longer held, or no longer heard."""
        return min(OVERLAP.held_db, OVERLAP.within_db + self.level_db)


def overlap_wanted(match: Match, index: int) -> bool:
    """Whether the next event is on another string and the drill wants this note stopped by then, and the next one does
    not come to the same pitch: what is heard there is then its own.
    """
    if index + 1 >= len(match.events):
        return False
    now, after = match.events[index], match.events[index + 1]
    event = now.notes[0].event
    single = len(now.notes) == 1 and len(after.notes) == 1
    return (
        single
        and not event.let_ring
        and event.voice == after.notes[0].event.voice
        and after.notes[0].event.articulation not in SLURRED
        and now.notes[0].note.string != after.notes[0].note.string
        and not now.notes[0].note.muted
        and event.bend is None
        and not comes_to(after, now.start_midi)
    )


def comes_to(event: AskedEvent, midi: float) -> bool:
    """Whether an event is, or bends to or over, a pitch."""
    low, high = sorted((event.start_midi, event.main_midi))
    return low - OVERLAP.same_semitones < midi < high + OVERLAP.same_semitones


def note_overlaps(mono: Samples, match: Match, *, rate_hz: int) -> list[Overlap | Literal["hidden"] | None]:
    """Overlap of each event with the next; None where that is not asked about, hidden where it cannot be told.

    mono: float32, shape (n_samples,).
    """
    rate = min(OVERLAP.rate_hz, rate_hz)
    sound: Samples | None = None
    found: list[Overlap | Literal["hidden"] | None] = [None] * len(match.events)
    for i in range(len(match.events) - 1):
        if None in match.heard[i : i + 2] or i + 1 in match.breaks or not overlap_wanted(match, i):
            continue
        if sound is None:
            sound = resampled(mono, from_hz=rate_hz, to_hz=rate)
        found[i] = overlap_at(sound, match, i, rate_hz=rate) or "hidden"
    return found


def overlap_at(sound: Samples, match: Match, index: int, *, rate_hz: int) -> Overlap | None:
    """Overlap of one event with the next; None where it cannot be told.

    sound: shape (n_samples,).
    """
    old, new = match.heard[index : index + 2]
    fit = old is not None and new is not None and match.fits(index) and match.fits(index + 1)
    if not fit or old is None or new is None or new.onset_s - old.onset_s < OVERLAP.least_note_s:
        return None
    later = next((n.onset_s for n in match.heard[index + 2 :] if n is not None), np.inf)
    shift = match.offset_cents / 100.0
    return overlap_of(
        sound,
        rate_hz=rate_hz,
        old_hz=midi_to_hz(match.events[index].main_midi + shift),
        new_hz=midi_to_hz(match.events[index + 1].start_midi + shift),
        old_s=old.onset_s,
        new_s=new.onset_s,
        until_s=min(new.onset_s + OVERLAP.longest_s, later),
    )


def overlap_of(
    sound: Samples, *, rate_hz: int, old_hz: float, new_hz: float, old_s: float, new_s: float, until_s: float
) -> Overlap | None:
    """How long an old pitch stays within 20 dB of a new one after that begins; None where they share all their
    partials.

    sound: shape (n_samples,).
    """
    starts = np.arange(new_s - 0.5 * OVERLAP.window_s - 2.0 * OVERLAP.hop_s, until_s - OVERLAP.window_s, OVERLAP.hop_s)
    at = np.round(starts * rate_hz).astype(np.int64)
    at = at[(at >= 0) & (at + round(OVERLAP.window_s * rate_hz) < len(sound))]
    if len(at) < OVERLAP.least_windows:
        return None
    apart_hz = OVERLAP.apart_bins / OVERLAP.window_s
    old = np.arange(1.0, int(OVERLAP.highest_hz / old_hz) + 1.0) * old_hz
    new = np.arange(1.0, int(OVERLAP.highest_hz / new_hz) + 1.0) * new_hz
    apart = np.abs(old[:, None] - new[None, :]) > apart_hz
    own, others = apart.all(axis=1), apart.all(axis=0)
    if not own.any() or not others.any():
        return None
    # Against the old note's own spectrum before: which of its partials are heard at all.
    before_s = max(old_s + 0.01, new_s - OVERLAP.window_s - 0.004)
    before = _powers(sound, np.round([before_s * rate_hz]).astype(np.int64), old, rate_hz)[0]
    heard = own & (before[:, _BESIDE] > before[own, _BESIDE].max() * OVERLAP.heard_share)
    peaks_before = before.max(axis=1)
    each_before = peaks_before[heard]
    share = float(each_before.sum())
    if share <= 0:
        return None
    # The whole of each note stands to its unshared partials as it did when it sounded alone; both by their sums of
    # partials.
    old_whole = float(peaks_before.sum()) / share
    if old_whole > OVERLAP.most_whole:
        return None
    peaks = _powers(sound, at, np.concatenate((old[heard], new[others])), rate_hz).max(axis=2)
    each, new_power = peaks[:, : len(each_before)], peaks[:, len(each_before) :].sum(axis=1)
    loudest = int(np.argmax(new_power))
    new_whole = new_power[loudest]
    if not others.all():
        new_whole += _powers(sound, at[[loudest]], new[~others], rate_hz).max(axis=2).sum()
    level_db = 10.0 * float(np.log10(share * old_whole / max(new_whole, 1e-20)))
    softer_db = _softer_by_db(each, each_before, (0.5, OVERLAP.stroke_share))
    stroke_ms = max(OVERLAP.stroke_ms, 1000.0 * OVERLAP.stroke_periods / new_hz)
    return _settled(level_db + softer_db, at / rate_hz + 0.5 * OVERLAP.window_s, new_s, stroke_ms, level_db)


def _settled(course_db: FloatArray, middle: FloatArray, new_s: float, stroke_ms: float, level_db: float) -> Overlap:
    """The overlap, with what its level may be wrong by; shorter than a stroke, with what the stroke may add; no shorter
    than the note is held.

    course_db: level of the old note as half of its partials have it, and those a stroke does not reach; shape (2,
    n_windows).
    """
    ms = _end_ms(course_db[0], middle, new_s)
    long = ms >= stroke_ms
    least = _end_ms(course_db[0 if long else 1] - OVERLAP.u_db, middle, new_s)
    u_ms = OVERLAP.u_ms if long else OVERLAP.u_stroke_ms
    found = Overlap(0.5 * (ms + least), u_ms + 0.5 * abs(ms - least), level_db)
    if found.depth_db < OVERLAP.least_held_db:
        return found
    held_ms = _held_ms(course_db[0] - level_db, middle, new_s, found.depth_db)
    held = held_ms - OVERLAP.u_ms, held_ms + OVERLAP.u_ms
    if held_ms < stroke_ms:
        return replace(found, held_ms=(0.0, held[1]))
    low, high = max(found.ms - found.u_ms, held[0]), max(found.ms + found.u_ms, held[1])
    return Overlap(0.5 * (low + high), 0.5 * (high - low), level_db, held)


def _held_ms(softer_db: FloatArray, middle_s: FloatArray, new_s: float, depth_db: float) -> float:
    """How long after the new note's beginning the old one has not fallen by so much, ms."""
    kept = np.flatnonzero((softer_db > -depth_db) & (middle_s >= new_s - 0.5 * OVERLAP.window_s))
    if not len(kept) or middle_s[kept[0]] > new_s + OVERLAP.window_s:
        return 0.0
    end = _first_run_ends(kept)
    share = 0.0
    if end + 1 < len(softer_db):
        share = float((softer_db[end] + depth_db) / (softer_db[end] - softer_db[end + 1]))
    return max(0.0, 1000.0 * (float(middle_s[end]) + share * OVERLAP.hop_s - new_s))


def _softer_by_db(power: FloatArray, before: FloatArray, shares: tuple[float, ...]) -> FloatArray:
    """How much softer the partials of a note have become, dB: what so much of them has become at least, weighted by
    their amplitudes before; shape (n_shares, n_windows). power, before: shape (n_windows, n_partials), (n_partials,).

    At a half, what the new note adds to some of them, its stroke or what it spills, does not count until it reaches as
    many. A string that nobody strikes only gets softer, but for beats of its partials.
    """
    each = np.minimum(10.0 * np.log10(np.maximum(power, 1e-20) / before), OVERLAP.louder_db)
    order = np.argsort(each, axis=1)
    weight = np.cumsum(np.sqrt(before)[order], axis=1)
    places = np.array([np.argmax(weight >= share * weight[:, -1:], axis=1) for share in shares])
    return np.asarray(np.take_along_axis(each, order, axis=1)[np.arange(len(each)), places])


def _powers(sound: Samples, at: NDArray[np.int64], hz: FloatArray, rate_hz: int) -> FloatArray:
    """Power at partials, and at _BESIDE places of the grid on both sides of them, in the windows that begin at some
    samples; shape (n_windows, n_partials, 2 _BESIDE + 1).
    """
    places = np.round(hz / (rate_hz / _GRID))[:, None] + np.arange(-_BESIDE, _BESIDE + 1)
    length = round(OVERLAP.window_s * rate_hz)
    found = powers_at(sound, at, length, places.ravel() * (rate_hz / _GRID), rate_hz=rate_hz)
    return found.reshape(len(at), *places.shape)


def _end_ms(level_db: FloatArray, middle_s: FloatArray, new_s: float) -> float:
    """When, after the new note's beginning, the old one's level falls under the limit for the first time, ms."""
    after = np.flatnonzero((level_db > -OVERLAP.within_db) & (middle_s >= new_s - 0.5 * OVERLAP.window_s))
    if not len(after) or middle_s[after[0]] > new_s + OVERLAP.window_s:
        return 0.0
    end = _first_run_ends(after)
    return max(0.0, 1000.0 * (float(middle_s[end]) - new_s - _reach_s(level_db, end)))


def _first_run_ends(windows: NDArray[np.int64]) -> int:
    """The last of some windows before a gap of more than _GAP; there is one at least."""
    gaps = np.flatnonzero(np.diff(windows) > _GAP)
    return int(windows[gaps[0]] if len(gaps) else windows[-1])


def _reach_s(level_db: FloatArray, end: int) -> float:
    """How far behind a stop the window still shows the old note at −20 dB, from how fast its level falls there.

    A Hann window whose middle is x past an abrupt stop holds the share s(x) of its amplitude; where the fall is as
    steep as that, the stop is where s(x) says; a note that dies slowly is read as it is.
    """
    steep = 3
    first = max(0, end - steep)
    last = min(len(level_db) - 1, end + steep)
    if last <= first:
        return 0.0
    fall_db_per_s = float(level_db[first] - level_db[last]) / ((last - first) * OVERLAP.hop_s)
    x, held_db, slope = _held()
    before_db = float(np.max(level_db[max(0, end - round(OVERLAP.window_s / OVERLAP.hop_s)) : end + 1]))
    place = float(np.interp(-(OVERLAP.within_db + before_db), held_db[::-1], x[::-1])) * OVERLAP.window_s
    expected = -float(np.interp(place / OVERLAP.window_s, x, slope))
    share = float(np.clip(fall_db_per_s / max(expected, 1e-9), 0.0, 1.0))
    return place * share


@cache
def _held() -> tuple[FloatArray, FloatArray, FloatArray]:
    """Past an abrupt stop, by how much of a window: the share of amplitude it still holds, dB, and the slope of that,
    dB per s.
    """
    x = np.linspace(0.0, 0.5, 200)
    held = 0.5 - x - np.sin(2.0 * np.pi * x) / (2.0 * np.pi)
    held_db = 20.0 * np.log10(np.maximum(held, 1e-4))
    return x, held_db, np.gradient(held_db, x * OVERLAP.window_s)

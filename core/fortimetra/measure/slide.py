"""Slides: when they leave, when they arrive, and what is left of the note there.

Conventions: the way from the pitch left to the pitch reached is counted as a share; it is left at 10 % of it. A tube
glides in, and between 90 % (the other end of a transition duration, IEEE Std 181-2011) and 98 % nobody hears the
difference: arrives_s is the latter. Over frets the last one comes at once, and what a room holds of the one before
lies over it: arrives_s is half-way from half a fret short of it to 98 %. u_arrives_ms holds half of what lies
between, beside half the contour's window, which smears an edge. travel_ms lies between leaving and arriving; the
pitch reached is the median of SLIDE.settled_s after it. level_change_db is the level after the arrival less the level
before it left.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from fortimetra.align.match import AskedEvent, Match
from fortimetra.hear.contour import Contour
from fortimetra.hear.crossing import Crossing, crossing
from fortimetra.hear.settings import CONTOUR, SALIENCE
from fortimetra.measure.pitch import StringOffsets
from fortimetra.measure.settings import SLIDE
from fortimetra.model.drill import AskedNote, Drill
from fortimetra.sound.decode import resampled
from fortimetra.sound.samples import Samples
from fortimetra.units import FloatArray, cents_to_ratio, midi_to_hz


@dataclass(frozen=True)
class SlideMeasured:
    """One slide; times in s of the take."""

    leaves_s: float
    arrives_s: float
    u_arrives_ms: float
    level_change_db: float | None

    @property
    def travel_ms(self) -> float:
        """From leaving to arriving."""
        return 1000.0 * (self.arrives_s - self.leaves_s)


def measure_slides(
    mono: Samples, contour: Contour, match: Match, drill: Drill, offsets: StringOffsets, *, rate_hz: int
) -> dict[int, SlideMeasured]:
    """The slides of a take by the index of their event; those that cannot be followed are not in it.

    mono: float32, shape (n_samples,): what a shape of several strings does is told from its partials.
    """
    found = _shapes(mono, match, drill.seconds_per_beat, rate_hz=rate_hz)
    on_string: dict[int, AskedNote] = {}
    for index, (event, heard) in enumerate(zip(match.events, match.heard, strict=True)):
        asked = event.notes[0]
        slide = asked.event.slide
        before = on_string.get(asked.note.string)
        on_string.update({n.note.string: n for n in event.notes})
        if slide is None or heard is None or len(event.notes) > 1 or asked.note.fret is None:
            continue
        from_fret = slide.from_fret if slide.from_fret is not None else before.note.fret if before else None
        if from_fret is None or from_fret == asked.note.fret:
            continue
        pitch = [
            midi_to_hz(drill.open_midi(asked.note.string) + fret, a4_hz=drill.a4_hz)
            * cents_to_ratio(offsets.at(asked.note.string, fret))
            for fret in (from_fret, asked.note.fret)
        ]
        length_s = (slide.length or 0.0) * drill.seconds_per_beat
        struck = slide.from_fret is not None
        # Slid into from the note before, it may have been heard anywhere on its way.
        back = 0.0 if struck else SLIDE.look_back_s + length_s
        until = min(heard.onset_s + SLIDE.look_on_s + length_s, heard.followed_to_s)
        read = follow(
            contour, from_hz=pitch[0], to_hz=pitch[1], between_s=(heard.onset_s - back, until), near_s=heard.onset_s,
            glides=asked.note.finger == "slide",
        )  # fmt: skip
        if read is not None:
            found[index] = read
    return found


def _shapes(mono: Samples, match: Match, seconds_per_beat: float, *, rate_hz: int) -> dict[int, SlideMeasured]:
    """Of shapes of several strings that slide on from the one before. Over frets the last one is reached as the new
    pitch comes. Under a tube pitch glides, and is seen before it is reached: it takes as long again as from half of the
    old one gone to half of the new one come.
    """
    found: dict[int, SlideMeasured] = {}
    rate = min(SALIENCE.rate_hz, rate_hz)
    sound: Samples | None = None
    for index in range(1, len(match.events)):
        before, event, heard = match.events[index - 1], match.events[index], match.heard[index]
        slide = event.notes[0].event.slide
        many = len(event.notes) > 1 and len(before.notes) == len(event.notes)
        if slide is None or slide.from_fret is not None or heard is None or not many:
            continue
        if sound is None:
            sound = resampled(mono, from_hz=rate_hz, to_hz=rate)
        length_s, shift = (slide.length or 0.0) * seconds_per_beat, match.offset_cents / 100.0
        last = match.heard[index - 1]
        read = crossing(
            sound,
            rate_hz=rate,
            old_hz=before.sounding_hz(before.main_midi + shift),
            new_hz=event.sounding_hz(event.start_midi + shift),
            from_s=max(heard.onset_s - SLIDE.look_back_s - length_s, 0.0 if last is None else last.onset_s + 0.01),
            to_s=min(heard.onset_s + SLIDE.look_on_s + length_s, heard.followed_to_s),
            way_s=length_s,
        )
        slid = None if read is None else _slid(read, before, event)
        if slid is not None:
            found[index] = slid
    return found


def _slid(read: Crossing, before: AskedEvent, event: AskedEvent) -> SlideMeasured | None:
    """What the change from one shape's pitches to the next one's says of the slide; None where it is not clear."""
    if not read.clear or read.leaves_s is None or read.arrives_s is None:
        return None
    way_s = max(0.0, read.arrives_s - read.leaves_s)
    seen_s = max(way_s, SLIDE.step_s) if before.most_frets_to(event) > 1 else way_s
    u_ms = np.hypot(read.u_ms, 1000.0 * SLIDE.unseen_share * seen_s)
    arrives_s = read.arrives_s + (way_s if event.lead.note.finger == "slide" else 0.0)
    return SlideMeasured(read.arrives_s - way_s, arrives_s, float(u_ms), None)


class Arrival(NamedTuple):
    """When a slide arrives, and the expanded uncertainty in ms; followed: from one pitch to the other."""

    at_s: float
    u_ms: float
    followed: bool = True


def arrivals_of(match: Match, slides: Mapping[int, SlideMeasured], seconds_per_beat: float) -> dict[int, Arrival]:
    """When slides from the note before arrive.

    One that could not be followed was heard somewhere on its way: it arrives in the other half. Of a shape of several
    strings that could not be followed not even that is sure: it arrives within its travel of what was heard.
    """
    found = {}
    for index, (event, heard) in enumerate(zip(match.events, match.heard, strict=True)):
        asked = event.notes[0].event
        if asked.articulation != "slide" or heard is None:
            continue
        if index in slides:
            found[index] = Arrival(slides[index].arrives_s, slides[index].u_arrives_ms)
        elif asked.slide is not None:
            travels_s = SLIDE.untold_s if asked.slide.length is None else asked.slide.length * seconds_per_beat
            half_s = 0.5 * travels_s
            shape = sum(not n.note.muted for n in event.notes) > 1
            at_s, u_s = (heard.onset_s, travels_s) if shape else (heard.onset_s + 0.5 * half_s, half_s)
            found[index] = Arrival(at_s, 1000.0 * u_s, followed=False)
    return found


def unslid(match: Match) -> list[bool]:
    """Which events neither slide in nor are slid out of."""
    still = [e.notes[0].event.slide is None for e in match.events]
    after = [*still[1:], True]
    return [own and on for own, on in zip(still, after, strict=True)]


def follow(
    contour: Contour,
    *,
    from_hz: float,
    to_hz: float,
    between_s: tuple[float, float],
    near_s: float,
    glides: bool = True,
) -> SlideMeasured | None:
    """The way between two pitches; near_s: which passage is meant where there are several. glides: without frets."""
    frames = contour.frames(*between_s)
    f0 = contour.f0_hz[frames]
    voiced = ~np.isnan(f0)
    if np.count_nonzero(voiced) < SLIDE.least_frames:
        return None
    time = contour.time_s[frames]
    share = np.log2(np.interp(time, time[voiced], f0[voiced]) / from_hz) / np.log2(to_hz / from_hz)
    passed = np.flatnonzero((share[:-1] < 0.5) & (share[1:] >= 0.5))
    if not len(passed):
        return None
    middle = int(passed[np.argmin(np.abs(time[passed] - near_s))])
    way_cents = abs(1200.0 * float(np.log2(to_hz / from_hz)))
    near = min(SLIDE.near_share, SLIDE.near_cents / way_cents)
    half_fret = min(0.5, 50.0 / way_cents)
    arrives_share = SLIDE.arrives_share if glides else 1.0 - half_fret
    top = _settled(share[middle + 1 :], near)
    if abs(top - 1.0) > near:
        return None
    arrived = np.flatnonzero(share[middle:] >= arrives_share * top)
    left = np.flatnonzero(share[: middle + 1] <= SLIDE.leaves_share * top)
    if not len(arrived):
        return None
    nearly = _crossing(time, share, middle + int(arrived[0]), arrives_share * top)
    there = np.flatnonzero(share[middle:] >= SLIDE.there_share * top)
    settled = _crossing(time, share, middle + int(there[0]), SLIDE.there_share * top) if len(there) else nearly
    arrives = settled if glides else 0.5 * (nearly + settled)
    # Struck where it already moves: it leaves with the stroke.
    leaves = float(time[0]) if not len(left) else _crossing(time, share, int(left[-1]) + 1, SLIDE.leaves_share * top)
    window_s = CONTOUR.window_periods / to_hz
    level = contour.level_dbfs[frames]
    early = level[(time < leaves) & (time > leaves - 2 * SLIDE.level_s)]
    late = level[(time > arrives) & (time < arrives + 2 * SLIDE.level_s)]
    change = float(np.median(late) - np.median(early)) if len(early) and len(late) else None
    u_s = np.hypot(0.5 * window_s + CONTOUR.hop_s, 0.5 * (settled - nearly))
    return SlideMeasured(leaves, arrives, 1000.0 * float(u_s), change)


def _settled(share: FloatArray, near: float) -> float:
    """The share that is reached in the end: the median of what lies near all of the way; far from 1 where nothing
    does.
    """
    for within in (0.5 * near, near):
        inside = share[np.abs(share - 1.0) < within]
        if len(inside) >= round(SLIDE.settled_s / CONTOUR.hop_s / 2.0):
            return float(np.median(inside))
    return float(np.max(share, initial=0.0))


def _crossing(time: FloatArray, share: FloatArray, index: int, level: float) -> float:
    """When a level is passed between the frame before and this one."""
    if index == 0:
        return float(time[0])
    low, high = float(share[index - 1]), float(share[index])
    part = 0.0 if high == low else min(1.0, max(0.0, (level - low) / (high - low)))
    return float(time[index - 1] + part * (time[index] - time[index - 1]))

"""How long each note sounds of what it is given.

Conventions: a note ends when it is 20 dB under its own start, or when the next note of its voice begins. length_ratio
is that over its slot. How long it goes on under the next note: `overlap`.

A string that nobody stops fades by itself, and a long slot outlasts it: one that fell no faster than strings do (over
the whole, or once its pluck was over), and was not cut off at its end (a hand stops a string within
LENGTH.landing_s), is as long as a string allows. High strings fade sooner: of a resonance of quality Q at f the
amplitude falls by 20 dB in ln(10)·Q / (π·f).
The same holds under a palm.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from fortimetra.align.match import Match
from fortimetra.hear.notes import HeardNote
from fortimetra.measure.overlap import Overlap, note_overlaps
from fortimetra.measure.settings import LENGTH
from fortimetra.medians import robust_sd
from fortimetra.model.drill import Drill
from fortimetra.model.summary import LengthSummary
from fortimetra.sound.decode import mean_square
from fortimetra.sound.samples import Samples, let_go
from fortimetra.units import midi_to_hz


@dataclass(frozen=True)
class NoteLength:
    """One event's length; to_next: it ends where the next note begins. over_next: how long and how loud it goes on
    under that; None where the next note is on its own string, is meant to sound with it, or cannot be told.
    """

    ratio: float
    u_ms: float
    slot_ms: float
    dies: bool
    fades: bool = False
    over_next: Overlap | None = None
    to_next: bool = False

    @property
    def most_s(self) -> float | None:
        """How far it sounds into the next one at most; None where that cannot be told."""
        return None if self.over_next is None else max(0.0, self.over_next.ms + self.over_next.u_ms) / 1000.0


def note_lengths(mono: Samples, match: Match, drill: Drill, *, rate_hz: int) -> list[NoteLength | None]:
    """Length of each heard event; mono: float32, shape (n_samples,)."""
    overlaps = note_overlaps(mono, match, rate_hz=rate_hz)
    aside_s = match.aside_s(drill.seconds_per_beat)
    found: list[NoteLength | None] = []
    for i, (event, note) in enumerate(zip(match.events, match.heard, strict=True)):
        if note is None or event.lead.note.muted:
            found.append(None)
            continue
        let_go()
        asked = event.notes[0].event
        slot_s = (drill.played_beat(event.beat + asked.length) - drill.played_beat(event.beat)) * drill.seconds_per_beat
        following = _following(match, i)
        end = _end(note, following, aside_s)
        fades = end.own and (asked.articulation == "palm_mute" or _fades(mono, note, event.main_midi, rate_hz))
        until_s = np.inf if following is None else following.onset_s
        stopped = end.own and not fades and not asked.let_ring and not _sounds_on(mono, note, until_s, rate_hz)
        overlap = overlaps[i]
        found.append(
            NoteLength(
                ratio=(end.s - note.onset_s) / slot_s,
                u_ms=float(np.hypot(note.onset_u_ms, end.u_ms)),
                slot_ms=1000.0 * slot_s,
                dies=bool(stopped and end.s - note.onset_s < LENGTH.dies_share * slot_s),
                fades=bool(fades),
                over_next=overlap if isinstance(overlap, Overlap) else None,
                to_next=end.to_next,
            )
        )
    return found


class _End(NamedTuple):
    """Where a note ends. own: it ends by itself, not where the next begins or the drill is left."""

    s: float
    u_ms: float
    to_next: bool
    own: bool


def _end(note: HeardNote, following: HeardNote | None, aside_s: Sequence[tuple[float, float]]) -> _End:
    """A note's end. aside_s: where the drill was left; how long a note goes on there is not its student's playing."""
    if following is None:
        return _End(note.end_s, LENGTH.end_u_ms, to_next=False, own=True)
    left_s = next((a for a, b in aside_s if note.onset_s < a and b == following.onset_s), np.inf)
    if following.onset_s <= note.end_s + LENGTH.same_end_s:
        own = following.onset_s == note.end_s < left_s
        return _End(following.onset_s, following.onset_u_ms, to_next=True, own=own)
    return _End(min(note.end_s, left_s), LENGTH.end_u_ms, to_next=False, own=note.end_s < left_s)


def _level_db(mono: Samples, at_s: float, rate_hz: int) -> float:
    """Over LENGTH.edge_s on both sides."""
    part = mono[max(0, round((at_s - LENGTH.edge_s) * rate_hz)) : round((at_s + LENGTH.edge_s) * rate_hz)]
    return 10.0 * math.log10(max(mean_square(part), 1e-20))


def _sounds_on(mono: Samples, note: HeardNote, until_s: float, rate_hz: int) -> bool:
    """Whether the sound goes on after a note's end, though nothing asked begins: it was struck again, not choked."""
    at_s = note.end_s + LENGTH.landing_s
    if at_s + LENGTH.edge_s > until_s:
        return False
    start_db = _level_db(mono, note.onset_s + LENGTH.edge_s, rate_hz)
    return _level_db(mono, at_s, rate_hz) > start_db - LENGTH.goes_on_db


def _fades(mono: Samples, note: HeardNote, midi: float, rate_hz: int) -> bool:
    """Whether a note ends because its string has faded, not because it was stopped."""

    def level_db(at_s: float) -> float:
        return _level_db(mono, at_s, rate_hz)

    cut = level_db(note.end_s - LENGTH.landing_s) - level_db(note.end_s + LENGTH.edge_s) >= LENGTH.cut_db
    if cut:
        return False
    least_s = min(LENGTH.fades_s, np.log(10.0) * LENGTH.least_q / (np.pi * midi_to_hz(midi)))
    if note.end_s - note.onset_s >= least_s:
        return True
    # A loud pluck falls quickly to what the string then holds: how quickly that goes on falling is what tells.
    plucked_s = note.onset_s + LENGTH.pluck_s
    held_s = note.end_s - plucked_s
    return held_s > LENGTH.pluck_s and level_db(plucked_s) - level_db(note.end_s) <= 20.0 * held_s / least_s


def _following(match: Match, index: int) -> HeardNote | None:
    """The next heard note of the same voice."""
    voice = match.events[index].notes[0].event.voice
    for j in range(index + 1, len(match.events)):
        if match.events[j].notes[0].event.voice == voice and match.heard[j] is not None:
            return match.heard[j]
    return None


def summarise_lengths(match: Match, lengths: Sequence[NoteLength | None]) -> LengthSummary | None:
    """Median ratio and its spread over plain notes, median overlap."""
    ratios = np.array(
        [
            n.ratio
            for n, e in zip(lengths, match.events, strict=True)
            if n is not None and not e.notes[0].event.let_ring and n.ratio < LENGTH.most_ratio
        ]
    )
    overlaps = [n.over_next.ms for n in lengths if n is not None and n.over_next is not None]
    if len(ratios) < LENGTH.least_notes:
        return None
    return LengthSummary(
        ratio=round(float(np.median(ratios)), 3),
        spread=round(robust_sd(ratios), 3),
        overlap_ms=round(float(np.median(overlaps)), 1) if len(overlaps) >= LENGTH.least_notes else None,
    )

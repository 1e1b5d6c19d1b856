"""Everything that sounds and should not, of one take: strings that ring, stops, scrapes; and the notes of its chords
one by one.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from fortimetra.align.match import Match
from fortimetra.hear.contour import Contour
from fortimetra.hear.notes import HeardNote
from fortimetra.hear.recording import Recording
from fortimetra.measure.alignment import Alignment
from fortimetra.measure.chord import ChordNote, chord_notes
from fortimetra.measure.ring import Ringing, RingReading, ringing
from fortimetra.measure.scrape import HeardScrape, scrapes
from fortimetra.measure.settings import LOOKING, QUIET, TAIL
from fortimetra.measure.stop import Stop, stops
from fortimetra.measure.strings import Part, Span, parts_of, same_pitch, spans_of, suspects_of, travels_of
from fortimetra.measure.tail import Tail, falls_ms, tail
from fortimetra.units import hz_to_cents


@dataclass(frozen=True)
class Quiet:
    """What was read of a take. reading None: no stretch between attacks is long enough to be looked at.

    chords: notes struck together, each a sequence; driven: whether drive makes tones of them, None where nothing tells.
    tail: how the recording becomes quiet where a note ends.
    """

    parts: tuple[Part, ...]
    spans: tuple[Span, ...]
    reading: RingReading | None
    stops: tuple[Stop, ...]
    scrapes: tuple[HeardScrape, ...]
    chords: tuple[tuple[ChordNote, ...], ...]
    driven: bool | None
    tail: Tail = field(default_factory=lambda: Tail(None))

    @cached_property
    def parts_of(self) -> dict[int, list[Part]]:
        """The parts of each event."""
        found: dict[int, list[Part]] = {}
        for part in self.parts:
            found.setdefault(part.event, []).append(part)
        return found

    @property
    def tail_ms(self) -> float | None:
        """The quickest fall of the take."""
        return self.tail.ms

    @property
    def echoes(self) -> bool | None:
        """Whether a room, or an echo, is heard; None where nothing tells."""
        return None if self.reading is None else self.reading.echoes

    @property
    def room_ms(self) -> float:
        """How long a stopped note may seem to sound on: the quickest fall of the take, and where a room is
        heard twice that, for its sound falls quicker and slower by chance.
        """
        if not self.in_a_room:
            return self.tail_ms or 0.0
        return 2.0 * (self.tail_ms or self.tail.fall_ms or 0.0)

    @property
    def stopped_ms(self) -> float:
        """How long a note that is stopped may take to fall by OVERLAP.within_db: little longer than the quickest of the
        take, and in a room, where sound falls quicker and slower by chance, half as long again as the slower reading.
        """
        if self.in_a_room:
            return TAIL.stopped_in_a_room * max(self.tail_ms or 0.0, self.tail.fall_ms or 0.0)
        return TAIL.stopped * (self.tail_ms or 0.0)

    @property
    def fall_ms(self) -> float:
        """How long what a room holds takes to fall by OVERLAP.within_db, as single partials have it."""
        return self.tail.fall_ms or self.tail_ms or TAIL.room_ms

    def is_kept_by_the_room(self, ring: Ringing) -> bool:
        """Whether what goes on of a note that its string has left is no louder, half-way, than a room may keep it."""
        left = [p.until_s for p in self.parts if p.string == ring.string and p.until_s <= ring.from_s + QUIET.left_s]
        return self.in_a_room and _is_left_over(ring, max(left, default=ring.from_s), self.stopped_ms)

    @property
    def in_a_room(self) -> bool:
        """Whether a microphone in a room has recorded it: notes end slowly and unevenly; or, where no end tells, they
        go on after their string has left them, and longer than a string that is let go of does.
        """
        if self.tail.uneven_db is not None:
            return self.tail.is_a_rooms
        return bool(self.echoes) and (self.tail_ms or 0.0) >= TAIL.echo_ms

    def is_the_rooms(self, ring: Ringing) -> bool:
        """Whether a ring is no louder than what a room leaves of the pitch another string has just left, as it falls in
        the recording's tail.
        """
        left = self._left_s(ring)
        return self.tail_ms is not None and bool(left) and _is_left_over(ring, max(left), self.tail_ms)

    def may_be_a_rooms(self, ring: Ringing) -> bool:
        """As `is_the_rooms`, where nothing tells how the recording becomes quiet: as the slowest room would keep it."""
        left = self._left_s(ring)
        unknown = self.tail.ms is None and self.tail.fall_ms is None
        return unknown and bool(left) and _is_left_over(ring, max(left), TAIL.slowest_room_ms)

    def _left_s(self, ring: Ringing) -> list[float]:
        """When other strings left the pitch of a ring, before it."""
        return [
            p.until_s
            for p in self.parts
            if p.string != ring.string and p.until_s <= ring.from_s + QUIET.left_s and same_pitch(p.hz, ring.hz)
        ]

    def is_a_bends(self, ring: Ringing) -> bool:
        """Whether a ring is over as soon as a bend from its pitch has risen: that was the bent string itself, and what
        a room keeps of it.
        """
        return any(
            p.bent and p.string != ring.string and same_pitch(p.hz, ring.hz)
            and p.from_s <= ring.from_s and ring.to_s <= p.from_s + QUIET.risen_s
            for p in self.parts
        )  # fmt: skip

    def is_scrape(self, note: HeardNote) -> bool:
        """Whether what began there is a scrape."""
        return any(s.from_s - QUIET.same_burst_s < note.onset_s < s.to_s + QUIET.same_burst_s for s in self.scrapes)


def _is_left_over(ring: Ringing, left_s: float, within_ms: float) -> bool:
    """Whether a ring is no louder, half-way, than what is left of a note that was left then."""
    since_ms = 1000.0 * (0.5 * (ring.from_s + ring.to_s) - left_s)
    return since_ms < falls_ms(ring.u_db - ring.level_db, within_ms)


def measure_quiet(recording: Recording, alignment: Alignment) -> Quiet:
    """Measure what should be silent."""
    mono, contour, rate_hz = recording.mono, recording.contour, recording.rate_hz
    match, drill, offsets = alignment.match, alignment.played, alignment.offsets
    parts = parts_of(match, drill, offsets, alignment.due.time_s)
    end_s = len(mono) / rate_hz
    travels = travels_of(match, drill.seconds_per_beat)
    chords, driven = chord_notes(mono, _chords([_arrived(p, travels) for p in parts]), rate_hz=rate_hz)
    parts = _as_heard(parts, chords)
    spans = spans_of(match, parts, end_s, travels, match.aside_s(drill.seconds_per_beat))
    fades = tail(mono, match, rate_hz=rate_hz)
    suspects = suspects_of(parts, drill, offsets)
    reading = ringing(mono, contour, spans, parts, suspects, rate_hz=rate_hz, driven=driven, tail_ms=fades.ms)
    grid = alignment.grid
    found = stops(mono, match, parts, rate_hz=rate_hz, grid_u_ms=grid.u_ms if grid.bpm else None)
    return Quiet(
        tuple(parts), tuple(spans), reading, tuple(found), tuple(_scrapes(recording, match, parts, travels)),
        tuple(tuple(c) for c in chords), driven if chords else None, fades,
    )  # fmt: skip


def _scrapes(
    recording: Recording, match: Match, parts: Sequence[Part], travels: Mapping[float, tuple[float, float]]
) -> list[HeardScrape]:
    """Scrapes clear of attacks, ends and slides; what has no pitch and was not asked for may be a scrape itself."""
    mono, rate_hz = recording.mono, recording.rate_hz
    bare = [n for n in match.extras if np.isnan(n.plain_midi) or not _rises(n, recording.contour)]
    attacks = [n for n in match.notes if n not in bare]
    ends = [p.until_s for p in parts if p.until_s < len(mono) / rate_hz] + [n.end_s for n in attacks]
    ends = [t for t in ends if all(abs(t - n.onset_s) > QUIET.same_burst_s for n in bare)]
    # A slid note's onset is where it leaves or where it arrives, as it is heard.
    slides = [(at_s - max(way), at_s + max(way)) for at_s, way in travels.items()]
    return scrapes(mono, np.array(sorted(n.onset_s for n in attacks)), ends, slides, rate_hz=rate_hz)


def _rises(note: HeardNote, contour: Contour) -> bool:
    """Whether a string gets louder there, as where it is struck again; a burst over a string that rings on hardly
    adds to it.
    """
    before = contour.level_dbfs[contour.frames(note.onset_s - 0.03, note.onset_s - 0.005)]
    after = contour.level_dbfs[contour.frames(note.onset_s + 0.005, note.onset_s + 0.06)]
    return not len(before) or not len(after) or float(after.max() - before.mean()) > QUIET.struck_db


def _arrived(part: Part, travels: Mapping[float, tuple[float, float]]) -> Part:
    """A note of a shape that is slid into is read where it has arrived."""
    later_s = travels.get(part.from_s, (0.0, 0.0))
    return replace(part, from_s=part.from_s + later_s[1]) if later_s[0] == 0.0 and later_s[1] else part


def _as_heard(parts: Sequence[Part], chords: Sequence[Sequence[ChordNote]]) -> list[Part]:
    """Notes struck together at the pitch they were heard at, where that is known well and not what is asked: what drive
    makes of two that are out of tune lies elsewhere.
    """
    heard = {
        (n.part.event, n.part.string): n.hz
        for chord in chords
        for n in chord
        if n.hz is not None
        and n.u_cents is not None
        and n.u_cents < min(LOOKING.note_cents, abs(hz_to_cents(n.hz, reference_hz=n.part.hz)))
    }
    return [replace(p, hz=heard.get((p.event, p.string), p.hz)) for p in parts]


def _chords(parts: Sequence[Part]) -> list[list[Part]]:
    """Parts that begin together, none of them bent."""
    by_event: dict[int, list[Part]] = defaultdict(list)
    for part in parts:
        by_event[part.event].append(part)
    return [own for own in by_event.values() if len(own) > 1 and not any(p.bent for p in own)]

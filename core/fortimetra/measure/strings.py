"""What each string is meant to do, moment by moment: what sounds, what it last sounded, what has to be silent."""

from __future__ import annotations

from collections import deque
from collections.abc import Container, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from fortimetra.align.match import AskedEvent, Match
from fortimetra.measure.pitch import StringOffsets
from fortimetra.measure.pressed import Place, pressed_places
from fortimetra.measure.settings import STRINGS
from fortimetra.model.drill import AskedNote, Drill
from fortimetra.units import FloatArray, cents_to_ratio, hz_to_cents, midi_to_hz


@dataclass(frozen=True)
class Part:
    """A note as a string sounds it: event is its place in the match; hz its fretted pitch; until_s when it should
    have stopped; under: (string, fret) at which what stops it may press others (`measure/pressed`).
    """

    event: int
    string: int
    fret: int
    hz: float
    from_s: float
    until_s: float
    bent: bool
    under: frozenset[tuple[int, int]] = frozenset()


@dataclass(frozen=True)
class Span:
    """A stretch without attack or stop; parts: what is meant to sound in it, empty in a rest; event: the last one
    begun.

    recent: parts begun by then that sound or have stopped less than STRINGS.last_pitch_s ago, in order of time.
    """

    from_s: float
    to_s: float
    parts: tuple[Part, ...]
    event: int
    recent: tuple[Part, ...] = ()

    @property
    def rest(self) -> bool:
        """Whether nothing is meant to sound."""
        return not self.parts


def parts_of(match: Match, drill: Drill, offsets: StringOffsets, due_s: FloatArray) -> list[Part]:
    """Every heard note, string by string, with how long it is meant to sound; in order of time.

    due_s: when each event is due by the grid, shape (n_events,), NaN where there is none: a stop before a rest is due
    by the grid, too.
    """
    found: list[Part] = []
    for i, (event, note) in enumerate(zip(match.events, match.heard, strict=True)):
        if note is None:
            continue
        under = _under(event, drill)
        for asked in event.notes:
            if asked.note.muted:
                continue
            hz = drill.hz(asked.note) * cents_to_ratio(offsets.at(asked.note.string, asked.note.fret))
            if len(event.notes) == 1 and not match.fits(i) and not np.isnan(note.plain_midi):
                hz = midi_to_hz(note.plain_midi)
            found.append(
                Part(
                    i,
                    asked.note.string,
                    asked.note.fret or 0,
                    hz,
                    note.onset_s,
                    _until_s(match, i, asked, drill, due_s),
                    asked.bend is not None or asked.event.vibrato is not None,
                    under,
                )
            )
    return found


def _under(event: AskedEvent, drill: Drill) -> frozenset[tuple[int, int]]:
    """Where strings may be pressed under a hand that stops several at once, strikes across some, or holds a slide."""
    slide = any(n.note.finger == "slide" for n in event.notes)
    if "noise" not in drill.measures or (len(event.notes) < 2 and not slide):
        return frozenset()
    sounding = [Place(n.note.string, n.note.fret or 0) for n in event.notes if not n.note.muted]
    quiet = set(range(1, len(drill.tuning) + 1)) - {p.string for p in sounding}
    return frozenset(pressed_places(sounding, quiet, slide=slide))


def _until_s(match: Match, i: int, asked: AskedNote, drill: Drill, due_s: FloatArray) -> float:
    """When a note should have stopped: its voice goes on, its string is played again, or a rest begins."""
    note = match.heard[i]
    assert note is not None
    event = asked.event
    slot_s = (drill.played_beat(asked.beat + event.length) - drill.played_beat(asked.beat)) * drill.seconds_per_beat
    stop = note.onset_s + slot_s if np.isnan(due_s[i]) else max(note.onset_s + 0.05, float(due_s[i]) + slot_s)
    following = np.inf
    for j in range(i + 1, len(match.events)):
        later = match.heard[j]
        if later is None:
            continue
        same_string = any(n.note.string == asked.note.string for n in match.events[j].notes)
        same_voice = match.events[j].notes[0].event.voice == event.voice
        if same_string or (same_voice and not event.let_ring):
            following = later.onset_s
            break
    if event.let_ring:
        return float(min(following, np.inf))
    # Where the next note of the voice follows at once, the stop is its attack, early or late.
    if _followed(match, i):
        return float(following) if np.isfinite(following) else stop
    return float(min(stop, following))


def _followed(match: Match, i: int) -> bool:
    """Whether the next event of the voice begins where this one ends."""
    event = match.events[i]
    end = event.beat + event.notes[0].event.length
    for later in match.events[i + 1 :]:
        if later.notes[0].event.voice == event.notes[0].event.voice:
            return later.beat < end + 1e-3
    return False


def travels_of(match: Match, seconds_per_beat: float) -> dict[float, tuple[float, float]]:
    """By the onset of events that slide: for how long before and after it pitches pass that nobody asked for."""
    found = {}
    for event, heard in zip(match.events, match.heard, strict=True):
        slide = event.notes[0].event.slide
        if slide is not None and heard is not None:
            travels_s = STRINGS.slides_s + (slide.length or 0.0) * seconds_per_beat
            found[heard.onset_s] = (travels_s, STRINGS.slides_s) if slide.from_fret is None else (0.0, travels_s)
    return found


def spans_of(
    match: Match,
    parts: Sequence[Part],
    end_s: float,
    travels: Mapping[float, tuple[float, float]] | None = None,
    aside_s: Sequence[tuple[float, float]] = (),
) -> list[Span]:
    """The take from its first note to its end, cut at every attack and stop; slides on their way are left out, and
    what lies aside of the drill or long after it.
    """
    if not parts:
        return []
    attacks = {n.onset_s for n in match.notes} | {a for a, _ in aside_s}
    edges = sorted(attacks | {p.until_s for p in parts if p.until_s < end_s})
    spans = []
    recent: list[Part] = []
    left, event, last_s = deque(parts), -1, -np.inf
    for start, stop in zip(edges, [*edges[1:], end_s], strict=True):
        while left and left[0].from_s <= start + 1e-6:
            recent.append(left.popleft())
            event, last_s = max(event, recent[-1].event), max(last_s, recent[-1].until_s)
        recent = _goes_on(recent, start - STRINGS.last_pitch_s)
        if event < 0 or _aside(start, aside_s):
            continue
        from_s, to_s = _clear_of(start, stop, attacks, travels or {})
        to_s = min(to_s, last_s + STRINGS.after_drill_s)
        if to_s - from_s >= STRINGS.least_span_s:
            spans.append(Span(from_s, to_s, tuple(_goes_on(recent, start + 1e-6)), event, tuple(recent)))
    return spans


def _goes_on(parts: Sequence[Part], after_s: float) -> list[Part]:
    return [p for p in parts if p.until_s > after_s]


def _aside(time_s: float, aside_s: Sequence[tuple[float, float]]) -> bool:
    return any(a - 1e-6 <= time_s < b - 1e-6 for a, b in aside_s)


def _clear_of(
    start_s: float, stop_s: float, attacks: Container[float], travels: Mapping[float, tuple[float, float]]
) -> tuple[float, float]:
    """A stretch without the attacks, stops and slides at its ends."""
    after_s = STRINGS.after_attack_s if start_s in attacks else STRINGS.after_stop_s
    before_s = STRINGS.before_attack_s if stop_s in attacks else 0.0
    still = (0.0, 0.0)
    return start_s + max(after_s, travels.get(start_s, still)[1]), stop_s - max(before_s, travels.get(stop_s, still)[0])


@dataclass(frozen=True)
class Suspect:
    """A pitch that may sound unasked: of an open string, the last one of a string, one a string has left (an echo),
    or one that a finger presses.
    """

    string: int
    fret: int
    hz: float


def same_pitch(a_hz: float, b_hz: float) -> bool:
    """Whether two strings cannot be told by their pitch."""
    return abs(hz_to_cents(a_hz, reference_hz=b_hz)) < STRINGS.same_cents


Role = Literal["open", "last", "echo", "pressed"]


def suspects_of(parts: Sequence[Part], drill: Drill, offsets: StringOffsets) -> list[Suspect]:
    """Open strings first, then every fretted pitch of the take."""
    found = {
        (s, 0): Suspect(s, 0, midi_to_hz(drill.open_midi(s), a4_hz=drill.a4_hz) * cents_to_ratio(offsets.at(s, 0)))
        for s in range(1, len(drill.tuning) + 1)
    }
    for part in parts:
        found.setdefault((part.string, part.fret), Suspect(part.string, part.fret, part.hz))
    for string, fret in sorted({place for part in parts for place in part.under}):
        hz = midi_to_hz(drill.open_midi(string) + fret, a4_hz=drill.a4_hz) * cents_to_ratio(offsets.at(string, fret))
        found.setdefault((string, fret), Suspect(string, fret, hz))
    return list(found.values())


# Of two strings with one pitch, which is believed to sound it rather than one in this role.
_STRONGER: dict[Role, tuple[Role, ...]] = {
    "pressed": ("open", "last", "echo"), "open": ("last", "echo"), "echo": ("last",), "last": (),
}  # fmt: skip


def _passed(suspect: Suspect, span: Span) -> bool:
    """Whether a bent note has just had the pitch of an open string: it goes on in the room while the note rises."""
    return any(p.bent and p.string != suspect.string and same_pitch(p.hz, suspect.hz) for p in span.parts)


def _role(suspect: Suspect, span: Span, *, own: Part | None, before: Part | None) -> Role | None:
    """As what a suspect may sound in a span. own: what its string is asked to sound; before: what it sounded last."""
    here = (suspect.string, suspect.fret)
    if before is not None and before.fret == suspect.fret and (own is None or own.fret != suspect.fret):
        return "last" if own is None else "echo"
    if own is not None:
        return None
    if suspect.fret == 0:
        return "echo" if _passed(suspect, span) else "open"
    return "pressed" if any(here in part.under for part in span.parts) else None


def roles_in(span: Span, suspects: Sequence[Suspect]) -> dict[int, Role]:
    """Which suspects may sound in a span, by their place, and as what."""
    sounding = {p.string: p for p in span.parts}
    last = {p.string: p for p in span.recent if p.until_s <= span.from_s + 1e-6}
    found = {
        place: _role(s, span, own=sounding.get(s.string), before=last.get(s.string)) for place, s in enumerate(suspects)
    }
    roles = {place: role for place, role in found.items() if role is not None}

    # Of two strings with one pitch it is the one that has just sounded it.
    def gives_way(place: int, role: Role) -> bool:
        stronger = _STRONGER[role]
        return any(r in stronger and same_pitch(suspects[i].hz, suspects[place].hz) for i, r in roles.items())

    return {place: role for place, role in roles.items() if not gives_way(place, role)}

"""What sounded and should not, event by event, with verdicts and reasons."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import numpy as np

from fortimetra.align.match import Match, OtherSound
from fortimetra.hear.notes import HeardNote
from fortimetra.judge.other_sounds import within
from fortimetra.judge.settings import NOISE_EVENTS
from fortimetra.judge.time_and_touch import IntoNext
from fortimetra.judge.verdict import verdict
from fortimetra.measure.quiet import Quiet
from fortimetra.measure.ring import Ringing
from fortimetra.measure.settings import OVERLAP, QUIET, RING
from fortimetra.model.analysis import NoiseEvent
from fortimetra.model.verdict import Verdict
from fortimetra.sound.levels import Levels
from fortimetra.units import midi_to_hz


def _place(quiet: Quiet, match: Match, at_s: float) -> tuple[str, int]:
    """Id and repeat of the event that had begun last."""
    begun = [p for p in quiet.parts if p.from_s <= at_s + NOISE_EVENTS.begun_s] or list(quiet.parts[:1])
    event = match.events[max(begun, key=lambda p: p.from_s).event].notes[0]
    return event.event.id, event.repeat


def noise_events(
    match: Match,
    quiet: Quiet,
    thuds: Sequence[HeardNote],
    limits: dict[str, float],
    *,
    goes_on: Sequence[IntoNext | None],
    echo: bool,
) -> list[NoiseEvent]:
    """Every string that rings, scrape and thud of a take, with its verdict; goes_on: how each event sounds into the
    next; echo: notes go on after their string has left them.
    """
    found: list[NoiseEvent] = []
    for ring in quiet.reading.rings if quiet.reading else ():
        event = _ring_event(ring, match, quiet, limits, goes_on, echo=echo)
        if event is not None:
            found.append(event)
    found += _bleeds_unseen(match, quiet, [g if g is None or g.held or not echo else None for g in goes_on], found)
    found += [
        _burst("scrape", (s.from_s, s.to_s), s.level_db, s.u_db, match, quiet, limits)
        for s in quiet.scrapes
        if not within(match.others, s.from_s, s.to_s)
    ]
    usual = float(np.median([n.level_dbfs for n in match.heard if n is not None] or [0.0]))
    found += [
        _burst("thud", (t.onset_s, t.end_s), t.level_dbfs - usual, NOISE_EVENTS.thud_u_db, match, quiet, limits)
        for t in thuds
    ]
    found = [e.model_copy(update=_OPEN) if _hidden(e, match) else e for e in found]
    return found + [_other(o, usual, match, quiet) for o in match.others]


_OPEN = {"verdict": "unclear", "reasons": ("other_sound",)}


def _hidden(event: NoiseEvent, match: Match) -> bool:
    """Whether an other sound may be what is taken for it. A string heard well before or after it rings by itself:
    no cough keeps a string's pitch.
    """
    over = [o for o in match.others if o.from_s < event.to_s and o.to_s > event.from_s]
    if event.verdict != "outside" or not over:
        return False
    alone_s = max(min(o.from_s for o in over) - event.from_s, event.to_s - max(o.to_s for o in over))
    return event.string is None or alone_s < NOISE_EVENTS.alone_s


def _other(sound: OtherSound, usual_dbfs: float, match: Match, quiet: Quiet) -> NoiseEvent:
    """A sound that is not the guitar's: shown, and held against nobody."""
    near, repeat = _place(quiet, match, sound.from_s)
    return NoiseEvent(
        kind="other", string=None, from_s=round(sound.from_s, 3), to_s=round(sound.to_s, 3),
        level_db=round(sound.level_dbfs - usual_dbfs, 1), u=NOISE_EVENTS.other_u_db, near=near, repeat=repeat,
        verdict=None,
    )  # fmt: skip


def _burst(
    kind: Literal["scrape", "thud"],
    when_s: tuple[float, float],
    level_db: float,
    u_db: float,
    match: Match,
    quiet: Quiet,
    limits: dict[str, float],
) -> NoiseEvent:
    """A sound without a pitch, and so without a string."""
    near, repeat = _place(quiet, match, when_s[0])
    return NoiseEvent(
        kind=kind,
        string=None,
        from_s=round(when_s[0], 3),
        to_s=round(when_s[1], 3),
        level_db=round(level_db, 1),
        u=round(u_db, 1),
        near=near,
        repeat=repeat,
        verdict=_level_verdict(level_db, u_db, limits["ring_db"]),
    )


def _level_verdict(level_db: float, u_db: float, limit_db: float) -> Verdict:
    if level_db - u_db > limit_db:
        return "outside"
    return "inside" if level_db + u_db <= limit_db else "unclear"


def _ring_event(
    ring: Ringing,
    match: Match,
    quiet: Quiet,
    limits: dict[str, float],
    goes_on: Sequence[IntoNext | None],
    *,
    echo: bool,
) -> NoiseEvent | None:
    if ring.role == "echo" or (ring.role == "open" and (quiet.is_the_rooms(ring) or quiet.is_a_bends(ring))):
        return None  # what a string has left goes on in a room, not on the string
    kind, judged, reasons = _what_rings(ring, quiet, limits, goes_on, echo=echo)
    if kind in {"bleed", "after_stop"} and judged == "inside":
        return None  # a note takes its time to go
    # A bleed is judged beside its note's own overlap.
    why = None if kind == "bleed" else _why_open(kind, ring, judged, quiet, limits, echo=echo)
    if why is not None:
        judged, reasons = "unclear", (why,)
    near, repeat = _place(quiet, match, ring.from_s)
    return NoiseEvent(
        kind=kind,
        string=ring.string,
        from_s=round(ring.from_s, 3),
        to_s=round(ring.to_s, 3),
        level_db=round(ring.level_db, 1),
        u=round(ring.u_db, 1),
        near=near,
        fret=ring.fret,
        hz=round(ring.hz, 2),
        repeat=repeat,
        verdict=judged,
        reasons=reasons,
    )


def _why_open(
    kind: str, ring: Ringing, judged: Verdict, quiet: Quiet, limits: dict[str, float], *, echo: bool
) -> str | None:
    """Why a ring is held against nobody, though it is too loud or too long; None where it is."""
    if echo and kind == "after_stop":
        return "echo_effect"
    if judged != "outside":
        return None
    if _is_brief(ring, quiet) and (echo or quiet.in_a_room):
        return "echo_effect" if echo else "brief_in_a_room"
    if _may_be_the_rooms(kind, ring, quiet, limits):
        return "room_rings"
    return "mostly_covered" if kind in {"open_ring", "pressed"} and ring.filled > RING.most_filled else None


def _is_brief(ring: Ringing, quiet: Quiet) -> bool:
    """Whether a ring is over as soon as a stopped note may be."""
    return 1000.0 * (ring.to_s - ring.from_s) < quiet.room_ms


def _may_be_the_rooms(kind: str, ring: Ringing, quiet: Quiet, limits: dict[str, float]) -> bool:
    """Whether a ring is no louder than a room may keep it, or its note was let go in time, in a room."""
    if kind == "open_ring":
        return quiet.may_be_a_rooms(ring)
    if kind != "after_stop" or not quiet.in_a_room:
        return False
    stop = max((s for s in quiet.stops if s.due_s <= ring.from_s), key=lambda s: s.due_s, default=None)
    return stop is not None and stop.let_go_within(limits["stop_ms"])


def _what_rings(
    ring: Ringing, quiet: Quiet, limits: dict[str, float], goes_on: Sequence[IntoNext | None], *, echo: bool
) -> tuple[Literal["open_ring", "pressed", "bleed", "after_stop"], Verdict, tuple[str, ...]]:
    """What kind of ringing it is, with its verdict and reasons: into a rest, into the next note, or of a string that
    nothing sounded.
    """
    own = [p for p in quiet.parts if p.string == ring.string and p.until_s <= ring.from_s + QUIET.left_s]
    last = max(own, key=lambda p: p.until_s, default=None)
    over_ms = 1000.0 * (ring.to_s - (ring.from_s if last is None else last.until_s))
    if ring.rest > 0.5:
        return "after_stop", verdict(over_ms, NOISE_EVENTS.u_time_ms, limits["stop_ms"]), _after_stop(ring, quiet)
    if ring.role != "last":
        loud = _level_verdict(ring.level_db, ring.u_db, limits["ring_db"])
        return "pressed" if ring.role == "pressed" else "open_ring", loud, ()
    read = goes_on[last.event] if last is not None and goes_on else None
    judged, reasons = _bleeds(ring, over_ms, read, limits, quiet)
    if echo and judged != "inside" and (read is None or not read.held):
        return "bleed", "unclear", ("echo_effect",)
    return "bleed", judged, reasons


def _after_stop(ring: Ringing, quiet: Quiet) -> tuple[str, ...]:
    """Why a string sounds into a rest, where that can be told."""
    if ring.role == "last":
        return ("still_fretted",)
    left = any(p.string == ring.string for p in quiet.parts if abs(p.until_s - ring.from_s) < NOISE_EVENTS.hand_first_s)
    return ("fretting_hand_first",) if left else ()


def _bleeds(
    ring: Ringing, over_ms: float, read: IntoNext | None, limits: dict[str, float], quiet: Quiet
) -> tuple[Verdict, tuple[str, ...]]:
    """Whether a string that was left sounds into the next note too long and too loud, with the reasons; read: its
    note's own overlap.
    """
    finely = None if read is None else read.verdict
    if finely == "outside":
        return "outside", ()  # within 20 dB of the next note all the time: as loud as that is too loud
    if read is not None and read.let_go:
        return "inside", ()
    if read is not None and read.excused:
        return "unclear", ()
    loud = _level_verdict(ring.level_db, ring.u_db, limits["ring_db"])
    half_ms = 250.0 * ring.seen_s
    seen = verdict(over_ms - half_ms, float(np.hypot(NOISE_EVENTS.u_time_ms, half_ms)), limits["overlap_ms"])
    both = {loud, seen if finely is None or seen == "outside" else finely}
    if both != {"outside"}:
        return ("inside" if "inside" in both else "unclear"), ()
    if quiet.in_a_room and _is_brief(ring, quiet):
        return "unclear", ("brief_in_a_room",)
    return ("unclear", ("room_rings",)) if quiet.is_kept_by_the_room(ring) else ("outside", ())


def _bleeds_unseen(
    match: Match, quiet: Quiet, goes_on: Sequence[IntoNext | None], seen: Sequence[NoiseEvent]
) -> list[NoiseEvent]:
    """Notes that go on too long under the next, as their overlap says, where the windows in which strings are looked
    for did not show them: too short, or too near in pitch.
    """
    found = []
    for i, read in enumerate(goes_on):
        if read is None or read.verdict != "outside":
            continue
        to_s = read.from_s + 0.001 * read.found.ms
        asked = match.events[i].notes[0].note
        if any(e.string == asked.string and e.from_s < to_s and e.to_s > read.from_s for e in seen):
            continue
        near, repeat = _place(quiet, match, read.from_s)
        found.append(
            NoiseEvent(
                kind="bleed",
                string=asked.string,
                from_s=float(np.ceil(1000.0 * read.from_s)) / 1000.0,  # not in the note's own time
                to_s=round(to_s, 3),
                level_db=round(read.found.level_db, 1),
                u=OVERLAP.u_db,
                near=near,
                fret=asked.fret,
                hz=round(midi_to_hz(match.events[i].main_midi + match.offset_cents / 100.0), 2),
                repeat=repeat,
                verdict="outside",
            )
        )
    return found


def hum_event(levels: Levels, match: Match) -> list[NoiseEvent]:
    """Hum of the rig, where it is not far under the notes."""
    heard = [n.level_dbfs for n in match.heard if n is not None]
    if levels.hum is None or not heard:
        return []
    level = levels.hum.level_dbfs - float(np.median(heard))
    if level < NOISE_EVENTS.hum_audible_db:
        return []
    first, last = match.notes[0], match.notes[-1]
    return [
        NoiseEvent(
            kind="hum",
            string=None,
            from_s=round(first.onset_s, 3),
            to_s=round(last.end_s, 3),
            level_db=round(level, 1),
            u=2.0,
            near=None,
            hz=levels.hum.hz,
        )
    ]

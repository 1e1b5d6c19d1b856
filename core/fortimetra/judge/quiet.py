"""Verdicts of what should be silent, added to each note; and the events to be shown."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from statistics import median

import numpy as np
from numpy.typing import NDArray

from fortimetra.align.match import Match
from fortimetra.hear.notes import HeardNote
from fortimetra.judge.noise_events import hum_event, noise_events
from fortimetra.judge.settings import QUIET_JUDGED
from fortimetra.judge.time_and_touch import IntoNext
from fortimetra.judge.verdict import together, verdict
from fortimetra.measure.chord import Balance, ChordNote, balances
from fortimetra.measure.quiet import Quiet
from fortimetra.measure.ring import RingReading
from fortimetra.measure.stop import Stop
from fortimetra.medians import finite_medians
from fortimetra.model.analysis import ChordFound, NoiseEvent, NoiseFound, NoteFound
from fortimetra.model.drill import Drill
from fortimetra.model.summary import NoiseSummary, StringNoise
from fortimetra.model.verdict import Verdict
from fortimetra.sound.levels import Levels
from fortimetra.units import rounded

NONE = np.zeros(0, np.int64)


@dataclass(frozen=True)
class QuietJudged:
    """Notes with their noise, the events of the take, and what is said of it as a whole."""

    notes: list[NoteFound]
    events: tuple[NoiseEvent, ...]
    summary: NoiseSummary
    warnings: tuple[str, ...]


def judge_quiet(
    notes: Sequence[NoteFound],
    match: Match,
    quiet: Quiet,
    drill: Drill,
    levels: Levels,
    thuds: Sequence[HeardNote] = (),
    goes_on: Sequence[IntoNext | None] = (),
) -> QuietJudged:
    """Judge what sounds and should not.

    notes: every asked note of every repeat in score order, as judged by everything else. thuds: attacks without pitch
    that nobody asked for. goes_on: how each event sounds into the next.
    """
    limits = drill.limits()
    echo = quiet.echoes
    others = _others(quiet)
    events = noise_events(match, quiet, thuds, limits, goes_on=goes_on, echo=bool(echo))
    if others:
        events = [e.model_copy(update={"verdict": "unclear", "reasons": ("other_sounds",)}) for e in events]
    windows = _windows_by_event(quiet)
    hum = hum_event(levels, match)
    strings = len(drill.tuning)
    per_event = {
        i: _of_event(i, quiet, windows.get(i, NONE), events, limits, strings, echo=bool(echo))
        for i in range(len(match.events))
    }
    balance = balances(quiet.chords)
    chord_notes = {(c.part.event, c.part.string): c for chord in quiet.chords for c in chord}
    asked = "noise" in drill.measures
    judged: list[NoteFound] = []
    order = [(i, n) for i, event in enumerate(match.events) for n in event.notes]
    for note, (i, asked_note) in zip(notes, order, strict=True):
        if note.status == "missed":
            judged.append(note)
            continue
        noise, why = per_event[i]
        if asked_note.note.muted:
            noise = _of_muted(asked_note.note.string, i, match, events, noise)
        if others:
            noise, why = noise.model_copy(update={"verdict": "unclear"}), ("other_sounds",)
        chord = _chord(
            chord_notes.get((i, asked_note.note.string)),
            balance.get((i, asked_note.note.string)),
            limits["level_db"],
            driven=bool(quiet.driven),
        )
        judged.append(_with(note, noise, chord, why, drill, asked=asked, driven=bool(quiet.driven)))
    told = {"echo_effect": bool(echo), "in_a_room": quiet.in_a_room and not echo, "other_sounds": others}
    warnings = tuple(code for code, true in told.items() if true)
    return QuietJudged(
        judged,
        tuple(sorted([*events, *hum], key=lambda e: e.from_s)),
        _summary(quiet, events, hum, strings, echo),
        warnings,
    )


def _others(quiet: Quiet) -> bool:
    return quiet.reading is not None and quiet.reading.other_share > QUIET_JUDGED.other_share


def _sure(ring: NoiseEvent, hidden: Sequence[int], limit_db: float) -> Verdict | None:
    """A ring's verdict under one note. A string that would hardly be heard beside it is not surely heard either, unless
    it rings far over what is allowed.
    """
    barely = ring.level_db - ring.u < limit_db + QUIET_JUDGED.barely_db
    return "unclear" if ring.verdict == "outside" and ring.string in hidden and barely else ring.verdict


@dataclass(frozen=True)
class _Under:
    """What rings under one event: the worst of it, the level from which it would be heard, and what is said."""

    worst: NoiseEvent | None = None
    floor_db: float | None = None
    hidden: tuple[int, ...] = ()
    verdicts: tuple[Verdict, ...] = ()
    reasons: tuple[str, ...] = ()


def _of_event(
    index: int,
    quiet: Quiet,
    rows: NDArray[np.int64],
    events: Sequence[NoiseEvent],
    limits: dict[str, float],
    strings: int,
    *,
    echo: bool,
) -> tuple[NoiseFound, tuple[str, ...]]:
    """What rings while one event sounds, and its stop; with the reasons."""
    stop = next((s for s in quiet.stops if s.event == index), None)
    stop_verdict, why = (None, []) if stop is None else _of_stop(stop, limits["stop_ms"], quiet, events, echo=echo)
    verdicts = [] if stop_verdict is None else [stop_verdict]
    under = _under(index, quiet, rows, events, limits["ring_db"], strings)
    decay_ms, u_ms = (None, None) if stop is None or stop.decay_ms is None else (stop.decay_ms, stop.u_ms)
    found = NoiseFound(
        worst_ring_db=None if under.worst is None else under.worst.level_db,
        string=None if under.worst is None else under.worst.string,
        u=None if under.worst is None else under.worst.u,
        floor_db=rounded(under.floor_db, 1),
        hidden_strings=under.hidden,
        decay_ms=rounded(decay_ms, 0),
        u_decay=rounded(u_ms, 0),
        stop_verdict=stop_verdict,
        verdict=together([*verdicts, *under.verdicts]),
    )
    return found, tuple(dict.fromkeys([*why, *under.reasons]))


def _of_stop(
    stop: Stop, limit_ms: float, quiet: Quiet, events: Sequence[NoiseEvent], *, echo: bool
) -> tuple[Verdict, list[str]]:
    """The verdict of a stop and the reasons. Let go in time, in a room: what sounds on may be what that keeps of it."""
    judged = _stop_verdict(stop, limit_ms, echo=echo)
    if judged == "outside" and quiet.in_a_room and stop.let_go_within(limit_ms):
        return "unclear", ["room_rings"]
    if judged == "outside" and _covered(stop, events):
        judged = "unclear"
    return judged, _stop_reasons(stop, judged, events)


def _covered(stop: Stop, events: Sequence[NoiseEvent]) -> bool:
    """Whether an other sound lies over the time in which it should have become quiet."""
    until_s = stop.due_s + (stop.decay_ms or 0.0) / 1000.0
    return any(e.kind == "other" and e.from_s < until_s and e.to_s > stop.due_s for e in events)


def _stop_reasons(stop: Stop, judged: Verdict, events: Sequence[NoiseEvent]) -> list[str]:
    if judged == "outside":
        after = [e for e in events if e.kind == "after_stop" and abs(e.from_s - stop.due_s) < QUIET_JUDGED.after_stop_s]
        return ["rings_after_stop", *(r for e in after for r in e.reasons)]
    return ["floor_too_high"] if stop.decay_ms is None else []


def _under(
    index: int, quiet: Quiet, rows: NDArray[np.int64], events: Sequence[NoiseEvent], limit_db: float, strings: int
) -> _Under:
    """What rings in the windows of one event."""
    own = quiet.parts_of.get(index)
    reading = quiet.reading
    if not own or reading is None or not len(rows):
        return _Under(verdicts=("unclear",), reasons=("too_short_for_noise",))
    rings = _ringing(events, own[0].from_s, min(max(p.until_s for p in own), reading.middle_s[rows[-1]] + 1.0))
    floors = _floors(reading, rows, set(range(1, strings + 1)) - {p.string for p in own})
    hidden = tuple(s for s, f in floors.items() if f > limit_db and not _silent_near(quiet, rows, s, limit_db))
    mostly_hidden = len(hidden) > QUIET_JUDGED.most_hidden_share * len(floors)
    verdicts, reasons = _of_rings(
        [(e, _sure(e, hidden, limit_db)) for e in rings], some_hidden=bool(hidden), mostly_hidden=mostly_hidden
    )
    worst = max(rings, key=lambda e: e.level_db, default=None)
    floor_db = median(floors.values()) if floors else None
    return _Under(worst, floor_db, hidden, verdicts, reasons)


def _ringing(events: Sequence[NoiseEvent], from_s: float, to_s: float) -> list[NoiseEvent]:
    return [e for e in events if e.kind in {"open_ring", "pressed", "bleed"} and e.from_s < to_s and e.to_s > from_s]


def _of_rings(
    judged: Sequence[tuple[NoiseEvent, Verdict | None]], *, some_hidden: bool, mostly_hidden: bool
) -> tuple[tuple[Verdict, ...], tuple[str, ...]]:
    """The verdicts that an event's rings give it, and the reasons. hidden: strings that would not be heard to ring."""
    verdicts = [v for _, v in judged if v is not None]
    reasons = [str(e.kind) for e, v in judged if v == "outside"]
    if not reasons and (mostly_hidden or (some_hidden and "unclear" in verdicts)):
        reasons = ["strings_hidden"]
    if mostly_hidden:
        verdicts.append("unclear")
    elif not judged:
        verdicts.append("inside")
    return tuple(verdicts), tuple(reasons)


def _stop_verdict(stop: Stop, limit_ms: float, *, echo: bool) -> Verdict:
    if stop.decay_ms is None or echo:
        return "unclear"
    judged = verdict(stop.decay_ms, stop.u_ms, limit_ms)
    # Where the rest ends before it has gone, it lasted at least so long.
    return "unclear" if judged == "inside" and not stop.gone else judged


def _windows_by_event(quiet: Quiet) -> dict[int, NDArray[np.int64]]:
    """For each event the windows in which it is the last one begun and sounds."""
    if quiet.reading is None:
        return {}
    event = np.array([-1 if s.rest else s.event for s in quiet.spans])[quiet.reading.span]
    order = np.argsort(event, kind="stable")
    found, first = np.unique(event[order], return_index=True)
    return {int(e): rows for e, rows in zip(found, np.split(order, first[1:]), strict=True) if e >= 0}


def _floors(reading: RingReading, rows: NDArray[np.int64], strings: Collection[int]) -> dict[int, float]:
    """By string the median level from which it would have been heard, open; without those that had not to be silent."""
    medians = finite_medians(reading.floor_db[rows])
    return {string: float(m) for string in sorted(strings) if not np.isnan(m := medians[string - 1])}


def _silent_near(quiet: Quiet, rows: NDArray[np.int64], string: int, limit_db: float) -> bool:
    """Whether the open string was heard to be silent just before or after, with no stop between: whatever rang before
    it, a hand has stopped.
    """
    reading = quiet.reading
    if reading is None:
        return False
    first_s, last_s = reading.middle_s[rows[0]], reading.middle_s[rows[-1]]
    from_s = max([first_s - QUIET_JUDGED.silent_near_s, *(s.due_s for s in quiet.stops if s.due_s < first_s)])
    to_s = min([last_s + QUIET_JUDGED.silent_near_s, *(s.due_s for s in quiet.stops if s.due_s > last_s)])
    near = (reading.middle_s > from_s) & (reading.middle_s < to_s)
    floor = reading.floor_db[near, string - 1]
    rings = np.isfinite(reading.level_db[near, string - 1])
    return bool(np.any((floor <= limit_db) & ~rings)) and not bool(rings.any())


def _of_muted(string: int, index: int, match: Match, events: Sequence[NoiseEvent], noise: NoiseFound) -> NoiseFound:
    """Of a string that is struck and must not sound: only what it does itself."""
    heard = match.heard[index]
    later = next((n.onset_s for n in match.heard[index + 1 :] if n is not None), np.inf)
    own = [
        e for e in events if e.string == string and heard is not None and e.from_s < later and e.to_s > heard.onset_s
    ]
    worst = max(own, key=lambda e: e.level_db, default=None)
    told: Verdict = "unclear" if string in noise.hidden_strings else "inside"
    return NoiseFound(
        worst_ring_db=None if worst is None else worst.level_db,
        string=None if worst is None else string,
        u=None if worst is None else worst.u,
        floor_db=noise.floor_db,
        hidden_strings=(string,) if string in noise.hidden_strings else (),
        verdict=told if worst is None or worst.verdict is None else worst.verdict,
    )


def _chord(note: ChordNote | None, balance: Balance | None, limit_db: float, *, driven: bool) -> ChordFound | None:
    if note is None:
        return None
    judged: Verdict = "unclear"
    if note.present is False:
        judged = "outside"
    elif balance is not None and not driven:
        # What the guitar itself makes of other frets is in the uncertainty: a note counts as unequal only beyond it,
        # and as equal where it is read so (guarded rejection, JCGM 106:2012, 8.3.3).
        judged = "inside" if abs(balance.db) <= limit_db else verdict(balance.db, balance.u, limit_db)
    return ChordFound(
        present=note.present,
        level_db=rounded(note.level_db, 1),
        balance_db=None if balance is None else round(balance.db, 1),
        u=None if balance is None else round(balance.u, 1),
        verdict=judged,
    )


def _with(
    note: NoteFound,
    noise: NoiseFound,
    chord: ChordFound | None,
    why: tuple[str, ...],
    drill: Drill,
    *,
    asked: bool,
    driven: bool,
) -> NoteFound:
    verdicts: list[Verdict] = [note.clean] if note.clean is not None else []
    reasons = [r for r in note.reasons if r != "within_uncertainty"]
    if asked:
        verdicts.append(noise.verdict)
        reasons += why if noise.verdict != "inside" else ()
    missing = chord is not None and chord.present is False
    if chord is not None:
        # Drive presses the strings of a chord together: what one string's share is nobody hears, and nobody judges.
        in_chord, says = _in_chord(chord, level="level" in drill.measures and not driven)
        verdicts += in_chord
        reasons += says
    clean = together(verdicts) if verdicts else None
    if clean == "unclear" and not reasons:
        reasons.append("within_uncertainty")
    return note.model_copy(
        update={
            "noise": noise,
            "chord": chord,
            "status": "missed" if missing else note.status,
            "clean": clean,
            "reasons": tuple(dict.fromkeys(reasons)),
        }
    )


def _in_chord(chord: ChordFound, *, level: bool) -> tuple[list[Verdict], list[str]]:
    """What a note's part in its chord adds: verdicts and reasons. level: the drill asks for levels."""
    if chord.present is False:
        return ["outside"], ["chord_note_missing"]
    if not level or chord.balance_db is None:
        return [], []
    return [chord.verdict], ["chord_unbalanced"] if chord.verdict == "outside" else []


def _summary(
    quiet: Quiet, events: Sequence[NoiseEvent], hum: Sequence[NoiseEvent], strings: int, echo: bool | None
) -> NoiseSummary:
    reading = quiet.reading
    rows = []
    for string in range(1, strings + 1):
        own = [e for e in events if e.string == string]
        floors = reading.floor_db[:, string - 1] if reading is not None else np.full(1, np.nan)
        known = floors[~np.isnan(floors)]
        rows.append(
            StringNoise(
                string=string,
                events=len(own),
                seconds=round(sum(e.to_s - e.from_s for e in own), 2),
                worst_db=max((e.level_db for e in own), default=None),
                floor_db=round(float(np.median(known)), 1) if len(known) else None,
            )
        )
    decays = [s.decay_ms for s in quiet.stops if s.decay_ms is not None]
    return NoiseSummary(
        strings=tuple(rows),
        decay_ms=round(float(np.median(decays)), 0) if decays else None,
        scrapes=len(quiet.scrapes),
        hum_db=hum[0].level_db if hum else None,
        echo=echo,
        driven=quiet.driven,
    )

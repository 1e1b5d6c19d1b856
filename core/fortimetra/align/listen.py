"""Listening for what the drill asks: everything that may be a note, paired with the drill, then cut into notes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise
from typing import Literal, TypedDict

import numpy as np
from numpy.typing import NDArray

from fortimetra.align.alike import by_the_beat
from fortimetra.align.cheapest import FREE, NOT_PLAYED
from fortimetra.align.doubles import doubles_of, with_double_hits
from fortimetra.align.echoes import without_echoes
from fortimetra.align.match import AskedEvent, Match, OtherSound, asked_events, no_notes, under_slide
from fortimetra.align.others import without_others
from fortimetra.align.pair import match
from fortimetra.align.settings import LISTEN
from fortimetra.align.slid import slid_into
from fortimetra.align.strokes import begins_something, first_of_doubles, strokes_for_chances
from fortimetra.align.swings import heard_swings, tells_by_swing
from fortimetra.hear.contour import Contour
from fortimetra.hear.crossing import Crossing, crossing
from fortimetra.hear.notes import HeardNote, note_from, pitchless_note, steps
from fortimetra.hear.onsets import Candidates
from fortimetra.hear.salience import Salience, salience
from fortimetra.hear.settings import CONTOUR, NOTES, ONSETS, SALIENCE
from fortimetra.model.drill import SLURRED, Drill
from fortimetra.model.word import Pin
from fortimetra.sound.decode import resampled
from fortimetra.sound.samples import Samples
from fortimetra.units import A4_HZ, FloatArray, hz_to_midi


def listen(
    mono: Samples,
    contour: Contour,
    candidates: Candidates,
    drill: Drill,
    *,
    rate_hz: int,
    pins: Sequence[Pin] = (),
    first_beat_s: float | None = None,
) -> Match:
    """Pair what sounds with what is asked; the heard notes end where the next one begins.

    mono: float32, shape (n_samples,). pins: what somebody who listened said is what. first_beat_s: as
    `match`. Raises TakeError as `match`.
    """
    found = _of_the_drill(_nodes(contour, candidates, drill), pins)
    if not found:
        raise no_notes()
    places = {(e.notes[0].event.id, e.notes[0].repeat): i for i, e in enumerate(asked_events(drill))}
    said = [(places[p.id, p.repeat], p.at_s) for p in pins if p.id is not None and (p.id, p.repeat) in places]
    found = _with_pinned(found, contour, [at_s for _, at_s in said if at_s is not None])
    pinned = _pinned(found, len(places), said)
    told = _told(mono, contour, found, drill, rate_hz)
    matched = match(
        found, drill, told, pinned, first_beat_s=first_beat_s, off_cents=_alike_cents(contour, drill),
        swings=heard_swings(found, contour) if tells_by_swing(drill) else None,
    )  # fmt: skip
    drill = at_pace(drill, matched.pace)
    matched = replace(matched, extras=tuple(n for n in matched.extras if begins_something(n, contour)))
    matched = without_echoes(matched)
    fixed = frozenset(np.flatnonzero(pinned != FREE).tolist())
    if drill.tempo is not None:
        matched = by_the_beat(matched, drill.seconds_per_beat, fixed, first_beat_s=first_beat_s)
    matched = strokes_for_chances(matched, found, told, drill, fixed)
    matched = without_others(matched, found, told, contour)
    matched = replace(matched, others=matched.others + _left_out(pins, contour))
    matched = slid_into(matched, found, drill)
    matched = _with_slurs(matched, mono, contour, drill, rate_hz, fixed)
    matched = first_of_doubles(matched, contour, drill, fixed)
    matched = with_double_hits(matched, candidates, contour, drill, mono=mono, rate_hz=rate_hz)
    return _cut(contour, matched, drill)


def at_pace(drill: Drill, pace: float) -> Drill:
    """The drill at the tempo it was played, where that is another."""
    return drill if pace == 1.0 or drill.tempo is None else drill.at(drill.tempo.bpm / pace)


def _of_the_drill(found: list[HeardNote], pins: Sequence[Pin]) -> list[HeardNote]:
    """What is left where somebody said that a stretch is not of the drill."""
    return [n for n in found if not any(a <= n.onset_s <= b for a, b in _stretches(pins))]


def _stretches(pins: Sequence[Pin]) -> list[tuple[float, float]]:
    return [(p.at_s, p.to_s) for p in pins if p.at_s is not None and p.to_s is not None]


def _left_out(pins: Sequence[Pin], contour: Contour) -> tuple[OtherSound, ...]:
    """Those stretches as other sounds: what they cover is not held against the notes about them."""
    found = []
    for from_s, to_s in _stretches(pins):
        level = contour.level_dbfs[contour.frames(from_s, to_s)]
        found.append(OtherSound(from_s, to_s, float(level.max(initial=-120.0))))
    return tuple(found)


def _with_pinned(found: list[HeardNote], contour: Contour, times_s: Sequence[float]) -> list[HeardNote]:
    """The nodes, and one more wherever somebody heard a note where none was found."""
    end = float(contour.time_s[-1]) + CONTOUR.hop_s
    onsets = [n.onset_s for n in found]
    new = []
    for at_s in times_s:
        if any(abs(at_s - t) <= LISTEN.pin_within_s for t in onsets):
            continue
        limit = min((t for t in onsets if t > at_s), default=end)
        note = note_from(contour, at_s, limit, "attack") or pitchless_note(
            contour, at_s, limit, least_s=LISTEN.least_note_s
        )
        if note is not None:
            new.append(replace(note, onset_u_ms=1000.0 * LISTEN.pin_within_s))
    return sorted([*found, *new], key=lambda n: n.onset_s) if new else found


def _pinned(found: list[HeardNote], n_events: int, said: Sequence[tuple[int, float | None]]) -> NDArray[np.int64]:
    """For each asked event what was said of it; later words over earlier ones, pins to sounds that are not there left
    out.
    """
    pinned = np.full(n_events, FREE)
    onsets = np.array([n.onset_s for n in found])
    for event, at_s in said:
        if at_s is None:
            pinned[event] = NOT_PLAYED
            continue
        nearest = int(np.argmin(np.abs(onsets - at_s)))
        if abs(onsets[nearest] - at_s) <= LISTEN.pin_within_s:
            pinned[pinned == nearest] = FREE
            pinned[event] = nearest
    return pinned


def _nodes(contour: Contour, candidates: Candidates, drill: Drill) -> list[HeardNote]:
    """Strong attacks and steps of pitch as notes, and the soft rises between them that might be notes of this drill."""
    slurs = np.array(steps(contour, candidates.strong_s))
    if any(e.slide for e in drill.events) and len(slurs):
        # A finger slides from fret to fret: of steps in quick succession only the last arrives.
        slurs = slurs[np.append(np.diff(slurs) > LISTEN.fret_to_fret_s, True)]
    soft = np.flatnonzero(~candidates.strong)
    kept = soft[_kept(candidates, soft, slurs, _apart_s(drill))]
    attacks = np.union1d(np.flatnonzero(candidates.strong), kept)
    places: list[tuple[float, Literal["attack", "step"], int]] = [
        (float(candidates.time_s[i]), "attack", int(i)) for i in attacks
    ]
    places += [(float(t), "step", -1) for t in slurs]
    places.sort()
    clear = candidates.strong & (
        (candidates.rise_db >= LISTEN.ends_rise_db) | (candidates.contrast_db >= LISTEN.ends_contrast_db)
    )
    firm = np.sort(np.concatenate((candidates.time_s[clear], slurs)))
    end = float(contour.time_s[-1]) + CONTOUR.hop_s
    nodes = []
    for time, kind, index in places:
        after = int(np.searchsorted(firm, time + 1e-6))
        limit = float(firm[after]) if after < len(firm) else end
        note = note_from(contour, time, limit, kind) or pitchless_note(
            contour, time, limit, least_s=LISTEN.least_note_s
        )
        if note is None:
            continue
        if kind == "attack":
            strong = bool(candidates.strong[index])
            rise = float(candidates.rise_db[index])
            note = replace(
                note,
                rise_db=max(rise, ONSETS.rise_db) if strong else min(rise, 0.99 * ONSETS.rise_db),
                contrast_db=float(candidates.contrast_db[index]),
                onset_u_ms=float(candidates.u_ms[index]),
            )
        nodes.append(note)
    return nodes


def _apart_s(drill: Drill) -> float:
    """How near two soft rises cannot both be notes: a share of the drill's shortest slot."""
    beats = sorted({drill.played_beat(e.beat) for e in drill.events if e.notes})
    slots = [b - a for a, b in pairwise(beats)]
    return max(LISTEN.soft_apart_s, LISTEN.soft_apart_share * min(slots, default=1.0) * drill.seconds_per_beat)


def _kept(candidates: Candidates, soft: np.ndarray, slurs: FloatArray, apart_s: float) -> np.ndarray:
    """Which soft rises stand alone: none stronger near, and no slur, whose step of pitch is what counts."""
    time = candidates.time_s
    weight = np.where(candidates.strong, np.inf, candidates.rise_db + candidates.contrast_db / 3.0)
    kept = np.ones(len(soft), dtype=bool)
    for number, i in enumerate(soft):
        near = slice(*np.searchsorted(time, (time[i] - apart_s, time[i] + apart_s)))
        kept[number] = weight[i] >= weight[near].max()
    if len(slurs):
        nearest = np.min(np.abs(time[soft][:, None] - slurs[None, :]), axis=1)
        kept &= nearest > min(LISTEN.soft_from_step_s, apart_s)
    return kept


def _told(mono: Samples, contour: Contour, found: list[HeardNote], drill: Drill, rate_hz: int) -> Salience:
    asked = [drill.midi(n) for e in drill.events for n in e.notes] or [60.0]
    midi = (int(min(asked)) - LISTEN.midi_margin, int(max(asked)) + LISTEN.midi_margin)
    sound = resampled(mono, from_hz=rate_hz, to_hz=min(SALIENCE.rate_hz, rate_hz))
    onsets = np.array([n.onset_s for n in found])
    firm = np.append(np.array([n.onset_s for n in found if n.strong]), np.inf)
    until = firm[np.searchsorted(firm, onsets + 1e-6)]
    off_cents, rate = _off_cents(contour), min(SALIENCE.rate_hz, rate_hz)
    told = salience(sound, onsets, until, rate_hz=rate, midi=midi, offset_cents=off_cents)
    if not _moves(drill):
        return told
    # A bend that misses, or a slide, is a string between the semitones, too.
    between = salience(sound, onsets, until, rate_hz=rate, midi=midi, offset_cents=off_cents + 50.0)
    return replace(
        told, tonal=np.maximum(told.tonal, between.tonal), new=np.maximum(told.new, between.new),
        all_score=np.maximum(told.all_score, between.all_score),
    )  # fmt: skip


def _moves(drill: Drill) -> bool:
    """Whether a note of a drill may lie anywhere between two semitones."""
    return any(e.bend or e.vibrato or e.slide for e in drill.events) or under_slide(drill)


def _off_cents(contour: Contour) -> float:
    """How far the take as a whole lies off the semitones of 440 Hz, −50 to 50."""
    return _off(contour)[0]


def _off(contour: Contour) -> tuple[float, float]:
    """That, and how alike all of it is, 0 to 1: the mean of the pitches, by amplitude, as directions on a
    semitone's circle.
    """
    voiced = ~np.isnan(contour.f0_hz)
    if not voiced.any():
        return 0.0, 0.0
    turn = np.exp(2j * np.pi * 12.0 * np.log2(contour.f0_hz[voiced] / 440.0))
    weight = 10.0 ** (contour.level_dbfs[voiced] / 20.0)
    mean = np.sum(turn * weight) / np.sum(weight)
    # The median about the mean: the first moments of a stroke are sharp.
    around = np.median(np.angle(turn * np.conj(mean / max(abs(mean), 1e-12))))
    return float((np.angle(mean) + around) / (2.0 * np.pi) * 100.0), float(np.abs(mean))


def _alike_cents(contour: Contour, drill: Drill) -> float | None:
    """How far everything lies off the drill's semitones, of drills in which no pitch moves; None where it is not
    alike. Of strings struck together the contour may follow a pitch that none of them has, but not off their grid.
    """
    if _moves(drill):
        return None
    cents, alike = _off(contour)
    cents -= 100.0 * (hz_to_midi(drill.a4_hz) - hz_to_midi(A4_HZ))
    return (cents + 50.0) % 100.0 - 50.0 if alike > LISTEN.alike_share else None


def _with_slurs(
    matched: Match, mono: Samples, contour: Contour, drill: Drill, rate_hz: int, fixed: frozenset[int]
) -> Match:
    """Slurred notes at the middle of their step of pitch, also those whose step the contour loses; what slides over
    frets, where it arrives.
    """
    rate = min(SALIENCE.rate_hz, rate_hz)
    sound: Samples | None = None
    heard = list(matched.heard)
    for i in range(1, len(heard)):
        step = None if i in fixed else _slur(matched, heard, i, drill)
        if step is None:
            continue
        own, before, now = heard[i], matched.events[i - 1], matched.events[i]
        over_frets = _over_frets(before, now)
        if own is not None and over_frets and len(now.notes) == 1:
            reached_s = _reached_s(contour, step)
            if reached_s is not None:
                heard[i] = replace(own, onset_s=reached_s, kind="step", onset_u_ms=NOTES.step_u_ms)
            continue
        if sound is None:
            sound = resampled(mono, from_hz=rate_hz, to_hz=rate)
        found = crossing(sound, rate_hz=rate, **step)
        if found is not None and found.clear:
            heard[i] = _stepped(own, found, contour, over_frets=over_frets, until_s=step["to_s"])
    order = [n.onset_s for n in heard if n is not None]
    if order != sorted(order):
        return matched
    return replace(matched, heard=tuple(heard), told_semitones=_told_with(matched, heard))


def _stepped(
    own: HeardNote | None, step: Crossing, contour: Contour, *, over_frets: bool, until_s: float
) -> HeardNote | None:
    """A slurred note at its step of pitch; one that was not heard is as long as there is sound until then."""
    at_s = step.arrives_s if over_frets and step.arrives_s is not None else step.time_s
    if own is None:
        new = pitchless_note(contour, at_s, until_s, least_s=LISTEN.least_note_s)
        return None if new is None else replace(new, kind="step", onset_u_ms=step.u_ms)
    return replace(own, onset_s=at_s, kind="step", onset_u_ms=step.u_ms) if _at_step(own, at_s) else own


def _reached_s(contour: Contour, step: _Step) -> float | None:
    """When a string that slides is where it should arrive, for LISTEN.reached_s at least; None where that is not
    heard.
    """
    frames = contour.frames(step["from_s"], step["to_s"])
    hold = round(LISTEN.reached_s / CONTOUR.hop_s)
    semitones = 12.0 * np.log2(contour.f0_hz[frames] / step["new_hz"][0])
    if len(semitones) < hold:
        return None
    there = np.lib.stride_tricks.sliding_window_view(np.abs(semitones) < 0.5, hold).all(axis=1)
    return float(contour.time_s[frames][np.argmax(there)]) if there.any() else None


def _told_with(matched: Match, heard: Sequence[HeardNote | None]) -> tuple[float | None, ...]:
    """How far off the pitches are told, with the notes that were heard only now: at their pitch."""
    told = list(matched.told_semitones) or [None] * len(heard)
    return tuple(
        0.0 if new is not None and old is None else known
        for new, old, known in zip(heard, matched.heard, told, strict=True)
    )


def _at_step(note: HeardNote, step_s: float) -> bool:
    """Whether a note begins at its step of pitch rather than at the attack it was heard by."""
    return (
        note.kind == "step" or note.contrast_db < LISTEN.sharp_db or abs(note.onset_s - step_s) > LISTEN.same_change_s
    )


class _Step(TypedDict):
    """Where to look for a change of pitch, and between which."""

    old_hz: list[float]
    new_hz: list[float]
    from_s: float
    to_s: float
    way_s: float


def _slur(matched: Match, heard: list[HeardNote | None], i: int, drill: Drill) -> _Step | None:
    """Where to look for the change of pitch of a slurred event, and between which pitches; None where it is none."""
    before, now = matched.events[i - 1], matched.events[i]
    last = heard[i - 1]
    if last is None or not _steps(before, now):
        return None
    spb = drill.seconds_per_beat
    slot_s = (drill.played_beat(now.beat) - drill.played_beat(before.beat)) * spb
    own = heard[i]
    due = last.onset_s + slot_s
    # Where hardly anything rises it may as well be where it is expected.
    near = (due,) if own is None else (due, own.onset_s) if own.hardly_rises else (own.onset_s,)
    after = next((n.onset_s for n in heard[i + 1 :] if n is not None), np.inf)
    length_s = now.notes[0].event.length * spb
    slide = now.notes[0].event.slide
    travels_s = slide.length * spb if slide is not None and slide.length is not None else 0.0
    shift = matched.offset_cents / 100.0
    return {
        "old_hz": before.sounding_hz(before.main_midi + shift),
        "new_hz": now.sounding_hz(now.start_midi + shift),
        "from_s": max(last.onset_s + 0.01, min(near) - 0.6 * min(slot_s, 0.25) - travels_s),
        # A slide may have been heard anywhere on its way.
        "to_s": float(min(after - 0.005, max(near) + 0.6 * min(length_s, 0.25) + travels_s)),
        "way_s": travels_s,
    }


def _steps(before: AskedEvent, now: AskedEvent) -> bool:
    """Whether an event is slurred from the one before it by a step of pitch on the same strings."""
    first = now.notes[0]
    alike = len(before.notes) == len(now.notes) and (len(now.notes) == 1 or first.event.articulation == "slide")
    return (
        alike
        and first.event.articulation in SLURRED
        and not _after_a_rest(before, now)
        and first.bend is None
        and before.notes[0].note.string == first.note.string
        and abs(before.main_midi - now.start_midi) >= 0.5
    )


def _over_frets(before: AskedEvent, now: AskedEvent) -> bool:
    """Whether a slide passes frets between: on its way neither pitch sounds, so they are equal in level anywhere."""
    return now.notes[0].event.articulation == "slide" and before.most_frets_to(now) > 1


def _after_a_rest(before: AskedEvent, now: AskedEvent) -> bool:
    """Whether a hammer-on comes from nowhere: nothing sounds that could give way to it."""
    return now.beat - before.beat > before.notes[0].event.length + LISTEN.rest_beats


def _cut(contour: Contour, matched: Match, drill: Drill) -> Match:
    """The paired and the extra notes once more, now that it is known which soft rises are notes."""
    used = matched.notes
    doubles = doubles_of(matched, drill)
    end = float(contour.time_s[-1]) + CONTOUR.hop_s
    # A second stroke ends nothing: the note goes on.
    begin = [n.onset_s for n in used if id(n) not in doubles] + [n.onset_s for a in matched.attempts for n in a.notes]
    ends = np.array([*sorted(begin), max(end, used[-1].end_s)])
    limits = [float(ends[np.searchsorted(ends, n.onset_s + 1e-9, side="right")]) for n in used]
    again: dict[int, HeardNote] = {}
    for note, limit in zip(used, limits, strict=True):
        limit = min(limit, end)
        new = note_from(contour, note.onset_s, limit, note.kind) or pitchless_note(
            contour, note.onset_s, limit, least_s=LISTEN.least_note_s
        )
        again[id(note)] = (
            note
            if new is None
            else replace(new, rise_db=note.rise_db, contrast_db=note.contrast_db, onset_u_ms=note.onset_u_ms)
        )
    return replace(
        matched,
        heard=tuple(None if n is None else again[id(n)] for n in matched.heard),
        extras=tuple(again[id(n)] for n in matched.extras),
    )

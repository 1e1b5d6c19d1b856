"""Verdicts of timing, level and length, added to each note's pitches."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from fortimetra.align.match import Match
from fortimetra.judge.other_sounds import Disturbed, excused
from fortimetra.judge.settings import TOUCH_JUDGED
from fortimetra.judge.verdict import at_least_verdict, together, verdict
from fortimetra.measure.length import NoteLength
from fortimetra.measure.level import AmongItsLike, NoteLevel
from fortimetra.measure.overlap import Overlap, overlap_wanted
from fortimetra.measure.own_falls import OwnFalls
from fortimetra.measure.settings import OVERLAP
from fortimetra.measure.tail import falls_ms
from fortimetra.measure.timing import NoteTiming
from fortimetra.model.analysis import LengthFound, LevelFound, NoteFound, TimingFound
from fortimetra.model.drill import Drill
from fortimetra.model.tolerance import onset_limit_ms
from fortimetra.model.verdict import Verdict
from fortimetra.units import rounded


@dataclass(frozen=True)
class TimeAndTouch:
    """What was measured of each event beside its pitch, in the match's order. moved: its stretch of the take lies off
    the first one's beat. stopped_ms: how long a stopped note may take to fall by OVERLAP.within_db, 0 where nothing
    tells; in_a_room: whether a microphone in a room has heard it fall; own_falls: how notes fall whose string is taken.
    """

    timings: Sequence[NoteTiming | None]
    levels: Sequence[NoteLevel | None]
    lengths: Sequence[NoteLength | None]
    moved: Sequence[bool]
    disturbed: Disturbed
    stopped_ms: float = 0.0
    in_a_room: bool = False
    own_falls: OwnFalls | None = None


def judge_time_and_touch(
    notes: Sequence[NoteFound], match: Match, measured: TimeAndTouch, drill: Drill
) -> list[NoteFound]:
    """The notes with timing, level and length, and with their one verdict over everything the drill asks for."""
    limits = drill.limits()
    per_event: list[int] = [i for i, event in enumerate(match.events) for _ in event.notes]
    judged = []
    for note, i in zip(notes, per_event, strict=True):
        if note.status == "missed":
            judged.append(note)
            continue
        reasons = [r for r in note.reasons if r != "within_uncertainty"]
        timing = _timing(measured, i, match, drill, reasons)
        level = _level(measured, i, limits, drill, reasons)
        length = _length(measured, i, match, limits, drill, reasons)
        verdicts: list[Verdict] = [note.clean] if note.clean is not None else []
        for measure, found in (("timing", timing), ("level", level), ("length", length)):
            if measure in drill.measures and found is not None:
                verdicts.append(found.verdict)
        clean = together(verdicts)
        if clean == "unclear" and not reasons:
            reasons.append("within_uncertainty")
        judged.append(
            note.model_copy(
                update={
                    "timing": timing,
                    "level": level,
                    "length": length,
                    "clean": clean,
                    "reasons": tuple(dict.fromkeys(reasons)),
                }
            )
        )
    return judged


def _timing(measured: TimeAndTouch, i: int, match: Match, drill: Drill, reasons: list[str]) -> TimingFound | None:
    found = measured.timings[i]
    asked = "timing" in drill.measures
    if found is None:
        if asked:
            reasons.append("no_grid")
            return TimingFound(grid_s=None, error_ms=None, u=None, verdict="unclear")
        return None
    slot_s = match.events[i].notes[0].event.length * drill.seconds_per_beat
    limit = onset_limit_ms(drill.profile, slot_s, drill.tolerances.onset_ms)
    if measured.moved[i] and asked:
        reasons.append("after_a_jump")
    return TimingFound(
        grid_s=round(found.due_s, 4),
        error_ms=round(found.error_ms, 2),
        u=round(found.u_ms, 2),
        limit_ms=round(limit, 1),
        verdict=verdict(found.error_ms, found.u_ms, limit),
    )


def _level(
    measured: TimeAndTouch, i: int, limits: dict[str, float], drill: Drill, reasons: list[str]
) -> LevelFound | None:
    found = measured.levels[i]
    asked = "level" in drill.measures
    if found is None:
        if asked:
            reasons.append("level_not_read")
            return LevelFound(level_db=None, deviation_db=None, u=None, dies=None, verdict="unclear")
        return None
    length = measured.lengths[i]
    dies = length.dies if length is not None else None
    judged = _against_its_like(measured, found, limits, reasons, asked=asked)
    judged = excused(judged, other=measured.disturbed.start[i], reasons=reasons, asked=asked)
    if dies and asked and found.way != "slid":
        judged = excused("outside", other=measured.disturbed.whole[i], reasons=reasons, asked=asked)
        reasons += ["dies"] if judged == "outside" else []
    return LevelFound(
        level_db=round(found.level_db, 2),
        deviation_db=rounded(found.deviation_db, 2),
        u=round(found.u_db if found.u_deviation_db is None else found.u_deviation_db, 2),
        u_louder=_less_than_u(found),
        dies=dies,
        way=found.way,
        against=found.against,
        verdict=judged,
    )


def _less_than_u(found: NoteLevel) -> float | None:
    """How much louder a note may be, where that says more than its uncertainty either way."""
    if found.u_louder_db is None or found.u_deviation_db is None:
        return None
    u, u_louder = round(found.u_deviation_db, 2), round(found.u_louder_db, 2)
    return u_louder if u_louder < u else None


def _against_its_like(
    measured: TimeAndTouch, found: NoteLevel, limits: dict[str, float], reasons: list[str], *, asked: bool
) -> Verdict:
    if found.way == "slid":
        return "inside"  # nothing strikes it; whether it arrives alive is said of the slide
    if found.deviation_db is None or found.u_deviation_db is None:
        reasons += ["nothing_to_compare"] if asked else []
        return "unclear"
    u_louder_db = found.u_deviation_db if found.u_louder_db is None else found.u_louder_db
    if found.way != "accented":
        return _unaccented(found, found.deviation_db, found.u_deviation_db, u_louder_db, limits)
    least_db = limits["accent_lift_db"]
    too_low = found.deviation_db + u_louder_db < least_db
    judged = _accent(measured, found.deviation_db, u_louder_db if too_low else found.u_deviation_db, least_db)
    if judged == "outside" and asked:
        reasons.append("accent_missing")
    if judged == "unclear" and asked and found.deviation_db + found.u_deviation_db < least_db:
        reasons.append("accents_pressed")
    return judged


def _unaccented(
    found: NoteLevel, deviation_db: float, u_db: float, u_louder_db: float, limits: dict[str, float]
) -> Verdict:
    """Whether a note is as loud as its like; u_louder_db: how much louder than read it may be."""
    high = limits["level_db"]
    low = max(high, limits["slur_deficit_db"]) if found.against == "picked" else high
    if deviation_db + u_louder_db < -low:
        return "outside"
    judged = verdict(deviation_db, u_db, high if deviation_db > 0 else low)
    return _among_its_like(found.like, low, high) if judged == "unclear" and found.like is not None else judged


def _among_its_like(like: AmongItsLike, low_db: float, high_db: float) -> Verdict:
    """What its like say of a note that is left open by what it is compared with: not even with them, it is off whatever
    that would say; even with them, it is what they are as a whole.
    """
    even = verdict(like.deviation_db, like.u_db, high_db if like.deviation_db > 0 else low_db)
    if even == "inside":
        return verdict(like.group_db, like.u_group_db, high_db if like.group_db > 0 else low_db)
    return even


def _accent(measured: TimeAndTouch, lift_db: float, u_db: float, least_db: float) -> Verdict:
    """Whether an accent stands out. Where all of them do, and alike, but by less than asked, an amplifier's drive or
    automatic gain may have pressed them down: that is not told from a weak hand.
    """
    judged = at_least_verdict(lift_db, u_db, least_db)
    if judged != "outside" or lift_db <= 0.0:
        return judged
    lifts = [n.deviation_db for n in measured.levels if n is not None and n.way == "accented" and n.deviation_db]
    standing = sum(lift > 0.0 for lift in lifts)
    return (
        "unclear"
        if standing >= TOUCH_JUDGED.pressed_share * len(lifts) and len(lifts) >= TOUCH_JUDGED.least_pressed
        else judged
    )


def _length(
    measured: TimeAndTouch, i: int, match: Match, limits: dict[str, float], drill: Drill, reasons: list[str]
) -> LengthFound | None:
    found = measured.lengths[i]
    if found is None:
        return None
    asked = "length" in drill.measures
    event = match.events[i].notes[0].event
    ratio = found.ratio if _something_follows(match, i) else min(found.ratio, 1.0)
    if found.fades:
        ratio = max(ratio, 1.0)  # as long as the string sounds
    verdicts: list[Verdict] = []
    if found.to_next and "timing" in drill.measures and i + 1 < len(measured.timings) and measured.timings[i + 1]:
        verdicts.append("inside")  # it lasts until the next note, and when that comes is the next note's timing
    elif not event.let_ring or ratio < 1.0:
        verdicts.append(verdict((ratio - 1.0) * found.slot_ms, found.u_ms, limits["length_fraction"] * found.slot_ms))
    if overlap_wanted(match, i) and match.heard[i + 1] is not None:
        over, why = _into_next(measured, i, found.over_next, limits)
        verdicts.append(over)
        reasons += [why] if asked and why else []
    return LengthFound(
        length_ratio=round(ratio, 3),
        overlap_ms=None if found.over_next is None else round(found.over_next.ms, 1),
        u=round(found.u_ms, 1),
        u_overlap_ms=None if found.over_next is None else round(found.over_next.u_ms, 1),
        verdict=excused(together(verdicts), other=measured.disturbed.whole[i], reasons=reasons, asked=asked),
    )


@dataclass(frozen=True)
class IntoNext:
    """How a note sounds on into the next, from when that begins on, and whether for too long. excused: it does, but no
    more than a room does, or because the next one comes early or is soft. let_go: in time: what is heard of it later is
    how the recording becomes quiet. held: too long even beside notes whose string was taken, which no room, echo or
    effect explains.
    """

    found: Overlap
    from_s: float
    verdict: Verdict
    excused: bool
    let_go: bool = False
    held: bool = False


def into_next(match: Match, measured: TimeAndTouch, limits: dict[str, float]) -> list[IntoNext | None]:
    """Of each event that should have stopped by the next; None of others, and where it could not be read."""
    found: list[IntoNext | None] = []
    for i, length in enumerate(measured.lengths):
        following = match.heard[i + 1] if i + 1 < len(match.heard) else None
        if length is None or length.over_next is None or following is None or not overlap_wanted(match, i):
            found.append(None)
            continue
        judged, why = _into_next(measured, i, length.over_next, limits)
        found.append(
            IntoNext(
                length.over_next,
                following.onset_s,
                judged,
                excused=judged == "unclear" and why is not None,
                let_go=_is_let_go(length.over_next, measured, limits),
                held=judged == "outside" and measured.own_falls is not None
                and _is_held(length.over_next, measured, limits["overlap_ms"]),
            )
        )  # fmt: skip
    return found


def _into_next(
    measured: TimeAndTouch, i: int, found: Overlap | None, limits: dict[str, float]
) -> tuple[Verdict, str | None]:
    """Whether a note sounds on into the next one, where that is the note's own doing, with the reason. A note that
    falls in time was let go in time, however long a room keeps it.
    """
    if found is None:
        return "unclear", "overlap_hidden"
    if _is_let_go(found, measured, limits):
        return "inside", None
    over = verdict(found.ms, found.u_ms, limits["overlap_ms"])
    if over != "outside":
        return over, None
    if not _is_held(found, measured, limits["overlap_ms"]) and _may_be_falling(found, measured):
        return "unclear", "room_rings"
    if _next_is_off(measured, i, found, limits):
        return "unclear", "next_is_off"
    return over, "rings_on"


def _is_let_go(found: Overlap | None, measured: TimeAndTouch, limits: dict[str, float]) -> bool:
    """Whether a note surely falls in time, and what is heard of it later may be its fall in the recording: a room only
    makes it longer.
    """
    if found is None or not _may_be_falling(found, measured):
        return False
    limit_ms, falls = limits["overlap_ms"], measured.own_falls
    return found.held_ms[1] < (limit_ms if falls is None else falls.held_at_least(limit_ms))


def _is_held(found: Overlap, measured: TimeAndTouch, limit_ms: float) -> bool:
    """Whether a note keeps near its own level for longer than is allowed, and than one that is stopped as the next
    begins could.
    """
    falls = measured.own_falls
    most_ms = max(limit_ms, falls_ms(found.depth_db, measured.stopped_ms))
    if falls is not None:
        own_ms = falls.held_at_most(limit_ms)
        most_ms = min(most_ms, own_ms) if measured.stopped_ms else own_ms
    return found.held_ms[0] > most_ms


def _may_be_falling(found: Overlap, measured: TimeAndTouch) -> bool:
    """Whether a note that is stopped as the next begins may sound as long, falling from the level it had then: nobody's
    doing. In a room it does so by fits and starts.
    """
    to_the_limit_db, stopped_ms = OVERLAP.within_db + found.level_db, measured.stopped_ms
    if not stopped_ms and measured.own_falls is not None:
        stopped_ms = measured.own_falls.slow_ms * OVERLAP.within_db / OVERLAP.held_db
    return measured.in_a_room or found.ms - found.u_ms < falls_ms(to_the_limit_db, stopped_ms)


def _next_is_off(measured: TimeAndTouch, i: int, found: Overlap, limits: dict[str, float]) -> bool:
    """Whether a note sounds into the next one only because that comes early, or is so soft that it stands out."""
    timing, level = measured.timings[i + 1], measured.levels[i + 1]
    if timing is not None:
        early_ms = max(0.0, -timing.error_ms)
        if early_ms > timing.u_ms and found.ms - early_ms - found.u_ms < limits["overlap_ms"]:
            return True
    return level is not None and level.deviation_db is not None and level.deviation_db < -limits["level_db"]


def _something_follows(match: Match, i: int) -> bool:
    """Whether the next asked event begins where this one's slot ends: else sounding longer takes nobody's place."""
    if i + 1 >= len(match.events):
        return False
    end = match.events[i].beat + match.events[i].notes[0].event.length
    return match.heard[i + 1] is not None and abs(match.events[i + 1].beat - end) < 1e-3

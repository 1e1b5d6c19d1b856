"""What a bend or a vibrato is held against: the student's own fretted pitches before the guitar's tuning.

Each function says its order; what is nearest to the note in the take comes first, and each reference brings what is
not known of it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from fortimetra.align.match import Match
from fortimetra.hear.contour import Contour
from fortimetra.hear.notes import HeardNote
from fortimetra.measure.settings import BEND, STATISTICS
from fortimetra.measure.statistics import PitchReading
from fortimetra.model.drill import AskedNote
from fortimetra.units import cents_to_ratio, hz_to_cents


@dataclass(frozen=True)
class BendReference:
    """The pitch that sounds the target: Hz, its expanded uncertainty, and where it comes from."""

    target_hz: float
    u_cents: float
    source: str


def bend_reference(
    match: Match,
    index: int,
    readings: Sequence[PitchReading | None],
    *,
    fretted_hz: float,
    known_hz: PitchReading | None = None,
    own_start: PitchReading | None = None,
    tuned_by: Literal["set-up", "temperament"] = "temperament",
) -> BendReference:
    """The reference of bend `index`, named: the fretted target in the same repeat, in other repeats, the plain note
    of the bend's own fret, in other takes, the bend's own start, by tuning.

    fretted_hz: pitch of the bent note's fret by temperament and the string's offset, which is tuned_by's. known_hz:
    the fretted target in other takes of the guitar. The fretted target is the drill's reference note, else the same
    string and fret played plainly. A note that was itself played far off its pitch is passed over. own_start: the
    fretted pitch at which the bend, or others of its fret, begin, where they rest there.
    """
    asked = match.events[index].notes[0]
    assert asked.bend is not None
    target = asked.bend.middle_cents
    by_tuning = fretted_hz * cents_to_ratio(target)
    place = (asked.note.string, (asked.note.fret or 0) + target / 100.0)
    played = _target_played(
        asked,
        [
            (event.notes[0], reading)
            for event, reading in zip(match.events, readings, strict=True)
            if reading is not None
            and _is_target(event.notes[0], asked.bend.reference, place)
            and _near(reading, by_tuning)
        ],
        by_tuning,
    )
    if played is not None:
        return played
    fret = _own_fret(match, asked, readings, fretted_hz)
    if fret is not None:
        return BendReference(fret.hz * cents_to_ratio(target), fret.u_cents, f"fret {asked.note.fret} of this take")
    if known_hz is not None and _near(known_hz, by_tuning):
        return BendReference(known_hz.hz, known_hz.u_cents, "other takes")
    if own_start is not None and tuned_by == "temperament":
        # The guitar's tuning is not known; where the bend's own start contradicts it, that is what was fretted.
        off = abs(hz_to_cents(own_start.hz, reference_hz=fretted_hz))
        if own_start.u_cents < off < BEND.wrong_reference_cents:
            return BendReference(own_start.hz * cents_to_ratio(target), own_start.u_cents, "own start")
    return BendReference(by_tuning, BEND.tuned_u_cents if tuned_by == "temperament" else 0.0, tuned_by)


def _target_played(
    asked: AskedNote, usable: Sequence[tuple[AskedNote, PitchReading]], by_tuning: float
) -> BendReference | None:
    """The fretted target as played: in the bend's own repeat, else in the others; of those the drill names, if any."""
    assert asked.bend is not None
    named = [u for u in usable if u[0].event.id == asked.bend.reference] or usable
    own = [u for u in named if u[0].repeat == asked.repeat]
    if own:
        # Of several the nearest in the score.
        note, reading = min(own, key=lambda u: abs(u[0].beat - asked.beat))
        return BendReference(reading.hz, reading.u_cents, note.event.id)
    if named:
        middle = middle_of([r for _, r in named], by_tuning)
        return BendReference(middle.hz, middle.u_cents, f"{named[0][0].event.id} of other repeats")
    return None


def _is_target(note: AskedNote, named: str | None, place: tuple[int, float]) -> bool:
    """Whether a note is the one a bend names, or the bend's target fretted on its own string."""
    return note.event.id == named or (note.note.string, note.note.fret) == place


def _near(reading: PitchReading, hz: float) -> bool:
    return bool(abs(hz_to_cents(reading.hz, reference_hz=hz)) < BEND.wrong_reference_cents)


def middle_of(readings: Sequence[PitchReading], reference_hz: float) -> PitchReading:
    """Several readings of one pitch as one; its uncertainty covers their spread."""
    cents = np.array([hz_to_cents(r.hz, reference_hz=reference_hz) for r in readings])
    spread = STATISTICS.coverage * float(np.std(cents)) if len(cents) > 1 else BEND.one_note_u_cents
    hz = reference_hz * cents_to_ratio(float(np.median(cents)))
    return PitchReading(hz, max(spread, max(r.u_cents for r in readings)), 0)


def _own_fret(
    match: Match, asked: AskedNote, readings: Sequence[PitchReading | None], fretted_hz: float
) -> PitchReading | None:
    """The student's own plain notes of the bend's fret, as one reading."""
    place = (asked.note.string, asked.note.fret)
    found = [
        reading
        for event, reading in zip(match.events, readings, strict=True)
        if reading is not None
        and (event.notes[0].note.string, event.notes[0].note.fret) == place
        and _near(reading, fretted_hz)
    ]
    return middle_of(found, fretted_hz) if found else None


def fret_reference(
    match: Match,
    asked: AskedNote,
    readings: Sequence[PitchReading | None],
    *,
    fretted_hz: float,
    rest: PitchReading | None,
    known_hz: PitchReading | None = None,
    tuned_by: Literal["set-up", "temperament"] = "temperament",
) -> BendReference:
    """What a vibrato on a fretted note comes back to, named: the plain notes of its fret in this take, where the note
    itself rested before the vibrato, its fret in other takes, the tuning.

    fretted_hz: pitch of the fret by temperament and the string's offset, which is tuned_by's.
    """
    fret = _own_fret(match, asked, readings, fretted_hz)
    if fret is not None:
        return BendReference(fret.hz, fret.u_cents, f"fret {asked.note.fret} of this take")
    if rest is not None and _near(rest, fretted_hz):
        return BendReference(rest.hz, rest.u_cents, "own start")
    if known_hz is not None and _near(known_hz, fretted_hz):
        return BendReference(known_hz.hz, known_hz.u_cents, "other takes")
    return BendReference(fretted_hz, BEND.tuned_u_cents if tuned_by == "temperament" else 0.0, tuned_by)


def own_start(contour: Contour, note: HeardNote) -> PitchReading | None:
    """The pitch a bend rests at before it rises; None where it does not rest."""
    frames = contour.frames(note.onset_s + BEND.rest_s[0], note.onset_s + BEND.rest_s[1])
    f0 = contour.f0_hz[frames]
    if len(f0) < BEND.rest_frames or np.isnan(f0[: BEND.rest_frames]).any():
        return None
    cents = 1200.0 * np.log2(f0 / f0[0])
    for last in range(len(f0), BEND.rest_frames - 1, -1):
        part = cents[:last]
        if not np.isnan(part).any() and np.ptp(part) < BEND.rest_cents:
            return PitchReading(float(f0[0] * cents_to_ratio(float(np.median(part)))), BEND.start_u_cents, 0)
    return None

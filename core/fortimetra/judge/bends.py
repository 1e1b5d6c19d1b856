"""Verdicts on bends of every kind and on vibrato."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np

from fortimetra.align.match import Match
from fortimetra.hear.contour import Contour
from fortimetra.hear.notes import HeardNote
from fortimetra.hear.recording import Recording
from fortimetra.judge.settings import BENDS_JUDGED
from fortimetra.judge.verdict import corridor_verdict, together, verdict
from fortimetra.judge.vibratos import RatesAsked, judge_vibrato
from fortimetra.measure.alignment import Alignment
from fortimetra.measure.bend import BendMeasured, measure_bend
from fortimetra.measure.chord import ChordNote
from fortimetra.measure.reference import BendReference, bend_reference, fret_reference, middle_of, own_start
from fortimetra.measure.release import measure_release
from fortimetra.measure.settings import BEND
from fortimetra.measure.statistics import PitchReading
from fortimetra.measure.unison import UnisonMeasured, measure_unison
from fortimetra.measure.vibrato import Swing, VibratoMeasured, measure_vibrato
from fortimetra.model.analysis import BendFound, VibratoFound
from fortimetra.model.drill import AskedNote, Bend
from fortimetra.model.hand import VibratoAsked
from fortimetra.model.verdict import Verdict
from fortimetra.units import cents_to_ratio, hz_to_cents, rounded

STARTS_BENT = {"prebend", "release"}


@dataclass(frozen=True)
class Played:
    """The take, as far as pitches are read from it. straight_db_per_s: slope of level by string; chord_notes: by
    (event, string); starts: the pitch bends rest at before they rise, by event; read_anew: grows by the courses that
    vibratos were read from where that was not the take's contour.
    """

    recording: Recording
    alignment: Alignment
    tolerances: dict[str, float]
    straight_db_per_s: dict[int, float]
    known_hz: dict[tuple[int, int], PitchReading]
    tuned_by: Literal["set-up", "temperament"]
    chord_notes: dict[tuple[int, int], ChordNote]
    starts: dict[int, PitchReading]
    read_anew: list[Contour] = field(default_factory=list)

    @property
    def contour(self) -> Contour:
        """Of the recording."""
        return self.recording.contour

    @property
    def measures(self) -> tuple[str, ...]:
        """What the drill is judged for."""
        return self.alignment.drill.measures


def starts_of(match: Match, contour: Contour) -> dict[int, PitchReading]:
    """The pitch each bend rests at before it rises, by event, where it does."""
    found = {}
    for index, (event, heard) in enumerate(zip(match.events, match.heard, strict=True)):
        bend = event.notes[0].bend
        if heard is None or len(event.notes) > 1 or bend is None or bend.kind in STARTS_BENT:
            continue
        start = own_start(contour, heard)
        if start is not None:
            found[index] = start
    return found


def _start_of_others(played: Played, asked: AskedNote) -> PitchReading | None:
    """Where the take's other bends of the same fret begin, where no plain note tells how the guitar is tuned."""
    if any(played.alignment.readings):
        return None
    place = (asked.note.string, asked.note.fret)
    events = played.alignment.match.events
    same = [
        r for i, r in played.starts.items() if (events[i].notes[0].note.string, events[i].notes[0].note.fret) == place
    ]
    return middle_of(same, same[0].hz) if same else None


def judge_bend(
    played: Played, index: int, asked: AskedNote, bend: Bend, heard: HeardNote, *, fretted_hz: float
) -> tuple[BendFound, VibratoFound | None, list[str]]:
    """A bent note of its own: the bend, the vibrato on it if one is asked for, and reasons.

    fretted_hz: the pitch of its fret by temperament and the string's offset.
    """
    reference = bend_reference(
        played.alignment.match,
        index,
        played.alignment.readings,
        fretted_hz=fretted_hz,
        known_hz=_known(played, asked, bend),
        own_start=None if bend.kind in STARTS_BENT else played.starts.get(index) or _start_of_others(played, asked),
        tuned_by=played.tuned_by,
    )
    target = bend.middle_cents
    vibrato: VibratoFound | None = None
    why: list[str] = []
    if bend.kind in STARTS_BENT:
        landing = _landing(played, index, asked, fretted_hz)
        found = measure_release(played.contour, heard, reference, target_cents=target, landing=landing)
    else:
        found, vibrato, why = _bent_up(played, asked, bend, heard, reference)
    reasons = [*found.reasons, *why]
    if bend.reference is not None and reference.source in {"temperament", "set-up", "own start"}:
        reasons.append("reference_by_temperament")
    if _beyond_a_hand(found, bend):
        found, reasons = BendMeasured(reference), [*reasons, "octave_in_doubt"]
    if found.reached_cents is None:
        return bend_entry(bend, found, None, None, "unclear"), vibrato, reasons
    judged_cents = (
        found.start_cents if bend.kind in STARTS_BENT and found.start_cents is not None else found.reached_cents
    )
    error = judged_cents - target
    tempered = hz_to_cents(reference.target_hz, reference_hz=fretted_hz) + error - target
    verdicts = _verdicts(bend, found, judged_cents, played.tolerances, swings=asked.event.vibrato is not None)
    if _drift(bend, found, swings=asked.event.vibrato is not None) == "outside":
        reasons.append("hold_drifts")
    arrives_ms, u_arrives_ms = _arrives_ms(found, heard)
    if bend.arrives_beats is not None:
        limit = 1000.0 * bend.arrives_beats * played.alignment.spb
        verdicts.append(verdict(arrives_ms, u_arrives_ms, limit))
    entry = bend_entry(bend, found, error, tempered, together(verdicts))
    return entry.model_copy(update={"arrives_ms": arrives_ms, "u_arrives_ms": u_arrives_ms}), vibrato, reasons


def _beyond_a_hand(found: BendMeasured, bend: Bend) -> bool:
    """Whether what was read is no bend that a hand makes, but another octave."""
    most = bend.middle_cents + BENDS_JUDGED.past_target_cents
    read = [c for c in (found.start_cents, found.reached_cents) if c is not None]
    return any(not -BENDS_JUDGED.under_fret_cents < cents < most for cents in read)


def _bent_up(
    played: Played, asked: AskedNote, bend: Bend, heard: HeardNote, reference: BendReference
) -> tuple[BendMeasured, VibratoFound | None, list[str]]:
    """A bend that goes up, or stays up, with the vibrato on it if one is asked for, and why that is open."""
    target = bend.middle_cents
    vibrato: VibratoFound | None = None
    why: list[str] = []
    until_s = None
    if asked.event.vibrato is not None:
        swing = _vibrato_on_bend(played, asked, asked.event.vibrato, heard, reference, target)
        rates = RatesAsked.of(asked.event.vibrato, asked, heard, played.alignment.spb)
        vibrato, why = judge_vibrato(swing, asked.event.vibrato, played.tolerances, rates)
        until_s = None if swing.region is None else swing.region[0]
    found = measure_bend(
        played.contour,
        heard,
        reference,
        target_cents=target,
        already_bent=asked.event.articulation == "repluck",
        until_s=until_s,
        peak=bend.kind == "curl",
        swings=asked.event.vibrato is not None,
    )
    held = found.reached_cents is not None and "no_plateau" not in found.reasons
    if not held and until_s is not None and vibrato is not None and vibrato.u_return is not None:
        # It swings from the moment it arrives: its tops are what it reaches.
        top = target + (vibrato.return_error_cents or 0.0)
        found = replace(found, reached_cents=top, u_cents=vibrato.u_return, reasons=("read_from_vibrato",))
    elif asked.event.vibrato is not None and until_s is None and found.u_cents is not None:
        arrives_s = _mostly_up_s(played, heard, reference, target)
        if not _rests(found, arrives_s):
            # It may be swinging where it was read, anywhere from its line to its other side.
            extent = asked.event.vibrato.extent_cents
            width = BENDS_JUDGED.swing_cents if extent is None else max(extent)
            found = replace(found, u_cents=float(np.hypot(found.u_cents, 0.5 * width)))
    return found, vibrato, why


def _rests(found: BendMeasured, arrives_s: float | None) -> bool:
    """Whether a hold is steady, and long, or where the bend arrives: no vibrato is in it."""
    if found.plateau is None or "unsteady_hold" in found.reasons:
        return False
    at_once = arrives_s is not None and found.plateau[0] <= arrives_s + BENDS_JUDGED.before_vibrato_s
    return at_once or found.held_s >= BENDS_JUDGED.rests_s


def _mostly_up_s(played: Played, heard: HeardNote, reference: BendReference, target_cents: float) -> float | None:
    """When a bend has come most of its way up; None where it does not."""
    frames = played.contour.frames(heard.onset_s + 0.03, heard.followed_to_s)
    fretted_hz = reference.target_hz / cents_to_ratio(target_cents)
    near = played.contour.f0_hz[frames] > fretted_hz * cents_to_ratio(BENDS_JUDGED.arrives_share * target_cents)
    return float(played.contour.time_s[frames][int(near.argmax())]) if near.any() else None


def _arrives_ms(found: BendMeasured, heard: HeardNote) -> tuple[float | None, float | None]:
    """From the stroke until the bend holds: where its plateau begins, as sharp as the slope that finds it."""
    if found.plateau is None:
        return None, None
    u = 1000.0 * BEND.slope_window_s / 2.0
    return round(1000.0 * max(0.0, found.plateau[0] - heard.onset_s), 1), round(float(np.hypot(u, heard.onset_u_ms)), 1)


def _verdicts(
    bend: Bend, found: BendMeasured, judged_cents: float, tolerances: dict[str, float], *, swings: bool
) -> list[Verdict]:
    if isinstance(bend.target_cents, tuple):
        verdicts = [corridor_verdict(judged_cents, found.u_cents, *bend.target_cents)]
    else:
        verdicts = [verdict(judged_cents - bend.target_cents, found.u_cents, tolerances["bend_error_cents"])]
    if found.hold_sd_cents is not None and bend.kind not in STARTS_BENT and not swings:
        verdicts.append(verdict(found.hold_sd_cents, found.u_hold_sd_cents, tolerances["hold_sd_cents"]))
    drift = _drift(bend, found, swings=swings)
    if drift is not None:
        verdicts.append(drift)
    if bend.kind in STARTS_BENT:
        verdicts.append(verdict(found.landing_error_cents, found.u_landing, tolerances["bend_error_cents"]))
    if found.choked and bend.kind != "curl":  # a curl is stopped at its top
        verdicts.append("outside")
    return verdicts


def _drift(bend: Bend, found: BendMeasured, *, swings: bool) -> Verdict | None:
    """Whether a hold stays where it is; None where that is not asked or it is over too soon. A top alone is no bend
    that is held.
    """
    if bend.kind in STARTS_BENT or bend.kind == "curl" or swings:
        return None
    judged: Verdict | None = "unclear" if "no_plateau" in found.reasons else None
    if found.held_s >= BEND.drift_s and found.u_hold_drift is not None:
        drift = verdict(found.hold_drift_cents_per_s, found.u_hold_drift, BENDS_JUDGED.most_drift_cents_per_s)
        judged = drift if judged is None or drift == "outside" else judged
    return judged


def _known(played: Played, asked: AskedNote, bend: Bend) -> PitchReading | None:
    """The fretted target as the guitar's other takes have it, if they do."""
    fret = asked.note.fret
    if fret is None or bend.middle_cents % 100.0:
        return None
    return played.known_hz.get((asked.note.string, fret + round(bend.middle_cents / 100.0)))


def _landing(played: Played, index: int, asked: AskedNote, fretted_hz: float) -> BendReference | None:
    """The same string and fret, played plainly: in this repeat, else in another."""
    found: list[tuple[int, str, PitchReading]] = []
    for event, reading in zip(played.alignment.match.events, played.alignment.readings, strict=True):
        note = event.notes[0]
        same = (note.note.string, note.note.fret) == (asked.note.string, asked.note.fret)
        if (
            reading is not None
            and same
            and abs(hz_to_cents(reading.hz, reference_hz=fretted_hz)) < BEND.wrong_reference_cents
        ):
            found.append((abs(note.repeat - asked.repeat), note.event.id, reading))
    if not found:
        return None
    _far, name, reading = min(found, key=lambda f: f[0])
    return BendReference(reading.hz, reading.u_cents, name)


def _vibrato_on_bend(
    played: Played,
    asked: AskedNote,
    wanted: VibratoAsked,
    heard: HeardNote,
    reference: BendReference,
    target_cents: float,
) -> VibratoMeasured:
    arrives_s = _mostly_up_s(played, heard, reference, target_cents)
    if arrives_s is None:
        return VibratoMeasured(0, reasons=("too_few_cycles",))
    return _swung(played, asked, wanted, heard, reference, from_s=arrives_s)


def _swung(
    played: Played,
    asked: AskedNote,
    wanted: VibratoAsked,
    heard: HeardNote,
    reference: BendReference,
    *,
    from_s: float | None = None,
) -> VibratoMeasured:
    """The vibrato of a note about its line."""
    straight = played.straight_db_per_s.get(asked.note.string)
    swing = Swing(wanted.return_line, reference.target_hz, reference.u_cents, straight)
    recording = played.recording
    found = measure_vibrato(recording.mono, played.contour, heard, swing, rate_hz=recording.rate_hz, from_s=from_s)
    if found.course is not None:
        played.read_anew.append(found.course)
    return found


def fretted_vibrato(
    played: Played, asked: AskedNote, wanted: VibratoAsked, heard: HeardNote, *, fretted_hz: float
) -> tuple[VibratoFound, list[str]]:
    """Vibrato on a fretted note; its line is the student's own pitch of the fret."""
    reference = fret_reference(
        played.alignment.match,
        asked,
        played.alignment.readings,
        fretted_hz=fretted_hz,
        rest=own_start(played.contour, heard),
        known_hz=played.known_hz.get((asked.note.string, asked.note.fret or 0)),
        tuned_by=played.tuned_by,
    )
    found = _swung(played, asked, wanted, heard, reference)
    return judge_vibrato(found, wanted, played.tolerances, RatesAsked.of(wanted, asked, heard, played.alignment.spb))


def judge_unison(
    played: Played, asked: AskedNote, bend: Bend, heard: HeardNote, *, steady_hz: float
) -> tuple[BendFound, UnisonMeasured]:
    """Two strings at once. steady_hz: expected pitch of the one that is not bent."""
    tolerance = played.tolerances["beat_hz"]
    found = measure_unison(
        played.recording.mono,
        rate_hz=played.recording.rate_hz,
        onset_s=heard.onset_s,
        end_s=heard.followed_to_s,
        steady_hz=steady_hz,
        target_cents=bend.middle_cents,
        tolerance_hz=tolerance,
    )
    reference = BendReference(found.steady_hz or steady_hz, found.u_steady or 0.0, "steady string")
    difference = found.difference_cents
    measured = BendMeasured(
        reference,
        start_cents=None if found.start_cents is None else bend.middle_cents + found.start_cents,
        reached_cents=None if difference is None else bend.middle_cents + difference,
        u_cents=found.u_difference,
        plateau=found.plateau,
        beat_hz=found.beat_hz,
        u_beat=found.u_beat,
        difference_cents=difference,
        u_difference=found.u_difference,
        merge_ms=found.merge_ms,
        state=found.state,
    )
    return bend_entry(bend, measured, difference, None, verdict(found.beat_hz, found.u_beat, tolerance)), found


def bend_entry(
    bend: Bend, found: BendMeasured, error: float | None, tempered: float | None, judged: Verdict
) -> BendFound:
    """A bend as the analysis says it."""

    def cents(value: float | None, digits: int = 2) -> float | None:
        return rounded(value, digits)

    return BendFound(
        kind=bend.kind,
        target_cents=bend.target_cents,
        reference_hz=round(found.reference.target_hz, 3),
        reference_source=found.reference.source,
        start_cents=cents(found.start_cents),
        reached_cents=cents(found.reached_cents),
        error_cents=cents(error),
        error_tempered_cents=cents(tempered),
        u=cents(found.u_cents),
        rise_ms=cents(found.rise_ms, 1),
        overshoot_cents=cents(found.overshoot_cents),
        hold_sd_cents=cents(found.hold_sd_cents),
        hold_drift_cents_per_s=cents(found.hold_drift_cents_per_s),
        u_hold_drift=cents(found.u_hold_drift),
        plateau=found.plateau,
        choked=found.choked,
        beat_hz=cents(found.beat_hz),
        u_beat=cents(found.u_beat),
        difference_cents=cents(found.difference_cents),
        merge_ms=cents(found.merge_ms, 0),
        state=found.state,
        landing_error_cents=cents(found.landing_error_cents),
        u_landing=cents(found.u_landing),
        landing=found.landing,
        verdict=judged,
    )

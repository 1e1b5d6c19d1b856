"""Every note's values with their verdicts."""

from __future__ import annotations

from collections.abc import Sequence

from fortimetra.align.match import AskedEvent, Match
from fortimetra.hear.contour import Contour
from fortimetra.hear.notes import HeardNote, plain_window
from fortimetra.judge.available import AVAILABLE
from fortimetra.judge.verdict import corridor_verdict, together, verdict
from fortimetra.measure.bend import BendMeasured, bend_reference, measure_bend
from fortimetra.measure.pitch import StringOffsets
from fortimetra.measure.statistics import Reading, read_pitch
from fortimetra.model.analysis import BendFound, NoteFound, PitchFound, Status, Verdict
from fortimetra.model.drill import AskedNote, Bend, Drill
from fortimetra.units import cents_to_ratio, hz_to_cents, hz_to_midi, midi_to_hz

MEASURED_BENDS = {"bend", "curl"}


def judge_notes(
    contour: Contour, match: Match, readings: list[Reading | None], drill: Drill, offsets: StringOffsets
) -> list[NoteFound]:
    """One entry per asked note of every repeat, in score order."""
    tolerances = drill.limits()
    notes: list[NoteFound] = []
    for index, (event, heard) in enumerate(zip(match.events, match.heard, strict=True)):
        for asked in event.notes:
            if heard is None:
                notes.append(missed_note(asked))
                continue
            notes.append(_played(contour, match, index, event, asked, heard, readings, drill, tolerances, offsets))
    return notes


def missed_note(asked: AskedNote) -> NoteFound:
    """A note that was not heard."""
    return _entry(asked, status="missed", heard=None, clean=None, reasons=("not_played",))


def _played(
    contour: Contour,
    match: Match,
    index: int,
    event: AskedEvent,
    asked: AskedNote,
    heard: HeardNote,
    readings: list[Reading | None],
    drill: Drill,
    tolerances: dict[str, float],
    offsets: StringOffsets,
) -> NoteFound:
    fretted_hz = drill.hz(asked.note) * cents_to_ratio(offsets.at(asked.note.string, asked.note.fret))
    if len(event.notes) > 1:
        return _entry(asked, status="played", heard=heard, clean="unclear", reasons=("chord_not_measured",))
    wrong = not match.fits(index)
    verdicts: list[Verdict] = []
    reasons: list[str] = []
    pitch: PitchFound | None = None
    bend: BendFound | None = None
    if asked.bend is None:
        # A wrong pitch is a fault of its own, not so many cents of intonation.
        pitch = _pitch(
            readings[index], fretted_hz, tolerances["plain_pitch_cents"], judged="pitch" in drill.measures and not wrong
        )
        reasons += [] if readings[index] else ["no_pitch"]
    else:
        pitch = PitchFound(median_hz=round(midi_to_hz(heard.main_midi), 3), error_cents=None, u=None, verdict=None)
        bend, why = _bend(contour, match, index, asked, asked.bend, heard, readings, fretted_hz, tolerances)
        reasons += why
    if wrong:
        verdicts.append("outside")
        reasons.append("wrong_pitch")
    if "pitch" in drill.measures and pitch is not None and pitch.verdict is not None:
        verdicts.append(pitch.verdict)
    if "bend" in drill.measures and bend is not None:
        verdicts.append(bend.verdict)
    if set(drill.measures) - AVAILABLE - ({"vibrato"} if asked.event.vibrato is None else set()):
        verdicts.append("unclear")
        reasons.append("measure_not_available")
    clean = together(verdicts)
    if clean == "unclear" and not reasons:
        reasons.append("within_uncertainty")
    return _entry(
        asked,
        status="wrong_pitch" if wrong else "played",
        heard=heard,
        clean=clean,
        reasons=tuple(reasons),
        pitch=pitch,
        bend=bend,
    )


def plain_note(asked: AskedNote, heard: HeardNote, pitch: PitchFound, *, wrong: bool) -> NoteFound:
    """A note of which only the pitch is judged; wrong: another pitch than asked."""
    clean = "outside" if wrong else pitch.verdict
    reasons = () if clean != "unclear" else ("no_pitch",) if pitch.error_cents is None else ("within_uncertainty",)
    return _entry(
        asked,
        status="wrong_pitch" if wrong else "played",
        heard=heard,
        clean=clean,
        reasons=reasons,
        pitch=pitch,
    )


def _pitch(reading: Reading | None, target_hz: float, tolerance: float, *, judged: bool) -> PitchFound:
    if reading is None:
        return PitchFound(median_hz=None, error_cents=None, u=None, verdict="unclear" if judged else None)
    error = hz_to_cents(reading.hz, reference_hz=target_hz)
    return PitchFound(
        median_hz=round(reading.hz, 3),
        error_cents=round(error, 2),
        u=round(reading.u_cents, 2),
        verdict=verdict(error, reading.u_cents, tolerance) if judged else None,
    )


def _bend(
    contour: Contour,
    match: Match,
    index: int,
    asked: AskedNote,
    bend: Bend,
    heard: HeardNote,
    readings: list[Reading | None],
    fretted_hz: float,
    tolerances: dict[str, float],
) -> tuple[BendFound, list[str]]:
    reference = bend_reference(match, index, readings, fretted_hz=fretted_hz)
    if bend.kind not in MEASURED_BENDS:
        return _bend_entry(bend, BendMeasured(reference), None, None, "unclear"), ["kind_not_measured"]
    target = bend.middle_cents
    found = measure_bend(
        contour, heard, reference, target_cents=target, already_bent=asked.event.articulation == "repluck"
    )
    reasons = list(found.reasons)
    if bend.reference is not None and reference.source == "temperament":
        reasons.append("reference_by_temperament")
    if found.reached_cents is None:
        return _bend_entry(bend, found, None, None, "unclear"), reasons
    error = found.reached_cents - target
    tolerance = tolerances["bend_error_cents"]
    if isinstance(bend.target_cents, tuple):
        verdicts = [corridor_verdict(found.reached_cents, found.u_cents, *bend.target_cents)]
    else:
        verdicts = [verdict(error, found.u_cents, tolerance)]
    if found.hold_sd_cents is not None:
        verdicts.append(verdict(found.hold_sd_cents, found.u_hold_sd_cents, tolerances["hold_sd_cents"]))
    tempered = hz_to_cents(reference.target_hz, reference_hz=fretted_hz) + error - target
    return _bend_entry(bend, found, error, tempered, together(verdicts)), reasons


def _bend_entry(
    bend: Bend, found: BendMeasured, error: float | None, tempered: float | None, judged: Verdict
) -> BendFound:
    def cents(value: float | None, digits: int = 2) -> float | None:
        return None if value is None else round(value, digits)

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
        plateau=found.plateau,
        choked=found.choked,
        beat_hz=None,
        difference_cents=None,
        merge_ms=None,
        landing_error_cents=None,
        verdict=judged,
    )


def _entry(
    asked: AskedNote,
    *,
    status: Status,
    heard: HeardNote | None,
    clean: Verdict | None,
    reasons: tuple[str, ...],
    pitch: PitchFound | None = None,
    bend: BendFound | None = None,
) -> NoteFound:
    return NoteFound(
        id=asked.event.id,
        repeat=asked.repeat,
        status=status,
        string=asked.note.string,
        fret=asked.note.fret,
        onset_s=None if heard is None else round(heard.onset_s, 4),
        end_s=None if heard is None else round(heard.end_s, 4),
        pitch=pitch,
        bend=bend,
        vibrato=None,
        timing=None,
        level=None,
        length=None,
        noise=None,
        clean=clean,
        reasons=reasons,
    )


def judge_heard(contour: Contour, heard: Sequence[HeardNote]) -> list[NoteFound]:
    """Plain transcription: heard notes with their pitch against the nearest tempered one, no verdicts."""
    notes: list[NoteFound] = []
    for number, note in enumerate(heard, 1):
        reading = read_pitch(contour, *plain_window(note.onset_s, note.end_s))
        nearest = None if reading is None else midi_to_hz(round(hz_to_midi(reading.hz)))
        notes.append(
            NoteFound(
                id=f"h{number}",
                repeat=0,
                status="played",
                string=None,
                fret=None,
                onset_s=round(note.onset_s, 4),
                end_s=round(note.end_s, 4),
                pitch=_pitch(reading, nearest or 1.0, 1.0, judged=False),
                bend=None,
                vibrato=None,
                timing=None,
                level=None,
                length=None,
                noise=None,
                clean=None,
                reasons=() if reading else ("no_pitch",),
            )
        )
    return notes

"""Every note's values with their verdicts."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import TypeVar

from fortimetra.align.match import AskedEvent
from fortimetra.hear.contour import Contour
from fortimetra.hear.notes import HeardNote, plain_window
from fortimetra.hear.recording import Recording
from fortimetra.judge.bends import Played, fretted_vibrato, judge_bend, judge_unison, starts_of
from fortimetra.judge.other_sounds import cut_short
from fortimetra.judge.verdict import together, verdict
from fortimetra.measure.alignment import Alignment
from fortimetra.measure.chord import ChordNote
from fortimetra.measure.statistics import PitchReading, read_pitch
from fortimetra.measure.vibrato import straight_slopes
from fortimetra.model.analysis import BendFound, NoteFound, PitchFound, Status, VibratoFound
from fortimetra.model.drill import AskedNote
from fortimetra.model.verdict import Verdict
from fortimetra.units import cents_to_ratio, hz_to_cents, hz_to_midi, midi_to_hz

Moved = TypeVar("Moved", BendFound, VibratoFound)


def judge_notes(
    recording: Recording,
    alignment: Alignment,
    *,
    known_hz: Mapping[tuple[int, int], PitchReading],
    chords: Sequence[Sequence[ChordNote]],
) -> tuple[list[NoteFound], Contour]:
    """One entry per asked note of every repeat, in score order; and the contour as they were judged by it.

    known_hz: fretted pitches by (string, fret) from other takes of the guitar. chords: notes that were struck together.
    """
    match, drill, offsets = alignment.match, alignment.drill, alignment.offsets
    straight = [
        (event.notes[0].note.string, heard)
        for event, heard in zip(match.events, match.heard, strict=True)
        if heard is not None and len(event.notes) == 1 and event.notes[0].event.vibrato is None
    ]
    played = Played(
        recording, alignment, drill.limits(), straight_slopes(recording.contour, straight), dict(known_hz),
        "set-up" if offsets.source == "setup" else "temperament",
        {(n.part.event, n.part.string): n for chord in chords for n in chord}, starts_of(match, recording.contour),
    )  # fmt: skip
    notes: list[NoteFound] = []
    for index, (event, heard) in enumerate(zip(match.events, match.heard, strict=True)):
        if heard is None:
            notes += [missed_note(asked) for asked in event.notes]
        elif len(event.notes) > 1:
            notes += _chord(played, index, event, heard)
        else:
            notes.append(_single(played, index, event.notes[0], heard))
    notes = [_uncertain(note) for note in notes] if alignment.pitch_wavers else notes
    return notes, recording.contour.overlaid(played.read_anew)


def _uncertain(note: NoteFound) -> NoteFound:
    """A note whose pitches are not to be judged; the values stay."""
    parts = {
        name: part.model_copy(update={"verdict": "unclear"})
        for name in ("pitch", "bend", "vibrato")
        if (part := getattr(note, name)) is not None and part.verdict is not None
    }
    if not parts:
        return note
    return note.model_copy(update={**parts, "clean": "unclear", "reasons": (*note.reasons, "pitch_wavers")})


MAY_BE_UNASKED = ("bend", "vibrato", "timing", "level", "length", "noise")


def as_asked(note: NoteFound, measures: Sequence[str]) -> NoteFound:
    """A note with what its drill asks for: a value that was not asked for is none (the contract's rule)."""
    return note.model_copy(update={m: None for m in MAY_BE_UNASKED if m not in measures})


def missed_note(asked: AskedNote) -> NoteFound:
    """A note that was not heard."""
    return _entry(asked, status="missed", heard=None, clean=None, reasons=("not_played",))


def _fretted_hz(alignment: Alignment, asked: AskedNote) -> float:
    offset_cents = alignment.offsets.at(asked.note.string, asked.note.fret)
    return alignment.drill.hz(asked.note) * cents_to_ratio(offset_cents)


def _single(played: Played, index: int, asked: AskedNote, heard: HeardNote) -> NoteFound:
    fretted_hz = _fretted_hz(played.alignment, asked)
    wrong = not played.alignment.match.fits(index)
    verdicts: list[Verdict] = []
    reasons: list[str] = []
    bend: BendFound | None = None
    vibrato: VibratoFound | None = None
    if asked.bend is None:
        # A wrong pitch is a fault of its own, not so many cents of intonation.
        pitch = _pitch(
            played.alignment.readings[index],
            fretted_hz,
            played.tolerances["plain_pitch_cents"],
            judged="pitch" in played.measures and not wrong,
        )
        reasons += [] if played.alignment.readings[index] else ["no_pitch"]
        if asked.event.vibrato is not None and not wrong:
            # A vibrato from the fretted pitch upward: the note's own pitch is its return line.
            vibrato, why = fretted_vibrato(played, asked, asked.event.vibrato, heard, fretted_hz=fretted_hz)
            pitch = pitch.model_copy(update={"verdict": None})
            reasons = why
    else:
        main_hz = None if math.isnan(heard.main_midi) else round(midi_to_hz(heard.main_midi), 3)
        pitch = PitchFound(median_hz=main_hz, error_cents=None, u=None, verdict=None)
        bend, vibrato, why = judge_bend(played, index, asked, asked.bend, heard, fretted_hz=fretted_hz)
        if cut_short(played.alignment.match, heard, asked.event.length * played.alignment.spb):
            bend, vibrato, why = _open(bend), None if vibrato is None else _open(vibrato), [*why, "cut_short"]
        reasons += why
    if wrong:
        verdicts.append("outside")
        reasons.append("wrong_pitch")
    for measure, found in (("pitch", pitch), ("bend", bend), ("vibrato", vibrato)):
        if measure in played.measures and found is not None and found.verdict is not None:
            verdicts.append(found.verdict)
    return _entry(
        asked,
        status="wrong_pitch" if wrong else "played",
        heard=heard,
        clean=_clean(verdicts, reasons),
        reasons=tuple(dict.fromkeys(reasons)),
        pitch=pitch,
        bend=bend,
        vibrato=vibrato,
    )


def _open(found: Moved) -> Moved:
    """What is not held against a note; the values stay."""
    return found.model_copy(update={"verdict": "unclear"}) if found.verdict == "outside" else found


def _clean(verdicts: list[Verdict], reasons: list[str]) -> Verdict:
    """One verdict of what was judged of a note; adds to the reasons why it is unclear."""
    clean = together(verdicts)
    if clean == "unclear" and not reasons:
        reasons.append("within_uncertainty")
    return clean


def _of_chord(played: Played, index: int, asked: AskedNote, heard: HeardNote) -> NoteFound:
    """One note of several struck together; a muted string has no pitch."""
    if asked.note.muted:
        return _entry(asked, status="played", heard=heard, clean="inside", reasons=())
    found = played.chord_notes.get((index, asked.note.string))
    reading = None if found is None or found.hz is None else PitchReading(found.hz, found.u_cents or 0.0, 0)
    judged = "pitch" in played.measures
    pitch = _pitch(reading, _fretted_hz(played.alignment, asked), played.tolerances["plain_pitch_cents"], judged=judged)
    reasons = ["chord_note_hidden"] if reading is None and judged else []
    clean = _clean([pitch.verdict] if judged and pitch.verdict is not None else [], reasons)
    return _entry(asked, status="played", heard=heard, clean=clean, reasons=tuple(reasons), pitch=pitch)


def _chord(played: Played, index: int, event: AskedEvent, heard: HeardNote) -> list[NoteFound]:
    first = event.notes[0]
    if first.bend is None or first.bend.kind != "unison" or len(event.notes) != 2:
        return [_of_chord(played, index, asked, heard) for asked in event.notes]
    steady = event.notes[1]
    steady_hz = _fretted_hz(played.alignment, steady)
    bend, found = judge_unison(played, first, first.bend, heard, steady_hz=steady_hz)
    reasons = list(found.reasons)
    verdicts: list[Verdict] = [bend.verdict] if "bend" in played.measures else []
    reading = None if found.steady_hz is None else PitchReading(found.steady_hz, found.u_steady or 0.0, 0)
    pitch = _pitch(reading, steady_hz, played.tolerances["plain_pitch_cents"], judged="pitch" in played.measures)
    clean = _clean(verdicts, reasons)
    own = [v for v in (pitch.verdict,) if v is not None]
    return [
        _entry(first, status="played", heard=heard, clean=clean, reasons=tuple(reasons), bend=bend),
        _entry(
            steady, status="played", heard=heard, clean=together([clean, *own]), reasons=tuple(reasons), pitch=pitch
        ),
    ]


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


def _pitch(reading: PitchReading | None, target_hz: float, tolerance: float, *, judged: bool) -> PitchFound:
    if reading is None:
        return PitchFound(median_hz=None, error_cents=None, u=None, verdict="unclear" if judged else None)
    error = hz_to_cents(reading.hz, reference_hz=target_hz)
    return PitchFound(
        median_hz=round(reading.hz, 3),
        error_cents=round(error, 2),
        u=round(reading.u_cents, 2),
        verdict=verdict(error, reading.u_cents, tolerance) if judged else None,
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
    vibrato: VibratoFound | None = None,
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
        vibrato=vibrato,
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

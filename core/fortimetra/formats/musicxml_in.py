"""MusicXML to a drill. music21 reads the time, the pitches, the ties and plays the repeats out; what it does not keep
of a tab (tuning, capo, which note of a chord has which string, swing) is read from the safe tree beside it.

Each note element gets a mark of its own before music21 sees it, so that what music21 hands back, repeats played out,
can be told apart. music21 is loaded with this module, which takes seconds: import it where that does not matter.
"""

from __future__ import annotations

import math
import re
import warnings
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from typing import Any
from xml.etree.ElementTree import Element, SubElement, tostring

from music21 import articulations, bar, chord, converter, note, repeat, stream
from music21.exceptions21 import Music21Exception

from fortimetra.errors import DrillError, SignalError
from fortimetra.formats.musicxml_aside import read_aside, take_back
from fortimetra.formats.musicxml_marks import NoteMarks, bend_of, marks_of, report_left_out, slurs
from fortimetra.formats.musicxml_tree import ScoreTree, one_part, parsed, unpacked
from fortimetra.formats.score_in import Head, Imported, Report, ScoreEvent, ScoreNote, to_drill
from fortimetra.formats.written import exact
from fortimetra.model.drill import MAX_EVENTS, bar_and_beat
from fortimetra.model.guitar import STANDARD_TUNING, checked_tuning, pitch_midi

MARK = "fortimetra-note-"
NOMINAL_BPM = 60.0
MOST_REPEATS = 200


@dataclass
class _Heard:
    """One note or rest on music21's time line; index: its element, or None for a rest."""

    beat: Fraction
    length: Fraction
    voice: int
    index: int | None
    midi: float | None
    tie: str | None


def read_musicxml(content: bytes) -> Imported:
    """A drill from a score, plain or compressed.

    Raises DrillError(code="score_invalid" | "score_too_large" | "score_too_long" | "off_the_fretboard") with a
    sentence.
    """
    report = Report()
    score = one_part(parsed(unpacked(content)), report)
    elements = []
    marks = []
    for index, (element, slurred) in enumerate(slurs(score.part)):
        elements.append(element)
        marks.append(marks_of(element, slurred=slurred))
        _label(element, index)
    head, per_bar = _head(score, report)
    part, repeats = _played_out(_parse(score.root), report)
    heard = list(_heard(part))
    _report_elements(heard, marks, elements, per_bar, report)
    events = _events(heard, marks, per_bar, report)
    aside = read_aside(score.root, report)
    if aside is not None:
        take_back(aside, events, head, report)
    if repeats > 1 or "repeats" not in head.more:
        head.more["repeats"] = repeats
    return to_drill(events, head, report)


def _label(element: Element, index: int) -> None:
    # Of a chord's later notes music21 keeps fingerings, strings and frets, in order, and nothing else.
    notations = element.find("notations")
    if notations is None:
        notations = SubElement(element, "notations")
    SubElement(SubElement(notations, "technical"), "fingering").text = f"{MARK}{index}"


def _parse(root: Element) -> stream.Part:
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        try:
            whole = converter.parseData(tostring(root, encoding="unicode"), format="musicxml")
            return whole.recurse(includeSelf=True).getElementsByClass(stream.Part)[0].toSoundingPitch()
        except (Music21Exception, ArithmeticError, AttributeError, LookupError, TypeError, ValueError) as error:
            raise DrillError(
                "score_invalid", "This MusicXML file is damaged: its notes, bars or durations contradict each other."
            ) from error


def _played_out(part: stream.Part, report: Report) -> tuple[stream.Part, int]:
    """The part with its repeats played out, or once with the number of times where the whole of it is repeated."""
    marks = list(part.recurse().getElementsByClass(bar.Repeat))
    jumps = list(part.recurse().getElementsByClass(repeat.RepeatExpression))
    if not marks and not jumps:
        return part, 1
    ends = [m for m in marks if m.direction == "end"]
    times = math.prod(max(1, m.times or 2) for m in ends)
    if times > MOST_REPEATS:
        raise DrillError("score_too_long", f"This score repeats {times} times; at most {MOST_REPEATS} are possible.")
    if not jumps and _repeated_as_a_whole(part, marks):
        return part, times
    notes = len(list(part.recurse().notesAndRests))
    if notes * times > 4 * MAX_EVENTS:
        raise DrillError(
            "score_too_long", f"With its repeats played out this score has more than {4 * MAX_EVENTS} notes."
        )
    try:
        return part.expandRepeats(), 1
    except (Music21Exception, LookupError, TypeError, ValueError):
        report.add("The repeats of this score could not be followed; every bar is taken once")
        return part, 1


def _repeated_as_a_whole(part: stream.Part, marks: list[bar.Repeat]) -> bool:
    measures = list(part.getElementsByClass(stream.Measure))
    ends = [m for m in marks if m.direction == "end"]
    starts = [m for m in marks if m.direction == "start"]
    return (
        len(ends) == 1
        and ends[0].activeSite is measures[-1]
        and ends[0].offset > 0
        and all(m.activeSite is measures[0] for m in starts)
        and not list(part.recurse().getElementsByClass("RepeatBracket"))
    )


def _heard(part: stream.Part) -> Iterator[_Heard]:
    for measure in part.getElementsByClass(stream.Measure):
        start = Fraction(measure.offset)
        voices = list(measure.voices)
        for number, voice in enumerate(voices or [measure], 1):
            inside = Fraction(voice.offset) if voices else Fraction(0)
            for element in voice.notesAndRests:
                if element.style.hideObjectOnPrint:
                    continue
                at = start + inside + exact(element.offset)
                length = exact(element.quarterLength)
                if isinstance(element, note.Rest):
                    if length > 0:
                        yield _Heard(at, length, number, None, None, None)
                else:
                    yield from _heard_together(element, at, length, number)


def _heard_together(element: Any, at: Fraction, length: Fraction, voice: int) -> Iterator[_Heard]:
    """A note, or the notes of a chord."""
    notes = list(element.notes) if isinstance(element, chord.Chord) else [element]
    labels = [
        int(str(a.fingerNumber).removeprefix(MARK))
        for a in element.articulations
        if isinstance(a, articulations.Fingering) and str(a.fingerNumber).startswith(MARK)
    ]
    for index, single in zip(labels, notes, strict=False):
        tie = single.tie or element.tie
        pitch = getattr(single, "pitch", None)
        yield _Heard(at, length, voice, index, None if pitch is None else float(pitch.ps), tie.type if tie else None)


def _report_elements(
    heard: list[_Heard], marks: list[NoteMarks], elements: list[Element], per_bar: int, report: Report
) -> None:
    said: set[int] = set()
    for item in heard:
        if item.index is None or item.index in said:
            continue
        said.add(item.index)
        labelled = elements[item.index]
        for technical in labelled.findall("notations/technical"):
            for child in technical.findall("fingering"):
                if (child.text or "").startswith(MARK):
                    technical.remove(child)
        report_left_out(labelled, bar_and_beat(float(item.beat), per_bar), report)


def _events(heard: list[_Heard], marks: list[NoteMarks], per_bar: int, report: Report) -> list[ScoreEvent]:
    """Notes that stand together, ties joined; rests where nothing sounds."""
    events: list[ScoreEvent] = []
    places: dict[tuple[Fraction, int], ScoreEvent] = {}
    sounding: dict[tuple[int, Any], ScoreEvent] = {}  # by voice and string or pitch: what a tie goes on from
    on_string: dict[int, tuple[ScoreNote, ScoreEvent]] = {}
    for item, mark in _marked(heard, marks):
        key = (item.voice, mark.string or item.midi)
        if item.tie in {"stop", "continue"} and _tied(sounding.get(key), item):
            continue
        place = bar_and_beat(float(item.beat), per_bar)
        event = places.get((item.beat, item.voice))
        if event is None or event.length != item.length:
            event = ScoreEvent(item.beat, item.length, [], {"voice": min(8, item.voice)})
            events.append(event)
            places[item.beat, item.voice] = event
        single = _single(item, mark)
        if any(n.string is not None and n.string == single.string for n in event.notes):
            report.add("Of two notes on one string the second was left out", place)
            continue
        sounding[key] = event
        _mark(event, single, mark, on_string, report, place)
        if single.string is not None:
            on_string[single.string] = (single, event)
    return events + _rests(heard, events)


def _marked(heard: list[_Heard], marks: list[NoteMarks]) -> Iterator[tuple[_Heard, NoteMarks]]:
    """Every note that takes time, in order, with its marks."""
    notes = [(h, marks[h.index]) for h in heard if h.index is not None]
    for item, mark in sorted(notes, key=lambda n: (n[0].beat, n[0].voice)):
        if item.length > 0 and not mark.grace:
            yield item, mark


def _single(item: _Heard, mark: NoteMarks) -> ScoreNote:
    # A string without a fret says nothing, unless it is muted.
    string = mark.string if mark.fret is not None or mark.muted else None
    return ScoreNote(item.midi, string, mark.fret, mark.muted, mark.finger)


def _tied(before: ScoreEvent | None, item: _Heard) -> bool:
    """Whether a tied note goes on from an event; the event then lasts as long."""
    if before is None or before.beat + before.length < item.beat:
        return False
    before.length = max(before.length, item.beat + item.length - before.beat)
    return True


def _mark(
    event: ScoreEvent,
    single: ScoreNote,
    mark: NoteMarks,
    on_string: dict[int, tuple[ScoreNote, ScoreEvent]],
    report: Report,
    place: str,
) -> None:
    before = on_string.get(single.string) if single.string is not None else None
    bent_before = before is not None and before[1].marks.get("bend") is not None and before[0].fret == single.fret
    bend, again = bend_of(mark.bends, bent_before=bent_before, report=report, place=place)
    _put_in(event, single, bend, report, place)
    _name_unison(event)
    slur = "repluck" if again else mark.slur or ("palm_mute" if mark.palm else None)
    kept = {"articulation": slur, "stroke": mark.stroke, "from_side": mark.from_side}
    event.marks.update({name: value for name, value in kept.items() if value is not None})
    if mark.vibrato:
        event.marks["vibrato"] = {"return": "bottom" if event.marks.get("bend") is None else "top"}
    event.marks.update({name: True for name in ("accent", "let_ring") if getattr(mark, name)})


def _put_in(event: ScoreEvent, single: ScoreNote, bend: dict[str, Any] | None, report: Report, place: str) -> None:
    """Add a note to an event; the bent note stands first."""
    if bend is not None and event.marks.get("bend") is not None:
        report.add("Of several bends at once the first is kept", place)
        bend = None
    if bend is None:
        event.notes.append(single)
        return
    event.notes.insert(0, single)
    event.marks["bend"] = bend


def _name_unison(event: ScoreEvent) -> None:
    """A bend that arrives at the other note's pitch."""
    bend = event.marks.get("bend")
    if bend is not None and len(event.notes) == 2 and bend["kind"] == "bend":
        low, high = event.notes
        if low.midi is not None and high.midi is not None and low.midi + bend["target_cents"] / 100.0 == high.midi:
            bend["kind"] = "unison"


def _rests(heard: list[_Heard], events: list[ScoreEvent]) -> list[ScoreEvent]:
    """Written rests in which no voice sounds; those that follow each other are one."""
    sounds = sorted((e.beat, e.beat + e.length) for e in events)
    rests: list[ScoreEvent] = []
    for item in sorted((h for h in heard if h.index is None), key=lambda h: h.beat):
        if any(start < item.beat + item.length and end > item.beat for start, end in sounds):
            continue
        if rests and rests[-1].beat + rests[-1].length >= item.beat:
            rests[-1].length = max(rests[-1].length, item.beat + item.length - rests[-1].beat)
        else:
            rests.append(ScoreEvent(item.beat, item.length))
    return rests


def _head(score: ScoreTree, report: Report) -> tuple[Head, int]:
    root, part = score.root, score.part
    title = root.findtext("work/work-title") or root.findtext("movement-title") or "Imported score"
    tuning, capo = _tuning(part, report)
    times = {(t.findtext("beats"), t.findtext("beat-type")) for t in part.iterfind("measure/attributes/time")}
    free = any(t.find("senza-misura") is not None for t in part.iterfind("measure/attributes/time"))
    per_bar = _bar_beats(sorted(times, key=str), report) if not free else 4
    more: dict[str, Any] = {"tempo": None}
    if not free:
        more["tempo"] = {"bpm": _bpm(part, report), "beats_per_bar": per_bar} | _swing(part)
    for tag, sentence in (
        ("measure/harmony", "Chord names were left out"),
        ("measure/direction/direction-type/dynamics", "Dynamics were left out"),
        ("measure/direction/direction-type/words", "Words over the notes were left out"),
    ):
        if part.find(tag) is not None:
            report.add(sentence)
    return Head(" ".join(title.split()), tuning, capo, per_bar, more), per_bar


def _tuning(part: Element, report: Report) -> tuple[tuple[str | float, ...], int]:
    details = part.find("measure/attributes/staff-details")
    if details is None:
        return STANDARD_TUNING, 0
    found: list[str | float] = []
    try:
        for line in sorted(details.findall("staff-tuning"), key=lambda e: int(e.get("line", "0")), reverse=True):
            step, octave = line.findtext("tuning-step", "E").strip(), line.findtext("tuning-octave", "2").strip()
            alter = float(line.findtext("tuning-alter") or 0)
            whole = round(alter)
            name = step + ("#" * whole if whole > 0 else "b" * -whole) + octave
            found.append(name if alter == whole else pitch_midi(step + octave) + alter)
        checked_tuning(tuple(found))
    except (ValueError, OverflowError, SignalError):
        report.add("The tuning of the staff could not be read; standard tuning is taken")
        return STANDARD_TUNING, 0
    capo = details.findtext("capo") or "0"
    fits = 4 <= len(found) <= 8
    return tuple(found) if fits else STANDARD_TUNING, int(capo) if capo.isdigit() and int(capo) <= 12 else 0


def _bar_beats(times: list[tuple[str | None, str | None]], report: Report) -> int:
    lengths = []
    for beats, kind in times:
        try:
            lengths.append(Fraction(int(beats or 4) * 4, int(kind or 4)))
        except (ValueError, ZeroDivisionError):
            report.add("A time signature could not be read; bars of four beats are drawn")
    if not lengths:
        return 4
    if len(set(lengths)) > 1:
        report.add("The time signature changes; all bars are drawn like the first")
    if lengths[0].denominator != 1 or not 1 <= lengths[0] <= 16:
        report.add("Bars of this time signature are no whole number of quarter notes; bars of four beats are drawn")
        return 4
    return int(lengths[0])


def _bpm(part: Element, report: Report) -> float:
    """Quarter notes a minute: of the first tempo, after `sound`, else after the metronome mark."""
    units = {"whole": 4.0, "half": 2.0, "quarter": 1.0, "eighth": 0.5, "16th": 0.25}
    tempos = [e.get("tempo") for e in part.iter("sound") if e.get("tempo")]
    for mark in part.iter("metronome"):
        unit = units.get(mark.findtext("beat-unit") or "", 1.0) * (
            1.5 if mark.find("beat-unit-dot") is not None else 1.0
        )
        said = re.search(r"\d+(\.\d+)?", mark.findtext("per-minute") or "")
        if not tempos and said:
            tempos.append(str(float(said.group()) * unit))
    values = []
    for tempo in tempos:
        try:
            values.append(float(tempo or ""))
        except ValueError:
            continue
    if not values:
        report.add(f"The file has no tempo; {NOMINAL_BPM:g} bpm is set")
        return NOMINAL_BPM
    if len(set(values)) > 1:
        report.add("The tempo changes; the first one is taken for all of it")
    bpm = values[0]
    if not 20 <= bpm <= 400:
        report.add(f"A tempo of {bpm:g} bpm is not possible; {NOMINAL_BPM:g} bpm is set")
        return NOMINAL_BPM
    return round(bpm, 3)


def _swing(part: Element) -> dict[str, float]:
    swing = next(part.iter("swing"), None)
    if swing is None or swing.findtext("first") is None or swing.findtext("second") is None:
        return {}
    try:
        first, second = float(swing.findtext("first", "1")), float(swing.findtext("second", "1"))
    except ValueError:
        return {}
    share = first / (first + second) if first + second > 0 else 0.5
    return {"swing": round(share, 3)} if 0.5 <= share <= 0.75 else {}

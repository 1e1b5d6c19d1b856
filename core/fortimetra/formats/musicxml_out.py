"""Drills as MusicXML 4.0 (partwise): one part on a tab staff, with its tuning, strings, frets and how each note is
struck.

What the format has no word for (tolerances, corridors, which note sounds a bend's target) goes into a
`miscellaneous-field`, the format's own place for such things; `musicxml_in` takes it back where the notes still agree.
Element names and their order: W3C MusicXML 4.0 schema.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from fractions import Fraction
from xml.etree.ElementTree import Element, SubElement, indent, tostring

from fortimetra.formats.musicxml_aside import FIELD, aside_of
from fortimetra.formats.written import Written, exact, written
from fortimetra.model.drill import Articulation, Bend, Drill, DrillNote, Event
from fortimetra.model.guitar import pitch_midi

SLURS = {"hammer": "hammer-on", "pull": "pull-off"}
# The fretting hand's fingers as text; a tapping finger and a slide are no fingering.
FINGERINGS = {"1": "1", "2": "2", "3": "3", "4": "4", "thumb": "T"}
STEPS = (
    ("C", 0),
    ("C", 1),
    ("D", 0),
    ("E", -1),
    ("E", 0),
    ("F", 0),
    ("F", 1),
    ("G", 0),
    ("A", -1),
    ("A", 0),
    ("B", -1),
    ("B", 0),
)
DOCTYPE = (
    b'<?xml version="1.0" encoding="UTF-8"?>\n<!DOCTYPE score-partwise PUBLIC '
    b'"-//Recordare//DTD MusicXML 4.0 Partwise//EN" "http://www.musicxml.org/dtds/partwise.dtd">\n'
)


def drill_to_musicxml(drill: Drill) -> bytes:
    """A drill as a MusicXML file; its repeats as a repeat of the whole score."""
    root = Element("score-partwise", version="4.0")
    SubElement(SubElement(root, "work"), "work-title").text = drill.title
    identification = SubElement(root, "identification")
    SubElement(SubElement(identification, "encoding"), "software").text = "Fortimetra"
    aside = SubElement(SubElement(identification, "miscellaneous"), "miscellaneous-field", name=FIELD)
    aside.text = aside_of(drill).model_dump_json(by_alias=True, exclude_defaults=True)
    SubElement(SubElement(SubElement(root, "part-list"), "score-part", id="P1"), "part-name").text = "Guitar"
    part = SubElement(root, "part", id="P1")
    _Writer(drill, part).write()
    indent(root)
    return DOCTYPE + tostring(root, encoding="utf-8") + b"\n"


@dataclass
class _Piece:
    """A part of an event within one bar."""

    event: Event
    start: Fraction
    written: Written
    first: bool
    last: bool
    tuplet: str = ""
    starts: list[tuple[str, int]] = field(default_factory=list)  # slurs that begin here: (element, string)


class _Writer:
    def __init__(self, drill: Drill, part: Element) -> None:
        self.drill = drill
        self.part = part
        self.bar = Fraction(drill.tempo.beats_per_bar) if drill.tempo else exact(drill.length_beats)
        self.starts = self._slurs_out()
        lengths = [exact(x) for e in drill.events for x in (e.beat, e.length)] + [self.bar]
        self.divisions = math.lcm(*(f.denominator for f in lengths))

    def write(self) -> None:
        voices = self._voices()
        count = max(1, math.ceil(exact(self.drill.length_beats) / self.bar))
        for number in range(count):
            measure = SubElement(self.part, "measure", number=str(number + 1))
            if number == 0:
                if self.drill.repeats > 1:
                    _barline(measure, "left", direction="forward")
                self._attributes(measure)
                self._tempo(measure)
            for index, voice in enumerate(voices):
                pieces = [p for p in voice if number * self.bar <= p.start < (number + 1) * self.bar]
                if index > 0 and not pieces:
                    continue
                if index > 0:
                    self._move(measure, "backup", self.bar)
                self._voice(measure, pieces, str(index + 1), number * self.bar)
            if number == count - 1 and self.drill.repeats > 1:
                _barline(measure, "right", direction="backward", times=str(self.drill.repeats))

    def _voices(self) -> list[list[_Piece]]:
        """Events in voices without overlap: their own where it is free, else the next free one."""
        ends: list[Fraction] = []
        voices: list[list[_Piece]] = []
        for event in self.drill.events:
            start, end = exact(event.beat), exact(event.beat) + exact(event.length)
            wish = event.voice - 1
            free = [i for i in range(max(len(ends), wish) + 1) if i >= len(ends) or ends[i] <= start]
            index = wish if wish in free else free[0]
            while len(ends) <= index:
                ends.append(Fraction(0))
                voices.append([])
            ends[index] = end
            voices[index] += self._pieces(event, start, end)
        for voice in voices:
            _tuplets(voice)
        return voices

    def _pieces(self, event: Event, start: Fraction, end: Fraction) -> list[_Piece]:
        cuts = [start]
        bar = (start // self.bar + 1) * self.bar
        while bar < end:
            cuts.append(bar)
            bar += self.bar
        pieces: list[_Piece] = []
        at = start
        for to in [*cuts[1:], end]:
            for part in written(to - at):
                pieces.append(_Piece(event, at, part, first=not pieces, last=False))
                at += part.length
        pieces[-1].last = True
        return pieces

    def _slurs_out(self) -> dict[str, list[tuple[str, int]]]:
        """By event id: the slurs to a later note that begin on it."""
        elements = SLURS | {"slide": "slide"}
        found: dict[str, list[tuple[str, int]]] = {}
        on_string: dict[int, str] = {}
        for event in self.drill.events:
            for note in event.notes:
                before = on_string.get(note.string)
                if before is not None and event.articulation in elements:
                    found.setdefault(before, []).append((elements[event.articulation], note.string))
                on_string[note.string] = event.id
        self.slurred = {(e.id, n.string) for e in self.drill.events for n in e.notes if e.articulation in elements}
        return found

    def _attributes(self, measure: Element) -> None:
        attributes = SubElement(measure, "attributes")
        SubElement(attributes, "divisions").text = str(self.divisions)
        SubElement(SubElement(attributes, "key"), "fifths").text = "0"
        if self.drill.tempo:
            time = SubElement(attributes, "time")
            SubElement(time, "beats").text = str(self.drill.tempo.beats_per_bar)
            SubElement(time, "beat-type").text = "4"
        else:
            SubElement(SubElement(attributes, "time", {"print-object": "no"}), "senza-misura")
        clef = SubElement(attributes, "clef")
        SubElement(clef, "sign").text = "TAB"
        SubElement(clef, "line").text = "5"
        details = SubElement(attributes, "staff-details")
        count = len(self.drill.tuning)
        SubElement(details, "staff-lines").text = str(count)
        for string in range(count, 0, -1):
            tuning = SubElement(details, "staff-tuning", line=str(count + 1 - string))
            _pitch(tuning, pitch_midi(self.drill.tuning[string - 1]), "tuning-")
        if self.drill.capo:
            SubElement(details, "capo").text = str(self.drill.capo)

    def _tempo(self, measure: Element) -> None:
        if self.drill.tempo is None:
            return
        direction = SubElement(measure, "direction", placement="above")
        mark = SubElement(SubElement(direction, "direction-type"), "metronome")
        SubElement(mark, "beat-unit").text = "quarter"
        SubElement(mark, "per-minute").text = f"{self.drill.tempo.bpm:g}"
        sound = SubElement(direction, "sound", tempo=f"{self.drill.tempo.bpm:g}")
        if self.drill.tempo.swing != 0.5:
            share = Fraction(self.drill.tempo.swing).limit_denominator(1000)
            swing = SubElement(sound, "swing")
            SubElement(swing, "first").text = str(share.numerator)
            SubElement(swing, "second").text = str(share.denominator - share.numerator)
            SubElement(swing, "swing-type").text = "eighth"

    def _move(self, measure: Element, way: str, beats: Fraction) -> None:
        if beats > 0:
            SubElement(SubElement(measure, way), "duration").text = str(int(beats * self.divisions))

    def _voice(self, measure: Element, pieces: list[_Piece], voice: str, start: Fraction) -> None:
        at = start
        for piece in pieces:
            self._move(measure, "forward", piece.start - at)
            notes = piece.event.notes
            if not notes:
                self._note(measure, piece, None, voice, chord=False)
            for index, note in enumerate(notes):
                self._note(measure, piece, note, voice, chord=index > 0)
            at = piece.start + piece.written.length
        self._move(measure, "forward", start + self.bar - at)

    def _note(self, measure: Element, piece: _Piece, note: DrillNote | None, voice: str, *, chord: bool) -> None:
        element = SubElement(measure, "note")
        if chord:
            SubElement(element, "chord")
        if note is None:
            SubElement(element, "rest")
        else:
            _pitch(SubElement(element, "pitch"), self.drill.midi(note), "")
        SubElement(element, "duration").text = str(int(piece.written.length * self.divisions))
        ties = [] if note is None else _ties(piece)
        for tie in ties:
            SubElement(element, "tie", type=tie)
        SubElement(element, "voice").text = voice
        _length(element, piece.written)
        if note is not None and note.muted:
            SubElement(element, "notehead").text = "x"
        notations = Element("notations")
        for tie in ties:
            SubElement(notations, "tied", type=tie)
        for kind in [] if chord else piece.tuplet.split():
            SubElement(notations, "tuplet", type=kind, number="1")
        if note is not None:
            self._played(notations, piece, note, first_note=not chord)
        if len(notations):
            element.append(notations)
        if note is not None and piece.event.articulation == "palm_mute":
            SubElement(SubElement(element, "play"), "mute").text = "palm"

    def _played(self, notations: Element, piece: _Piece, note: DrillNote, *, first_note: bool) -> None:
        """How a note is struck and what is done to it, in the order the schema asks for."""
        event = piece.event
        begin = [kind for kind, string in self.starts.get(event.id, ()) if string == note.string] if piece.last else []
        end = event.articulation if piece.first and (event.id, note.string) in self.slurred else None
        for kind, is_so in (("stop", end == "slide"), ("start", "slide" in begin)):
            if is_so:
                SubElement(notations, "slide", {"type": kind, "number": str(note.string), "line-type": "solid"})
        if event.vibrato is not None and piece.first and first_note:
            ornaments = SubElement(notations, "ornaments")
            SubElement(ornaments, "wavy-line", type="start", number="1")
            SubElement(ornaments, "wavy-line", type="stop", number="1")
        technical = SubElement(notations, "technical")
        SubElement(technical, "string").text = str(note.string)
        if note.fret is not None:
            SubElement(technical, "fret").text = str(note.fret)
        _slurs(technical, note, end, [kind for kind in begin if kind != "slide"])
        if piece.first:
            _by_the_hands(technical, event, note, first_note=first_note)
            _articulations(notations, event, note)


def _length(element: Element, length: Written) -> None:
    if length.kind:
        SubElement(element, "type").text = length.kind
        for _ in range(length.dots):
            SubElement(element, "dot")
    if length.tuplet:
        change = SubElement(element, "time-modification")
        SubElement(change, "actual-notes").text = str(length.tuplet[0])
        SubElement(change, "normal-notes").text = str(length.tuplet[1])


def _slurs(technical: Element, note: DrillNote, end: Articulation | None, begin: list[str]) -> None:
    """The slur that ends on a note (its articulation), and those that begin on it."""
    number = str(note.string)
    ended = SLURS.get(end or "")
    if ended:
        SubElement(technical, ended, type="stop", number=number)
    for kind in begin:
        SubElement(technical, kind, type="start", number=number).text = kind[0].upper()


def _by_the_hands(technical: Element, event: Event, note: DrillNote, *, first_note: bool) -> None:
    if event.articulation == "tap":
        SubElement(technical, "tap")
    if event.bend is not None and first_note:
        _bend(technical, event.bend, again=event.articulation == "repluck")
    if first_note and event.stroke is not None:
        # A sweep's further notes are strokes the same way; that they are one motion stands beside the score.
        SubElement(technical, "down-bow" if event.stroke.endswith("down") else "up-bow")
    if note.finger in FINGERINGS:
        SubElement(technical, "fingering").text = FINGERINGS[note.finger]


def _articulations(notations: Element, event: Event, note: DrillNote) -> None:
    from_fret = None if event.slide is None else event.slide.from_fret or None
    away = 0 if from_fret is None else from_fret - (note.fret or 0)
    found = [tag for tag, is_so in (("accent", event.accent), ("scoop", away < 0), ("plop", away > 0)) if is_so]
    if found:
        element = SubElement(notations, "articulations")
        for tag in found:
            SubElement(element, tag)


def _barline(measure: Element, location: str, **repeat: str) -> None:
    barline = SubElement(measure, "barline", location=location)
    SubElement(barline, "bar-style").text = "heavy-light" if location == "left" else "light-heavy"
    SubElement(barline, "repeat", repeat)


def _pitch(parent: Element, midi: float, prefix: str) -> None:
    step, alter = STEPS[round(midi) % 12]
    change = alter + round(midi - round(midi), 6)
    SubElement(parent, f"{prefix}step").text = step
    if change:
        SubElement(parent, f"{prefix}alter").text = f"{change:g}"
    SubElement(parent, f"{prefix}octave").text = str(round(midi) // 12 - 1)


def _ties(piece: _Piece) -> list[str]:
    ties = [] if piece.first else ["stop"]
    if not piece.last:
        return [*ties, "start"]
    return [*ties, "let-ring"] if piece.event.let_ring else ties


def _bend(technical: Element, bend: Bend, *, again: bool) -> None:
    """Semitones; a release has a negative number, after the specification of `bend-alter`."""
    size = bend.middle_cents / 100.0
    down = bend.kind in {"prebend", "release"} and not again
    if bend.kind != "release":
        up = SubElement(technical, "bend")
        SubElement(up, "bend-alter").text = f"{size:g}"
        if bend.kind == "prebend" or again:
            SubElement(up, "pre-bend")
    if down:
        back = SubElement(technical, "bend")
        SubElement(back, "bend-alter").text = f"{-size:g}"
        SubElement(back, "release")


def _tuplets(voice: list[_Piece]) -> None:
    """Where a bracket begins and ends: from the first note of a tuplet until its notes fill a plain length."""
    filled = Fraction(0)
    opened: _Piece | None = None
    before: _Piece | None = None
    for piece in [*voice, None]:
        ratio = piece.written.tuplet if piece else None
        joins = (
            opened is not None and piece is not None and before is not None
            and ratio == opened.written.tuplet and piece.start == before.start + before.written.length
        )  # fmt: skip
        if opened is not None and before is not None and not joins:
            before.tuplet = f"{before.tuplet} stop".strip()
            opened = None
        if piece is None or ratio is None:
            before = piece
            continue
        if opened is None:
            opened, filled = piece, Fraction(0)
            piece.tuplet = "start"
        filled += piece.written.length
        if filled.denominator & (filled.denominator - 1) == 0:
            piece.tuplet = f"{piece.tuplet} stop".strip()
            opened = None
        before = piece

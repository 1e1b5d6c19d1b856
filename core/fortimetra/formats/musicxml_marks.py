"""What a MusicXML note says beside pitch and time: where on the neck, how it is struck, bent and slurred."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any
from xml.etree.ElementTree import Element

from fortimetra.formats.score_in import CURL_BELOW_CENTS, CURL_CENTS, Report

MOST_BEND_SEMITONES = 5.0

# Elements that say something a drill does not hold.
LEFT_OUT = {
    "grace": "Grace notes were left out",
    "harmonic": "Harmonics are taken as plain notes",
    "tremolo": "Tremolo is taken as one stroke",
    "pluck": "Fingers of the plucking hand are not kept",
    "staccato": "Short notes (staccato) are taken at their written length",
    "staccatissimo": "Short notes (staccato) are taken at their written length",
    "fermata": "Fermatas were left out",
    "trill-mark": "Trills are taken as one note",
    "mordent": "Ornaments were left out",
    "turn": "Ornaments were left out",
    "arpeggiate": "Broken chords are taken as struck together",
    "lyric": "Lyrics were left out",
    "glissando": "Glissandi without a slide are taken as two notes",
}


FINGERS = {"1": "1", "2": "2", "3": "3", "4": "4", "T": "thumb", "t": "thumb"}
STROKES = {"down-bow": "down", "up-bow": "up"}
SIDES = {"scoop": "below", "plop": "above"}


@dataclass
class NoteMarks:
    """One note's marks. slur: hammer, pull, slide, tap, any (a plain slur), or nothing."""

    string: int | None = None
    fret: int | None = None
    muted: bool = False
    slur: str | None = None
    bends: list[tuple[float, str]] = field(default_factory=list)  # semitones; "", "pre-bend" or "release"
    vibrato: bool = False
    accent: bool = False
    let_ring: bool = False
    grace: bool = False
    finger: str | None = None
    stroke: str | None = None
    palm: bool = False
    from_side: str | None = None  # "below" or "above": slid into, from somewhere near


def marks_of(element: Element, *, slurred: bool) -> NoteMarks:
    """slurred: a plain slur that began earlier covers this note."""
    technical = list(element.iterfind("notations/technical"))
    signs = {e.tag for group in element.iterfind("notations/articulations") for e in group}
    return NoteMarks(
        string=_whole(technical, "string", 1, 8),
        fret=_whole(technical, "fret", 0, 36),
        muted=(element.findtext("notehead") or "").strip() == "x",
        slur=_slur_of(element, technical) or ("any" if slurred else None),
        bends=[bend for group in technical for e in group.findall("bend") if (bend := _bend(e)) is not None],
        vibrato=element.find("notations/ornaments/wavy-line") is not None,
        accent=bool(signs & {"accent", "strong-accent"}),
        let_ring=any(t.get("type") == "let-ring" for t in element.iterfind("notations/tied")),
        grace=element.find("grace") is not None,
        finger=_finger_of(technical),
        stroke=_stroke_of(technical),
        palm=(element.findtext("play/mute") or "").strip() == "palm",
        from_side=next((way for tag, way in SIDES.items() if tag in signs), None),
    )


def _finger_of(technical: list[Element]) -> str | None:
    texts = ((e.text or "").strip() for group in technical for e in group.findall("fingering"))
    return next((FINGERS[text] for text in texts if text in FINGERS), None)


def _stroke_of(technical: list[Element]) -> str | None:
    return next((way for t in technical for tag, way in STROKES.items() if t.find(tag) is not None), None)


def _slur_of(element: Element, technical: list[Element]) -> str | None:
    """What ends on a note: a tap before a pull, a pull before a hammer, any of them before a slide."""
    ends = {
        tag for t in technical for tag in ("hammer-on", "pull-off") for e in t.findall(tag) if e.get("type") == "stop"
    }
    if any(t.find("tap") is not None for t in technical):
        return "tap"
    if "pull-off" in ends:
        return "pull"
    if "hammer-on" in ends:
        return "hammer"
    return "slide" if any(s.get("type") == "stop" for s in element.iterfind("notations/slide")) else None


def _bend(element: Element) -> tuple[float, str] | None:
    """Semitones up, and "", "pre-bend" or "release"; None where no drill can ask for it."""
    kind = next((k for k in ("pre-bend", "release") if element.find(k) is not None), "")
    size = _float(element.findtext("bend-alter"))
    if size is None or not 0 < abs(size) <= MOST_BEND_SEMITONES:
        return None
    return abs(size), "release" if size < 0 and not kind else kind


def bend_of(
    bends: list[tuple[float, str]], *, bent_before: bool, report: Report, place: str
) -> tuple[dict[str, Any] | None, bool]:
    """The drill's bend of a note, and whether it is the bend before it struck again.

    bent_before: the note before on this string was bent, at the same fret.
    """
    if not bends:
        return None, False
    kinds = [kind for _, kind in bends]
    size = bends[0][0]
    cents: Any = round(100.0 * size, 3)
    if "pre-bend" in kinds:
        if "release" not in kinds and bent_before:
            return {"kind": "bend", "target_cents": cents}, True
        return {"kind": "prebend", "target_cents": cents}, False
    if kinds == ["release"]:
        return {"kind": "release", "target_cents": cents}, False
    if len(bends) > 1:
        report.add("Of a note that is bent and let down again only the bend is kept", place)
    if cents < CURL_BELOW_CENTS:
        return {"kind": "curl", "target_cents": list(CURL_CENTS)}, False
    return {"kind": "bend", "target_cents": cents}, False


def slurs(part: Element) -> Iterator[tuple[Element, bool]]:
    """Every note element of a part, and whether a plain slur from an earlier note covers it."""
    opened: set[str] = set()
    for note in part.iterfind("measure/note"):
        yield note, bool(opened)
        for slur in note.iterfind("notations/slur"):
            number = slur.get("number", "1")
            if slur.get("type") == "start":
                opened.add(number)
            elif slur.get("type") == "stop":
                opened.discard(number)


def report_left_out(element: Element, place: str, report: Report) -> None:
    """Say what of a note is not kept."""
    for child in element.iter():
        if child.tag in LEFT_OUT:
            report.add(LEFT_OUT[child.tag], place)
        elif child.tag == "other-technical" and (child.text or "").strip():
            report.add(f"“{(child.text or '').strip()[:40]}” has no counterpart in a drill", place)


def _whole(technical: list[Element], tag: str, low: int, high: int) -> int | None:
    for group in technical:
        value = _float(group.findtext(tag))
        if value is not None and value.is_integer() and low <= value <= high:
            return int(value)
    return None


def _float(text: str | None) -> float | None:
    try:
        return float(text or "")
    except ValueError:
        return None

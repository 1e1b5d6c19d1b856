"""MusicXML files made safe and small: unpacked within limits, parsed without entities, one part and one staff left.

A file may be hostile until it has passed here: no entity is expanded, nothing outside is fetched, a compressed file is
not unpacked beyond its limit, and the number of notes is counted before anything is done with them.
"""

from __future__ import annotations

import io
import struct
import zipfile
import zlib
from dataclasses import dataclass
from xml.etree.ElementTree import Element, ParseError, SubElement

import defusedxml
from defusedxml.ElementTree import fromstring

from fortimetra.errors import DrillError
from fortimetra.formats.score_in import Report
from fortimetra.model.base import MAX_FILE_BYTES
from fortimetra.model.drill import MAX_EVENTS

MAX_UNPACKED_BYTES = 20_000_000
MAX_NOTES = 4 * MAX_EVENTS
CONTAINER = "META-INF/container.xml"
# All that zipfile and what it unpacks with have been seen to raise at damaged files.
DAMAGED = (
    zipfile.BadZipFile, zlib.error, struct.error, KeyError, ValueError, OverflowError, NotImplementedError,
    RuntimeError, EOFError, OSError,
)  # fmt: skip


def unpacked(content: bytes) -> bytes:
    """The XML of a plain or compressed file.

    Raises DrillError(code="score_too_large" | "score_invalid").
    """
    if len(content) > MAX_FILE_BYTES:
        raise DrillError("score_too_large", f"A score has at most {MAX_FILE_BYTES // 1_000_000} MB.")
    if not content.startswith(b"PK"):
        return content
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            return _member(archive, _root_file(archive))
    except DAMAGED as error:
        raise DrillError("score_invalid", "This compressed score is damaged; export it again.") from error


def _root_file(archive: zipfile.ZipFile) -> str:
    container = parsed(_member(archive, CONTAINER))
    for element in container.iter():
        if element.tag.rpartition("}")[2] == "rootfile" and element.get("full-path"):
            return str(element.get("full-path"))
    raise KeyError(CONTAINER)


def _member(archive: zipfile.ZipFile, name: str) -> bytes:
    with archive.open(name) as member:
        content = member.read(MAX_UNPACKED_BYTES + 1)
    if len(content) > MAX_UNPACKED_BYTES:
        raise DrillError(
            "score_too_large",
            f"This score unpacks to more than {MAX_UNPACKED_BYTES // 1_000_000} MB; that is no drill.",
        )
    return content


def parsed(content: bytes) -> Element:
    """The root of an XML file.

    Raises DrillError(code="score_invalid") with the line, or for entities, which are not expanded.
    """
    try:
        return fromstring(content, forbid_entities=True, forbid_external=True)
    except defusedxml.DefusedXmlException as error:
        raise DrillError(
            "score_invalid", "This file defines XML entities, which a score does not need; it was not read."
        ) from error
    except ParseError as error:
        line = error.position[0]
        raise DrillError("score_invalid", f"This is not a MusicXML file: line {line} is not XML.") from error
    except (ValueError, LookupError) as error:
        raise DrillError("score_invalid", "This is not a MusicXML file: its text encoding is unknown.") from error


@dataclass(frozen=True)
class ScoreTree:
    """A score with one part on one staff; part: its element in root."""

    root: Element
    part: Element


def one_part(root: Element, report: Report) -> ScoreTree:
    """Leave the part and the staff that is the guitar's: with strings and frets, else the first that has notes.

    Raises DrillError(code="score_invalid" | "score_too_long").
    """
    if root.tag == "score-timewise":
        raise DrillError(
            "score_invalid", "This score is written bar by bar (timewise); export it as partwise MusicXML."
        )
    if root.tag != "score-partwise":
        raise DrillError("score_invalid", f"This is not a MusicXML score: it begins with <{root.tag[:40]}>.")
    chosen = _chosen(root, report)
    for part in root.findall("part"):
        if part is not chosen:
            root.remove(part)
    for element in root.findall("part-list/score-part"):
        if element.get("id") != chosen.get("id"):
            root.find("part-list").remove(element)  # type: ignore[union-attr]
    for group in root.findall("part-list/part-group"):
        root.find("part-list").remove(group)  # type: ignore[union-attr]
    _count(chosen)
    _one_staff(chosen, report)
    return ScoreTree(root, chosen)


def _chosen(root: Element, report: Report) -> Element:
    """The first part with frets, else the first with notes."""
    parts = [p for p in root.findall("part") if p.find("measure/note/pitch") is not None]
    if not parts:
        raise DrillError("score_invalid", "There are no pitched notes in this file.")
    chosen = next((p for p in parts if p.find("measure/note/notations/technical/fret") is not None), parts[0])
    if len(parts) > 1:
        names = {e.get("id"): e.findtext("part-name") for e in root.findall("part-list/score-part")}
        title = names.get(chosen.get("id")) or "the first"
        report.add(f"Only one of {len(parts)} parts was taken, “{title[:60]}”")
    return chosen


def _count(part: Element) -> None:
    """Refuse what is too long, with the place where the limit is passed."""
    seen = 0
    for number, measure in enumerate(part.findall("measure"), 1):
        divisions = 1.0
        at = 0.0
        for element in measure:
            if element.tag == "attributes":
                divisions = _number(element.findtext("divisions"), divisions)
            length = _number(element.findtext("duration"), 0.0) / divisions
            if element.tag == "backup":
                at -= length
            elif element.tag == "forward":
                at += length
            elif element.tag == "note":
                seen += 1
                if seen > MAX_NOTES:
                    raise DrillError(
                        "score_too_long",
                        f"This score has more than {MAX_NOTES} notes; the limit is passed at bar {number}, beat "
                        f"{at + 1:g}. Take the part that is to be practised.",
                    )
                at += length if element.find("chord") is None else 0.0


def _number(text: str | None, default: float) -> float:
    try:
        value = float(text or "")
    except ValueError:
        return default
    return value if value > 0 else default


def _one_staff(part: Element, report: Report) -> None:
    """Of a part with notation and tab, which say the same twice, leave the tab."""
    staves = sorted({e.text or "1" for e in part.iterfind("measure/note/staff")})
    if len(staves) < 2:
        return
    clefs = part.iterfind("measure/attributes/clef")
    tab = next((clef.get("number", "1") for clef in clefs if clef.findtext("sign") == "TAB"), staves[0])
    report.add(f"Only staff {tab} of {len(staves)} was taken")
    for attributes in part.findall("measure/attributes"):
        for child in list(attributes):
            if child.tag == "staves" or child.get("number", tab) != tab:
                attributes.remove(child)
            child.attrib.pop("number", None)
    for measure in part.findall("measure"):
        measure[:] = [_on_staff(element, tab) for element in measure]


def _on_staff(element: Element, number: str) -> Element:
    """What a bar holds in place of an element, where only one staff is left."""
    if element.tag == "note" and (element.findtext("staff") or "1") != number:
        return _in_its_place(element)
    staff = element.find("staff")
    if staff is not None:
        element.remove(staff)
    return element


def _in_its_place(note: Element) -> Element:
    """What takes as long as a note that is left out."""
    duration = note.findtext("duration")
    if duration is None or note.find("chord") is not None:
        return Element("sound")
    forward = Element("forward")
    SubElement(forward, "duration").text = duration
    return forward

"""Drills written as MusicXML, judged by others.

Sources: W3C MusicXML 4.0 schema, as the PyPI package musicxml ships it; independent readers: partitura (notes, onsets,
durations) and Verovio (what it engraves and plays); music21 (strings, frets, bends), which also reads scores for us.
Pitches of string and fret: equal temperament, one fret a semitone (common practice, no source).
"""

import warnings
from fractions import Fraction
from pathlib import Path
from xml.etree import ElementTree

import musicxml
import pytest
import verovio
import xmlschema
from fortimetra.drills.library import built_in_drills, library
from fortimetra.formats.musicxml_in import read_musicxml
from fortimetra.formats.musicxml_out import drill_to_musicxml
from music21 import articulations, converter, interval, meter, note, stream
from music21 import chord as m21_chord
from music21 import tempo as m21_tempo

warnings.filterwarnings("ignore", module="partitura")

DRILLS = built_in_drills()
ONE_A_FORM = list({b.form: b.drill for b in library()}.values())
WITH_CLICK = [d for d in DRILLS if d.tempo]


@pytest.fixture(scope="module")
def schema():
    folder = Path(musicxml.__file__).parent / "generate_classes"
    standards = Path(xmlschema.__file__).parent / "schemas"
    return xmlschema.XMLSchema(
        str(folder / "musicxml_4_0.xsd"),
        locations={
            "http://www.w3.org/XML/1998/namespace": str(standards / "XML" / "xml.xsd"),
            "http://www.w3.org/1999/xlink": str(standards / "XLINK" / "xlink.xsd"),
        },
        allow="local",
    )


@pytest.mark.parametrize("drill", ONE_A_FORM, ids=lambda d: d.title)
def test_every_form_is_valid_by_the_w3c_schema(drill, schema):
    schema.validate(ElementTree.fromstring(drill_to_musicxml(drill)))


@pytest.mark.parametrize("drill", DRILLS, ids=lambda d: d.title)
def test_round_trip_loses_nothing(drill):
    back = read_musicxml(drill_to_musicxml(drill))
    assert back.drill == drill
    assert (back.lost, back.proposed) == ((), ())


@pytest.mark.parametrize("drill", WITH_CLICK[::3], ids=lambda d: d.title)
def test_partitura_finds_the_same_notes_at_the_same_places(drill, tmp_path):
    import partitura

    file = tmp_path / "drill.musicxml"
    file.write_bytes(drill_to_musicxml(drill))
    part = partitura.load_musicxml(str(file)).parts[0]
    found = sorted((round(float(part.quarter_map(n.start.t)), 3), n.midi_pitch) for n in part.notes_tied)
    asked = sorted((round(e.beat, 3), round(drill.midi(n))) for e in drill.events for n in e.notes)
    assert [(round(b, 2), m) for b, m in found] == [(round(b, 2), m) for b, m in asked]


def within_bars(drill) -> bool:
    """No note is tied over a bar line: Verovio counts the parts of some such notes."""
    bar = drill.tempo.beats_per_bar
    return all(not e.notes or (e.beat % bar) + e.length <= bar + 1e-6 for e in drill.events)


@pytest.mark.parametrize("drill", [d for d in WITH_CLICK if within_bars(d)][::3], ids=lambda d: d.title)
def test_verovio_plays_the_repeats_out(drill):
    toolkit = verovio.toolkit()
    toolkit.setOptions({"breaks": "none"})
    assert toolkit.loadData(drill_to_musicxml(drill).decode())
    struck = sum(len(step.get("on", ())) for step in toolkit.renderToTimemap())
    assert struck == drill.repeats * sum(len(e.notes) for e in drill.events)


@pytest.mark.parametrize("drill", WITH_CLICK[::3], ids=lambda d: d.title)
def test_music21_finds_strings_frets_and_bends(drill):
    part = converter.parseData(drill_to_musicxml(drill).decode(), format="musicxml").parts[0]
    found = set()
    bends = 0
    for element in part.recurse().notes:
        if element.tie is not None and element.tie.type in {"stop", "continue"}:
            continue
        at = round(float(element.getOffsetInHierarchy(part)), 2)
        strings = [a.number for a in element.articulations if isinstance(a, articulations.StringIndication)]
        frets = [a.number for a in element.articulations if isinstance(a, articulations.FretIndication)]
        bends += any(isinstance(a, articulations.FretBend) for a in element.articulations)
        pitched = [p.ps for p in element.pitches]
        assert len(strings) == len(pitched)
        found |= {(at, s) for s in strings}
        if len(frets) == len(strings):
            for string, fret, midi in zip(strings, frets, pitched, strict=True):
                assert drill.open_midi(string) + fret == midi
    assert found == {(round(e.beat, 2), n.string) for e in drill.events for n in e.notes}
    assert bends == sum(e.bend is not None for e in drill.events)


def test_swing_capo_and_another_tuning_stand_in_the_file():
    drill = WITH_CLICK[2].model_copy(
        update={
            "tempo": WITH_CLICK[2].tempo.model_copy(update={"swing": 0.667}),
            "capo": 3,
            "tuning": ("D4", "A3", 54.5, "D3", "A2", "D2"),
        }
    )
    content = drill_to_musicxml(drill)
    root = ElementTree.fromstring(content)
    details = root.find(".//staff-details")
    lowest = details.find("staff-tuning[@line='1']")
    assert (lowest.findtext("tuning-step"), lowest.findtext("tuning-octave")) == ("D", "2")
    third = details.find("staff-tuning[@line='4']")
    assert (third.findtext("tuning-step"), third.findtext("tuning-alter")) == ("F", "1.5") or float(
        third.findtext("tuning-alter")
    ) % 1 == 0.5
    assert details.findtext("capo") == "3"
    swing = root.find(".//swing")
    assert int(swing.findtext("first")) / (
        int(swing.findtext("first")) + int(swing.findtext("second"))
    ) == pytest.approx(0.667, abs=1e-3)
    assert read_musicxml(content).drill == drill


def score_of(*elements, bpm=90):
    """A score by music21, in 4/4."""
    part = stream.Part()
    part.append(m21_tempo.MetronomeMark(number=bpm))
    part.append(meter.TimeSignature("4/4"))
    part.append(list(elements))
    return part


def written(part) -> bytes:
    from music21.musicxml.m21ToXml import GeneralObjectExporter

    return GeneralObjectExporter(part).parse()


def tab_note(name, string, fret, length=1.0, *marks):
    made = note.Note(name, quarterLength=length)
    made.articulations = [articulations.StringIndication(string), articulations.FretIndication(fret), *marks]
    return made


def test_a_score_by_music21_keeps_strings_slurs_bends_and_triplets():
    low, high = tab_note("A3", 3, 2), tab_note("C4", 3, 5)
    full = articulations.FretBend(bendAlter=interval.Interval(2))
    part = score_of(
        low, high, tab_note("D4", 3, 7, 1.0, full, articulations.Accent()), note.Rest(quarterLength=1),
        *(tab_note(n, 2, f, Fraction(1, 3)) for n, f in (("E4", 5), ("F4", 6), ("G4", 8))), tab_note("E4", 2, 5, 3.0),
    )  # fmt: skip
    part.insert(0, articulations.HammerOn([low, high]))
    found = read_musicxml(written(part))
    drill = found.drill
    assert found.proposed == ()
    assert [(e.beat, [(n.string, n.fret) for n in e.notes]) for e in drill.events][:3] == [
        (0.0, [(3, 2)]), (1.0, [(3, 5)]), (2.0, [(3, 7)]),
    ]  # fmt: skip
    assert [e.articulation for e in drill.events[:4]] == ["pick", "hammer", "pick", "none"]
    assert (drill.events[2].bend.kind, drill.events[2].bend.target_cents, drill.events[2].accent) == (
        "bend",
        200.0,
        True,
    )
    assert [e.length for e in drill.events[4:7]] == [pytest.approx(1 / 3, abs=1e-5)] * 3
    assert drill.tempo.bpm == 90.0


def test_notes_without_places_get_places_that_sound_the_same():
    chord = m21_chord.Chord(["E2", "B2", "E3"], quarterLength=2)
    part = score_of(*(note.Note(n) for n in ("A2", "C3", "D3", "E3")), chord, note.Note("A5", quarterLength=2))
    found = read_musicxml(written(part))
    assert len(found.proposed) == 6
    sounding = [sorted(found.drill.midi(n) for n in e.notes) for e in found.drill.events]
    assert sounding == [[45], [48], [50], [52], [40, 47, 52], [81]]


def test_ties_over_the_bar_are_one_note_and_endings_are_played_out():
    from music21 import bar, spanner

    part = stream.Part()
    bars = [stream.Measure(number=i) for i in (1, 2, 3)]
    for measure, name in zip(bars, ("C4", "D4", "E4"), strict=True):
        measure.append(note.Note(name, quarterLength=4))
    bars[0].insert(0, meter.TimeSignature("4/4"))
    bars[0].leftBarline = bar.Repeat(direction="start")
    bars[1].rightBarline = bar.Repeat(direction="end")
    part.append(bars)
    part.insert(0, spanner.RepeatBracket(bars[1], number=1))
    part.insert(0, spanner.RepeatBracket(bars[2], number=2))
    found = read_musicxml(written(part))
    assert [found.drill.midi(e.notes[0]) for e in found.drill.events] == [60, 62, 60, 64]
    tied = read_musicxml(written(score_of(note.Note("C4", quarterLength=3), note.Note("D4", quarterLength=3))))
    assert [(e.beat, e.length) for e in tied.drill.events][:2] == [(0.0, 3.0), (3.0, 3.0)]

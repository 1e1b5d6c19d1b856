"""Scores that are broken, hostile, too long or cannot be played: a sentence with bar and beat, and nothing half
read.
"""

import io
import itertools
import zipfile

import pytest
from fortimetra.drills.fretted_then_bend import fretted_then_bend
from fortimetra.drills.library import GENERATORS, generate
from fortimetra.errors import DrillError
from fortimetra.formats.musicxml_in import read_musicxml
from fortimetra.formats.musicxml_out import drill_to_musicxml
from fortimetra.formats.written import written
from fortimetra.model.guitar import STANDARD_TUNING, pitch_midi
from fortimetra.technique.places import Wanted, places_of, propose
from hypothesis import example, given, settings
from hypothesis import strategies as st

OPEN = [pitch_midi(p) for p in STANDARD_TUNING]


def score(*bars, head="", attributes="<divisions>4</divisions><time><beats>4</beats><beat-type>4</beat-type></time>"):
    measures = "".join(
        f'<measure number="{i}">{f"<attributes>{attributes}</attributes>" if i == 1 else ""}{bar}</measure>'
        for i, bar in enumerate(bars, 1)
    )
    return (
        f'<?xml version="1.0"?>{head}<score-partwise version="4.0"><part-list><score-part id="P1">'
        f'<part-name>G</part-name></score-part></part-list><part id="P1">{measures}</part></score-partwise>'
    ).encode()


def tone(step="A", octave=3, duration=4, more="", notations=""):
    return (
        f"<note>{more}<pitch><step>{step}</step><octave>{octave}</octave></pitch><duration>{duration}</duration>"
        f"<voice>1</voice>{f'<notations>{notations}</notations>' if notations else ''}</note>"
    )


BILLION = '<!DOCTYPE s [<!ENTITY a "x"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;"><!ENTITY c "&b;&b;&b;&b;&b;&b;">]>'
OUTSIDE = '<!DOCTYPE s [<!ENTITY x SYSTEM "file:///etc/passwd">]>'


@pytest.mark.parametrize(
    ("content", "code", "says"),
    [
        (b"", "score_invalid", "not a MusicXML file"),
        (b"hello", "score_invalid", "line 1"),
        (score(tone(), head=BILLION), "score_invalid", "entities"),
        (score(tone(), head=OUTSIDE), "score_invalid", "entities"),
        (b"<score-timewise/>", "score_invalid", "partwise"),
        (b"<html><body/></html>", "score_invalid", "begins with <html>"),
        (score("<note><rest/><duration>16</duration></note>"), "score_invalid", "no pitched notes"),
        (score(tone("C", 1), ""), "off_the_fretboard", "Bar 1, beat 1: C1"),
        (score(tone() * 4, tone() + tone("C", 8)), "off_the_fretboard", "Bar 2, beat 2: C8"),
        (score(*[tone(duration=1) * 16] * 126), "score_too_long", "bar 126, beat 1"),
        (score(*[tone(duration=1) * 16] * 625), "score_too_long", "bar 501, beat 1"),
        (
            score(tone() + tone("F", 2, more="<chord/>") + tone("F", 6, more="<chord/>")),
            "off_the_fretboard",
            "together",
        ),
        (b"PK\x03\x04 no zip at all", "score_invalid", "damaged"),
        (b" " * 4_000_001, "score_too_large", "4 MB"),
    ],
    ids=[
        "empty",
        "text",
        "entities",
        "outside",
        "timewise",
        "html",
        "rests",
        "low",
        "high",
        "2016 notes",
        "10 000 notes",
        "chord",
        "zip",
        "large",
    ],
)
def test_what_cannot_be_read_is_said_with_its_place(content, code, says):
    with pytest.raises(DrillError) as raised:
        read_musicxml(content)
    assert raised.value.code == code
    assert says in raised.value.detail
    assert raised.value.detail.endswith(".")


def packed(name, content, container=True):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        if container:
            archive.writestr(
                "META-INF/container.xml",
                f'<container><rootfiles><rootfile full-path="{name}"/></rootfiles></container>',
            )
        archive.writestr(name, content)
    return out.getvalue()


def test_a_compressed_score_is_the_same_score():
    drill = fretted_then_bend(title="t", string=3, fret=7)
    assert read_musicxml(packed("score.xml", drill_to_musicxml(drill))).drill == drill


@pytest.mark.parametrize("container", [True, False], ids=["bomb", "no container"])
def test_a_compressed_score_is_not_unpacked_beyond_its_limit(container):
    bomb = packed("score.xml", b" " * 30_000_000, container)
    assert len(bomb) < 100_000
    with pytest.raises(DrillError) as raised:
        read_musicxml(bomb)
    assert raised.value.code == ("score_too_large" if container else "score_invalid")


def test_what_is_not_kept_is_reported_with_its_places():
    grace = "<note><grace/><pitch><step>B</step><octave>3</octave></pitch><voice>1</voice></note>"
    found = read_musicxml(
        score(
            grace + tone(notations="<articulations><staccato/></articulations>") + tone() * 3,
            tone(notations="<technical><harmonic/></technical>") + tone() * 3,
            attributes="<divisions>4</divisions><time><beats>4</beats><beat-type>4</beat-type></time>",
        )
    )
    lost = "\n".join(found.lost)
    assert "Grace notes were left out: bar 1, beat 1." in lost
    assert "Harmonics are taken as plain notes: bar 2, beat 1." in lost
    assert "no tempo" in lost
    assert len(found.drill.events) == 8


def test_many_places_are_counted_not_listed():
    found = read_musicxml(score(*[tone(notations="<articulations><staccato/></articulations>") * 4] * 4))
    assert any(line.endswith("; and 13 more.") for line in found.lost)


@pytest.mark.parametrize(
    ("beats", "kind", "per_bar", "said"),
    [("6", "8", 3, False), ("7", "8", 4, True), ("2", "2", 4, False), ("x", "4", 4, True)],
)
def test_bars_are_counted_in_quarter_notes(beats, kind, per_bar, said):
    attributes = f"<divisions>4</divisions><time><beats>{beats}</beats><beat-type>{kind}</beat-type></time>"
    try:
        found = read_musicxml(score(tone(), attributes=attributes))
    except DrillError:
        assert beats == "x"  # music21 will not have it
        return
    assert found.drill.tempo.beats_per_bar == per_bar
    assert any("time signature" in line for line in found.lost) == said


def test_notation_and_tab_of_one_part_are_not_read_twice():
    staves = (
        "<divisions>4</divisions><time><beats>4</beats><beat-type>4</beat-type></time><staves>2</staves>"
        '<clef number="1"><sign>G</sign><line>2</line></clef><clef number="2"><sign>TAB</sign><line>5</line></clef>'
    )
    notation = "".join(tone().replace("</note>", "<staff>1</staff></note>") for _ in range(4))
    tab = "".join(
        tone().replace(
            "</note>",
            "<staff>2</staff><notations><technical><string>4</string><fret>7</fret></technical></notations></note>",
        )
        for _ in range(4)
    )
    found = read_musicxml(score(notation + "<backup><duration>16</duration></backup>" + tab, attributes=staves))
    assert [[(n.string, n.fret) for n in e.notes] for e in found.drill.events] == [[(4, 7)]] * 4
    assert found.proposed == ()
    assert "Only staff 2 of 2 was taken." in found.lost


@pytest.mark.parametrize("step", [" ", "H", "", "E9"])
def test_a_tuning_no_guitar_has_is_said_and_not_taken(step):
    content = drill_to_musicxml(fretted_then_bend(title="t", string=3, fret=7))
    broken = content.replace(b"<tuning-step>E</tuning-step>", f"<tuning-step>{step}</tuning-step>".encode())
    found = read_musicxml(broken)
    assert found.drill.tuning == STANDARD_TUNING
    assert any("tuning of the staff" in line for line in found.lost)


def test_a_score_changed_after_its_export_keeps_what_still_fits():
    drill = fretted_then_bend(title="t", string=3, fret=7)
    changed = (
        drill_to_musicxml(drill)
        .replace(b"<fret>9</fret>", b"<fret>10</fret>")
        .replace(b"<step>E</step>", b"<step>F</step>")
    )
    back = read_musicxml(changed).drill
    assert back.family == drill.family
    assert back.events[0].notes[0].fret == 10
    nonsense = drill_to_musicxml(drill).replace(b'"family":"fretted_then_bend"', b'"family":"waltz"')
    found = read_musicxml(nonsense)
    assert found.drill.family == "free"
    assert any("could not be read" in line for line in found.lost)


@settings(max_examples=60, deadline=None)
@example(1812, b" ")
@given(st.integers(0, 4000), st.binary(min_size=1, max_size=6))
def test_damaged_scores_end_in_a_sentence_or_a_drill(at, bytes_):
    whole = bytearray(drill_to_musicxml(fretted_then_bend(title="t", string=3, fret=7)))
    at %= len(whole)
    whole[at : at + len(bytes_)] = bytes_
    for content in (bytes(whole), bytes(whole[:at])):
        try:
            read_musicxml(content)
        except DrillError as error:
            assert error.detail.endswith(".")


def test_500_notes_go_round_through_musicxml():
    drill = generate(GENERATORS["alternate_picking"], {})
    many = [
        e.model_copy(update={"id": f"{e.id}_{i}", "beat": e.beat + i * drill.length_beats})
        for i in range(16)
        for e in drill.events
    ]
    long = drill.model_copy(update={"events": tuple(many[:500]), "repeats": 1})
    assert read_musicxml(drill_to_musicxml(long)).drill == long


# -- lengths as they are written ---------------------------------------------------------------------------------


@given(st.fractions(min_value="1/64", max_value=12, max_denominator=64))
def test_written_parts_add_up(length):
    parts = written(length)
    assert sum(p.length for p in parts) == length
    assert all(p.kind is None or p.length > 0 for p in parts)


# -- where on the neck -------------------------------------------------------------------------------------------


def single(*midi):
    return [Wanted((float(m),), (None,)) for m in midi]


@given(st.lists(st.integers(40, 86), min_size=1, max_size=40))
def test_proposed_places_sound_what_was_written(midi):
    found, impossible = propose(single(*midi), OPEN, frets=22)
    assert impossible == []
    assert [OPEN[s - 1] + f for ((s, f),) in found] == midi


def test_a_scale_takes_its_usual_position():
    # A minor pentatonic over two octaves in its first position (common practice, no source).
    scale = [45, 48, 50, 52, 55, 57, 60, 62, 64, 67, 69, 72]
    found, _ = propose(single(*scale), OPEN)
    assert [place for (place,) in found] == [
        (6, 5), (6, 8), (5, 5), (5, 7), (4, 5), (4, 7), (3, 5), (3, 7), (2, 5), (2, 8), (1, 5), (1, 8)
    ]  # fmt: skip


def test_a_lick_stays_under_the_hand():
    # A minor pentatonic around the fifth fret: one hand position holds it (common practice, no source).
    lick = [69, 72, 74, 72, 69, 67, 64, 67, 69]
    found, _ = propose(single(*lick), OPEN)
    frets = [f for ((_s, f),) in found]
    assert max(frets) - min(frets) <= 5
    strings = [s for ((s, _f),) in found]
    assert max(abs(a - b) for a, b in itertools.pairwise(strings)) <= 1


def test_slurred_notes_stay_on_their_string():
    wanted = [
        Wanted((57.0,), ((3, 2),)),
        Wanted((60.0,), (None,), slurred=True),
        Wanted((57.0,), (None,), slurred=True),
    ]
    found, _ = propose(wanted, OPEN)
    assert found == [[(3, 2)], [(3, 5)], [(3, 2)]]


def test_chords_take_different_strings_one_hand_can_reach():
    found, impossible = propose([Wanted((40.0, 47.0, 52.0, 56.0, 59.0, 64.0), (None,) * 6)], OPEN)
    assert impossible == []
    assert sorted(found[0]) == [(1, 0), (2, 0), (3, 1), (4, 2), (5, 2), (6, 0)]  # E major, open position
    assert propose([Wanted((40.0, 41.0), (None, None))], OPEN)[1] == [0]


def test_places_are_all_there_are():
    assert places_of(59.0, OPEN, frets=12) == [(2, 0), (3, 4), (4, 9)]
    assert places_of(59.5, OPEN, frets=12) == []

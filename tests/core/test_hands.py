"""Fingers and strokes: proposed, kept, and used where a fault has to do with them."""

from __future__ import annotations

from itertools import pairwise

import pytest
from fortimetra import Drill
from fortimetra.drills.generator import generate
from fortimetra.drills.library import GENERATORS, library
from fortimetra.drills.score import Score
from fortimetra.formats.midi import drill_to_midi
from fortimetra.formats.midi_in import read_midi
from fortimetra.formats.text_tab import text_tab
from fortimetra.model.drill import UNSTRUCK
from fortimetra.model.hand import Slide, VibratoAsked
from fortimetra.player.faults import Faults, NoteFault
from fortimetra.technique.fingers import with_hands
from pydantic import ValidationError

from tests.core.sounds import take
from tests.kept import analyse, render

THREES = {"key": "G", "position": "3", "per_click": "3", "accent": "3", "repeats": "3", "bpm": "72"}


def judged(name, values, faults):
    drill = generate(GENERATORS[name], values)
    sound, _truth = render(drill, Faults(notes=faults, random_ms=3.0))
    return drill, analyse(take(sound), drill=drill)


def changes(drill):
    """Ids of events that follow one on another string, by the stroke before."""
    found = {"down": [], "up": []}
    sounding = [e for e in drill.events if e.notes]
    for before, now in pairwise(sounding):
        if before.notes[0].string != now.notes[0].string:
            found[before.stroke].append(now.id)
    return found


def test_late_after_up_strokes_toward_the_thin_strings_is_laid_to_the_stroke():
    drill = generate(GENERATORS["picking_scale"], THREES)
    # Toward the thinner strings a down-stroke leads on, an up-stroke has to come back over its string (common
    # practice, no source).
    late = {name: NoteFault(late_ms=70.0) for name in changes(drill)["up"]}
    assert late
    _drill, found = judged("picking_scale", THREES, late)
    assert found.causes[0].code == "change_against_stroke"
    assert "up-stroke" in found.causes[0].evidence


def test_late_after_every_change_is_not_laid_to_one_stroke():
    drill = generate(GENERATORS["picking_scale"], THREES)
    both = changes(drill)
    late = {name: NoteFault(late_ms=70.0) for names in both.values() for name in names}
    _drill, found = judged("picking_scale", THREES, late)
    codes = [c.code for c in found.causes]
    assert "change_against_stroke" not in codes
    assert "late_after_string_change" in codes


def test_one_weak_finger_is_named():
    values = {"pair": "all", "times": "4", "string": "3", "kind": "both"}
    drill = generate(GENERATORS["finger_pairs"], values)
    weak = {
        e.id: NoteFault(level_db=-8.0) for e in drill.events if e.articulation == "hammer" and e.notes[0].finger == "4"
    }
    _drill, found = judged("finger_pairs", values, weak)
    first = found.causes[0]
    assert first.code == "weak_finger"
    assert "little finger" in first.evidence


def test_every_quick_picked_note_of_the_library_has_a_stroke_and_no_slur_has():
    for built_in in library():
        for event in built_in.drill.events:
            if event.articulation in UNSTRUCK:
                assert event.stroke is None
        fingers = [n.finger for e in built_in.drill.events for n in e.notes if n.fret and e.articulation != "tap"]
        if built_in.form:
            assert None not in fingers


def test_what_is_given_stays():
    score = Score()
    score.note(3, 7, 0.5, finger="2", stroke="up")
    score.note(3, 9, 0.5)
    first, second = with_hands(score.events)
    assert (first.notes[0].finger, first.stroke) == ("2", "up")
    assert second.notes[0].finger == "4"


def test_chords_share_a_finger_only_as_a_barre():
    score = Score()
    from fortimetra.model.drill import DrillNote

    score.together([DrillNote(string=s, fret=f) for s, f in ((5, 5), (4, 7), (3, 7), (2, 5))], 1.0)
    (event,) = with_hands(score.events)
    fingers = [n.finger for n in event.notes]
    assert fingers[0] == fingers[3] == "1"
    assert len({*fingers[1:3]}) == 2


@pytest.mark.parametrize(
    "event",
    [
        {"articulation": "hammer", "stroke": "down"},
        {"articulation": "slide", "slide": {"from_fret": 5}},
        {"articulation": "pick", "slide": {"length": 0.5}},
        {"articulation": "none", "notes": [], "slide": {"length": 0.5}},
    ],
)
def test_hands_that_contradict_a_note_are_refused(event):
    body = {"id": "e1", "beat": 0, "length": 1, "notes": [{"string": 3, "fret": 7}]} | event
    with pytest.raises(ValidationError):
        Drill.model_validate(
            {
                "format": "fortimetra-drill", "version": 1, "title": "t", "family": "free", "tempo": {"bpm": 60},
                "tuning": ["E4", "B3", "G3", "D3", "A2", "E2"], "measures": ["pitch"], "events": [body],
            }
        )  # fmt: skip


@pytest.mark.parametrize("cycles", [(1.0,), (1.0,) * 9])
def test_a_path_of_rates_has_two_to_eight(cycles):
    with pytest.raises(ValidationError):
        VibratoAsked.model_validate({"return": "bottom", "cycles_per_beat": cycles})
    with pytest.raises(ValidationError):
        VibratoAsked.model_validate({"return": "bottom", "cycles_per_beat": 2.0, "rate_hz": (1.0, 2.0)})


def test_the_text_tab_shows_strokes_fingers_palms_and_slides():
    score = Score()
    score.note(3, 7, 0.5, stroke="down", slide=Slide(from_fret=5))
    score.note(6, 0, 0.5, "palm_mute", stroke="up")
    text = text_tab(score.drill("t", "free", ("pitch",), {"bpm": 60.0}))
    assert "5s7" in text
    lines = text.splitlines()
    above = lines[lines.index(next(line for line in lines if line.startswith("E4"))) - 1]
    assert above.split() == ["d", "m"]
    assert lines[-1].split() == ["3"] or lines[-1].strip() in "1234"


def test_a_midi_file_that_was_changed_is_read_as_it_is_now():
    import io

    import mido

    drill = generate(GENERATORS["picking_triads"], {})
    content = drill_to_midi(drill).content
    assert read_midi(content).drill == drill
    file = mido.MidiFile(file=io.BytesIO(content))
    for track in file.tracks:
        for message in track:
            if message.type in {"note_on", "note_off"}:
                message.note += 2
    out = io.BytesIO()
    file.save(file=out)
    changed = read_midi(out.getvalue())
    assert changed.drill != drill
    assert any("changed after they were exported" in line for line in changed.lost)

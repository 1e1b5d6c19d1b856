"""MIDI files by another writer, read as drills.

Sources: Standard MIDI Files 1.0 and MIDI 1.0 Detailed Specification (500 000 µs a quarter where no tempo is set, a
wheel of ±2 semitones without registered parameter 0); mido writes the files. music21 reads our own files beside.
"""

import io

import mido
import pytest
from fortimetra.drills.library import built_in_drills
from fortimetra.errors import DrillError
from fortimetra.formats.midi import drill_to_midi
from fortimetra.formats.midi_in import read_midi
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from music21 import converter


def midi_file(*messages, ticks=480, kind=1):
    file = mido.MidiFile(type=kind, ticks_per_beat=ticks)
    track = mido.MidiTrack(messages)
    file.tracks.append(track)
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


def tone(number, ticks=480, before=0, velocity=90):
    return [
        mido.Message("note_on", note=number, velocity=velocity, time=before),
        mido.Message("note_off", note=number, time=ticks),
    ]


def bare(content):
    """A file of ours without the drill beside its notes: what any other program could have written."""
    file = mido.MidiFile(file=io.BytesIO(content))
    for track in file.tracks:
        track[:] = [m for m in track if m.type != "text"]
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


def test_every_drill_of_the_library_comes_back_whole():
    for drill in built_in_drills():
        if drill.tempo is not None:
            assert read_midi(drill_to_midi(drill).content).drill == drill


@pytest.mark.parametrize("drill", built_in_drills()[::4], ids=lambda d: d.title)
def test_our_own_files_come_back_with_their_places_and_bends(drill):
    back = read_midi(bare(drill_to_midi(drill).content))
    asked = sorted((round(n.beat, 2), n.note.string, n.note.fret) for n in drill.asked() if not n.note.muted)
    assert sorted((round(n.beat, 2), n.note.string, n.note.fret) for n in back.drill.asked()) == asked
    assert back.proposed == ()
    corridor = {"curl"}
    bends = [(round(n.beat, 2), n.bend.kind) for n in drill.asked() if n.bend]
    assert [(round(n.beat, 2), n.bend.kind) for n in back.drill.asked() if n.bend] == bends
    for before, after in zip(
        (n for n in drill.asked() if n.bend), (n for n in back.drill.asked() if n.bend), strict=True
    ):
        if before.bend.kind not in corridor:
            assert after.bend.middle_cents == pytest.approx(before.bend.middle_cents, abs=0.5)


def test_music21_reads_the_same_onsets_and_pitches_from_our_files():
    for drill in built_in_drills()[1::5]:
        score = converter.parseData(drill_to_midi(drill).content, format="midi", quantizePost=False)
        found = sorted(
            (round(float(n.getOffsetInHierarchy(score)), 1), p.midi)
            for n in score.recurse().notes
            if n.tie is None or n.tie.type == "start"
            for p in n.pitches
        )
        asked = sorted((round(n.beat, 1), round(n.midi)) for n in drill.asked() if not n.note.muted)
        assert [m for _, m in found] == [m for _, m in asked]
        assert max(abs(a[0] - b[0]) for a, b in zip(found, asked, strict=True)) <= 0.11


def test_a_file_without_a_tempo_has_the_standards():
    found = read_midi(midi_file(*tone(57), *tone(60)))
    assert found.drill.tempo.bpm == 120.0
    assert any("no tempo" in line for line in found.lost)
    assert [found.drill.midi(e.notes[0]) for e in found.drill.events] == [57, 60]


def test_the_wheel_counts_two_semitones_until_told_otherwise():
    up = [
        mido.Message("note_on", note=60, velocity=90),
        mido.Message("pitchwheel", pitch=4096, time=120),
        mido.Message("pitchwheel", pitch=8191, time=120),
        mido.Message("note_off", note=60, time=720),
    ]
    assert read_midi(midi_file(*up)).drill.events[0].bend.target_cents == 200.0
    wide = [
        mido.Message("control_change", control=101, value=0),
        mido.Message("control_change", control=100, value=0),
        mido.Message("control_change", control=6, value=3),
    ]
    assert read_midi(midi_file(*wide, *up)).drill.events[0].bend.target_cents == 300.0


def test_triplets_keep_their_thirds_and_played_notes_find_the_grid():
    ticks = [160, 160, 160, 475, 485]
    found = read_midi(midi_file(*(m for i, t in enumerate(ticks) for m in tone(57 + i, t))))
    assert [e.beat for e in found.drill.events] == pytest.approx([0, 1 / 3, 2 / 3, 1, 2], abs=1e-5)


@pytest.mark.parametrize(
    ("content", "code", "says"),
    [
        (b"", "score_invalid", "not a MIDI file"),
        (b"MThd", "score_invalid", "not a MIDI file"),
        (
            b"MThd\x00\x00\x00\x06\x00\x00\x00\x01\xe7\x28MTrk\x00\x00\x00\x04\x00\xff\x2f\x00",
            "score_invalid",
            "film frames",
        ),
        (midi_file(), "score_invalid", "no notes"),
        (midi_file(*tone(60), *tone(20)), "off_the_fretboard", "Bar 1, beat 2: G#0"),
        (midi_file(*(m for i in range(2100) for m in tone(57 + i % 9, 240))), "score_too_long", "bar 251, beat 1"),
        (midi_file(*(m for i in range(10_000) for m in tone(57 + i % 9, 120))), "score_too_long", "bar 501, beat 1"),
        (b"MThd" + bytes(5_000_000), "score_too_large", "4 MB"),
    ],
    ids=["empty", "cut", "frames", "no notes", "too low", "too many", "10 000 notes", "too large"],
)
def test_what_cannot_be_read_is_said_with_its_place(content, code, says):
    with pytest.raises(DrillError) as raised:
        read_midi(content)
    assert raised.value.code == code
    assert says in raised.value.detail


def test_drums_and_other_tracks_are_left_out_and_said():
    file = mido.MidiFile(type=1, ticks_per_beat=480)
    file.tracks.append(mido.MidiTrack([mido.MetaMessage("track_name", name="Lead"), *tone(57), *tone(59)]))
    file.tracks.append(mido.MidiTrack([mido.MetaMessage("track_name", name="Pad"), *tone(45)]))
    drums = [m.copy(channel=9) for m in tone(36)]
    file.tracks.append(mido.MidiTrack(drums))
    out = io.BytesIO()
    file.save(file=out)
    found = read_midi(out.getvalue())
    assert len(found.drill.events) == 2
    assert any("Drums" in line for line in found.lost)
    assert any("“Lead”" in line for line in found.lost)


@settings(max_examples=150, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(st.binary(max_size=300), st.integers(0, 200), st.integers(0, 255))
def test_damaged_files_end_in_a_sentence(tail, at, byte):
    whole = bytearray(midi_file(*tone(57), *tone(60), *tone(64)))
    whole[at % len(whole)] = byte
    for content in (
        bytes(whole),
        bytes(whole[: at % len(whole)]),
        b"MThd\x00\x00\x00\x06\x00\x01\x00\x01\x01\xe0MTrk" + tail,
    ):
        try:
            read_midi(content)
        except DrillError as error:
            assert error.detail.endswith(".")

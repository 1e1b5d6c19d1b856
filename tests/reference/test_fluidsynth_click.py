"""The click of a recording, with another maker's guitar and another maker's click.

Sources: FluidSynth with Debian's timgm6mb-soundfont; General MIDI level 1 percussion map: 76 high wood block, 77 low
wood block, 37 side stick; guitars 24 to 30.
"""

import io
import subprocess

import mido
import pytest
import soundfile
from fortimetra.drills.fretted_then_bend import fretted_then_bend
from fortimetra.drills.generator import generate
from fortimetra.drills.library import GENERATORS
from fortimetra.formats.midi import TICKS_PER_BEAT, drill_to_midi

from tests.kept import analyse
from tests.reference.fluid import SOUNDFONT

COUNT_IN = 4
# How late FluidSynth's own attacks are against the file, measured below by the spread over all clicks.
ATTACK_S = 0.012


def played(drill, folder, *, program, click=None):
    """A drill with its count-in, and a click on every beat if a percussion note is given; the WAV file."""
    file = mido.MidiFile(file=io.BytesIO(drill_to_midi(drill).content))
    for track in file.tracks[1:]:
        for message in track:
            if message.type == "program_change":
                message.program = program
        first = next(i for i, m in enumerate(track) if m.type == "note_on")
        track[first] = track[first].copy(time=track[first].time + COUNT_IN * TICKS_PER_BEAT)
    if click is not None:
        track = mido.MidiTrack()
        for beat in range(COUNT_IN + round(drill.length_beats * drill.repeats)):
            velocity = 120 if beat % 4 == 0 else 100
            track.append(
                mido.Message(
                    "note_on", channel=9, note=click, velocity=velocity, time=0 if beat == 0 else TICKS_PER_BEAT // 2
                )
            )
            track.append(mido.Message("note_off", channel=9, note=click, velocity=0, time=TICKS_PER_BEAT // 2))
        file.tracks.append(track)
    midi, wav = folder / "d.mid", folder / "d.wav"
    file.save(str(midi))
    subprocess.run(
        [
            "fluidsynth",
            "-ni",
            "-r",
            "48000",
            "-g",
            "0.5",
            "-R",
            "0",
            "-C",
            "0",
            "-F",
            str(wav),
            str(SOUNDFONT),
            str(midi),
        ],
        check=True,
        capture_output=True,
    )
    return wav


@pytest.mark.parametrize("click", [76, 77, 37], ids=["high block", "low block", "side stick"])
@pytest.mark.parametrize("program", [25, 27], ids=["steel", "clean"])
def test_a_percussion_click_gives_the_grid(tmp_path, program, click):
    drill = fretted_then_bend(title="t", string=3, fret=7, repeats=3, bpm=72)
    grid = analyse(played(drill, tmp_path, program=program, click=click), drill=drill).reference.grid
    assert grid.source == "audible"
    assert grid.first_beat_s == pytest.approx(COUNT_IN * 60 / 72, abs=ATTACK_S)
    assert grid.bpm == pytest.approx(72.0, abs=0.05)
    assert grid.u_ms < 2.0


@pytest.mark.parametrize("program", [24, 25, 26, 27, 28, 29, 30])
@pytest.mark.parametrize("family", ["fretted_then_bend", "fastest_run", "alternate_picking"])
def test_guitars_without_a_click_have_none(tmp_path, program, family):
    drill = generate(GENERATORS[family], {"bpm": "80"}).model_copy(update={"repeats": 1})
    grid = analyse(played(drill, tmp_path, program=program), drill=drill).reference.grid
    assert grid.source in {"fitted", "none"}


def test_a_click_on_the_other_channel_is_known(tmp_path):
    import numpy as np

    drill = fretted_then_bend(title="t", string=3, fret=7, repeats=2, bpm=72)
    (tmp_path / "a").mkdir()
    (tmp_path / "b").mkdir()
    guitar, rate = soundfile.read(played(drill, tmp_path / "a", program=25))
    both, _ = soundfile.read(played(drill, tmp_path / "b", program=25, click=76))
    count = min(len(guitar), len(both))
    click = (both[:count] - guitar[:count]).mean(axis=1)  # the same guitar, taken away again
    stereo = np.stack([guitar[:count].mean(axis=1), click], axis=1)
    soundfile.write(tmp_path / "s.wav", stereo, rate)
    found = analyse(tmp_path / "s.wav", drill=drill)
    assert found.reference.grid.source == "channel"
    assert found.reference.grid.first_beat_s == pytest.approx(COUNT_IN * 60 / 72, abs=ATTACK_S)
    assert all(n.status == "played" for n in found.notes)

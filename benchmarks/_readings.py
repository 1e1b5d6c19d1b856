"""Values the product states beside the truth they are of: whole drills of clean and faulty players, by chain.

Truth is what was played: onsets by when FluidSynth's note alone is audible (`_lines`), volume by velocity (SoundFont
2.04, 8.4.1: concave) over that key alone (through a driven amplifier, which presses volumes together, the volume it
lets through of the same keys alone), pitch by the period of that key alone, by Praat (its first partial may lie
elsewhere: stiff strings and beating ones have no one pitch; notes shorter than 0.25 s glide as long as they are read),
bends by the pitch wheel as FluidSynth sounds it (`tests.reference.fluid`), vibrato by its asked course. Faults that
change a value are part of the truth. A truth has an uncertainty of its own; an error is held against both (E_n of ISO
13528, from memory).
"""

from __future__ import annotations

import tempfile
import zlib
from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import NamedTuple

import numpy as np
from fortimetra import Analysis, Drill, TakeError
from fortimetra.model.analysis import NoteFound

from benchmarks._chains import CHAINS, driven
from benchmarks._lines import Guitar, Played
from benchmarks._notes import RATE_HZ, Samples
from benchmarks._players import PLAYERS, Performance, Truth, play
from benchmarks._trackers import LOW_HZ, available, praat
from benchmarks.takes import Case, drill_of, guitar_in, judged, plucked, recorded
from tests.reference.fluid import sounded_cents, wheel_cents

VELOCITY = 92
PLAIN_S = (0.06, 0.25)
FIRST_PARTIAL_S = 0.5
LEAST_READ_S = 0.1
GENERAL = ("praat", "yin", "aubio", "swift-f0")
LATE_S = 0.02
# FluidSynth's pitch goes in whole cents: what the turn of a swing is uncertain by, 19 times of 20.
WHEEL_S = 2.0 * 0.01 / 6.0**0.5  # and in steps of 10 ms: the same of the time between two of its turns
WHOLE_CENTS = 2.0 * (1.0 / 12.0) ** 0.5


@dataclass(frozen=True)
class Reading:
    """One stated value: error (in the unit of its quantity), expanded uncertainty, NaN where none is stated, and the
    truth's.
    """

    quantity: str
    reader: str
    chain: str
    family: str
    error: float
    u: float = float("nan")
    u_truth: float = 0.0

    @property
    def covered(self) -> float:
        """What the error should be within, 19 times of 20."""
        return float(np.hypot(self.u, self.u_truth))


@dataclass(frozen=True)
class Told:
    """What one take gave. open_by: (measure: judged, cannot tell) of notes played cleanly."""

    case: Case
    readings: tuple[Reading, ...]
    open_by: tuple[tuple[str, int, int], ...]
    false: int
    clean: int
    minutes: float


class Heard:
    """How loud strokes are that nothing else sounds with. loudest: where an amplifier is driven with the take, its peak
    as the guitar plays it, for a note alone is as loud as that.
    """

    def __init__(self, guitar: Guitar, loudest: float | None) -> None:
        self.guitar = guitar
        self.loudest = loudest
        self.known: dict[tuple[tuple[int, int], ...], float] = {}

    def level_db(self, struck: tuple[tuple[int, int], ...]) -> float:
        """Of keys and their velocities struck together: of several strings, the mean of their powers; through an
        amplifier, RMS 5 to 85 ms after they are audible.
        """
        if struck not in self.known:
            driven_at = self.loudest
            self.known[struck] = self._mean_db(struck) if driven_at is None else self._driven_db(struck, driven_at)
        return self.known[struck]

    def _mean_db(self, struck: tuple[tuple[int, int], ...]) -> float:
        levels = [alone(self.guitar, key)[1] + 40.0 * np.log10(velocity / VELOCITY) for key, velocity in struck]
        return float(10.0 * np.log10(np.mean(10.0 ** (np.array(levels) / 10.0))))

    def _driven_db(self, struck: tuple[tuple[int, int], ...], loudest: float) -> float:
        singles = [
            self.guitar.single(Played(key, 0.0, 1.0, float(40.0 * np.log10(velocity / 127.0))))
            for key, velocity in struck
        ]
        length = min(len(s) for s in singles)
        sound = driven(np.sum([s[:length] for s in singles], axis=0), loudest)
        start_s = min(alone(self.guitar, key)[0] for key, _ in struck) + 0.005
        part = sound[round(start_s * RATE_HZ) : round((start_s + 0.08) * RATE_HZ)]
        return float(10.0 * np.log10(np.mean(part**2) + 1e-20))


class OffCents(NamedTuple):
    """How far a key lies off equal temperament by its period, cents; and half of what its first partial is away from
    that.
    """

    cents: float
    half: float


_alone: dict[tuple[str, int], tuple[float, float]] = {}
_off: dict[tuple[str, int, float, float], OffCents] = {}


def alone(guitar: Guitar, key: int) -> tuple[float, float]:
    """Of a note by itself at VELOCITY: from the key going down to audible, s; and its level, dB."""
    place = (guitar.name, key)
    if place not in _alone:
        note = Played(key, 0.0, 1.0, float(40.0 * np.log10(VELOCITY / 127.0)))
        _alone[place] = guitar.audible_after_s(note), guitar.level_db(note, 1.0)
    return _alone[place]


def off_cents(guitar: Guitar, key: int, from_s: float = PLAIN_S[0], to_s: float = PLAIN_S[1]) -> OffCents:
    """How far a key of a guitar lies off equal temperament by itself, between times after its onset: samples are not in
    tune, and drift by a cent while they sound.
    """
    place = (guitar.name, key, round(from_s, 2), round(to_s, 2))
    if place not in _off:
        sound = guitar.single(Played(key, 0.0, max(1.0, to_s + 0.1), float(40.0 * np.log10(VELOCITY / 127.0))))
        time_s, f0 = praat(sound)
        part = f0[(time_s >= from_s) & (time_s < to_s) & (f0 > 0)]
        hz = 440.0 * 2.0 ** ((key - 69) / 12.0)
        period = 1200.0 * float(np.log2(np.median(part) / hz)) if len(part) else float("nan")
        _off[place] = OffCents(period, abs(period - first_partial_cents(sound, hz, from_s, to_s)) / 2.0)
    return _off[place]


def first_partial_cents(sound: Samples, hz: float, from_s: float, to_s: float) -> float:
    """The highest point of a finely sampled spectrum within a quarter tone of `hz`."""
    part = sound[round(from_s * RATE_HZ) : round(min(to_s, from_s + FIRST_PARTIAL_S) * RATE_HZ)]
    cents = np.arange(-50.0, 50.0, 0.05)
    turns = np.outer(hz * 2.0 ** (cents / 1200.0), np.arange(len(part)) / RATE_HZ)
    return float(cents[np.argmax(np.abs(np.exp(-2j * np.pi * turns) @ (part * np.hanning(len(part)))))])


def told(case: Case) -> Told | None:
    """Everything one take says beside its truth; None where it was refused."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        guitar = guitar_in(folder, case.guitar)
        drill = drill_of(case.title)
        rng = np.random.default_rng([case.seed, zlib.crc32(case.title.encode()), PLAYERS.index(case.player)])
        made = play(drill, case.player, rng)
        played = plucked(guitar, made, folder)
        heard = Heard(guitar, float(np.abs(played).max()) if case.chain == "amp" else None)
        sound = CHAINS[case.chain](recorded(played), rng)
        try:
            found = judged(sound, drill, folder)
        except TakeError:
            return None
        readings = [
            *_stated(case, found, made, drill, heard), *_others(case, sound, made, guitar),
        ]  # fmt: skip
    clean = [n for n in found.notes if _key(n) in made.truths and _key(n) not in made.faults]
    return Told(
        case, tuple(readings), tuple(_open(clean, drill)), sum(n.clean == "outside" for n in clean), len(clean),
        len(sound) / RATE_HZ / 60.0,
    )  # fmt: skip


def _key(note: NoteFound) -> tuple[str, int, int]:
    return note.id, note.repeat, note.string or 0


def _open(notes: Sequence[NoteFound], drill: Drill) -> Iterator[tuple[str, int, int]]:
    for measure in drill.measures:
        verdicts = [p.verdict for n in notes if (p := getattr(n, measure)) is not None and p.verdict is not None]
        if verdicts:
            yield measure, len(verdicts), verdicts.count("unclear")


def _stated(case: Case, found: Analysis, made: Performance, drill: Drill, heard: Heard) -> Iterator[Reading]:
    guitar = heard.guitar

    def reading(quantity: str, error: float, u: float | None, u_truth: float = 0.0) -> Reading:
        stated = float("nan") if u is None else u
        return Reading(quantity, "fortimetra", case.chain, case.family, error, stated, u_truth)

    usual = _usual_db(found, made, heard)
    ids = {e.id for e in drill.events}
    for note in found.notes:
        true = made.truths.get(_key(note))
        if true is None or note.onset_s is None or note.status != "played":
            continue
        heard_s = true.onset_s + alone(guitar, true.key)[0]
        off_ms = 1000.0 * (note.onset_s - heard_s)
        if abs(off_ms) > 1000.0 * LATE_S:
            continue  # another sound: counted by `takes`
        single = len([k for k in made.truths if k[:2] == (note.id, note.repeat)]) == 1
        if note.timing is not None and note.timing.u is not None and single:
            yield reading("onset, ms", off_ms, note.timing.u)
        if note.level is not None and note.level.deviation_db is not None and note.level.against == "string":
            truth_db = _level_db(made, note, heard) - usual[note.string or 0, note.level.way]
            error = note.level.deviation_db - truth_db
            louder = note.level.u_louder if error < 0.0 else None
            yield reading("level, dB", error, note.level.u if louder is None else louder)
        bend = note.bend
        off = _bend_off(note, note.onset_s, true, guitar) if bend is not None and bend.reference_source in ids else None
        if bend is not None and off is not None:
            yield reading("bend, cents", off.cents, bend.u, off.half)
        swing = note.vibrato
        if swing is not None and swing.rate_hz is not None and true.rate_hz is not None:
            whole_steps = WHEEL_S * true.rate_hz / true.seconds
            yield reading("vibrato rate, Hz", swing.rate_hz - true.rate_hz, swing.u_rate, whole_steps)
            if swing.extent_cents is not None and true.extent_cents is not None:
                whole, error = 2.0**0.5 * WHOLE_CENTS, swing.extent_cents - true.extent_cents
                yield reading("vibrato width, cents", error, swing.u_extent, whole)
        plain = bend is None and swing is None and single and true.seconds >= PLAIN_S[1]
        if plain and note.pitch is not None and note.pitch.error_cents is not None:
            string_off = found.reference.string_offset_cents[(note.string or 1) - 1] or 0.0
            plainly = off_cents(guitar, true.key)
            error = note.pitch.error_cents + string_off - plainly.cents
            yield reading("plain pitch, cents", error, note.pitch.u, plainly.half)


def _bend_off(note: NoteFound, onset_s: float, true: Truth, guitar: Guitar) -> OffCents | None:
    """How far a bend is read off its truth against its fretted target, another key of the guitar, and how far that
    truth may be off; the bent key is as high as by itself where its hold was read. None of other kinds of bend, and
    where the key alone has faded by then.
    """
    bend = note.bend
    if bend is None or bend.error_cents is None or true.bent_cents is None or bend.kind != "bend":
        return None
    target = sum(bend.target_cents) / 2.0 if isinstance(bend.target_cents, tuple) else bend.target_cents
    hold_s = bend.plateau or (onset_s + PLAIN_S[0], onset_s + PLAIN_S[1])
    from_s = max(PLAIN_S[0], hold_s[0] - onset_s)
    own = off_cents(guitar, true.key, from_s, max(hold_s[1] - onset_s, from_s + LEAST_READ_S))
    fretted = off_cents(guitar, true.key + round(target / 100.0))
    sounded = sounded_cents(wheel_cents(true.bent_cents)) + own.cents - fretted.cents
    half = float(np.hypot(own.half, fretted.half))
    return OffCents(bend.error_cents - (sounded - target), half) if np.isfinite(half) else None


def _level_db(made: Performance, note: NoteFound, heard: Heard) -> float:
    """How loud the stroke was that a note is of."""
    return heard.level_db(tuple((t.key, t.velocity) for k, t in made.truths.items() if k[:2] == (note.id, note.repeat)))


def _usual_db(found: Analysis, made: Performance, heard: Heard) -> dict[tuple[int, str | None], float]:
    """The median of what was played, by string and way."""
    groups: dict[tuple[int, str | None], list[float]] = defaultdict(list)
    for note in found.notes:
        if _key(note) in made.truths and note.level is not None:
            groups[note.string or 0, note.level.way].append(_level_db(made, note, heard))
    return {place: float(np.median(values)) for place, values in groups.items()}


def _others(case: Case, sound: Samples, made: Performance, guitar: Guitar) -> Iterator[Reading]:
    """The pitch of plain single notes by general trackers, of the contour in the same window. pyin is left out: at its
    finest it takes minutes for a second.
    """
    plain = [
        (k, t) for k, t in made.truths.items()
        if t.bent_cents is None and t.extent_cents is None and t.seconds > PLAIN_S[1]
        and len([o for o in made.truths if o[:2] == k[:2]]) == 1 and 440.0 * 2 ** ((t.key - 69) / 12.0) > LOW_HZ
    ]  # fmt: skip
    if case.seed or case.player != "clean" or not plain:
        return
    for name, run in available().items():
        if name not in GENERAL:
            continue
        time_s, f0 = run(sound)
        for _, true in plain:
            part = f0[(time_s >= true.onset_s + PLAIN_S[0]) & (time_s < true.onset_s + PLAIN_S[1])]
            part = part[np.isfinite(part) & (part > 0)]
            hz = 440.0 * 2.0 ** ((true.key - 69) / 12.0)
            error = 1200.0 * float(np.log2(np.median(part) / hz)) if len(part) else 1200.0
            yield Reading(
                "plain pitch, cents", name, case.chain, case.family, error - off_cents(guitar, true.key).cents
            )

"""What answers: strings that nobody struck and that sound, because they share partials with a string that was.

A string left free answers where one of its partials lies close to one of the sounding string's. A partial of a stiff
string lies at f_n = n·f_0·sqrt(1 + B·n²) (Fletcher and Rossing, The Physics of Musical Instruments, 2nd ed., section
2.18), so that partials that agree in theory drift apart up the series. How strongly one string drives another falls
off with their distance as a resonance does: 1 / (1 + (2·Q·d)²) in power, d the relative distance, Q that of a free
string (π·f·decay; chapter on coupled strings of the same book). How loud partials of a plucked string are to begin
with: 1/n (ideal pluck, velocity).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from fortimetra.errors import SignalError
from fortimetra.model.base import Model
from fortimetra.model.drill import Drill
from fortimetra.model.guitar import Guitar, pitch_midi
from fortimetra.units import FloatArray, midi_to_hz, midi_to_name
from fortimetra.workbench.calculator import Answer, Calculator, Input, Output, Table, Values, number
from fortimetra.workbench.strings import body_of, tension_n

MOST_PARTIALS = 24
# Higher partials of a guitar string are weak and die soon.
HIGHEST_HZ = 5000.0
WITHIN_CENTS = 20.0
# A free string rings for a second or so: the decay time of its amplitude (common practice, no source).
DECAY_S = 1.0
# What is weaker than this against the strongest there can be (an equal string in unison) is not heard.
LEAST_DB = -30.0
STRONG_DB, MIDDLE_DB = -9.0, -18.0
# Inharmonicity of usual sets, string 1 first, where no guitar is described (orders of size, from memory).
USUAL_B = (2.5e-5, 3.5e-5, 8.0e-5, 6.0e-5, 9.0e-5, 1.4e-4)


@dataclass(frozen=True)
class FreeString:
    """A string that is not held: its pitch and its stiffness."""

    string: int
    hz: float
    b: float


class Shared(Model):
    """A free string that answers a note: the strongest pair of partials, and how strongly all pairs drive it."""

    string: int
    hz: float
    partial_of_note: int
    partial_of_string: int
    cents_apart: float
    strength_db: float
    strength: str


def partials_hz(hz: float, *, b: float = 0.0, most: int = MOST_PARTIALS) -> FloatArray:
    """Partials of a stiff string. hz: the first partial, shape (most,).

    >>> partials_hz(110.0, most=3).tolist()
    [110.0, 220.0, 330.0]
    """
    n = np.arange(1.0, most + 1.0)
    return np.asarray(hz * n * np.sqrt((1.0 + b * n * n) / (1.0 + b)))


def answers(hz: float, free: Sequence[FreeString], *, b: float = 0.0) -> tuple[Shared, ...]:
    """Free strings that answer a note, the strongest first.

    hz, b: of the note that sounds. Raises SignalError where its pitch is none.
    """
    if not 20.0 <= hz <= 2000.0:
        raise SignalError("bench_invalid", f"{hz:g} Hz is no pitch of a guitar; from 20 to 2000 Hz.")
    source = partials_hz(hz, b=b)
    source = source[source <= HIGHEST_HZ]
    found = []
    for string in free:
        own = partials_hz(string.hz, b=string.b)
        own = own[own <= HIGHEST_HZ]
        apart = source[:, None] / own[None, :] - 1.0
        quality = np.pi * source[:, None] * DECAY_S
        n, m = np.arange(1, len(source) + 1)[:, None], np.arange(1, len(own) + 1)[None, :]
        drive = 1.0 / (n * m) ** 2 / (1.0 + (2.0 * quality * apart) ** 2)
        cents = 1200.0 * np.log2(1.0 + apart)
        close = np.abs(cents) <= WITHIN_CENTS
        drive = np.where(close, drive, 0.0)
        total = float(drive.sum())
        if total <= 0.0:
            continue
        level = 10.0 * np.log10(total)
        if level < LEAST_DB:
            continue
        i, j = np.unravel_index(int(np.argmax(drive)), drive.shape)
        found.append(
            Shared(
                string=string.string, hz=round(string.hz, 3), partial_of_note=int(i) + 1, partial_of_string=int(j) + 1,
                cents_apart=round(float(cents[i, j]), 2), strength_db=round(level, 1),
                strength=strength_word(level),
            )
        )  # fmt: skip
    return tuple(sorted(found, key=lambda s: -s.strength_db))


def strength_word(level_db: float) -> str:
    """How likely it is heard.

    >>> strength_word(-4.0)
    'strong'
    """
    return "strong" if level_db >= STRONG_DB else "middling" if level_db >= MIDDLE_DB else "weak"


def free_strings(drill: Drill, *, guitar: Guitar | None = None) -> tuple[FreeString, ...]:
    """The open strings of a drill, with the stiffness of the described guitar's strings or of a usual set."""
    return tuple(
        FreeString(s, midi_to_hz(drill.open_midi(s), a4_hz=drill.a4_hz), stiffness(drill, s, guitar=guitar))
        for s in range(1, len(drill.tuning) + 1)
    )


def stiffness(drill: Drill, string: int, *, guitar: Guitar | None = None) -> float:
    """B of an open string: π³·E·d⁴ / (64·T·L²) of its core (Fletcher and Rossing, section 2.18), else a usual set's."""
    if guitar is None or len(guitar.strings) < string:
        return USUAL_B[min(string, len(USUAL_B)) - 1]
    body = body_of(guitar.strings[string - 1], guitar.kind)
    hz = midi_to_hz(pitch_midi(drill.tuning[string - 1]), a4_hz=drill.a4_hz)
    pull = tension_n(body.kg_per_m, scale_mm=guitar.scale_mm, hz=hz)
    core, length = body.core_mm / 1000.0, guitar.scale_mm / 1000.0
    return float(np.pi**3 * body.modulus_pa * core**4 / (64.0 * pull * length**2))


def fretted(b_open: float, fret: int) -> float:
    """B of a string shortened by a fret: it grows with the square of what was taken off."""
    return b_open * 2.0 ** (fret / 6.0)


class Risk(Model):
    """How a string answers along a drill: at how many of its events it is free to, and how strongly at worst."""

    string: int
    events: tuple[str, ...]
    strongest_db: float
    strength: str
    note: str


def risks(drill: Drill, *, guitar: Guitar | None = None) -> tuple[Risk, ...]:
    """Which strings would ring by themselves if nobody touched them, the riskiest first."""
    free = free_strings(drill, guitar=guitar)
    worst: dict[int, tuple[float, str]] = {}
    at: dict[int, list[str]] = {}
    known: dict[tuple[float, float], tuple[Shared, ...]] = {}
    for event in drill.events:
        sounding = [n for n in event.notes if not n.muted]
        held = {n.string for n in sounding}
        for note in sounding:
            hz = drill.hz(note)
            if event.bend is not None and note is event.notes[0]:
                hz *= 2.0 ** (event.bend.middle_cents / 1200.0)
            b = fretted(free[note.string - 1].b, note.fret or 0)
            key = (round(hz, 4), b)
            if key not in known:
                known[key] = answers(hz, free, b=b)
            for shared in known[key]:
                if shared.string in held:
                    continue
                at.setdefault(shared.string, []).append(event.id)
                if shared.strength_db > worst.get(shared.string, (-np.inf, ""))[0]:
                    worst[shared.string] = (shared.strength_db, midi_to_name(drill.midi(note)))
    return tuple(
        Risk(
            string=s, events=tuple(dict.fromkeys(at[s])), strongest_db=level, strength=strength_word(level), note=name
        )
        for s, (level, name) in sorted(worst.items(), key=lambda item: -item[1][0])
    )  # fmt: skip


_STANDARD = ("E4", "B3", "G3", "D3", "A2", "E2")


def _sympathy(values: Values) -> Answer:
    a4 = number(values, "a4_hz")
    hz = midi_to_hz(pitch_midi(str(values["note"])), a4_hz=a4)
    names = [str(values[f"string_{s}"]) for s in range(1, 7)]
    free = [FreeString(s, midi_to_hz(pitch_midi(n), a4_hz=a4), USUAL_B[s - 1]) for s, n in enumerate(names, 1)]
    found = answers(hz, free, b=number(values, "b") * 1e-5)
    rows = tuple(
        (float(s.string), float(s.partial_of_note), float(s.partial_of_string), s.cents_apart, s.strength_db)
        for s in found
    )
    best = found[0] if found else None
    return Answer(
        {"hz": hz, "string": float(best.string) if best else None, "strength": best.strength_db if best else None},
        (
            Table(
                "Strings that answer",
                ("string", "partial of the note", "partial of the string", "cents apart", "dB"),
                rows,
            ),
        )
        if rows
        else (),
    )


SYMPATHY = Calculator(
    id="sympathy",
    title="What answers",
    purpose="Which open strings sound by themselves when a note is played, if nothing touches them.",
    formula="f_n = n · f₀ · √((1 + B·n²)/(1 + B)),   power ∝ Σ 1/(n·m)² · 1/(1 + (2·Q·d)²),   Q = π · f · τ",
    source=(
        "Stiff strings and coupled strings: Fletcher and Rossing, The Physics of Musical Instruments, "
        "2nd ed.; τ = 1 s for a free string, common practice, no source."
    ),
    limits=(
        "How strongly strings are coupled depends on the bridge: dB compares strings of one guitar, "
        "0 dB is an equal string in unison."
    ),
    inputs=(
        Input("note", "Note", "A3", pitch=True),
        *(Input(f"string_{s}", f"String {s}", name, pitch=True) for s, name in enumerate(_STANDARD, 1)),
        Input("b", "Stiffness of the note’s string, B", 6.0, "· 10⁻⁵", 0.0, 500.0),
        Input("a4_hz", "A4", 440.0, "Hz", 380.0, 480.0),
    ),
    outputs=(
        Output("hz", "Pitch", "Hz", 3),
        Output("string", "Answers most: string", "", 0),
        Output("strength", "against a string in unison", "dB", 1),
    ),
    compute=_sympathy,
)

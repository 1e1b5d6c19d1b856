"""Bends: how far and how hard a string is pushed, how two guitars compare, whether it chokes, what pressing does.

Model. A string of length L, fretted at fret n, is pushed aside by y at the fret: it becomes longer by the sum of its
two legs less L, its tension rises by E·A·ΔL/L (Hooke), its mass stays. The pitch follows from the speaking leg.
Friction at nut and saddle and the string beyond them are left out, so that real pushes are somewhat longer. Choke:
frets are arcs of the fretboard's radius across a straight neck; the string runs straight from the fret where it is
pressed to its place on the saddle. Where that line comes down to the top of a later fret, the note chokes.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from fortimetra.errors import SignalError
from fortimetra.measure.saddle import saddle_shift_mm
from fortimetra.units import FloatArray, midi_to_hz, name_to_midi
from fortimetra.workbench.calculator import Answer, Calculator, Input, Output, Table, Values, number
from fortimetra.workbench.strings import (
    ESTIMATED,
    GAUGE_UNIT,
    SCALE,
    StringBody,
    body_from,
    fret_mm,
    stress_warnings,
    string_inputs,
    tension_n,
)

MOST_PUSH_MM = 60.0
# With less than this share of its room at rest a strong stroke touches the fret (common practice, no source).
TIGHT_SHARE = 0.5
# Width of the strings at nut and saddle, first to last (common practice, no source).
NUT_SPREAD_MM, SADDLE_SPREAD_MM = 35.5, 52.0
BENDS = (50.0, 100.0, 150.0, 200.0, 300.0)
COMFORTABLE_N = 25.0


@dataclass(frozen=True)
class Pushed:
    """A string pushed aside: cents above its fretted pitch, its tension, the force of the hand, share of its
    strength.
    """

    push_mm: float
    cents: float
    tension_n: float
    force_n: float
    strength_share: float


def pushed(body: StringBody, *, scale_mm: float, open_hz: float, fret: int, push_mm: float) -> Pushed:
    """What pushing a string aside at a fret does to it."""
    rest = tension_n(body.kg_per_m, scale_mm=scale_mm, hz=open_hz)
    nut_leg, speaking = float(fret_mm(fret, scale_mm=scale_mm)), scale_mm * 2.0 ** (-fret / 12.0)
    legs = math.hypot(nut_leg, push_mm), math.hypot(speaking, push_mm)
    stretch = (sum(legs) - scale_mm) / scale_mm
    tension = rest + body.modulus_pa * body.core_m2 * stretch
    ratio = math.sqrt(tension / rest) * speaking / legs[1] * math.sqrt(1.0 + stretch)
    force = tension * (push_mm / legs[0] + push_mm / legs[1])
    return Pushed(push_mm, 1200.0 * math.log2(ratio), tension, force, tension / body.core_m2 / 1e6 / body.strength_mpa)


def push_for(body: StringBody, *, scale_mm: float, open_hz: float, fret: int, cents: float) -> Pushed:
    """How far a string must be pushed for a bend.

    Raises SignalError(code="bench_invalid") if MOST_PUSH_MM does not do.
    """
    where = {"scale_mm": scale_mm, "open_hz": open_hz, "fret": fret}
    low, high = 0.0, MOST_PUSH_MM
    if pushed(body, push_mm=high, **where).cents < cents:  # type: ignore[arg-type]
        raise SignalError(
            "bench_invalid",
            f"Bend: {cents:g} cents would need a push of more than {MOST_PUSH_MM:.0f} mm on this string.",
        )
    for _ in range(50):
        middle = (low + high) / 2.0
        if pushed(body, push_mm=middle, **where).cents < cents:  # type: ignore[arg-type]
            low = middle
        else:
            high = middle
    return pushed(body, push_mm=high, **where)  # type: ignore[arg-type]


@dataclass(frozen=True)
class Clearance:
    """Least room between a pushed string and the frets before the one it is pressed at."""

    clearance_mm: float
    at_fret: int


def clearance(
    *,
    scale_mm: float,
    radius_mm: float | None,
    action_mm: float,
    frets: int,
    strings: int,
    string: int,
    fret: int,
    push_mm: float,
) -> Clearance:
    """Room under a string that is pressed at `fret` and pushed aside by push_mm towards the middle of the fretboard.

    action_mm: of this string over the 12th fret, open. radius_mm None: flat.
    """
    if fret >= frets:
        raise SignalError("bench_invalid", f"Fret: there is no fret before fret {fret} of {frets}; nothing can choke.")
    side = (strings + 1) / 2.0 - string  # strings from the middle; positive is the treble side
    at_nut, at_saddle = (side * width / (strings - 1) for width in (NUT_SPREAD_MM, SADDLE_SPREAD_MM))

    def crown(across: FloatArray | float) -> FloatArray:
        across = np.asarray(across, dtype=np.float64)
        if radius_mm is None:
            return np.zeros_like(across)
        return np.asarray(np.sqrt(np.maximum(radius_mm**2 - across**2, 0.0)) - radius_mm)

    saddle_z = 2.0 * (float(crown((at_nut + at_saddle) / 2.0)) + action_mm) - float(crown(at_nut))
    x0 = float(fret_mm(fret, scale_mm=scale_mm))
    resting = at_nut + (at_saddle - at_nut) * x0 / scale_mm
    start = resting - math.copysign(push_mm, side)
    later = np.arange(fret + 1, frets + 1)
    along = (fret_mm(later, scale_mm=scale_mm) - x0) / (scale_mm - x0)
    across = start + along * (at_saddle - start)
    start_z = float(crown(start))
    room = start_z + along * (saddle_z - start_z) - crown(across)
    least = int(np.argmin(room))
    return Clearance(float(room[least]), int(later[least]))


def _open_hz(values: Values, suffix: str = "") -> float:
    return midi_to_hz(name_to_midi(str(values[f"note{suffix}"])))


def _push(values: Values) -> Answer:
    fret, cents = int(number(values, "fret")), number(values, "bend_cents")
    found, warnings, tables = [], [], []
    for suffix, name in (("", "This guitar"), ("_2", "The other guitar")):
        body = body_from(values, suffix)
        where = {"scale_mm": number(values, f"scale_mm{suffix}"), "open_hz": _open_hz(values, suffix), "fret": fret}
        one = push_for(body, cents=cents, **where)  # type: ignore[arg-type]
        found.append(one)
        warnings += [f"{name}: {text}" for text in stress_warnings(one.strength_share)]
        warnings += [f"{name}: {ESTIMATED}"] if body.estimated else []
        if one.force_n > COMFORTABLE_N:
            warnings.append(
                f"{name}: {one.force_n:.0f} N is a hard push. On heavy strings and acoustic guitars about a "
                "half step is the comfortable limit."
            )
        if not suffix:
            for bend in BENDS:
                try:
                    p = push_for(body, cents=bend, **where)  # type: ignore[arg-type]
                except SignalError:
                    break
                tables.append((bend, p.push_mm, p.force_n, p.tension_n))
    first, second = found
    return Answer(
        {
            "push_mm": first.push_mm,
            "force_n": first.force_n,
            "tension_n": first.tension_n,
            "push_2_mm": second.push_mm,
            "force_2_n": second.force_n,
            "ratio": 100.0 * second.force_n / first.force_n,
        },
        (Table("Bends on this guitar", ("cents", "push, mm", "force, N", "tension, N"), tuple(tables)),),
        tuple(warnings),
    )


def _choke(values: Values) -> Answer:
    fret, string, strings = (int(number(values, n)) for n in ("fret", "string", "strings"))
    if string > strings:
        raise SignalError("bench_invalid", f"String: there is no string {string} of {strings}.")
    radius = number(values, "radius_mm")

    def room(push: float) -> Clearance:
        return clearance(
            scale_mm=number(values, "scale_mm"),
            radius_mm=radius or None,
            action_mm=number(values, "action_mm"),
            frets=int(number(values, "frets")),
            strings=strings,
            string=string,
            fret=fret,
            push_mm=push,
        )

    here = room(number(values, "push_mm"))
    steps = np.arange(0.0, 40.5, 0.5)
    rooms = [room(float(p)).clearance_mm for p in steps]
    choking = [float(p) for p, r in zip(steps, rooms, strict=True) if r <= 0.0]
    left = here.clearance_mm / max(room(0.0).clearance_mm, 1e-6)
    says = "chokes" if here.clearance_mm <= 0 else "may choke" if left < TIGHT_SHARE else "sounds"
    return Answer(
        {
            "says": says,
            "clearance_mm": here.clearance_mm,
            "at_fret": float(here.at_fret),
            "chokes_from_mm": choking[0] if choking else None,
        },
        (
            Table(
                "Room under the string",
                ("push, mm", "least room, mm", "over fret"),
                tuple(
                    (float(p), (c := room(float(p))).clearance_mm, float(c.at_fret))
                    for p in (0, 2, 4, 6, 8, 10, 14, 18)
                ),
            ),
        ),
        ("The bend would choke there: raise the action, bend less, or bend on another string.",)
        if says == "chokes"
        else (),
    )


def _intonation(values: Values) -> Answer:
    scale, error = number(values, "scale_mm"), number(values, "twelfth_error_cents")
    shift = saddle_shift_mm(error, scale_mm=scale)
    body = body_from(values)
    action = number(values, "action_mm")
    hz = _open_hz(values)
    rest = tension_n(body.kg_per_m, scale_mm=scale, hz=hz)
    rows = []
    for fret in (1, 3, 5, 7, 9, 12):
        x = float(fret_mm(fret, scale_mm=scale))
        depth = action * 2.0 * x / scale  # the string's height over this fret, straight from nut to saddle
        stretch = (math.hypot(x, depth) + math.hypot(scale - x, depth) - scale) / scale
        rows.append((float(fret), depth, 600.0 * math.log2(1.0 + body.modulus_pa * body.core_m2 * stretch / rest)))
    return Answer(
        {
            "shift_mm": shift,
            "way": "away from the nut" if shift > 0 else "towards the nut" if shift < 0 else "stay",
            "pressing_cents": rows[-1][2],
        },
        (Table("What pressing alone makes sharp", ("fret", "pressed down, mm", "cents"), tuple(rows)),),
        (ESTIMATED,) if body.estimated else (),
    )


PUSH = Calculator(
    id="push",
    title="Bend",
    purpose="How far and how hard a string is pushed for a bend, on two guitars side by side.",
    formula="ΔL = √(a² + y²) + √(b² + y²) − L,   ΔT = E · A · ΔL/L,   f′/f = √(T′/T) · b/b′ · √(L′/L)",
    source=(
        "Hooke’s law with E = 205 GPa for steel, 4 GPa for nylon (from memory); Mersenne’s law. Nut "
        "and saddle without friction."
    ),
    limits="Pushes up to 60 mm. Real pushes are somewhat longer: the string beyond nut and saddle stretches too.",
    inputs=(
        Input("fret", "Fret", 7.0, "", 1.0, 24.0),
        Input("bend_cents", "Bend", 200.0, "cents", 10.0, 400.0),
        *string_inputs(gauge=17.0),
        SCALE,
        Input("note", "Open string", "G3", pitch=True),
        *string_inputs("_2", gauge=18.0, which=", other guitar"),
        Input("scale_mm_2", "Scale, other guitar", 628.0, "mm", 300.0, 900.0),
        Input("note_2", "Open string, other guitar", "G3", pitch=True),
        GAUGE_UNIT,
    ),
    outputs=(
        Output("push_mm", "Push", "mm", 1),
        Output("force_n", "Force of the hand", "N", 1),
        Output("tension_n", "Tension in the bend", "N", 1),
        Output("push_2_mm", "Push, other guitar", "mm", 1),
        Output("force_2_n", "Force, other guitar", "N", 1),
        Output("ratio", "Force, other against this", "%", 0),
    ),
    compute=_push,
)
CHOKE = Calculator(
    id="choke",
    title="Choke",
    purpose="Whether a bend dies on a curved fretboard: the string comes down on a later fret.",
    formula="room = z(x) − (√(R² − p(x)²) − R), the string straight from the pressed fret to the saddle",
    source=(
        "Plane geometry of a cylinder and a line; string spacing 35.5 mm at the nut and 52 mm at the "
        "saddle (common practice, no source)."
    ),
    limits="Straight neck, level frets, no relief; the string’s own swing is not in it.",
    inputs=(
        Input("radius_mm", "Fretboard radius, 0: flat", 184.0, "mm", 0.0, 2000.0),
        Input("action_mm", "Action over fret 12", 1.2, "mm", 0.2, 8.0),
        Input("string", "String", 1.0, "", 1.0, 8.0),
        Input("strings", "of", 6.0, "", 4.0, 8.0),
        Input("fret", "Pressed at fret", 14.0, "", 1.0, 35.0),
        Input("push_mm", "Pushed by", 12.0, "mm", 0.0, 40.0),
        Input("frets", "Frets", 22.0, "", 2.0, 36.0),
        SCALE,
    ),
    outputs=(
        Output("says", "The note"),
        Output("clearance_mm", "Least room", "mm", 2),
        Output("at_fret", "over fret", "", 0),
        Output("chokes_from_mm", "Chokes from a push of", "mm", 1),
    ),
    compute=_choke,
)
INTONATION = Calculator(
    id="intonation",
    title="Intonation",
    purpose="How far the saddle is from where it should be, and what pressing alone makes sharp.",
    formula="c = L · (1 − r/2)/(r − 1) with r = 2 · 2^(−e/1200);   pressing: ΔT = E · A · ΔL/L",
    source="Geometry of the octave at half the scale; Hooke’s and Mersenne’s laws, E as for bends (from memory).",
    limits="Errors up to 200 cents. Pressing: a straight string, pressed to the fret.",
    inputs=(
        Input("twelfth_error_cents", "12th fret against open", 5.0, "cents", -200.0, 200.0),
        SCALE,
        *string_inputs(gauge=17.0),
        GAUGE_UNIT,
        Input("note", "Open string", "G3", pitch=True),
        Input("action_mm", "Action over fret 12", 1.8, "mm", 0.2, 8.0),
    ),
    outputs=(
        Output("shift_mm", "Move the saddle by", "mm", 2),
        Output("way", ""),
        Output("pressing_cents", "Pressing alone at fret 12", "cents sharp", 1),
    ),
    compute=_intonation,
)

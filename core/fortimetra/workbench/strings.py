"""Strings: weight, tension, stress; where the frets are.

Conventions: SI inside (kg/m, N, Pa), mm and g/m outside. A plain string's weight follows from its diameter and density;
a wound one's is what the maker states, else estimated from a core of usual thickness closely wound with wire.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from fortimetra.errors import SignalError
from fortimetra.model.guitar import MM_PER_INCH, GuitarKind
from fortimetra.model.guitar import String as GuitarString
from fortimetra.units import FloatArray, midi_to_hz, name_to_midi
from fortimetra.workbench.calculator import Answer, Calculator, Input, Output, Table, Values, number

# Densities in kg/m³, moduli in Pa, from memory: steel 7850, bronze 8800, copper 8900, nylon 1140.
STEEL_DENSITY, BRONZE_DENSITY, COPPER_DENSITY, NYLON_DENSITY = 7850.0, 8800.0, 8900.0, 1140.0
STEEL_MODULUS, NYLON_MODULUS = 2.05e11, 4.0e9
# Core of a wound string, mm: a + b · gauge, as usual sets are built (from memory).
STEEL_CORE, NYLON_CORE = (0.20, 0.22), (0.45, 0.12)
# Tensile strength of music wire, ASTM A228: 2211 MPa / d^0.145 with d in mm (Shigley's Mechanical Engineering Design,
# table of spring wires; from memory). Nylon monofilament about 500 MPa (from memory).
WIRE_STRENGTH_MPA, WIRE_STRENGTH_POWER, NYLON_STRENGTH_MPA = 2211.0, 0.145, 500.0
CAREFUL_SHARE, BREAKS_SHARE = 0.8, 1.0
NEWTON_PER_KGF, NEWTON_PER_LBF = 9.80665, 4.4482216
BREAKING_WARNING = (
    "This is above what such wire typically bears: the string would break. Keep the face away; "
    "use a thinner gauge, a lower pitch or a shorter scale."
)
CAREFUL_WARNING = "This is close to what such wire typically bears; strings break. Keep the face away while tuning up."


@dataclass(frozen=True)
class StringBody:
    """A string as physics sees it. core_m2: cross-section that bears the tension."""

    kg_per_m: float
    core_mm: float
    core_m2: float
    modulus_pa: float
    strength_mpa: float
    estimated: bool


Make = Literal["plain steel", "wound steel", "wound bronze", "nylon", "wound nylon"]
MAKES: tuple[Make, ...] = ("plain steel", "wound steel", "wound bronze", "nylon", "wound nylon")
_WRAP_DENSITY = {"wound steel": STEEL_DENSITY, "wound bronze": BRONZE_DENSITY, "wound nylon": COPPER_DENSITY}


def string_body(gauge_mm: float, *, make: Make = "plain steel", unit_weight_g_per_m: float | None = None) -> StringBody:
    """A string of this gauge; estimated: it is wound, and its weight was not stated.

    >>> round(string_body(0.254).kg_per_m * 1e6, 1)
    397.8
    """
    nylon = make in {"nylon", "wound nylon"}
    core_mm, weight = gauge_mm, 0.0
    if make in _WRAP_DENSITY:
        base, share = NYLON_CORE if nylon else STEEL_CORE
        core_mm = min(base + share * gauge_mm, 0.8 * gauge_mm)
        wrap_mm = (gauge_mm - core_mm) / 2.0
        # A turn of wire per wire's width, each as long as its circle.
        weight = _WRAP_DENSITY[make] * _circle_m2(wrap_mm) * math.pi * (core_mm + wrap_mm) / wrap_mm
    weight += (NYLON_DENSITY if nylon else STEEL_DENSITY) * _circle_m2(core_mm)
    return StringBody(
        kg_per_m=weight if unit_weight_g_per_m is None else unit_weight_g_per_m / 1000.0,
        core_mm=core_mm,
        core_m2=_circle_m2(core_mm),
        modulus_pa=NYLON_MODULUS if nylon else STEEL_MODULUS,
        strength_mpa=NYLON_STRENGTH_MPA if nylon else WIRE_STRENGTH_MPA / core_mm**WIRE_STRENGTH_POWER,
        estimated=unit_weight_g_per_m is None and make in _WRAP_DENSITY,
    )


def make_of(string: GuitarString, kind: GuitarKind) -> Make:
    """What a string of a described guitar is made of, as usual for its kind."""
    if kind == "nylon":
        return "wound nylon" if string.wound else "nylon"
    if not string.wound:
        return "plain steel"
    return "wound bronze" if kind == "steel_acoustic" else "wound steel"


def body_of(string: GuitarString, kind: GuitarKind) -> StringBody:
    """A string of a described guitar."""
    return string_body(string.gauge_mm, make=make_of(string, kind), unit_weight_g_per_m=string.unit_weight_g_per_m)


def _circle_m2(diameter_mm: float) -> float:
    return math.pi * (diameter_mm / 1000.0) ** 2 / 4.0


def tension_n(kg_per_m: float, *, scale_mm: float, hz: float) -> float:
    """Tension of an ideal string, Mersenne: f = 1/(2L)·√(T/μ).

    >>> round(tension_n(3.09e-4, scale_mm=648.0, hz=329.628), 1)
    56.4
    """
    return kg_per_m * (2.0 * scale_mm / 1000.0 * hz) ** 2


def fret_mm(fret: ArrayLike, *, scale_mm: float) -> FloatArray:
    """Distance from the nut, of one fret or several; the result has the shape of fret.

    >>> float(fret_mm(12, scale_mm=648.0))
    324.0
    """
    return np.asarray(scale_mm * (1.0 - 2.0 ** (-np.asarray(fret, dtype=np.float64) / 12.0)))


def stress_warnings(share: float) -> tuple[str, ...]:
    """What to say of a string loaded to this share of what it typically bears."""
    return (BREAKING_WARNING,) if share > BREAKS_SHARE else (CAREFUL_WARNING,) if share > CAREFUL_SHARE else ()


def body_from(values: Values, suffix: str = "") -> StringBody:
    """The string of a calculator's inputs."""
    gauge = number(values, f"gauge{suffix}")
    gauge_mm = gauge * MM_PER_INCH / 1000.0 if values["gauge_unit"] == "thousandths" else gauge
    if not 0.15 <= gauge_mm <= 2.5:
        raise SignalError(
            "bench_invalid",
            f"Gauge: {gauge:g} {values['gauge_unit']} is no guitar string; from 6 to 98 thousandths, 0.15 to 2.5 mm.",
        )
    weight = number(values, f"unit_weight{suffix}")
    return string_body(gauge_mm, make=values[f"made{suffix}"], unit_weight_g_per_m=weight or None)  # type: ignore[arg-type]


def string_inputs(
    suffix: str = "", *, gauge: float = 17.0, made: str = "plain steel", which: str = ""
) -> tuple[Input, ...]:
    """Inputs that describe a string."""
    return (
        Input(f"gauge{suffix}", f"Gauge{which}", gauge, "", 0.1, 110.0),
        Input(f"made{suffix}", f"String{which}", made, choices=MAKES),
        Input(f"unit_weight{suffix}", f"Unit weight or 0{which}", 0.0, "g/m", 0.0, 30.0),
    )


GAUGE_UNIT = Input("gauge_unit", "Gauges in", "thousandths", choices=("thousandths", "mm"))
SCALE = Input("scale_mm", "Scale", 648.0, "mm", 300.0, 900.0)
ESTIMATED = (
    "The weight of a wound string is estimated from its gauge; enter the maker’s unit weight for a better value."
)


def _tension(values: Values) -> Answer:
    body = body_from(values)
    hz = midi_to_hz(name_to_midi(str(values["note"])), a4_hz=number(values, "a4_hz"))
    tension = tension_n(body.kg_per_m, scale_mm=number(values, "scale_mm"), hz=hz)
    stress = tension / body.core_m2 / 1e6
    return Answer(
        {
            "tension_n": tension,
            "tension_kgf": tension / NEWTON_PER_KGF,
            "tension_lbf": tension / NEWTON_PER_LBF,
            "unit_weight": body.kg_per_m * 1000.0,
            "stress_mpa": stress,
            "share": 100.0 * stress / body.strength_mpa,
            "hz": hz,
        },
        warnings=stress_warnings(stress / body.strength_mpa) + ((ESTIMATED,) if body.estimated else ()),
    )


def _frets(values: Values) -> Answer:
    scale, count = number(values, "scale_mm"), int(number(values, "frets"))
    rows = []
    for fret in range(1, count + 1):
        here, before = (float(fret_mm(f, scale_mm=scale)) for f in (fret, fret - 1))
        rows.append((float(fret), here, here / MM_PER_INCH, here - before, scale - here))
    last = rows[-1]
    return Answer(
        {"twelfth_mm": scale / 2.0, "first_mm": rows[0][1], "last_mm": last[1]},
        (Table("Frets", ("fret", "from nut, mm", "inch", "from the last, mm", "left to saddle, mm"), tuple(rows)),),
    )


TENSION = Calculator(
    id="tension",
    title="Tension",
    purpose="How hard a string pulls at its pitch, and how close that is to breaking.",
    formula="T = μ · (2 · L · f)²,   plain string: μ = ρ · π · d²/4",
    source=(
        "Mersenne’s law; density of steel 7850 kg/m³ and of nylon 1140 kg/m³, strength of music wire "
        "2211 MPa / d^0.145 (from memory)."
    ),
    limits="Ideal string: no stiffness. Wound strings estimated unless their unit weight is entered.",
    inputs=(
        *string_inputs(gauge=10.0),
        GAUGE_UNIT,
        SCALE,
        Input("note", "Tuned to", "E4", pitch=True),
        Input("a4_hz", "A4", 440.0, "Hz", 380.0, 480.0),
    ),
    outputs=(
        Output("tension_n", "Tension", "N", 1),
        Output("tension_kgf", "", "kgf", 2),
        Output("tension_lbf", "", "lbf", 2),
        Output("unit_weight", "Unit weight", "g/m", 3),
        Output("stress_mpa", "Stress in the core", "MPa", 0),
        Output("share", "of what it typically bears", "%", 0),
        Output("hz", "Pitch", "Hz", 3),
    ),
    compute=_tension,
)
FRETS = Calculator(
    id="frets",
    title="Frets",
    purpose="Where the frets of a scale lie.",
    formula="x = L · (1 − 2^(−n/12))",
    source="Equal temperament, 2^(1/12) per fret (ISO 16 scale on an ideal string).",
    limits="Scale 300 to 900 mm; no compensation.",
    inputs=(SCALE, Input("frets", "Frets", 22.0, "", 1.0, 36.0)),
    outputs=(
        Output("twelfth_mm", "12th fret", "mm from nut", 2),
        Output("first_mm", "First fret", "mm from nut", 2),
        Output("last_mm", "Last fret", "mm from nut", 2),
    ),
    compute=_frets,
)

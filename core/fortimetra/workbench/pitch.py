"""Pitch calculators: Hz, cents, MIDI and names at any A4; beats and cents."""

from __future__ import annotations

import math

from fortimetra.errors import SignalError
from fortimetra.units import beat_hz, hz_to_midi, midi_to_hz, midi_to_name, name_to_midi
from fortimetra.workbench.calculator import Answer, Calculator, Input, Output, Table, Values, number

A4 = Input("a4_hz", "A4", 440.0, "Hz", 380.0, 480.0)
BEAT_CENTS = (5.0, 10.0, 20.0)


def cents_of_beats(beats_hz: float, *, at_hz: float) -> float:
    """How far above `at_hz` a tone is that beats so often with it.

    >>> round(cents_of_beats(2.55, at_hz=440.0), 1)
    10.0
    """
    return 1200.0 * math.log2(1.0 + beats_hz / at_hz)


def _convert(values: Values) -> Answer:
    a4_hz, kind, text = number(values, "a4_hz"), values["given"], str(values["value"])
    if kind == "note":
        midi = float(name_to_midi(text))
    else:
        try:
            given = float(text.replace(",", "."))
        except ValueError:
            raise SignalError("bench_invalid", f"Value: {text!r} is not a number; choose “note” for names.") from None
        midi = given if kind == "MIDI" else hz_to_midi(given, a4_hz=a4_hz)
    if not 0.0 <= midi <= 127.0:
        raise SignalError("bench_invalid", f"Value: {text} is outside what is heard as a pitch here (MIDI 0 to 127).")
    hz = midi_to_hz(midi, a4_hz=a4_hz)
    off = 100.0 * (midi - round(midi))
    return Answer(
        {"hz": hz, "midi": midi, "note": midi_to_name(midi), "cents": off, "period_ms": 1000.0 / hz},
        (
            Table(
                "Octaves of it",
                ("note", "Hz"),
                tuple(
                    (midi_to_name(m), midi_to_hz(m, a4_hz=a4_hz))
                    for k in range(-2, 3)
                    if 12 <= (m := midi + 12 * k) <= 115
                ),
            ),
        ),
    )


def _beats(values: Values) -> Answer:
    hz = midi_to_hz(name_to_midi(str(values["note"])), a4_hz=number(values, "a4_hz")) * number(values, "partial")
    given = number(values, "amount")
    cents = given if values["given"] == "cents" else cents_of_beats(given, at_hz=hz)
    if abs(cents) > 100.0:
        raise SignalError("bench_invalid", "Amount: further than a semitone apart nothing beats; give less.")
    beats = beat_hz(cents, at_hz=hz)
    return Answer(
        {"beats_hz": abs(beats), "cents": cents, "at_hz": hz, "period_s": 1.0 / abs(beats) if beats else None},
        (Table("Beats at this pitch", ("cents", "beats/s"), tuple((c, beat_hz(c, at_hz=hz)) for c in BEAT_CENTS)),),
    )


CONVERTER = Calculator(
    id="converter",
    title="Pitch",
    purpose="What a note is in Hz, and what a frequency is as a note.",
    formula="f = A4 · 2^((m − 69)/12),   cents = 1200 · log₂(f/f₀)",
    source="ISO 16:1975 (A4 = 440 Hz); MIDI note numbers.",
    limits="MIDI 0 to 127; A4 from 380 to 480 Hz.",
    inputs=(
        Input("value", "Value", "E2"),
        Input("given", "given as", "note", choices=("note", "Hz", "MIDI")),
        A4,
    ),
    outputs=(
        Output("hz", "Frequency", "Hz", 3),
        Output("note", "Nearest note"),
        Output("cents", "away from it", "cents", 1),
        Output("midi", "MIDI number", "", 2),
        Output("period_ms", "Period", "ms", 3),
    ),
    compute=_convert,
)
BEATS = Calculator(
    id="beats",
    title="Beats",
    purpose="How fast two nearly equal tones beat, and how far apart they are when they do.",
    formula="b = n · f · (2^(c/1200) − 1)",
    source="Superposition of two sines (any physics text); n is the partial both tones share.",
    limits="Up to a semitone apart: further, two tones are heard instead of one that beats.",
    inputs=(
        Input("note", "Note", "A4", pitch=True),
        Input("amount", "Amount", 10.0, "", -100.0, 100.0),
        Input("given", "given as", "cents", choices=("cents", "beats/s")),
        Input("partial", "Partial", 1.0, "", 1.0, 16.0),
        A4,
    ),
    outputs=(
        Output("beats_hz", "Beats", "per second", 2),
        Output("cents", "Apart", "cents", 2),
        Output("period_s", "One beat lasts", "s", 2),
        Output("at_hz", "Partial at", "Hz", 2),
    ),
    compute=_beats,
)

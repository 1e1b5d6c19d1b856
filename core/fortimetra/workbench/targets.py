"""The target of a bend: its pitch, where else it sounds on this guitar, which open string checks it, and how it
beats.
"""

from __future__ import annotations

from dataclasses import dataclass

from fortimetra.errors import SignalError
from fortimetra.model.guitar import pitch_midi
from fortimetra.units import beat_hz, midi_to_hz, midi_to_name
from fortimetra.workbench.pitch import BEAT_CENTS

SAME_CENTS = 0.5


@dataclass(frozen=True)
class TargetPlace:
    """A string and fret that sounds a pitch; octaves: how many the place lies above (below: negative) the target."""

    string: int
    fret: int
    octaves: int = 0


@dataclass(frozen=True)
class Target:
    """What a bend has to reach. cents_off: a microtone lies so far from its nearest note."""

    string: int
    fret: int
    bend_cents: float
    fretted_note: str
    fretted_hz: float
    note: str
    cents_off: float
    hz: float
    same_string_fret: int | None
    partners: tuple[TargetPlace, ...]
    open_checks: tuple[TargetPlace, ...]
    beats: tuple[tuple[float, float], ...]


def target(
    tuning: tuple[str | float, ...],
    *,
    string: int,
    fret: int,
    bend_cents: float,
    capo: int = 0,
    a4_hz: float = 440.0,
    frets: int = 22,
) -> Target:
    """Target of a bend of bend_cents at a string and fret.

    Raises SignalError(code="bench_invalid") for a place the guitar does not have.

    >>> found = target(("E4", "B3", "G3", "D3", "A2", "E2"), string=3, fret=7, bend_cents=200)
    >>> found.note, found.same_string_fret, [(p.string, p.fret) for p in found.partners]
    ('E4', 9, [(1, 0), (2, 5), (4, 14), (5, 19)])
    """
    if not 1 <= string <= len(tuning):
        raise SignalError("bench_invalid", f"String: there is no string {string} of {len(tuning)}.")
    if not 0 <= fret <= frets:
        raise SignalError("bench_invalid", f"Fret: {fret} is outside 0 to {frets}.")
    if not 0.0 <= bend_cents <= 500.0:
        raise SignalError("bench_invalid", f"Bend: {bend_cents:g} is outside 0 to 500 cents.")
    opens = [pitch_midi(pitch) + capo for pitch in tuning]
    fretted = opens[string - 1] + fret
    wanted = fretted + bend_cents / 100.0
    highest = frets - capo
    hz = midi_to_hz(wanted, a4_hz=a4_hz)
    partners = []
    checks = []
    for number, open_midi in enumerate(opens, 1):
        at = wanted - open_midi
        if number != string and _whole(at) and 0 <= round(at) <= highest:
            partners.append(TargetPlace(number, round(at)))
        octaves = -at / 12.0
        if _whole(octaves * 12.0) and round(octaves * 12.0) % 12 == 0 and abs(octaves) <= 3.01:
            checks.append(TargetPlace(number, 0, round(octaves)))
    own = fret + bend_cents / 100.0
    return Target(
        string=string,
        fret=fret,
        bend_cents=bend_cents,
        fretted_note=midi_to_name(fretted),
        fretted_hz=midi_to_hz(fretted, a4_hz=a4_hz),
        note=midi_to_name(wanted),
        cents_off=100.0 * (wanted - round(wanted)),
        hz=hz,
        same_string_fret=round(own) if _whole(own) and round(own) <= highest else None,
        partners=tuple(partners),
        open_checks=tuple(checks),
        beats=tuple((cents, beat_hz(cents, at_hz=hz)) for cents in BEAT_CENTS),
    )


def targets(
    tuning: tuple[str | float, ...],
    *,
    string: int,
    bend_cents: float,
    capo: int = 0,
    a4_hz: float = 440.0,
    frets: int = 22,
) -> list[Target]:
    """Targets of one bend at every fret of a string, from the first up."""
    where = {"string": string, "bend_cents": bend_cents, "capo": capo, "a4_hz": a4_hz, "frets": frets}
    return [target(tuning, fret=fret, **where) for fret in range(1, frets + 1 - capo)]  # type: ignore[arg-type]


def _whole(frets: float) -> bool:
    return abs(frets - round(frets)) * 100.0 <= SAME_CENTS

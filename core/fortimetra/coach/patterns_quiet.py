"""Patterns in what rings and should not; and what the rig does rather than the hand."""

from __future__ import annotations

from collections.abc import Sequence
from statistics import median
from typing import Literal

from fortimetra.coach.evidence import Judged, Pattern, ShownBy, counted, judged, key, outside, signed
from fortimetra.model.analysis import NoiseEvent, NoteFound

Side = Literal["below", "above", "between", "behind"]


def side_of(string: int, wanted: frozenset[int]) -> Side | None:
    """Where a string lies from those that are meant to sound; string 1 is the highest. None for one of them."""
    if not wanted or string in wanted:
        return None
    if string > max(wanted):
        return "below"
    return "above" if string < min(wanted) else "between"


def _rung(seen: Judged, sides: Sequence[Side], kinds: Sequence[str]) -> list[tuple[NoiseEvent, NoteFound]]:
    return [
        (event, near)
        for event, near, wanted in seen.rings
        if event.kind in kinds and event.string is not None and side_of(event.string, wanted) in sides
    ]


def ringing(*sides: Side, kinds: Sequence[str] = ("open_ring", "bleed"), least_s: float = 0.0) -> Pattern:
    """Strings that ring on one side of what is played."""

    def find(seen: Judged) -> ShownBy | None:
        if not seen.asks("noise"):
            return None
        # Where lengths are judged a note that rings on under the next is told there.
        told = [k for k in kinds if k != "bleed" or not seen.asks("length")]
        rung = [(e, n) for e, n in _rung(seen, sides, told) if e.to_s - e.from_s >= least_s]
        if not rung:
            return None
        strings = sorted({e.string for e, _ in rung if e.string is not None})
        names = " and ".join(
            [", ".join(map(str, strings[:-1])), str(strings[-1])] if len(strings) > 1 else [str(strings[0])]
        )
        notes = {key(n): n for _, n in rung}
        levels = [e.level_db for e, _ in rung]
        text = (
            f"String{'s' if len(strings) > 1 else ''} {names} ring{'' if len(strings) > 1 else 's'} under "
            f"{counted(len(notes), len(judged(seen.played, 'noise')), 'notes')}, at {signed(median(levels))} "
            "dB (median)."
        )
        return ShownBy(tuple(notes.values()), len(judged(seen.played, "noise")), text)

    return find


def stops(reason: Literal["still_fretted", "fretting_hand_first", "rings_after_stop"]) -> Pattern:
    """Sound after a stop, by which hand was late."""

    def find(seen: Judged) -> ShownBy | None:
        notes = [n for n in seen.played if n.noise is not None and n.noise.stop_verdict in ("inside", "outside")]
        late = [n for n in notes if n.noise is not None and n.noise.stop_verdict == "outside"]
        told = [n for n in late if reason in n.reasons]
        if reason == "rings_after_stop":
            told = [n for n in late if not {"still_fretted", "fretting_hand_first"} & set(n.reasons)]
        decays = [n.noise.decay_ms for n in told if n.noise is not None and n.noise.decay_ms is not None]
        if not told:
            return None
        how = f", {median(decays):.0f} ms until silent (median)" if decays else ""
        return ShownBy(tuple(told), len(notes), f"{counted(len(told), len(notes), 'stops')} sound on{how}.")

    return find


def chord_unequal(seen: Judged) -> ShownBy | None:
    """Notes struck together that are not equally loud, or not there."""
    notes = [n for n in seen.notes if n.chord is not None and n.chord.verdict in ("inside", "outside")]
    off = outside(notes, "chord")
    if not off:
        return None
    gone = sum(n.chord is not None and n.chord.present is False for n in off)
    parts = [f"{gone} are not heard"] if gone else []
    parts += [f"{len(off) - gone} stand out or drown"] if len(off) > gone else []
    return ShownBy(tuple(off), len(notes), f"Of {len(notes)} notes struck together {' and '.join(parts)}.")


def scrapes(seen: Judged) -> ShownBy | None:
    """Fingers heard on the windings."""
    found = [e for e in seen.analysis.noise_events if e.kind == "scrape" and e.verdict == "outside"]
    notes = {key(n): n for e in found for n in seen.played if n.id == e.near and n.repeat == e.repeat}
    if not seen.asks("noise") or not found:
        return None
    return ShownBy(tuple(notes.values()), len(seen.played), f"{len(found)} scrapes are heard.")


def unclear_by(*codes: str, measure: str, text: str) -> Pattern:
    """Notes that cannot be told because of the recording chain, as their own reasons say."""

    def find(seen: Judged) -> ShownBy | None:
        notes = [n for n in seen.played if n.clean == "unclear" and set(codes) & set(n.reasons)]
        if not notes:
            return None
        found = [n for n in seen.played if getattr(n, measure) is not None]
        return ShownBy(tuple(notes), len(found), f"{counted(len(notes), len(found), 'notes')} {text}")

    return find


def strings_pressed(seen: Judged) -> ShownBy | None:
    """Strings that should be quiet and sound the fret of a finger, or a slide, that lies on them."""
    pressed = [(e, n) for e, n, _ in seen.rings if e.kind == "pressed"]
    if not seen.asks("noise") or not pressed:
        return None
    places = sorted({(e.string, e.fret) for e, _ in pressed if e.string is not None and e.fret is not None})
    notes = {key(n): n for _, n in pressed}
    strings = sorted({s for s, _ in places})
    names = ", ".join(f"string {s} sounds fret {'/'.join(str(f) for t, f in places if t == s)}" for s in strings)
    text = f"{names[:1].upper()}{names[1:]} under {counted(len(notes), len(judged(seen.played, 'noise')), 'notes')}."
    return ShownBy(tuple(notes.values()), len(judged(seen.played, "noise")), text)


def over_muted(seen: Judged) -> ShownBy | None:
    """Notes that die at once where strings are to be kept quiet: the palm, or a finger, lies on them, too."""
    notes = judged(seen.played, "level")
    dying = [n for n in notes if n.level is not None and n.level.dies]
    if not seen.asks("level") or not dying:
        return None
    return ShownBy(tuple(dying), len(notes), f"{counted(len(dying), len(notes), 'notes')} die as soon as they sound.")


def shape_not_held(seen: Judged) -> ShownBy | None:
    """One string of a shape that is not heard in many strokes."""
    notes = [n for n in seen.notes if n.chord is not None and n.chord.present is not None]
    gone = [n for n in notes if n.chord is not None and n.chord.present is False]
    strings = {n.string for n in gone}
    if not gone:
        return None
    which = ", all on string " + str(next(iter(strings))) if len(strings) == 1 else ""
    return ShownBy(
        tuple(gone), len(notes), f"{counted(len(gone), len(notes), 'notes of the shapes')} are not heard{which}."
    )

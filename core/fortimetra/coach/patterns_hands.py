"""Patterns by what the hands do: which stroke stands before a change of string, which finger a slur is."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

from fortimetra.coach.evidence import Judged, ShownBy, apart, clearly_beyond, judged, key, late_ms, louder_db, outside
from fortimetra.model.analysis import NoteFound

FINGER_NAMES = {"1": "first", "2": "second", "3": "third", "4": "little"}


def goes_back(seen: Judged, note: NoteFound) -> bool | None:
    """Whether the pick has to get back over the string it has left: the stroke before led away from the new string.

    A down-stroke ends on the thin side of its string, an up-stroke on the thick side. None where nothing changes, or no
    stroke is written.
    """
    before = seen.follows.get(key(note))
    struck = None if before is None else seen.event(before)
    here = seen.event(note)
    if before is None or struck is None or here is None or struck.stroke is None or here.stroke is None:
        return None
    if before.string is None or note.string is None or before.string == note.string:
        return None
    return struck.stroke.endswith("down") != (note.string < before.string)


def change_against_stroke(seen: Judged) -> ShownBy | None:
    """Notes after a change that the stroke before does not lead to come later, or are struck twice, against the other
    changes.
    """
    if not seen.asks("timing"):
        return None
    notes = judged(seen.played, "timing")
    back = [n for n in notes if goes_back(seen, n) is True]
    on = [n for n in notes if goes_back(seen, n) is False]
    found = apart([late_ms(n) for n in back], [late_ms(n) for n in on])
    if found is None or not clearly_beyond(*found):
        return None
    late = [n for n in outside(back, "timing") if late_ms(n) > 0]
    text = (
        f"Where the pick has to get back over the string it left, mostly after {_usual_stroke(seen, late)}, notes come "
        f"{found[0]:.0f} ms (±{found[1]:.0f}) later than at the other changes."
    )
    return ShownBy(tuple(late), len(back), text)


def _usual_stroke(seen: Judged, notes: Sequence[NoteFound]) -> str:
    """Which stroke most of some notes follow."""
    before = [seen.event(seen.follows[key(n)]) for n in notes]
    down = sum(e is not None and (e.stroke or "").endswith("down") for e in before)
    return "a down-stroke" if down > len(notes) / 2 else "an up-stroke"


def weak_finger(seen: Judged) -> ShownBy | None:
    """Slurs of one finger that are softer than those of all others."""
    if not seen.asks("level"):
        return None
    by_finger = _by_finger(seen)
    worst: tuple[float, float, str] | None = None
    for finger, own in by_finger.items():
        others = [louder_db(n) for other, notes in by_finger.items() if other != finger for n in notes]
        found = apart(others, [louder_db(n) for n in own])
        if found is not None and clearly_beyond(*found) and (worst is None or found[0] > worst[0]):
            worst = (*found, finger)
    if worst is None:
        return None
    softer, u, finger = worst
    soft = [n for n in outside(by_finger[finger], "level") if louder_db(n) < 0]
    text = (
        f"Hammer-ons of the {FINGER_NAMES[finger]} finger are {softer:.1f} dB (±{u:.1f}) softer than "
        "those of the others."
    )
    return ShownBy(tuple(soft), len(by_finger[finger]), text)


def _by_finger(seen: Judged) -> dict[str, list[NoteFound]]:
    """Hammered notes with a level, by the finger that is written for them."""
    found: dict[str, list[NoteFound]] = defaultdict(list)
    for note in judged(seen.played, "level"):
        event = seen.event(note)
        if event is None or event.articulation != "hammer" or note.level is None or note.level.deviation_db is None:
            continue
        written = next((n.finger for n in event.notes if n.string == note.string), None)
        if written in FINGER_NAMES:
            found[str(written)].append(note)
    return found

"""What other sounds of a recording do to verdicts: nothing that only they may have caused is held against a note."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from fortimetra.align.match import Match, OtherSound
from fortimetra.hear.notes import HeardNote
from fortimetra.model.verdict import Verdict

SAME_S = 0.05


@dataclass(frozen=True)
class Disturbed:
    """Which events have other sounds about them: under their start, where level is read; until they should have
    ended.
    """

    start: tuple[bool, ...]
    whole: tuple[bool, ...]


def within(others: Sequence[OtherSound], from_s: float, to_s: float) -> bool:
    """Whether an other sound lies in a stretch of time."""
    return any(o.from_s < to_s and o.to_s > from_s for o in others)


def disturbed(match: Match, slots_s: Sequence[float]) -> Disturbed:
    """slots_s: how long each event was asked to sound."""
    rows = list(zip(match.heard, slots_s, strict=True))
    return Disturbed(
        tuple(n is not None and within(match.others, n.onset_s - 0.02, n.onset_s + 0.1) for n, _ in rows),
        tuple(n is not None and _about(match.others, n, slot_s) for n, slot_s in rows),
    )


def _about(others: Sequence[OtherSound], note: HeardNote, slot_s: float) -> bool:
    return within(others, note.onset_s, max(note.end_s, note.onset_s + slot_s) + 0.1)


def cut_short(match: Match, heard: HeardNote, asked_s: float) -> bool:
    """Whether something nobody asked for begins before half of a note is over, and the note is followed no further."""
    return heard.end_s - heard.onset_s < 0.5 * asked_s and any(
        abs(extra.onset_s - heard.end_s) < SAME_S for extra in match.extras
    )


def excused(judged: Verdict, *, other: bool, reasons: list[str], asked: bool) -> Verdict:
    """A verdict that an other sound may have caused, open; adds to the reasons."""
    if judged != "outside" or not other:
        return judged
    if asked:
        reasons.append("other_sound")
    return "unclear"

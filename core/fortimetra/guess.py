"""Which drill a recording may be of, from its notes alone: a proposal for somebody who knows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from fortimetra.align.pair import match
from fortimetra.errors import TakeError
from fortimetra.hear.contour import track
from fortimetra.hear.notes import HeardNote, segment
from fortimetra.hear.onsets import find_onsets
from fortimetra.hear.settings import CONTOUR
from fortimetra.model.drill import Drill
from fortimetra.sound.decode import Take, load_take

LEAST_SHARE = 0.5


@dataclass(frozen=True)
class Guess:
    """drill: its place in what was offered; share: of heard and asked notes together that fit each other, 0 to 1."""

    drill: int
    share: float


def guess_drill(take: str | Path | Take, drills: Sequence[Drill]) -> tuple[Guess, ...]:
    """The drills whose notes a recording holds, the likeliest first; those that explain less than half are left out.

    Raises TakeError where the recording cannot be used.
    """
    loaded = take if isinstance(take, Take) else load_take(take)
    mono = loaded.guitar(click_channel=None)
    onsets_s = find_onsets(mono, rate_hz=loaded.sample_rate_hz)
    contour = track(mono, rate_hz=loaded.sample_rate_hz, range_hz=CONTOUR.full_range_hz, onsets_s=onsets_s)
    return rank(segment(contour, onsets_s), drills)


def rank(heard: Sequence[HeardNote], drills: Sequence[Drill]) -> tuple[Guess, ...]:
    """As `guess_drill`, from notes that were heard."""
    shares = [Guess(i, round(_share(heard, drill), 3)) for i, drill in enumerate(drills)]
    return tuple(sorted((g for g in shares if g.share >= LEAST_SHARE), key=lambda g: (-g.share, g.drill)))


def _share(heard: Sequence[HeardNote], drill: Drill) -> float:
    """Twice what fits over all there is on both sides: 1 where every heard note is asked and every asked one heard."""
    if not any(event.notes for event in drill.events):
        return 0.0
    try:
        found = match(heard, drill)
    except TakeError:
        return 0.0
    fitting = sum(found.fits(i) for i in range(len(found.events)))
    return 2.0 * fitting / (len(heard) + len(found.events))


__all__ = ["LEAST_SHARE", "Guess", "guess_drill", "rank"]

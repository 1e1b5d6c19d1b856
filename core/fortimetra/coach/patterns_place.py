"""Patterns by where in the figure, and when in the take, notes are off: whatever the measure."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from math import comb

from fortimetra.coach.evidence import (
    Judged,
    Pattern,
    ShownBy,
    apart,
    clearly_beyond,
    counted,
    judged,
    key,
    late_ms,
    outside,
)
from fortimetra.coach.settings import PLACE_CAUSES
from fortimetra.model.analysis import NoteFound
from fortimetra.model.tolerance import Measure

OFF: dict[Measure, str] = {
    "pitch": "out of tune", "bend": "off their target", "vibrato": "uneven or off their line",
    "timing": "off the click",
    "level": "too loud or too soft", "length": "too long or too short", "noise": "with something ringing",
}  # fmt: skip


def always_same_note(measure: Measure) -> Pattern:
    """One place of the figure, or two, that are off in nearly every repeat while the others hardly ever are."""

    def find(seen: Judged) -> ShownBy | None:
        if not seen.asks(measure):
            return None
        notes = judged(seen.played, measure)
        off = {key(n) for n in outside(notes, measure)}
        by_place: dict[tuple[str, int | None], list[NoteFound]] = defaultdict(list)
        for note in notes:
            by_place[note.id, note.string].append(note)
        bad = [own for own in by_place.values() if _nearly_all(own, off)]
        events = {n.id for own in bad for n in own}
        rest = [n for n in notes if n.id not in events]
        seldom = sum(key(n) in off for n in rest) <= PLACE_CAUSES.elsewhere_share * len(rest)
        if not bad or len(events) > PLACE_CAUSES.most_places or len(rest) < len(notes) / 2 or not seldom:
            return None
        shown = [n for own in bad for n in own if key(n) in off]
        here = [n for own in bad for n in own]
        text = f"{_places(seen, bad)}: {counted(len(shown), len(here), 'times')} {OFF[measure]}; elsewhere "
        return ShownBy(tuple(shown), len(here), text + f"{sum(key(n) in off for n in rest)} of {len(rest)}.")

    return find


def _nearly_all(own: Sequence[NoteFound], off: set[tuple[str, int, int | None]]) -> bool:
    """Whether a place is off in all of its repeats, but for one of many."""
    count = sum(key(n) in off for n in own)
    return len(own) >= PLACE_CAUSES.least_repeats and count >= PLACE_CAUSES.same_share * len(own)


def _places(seen: Judged, bad: Sequence[Sequence[NoteFound]]) -> str:
    """ "Bar 1, beat 3 (string 2, fret 7)"."""
    found = []
    for own in bad:
        event = seen.event(own[0])
        where = own[0].id if event is None else seen.drill.place(event)
        found.append(f"{where} (string {own[0].string}, fret {own[0].fret})")
    text = " and ".join(found)
    return text[:1].upper() + text[1:]


def worse_at_end(measure: Measure) -> Pattern:
    """Notes of the last third are off, those before hardly: by Fisher's exact test (1935), one-sided."""

    def find(seen: Judged) -> ShownBy | None:
        timing = seen.analysis.summary.timing
        if not seen.asks(measure):
            return None
        if measure == "timing" and timing is not None and timing.drift_ms_per_beat is not None:
            creep = abs(timing.drift_ms_per_beat) / (1000.0 * seen.drill.seconds_per_beat)
            if creep > PLACE_CAUSES.no_creep_share:
                return None  # the tempo moves: that is said of its own
        notes = sorted(judged(seen.played, measure), key=lambda n: n.onset_s or 0.0)
        if len(notes) < PLACE_CAUSES.least_notes:
            return None
        first, last = notes[: -(len(notes) // 3)], notes[-(len(notes) // 3) :]
        before, after = outside(first, measure), outside(last, measure)
        times = len(after) / len(last) > PLACE_CAUSES.times_worse * len(before) / len(first)
        if (
            len(after) < PLACE_CAUSES.least_late_faults
            or not times
            or _chance(before, first, after, last) > PLACE_CAUSES.chance
        ):
            return None
        text = (
            f"In the last third of the take {counted(len(after), len(last), 'notes')} are {OFF[measure]}, before that "
            f"{len(before)} of {len(first)}."
        )
        return ShownBy(tuple(after), len(last), text)

    return find


def _chance(
    before: Sequence[NoteFound], first: Sequence[NoteFound], after: Sequence[NoteFound], last: Sequence[NoteFound]
) -> float:
    """How likely so many of the faults or more lie in the last part by chance (hypergeometric tail)."""
    return more_by_chance(len(after), len(last), len(before) + len(after), len(first) + len(last))


def more_by_chance(hits: int, drawn: int, marked: int, whole: int) -> float:
    """Probability of `hits` or more of `marked` among `drawn` of `whole` (Fisher, The Design of Experiments, 1935).

    >>> round(more_by_chance(3, 4, 4, 8), 4)
    0.2429
    """
    most = min(drawn, marked)
    ways = sum(comb(marked, k) * comb(whole - marked, drawn - k) for k in range(hits, most + 1))
    return ways / comb(whole, drawn)


def late_after_shift(seen: Judged) -> ShownBy | None:
    """Notes after a change of position come later than the others."""
    if not seen.asks("timing"):
        return None
    notes = judged(seen.played, "timing")
    after = [n for n in notes if _shifts(seen, n)]
    ids = {key(n) for n in after}
    found = apart([late_ms(n) for n in after], [late_ms(n) for n in notes if key(n) not in ids])
    if found is None or not clearly_beyond(*found):
        return None
    late = [n for n in outside(after, "timing") if late_ms(n) > 0]
    text = f"After a change of position notes come {found[0]:.0f} ms (±{found[1]:.0f}) later than the others."
    return ShownBy(tuple(late), len(after), text)


def _shifts(seen: Judged, note: NoteFound) -> bool:
    """Whether the fretting hand has to move along the neck to a note."""
    before = seen.follows.get(key(note))
    if before is None or not note.fret or not before.fret:
        return False
    return abs(note.fret - before.fret) >= PLACE_CAUSES.shift_frets

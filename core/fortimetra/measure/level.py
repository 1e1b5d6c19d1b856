"""How loud each note is, and how alike notes are that should be equal.

Conventions: level is the RMS 5-85 ms after the attack (or to the end of the slot) in the band 60 Hz to 8 kHz, dB
against the take's median plain note; loud is positive. How loud one string is against another belongs to the guitar,
so a note is compared with the notes of its own string that are played as it is, where there are enough of them.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy import signal

from fortimetra.align.match import Match
from fortimetra.measure.settings import LEVEL, STATISTICS
from fortimetra.measure.statistics import median_u
from fortimetra.medians import finite_median, robust_sd
from fortimetra.model.drill import SLURRED
from fortimetra.sound.parts import energies
from fortimetra.sound.samples import Samples
from fortimetra.units import FloatArray, midi_to_hz

Way = Literal["picked", "palm_muted", "slurred", "slid", "tapped", "together", "accented"]


@dataclass(frozen=True)
class AmongItsLike:
    """A note beside its like: a slur beside the slurs of its kind on its string; in a room, a note beside those of its
    own pitch. deviation_db: from them; group_db: theirs from what they are compared with, each with its expanded
    uncertainty. Many of them say more than the few picked notes of a slurred line, and a room treats them alike.
    """

    deviation_db: float
    u_db: float
    group_db: float
    u_group_db: float


@dataclass(frozen=True)
class NoteLevel:
    """One event's level. deviation_db: from what it is compared with, None where there is nothing.

    way: how it is played. against: what it was compared with. u_db of the level, u_deviation_db with the
    reference's. u_louder_db: how much louder than its deviation it may be; what still sounds of the note before adds
    to it, so that it may be softer by more. like: of a slur that is compared with picked notes, how it stands among
    its like. before: of a note at the pitch of the one before, how loud that still was, power against its own.
    """

    level_db: float
    u_db: float
    way: Way
    deviation_db: float | None = None
    u_deviation_db: float | None = None
    against: Literal["string", "picked", "take", "neighbours"] | None = None
    like: AmongItsLike | None = None
    u_louder_db: float | None = None
    before: float = 0.0


def note_levels(
    mono: Samples, match: Match, *, rate_hz: int, overlaps_s: Sequence[float | None] | None = None
) -> list[NoteLevel | None]:
    """Level of each heard event; None where it was not heard, is muted or shorter than LEVEL.least_s.

    Of a stroke over several strings, of one string's share: strings struck alike add their powers. mono: float32,
    shape (n_samples,). overlaps_s: how far into the next event each one sounds at most, None where nobody knows.
    """
    raw, u, u_alone, before = _levels_dbfs(mono, match, rate_hz, overlaps_s or [None] * len(match.events))
    sounding = np.array([max(1, sum(not n.note.muted for n in e.notes)) for e in match.events])
    raw = raw - 10.0 * np.log10(sounding)
    ways = np.array([way_of(match, i) for i in range(len(match.events))])
    known = ~np.isnan(raw)
    plain = raw[known & (ways == "picked")]
    if not len(plain):
        plain = raw[known]
    if not len(plain):
        return [None] * len(raw)
    level = raw - float(np.median(plain))
    strings = np.array([e.lead.note.string for e in match.events])
    hand_db = _hand_db(level, ways, strings)
    kinds = np.array([e.notes[0].event.articulation for e in match.events])
    likes: dict[tuple[int, str], _Likes | None] = {}
    found: list[NoteLevel | None] = []
    for i, way in enumerate(ways.tolist()):
        if not known[i]:
            found.append(None)
            continue
        note = NoteLevel(float(level[i]), float(u[i]), way, before=float(before[i]))
        compared = _compared(note, i, level, ways, strings, hand_db)
        compared = replace(compared, u_louder_db=_with_its_own(compared, float(u_alone[i])))
        if compared.against == "picked":
            which = strings[i], kinds[i]
            if which not in likes:
                own = known & (strings == strings[i])
                likes[which] = _likes(level[own & (ways == "picked")], level[own & (kinds == kinds[i])], hand_db)
            compared = replace(compared, like=_among(note, likes[which]))
        found.append(compared)
    return found


def _with_its_own(note: NoteLevel, u_own_db: float) -> float | None:
    """The uncertainty of a deviation with another one of the note itself."""
    if note.u_deviation_db is None:
        return None
    return float(np.sqrt(max(note.u_deviation_db**2 - note.u_db**2, 0.0) + u_own_db**2))


class _Likes(NamedTuple):
    """Slurs of one kind on one string: their middle, and how it stands to the picked notes there, each with its
    expanded uncertainty.
    """

    middle_db: float
    u_middle_db: float
    group_db: float
    u_group_db: float


def _likes(picked: FloatArray, its_kind: FloatArray, hand_db: Mapping[str, float]) -> _Likes | None:
    """None where they are too few."""
    if len(its_kind) < LEVEL.least_notes:
        return None
    middle = float(np.median(its_kind))
    u_middle = median_u(its_kind)
    u_picked = reference_u(picked, hand_db.get("picked"))
    return _Likes(middle, u_middle, middle - float(np.median(picked)), float(np.hypot(u_middle, u_picked)))


def _among(note: NoteLevel, likes: _Likes | None) -> AmongItsLike | None:
    """A slur among those of its kind."""
    if likes is None:
        return None
    u_db = float(np.hypot(note.u_db, likes.u_middle_db))
    return AmongItsLike(note.level_db - likes.middle_db, u_db, likes.group_db, likes.u_group_db)


def _levels_dbfs(
    mono: Samples, match: Match, rate: int, overlaps_s: Sequence[float | None]
) -> tuple[FloatArray, FloatArray, FloatArray, FloatArray]:
    """dBFS of each event, its expanded uncertainty, and that without what sounded before; NaN where unreadable. Last,
    the power of the same pitch just before, against its own; 0 where that was another.
    """
    energy = _energy(mono, rate)
    onsets = np.array([np.nan if n is None else n.onset_s for n in match.heard])
    after = np.append(np.sort([n.onset_s for n in match.notes]), np.inf)
    heard = ~np.isnan(onsets)
    level = np.full(len(onsets), np.nan)
    u, u_alone, same = np.full(len(onsets), np.nan), np.full(len(onsets), np.nan), np.zeros(len(onsets))
    start = onsets[heard]
    until = np.minimum(start + LEVEL.to_s, after[np.searchsorted(after, start + 1e-6)] - 0.002)
    first, last = start + LEVEL.from_s, until
    good = (last - first >= LEVEL.least_s) & (first < len(mono) / rate - LEVEL.least_s)
    power = _power(energy, first, last)
    before = _power(energy, start - LEVEL.before_s[0], start - LEVEL.before_s[1])
    same[heard] = np.where(_same_pitch(match)[heard], before / np.maximum(power, 1e-20), 0.0)
    muted = np.array([e.lead.note.muted for e in match.events])[heard]
    period = np.array([1.0 / midi_to_hz(min(127.0, e.start_midi)) for e in match.events])[heard]
    # What sounded before on another string may go on under the note, as long as it is heard to; on its own string it
    # cannot. All of it may be in what is read: the note is then what is left.
    most_s = np.array([np.inf, *(np.inf if o is None else o for o in overlaps_s[:-1])])[heard]
    goes_on = np.clip((most_s - LEVEL.from_s) / np.maximum(last - first, LEVEL.least_s), 0.0, 1.0)
    before = np.where(_same_string(match)[heard], 0.0, goes_on * before)
    ring_db = -10.0 * np.log10(1.0 - np.minimum(before / np.maximum(power, 1e-20), LEVEL.most_ringing_share))
    few_db = LEVEL.period_u_db * period / np.maximum(last - first, LEVEL.least_s)
    own = np.where(good & ~muted & (power > 1e-14), 10.0 * np.log10(np.maximum(power, 1e-20)), np.nan)
    level[heard] = own
    u_alone[heard] = np.hypot(LEVEL.method_u_db, few_db)
    u[heard] = np.hypot(u_alone[heard], ring_db)
    return level, u, u_alone, same


def _same_string(match: Match) -> NDArray[np.bool_]:
    """Whether what sounded before each event was on its own string."""
    strings = [{n.note.string for n in e.notes} for e in match.events]
    return np.array([i > 0 and strings[i - 1] <= strings[i] for i in range(len(strings))])


def _same_pitch(match: Match) -> NDArray[np.bool_]:
    """Whether each event begins at the pitch at which the one before ended."""
    events = match.events
    return np.array([i > 0 and events[i].begins_where(events[i - 1]) for i in range(len(events))])


def _energy(mono: Samples, rate: int) -> FloatArray:
    """Energy of the band up to each LEVEL.step_s, per second."""
    sos = signal.butter(2, (LEVEL.band_hz[0], min(LEVEL.band_hz[1], 0.45 * rate)), "bandpass", fs=rate, output="sos")
    edges = np.round(np.arange(0.0, len(mono) / rate + LEVEL.step_s, LEVEL.step_s) * rate).astype(np.int64)
    return np.append(0.0, np.cumsum(energies(sos, mono, edges) / rate))


def _power(energy: FloatArray, first_s: FloatArray, last_s: FloatArray) -> FloatArray:
    """Mean power between times, from the energy up to each LEVEL.step_s."""
    places = np.arange(len(energy)) * LEVEL.step_s
    between = np.interp(last_s, places, energy) - np.interp(first_s, places, energy)
    return np.asarray(between / np.maximum(last_s - first_s, LEVEL.step_s))


def way_of(match: Match, index: int) -> Way:
    """How an event is played."""
    event = match.events[index].notes[0].event
    if event.articulation == "slide":
        return "slid"  # nothing strikes it: what it should equal are other slides
    if len(match.events[index].notes) > 1:
        return "together"
    if event.accent:
        return "accented"
    if event.articulation in SLURRED:
        return "slurred"
    if event.articulation == "palm_mute":
        return "palm_muted"
    return "tapped" if event.articulation == "tap" else "picked"


def _hand_db(level: FloatArray, ways: NDArray[np.str_], strings: FloatArray) -> dict[str, float]:
    """How much notes that are played alike scatter on their strings, standard deviation over the whole take, by how
    they are played, where enough tell. One string's few picked notes say little of it, and a soft one among four would
    say a lot.
    """
    found: dict[str, float] = {}
    for way in set(ways.tolist()):
        own = (ways == way) & ~np.isnan(level)
        rest: list[float] = []
        free = 0  # each string's own loudness takes one
        for string in np.unique(strings[own]):
            values = level[own & (strings == string)]
            if len(values) > 1:
                free += len(values) - 1
                rest += list((values - np.median(values)) * np.sqrt(len(values) / (len(values) - 1.0)))
        if free >= LEVEL.least_for_hand:
            found[way] = robust_sd(np.array(rest))
    return found


def _compared(
    note: NoteLevel,
    i: int,
    level: FloatArray,
    ways: NDArray[np.str_],
    strings: FloatArray,
    hand_db: dict[str, float],
) -> NoteLevel:
    """The note with its deviation from what it should equal; hand_db: scatter of notes played alike."""
    known = ~np.isnan(level)
    same_way = (ways == note.way) & known
    own_string = strings == strings[i]
    others = np.arange(len(level)) != i
    against: Literal["string", "picked", "take", "neighbours"]
    extra_u = 0.0
    if note.way == "accented":
        plain = np.isin(ways, ("picked", "slurred", "tapped")) & known
        near = plain & (np.abs(np.arange(len(level)) - i) <= LEVEL.neighbours)
        chosen, against = (near & own_string if (near & own_string).sum() >= 2 else near), "neighbours"
    elif note.way in {"slurred", "tapped"} and ((picked := (ways == "picked") & known & own_string).sum() >= 1):
        chosen, against = picked, "picked"
    elif (same_way & own_string & others).sum() >= LEVEL.least_notes - 1:
        chosen, against = same_way & own_string, "string"
    else:
        chosen, against = same_way & others, "take"
        extra_u = LEVEL.other_strings_u_db if len(np.unique(strings[chosen])) > 1 else 0.0
    if chosen.sum() < (1 if against == "picked" else 2):
        return note
    values = level[chosen]
    deviation = note.level_db - finite_median(values)
    u = float(
        np.sqrt(
            note.u_db**2
            + min(reference_u(values, hand_db.get("picked" if against == "picked" else note.way)), 6.0) ** 2
            + extra_u**2
        )
    )
    return replace(note, deviation_db=deviation, u_deviation_db=u, against=against)


def reference_u(values: FloatArray, hand_db: float | None = None) -> float:
    """Uncertainty of a median of levels, dB, shape (n,), also of very few; hand_db: how much like notes scatter, where
    the take tells (a median of n normal values scatters by √(π/2n) of it).
    """
    if hand_db is not None:
        return STATISTICS.coverage * float(np.sqrt(np.pi / 2.0 / len(values))) * max(hand_db, LEVEL.least_hand_db)
    few = LEVEL.hand_u_db / float(np.sqrt(len(values)))
    return few if len(values) < 2 else max(median_u(values), few if len(values) < LEVEL.least_notes else 0.0)

"""Strings that ring unasked: which, from when to when, how loud against what is meant to sound.

Method: every stretch between attacks is looked at through windows that hold no attack (`hear/combs`); what is meant
to sound is cut out at its heard pitch, and each string's open and last pitch is sought in what is left. How well such
a comb has to fit is learned from the take: combs a quarter tone off every pitch a guitar has are sought in the same
windows, and a string counts only where it fits better than any of those, whatever noise, drive or room left there.
The string that explains most is taken first and cut out, too, with the tones a driven amplifier makes of it and the
note (m·f₁ ± n·f₂); what is left is asked again.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from fortimetra.hear.combs import Combs, Found
from fortimetra.hear.contour import Contour
from fortimetra.hear.settings import COMBS
from fortimetra.measure.evidence import Fit, answers_of, best_of, floors_of, levels_of, own_partials
from fortimetra.measure.looking import Seen, look
from fortimetra.measure.settings import EVIDENCE, QUIET, RING
from fortimetra.measure.strings import Part, Role, Span, Suspect, roles_in, same_pitch
from fortimetra.sound.decode import resampled
from fortimetra.sound.samples import Samples
from fortimetra.units import FloatArray

_AT_ONCE_S = 20.0  # of a take, for memory


@dataclass(frozen=True)
class Ringing:
    """One string ringing unasked; level_db against what is meant to sound (in a rest: against what sounded last).

    role: an open string; a string's last pitch; one its string has left, as an echo has it; one pressed by what stops
    others. rest: share of it that lies in rests. seen_s: length of the window in which it was heard last: its end lies
    at to_s or up to half of that before it. filled: share of its level that partials under others were given.
    """

    string: int
    fret: int
    hz: float
    role: Role
    from_s: float
    to_s: float
    level_db: float
    u_db: float
    rest: float
    seen_s: float = 0.0
    filled: float = 0.0


@dataclass(frozen=True)
class RingReading:
    """What was read; arrays of shape (n_windows,) or (n_windows, n_suspects), in order of time.

    level_db: of each suspect where it rings, else -inf. other_share: of the windows, the share in which a pitch
    sounds that no string of the guitar has reason to. floor_db: a string louder than this would have been found; NaN
    where it cannot sound, 0 and more where what is meant to sound covers it.
    """

    rings: tuple[Ringing, ...]
    middle_s: FloatArray
    length_s: FloatArray
    span: NDArray[np.int64]
    level_db: FloatArray
    floor_db: FloatArray
    echo_share: float | None
    other_share: float

    @property
    def echoes(self) -> bool | None:
        """Whether notes go on after their string has left them, which no string can: a room, a delay, a reverb."""
        return None if self.echo_share is None else self.echo_share >= RING.echo_share


def ringing(
    mono: Samples,
    contour: Contour,
    spans: Sequence[Span],
    parts: Sequence[Part],
    suspects: Sequence[Suspect],
    *,
    rate_hz: int,
    driven: bool = False,
    tail_ms: float | None = None,
) -> RingReading | None:
    """Every string that rings unasked in some spans; None where no span is long enough to be looked at.

    mono: float32, shape (n_samples,). driven: notes struck together make tones of their own, which are cut out with
    them. tail_ms: how long the recording takes to become quiet (`measure/tail`), where it tells.
    """
    sound = resampled(mono, from_hz=rate_hz, to_hz=COMBS.rate_hz)
    combs = _combs(suspects)
    stretches = [
        found
        for numbers in _at_once(spans)
        if (seen := look(sound, contour, spans, combs, numbers=numbers, driven=driven)) is not None
        for found in [_told(seen, spans, suspects, combs, tail_ms)]
    ]
    if not stretches:
        return None
    whole = _Told(*(np.concatenate([getattr(s, f.name) for s in stretches]) for f in fields(_Told)))
    reading = RingReading(
        (),
        whole.middle_s,
        whole.length_s,
        whole.span,
        whole.level_db,
        whole.floor_db,
        _echo_share(whole, suspects),
        float(np.mean(whole.others)),
    )
    return replace(reading, rings=_rings(reading, whole, spans, parts, suspects))


def _at_once(spans: Sequence[Span]) -> list[range]:
    """Spans in stretches of _AT_ONCE_S at least, each beginning with one in which something is meant to sound."""
    edges = [0]
    for number, span in enumerate(spans):
        if not span.rest and span.from_s - spans[edges[-1]].from_s > _AT_ONCE_S:
            edges.append(number)
    return [range(a, b) for a, b in pairwise([*edges, len(spans)])]


@dataclass(frozen=True)
class _Told:
    """What is told of each window of a stretch; arrays of shape (n_windows,) or (n_windows, n_suspects).

    hidden: share of each level that covered partials were given. others: whether a pitch sounds that no string has
    reason to.
    """

    middle_s: FloatArray
    length_s: FloatArray
    span: NDArray[np.int64]
    level_db: FloatArray
    floor_db: FloatArray
    roles: NDArray[np.str_]
    hidden: FloatArray
    others: NDArray[np.bool_]


def _told(seen: Seen, spans: Sequence[Span], suspects: Sequence[Suspect], combs: Combs, tail_ms: float | None) -> _Told:
    """Which strings ring in each window: the likeliest first, each explaining what it can of all others."""
    number = len(suspects)
    allowed, roles, left_s = _roles(seen, spans, suspects)
    # Where a partial cannot matter at the lowest level that is reported, it is not looked for.
    around = np.maximum(seen.found.around, (seen.wanted * 10.0 ** (RING.partial_db / 10.0))[:, None, None])
    found = Found(seen.found.power, around.astype(np.float32), seen.found.clear)
    level, hidden = levels_of(found, seen)
    own = own_partials(seen, spans, suspects, combs)
    answers_db = answers_of(seen, spans, tail_ms)
    fit = Fit(found.fit, found.clear.copy(), own, combs, level, seen, number, answers_db)
    left = (roles == "last") & ~_heard_to_stop(fit, left_s, floors_of(fit, found, seen, number))
    known = _known(fit, left, level[:, :number])
    # Under a note that rings on loudly no softer string is told from what the two make together.
    loud = np.max(np.where(known, level[:, :number], -np.inf), axis=1) > RING.hides_db
    allowed[loud] &= known[loud]
    taken = known & (fit.evidence()[:, :number] > fit.threshold()[:, None])
    refused = known.copy()
    # A finger that presses is rarer than a string left open: it takes as much as another instrument's pitch would.
    unlikely = np.where(roles == "pressed", RING.others_margin, 0.0)
    for _ in range(RING.rounds):
        evidence = np.where(allowed & ~refused & ~taken, fit.evidence()[:, :number] - unlikely, -np.inf)
        rows, best = best_of(evidence)
        if not len(rows):
            break
        keep = known | taken
        keep[rows, best] = True
        trial = fit.without(rows, best, keep)
        better = evidence[rows, best] > trial.threshold()[rows]
        taken[rows[better], best[better]] = True
        refused[rows[~better], best[~better]] = True
        fit.take(trial, rows[better])
    taken &= ~_overtones(taken, suspects)
    heard = np.where(taken, np.maximum(level[:, :number], EVIDENCE.lowest_db - 10.0), -np.inf)
    floor = np.where(allowed | taken, floors_of(fit, found, seen, number), np.nan)
    floor[loud] = np.where(np.isnan(floor[loud]) & (roles[loud] != ""), 0.0, floor[loud])
    return _Told(seen.middle_s, seen.length_s, seen.span, heard, floor, roles, hidden[:, :number], _others(fit))


def _heard_to_stop(fit: Fit, left_s: FloatArray, floor_db: FloatArray) -> NDArray[np.bool_]:
    """Which strings have been heard to be silent since they were left, in RING.least_silent_windows windows in which
    what is there now would have been heard: no string begins again by itself, and it was louder then.

    left_s: when the note began that each suspect was left with, NaN where it was not; shape (n_windows, n_suspects).
    """
    number = fit.suspects
    evidence, level = fit.evidence()[:, :number], fit.level_db[:, :number]
    silent_db = np.where(evidence > fit.threshold()[:, None], np.inf, floor_db)
    heard = ~np.isnan(left_s) & (evidence > EVIDENCE.least_evidence)
    stopped = np.zeros(left_s.shape, bool)
    for place in np.flatnonzero(heard.any(axis=0)):
        for begun_s in np.unique(left_s[heard[:, place], place]):
            rows = np.flatnonzero(left_s[:, place] == begun_s)
            before = np.tri(len(rows), k=-1, dtype=bool)
            lower = silent_db[rows, place][None, :] < level[rows, place][:, None]
            stopped[rows, place] = (before & lower).sum(axis=1) >= RING.least_silent_windows
    return stopped


def _known(fit: Fit, left: NDArray[np.bool_], level_db: FloatArray) -> NDArray[np.bool_]:
    """Strings that still sound what they have just been played; explained first, in place, also where too soft to be
    reported.
    """
    known = np.zeros_like(left)
    for _ in range(2):
        evidence = np.where(left & ~known & (level_db > EVIDENCE.lowest_db), fit.evidence()[:, : fit.suspects], -np.inf)
        rows, best = best_of(evidence)
        if not len(rows):
            break
        known[rows, best] = True
        fit.take(fit.without(rows, best, known), rows)
    return known


def _rings(
    reading: RingReading,
    told: _Told,
    spans: Sequence[Span],
    parts: Sequence[Part],
    suspects: Sequence[Suspect],
) -> tuple[Ringing, ...]:
    """Windows in which a string rings, joined to events."""
    found = [
        ring
        for place in range(len(suspects))
        for own in _runs(reading, place)
        if (ring := _ring(reading, told, spans, parts, suspects, place, own)) is not None
    ]
    return tuple(sorted(found, key=lambda r: r.from_s))


def _edges_s(reading: RingReading) -> tuple[FloatArray, FloatArray]:
    """From when to when each window speaks: its middle half."""
    return reading.middle_s - 0.25 * reading.length_s, reading.middle_s + 0.25 * reading.length_s


def _runs(reading: RingReading, place: int) -> list[NDArray[np.int64]]:
    """Windows in which one string rings, those near each other together."""
    rows = np.flatnonzero(np.isfinite(reading.level_db[:, place]))
    if not len(rows):
        return []
    start, end = _edges_s(reading)
    return np.split(rows, np.flatnonzero(start[rows][1:] - end[rows][:-1] > RING.join_s) + 1)


def _ring(
    reading: RingReading,
    told: _Told,
    spans: Sequence[Span],
    parts: Sequence[Part],
    suspects: Sequence[Suspect],
    place: int,
    own: NDArray[np.int64],
) -> Ringing | None:
    """One string's run of windows as an event; None where it is too short or too soft."""
    start, end = _edges_s(reading)
    from_s, to_s = float(start[own[0]]), float(end[own[-1]])
    # Where it is mostly filled in, its level is a guess: windows in which it is seen tell, if there are any.
    seen = told.hidden[own, place] <= RING.most_filled
    clear = own[seen] if seen.any() else own
    power = 10.0 ** (reading.level_db[clear, place] / 10.0)
    level = float(10.0 * np.log10(np.mean(power)))
    if to_s - from_s < RING.least_event_s or level < EVIDENCE.lowest_db:
        return None
    suspect = suspects[place]
    role: Role = str(told.roles[own[0], place])  # type: ignore[assignment]
    twin = _open_twin(reading, suspect, role, from_s, parts, suspects)
    whose, role = (suspect, role) if twin is None else (twin, "open")
    # How uncertain a mean of powers is: windows in which a string has stopped already say little of how loud it was.
    spread = 10.0 / np.log(10.0) * float(np.std(power) / np.mean(power)) / np.sqrt(len(clear))
    filled = float(np.mean(told.hidden[clear, place]))
    u = 2.0 * float(np.hypot(np.hypot(RING.u_level_db, spread), RING.u_hidden_db * filled))
    rest = float(np.mean([spans[n].rest for n in reading.span[own]]))
    return Ringing(
        whose.string, whose.fret, whose.hz, role, from_s, to_s, level, u, rest, float(reading.length_s[own[-1]]), filled
    )


def _open_twin(
    reading: RingReading,
    suspect: Suspect,
    role: Role,
    from_s: float,
    parts: Sequence[Part],
    suspects: Sequence[Suspect],
) -> Suspect | None:
    """The open string that rings in a fretted note's stead: the note has been silent since."""
    echoes = role == "echo" and bool(reading.echoes)
    if role in {"open", "pressed"} or echoes or (role != "echo" and _goes_on(reading, suspect, from_s, parts)):
        return None
    return next((s for s in suspects if s.fret == 0 and same_pitch(s.hz, suspect.hz)), None)


def _goes_on(reading: RingReading, suspect: Suspect, from_s: float, parts: Sequence[Part]) -> bool:
    """Whether a pitch rings on from when it was meant to sound, not after a silence that was looked at."""
    ends = [
        p.until_s
        for p in parts
        if p.string == suspect.string and p.fret == suspect.fret and p.until_s <= from_s + QUIET.left_s
    ]
    if not ends:
        return False
    between = (reading.middle_s > max(ends)) & (reading.middle_s < from_s)
    return int(between.sum()) < RING.least_silent_windows


def _overtones(taken: NDArray[np.bool_], suspects: Sequence[Suspect]) -> NDArray[np.bool_]:
    """Which suspects, window by window, are but the overtones of a lower one that rings, too."""
    hz = np.array([s.hz for s in suspects])
    ratio = hz[None, :] / hz[:, None]
    whole = np.round(ratio)
    above = (whole >= 2.0) & (np.abs(np.log2(ratio / np.maximum(whole, 1.0))) < RING.tuned_cents * 2.0 / 1200.0)
    return np.asarray(taken & (taken.astype(np.int32) @ above.astype(np.int32) > 0))


def _combs(suspects: Sequence[Suspect]) -> Combs:
    """The suspects, DECOYS decoys a quarter tone off every pitch of the guitar, and the rest of the scale."""
    hz = [s.hz for s in suspects]
    decoys = [min(hz) * 2.0 ** ((i + 0.5) / 12.0) for i in range(EVIDENCE.decoys)]
    stiffness = [COMBS.most_stiffness * 4.0 ** (s.fret / 12.0) for s in suspects] + [
        COMBS.most_stiffness
    ] * EVIDENCE.decoys
    # Pitches of the scale that no string has reason to sound: what other instruments would play.
    others = [min(hz) * 2.0 ** (i / 12.0) for i in range(RING.others)]
    others = [o for o in others if not any(same_pitch(o, h) for h in hz)]
    all_hz = np.array(hz + decoys + others)
    return Combs(
        all_hz, np.full(len(all_hz), RING.tuned_cents), np.array(stiffness + [COMBS.most_stiffness] * len(others))
    )


def _roles(
    seen: Seen, spans: Sequence[Span], suspects: Sequence[Suspect]
) -> tuple[NDArray[np.bool_], NDArray[np.str_], FloatArray]:
    """Which suspects may sound in each window, as what ("" where they may not), and when the note began that a string
    was left with, NaN of all others.
    """
    roles = np.zeros((len(seen.middle_s), len(suspects)), "<U7")
    left_s = np.full(roles.shape, np.nan)
    for number in np.unique(seen.span):
        own = seen.span == number
        begun_s = {p.string: p.from_s for p in spans[number].recent}
        for place, role in roles_in(spans[number], suspects).items():
            roles[own, place] = role
            if role == "last":
                left_s[own, place] = begun_s[suspects[place].string]
    return roles != "", roles, left_s


def _others(fit: Fit) -> NDArray[np.bool_]:
    """Windows in which some other pitch of the scale fits clearly better than what lies between them."""
    others = fit.evidence()[:, fit.suspects + EVIDENCE.decoys :]
    if not others.shape[1]:
        return np.zeros(len(others), bool)
    return np.asarray(others.max(axis=1) > fit.threshold() + RING.others_margin)


def _echo_share(told: _Told, suspects: Sequence[Suspect]) -> float | None:
    """Of the notes whose string has left them and could be heard going on, the share that does: a room, a delay, a
    reverb.

    Pitches an open string has, too, are left out: that may ring along. None where there are too few.
    """
    twin = np.array([s.fret > 0 and any(o.fret == 0 and same_pitch(o.hz, s.hz) for o in suspects) for s in suspects])
    could = (told.roles == "echo") & ~twin[None, :] & (told.floor_db < RING.echo_db)
    chances = {(int(told.span[w]), int(c)) for w, c in zip(*np.nonzero(could), strict=True)}
    if len(chances) < RING.least_echo_chances:
        return None
    rings = could & np.isfinite(told.level_db)
    heard = {(int(told.span[w]), int(c)) for w, c in zip(*np.nonzero(rings), strict=True)}
    return len(heard) / len(chances)

"""Patterns in time, volume and length."""

from __future__ import annotations

from collections.abc import Sequence

from fortimetra.coach.evidence import (
    Judged,
    Pattern,
    ShownBy,
    apart,
    clearly_beyond,
    counted,
    judged,
    key,
    middle,
    one_sided,
    outside,
    signed,
)
from fortimetra.coach.settings import TIME_CAUSES
from fortimetra.model.analysis import NoteFound
from fortimetra.model.drill import SLURRED


def _error(note: NoteFound) -> float | None:
    return None if note.timing is None else note.timing.error_ms


def _level(note: NoteFound) -> float | None:
    return None if note.level is None else note.level.deviation_db


def all_shifted(sign: int) -> Pattern:
    """Every note early or late by about the same."""

    def find(seen: Judged) -> ShownBy | None:
        timing = seen.analysis.summary.timing
        if not seen.asks("timing") or timing is None or timing.bias_ms is None or timing.jitter_ms is None:
            return None
        notes = judged(seen.played, "timing")
        off = one_sided(outside(notes, "timing"), notes, _error, sign)
        even = abs(timing.bias_ms) > TIME_CAUSES.shift_to_spread * timing.jitter_ms
        if not even or not clearly_beyond(sign * timing.bias_ms, timing.u_bias_ms) or len(off) < len(notes) / 2:
            return None
        side = "late" if sign > 0 else "early"
        text = (
            f"The whole take lies {abs(timing.bias_ms):.0f} ms {side} (±{timing.u_bias_ms or 0:.0f}) and "
            f"is even in itself: {timing.jitter_ms:.0f} ms of jitter."
        )
        return ShownBy(tuple(off), len(notes), text)

    return find


def late_after_string_change(seen: Judged) -> ShownBy | None:
    """Notes that follow a change of string come later than others."""
    timing = seen.analysis.summary.timing
    if not seen.asks("timing") or timing is None:
        return None
    if not clearly_beyond(timing.string_change_ms, timing.u_string_change_ms):
        return None
    after = [n for n in judged(seen.played, "timing") if seen.changes_string(n)]
    late = [n for n in outside(after, "timing") if (_error(n) or 0.0) > 0]
    text = (
        f"After a change of string notes come {timing.string_change_ms:.0f} ms (±{timing.u_string_change_ms:.0f}) "
        "later than on one string."
    )
    return ShownBy(tuple(late), len(after), text)


def tempo_creeps(sign: int) -> Pattern:
    """The take drags (sign +1) or rushes (−1) steadily away from the click."""

    def find(seen: Judged) -> ShownBy | None:
        timing = seen.analysis.summary.timing
        if not seen.asks("timing") or timing is None or timing.drift_ms_per_beat is None:
            return None
        creep = timing.drift_ms_per_beat / (1000.0 * seen.drill.seconds_per_beat)
        notes = judged(seen.played, "timing")
        off = [n for n in outside(notes, "timing") if (_error(n) or 0.0) * sign > 0]
        if creep * sign < TIME_CAUSES.creeps_share:
            return None
        word = "slower" if sign > 0 else "faster"
        return ShownBy(
            tuple(off), len(notes), f"The tempo gets away from the click: {100 * abs(creep):.1f} % {word} than asked."
        )

    return find


def bend_breaks_rhythm(seen: Judged) -> ShownBy | None:
    """Bends, and the notes after them, lie further from the click than the rest of the line."""
    if not seen.asks("timing"):
        return None
    notes = judged(seen.played, "timing")
    bent = [n for n in notes if n.bend is not None or ((b := seen.follows.get(key(n))) is not None and b.bend)]
    ids = {key(n) for n in bent}
    plain = [n for n in notes if key(n) not in ids]
    found = apart([abs(_error(n) or 0.0) for n in bent], [abs(_error(n) or 0.0) for n in plain])
    if found is None or not clearly_beyond(*found):
        return None
    off = outside(bent, "timing")
    text = (
        f"Bends and the notes after them lie {found[0]:.0f} ms (±{found[1]:.0f}) further from the click "
        "than the others."
    )
    return ShownBy(tuple(off), len(bent), text)


def inside_groups(sign: int) -> Pattern:
    """Later notes of the groups come early (sign −1: rushed) or late."""

    def find(seen: Judged) -> ShownBy | None:
        timing = seen.analysis.summary.timing
        if not seen.asks("timing") or timing is None or len(timing.groups) < 3:
            return None
        first, later = timing.groups[0], timing.groups[1:]
        lean = [g for g in later if sign * (g.error_ms - first.error_ms) > max(g.u, first.u)]
        notes = judged(seen.played, "timing")
        off = one_sided(outside(notes, "timing"), outside(notes, "timing"), _error, sign)
        if len(lean) * 2 <= len(later) or not off:
            return None
        most = max(lean, key=lambda g: sign * (g.error_ms - first.error_ms))
        word = "early" if sign < 0 else "late"
        text = (
            f"Inside the groups notes lie {word} against the first: note {most.place} by "
            f"{abs(most.error_ms - first.error_ms):.0f} ms."
        )
        return ShownBy(tuple(off), len(notes), text)

    return find


def _last_before(seen: Judged, time_s: float) -> NoteFound | None:
    """The last note that had begun."""
    before = [n for n in seen.played if n.onset_s is not None and n.onset_s <= time_s]
    return max(before, key=lambda n: n.onset_s or 0.0, default=None)


def _of_one_kind(kinds: Sequence[str | None]) -> bool:
    return any(kinds.count(kind) > TIME_CAUSES.one_kind * len(kinds) for kind in set(kinds))


def double_hits(seen: Judged) -> ShownBy | None:
    """Second attacks just after a note."""
    doubles = [e for e in seen.analysis.extras if e.kind == "double_hit" and e.said is None]
    if not doubles:
        return None
    hit = [n for extra in doubles if (n := _last_before(seen, extra.onset_s)) is not None]
    picked = [n for n in seen.played if seen.articulation(n) in ("pick", "strum", "repluck")]
    across = sum(bool(seen.changes_string(n)) for n in hit)
    where = f", {across} of them at a change of string" if across else ""
    return ShownBy(
        tuple({key(n): n for n in hit}.values()),
        len(picked),
        f"{len(doubles)} notes are struck twice{where}.",
    )


def slurs_soft(articulation: str) -> Pattern:
    """Hammer-ons, or pull-offs, softer than the student's own picked notes allow."""

    def find(seen: Judged) -> ShownBy | None:
        if not seen.asks("level"):
            return None
        notes = [n for n in judged(seen.played, "level") if seen.articulation(n) == articulation]
        soft = [n for n in outside(notes, "level") if (_level(n) or 0.0) < 0 or (n.level is not None and n.level.dies)]
        usual = middle(soft, _level)
        if not soft:
            return None
        dying = sum(bool(n.level and n.level.dies) for n in soft)
        against = any(n.level is not None and n.level.against == "picked" for n in soft)
        names = {"hammer": "hammer-ons", "pull": "pull-offs", "tap": "taps"}[articulation]
        text = f"{counted(len(soft), len(notes), names)} are too soft"
        if usual is not None and usual < 0:
            text += f", {-usual:.1f} dB under {'the picked notes' if against else 'their like'} (median)"
        if dying:
            text += f"; {dying} die early"
        return ShownBy(tuple(soft), len(notes), text + ".")

    return find


def slurring_drops(seen: Judged) -> ShownBy | None:
    """The line loses volume as a whole when it is slurred."""
    level = seen.analysis.summary.level
    if not seen.asks("level") or level is None or level.slur_verdict != "outside" or level.slur_deficit_db is None:
        return None
    slurred = [n for n in judged(seen.played, "level") if seen.articulation(n) in SLURRED]
    soft = [n for n in outside(slurred, "level") if (_level(n) or 0.0) < 0]
    if len({seen.articulation(n) for n in slurred}) > 1 and _of_one_kind([seen.articulation(n) for n in soft]):
        return None  # a matter of hammer-ons, or of pull-offs, which have rules of their own
    text = (
        f"Slurred notes are {level.slur_deficit_db:.1f} dB (±{level.u_slur_deficit_db or 0:.1f}) softer "
        "than the same student's picked ones."
    )
    return ShownBy(tuple(soft), len(slurred), text)


def taps_loud(seen: Judged) -> ShownBy | None:
    """Tapped notes louder than fretted ones."""
    level = seen.analysis.summary.level
    taps = [n for n in judged(seen.played, "level") if seen.articulation(n) == "tap"]
    loud = [n for n in outside(taps, "level") if (_level(n) or 0.0) > 0]
    excess = None if level is None else level.tap_excess_db
    if not seen.asks("level") or excess is None or excess <= 0 or not loud:
        return None
    return ShownBy(tuple(loud), len(taps), f"Tapped notes are {excess:.1f} dB louder than the fretted ones.")


def taps_long(seen: Judged) -> ShownBy | None:
    """Tapped notes that take time from the next."""
    taps = [n for n in judged(seen.played, "length") if seen.articulation(n) == "tap"]
    long = [n for n in outside(taps, "length") if n.length is not None and (n.length.length_ratio or 1.0) > 1.0]
    usual = middle(long, lambda n: n.length.length_ratio if n.length else None)
    if not seen.asks("length") or usual is None:
        return None
    return ShownBy(
        tuple(long), len(taps), f"{counted(len(long), len(taps), 'taps')} last {usual:.1f} times as long as asked."
    )


def accents_missing(seen: Judged) -> ShownBy | None:
    """Accents that are asked for and not there."""
    accents = [n for n in judged(seen.played, "level") if n.level is not None and n.level.way == "accented"]
    off = outside(accents, "level")
    usual = middle(off, _level)
    if not seen.asks("level") or usual is None:
        return None
    text = f"{counted(len(off), len(accents), 'accents')} stand only {signed(usual, 1)} dB over their neighbours."
    return ShownBy(tuple(off), len(accents), text)


def accents_creep(seen: Judged) -> ShownBy | None:
    """Notes after a change of string are louder than others, though no accent is asked for there."""
    level = seen.analysis.summary.level
    if not seen.asks("level") or level is None:
        return None
    if not clearly_beyond(level.string_change_db, level.u_string_change_db):
        return None
    after = [n for n in judged(seen.played, "level") if seen.changes_string(n)]
    loud = [n for n in outside(after, "level") if (_level(n) or 0.0) > 0]
    text = (
        f"After a change of string notes are {level.string_change_db:.1f} dB (±{level.u_string_change_db:.1f}) "
        "louder than on one string."
    )
    return ShownBy(tuple(loud), len(after), text)


def sweep_bleeds(seen: Judged) -> ShownBy | None:
    """Notes that ring on under the next where each should stop."""
    notes = judged(seen.played, "length")
    on = [n for n in outside(notes, "length") if "rings_on" in n.reasons]
    usual = middle(on, lambda n: n.length.overlap_ms if n.length else None)
    if not seen.asks("length") or usual is None:
        return None
    return ShownBy(
        tuple(on),
        len(notes),
        f"{counted(len(on), len(notes), 'notes')} ring on {usual:.0f} ms under the next (median).",
    )


def notes_short(seen: Judged) -> ShownBy | None:
    """Notes let go of too early."""
    notes = judged(seen.played, "length")
    short = [n for n in outside(notes, "length") if n.length is not None and (n.length.length_ratio or 1.0) < 1.0]
    usual = middle(short, lambda n: n.length.length_ratio if n.length else None)
    if not seen.asks("length") or usual is None:
        return None
    text = f"{counted(len(short), len(notes), 'notes')} sound for {100 * usual:.0f} % of their length (median)."
    return ShownBy(tuple(short), len(notes), text)


def volume_uneven(seen: Judged) -> ShownBy | None:
    """Picked notes of one string that are not equally loud, to both sides."""
    notes = [n for n in judged(seen.played, "level") if n.level is not None and n.level.way == "picked"]
    off = outside(notes, "level")
    sides = {(_level(n) or 0.0) > 0 for n in off}
    level = seen.analysis.summary.level
    if not seen.asks("level") or len(sides) < 2 or level is None or level.spread_db is None:
        return None
    text = (
        f"{counted(len(off), len(notes), 'picked notes')} are too loud or too soft; they spread by "
        f"{level.spread_db:.1f} dB."
    )
    return ShownBy(tuple(off), len(notes), text)


DIVISIONS = ((3, 4), (4, 3), (2, 3), (3, 2), (1, 2), (2, 1))
NUMBERS = {1: "one", 2: "two", 3: "three", 4: "four", 6: "six"}


def other_division(seen: Judged) -> ShownBy | None:
    """The take goes by another number of notes a click than asked: sixteenths that fall into triplets."""
    timing = seen.analysis.summary.timing
    if not seen.asks("timing") or timing is None or timing.drift_ms_per_beat is None:
        return None
    ratio = 1.0 + timing.drift_ms_per_beat / (1000.0 * seen.drill.seconds_per_beat)
    fits = [(a, b) for a, b in DIVISIONS if abs(ratio * a / b - 1.0) < TIME_CAUSES.other_division_share]
    notes = judged(seen.played, "timing")
    off = outside(notes, "timing")
    if not fits or not off:
        return None
    played, asked = fits[0]
    text = f"The notes come {NUMBERS[played]} to where {NUMBERS[asked]} are asked."
    return ShownBy(tuple(off), len(notes), text)


def eighths_swing(seen: Judged) -> ShownBy | None:
    """Even eighths of which the second comes late, as in a shuffle."""
    timing, tempo = seen.analysis.summary.timing, seen.drill.tempo
    if not seen.asks("timing") or timing is None or timing.swing is None or tempo is None or tempo.swing != 0.5:
        return None
    notes = [n for n in judged(seen.played, "timing") if (e := seen.event(n)) is not None and e.beat % 1.0 == 0.5]
    late = [n for n in outside(notes, "timing") if (_error(n) or 0.0) > 0]
    if timing.swing < TIME_CAUSES.swings_from or not late:
        return None
    text = (
        f"The first of two eighths takes {100 * timing.swing:.0f} % of the beat; "
        f"{counted(len(late), len(notes), 'second ones')} come late."
    )
    return ShownBy(tuple(late), len(notes), text)


def _picked_by_length(seen: Judged) -> dict[float, list[NoteFound]]:
    """Picked notes whose level is judged, by their length in beats."""
    found: dict[float, list[NoteFound]] = {}
    for note in judged(seen.played, "level"):
        event = seen.event(note)
        if event is not None and note.level is not None and note.level.way == "picked":
            found.setdefault(event.length, []).append(note)
    return found


def motion_changes(seen: Judged) -> ShownBy | None:
    """The slow part of a run is struck harder, or softer, than the fast one: another motion."""
    by_length = _picked_by_length(seen) if seen.asks("level") else {}
    if len(by_length) < 2:
        return None
    slow, fast = by_length[max(by_length)], by_length[min(by_length)]
    found = apart([_level(n) or 0.0 for n in slow], [_level(n) or 0.0 for n in fast])
    if found is None or abs(found[0]) - found[1] < TIME_CAUSES.motion_db:
        return None
    off = outside([*slow, *fast], "level")
    word = "louder" if found[0] > 0 else "softer"
    text = f"Slow strokes are {abs(found[0]):.1f} dB (±{found[1]:.1f}) {word} than fast ones."
    return ShownBy(tuple(off), len(slow) + len(fast), text)


def _is_held(note: NoteFound, seen: Judged) -> bool:
    """Whether its fret is held already: the note before it was there."""
    before = seen.follows.get(key(note))
    return before is not None and (before.string, before.fret) == (note.string, note.fret)


def _dying(notes: Sequence[NoteFound]) -> list[NoteFound]:
    return [n for n in notes if n.level is not None and n.level.dies]


def notes_choke(seen: Judged) -> ShownBy | None:
    """Picked notes on a new fret that die at once, more than those on a fret that is held already."""
    notes = [n for n in judged(seen.played, "level") if seen.articulation(n) == "pick" and n.fret]
    new = [n for n in notes if not _is_held(n, seen)]
    dying = _dying(new)
    others = _dying([n for n in notes if _is_held(n, seen)])
    if not seen.asks("level") or not dying or len(others) > len(dying):
        return None
    return ShownBy(
        tuple(dying), len(new), f"{counted(len(dying), len(new), 'picked notes')} die as soon as they sound."
    )

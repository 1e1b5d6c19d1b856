"""Patterns in pitch, bends and vibrato; and what the guitar does rather than the hand."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from statistics import median
from typing import Literal

from fortimetra.coach.evidence import (
    Judged,
    Pattern,
    ShownBy,
    apart,
    clearly_beyond,
    counted,
    judged,
    middle,
    one_sided,
    outside,
    signed,
    sure_slope,
)
from fortimetra.coach.settings import PITCH_CAUSES
from fortimetra.model.analysis import NoteFound

BENT = ("bend", "prebend", "release")


def _cents(value: float) -> str:
    return f"{abs(value):.0f} cents {'flat' if value < 0 else 'sharp'}"


def _plain(seen: Judged) -> list[NoteFound]:
    return [n for n in seen.played if n.pitch is not None and n.pitch.error_cents is not None and n.bend is None]


def string_detuned(seen: Judged) -> ShownBy | None:
    """One string's plain notes, on several frets, all off by about the same: it has left what it was read against."""
    if seen.drill.family in ("bottleneck", "set_up"):
        return None
    by_string: dict[int, list[NoteFound]] = defaultdict(list)
    for note in _plain(seen):
        by_string[note.string or 0].append(note)
    return next((shown for s, notes in by_string.items() if (shown := _off_as_one(s, notes)) is not None), None)


def _off_as_one(string: int, notes: Sequence[NoteFound]) -> ShownBy | None:
    """The plain notes of one string, where all are off to one side by about the same."""
    errors = [e for n in notes if (e := _pitch_error(n)) is not None]
    off = outside(notes, "pitch")
    if len(errors) < PITCH_CAUSES.least_on_string or len({n.fret for n in notes}) < 2 or len(off) < 2:
        return None
    usual = median(errors)
    spread = middle(notes, lambda n: abs((_pitch_error(n) or 0.0) - usual)) or 0.0
    if spread >= PITCH_CAUSES.alike_cents or any((e < 0) != (usual < 0) for e in errors):
        return None
    text = f"The plain notes of string {string} lie {_cents(usual)}, on every fret by about the same (±{spread:.0f})."
    return ShownBy(tuple(off), len(notes), text)


def frets_stretch(seen: Judged) -> ShownBy | None:
    """The error of plain notes grows with the fret by the same sign: the saddle's doing."""
    if seen.drill.family == "bottleneck":
        return None
    notes = [n for n in _plain(seen) if n.fret]
    pairs = [(float(n.fret or 0), _pitch_error(n) or 0.0) for n in notes]
    per_fret = sure_slope(pairs)
    off = outside(notes, "pitch")
    if (
        per_fret is None
        or len(off) < 2
        or abs(per_fret) * PITCH_CAUSES.octave_frets <= seen.limits["plain_pitch_cents"]
    ):
        return None
    return ShownBy(
        tuple(n for n in off if (_pitch_error(n) or 0.0) * per_fret > 0),
        len(notes),
        f"Plain notes go {_cents(per_fret * PITCH_CAUSES.octave_frets)} by the 12th fret, growing fret by fret.",
    )


def bends_choke(seen: Judged) -> ShownBy | None:
    """Bent notes that are cut off on the way, at places where none holds."""
    bends, gone = _choked(seen)
    held = {(n.string, n.fret) for n in bends if n not in gone and judged([n], "bend")}
    choked = [n for n in gone if (n.string, n.fret) not in held]
    if not choked:
        return None
    return ShownBy(tuple(choked), len(bends), f"{counted(len(choked), len(bends), 'bends')} break off while they rise.")


def _pitch_error(note: NoteFound) -> float | None:
    return None if note.pitch is None else note.pitch.error_cents


def _bend_error(note: NoteFound) -> float | None:
    return None if note.bend is None else note.bend.error_cents


def _off_target(note: NoteFound) -> bool:
    bend = note.bend
    return bend is not None and bend.error_cents is not None and bend.u is not None and abs(bend.error_cents) > bend.u


def _bends(seen: Judged, kinds: Sequence[str]) -> list[NoteFound]:
    return [n for n in judged(seen.played, "bend") if n.bend is not None and n.bend.kind in kinds]


def bends_off(sign: int, kinds: Sequence[str] = ("bend",), what: str = "bends") -> Pattern:
    """Bends of these kinds that miss their target on one side (sign −1: flat), where that side is the take's usual
    one.
    """

    def find(seen: Judged) -> ShownBy | None:
        bends = _bends(seen, kinds)
        tolerance = seen.limits["bend_error_cents"]
        off = [
            n
            for n in one_sided(outside(bends, "bend"), bends, _bend_error, sign)
            if _off_target(n) and abs(_bend_error(n) or 0.0) > tolerance
        ]
        if not off:
            return None
        usual = middle(off, _bend_error) or 0.0
        return ShownBy(tuple(off), len(bends), f"{counted(len(off), len(bends), what)} lie {_cents(usual)} (median).")

    return find


def bends_change_along(seen: Judged) -> ShownBy | None:
    """The error of bends grows up the neck, or from string to string."""
    bends = _bends(seen, ("bend",))
    off = [n for n in outside(bends, "bend") if _off_target(n)]
    if len(off) < 2:
        return None
    for unit, name in (("fret", "per fret up the neck"), ("string", "per string")):
        per = sure_slope([(float(getattr(n, unit) or 0), _bend_error(n) or 0.0) for n in bends])
        if per is not None and abs(per) >= 1.0:
            return ShownBy(tuple(off), len(bends), f"The bends change by {signed(per)} cents {name}.")
    return None


def _sinks(note: NoteFound) -> bool:
    """Whether a held bend surely loses its pitch: one that wavers has a slope by chance."""
    bend = note.bend
    if bend is None or bend.hold_drift_cents_per_s is None:
        return False
    return bend.hold_drift_cents_per_s + (bend.u_hold_drift or 0.0) < -PITCH_CAUSES.sinks_cents_per_s


def holds_sink(seen: Judged) -> ShownBy | None:
    """Held bends that lose their pitch while they last."""
    bends = [n for n in _bends(seen, ("bend", "prebend")) if n.vibrato is None]
    sinking = [n for n in outside(bends, "bend") if _sinks(n)]
    drift = middle(sinking, lambda n: n.bend.hold_drift_cents_per_s if n.bend else None)
    if drift is None:
        return None
    return ShownBy(
        tuple(sinking), len(bends), f"{counted(len(sinking), len(bends), 'holds')} sink by {-drift:.0f} cents a second."
    )


def holds_waver(seen: Judged) -> ShownBy | None:
    """Held bends that are not steady though they do not sink."""
    bends = [n for n in _bends(seen, ("bend", "prebend")) if n.vibrato is None]
    limit = seen.limits["hold_sd_cents"]
    wavering = [
        n
        for n in outside(bends, "bend")
        if n.bend is not None and (n.bend.hold_sd_cents or 0.0) > limit and not _sinks(n)
    ]
    sd = middle(wavering, lambda n: n.bend.hold_sd_cents if n.bend else None)
    if sd is None:
        return None
    return ShownBy(
        tuple(wavering), len(bends), f"{counted(len(wavering), len(bends), 'holds')} waver by {sd:.0f} cents (sd)."
    )


def landings_off(seen: Judged) -> ShownBy | None:
    """Released bends that do not come back to the fretted pitch."""
    bends = _bends(seen, ("prebend", "release"))
    limit = seen.limits["bend_error_cents"]
    off = [n for n in outside(bends, "bend") if n.bend is not None and abs(n.bend.landing_error_cents or 0.0) > limit]
    usual = middle(off, lambda n: n.bend.landing_error_cents if n.bend else None)
    if usual is None:
        return None
    return ShownBy(
        tuple(off), len(bends), f"{counted(len(off), len(bends), 'releases')} land {_cents(usual)} (median)."
    )


def unisons(state: Literal["under", "past"]) -> Pattern:
    """Unison bends that stay on one side."""

    def find(seen: Judged) -> ShownBy | None:
        bends = _bends(seen, ("unison",))
        off = [n for n in outside(bends, "bend") if n.bend is not None and n.bend.state == state]
        beat = middle(off, lambda n: n.bend.beat_hz if n.bend else None)
        if beat is None:
            return None
        return ShownBy(
            tuple(off), len(bends), f"{counted(len(off), len(bends), 'unisons')} still beat, {beat:.1f} times a second."
        )

    return find


def returns_off(line: Literal["bottom", "top", "centre"], sign: int) -> Pattern:
    """Vibratos whose return line is missed on one side."""

    def find(seen: Judged) -> ShownBy | None:
        swings = [
            n
            for n in judged(seen.played, "vibrato")
            if (e := seen.event(n)) is not None and e.vibrato is not None and e.vibrato.return_line == line
        ]
        limit = seen.limits["vibrato_return_cents"]
        off = [
            n
            for n in outside(swings, "vibrato")
            if n.vibrato is not None
            and sign * (n.vibrato.return_error_cents or 0.0) - (n.vibrato.u_return or 0.0) > limit
        ]
        usual = middle(off, lambda n: n.vibrato.return_error_cents if n.vibrato else None)
        if usual is None:
            return None
        return ShownBy(
            tuple(off), len(swings), f"{counted(len(off), len(swings), 'vibratos')} come back {_cents(usual)} (median)."
        )

    return find


def swings_uneven(value: Literal["extent_cv", "rate_cv"], what: str, *, bent: bool | None = None) -> Pattern:
    """Vibratos uneven in width, or in time; bent: only those on bends, or only those on fretted notes."""

    def find(seen: Judged) -> ShownBy | None:
        swings = [n for n in judged(seen.played, "vibrato") if bent is None or (n.bend is not None) == bent]
        limit = seen.limits[f"vibrato_{value}"]
        off = [
            n
            for n in outside(swings, "vibrato")
            if n.vibrato is not None
            and (getattr(n.vibrato, value) or 0.0) - (getattr(n.vibrato, f"u_{value}") or 0.0) > limit
        ]
        usual = middle(off, lambda n: getattr(n.vibrato, value))
        if usual is None:
            return None
        text = (
            f"{counted(len(off), len(swings), 'vibratos')} change their {what} by {100 * usual:.0f} % from "
            "cycle to cycle."
        )
        return ShownBy(tuple(off), len(swings), text)

    return find


def swings_fade(seen: Judged) -> ShownBy | None:
    """Vibratos on bends that die away faster than the string does when it is left alone."""
    swings = [n for n in judged(seen.played, "vibrato") if n.bend is not None]
    off = [
        n for n in swings if n.vibrato is not None and (n.vibrato.fade_db_per_s or 0.0) < -PITCH_CAUSES.fades_db_per_s
    ]
    usual = middle(off, lambda n: n.vibrato.fade_db_per_s if n.vibrato else None)
    if usual is None:
        return None
    return ShownBy(
        tuple(off),
        len(swings),
        f"{counted(len(off), len(swings), 'vibratos')} fade {-usual:.0f} dB a second faster than a still note.",
    )


def slide_off(sign: int) -> Pattern:
    """Notes under a slide, all off by the same side."""

    def find(seen: Judged) -> ShownBy | None:
        if seen.drill.family != "bottleneck":
            return None
        notes = judged(_plain(seen), "pitch")
        off = one_sided(outside(notes, "pitch"), notes, _pitch_error, sign)
        usual = middle(off, _pitch_error)
        if usual is None:
            return None
        return ShownBy(
            tuple(off), len(notes), f"{counted(len(off), len(notes), 'notes')} lie {_cents(usual)} (median)."
        )

    return find


def _sharper_than_open(notes: Sequence[NoteFound]) -> bool:
    """Whether fretted notes are surely sharper than the open ones among them, and there are enough of these."""
    errors = [(bool(n.fret), e) for n in notes if (e := _pitch_error(n)) is not None]
    opened = [e for fretted, e in errors if not fretted]
    found = apart([e for fretted, e in errors if fretted], opened)
    return len(opened) >= PITCH_CAUSES.least_open and found is not None and clearly_beyond(*found)


def presses_hard(seen: Judged) -> ShownBy | None:
    """Fretted notes sharp on several strings while the open ones, or a set-up take, say that the guitar is in tune."""
    if seen.drill.family in ("bottleneck", "set_up") or not seen.asks("pitch"):
        return None
    notes = judged(_plain(seen), "pitch")
    fretted = [n for n in notes if n.fret]
    off = one_sided(outside(fretted, "pitch"), fretted, _pitch_error, 1)
    usual = middle(fretted, _pitch_error)
    if usual is None or len({n.string for n in off}) < 2 or seen.analysis.reference.offset_source == "none":
        return None
    if seen.analysis.reference.offset_source != "setup" and not _sharper_than_open(notes):
        return None
    return ShownBy(
        tuple(off),
        len(fretted),
        f"{counted(len(off), len(fretted), 'fretted notes')} are sharp, {_cents(usual)} (median).",
    )


def _choked(seen: Judged) -> tuple[list[NoteFound], list[NoteFound]]:
    """Bends that could break off, and those that did."""
    bends = [n for n in seen.played if n.bend is not None and n.bend.kind != "curl"]
    return bends, [n for n in bends if n.bend is not None and n.bend.choked]


def bends_die(seen: Judged) -> ShownBy | None:
    """Bends that break off at places where others of the same string and fret do not: the finger eases off, the guitar
    would choke every time.
    """
    bends, gone = _choked(seen)
    held = {(n.string, n.fret) for n in bends if n not in gone and judged([n], "bend")}
    some = [n for n in gone if (n.string, n.fret) in held]
    if not some:
        return None
    text = f"{counted(len(some), len(bends), 'bends')} die on the way where others of the same fret hold."
    return ShownBy(tuple(some), len(bends), text)


def bends_slip(seen: Judged) -> ShownBy | None:
    """Bends that break off on the edge strings alone, while those of inner strings hold."""
    bends, gone = _choked(seen)
    edges = {1, len(seen.drill.tuning)}
    inner = [n for n in bends if n.string not in edges]
    if not gone or not inner or any(n.string not in edges for n in gone):
        return None
    text = f"{counted(len(gone), len(bends), 'bends')} break off, all of them on an outer string."
    return ShownBy(tuple(gone), len([n for n in bends if n.string in edges]), text)


def vibratos_wide(sign: int, *, bent: bool) -> Pattern:
    """Vibratos wider (sign +1) or narrower than asked: on bends the dips are too deep, or too small."""

    def find(seen: Judged) -> ShownBy | None:
        swings = [n for n in judged(seen.played, "vibrato") if (n.bend is not None) == bent]
        off = [n for n in outside(swings, "vibrato") if sign * (_extent_off(seen, n) or 0.0) > 0]
        usual = middle(off, lambda n: n.vibrato.extent_cents if n.vibrato else None)
        if usual is None:
            return None
        strings = {n.string for n in off}
        alone = len(strings) == 1 and len({n.string for n in swings}) > 1
        where = f", all on string {next(iter(strings))}" if alone else ""
        text = f"{counted(len(off), len(swings), 'vibratos')} are {usual:.0f} cents wide (median){where}."
        return ShownBy(tuple(off), len(swings), text)

    return find


def _extent_off(seen: Judged, note: NoteFound) -> float | None:
    """By how much a vibrato is surely wider or narrower than asked, cents; None where it is neither."""
    event = seen.event(note)
    if event is None or event.vibrato is None or event.vibrato.extent_cents is None or note.vibrato is None:
        return None
    extent, u = note.vibrato.extent_cents, note.vibrato.u_extent or 0.0
    wider = note.vibrato.u_wider or u
    low, high = event.vibrato.extent_cents
    if extent is None:
        return None
    return extent - high if extent - u > high else extent - low if extent + wider < low else None

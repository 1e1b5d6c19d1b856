"""What a set-up take says: every string, the rig, and whether takes made now can be judged."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from fortimetra.align.set_up import SetupMatch
from fortimetra.judge.note import missed_note, plain_note
from fortimetra.judge.settings import SETUP_JUDGED
from fortimetra.judge.verdict import verdict
from fortimetra.measure.set_up import StringSetup
from fortimetra.measure.settings import SETUP
from fortimetra.measure.statistics import PitchReading
from fortimetra.model.analysis import (
    Analysis,
    NoteFound,
    PitchFound,
    Rig,
    RigSign,
    SetupFound,
    SetupString,
)
from fortimetra.model.context import Setup
from fortimetra.model.drill import Drill
from fortimetra.sound.decode import Take
from fortimetra.sound.levels import Levels
from fortimetra.sound.rig import Sign, dc_fraction, find_automatic_gain, find_noise_gate, level_change_db
from fortimetra.sound.samples import Samples
from fortimetra.units import FloatArray, midi_to_name, rounded


def judge_rig(take: Take, mono: Samples, levels: Levels, note_dbfs: float | None, onsets_s: FloatArray) -> Rig:
    """The recording chain. mono: shape (n_samples,); note_dbfs: level of a plain note; onsets_s: shape (n_onsets,)."""

    def sign(found: Sign) -> RigSign:
        return RigSign(found=found.found, value_db=found.value_db, reason=found.reason)

    return Rig(
        signal_to_noise_db=None if note_dbfs is None else round(note_dbfs - levels.noise_floor_dbfs, 1),
        dc_fraction=round(dc_fraction(take.samples), 5),
        level_change_db=level_change_db(levels.peak_dbfs, levels.clipped_fraction),
        automatic_gain=sign(find_automatic_gain(mono, rate_hz=take.sample_rate_hz, onsets_s=onsets_s)),
        noise_gate=sign(find_noise_gate(take, mono, onsets_s=onsets_s)),
    )


def judge_set_up(
    matched: SetupMatch,
    strings: Sequence[StringSetup],
    common_cents: float,
    *,
    drill: Drill,
    rig: Rig,
    levels: Levels,
) -> SetupFound:
    """Everything a set-up take says; its advice is coach.set_up's."""
    found = tuple(_string(s, drill) for s in strings)
    return SetupFound(
        strings=found,
        common_offset_cents=round(common_cents, 1) if common_cents else None,
        order="as_asked" if matched.in_order else "other",
        heard_order=_heard_order(matched),
        rig=rig,
        advice=(),
        usable=_usable(found, common_cents, levels, rig),
    )


def _heard_order(matched: SetupMatch) -> tuple[str, ...]:
    heard = [
        (note.onset_s, event.notes[0].event.id)
        for event, note in zip(matched.match.events, matched.match.heard, strict=True)
        if note is not None
    ]
    return tuple(name for _, name in sorted(heard))


def _string(found: StringSetup, drill: Drill) -> SetupString:
    def hz(reading: PitchReading | None) -> float | None:
        return None if reading is None else round(reading.hz, 3)

    def cents(value: float | None) -> float | None:
        return rounded(value, 2)

    reasons = []
    other_fret = found.twelfth_error_cents is not None and abs(found.twelfth_error_cents) > SETUP.other_pitch_cents
    if found.open is None:
        reasons.append("open_not_heard")
    if found.twelfth is None:
        reasons.append("twelfth_not_heard")
    if other_fret:
        reasons.append("twelfth_other_fret")
    if found.other_pitch:
        reasons.append("string_other_pitch")
    return SetupString(
        string=found.string,
        name=midi_to_name(drill.open_midi(found.string)),
        status="missing" if found.open is None else "other_pitch" if found.other_pitch else "read",
        open_hz=hz(found.open),
        offset_cents=cents(found.offset_cents),
        u_offset=cents(found.u_offset_cents),
        twelfth_hz=hz(found.twelfth),
        twelfth_error_cents=None if other_fret else cents(found.twelfth_error_cents),
        u_twelfth=None if other_fret else cents(found.u_twelfth_cents),
        reasons=tuple(reasons),
    )


def _usable(strings: Sequence[SetupString], common_cents: float, levels: Levels, rig: Rig) -> str:
    noise = rig.signal_to_noise_db
    read = sum(s.status == "read" for s in strings)
    if (
        rig.automatic_gain.found
        or levels.clipped_fraction > SETUP_JUDGED.clipped_heavily_fraction
        or (noise is not None and noise < SETUP_JUDGED.useless_signal_to_noise_db)
        or read < len(strings) / 2
    ):
        return "no"
    careful = (
        read < len(strings)
        or common_cents
        or rig.noise_gate.found
        or levels.clipped_fraction > SETUP_JUDGED.clipped_fraction
        or (noise is not None and noise < SETUP_JUDGED.poor_signal_to_noise_db)
    )
    return "with_care" if careful else "yes"


# -- notes, and the set-up later takes are read against ----------------------------------------------------


def set_up_notes(
    matched: SetupMatch, readings: Sequence[PitchReading | None], strings: Sequence[StringSetup], drill: Drill
) -> list[NoteFound]:
    """One entry per asked note: open strings against their tuned pitch, 12th frets against their own open string."""
    tolerance = drill.limits()["plain_pitch_cents"]
    notes = []
    for event, heard, reading in zip(matched.match.events, matched.match.heard, readings, strict=True):
        asked = event.notes[0]
        if heard is None:
            notes.append(missed_note(asked))
            continue
        own = strings[asked.note.string - 1]
        is_open = asked.note.fret == 0
        error = own.offset_cents if is_open else own.twelfth_error_cents
        u = own.u_offset_cents if is_open else own.u_twelfth_cents
        wrong = own.other_pitch if is_open else error is not None and abs(error) > SETUP.other_pitch_cents
        judged = None if wrong else verdict(error, u, tolerance if is_open else SETUP_JUDGED.saddle_cents)
        pitch = PitchFound(
            median_hz=None if reading is None else round(reading.hz, 3),
            error_cents=rounded(error, 2),
            u=rounded(u, 2),
            verdict=judged,
        )
        notes.append(plain_note(asked, heard, pitch, wrong=wrong))
    return notes


def setup_of(analysis: Analysis, *, drill: Drill) -> Setup | None:
    """What later takes on this guitar are read against; None for a take that is no set-up take.

    A string that is tuned to something else, or was not heard, has no offset.
    """
    found = analysis.setup
    if found is None:
        return None
    hum = analysis.take.hum
    return Setup(
        format="fortimetra-setup",
        version=1,
        a4_hz=drill.a4_hz,
        string_offset_cents=tuple(s.offset_cents if s.status == "read" else None for s in found.strings),
        twelfth_fret_error_cents=tuple(s.twelfth_error_cents for s in found.strings),
        noise_floor_dbfs=analysis.take.noise_floor_dbfs,
        hum_hz=None if hum is None else hum.hz,
        tuning=tuple(drill.open_midi(s.string) for s in found.strings),
    )


def plain_level_dbfs(matched: SetupMatch) -> float | None:
    """Median level of the notes that were paired."""
    levels = [n.level_dbfs for n in matched.match.heard if n is not None]
    return float(np.median(levels)) if levels else None

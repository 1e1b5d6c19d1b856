"""A take of a drill: align it, measure it, judge it, conclude."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from fortimetra.align.click import FoundClick
from fortimetra.align.extras import NamedExtra, name_extras
from fortimetra.align.listen import at_pace, listen
from fortimetra.align.match import Match
from fortimetra.coach.conclude import concluded
from fortimetra.errors import TakeError
from fortimetra.hear.contour import Contour
from fortimetra.hear.inharmonicity import without_stiffness
from fortimetra.hear.recording import Recording
from fortimetra.judge.note import as_asked, judge_notes
from fortimetra.judge.other_sounds import disturbed
from fortimetra.judge.quiet import judge_quiet
from fortimetra.judge.slides import judge_slides
from fortimetra.judge.summary import member_counts, summarise
from fortimetra.judge.time_and_touch import TimeAndTouch, into_next, judge_time_and_touch
from fortimetra.measure.alignment import Alignment, aligned
from fortimetra.measure.chord import chords_offset_cents
from fortimetra.measure.length import note_lengths, summarise_lengths
from fortimetra.measure.level import note_levels
from fortimetra.measure.level_in_room import in_a_room
from fortimetra.measure.level_summary import summarise_levels
from fortimetra.measure.own_falls import own_falls
from fortimetra.measure.pitch import known_hz
from fortimetra.measure.quiet import Quiet, measure_quiet
from fortimetra.measure.settings import TIMING
from fortimetra.measure.slide import SlideMeasured, arrivals_of, measure_slides
from fortimetra.measure.timing import fastest_even_run_nps, note_timings, slurs_in_a_room, summarise_timing
from fortimetra.measure.together import together_ms
from fortimetra.model.analysis import Analysis, AttemptFound, AttemptNote, Extra, Reference
from fortimetra.model.context import Click, Setup
from fortimetra.model.drill import Drill
from fortimetra.model.summary import LengthSummary, LevelSummary, TimingSummary
from fortimetra.model.word import Pin
from fortimetra.pipeline.about import analysis_of, drowned
from fortimetra.pipeline.prepare import Progress
from fortimetra.units import rounded

CLICK_IS_WITHIN_S = 0.02


def judge_drill(
    recording: Recording,
    drill: Drill,
    *,
    click: Click | None,
    heard_click: FoundClick | None,
    setup: Setup | None,
    pins: Sequence[Pin],
    tell: Progress,
) -> tuple[Analysis, Contour]:
    """Every asked note with its values and verdicts, what else sounded, and causes.

    Raises TakeError: no_notes, wrong_drill, hum_too_loud.
    """
    tell("align", 0.70)
    match = _matched(recording, drill, pins, first_beat_s=click.heard_s if click else None)
    recording = replace(recording, contour=without_stiffness(recording.contour, match.notes))
    drill = at_pace(drill, match.pace)
    if click is not None and match.pace != 1.0:
        click = click.model_copy(update={"bpm": click.bpm / match.pace})

    tell("measure", 0.80)
    alignment = aligned(recording.contour, match, drill, click=click, heard_click=heard_click, setup=setup)
    quiet = measure_quiet(recording, alignment)
    off_cents = chords_offset_cents(quiet.chords, drill) if alignment.offsets.source == "none" else 0.0
    if off_cents:
        match = replace(match, offset_cents=off_cents)
        alignment = aligned(recording.contour, match, drill, click=click, heard_click=heard_click, setup=setup)
        quiet = measure_quiet(recording, alignment)
    slides = _slid(recording, alignment) if _slides(drill) else {}
    rhythm = _rhythm(recording, alignment, slides, quiet)

    tell("judge", 0.90)
    notes, contour = judge_notes(recording, alignment, known_hz=known_hz(setup, drill), chords=quiet.chords)
    notes = judge_time_and_touch(notes, match, rhythm.touch, alignment.played)
    notes = judge_slides(notes, match, slides, alignment.played)
    named = _not_asked(alignment, quiet, heard_click)
    thuds = [e.note for e in named if e.kind == "extra" and np.isnan(e.note.plain_midi)]
    goes_on = into_next(match, rhythm.touch, drill.limits())
    judged = judge_quiet(notes, match, quiet, drill, recording.levels, thuds, goes_on)
    extras = _extras(match, [e for e in named if e.note not in thuds])
    summary = summarise(
        judged.notes, measures=drill.measures, extra=len(extras), timing=rhythm.timing, level=rhythm.level,
        length=rhythm.length, noise=judged.summary, fastest_even_run_nps=rhythm.fastest_nps,
    )  # fmt: skip
    analysis = analysis_of(
        recording,
        reference=_reference(alignment),
        notes=[as_asked(n, drill.measures) for n in judged.notes],
        summary=summary.model_copy(update={"members": member_counts(drill, judged.notes)}),
        warnings=_warnings(alignment, setup) + rhythm.warnings + judged.warnings,
        extras=extras,
        attempts=_attempts(match, drill),
        noise_events=judged.events,
    )
    return concluded(analysis, drill), contour


def _matched(recording: Recording, drill: Drill, pins: Sequence[Pin], *, first_beat_s: float | None) -> Match:
    try:
        return listen(
            recording.mono, recording.contour, recording.onsets, drill,
            rate_hz=recording.rate_hz, pins=pins, first_beat_s=first_beat_s,
        )  # fmt: skip
    except TakeError as error:
        raise (drowned(recording.levels) if error.code == "no_notes" else None) or error from None


def _slides(drill: Drill) -> bool:
    return any(e.slide for e in drill.events)


def _reference(alignment: Alignment) -> Reference:
    offsets = alignment.offsets
    return Reference(
        a4_hz=alignment.drill.a4_hz,
        string_offset_cents=tuple(rounded(o, 2) for o in offsets.cents),
        grid=alignment.grid,
        offset_source=offsets.source,
    )


def _warnings(alignment: Alignment, setup: Setup | None) -> tuple[str, ...]:
    known = setup is not None and setup.has_offsets  # a set-up take says how the guitar is tuned
    checks = {
        "detuned": bool(alignment.match.offset_cents) and not known,
        "tuning_changed": bool(alignment.offsets.changed),
        "pitch_wavers": alignment.pitch_wavers,
    }
    return tuple(code for code, true in checks.items() if true)


@dataclass(frozen=True)
class _Rhythm:
    """What a take says of time, volume and length."""

    touch: TimeAndTouch
    timing: TimingSummary | None
    level: LevelSummary | None
    length: LengthSummary | None
    fastest_nps: float | None
    warnings: tuple[str, ...]


def _slid(recording: Recording, alignment: Alignment) -> dict[int, SlideMeasured]:
    return measure_slides(
        recording.mono, recording.contour, alignment.match, alignment.played, alignment.offsets,
        rate_hz=recording.rate_hz,
    )  # fmt: skip


def _rhythm(recording: Recording, alignment: Alignment, slides: dict[int, SlideMeasured], quiet: Quiet) -> _Rhythm:
    mono, rate_hz = recording.mono, recording.rate_hz
    drill, match, grid = alignment.drill, alignment.match, alignment.grid
    timings = note_timings(match, alignment.due, grid, arrivals_of(match, slides, drill.seconds_per_beat))
    lengths = note_lengths(mono, match, alignment.played, rate_hz=rate_hz)
    levels = note_levels(mono, match, rate_hz=rate_hz, overlaps_s=[None if n is None else n.most_s for n in lengths])
    if quiet.in_a_room:
        levels, timings = in_a_room(levels, match, quiet.fall_ms), slurs_in_a_room(timings, match)
    deviations_db = [None if n is None else n.deviation_db for n in levels]
    together = together_ms(mono, match, rate_hz=rate_hz)
    return _Rhythm(
        TimeAndTouch(
            timings,
            levels,
            lengths,
            alignment.due.elsewhere,
            disturbed(match, [e.notes[0].event.length * alignment.spb for e in match.events]),
            quiet.stopped_ms,
            quiet.in_a_room,
            own_falls(mono, match, rate_hz=rate_hz) if any(n is not None and n.over_next for n in lengths) else None,
        ),
        summarise_timing(match, timings, drill, grid, deviations_db, together),
        summarise_levels(match, levels, drill),
        summarise_lengths(match, lengths),
        fastest_even_run_nps(match, drill, tolerance_ms=drill.tolerances.onset_ms) if drill.tempo else None,
        _of_time(alignment),
    )


def _of_time(alignment: Alignment) -> tuple[str, ...]:
    """Warnings about tempo, beats and the recorder's delay."""
    grid, tempo = alignment.grid, alignment.drill.tempo
    other = (
        tempo is not None
        and grid.source == "fitted"
        and grid.bpm is not None
        and abs(grid.bpm / tempo.bpm - 1.0) > TIMING.other_tempo
    )
    warnings = {
        "lost_beat": alignment.due.jumps,
        "other_tempo": other or alignment.match.pace != 1.0,
        "latency_unknown": grid.source == "recorder" and grid.u_ms is None,
    }
    return tuple(code for code, true in warnings.items() if true)


def _not_asked(alignment: Alignment, quiet: Quiet, heard_click: FoundClick | None) -> list[NamedExtra]:
    """What was played and not asked for: neither the click nor a scrape."""
    named = name_extras(alignment.match, alignment.drill)
    return [e for e in named if not _is_click(e.note.onset_s, heard_click) and not quiet.is_scrape(e.note)]


def _is_click(onset_s: float, click: FoundClick | None) -> bool:
    """What was heard beside the drill where a click stands is the click."""
    return (
        click is not None
        and click.source == "audible"
        and bool(np.min(np.abs(click.times_s - onset_s)) < CLICK_IS_WITHIN_S)
    )


def _attempts(matched: Match, drill: Drill) -> tuple[AttemptFound, ...]:
    """What was broken off and begun again, in words of the drill."""
    found = []
    for attempt in matched.attempts:
        first, last = (matched.events[i].notes[0] for i in (attempt.events[0], attempt.events[-1]))
        found.append(
            AttemptFound(
                repeat=first.repeat,
                from_id=first.event.id,
                to_id=last.event.id,
                place=drill.place(first.event),
                notes=len(attempt.notes),
                from_s=round(attempt.notes[0].onset_s, 4),
                to_s=round(attempt.notes[-1].end_s, 4),
                heard=tuple(
                    AttemptNote(id=asked.event.id, repeat=asked.repeat, at_s=round(note.onset_s, 4))
                    for asked, note in zip(
                        (matched.events[i].notes[0] for i in attempt.events), attempt.notes, strict=True
                    )
                ),
            )
        )
    return tuple(found)


def _extras(matched: Match, named: Sequence[NamedExtra]) -> tuple[Extra, ...]:
    usual = float(np.median([n.level_dbfs for n in matched.heard if n is not None])) if matched.notes else 0.0
    return tuple(
        Extra(
            onset_s=round(extra.note.onset_s, 4),
            kind=extra.kind,
            near=matched.events[extra.near].notes[0].event.id,
            midi=None if np.isnan(extra.note.plain_midi) else round(extra.note.plain_midi, 2),
            level_db=round(extra.note.level_dbfs - usual, 1),
        )
        for extra in named
    )

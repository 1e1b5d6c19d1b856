"""The pipeline: sound → hear → align → measure → judge. Reads top to bottom.

`analyse` is a pure function of its arguments: the same take, drill, click and set-up give the same analysis.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from fortimetra.align.click import FoundClick, audible_click, click_in_channel
from fortimetra.align.extras import NamedExtra, name_extras
from fortimetra.align.grid import NO_GRID, DueTimes, due_times, find_grid
from fortimetra.align.listen import listen
from fortimetra.align.match import Match, no_notes
from fortimetra.align.set_up import SetupMatch, match_set_up
from fortimetra.align.unclick import without_click
from fortimetra.coach.conclude import concluded
from fortimetra.coach.set_up import advise_set_up
from fortimetra.errors import TakeError
from fortimetra.hear.contour import FULL_RANGE_HZ, Contour, track
from fortimetra.hear.notes import HeardNote, segment, without_stiffness
from fortimetra.hear.onsets import Candidates, find_candidates
from fortimetra.judge.note import judge_heard, judge_notes
from fortimetra.judge.quiet import QuietJudged, judge_quiet
from fortimetra.judge.set_up import judge_rig, judge_set_up, plain_level_dbfs, set_up_notes
from fortimetra.judge.slides import judge_slides
from fortimetra.judge.summary import member_counts, summarise
from fortimetra.judge.time_and_touch import TimeAndTouch, judge_time_and_touch
from fortimetra.measure.length import note_lengths, summarise_lengths
from fortimetra.measure.level import note_levels, summarise_levels
from fortimetra.measure.pitch import known_hz, plain_readings, string_offsets
from fortimetra.measure.quiet import measure_quiet
from fortimetra.measure.set_up import measure_set_up
from fortimetra.measure.slide import SlideMeasured, arrivals_of, measure_slides, unslid
from fortimetra.measure.timing import OTHER_TEMPO, fastest_even_run_nps, note_timings, summarise_timing
from fortimetra.measure.together import together_ms
from fortimetra.measure.wander import pitch_wavers
from fortimetra.model.analysis import (
    Analysis,
    AttemptFound,
    Extra,
    Grid,
    Harmonic,
    Hum,
    Reference,
    SetupFound,
    TakeInfo,
)
from fortimetra.model.context import Click, Setup
from fortimetra.model.drill import Drill
from fortimetra.model.guitar import Guitar
from fortimetra.model.summary import LengthSummary, LevelSummary, TimingSummary
from fortimetra.model.word import Pin
from fortimetra.sound.decode import Samples, Take, load_take
from fortimetra.sound.levels import Levels, measure_levels
from fortimetra.units import A4_HZ, midi_to_hz
from fortimetra.version import __version__

Progress = Callable[[str, float], None]
HUM_DROWNS_DB = 30.0
CLICK_IS_WITHIN_S = 0.02
STAGES = ("decode", "levels", "onsets", "contour", "align", "measure", "judge")


@dataclass(frozen=True)
class Measured:
    """An analysis with the curves it was read from (contour.csv, the sheet's strips); drill: as played on the guitar."""

    analysis: Analysis
    contour: Contour
    take: Take
    drill: Drill | None = None


def analyse(
    take: str | Path | Take,
    *,
    drill: Drill | None = None,
    click: Click | None = None,
    setup: Setup | None = None,
    guitar: Guitar | None = None,
    pins: Sequence[Pin] = (),
    progress: Progress | None = None,
) -> Analysis:
    """Measure a take; with a drill, judge it.

    take: a path, or a take already loaded. guitar: the drill's frets are played on this one's tuning.
    pins: what a listener said is what. progress: called with a stage of STAGES and the fraction done, 0 to 1.
    Raises TakeError where the recording cannot be used.
    """
    return measure_take(
        take, drill=drill, click=click, setup=setup, guitar=guitar, pins=pins, progress=progress
    ).analysis


def measure_take(
    take: str | Path | Take,
    *,
    drill: Drill | None = None,
    click: Click | None = None,
    setup: Setup | None = None,
    guitar: Guitar | None = None,
    pins: Sequence[Pin] = (),
    progress: Progress | None = None,
) -> Measured:
    """As `analyse`, with the contour and the decoded take."""
    tell = progress or (lambda stage, fraction: None)

    tell("decode", 0.0)
    loaded = take if isinstance(take, Take) else load_take(take)
    drill = drill.on(guitar) if drill and guitar else drill
    if drill and click and click.source != "none":
        drill = drill.at(click.bpm)  # a step of the ladder: what was clicked is what was asked
    rate = loaded.sample_rate_hz
    clicked = _seconds_per_beat(drill) if click is None else None
    found_click = click_in_channel(loaded.samples, rate_hz=rate, seconds_per_beat=clicked) if clicked else None
    mono = loaded.guitar(click_channel=click.channel if click else found_click.channel if found_click else None)

    tell("levels", 0.15)
    levels = measure_levels(loaded, mono)

    tell("onsets", 0.25)
    candidates = find_candidates(mono, rate_hz=rate)
    onsets_s = candidates.strong_s
    if clicked and found_click is None:
        found_click = audible_click(mono, onsets_s, rate_hz=rate, seconds_per_beat=clicked)
        if found_click is not None:
            mono = without_click(mono, found_click, rate_hz=rate)
            candidates = find_candidates(mono, rate_hz=rate)
            onsets_s = candidates.strong_s
    tell("contour", 0.40)
    contour = track(mono, rate_hz=rate, range_hz=_range_hz(drill), onsets_s=onsets_s)
    matched: Match | None = None
    if drill is None or drill.family == "set_up":
        heard = segment(contour, onsets_s)
    else:
        tell("align", 0.70)
        first_s = click.heard_s if click else None
        matched = _listened(mono, contour, candidates, drill, levels, rate_hz=rate, pins=pins, first_beat_s=first_s)
        heard = matched.notes
    contour = without_stiffness(contour, heard)
    if not heard:
        raise _drowned(levels) or no_notes()
    warnings = _warnings(loaded, levels)
    extras: tuple[Extra, ...] = ()
    reasons: tuple[str, ...] = ()
    measures: tuple[str, ...]
    found: SetupFound | None = None
    rhythm: _Rhythm | None = None
    judged: QuietJudged | None = None

    if drill is None:
        notes, reference = judge_heard(contour, heard), _no_reference()
        reasons, measures = ("no_drill",), ("pitch",)
    elif drill.family == "set_up":
        tell("align", 0.75)
        strings_heard = _set_up_strings(heard, drill, levels)
        tell("measure", 0.80)
        readings = plain_readings(contour, strings_heard.match)
        strings, common_cents = measure_set_up(strings_heard.match, readings, drill)
        tell("judge", 0.90)
        rig = judge_rig(loaded, mono, levels, plain_level_dbfs(strings_heard), onsets_s)
        found = judge_set_up(strings_heard, strings, common_cents, drill=drill, rig=rig, levels=levels)
        advice = advise_set_up(found, levels=levels, drill=drill, guitar=guitar)
        found = found.model_copy(update={"advice": advice})
        notes = set_up_notes(strings_heard, readings, strings, drill)
        reference = Reference(
            a4_hz=drill.a4_hz, string_offset_cents=tuple(s.offset_cents for s in found.strings), grid=NO_GRID
        )
        warnings += ("detuned",) if common_cents else ()
        measures = drill.measures
    elif matched is not None:
        tell("measure", 0.80)
        readings = plain_readings(contour, matched, seconds_per_beat=drill.seconds_per_beat)
        offsets = string_offsets(drill, matched, readings, setup)
        tell("judge", 0.90)
        still = unslid(matched)
        plain = [
            n for n, r, s in zip(matched.heard, readings, still, strict=True) if s and n is not None and r is not None
        ]
        wavers = pitch_wavers(contour, plain) and not any(e.vibrato for e in drill.events if e.bend is None)
        grid = find_grid(matched, drill, click, found_click)
        played = drill.at(grid.bpm)
        due = due_times(matched, drill, grid)
        quiet = measure_quiet(
            mono, contour, matched, played, offsets, due.time_s, rate_hz=rate, grid_u_ms=grid.u_ms if grid.bpm else None
        )
        notes = judge_notes(
            contour,
            matched,
            readings,
            drill,
            offsets,
            mono=mono,
            rate_hz=rate,
            known_hz=known_hz(setup, drill),
            chord_notes={(n.part.event, n.part.string): n for chord in quiet.chords for n in chord},
            wavers=wavers,
            seconds_per_beat=played.seconds_per_beat,
        )
        slides = measure_slides(contour, matched, played, offsets) if any(e.slide for e in drill.events) else {}
        rhythm = _rhythm(matched, drill, grid, due, mono, slides, rate_hz=rate)
        notes = judge_time_and_touch(notes, matched, rhythm.touch, played)
        notes = judge_slides(notes, matched, slides, played)
        named = [
            e
            for e in name_extras(matched, drill)
            if not _is_click(e.note.onset_s, found_click) and not quiet.is_scrape(e.note)
        ]
        thuds = [e.note for e in named if e.kind == "extra" and np.isnan(e.note.plain_midi)]
        judged = judge_quiet(notes, matched, quiet, drill, levels, thuds)
        notes = judged.notes
        extras = _extras(matched, [e for e in named if e.note not in thuds])
        reference = Reference(
            a4_hz=drill.a4_hz,
            string_offset_cents=tuple(None if o is None else round(o, 2) for o in offsets.cents),
            grid=grid,
            offset_source=offsets.source,
        )
        known = setup is not None and setup.has_offsets  # a set-up take says how the guitar is tuned
        warnings += ("detuned",) if matched.offset_cents and not known else ()
        warnings += ("tuning_changed",) if offsets.changed else ()
        warnings += ("pitch_wavers",) if wavers else ()
        warnings += rhythm.warnings + judged.warnings
        measures = drill.measures

    analysis = Analysis(
        format="fortimetra-analysis",
        version=1,
        core_version=__version__,
        take=_take_info(loaded, levels, warnings),
        reference=reference,
        notes=tuple(notes),
        extras=extras,
        attempts=_attempts(matched, drill) if matched is not None and drill is not None else (),
        noise_events=judged.events if judged else (),
        summary=summarise(
            notes,
            measures=measures,
            extra=len(extras),
            timing=rhythm.timing if rhythm else None,
            level=rhythm.level if rhythm else None,
            length=rhythm.length if rhythm else None,
            noise=judged.summary if judged else None,
            fastest_even_run_nps=rhythm.fastest_nps if rhythm else None,
        ),
        causes=(),
        setup=found,
        reasons=reasons,
    )
    if drill is not None and matched is not None:
        summary = analysis.summary.model_copy(update={"members": member_counts(drill, notes)})
        analysis = concluded(analysis.model_copy(update={"summary": summary}), drill)
    tell("judge", 1.0)
    return Measured(analysis, contour, loaded, drill)


def _seconds_per_beat(drill: Drill | None) -> float | None:
    """Of a drill that is played to a click."""
    return drill.seconds_per_beat if drill and drill.tempo and drill.family != "set_up" else None


def _is_click(onset_s: float, click: FoundClick | None) -> bool:
    """What was heard beside the drill where a click stands is the click."""
    return (
        click is not None
        and click.source == "audible"
        and bool(np.min(np.abs(click.times_s - onset_s)) < CLICK_IS_WITHIN_S)
    )


def _range_hz(drill: Drill | None) -> tuple[float, float]:
    """Where to look for pitches: a fourth under the lowest open string to a fourth over the highest target."""
    if drill is None:
        return FULL_RANGE_HZ
    lowest = min(drill.open_midi(s + 1) for s in range(len(drill.tuning)))
    highest = max(drill.midi(n) for e in drill.events for n in e.notes) if any(e.notes for e in drill.events) else 88.0
    return (
        max(35.0, midi_to_hz(lowest - 5, a4_hz=drill.a4_hz)),
        max(FULL_RANGE_HZ[1], midi_to_hz(highest + 10, a4_hz=drill.a4_hz)),
    )


def _set_up_strings(heard: list[HeardNote], drill: Drill, levels: Levels) -> SetupMatch:
    try:
        return match_set_up(heard, drill)
    except TakeError as error:
        raise _drowned(levels) or error from None


def _listened(
    mono: Samples,
    contour: Contour,
    candidates: Candidates,
    drill: Drill,
    levels: Levels,
    *,
    rate_hz: int,
    pins: Sequence[Pin],
    first_beat_s: float | None,
) -> Match:
    try:
        return listen(mono, contour, candidates, drill, rate_hz=rate_hz, pins=pins, first_beat_s=first_beat_s)
    except TakeError as error:
        raise (_drowned(levels) if error.code == "no_notes" else None) or error from None


def _drowned(levels: Levels) -> TakeError | None:
    """Why nothing fits, where it is the hum."""
    if levels.hum is None or levels.hum.level_dbfs < levels.peak_dbfs - HUM_DROWNS_DB:
        return None
    return TakeError(
        "hum_too_loud",
        f"Hum at {levels.hum.hz:g} Hz stands only {levels.peak_dbfs - levels.hum.level_dbfs:.0f} dB under the loudest "
        "sound, so the notes cannot be told apart. Try another cable and socket, turn away from transformers and "
        "screens, then record again.",
    )


def _no_reference() -> Reference:
    return Reference(a4_hz=A4_HZ, string_offset_cents=(), grid=NO_GRID)


@dataclass(frozen=True)
class _Rhythm:
    """What a take says of time, volume and length."""

    touch: TimeAndTouch
    timing: TimingSummary | None
    level: LevelSummary | None
    length: LengthSummary | None
    fastest_nps: float | None
    warnings: tuple[str, ...]


def _rhythm(
    matched: Match,
    drill: Drill,
    grid: Grid,
    due: DueTimes,
    mono: Samples,
    slides: Mapping[int, SlideMeasured],
    *,
    rate_hz: int,
) -> _Rhythm:
    arrivals = arrivals_of(matched, slides, drill.seconds_per_beat)
    timings = note_timings(matched, due, grid, arrivals)
    levels = note_levels(mono, matched, rate_hz=rate_hz)
    lengths = note_lengths(mono, matched, drill.at(grid.bpm), rate_hz=rate_hz)  # slots as long as they were played
    timing = summarise_timing(
        matched,
        timings,
        drill,
        grid,
        [None if n is None else n.deviation_db for n in levels],
        together_ms(mono, matched, rate_hz=rate_hz),
    )
    tempo = drill.tempo.bpm if drill.tempo else None
    other = tempo is not None and grid.source == "fitted" and grid.bpm and abs(grid.bpm / tempo - 1.0) > OTHER_TEMPO
    warnings = {
        "lost_beat": due.jumps,
        "other_tempo": bool(other),
        "latency_unknown": grid.source == "recorder" and grid.u_ms is None,
    }
    return _Rhythm(
        TimeAndTouch(timings, levels, lengths, tuple(bool(m) for m in due.moved_beats)),
        timing,
        summarise_levels(matched, levels, drill),
        summarise_lengths(matched, lengths),
        fastest_even_run_nps(matched, drill, tolerance_ms=drill.tolerances.onset_ms) if drill.tempo else None,
        tuple(code for code, true in warnings.items() if true),
    )


def _attempts(matched: Match, drill: Drill) -> tuple[AttemptFound, ...]:
    """What was broken off and begun again, in words of the drill."""
    found = []
    for attempt in matched.attempts:
        first, last = (matched.events[i].notes[0] for i in (attempt.events[0], attempt.events[-1]))
        found.append(
            AttemptFound(
                repeat=first.repeat, from_id=first.event.id, to_id=last.event.id, place=drill.place(first.event),
                notes=len(attempt.notes), from_s=round(attempt.notes[0].onset_s, 4), to_s=round(attempt.notes[-1].end_s, 4),
            )
        )  # fmt: skip
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


def _warnings(take: Take, levels: Levels) -> tuple[str, ...]:
    checks = {
        "clipped_heavily": levels.clipped_fraction > 0.01,
        "clipped": 0.0001 < levels.clipped_fraction <= 0.01,
        "low_level": levels.peak_dbfs < -30.0,
        "high_floor": levels.noise_floor_dbfs > levels.peak_dbfs - 35.0 and levels.noise_floor_dbfs > -60.0,
        "low_sample_rate": take.sample_rate_hz < 16_000,
    }
    return take.warnings + tuple(code for code, true in checks.items() if true)


def _take_info(take: Take, levels: Levels, warnings: tuple[str, ...]) -> TakeInfo:
    return TakeInfo(
        sha256=take.sha256,
        duration_s=round(take.duration_s, 4),
        sample_rate_hz=take.sample_rate_hz,
        channels=take.samples.shape[0],
        peak_dbfs=round(levels.peak_dbfs, 1),
        loudness_lufs=None if levels.loudness_lufs is None else round(levels.loudness_lufs, 1),
        noise_floor_dbfs=round(levels.noise_floor_dbfs, 1),
        clipped_fraction=round(levels.clipped_fraction, 6),
        hum=None
        if levels.hum is None
        else Hum(
            hz=levels.hum.hz,
            level_dbfs=round(levels.hum.level_dbfs, 1),
            harmonics=tuple(Harmonic(number=n, level_dbfs=round(v, 1)) for n, v in levels.hum.harmonics),
        ),
        warnings=warnings,
    )


__all__ = ["STAGES", "Measured", "analyse", "measure_take"]

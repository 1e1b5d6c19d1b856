"""The way of a take through the core; reads top to bottom.

prepare: decode, choose the guitar's channel, levels, onsets, pitch contour, click. Then one of three questions:
without a drill, what was played (`transcribe`); of a set-up drill, how guitar and recording are (`check_set_up`);
of any other, how it was played (`judge_drill`: align, measure, judge, conclude).

`analyse` is a pure function of its arguments: the same take, drill, click and set-up give the same analysis.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from fortimetra.hear.contour import Contour
from fortimetra.model.analysis import Analysis
from fortimetra.model.context import Click, Setup
from fortimetra.model.drill import Drill
from fortimetra.model.guitar import Guitar
from fortimetra.model.word import Pin
from fortimetra.pipeline.check_set_up import check_set_up
from fortimetra.pipeline.judge_drill import judge_drill
from fortimetra.pipeline.prepare import Progress, prepare
from fortimetra.pipeline.transcribe import transcribe
from fortimetra.sound.decode import Take
from fortimetra.sound.samples import let_go

STAGES = ("decode", "levels", "onsets", "contour", "align", "measure", "judge")


@dataclass(frozen=True)
class MeasuredTake:
    """An analysis with the curves it was read from (contour.csv, the sheet's strips); drill: as played on the
    guitar.
    """

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
) -> MeasuredTake:
    """As `analyse`, with the contour and the decoded take."""

    def tell(stage: str, fraction: float) -> None:
        let_go()
        if progress is not None:
            progress(stage, fraction)

    drill = _as_played(drill, guitar, click)
    recording, heard_click = prepare(take, drill=drill, click=click, tell=tell)
    if drill is None:
        analysis, contour = transcribe(recording)
    elif drill.family == "set_up":
        analysis, contour = check_set_up(recording, drill, guitar=guitar, tell=tell)
    else:
        analysis, contour = judge_drill(
            recording, drill, click=click, heard_click=heard_click, setup=setup, pins=pins, tell=tell
        )
    tell("judge", 1.0)
    return MeasuredTake(analysis, contour, recording.take, drill)


def _as_played(drill: Drill | None, guitar: Guitar | None, click: Click | None) -> Drill | None:
    """The drill on the student's guitar, at the tempo of the click: what was clicked is what was asked."""
    if drill is not None and guitar is not None:
        drill = drill.on(guitar)
    if drill is not None and click is not None and click.source != "none":
        drill = drill.at(click.bpm)
    return drill


__all__ = ["STAGES", "MeasuredTake", "Progress", "analyse", "measure_take"]

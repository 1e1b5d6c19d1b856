"""What workers do for takes, and the one place that runs the core.

Only workers import this module: it loads the whole core.
"""

from __future__ import annotations

import gc
import logging
import shutil
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from celery import shared_task
from celery.signals import worker_init
from config.metrics import MEASURING, REFUSED, SOUND
from django.conf import settings
from django.core.files.base import ContentFile
from django.db import transaction
from django.db.models.fields.files import FieldFile
from django.utils import timezone
from fortimetra import Drill as DrillContent
from fortimetra import Limits, MeasuredTake, Setup, TakeError, guess_drill, load_take, measure_take
from fortimetra.judge import Flip, flips, setup_of
from fortimetra.model import Click, FrettedPitch, Pin
from fortimetra.model import Guitar as GuitarContent
from fortimetra.warm_up import warm_up
from pydantic import ValidationError

from apps.drills import selectors as drills
from apps.drills.models import Drill
from apps.jobs import services as jobs
from apps.jobs.services import Claim
from apps.jobs.work import ClaimLost, tell, work
from apps.measuring import again, trials
from apps.measuring.curves import curves_file, listening_copy
from apps.measuring.models import Trial
from apps.people.models import User
from apps.reviews import word
from apps.takes import as_played, guesses, pooled, selectors, services
from apps.takes.models import Analysis, DrillGuess, Take
from apps.takes.signals import tell_settled

log = logging.getLogger(__name__)
MOST_GUESSES = 5


@shared_task(name="takes.measure")
def measure(take_id: str) -> None:
    """Measure one take, if nobody else does."""
    work(services.MEASURING, take_id, run)


def run(mine: Claim) -> None:
    """Run the core on a claimed take and keep what it finds, or why it cannot be measured."""
    began = timezone.now()
    take = Take.objects.select_related("drill_version__drill", "guitar").filter(pk=mine.subject).first()
    if take is None:
        jobs.finish(mine)
        return
    try:
        made = _measured(take, progress=lambda stage, fraction: tell(mine, stage, fraction))
    except TakeError as error:
        with transaction.atomic():
            if jobs.finish(mine):
                Take.objects.filter(pk=take.pk).update(
                    state=Take.State.REFUSED, problem_code=error.code, problem_detail=error.detail
                )
        REFUSED.labels(error.code).inc()
        return
    _keep(mine, take, made, seconds=(timezone.now() - began).total_seconds())


@dataclass(frozen=True)
class _Made:
    """What the core found, and what it was read against."""

    found: MeasuredTake
    guitar: GuitarContent | None
    set_up: Take | None


def _measured(take: Take, *, progress: Callable[[str, float], None] | None = None) -> _Made:
    """Measure a take as its row says: drill version, click, tolerances, pins, its guitar and the set-up take before it.

    Raises TakeError.
    """
    with _local_copy(take.upload) as path:
        loaded = load_take(path, limits=_limits())
    guitar = GuitarContent.model_validate(take.guitar.description) if take.guitar else None
    set_up = selectors.set_up_for(take)
    drill = as_played.drill_at(take.drill_version.content, take.per_click)
    if take.tolerances_said:
        drill = as_played.with_tolerances(drill, take.tolerances_said)
    began = time.perf_counter()
    found = measure_take(
        loaded,
        drill=drill,
        guitar=guitar,
        click=_click(take),
        setup=_setup(set_up, pooled.fretted_notes(take, drill.on(guitar) if guitar else drill)),
        pins=[Pin.model_validate(p) for p in take.pins],
        progress=progress,
    )
    MEASURING.inc(time.perf_counter() - began)
    SOUND.inc(loaded.duration_s)
    return _Made(found, guitar, set_up)


@shared_task(name="takes.try")
def try_take(trial_id: str) -> None:
    """Measure a take once more with what a trial changes; what counts stays."""
    work(trials.TRYING, trial_id, _try)


def _try(mine: Claim) -> None:
    began = timezone.now()
    around = ("take__guitar", "drill_version__drill", "against__drill_version", "order")
    trial = Trial.objects.select_related(*around).filter(pk=mine.subject).first()
    if trial is None:
        jobs.finish(mine)
        return
    take = trial.take
    for name, value in trial.changes.items():
        setattr(take, name, value)
    take.drill_version = trial.drill_version
    settle = trials.settle if trial.order is None else again.settle
    try:
        made = _measured(take, progress=lambda stage, fraction: tell(mine, stage, fraction))
    except TakeError as error:
        with transaction.atomic():
            if jobs.finish(mine):
                settle(trial, problem=error.detail)
        return
    # Of many takes there is no second copy to listen to: the one that is there is handed on.
    seconds = (timezone.now() - began).total_seconds()
    analysis = _row(take, made, seconds=seconds)
    more: dict[str, Any] = {} if trial.order is None else {"flips": _flips(trial, analysis)}
    with _files_of(analysis):
        _draw(analysis, made.found, listening=trial.order is None)
        with transaction.atomic():
            if not jobs.finish(mine):
                raise ClaimLost
            analysis.save()
            settle(trial, analysis=analysis, **more)


def _flips(trial: Trial, new: Analysis) -> tuple[Flip, ...]:
    """What a trial would change, as the teacher left both."""
    marks = word.marks_of(trial.take)
    before, after = word.as_left(trial.against, marks), word.as_left(new, marks)
    return flips(before, after, as_played.drill_of(new).measures)


@shared_task(name="takes.remeasure")
def remeasure(trial_id: str) -> None:
    """Measure one take of an order."""
    work(again.REMEASURING, trial_id, _try)


@shared_task(name="takes.go_through_order")
def go_through_order(order_id: str) -> None:
    """List, keep or drop the takes of an order."""
    work(again.ORDERING, order_id, again.go_through)


def _limits() -> Limits:
    return Limits(max_bytes=settings.UPLOAD_MAX_BYTES, max_duration_s=settings.TAKE_MAX_MINUTES * 60.0)


@shared_task(name="takes.guess_drill")
def guess(guess_id: str) -> None:
    """Hear a recording nobody has named, and say which of the studio's drills its notes fit."""
    work(guesses.HEARING, guess_id, _hear)


def _hear(mine: Claim) -> None:
    row = DrillGuess.objects.select_related("created_by").filter(pk=mine.subject).first()
    if row is None:
        jobs.finish(mine)
        return
    offered = _offered(row.created_by)
    drills_found: list[list[float]] = []
    problem = ""
    try:
        with _local_copy(row.upload) as path:
            loaded = load_take(path, limits=_limits())
        heard = guess_drill(loaded, [content for _, content in offered])
        drills_found = [[offered[g.drill][0].pk, g.share] for g in heard[:MOST_GUESSES]]
    except TakeError as error:
        problem = error.detail
    with transaction.atomic():
        if jobs.finish(mine):
            guesses.settle(row, drills=drills_found, problem=problem)


def _offered(actor: User) -> list[tuple[Drill, DrillContent]]:
    """What a recording may be of. One drill that cannot be read any more does not keep the others from being heard."""
    found = []
    for drill in drills.drills(actor).filter(archived_at=None).exclude(family=selectors.SET_UP):
        if drill.current is None:
            continue
        try:
            found.append((drill, DrillContent.model_validate(drill.current.content)))
        except ValidationError:
            log.warning("drill %s cannot be read; left out of guessing", drill.pk)
    return found


def _click(take: Take) -> Click | None:
    said = take.click_said or take.click
    return None if said is None else Click.model_validate(said)


def _setup(set_up: Take | None, fretted: tuple[FrettedPitch, ...]) -> Setup | None:
    """What the guitar's set-up take and its other takes say of it."""
    if set_up is not None and set_up.current is not None:
        return Setup.model_validate({**(set_up.current.setup or {}), "fretted": fretted})
    if not fretted:
        return None
    return Setup(format="fortimetra-setup", version=1, string_offset_cents=(None,) * 6, fretted=fretted)


@contextmanager
def _local_copy(upload: FieldFile) -> Iterator[Path]:
    """The upload as a file of this machine; an object store's is fetched for the time being."""
    try:
        here = Path(upload.path)
    except NotImplementedError:
        here = None
    if here is not None:
        yield here
        return
    with tempfile.NamedTemporaryFile(prefix="fortimetra-take-") as copy:
        with upload.open("rb") as stored:
            shutil.copyfileobj(stored, copy)
        copy.flush()
        yield Path(copy.name)


def _row(take: Take, made: _Made, *, seconds: float) -> Analysis:
    """An analysis ready to be saved, with the teacher's word in what lists show."""
    found = made.found
    own_setup = setup_of(found.analysis, drill=found.drill) if found.drill else None
    analysis = Analysis(
        take=take,
        drill_version=take.drill_version,
        core_version=found.analysis.core_version,
        seconds=seconds,
        content=found.analysis.model_dump(mode="json", by_alias=True),
        guitar=None if made.guitar is None else made.guitar.model_dump(mode="json"),
        setup_take=made.set_up,
        setup=None if own_setup is None else own_setup.model_dump(mode="json"),
        tolerances=take.tolerances_said,
        bpm=_bpm(take, found),
        per_click=take.per_click,
    )
    word.summed_up(analysis, word.as_left(analysis, word.marks_of(take)))
    return analysis


def _draw(analysis: Analysis, found: MeasuredTake, *, listening: bool = True) -> None:
    """Write what a sheet draws and plays; the row says so once it is saved."""
    analysis.curves.save("curves.json.gz", ContentFile(curves_file(found)), save=False)
    if listening:
        analysis.listening.save("listen.flac", ContentFile(listening_copy(found.take)), save=False)


def _bpm(take: Take, found: MeasuredTake) -> float | None:
    """The tempo a take was played to: of its grid, else the drill's."""
    if found.analysis.reference.grid.bpm is not None:
        return found.analysis.reference.grid.bpm
    return found.drill.tempo.bpm if found.drill and found.drill.tempo else None


def _remove_files(analysis: Analysis) -> None:
    for file in (analysis.curves, analysis.listening):
        services.remove_file(file)


def _keep(mine: Claim, take: Take, made: _Made, *, seconds: float) -> None:
    """Verdicts first: the sheet is there before what it draws and plays has been written."""
    analysis = _row(take, made, seconds=seconds)
    with transaction.atomic():
        if not jobs.hold(mine):
            raise ClaimLost  # another worker's result counts
        locked = Take.objects.select_for_update().get(pk=take.pk)
        # Words may have been added while it was measured.
        content = word.as_left(analysis, word.marks_of(locked))
        word.summed_up(analysis, content)
        # What a worker has left that died while it wrote the curves.
        Analysis.objects.filter(take=locked, curves="", trial=None).delete()
        analysis.save()
        locked.current = analysis
        locked.need = word.need_of(content.summary)
        locked.state, locked.measured_at = Take.State.MEASURED, timezone.now()
        locked.problem_code = locked.problem_detail = ""
        locked.save()
        if analysis.setup is not None:
            services.measure_after_set_up(locked)
        # Before anybody can see it measured: a page asks for the ladder once, and a worker may die after this.
        tell_settled(locked)
    with _files_of(analysis):
        _draw(analysis, made.found)
        with transaction.atomic():
            if not jobs.finish(mine):
                raise ClaimLost
            # Deleted, measured again, or kept without its sound meanwhile: then nobody wants them.
            if not Analysis.objects.filter(pk=analysis.pk, take__recording_deleted_at=None).update(
                curves=analysis.curves.name, listening=analysis.listening.name
            ):
                raise ClaimLost


@contextmanager
def _files_of(analysis: Analysis) -> Iterator[None]:
    """An analysis goes, row and files, where they could not be written to their end."""
    try:
        yield
    except BaseException:
        _remove_files(analysis)
        Analysis.objects.filter(pk=analysis.pk).delete()
        raise


@worker_init.connect
def _warm_up(**_kwargs: Any) -> None:
    """Load and compile before the first take waits for it, and before the workers' children part: they share it."""
    warm_up()
    # What is loaded stays: looking through all of it for what has gone took a tenth of a take's measuring.
    gc.collect()
    gc.freeze()

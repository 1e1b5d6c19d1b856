"""What workers do, and the one place that runs the core. Idempotent: the take's row says what there is to do.

Only workers import this module: it loads the whole core.
"""

from __future__ import annotations

import logging
import resource
import shutil
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from uuid import UUID

from celery import shared_task
from celery.exceptions import SoftTimeLimitExceeded
from celery.signals import worker_process_init, worker_ready
from config.storage import is_full
from django.conf import settings
from django.core.files.base import ContentFile
from django.db import close_old_connections, connection, transaction
from django.db.models.fields.files import FieldFile
from django.utils import timezone
from fortimetra import Drill as DrillContent
from fortimetra import Limits, MeasuredTake, Setup, TakeError, guess_drill, load_take, measure_take
from fortimetra.judge import setup_of
from fortimetra.model import Click, FrettedPitch, Pin
from fortimetra.model import Guitar as GuitarContent
from fortimetra.warm_up import warm_up
from pydantic import ValidationError

from apps.drills import selectors as drills
from apps.drills.models import Drill
from apps.people.models import User
from apps.people.signals import day_passed
from apps.takes import guesses, selectors, services, trials, word
from apps.takes.curves import curves_file, listening_copy
from apps.takes.models import Analysis, DrillGuess, Take, Trial

log = logging.getLogger(__name__)
HEARTBEAT_S = 5.0
SWEEP_S = 15.0
# What is kept for a time only is looked through once a day, also where nothing is ever started again.
PURGE_S = 24 * 3600.0
MOST_GUESSES = 5


@shared_task(name="takes.measure")
def measure(take_id: str) -> None:
    """Measure one take, if nobody else does."""
    claim = services.claim(UUID(take_id))
    if claim is None:
        return
    done = threading.Event()
    heart = threading.Thread(target=_beat, args=(claim, done), daemon=True)
    heart.start()
    try:
        run(claim, progress=lambda stage, fraction: _tell(claim, stage, fraction))
    except _NobodysAnyMore:
        log.info("take %s was deleted, or is another worker's", take_id)
    except (MemoryError, SoftTimeLimitExceeded):
        log.exception("take %s is too much for a worker", take_id)
        services.give_up(
            claim,
            code="too_much",
            detail="Measuring took too long or needed too much memory. The recording is kept; send a shorter one, cut "
            "to the exercise.",
        )
    except Exception as error:
        log.exception("measuring take %s broke off", take_id)
        if is_full(error):
            services.wait_for_room(claim)
        else:
            services.release(claim)
    finally:
        done.set()
        heart.join(HEARTBEAT_S)


def run(mine: services.Claim, *, progress: Callable[[str, float], None]) -> None:
    """Run the core on a claimed take and keep what it finds, or why it cannot be measured."""
    began = timezone.now()
    take = Take.objects.select_related("drill_version__drill", "guitar").get(pk=mine.take_id)
    try:
        made = _measured(take, progress=progress)
    except TakeError as error:
        Take.objects.filter(pk=mine.take_id, claim=mine.token).update(
            state=Take.State.REFUSED, problem_code=error.code, problem_detail=error.detail, claim=None
        )
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
    drill = word.drill_at(take.drill_version.content, take.per_click)
    if take.tolerances_said:
        drill = word.with_tolerances(drill, take.tolerances_said)
    found = measure_take(
        loaded,
        drill=drill,
        guitar=guitar,
        click=_click(take),
        setup=_setup(set_up, selectors.fretted_notes(take, drill.on(guitar) if guitar else drill)),
        pins=[Pin.model_validate(p) for p in take.pins],
        progress=progress,
    )
    return _Made(found, guitar, set_up)


@shared_task(name="takes.try")
def try_take(trial_id: str) -> None:
    """Measure a take once more with what a trial changes; what counts stays."""
    if not trials.TRYING.begin(Trial.objects.filter(pk=trial_id, state=Trial.State.WAITING)):
        return
    began = timezone.now()
    trial = Trial.objects.select_related("take__guitar", "drill_version__drill").get(pk=trial_id)
    take = trial.take
    for name, value in trial.changes.items():
        setattr(take, name, value)
    take.drill_version = trial.drill_version
    try:
        made = _measured(take)
    except TakeError as error:
        trials.settle(trial, problem=error.detail)
        return
    analysis = _row(take, made, seconds=(timezone.now() - began).total_seconds())
    try:
        with transaction.atomic():
            analysis.save()
            trials.settle(trial, analysis=analysis)
    except BaseException:
        _remove_files(analysis)
        raise


def _limits() -> Limits:
    return Limits(max_bytes=settings.UPLOAD_MAX_BYTES, max_duration_s=settings.TAKE_MAX_MINUTES * 60.0)


@shared_task(name="takes.guess_drill")
def guess(guess_id: str) -> None:
    """Hear a recording nobody has named, and say which of the studio's drills its notes fit."""
    if not guesses.HEARING.begin(DrillGuess.objects.filter(pk=guess_id, state=DrillGuess.State.WAITING)):
        return
    row = DrillGuess.objects.select_related("created_by").get(pk=guess_id)
    offered = _offered(row.created_by)
    try:
        with _local_copy(row.upload) as path:
            loaded = load_take(path, limits=_limits())
        found = guess_drill(loaded, [content for _, content in offered])
    except TakeError as error:
        guesses.settle(row, problem=error.detail)
    except BaseException:
        guesses.settle(row, problem="Hearing this recording broke off; choose its drill by hand.")
        raise
    else:
        guesses.settle(row, drills=[[offered[g.drill][0].pk, g.share] for g in found[:MOST_GUESSES]])


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
    """An analysis ready to be saved, its files written, with the teacher's word in what lists show."""
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
    try:
        analysis.curves.save("curves.json.gz", ContentFile(curves_file(found)), save=False)
        analysis.listening.save("listen.flac", ContentFile(listening_copy(found.take)), save=False)
    except BaseException:
        _remove_files(analysis)
        raise
    return analysis


def _bpm(take: Take, found: MeasuredTake) -> float | None:
    """The tempo a take was played to: of its grid, else the drill's."""
    if found.analysis.reference.grid.bpm is not None:
        return found.analysis.reference.grid.bpm
    return found.drill.tempo.bpm if found.drill and found.drill.tempo else None


def _remove_files(analysis: Analysis) -> None:
    for file in (analysis.curves, analysis.listening):
        services.remove_file(file)


def _keep(mine: services.Claim, take: Take, made: _Made, *, seconds: float) -> None:
    analysis = _row(take, made, seconds=seconds)
    kept = False
    try:
        with transaction.atomic():
            locked = (
                Take.objects.select_for_update()
                .filter(pk=take.pk, claim=mine.token, state=Take.State.MEASURING)
                .first()
            )
            if locked is None:
                return  # the claim went to another worker; its result counts
            # Words may have been added while it was measured.
            content = word.as_left(analysis, word.marks_of(locked))
            word.summed_up(analysis, content)
            analysis.save()
            locked.current = analysis
            locked.need = word.need_of(content.summary)
            locked.state, locked.claim, locked.fraction = Take.State.MEASURED, None, 1.0
            locked.measured_at, locked.problem_code, locked.problem_detail = timezone.now(), "", ""
            locked.save()
            if analysis.setup is not None:
                services.measure_after_set_up(locked)
            # Before anybody can see it measured: a page asks for the ladder once, and a worker may die after this.
            word.tell_settled(locked)
        kept = True
    finally:
        if not kept:
            _remove_files(analysis)


class _NobodysAnyMore(Exception):
    """The claim was lost: the take is deleted, or another worker has it."""


def _tell(claim: services.Claim, stage: str, fraction: float) -> None:
    if not services.report(claim, stage=stage, fraction=fraction):
        raise _NobodysAnyMore


def _beat(claim: services.Claim, done: threading.Event) -> None:
    """Renew the claim while a long stage runs."""
    try:
        while not done.wait(HEARTBEAT_S):
            services.report(claim)
    except Exception:
        log.warning("heartbeat of take %s stopped", claim.take_id, exc_info=True)
    finally:
        connection.close()


@worker_ready.connect
def _after_start(**_kwargs: Any) -> None:
    """Sweep from now on, in the worker's own process: children may die, and beat would be one of them."""
    threading.Thread(target=_sweep_for_ever, name="sweeper", daemon=True).start()


def _sweep_for_ever() -> None:
    # A broker that was restarted has forgotten its messages; the rows have not.
    everything, purge_at = True, 0.0
    while True:
        try:
            close_old_connections()
            services.sweep(all_waiting=everything)
            everything = False
            if time.monotonic() > purge_at:
                for receiver, answer in day_passed.send_robust(None):
                    if isinstance(answer, Exception):
                        log.error("%s failed: %s", receiver, answer, exc_info=answer)
                purge_at = time.monotonic() + PURGE_S
        except Exception:
            log.warning("sweeping failed; the next sweep is in %s s", SWEEP_S, exc_info=True)
        time.sleep(SWEEP_S)


@worker_process_init.connect
def _limit_and_warm_up(**_kwargs: Any) -> None:
    """Bound a worker's memory, and compile before the first take waits for it."""
    limit = settings.WORKER_MEMORY_LIMIT_BYTES
    _soft, hard = resource.getrlimit(resource.RLIMIT_DATA)
    resource.setrlimit(resource.RLIMIT_DATA, (limit, hard))
    warm_up()

"""Measuring a take once more with something changed, to be kept or dropped after both have been seen side by side.

What counts stays untouched until a trial is kept.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import timedelta
from typing import Any
from uuid import UUID

from config.problems import ServiceError, not_found
from django.db import transaction
from django.utils import timezone
from fortimetra import Drill as DrillContent
from fortimetra.model import Click, Pin
from pydantic import ValidationError

from apps.drills.models import Drill
from apps.jobs import services as jobs
from apps.jobs.services import Kind, Problem, Told
from apps.measuring.models import Trial
from apps.people import audit
from apps.people.actor import require_teacher
from apps.people.models import User
from apps.reviews import word
from apps.takes import as_played, services
from apps.takes.models import Analysis, Take
from apps.takes.signals import tell_settled

KEPT_FOR = timedelta(days=1)
MOST_WAITING = 100


class Trying(Kind):
    """Takes are measured once more."""

    def moved(self, subjects: Sequence[str], state: Told, problem: Problem | None = None) -> None:
        if problem is not None:
            for trial in Trial.objects.filter(pk__in=subjects, state=Trial.State.WAITING):
                settle(trial, problem=problem.detail)

    def unfinished(self) -> Iterable[object]:
        waiting = Trial.objects.filter(order=None, state=Trial.State.WAITING)
        return waiting.values_list("pk", flat=True)[:MOST_WAITING]


TRYING = Trying(
    "takes.try",
    most_attempts=2,
    broke=Problem("measuring_failed", "Measuring broke off. What was there is untouched; try again."),
)


def begin(
    actor: User,
    take: Take,
    *,
    drill: Drill | None = None,
    newest_version: bool = False,
    click: Click | None = None,
    as_recorded: bool = False,
    tolerances: dict[str, float] | None = None,
    pins: list[Pin] | None = None,
) -> Trial:
    """Ask for a measurement with changes; without any, the same by today's core, set-up and guitar.

    newest_version: of the take's own drill. as_recorded: the click as the recorder had it. Raises ServiceError.
    """
    require_teacher(actor)
    if take.current is None:
        raise ServiceError(409, "not_measured_yet", "This take is not measured yet; there is nothing to compare with.")
    services.require_recording(take)
    version = take.drill_version
    if drill is not None or newest_version:
        version = (drill or take.drill_version.drill).current or version
    changes: dict[str, Any] = {}
    if click is not None or as_recorded:
        changes["click_said"] = None if click is None else click.model_dump(mode="json")
    if tolerances is not None:
        try:
            as_played.with_tolerances(DrillContent.model_validate(version.content), tolerances)
        except ValidationError as error:
            place = ".".join(str(p) for p in error.errors()[0]["loc"])
            raise ServiceError(422, "tolerance_invalid", f"{place}: {error.errors()[0]['msg']}.") from error
        changes["tolerances_said"] = tolerances or None
    if pins is not None:
        changes["pins"] = [p.model_dump(mode="json") for p in pins]
    _forget_old()
    trial = Trial(
        take=take,
        created_by=actor,
        asked_at=timezone.now(),
        changes=changes,
        drill_version=version,
        against=take.current,
    )
    with transaction.atomic():
        trial.save(force_insert=True)
        jobs.ask(TRYING, trial.pk)
    return trial


def trial(actor: User, take: Take, trial_id: UUID) -> Trial:
    """One of the person's own on a take, or 404."""
    found = (
        Trial.objects.filter(pk=trial_id, take=take, created_by=actor)
        .select_related("analysis__drill_version", "against__drill_version", "drill_version__drill")
        .first()
    )
    if found is None:
        raise not_found()
    return found


def settle(trial: Trial, *, analysis: Analysis | None = None, problem: str = "") -> None:
    """Write down how a trial ended."""
    trial.state = Trial.State.REFUSED if analysis is None else Trial.State.MEASURED
    trial.analysis, trial.problem_detail = analysis, problem
    trial.save(update_fields=["state", "analysis", "problem_detail"])


def keep(actor: User, trial: Trial) -> Take:
    """Let a trial count from now on.

    Raises ServiceError if it is not measured, or if something else has come to count since it was asked for.
    """
    require_teacher(actor)
    take = count(trial)
    audit.changed(actor, "kept_trial", student=take.student, object_id=take.pk)
    tell_settled(take)
    return take


def count(trial: Trial) -> Take:
    """Let a trial's analysis be the one that counts; the trial goes.

    Raises ServiceError if it is not measured, or if something else has come to count since it was asked for.
    """
    with transaction.atomic():
        take = Take.objects.select_for_update().filter(pk=trial.take_id).first()
        if take is None:
            raise not_found()
        if trial.analysis is None:
            raise ServiceError(409, "not_measured_yet", "This is not measured yet; wait until it is.")
        if take.current_id != trial.against_id or take.state != Take.State.MEASURED:
            raise ServiceError(
                409, "out_of_date", "This take was measured again meanwhile. Look at it anew, then try once more."
            )
        for name, value in trial.changes.items():
            setattr(take, name, value)
        take.drill_version, take.current = trial.drill_version, trial.analysis
        take.measured_at = timezone.now()
        content = word.as_left(trial.analysis, word.marks_of(take))
        word.summed_up(trial.analysis, content)
        trial.analysis.save(update_fields=word.SUMMED_UP)
        take.need, take.word_version = word.need_of(content.summary), take.word_version + 1
        take.save()
        if not trial.analysis.listening:
            # One copy to listen to is enough for both.
            _hand_over_copy(trial.against, trial.analysis)
        own_setup = trial.analysis.setup
        trial.analysis = None
        trial.delete()
        if own_setup is not None:
            services.measure_after_set_up(take)
    return take


def _hand_over_copy(old: Analysis, new: Analysis) -> None:
    new.listening, old.listening = old.listening.name, ""
    new.save(update_fields=["listening"])
    old.save(update_fields=["listening"])


def drop(trial: Trial) -> None:
    """Forget a trial with what it measured."""
    analysis = trial.analysis
    with transaction.atomic():
        jobs.forget(TRYING, [trial.pk])
        trial.delete()
        if analysis is not None:
            _forget(analysis)


def _forget(analysis: Analysis) -> None:
    files = [analysis.curves, analysis.listening]
    analysis.delete()

    def remove() -> None:
        for file in files:
            services.remove_file(file)

    transaction.on_commit(remove)


def _forget_old() -> None:
    for trial in Trial.objects.filter(order=None, asked_at__lt=timezone.now() - KEPT_FOR).select_related("analysis")[
        :20
    ]:
        drop(trial)

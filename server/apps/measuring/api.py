"""Addresses of measuring one take once more."""

from __future__ import annotations

from uuid import UUID

from django.http import HttpRequest
from fortimetra.judge import compare
from ninja import Router, Status

from apps.drills import selectors as drills
from apps.measuring import trials
from apps.measuring.models import Trial
from apps.measuring.schemas import TrialRead, TryTake
from apps.people.actor import actor_of
from apps.reviews import word
from apps.takes import selectors
from apps.takes.as_played import drill_of
from apps.takes.schemas import TakeRead, take_read

router = Router(tags=["takes"], by_alias=True)


@router.post("/{uuid:take_id}/trials", response={201: TrialRead}, operation_id="try_take")
def try_take(request: HttpRequest, take_id: UUID, payload: TryTake) -> Status[TrialRead]:
    """Measure a take once more with something changed; what counts stays until the trial is kept."""
    actor = actor_of(request)
    trial = trials.begin(
        actor,
        selectors.take(actor, take_id),
        drill=None if payload.drill_id is None else drills.drill(actor, payload.drill_id),
        newest_version=payload.newest_version,
        click=payload.click,
        as_recorded=payload.recorded_click,
        tolerances=payload.tolerances,
        pins=payload.pins,
    )
    return Status(201, _trial_read(trial))


@router.get("/{uuid:take_id}/trials/{uuid:trial_id}", response=TrialRead, operation_id="trial")
def read_trial(request: HttpRequest, take_id: UUID, trial_id: UUID) -> TrialRead:
    """How far a trial is, and what it changes."""
    actor = actor_of(request)
    return _trial_read(trials.trial(actor, selectors.take(actor, take_id), trial_id))


@router.post("/{uuid:take_id}/trials/{uuid:trial_id}/keep", response=TakeRead, operation_id="keep_trial")
def keep_trial(request: HttpRequest, take_id: UUID, trial_id: UUID) -> TakeRead:
    """Let a trial count."""
    actor = actor_of(request)
    trials.keep(actor, trials.trial(actor, selectors.take(actor, take_id), trial_id))
    return take_read(selectors.take(actor, take_id))


@router.delete("/{uuid:take_id}/trials/{uuid:trial_id}", response={204: None}, operation_id="drop_trial")
def drop_trial(request: HttpRequest, take_id: UUID, trial_id: UUID) -> Status[None]:
    """Forget a trial."""
    actor = actor_of(request)
    trials.drop(trials.trial(actor, selectors.take(actor, take_id), trial_id))
    return Status(204, None)


def _trial_read(trial: Trial) -> TrialRead:
    new, old = trial.analysis, trial.against
    measured = new is not None
    marks = word.marks_of(trial.take) if measured else []
    before = word.as_left(old, marks) if measured else None
    after = word.as_left(new, marks) if new is not None else None
    return TrialRead(
        id=trial.pk,
        state=trial.state,
        problem=trial.problem_detail,
        drill=trial.drill_version.drill.title,
        core_versions=(old.core_version, new.core_version) if new is not None else None,
        before=before.summary if before else None,
        after=after.summary if after else None,
        ticks=(old.ticks, new.ticks) if new is not None else None,
        comparison=compare(before, after, drill_of(new).limits()) if before and after and new else None,
        out_of_date=trial.take.current_id != trial.against_id,
    )

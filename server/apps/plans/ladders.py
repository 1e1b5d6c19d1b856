"""Ladders: what the rule says after every take, and the steps that are taken."""

from __future__ import annotations

from typing import Any

from config.problems import ServiceError, not_found
from django.db import transaction
from django.utils import timezone
from fortimetra import Drill as DrillContent
from fortimetra import DrillError
from fortimetra.coach import LadderTake, Pair, Standing, at_step, next_step, notes_per_click, standing, step_words
from fortimetra.model import LadderRule, Step

from apps.people import audit
from apps.people.actor import require_teacher
from apps.people.models import Student, User
from apps.plans import selectors
from apps.plans.models import Assignment, Hold, LadderMove
from apps.takes.models import Take

# Newest takes of a step that a ladder looks at.
MOST_TAKES = 60
FASTEST_RUN = "fastest_run"
PUT_AWAY = "the drill is archived. Restore it, or end this assignment."


@transaction.atomic
def after_take(sender: object, *, student_id: int, drill_id: int, **_kwargs: object) -> None:
    """What counts in a take has changed: its ladder, and after a fastest even run every ladder, says anew what to
    do.
    """
    running = Assignment.objects.filter(student_id=student_id, ended_at=None)
    run = running.none()
    if Take.objects.filter(student_id=student_id, drill_version__drill__family=FASTEST_RUN).exists():
        run = running.exclude(drill_id=drill_id)
    for assignment_id in [
        *running.filter(drill_id=drill_id).values_list("pk", flat=True),
        *run.values_list("pk", flat=True),
    ]:
        look(assignment_id)


def look_at_all(student: Student) -> None:
    """Every ladder of a student, after something that concerns them all."""
    for assignment_id in student.assignments.filter(ended_at=None).values_list("pk", flat=True):
        look(assignment_id)


@transaction.atomic
def look(assignment_id: int) -> Assignment | None:
    """Work out what a ladder says and write it down; an automatic one takes its step at once."""
    found = locked(assignment_id)
    if found is None or found.ended_at is not None:
        return found
    says, takes = _standing(found)
    found.standing = row_of(says)
    found.newest_share = takes[0].clean_share if takes else None
    if says.moves and found.moves == Assignment.Moves.AUTOMATIC:
        _take_step(found, says, made_by=None)
    found.save(update_fields=["standing", "newest_share", "step", "step_since"])
    return found


def locked(assignment_id: int) -> Assignment | None:
    """An assignment that nobody else changes until this transaction ends. Two statements: MariaDB locks every row of
    a join.
    """
    if not Assignment.objects.select_for_update().filter(pk=assignment_id).values_list("pk", flat=True):
        return None
    return Assignment.objects.select_related("student__studio", "drill__current", "pair__drill").get(pk=assignment_id)


def _lock_with_pair(assignment: Assignment) -> None:
    """Both of a pair, always in one order: whoever steps the other drill in this moment waits, instead of each for
    the other.
    """
    keys = [pk for pk in (assignment.pk, assignment.pair_id) if pk is not None]
    list(Assignment.objects.select_for_update().filter(pk__in=keys).order_by("pk").values_list("pk", flat=True))


def locked_or_404(assignment: Assignment) -> Assignment:
    """The same, of one that was there a moment ago."""
    found = locked(assignment.pk)
    if found is None:
        raise not_found()
    return found


def row_of(says: Standing) -> dict[str, Any]:
    """A standing as it is stored."""
    return {"move": says.move, "to": says.to.model_dump(), "says": says.says, "takes": list(says.takes)}


def _standing(found: Assignment) -> tuple[Standing, list[LadderTake]]:
    assert found.drill.current is not None
    drill = DrillContent.model_validate(found.drill.current.content)
    step, rule = Step.model_validate(found.step), LadderRule.model_validate(found.rule)
    takes = _takes(found)
    pair = None
    if found.pair is not None and found.pair.ended_at is None:
        pair = Pair(found.pair.drill.title, Step.model_validate(found.pair.step))
    says = standing(
        drill,
        step,
        takes,
        rule=rule,
        goal=None if found.goal is None else Step.model_validate(found.goal),
        fastest_nps=fastest_nps(found.student),
        pair=pair,
        held=_held(found),
    )
    return says, takes


def _held(found: Assignment) -> str | None:
    hold = selectors.hold(found.student)
    if hold is not None:
        return held_words(found.student, hold)
    return PUT_AWAY if found.drill.archived_at is not None else None


def held_words(student: Student, hold: Hold) -> str:
    """Why ladders stand still."""
    day = hold.since.astimezone(selectors.zone(student.studio)).strftime("%-d %B")
    return f"discomfort was logged on {day}. All ladders rest until the student or the teacher clears it."


def _takes(found: Assignment) -> list[LadderTake]:
    """Measured takes of the drill since the step began, newest first."""
    rows = (
        Take.objects.filter(
            student_id=found.student_id,
            drill_version__drill_id=found.drill_id,
            played_at__gte=found.step_since,
            current__isnull=False,
        )
        .order_by("-played_at")
        .values_list("pk", "played_at", "current__bpm", "current__per_click", "current__counts", "current__places")[
            :MOST_TAKES
        ]
    )
    return [
        LadderTake(
            id=str(pk),
            played_at=played_at,
            bpm=bpm,
            per_click=per_click,
            counted=max(0, counts.get("asked", 0) - counts.get("excluded", 0)),
            clean=counts.get("clean", 0),
            unclear=counts.get("unclear", 0),
            outside=places,
        )
        for pk, played_at, bpm, per_click, counts, places in rows
    ]


def fastest_nps(student: Student) -> float | None:
    """The newest fastest even run of a student, notes a second."""
    summaries = (
        Take.objects.filter(student=student, drill_version__drill__family=FASTEST_RUN, current__isnull=False)
        .order_by("-played_at")
        .values_list("current__summary", flat=True)[:5]
    )
    return next((s["fastest_even_run_nps"] for s in summaries if s.get("fastest_even_run_nps")), None)


@transaction.atomic
def confirm(actor: User, assignment: Assignment, *, says: str) -> Assignment:
    """Take the step that is proposed; says: the sentence that was read, so that nobody confirms another one unseen."""
    require_teacher(actor)
    _lock_with_pair(assignment)
    found = look(assignment.pk)
    if found is None or found.ended_at is not None or found.standing["move"] not in ("up", "down"):
        raise ServiceError(409, "nothing_proposed", "There is no step to confirm any more; look at the plan again.")
    if found.standing["says"] != says:
        raise ServiceError(409, "changed_meanwhile", f"The proposal has changed: {found.standing['says']}")
    standing_now, _takes_now = _standing(found)
    _take_step(found, standing_now, made_by=actor)
    found.save(update_fields=["standing", "newest_share", "step", "step_since"])
    audit.changed(
        actor, "confirmed_step", student=found.student, what=f"{found.drill.title}: {says}", object_id=found.pk
    )
    return _and_pair(found)


@transaction.atomic
def set_step(actor: User, assignment: Assignment, step: Step, *, why: str) -> Assignment:
    """The teacher's own step, whatever the rule says."""
    require_teacher(actor)
    _lock_with_pair(assignment)
    found = locked_or_404(assignment)
    if found.ended_at is not None:
        raise ServiceError(409, "ended", "This assignment has ended; assign the drill anew.")
    check_step(found, step)
    words = f"Set to {step_words(step)} by {actor.name}" + (f": {why.strip()}" if why.strip() else ".")
    before = Step.model_validate(found.step)
    LadderMove.objects.create(
        assignment=found, at=timezone.now(), made_by=actor, move="set", since=before.model_dump(),
        to=step.model_dump(), says=words[:500],
    )  # fmt: skip
    found.step, found.step_since = step.model_dump(), timezone.now()
    found.save(update_fields=["step", "step_since"])
    audit.changed(actor, "set_step", student=found.student, what=f"{found.drill.title}: {words}", object_id=found.pk)
    return _and_pair(found)


@transaction.atomic
def put_off(actor: User, assignment: Assignment) -> Assignment:
    """Not yet: the row of takes the proposal rests on is counted anew from here."""
    require_teacher(actor)
    found = locked_or_404(assignment)
    if found.standing["move"] not in ("up", "down"):
        raise ServiceError(409, "nothing_proposed", "There is no proposal to put off any more.")
    LadderMove.objects.create(
        assignment=found, at=timezone.now(), made_by=actor, move="put_off", since=found.step, to=found.step,
        says=f"Put off by {actor.name}: {found.standing['says']}"[:500], takes=found.standing["takes"],
    )  # fmt: skip
    found.step_since = timezone.now()
    found.save(update_fields=["step_since"])
    audit.changed(actor, "put_off_step", student=found.student, what=found.drill.title, object_id=found.pk)
    return look(found.pk) or found


def check_step(assignment: Assignment, step: Step) -> None:
    """Raises ServiceError for a step the drill cannot have."""
    assert assignment.drill.current is not None
    check_step_of(DrillContent.model_validate(assignment.drill.current.content), step)


def check_step_of(drill: DrillContent, step: Step) -> None:
    """Raises ServiceError for a step a drill cannot have."""
    if drill.tempo is None and step.bpm is not None:
        raise ServiceError(422, "free_drill", f"“{drill.title}” has no click, so it has no tempo to step by.")
    if drill.tempo is not None and step.bpm is None:
        raise ServiceError(422, "no_tempo", "Say at how many beats a minute it begins.")
    try:
        at_step(drill, step)
    except DrillError as error:
        raise ServiceError(422, error.code, error.detail) from error
    except ValueError as error:
        raise ServiceError(
            422, "step_invalid", "The drill cannot be laid out with so many notes to the click."
        ) from error


def _take_step(found: Assignment, says: Standing, *, made_by: User | None) -> None:
    """Write down a step and begin the next; found is saved by the caller."""
    now = timezone.now()
    LadderMove.objects.create(
        assignment=found, at=now, made_by=made_by, move=says.move, since=says.at.model_dump(),
        to=says.to.model_dump(), says=says.says, takes=list(says.takes),
    )  # fmt: skip
    if made_by is None:
        audit.changed(
            None, "stepped", student=found.student, what=f"{found.drill.title}: {says.says}", object_id=found.pk
        )
    found.step, found.step_since, found.newest_share = says.to.model_dump(), now, None
    after, _takes_after = _standing(found)
    found.standing = row_of(after)


def _and_pair(found: Assignment) -> Assignment:
    """A step of one of a pair may free the other."""
    if found.pair_id is not None:
        look(found.pair_id)
    return look(found.pk) or found


def further_steps(assignment: Assignment, *, around: int = 6) -> list[Step]:
    """Steps below and above where a drill stands, for a teacher to choose from."""
    assert assignment.drill.current is not None
    written = notes_per_click(DrillContent.model_validate(assignment.drill.current.content))
    rule, here = LadderRule.model_validate(assignment.rule), Step.model_validate(assignment.step)
    steps = [here]
    for way in (-1, 1):
        at: Step | None = here
        for _ in range(around):
            at = next_step(at, rule, way=way, written=written) if at is not None else None
            if at is not None:
                steps = [at, *steps] if way < 0 else [*steps, at]
    return steps

"""What a person may see of takes."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal
from uuid import UUID

from config.problems import ServiceError, not_found
from django.db.models import QuerySet
from django.db.models.fields.files import FieldFile
from fortimetra.model import Guitar as GuitarContent

from apps.guitars.models import Guitar
from apps.jobs import services as jobs
from apps.people import selectors as people
from apps.people.models import User
from apps.takes.models import Analysis, Take

SET_UP = "set_up"
MEASURE = "takes.measure"


def takes(actor: User) -> QuerySet[Take]:
    """Takes of the students this person may see, newest first, without the large columns. A student does not see what
    they have hidden.
    """
    shown = {"hidden_at": None} if actor.role == User.Role.STUDENT else {}
    return (
        Take.objects.filter(student__in=people.students(actor), **shown)
        .select_related("student", "guitar", "drill_version__drill", "current", "judged_by")
        .defer("drill_version__content", "current__content", "guitar__description")
    )


def newest(found: QuerySet[Take], limit: int) -> list[Take]:
    """The first so many. Keys are put in order first: thousands of wide rows are slow to sort."""
    keys = list(found.values_list("pk", flat=True)[:limit])
    by_key = {t.pk: t for t in found.filter(pk__in=keys).order_by()}
    return with_progress([by_key[key] for key in keys if key in by_key])


def with_progress(found: list[Take]) -> list[Take]:
    """The takes with how far the measuring of those is that are being measured."""
    progress = progress_of({take.pk: take.state for take in found})
    for take in found:
        take.stage, take.fraction = progress[take.pk]
    return found


def progress_of(states: Mapping[UUID, str]) -> dict[UUID, tuple[str, float]]:
    """Stage and fraction of takes in these states, by key; one statement, where any is being measured."""
    running = jobs.of(MEASURE, [key for key, state in states.items() if state == Take.State.MEASURING])
    at_rest = {key: ("", float(state == Take.State.MEASURED)) for key, state in states.items()}
    return at_rest | {UUID(key): (job.stage, job.fraction) for key, job in running.items()}


def take(actor: User, take_id: UUID) -> Take:
    """One of them, or 404."""
    found = takes(actor).select_related("student__studio").filter(pk=take_id).first()
    if found is None:
        raise not_found()
    return with_progress([found])[0]


def analysis(actor: User, take_id: UUID) -> Analysis:
    """The newest analysis of a take, which is its `take`.

    Raises ServiceError: the take's own problem if it was refused, 409 while it is not measured yet.
    """
    found = take(actor, take_id)
    # With what the page says of its drill, in one statement.
    around = ("drill_version__drill__partner", "drill_version__drill__after", "setup_take")
    whole = Analysis.objects.select_related(*around).get(pk=current(found).pk)
    whole.take = found
    return whole


def current(found: Take) -> Analysis:
    """The newest analysis of a take, without its large columns. Raises ServiceError as `analysis`."""
    if found.current is not None:
        return found.current
    if found.state in (Take.State.REFUSED, Take.State.FAILED):
        raise ServiceError(422, found.problem_code, found.problem_detail)
    raise ServiceError(409, "not_measured_yet", "This take is still being measured; ask again in a moment.")


def drawn(found: Take, what: Literal["curves", "listening"]) -> FieldFile:
    """What a take's sheet draws or plays. Raises ServiceError as `analysis`, and 409 while it is not written yet."""
    stored: FieldFile = getattr(current(found), what)
    if not stored:
        raise ServiceError(409, "not_drawn_yet", "This is still being written; ask again in a moment.")
    return stored


def set_ups(actor: User, guitar: Guitar) -> QuerySet[Take]:
    """Measured set-up takes of a guitar, newest first."""
    return (
        takes(actor)
        .filter(guitar=guitar, drill_version__drill__family=SET_UP, current__setup__isnull=False)
        .defer(None)
        .defer("drill_version__content")
    )


def set_up_for(take: Take) -> Take | None:
    """The newest measured set-up take of the same guitar before this one, in the tuning the guitar has now.

    Of no actor: a worker reads it, for a take it has claimed.
    """
    if take.guitar_id is None or take.guitar is None or take.drill_version.drill.family == SET_UP:
        return None
    guitar = GuitarContent.model_validate(take.guitar.description)
    tuning = [guitar.open_midi(s) for s in range(1, len(guitar.tuning) + 1)]
    earlier = (
        Take.objects.filter(
            guitar_id=take.guitar_id,
            drill_version__drill__family=SET_UP,
            played_at__lte=take.played_at,
            current__setup__isnull=False,
        )
        .exclude(pk=take.pk)
        .select_related("current")
        .order_by("-played_at", "-created_at")
    )
    for found in earlier[:20]:
        if found.current is not None and (found.current.setup or {}).get("tuning") == tuning:
            return found
    return None


def takes_after_set_up(set_up: Take) -> QuerySet[Take]:
    """Finished takes of its guitar that a set-up take has a say in: from it to the next set-up take."""
    later = Take.objects.filter(guitar=set_up.guitar, played_at__gte=set_up.played_at).exclude(pk=set_up.pk)
    following = later.filter(drill_version__drill__family=SET_UP, current__setup__isnull=False).order_by("played_at")
    until = following.values_list("played_at", flat=True).first()
    others = later.exclude(drill_version__drill__family=SET_UP).filter(state=Take.State.MEASURED)
    return others if until is None else others.filter(played_at__lt=until)

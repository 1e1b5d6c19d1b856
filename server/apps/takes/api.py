"""Addresses of takes."""

from __future__ import annotations

from typing import Annotated, TypeVar
from uuid import UUID

from config.days import Moment
from config.files import stored_file
from config.problems import ServiceError
from django.http import HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from fortimetra import DrillError
from fortimetra.model import Click, first_problem
from ninja import Form, Router, Status
from ninja.files import UploadedFile
from pydantic import BaseModel, ValidationError

from apps.drills import selectors as drills
from apps.drills.models import DrillVersion
from apps.guitars import selectors as guitars
from apps.people import selectors as people
from apps.people.actor import actor_of
from apps.takes import as_played, guesses, pooled, selectors, services
from apps.takes.schemas import (
    Capture,
    ClickSaid,
    Curves,
    GuessRead,
    MeasureAgain,
    RungString,
    SetupRead,
    TakeRead,
    VoiceRow,
    guess_read,
    setup_read,
    take_read,
)
from apps.takes.signals import tell_settled

router = Router(tags=["takes"], by_alias=True)
MOST_JSON = 60_000
Given = TypeVar("Given", bound=BaseModel)


@router.get("", response=list[TakeRead], operation_id="takes")
def list_takes(request: HttpRequest, limit: int = 100, student_id: int | None = None) -> list[TakeRead]:
    """Takes, newest first."""
    actor = actor_of(request)
    found = selectors.takes(actor)
    if student_id is not None:
        found = found.filter(student=people.student(actor, student_id))
    return [take_read(t) for t in selectors.newest(found, max(1, min(limit, 500)))]


@router.post("", response={201: TakeRead}, operation_id="upload_take")
def upload_take(
    request: HttpRequest,
    file: UploadedFile,
    student_id: Annotated[int, Form()],
    drill_id: Annotated[int | None, Form()] = None,
    guitar_id: Annotated[int | None, Form()] = None,
    played_at: Annotated[Moment | None, Form()] = None,
    click: Annotated[str | None, Form()] = None,
    capture: Annotated[str | None, Form()] = None,
    drill_version: Annotated[int | None, Form()] = None,
    per_click: Annotated[int | None, Form()] = None,
    id: Annotated[UUID | None, Form()] = None,
) -> Status[TakeRead]:
    """A recording of a student playing a drill, on the student's first guitar unless another is named.

    Without a drill it is a set-up take of the guitar. click and capture are JSON: the contract's click, and how it was
    recorded. drill_version: the version that was played, where it may have changed meanwhile. per_click: notes to the
    click, where that is not as written: a step of the ladder. id: the sender's own, so that a recording whose answer
    was lost can be sent again without becoming two takes.
    """
    actor = actor_of(request)
    if id is not None and (there := selectors.takes(actor).filter(pk=id).first()) is not None:
        return Status(201, take_read(there))
    student = people.student(actor, student_id)
    if played_at is not None and played_at.tzinfo is None:
        raise ServiceError(422, "no_time_zone", "played_at: give the time with its zone.")
    owned = guitars.guitars(actor).filter(student=student)
    guitar = owned.first() if guitar_id is None else guitars.guitar(actor, guitar_id)
    if guitar is not None and guitar.student_id != student.pk:
        raise ServiceError(422, "other_guitar", f"This guitar is not {student.name}’s; choose one of theirs.")
    if drill_id is not None:
        drill = drills.drill(actor, drill_id)
    elif guitar is not None:
        drill = services.set_up_drill(actor.studio, strings=len(guitar.description["strings"]))
    else:
        raise ServiceError(422, "no_drill", "Choose the drill that was played.")
    captured = None if capture is None else given(Capture, capture, "capture")
    version = drill.current if drill_version is None else drills.version(drill, drill_version)
    if per_click is not None:
        _check_step(version, per_click)
    take = services.receive(
        actor,
        student=student,
        version=version,
        per_click=per_click,
        upload=file,
        played_at=played_at,
        guitar=guitar,
        take_id=id,
        click=None if click is None else given(Click, click, "click"),
        capture=None if captured is None else captured.model_dump(mode="json"),
        invented=captured is not None and captured.simulated,
    )
    return Status(201, take_read(selectors.take(actor, take.pk)))


def _check_step(version: DrillVersion | None, per_click: int) -> None:
    """Raises ServiceError for notes to the click that the drill cannot have."""
    if version is None:
        return
    try:
        as_played.drill_at(version.content, per_click)
    except DrillError as error:
        raise ServiceError(422, error.code, error.detail) from error
    except ValidationError as error:
        raise ServiceError(422, "per_click_invalid", f"per_click: {first_problem(error)}.") from error


def given(model: type[Given], text: str, name: str) -> Given:
    try:
        return model.model_validate_json(text[:MOST_JSON])
    except ValidationError as error:
        raise ServiceError(422, f"{name}_invalid", f"{name}: {first_problem(error)}.") from error


@router.get("/set-ups", response=list[SetupRead], operation_id="set_ups")
def list_set_ups(request: HttpRequest, guitar_id: int) -> list[SetupRead]:
    """What the set-up takes of a guitar say, newest first."""
    actor = actor_of(request)
    return [setup_read(t) for t in selectors.set_ups(actor, guitars.guitar(actor, guitar_id))[:20]]


@router.get("/voice", response=list[VoiceRow], operation_id="voice")
def read_voice(request: HttpRequest, student_id: int) -> list[VoiceRow]:
    """A student's vibrato by context."""
    actor = actor_of(request)
    return [VoiceRow(**row) for row in pooled.voice(actor, people.student(actor, student_id))]


@router.post("/guesses", response={201: GuessRead}, operation_id="ask_guess")
def ask_guess(request: HttpRequest, file: UploadedFile) -> Status[GuessRead]:
    """Hear a recording whose drill nobody has named; which drills it may be is there in a moment."""
    return Status(201, guess_read(guesses.ask(actor_of(request), file)))


@router.get("/rung", response=list[RungString], operation_id="rung_strings")
def list_rung(request: HttpRequest, drill_id: int, student_id: int | None = None) -> list[RungString]:
    """Strings that rang in the newest takes of a drill."""
    actor = actor_of(request)
    student = None if student_id is None else people.student(actor, student_id)
    found = pooled.rung(actor, drills.drill(actor, drill_id), student=student)
    return [RungString(**vars(r)) for r in found]


@router.get("/guesses/{uuid:guess_id}", response=GuessRead, operation_id="guess")
def read_guess(request: HttpRequest, guess_id: UUID) -> GuessRead:
    """What was heard in it."""
    return guess_read(guesses.guess(actor_of(request), guess_id))


@router.get("/{uuid:take_id}", response=TakeRead, operation_id="take")
def read_take(request: HttpRequest, take_id: UUID) -> TakeRead:
    """One take, whatever its state."""
    return take_read(selectors.take(actor_of(request), take_id))


@router.delete("/{uuid:take_id}", response={204: None}, operation_id="delete_take")
def delete_take(request: HttpRequest, take_id: UUID) -> Status[None]:
    """Delete a take for good."""
    actor = actor_of(request)
    take = selectors.take(actor, take_id)
    services.delete(actor, take)
    tell_settled(take)
    return Status(204, None)


@router.post("/{uuid:take_id}/hide", response={204: None}, operation_id="hide_take")
def hide_take(request: HttpRequest, take_id: UUID) -> Status[None]:
    """Take it out of the student's own lists."""
    actor = actor_of(request)
    services.hide(actor, selectors.take(actor, take_id))
    return Status(204, None)


@router.post("/{uuid:take_id}/measure", response=TakeRead, operation_id="measure_again")
def measure_again(request: HttpRequest, take_id: UUID, payload: MeasureAgain) -> TakeRead:
    """Measure a take once more, if wished against another drill."""
    actor = actor_of(request)
    drill = None if payload.drill_id is None else drills.drill(actor, payload.drill_id)
    services.measure_again(actor, selectors.take(actor, take_id), drill=drill)
    return take_read(selectors.take(actor, take_id))


@router.post("/{uuid:take_id}/guesses", response={201: GuessRead}, operation_id="ask_guess_of_take")
def ask_guess_of_take(request: HttpRequest, take_id: UUID) -> Status[GuessRead]:
    """Hear a take for what drill it may be of, where its notes do not fit the one it was sent for."""
    actor = actor_of(request)
    return Status(201, guess_read(guesses.ask_of(actor, selectors.take(actor, take_id))))


@router.put("/{uuid:take_id}/click", response=TakeRead, operation_id="say_click")
def say_click(request: HttpRequest, take_id: UUID, payload: ClickSaid) -> TakeRead:
    """A teacher's word on where the click lies; the take is measured again."""
    actor = actor_of(request)
    services.say_click(actor, selectors.take(actor, take_id), payload.click)
    return take_read(selectors.take(actor, take_id))


@router.get("/{uuid:take_id}/curves", response=Curves, operation_id="take_curves")
def read_curves(request: HttpRequest, take_id: UUID) -> HttpResponse:
    """Contour and outline, as stored: compressed columns."""
    actor = actor_of(request)
    take = selectors.take(actor, take_id)
    stored = selectors.drawn(take, "curves")
    services.saw(actor, take, "saw_take")
    with stored.open("rb") as file:
        answer = HttpResponse(file.read(), content_type="application/json")
    answer["Content-Encoding"] = "gzip"
    return answer


@router.get("/{uuid:take_id}/sound", response=bytes, operation_id="take_sound")
def read_sound(request: HttpRequest, take_id: UUID) -> HttpResponseBase:
    """A copy every browser plays (FLAC)."""
    actor = actor_of(request)
    take = selectors.take(actor, take_id)
    services.require_recording(take)
    stored = selectors.drawn(take, "listening")
    services.saw(actor, take, "heard_take")
    return stored_file(request, stored, "audio/flac")


@router.get("/{uuid:take_id}/original", response=bytes, operation_id="take_original")
def read_original(request: HttpRequest, take_id: UUID) -> HttpResponseBase:
    """The recording as it was sent."""
    actor = actor_of(request)
    take = selectors.take(actor, take_id)
    services.require_recording(take)
    services.saw(actor, take, "took_out_recording")
    return stored_file(request, take.upload, "application/octet-stream", name=take.original_name)

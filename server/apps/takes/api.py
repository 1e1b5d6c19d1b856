"""Addresses of takes."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, TypeVar
from uuid import UUID

from config.problems import ServiceError
from django.http import FileResponse, HttpRequest, HttpResponse
from django.utils.http import content_disposition_header
from fortimetra import Analysis as AnalysisContent
from fortimetra.judge.reasons import SENTENCES
from fortimetra.model.base import first_problem
from fortimetra.model.context import Click
from fortimetra.model.guitar import Guitar as GuitarContent
from ninja import Form, Router, Status
from ninja.files import UploadedFile
from pydantic import BaseModel, ValidationError

from apps.bench import selectors as bench
from apps.drills import selectors as drills
from apps.drills.schemas import drill_detail
from apps.guitars import selectors as guitars
from apps.people import selectors as people
from apps.people.actor import actor_of
from apps.takes import guesses, selectors, services
from apps.takes.schemas import (
    Capture,
    ClickSaid,
    Curves,
    GuessRead,
    MeasureAgain,
    SetupRead,
    SetupUsed,
    TakeMeasured,
    TakeRead,
    VoiceRow,
    guess_read,
    setup_read,
    take_read,
)

router = Router(tags=["takes"], by_alias=True)
MOST_JSON = 60_000
Given = TypeVar("Given", bound=BaseModel)


@router.get("", response=list[TakeRead], operation_id="takes")
def list_takes(request: HttpRequest, limit: int = 200) -> list[TakeRead]:
    """Takes, newest first."""
    return [take_read(t) for t in selectors.takes(actor_of(request))[: max(1, min(limit, 500))]]


@router.post("", response={201: TakeRead}, operation_id="upload_take")
def upload_take(
    request: HttpRequest,
    file: UploadedFile,
    student_id: Annotated[int, Form()],
    drill_id: Annotated[int | None, Form()] = None,
    guitar_id: Annotated[int | None, Form()] = None,
    played_at: Annotated[datetime | None, Form()] = None,
    click: Annotated[str | None, Form()] = None,
    capture: Annotated[str | None, Form()] = None,
    drill_version: Annotated[int | None, Form()] = None,
    id: Annotated[UUID | None, Form()] = None,
) -> Status[TakeRead]:
    """A recording of a student playing a drill, on the student's first guitar unless another is named.

    Without a drill it is a set-up take of the guitar. click and capture are JSON: the contract's click, and how it was
    recorded. drill_version: the version that was played, where it may have changed meanwhile. id: the sender's own, so that
    a recording whose answer was lost can be sent again without becoming two takes.
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
    captured = None if capture is None else _given(Capture, capture, "capture")
    take = services.receive(
        actor,
        student=student,
        version=drill.current if drill_version is None else drills.version(drill, drill_version),
        upload=file,
        played_at=played_at,
        guitar=guitar,
        take_id=id,
        click=None if click is None else _given(Click, click, "click"),
        capture=None if captured is None else captured.model_dump(mode="json"),
        invented=captured is not None and captured.simulated,
    )
    return Status(201, take_read(selectors.take(actor, take.pk)))


def _given(model: type[Given], text: str, name: str) -> Given:
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
    return [VoiceRow(**row) for row in selectors.voice(actor, people.student(actor, student_id))]


@router.post("/guesses", response={201: GuessRead}, operation_id="ask_guess")
def ask_guess(request: HttpRequest, file: UploadedFile) -> Status[GuessRead]:
    """Hear a recording whose drill nobody has named; which drills it may be is there in a moment."""
    return Status(201, guess_read(guesses.ask(actor_of(request), file)))


@router.get("/guesses/{uuid:guess_id}", response=GuessRead, operation_id="guess")
def read_guess(request: HttpRequest, guess_id: UUID) -> GuessRead:
    """What was heard in it."""
    return guess_read(guesses.looked_at(actor_of(request), guess_id))


@router.get("/{uuid:take_id}", response=TakeRead, operation_id="take")
def read_take(request: HttpRequest, take_id: UUID) -> TakeRead:
    """One take, whatever its state."""
    return take_read(selectors.take(actor_of(request), take_id))


@router.delete("/{uuid:take_id}", response={204: None}, operation_id="delete_take")
def delete_take(request: HttpRequest, take_id: UUID) -> Status[None]:
    """Delete a take for good."""
    actor = actor_of(request)
    services.delete(actor, selectors.take(actor, take_id))
    return Status(204, None)


@router.post("/{uuid:take_id}/measure", response=TakeRead, operation_id="measure_again")
def measure_again(request: HttpRequest, take_id: UUID, payload: MeasureAgain) -> TakeRead:
    """Measure a take once more, if wished against another drill."""
    actor = actor_of(request)
    drill = None if payload.drill_id is None else drills.drill(actor, payload.drill_id)
    services.measure_again(actor, selectors.take(actor, take_id), drill=drill)
    return take_read(selectors.take(actor, take_id))


@router.put("/{uuid:take_id}/click", response=TakeRead, operation_id="say_click")
def say_click(request: HttpRequest, take_id: UUID, payload: ClickSaid) -> TakeRead:
    """A teacher's word on where the click lies; the take is measured again."""
    actor = actor_of(request)
    services.say_click(actor, selectors.take(actor, take_id), payload.click)
    return take_read(selectors.take(actor, take_id))


@router.get("/{uuid:take_id}/analysis", response=TakeMeasured, operation_id="take_analysis")
def read_analysis(request: HttpRequest, take_id: UUID) -> TakeMeasured:
    """What was found in a take; a refused take answers with its problem."""
    actor = actor_of(request)
    analysis = selectors.analysis(actor, take_id)
    guitar = None if analysis.guitar is None else GuitarContent.model_validate(analysis.guitar)
    drill = drill_detail(analysis.drill_version.drill, analysis.drill_version, guitar=guitar)
    take = selectors.take(actor, take_id)
    set_up = analysis.setup_take
    return TakeMeasured(
        take=take_read(take),
        drill=drill,
        setup=None if set_up is None else SetupUsed(take_id=set_up.pk, played_at=set_up.played_at),
        hearing=bench.hearing(actor, take.student),
        analysis=AnalysisContent.model_validate(analysis.content),
        seconds=analysis.seconds,
        tolerances=drill.content.limits(),
        sentences=SENTENCES,
    )


@router.get("/{uuid:take_id}/curves", response=Curves, operation_id="take_curves")
def read_curves(request: HttpRequest, take_id: UUID) -> HttpResponse:
    """Contour and outline, as stored: compressed columns."""
    stored = selectors.analysis(actor_of(request), take_id).curves
    with stored.open("rb") as file:
        answer = HttpResponse(file.read(), content_type="application/json")
    answer["Content-Encoding"] = "gzip"
    return answer


@router.get("/{uuid:take_id}/sound", response=bytes, operation_id="take_sound")
def read_sound(request: HttpRequest, take_id: UUID) -> FileResponse:
    """A copy every browser plays (FLAC)."""
    stored = selectors.analysis(actor_of(request), take_id).listening
    return FileResponse(stored.open("rb"), content_type="audio/flac")


@router.get("/{uuid:take_id}/original", response=bytes, operation_id="take_original")
def read_original(request: HttpRequest, take_id: UUID) -> FileResponse:
    """The recording as it was sent."""
    take = selectors.take(actor_of(request), take_id)
    answer = FileResponse(take.upload.open("rb"), content_type="application/octet-stream")
    answer["Content-Disposition"] = content_disposition_header(True, take.original_name) or "attachment"
    return answer

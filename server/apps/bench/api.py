"""Addresses of the workbench."""

from __future__ import annotations

from typing import Annotated

from config.problems import ServiceError, not_found
from django.http import HttpRequest, HttpResponse
from fortimetra import SignalError
from fortimetra.model import STANDARD_TUNING, checked_tuning
from fortimetra.workbench import (
    CALCULATORS,
    UNITS,
    click_track,
    plucked,
    read_inputs,
    sine,
    sound_file,
    target,
    targets,
    trial_sound,
)
from ninja import Query, Router, Status

from apps.bench import selectors, services
from apps.bench.models import EarCheck
from apps.bench.schemas import (
    BenchAnswer,
    BenchCalculator,
    EarAnswer,
    EarRead,
    EarStart,
    SoundKind,
    TargetRead,
    answer_read,
    calculator_read,
    target_read,
)
from apps.guitars import selectors as guitars
from apps.people import selectors as people
from apps.people.actor import actor_of

router = Router(tags=["bench"])
Hz = Annotated[float, Query(ge=20, le=5000)]


@router.get("/calculators", response=list[BenchCalculator], operation_id="calculators")
def list_calculators(request: HttpRequest) -> list[BenchCalculator]:
    """All calculators."""
    return [calculator_read(c) for c in CALCULATORS.values()]


@router.get("/calculators/{calculator_id}", response=BenchAnswer, operation_id="calculate")
def calculate(request: HttpRequest, calculator_id: str) -> BenchAnswer:
    """What a calculator says; its fields are the query, what is not given has its default."""
    found = CALCULATORS.get(calculator_id)
    if found is None:
        raise not_found()
    try:
        values = read_inputs(found, request.GET.dict())
        return answer_read(values, found.compute(values))
    except SignalError as error:
        raise ServiceError(422, error.code, error.detail) from error


@router.get("/target", response=TargetRead, operation_id="target")
def read_target(
    request: HttpRequest,
    string: int,
    fret: int,
    bend_cents: float,
    guitar_id: int | None = None,
    tuning: str | None = None,
) -> TargetRead:
    """The target of a bend, on a guitar, in a tuning (names, string 1 first), or in standard tuning."""
    where = _where(request, guitar_id, tuning)
    try:
        return target_read(target(string=string, fret=fret, bend_cents=bend_cents, **where))  # type: ignore[arg-type]
    except SignalError as error:
        raise ServiceError(422, error.code, error.detail) from error


@router.get("/targets", response=list[TargetRead], operation_id="targets")
def list_targets(
    request: HttpRequest, string: int, bend_cents: float, guitar_id: int | None = None, tuning: str | None = None
) -> list[TargetRead]:
    """The targets of one bend at every fret of a string."""
    where = _where(request, guitar_id, tuning)
    try:
        return [target_read(t) for t in targets(string=string, bend_cents=bend_cents, **where)]  # type: ignore[arg-type]
    except SignalError as error:
        raise ServiceError(422, error.code, error.detail) from error


def _where(request: HttpRequest, guitar_id: int | None, tuning: str | None) -> dict[str, object]:
    """What the core has to know of the guitar."""
    if guitar_id is not None:
        description = guitars.guitar(actor_of(request), guitar_id).description
        return {
            name: tuple(description[name]) if name == "tuning" else description[name]
            for name in ("tuning", "capo", "a4_hz", "frets")
        }
    if not tuning:
        return {"tuning": STANDARD_TUNING}
    names = tuple(tuning.replace(",", " ").split())
    if not 4 <= len(names) <= 8:
        raise ServiceError(
            422, "bench_invalid", "Tuning: give four to eight strings, string 1 first, as E4 B3 G3 D3 A2 E2."
        )
    try:
        return {"tuning": checked_tuning(names)}
    except ValueError as error:
        raise ServiceError(422, "bench_invalid", f"Tuning: {error}") from error


@router.get("/tone", response=bytes, operation_id="tone")
def read_tone(
    request: HttpRequest,
    hz: Hz,
    seconds: Annotated[float, Query(ge=0.2, le=30)] = 2.0,
    sound: str = "plucked",
    kind: SoundKind = "wav",
) -> HttpResponse:
    """A reference tone as a file."""
    samples = plucked(hz, seconds) if sound == "plucked" else sine(hz, seconds)
    return _file(sound_file(samples, kind), kind, f"tone-{hz:.2f}-Hz")


@router.get("/click", response=bytes, operation_id="click")
def read_click(
    request: HttpRequest,
    bpm: Annotated[float, Query(ge=20, le=400)],
    beats_per_bar: Annotated[int, Query(ge=1, le=16)] = 4,
    bars: Annotated[int, Query(ge=1, le=200)] = 8,
    count_in_bars: Annotated[int, Query(ge=0, le=4)] = 1,
    per_beat: Annotated[int, Query(ge=1, le=8)] = 1,
    accent: bool = True,
    kind: SoundKind = "wav",
) -> HttpResponse:
    """A click to go."""
    try:
        track = click_track(
            bpm=bpm,
            beats_per_bar=beats_per_bar,
            bars=bars,
            count_in_bars=count_in_bars,
            per_beat=per_beat,
            accent=accent,
        )
    except SignalError as error:
        raise ServiceError(422, error.code, error.detail) from error
    return _file(sound_file(track.samples, kind), kind, f"click-{bpm:g}-bpm")


def _file(content: bytes, kind: SoundKind, name: str) -> HttpResponse:
    answer = HttpResponse(content, content_type=f"audio/{kind}")
    answer["Content-Disposition"] = f'inline; filename="{name}.{kind}"'
    return answer


# -- the ear check --------------------------------------------------------------------------------------


@router.get("/ear-checks", response=list[EarRead], operation_id="ear_checks")
def list_ear_checks(request: HttpRequest, student_id: int) -> list[EarRead]:
    """Finished ear checks of a student, newest first."""
    found = selectors.ear_checks(actor_of(request)).filter(student_id=student_id, finished_at__isnull=False)
    return [_read(check) for check in found[:100]]


@router.post("/ear-checks", response={201: EarRead}, operation_id="start_ear_check")
def start_ear_check(request: HttpRequest, payload: EarStart) -> Status[EarRead]:
    """Begin an ear check."""
    actor = actor_of(request)
    student = people.student(actor, payload.student_id)
    return Status(201, _read(services.start(actor, student=student, kind=payload.kind)))


@router.get("/ear-checks/{int:check_id}", response=EarRead, operation_id="ear_check")
def read_ear_check(request: HttpRequest, check_id: int) -> EarRead:
    """Where an ear check stands."""
    return _read(selectors.ear_check(actor_of(request), check_id))


@router.post("/ear-checks/{int:check_id}/answers", response=EarRead, operation_id="answer_ear_check")
def answer_ear_check(request: HttpRequest, check_id: int, payload: EarAnswer) -> EarRead:
    """Answer the present trial."""
    actor = actor_of(request)
    check = selectors.ear_check(actor, check_id)
    return _read(services.answer(actor, check, number=payload.number, said=payload.said))


@router.get("/ear-checks/{int:check_id}/sound", response=bytes, operation_id="ear_check_sound")
def ear_check_sound(request: HttpRequest, check_id: int) -> HttpResponse:
    """What is to be judged in the present trial."""
    check = selectors.ear_check(actor_of(request), check_id)
    trial = services.state_of(check).trial
    if trial is None:
        raise ServiceError(409, "finished", "This ear check is finished; begin another.")
    answer = _file(sound_file(trial_sound(check.kind, trial), "wav"), "wav", "trial")  # type: ignore[arg-type]
    answer["Cache-Control"] = "no-store"
    return answer


def _read(check: EarCheck) -> EarRead:
    state = services.state_of(check)
    return EarRead(
        id=check.pk,
        student_id=check.student_id,
        kind=check.kind,
        unit=UNITS[check.kind],  # type: ignore[index]
        started_at=check.started_at,
        answered=state.answered,
        turns=state.turns,
        finished=check.finished_at is not None,
        threshold=check.threshold,
        u=check.u,
        false_alarms=check.false_alarms,
        reason=check.reason,
    )

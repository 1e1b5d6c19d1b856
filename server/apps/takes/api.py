"""Addresses of takes."""

from __future__ import annotations

from typing import Annotated, TypeVar
from uuid import UUID

from config.days import Moment
from config.files import stored_file
from config.problems import ServiceError
from django.http import HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.utils.http import content_disposition_header
from fortimetra import DrillError
from fortimetra.judge import SENTENCES, compare
from fortimetra.model import Click, Mark, Pin, first_problem
from ninja import Form, Query, Router, Status
from ninja.files import UploadedFile
from pydantic import BaseModel, ValidationError

from apps.bench import selectors as bench
from apps.drills import selectors as drills
from apps.drills.models import DrillVersion
from apps.drills.schemas import drill_detail
from apps.guitars import selectors as guitars
from apps.people import audit
from apps.people import selectors as people
from apps.people.actor import actor_of
from apps.people.models import User
from apps.takes import exports, guesses, pooled, selectors, services, trials, word
from apps.takes.models import Take, Trial
from apps.takes.schemas import (
    Capture,
    ClickSaid,
    CompareRead,
    Curves,
    DeskCounts,
    DeskRead,
    GuessRead,
    Judge,
    JudgedRead,
    MeasureAgain,
    RungString,
    SetupRead,
    SetupUsed,
    TakeMeasured,
    TakeRead,
    TrialRead,
    TryTake,
    UndoMark,
    VoiceRow,
    desk_row,
    guess_read,
    mark_read,
    setup_read,
    take_read,
)

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
        word.drill_at(version.content, per_click)
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


@router.get("/desk", response=DeskRead, operation_id="desk")
def read_desk(
    request: HttpRequest,
    show: word.Show = "waiting",
    student_id: int | None = None,
    drill_id: int | None = None,
    family: str | None = None,
    limit: int = 100,
    offset: Annotated[int, Query(ge=0, le=10_000_000)] = 0,
) -> HttpResponse:
    """Takes in the order they need a teacher."""
    actor = actor_of(request)
    found = word.desk(actor, show=show, student_id=student_id, drill_id=drill_id, family=family)
    rows = word.desk_rows(found, max(0, offset), max(1, min(limit, 500)))
    answer = DeskRead(
        rows=[desk_row(row) for row in rows], total=found.count(), counts=DeskCounts(**word.desk_counts(actor))
    )
    # Written out once: what made it has been checked already.
    return HttpResponse(answer.model_dump_json(), content_type="application/json")


@router.post("/judge", response=JudgedRead, operation_id="judge_takes")
def judge_takes(request: HttpRequest, payload: Judge) -> JudgedRead:
    """Confirm takes as they stand, or put them back on the Desk; those that changed meanwhile are left alone and
    named.
    """
    wanted = [word.Judging(t.id, t.word_version) for t in payload.takes]
    done, changed = word.judge(actor_of(request), wanted, judged=payload.judged)
    return JudgedRead(done=done, changed=changed)


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
    word.tell_settled(take)
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


@router.put("/{uuid:take_id}/click", response=TakeRead, operation_id="say_click")
def say_click(request: HttpRequest, take_id: UUID, payload: ClickSaid) -> TakeRead:
    """A teacher's word on where the click lies; the take is measured again."""
    actor = actor_of(request)
    services.say_click(actor, selectors.take(actor, take_id), payload.click)
    return take_read(selectors.take(actor, take_id))


@router.get("/{uuid:take_id}/analysis", response=TakeMeasured, operation_id="take_analysis")
def read_analysis(request: HttpRequest, take_id: UUID) -> TakeMeasured:
    """What was found in a take, as the teacher left it; a refused take answers with its problem."""
    return _measured(actor_of(request), take_id, looked=True)


def _saw(actor: User, take: Take, action: str) -> None:
    audit.saw(actor, action, student=take.student, what=take.drill_version.drill.title, object_id=take.pk)


def _measured(actor: User, take_id: UUID, *, looked: bool = False) -> TakeMeasured:
    analysis = selectors.analysis(actor, take_id)
    drill = word.drill_of(analysis)
    take = selectors.take(actor, take_id)
    if looked:
        _saw(actor, take, "saw_take")
    marks = word.marks_of(take)
    set_up = analysis.setup_take
    return TakeMeasured(
        take=take_read(take),
        drill=drill_detail(analysis.drill_version.drill, analysis.drill_version, content=drill),
        setup=None if set_up is None else SetupUsed(take_id=set_up.pk, played_at=set_up.played_at),
        hearing=bench.hearing(actor, take.student),
        analysis=word.as_left(analysis, marks),
        seconds=analysis.seconds,
        tolerances=drill.limits(),
        sentences=SENTENCES,
        marks=[mark_read(m) for m in marks],
        pins=[Pin.model_validate(p) for p in take.pins],
    )


@router.post("/{uuid:take_id}/marks", response={201: TakeMeasured}, operation_id="mark_take")
def mark_take(request: HttpRequest, take_id: UUID, payload: Mark) -> Status[TakeMeasured]:
    """Say something of a take's notes; the answer is the take with it."""
    actor = actor_of(request)
    word.add_mark(actor, take_id, payload)
    return Status(201, _measured(actor, take_id))


@router.put("/{uuid:take_id}/marks/{int:mark_id}", response=TakeMeasured, operation_id="undo_mark")
def undo_mark(request: HttpRequest, take_id: UUID, mark_id: int, payload: UndoMark) -> TakeMeasured:
    """Take a word back, or let it count again."""
    actor = actor_of(request)
    word.undo_mark(actor, take_id, mark_id, undone=payload.undone)
    return _measured(actor, take_id)


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
        state=trial.state,  # type: ignore[arg-type]
        problem=trial.problem_detail,
        drill=trial.drill_version.drill.title,
        core_versions=(old.core_version, new.core_version) if new is not None else None,
        before=before.summary if before else None,
        after=after.summary if after else None,
        ticks=(old.ticks, new.ticks) if new is not None else None,
        comparison=compare(before, after, word.drill_of(new).limits()) if before and after and new else None,
        out_of_date=trial.take.current_id != trial.against_id,
    )


@router.get("/{uuid:take_id}/compare/{uuid:other_id}", response=CompareRead, operation_id="compare_takes")
def compare_takes(request: HttpRequest, take_id: UUID, other_id: UUID) -> CompareRead:
    """Two takes note by note; the one played first is the earlier."""
    actor = actor_of(request)
    a, b = sorted((selectors.take(actor, take_id), selectors.take(actor, other_id)), key=lambda t: t.played_at)
    was, now = (selectors.analysis(actor, t.pk) for t in (a, b))
    before, after = (word.as_left(found, word.marks_of(t)) for found, t in ((was, a), (now, b)))
    comparison = compare(before, after, word.drill_of(now).limits())
    if not comparison.pairs:
        raise ServiceError(
            422, "nothing_shared", "These takes have no asked note in common; compare takes of one drill."
        )
    return CompareRead(before=take_read(a), after=take_read(b), comparison=comparison)


@router.get("/{uuid:take_id}/curves", response=Curves, operation_id="take_curves")
def read_curves(request: HttpRequest, take_id: UUID) -> HttpResponse:
    """Contour and outline, as stored: compressed columns."""
    actor = actor_of(request)
    stored = selectors.drawn(actor, take_id, "curves")
    _saw(actor, selectors.take(actor, take_id), "saw_take")
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
    stored = selectors.drawn(actor, take_id, "listening")
    _saw(actor, take, "heard_take")
    return stored_file(request, stored, "audio/flac")


@router.get("/{uuid:take_id}/export/{form}", response=bytes, operation_id="export_take")
def export_take(request: HttpRequest, take_id: UUID, form: exports.Kind) -> HttpResponse:
    """A take's results as a file: notes (CSV), analysis (JSON), jams, midi (heard notes), clicks (CSV), contour
    (CSV).
    """
    actor = actor_of(request)
    stored = selectors.analysis(actor, take_id)
    take = selectors.take(actor, take_id)
    _saw(actor, take, "took_out_take")
    made = exports.export(take, stored, form)
    name = f"{take.student.name}, {take.drill_version.drill.title}, {take.played_at:%Y-%m-%d %H%M}.{made.ending}"
    answer = HttpResponse(made.content, content_type=made.content_type)
    answer["Content-Disposition"] = content_disposition_header(True, name.replace("/", "-")) or "attachment"
    return answer


@router.get("/{uuid:take_id}/original", response=bytes, operation_id="take_original")
def read_original(request: HttpRequest, take_id: UUID) -> HttpResponseBase:
    """The recording as it was sent."""
    actor = actor_of(request)
    take = selectors.take(actor, take_id)
    services.require_recording(take)
    _saw(actor, take, "took_out_recording")
    return stored_file(request, take.upload, "application/octet-stream", name=take.original_name)

"""Addresses of judging takes: the Desk, a take's analysis, the words on it, two takes side by side, exports."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from config.problems import ServiceError
from django.http import HttpRequest, HttpResponse
from django.utils.http import content_disposition_header
from fortimetra.judge import SENTENCES, compare
from fortimetra.model import Mark, Pin
from ninja import Query, Router, Status

from apps.bench import selectors as bench
from apps.drills.schemas import drill_detail
from apps.people.actor import actor_of
from apps.people.models import User
from apps.reviews import exports, word
from apps.reviews.schemas import (
    CompareRead,
    DeskCounts,
    DeskRead,
    Judge,
    JudgedRead,
    SetupUsed,
    TakeMeasured,
    UndoMark,
    desk_row,
    mark_read,
)
from apps.takes import selectors, services
from apps.takes.as_played import drill_of
from apps.takes.schemas import take_read

router = Router(tags=["takes"], by_alias=True)


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
    counts = word.desk_counts(actor)
    # All of a teacher's takes that wait, or are judged, are counted already.
    filtered = any(asked is not None for asked in (student_id, drill_id, family))
    whole = not filtered and show != "all" and actor.role == User.Role.TEACHER
    total = counts[show] if whole else found.count()
    answer = DeskRead(rows=[desk_row(row) for row in rows], total=total, counts=DeskCounts(**counts))
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


@router.get("/{uuid:take_id}/analysis", response=TakeMeasured, operation_id="take_analysis")
def read_analysis(request: HttpRequest, take_id: UUID) -> TakeMeasured:
    """What was found in a take, as the teacher left it; a refused take answers with its problem."""
    return _measured(actor_of(request), take_id, looked=True)


def _measured(actor: User, take_id: UUID, *, looked: bool = False) -> TakeMeasured:
    analysis = selectors.analysis(actor, take_id)
    drill, take = drill_of(analysis), analysis.take
    if looked:
        services.saw(actor, take, "saw_take")
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


@router.get("/{uuid:take_id}/compare/{uuid:other_id}", response=CompareRead, operation_id="compare_takes")
def compare_takes(request: HttpRequest, take_id: UUID, other_id: UUID) -> CompareRead:
    """Two takes note by note; the one played first is the earlier."""
    actor = actor_of(request)
    both = (selectors.analysis(actor, pk) for pk in (take_id, other_id))
    was, now = sorted(both, key=lambda found: found.take.played_at)
    before, after = (word.as_left(found, word.marks_of(found.take)) for found in (was, now))
    comparison = compare(before, after, drill_of(now).limits())
    if not comparison.pairs:
        raise ServiceError(
            422, "nothing_shared", "These takes have no asked note in common; compare takes of one drill."
        )
    return CompareRead(before=take_read(was.take), after=take_read(now.take), comparison=comparison)


@router.get("/{uuid:take_id}/export/{form}", response=bytes, operation_id="export_take")
def export_take(request: HttpRequest, take_id: UUID, form: exports.Kind) -> HttpResponse:
    """A take's results as a file: notes (CSV), analysis (JSON), jams, midi (heard notes), clicks (CSV), contour
    (CSV).
    """
    actor = actor_of(request)
    stored = selectors.analysis(actor, take_id)
    take = stored.take
    services.saw(actor, take, "took_out_take")
    made = exports.export(take, stored, form)
    name = f"{take.student.name}, {take.drill_version.drill.title}, {take.played_at:%Y-%m-%d %H%M}.{made.ending}"
    answer = HttpResponse(made.content, content_type=made.content_type)
    answer["Content-Disposition"] = content_disposition_header(True, name.replace("/", "-")) or "attachment"
    return answer

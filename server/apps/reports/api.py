"""Addresses of progress, lesson sheets, archives, and of parting with a student."""

from __future__ import annotations

from uuid import UUID

from config.files import stored_file
from config.problems import ServiceError
from django.http import HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from fortimetra.coach import Pooled
from ninja import Router, Status

from apps.drills import selectors as drills
from apps.guitars import selectors as guitars
from apps.people import audit
from apps.people import selectors as people
from apps.people.actor import actor_of
from apps.people.models import Student, User
from apps.reports import page, progress, sheets
from apps.reports.models import LessonSheet
from apps.reports.schemas import (
    BendPlace,
    CleanTempo,
    MemberProgress,
    MemberShare,
    OverviewRead,
    OverviewRow,
    PointRead,
    ProgressRead,
    RungRead,
    SeriesRead,
    SetUpChange,
    SheetChange,
    SheetMake,
    SheetRead,
    SheetShare,
    TrendRead,
    VoicePoint,
    sheet_read,
)

router = Router(tags=["reports"])
# Shown inside our own page, and nowhere else.
FRAMED = {"frame-ancestors": ["'self'"]}


@router.get("/overview", response=OverviewRead, operation_id="overview")
def read_overview(request: HttpRequest, student_id: int, guitar_id: int | None = None) -> HttpResponse:
    """Everything a student works on, in lines; bends by place; the vibrato over time."""
    actor = actor_of(request)
    student = people.student(actor, student_id)
    guitar = None if guitar_id is None else guitars.guitar(actor, guitar_id)
    answer = OverviewRead(
        drills=[OverviewRow.model_validate(row, from_attributes=True) for row in progress.overview(actor, student)],
        bends=[_place(p) for p in progress.bend_map(actor, student, guitar=guitar)],
        voice=[
            VoicePoint(at=at, take_id=pk, core_version=core, on=on, rate_hz=rate, extent_cents=extent)
            for at, pk, core, on, rate, extent in progress.voice(actor, student)
        ],
        set_ups=_set_ups(actor, student),
    )
    return HttpResponse(answer.model_dump_json(), content_type="application/json")


def _place(p: Pooled) -> BendPlace:
    return BendPlace(**vars(p))


def _set_ups(actor: User, student: Student) -> list[SetUpChange]:
    return [SetUpChange(at=at, take_id=pk, guitar=name) for at, pk, name in progress.set_up_changes(actor, student)]


@router.get("/progress", response=ProgressRead, operation_id="progress")
def read_progress(request: HttpRequest, student_id: int, drill_id: int) -> HttpResponse:
    """A drill of a student from take to take."""
    actor = actor_of(request)
    student, drill = people.student(actor, student_id), drills.drill(actor, drill_id)
    audit.saw(actor, "saw_progress", student=student, what=drill.title, object_id=drill.pk)
    found = progress.points(actor, student, drill)
    answer = ProgressRead(
        drill_id=drill.pk,
        drill=drill.title,
        series=[_series(s, found) for s in progress.series(drill, found)],
        clean_tempo=[
            CleanTempo(day=day, per_click=per_click, bpm=bpm)
            for (day, per_click), bpm in sorted(progress.clean_tempo(student, found).items(), key=lambda t: t[0][0])
        ],
        set_ups=_set_ups(actor, student),
        core_versions=sorted({p.core_version for p in found}),
        before=found[0].take_id if len(found) > 1 else None,
        after=found[-1].take_id if len(found) > 1 else None,
        members=[
            MemberProgress(
                title=title, takes=[MemberShare(take_id=pk, played_at=at, percent=share) for pk, at, share in takes]
            )
            for title, takes in progress.members(found)
        ],
        rung=[RungRead(**vars(r)) for r in progress.rung(found)],
    )
    return HttpResponse(answer.model_dump_json(), content_type="application/json")


def _series(found: progress.Series, points: list[progress.Point]) -> SeriesRead:
    followed, towards = found.followed, found.trend
    return SeriesRead(
        key=followed.key,
        title=followed.title,
        unit=followed.unit,
        wanted=followed.wanted,
        limit=found.limit,
        points=[
            PointRead(
                take_id=p.take_id, played_at=p.played_at, core_version=p.core_version, bpm=p.bpm, per_click=p.per_click,
                guitar_id=p.guitar_id, setup_take_id=p.setup_take_id,
                value=p.values[followed.key].value, u=p.values[followed.key].u,
            )
            for p in points
            if followed.key in p.values
        ],
        trend=None if towards is None else TrendRead(**vars(towards), sure=towards.sure),
        says=found.says,
    )  # fmt: skip


@router.get("/sheets", response=list[SheetRead], operation_id="sheets")
def list_sheets(request: HttpRequest, student_id: int) -> list[SheetRead]:
    """Lesson sheets of a student, newest first."""
    actor = actor_of(request)
    student = people.student(actor, student_id)
    return [_sheet(request, s) for s in sheets.sheets(actor).filter(student=student)[:200]]


def _sheet(request: HttpRequest, found: LessonSheet) -> SheetRead:
    link = None if found.share is None else request.build_absolute_uri(f"/sheet/{found.share}")
    return sheet_read(found, link=link)


@router.post("/sheets", response={201: SheetRead}, operation_id="make_sheet")
def make_sheet(request: HttpRequest, payload: SheetMake) -> Status[SheetRead]:
    """A lesson sheet of what was done since the last one."""
    actor = actor_of(request)
    made = sheets.make(actor, people.student(actor, payload.student_id), since=payload.since, paper=payload.paper)
    return Status(201, _sheet(request, made))


@router.get("/sheets/{uuid:sheet_id}", response=SheetRead, operation_id="sheet")
def read_sheet(request: HttpRequest, sheet_id: UUID) -> SheetRead:
    """One lesson sheet."""
    return _sheet(request, sheets.sheet(actor_of(request), sheet_id))


@router.put("/sheets/{uuid:sheet_id}", response=SheetRead, operation_id="change_sheet")
def change_sheet(request: HttpRequest, sheet_id: UUID, payload: SheetChange) -> SheetRead:
    """The teacher's words, and which findings are shown."""
    actor = actor_of(request)
    found = sheets.change(
        actor,
        sheets.sheet(actor, sheet_id),
        note=payload.note,
        findings=[f.model_dump() for f in payload.findings],
        paper=payload.paper,
    )
    return _sheet(request, found)


@router.delete("/sheets/{uuid:sheet_id}", response={204: None}, operation_id="delete_sheet")
def delete_sheet(request: HttpRequest, sheet_id: UUID) -> Status[None]:
    """Delete a lesson sheet; a link to it no longer works."""
    actor = actor_of(request)
    sheets.delete(actor, sheets.sheet(actor, sheet_id))
    return Status(204, None)


@router.put("/sheets/{uuid:sheet_id}/share", response=SheetRead, operation_id="share_sheet")
def share_sheet(request: HttpRequest, sheet_id: UUID, payload: SheetShare) -> SheetRead:
    """A link the student may keep, or none any more."""
    actor = actor_of(request)
    return _sheet(request, sheets.share(actor, sheets.sheet(actor, sheet_id), on=payload.on))


@router.get("/sheets/{uuid:sheet_id}/page", response=bytes, operation_id="sheet_page")
def sheet_page(request: HttpRequest, sheet_id: UUID) -> HttpResponse:
    """The sheet as it is printed."""
    answer = HttpResponse(page.html(sheets.sheet(actor_of(request), sheet_id)))
    answer["X-Frame-Options"] = "SAMEORIGIN"
    answer._csp_replace = FRAMED  # type: ignore[attr-defined]
    answer["Cache-Control"] = "no-store"
    return answer


@router.post("/sheets/{uuid:sheet_id}/pdf", response=SheetRead, operation_id="want_pdf")
def want_pdf(request: HttpRequest, sheet_id: UUID) -> SheetRead:
    """Have the PDF made; asked again, the answer says when it is ready."""
    return _sheet(request, sheets.want_pdf(sheets.sheet(actor_of(request), sheet_id)))


@router.get("/sheets/{uuid:sheet_id}/pdf", response=bytes, operation_id="sheet_pdf")
def read_pdf(request: HttpRequest, sheet_id: UUID) -> HttpResponseBase:
    """The PDF, once it is ready."""
    return pdf_of(request, sheets.sheet(actor_of(request), sheet_id))


def pdf_of(request: HttpRequest, found: LessonSheet) -> HttpResponseBase:
    """The file of a sheet; raises ServiceError while there is none."""
    if found.pdf_state != LessonSheet.Pdf.READY:
        raise ServiceError(409, "not_ready", "The PDF is not ready yet; ask for it first.")
    name = f"Lesson {found.content['day']}, {found.student.name}.pdf"
    return stored_file(request, found.pdf, "application/pdf", name=name.replace("/", "-"))

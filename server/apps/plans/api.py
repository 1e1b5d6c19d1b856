"""Addresses of plans, ladders and the logbook."""

from __future__ import annotations

from uuid import UUID

from config.days import Day
from config.problems import ServiceError
from django.http import HttpRequest, HttpResponse
from django.utils.http import content_disposition_header
from fortimetra import Drill as DrillContent
from fortimetra.coach import COURSES
from fortimetra.model import Step, rule_for
from ninja import Router, Status

from apps.drills import selectors as drills
from apps.drills.models import Drill
from apps.people import audit
from apps.people import selectors as people
from apps.people.actor import actor_of
from apps.people.models import Student, User
from apps.people.tokens import digest_of
from apps.plans import calendar, courses, ladders, logbook, planning, selectors, services
from apps.plans.models import Assignment, Hold, Practice
from apps.plans.schemas import (
    Assign,
    AssignmentRead,
    AssignmentTerms,
    BeginCourse,
    BlockRead,
    CautionRead,
    ConfirmStep,
    CourseBegun,
    CoursePart,
    CourseRead,
    DayRead,
    FeedRead,
    HoldRead,
    LadderRead,
    LogbookRead,
    LogDay,
    LogRead,
    LogWrite,
    NeedsRead,
    PlanRead,
    PracticeChange,
    PracticeRead,
    ProposalRead,
    SetStep,
    ShiftDay,
    assignment_read,
    log_read,
    move_read,
    proposal_read,
)

router = Router(tags=["plans"])
ICS = "text/calendar; charset=utf-8"


@router.get("/week", response=PlanRead, operation_id="week")
def read_week(request: HttpRequest, student_id: int, day: Day | None = None) -> PlanRead:
    """The week a day lies in; this week without one."""
    student = people.student(actor_of(request), student_id)
    today = selectors.today(student.studio)
    day = day or today
    if abs(day - today) > planning.MOST_AHEAD:
        raise ServiceError(422, "too_far", "Plans are shown a year back and ahead.")
    monday = planning.monday_of(day)
    found = planning.plan(student, monday=monday)
    return PlanRead(
        student_id=student.pk,
        student=student.name,
        monday=monday,
        today=today,
        days=[_day(found, i) for i in range(len(found.days))],
        assignments=[assignment_read(a) for a in found.assignments],
        hold=_hold(student, found.hold),
        practice=_practice(found.practice),
    )


def _day(found: planning.Plan, number: int) -> DayRead:
    day = found.days[number]
    done = {b.id: found.done.get((day.day, b.id), 0.0) for b in day.blocks if b.id is not None}
    recorded = {i: found.recorded.get((day.day, found.by_id[i].drill_id), 0) for i in done}
    last = {b.id: n for n, b in enumerate(day.blocks)}
    blocks = []
    for n, b in enumerate(day.blocks):
        # What was done fills the parts of a dose one after the other; what is over belongs to the last.
        part = 0.0 if b.id is None else done[b.id] if last[b.id] == n else min(done[b.id], b.minutes)
        if b.id is not None:
            done[b.id] -= part
        takes = 0 if b.id is None else recorded.pop(b.id, 0)
        blocks.append(BlockRead(assignment_id=b.id, minutes=b.minutes, done=part, recorded=takes))
    return DayRead(
        day=day.day,
        minutes=day.minutes,
        available=found.practice.minutes[day.day.weekday()],
        blocks=blocks,
        left_out=[found.by_id[i].drill.title for i in day.left_out],
        cautions=[CautionRead(code=c.code, text=c.text) for c in planning.cautions(found, day)],
    )


def _hold(student: Student, hold: Hold | None) -> HoldRead | None:
    if hold is None:
        return None
    words = ladders.held_words(student, hold)
    return HoldRead(since=hold.since, text=hold.entry.text if hold.entry else "", says=words[0].upper() + words[1:])


def _practice(practice: Practice) -> PracticeRead:
    return PracticeRead(minutes=practice.minutes, at=practice.at, feed=practice.feed is not None)


@router.put("/practice/{int:student_id}", response=PracticeRead, operation_id="set_practice")
def set_practice(request: HttpRequest, student_id: int, payload: PracticeChange) -> PracticeRead:
    """When a student practises."""
    actor = actor_of(request)
    student = people.student(actor, student_id)
    return _practice(services.set_practice(actor, student, minutes=payload.minutes, at=payload.at))


@router.get("/assignments", response=list[AssignmentRead], operation_id="assignments")
def list_assignments(request: HttpRequest, student_id: int | None = None, running: bool = True) -> list[AssignmentRead]:
    """What students work on; those with a step to confirm first."""
    actor = actor_of(request)
    found = selectors.assignments(actor, running=running)
    if student_id is not None:
        found = found.filter(student=people.student(actor, student_id))
    rows = [assignment_read(a) for a in found[:1000]]
    return sorted(rows, key=lambda r: r.standing.move not in ("up", "down"))


@router.get("/proposals", response=list[ProposalRead], operation_id="proposals")
def list_proposals(request: HttpRequest) -> list[ProposalRead]:
    """Steps that wait for this teacher's word, for the Desk."""
    return [proposal_read(a) for a in services.proposals(actor_of(request))[:500]]


@router.get("/needs", response=list[NeedsRead], operation_id="needs")
def list_needs(request: HttpRequest) -> list[NeedsRead]:
    """Of every student: what they work on, steps that wait, whether something hurts, this week's minutes, the newest
    take.
    """
    return [NeedsRead(**vars(n)) for n in selectors.needs(actor_of(request))]


@router.post("/assignments", response={201: AssignmentRead}, operation_id="assign")
def assign(request: HttpRequest, payload: Assign) -> Status[AssignmentRead]:
    """A drill for a student to work on."""
    actor = actor_of(request)
    student = people.student(actor, payload.student_id)
    drill = drills.drill(actor, payload.drill_id)
    pair = None if payload.pair_id is None else selectors.assignment(actor, payload.pair_id)
    made = services.assign(
        actor, student, drill, terms=_terms(student, drill, payload), step=payload.step or _written(drill), pair=pair
    )
    return Status(201, assignment_read(selectors.assignment(actor, made.pk)))


@router.get("/courses", response=list[CourseRead], operation_id="courses")
def list_courses(request: HttpRequest) -> list[CourseRead]:
    """Courses to begin, with the studio's drills they are made of."""
    titles = {part.title for course in COURSES for part in course.parts}
    found = drills.listed(actor_of(request)).filter(title__in=titles, archived_at=None)
    ids = {drill.title: drill.pk for drill in found}
    return [
        CourseRead(
            **{name: getattr(course, name) for name in ("name", "title", "weeks", "about", "done")},
            parts=[
                CoursePart(
                    drill_id=ids.get(part.title),
                    **{n: getattr(part, n) for n in ("title", "first_week", "last_week", "minutes", "days")},
                )
                for part in course.parts
            ],
        )
        for course in COURSES
    ]


@router.post("/courses/{name}", response={201: CourseBegun}, operation_id="begin_course")
def begin_course(request: HttpRequest, name: str, payload: BeginCourse) -> Status[CourseBegun]:
    """Begin a course for a student."""
    actor = actor_of(request)
    student = people.student(actor, payload.student_id)
    begun = courses.begin(
        actor,
        student,
        courses.course(name),
        begins=payload.begins or selectors.today(student.studio),
        speed=payload.speed,
        leave_out=frozenset(payload.leave_out),
    )
    return Status(201, CourseBegun(made=len(begun.made), kept=begun.kept))


def _written(drill: Drill) -> Step:
    tempo = drill.current.content["tempo"] if drill.current else None
    return Step(bpm=tempo["bpm"] if tempo else None)


def _terms(student: Student, drill: Drill, payload: AssignmentTerms) -> services.Terms:
    assert drill.current is not None
    speed = DrillContent.model_validate(drill.current.content).school.speed
    return services.Terms(
        minutes=payload.minutes,
        days=payload.days,
        begins=payload.begins or selectors.today(student.studio),
        ends=payload.ends,
        note=payload.note,
        rule=payload.rule or rule_for(speed),
        goal=payload.goal,
        moves=payload.moves,
        sharing=payload.sharing,
    )


@router.get("/assignments/{int:assignment_id}", response=LadderRead, operation_id="ladder")
def read_ladder(request: HttpRequest, assignment_id: int) -> LadderRead:
    """Where a drill stands and how it came there."""
    return _ladder(actor_of(request), assignment_id)


def _ladder(actor: User, assignment_id: int) -> LadderRead:
    found = selectors.assignment(actor, assignment_id)
    return LadderRead(
        assignment=assignment_read(found),
        history=[move_read(m) for m in selectors.moves(found)[:100]],
        steps=ladders.further_steps(found),
    )


@router.put("/assignments/{int:assignment_id}", response=LadderRead, operation_id="change_assignment")
def change_assignment(request: HttpRequest, assignment_id: int, payload: AssignmentTerms) -> LadderRead:
    """Other terms."""
    actor = actor_of(request)
    found = selectors.assignment(actor, assignment_id)
    pair = None if payload.pair_id is None else selectors.assignment(actor, payload.pair_id)
    services.change(actor, found, terms=_terms(found.student, found.drill, payload), pair=pair)
    return _ladder(actor, assignment_id)


@router.delete("/assignments/{int:assignment_id}", response={204: None}, operation_id="end_assignment")
def end_assignment(request: HttpRequest, assignment_id: int) -> Status[None]:
    """The drill rests; the record stays."""
    actor = actor_of(request)
    services.end(actor, selectors.assignment(actor, assignment_id))
    return Status(204, None)


@router.post("/assignments/{int:assignment_id}/confirm", response=LadderRead, operation_id="confirm_step")
def confirm_step(request: HttpRequest, assignment_id: int, payload: ConfirmStep) -> LadderRead:
    """Take the step that is proposed."""
    actor = actor_of(request)
    ladders.confirm(actor, selectors.assignment(actor, assignment_id), says=payload.says)
    return _ladder(actor, assignment_id)


@router.post("/assignments/{int:assignment_id}/put-off", response=LadderRead, operation_id="put_off_step")
def put_off_step(request: HttpRequest, assignment_id: int) -> LadderRead:
    """Not yet: count anew."""
    actor = actor_of(request)
    ladders.put_off(actor, selectors.assignment(actor, assignment_id))
    return _ladder(actor, assignment_id)


@router.put("/assignments/{int:assignment_id}/step", response=LadderRead, operation_id="set_step")
def set_step(request: HttpRequest, assignment_id: int, payload: SetStep) -> LadderRead:
    """The teacher's own step."""
    actor = actor_of(request)
    ladders.set_step(actor, selectors.assignment(actor, assignment_id), payload.step, why=payload.why)
    return _ladder(actor, assignment_id)


@router.post("/assignments/{int:assignment_id}/shift", response={204: None}, operation_id="shift_day")
def shift_day(request: HttpRequest, assignment_id: int, payload: ShiftDay) -> Status[None]:
    """Put a day's work off."""
    actor = actor_of(request)
    services.shift(actor, selectors.assignment(actor, assignment_id), since=payload.since, to=payload.to)
    return Status(204, None)


@router.get("/log", response=LogbookRead, operation_id="logbook")
def read_log(request: HttpRequest, student_id: int, days: int = 60, to: Day | None = None) -> LogbookRead:
    """The logbook of a student."""
    actor = actor_of(request)
    student = people.student(actor, student_id)
    audit.saw(actor, "saw_logbook", student=student)
    found = logbook.days(actor, student, to=to or selectors.today(student.studio), count=days)
    return LogbookRead(
        days=[
            LogDay(
                day=d.day, minutes=d.minutes, takes=d.takes, asked=d.asked, clean=d.clean,
                entries=[log_read(e) for e in d.entries],
            )
            for d in found
        ],
        weeks=logbook.weeks(found),
        hold=_hold(student, selectors.hold(student)),
    )  # fmt: skip


@router.post("/log", response={201: LogRead}, operation_id="write_log")
def write_log(request: HttpRequest, payload: LogWrite) -> Status[LogRead]:
    """A line for the logbook."""
    actor = actor_of(request)
    student = people.student(actor, payload.student_id)
    assignment: Assignment | None = None
    if payload.assignment_id is not None:
        assignment = selectors.assignment(actor, payload.assignment_id)
    entry = services.log(
        actor, student, kind=payload.kind, day=payload.day or selectors.today(student.studio),
        minutes=payload.minutes, text=payload.text, assignment=assignment,
    )  # fmt: skip
    return Status(201, log_read(entry))


@router.delete("/log/{uuid:entry_id}", response={204: None}, operation_id="delete_log")
def delete_log(request: HttpRequest, entry_id: UUID) -> Status[None]:
    """Take a line out."""
    actor = actor_of(request)
    services.delete_entry(actor, selectors.log_entry(actor, entry_id))
    return Status(204, None)


@router.post("/hold/{int:student_id}/clear", response={204: None}, operation_id="clear_hold")
def clear_hold(request: HttpRequest, student_id: int) -> Status[None]:
    """Ladders go on."""
    actor = actor_of(request)
    services.clear_hold(actor, people.student(actor, student_id))
    return Status(204, None)


@router.get("/calendar/{int:student_id}", response=bytes, operation_id="plan_calendar")
def read_calendar(request: HttpRequest, student_id: int) -> HttpResponse:
    """The plan as an iCalendar file."""
    student = people.student(actor_of(request), student_id)
    answer = HttpResponse(calendar.calendar_file(student), content_type=ICS)
    answer["Content-Disposition"] = content_disposition_header(True, f"Practice, {student.name}.ics") or "attachment"
    return answer


@router.post("/feed/{int:student_id}", response={201: FeedRead}, operation_id="make_feed")
def make_feed(request: HttpRequest, student_id: int) -> Status[FeedRead]:
    """An address a calendar program reads the plan from; an earlier one no longer works."""
    actor = actor_of(request)
    token = services.new_feed(actor, people.student(actor, student_id))
    return Status(201, FeedRead(link=request.build_absolute_uri(f"/api/v1/plans/feed/{token}.ics")))


@router.delete("/feed/{int:student_id}", response={204: None}, operation_id="end_feed")
def end_feed(request: HttpRequest, student_id: int) -> Status[None]:
    """The feed no longer works."""
    actor = actor_of(request)
    services.end_feed(actor, people.student(actor, student_id))
    return Status(204, None)


@router.get("/feed/{token}.ics", auth=None, response=bytes, operation_id="read_feed")
def read_feed(request: HttpRequest, token: str) -> HttpResponse:
    """The plan for a calendar program; the address is the key."""
    found = Practice.objects.filter(feed=digest_of(token)).select_related("student__studio").first()
    if found is None:
        raise ServiceError(
            404, "link_over", "This calendar address no longer works; make a new one on the plan's page."
        )
    return HttpResponse(calendar.calendar_file(found.student), content_type=ICS)

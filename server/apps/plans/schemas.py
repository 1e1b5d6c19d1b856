"""What the API says of plans."""

from __future__ import annotations

import datetime as dt
from typing import Annotated, Literal
from uuid import UUID

from config.days import Day, TimeOfDay
from fortimetra.coach import step_words
from fortimetra.model import LadderRule, Speed, Step
from pydantic import BaseModel, Field

from apps.plans.models import Assignment, LadderMove, LogEntry

Move = Literal["up", "down", "stay", "held", "ceiling", "pair", "goal", "top"]
Minutes = Annotated[float, Field(ge=0.5, le=60)]
Text = Annotated[str, Field(max_length=500)]


class StandingRead(BaseModel):
    """What a ladder says, and the takes it rests on. to_words: the step after it."""

    move: Move
    to: Step
    to_words: str
    says: str
    takes: list[str]


class AssignmentRead(BaseModel):
    """A drill a student works on. step_words: where it stands, in words; newest_share: surely clean notes of its
    newest take there.
    """

    id: int
    student_id: int
    student: str
    drill_id: int
    drill: str
    family: str
    drill_archived: bool
    note: str
    minutes: float
    days: int
    begins: dt.date
    ends: dt.date | None
    ended_at: dt.datetime | None
    pair_id: int | None
    pair: str | None
    sharing: Literal["equal", "weaker"]
    rule: LadderRule
    goal: Step | None
    step: Step
    step_words: str
    step_since: dt.datetime
    moves: Literal["confirmed", "automatic"]
    standing: StandingRead
    newest_share: float | None


class ProposalRead(BaseModel):
    """A step that waits for the teacher."""

    assignment_id: int
    student_id: int
    student: str
    drill_id: int
    drill: str
    move: Literal["up", "down"]
    to_words: str
    says: str


class NeedsRead(BaseModel):
    """What a teacher wants to know of a student at a glance. steps: ladders that wait for a word; held: discomfort
    was logged.
    """

    student_id: int
    works_on: int
    steps: int
    held: bool
    minutes_this_week: float
    newest_take: dt.datetime | None


class AssignmentTerms(BaseModel):
    """What an assignment asks; ends null: until the goal is reached. rule null: the house's, of the drill's school."""

    minutes: Minutes = 3.0
    days: Annotated[int, Field(ge=1, le=7)] = 5
    begins: Day | None = None
    ends: Day | None = None
    note: Text = ""
    rule: LadderRule | None = None
    goal: Step | None = None
    moves: Literal["confirmed", "automatic"] = "confirmed"
    pair_id: int | None = None
    sharing: Literal["equal", "weaker"] = "weaker"


class Assign(AssignmentTerms):
    """A drill for a student; step null: as the drill is written."""

    student_id: int
    drill_id: int
    step: Step | None = None


class CoursePart(BaseModel):
    """A drill of a course, and its weeks counted from 1. drill_id null: it comes back to the library when the course
    begins.
    """

    title: str
    drill_id: int | None
    first_week: int
    last_week: int
    minutes: float
    days: int


class CourseRead(BaseModel):
    """Weeks of drills that are begun in one go."""

    name: str
    title: str
    weeks: int
    about: str
    done: str
    parts: list[CoursePart]


class BeginCourse(BaseModel):
    """leave_out: titles of parts that are not wanted."""

    student_id: int
    begins: Day | None = None
    speed: Speed = "tempo_steps"
    leave_out: Annotated[list[Annotated[str, Field(max_length=200)]], Field(max_length=60)] = []


class CourseBegun(BaseModel):
    """kept: drills the student works on already."""

    made: int
    kept: list[str]


class ConfirmStep(BaseModel):
    """says: the sentence that was read."""

    says: Text


class SetStep(BaseModel):
    """The teacher's own step."""

    step: Step
    why: Annotated[str, Field(max_length=300)] = ""


class MoveRead(BaseModel):
    """A step that was taken; made_by null: by the rule."""

    at: dt.datetime
    made_by: str | None
    move: str
    since: str
    to: str
    says: str
    takes: list[str]


class LadderRead(BaseModel):
    """Where a drill stands, how it came there, and the steps around it."""

    assignment: AssignmentRead
    history: list[MoveRead]
    steps: list[Step]


class BlockRead(BaseModel):
    """Minutes of one assignment, or a break (null); a long dose stands in parts. done: minutes logged; recorded:
    takes.
    """

    assignment_id: int | None
    minutes: float
    done: float
    recorded: int


class CautionRead(BaseModel):
    """A caution where it belongs."""

    code: str
    text: str


class DayRead(BaseModel):
    """One day. left_out: drills that did not fit into its minutes."""

    day: dt.date
    minutes: float
    available: float
    blocks: list[BlockRead]
    left_out: list[str]
    cautions: list[CautionRead]


class HoldRead(BaseModel):
    """Why every ladder rests."""

    since: dt.datetime
    text: str
    says: str


class PracticeRead(BaseModel):
    """When a student practises; feed: whether a calendar can read the plan."""

    minutes: list[float]
    at: dt.time
    feed: bool


class PracticeChange(BaseModel):
    """Minutes on each weekday from Monday, and the hour a calendar shows."""

    minutes: Annotated[list[Annotated[float, Field(ge=0, le=240)]], Field(min_length=7, max_length=7)]
    at: TimeOfDay


class FeedRead(BaseModel):
    """The address a calendar program reads the plan from; shown this once."""

    link: str


class PlanRead(BaseModel):
    """A student's week."""

    student_id: int
    student: str
    monday: dt.date
    today: dt.date
    days: list[DayRead]
    assignments: list[AssignmentRead]
    hold: HoldRead | None
    practice: PracticeRead


class ShiftDay(BaseModel):
    """Put a day's work off; to null: leave it out."""

    since: Day
    to: Day | None


class LogWrite(BaseModel):
    """A line of the logbook."""

    student_id: int
    kind: Literal["practice", "note", "discomfort"]
    day: Day | None = None
    minutes: Annotated[float, Field(gt=0, le=600)] | None = None
    text: Annotated[str, Field(max_length=1000)] = ""
    assignment_id: int | None = None


class LogRead(BaseModel):
    """A line of the logbook."""

    id: UUID
    kind: Literal["practice", "note", "discomfort"]
    day: dt.date
    minutes: float | None
    text: str
    drill: str | None
    made_by: str | None


class LogDay(BaseModel):
    """A day of the logbook: its lines and what was recorded. clean of asked notes over its measured takes."""

    day: dt.date
    minutes: float
    takes: int
    asked: int
    clean: int
    entries: list[LogRead]


class LogbookRead(BaseModel):
    """The logbook, newest first. weeks: minutes by the Monday of each week."""

    days: list[LogDay]
    weeks: list[tuple[dt.date, float]]
    hold: HoldRead | None


def assignment_read(assignment: Assignment) -> AssignmentRead:
    """An assignment as the API says it."""
    step = Step.model_validate(assignment.step)
    said = assignment.standing
    to = Step.model_validate(said["to"])
    return AssignmentRead(
        id=assignment.pk,
        student_id=assignment.student_id,
        student=assignment.student.name,
        drill_id=assignment.drill_id,
        drill=assignment.drill.title,
        family=assignment.drill.family,
        drill_archived=assignment.drill.archived_at is not None,
        note=assignment.note,
        minutes=assignment.minutes,
        days=assignment.days,
        begins=assignment.begins,
        ends=assignment.ends,
        ended_at=assignment.ended_at,
        pair_id=assignment.pair_id,
        pair=assignment.pair.drill.title if assignment.pair else None,
        sharing=assignment.sharing,
        rule=LadderRule.model_validate(assignment.rule),
        goal=None if assignment.goal is None else Step.model_validate(assignment.goal),
        step=step,
        step_words=step_words(step),
        step_since=assignment.step_since,
        moves=assignment.moves,
        standing=StandingRead(
            move=said["move"], to=to, to_words=step_words(to), says=said["says"], takes=said["takes"]
        ),
        newest_share=assignment.newest_share,
    )


def proposal_read(assignment: Assignment) -> ProposalRead:
    """A step as the Desk shows it."""
    said = assignment.standing
    return ProposalRead(
        assignment_id=assignment.pk,
        student_id=assignment.student_id,
        student=assignment.student.name,
        drill_id=assignment.drill_id,
        drill=assignment.drill.title,
        move=said["move"],
        to_words=step_words(Step.model_validate(said["to"])),
        says=said["says"],
    )


def move_read(move: LadderMove) -> MoveRead:
    """A step as the API says it."""
    return MoveRead(
        at=move.at,
        made_by=move.made_by.name if move.made_by else None,
        move=move.move,
        since=step_words(Step.model_validate(move.since)),
        to=step_words(Step.model_validate(move.to)),
        says=move.says,
        takes=move.takes,
    )


def log_read(entry: LogEntry) -> LogRead:
    """A line as the API says it."""
    return LogRead(
        id=entry.pk,
        kind=entry.kind,
        day=entry.day,
        minutes=entry.minutes,
        text=entry.text,
        drill=entry.assignment.drill.title if entry.assignment else None,
        made_by=entry.made_by.name if entry.made_by else None,
    )

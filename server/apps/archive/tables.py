"""What an archive holds: tables in the order they depend on each other, and the files beside them.

Rows are written by the columns named here and by no other: what is not named (passwords, second steps, sessions,
links that let somebody in) is not in an archive.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from django.db.models import Model, Q
from fortimetra import Analysis as AnalysisContent
from fortimetra import Click
from fortimetra import Drill as DrillContent
from fortimetra import Guitar as GuitarContent
from fortimetra import Setup as SetupContent
from fortimetra.model import LadderRule, Mark, Pin, Step, Summary, Tolerances

from apps.archive.shapes import Counts, Minutes, SheetContent, Standing, Texts
from apps.bench.models import EarCheck
from apps.drills.models import CardText, Drill, DrillVersion
from apps.guitars.models import Guitar
from apps.people.models import AuditEntry, Consent, Student, Studio, User
from apps.plans.models import Assignment, Hold, LadderMove, LogEntry, Practice, Shift
from apps.reports.models import LessonSheet
from apps.reviews.models import WordMark
from apps.takes.models import Analysis, Take

FORMAT, VERSION = "fortimetra-studio", 1
MANIFEST = "manifest.json"
Check = Callable[[Any], object]


@dataclass(frozen=True)
class Table:
    """One table. links: column → table it points into; later: links that are set once that table is there; checks:
    what a JSON column must be; files: columns that are files beside the table; uuid: rows are known by their own id;
    newer: columns that archives made before did not have, with what counts for them; older: columns that they had and
    nobody needs; optional: archives made before do not have it."""

    name: str
    model: type[Model]
    columns: tuple[str, ...]
    of_studio: Callable[[Studio], Q]
    links: Mapping[str, str] = field(default_factory=dict)
    later: Mapping[str, str] = field(default_factory=dict)
    checks: Mapping[str, Check] = field(default_factory=dict)
    files: Mapping[str, str] = field(default_factory=dict)
    newer: Mapping[str, Any] = field(default_factory=dict)
    older: tuple[str, ...] = ()
    uuid: bool = False
    optional: bool = False
    batch: int = 500

    @property
    def member(self) -> str:
        """Its name in the archive."""
        return f"tables/{self.name}.jsonl"


def _each(check: Check) -> Check:
    def every(values: Any) -> object:
        if not isinstance(values, list):
            raise ValueError("not a list")
        return [check(v) for v in values]

    return every


def _is(kind: type) -> Check:
    def check(value: Any) -> object:
        if not isinstance(value, kind):
            raise ValueError(f"not a {kind.__name__}")
        return value

    return check


def _student(prefix: str = "student") -> Callable[[Studio], Q]:
    return lambda studio: Q(**{f"{prefix}__studio": studio})


_step = Step.model_validate
TABLES: tuple[Table, ...] = (
    Table("users", User, ("email", "name", "role", "leads", "is_active", "date_joined"), lambda s: Q(studio=s)),
    Table(
        "students",
        Student,
        ("name", "created_at", "left_handed", "left_at"),
        lambda s: Q(studio=s),
        {"teacher": "users", "user": "users"},
        newer={"left_handed": False, "left_at": None},
    ),
    Table(
        "consents",
        Consent,
        ("by", "name", "way", "to", "day", "written_at", "withdrawn_at", "withdrawn_by"),
        _student(),
        {"student": "students", "written_by": "users"},
        optional=True,
    ),
    Table(
        "guitars",
        Guitar,
        ("name", "kind", "description", "created_at"),
        _student(),
        {"student": "students"},
        checks={"description": GuitarContent.model_validate},
    ),
    Table(
        "drills",
        Drill,
        ("title", "family", "level", "tags", "built_in", "archived_at", "created_at", "form", "values"),
        lambda s: Q(studio=s),
        later={"current": "drill_versions", "partner": "drills", "after": "drills"},
        checks={"tags": _each(_is(str)), "values": Texts.validate_python},
        newer={"form": "", "values": {}, "partner": None, "after": None},
    ),
    Table(
        "drill_versions",
        DrillVersion,
        ("number", "content", "created_at"),
        lambda s: Q(drill__studio=s),
        {"drill": "drills", "created_by": "users"},
        checks={"content": DrillContent.model_validate},
        batch=100,
    ),
    Table(
        "card_texts",
        CardText,
        ("family", "section", "lines", "place", "changed_at"),
        lambda s: Q(studio=s),
        {"drill": "drills", "changed_by": "users"},
        checks={"lines": _each(_is(str))},
        optional=True,
    ),
    Table(
        "takes",
        Take,
        (
            "played_at",
            "created_at",
            "original_name",
            "size_bytes",
            "sha256",
            "invented",
            "click",
            "capture",
            "per_click",
            "click_said",
            "tolerances_said",
            "pins",
            "word_version",
            "judged_at",
            "hidden_at",
            "recording_deleted_at",
            "need",
            "state",
            "measured_at",
            "problem_code",
            "problem_detail",
        ),
        _student(),
        {
            "student": "students",
            "drill_version": "drill_versions",
            "guitar": "guitars",
            "uploaded_by": "users",
            "judged_by": "users",
        },
        later={"current": "analyses"},
        checks={
            "click": Click.model_validate,
            "click_said": Click.model_validate,
            "tolerances_said": Tolerances.model_validate,
            "pins": _each(Pin.model_validate),
            "capture": _is(dict),
        },
        files={"upload": "recordings/{key}"},
        newer={"hidden_at": None, "recording_deleted_at": None},
        older=("attempts",),
        uuid=True,
    ),
    Table(
        "analyses",
        Analysis,
        (
            "core_version",
            "created_at",
            "seconds",
            "content",
            "summary",
            "ticks",
            "counts",
            "headline",
            "places",
            "bpm",
            "per_click",
            "tolerances",
            "guitar",
            "setup",
        ),
        lambda s: Q(take__student__studio=s, trial=None),
        {"take": "takes", "drill_version": "drill_versions", "setup_take": "takes"},
        checks={
            "content": AnalysisContent.model_validate,
            "summary": Summary.model_validate,
            "guitar": GuitarContent.model_validate,
            "setup": SetupContent.model_validate,
            "tolerances": Tolerances.model_validate,
            "counts": Counts.validate_python,
            "places": Counts.validate_python,
        },
        files={"curves": "results/{key}/curves.json.gz", "listening": "results/{key}/listen.flac"},
        batch=20,
    ),
    Table(
        "words",
        WordMark,
        ("content", "made_at", "undone_at"),
        lambda s: Q(take__student__studio=s),
        {"take": "takes", "made_by": "users", "undone_by": "users"},
        checks={"content": Mark.model_validate},
    ),
    Table(
        "ear_checks",
        EarCheck,
        ("kind", "seed", "said", "started_at", "finished_at", "threshold", "u", "false_alarms", "reason", "invented"),
        _student(),
        {"student": "students"},
        checks={"said": _is(list)},
    ),
    Table(
        "practice",
        Practice,
        ("minutes", "at"),
        _student(),
        {"student": "students"},
        checks={"minutes": Minutes.validate_python},
    ),
    Table(
        "assignments",
        Assignment,
        (
            "made_at",
            "note",
            "minutes",
            "days",
            "begins",
            "ends",
            "ended_at",
            "sharing",
            "rule",
            "goal",
            "step",
            "step_since",
            "moves",
            "standing",
            "newest_share",
        ),
        _student(),
        {"student": "students", "drill": "drills", "made_by": "users"},
        later={"pair": "assignments"},
        checks={"rule": LadderRule.model_validate, "goal": _step, "step": _step, "standing": Standing.model_validate},
    ),
    Table(
        "ladder_moves",
        LadderMove,
        ("at", "move", "since", "to", "says", "takes"),
        _student("assignment__student"),
        {"assignment": "assignments", "made_by": "users"},
        checks={"since": _step, "to": _step, "takes": _each(_is(str))},
    ),
    Table("shifts", Shift, ("since", "to"), _student("assignment__student"), {"assignment": "assignments"}),
    Table(
        "log",
        LogEntry,
        ("kind", "day", "minutes", "text", "made_at"),
        _student(),
        {"student": "students", "assignment": "assignments", "made_by": "users"},
        uuid=True,
    ),
    Table(
        "holds",
        Hold,
        ("since", "by_teacher", "cleared_at"),
        _student(),
        {"student": "students", "entry": "log", "cleared_by": "users"},
        newer={"by_teacher": False},
    ),
    Table(
        "lesson_sheets",
        LessonSheet,
        ("made_at", "paper", "content"),
        _student(),
        {"student": "students", "made_by": "users"},
        checks={"content": SheetContent.model_validate},
        uuid=True,
    ),
    Table(
        "audit",
        AuditEntry,
        ("at", "actor_name", "action", "what", "object_id"),
        lambda s: Q(studio=s),
        {"actor": "users", "student": "students"},
    ),
)
BY_NAME = {t.name: t for t in TABLES}

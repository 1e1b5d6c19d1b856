"""The teacher's word on takes: marks and judgements, with who and when; and the Desk, where they wait for it."""

from __future__ import annotations

import logging
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal
from uuid import UUID

from config.problems import ServiceError, not_found
from django.db import transaction
from django.db.models import Case, Count, F, IntegerField, Q, QuerySet, Value, When
from django.utils import timezone
from fortimetra import Analysis as AnalysisContent
from fortimetra.coach import with_word
from fortimetra.model import Mark, NoteFound, Summary

from apps.people import audit
from apps.people import selectors as people
from apps.people.actor import require_teacher
from apps.people.models import User
from apps.reviews.models import WordMark
from apps.reviews.ticks import ticks
from apps.takes import selectors
from apps.takes.as_played import drill_of
from apps.takes.models import Analysis, Take
from apps.takes.signals import tell_settled

log = logging.getLogger(__name__)

Show = Literal["waiting", "judged", "all"]
COUNTS = ("asked", "clean", "not_clean", "unclear", "missed", "extra", "excluded")
# Columns that summed_up writes.
SUMMED_UP = ("summary", "counts", "ticks", "headline", "places")
MOST_MARKS = 2000
MOST_AT_ONCE = 500
UNCLEAR_COUNTS = 0.5


def marks_of(take: Take) -> list[WordMark]:
    """Every word on a take in its order, also those taken back."""
    return list(take.marks.select_related("made_by", "undone_by")[:MOST_MARKS])


def counting(marks: Sequence[WordMark]) -> list[Mark]:
    """The words that count."""
    return [Mark.model_validate(m.content) for m in marks if m.undone_at is None]


def as_left(analysis: Analysis, marks: Sequence[WordMark]) -> AnalysisContent:
    """An analysis with the teacher's word on it."""
    return with_word(AnalysisContent.model_validate(analysis.content), drill_of(analysis), counting(marks))


def summed_up(analysis: Analysis, content: AnalysisContent) -> None:
    """Write what lists show of an analysis, as the teacher left it, on its row; not saved."""
    analysis.summary = content.summary.model_dump(mode="json")
    analysis.counts = {name: analysis.summary[name] for name in COUNTS}
    analysis.ticks = ticks(content)
    analysis.places = dict(Counter(n.id for n in content.notes if _is_off(n)))
    analysis.headline = content.causes[0].says[:200] if content.causes else ""


def _is_off(note: NoteFound) -> bool:
    return note.said != "excluded" and (note.clean == "outside" or note.status == "missed")


def need_of(summary: Summary) -> float:
    """How much of a take is not clean or not clear, 0 to 1."""
    asked = max(1, summary.asked - summary.excluded)
    off = summary.not_clean + summary.missed + summary.extra + UNCLEAR_COUNTS * summary.unclear
    return min(1.0, off / asked)


def add_mark(actor: User, take_id: UUID, mark: Mark) -> Take:
    """Add a word; a comment by anybody who sees the take, the rest by teachers."""
    if mark.kind != "comment":
        require_teacher(actor)
    with transaction.atomic():
        take = _locked(actor, take_id)
        if take.marks.count() >= MOST_MARKS:
            raise ServiceError(422, "too_many_marks", "This take has too many marks; take some back first.")
        WordMark.objects.create(take=take, content=mark.model_dump(mode="json"), made_by=actor, made_at=timezone.now())
        _changed(take)
    audit.changed(actor, "marked_take", student=take.student, what=mark.kind, object_id=take.pk)
    tell_settled(take)
    return take


def undo_mark(actor: User, take_id: UUID, mark_id: int, *, undone: bool) -> Take:
    """Take a word back, or let it count again; a comment only by who made it."""
    with transaction.atomic():
        take = _locked(actor, take_id)
        mark = take.marks.filter(pk=mark_id).first()
        if mark is None:
            raise not_found()
        if mark.content["kind"] != "comment" or mark.made_by_id != actor.pk:
            require_teacher(actor)
        mark.undone_at, mark.undone_by = (timezone.now(), actor) if undone else (None, None)
        mark.save(update_fields=["undone_at", "undone_by"])
        _changed(take)
    tell_settled(take)
    return take


def _locked(actor: User, take_id: UUID) -> Take:
    selectors.take(actor, take_id)
    take = Take.objects.select_for_update().filter(pk=take_id).first()
    if take is None:
        raise not_found()
    if take.current_id is None:
        raise ServiceError(409, "not_measured_yet", "This take is not measured; there is nothing to mark yet.")
    return take


def _changed(take: Take) -> None:
    """Sum up again after a word."""
    assert take.current_id is not None
    analysis = Analysis.objects.select_related("drill_version").get(pk=take.current_id)
    content = as_left(analysis, marks_of(take))
    summed_up(analysis, content)
    analysis.save(update_fields=SUMMED_UP)
    take.word_version += 1
    take.need = need_of(content.summary)
    take.save(update_fields=["word_version", "need"])


@dataclass(frozen=True)
class Judging:
    """A take to judge, and the words the teacher had seen."""

    id: UUID
    word_version: int


def judge(actor: User, wanted: Sequence[Judging], *, judged: bool) -> tuple[list[UUID], list[UUID]]:
    """Confirm takes as they stand, or put them back on the Desk. Ids of those done, and of those that changed
    meanwhile or are gone.
    """
    require_teacher(actor)
    seen = {w.id: w.word_version for w in wanted[:MOST_AT_ONCE]}
    with transaction.atomic():
        own = list(selectors.takes(actor).filter(pk__in=seen, current__isnull=False).values_list("pk", flat=True))
        rows = Take.objects.select_for_update().filter(pk__in=own).values_list("pk", "word_version")
        done = [pk for pk, version in rows if version == seen[pk]]
        Take.objects.filter(pk__in=done).update(
            judged_at=timezone.now() if judged else None, judged_by=actor if judged else None
        )
    return done, [pk for pk in seen if pk not in set(done)]


def desk(
    actor: User, *, show: Show, student_id: int | None, drill_id: int | None, family: str | None
) -> QuerySet[Take]:
    """Takes in the order they need the teacher: not measurable, then by need, then those in work; judged ones newest
    first.
    """
    found = Take.objects.filter(student__in=people.students(actor))
    if student_id is not None:
        found = found.filter(student_id=student_id)
    if drill_id is not None:
        found = found.filter(drill_version__drill_id=drill_id)
    if family is not None:
        found = found.filter(drill_version__drill__family=family)
    if show != "all":
        found = found.filter(judged_at__isnull=show == "waiting")
    place = Case(
        When(judged_at__isnull=False, then=Value(3)),
        When(state__in=(Take.State.REFUSED, Take.State.FAILED), then=Value(0)),
        When(state=Take.State.MEASURED, then=Value(1)),
        default=Value(2),
        output_field=IntegerField(),
    )
    return found.annotate(place=place).order_by("place", F("judged_at").desc(), F("need").desc(), "played_at", "pk")


# Columns of a row of the Desk and the names the API gives them; one statement reads them all.
DESK_COLUMNS = {
    "id": "id",
    "student__name": "student",
    "drill_version__drill_id": "drill_id",
    "drill_version__drill__title": "drill",
    "drill_version__drill__family": "family",
    "current__counts": "counts",
    "current__ticks": "ticks",
    "current__headline": "headline",
    "judged_by__name": "judged_by",
} | {
    name: name
    for name in (
        "student_id", "played_at", "invented", "state", "problem_code", "problem_detail",
        "word_version", "judged_at",
    )
}  # fmt: skip


def desk_rows(found: QuerySet[Take], offset: int, limit: int) -> list[dict[str, Any]]:
    """Some rows of the Desk as plain values. Keys are put in order first: thousands of wide rows are slow to sort."""
    keys = list(found.values_list("pk", flat=True)[offset : offset + limit])
    rows = Take.objects.filter(pk__in=keys).values_list(*DESK_COLUMNS)
    by_key = {row[0]: row for row in rows.order_by()}
    assert next(iter(DESK_COLUMNS.values())) == "id"
    shown = [dict(zip(DESK_COLUMNS.values(), by_key[key], strict=True)) for key in keys if key in by_key]
    progress = selectors.progress_of({row["id"]: row["state"] for row in shown})
    for row in shown:
        row["stage"], row["fraction"] = progress[row["id"]]
    return shown


def desk_counts(actor: User) -> dict[str, int]:
    """How many takes wait and are judged; of those that wait, how many are in work, and cannot be measured.

    Two statements, each a stretch of the Desk's index: a teacher has judged thousands, of which nothing else is asked.
    """
    own = Take.objects.filter(student__in=people.students(actor))
    counts = own.filter(judged_at=None).aggregate(
        waiting=Count("pk"),
        unfinished=Count("pk", filter=Q(state__in=Take.UNFINISHED)),
        refused=Count("pk", filter=Q(state__in=(Take.State.REFUSED, Take.State.FAILED))),
    )
    return counts | {"judged": own.count() - counts["waiting"]}

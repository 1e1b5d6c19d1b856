"""Lesson sheets: what was worked on, three findings with what to try, the week. Made once, then kept as made."""

from __future__ import annotations

import datetime as dt
import logging
import secrets
from collections.abc import Iterable, Sequence
from typing import Any
from uuid import UUID

from config.problems import ServiceError, not_found
from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone
from fortimetra import Drill as DrillContent
from fortimetra import DrillError
from fortimetra.card import in_short
from fortimetra.coach import at_step, step_words
from fortimetra.formats import text_tab
from fortimetra.model import Step

from apps.drills import selectors as drills
from apps.drills.cards import card_of
from apps.jobs import services as jobs
from apps.jobs.services import Kind, Problem, Told
from apps.people import audit
from apps.people import selectors as people
from apps.people.actor import require_teacher
from apps.people.models import Student, User
from apps.plans import logbook, planning
from apps.plans import selectors as plans
from apps.reports import progress
from apps.reports.models import LessonSheet
from apps.reports.pictures import marks_of
from apps.reviews import word
from apps.takes import as_played
from apps.takes import selectors as takes
from apps.takes import services as take_services

log = logging.getLogger(__name__)
SINCE_DAYS = 7
MOST_WAITING = 100
# Takes that are read for findings, findings to choose from, findings shown.
MOST_READ, MOST_CANDIDATES, SHOWN = 16, 8, 3
MOST_WORKED_ON, MOST_TABS, MOST_BETTER = 6, 3, 2


class Setting(Kind):
    """Lesson sheets are set as PDF."""

    def moved(self, subjects: Sequence[str], state: Told, problem: Problem | None = None) -> None:
        if problem is not None:
            LessonSheet.objects.filter(pk__in=subjects, pdf_state=LessonSheet.Pdf.WAITING).update(
                pdf_state=LessonSheet.Pdf.FAILED
            )

    def unfinished(self) -> Iterable[object]:
        # Of a link, too: who opens it gets the PDF, and opening it writes nothing.
        shared = LessonSheet.objects.filter(share__isnull=False, pdf_state=LessonSheet.Pdf.NONE)
        for found in shared[:MOST_WAITING]:
            want_pdf(found)
        return LessonSheet.objects.filter(pdf_state=LessonSheet.Pdf.WAITING).values_list("pk", flat=True)[:MOST_WAITING]


SETTING = Setting(
    "reports.set_sheet",
    patience=dt.timedelta(seconds=90),
    broke=Problem("not_set", "The PDF could not be set."),
)


def sheets(actor: User) -> QuerySet[LessonSheet]:
    """Lesson sheets of the students this person may see, newest first."""
    return LessonSheet.objects.filter(student__in=people.students(actor)).select_related(
        "student__studio", "student__teacher", "made_by"
    )


def sheet(actor: User, sheet_id: UUID) -> LessonSheet:
    """One of them, or 404."""
    found = sheets(actor).filter(pk=sheet_id).first()
    if found is None:
        raise not_found()
    return found


def shared(token: str) -> LessonSheet:
    """The sheet of a link, or 404."""
    found = LessonSheet.objects.filter(share=token).select_related("student__studio", "student__teacher").first()
    if found is None:
        raise not_found()
    return found


def make(actor: User, student: Student, *, since: dt.date | None, paper: str) -> LessonSheet:
    """A sheet of what was done since the last one, or of the last week."""
    require_teacher(actor)
    today = plans.today(student.studio)
    last = LessonSheet.objects.filter(student=student).first()
    if since is None:
        since = today - dt.timedelta(days=SINCE_DAYS)
        if last is not None:
            since = max(min(plans.day_of(student, last.made_at), today), today - dt.timedelta(days=60))
    if since > today:
        raise ServiceError(422, "since_later", "A sheet looks back; choose a day that was.")
    made = LessonSheet.objects.create(
        student=student,
        made_by=actor,
        made_at=timezone.now(),
        paper=paper,
        content=_content(actor, student, since, today),
    )
    audit.changed(actor, "made_sheet", student=student, object_id=made.pk)
    return made


def _content(actor: User, student: Student, since: dt.date, today: dt.date) -> dict[str, Any]:
    candidates = _candidates(actor, student, since, today)
    days, tabs = _week(student, today)
    return {
        "student": student.name,
        "teacher": actor.name,
        "studio": student.studio.name,
        "day": today.isoformat(),
        "since": since.isoformat(),
        "worked_on": _worked_on(actor, student, since, today),
        "better": _better(actor, student),
        "candidates": candidates,
        "findings": [
            {"candidate": i, "says": c["says"], "tries": c["tries"]} for i, c in enumerate(candidates[:SHOWN])
        ],
        "note": "",
        "week": days,
        "tabs": tabs,
    }


def _worked_on(actor: User, student: Student, since: dt.date, today: dt.date) -> list[dict[str, Any]]:
    there: dict[str, dict[str, Any]] = {}

    def line(title: str) -> dict[str, Any]:
        return there.setdefault(title, {"drill": title, "takes": 0, "minutes": 0.0, "clean": 0, "asked": 0})

    rows = (
        plans.takes_on(student, since, today)
        .exclude(drill_version__drill__family=takes.SET_UP)
        .values_list("drill_version__drill__title", "current__counts")
    )
    for title, counts in rows:
        found = line(title)
        found["takes"] += 1
        found["clean"] += (counts or {}).get("clean", 0)
        found["asked"] += (counts or {}).get("asked", 0) - (counts or {}).get("excluded", 0)
    for book in logbook.days(actor, student, to=today, count=(today - since).days + 1):
        for entry in book.entries:
            if entry.minutes and entry.assignment is not None:
                line(entry.assignment.drill.title)["minutes"] += entry.minutes
    return sorted(there.values(), key=lambda r: (-r["takes"], -r["minutes"], r["drill"]))[:MOST_WORKED_ON]


def _better(actor: User, student: Student) -> list[str]:
    """What surely got better, in a sentence each."""
    found = []
    for row in progress.drills_of(actor, student)[:MOST_WORKED_ON]:
        drill = drills.drill(actor, row["drill_version__drill_id"])
        for series in progress.series(drill, progress.points(actor, student, drill)):
            sure = series.trend is not None and series.trend.sure and series.trend.per_week > 0
            if sure and series.followed.wanted != "voice":
                found.append(f"{drill.title}, {_within(series.followed.title)}: {_within(series.says)}")
    return found[:MOST_BETTER]


def _within(sentence: str) -> str:
    """A sentence within another; units such as dB keep their letters."""
    return sentence[:1].lower() + sentence[1:]


def _candidates(actor: User, student: Student, since: dt.date, today: dt.date) -> list[dict[str, Any]]:
    """The likeliest causes of the newest takes, each once a drill, the most certain first."""
    newest = (
        plans.takes_on(student, since, today)
        .filter(current__isnull=False)
        .exclude(drill_version__drill__family=takes.SET_UP)
        .select_related("current__drill_version", "drill_version__drill")
        .order_by("-played_at")[:MOST_READ]
    )
    found: dict[tuple[int, str], tuple[float, dict[str, Any]]] = {}
    for take in newest:
        assert take.current is not None
        drill = as_played.drill_of(take.current)
        analysis = word.as_left(take.current, word.marks_of(take))
        for cause in analysis.causes:
            key = (take.drill_version.drill_id, cause.code)
            if key in found:
                continue
            found[key] = (
                cause.weight,
                {
                    "drill": take.drill_version.drill.title,
                    "take_id": str(take.pk),
                    "played_on": plans.day_of(student, take.played_at).isoformat(),
                    "says": cause.says,
                    "evidence": cause.evidence,
                    "because": cause.because,
                    "tries": "\n".join(cause.tries),
                    "picture": marks_of(analysis, cause.measure, drill.limits()),
                },
            )
    ordered = sorted(found.items(), key=lambda f: -f[1][0])
    # Each cause once before any a second time: three findings that say the same are one.
    seen: set[str] = set()
    first = [key for key, _ in ordered if not (key[1] in seen or seen.add(key[1]))]  # type: ignore[func-returns-value]
    rest = [key for key, _ in ordered if key not in first]
    return [found[key][1] for key in [*first, *rest][:MOST_CANDIDATES]]


def _week(student: Student, today: dt.date) -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
    """The seven days after today, and the tab of what is worked on most."""
    monday = planning.monday_of(today)
    found = planning.plan(student, monday=monday, weeks=2)
    coming = [d for d in found.days if today < d.day <= today + planning.WEEK]
    minutes: dict[int, float] = {}
    days = []
    for day in coming:
        of_day: dict[int, float] = {}
        for block in day.blocks:
            if block.id is not None:
                of_day[block.id] = of_day.get(block.id, 0.0) + block.minutes
        blocks = []
        for pk, length in of_day.items():
            assignment = found.by_id[pk]
            minutes[pk] = minutes.get(pk, 0.0) + length
            words = step_words(Step.model_validate(assignment.step))
            blocks.append({"drill": assignment.drill.title, "minutes": length, "step": words})
        days.append({"day": day.day.isoformat(), "blocks": blocks})
    tabs = []
    for pk in sorted(minutes, key=lambda i: -minutes[i])[:MOST_TABS]:
        assignment = found.by_id[pk]
        assert assignment.drill.current is not None
        content = DrillContent.model_validate(assignment.drill.current.content)
        step = Step.model_validate(assignment.step)
        try:
            content = at_step(content, step)
        except DrillError:
            log.warning("assignment %s has no such step", pk)
        tabs.append(
            {
                "drill": assignment.drill.title,
                "step": step_words(step),
                "text": _bare(text_tab(content)),
                "how": in_short(card_of(assignment.drill, assignment.drill.current)),
            }
        )
    return days, tabs


def _bare(text: str) -> str:
    """The tab's lines without its title and head."""
    return text.split("\n\n", 1)[-1].rstrip()


@transaction.atomic
def change(actor: User, found: LessonSheet, *, note: str, findings: list[dict[str, Any]], paper: str) -> LessonSheet:
    """The teacher's words, and which findings are shown. An earlier PDF no longer fits and goes."""
    require_teacher(actor)
    content = dict(found.content)
    most = len(content["candidates"])
    if len(findings) > SHOWN or any(not 0 <= f["candidate"] < most for f in findings):
        raise ServiceError(422, "findings_invalid", f"A sheet shows up to {SHOWN} of the findings offered.")
    content["note"], content["findings"] = note.strip(), findings
    found.content, found.paper = content, paper
    _forget_pdf(found)
    found.save()
    _shared_is_set(found)
    audit.changed(actor, "changed_sheet", student=found.student, object_id=found.pk)
    return found


def _forget_pdf(found: LessonSheet) -> None:
    old = found.pdf.name
    storage = found.pdf.storage
    found.pdf, found.pdf_state = "", LessonSheet.Pdf.NONE
    if old:
        transaction.on_commit(lambda: storage.delete(old))


def _shared_is_set(found: LessonSheet) -> None:
    """Who opens a link gets the PDF; nothing is written then."""
    if found.share is not None:
        want_pdf(found)


def share(actor: User, found: LessonSheet, *, on: bool) -> LessonSheet:
    """A link the student may keep, or none any more."""
    require_teacher(actor)
    found.share = (found.share or secrets.token_urlsafe(24)) if on else None
    found.save(update_fields=["share"])
    _shared_is_set(found)
    audit.changed(actor, "shared_sheet" if on else "unshared_sheet", student=found.student, object_id=found.pk)
    return found


def delete(actor: User, found: LessonSheet) -> None:
    """Row and file."""
    require_teacher(actor)
    with transaction.atomic():
        if found.pdf:
            file = found.pdf
            transaction.on_commit(lambda: take_services.remove_file(file))
        audit.changed(actor, "deleted_sheet", student=found.student)
        found.delete()


def want_pdf(found: LessonSheet) -> LessonSheet:
    """Have the PDF set by a worker, where nobody has asked for it yet; asked again later, it is there, or it failed."""
    if found.pdf_state == LessonSheet.Pdf.NONE:
        with transaction.atomic():
            found.pdf_state = LessonSheet.Pdf.WAITING
            found.save(update_fields=["pdf_state"])
            jobs.ask(SETTING, found.pk)
    return found

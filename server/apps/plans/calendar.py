"""The plan as iCalendar (RFC 5545), through the `icalendar` package: one event a block, in the studio's own zone."""

from __future__ import annotations

import datetime as dt
from collections import Counter

from django.utils import timezone
from fortimetra.coach import step_words
from fortimetra.model import Step
from icalendar import Calendar, Event

from apps.people.models import Student
from apps.plans import planning, selectors

PRODUCT = "-//Fortimetra//practice plan//EN"
WEEKS_BEFORE, WEEKS = 1, 6


def calendar_file(student: Student) -> bytes:
    """From last week on, six weeks. Times are of the studio's zone, so that a change of the clocks moves none of
    them.
    """
    here = selectors.zone(student.studio)
    first = planning.monday_of(selectors.today(student.studio)) - WEEKS_BEFORE * planning.WEEK
    found = planning.plan(student, monday=first, weeks=WEEKS)
    calendar = Calendar()
    calendar.add("prodid", PRODUCT)
    calendar.add("version", "2.0")
    calendar.add("method", "PUBLISH")
    calendar.add("x-wr-calname", f"Practice, {student.name}")
    stamp = timezone.now()
    for day in found.days:
        at = dt.datetime.combine(day.day, found.practice.at, here)
        parts = Counter[int]()
        for block in day.blocks:
            length = dt.timedelta(minutes=block.minutes)
            # Wall-clock sums: the evening of a change of the clocks has its hours like any other.
            begins, at = at, (at.replace(tzinfo=None) + length).replace(tzinfo=here)
            if block.id is None:
                continue
            assignment = found.by_id[block.id]
            event = Event()
            part = f"-{parts[block.id]}" if parts[block.id] else ""
            parts[block.id] += 1
            event.add("uid", f"assignment-{block.id}-{day.day:%Y%m%d}{part}@fortimetra")
            event.add("dtstamp", stamp)
            event.add("dtstart", begins)
            event.add("dtend", at)
            event.add("summary", assignment.drill.title)
            event.add("description", f"{block.minutes:g} minutes, {step_words(Step.model_validate(assignment.step))}")
            calendar.add_component(event)
    calendar.add_missing_timezones(
        first_date=first - planning.MOST_AHEAD, last_date=first + WEEKS * planning.WEEK + planning.MOST_AHEAD
    )
    return bytes(calendar.to_ical())

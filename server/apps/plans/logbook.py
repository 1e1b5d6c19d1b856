"""The logbook by days: what was logged, and what was recorded. Minutes and counts; nothing is rewarded or scolded."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass, field

from apps.people.models import Student, User
from apps.plans import planning, selectors
from apps.plans.models import LogEntry

MOST_DAYS = 120


@dataclass
class BookDay:
    """One day with its lines."""

    day: dt.date
    entries: list[LogEntry] = field(default_factory=list)
    takes: int = 0
    asked: int = 0
    clean: int = 0

    @property
    def minutes(self) -> float:
        """Logged minutes of practice."""
        return sum(e.minutes or 0.0 for e in self.entries)


def days(actor: User, student: Student, *, to: dt.date, count: int) -> list[BookDay]:
    """Days with anything in them, newest first."""
    since = to - dt.timedelta(days=max(1, min(count, MOST_DAYS)) - 1)
    found: dict[dt.date, BookDay] = {}
    for entry in selectors.log(actor, student).filter(day__gte=since, day__lte=to):
        found.setdefault(entry.day, BookDay(entry.day)).entries.append(entry)
    for played_at, counts in selectors.takes_on(student, since, to).values_list("played_at", "current__counts"):
        day = selectors.day_of(student, played_at)
        book = found.setdefault(day, BookDay(day))
        book.takes += 1
        book.asked += (counts or {}).get("asked", 0) - (counts or {}).get("excluded", 0)
        book.clean += (counts or {}).get("clean", 0)
    return [found[day] for day in sorted(found, reverse=True)]


def weeks(found: list[BookDay]) -> list[tuple[dt.date, float]]:
    """Minutes of each week by its Monday, oldest first; weeks without any in between are there with none."""
    if not found:
        return []
    minutes: dict[dt.date, float] = {}
    for book in found:
        monday = planning.monday_of(book.day)
        minutes[monday] = minutes.get(monday, 0.0) + book.minutes
    first, last = min(minutes), max(minutes)
    count = (last - first).days // 7 + 1
    return [(first + n * planning.WEEK, minutes.get(first + n * planning.WEEK, 0.0)) for n in range(count)]

"""The plan as iCalendar, read by another reader (vobject), over a change of the clocks and in other zones."""

import datetime as dt
import io
import json
from dataclasses import replace
from zoneinfo import ZoneInfo

import pytest
import vobject
from apps.plans import planning, services
from apps.plans.calendar import calendar_file
from dateutil.tz import tzical
from django.test import Client
from django.utils import timezone
from fortimetra.model.ladder import Step

from tests.server.test_access import TERMS

pytestmark = pytest.mark.django_db


@pytest.fixture
def planned(teacher, student, drill):
    services.set_practice(teacher, student, minutes=[30.0] * 7, at=dt.time(19, 30))
    terms = replace(TERMS, begins=dt.date(2026, 1, 1))
    return services.assign(teacher, student, drill, terms=terms, step=Step(bpm=66), pair=None)


def events_of(content):
    calendar = vobject.readOne(content.decode())
    assert calendar.version.value == "2.0"
    return calendar, sorted(calendar.vevent_list, key=lambda e: e.dtstart.value)


@pytest.fixture
def at(monkeypatch):
    """Another day than today."""

    def move(day):
        moment = dt.datetime.combine(day, dt.time(12), dt.UTC)
        monkeypatch.setattr(timezone, "now", lambda: moment)

    return move


def test_every_block_is_an_event_another_reader_reads(planned, client, student):
    answer = client.get(f"/api/v1/plans/calendar/{student.pk}")
    assert answer["Content-Type"].startswith("text/calendar")
    calendar, events = events_of(answer.content)
    assert calendar.prodid.value.startswith("-//Fortimetra")
    monday = planning.monday_of(timezone.localdate()) - planning.WEEK
    plan = planning.plan(student, monday=monday, weeks=6)
    blocks = [(d.day, b) for d in plan.days for b in d.blocks if b.id is not None]
    assert [e.dtstart.value.date() for e in events] == [day for day, _ in blocks]
    assert {(e.dtend.value - e.dtstart.value).total_seconds() / 60 for e in events} == {3.0}
    assert events[0].summary.value == planned.drill.title
    assert "66 bpm" in events[0].description.value
    assert len({e.uid.value for e in events}) == len(events)


@pytest.mark.parametrize(
    ("zone", "day", "offsets"),
    [
        # Clocks go forward on 29 March 2026 in Europe, back on 25 October; on 5 April 2026 back in Auckland.
        ("Europe/Lisbon", dt.date(2026, 3, 26), {0, 1}),
        ("Europe/Lisbon", dt.date(2026, 10, 22), {1, 0}),
        ("Pacific/Auckland", dt.date(2026, 4, 2), {13, 12}),
        ("Asia/Kolkata", dt.date(2026, 3, 26), {5.5}),
    ],
)
def test_a_change_of_the_clocks_moves_no_evening(planned, teacher, student, at, zone, day, offsets):
    teacher.studio.zone = zone
    teacher.studio.save()
    student.refresh_from_db()
    at(day)
    content = calendar_file(student)
    _calendar, events = events_of(content)
    walls = [e.dtstart.value.replace(tzinfo=None) for e in events]
    assert {w.time() for w in walls} == {dt.time(19, 30)}
    # The zone is in the file itself, and says what the zone's own table says (read by dateutil, IANA's by zoneinfo).
    written, there = tzical(io.StringIO(content.decode())).get(zone), ZoneInfo(zone)
    assert {w.replace(tzinfo=written).utcoffset().total_seconds() / 3600 for w in walls} == offsets
    assert all(w.replace(tzinfo=written).utcoffset() == w.replace(tzinfo=there).utcoffset() for w in walls)


def test_a_feed_is_read_by_its_address_until_there_is_a_new_one(planned, client, student):
    def make():
        answer = client.post(f"/api/v1/plans/feed/{student.pk}", json.dumps({}), content_type="application/json")
        return answer.json()["link"].split("testserver", 1)[1]

    first = make()
    assert len(events_of(Client().get(first).content)[1]) > 10
    second = make()
    assert Client().get(first).status_code == 404
    assert Client().get(second).status_code == 200
    client.delete(f"/api/v1/plans/feed/{student.pk}")
    assert Client().get(second).status_code == 404


def test_titles_with_commas_lines_and_semicolons_come_through(planned, student, drill):
    drill.title = "Sixths, then; thirds\\ and “so on”"
    drill.save()
    _calendar, events = events_of(calendar_file(student))
    assert events[0].summary.value == drill.title

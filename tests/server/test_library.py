"""The library: sets, partners, drills that are not kept twice, deleting, courses."""

from __future__ import annotations

import datetime as dt
import json

import pytest
from apps.drills.models import Drill
from apps.plans.models import Assignment
from apps.takes import guests
from fortimetra.coach.courses import COURSES
from fortimetra.drills.library import library

from tests.server.conftest import client_of
from tests.server.made import made_take

pytestmark = pytest.mark.django_db
LADDER = {"form": "bend_ladder", "values": {"string": "2", "fret": "10", "positions": "2"}}


def post(client, path, body):
    return client.post(f"/api/v1/{path}", json.dumps(body), content_type="application/json")


def test_a_new_studio_has_the_library_at_hand(client, teacher, django_assert_max_num_queries):
    with django_assert_max_num_queries(5):
        rows = client.get("/api/v1/drills").json()
    assert len(rows) == len(library()) >= 150
    by_title = {r["title"]: r for r in rows}
    row = by_title["String 3: full bend at fret 7"]
    content = teacher.studio.drills.get(pk=row["id"]).current.content
    assert row["asked"] == sum(len(e["notes"]) for e in content["events"]) * row["repeats"]
    assert (row["strings"], row["frets"], row["form"]) == ([3], [7, 9], "fretted_then_bend")
    # Four times two bars of four at 66 (worked out by hand).
    assert row["minutes"] == pytest.approx(4 * 8 / 66, abs=0.005)


def test_up_and_down_of_the_library_are_partners(teacher):
    up = teacher.studio.drills.get(title__startswith="Alternate picking 1 2 3 4, up: strings 3 and 2, position 5, 2")
    assert up.partner.title == up.title.replace("up", "down", 1)
    assert up.partner.partner == up


def test_the_same_form_twice_is_one_drill(client, teacher):
    first, second = (post(client, "drills/make", LADDER).json() for _ in range(2))
    assert first["id"] == second["id"]
    other = post(client, "drills/make", LADDER | {"values": LADDER["values"] | {"fret": "11"}}).json()
    assert other["id"] != first["id"]
    assert other["values"]["fret"] == "11"


def test_a_drill_kept_with_its_partner(client):
    body = {"form": "picking_scale", "values": {"key": "E", "position": "7", "way": "up"}, "with_partner": True}
    made = post(client, "drills/make", body).json()
    partner = client.get(f"/api/v1/drills/{made['partner']['id']}").json()
    assert partner["partner"]["id"] == made["id"]
    frets = [
        [(e["notes"][0]["string"], e["notes"][0]["fret"]) for e in d["content"]["events"] if e["notes"]]
        for d in (made, partner)
    ]
    assert frets[0] == frets[1][::-1]
    refused = post(client, "drills/make", LADDER | {"with_partner": True})
    assert (refused.status_code, refused.json()["code"]) == (422, "no_partner")


def test_a_set_is_one_drill_with_members(client):
    body = {
        "form": "alternate_picking", "values": {"strings": "one", "groups": "1", "repeats": "2"},
        "varied": [{"field": "string", "values": "1-2"}, {"field": "position", "values": "5-7"}],
    }  # fmt: skip
    made = post(client, "drills/generate", body).json()
    members = made["content"]["members"]
    assert [m["title"] for m in members] == [f"string {s}, position {p}" for s in (1, 2) for p in (5, 6, 7)]
    assert [m["from_beat"] for m in members] == [i * 8.0 for i in range(6)]
    kept = post(client, "drills/make", body).json()
    assert "set" in kept["tags"]


@pytest.mark.parametrize(
    ("varied", "says"),
    [
        ([{"field": "position", "values": "5"}], "at least two"),
        ([{"field": "mood", "values": "1-3"}], "no such field"),
        ([{"field": "position", "values": "1-17"}, {"field": "string", "values": "1-5"}], "at most 60"),
        ([{"field": "position", "values": "16, 30"}], "position 30"),
        ([{"field": "position", "values": ""}], "at least two values"),
    ],
)
def test_a_set_that_cannot_be_is_a_sentence(client, varied, says):
    answer = post(client, "drills/generate", {"form": "alternate_picking", "values": {}, "varied": varied})
    assert answer.status_code == 422
    assert says in answer.json()["detail"]


def test_a_set_of_too_many_notes_says_at_which_member(client):
    body = {
        "form": "alternate_picking", "values": {"groups": "64", "per_click": "4", "repeats": "4"},
        "varied": [{"field": "position", "values": "1-6"}],
    }  # fmt: skip
    answer = post(client, "drills/generate", body)
    assert answer.status_code == 422
    assert "more than 2000 notes" in answer.json()["detail"]


def test_a_drill_nothing_was_played_to_can_be_deleted(client, student, stranger):
    drill = post(client, "drills/make", LADDER).json()
    address = f"/api/v1/drills/{drill['id']}"
    assert client_of(stranger).delete(address).status_code == 404
    assert client.delete(address).status_code == 204
    assert client.get(address).status_code == 404
    assert not Drill.objects.filter(pk=drill["id"]).exists()


@pytest.mark.parametrize("use", ["played", "planned", "asked of a guest"])
def test_a_drill_in_use_stays_whole(client, teacher, student, use):
    drill = Drill.objects.get(pk=post(client, "drills/make", LADDER).json()["id"])
    if use == "played":
        made_take(student, drill)
    elif use == "asked of a guest":
        guests.make_link(teacher, student=student, drill=drill)
    else:
        assert post(client, "plans/assignments", {"student_id": student.pk, "drill_id": drill.pk}).status_code == 201
    answer = client.delete(f"/api/v1/drills/{drill.pk}")
    assert (answer.status_code, answer.json()["code"]) == (409, "drill_in_use")
    drill.refresh_from_db()
    assert drill.current is not None


def begin(client, student, name, **more):
    return post(client, f"plans/courses/{name}", {"student_id": student.pk} | more)


@pytest.mark.parametrize("course", COURSES, ids=lambda c: c.name)
def test_every_course_begins_with_its_weeks_and_doses(client, student, course):
    answer = begin(client, student, course.name, begins="2026-03-02")
    assert answer.status_code == 201, answer.json()
    assert answer.json() == {"made": len(course.parts), "kept": []}
    rows = {a.drill.title: a for a in Assignment.objects.filter(student=student).select_related("drill")}
    for part in course.parts:
        row = rows[part.title]
        assert row.begins == dt.date(2026, 3, 2) + dt.timedelta(weeks=part.first_week - 1)
        assert row.ends == dt.date(2026, 3, 2) + dt.timedelta(days=7 * part.last_week - 1)
        # Doses of two to four minutes (common practice, no source).
        assert 2 <= row.minutes <= 4


def test_pairs_of_a_course_are_paired(client, student):
    begin(client, student, "lead_8")
    up = Assignment.objects.get(student=student, drill__title__contains="1 2 3 4, up")
    assert up.pair.drill == up.drill.partner


def test_what_runs_already_is_kept_and_what_is_left_out_is_not_begun(client, student, stranger):
    title = COURSES[0].parts[0].title
    first = begin(client, student, "bends_2", leave_out=[title]).json()
    assert first["made"] == len(COURSES[0].parts) - 1
    again = begin(client, student, "bends_2").json()
    assert again["made"] == 1
    assert len(again["kept"]) == len(COURSES[0].parts) - 1
    full = begin(client, student, "bends_2")
    assert (full.status_code, full.json()["code"]) == (422, "nothing_to_begin")
    assert begin(client_of(stranger), student, "bends_2").status_code == 404
    assert begin(client, student, "nothing").status_code == 404


@pytest.mark.parametrize("gone", ["put away", "deleted"])
def test_a_drill_of_a_course_that_is_gone_comes_back(client, student, teacher, gone):
    title = COURSES[0].parts[-1].title
    if gone == "deleted":
        drill = teacher.studio.drills.get(title=title)
        assert client.delete(f"/api/v1/drills/{drill.pk}").status_code == 204
    else:
        teacher.studio.drills.filter(title=title).update(archived_at="2026-01-01T00:00Z")
    assert (
        next(p["drill_id"] for p in client.get("/api/v1/plans/courses").json()[0]["parts"] if p["title"] == title)
        is None
    )
    begin(client, student, "bends_2")
    # Taken out again, not made a second time.
    assert teacher.studio.drills.filter(title=title).count() == 1
    assert teacher.studio.drills.get(title=title).archived_at is None


def test_a_set_is_followed_drill_by_drill(client, student):
    body = {
        "form": "alternate_picking",
        "values": {"strings": "one", "groups": "1"},
        "varied": [{"field": "position", "values": "5-6"}],
    }
    drill = Drill.objects.get(pk=post(client, "drills/make", body).json()["id"])
    for ago_min, clean in ((60, 3), (30, 6), (0, 12)):
        member = {
            "title": "position 5",
            "asked": 12,
            "clean": clean,
            "not_clean": 12 - clean,
            "unclear": 0,
            "missed": 0,
        }
        other = member | {"title": "position 6", "clean": 12, "not_clean": 0}
        made_take(student, drill, ago_min=ago_min, members=[member, other])
    answer = client.get(f"/api/v1/reports/progress?student_id={student.pk}&drill_id={drill.pk}").json()
    assert [(m["title"], [t["percent"] for t in m["takes"]]) for m in answer["members"]] == [
        ("position 5", [25.0, 50.0, 100.0]), ("position 6", [100.0, 100.0, 100.0]),
    ]  # fmt: skip

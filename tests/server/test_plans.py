"""Assignments, ladders, days, the logbook: over the API, as teacher and student."""

import datetime as dt
import json
from zoneinfo import ZoneInfo

import pytest
from apps.people.models import Student, User
from apps.plans import selectors
from apps.plans.models import Assignment, Hold, LadderMove
from django.utils import timezone

from tests.server.conftest import PASSWORD, client_of
from tests.server.made import made_take

pytestmark = pytest.mark.django_db
PICKING = "Alternate picking 1 2 3 4, up: strings 3 and 2, position 5, 2 a click"
PICKING_DOWN = "Alternate picking 1 2 3 4, down: strings 3 and 2, position 5, 2 a click"
RUN = "Fastest even run: string 3, fret 7"


def send(client, method, path, body=None):
    answer = getattr(client, method)(f"/api/v1/plans{path}", json.dumps(body or {}), content_type="application/json")
    return answer, (answer.json() if answer.content else None)


@pytest.fixture
def assign(client, student, teacher):
    def make(title="String 3: full bend at fret 7", status=201, **terms):
        drill = teacher.studio.drills.select_related("current").get(title=title)
        answer, body = send(client, "post", "/assignments", {"student_id": student.pk, "drill_id": drill.pk, **terms})
        assert answer.status_code == status, body
        return (
            Assignment.objects.select_related("drill__current", "student").get(pk=body["id"]) if status == 201 else body
        )

    return make


@pytest.fixture
def own(student, teacher):
    """The student, signed in."""
    user = User.objects.create_user("nele@a.example", PASSWORD, name="Nele", studio=teacher.studio, role="student")
    Student.objects.filter(pk=student.pk).update(user=user)
    return client_of(user)


def play(found, **what):
    """A take of an assignment at the step it is at."""
    found.refresh_from_db()
    return made_take(found.student, found.drill, bpm=what.pop("bpm", found.step["bpm"]), **what)


def test_three_clean_takes_propose_a_step_and_the_teacher_confirms_it(client, assign):
    found = assign()
    bpm = found.step["bpm"]
    takes = [play(found) for _ in range(3)]
    row = client.get(f"/api/v1/plans/assignments/{found.pk}").json()["assignment"]
    assert (row["standing"]["move"], row["standing"]["to"]["bpm"]) == ("up", bpm + 4)
    assert row["standing"]["takes"] == [str(t.pk) for t in takes]
    assert (
        f"Up to {bpm + 4:g} bpm: the last 3 takes at {bpm:g} bpm were clean (100, 100 and 100 %)"
        in row["standing"]["says"]
    )
    answer, after = send(client, "post", f"/assignments/{found.pk}/confirm", {"says": row["standing"]["says"]})
    assert answer.status_code == 200
    assert after["assignment"]["step"]["bpm"] == bpm + 4
    assert (after["history"][0]["made_by"], after["history"][0]["takes"]) == ("Ada", [str(t.pk) for t in takes])
    # Counting begins anew: the old takes were at another step.
    assert after["assignment"]["standing"]["says"].endswith("nothing was recorded at this step yet.")


def test_a_proposal_that_changed_meanwhile_is_not_confirmed_unseen(client, assign):
    found = assign()
    for _ in range(3):
        play(found)
    says = Assignment.objects.get(pk=found.pk).standing["says"]
    play(found, clean=10)
    answer, body = send(client, "post", f"/assignments/{found.pk}/confirm", {"says": says})
    assert (answer.status_code, body["code"]) == (409, "nothing_proposed")


def test_an_automatic_ladder_steps_by_itself_and_says_so(client, assign):
    found = assign(moves="automatic")
    bpm = found.step["bpm"]
    for _ in range(3):
        play(found)
    found.refresh_from_db()
    assert found.step["bpm"] == bpm + 4
    move = LadderMove.objects.get(assignment=found)
    assert (move.made_by, move.move) == (None, "up")
    for _ in range(2):
        play(found, clean=12)
    found.refresh_from_db()
    assert found.step["bpm"] == bpm


def test_a_step_put_off_needs_a_new_row_of_clean_takes(client, assign):
    found = assign()
    for _ in range(3):
        play(found, ago_min=-1)
    answer, body = send(client, "post", f"/assignments/{found.pk}/put-off")
    assert answer.status_code == 200
    assert body["history"][0]["move"] == "put_off"
    Assignment.objects.filter(pk=found.pk).update(step_since=timezone.now() + dt.timedelta(minutes=2))
    play(found, ago_min=-3)
    assert "1 of 3 clean takes" in Assignment.objects.get(pk=found.pk).standing["says"]


def test_the_teacher_sets_a_step_of_their_own(client, assign, own):
    found = assign()
    _answer, body = send(client, "put", f"/assignments/{found.pk}/step", {"step": {"bpm": 50}, "why": "slower first"})
    assert body["assignment"]["step_words"] == "50 bpm"
    assert body["history"][0]["says"] == "Set to 50 bpm by Ada: slower first"
    assert send(own, "put", f"/assignments/{found.pk}/step", {"step": {"bpm": 90}})[0].status_code == 403
    assert send(client, "put", f"/assignments/{found.pk}/step", {"step": {"bpm": None}})[1]["code"] == "no_tempo"


def test_a_take_at_another_tempo_or_marked_off_does_not_count(client, assign):
    found = assign()
    play(found)
    play(found, bpm=found.step["bpm"] - 10)
    play(found)
    assert "2 of 3" in Assignment.objects.get(pk=found.pk).standing["says"]
    take = play(found)
    assert Assignment.objects.get(pk=found.pk).standing["move"] == "up"
    client.delete(f"/api/v1/takes/{take.pk}")
    assert Assignment.objects.get(pk=found.pk).standing["move"] == "stay"


def test_notes_a_click_are_a_ladder_of_even_drills_alone(client, assign):
    rule = {"speed": "notes_per_click"}
    found = assign(PICKING, rule=rule, step={"bpm": 60, "per_click": 1})
    for _ in range(3):
        play(found, per_click=1)
    row = client.get(f"/api/v1/plans/assignments/{found.pk}").json()["assignment"]
    assert row["standing"]["to_words"] == "2 notes a click at 60 bpm"
    assert assign(status=422, rule=rule)["code"] == "not_even"


def test_the_fastest_even_run_is_the_ceiling(client, assign, student, teacher):
    found = assign(PICKING, step={"bpm": 228})
    for _ in range(3):
        play(found)
    assert "No fastest even run is known" in Assignment.objects.get(pk=found.pk).standing["says"]
    run = teacher.studio.drills.select_related("current").get(title=RUN)
    made_take(student, run, fastest_even_run_nps=8.8)
    standing = Assignment.objects.get(pk=found.pk).standing
    assert standing["move"] == "ceiling"
    assert "85 % of the fastest even run (8.8) is 7.5" in standing["says"]


def test_a_pair_stays_within_one_step(client, assign):
    up = assign(PICKING, step={"bpm": 80})
    down = assign(PICKING_DOWN, step={"bpm": 80}, pair_id=up.pk)
    for bpm in (80, 84):
        for _ in range(3):
            play(up, bpm=bpm)
        says = Assignment.objects.get(pk=up.pk).standing
        if bpm == 80:
            assert says["move"] == "up"
            send(client, "post", f"/assignments/{up.pk}/confirm", {"says": says["says"]})
    assert says["move"] == "pair"
    assert "pairs stay within one step" in says["says"]
    for _ in range(3):
        play(down, bpm=80)
    send(
        client, "post", f"/assignments/{down.pk}/confirm", {"says": Assignment.objects.get(pk=down.pk).standing["says"]}
    )
    assert Assignment.objects.get(pk=up.pk).standing["move"] == "up"


def test_discomfort_holds_every_ladder_until_it_is_cleared(client, own, assign, student):
    found = assign()
    for _ in range(3):
        play(found)
    answer, _body = send(own, "post", "/log", {"student_id": student.pk, "kind": "discomfort", "text": "left wrist"})
    assert answer.status_code == 201
    found.refresh_from_db()
    assert found.standing["move"] == "held"
    assert "discomfort was logged" in found.standing["says"]
    week = own.get(f"/api/v1/plans/week?student_id={student.pk}").json()
    assert week["hold"]["text"] == "left wrist"
    assert any(c["code"] == "pain" for c in week["days"][0]["cautions"])
    assert send(client, "post", f"/hold/{student.pk}/clear")[0].status_code == 204
    found.refresh_from_db()
    assert (found.standing["move"], Hold.objects.get().cleared_by.name) == ("up", "Ada")


def test_a_drill_put_away_holds_its_ladder_and_leaves_the_week(client, assign, student, drill):
    found = assign()
    # A week that is still to come whole: on a Saturday nothing is left of this one.
    week = f"/api/v1/plans/week?student_id={student.pk}&day={timezone.localdate() + dt.timedelta(days=7)}"
    assert any(d["blocks"] for d in client.get(week).json()["days"])
    drill.archived_at = timezone.now()
    drill.save()
    play(found)
    assert "archived" in Assignment.objects.get(pk=found.pk).standing["says"]
    assert not any(d["blocks"] for d in client.get(week).json()["days"])
    assert send(client, "delete", f"/assignments/{found.pk}")[0].status_code == 204
    assert assign(status=422)["code"] == "drill_put_away"


@pytest.mark.parametrize(
    ("terms", "code"),
    [
        ({"ends": "2020-01-01"}, "ends_before"),
        ({"goal": {"bpm": 30}}, "goal_below"),
        ({"minutes": 0}, "invalid"),
        ({"days": 8}, "invalid"),
        ({"rule": {"clean_share": 0.6, "down_share": 0.8}}, "invalid"),
        ({"step": {"bpm": 60, "per_click": 2}}, "not_even"),
        ({"pair_id": 999_999}, "not_found"),
    ],
)
def test_terms_that_cannot_be_are_a_sentence(assign, terms, code):
    body = assign(status=404 if code == "not_found" else 422, **terms)
    assert body["code"] == code
    assert (
        body["detail"].endswith((".", "share to go up", "than or equal to 7", "than or equal to 0.5"))
        or code == "invalid"
    )


def test_a_drill_is_assigned_once(assign):
    assign()
    assert assign(status=409)["code"] == "assigned_already"


def test_the_week_holds_no_more_than_the_students_minutes(client, own, assign, student):
    for title in ("String 3: full bend at fret 7", PICKING, PICKING_DOWN):
        assign(title, minutes=4, days=7)
    minutes = [8, 8, 0, 4, 8, 8, 0]
    answer, _ = send(own, "put", f"/practice/{student.pk}", {"minutes": minutes, "at": "20:15"})
    assert answer.status_code == 200
    days = client.get(f"/api/v1/plans/week?student_id={student.pk}&day={next_monday()}").json()["days"]
    assert all(d["minutes"] <= most for d, most in zip(days, minutes, strict=True))
    assert [len(d["blocks"]) for d in days] == [2, 2, 0, 1, 2, 2, 0]
    assert [len(d["left_out"]) for d in days] == [1, 1, 0, 2, 1, 1, 0]


def test_a_long_dose_stands_in_parts_and_what_was_done_fills_them(client, own, assign, student):
    found = assign(minutes=45, days=7)
    send(own, "put", f"/practice/{student.pk}", {"minutes": [60] * 7, "at": "20:15"})
    for minutes, done in ((20, [15, 5, 0]), (40, [15, 15, 30])):
        body = {"student_id": student.pk, "kind": "practice", "minutes": minutes, "assignment_id": found.pk}
        send(own, "post", "/log", body)
        week = own.get(f"/api/v1/plans/week?student_id={student.pk}").json()
        day = next(d for d in week["days"] if d["day"] == week["today"])
        assert [(b["assignment_id"], b["minutes"]) for b in day["blocks"]] == [
            (found.pk, 15), (None, 5), (found.pk, 15), (None, 5), (found.pk, 15),
        ]  # fmt: skip
        assert [b["done"] for b in day["blocks"] if b["assignment_id"]] == done
    made_sheet = client.post(
        "/api/v1/reports/sheets", json.dumps({"student_id": student.pk}), content_type="application/json"
    ).json()
    page = client.get(f"/api/v1/reports/sheets/{made_sheet['id']}/page").content.decode()
    assert "45 min" in page
    calendar = client.get(f"/api/v1/plans/calendar/{student.pk}").content.decode()
    uids = [line for line in calendar.splitlines() if line.startswith("UID")]
    assert len(uids) == len(set(uids))
    assert len(uids) % 3 == 0 < len(uids)


def next_monday():
    today = timezone.localdate()
    return (today + dt.timedelta(days=7 - today.weekday())).isoformat()


def test_a_day_put_off_moves_and_a_day_left_out_goes(client, own, assign, student):
    found = assign(days=2)
    monday = dt.date.fromisoformat(next_monday())

    def planned():
        days = own.get(f"/api/v1/plans/week?student_id={student.pk}&day={monday}").json()["days"]
        return [d["day"] for d in days if d["blocks"]]

    first, second = planned()
    sunday = (monday + dt.timedelta(days=6)).isoformat()
    assert send(own, "post", f"/assignments/{found.pk}/shift", {"since": first, "to": sunday})[0].status_code == 204
    assert planned() == [second, sunday]
    # Moved on from where it was moved to, then left out, then back.
    saturday = (monday + dt.timedelta(days=5)).isoformat()
    send(own, "post", f"/assignments/{found.pk}/shift", {"since": sunday, "to": saturday})
    assert planned() == [second, saturday]
    send(own, "post", f"/assignments/{found.pk}/shift", {"since": saturday, "to": None})
    assert planned() == [second]
    send(own, "post", f"/assignments/{found.pk}/shift", {"since": first, "to": first})
    assert planned() == [first, second]
    past = {"since": first, "to": "2020-01-06"}
    assert send(own, "post", f"/assignments/{found.pk}/shift", past)[1]["code"] == "past_day"


def test_the_logbook_adds_up_and_days_are_the_studios(client, own, assign, student, teacher, drill):
    teacher.studio.zone = "Pacific/Auckland"
    teacher.studio.save()
    found = assign()
    for minutes in (3, 4.5):
        body = {"student_id": student.pk, "kind": "practice", "minutes": minutes, "assignment_id": found.pk}
        assert send(own, "post", "/log", body)[0].status_code == 201
    made_take(student, drill, clean=18)
    book = client.get(f"/api/v1/plans/log?student_id={student.pk}").json()
    here = timezone.now().astimezone(ZoneInfo("Pacific/Auckland")).date().isoformat()
    assert [(d["day"], d["minutes"], d["takes"], d["clean"], d["asked"]) for d in book["days"]] == [
        (here, 7.5, 1, 18, 20)
    ]
    assert book["weeks"][-1][1] == 7.5
    week = own.get(f"/api/v1/plans/week?student_id={student.pk}").json()
    done = [b for d in week["days"] for b in d["blocks"] if d["day"] == here]
    assert not done or (done[0]["done"], done[0]["recorded"]) == (7.5, 1)
    entry = book["days"][0]["entries"][0]["id"]
    assert own.delete(f"/api/v1/plans/log/{entry}").status_code == 204


@pytest.mark.parametrize(
    ("body", "code"),
    [
        ({"kind": "practice"}, "no_minutes"),
        ({"kind": "note", "text": "  "}, "no_text"),
        ({"kind": "practice", "minutes": 3, "day": "2019-01-01"}, "day_invalid"),
        ({"kind": "practice", "minutes": 3, "day": "2199-01-01"}, "invalid"),
        ({"kind": "practice", "minutes": 1e9}, "invalid"),
    ],
)
def test_a_line_of_the_logbook_that_cannot_be_is_a_sentence(own, student, body, code):
    answer, said = send(own, "post", "/log", {"student_id": student.pk, **body})
    assert (answer.status_code, said["code"]) == (422, code)


def test_a_student_may_not_assign_confirm_or_change_terms(own, assign, student, drill):
    found = assign()
    for method, path in (
        ("post", "/assignments"), ("put", f"/assignments/{found.pk}"), ("delete", f"/assignments/{found.pk}"),
        ("post", f"/assignments/{found.pk}/confirm"), ("post", f"/assignments/{found.pk}/put-off"),
    ):  # fmt: skip
        body = {"student_id": student.pk, "drill_id": drill.pk, "says": "x"}
        assert send(own, method, path, body)[0].status_code == 403, path


def test_the_week_is_a_constant_number_of_statements(client, assign, student, django_assert_max_num_queries):
    for title in ("String 3: full bend at fret 7", PICKING, PICKING_DOWN):
        assign(title)
    with django_assert_max_num_queries(16):
        client.get(f"/api/v1/plans/week?student_id={student.pk}")
    with django_assert_max_num_queries(6):
        client.get("/api/v1/plans/assignments")
    with django_assert_max_num_queries(10):
        client.get(f"/api/v1/plans/log?student_id={student.pk}")


def test_practice_is_the_houses_until_somebody_says(student):
    assert selectors.practice(student).minutes == [20, 20, 20, 20, 20, 0, 0]

"""Measuring many takes again: beside what counts, with pauses, kept or dropped as a whole."""

import json
from pathlib import Path

import pytest
from apps.jobs.models import Job
from apps.measuring import again, tasks
from apps.measuring.models import Remeasurement, Trial
from apps.people.consents import Given
from apps.people.services import add_student
from apps.takes.models import Analysis, Take
from django.core.management import CommandError, call_command
from fortimetra import __version__ as CORE

from tests.server.conftest import client_of
from tests.server.made import made_take

pytestmark = pytest.mark.django_db
PATH = "/api/v1/takes/again"


@pytest.fixture
def old(measured):
    """A take that an older version found nothing wrong in, where a bend is flat."""
    row = Analysis.objects.get(pk=measured.current_id)
    content = json.loads(json.dumps(row.content))
    note = next(n for n in content["notes"] if n["clean"] == "outside" and n["bend"])
    note["clean"], note["bend"]["verdict"] = "inside", "inside"
    Analysis.objects.filter(pk=row.pk).update(core_version="0.1.0", content=content)
    return Take.objects.get(pk=measured.pk)


def post(client, path="", body=None):
    return client.post(PATH + path, json.dumps(body or {}), content_type="application/json")


def work(most=20):
    """Workers do what is to be done, until nothing is."""
    run = {task.name: task for task in (tasks.remeasure, tasks.go_through_order)}
    for _ in range(most):
        job = Job.objects.filter(kind__in=run, state="waiting").first()
        if job is None:
            return
        run[job.kind](job.subject)
    raise AssertionError("the work does not end")


def files(settings):
    return sorted(p.name for p in Path(settings.MEDIA_ROOT).rglob("*") if p.is_file())


def test_what_would_change_is_added_up_and_nothing_counts_before_it_is_kept(client, old, settings):
    told = client.get(f"{PATH}/estimate").json()
    assert (told["takes"], told["core_version"]) == (1, CORE)
    before, there = old.current_id, files(settings)
    asked = post(client)
    assert (asked.status_code, asked.json()["state"]) == (201, "listing")
    work()
    (order,) = client.get(PATH).json()
    assert (order["state"], order["total"], order["measured"], order["waiting"]) == ("measured", 1, 1, 0)
    assert {"measure": "bend", "before": "inside", "after": "outside", "count": 1} in order["flips"]
    assert {"measure": "note", "before": "inside", "after": "outside", "count": 1} in order["flips"]
    (take,) = order["most_changed"]
    assert (take["take_id"], take["changed"], take["core_versions"]) == (str(old.pk), 1, ["0.1.0", CORE])
    old.refresh_from_db()
    assert old.current_id == before
    # Curves beside the old ones; no second copy to listen to.
    assert len(files(settings)) == len(there) + 1

    assert post(client, f"/{order['id']}/keep").json()["state"] == "keeping"
    work()
    old.refresh_from_db()
    assert old.current.core_version == CORE
    assert old.current_id != before
    assert client.get(f"/api/v1/takes/{old.pk}/sound").status_code == 200
    (order,) = client.get(PATH).json()
    assert (order["state"], order["kept"], order["left_alone"]) == ("kept", 1, 0)
    assert not Trial.objects.exists()
    assert post(client).json()["code"] == "nothing_to_measure"


def test_dropped_nothing_is_left_of_it(client, old, settings, django_capture_on_commit_callbacks):
    there, counts = files(settings), old.current_id
    order = post(client).json()
    work()
    assert len(files(settings)) == len(there) + 1
    assert client.delete(f"{PATH}/{order['id']}").status_code == 204
    with django_capture_on_commit_callbacks(execute=True):
        work()
    assert client.get(PATH).json() == []
    assert files(settings) == there
    old.refresh_from_db()
    assert old.current_id == counts


def test_a_pause_begins_nothing_more_and_going_on_finishes(client, old, student, drill):
    order = post(client).json()
    tasks.go_through_order(order["id"])
    assert post(client, f"/{order['id']}/pause").json()["state"] == "paused"
    assert not Job.objects.filter(kind=again.REMEASURING.task).exists()
    assert list(again.REMEASURING.unfinished()) == []
    work()
    assert client.get(f"{PATH}/{order['id']}").json()["waiting"] == 1
    assert post(client, f"/{order['id']}/go-on").json()["state"] == "listing"
    work()
    assert client.get(f"{PATH}/{order['id']}").json()["state"] == "measured"
    assert post(client, f"/{order['id']}/pause").json()["code"] == "not_now"


def test_an_order_paused_while_it_is_listed_still_knows_how_many_it_is(client, old):
    order = post(client).json()
    found = Remeasurement.objects.get(pk=order["id"])
    post(client, f"/{order['id']}/pause")
    again._list(found, 0.0)  # it had begun before the pause
    assert client.get(f"{PATH}/{order['id']}").json()["state"] == "paused"
    post(client, f"/{order['id']}/go-on")
    work()
    told = client.get(f"{PATH}/{order['id']}").json()
    assert (told["state"], told["total"], told["measured"]) == ("measured", 1, 1)


def test_a_take_that_was_measured_otherwise_meanwhile_is_left_alone(client, old):
    order = post(client).json()
    work()
    Take.objects.filter(pk=old.pk).update(current=None)
    post(client, f"/{order['id']}/keep")
    work()
    (order,) = client.get(PATH).json()
    assert (order["kept"], order["left_alone"]) == (0, 1)


def test_a_take_that_cannot_be_measured_any_more_is_counted_and_keeps_its_result(client, old, monkeypatch):
    def broken(*_a, **_k):
        raise RuntimeError("a bug of the new version")

    monkeypatch.setattr(tasks, "measure_take", broken)
    order = post(client).json()
    work()
    told = client.get(f"{PATH}/{order['id']}").json()
    assert (told["state"], told["measured"], told["refused"]) == ("measured", 0, 1)
    post(client, f"/{order['id']}/keep")
    work()
    old.refresh_from_db()
    assert old.current.core_version == "0.1.0"


def test_only_ones_own_students_one_order_at_a_time(client, old, teacher, stranger, drill):
    theirs = add_student(stranger, name="Other", agreed=Given(by="student", way="word"))
    made_take(theirs, stranger.studio.drills.get(title=drill.title))
    other = client_of(stranger)
    assert client.get(f"{PATH}/estimate").json()["takes"] == 1
    order = post(client).json()
    assert post(client).json()["code"] == "another_order"
    assert other.get(f"{PATH}/{order['id']}").status_code == 404
    assert post(other, f"/{order['id']}/keep").status_code == 404
    assert other.get(PATH).json() == []
    assert post(other, body={"student_id": old.student_id}).status_code == 404


def test_a_student_and_a_drill_narrow_it_down(client, old, teacher, drill):
    other = add_student(teacher, name="Other", agreed=Given(by="student", way="word"))
    made_take(other, drill)
    assert client.get(f"{PATH}/estimate").json()["takes"] == 2
    assert client.get(f"{PATH}/estimate?student_id={other.pk}").json()["takes"] == 1
    another = teacher.studio.drills.exclude(pk=drill.pk).first()
    assert client.get(f"{PATH}/estimate?drill_id={another.pk}").json()["takes"] == 0
    Analysis.objects.update(core_version=CORE)
    assert client.get(f"{PATH}/estimate").json()["takes"] == 0
    assert client.get(f"{PATH}/estimate?all_versions=true").json()["takes"] == 2


def test_from_the_command_line(teacher, old, capsys, monkeypatch):
    monkeypatch.setattr("apps.measuring.management.commands.measure_again.time.sleep", lambda _s: work())
    call_command("measure_again", teacher.email, "--keep")
    told = capsys.readouterr().out
    assert "1 bend: clean -> off" in told
    assert "1 kept" in told
    old.refresh_from_db()
    assert old.current.core_version == CORE
    with pytest.raises(CommandError, match="measured by this version"):
        call_command("measure_again", teacher.email)
    with pytest.raises(CommandError, match="no student of the name"):
        call_command("measure_again", teacher.email, "--student", "Nobody")
    with pytest.raises(CommandError, match="No teacher has the address"):
        call_command("measure_again", "x@y.example")
    assert Remeasurement.objects.get().state == "kept"

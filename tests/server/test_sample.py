"""The sample take: there on one press, measured like any other, gone with everything of its student."""

import pytest
from apps.demo import sample
from apps.demo.tasks import make_sample
from apps.drills.models import Drill
from apps.jobs.models import Job
from apps.measuring.tasks import measure
from apps.people.models import Student, User
from apps.takes.models import Take

from tests.server.conftest import PASSWORD, client_of

pytestmark = pytest.mark.django_db
PATH = "/api/v1/reports/sample"


@pytest.fixture(autouse=True)
def _nobody_is_woken(queued):
    """Workers do what a test has them do."""


def asked():
    """For whom a worker is to make a sample."""
    return list(Job.objects.filter(kind=sample.PLAYING.task).values_list("subject", flat=True))


def loaded(client):
    """The answer once the worker has done what it was asked for."""
    assert client.post(PATH).status_code == 202
    for key in asked():
        make_sample(key)
    return client.post(PATH)


def test_it_is_measured_and_has_something_to_find(client):
    answer = loaded(client)
    assert answer.status_code == 201
    measure(answer.json()["take_id"])
    take = Take.objects.get(pk=answer.json()["take_id"])
    assert (take.state, take.invented, take.student.name) == ("measured", True, sample.NAME)
    summary = take.current.summary
    assert summary["not_clean"] == 2
    assert take.current.headline == "Bends stop short"


def test_asked_twice_it_is_the_same_and_made_once(client, teacher):
    client.post(PATH)
    client.post(PATH)
    assert asked() == [str(teacher.pk)]
    make_sample(str(teacher.pk))
    make_sample(str(teacher.pk))  # a message that came twice
    assert client.post(PATH).json() == client.post(PATH).json()
    assert Student.objects.filter(name=sample.NAME).count() == 1


def test_it_goes_with_everything_of_its_student_and_leaves_others(client, student):
    take = Take.objects.get(pk=loaded(client).json()["take_id"])
    assert take.upload.storage.exists(take.upload.name)
    assert client.delete(PATH).status_code == 204
    assert not Take.objects.filter(pk=take.pk).exists()
    assert [s.name for s in Student.objects.all()] == [student.name]
    assert client.delete(PATH).status_code == 204  # nothing there is nothing to do


def test_a_teacher_has_their_own(client, stranger):
    loaded(client)
    theirs = client_of(stranger)
    assert theirs.delete(PATH).status_code == 204
    assert Student.objects.filter(name=sample.NAME).count() == 1


def test_without_its_drill_it_says_what_to_do(client, teacher):
    Drill.objects.filter(studio=teacher.studio, title=sample.DRILL).update(title="Another name")
    answer = client.post(PATH)
    assert (answer.status_code, answer.json()["code"]) == (409, "no_sample_drill")
    assert "Record a take instead" in answer.json()["detail"]
    assert not Student.objects.exists()


def test_a_student_has_none(teacher, student):
    user = User.objects.create_user("n@a.example", PASSWORD, name="N", studio=teacher.studio, role="student")
    student.user = user
    student.save()
    assert client_of(user).post(PATH).status_code == 403


def test_a_sample_that_cannot_be_played_is_said_once_and_may_be_asked_for_again(client, teacher):
    client.post(PATH)
    Job.objects.filter(kind=sample.PLAYING.task).update(attempts=sample.PLAYING.most_attempts)
    make_sample(str(teacher.pk))
    answer = client.post(PATH)
    assert (answer.status_code, answer.json()["code"]) == (503, "sample_failed")
    assert client.post(PATH).status_code == 202

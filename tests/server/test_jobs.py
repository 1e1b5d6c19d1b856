"""Background jobs: one at a time on each, tried again, given up with a reason, found again when anything was lost."""

import threading
from datetime import timedelta

import pytest
from apps.jobs import services as jobs
from apps.jobs.models import Job
from apps.jobs.services import Kind, Problem
from apps.jobs.work import ClaimLost, tell, work
from apps.takes import services as takes
from apps.takes.models import Take
from celery.exceptions import SoftTimeLimitExceeded
from django.db import connection
from django.utils import timezone

pytestmark = pytest.mark.django_db
BROKE, TOO_MUCH = Problem("broke", "It broke off."), Problem("too_much", "It is too much.")


class Errand(Kind):
    """A kind that writes down what it is told."""

    def __init__(self):
        super().__init__("tests.errand", broke=BROKE, too_much=TOO_MUCH, most_attempts=2)
        self.told, self.wanted = [], []

    def moved(self, subjects, state, problem=None):
        self.told += [(s, state, problem) if problem else (s, state) for s in subjects]

    def unfinished(self):
        return self.wanted


@pytest.fixture
def kind():
    made = Errand()
    yield made
    del jobs.KINDS[made.task]


@pytest.fixture
def sent(monkeypatch):
    found = []
    monkeypatch.setattr(jobs, "send", lambda _task, key: found.append(key))
    return found


@pytest.fixture
def asked(kind, sent, django_capture_on_commit_callbacks):
    with django_capture_on_commit_callbacks(execute=True):
        jobs.ask(kind, 7, payload={"tempo": 90})
    return kind


def state():
    return Job.objects.values_list("state", flat=True).get()


def test_a_job_is_done_once_and_gone_then(asked, sent):
    assert sent == ["7"]
    seen = []

    def do(mine):
        seen.append(jobs.payload_of(mine))
        tell(mine, "half", 0.5)
        seen.append(Job.objects.values_list("stage", "fraction").get())
        assert jobs.finish(mine)

    work(asked, "7", do)
    work(asked, "7", do)  # a message that came twice
    assert seen == [{"tempo": 90}, ("half", 0.5)]
    assert not Job.objects.exists()
    assert asked.told == [("7", "waiting"), ("7", "queued"), ("7", "running")]


def test_a_job_has_one_worker(asked):
    assert jobs.claim(asked, "7") is not None
    assert jobs.claim(asked, "7") is None


def test_what_breaks_is_tried_again_and_given_up_with_its_reason(asked, sent):
    def broken(_mine):
        raise RuntimeError("a bug")

    for _ in range(3):
        work(asked, "7", broken)
    assert state() == "failed"
    assert asked.told[-1] == ("7", "failed", BROKE)
    assert sent == ["7"] * 3
    job = Job.objects.get()
    assert (job.problem_code, job.problem_detail, job.attempts) == ("broke", "It broke off.", 2)
    work(asked, "7", lambda _mine: pytest.fail("done after it was given up"))


@pytest.mark.parametrize("error", [MemoryError(), SoftTimeLimitExceeded()])
def test_what_is_too_much_is_not_tried_again(asked, sent, error):
    def broken(_mine):
        raise error

    work(asked, "7", broken)
    assert state() == "failed"
    assert asked.told[-1] == ("7", "failed", TOO_MUCH)
    assert sent == ["7"]


def test_a_full_disk_is_no_attempt(asked, sent, monkeypatch):
    def full(_mine):
        raise OSError(28, "No space left on device")

    for _ in range(4):
        work(asked, "7", full)
    assert Job.objects.values_list("state", "attempts", "queued_at").get() == ("waiting", 0, None)
    monkeypatch.setattr(jobs, "has_room", lambda: False)
    assert jobs.sweep() == 0
    assert jobs.claim(asked, "7") is None
    monkeypatch.undo()


def test_asked_for_again_it_begins_anew_and_who_had_it_has_lost_it(asked, sent):
    old = jobs.claim(asked, "7")
    jobs.ask(asked, 7)
    assert not jobs.report(old)
    assert not jobs.finish(old)
    with pytest.raises(ClaimLost):
        tell(old, "late", 1.0)
    jobs.fail(old, BROKE)
    jobs.release(old)
    row = Job.objects.get()
    assert (row.state, row.attempts, row.claim, row.payload) == ("waiting", 0, None, None)


def test_a_worker_that_dies_leaves_its_job_to_another(asked, sent):
    dead = jobs.claim(asked, "7")
    assert jobs.sweep() == 0
    Job.objects.update(claimed_until=timezone.now() - timedelta(seconds=1))
    assert jobs.sweep() == 1
    assert sent == ["7", "7"]
    alive = jobs.claim(asked, "7")
    assert alive is not None
    assert not jobs.finish(dead)
    assert jobs.finish(alive)


def test_while_the_broker_is_away_jobs_wait(kind, monkeypatch, sent, django_capture_on_commit_callbacks):
    def away(_task, _key):
        raise ConnectionError("no broker")

    monkeypatch.setattr(jobs, "send", away)
    with django_capture_on_commit_callbacks(execute=True):
        jobs.ask_all(kind, [1, 2, 3])
    assert set(Job.objects.values_list("state", "queued_at")) == {("waiting", None)}
    monkeypatch.setattr(jobs, "send", lambda _task, key: sent.append(key))
    assert jobs.sweep() == 3
    assert sent == ["1", "2", "3"]
    assert jobs.sweep() == 0
    assert jobs.sweep(all_waiting=True) == 3


def test_a_row_that_waits_without_a_job_is_given_one(kind, sent, django_capture_on_commit_callbacks):
    kind.wanted = [5, 6]
    jobs.ask(kind, 5)
    with django_capture_on_commit_callbacks(execute=True):
        jobs.sweep()
    assert sorted(Job.objects.values_list("subject", flat=True)) == ["5", "6"]
    assert "6" in sent


def test_takes_an_older_release_has_received_are_measured(make_take, sent, django_capture_on_commit_callbacks):
    take = make_take()
    Job.objects.all().delete()
    Take.objects.update(state=Take.State.MEASURING)  # its worker was of the older release, too
    with django_capture_on_commit_callbacks(execute=True):
        jobs.sweep()
    assert sent[-1:] == [str(take.pk)]
    assert jobs.claim(takes.MEASURING, take.pk) is not None


def test_nobody_wants_it_any_more(asked):
    mine = jobs.claim(asked, "7")
    jobs.forget(asked, [7])
    assert not jobs.finish(mine)
    assert not Job.objects.exists()


@pytest.mark.django_db(transaction=True)
def test_of_two_who_want_a_job_at_once_one_gets_it(kind, sent):
    jobs.ask(kind, 7)
    found, ready = [], threading.Barrier(4)

    def want():
        ready.wait()
        found.append(jobs.claim(kind, "7"))
        connection.close()

    threads = [threading.Thread(target=want) for _ in range(4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sum(claim is not None for claim in found) == 1

"""The teacher's word through the API: marks, the Desk, judging, trials, comparing."""

from __future__ import annotations

import json
from datetime import timedelta

import pytest
from apps.jobs import services as jobs
from apps.measuring import tasks
from apps.measuring.models import Trial
from apps.people.models import Student, User
from apps.reviews.models import WordMark
from apps.takes.models import Analysis, Take
from django.utils import timezone

from tests.server.conftest import PASSWORD, client_of

pytestmark = pytest.mark.django_db
JSON = "application/json"
BEND0 = {"id": "bend", "repeat": 0}


def send(client, method, path, body=None):
    return client.generic(method, f"/api/v1/takes{path}", json.dumps(body or {}), content_type=JSON)


def mark(client, take, **said):
    return send(client, "POST", f"/{take.pk}/marks", said)


def read(client, take):
    return client.get(f"/api/v1/takes/{take.pk}/analysis").json()


@pytest.fixture
def tried(monkeypatch):
    found = []
    monkeypatch.setattr(jobs, "send", lambda task, key: found.append(key))
    return found


# -- marks -----------------------------------------------------------------------------------------


def test_a_mark_changes_the_counts_at_once_and_keeps_what_was_measured(client, measured):
    before = read(client, measured)
    row = Analysis.objects.get(pk=measured.current_id)
    stored = row.content
    answer = mark(client, measured, kind="meant", notes=[BEND0], text="a blue note")
    assert answer.status_code == 201
    after = answer.json()
    assert after["analysis"]["summary"]["clean"] == before["analysis"]["summary"]["clean"] + 1
    (kept,) = after["marks"]
    assert (kept["made_by"], kept["mark"]["text"], kept["undone_at"]) == ("Ada", "a blue note", None)
    assert after["take"]["word_version"] == before["take"]["word_version"] + 1
    row.refresh_from_db()
    assert row.content == stored
    assert row.summary["clean"] == after["analysis"]["summary"]["clean"]
    assert row.ticks.count("-") == before["take"]["ticks"].count("-") - 1
    note = next(n for n in after["analysis"]["notes"] if (n["id"], n["repeat"]) == ("bend", 0))
    assert (note["said"], note["clean"]) == ("meant", "inside")
    assert note["bend"]["error_cents"] == pytest.approx(-22.0, abs=1.5)


def test_a_mark_is_taken_back_and_counts_again(client, measured):
    before = read(client, measured)["analysis"]["summary"]
    made = mark(client, measured, kind="excluded", notes=[BEND0]).json()["marks"][0]
    back = send(client, "PUT", f"/{measured.pk}/marks/{made['id']}", {"undone": True}).json()
    assert back["analysis"]["summary"] == before
    (kept,) = back["marks"]
    assert kept["undone_by"] == "Ada"
    again = send(client, "PUT", f"/{measured.pk}/marks/{made['id']}", {"undone": False}).json()
    assert again["analysis"]["summary"]["excluded"] == 1


def test_two_tabs_marking_one_take_lose_nothing(client, measured):
    seen = read(client, measured)["take"]["word_version"]
    mark(client, measured, kind="meant", notes=[BEND0])
    both = mark(client, measured, kind="meant", notes=[{"id": "bend", "repeat": 1}]).json()
    assert len(both["marks"]) == 2
    assert both["take"]["word_version"] == seen + 2


def test_judging_what_changed_meanwhile_is_refused_and_named(client, measured):
    seen = read(client, measured)["take"]["word_version"]
    mark(client, measured, kind="meant", notes=[BEND0])
    body = {"takes": [{"id": str(measured.pk), "word_version": seen}]}
    assert send(client, "POST", "/judge", body).json() == {"done": [], "changed": [str(measured.pk)]}
    measured.refresh_from_db()
    assert measured.judged_at is None
    body["takes"][0]["word_version"] = seen + 1
    assert send(client, "POST", "/judge", body).json() == {"done": [str(measured.pk)], "changed": []}
    assert read(client, measured)["take"]["judged_by"] == "Ada"
    assert send(client, "POST", "/judge", body | {"judged": False}).json()["done"] == [str(measured.pk)]
    measured.refresh_from_db()
    assert (measured.judged_at, measured.judged_by) == (None, None)


def test_a_take_that_was_deleted_meanwhile_is_named_and_the_others_are_judged(client, measured, make_take):
    gone = make_take()
    tasks.measure(str(gone.pk))
    pk = gone.pk
    Take.objects.filter(pk=pk).update(current=None)
    gone.delete()
    wanted = [{"id": str(pk), "word_version": 0}, {"id": str(measured.pk), "word_version": 0}]
    assert send(client, "POST", "/judge", {"takes": wanted}).json() == {
        "done": [str(measured.pk)],
        "changed": [str(pk)],
    }
    assert send(client, "POST", f"/{pk}/marks", {"kind": "comment", "text": "x"}).status_code == 404


def test_a_student_may_comment_and_nothing_else(measured, teacher, student):
    user = User.objects.create_user("nele@a.example", PASSWORD, name="Nele", studio=teacher.studio, role="student")
    Student.objects.filter(pk=student.pk).update(user=user)
    own = client_of(user)
    assert mark(own, measured, kind="comment", text="My thumb slipped", at_s=2.0).status_code == 201
    assert mark(own, measured, kind="meant", notes=[BEND0]).status_code == 403
    by_teacher = mark(client_of(teacher), measured, kind="comment", text="Seen").json()["marks"][-1]
    assert send(own, "PUT", f"/{measured.pk}/marks/{by_teacher['id']}", {"undone": True}).status_code == 403
    assert send(own, "POST", "/judge", {"takes": [{"id": str(measured.pk), "word_version": 2}]}).status_code == 403
    assert send(own, "POST", f"/{measured.pk}/trials").status_code == 403


@pytest.mark.parametrize(
    "said", [{"kind": "meant"}, {"kind": "verdict", "notes": [BEND0], "verdict": "inside"}, {"kind": "praise"}]
)
def test_a_word_that_says_nothing_is_refused_with_a_sentence(client, measured, said):
    answer = mark(client, measured, **said)
    assert answer.status_code == 422
    assert answer.json()["detail"]
    assert WordMark.objects.count() == 0


def test_a_take_that_is_not_measured_cannot_be_marked_yet(client, make_take):
    answer = mark(client, make_take(), kind="comment", text="x")
    assert (answer.status_code, answer.json()["code"]) == (409, "not_measured_yet")


def test_words_survive_measuring_again(client, measured, queued):
    mark(client, measured, kind="meant", notes=[BEND0])
    counted = read(client, measured)["analysis"]["summary"]
    send(client, "POST", f"/{measured.pk}/measure")
    tasks.measure(str(measured.pk))
    again = read(client, measured)
    assert again["analysis"]["summary"] == counted
    measured.refresh_from_db()
    assert measured.current.summary["clean"] == counted["clean"]


# -- the Desk --------------------------------------------------------------------------------------


def test_the_desk_puts_what_needs_the_ear_first(client, measured, make_take, wavs):
    clean = make_take(wavs["clean"])
    tasks.measure(str(clean.pk))
    noise = make_take(wavs["noise"])
    tasks.measure(str(noise.pk))
    waiting = make_take()
    desk = client.get("/api/v1/takes/desk").json()
    assert [r["id"] for r in desk["rows"]] == [str(t.pk) for t in (noise, measured, clean, waiting)]
    assert desk["counts"] == {"waiting": 4, "judged": 0, "unfinished": 1, "refused": 1}
    for asked in ("", "?show=judged", "?show=all", f"?student_id={measured.student_id}", "?family=sweep"):
        some = client.get(f"/api/v1/takes/desk{asked}").json()
        assert some["total"] == len(some["rows"]), asked
    assert desk["rows"][1]["headline"] == "Bends stop short"
    assert desk["rows"][2]["headline"] == ""
    send(client, "POST", "/judge", {"takes": [{"id": str(measured.pk), "word_version": 0}]})
    desk = client.get("/api/v1/takes/desk").json()
    assert str(measured.pk) not in [r["id"] for r in desk["rows"]]
    judged = client.get("/api/v1/takes/desk?show=judged").json()
    assert [(r["id"], r["judged_by"]) for r in judged["rows"]] == [(str(measured.pk), "Ada")]


@pytest.fixture
def wavs():
    import io

    import numpy as np
    import soundfile
    from fortimetra.drills.fretted_then_bend import fretted_then_bend
    from fortimetra.player.faults import Faults

    from tests.kept import render

    def wav(sound, rate=48_000):
        out = io.BytesIO()
        soundfile.write(out, sound, rate, format="WAV", subtype="PCM_16")
        return out.getvalue()

    drill = fretted_then_bend(title="t", string=3, fret=7, repeats=4, bpm=66)
    hiss = np.random.default_rng(1).normal(0, 0.1, 96_000)
    return {"clean": wav(render(drill, Faults())[0]), "noise": wav(hiss)}


def test_the_desk_takes_the_same_queries_with_500_takes(client, measured, student, django_assert_max_num_queries):
    _copies(measured, 499)
    client.get("/api/v1/me")  # the first request of a process pays for its imports
    with django_assert_max_num_queries(10):
        desk = client.get("/api/v1/takes/desk?limit=500").json()
    assert len(desk["rows"]) == 500


def _copies(take, count):
    """More takes with the same analysis, as rows."""
    takes = [
        Take(
            student=take.student,
            drill_version=take.drill_version,
            played_at=take.played_at - timedelta(minutes=n),
            upload=take.upload.name,
            original_name="x",
            size_bytes=1,
            sha256="0" * 64,
            state="measured",
            measured_at=timezone.now(),
            need=n / count,
        )
        for n in range(count)
    ]
    Take.objects.bulk_create(takes)
    first = Analysis.objects.get(pk=take.current_id)
    Analysis.objects.bulk_create(
        Analysis(
            take=t,
            drill_version=first.drill_version,
            core_version=first.core_version,
            seconds=1,
            content={},
            summary=first.summary,
            counts=first.counts,
            ticks=first.ticks,
        )
        for t in takes
    )
    of = dict(Analysis.objects.filter(take__in=takes).values_list("take_id", "pk"))
    for t in takes:
        t.current_id = of[t.pk]
    Take.objects.bulk_update(takes, ["current"])


# -- trials ----------------------------------------------------------------------------------------


def test_a_tolerance_shows_its_effect_before_it_is_kept(client, measured, tried, django_capture_on_commit_callbacks):
    with django_capture_on_commit_callbacks(execute=True):
        made = send(client, "POST", f"/{measured.pk}/trials", {"tolerances": {"bend_error_cents": 30.0}}).json()
    assert tried == [made["id"]]
    assert made["state"] == "waiting"
    tasks.try_take(made["id"])
    trial = client.get(f"/api/v1/takes/{measured.pk}/trials/{made['id']}").json()
    assert trial["state"] == "measured"
    assert trial["after"]["by_measure"]["bend"]["outside"] == 0
    assert trial["before"]["by_measure"]["bend"]["outside"] == 4
    assert trial["comparison"]["gained"] == 4
    # Nothing counts yet.
    assert read(client, measured)["analysis"]["summary"] == trial["before"]
    send(client, "POST", f"/{measured.pk}/trials/{made['id']}/keep")
    kept = read(client, measured)
    assert kept["analysis"]["summary"] == trial["after"]
    assert kept["tolerances"]["bend_error_cents"] == 30.0
    assert kept["drill"]["content"]["tolerances"]["bend_error_cents"] == 30.0
    assert Trial.objects.count() == 0
    # And measuring again later keeps to it.
    send(client, "POST", f"/{measured.pk}/measure")
    tasks.measure(str(measured.pk))
    assert read(client, measured)["analysis"]["summary"] == trial["after"]


def test_a_trial_that_is_dropped_leaves_nothing(client, measured, tried, settings, django_capture_on_commit_callbacks):
    files = sorted(settings.MEDIA_ROOT.rglob("*.flac"))
    made = send(client, "POST", f"/{measured.pk}/trials", {"pins": [BEND0 | {"at_s": None}]}).json()
    tasks.try_take(made["id"])
    trial = client.get(f"/api/v1/takes/{measured.pk}/trials/{made['id']}").json()
    assert trial["after"]["missed"] == 1
    url = f"/{measured.pk}/trials/{made['id']}"
    with django_capture_on_commit_callbacks(execute=True):
        assert send(client, "DELETE", url).status_code == 204
    assert Analysis.objects.filter(take=measured).count() == 1
    assert read(client, measured)["pins"] == []
    assert client.get(f"/api/v1/takes{url}").status_code == 404
    assert sorted(settings.MEDIA_ROOT.rglob("*.flac")) == files


def test_a_trial_against_what_no_longer_counts_cannot_be_kept(client, measured, tried):
    ids = []
    for cents in (30.0, 40.0):
        made = send(client, "POST", f"/{measured.pk}/trials", {"tolerances": {"bend_error_cents": cents}}).json()
        tasks.try_take(made["id"])
        ids.append(made["id"])
    assert send(client, "POST", f"/{measured.pk}/trials/{ids[0]}/keep").status_code == 200
    late = client.get(f"/api/v1/takes/{measured.pk}/trials/{ids[1]}").json()
    assert late["out_of_date"] is True
    answer = send(client, "POST", f"/{measured.pk}/trials/{ids[1]}/keep")
    assert (answer.status_code, answer.json()["code"]) == (409, "out_of_date")


def test_another_drill_that_does_not_fit_says_so_and_changes_nothing(client, measured, teacher, tried):
    other = teacher.studio.drills.get(title="String 1: half bend at fret 5")
    made = send(client, "POST", f"/{measured.pk}/trials", {"drill_id": other.pk}).json()
    tasks.try_take(made["id"])
    trial = client.get(f"/api/v1/takes/{measured.pk}/trials/{made['id']}").json()
    assert trial["state"] == "refused"
    assert "does not look like the drill" in trial["problem"]
    assert read(client, measured)["drill"]["id"] == measured.drill_version.drill_id


@pytest.mark.parametrize("said", [{"bend_error_cents": -3.0}, {"no_such": 1.0}])
def test_a_tolerance_that_cannot_be_is_refused(client, measured, said):
    answer = send(client, "POST", f"/{measured.pk}/trials", {"tolerances": said})
    assert (answer.status_code, answer.json()["code"]) == (422, "tolerance_invalid")


# -- comparing -------------------------------------------------------------------------------------


def test_two_takes_are_compared_the_earlier_first(client, measured, make_take, wavs):
    better = make_take(wavs["clean"])
    tasks.measure(str(better.pk))
    Take.objects.filter(pk=measured.pk).update(played_at=timezone.now() - timedelta(days=7))
    told = client.get(f"/api/v1/takes/{better.pk}/compare/{measured.pk}").json()
    assert (told["before"]["id"], told["after"]["id"]) == (str(measured.pk), str(better.pk))
    assert (told["comparison"]["gained"], told["comparison"]["lost"]) == (4, 0)
    bend = next(d for d in told["comparison"]["overall"] if d["code"] == "bend_error")
    assert bend["better"] is True
    assert bend["difference"] == pytest.approx(22.0, abs=2.0)

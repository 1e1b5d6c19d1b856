"""Progress, lesson sheets, exports, and parting with a student."""

import csv
import datetime as dt
import io
import json
import math
from itertools import pairwise
from pathlib import Path
from types import SimpleNamespace

import jams
import mido
import pytest
from apps.jobs import services as jobs
from apps.jobs.models import Job
from apps.people.models import AuditEntry, Student, User
from apps.plans import services as plans
from apps.reports import sheets, tasks
from apps.reports.models import LessonSheet
from apps.reports.tasks import set_sheet
from apps.takes.models import DrillGuess, Take
from django.conf import settings as django_settings
from django.core.files.base import ContentFile
from django.test import Client
from django.utils import timezone
from fortimetra import Analysis as AnalysisContent
from fortimetra.model.ladder import Step
from pypdf import PdfReader

from tests.server.conftest import PASSWORD, client_of
from tests.server.made import made_take
from tests.server.test_access import TERMS

pytestmark = pytest.mark.django_db
DAY_MIN = 24 * 60
FRETTED = 62


def send(client, method, path, body=None):
    return getattr(client, method)(f"/api/v1/reports{path}", json.dumps(body or {}), content_type="application/json")


def bends(error, u=1.5):
    return [
        {
            "string": 3,
            "fret": 7,
            "target_cents": 200.0,
            "count": 4,
            "median_error_cents": error,
            "spread_cents": 3.0,
            "u": u,
        }
    ]


# -- progress ---------------------------------------------------------------------------------------------------------


def test_a_trend_says_how_much_better_and_how_sure(client, student, drill):
    for week, error in enumerate((-41.0, -33.0, -27.0, -18.0, -12.0, -6.0)):
        made_take(student, drill, clean=8 + 2 * week, ago_min=(6 - week) * 7 * DAY_MIN, bends=bends(error), tell=False)
    body = client.get(f"/api/v1/reports/progress?student_id={student.pk}&drill_id={drill.pk}").json()
    error = next(s for s in body["series"] if s["key"] == "bend_error")
    assert error["limit"] == 15.0
    assert error["trend"]["sure"] is True
    assert error["trend"]["per_week"] == pytest.approx(7.0, abs=0.5)
    assert error["says"].startswith("Better by 7")
    assert [p["value"] for p in error["points"]] == [-41.0, -33.0, -27.0, -18.0, -12.0, -6.0]
    assert (body["before"], body["after"]) == (error["points"][0]["take_id"], error["points"][-1]["take_id"])


def test_takes_of_two_core_versions_are_not_one_trend(client, student, drill):
    for week in range(6):
        version = "0.1.0" if week < 3 else "0.2.0"
        made_take(
            student,
            drill,
            ago_min=(6 - week) * 7 * DAY_MIN,
            bends=bends(-40.0 + 6 * week),
            core_version=version,
            tell=False,
        )
    body = client.get(f"/api/v1/reports/progress?student_id={student.pk}&drill_id={drill.pk}").json()
    assert body["core_versions"] == ["0.1.0", "0.2.0"]
    error = next(s for s in body["series"] if s["key"] == "bend_error")
    assert (error["trend"], error["says"]) == (None, "3 takes: too few, or all of one day, to tell a trend.")


def test_scatter_without_a_trend_is_called_no_change(client, student, drill):
    for day, error in enumerate((4.0, -9.0, 6.0, -3.0, 8.0, -5.0, 2.0)):
        made_take(student, drill, ago_min=(7 - day) * DAY_MIN, bends=bends(error), tell=False)
    body = client.get(f"/api/v1/reports/progress?student_id={student.pk}&drill_id={drill.pk}").json()
    assert (
        next(s for s in body["series"] if s["key"] == "bend_error")["says"]
        == "No change that can be told from 7 takes."
    )


def test_the_tempo_at_which_it_is_clean_is_the_fastest_clean_take(client, student, drill):
    for bpm, clean in ((66, 20), (70, 20), (74, 15)):
        made_take(student, drill, bpm=bpm, clean=clean, tell=False)
    body = client.get(f"/api/v1/reports/progress?student_id={student.pk}&drill_id={drill.pk}").json()
    assert [c["bpm"] for c in body["clean_tempo"]] == [70.0]
    row = client.get(f"/api/v1/reports/overview?student_id={student.pk}").json()["drills"][0]
    assert (row["takes"], row["clean_bpm"]) == (3, 70.0)
    assert sorted(share["percent"] for share in row["shares"]) == [75.0, 100.0, 100.0]


def test_a_drill_is_better_than_at_first_only_where_the_intervals_do_not_meet(client, student, drill):
    def says(*clean, versions=("0.1.0",) * 9):
        Take.objects.filter(student=student).delete()
        for n, count in enumerate(clean):
            made_take(student, drill, clean=count, asked=40, ago_min=100 - n, core_version=versions[n], tell=False)
        return client.get(f"/api/v1/reports/overview?student_id={student.pk}").json()["drills"][0]["says"]

    # Wilson's intervals of 20, 26 and 36 in 40: 35 to 65, 50 to 78, 77 to 96 %.
    assert says(20) == "One take: the next will tell."
    assert says(20, 26) == "No sure change yet."
    assert says(20, 26, 36) == "Better than at first."
    assert says(36, 20) == "Less clean than at first."
    assert says(39, 40) == "Clean from the first on."
    assert says(20, 36, versions=("0.1.0", "0.2.0")) == "The first take of a newer version."


def test_the_day_of_a_clean_tempo_is_the_studios(client, student, drill):
    student.studio.zone = "Pacific/Auckland"  # 12 or 13 hours ahead: always another day than at noon UTC and later
    student.studio.save()
    take = made_take(student, drill, tell=False)
    late = timezone.now().replace(hour=20, minute=0) - dt.timedelta(days=1)
    Take.objects.filter(pk=take.pk).update(played_at=late)
    body = client.get(f"/api/v1/reports/progress?student_id={student.pk}&drill_id={drill.pk}").json()
    assert [c["day"] for c in body["clean_tempo"]] == [(late.date() + dt.timedelta(days=1)).isoformat()]


def test_a_pdf_whose_message_was_lost_is_asked_for_again_and_given_up_after_three(client, student, monkeypatch):
    sent = []
    monkeypatch.setattr(jobs, "send", lambda task, key: sent.append((task, key)))
    sheet = send(client, "post", "/sheets", {"student_id": student.pk}).json()
    address = f"/sheets/{sheet['id']}/pdf"

    def asked():
        return send(client, "post", address).json()["pdf"]

    assert [asked(), asked()] == ["waiting", "waiting"]
    Job.objects.update(queued_at=timezone.now() - sheets.SETTING.patience - dt.timedelta(seconds=1))
    jobs.sweep()
    assert asked() == "waiting"
    assert sent[-1:] == [("reports.set_sheet", sheet["id"])]
    Job.objects.update(attempts=3)
    set_sheet(sheet["id"])
    assert [asked(), asked()] == ["failed", "failed"]
    # Once it is changed it is another page, and may be tried anew.
    send(client, "put", f"/sheets/{sheet['id']}", {"note": "x", "findings": [], "paper": "A4"})
    assert asked() == "waiting"


def test_a_sentence_within_another_keeps_its_units():
    assert (
        sheets._within("Better by 1.2 ± 0.4 dB a week, over 6 takes.") == "better by 1.2 ± 0.4 dB a week, over 6 takes."
    )


def test_bends_are_pooled_by_place(client, student, drill):
    for error in (-20.0, -14.0):
        made_take(student, drill, bends=bends(error), tell=False)
    places = client.get(f"/api/v1/reports/overview?student_id={student.pk}").json()["bends"]
    assert [(p["string"], p["fret"], p["error_cents"], p["takes"], p["count"]) for p in places] == [(3, 7, -17.0, 2, 8)]
    assert places[0]["u"] == pytest.approx(6.0, abs=0.1)  # what the two takes differ by, not the 1.1 each is known to


# -- exports ----------------------------------------------------------------------------------------------------------


@pytest.fixture
def taken_out(client, measured):
    def get(form):
        answer = client.get(f"/api/v1/takes/{measured.pk}/export/{form}")
        assert answer.status_code == 200
        assert "attachment" in answer["Content-Disposition"]
        return answer.content

    return get


def test_notes_are_strict_csv_with_every_value(taken_out, measured):
    rows = list(csv.DictReader(io.StringIO(taken_out("notes").decode(), newline=""), strict=True))
    content = AnalysisContent.model_validate(measured.current.content)
    assert len(rows) == len(content.notes)
    assert all(None not in row and None not in row.values() for row in rows)
    flat = [float(r["bend_error_cents"]) for r in rows if r["bend_error_cents"]]
    assert flat == [n.bend.error_cents for n in content.notes if n.bend]
    assert all(-24 < v < -20 for v in flat)


def test_the_analysis_is_the_contracts_json(taken_out, measured):
    assert (
        AnalysisContent.parse(taken_out("analysis")).notes
        == AnalysisContent.model_validate(measured.current.content).notes
    )


def test_jams_is_read_by_its_own_library(taken_out, tmp_path):
    (tmp_path / "x.jams").write_bytes(taken_out("jams"))
    document = jams.load(str(tmp_path / "x.jams"), validate=True)
    assert {a.namespace for a in document.annotations} == {"note_hz", "pitch_contour"}
    assert len(document.annotations["pitch_contour"][0].data) > 1000


def test_heard_notes_as_midi_bend_as_they_were_heard(taken_out, measured):
    file = mido.MidiFile(file=io.BytesIO(taken_out("midi")))
    content = AnalysisContent.model_validate(measured.current.content)
    heard = [n for n in content.notes if n.onset_s is not None and n.pitch and n.pitch.median_hz]
    now, starts, wheel, on, top = 0.0, [], 0, set(), []
    for message in file:
        now += message.time
        if message.type == "pitchwheel":
            wheel = message.pitch * 1200 / 8192
            top += [100 * key + wheel for key in on if key == FRETTED]
        if message.type == "note_on" and message.velocity:
            starts.append(now)
            on = {message.note}
    assert starts == pytest.approx(sorted(n.onset_s for n in heard), abs=0.002)
    # Fret 7 of string 3, which the other notes of the drill do not begin at. The furthest the wheel bends a sounding
    # key is the pitch the bend reached, to the wheel's own step and the overshoot.
    reached = [6900 + 1200 * math.log2(n.bend.reference_hz / 440) + n.bend.error_cents for n in content.notes if n.bend]
    assert max(top) == pytest.approx(max(reached), abs=6)


def test_clicks_lie_on_the_grid(taken_out, measured):
    rows = list(csv.DictReader(io.StringIO(taken_out("clicks").decode(), newline=""), strict=True))
    grid = AnalysisContent.model_validate(measured.current.content).reference.grid
    if grid.first_beat_s is None:
        assert rows == []
        return
    times = [float(r["time_s"]) for r in rows]
    assert [b - a for a, b in pairwise(times)] == pytest.approx([60 / grid.bpm] * (len(times) - 1), abs=2e-4)
    assert next(float(r["time_s"]) for r in rows if (r["bar"], r["beat"]) == ("1", "1")) == pytest.approx(
        grid.first_beat_s, abs=1e-3
    )


def test_the_contour_as_csv_is_the_curves(taken_out, client, measured):
    rows = list(csv.DictReader(io.StringIO(taken_out("contour").decode(), newline=""), strict=True))
    curves = client.get(f"/api/v1/takes/{measured.pk}/curves")
    import gzip

    columns = json.loads(gzip.decompress(curves.content))
    assert len(rows) == len(columns["pitch_cents"])
    voiced = [i for i, c in enumerate(columns["pitch_cents"]) if c is not None]
    hz = 440 * 2 ** ((columns["pitch_cents"][voiced[50]] - 6900) / 1200)
    assert float(rows[voiced[50]]["f0_hz"]) == pytest.approx(hz, rel=1e-5)


# -- lesson sheets ----------------------------------------------------------------------------------------------------


@pytest.fixture
def sheet(client, measured, student, teacher, drill):
    plans.assign(teacher, student, drill, terms=TERMS, step=Step(bpm=66), pair=None)
    answer = send(client, "post", "/sheets", {"student_id": student.pk})
    assert answer.status_code == 201, answer.json()
    return answer.json()


def test_a_sheet_says_what_was_worked_on_and_what_stands_out(sheet, client):
    assert sheet["findings"][0]["says"] == "Bends stop short"
    page = client.get(f"/api/v1/reports/sheets/{sheet['id']}/page")
    text = page.content.decode()
    for part in ("Nele", "String 3: full bend at fret 7", "Bends stop short", "<svg", "66 bpm", "To play"):
        assert part in text
    assert page["X-Frame-Options"] == "SAMEORIGIN"
    assert "frame-ancestors 'self'" in page["Content-Security-Policy"]


def test_the_teachers_words_are_on_it_and_are_text_not_html(sheet, client):
    body = {
        "note": "Good <b>evening</b> & so on",
        "findings": [{"candidate": 0, "says": "<script>x</script>", "tries": "one\ntwo"}],
        "paper": "Letter",
    }
    assert send(client, "put", f"/sheets/{sheet['id']}", body).status_code == 200
    text = client.get(f"/api/v1/reports/sheets/{sheet['id']}/page").content.decode()
    assert "<script>" not in text
    assert "&lt;script&gt;" in text
    assert text.count("<li>") == 2
    bad = body | {"findings": [{"candidate": 40, "says": "x"}]}
    assert send(client, "put", f"/sheets/{sheet['id']}", bad).json()["code"] == "findings_invalid"


@pytest.mark.parametrize(("paper", "size"), [("A4", (595, 842)), ("Letter", (612, 792))])
def test_the_pdf_is_one_page_of_the_paper_with_the_words_in_it(sheet, client, paper, size):
    body = {"note": "Bring the blue guitar.", "findings": sheet["findings"], "paper": paper}
    send(client, "put", f"/sheets/{sheet['id']}", body)
    assert client.get(f"/api/v1/reports/sheets/{sheet['id']}/pdf").json()["code"] == "not_ready"
    assert send(client, "post", f"/sheets/{sheet['id']}/pdf").json()["pdf"] == "waiting"
    set_sheet(sheet["id"])
    assert send(client, "post", f"/sheets/{sheet['id']}/pdf").json()["pdf"] == "ready"
    answer = client.get(f"/api/v1/reports/sheets/{sheet['id']}/pdf")
    reader = PdfReader(io.BytesIO(b"".join(answer.streaming_content)))
    assert len(reader.pages) == 1
    assert [float(v) for v in reader.pages[0].mediabox[2:]] == pytest.approx(size, abs=1.5)
    text = reader.pages[0].extract_text()
    for part in ("Nele", "Bring the blue guitar.", "Bends stop short", "66 bpm"):
        assert part in text


def test_a_sheet_that_is_too_full_still_is_one_page(sheet, client):
    found = LessonSheet.objects.get(pk=sheet["id"])
    found.content["tabs"] = found.content["tabs"] * 12
    found.content["note"] = "A long word. " * 200
    found.pdf_state = "none"
    found.save()
    sheets.want_pdf(found)
    set_sheet(sheet["id"])
    found.refresh_from_db()
    assert len(PdfReader(found.pdf.open("rb")).pages) == 1


@pytest.mark.parametrize("fitting", [-1, 0, 1, 4, 6])
def test_as_much_tab_stays_as_goes_on_the_page(monkeypatch, fitting):
    def typeset(_sheet, tabs, _zoom=1.0):
        return SimpleNamespace(tabs=tabs, pages=[None] if tabs <= fitting else [None, None])

    monkeypatch.setattr(tasks, "_typeset", typeset)
    found = tasks._with_most_tabs(None, 6)
    assert (-1 if found is None else found.tabs) == fitting


def test_a_shared_sheet_is_read_by_its_link_until_it_is_taken_back(sheet, client):
    link = send(client, "put", f"/sheets/{sheet['id']}/share", {"on": True}).json()["link"]
    path = link.split("testserver", 1)[1]
    page = Client().get(path)
    assert page.status_code == 200
    assert "Nele" in page.content.decode()
    assert "noindex" in page.content.decode()
    set_sheet(sheet["id"])
    assert Client().get(f"{path}/pdf")["Content-Type"] == "application/pdf"
    send(client, "put", f"/sheets/{sheet['id']}/share", {"on": False})
    assert Client().get(path).status_code == 404
    assert Client().get(f"{path}/pdf").status_code == 404


def test_nothing_but_our_own_type_is_fetched_for_the_pdf(sheet, tmp_path):
    secret = tmp_path / "secret.txt"
    secret.write_text("not for paper")
    found = LessonSheet.objects.get(pk=sheet["id"])
    from apps.reports.tasks import _OwnFontsOnly

    with pytest.raises(ValueError, match="not fetched"):
        _OwnFontsOnly().fetch(secret.as_uri())
    with pytest.raises(ValueError, match="not fetched"):
        _OwnFontsOnly().fetch("http://127.0.0.1/")
    assert found.content["student"] == "Nele"


def test_a_student_reads_their_sheets_and_changes_none(sheet, student, teacher):
    user = User.objects.create_user("nele@a.example", PASSWORD, name="Nele", studio=teacher.studio, role="student")
    Student.objects.filter(pk=student.pk).update(user=user)
    own = client_of(user)
    assert own.get(f"/api/v1/reports/sheets?student_id={student.pk}").json()[0]["id"] == sheet["id"]
    assert send(own, "put", f"/sheets/{sheet['id']}", {"findings": [], "paper": "A4"}).status_code == 403
    assert send(own, "delete", f"/sheets/{sheet['id']}").status_code == 403
    assert send(own, "delete", f"/students/{student.pk}").status_code == 403
    assert own.get("/api/v1/reports/archive").status_code == 403


# -- parting with a student -------------------------------------------------------------------------------------------


def test_a_deleted_student_leaves_no_file_and_no_name(
    sheet, client, student, teacher, measured, django_capture_on_commit_callbacks
):
    user = User.objects.create_user("nele@a.example", PASSWORD, name="Nele", studio=teacher.studio, role="student")
    Student.objects.filter(pk=student.pk).update(user=user)
    client_of(user).post(
        "/api/v1/plans/log",
        json.dumps({"student_id": student.pk, "kind": "note", "text": "x"}),
        content_type="application/json",
    )
    LessonSheet.objects.filter(pk=sheet["id"]).update(pdf_state="waiting")
    set_sheet(sheet["id"])
    guess = DrillGuess(created_by=user, asked_at=timezone.now())
    guess.upload.save("x", ContentFile(b"x"))
    media = Path(django_settings.MEDIA_ROOT)
    assert [f for f in media.rglob("*") if f.is_file()]
    with django_capture_on_commit_callbacks(execute=True):
        answer = send(client, "delete", f"/students/{student.pk}")
    assert answer.status_code == 200
    assert answer.json()["takes"] == 1
    assert "What remains" in answer.json()["says"]
    assert [f for f in media.rglob("*") if f.is_file()] == []
    assert not Take.objects.exists()
    assert not User.objects.filter(email="nele@a.example").exists()
    assert "Nele" not in str(list(AuditEntry.objects.values()))
    assert AuditEntry.objects.filter(action="deleted_student").count() == 1
    assert client.get("/api/v1/drills").json()


def test_sheets_look_back_not_ahead(client, student):
    later = (timezone.localdate() + dt.timedelta(days=3)).isoformat()
    assert send(client, "post", "/sheets", {"student_id": student.pk, "since": later}).json()["code"] == "since_later"

"""Drills made from forms: described, previewed, kept, taken out and put back."""

import json

import pytest
from apps.drills.models import DrillVersion
from django.core.files.uploadedfile import SimpleUploadedFile
from fortimetra.drills.library import GENERATORS

pytestmark = pytest.mark.django_db


def post(client, path, body):
    return client.post(f"/api/v1/drills/{path}", json.dumps(body), content_type="application/json")


def test_every_family_describes_its_form_and_makes_its_examples(client):
    listed = client.get("/api/v1/drills/generators").json()
    assert [g["name"] for g in listed] == list(GENERATORS)
    for generator in listed:
        for example in generator["examples"][:2]:
            made = post(client, "generate", {"form": generator["name"], "values": example}).json()
            assert made["problems"] == []
            assert made["content"]["family"] == generator["family"]
    assert not DrillVersion.objects.filter(created_by__isnull=False).exists()


def test_a_drill_is_kept_taken_out_and_put_back(client):
    body = {"form": "bend_ladder", "values": {"string": "2", "fret": "10", "positions": "2"}}
    kept = post(client, "make", body)
    assert kept.status_code == 201
    file = client.get(f"/api/v1/drills/{kept.json()['id']}/file")
    assert "attachment" in file["Content-Disposition"]
    back = client.post("/api/v1/drills", {"file": SimpleUploadedFile("d.json", file.content)}).json()
    assert back["content"] == kept.json()["content"]


@pytest.mark.parametrize(
    ("kind", "begins", "ending"), [("json", b"{", "json"), ("midi", b"MThd", "mid"), ("text", b"String 3", "txt")]
)
def test_a_drill_goes_out_as_a_file_of_its_kind(client, drill, kind, begins, ending):
    answer = client.get(f"/api/v1/drills/{drill.pk}/file?kind={kind}")
    assert answer.content.startswith(begins)
    assert f".{ending}" in answer["Content-Disposition"]
    assert client.get(f"/api/v1/drills/{drill.pk}/file?kind=pdf").status_code == 422


def test_a_guitar_says_what_it_does_not_bear(client, guitar):
    from fortimetra.model.guitar import preset

    guitar.description = preset("nylon").model_dump(mode="json")
    guitar.save()
    made = post(client, "generate", {"form": "prebend", "guitar_id": guitar.pk}).json()
    assert {p["code"] for p in made["problems"]} == {"bend_heavy"}


@pytest.mark.parametrize(
    ("body", "says"),
    [
        ({"form": "waltz"}, "no generator"),
        ({"form": "sweep", "values": {"bpm": "soon"}}, "not a number"),
        ({"form": "sweep", "values": {"hat": "1"}}, "no such field"),
        ({"form": "curl", "values": {"low": "90", "high": "40"}}, "At least"),
    ],
)
def test_a_form_that_means_nothing_is_a_sentence(client, body, says):
    for path in ("generate", "make"):
        answer = post(client, path, body)
        assert (answer.status_code, answer.json()["code"]) == (422, "drill_invalid")
        assert says in answer.json()["detail"]


def test_only_teachers_keep_drills(teacher, student):
    from apps.people.models import User

    from tests.server.conftest import PASSWORD, client_of

    user = User.objects.create_user("n@a.example", PASSWORD, name="N", studio=teacher.studio, role="student")
    assert post(client_of(user), "make", {"form": "sweep"}).status_code == 403


def test_a_drill_is_put_away_and_taken_out_again_and_its_takes_keep_it(client, measured):
    path = f"/api/v1/drills/{measured.drill_version.drill_id}"
    for archived in (True, False):
        answer = client.patch(path, json.dumps({"archived": archived}), content_type="application/json")
        assert answer.json()["archived"] is archived
        listed = {d["id"]: d["archived"] for d in client.get("/api/v1/drills").json()}
        assert listed[measured.drill_version.drill_id] is archived
        assert client.get(f"/api/v1/takes/{measured.pk}/analysis").status_code == 200


def test_a_copy_is_a_drill_of_its_own(client, drill):
    copy = client.post(f"/api/v1/drills/{drill.pk}/duplicate")
    assert copy.status_code == 201
    assert copy.json()["id"] != drill.pk
    assert copy.json()["title"] == f"{drill.title}, copy"
    assert copy.json()["content"]["events"] == client.get(f"/api/v1/drills/{drill.pk}").json()["content"]["events"]

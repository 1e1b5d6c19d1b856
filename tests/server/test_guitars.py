"""Guitars, and set-up takes that later takes are read against."""

import io
import json
from datetime import timedelta

import pytest
import soundfile
from apps.measuring.tasks import measure
from apps.takes import selectors, services
from apps.takes.models import Take
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone
from fortimetra import Drill
from fortimetra.drills.set_up import set_up
from fortimetra.model.guitar import preset
from fortimetra.player.faults import Faults, NoteFault

from tests.kept import render

pytestmark = pytest.mark.django_db
CENTS = 1.0


@pytest.fixture(scope="session")
def set_up_flac():
    return recording(set_up(), Faults(tuning_offset_cents=(0, 0, 13.0, 0, 0, 0)))


def recording(drill, faults):
    sound, truth = render(drill, faults)
    out = io.BytesIO()
    soundfile.write(out, sound, truth.sample_rate_hz, format="FLAC", subtype="PCM_16")
    return out.getvalue()


def send(client, student, content, **form):
    upload = SimpleUploadedFile("a.flac", content)
    return client.post("/api/v1/takes", {"file": upload, "student_id": student.pk, **form})


def put(client, guitar, **changes):
    description = preset("solid").model_dump(mode="json") | changes
    body = json.dumps({"name": guitar.name, "description": description})
    return client.put(f"/api/v1/guitars/{guitar.pk}", body, content_type="application/json")


def test_a_guitar_begins_as_a_typical_one_and_is_described_by_its_owner(client, student):
    body = {"student_id": student.pk, "name": "  Kitchen   guitar ", "kind": "nylon"}
    answer = client.post("/api/v1/guitars", json.dumps(body), content_type="application/json")
    assert answer.status_code == 201
    made = answer.json()
    assert (made["name"], made["description"]["kind"]) == ("Kitchen guitar", "nylon")
    assert len(made["pulls"]) == 6
    description = made["description"] | {
        "scale_mm": 640,
        "tuning": ["Eb4", "Bb3", "Gb3", "Db3", "Ab2", "Eb2"],
        "notes": "new strings",
    }
    path = f"/api/v1/guitars/{made['id']}"
    kept = client.put(
        path, json.dumps({"name": "K", "description": description}), content_type="application/json"
    ).json()
    assert kept["description"]["scale_mm"] == 640
    assert kept["pulls"][0]["tension_n"] < made["pulls"][0]["tension_n"]
    assert client.get(path).json() == kept
    assert [g["name"] for g in client.get(f"/api/v1/guitars?student_id={student.pk}").json()] == ["K"]
    assert client.delete(path).status_code == 204
    assert client.get(path).status_code == 404


@pytest.mark.parametrize(
    ("changes", "names"),
    [
        ({"scale_mm": 0}, "scale_mm"),
        ({"strings": [{"gauge_mm": 0.01, "wound": False}] * 6}, "gauge_mm"),
        ({"tuning": ["E4", "B3", "G3", "D3", "A2", "H2"]}, "tuning"),
        ({"tuning": ["E4", "B3", "G3", "D3"]}, "4 are tuned"),
        ({"a4_hz": 220}, "a4_hz"),
        ({"radius_mm": 5}, "radius_mm"),
    ],
)
def test_an_impossible_guitar_is_refused_with_the_field(client, guitar, changes, names):
    before = client.get(f"/api/v1/guitars/{guitar.pk}").json()
    answer = put(client, guitar, **changes)
    assert answer.status_code == 422
    assert names in answer.json()["detail"]
    assert client.get(f"/api/v1/guitars/{guitar.pk}").json() == before


def test_a_string_that_would_break_is_warned_about(client, guitar):
    answer = put(client, guitar, tuning=["B4", "B3", "G3", "D3", "A2", "E2"]).json()
    warnings = [p["warning"] for p in answer["pulls"]]
    assert "Keep the face away" in warnings[0]
    assert warnings[1] is None


def test_a_take_without_a_drill_is_a_set_up_take_of_the_guitar(client, student, guitar, queued, set_up_flac):
    answer = send(client, student, set_up_flac, guitar_id=guitar.pk)
    assert answer.status_code == 201
    assert answer.json()["family"] == "set_up"
    measure(answer.json()["id"])
    (one,) = client.get(f"/api/v1/takes/set-ups?guitar_id={guitar.pk}").json()
    third = next(s for s in one["found"]["strings"] if s["string"] == 3)
    assert third["offset_cents"] == pytest.approx(13.0, abs=CENTS)
    assert [a["code"] for a in one["found"]["advice"]] == ["string_off"]


def test_a_guitar_with_seven_strings_gets_a_set_up_of_its_own(teacher, client, student, guitar, queued, flac):
    seven = preset("solid").model_dump(mode="json")
    seven["strings"] = [*seven["strings"], {"gauge_mm": 1.42, "wound": True}]
    assert put(client, guitar, strings=seven["strings"], tuning=[*seven["tuning"], "B1"]).status_code == 200
    for _ in range(2):
        take = Take.objects.get(pk=send(client, student, flac, guitar_id=guitar.pk).json()["id"])
        assert len(Drill.model_validate(take.drill_version.content).tuning) == 7
    assert teacher.studio.drills.filter(family="set_up").count() == 2


def test_without_a_guitar_there_is_no_set_up_take(client, student, flac, stranger, guitar):
    guitar.delete()
    answer = send(client, student, flac)
    assert (answer.status_code, answer.json()["code"]) == (422, "no_drill")


def test_another_students_guitar_is_not_taken(client, teacher, guitar, flac, drill, queued):
    from apps.people.services import add_student

    other = add_student(teacher, name="Rike")
    answer = send(client, other, flac, guitar_id=guitar.pk, drill_id=drill.pk)
    assert (answer.status_code, answer.json()["code"]) == (422, "other_guitar")
    assert not Take.objects.exists()


def measured_bend(client, student, drill, content, **form):
    take_id = send(client, student, content, drill_id=drill.pk, **form).json()["id"]
    measure(take_id)
    return take_id


def offsets_of(client, take_id):
    answer = client.get(f"/api/v1/takes/{take_id}/analysis").json()
    return answer["analysis"]["reference"], answer["setup"]


def test_a_take_is_read_against_the_newest_set_up_before_it(client, student, guitar, drill, queued, flac, set_up_flac):
    def at(**ago):
        return (timezone.now() - timedelta(**ago)).isoformat()

    old = send(client, student, set_up_flac, played_at=at(days=9)).json()["id"]
    measure(old)
    newer = send(
        client, student, recording(set_up(), Faults(tuning_offset_cents=(0, 0, -6.0, 0, 0, 0))), played_at=at(days=3)
    ).json()["id"]
    measure(newer)
    later = measured_bend(client, student, drill, flac, played_at=at(days=1))
    reference, used = offsets_of(client, later)
    assert (reference["offset_source"], used["take_id"]) == ("setup", newer)
    assert reference["string_offset_cents"][2] == pytest.approx(-6.0, abs=CENTS)
    between = measured_bend(client, student, drill, flac, played_at=at(days=5))
    assert offsets_of(client, between)[1]["take_id"] == old
    before = measured_bend(client, student, drill, flac, played_at=at(days=20))
    reference, used = offsets_of(client, before)
    assert used is None
    assert reference["offset_source"] != "setup"


def test_a_set_up_that_comes_later_measures_what_it_stands_before_again(
    client, student, guitar, drill, queued, flac, set_up_flac, django_capture_on_commit_callbacks
):
    take_id = measured_bend(client, student, drill, flac)
    assert offsets_of(client, take_id)[1] is None
    earlier = (timezone.now() - timedelta(days=1)).isoformat()
    with django_capture_on_commit_callbacks(execute=True):
        set_up_id = send(client, student, set_up_flac, played_at=earlier).json()["id"]
    with django_capture_on_commit_callbacks(execute=True):
        measure(set_up_id)
    assert queued[-1] == take_id
    measure(take_id)
    assert offsets_of(client, take_id)[1]["take_id"] == set_up_id
    with django_capture_on_commit_callbacks(execute=True):
        assert client.delete(f"/api/v1/takes/{set_up_id}").status_code == 204
    assert queued[-1] == take_id
    measure(take_id)
    assert offsets_of(client, take_id)[1] is None


def test_a_set_up_in_another_tuning_is_not_used(client, student, guitar, drill, queued, flac, set_up_flac):
    earlier = (timezone.now() - timedelta(days=1)).isoformat()
    measure(send(client, student, set_up_flac, played_at=earlier).json()["id"])
    take_id = send(client, student, flac, drill_id=drill.pk).json()["id"]
    take = Take.objects.select_related("guitar", "drill_version__drill").get(pk=take_id)
    assert selectors.set_up_for(take) is not None
    put(client, guitar, capo=2)
    take.guitar.refresh_from_db()
    assert selectors.set_up_for(take) is None


def test_a_take_keeps_the_guitar_it_was_measured_with(client, student, guitar, drill, queued):
    lowered = ["Eb4", "Bb3", "Gb3", "Db3", "Ab2", "Eb2"]
    put(client, guitar, tuning=lowered)
    asked = Drill.model_validate(drill.current.content).on(
        preset("solid").model_copy(update={"tuning": tuple(lowered)})
    )
    take_id = measured_bend(client, student, drill, recording(asked, Faults(notes={"bend": NoteFault(cents=-20.0)})))
    put(client, guitar)
    answer = client.get(f"/api/v1/takes/{take_id}/analysis").json()
    assert answer["drill"]["content"]["tuning"] == lowered
    assert answer["analysis"]["take"]["warnings"] == []
    bends = [n["bend"]["error_cents"] for n in answer["analysis"]["notes"] if n["bend"]]
    assert bends == pytest.approx([-20.0] * len(bends), abs=CENTS)


def test_a_deleted_guitar_leaves_its_takes(client, student, guitar, drill, queued, flac):
    take_id = measured_bend(client, student, drill, flac)
    assert client.delete(f"/api/v1/guitars/{guitar.pk}").status_code == 204
    shown = client.get(f"/api/v1/takes/{take_id}").json()
    assert (shown["state"], shown["guitar"]) == ("measured", None)
    assert services.set_up_drill(student.studio, strings=6).family == "set_up"

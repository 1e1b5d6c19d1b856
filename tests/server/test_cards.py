"""Drill cards: every drill has one, a studio's own words stand on it, and nobody else's."""

import json

import pytest
from apps.drills import cards
from apps.drills.models import CardText, Drill
from apps.drills.services import comes_after
from apps.people.services import create_studio
from config.problems import ServiceError
from fortimetra.card.teaching import TEACHING

from tests.server.conftest import PASSWORD, client_of

pytestmark = pytest.mark.django_db


def put(client, drill, section, lines, of="drill"):
    body = json.dumps({"of": of, "lines": lines})
    return client.put(f"/api/v1/drills/{drill.pk}/card/{section}", body, content_type="application/json")


def lines_of(client, drill, section):
    made = client.get(f"/api/v1/drills/{drill.pk}/card").json()
    return next(s["lines"] for s in made["sections"] if s["name"] == section)


@pytest.fixture
def sweep(teacher):
    return teacher.studio.drills.filter(family="sweep").first()


def test_a_card_says_how_its_drill_is_practised(client, sweep):
    made = client.get(f"/api/v1/drills/{sweep.pk}/card").json()
    assert made["title"] == sweep.title
    assert made["sections"][0]["lines"] == [TEACHING["sweep"].purpose]
    assert made["shapes"][0]["posture"]["quiet"]
    assert made["strokes"]["kind"] == "sweep"


def test_a_student_reads_the_card_of_their_studio(teacher, student, sweep):
    from apps.people.models import User

    student.user = User.objects.create_user("n@a.example", PASSWORD, name="N", studio=teacher.studio, role="student")
    student.save()
    own = client_of(student.user)
    assert own.get(f"/api/v1/drills/{sweep.pk}/card").status_code == 200
    assert put(own, sweep, "practise", ["Mine."]).status_code == 403


def test_another_studios_cards_are_not_there(stranger, sweep):
    other = client_of(stranger)
    assert other.get(f"/api/v1/drills/{sweep.pk}/card").status_code == 404
    assert put(other, sweep, "practise", ["Mine."]).status_code == 404
    assert not CardText.objects.exists()


def test_words_for_a_drill_stay_on_it_and_words_for_a_family_go_everywhere(client, teacher, stranger, sweep):
    other = teacher.studio.drills.filter(family="sweep").exclude(pk=sweep.pk).first()
    assert put(client, sweep, "practise", ["  Only   here. ", ""]).status_code == 200
    assert lines_of(client, sweep, "practise") == ["Only here."]
    assert lines_of(client, other, "practise") != ["Only here."]
    put(client, sweep, "listen", ["As we say it."], of="family")
    assert lines_of(client, other, "listen") == ["As we say it."]
    theirs = stranger.studio.drills.filter(family="sweep").first()
    assert lines_of(client_of(stranger), theirs, "listen") == list(TEACHING["sweep"].listen)


def test_taking_the_words_back_brings_the_houses(client, sweep):
    before = lines_of(client, sweep, "practise")
    put(client, sweep, "practise", ["Mine."])
    put(client, sweep, "practise", ["Mine again."])
    put(client, sweep, "practise", [])
    assert lines_of(client, sweep, "practise") == before
    assert not CardText.objects.exists()


@pytest.mark.parametrize(
    ("section", "lines"), [("nonsense", ["x"]), ("practise", ["x"] * 13), ("practise", ["x" * 401])]
)
def test_what_cannot_stand_on_a_card_is_a_sentence(client, sweep, section, lines):
    answer = put(client, sweep, section, lines)
    assert answer.status_code == 422
    assert answer.json()["detail"].endswith(".")
    assert not CardText.objects.exists()


def test_a_new_version_has_a_card_of_its_own(teacher, sweep):
    first = cards.card_of(sweep, sweep.current)
    shorter = dict(sweep.current.content) | {"events": sweep.current.content["events"][:1]}
    from apps.drills.services import save_content
    from fortimetra import Drill as DrillContent

    save_content(teacher, sweep, DrillContent.model_validate(shorter), on_top_of=sweep.current.number)
    changed = Drill.objects.get(pk=sweep.pk)
    assert cards.card_of(changed, changed.current).shapes != first.shapes


def test_built_in_drills_know_what_comes_before_them(teacher):
    full = teacher.studio.drills.get(title="String 2: full bend at fret 13")
    assert full.after is not None
    assert full.after.level < full.level
    assert teacher.studio.drills.exclude(after=None).count() > 60


def test_what_comes_before_is_set_taken_out_and_never_a_circle(client, teacher, sweep):
    other = teacher.studio.drills.exclude(pk=sweep.pk).filter(after=None).first()
    body = json.dumps({"after_id": other.pk})
    read = client.patch(f"/api/v1/drills/{sweep.pk}", body, content_type="application/json").json()
    assert read["after"]["id"] == other.pk
    with pytest.raises(ServiceError, match="each come before"):
        comes_after(teacher, other, Drill.objects.get(pk=sweep.pk))
    read = client.patch(f"/api/v1/drills/{sweep.pk}", json.dumps({"after_id": None}), content_type="application/json")
    assert read.json()["after"] is None


def test_left_handed_is_kept_and_told_to_the_student(client, student):
    body = json.dumps({"name": student.name, "left_handed": True})
    assert client.put(f"/api/v1/students/{student.pk}", body, content_type="application/json").json()["left_handed"]
    client.put(f"/api/v1/students/{student.pk}", json.dumps({"name": "New"}), content_type="application/json")
    student.refresh_from_db()
    assert (student.name, student.left_handed) == ("New", True)


def test_an_archive_keeps_the_words_where_they_belong(client, teacher, sweep):
    import io

    from apps.archive.back import restore
    from apps.archive.out import stream

    put(client, sweep, "practise", ["Only here."])
    put(client, sweep, "listen", ["As we say it."], of="family")
    out = io.BytesIO()
    out.write(b"".join(stream(teacher.studio)))
    other = create_studio(name="C", teacher_name="Cy", email="cy@c.example", password=PASSWORD)
    restore(io.BytesIO(out.getvalue()), studio=other.studio, lead=other)
    there = other.studio.drills.get(title=sweep.title)
    assert lines_of(client_of(other), there, "practise") == ["Only here."]
    assert lines_of(client_of(other), there, "listen") == ["As we say it."]
    assert there.after is None or there.after.studio_id == other.studio_id

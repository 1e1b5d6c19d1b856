"""A student's vibrato by context, and what a guitar's other takes say of its fretted notes."""

import io

import pytest
import soundfile
from apps.drills.models import Drill
from apps.measuring.tasks import measure
from apps.takes import services
from django.core.files.uploadedfile import SimpleUploadedFile
from fortimetra import Drill as DrillContent
from fortimetra.drills.library import built_in_drills
from fortimetra.player.faults import Faults, NoteFault

from tests.kept import render
from tests.server.conftest import client_of

pytestmark = pytest.mark.django_db
VIBRATO = "Vibrato, slow and wide: fret 7, strings 3 2 1"


def recording(title, **faults):
    content = next(d for d in built_in_drills() if d.title == title)
    sound, truth = render(content.model_copy(update={"repeats": 1}), Faults(**faults))
    out = io.BytesIO()
    soundfile.write(out, sound, truth.sample_rate_hz, format="FLAC", subtype="PCM_16")
    return out.getvalue()


@pytest.fixture
def play(teacher, student, queued):
    def take(title, guitar=None, **faults):
        drill = Drill.objects.get(studio=teacher.studio, title=title)
        content = DrillContent.model_validate(drill.current.content)
        drill.current.content = content.model_copy(update={"repeats": 1}).model_dump(mode="json", by_alias=True)
        drill.current.save()
        made = services.receive(
            teacher, student=student, drill=drill, guitar=guitar,
            upload=SimpleUploadedFile("take.flac", recording(title, **faults)),
        )  # fmt: skip
        measure(str(made.pk))
        made.refresh_from_db()
        return made

    return take


def test_the_voice_is_told_by_string_and_context(client, play, student, stranger, django_assert_max_num_queries):
    address = f"/api/v1/takes/voice?student_id={student.pk}"
    assert client.get(address).json() == []
    play(VIBRATO, every_note=NoteFault(vibrato_rate_hz=2.0, vibrato_extent_cents=100.0))
    play(VIBRATO, every_note=NoteFault(vibrato_rate_hz=2.4, vibrato_extent_cents=120.0))
    with django_assert_max_num_queries(6):
        rows = client.get(address).json()
    assert [(r["on"], r["string"], r["takes"], r["count"]) for r in rows] == [
        ("fretted", 1, 2, 2), ("fretted", 2, 2, 2), ("fretted", 3, 2, 2),
    ]  # fmt: skip
    assert rows[0]["rate_hz"] == pytest.approx(2.2, abs=0.05)
    assert rows[0]["extent_range"] == pytest.approx([100.0, 120.0], abs=2.0)
    assert client_of(stranger).get(address).status_code == 404
    client.logout()
    assert client.get(address).status_code == 401


def test_a_bend_without_its_target_is_read_against_the_guitars_other_takes(client, play, guitar):
    # The first take plays string 1 at fret 5; the next bends up to it from a fret that it does not play plainly.
    play("Sweep, 2 strings, up: A minor, position 5", guitar, tuning_offset_cents=(7.0, 0.0, 0.0, 0.0, 0.0, 0.0))
    made = play("Bends in A minor pentatonic, position 5", guitar)
    analysis = client.get(f"/api/v1/takes/{made.pk}/analysis").json()["analysis"]
    bends = {(n["string"], n["fret"]): n["bend"] for n in analysis["notes"] if n["bend"]}
    assert {place: bend["reference_source"] for place, bend in bends.items()} == {
        (3, 5): "fret 5 of this take", (1, 3): "other takes",
    }  # fmt: skip
    assert bends[1, 3]["error_cents"] == pytest.approx(-7.0, abs=1.0)

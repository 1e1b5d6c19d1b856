"""The take that the front end's unit tests open is one that this server answers with.

Written anew by FORTIMETRA_WRITE_EXAMPLE=1 ./run test tests/server/test_sheet_example.py (a simulated student's take,
invented).
"""

from __future__ import annotations

import gzip
import io
import json
import os
from pathlib import Path

import pytest
import soundfile
from apps.drills.services import add_drill
from apps.measuring.tasks import measure
from apps.takes import services
from django.core.files.uploadedfile import SimpleUploadedFile
from fortimetra.drills.fretted_then_bend import fretted_then_bend
from fortimetra.player.faults import Faults, NoteFault, Ring

from tests.kept import render

pytestmark = pytest.mark.django_db
EXAMPLE = Path(__file__).parents[2] / "web" / "src" / "testing" / "measured.json"
N = NoteFault
# One in three frames of the curves is enough to look at.
EVERY = 3


def keys_of(value, depth=4):
    """The names in an answer, as far down as is the same for every take."""
    if isinstance(value, dict) and depth:
        return {name: keys_of(v, depth - 1) for name, v in value.items()}
    if isinstance(value, list):
        return [keys_of(value[0], depth - 1)] if value and isinstance(value[0], dict) and depth else "list"
    return "value"


@pytest.fixture
def answered(client, teacher, student, queued):
    """What the server says of a take of bends with stated faults, and of its curves."""
    base = fretted_then_bend(title="Bends to hear and to mend", string=3, fret=7, repeats=3, bpm=96)
    content = base.model_copy(update={"measures": ("pitch", "bend", "timing", "level", "length", "noise")})
    faults = Faults(
        seed=4,
        random_ms=4.0,
        random_cents=1.5,
        random_db=0.6,
        floor_dbfs=-70.0,
        notes={
            "bend@0": N(cents=-31.0),
            "bend@1": N(cents=-26.0),
            "bend@2": N(cents=-34.0),
            "target@1": N(late_ms=95.0),
            "target@2": N(double_ms=48.0),
        },
        rings=(Ring(string=4, event="bend", repeat=1, level_db=-14.0, length_s=1.2),),
    )
    sound, truth = render(content, faults)
    out = io.BytesIO()
    soundfile.write(out, sound, truth.sample_rate_hz, format="FLAC", subtype="PCM_16")
    drill = add_drill(teacher.studio, content, created_by=teacher)
    take = services.receive(
        teacher, student=student, drill=drill, upload=SimpleUploadedFile("example.flac", out.getvalue()), invented=True
    )
    measure(str(take.pk))
    found = client.get(f"/api/v1/takes/{take.pk}/analysis").json()
    curves = json.loads(gzip.decompress(client.get(f"/api/v1/takes/{take.pk}/curves").content))
    return {"measured": found, "curves": thinned(curves)}


def thinned(curves):
    columns = ("pitch_cents", "level_dbfs", "confidence")
    return curves | {name: curves[name][::EVERY] for name in columns} | {"hop_s": curves["hop_s"] * EVERY}


def test_the_front_ends_example_is_what_the_server_answers(answered):
    if os.environ.get("FORTIMETRA_WRITE_EXAMPLE"):
        EXAMPLE.write_text(json.dumps(answered, indent=1, ensure_ascii=False) + "\n")
    example = json.loads(EXAMPLE.read_text())
    assert keys_of(example) == keys_of(answered)
    summary = example["measured"]["analysis"]["summary"]
    now = answered["measured"]["analysis"]["summary"]
    assert {k: v for k, v in summary.items() if isinstance(v, int)} == {
        k: v for k, v in now.items() if isinstance(v, int)
    }

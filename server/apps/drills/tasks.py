"""What workers do for drills: read scores, play previews. Only workers import this module; it loads what that takes."""

from __future__ import annotations

import io
import logging
from datetime import timedelta
from uuid import UUID

import soundfile
from celery import shared_task
from celery.exceptions import SoftTimeLimitExceeded
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.utils import timezone
from fortimetra import Drill as DrillContent
from fortimetra import DrillError
from fortimetra.formats import Imported, read_midi
from fortimetra.player import Shown, preview

from apps.drills import imports, previews
from apps.drills.models import ScoreImport

log = logging.getLogger(__name__)
READ_LIMIT_S = 25
RENDER_LIMIT_S = 30
PREVIEW_KEPT = timedelta(days=1)
FOLDER = "previews"


@shared_task(name="drills.read_score", soft_time_limit=READ_LIMIT_S, time_limit=READ_LIMIT_S + 10)
def read_score(import_id: str) -> None:
    """Read one score, unless that was done."""
    if not imports.READING.begin(ScoreImport.objects.filter(pk=import_id, state=ScoreImport.State.WAITING)):
        return
    row = ScoreImport.objects.get(pk=import_id)
    try:
        found = _read(bytes(row.upload))
    except DrillError as error:
        imports.refuse(row.pk, error.code, error.detail)
    except SoftTimeLimitExceeded:
        imports.refuse(
            row.pk, "score_too_long", "This score takes too long to read; export only the part that is to be practised."
        )
    except Exception:
        # A file nobody thought of: it is said to be unreadable, and the log says why.
        log.exception("score %s could not be read", import_id)
        imports.refuse(
            row.pk, "score_unreadable", "This score could not be read; export it again as MusicXML, or as MIDI."
        )
    else:
        _keep(row.pk, found)


def _read(content: bytes) -> Imported:
    if content.startswith(b"MThd"):
        return read_midi(content)
    from fortimetra.formats import read_musicxml

    return read_musicxml(content)


def _keep(import_id: UUID, found: Imported) -> None:
    ScoreImport.objects.filter(pk=import_id, state=ScoreImport.State.WAITING).update(
        state=ScoreImport.State.READ,
        upload=b"",
        outcome={
            "content": found.drill.model_dump(mode="json", by_alias=True),
            "proposed": list(found.proposed),
            "lost": list(found.lost),
        },
    )


@shared_task(name="drills.render_preview", soft_time_limit=RENDER_LIMIT_S, time_limit=RENDER_LIMIT_S + 10)
def render_preview(key: str, content: str, shown: str) -> None:
    """Play a drill and keep the sound under its key."""
    path = previews.path_of(key)
    if default_storage.exists(path):
        return
    samples, rate = preview(DrillContent.parse(content), Shown.model_validate_json(shown))
    out = io.BytesIO()
    soundfile.write(out, samples, rate, format="FLAC", subtype="PCM_16")
    stored = default_storage.save(path, ContentFile(out.getvalue()))
    if stored != path:  # somebody else was quicker
        default_storage.delete(stored)
    _forget_old()


def _forget_old() -> None:
    _folders, files = default_storage.listdir(FOLDER)
    limit = timezone.now() - PREVIEW_KEPT
    for name in files:
        path = f"{FOLDER}/{name}"
        try:
            if default_storage.get_modified_time(path) < limit:
                default_storage.delete(path)
        except FileNotFoundError:
            continue

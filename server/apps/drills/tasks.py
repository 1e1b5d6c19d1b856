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
from django.db import transaction
from django.utils import timezone
from fortimetra import Drill as DrillContent
from fortimetra import DrillError
from fortimetra.formats import Imported, read_midi
from fortimetra.player import Shown, preview

from apps.drills import imports, previews
from apps.drills.models import ScoreImport
from apps.jobs import services as jobs
from apps.jobs.services import Claim, Problem
from apps.jobs.work import work

log = logging.getLogger(__name__)
READ_LIMIT_S = 25
RENDER_LIMIT_S = 30
PREVIEW_KEPT = timedelta(days=1)
FOLDER = "previews"


@shared_task(name="drills.read_score", soft_time_limit=READ_LIMIT_S, time_limit=READ_LIMIT_S + 10)
def read_score(import_id: str) -> None:
    """Read one score, unless that was done."""
    work(imports.READING, import_id, _read_one)


def _read_one(mine: Claim) -> None:
    row = ScoreImport.objects.filter(pk=mine.subject).first()
    found, problem = None, Problem("", "")
    try:
        found = None if row is None else _read(bytes(row.upload))
    except DrillError as error:
        problem = Problem(error.code, error.detail)
    except SoftTimeLimitExceeded:
        problem = Problem(
            "score_too_long", "This score takes too long to read; export only the part that is to be practised."
        )
    except Exception:
        # A file nobody thought of: it is said to be unreadable, and the log says why.
        log.exception("score %s could not be read", mine.subject)
        problem = Problem("score_unreadable", "This score could not be read; export it again as MusicXML, or as MIDI.")
    with transaction.atomic():
        if not jobs.finish(mine) or row is None:
            return
        if found is None:
            imports.refuse(row.pk, problem.code, problem.detail)
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
def render_preview(key: str) -> None:
    """Play a drill and keep the sound under its key."""
    work(previews.PLAYING, key, _play)


def _play(mine: Claim) -> None:
    path = previews.path_of(mine.subject)
    asked = jobs.payload_of(mine)
    if asked is not None and not default_storage.exists(path):
        samples, rate = preview(DrillContent.parse(asked["drill"]), Shown.model_validate_json(asked["shown"]))
        out = io.BytesIO()
        soundfile.write(out, samples, rate, format="FLAC", subtype="PCM_16")
        stored = default_storage.save(path, ContentFile(out.getvalue()))
        if stored != path:  # somebody else was quicker
            default_storage.delete(stored)
        _forget_old()
    jobs.finish(mine)


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

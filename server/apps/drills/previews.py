"""Drills to be heard: rendered once by a worker, kept under a name made from what is asked, for a day.

The name is the only key: the same drill, faults and tempo of the same studio are the same sound.
"""

from __future__ import annotations

import hashlib
import re
from datetime import timedelta

from config.problems import ServiceError, not_found
from django.conf import settings
from django.core.files.storage import default_storage
from fortimetra import Drill as DrillContent
from fortimetra import DrillError, __version__
from fortimetra.player import PreviewTimes, Shown, at_tempo, times

from apps.jobs import services as jobs
from apps.jobs.models import Job
from apps.jobs.services import Kind, Problem
from apps.people.models import User

KEY = re.compile(r"^[0-9a-f]{40}$")
PLAYING = Kind(
    "drills.render_preview",
    most_attempts=2,
    patience=timedelta(seconds=40),
    broke=Problem("preview_failed", "This could not be played; try again in a moment."),
)


def ask(actor: User, content: DrillContent, shown: Shown, *, bpm: float | None) -> tuple[str, PreviewTimes]:
    """The key of a preview, and where its beats lie; a worker is woken unless it is there.

    Raises ServiceError for a drill that is too long to be heard.
    """
    try:
        once = at_tempo(content, bpm)
    except DrillError as error:
        raise ServiceError(422, error.code, error.detail) from error
    asked = [once.model_dump_json(by_alias=True), shown.model_dump_json()]
    secret = f"{settings.SECRET_KEY}/{actor.studio_id}/{__version__}"
    key = hashlib.sha256("\n".join([secret, *asked]).encode()).hexdigest()[:40]
    if not default_storage.exists(path_of(key)) and _may_be_asked(key):
        jobs.ask(PLAYING, key, payload={"drill": asked[0], "shown": asked[1]})
    return key, times(once)


def _may_be_asked(key: str) -> bool:
    """Whether no worker has it or will have it; one that failed may be tried once more."""
    job = jobs.of(PLAYING.task, [key]).get(key)
    return job is None or job.state == Job.State.FAILED


def path_of(key: str) -> str:
    """Where a preview is stored."""
    return f"previews/{key}.flac"


def sound(key: str) -> bytes | None:
    """A rendered preview, or None while it is not there. The key cannot be guessed; it stands for the right to hear it.

    Raises ServiceError (404) for a key that is none, (503) for one that could not be played.
    """
    if not KEY.match(key):
        raise not_found()
    job = jobs.of(PLAYING.task, [key]).get(key)
    if job is not None and job.state != Job.State.FAILED:
        return None  # what is there already may still be written on
    if not default_storage.exists(path_of(key)):
        if job is not None:
            raise ServiceError(503, job.problem_code, job.problem_detail)
        return None
    with default_storage.open(path_of(key)) as file:
        return bytes(file.read())

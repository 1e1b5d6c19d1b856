"""The store of recordings and results: a file is there whole or not at all; and whether there is room."""

from __future__ import annotations

import contextlib
import errno
import shutil
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.files.base import File
from django.core.files.storage import FileSystemStorage

from config.problems import ServiceError

# What the database, logs and results of recordings that were taken already still need.
KEPT_FREE_BYTES: int = settings.KEPT_FREE_BYTES
FULL = (errno.ENOSPC, errno.EDQUOT)


class WholeFiles(FileSystemStorage):
    """Files of this machine. What could not be written to its end is removed."""

    def _save(self, name: str, content: File[Any]) -> str:
        try:
            return str(super()._save(name, content))  # type: ignore[misc]
        except BaseException:
            with contextlib.suppress(OSError):
                Path(self.path(name)).unlink()
            raise


def free_bytes() -> int:
    """Room on the disk of the store."""
    place = Path(settings.MEDIA_ROOT)
    while not place.exists():
        place = place.parent
    return shutil.disk_usage(place).free


def has_room(size: int = 0) -> bool:
    """Whether so much more may be written."""
    return free_bytes() - size >= KEPT_FREE_BYTES


def require_room(size: int) -> None:
    """Raises ServiceError where a recording would fill the disk."""
    if not has_room(size):
        raise ServiceError(
            507,
            "disk_full",
            "The server's disk is full, so nothing is taken at the moment. Keep your recording and tell your teacher, "
            "or whoever looks after the server.",
        )


def is_full(error: BaseException) -> bool:
    """Whether something could not be written for want of room."""
    return isinstance(error, OSError) and error.errno in FULL

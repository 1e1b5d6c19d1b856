"""The store of recordings and results: a file is there whole or not at all; and whether there is room."""

from __future__ import annotations

import contextlib
import errno
import shutil
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Protocol

from django.conf import settings
from django.core.files.base import File
from django.core.files.storage import FileSystemStorage

from config.problems import ServiceError

# What the database, logs and results of recordings that were taken already still need.
KEPT_FREE_BYTES: int = settings.KEPT_FREE_BYTES
CHUNK = 256 * 1024
FULL = (errno.ENOSPC, errno.EDQUOT)


@dataclass(frozen=True)
class Stored:
    """A stored file: its name, and when it was written (seconds since 1970)."""

    name: str
    at_s: float


@dataclass(frozen=True)
class Part:
    """Some of a file: its bytes in pieces, where they begin, how many they are, and how many all are."""

    pieces: Iterable[bytes]
    start: int
    size: int
    whole: int


class Store(Protocol):
    """What is asked of a store beside what Django asks."""

    def part(self, name: str, first: int | None, last: int | None) -> Part:
        """Some bytes of a file."""

    def everything(self) -> Iterator[Stored]:
        """Every file there is."""


class WholeFiles(FileSystemStorage):
    """Files of this machine. What could not be written to its end is removed."""

    def part(self, name: str, first: int | None, last: int | None) -> Part:
        """Bytes first to last of a file; None: from its start, to its end. first alone negative: so many last ones.

        Raises FileNotFoundError, and ValueError for a part that is not there.
        """
        file = self.open(name, "rb")
        whole = file.size
        start = 0 if first is None else max(0, whole + first) if first < 0 else first
        end = whole if last is None else min(whole, last + 1)
        if first is not None and (start >= whole or end <= start):
            file.close()
            raise ValueError(f"{start} to {end} of {whole}")
        return Part(_pieces(file, start, end), start, end - start, whole)

    def everything(self) -> Iterator[Stored]:
        """Every file there is."""
        store = Path(self.location)
        for file in store.rglob("*"):
            if file.is_file():
                yield Stored(file.relative_to(store).as_posix(), file.stat().st_mtime)

    def _save(self, name: str, content: File[Any]) -> str:
        try:
            return str(super()._save(name, content))  # type: ignore[misc]
        except BaseException:
            with contextlib.suppress(OSError):
                Path(self.path(name)).unlink()
            raise


def _pieces(file: File[Any], start: int, end: int) -> Iterator[bytes]:
    with file:
        file.seek(start)
        while start < end and (piece := file.read(min(CHUNK, end - start))):
            start += len(piece)
            yield piece


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

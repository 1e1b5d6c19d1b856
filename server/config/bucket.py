"""Recordings and results in a bucket that speaks S3, private and encrypted by the bucket's own keys.

Loaded only where FORTIMETRA_BUCKET names one. Nobody gets an address of an object: the application passes it on, in
parts where a player asks for parts, so that who may hear it is asked each time.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from botocore.exceptions import ClientError
from storages.backends.s3 import S3Storage

from config.storage import Part, Stored

CHUNK = 256 * 1024


class Bucket(S3Storage):  # type: ignore[misc]
    """The bucket as Django's storage, with what else is asked of a store here."""

    def part(self, name: str, first: int | None, last: int | None) -> Part:
        """Bytes first to last of an object; None: from its start, to its end. first alone negative: so many last ones.

        Raises FileNotFoundError for an object that is not there, ValueError for a part that is not.
        """
        wanted = {} if first is None else {"Range": f"bytes={first if first >= 0 else ''}" + _until(first, last)}
        try:
            found = self.connection.meta.client.get_object(
                Bucket=self.bucket_name, Key=self._normalize_name(name), **wanted
            )
        except ClientError as error:
            code = error.response.get("Error", {}).get("Code", "")
            if code in {"InvalidRange", "416"}:
                raise ValueError(code) from error
            raise FileNotFoundError(name) from error
        size, start = int(found["ContentLength"]), 0
        whole = size
        if "ContentRange" in found:
            said, total = found["ContentRange"].removeprefix("bytes ").split("/")
            start, whole = int(said.split("-")[0]), int(total)
        return Part(found["Body"].iter_chunks(CHUNK), start, size, whole)

    def everything(self) -> Iterator[Stored]:
        """Every object there is."""
        prefix = f"{self.location.strip('/')}/" if self.location else ""
        for found in self.bucket.objects.filter(Prefix=prefix):
            yield Stored(found.key.removeprefix(prefix), found.last_modified.timestamp())

    def path(self, name: str) -> Any:
        """No object has one."""
        raise NotImplementedError


def _until(first: int, last: int | None) -> str:
    if first < 0:
        return str(first)
    return "-" if last is None else f"-{last}"

"""Stored files as answers, in parts where a player asks for parts (RFC 9110, 14)."""

from __future__ import annotations

import re
from typing import cast
from urllib.parse import quote

from django.conf import settings
from django.core.files.storage import FileSystemStorage
from django.db.models.fields.files import FieldFile
from django.http import HttpRequest, HttpResponse, StreamingHttpResponse
from django.http.response import HttpResponseBase
from django.utils.http import content_disposition_header

from config.problems import problem
from config.storage import Store

# What nginx takes for the folder of stored files; nobody reaches it from outside.
SENT_FROM = "/-/media/"
# One part; a player asks for no more. Other units and several parts at once may be answered with the whole (14.2).
RANGE = re.compile(r"^bytes=(?:(\d{1,18})-(\d{1,18})?|-(\d{1,18}))$")


def stored_file(
    request: HttpRequest, stored: FieldFile, content_type: str, *, name: str = "", attachment: bool = True
) -> HttpResponseBase:
    """A file of the store. The front sends what lies on this machine; anything else, and without a front, this process
    passes it on.

    name: what a browser calls it when it is kept; attachment: whether it is kept rather than shown.
    """
    answer: HttpResponseBase
    if settings.BEHIND_FRONT and isinstance(stored.storage, FileSystemStorage):
        answer = HttpResponse(content_type=content_type)
        answer["X-Accel-Redirect"] = SENT_FROM + quote(stored.name or "")
    else:
        answer = _passed_on(request, stored, content_type)
    if name:
        answer["Content-Disposition"] = content_disposition_header(attachment, name) or "attachment"
    return answer


def _passed_on(request: HttpRequest, stored: FieldFile, content_type: str) -> HttpResponseBase:
    asked = RANGE.match(request.headers.get("Range", ""))
    first, last = _bounds(asked)
    try:
        part = cast(Store, stored.storage).part(stored.name or "", first, last)
    except FileNotFoundError:
        return problem(404, "not_found", "This file is not in the store any more.")
    except ValueError:
        answer: HttpResponseBase = problem(416, "no_such_part", "The file has no such part.")
        answer["Content-Range"] = f"bytes */{stored.size}"
        return answer
    answer = StreamingHttpResponse(part.pieces, status=206 if asked else 200, content_type=content_type)
    answer["Content-Length"] = str(part.size)
    answer["Accept-Ranges"] = "bytes"
    if asked:
        answer["Content-Range"] = f"bytes {part.start}-{part.start + part.size - 1}/{part.whole}"
    return answer


def _bounds(asked: re.Match[str] | None) -> tuple[int | None, int | None]:
    if asked is None:
        return None, None
    first, last, of_the_end = asked.groups()
    if of_the_end is not None:
        return -int(of_the_end), None
    return int(first), None if last is None else int(last)

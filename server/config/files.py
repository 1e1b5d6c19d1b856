"""Stored files as answers."""

from __future__ import annotations

from urllib.parse import quote

from django.conf import settings
from django.db.models.fields.files import FieldFile
from django.http import FileResponse, HttpResponse
from django.utils.http import content_disposition_header

# What nginx takes for the folder of stored files; nobody reaches it from outside.
SENT_FROM = "/-/media/"


def stored_file(
    stored: FieldFile, content_type: str, *, name: str = "", attachment: bool = True
) -> HttpResponse | FileResponse:
    """A file of the store. The front sends it, in parts where it is asked for parts; without one, this process does.

    name: what a browser calls it when it is kept; attachment: whether it is kept rather than shown.
    """
    answer: HttpResponse | FileResponse
    if settings.BEHIND_FRONT:
        answer = HttpResponse(content_type=content_type)
        answer["X-Accel-Redirect"] = SENT_FROM + quote(stored.name or "")
    else:
        answer = FileResponse(stored.open("rb"), content_type=content_type)
    if name:
        answer["Content-Disposition"] = content_disposition_header(attachment, name) or "attachment"
    return answer

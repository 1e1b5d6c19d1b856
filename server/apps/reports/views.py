"""Pages a link alone opens: a lesson sheet and its PDF."""

from __future__ import annotations

from config.problems import ServiceError
from django.http import HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET

from apps.people import audit
from apps.reports import page, sheets
from apps.reports.api import pdf_of
from apps.reports.models import LessonSheet

GONE = (
    "<!doctype html><meta charset=utf-8><title>Fortimetra</title><body style='font-family:sans-serif;margin:3rem'>"
    "<h1>This lesson sheet is no longer here</h1><p>Its link was taken back. Ask your teacher for a new one.</p>"
)


@require_GET
@never_cache
def shared_sheet(request: HttpRequest, token: str) -> HttpResponse:
    """The sheet, with a link to its PDF."""
    try:
        found = sheets.shared(token)
    except ServiceError:
        return HttpResponse(GONE, status=404)
    audit.saw_by_link("read_sheet", student=found.student, what=str(found.content["day"]), object_id=found.pk)
    ready = found.pdf_state != LessonSheet.Pdf.FAILED
    return HttpResponse(page.html(found, pdf=f"/sheet/{token}/pdf" if ready else None))


@require_GET
@never_cache
def shared_pdf(request: HttpRequest, token: str) -> HttpResponseBase:
    """Its PDF."""
    try:
        found = sheets.shared(token)
        return pdf_of(request, found)
    except ServiceError as error:
        if error.status != 409:
            return HttpResponse(GONE, status=404)
        answer = HttpResponse("The PDF is being made; this page asks again by itself.", content_type="text/plain")
        answer["Refresh"] = "1"
        return answer

"""What workers do for reports. Only workers import this module: it loads what sets type (WeasyPrint)
and what makes sound.
"""

from __future__ import annotations

import io
import logging
from collections.abc import Mapping

import weasyprint
from celery import shared_task
from django.core.files.base import ContentFile
from django.db import transaction
from weasyprint.urls import URLFetcher

from apps.jobs import services as jobs
from apps.jobs.services import Claim
from apps.jobs.work import work
from apps.reports import page, sheets
from apps.reports.models import LessonSheet

log = logging.getLogger(__name__)


class _OwnFontsOnly(URLFetcher):  # type: ignore[misc]
    """A page may read the app's two fonts and nothing else, neither files nor addresses."""

    def fetch(self, url: str, headers: Mapping[str, str] | None = None) -> object:
        if url not in {file.as_uri() for file in page.font_files().values()}:
            raise ValueError(f"not fetched: {url[:100]}")
        return super().fetch(url, headers)


@shared_task(name="reports.set_sheet")
def set_sheet(sheet_id: str) -> None:
    """Set a lesson sheet as a PDF of one page."""
    work(sheets.SETTING, sheet_id, _set)


def _set(mine: Claim) -> None:
    sheet = LessonSheet.objects.filter(pk=mine.subject, pdf_state=LessonSheet.Pdf.WAITING).first()
    if sheet is None:
        jobs.finish(mine)
        return
    content = one_page(sheet)
    before = sheet.content
    with transaction.atomic():
        locked = LessonSheet.objects.select_for_update().filter(pk=sheet.pk).first()
        if not jobs.finish(mine) or locked is None:
            return
        if locked.content != before or locked.pdf_state != LessonSheet.Pdf.WAITING:
            return  # it was changed meanwhile; whoever wants the PDF asks anew
        locked.pdf.save("sheet.pdf", ContentFile(content), save=False)
        locked.pdf_state = LessonSheet.Pdf.READY
        locked.save(update_fields=["pdf", "pdf_state"])


def one_page(sheet: LessonSheet) -> bytes:
    """The PDF. Where everything does not fit on a page, tab is left out from the end; then the type gets smaller."""
    most = len(sheet.content["tabs"])
    document = _typeset(sheet, most)
    if len(document.pages) > 1:
        document = _with_most_tabs(sheet, most - 1) or _in_smaller_type(sheet)
    out = io.BytesIO()
    document.write_pdf(out, pdf_identifier=sheet.pk.bytes)
    return out.getvalue()


def _typeset(sheet: LessonSheet, tabs: int, zoom: float = 1.0) -> weasyprint.Document:
    text = page.html(sheet, tabs=tabs, for_file=True)
    if zoom < 1.0:
        text = text.replace("font: 9.4pt/1.34", f"font: {9.4 * zoom:.2f}pt/1.3")
    return weasyprint.HTML(string=text, url_fetcher=_OwnFontsOnly()).render()


def _with_most_tabs(sheet: LessonSheet, most: int) -> weasyprint.Document | None:
    """On one page with as much tab as goes on it, `most` at most, found by halving; None where not even the rest
    fits.
    """
    best, low, high = None, 0, most
    while low <= high:
        tabs = (low + high) // 2
        document = _typeset(sheet, tabs)
        if len(document.pages) == 1:
            best, low = document, tabs + 1
        else:
            high = tabs - 1
    return best


def _in_smaller_type(sheet: LessonSheet) -> weasyprint.Document:
    """Without tab, in the largest type in which it is one page, or the smallest there is."""
    for zoom in (0.85, 0.7, 0.55):
        document = _typeset(sheet, 0, zoom)
        if len(document.pages) == 1:
            break
    return document

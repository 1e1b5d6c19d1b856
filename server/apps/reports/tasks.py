"""What workers do for reports. Only workers import this module: it loads what sets type (WeasyPrint)
and what makes sound.
"""

from __future__ import annotations

import io
import logging
from collections.abc import Mapping
from uuid import UUID

import weasyprint
from celery import shared_task
from django.core.files.base import ContentFile
from fortimetra import Drill as DrillContent
from fortimetra.player import Faults, NoteFault
from weasyprint.urls import URLFetcher

from apps.people.models import User
from apps.reports import page, sample, sheets
from apps.reports.models import LessonSheet
from apps.takes.demo import recording

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
    if not sheets.SETTING.begin(LessonSheet.objects.filter(pk=UUID(sheet_id), pdf_state=LessonSheet.Pdf.WAITING)):
        return
    sheet = LessonSheet.objects.get(pk=sheet_id)
    content = one_page(sheet)
    before = sheet.content
    sheet.refresh_from_db()
    if sheet.content != before or sheet.pdf_state != LessonSheet.Pdf.WAITING:
        return  # it was changed meanwhile; whoever wants the PDF asks anew
    sheet.pdf.save("sheet.pdf", ContentFile(content), save=False)
    sheet.pdf_state = LessonSheet.Pdf.READY
    sheet.save(update_fields=["pdf", "pdf_state"])


def one_page(sheet: LessonSheet) -> bytes:
    """The PDF. Where everything does not fit on a page, tab is left out from the end; then the type gets smaller."""
    for tabs, zoom in [*((n, 1.0) for n in range(len(sheet.content["tabs"]), -1, -1)), (0, 0.85), (0, 0.7), (0, 0.55)]:
        text = page.html(sheet, tabs=tabs, for_file=True)
        if zoom < 1.0:
            text = text.replace("font: 9.4pt/1.34", f"font: {9.4 * zoom:.2f}pt/1.3")
        document = weasyprint.HTML(string=text, url_fetcher=_OwnFontsOnly()).render()
        if len(document.pages) == 1:
            break
    out = io.BytesIO()
    document.write_pdf(out, pdf_identifier=sheet.pk.bytes)
    return out.getvalue()


# The second and the last bend stop short, one target is late: something to find, and a cause.
SAMPLE_FAULTS = Faults(
    seed=7,
    notes={"bend@1": NoteFault(cents=-31.0), "bend@3": NoteFault(cents=-24.0), "target@2": NoteFault(late_ms=18.0)},
)  # fmt: skip


@shared_task(name=sample.TASK)
def make_sample(user_id: str) -> None:
    """Have the simulated student play a teacher's sample take."""
    actor = User.objects.get(pk=int(user_id))
    if sample.sample_of(actor) is None:
        drill = sample.drill_of(actor)
        assert drill.current is not None
        sample.keep(actor, recording(DrillContent.model_validate(drill.current.content), SAMPLE_FAULTS))

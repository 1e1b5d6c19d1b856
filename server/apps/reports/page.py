"""A lesson sheet as a page: the same for the screen, the printer and the PDF."""

from __future__ import annotations

import datetime as dt
from functools import cache
from pathlib import Path
from typing import Any

from django.conf import settings
from django.template.loader import render_to_string
from django.utils.safestring import mark_safe

from apps.reports.models import LessonSheet
from apps.reports.pictures import svg_of

FONTS = {
    "Atkinson Hyperlegible Next": "atkinson-hyperlegible-next-latin-wght-normal-*.woff2",
    "Atkinson Hyperlegible Mono": "atkinson-hyperlegible-mono-latin-wght-normal-*.woff2",
}


@cache
def font_files() -> dict[str, Path]:
    """The app's own type, from the built front end; without a build the system's stands in."""
    found = {name: sorted((settings.WEB_DIST / "assets").glob(pattern)) for name, pattern in FONTS.items()}
    return {name: files[0] for name, files in found.items() if files}


def html(sheet: LessonSheet, *, tabs: int | None = None, pdf: str | None = None, for_file: bool = False) -> str:
    """The page. tabs: so many of them, where all do not fit; pdf: address of the file; for_file: fonts by path, not
    address.
    """
    content = sheet.content
    fonts = {
        name: file.as_uri() if for_file else f"{settings.STATIC_URL}assets/{file.name}"
        for name, file in font_files().items()
    }
    return render_to_string(
        "reports/sheet.html",
        {
            "sheet": content,
            "paper": sheet.paper,
            "day": _words(content["day"]),
            "since": _words(content["since"]),
            "findings": [_finding(content, f) for f in content["findings"]],
            "week": [{**d, "name": _weekday(d["day"])} for d in content["week"]],
            "tabs": content["tabs"][:tabs],
            "fonts": fonts,
            "pdf": pdf,
        },
    )


def _finding(content: dict[str, Any], chosen: dict[str, Any]) -> dict[str, Any]:
    candidate = content["candidates"][chosen["candidate"]]
    picture = candidate["picture"]
    return {
        **candidate,
        "says": chosen["says"],
        "tries": [line for line in chosen["tries"].splitlines() if line.strip()],
        "played_on": _words(candidate["played_on"]),
        # Made of numbers alone; nothing a person wrote is in it.
        "svg": mark_safe(svg_of(picture)) if picture else "",  # noqa: S308
        "unit": picture["unit"] if picture else "",
        "measure": picture.get("measure", "") if picture else "",
        "limit": picture["limit"] if picture else None,
    }


def _words(day: str) -> str:
    return dt.date.fromisoformat(day).strftime("%-d %B %Y")


def _weekday(day: str) -> str:
    return dt.date.fromisoformat(day).strftime("%a %-d %b")

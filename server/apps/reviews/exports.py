"""A take's results in open formats. What the teacher said counts in all of them."""

from __future__ import annotations

import json
import zlib
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from config.problems import ServiceError
from fortimetra import Analysis as AnalysisContent
from fortimetra.formats import Curve, clicks_csv, contour_csv, heard_midi, jams_text, notes_csv
from fortimetra.units import A4_HZ

from apps.reviews import word
from apps.takes.models import Analysis, Take

Kind = Literal["notes", "analysis", "jams", "midi", "clicks", "contour"]


@dataclass(frozen=True)
class File:
    """Bytes with a content type and what the name ends with."""

    content: bytes
    content_type: str
    ending: str


@dataclass(frozen=True)
class _Source:
    take: Take
    stored: Analysis
    analysis: AnalysisContent

    @property
    def curve(self) -> Curve:
        if not self.stored.curves:
            raise ServiceError(409, "not_drawn_yet", "The curves are still being written; ask again in a moment.")
        with self.stored.curves.open("rb") as file:
            columns = json.loads(_unpacked(file.read()))
        cents = np.array([np.nan if c is None else c for c in columns["pitch_cents"]], float)
        kept = columns.get("confidence")
        return Curve(
            time_s=np.arange(len(cents), dtype=np.float64) * np.float64(columns["hop_s"]),
            f0_hz=A4_HZ * 2.0 ** ((cents - 6900.0) / 1200.0),
            confidence=np.array(kept, float) if kept else np.full(len(cents), np.nan),
            level_dbfs=np.array(columns["level_dbfs"], float),
        )

    @property
    def title(self) -> str:
        return f"{self.take.drill_version.drill.title}, {self.take.played_at:%Y-%m-%d}"


def _unpacked(content: bytes) -> bytes:
    """What a curves file holds; it may have come with an archive, so its size is bounded."""
    unpacking = zlib.decompressobj(wbits=31)
    out = unpacking.decompress(content, MOST_CURVES_BYTES)
    if unpacking.unconsumed_tail:
        raise ServiceError(422, "curves_invalid", "The curves of this take are not readable; measure it again.")
    return out


MOST_CURVES_BYTES = 200_000_000
CSV = "text/csv; charset=utf-8; header=present"
_WRITERS: dict[Kind, tuple[Callable[[_Source], str | bytes], str, str]] = {
    "notes": (lambda s: notes_csv(s.analysis), CSV, "notes.csv"),
    "analysis": (
        lambda s: json.dumps(s.analysis.model_dump(mode="json", by_alias=True), indent=1, ensure_ascii=False) + "\n",
        "application/json",
        "json",
    ),
    "jams": (lambda s: jams_text(s.analysis, s.curve, title=s.title), "application/json", "jams"),
    "midi": (lambda s: heard_midi(s.analysis, s.curve, title=s.title), "audio/midi", "mid"),
    "clicks": (lambda s: clicks_csv(s.analysis, beats_per_bar=_per_bar(s.stored)), CSV, "clicks.csv"),
    "contour": (lambda s: contour_csv(s.analysis, s.curve), CSV, "contour.csv"),
}


def export(take: Take, stored: Analysis, kind: Kind) -> File:
    """A measured take as one of the kinds."""
    write, content_type, ending = _WRITERS[kind]
    content = write(_Source(take, stored, word.as_left(stored, word.marks_of(take))))
    return File(content.encode() if isinstance(content, str) else content, content_type, ending)


def _per_bar(stored: Analysis) -> int:
    tempo = stored.drill_version.content["tempo"]
    return int(tempo["beats_per_bar"]) if tempo else 4

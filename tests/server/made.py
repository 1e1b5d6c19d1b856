"""The time that tests read; takes in stated states without a recording being measured: what lists, ladders and trends
read is written down.
"""

from __future__ import annotations

from datetime import timedelta

from apps.reviews.word import tell_settled
from apps.takes.models import Analysis, Take
from django.core.files.base import ContentFile
from django.utils import timezone


class Clock:
    """The time the program reads; it stands until it is moved."""

    def __init__(self, monkeypatch):
        self.now = timezone.now()
        monkeypatch.setattr(timezone, "now", lambda: self.now)

    def go(self, seconds):
        self.now += timedelta(seconds=seconds)


EMPTY = {
    "asked": 0,
    "clean": 0,
    "not_clean": 0,
    "unclear": 0,
    "missed": 0,
    "extra": 0,
    "excluded": 0,
    "by_measure": {},
    "timing": None,
    "level": None,
    "fastest_even_run_nps": None,
}


def made_take(
    student, drill, *, clean=20, asked=20, unclear=0, bpm=None, per_click=None, ago_min=0, places=None, tell=True,
    core_version="0.1.0", **summary,
):  # fmt: skip
    """A measured take of so many clean notes; ago_min: minutes before now."""
    if bpm is None:
        tempo = drill.current.content["tempo"]
        bpm = tempo["bpm"] if tempo else None
    take = Take.objects.create(
        student=student, drill_version=drill.current, played_at=timezone.now() - timedelta(minutes=ago_min),
        original_name="x.flac", size_bytes=1, sha256="0" * 64, state=Take.State.MEASURED, per_click=per_click,
        upload=ContentFile(b"x", "x"), measured_at=timezone.now(),
    )  # fmt: skip
    counts = {"asked": asked, "clean": clean, "unclear": unclear, "not_clean": asked - clean - unclear}
    full = EMPTY | counts | summary
    analysis = Analysis.objects.create(
        take=take, drill_version=drill.current, core_version=core_version, seconds=1.0, content={}, summary=full,
        ticks="." * asked, counts={k: v for k, v in full.items() if isinstance(v, int)}, places=places or {}, bpm=bpm,
        per_click=per_click, curves=ContentFile(b"x", "c"), listening=ContentFile(b"x", "l"),
    )  # fmt: skip
    take.current = analysis
    take.save(update_fields=["current"])
    if tell:
        tell_settled(take)
    return take

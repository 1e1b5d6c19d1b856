"""What an analysis was made with: the version of the algorithms and a digest of every setting."""

from __future__ import annotations

from collections.abc import Iterator

# Every stage has to be loaded before its settings can be listed.
import fortimetra.align.settings
import fortimetra.coach.settings
import fortimetra.hear.settings
import fortimetra.judge.settings
import fortimetra.measure.settings
import fortimetra.sound.settings  # noqa: F401
from fortimetra.settings import Row, digest, rows
from fortimetra.version import __version__

SETTINGS_DIGEST = digest()
ORDER = ("sound", "hear", "align", "measure", "judge", "coach")


def settings() -> Iterator[Row]:
    """Every setting, in the order a take meets them."""
    return iter(sorted(rows(), key=lambda row: ORDER.index(row.name.split(".")[0])))


__all__ = ["ORDER", "SETTINGS_DIGEST", "__version__", "settings"]

"""How the tests are shared out where several processes run them, and what they share."""

from __future__ import annotations

from pathlib import Path

import fortimetra
import pytest

from tests import kept

HERE = Path(__file__).parent
# Files that take longest, longest first: begun last, one of them would run alone at the end. Seconds, roughly.
LONG: dict[str, int] = {}

# The server's worker measures through the package's front door: what was measured before is not measured again.
fortimetra.measure_take = kept.measure_take


def pytest_sessionstart(session):
    if not hasattr(session.config, "workerinput"):
        kept.tidy()


def pytest_collection_modifyitems(items):
    for item in items:
        part, *_rest = item.path.relative_to(HERE).parts
        # What a file prepares once serves all of its tests.
        if not item.get_closest_marker("xdist_group"):
            item.add_marker(pytest.mark.xdist_group(f"{part}/{item.path.stem}"))
    items.sort(key=lambda item: -LONG.get(item.get_closest_marker("xdist_group").args[0], 0))

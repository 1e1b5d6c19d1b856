"""How the tests are shared out where several processes run them, and what they share."""

from __future__ import annotations

from pathlib import Path

import fortimetra
import hypothesis
import pytest

from tests import kept

# No test asserts a time: an example that takes long beside other work is no failure.
hypothesis.settings.register_profile("untimed", deadline=None)
hypothesis.settings.load_profile("untimed")

HERE = Path(__file__).parent
# Files that take longest, longest first: begun last, one of them would run alone at the end. Seconds, roughly.
LONG: dict[str, int] = {
    # The first of the browser's needs no demo: while that is loaded, one process has something to do.
    "browser/test_start": 900,
    "browser/test_take": 240,
    "browser/test_accessible": 190,
    "browser/test_judging": 165,
    "browser/test_recorder": 150,
    "browser/test_week": 145,
    "browser/test_guitar": 95,
    "browser/test_write_drill": 65,
    "browser/test_sheet": 65,
    "browser/test_library": 60,
    "browser/test_people": 50,
    "browser/test_make_drill": 25,
    "checks/test_web": 140,
    "checks/test_static": 40,
    "core/test_set_up": 70,
    "core/test_causes": 50,
    "core/test_bend_kinds": 45,
    "core/test_quiet": 45,
    "core/test_time_and_touch": 40,
    "core/test_known_faults": 40,
    "reference/test_fluidsynth_bends": 40,
    "reference/test_fluidsynth_causes": 40,
    "reference/test_fluidsynth_runs": 30,
    "reference/test_fluidsynth_bend_kinds": 60,
    "reference/test_drill_musicxml": 60,
    "reference/test_midi_in": 40,
    "reference/test_fluidsynth_set_up": 30,
    "server/test_archive": 70,
    "server/test_reports": 45,
    "ops/test_upgrade": 45,
    "server/test_library": 30,
    "server/test_plans": 30,
    "server/test_access": 25,
    "server/test_word": 25,
    "core/test_simulated_student": 25,
}

# The server's worker measures through the package's front door: what was measured before is not measured again.
fortimetra.measure_take = kept.measure_take


def pytest_sessionstart(session):
    if not hasattr(session.config, "workerinput"):
        kept.tidy()


def pytest_collection_modifyitems(items):
    def seconds(item: pytest.Item) -> int:
        return LONG.get(item.path.relative_to(HERE).with_suffix("").as_posix(), 0)

    items.sort(key=lambda item: -seconds(item))

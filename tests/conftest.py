"""How the tests are shared out where several processes run them."""

from pathlib import Path

import pytest

HERE = Path(__file__).parent


def pytest_collection_modifyitems(items):
    for item in items:
        part, *_rest = item.path.relative_to(HERE).parts
        # The server's tests empty one cache; elsewhere what a file prepares once serves all of its tests.
        item.add_marker(pytest.mark.xdist_group("server" if part == "server" else f"{part}/{item.path.stem}"))

"""The studios of the server's tests, attacked."""

import os

import pytest

from tests.server.conftest import (  # noqa: F401 - fixtures
    _own_files,
    _studios,
    client,
    colleague,
    drill,
    few,
    flac,
    guitar,
    make_take,
    measured,
    queued,
    stranger,
    student,
    teacher,
)


def pytest_collection_modifyitems(items):
    if "FORTIMETRA_DB_PASSWORD" not in os.environ:
        for item in items:
            if "tests/security" in str(item.path):
                item.add_marker(pytest.mark.skip(reason="needs a database server: ./run test security"))

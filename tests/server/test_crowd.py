"""Pages of a large studio: as many statements with many takes as with few."""

import pytest
from apps.archive.out import stream
from apps.demo.crowd import load_crowd
from apps.demo.management.commands.time_pages import pages
from apps.people.services import create_studio
from django.db import connection
from django.test.utils import CaptureQueriesContext

from tests.server.conftest import PASSWORD, client_of

pytestmark = pytest.mark.django_db
MOST_STATEMENTS = 14


def counted(teacher):
    client, found = client_of(teacher), {}
    for name, path in pages(teacher).items():
        client.get(f"/api/v1{path}")  # a first request warms the process-wide caches
        with CaptureQueriesContext(connection) as seen:
            answer = client.get(f"/api/v1{path}")
        assert answer.status_code == 200, (name, answer.content[:200])
        found[name] = len(seen)
    return found


def test_pages_take_as_many_statements_with_many_takes_as_with_few(db):
    small = create_studio(name="Small", teacher_name="S", email="s@s.example", password=PASSWORD)
    large = create_studio(name="Large", teacher_name="L", email="l@l.example", password=PASSWORD)
    load_crowd(small, students=3, takes=30)
    load_crowd(large, students=30, takes=900)
    few, many = counted(small), counted(large)
    assert many == few
    assert max(many.values()) <= MOST_STATEMENTS


def test_an_archive_is_sent_in_pieces_that_do_not_grow(db):
    teacher = create_studio(name="Large", teacher_name="L", email="l@l.example", password=PASSWORD)
    load_crowd(teacher, students=10, takes=300)
    pieces = [len(piece) for piece in stream(teacher.studio)]
    assert len(pieces) > 600  # a piece a file at least
    assert max(pieces) < 2_000_000

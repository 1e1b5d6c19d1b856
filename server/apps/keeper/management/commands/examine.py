"""What ./run doctor asks a running application."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand
from django.db import connection
from django.db.migrations.executor import MigrationExecutor

from apps.keeper import state
from apps.people.models import User

LONG_WAIT_S = 600.0
Finding = tuple[str, str, str]


class Command(BaseCommand):
    """JSON on one line: findings (how, what, what to do) and the database's clock."""

    help = "What ./run doctor asks."

    def handle(self, *_args: Any, **_options: Any) -> None:
        with connection.cursor() as cursor:
            cursor.execute("SELECT UTC_TIMESTAMP(6)")
            now = cursor.fetchone()[0]
        found = [*_tables(), *_parts(), *_jobs(), *_accounts()]
        self.stdout.write(json.dumps({"findings": found, "database_time": f"{now.isoformat()}+00:00"}))


def _tables() -> Iterator[Finding]:
    executor = MigrationExecutor(connection)
    left = executor.migration_plan(executor.loader.graph.leaf_nodes())
    if left:
        yield "wrong", f"{len(left)} changes of the tables are not made yet.", "stop it and start it again"
    else:
        yield "good", "tables", ""


def _parts() -> Iterator[Finding]:
    found = list(state.problems())
    for says in found:
        yield "wrong", says, "read its log in the data folder"
    if not found:
        yield "good", "database, broker and store answer", ""


def _jobs() -> Iterator[Finding]:
    rows = state.waiting()
    failed = sum(row.count for row in rows if row.state == "failed")
    if failed:
        yield "mind", f"{failed} jobs were given up.", "the page Server says why, and tries them again"
    late = [row for row in rows if row.state == "waiting" and row.oldest_s > LONG_WAIT_S and row.queue != "batch"]
    for row in late:
        yield "wrong", f"{row.kind} waits for {row.oldest_s / 60:.0f} minutes.", "see that a worker runs"
    if not failed and not late:
        yield "good", "no job is stuck", ""


def _accounts() -> Iterator[Finding]:
    demo = User.objects.filter(email=settings.DEMO_EMAIL, is_active=True).first()
    if demo is not None and demo.check_password(settings.DEMO_PASSWORD):
        yield "mind", "The demo's account has the password everybody knows.", "fine on one's own machine only"
    if not User.objects.filter(keeps=True, is_active=True).exists():
        yield "mind", "Nobody sees the page Server.", "./run manage make_keeper ADDRESS"

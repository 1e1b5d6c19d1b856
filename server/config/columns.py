"""Columns that go in two releases: the first does not know them any more, the next drops them.

While a server is upgraded, web processes of the release before still read and write them; those of the new one insert
rows without them, so each needs a default of its own.
"""

from __future__ import annotations

from django.db import migrations


def unused(model: str, table: str, column: str, default: str | None) -> migrations.SeparateDatabaseAndState:
    """Take a column out of a model, and leave it in its table. default: as SQL; None: it may be null."""
    sql = "" if default is None else f"ALTER TABLE {table} ALTER COLUMN {column} SET DEFAULT {default}"
    return migrations.SeparateDatabaseAndState(
        database_operations=[migrations.RunSQL(sql, migrations.RunSQL.noop)],
        state_operations=[migrations.RemoveField(model, column)],
    )

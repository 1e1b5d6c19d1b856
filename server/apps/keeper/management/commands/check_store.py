"""Rows and files that have lost each other."""

from __future__ import annotations

import time
from typing import Any, cast

from config.storage import Store
from django.apps import apps
from django.core.files.storage import default_storage
from django.core.management.base import BaseCommand, CommandParser
from django.db.models import FileField

# What is younger may be on its way to its row.
YOUNG_S = 24 * 3600.0


class Command(BaseCommand):
    """Names files no row knows, and rows whose file is not there."""

    help = "List files without a row and rows without their file; --delete removes the former, a day old or older."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--delete", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        there = {file.name: file for file in cast(Store, default_storage).everything()}
        known = _known()
        missing = sorted(known - there.keys())
        old = time.time() - YOUNG_S
        orphans = [file for name, file in there.items() if name not in known]
        for name in missing:
            self.stdout.write(f"not there: {name}")
        gone = 0
        for file in orphans:
            deleted = options["delete"] and file.at_s < old
            self.stdout.write(f"{'deleted' if deleted else 'nobody’s'}: {file.name}")
            if deleted:
                default_storage.delete(file.name)
                gone += 1
        self.stdout.write(
            f"{len(known)} files known, {len(missing)} not there, {len(orphans)} nobody’s, {gone} of them deleted."
        )


def _known() -> set[str]:
    """Every name a row knows."""
    known: set[str] = set()
    for model in apps.get_models():
        for field in model._meta.get_fields():
            if isinstance(field, FileField):
                rows = model._default_manager.exclude(**{field.name: ""}).values_list(field.name, flat=True)
                known.update(name for name in rows.iterator() if name)
    return known

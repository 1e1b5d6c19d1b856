"""A studio from its archive."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from config.problems import ServiceError
from django.core.management.base import BaseCommand, CommandError, CommandParser

from apps.archive.new_studio import restore_as_new


class Command(BaseCommand):
    """./run manage restore_studio studio.zip"""

    help = "Make a studio anew from an archive. Accounts come without passwords."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        if not options["file"].is_file():
            raise CommandError(f"{options['file']}: there is no such file.")
        try:
            lead, counts, path = restore_as_new(options["file"])
        except ServiceError as error:
            raise CommandError(error.detail) from error
        self.stdout.write(f"{counts['students']} students and {counts['takes']} takes are back.")
        self.stdout.write(f"{lead.email} sets a password at this address of the server: {path}")

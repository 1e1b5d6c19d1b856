"""A whole studio as one file."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from apps.archive.out import stream
from apps.people.models import User


class Command(BaseCommand):
    """./run manage take_out_studio teacher@place.example studio.zip"""

    help = "Write the studio of a teacher to one archive."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("email")
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        user = User.objects.filter(email__iexact=options["email"], role=User.Role.TEACHER).first()
        if user is None:
            raise CommandError(f"There is no teacher {options['email']}.")
        part = options["file"].with_suffix(".part")
        with part.open("wb") as out:
            for piece in stream(user.studio):
                out.write(piece)
        part.replace(options["file"])
        self.stdout.write(f"{options['file']}: {options['file'].stat().st_size / 1e6:.1f} MB")

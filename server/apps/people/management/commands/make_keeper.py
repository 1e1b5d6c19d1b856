"""Who looks after the installation, from the command line."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from apps.people.models import User


class Command(BaseCommand):
    """./run manage make_keeper ADDRESS"""

    help = "Let somebody see how the server is: jobs, room, versions, backups. Nobody's takes."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("address")
        parser.add_argument("--take-back", action="store_true", help="they no longer see it")

    def handle(self, *args: Any, **options: Any) -> None:
        keeps = not options["take_back"]
        if not User.objects.filter(email=options["address"], is_active=True).update(keeps=keeps):
            raise CommandError(f"Nobody signs in with the address {options['address']}.")
        self.stdout.write("They see the page Server." if keeps else "They no longer see the page Server.")

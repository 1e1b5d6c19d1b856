"""Everything the database needs before the first request."""

from __future__ import annotations

from typing import Any

from config.storage import WholeFiles
from django.core.files.storage import default_storage
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandParser

from apps.people.audit import forget_old


class Command(BaseCommand):
    """Tables, and the demo data once."""

    help = "Migrate; with --demo load the demo data if it is not there."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--demo", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        call_command("migrate", interactive=False, verbosity=0)
        forget_old()
        call_command("clearsessions")
        # The objects of a bucket are looked through when somebody asks for it: there may be millions.
        if isinstance(default_storage, WholeFiles):
            call_command("check_store", delete=True, stdout=self.stdout)
        if options["demo"]:
            call_command("load_demo")

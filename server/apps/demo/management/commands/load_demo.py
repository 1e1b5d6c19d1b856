"""The demo data, once."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand
from django.db import transaction

from apps.people.models import User


class Command(BaseCommand):
    """Load the demo unless it, or anybody else, is there, and leave a note with the sign-in for the start command.

    Its accounts have a password that everybody knows: they do not come into an installation that people have.
    """

    help = "Load the demo data, once, into an installation that nobody has."

    def handle(self, *args: Any, **options: Any) -> None:
        note = Path(settings.DATA) / "run" / "sign_in.txt"
        if User.objects.exists() and not User.objects.filter(email=settings.DEMO_EMAIL).exists():
            note.unlink(missing_ok=True)
            self.stdout.write("people are here: no demo")
            return
        loaded = False
        # The simulated student brings the whole signal processing along; a start with the demo there does not wait
        # for it.
        if not User.objects.filter(email=settings.DEMO_EMAIL).exists():
            from apps.demo import studio as demo
            from apps.demo import week as demo_week

            with transaction.atomic():
                loaded = demo.load()
                demo_week.load(User.objects.select_related("studio").get(email=settings.DEMO_EMAIL))
        self.stdout.write("demo loaded" if loaded else "demo was there")
        note.parent.mkdir(parents=True, exist_ok=True)
        note.write_text(
            f"Demo sign-in:      {settings.DEMO_EMAIL}  with the password  {settings.DEMO_PASSWORD}\n"
            f"     as a student: {settings.DEMO_STUDENT_EMAIL}  with the same password\n"
            "The demo's people and recordings are invented.\n"
        )

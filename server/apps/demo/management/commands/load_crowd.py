"""A large invented studio, to see whether the pages stay quick."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from apps.demo.crowd import load_crowd
from apps.people.models import User


class Command(BaseCommand):
    """./run manage load_crowd teacher@place.example"""

    help = "Give a teacher many invented students and takes, for tests of speed."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("email")
        parser.add_argument("--students", type=int, default=200)
        parser.add_argument("--takes", type=int, default=20_000)

    def handle(self, *args: Any, **options: Any) -> None:
        teacher = User.objects.filter(email__iexact=options["email"], role=User.Role.TEACHER).first()
        if teacher is None:
            raise CommandError(f"There is no teacher {options['email']}.")
        load_crowd(teacher, students=options["students"], takes=options["takes"])
        self.stdout.write(f"{options['students']} students, {options['takes']} takes")

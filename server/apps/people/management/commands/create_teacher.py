"""A studio with its first teacher, from the command line."""

from __future__ import annotations

import getpass
import sys
from typing import Any

from config.problems import ServiceError
from django.core.management.base import BaseCommand, CommandError, CommandParser

from apps.people.services import create_studio


class Command(BaseCommand):
    """./run manage create_teacher"""

    help = "Create a studio with its first teacher; asks for what is not given."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--email")
        parser.add_argument("--name")
        parser.add_argument("--studio")
        parser.add_argument("--password-stdin", action="store_true", help="read the password from standard input")

    def handle(self, *args: Any, **options: Any) -> None:
        email = options["email"] or input("E-mail address: ")
        name = options["name"] or input("Name: ")
        studio = options["studio"] or input("Name of the studio: ")
        password = sys.stdin.readline().rstrip("\n") if options["password_stdin"] else getpass.getpass("Password: ")
        try:
            create_studio(name=studio, teacher_name=name, email=email, password=password)
        except ServiceError as error:
            raise CommandError(error.detail) from error
        self.stdout.write(f"{email} can sign in now.")

"""A link for a new password, for whoever runs the server."""

from __future__ import annotations

from typing import Any

from allauth.mfa.models import Authenticator
from django.core.management.base import BaseCommand, CommandError, CommandParser

from apps.people.invitations import reset_path
from apps.people.models import User


class Command(BaseCommand):
    """./run manage reset_link teacher@place.example"""

    help = "Print the path of a page where somebody sets a new password; --second-step turns their second step off too."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("email")
        parser.add_argument("--second-step", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        user = User.objects.filter(email__iexact=options["email"], is_active=True).first()
        if user is None:
            raise CommandError(f"There is no account {options['email']}.")
        if options["second_step"]:
            Authenticator.objects.filter(user=user).delete()
        self.stdout.write(f"{user.email} sets a password at this address of the server: {reset_path(user)}")

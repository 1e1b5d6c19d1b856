"""What must not be so when others can reach this server."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError

from apps.people.models import User


class Command(BaseCommand):
    """Fails with a reason where debug settings or the demo password would be open to others."""

    help = "Fail if debug settings or the demo password are in use."

    def handle(self, *args: Any, **options: Any) -> None:
        if settings.DEBUG:
            raise CommandError("debug settings are on (FORTIMETRA_DEBUG=1); unset it")
        for user in User.objects.filter(is_active=True):
            if user.check_password(settings.DEMO_PASSWORD):
                raise CommandError(
                    f"{user.email} still has the demo password; start with --empty on another --data folder, or "
                    "change it"
                )

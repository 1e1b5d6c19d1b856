"""Restoring from the command line: a studio of its own, with the archive's own leading teacher."""

from __future__ import annotations

from pathlib import Path

from django.db import transaction

from apps.archive.back import refuse, restore
from apps.people.invitations import reset_path
from apps.people.models import Studio, User


def restore_as_new(path: Path) -> tuple[User, dict[str, int], str]:
    """A new studio from an archive: its leading teacher, rows by table, and the path where a password is set."""
    with transaction.atomic():
        studio = Studio.objects.create(name="(being restored)")
        counts = restore(path, studio=studio, lead=None)
        lead = User.objects.filter(studio=studio, leads=True).first()
        if lead is None:
            raise refuse("nobody in it leads the studio.")
    return lead, counts, reset_path(lead)

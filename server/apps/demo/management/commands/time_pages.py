"""How long the server takes for each page's data, and in how many statements."""

from __future__ import annotations

import time
from statistics import median
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext

from apps.people.models import User
from apps.plans.models import Assignment
from apps.takes.models import Take

RUNS = 7


def pages(teacher: User) -> dict[str, str]:
    """Addresses of what each page shows, for the teacher's student with the most takes."""
    newest = Take.objects.filter(student__teacher=teacher).select_related("drill_version").first()
    if newest is None:
        raise CommandError("This teacher has no takes; load a crowd first.")
    student, drill = newest.student_id, newest.drill_version.drill_id
    found = {
        "who is signed in": "/me",
        "Desk": "/takes/desk?limit=100",
        "Desk, judged": "/takes/desk?show=judged&limit=100",
        "Desk, one student": f"/takes/desk?show=all&student_id={student}",
        "steps to confirm": "/plans/proposals",
        "students": "/students",
        "what students need": "/plans/needs",
        "class at a glance": "/reports/class",
        "a student's takes": f"/takes?student_id={student}&limit=100",
        "newest takes": "/takes?limit=100",
        "drills": "/drills",
        "who plays a drill": f"/reports/drill?drill_id={drill}",
        "week": f"/plans/week?student_id={student}",
        "assignments of one": f"/plans/assignments?student_id={student}",
        "logbook": f"/plans/log?student_id={student}&days=90",
        "progress, overview": f"/reports/overview?student_id={student}",
        "progress, a drill": f"/reports/progress?student_id={student}&drill_id={drill}",
        "lesson sheets": f"/reports/sheets?student_id={student}",
        "guitars": f"/guitars?student_id={student}",
        "vibrato": f"/takes/voice?student_id={student}",
        "record of who did what": "/audit",
        "colleagues": "/colleagues",
        "calendar": f"/plans/calendar/{student}",
    }
    assignment = Assignment.objects.filter(student=student).values_list("pk", flat=True).first()
    if assignment is not None:
        found["a ladder"] = f"/plans/assignments/{assignment}"
    return found


class Command(BaseCommand):
    """./run manage time_pages teacher@place.example"""

    help = "Print the server's time for each page, the median of several runs, and its statements."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("email")

    def handle(self, *args: Any, **options: Any) -> None:
        teacher = User.objects.filter(email__iexact=options["email"]).first()
        if teacher is None:
            raise CommandError(f"There is no teacher {options['email']}.")
        client = Client(SERVER_NAME="localhost")
        client.force_login(teacher, backend="allauth.account.auth_backends.AuthenticationBackend")
        self.stdout.write(f"{'page':<26}{'ms':>7}{'statements':>12}{'kB':>8}")
        for name, path in pages(teacher).items():
            times = []
            for _ in range(RUNS):
                began = time.perf_counter()
                answer = client.get(f"/api/v1{path}")
                times.append(1000.0 * (time.perf_counter() - began))
                if answer.status_code != 200:
                    raise CommandError(f"{path}: {answer.status_code} {answer.content[:200]!r}")
            with CaptureQueriesContext(connection) as seen:
                client.get(f"/api/v1{path}")
            self.stdout.write(f"{name:<26}{median(times):7.0f}{len(seen):12d}{len(answer.content) / 1000:8.0f}")

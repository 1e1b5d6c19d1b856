"""Measure takes again by today's core, beside what counts."""

from __future__ import annotations

import time
from argparse import ArgumentParser
from typing import Any

from config.problems import ServiceError
from django.core.management.base import BaseCommand, CommandError

from apps.drills.models import Drill
from apps.measuring import again
from apps.measuring.models import Remeasurement
from apps.people import selectors as people
from apps.people.models import User

LOOK_EVERY_S = 2.0
VERDICTS = {"inside": "clean", "outside": "off", "unclear": "cannot tell", None: "none"}


class Command(BaseCommand):
    """An order for one teacher's students; interrupted, it goes on, and the same command follows it again."""

    help = "Measure takes again by today's core, beside what counts until they are kept."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("teacher", help="e-mail address of the teacher whose students' takes they are")
        parser.add_argument("--student", help="only takes of the student of this name")
        parser.add_argument("--drill", help="only takes of the drill of this title")
        parser.add_argument("--all-versions", action="store_true", help="also takes that this version has measured")
        parser.add_argument("--keep", action="store_true", help="let the results count when all is measured")
        parser.add_argument("--drop", action="store_true", help="forget the order with its results")

    def handle(self, *_args: Any, **options: Any) -> None:
        teacher = User.objects.filter(email=options["teacher"], role=User.Role.TEACHER).first()
        if teacher is None:
            raise CommandError(f"No teacher has the address {options['teacher']}.")
        try:
            found = again.orders(teacher).filter(state__in=Remeasurement.OPEN).first()
            if options["drop"]:
                if found is None:
                    raise CommandError("There is no order to drop.")
                again.drop(teacher, found)
                self.stdout.write("It is being forgotten; what counts is untouched.")
                return
            if found is None:
                found = again.begin(teacher, self._wanted(teacher, options))
            self._follow(teacher, found, keep=options["keep"])
        except ServiceError as error:
            raise CommandError(error.detail) from error
        except KeyboardInterrupt:
            self.stdout.write("\nIt goes on without you; the same command shows it again.")

    def _wanted(self, teacher: User, options: dict[str, Any]) -> again.Wanted:
        student = drill = None
        if options["student"]:
            student = people.students(teacher).filter(name=options["student"]).first()
            if student is None:
                raise CommandError(f"{teacher.name} has no student of the name {options['student']}.")
        if options["drill"]:
            drill = Drill.objects.filter(studio=teacher.studio_id, title=options["drill"]).first()
            if drill is None:
                raise CommandError(f"There is no drill of the title {options['drill']}.")
        return again.Wanted(student=student, drill=drill, all_versions=options["all_versions"])

    def _follow(self, teacher: User, found: Remeasurement, *, keep: bool) -> None:
        while True:
            found.refresh_from_db()
            now = again.standing(found)
            self.stdout.write(f"{found.state}: {now.measured + now.refused + found.kept} of {found.total}", ending="\r")
            self.stdout.flush()
            if found.state == Remeasurement.State.MEASURED and keep:
                self._tell(found, now)
                again.keep(teacher, found)
            elif found.state in (Remeasurement.State.MEASURED, Remeasurement.State.KEPT, Remeasurement.State.PAUSED):
                self._tell(found, now)
                return
            time.sleep(LOOK_EVERY_S)

    def _tell(self, found: Remeasurement, now: again.Standing) -> None:
        self.stdout.write(
            f"\n{now.measured} measured, {now.refused} refused, {now.waiting} waiting, {found.kept} kept, "
            f"{found.left_alone} left alone, by {found.core_version}."
        )
        for row in found.flips:
            before, after = VERDICTS[row["before"]], VERDICTS[row["after"]]
            self.stdout.write(f"  {row['count']:6} {row['measure']}: {before} -> {after}")

"""What others may want to know of takes."""

from __future__ import annotations

import logging

from django.dispatch import Signal

from apps.takes.models import Take

log = logging.getLogger(__name__)

# Sent with student_id and drill_id after what counts in a take has changed: measured, marked, kept, deleted.
settled = Signal()


def tell_settled(take: Take) -> None:
    """Let others know that what counts in a take has changed; what they make of it cannot undo it."""
    for _receiver, answer in settled.send_robust(
        Take, student_id=take.student_id, drill_id=take.drill_version.drill_id
    ):
        if isinstance(answer, Exception):
            log.error("after take %s: %s", take.pk, answer, exc_info=answer)

"""What workers do for the sample take. Only workers import this module: it loads what makes sound."""

from __future__ import annotations

from celery import shared_task
from fortimetra import Drill as DrillContent
from fortimetra.player import Faults, NoteFault

from apps.demo import sample
from apps.demo.studio import recording
from apps.jobs import services as jobs
from apps.jobs.services import Claim
from apps.jobs.work import work
from apps.people.models import User

# The second and the last bend stop short, one target is late: something to find, and a cause.
SAMPLE_FAULTS = Faults(
    seed=7,
    notes={"bend@1": NoteFault(cents=-31.0), "bend@3": NoteFault(cents=-24.0), "target@2": NoteFault(late_ms=18.0)},
)  # fmt: skip


@shared_task(name="reports.make_sample")
def make_sample(user_id: str) -> None:
    """Have the simulated student play a teacher's sample take."""
    work(sample.PLAYING, user_id, _play_sample)


def _play_sample(mine: Claim) -> None:
    actor = User.objects.filter(pk=int(mine.subject)).first()
    if actor is not None and sample.sample_of(actor) is None:
        drill = sample.drill_of(actor)
        assert drill.current is not None
        sample.keep(actor, recording(DrillContent.model_validate(drill.current.content), SAMPLE_FAULTS))
    jobs.finish(mine)

"""What follows from a judged take: likely causes, and whose job it was to keep the strings quiet that rang."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from statistics import median

from fortimetra.coach.causes import likely_causes
from fortimetra.coach.evidence import Judged, key
from fortimetra.coach.settings import CONCLUDE
from fortimetra.model.analysis import Analysis, Cause, NoiseEvent, NoteFound
from fortimetra.model.drill import Drill
from fortimetra.model.posture import Damper
from fortimetra.model.summary import RingJob
from fortimetra.technique.damping import DampingPlan, damping_plan
from fortimetra.technique.damping_words import strings_words

Rung = tuple[NoiseEvent, NoteFound, Damper]


def concluded(analysis: Analysis, drill: Drill) -> Analysis:
    """The analysis with its causes, and with the rings counted by who should have damped them."""
    causes = likely_causes(analysis, drill)
    rung = [(e, n) for e, n, _ in Judged(analysis, drill).rings]
    if not rung:
        return analysis.model_copy(update={"causes": causes})
    plan = damping_plan(drill)
    named = _with_dampers(rung, plan)
    return analysis.model_copy(
        update={
            "causes": tuple(_named(c, named, plan) for c in causes),
            "summary": analysis.summary.model_copy(update={"rings": _jobs(named, plan)}),
        }
    )


def _with_dampers(rung: Sequence[tuple[NoiseEvent, NoteFound]], plan: DampingPlan) -> list[Rung]:
    """Each ring once, at the first note it spoils: that is where it was let ring."""
    at = {p.event: p for p in plan.postures}
    found = []
    begun: set[int] = set()
    for event, note in sorted(rung, key=lambda r: r[1].onset_s or 0.0):
        if id(event) in begun:
            continue
        begun.add(id(event))
        posture = at.get(note.id)
        damper = posture.damper(event.string) if posture is not None and event.string is not None else None
        if damper is not None:
            found.append((event, note, damper))
    return found


def _jobs(named: Sequence[Rung], plan: DampingPlan) -> tuple[RingJob, ...]:
    moves = set(plan.moves)
    rows: dict[tuple[int, str], list[Rung]] = defaultdict(list)
    for event, note, damper in named:
        rows[damper.string, damper.says].append((event, note, damper))
    jobs = [
        RingJob(
            string=string, part=row[0][2].part, says=says, count=len(row),
            level_db=round(median(e.level_db for e, _, _ in row), 1), moving=sum(n.id in moves for _, n, _ in row),
        )
        for (string, says), row in rows.items()
    ]  # fmt: skip
    return tuple(sorted(jobs, key=lambda j: (-j.count, j.string)))


def _named(cause: Cause, named: Sequence[Rung], plan: DampingPlan) -> Cause:
    """A cause about strings that ring, with whose job they are and both hands where most of them began."""
    if cause.measure != "noise":
        return cause
    places = {(p.id, p.repeat, p.string) for p in cause.places}
    own = [r for r in named if key(r[1]) in places]
    jobs = _jobs(own, plan)
    if not jobs:
        return cause
    strings: dict[str, list[int]] = defaultdict(list)
    for job in jobs:
        strings[job.says].append(job.string)
    words = [
        f"{strings_words(of)} {'is' if len(of) == 1 else 'are'} the job of {says}"
        for says, of in list(strings.items())[: CONCLUDE.most_named]
    ]
    text = f"Here {' and '.join(words)}."
    first = jobs[0]
    if first.moving >= 2 and first.moving >= CONCLUDE.moving_share * first.count:
        text += " It rings where that part has to move: it comes late."
    events = [n.id for _, n, d in own if (d.string, d.says) == (first.string, first.says)]
    return cause.model_copy(update={"damper": text, "posture": plan.at(max(events, key=events.count))})

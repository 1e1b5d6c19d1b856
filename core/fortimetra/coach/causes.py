"""Which of the rules hold for a take: how many notes each explains, and what is left once a stronger one has spoken."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from fortimetra.coach.evidence import Judged, ShownBy, key, least_share, outside, place
from fortimetra.coach.rules import HAND, OUTER, PLACE, Rule
from fortimetra.coach.settings import CAUSES
from fortimetra.model.analysis import Analysis, Cause, NoteFound
from fortimetra.model.drill import Drill, School


def likely_causes(analysis: Analysis, drill: Drill) -> tuple[Cause, ...]:
    """At most three, the guitar's and the rig's first, then the likeliest, then where and when it fails; none where the
    evidence is thin.
    """
    seen = Judged(analysis, drill)
    chosen: list[tuple[Rule, ShownBy]] = []
    for rules in (OUTER, HAND, PLACE):
        found = [(rule, shown) for rule in rules if (shown := _shown(rule, seen)) is not None]
        # Rules for one family stand before general ones and win against them at the same weight.
        for rule, shown in sorted(found, key=lambda f: -f[1].weight):
            again = _unexplained(rule, shown, chosen)
            if again is not None and _enough(rule, again, seen):
                chosen.append((rule, again))
    return tuple(_cause(rule, shown, drill.school) for rule, shown in chosen[: CAUSES.most_causes])


def _shown(rule: Rule, seen: Judged) -> ShownBy | None:
    if rule.families and seen.drill.family not in rule.families:
        return None
    shown = rule.seen(seen)
    return shown if shown is not None and _enough(rule, shown, seen) else None


def _enough(rule: Rule, shown: ShownBy, seen: Judged) -> bool:
    k = len(shown.notes)
    if shown.weight < (CAUSES.frequent_share if rule.outer else CAUSES.least_weight):
        return False
    least = rule.least if shown.weight >= CAUSES.frequent_share else rule.least + 1
    off = k if rule.outer else len(outside(seen.notes, rule.measure))
    return k >= least and least_share(k, off) >= CAUSES.least_explained_share


def _unexplained(rule: Rule, shown: ShownBy, chosen: Sequence[tuple[Rule, ShownBy]]) -> ShownBy | None:
    """What is left where a stronger or an outer cause explains notes of the same measure; None where it is nearly
    nothing.
    """
    if rule.besides:
        return shown
    explained = {key(n) for other, said in chosen if other.measure == rule.measure for n in said.notes}
    left = tuple(n for n in shown.notes if key(n) not in explained)
    if len(left) <= (1.0 - CAUSES.covered_share) * len(shown.notes):
        return None
    by_outer = {key(n) for other, said in chosen if other.outer and other.measure == rule.measure for n in said.notes}
    rest = tuple(n for n in shown.notes if key(n) not in by_outer)
    return shown if len(rest) == len(shown.notes) else replace(shown, notes=rest)


def _cause(rule: Rule, shown: ShownBy, school: School) -> Cause:
    notes = sorted(shown.notes, key=_order)
    return Cause(
        code=rule.code,
        measure=rule.measure,
        notes=tuple(dict.fromkeys(n.id for n in notes)),
        weight=round(shown.weight, 2),
        says=rule.says,
        evidence=shown.text,
        because=rule.because,
        tries=tuple(t.text for t in rule.tries if t.force in (None, school.slur_force)),
        places=tuple(place(n) for n in notes),
    )


def _order(note: NoteFound) -> tuple[float, int]:
    return note.onset_s if note.onset_s is not None else float("inf"), note.repeat

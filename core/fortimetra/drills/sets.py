"""Sets: a row of drills from one form, with one field or two going through their values, as one drill with members."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import product

from fortimetra.drills.generator import Generator, generate
from fortimetra.errors import DrillError
from fortimetra.model.drill import MAX_EVENTS, MAX_MEMBERS, Drill, Event, Member
from fortimetra.model.form import Input

# A field that goes through values, and the values as they are typed.
Varied = tuple[str, Sequence[str]]


def values_of(text: str) -> list[str]:
    """What a field goes through: words with commas between them, or whole numbers as 5-12.

    >>> values_of("5-8"), values_of("A, C, D"), values_of("12-9")
    (['5', '6', '7', '8'], ['A', 'C', 'D'], ['12', '11', '10', '9'])
    """
    parts = [p.strip() for p in text.replace(";", ",").split(",") if p.strip()]
    found: list[str] = []
    for part in parts:
        first, sign, last = part.partition("-")
        if sign and first.strip().isdigit() and last.strip().isdigit() and len(first) < 4 and len(last) < 4:
            low, high = int(first), int(last)
            step = 1 if high >= low else -1
            found += [str(n) for n in range(low, high + step, step)]
        else:
            found.append(part)
    return found


def make_set(generator: Generator, given: Mapping[str, str], varied: Sequence[Varied], *, title: str = "") -> Drill:
    """One drill of all combinations, the last field going through its values first; each member with its repeats.

    Raises DrillError(code="drill_invalid") naming the field, or the member that cannot be played.
    """
    inputs = {i.name: i for i in generator.inputs}
    for name, values in varied:
        if name not in inputs:
            raise _wrong(f"{name}: {generator.title} has no such field.")
        if not values:
            raise _wrong(f"{inputs[name].label} goes through: write at least two values, as 5-12 or A, C, D.")
    rows = list(product(*(values for _, values in varied)))
    if not varied or len(rows) < 2:
        raise _wrong("A set has at least two drills; let a field go through several values.")
    if len(rows) > MAX_MEMBERS:
        raise _wrong(f"A set has at most {MAX_MEMBERS} drills; these values make {len(rows)}. Take fewer.")
    members = []
    for row in rows:
        changed = dict(zip((name for name, _ in varied), row, strict=True))
        named = ", ".join(_named(inputs[name], value) for name, value in changed.items())
        try:
            members.append((named, generate(generator, {**given, **changed})))
        except DrillError as error:
            raise DrillError(error.code, f"{named}: {error.detail}") from error
    return joined(members, title=title or f"Set: {generator.title}, {_ways(inputs, varied)}")


def joined(members: Sequence[tuple[str, Drill]], *, title: str) -> Drill:
    """Drills one after the other as one; each played as often as it says. Its head is that of the first.

    Raises DrillError(code="drill_invalid") where they do not fit together.
    """
    first = members[0][1]
    events: list[Event] = []
    rows: list[Member] = []
    beat = 0.0
    for name, drill in members:
        if (drill.tuning, drill.tempo is None) != (first.tuning, first.tempo is None):
            raise _wrong(f"{name}: the drills of a set share their tuning, and all have a click or none.")
        begins = beat
        for repeat in range(drill.repeats):
            ids = {e.id: f"m{len(rows) + 1}r{repeat + 1}{e.id}" for e in drill.events}
            if len(events) + len(drill.events) > MAX_EVENTS:
                raise _wrong(
                    f"{name}: with it the set has more than {MAX_EVENTS} notes and rests; take fewer drills or repeats."
                )
            for event in drill.events:
                bend = event.bend
                if bend is not None and bend.reference is not None:
                    bend = bend.model_copy(update={"reference": ids[bend.reference]})
                events.append(
                    event.model_copy(update={"id": ids[event.id], "beat": round(beat + event.beat, 6), "bend": bend})
                )
            beat = round(beat + drill.length_beats, 6)
        rows.append(Member(title=name[:200], from_beat=begins, to_beat=beat))
    measures = tuple(dict.fromkeys(m for _, drill in members for m in drill.measures))
    head = first.model_dump(exclude={"events", "members", "repeats", "title", "measures"}, by_alias=True)
    return Drill.model_validate(
        {**head, "title": title[:200], "repeats": 1, "measures": measures, "members": rows, "events": events}
    )


def _named(field: Input, value: str) -> str:
    return f"{field.label.lower()} {value}"


def _ways(inputs: Mapping[str, Input], varied: Sequence[Varied]) -> str:
    return ", ".join(f"{inputs[name].label.lower()} {values[0]} to {values[-1]}" for name, values in varied)


def _wrong(text: str) -> DrillError:
    return DrillError("drill_invalid", text)

"""The page of the library: every drill a studio begins with, with its first bars as tab. Written by `./run schema`."""

from __future__ import annotations

from fortimetra.coach.courses import COURSES
from fortimetra.drills.library import GENERATORS, BuiltIn, library
from fortimetra.drills.licks import BY_NAME
from fortimetra.formats.text_tab import text_tab
from fortimetra.model.drill import Drill

SHOWN_BARS = 2
LEVELS = ("", "first steps", "moving on", "advanced")


def library_page() -> str:
    """The whole page in Markdown."""
    lines = [
        "# The drills a studio begins with",
        "",
        f"{len(library())} drills of {len(GENERATORS)} figures, written by `./run schema`. Every figure "
        "is a form under Drills, "
        "Make a drill; what stands here are its examples, the first two bars of each. Signs of the "
        "tab: 7h9 hammer-on, 9p7 "
        "pull-off, t12 tap, 5/7 and 7\\5 slides, 5s7 struck at 5 and slid to 7, 7b9 bent to what fret "
        "9 sounds, 7pb9r bent before it "
        "is struck and let down, (7) struck again, 7~ vibrato, x muted; over it > accents, d and u "
        "strokes (' goes on in the same "
        "sweep), m a palm on the strings; under it the fingers.",
        "",
    ]
    by_form: dict[str, list[BuiltIn]] = {}
    for built_in in library():
        by_form.setdefault(built_in.form, []).append(built_in)
    groups: dict[str, list[str]] = {}
    for name, generator in GENERATORS.items():
        groups.setdefault(generator.tags[0], []).append(name)
    for group, names in groups.items():
        lines += [f"## {group.capitalize()}", ""]
        for name in names:
            generator = GENERATORS[name]
            lines += [f"### {generator.title}", "", generator.asks, ""]
            for built_in in by_form.get(name, ()):
                lines += _entry(built_in)
    lines += ["## Courses", ""]
    for course in COURSES:
        lines += [
            f"### {course.title}",
            "",
            f"{course.about} Done: {course.done}",
            "",
            "| drill | weeks | minutes | days |",
            "|---|---|---|---|",
        ]
        lines += [f"| {p.title} | {p.first_week} to {p.last_week} | {p.minutes:g} | {p.days} |" for p in course.parts]
        lines.append("")
    return "\n".join(lines).rstrip() + "\n"


def _entry(built_in: BuiltIn) -> list[str]:
    drill = built_in.drill
    lick = BY_NAME.get(built_in.values.get("lick", ""))
    about = f"{LEVELS[built_in.level]}; judged for {', '.join(drill.measures)}"
    if lick is not None:
        about = f"lick level {lick.level} of 5; {lick.uses[0]} and {lick.uses[1]}. {lick.idea}"
    return [f"**{drill.title}** ({about})", "", "```", *text_tab(_first_bars(drill)).splitlines()[1:], "```", ""]


def _first_bars(drill: Drill) -> Drill:
    """The same drill, cut off after two bars."""
    bars = SHOWN_BARS * (drill.tempo.beats_per_bar if drill.tempo else 4)
    events = tuple(e for e in drill.events if e.beat < bars)
    kept = {e.id for e in events}
    events = tuple(
        e.model_copy(update={"bend": e.bend.model_copy(update={"reference": None})})
        if e.bend is not None and e.bend.reference not in {None, *kept}
        else e
        for e in events
    )
    return drill.model_copy(update={"events": events})

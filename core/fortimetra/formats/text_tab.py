"""Drills as text tab, one repeat: a line a string, the highest on top, a bar line where a bar ends.

Conventions: 7h9 hammer-on, 9p7 pull-off, t12 tap, 5/7 slide up and 7\\5 down, 7b9 bent to what fret 9 sounds, 7pb9 bent
before it is struck, 7r let down, (7) struck again, 7~ vibrato, x muted, 5s7 struck at 5 and slid to 7; over the strings
> an accent, d and u strokes down and up (' goes on in the same sweep), m a palm on the strings; under them the fingers.
"""

from __future__ import annotations

from itertools import zip_longest

from fortimetra.model.drill import Bend, Drill, DrillNote, Event
from fortimetra.model.guitar import pitch_midi
from fortimetra.units import midi_to_name

MOST_COLUMNS = 76
SLURS = {"hammer", "pull", "slide"}
BEFORE = {"hammer": "h", "pull": "p", "tap": "t"}
STROKES = {"down": "d", "up": "u", "sweep_down": "'", "sweep_up": "'"}
FINGERS = {"1": "1", "2": "2", "3": "3", "4": "4", "thumb": "T", "tap": "t", "slide": "s"}


def text_tab(drill: Drill) -> str:
    """A drill as text that any fixed-width type shows."""
    bar = drill.tempo.beats_per_bar if drill.tempo else 4
    names = [str(p) if isinstance(p, str) else midi_to_name(pitch_midi(p)) for p in drill.tuning]
    width = max(len(n) for n in names)
    heads = [" " * (width + 1)] * 2 + [f"{name:<{width}}|" for name in names] + [" " * (width + 1)]
    lines = [drill.title, _head(drill), ""]
    for row in _rows(_bars(drill, bar), MOST_COLUMNS - width):
        written = [head + "".join(b[i] for b in row) for i, head in enumerate(heads)]
        # Over and under the strings only where something stands there.
        lines += [w for i, w in enumerate(written) if 2 <= i < len(written) - 1 or w.strip()]
        lines.append("")
    return "\n".join(line.rstrip() for line in lines).rstrip() + "\n"


def _rows(bars: list[list[str]], columns: int) -> list[list[list[str]]]:
    """The bars in rows of so many columns at most; a bar that is wider has a row of its own."""
    rows: list[list[list[str]]] = []
    left = 0
    for bar in bars:
        if not rows or len(bar[0]) > left:
            rows.append([])
            left = columns
        rows[-1].append(bar)
        left -= len(bar[0])
    return rows


def _head(drill: Drill) -> str:
    tempo = f"{drill.tempo.bpm:g} bpm" if drill.tempo else "free time"
    capo = f", capo at fret {drill.capo}" if drill.capo else ""
    return f"{tempo}, {drill.repeats} times{capo}, A4 = {drill.a4_hz:g} Hz"


def _bars(drill: Drill, bar: int) -> list[list[str]]:
    """For each bar its strokes, its accents, its strings' lines and its fingers, of one width; the strings end in the
    bar line.
    """
    strings = len(drill.tuning)
    before: dict[int, int] = {}
    bars: list[list[str]] = []
    for number in range(max(1, round(drill.length_beats / bar))):
        events = [e for e in drill.events if number * bar - 1e-6 <= e.beat < (number + 1) * bar - 1e-6]
        lines = ["-"] * strings
        strokes = accents = fingers = " "
        for event, after in zip_longest(events, events[1:]):
            signs = {n.string: _sign(event, n, before.get(n.string), index) for index, n in enumerate(event.notes)}
            before |= {n.string: n.fret for n in event.notes if n.fret is not None}
            gap = 0 if _slurs_on(event, after) else max(1, round(2 * event.length))
            hand = "".join(FINGERS.get(n.finger or "", "") for n in event.notes)
            width = max(map(len, [*signs.values(), hand, " "])) + gap
            lines = [line + signs.get(i + 1, "").ljust(width, "-") for i, line in enumerate(lines)]
            strokes += _over(event).ljust(width)
            accents += (">" if event.accent else "").ljust(width)
            fingers += hand.ljust(width)
        bars.append([strokes + " ", accents + " ", *(line + "|" for line in lines), fingers + " "])
    return bars


def _over(event: Event) -> str:
    return "m" if event.articulation == "palm_mute" else STROKES.get(event.stroke or "", "")


def _slurs_on(event: Event, after: Event | None) -> bool:
    """Whether a note of an event is slurred into the next one."""
    if after is None or after.articulation not in SLURS:
        return False
    return bool({n.string for n in event.notes} & {n.string for n in after.notes})


def _sign(event: Event, note: DrillNote, before: int | None, index: int) -> str:
    if note.muted or note.fret is None:
        return "x"
    text = str(note.fret)
    if event.slide is not None and event.slide.from_fret is not None:
        text = f"{event.slide.from_fret + note.fret - (event.notes[0].fret or 0)}s{text}"
    if event.articulation in BEFORE:
        text = BEFORE[event.articulation] + text
    elif event.articulation == "slide":
        text = ("/" if before is None or note.fret > before else "\\") + text
    elif event.articulation == "repluck":
        text = f"({text})"
    if event.bend is not None and index == 0 and event.articulation != "repluck":
        text += _bent(event.bend, note.fret)
    return text + ("~" if event.vibrato is not None else "")


def _bent(bend: Bend, fret: int) -> str:
    to = f"{fret + bend.middle_cents / 100.0:g}"
    return {"prebend": f"pb{to}r", "release": "r"}.get(bend.kind, f"b{to}")

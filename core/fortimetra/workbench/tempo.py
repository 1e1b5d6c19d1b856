"""Tempo calculator: clicks, subdivisions, notes per second, and which tempo equals which."""

from __future__ import annotations

from fortimetra.workbench.calculator import Answer, Calculator, Input, Output, Table, Values, number

PER_CLICK = (1, 2, 3, 4, 5, 6, 8)


def note_ms(bpm: float, per_click: float) -> float:
    """Time from note to note.

    >>> note_ms(60.0, 4)
    250.0
    """
    return 60_000.0 / (bpm * per_click)


def _tempo(values: Values) -> Answer:
    bpm, per_click = number(values, "bpm"), number(values, "per_click")
    speed = bpm * per_click / 60.0
    swing = number(values, "swing")
    return Answer(
        {
            "note_ms": note_ms(bpm, per_click),
            "notes_per_s": speed,
            "click_ms": 60_000.0 / bpm,
            "first_ms": 60_000.0 / bpm * swing,
            "second_ms": 60_000.0 / bpm * (1.0 - swing),
        },
        (
            Table(
                "The same speed",
                ("notes per click", "bpm"),
                tuple((n, 60.0 * speed / n) for n in PER_CLICK if 20.0 <= 60.0 * speed / n <= 400.0),
            ),
            Table(
                "This click",
                ("notes per click", "ms per note", "notes/s"),
                tuple((n, note_ms(bpm, n), bpm * n / 60.0) for n in PER_CLICK),
            ),
        ),
    )


TEMPO = Calculator(
    id="tempo",
    title="Tempo",
    purpose="How fast the notes come at a click, and which other click gives the same speed.",
    formula="t = 60 000 / (bpm · n) ms,   bpm′ = bpm · n / n′",
    source="Arithmetic. At 60 with four notes per click a note comes every 250 ms (common practice, no source).",
    limits="20 to 400 bpm.",
    inputs=(
        Input("bpm", "Click", 60.0, "bpm", 20.0, 400.0),
        Input("per_click", "Notes per click", 4.0, "", 1.0, 16.0),
        Input("swing", "Swing", 0.667, "of the beat", 0.5, 0.75),
    ),
    outputs=(
        Output("note_ms", "Note to note", "ms", 1),
        Output("notes_per_s", "Speed", "notes/s", 2),
        Output("click_ms", "Click to click", "ms", 1),
        Output("first_ms", "Swung eighths: first", "ms", 0),
        Output("second_ms", "second", "ms", 0),
    ),
    compute=_tempo,
)

"""The page of settings: every threshold and window of the measuring, with its meaning and source. Written by `./run
schema`.
"""

from __future__ import annotations

from itertools import groupby

from fortimetra.pipeline.versions import SETTINGS_DIGEST, __version__, settings
from fortimetra.settings import ENVIRONMENT

STAGES = {
    "sound": "The recording itself",
    "hear": "Hearing: onsets, pitch contour, notes",
    "align": "Alignment: which heard note is which asked one, the click and the grid",
    "measure": "Measuring: values with their uncertainty",
    "judge": "Judging, beside the drill's tolerances",
    "coach": "Causes, ladders, plans and advice",
}


def settings_page() -> str:
    """The whole page in Markdown."""
    lines = [
        "# Settings",
        "",
        f"Of version {__version__}, digest `{SETTINGS_DIGEST}`; written by `./run schema`. The digest "
        "stands in every analysis. "
        "A unit ends the name: `_s` seconds, `_ms` milliseconds, `_db` decibels, `_dbfs` decibels "
        "of full scale, `_hz`, "
        "`_cents`, `_share` a share from 0 to 1; costs are in semitones. Where no published source "
        "stands, a value was set "
        "by hand and is held by the benchmark or the tests named beside it. Tolerances are not here: "
        "a drill carries its own "
        "(`core/fortimetra/model/tolerance.py`).",
        "",
        f'To try another value without changing the code: `{ENVIRONMENT}=\'{{"hear.onsets.rise_db": '
        "2.5}}' ./run bench time`. "
        "`./run bench sensitivity` moves each by a quarter and says what notices.",
        "",
    ]
    for stage, rows in groupby(settings(), key=lambda row: row.name.split(".")[0]):
        lines += [f"## {STAGES[stage]}", "", "| setting | value | meaning | source |", "|---|---|---|---|"]
        lines += [f"| `{r.name}` | {_value(r.value)} | {r.meaning} | {r.source} |" for r in rows]
        lines.append("")
    return "\n".join(lines)


def _value(value: object) -> str:
    return ", ".join(_value(v) for v in value) if isinstance(value, tuple) else f"{value:g}"

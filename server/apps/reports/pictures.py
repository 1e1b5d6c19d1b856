"""Small pictures for paper, as SVG: one mark a note against its tolerance. Ink only; what hangs is under, what stands
is over.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from html import escape

from fortimetra.model import Analysis, NoteFound

WIDTH, HEIGHT, PAD = 300.0, 64.0, 4.0
# Deviations are drawn to this many tolerances.
MOST_LIMITS = 3.0
LIMIT_OF = {
    "pitch": "plain_pitch_cents",
    "bend": "bend_error_cents",
    "vibrato": "vibrato_return_cents",
    "level": "level_db",
}
UNIT = {
    "pitch": "cents",
    "bend": "cents",
    "vibrato": "cents",
    "timing": "ms",
    "level": "dB",
    "length": "%",
    "noise": "dB",
}


def deviation_of(note: NoteFound, measure: str, limits: Mapping[str, float]) -> tuple[float, str] | None:
    """A note's deviation in a measure and its verdict; None where it has none. Of a string that rings: above the
    tolerance.
    """
    part = getattr(note, measure, None)
    if part is None or part.verdict is None:
        return None
    value: float | None
    if measure in ("bend", "pitch"):
        value = part.error_cents
    elif measure == "vibrato":
        value = part.return_error_cents
    elif measure == "timing":
        value = part.error_ms
    elif measure == "level":
        value = part.deviation_db
    elif measure == "length":
        value = None if part.length_ratio is None else 100.0 * (part.length_ratio - 1.0)
    elif measure == "noise" and part.worst_ring_db is not None and "ring_db" in limits:
        value = part.worst_ring_db - limits["ring_db"]
    else:
        value = None
    return None if value is None else (value, part.verdict)


def marks_of(analysis: Analysis, measure: str, limits: dict[str, float]) -> dict[str, object] | None:
    """What a picture of a measure needs, to be kept with a sheet; None where fewer than two notes have a number."""
    found = [(n, d) for n in analysis.notes if (d := deviation_of(n, measure, limits)) is not None]
    if len(found) < 2:
        return None
    limit = limits.get(LIMIT_OF.get(measure, ""))
    if limit is None and measure == "timing":
        each = [n.timing.limit_ms for n, _ in found if n.timing is not None and n.timing.limit_ms is not None]
        limit = min(each, default=None)
    return {
        "measure": measure,
        "unit": UNIT[measure],
        "limit": limit,
        "marks": [[round(value, 2), verdict] for _note, (value, verdict) in found[:120]],
    }


def svg_of(picture: dict[str, object]) -> str:
    """The picture itself."""
    marks: Sequence[Sequence[object]] = picture["marks"]  # type: ignore[assignment]
    values = [float(m[0]) for m in marks]  # type: ignore[arg-type]
    given = picture.get("limit")
    limit = float(given) if given else max(1e-9, max(abs(v) for v in values)) / 2.0  # type: ignore[arg-type]
    most = MOST_LIMITS * limit
    middle, half = HEIGHT / 2.0, HEIGHT / 2.0 - PAD
    step = (WIDTH - 2 * PAD) / len(values)
    wide = min(9.0, 0.6 * step)
    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH:g} {HEIGHT:g}" role="img" '
        f'aria-label="{escape(_words(values, str(picture["unit"])))}">'
    ]
    if given:
        band = half * limit / most
        out.append(f'<rect x="0" y="{middle - band:.1f}" width="{WIDTH:g}" height="{2 * band:.1f}" fill="#e6e2da"/>')
    out.append(f'<line x1="0" x2="{WIDTH:g}" y1="{middle:g}" y2="{middle:g}" stroke="#000" stroke-width="0.6"/>')
    for i, (value, mark) in enumerate(zip(values, marks, strict=True)):
        size = max(0.8, half * min(abs(value), most) / most)
        x = PAD + step * (i + 0.5) - wide / 2.0
        y = middle - size if value > 0 else middle
        fill = {"outside": "#000", "inside": "#8a8172"}.get(str(mark[1]), "none")
        stroke = ' stroke="#000" stroke-width="0.5" stroke-dasharray="1.5 1.5"' if fill == "none" else ""
        out.append(f'<rect x="{x:.1f}" y="{y:.1f}" width="{wide:.1f}" height="{size:.1f}" fill="{fill}"{stroke}/>')
    out.append("</svg>")
    return "".join(out)


def _words(values: Sequence[float], unit: str) -> str:
    return f"{len(values)} notes, from {min(values):.0f} to {max(values):.0f} {unit}"

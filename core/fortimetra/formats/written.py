"""How lengths are written in notation: note types, dots and tuplets."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

TYPES: dict[str, Fraction] = {
    "breve": Fraction(8), "whole": Fraction(4), "half": Fraction(2), "quarter": Fraction(1), "eighth": Fraction(1, 2),
    "16th": Fraction(1, 4), "32nd": Fraction(1, 8), "64th": Fraction(1, 16), "128th": Fraction(1, 32),
    "256th": Fraction(1, 64),
}  # fmt: skip
MOST_DOTS = 2
# Actual notes in the time of normal ones, by the odd factor of the length's denominator.
TUPLETS: dict[int, tuple[int, int]] = {3: (3, 2), 5: (5, 4), 7: (7, 4), 9: (9, 8)}
FINEST = 960


def exact(beats: float) -> Fraction:
    """A beat or length as the fraction it was rounded from.

    >>> exact(0.333333), exact(2.5)
    (Fraction(1, 3), Fraction(5, 2))
    """
    return Fraction(beats).limit_denominator(FINEST)


@dataclass(frozen=True)
class Written:
    """One note as written. length: quarter-note beats. kind: its type, or None where notation has none."""

    length: Fraction
    kind: str | None
    dots: int = 0
    tuplet: tuple[int, int] | None = None


def written(length: Fraction) -> list[Written]:
    """A length as one note, or as several to be tied.

    >>> [(str(w.length), w.kind, w.dots, w.tuplet) for w in written(Fraction(5, 2))]
    [('2', 'half', 0, None), ('1/2', 'eighth', 0, None)]
    >>> [(str(w.length), w.kind, w.dots, w.tuplet) for w in written(Fraction(1, 3))]
    [('1/3', 'eighth', 0, (3, 2))]
    """
    odd = length.denominator
    while odd % 2 == 0:
        odd //= 2
    if odd != 1 and odd not in TUPLETS:
        return [Written(length, None)]
    tuplet = TUPLETS.get(odd)
    scale = Fraction(tuplet[0], tuplet[1]) if tuplet else Fraction(1)
    parts: list[Written] = []
    left = length * scale
    while left > 0:
        found = next(((k, d, v) for k, d, v in _VALUES if v <= left), None)
        if found is None:
            parts.append(Written(left / scale, None))
            break
        kind, dots, value = found
        # A dotted start is taken only where it is the whole: a half and an eighth read better than a double-dotted
        # half.
        if dots and value != left:
            kind, dots, value = next((k, d, v) for k, d, v in _VALUES if v <= left and d == 0)
        parts.append(Written(value / scale, kind, dots, tuplet))
        left -= value
    return parts


_VALUES: list[tuple[str, int, Fraction]] = sorted(
    (
        (kind, dots, value * (2 - Fraction(1, 2**dots)))
        for kind, value in TYPES.items()
        for dots in range(MOST_DOTS + 1)
        if value * (2 - Fraction(1, 2**dots)) <= 8
    ),
    key=lambda v: (-v[2], v[1]),
)

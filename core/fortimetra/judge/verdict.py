"""Inside, outside, or cannot tell."""

from __future__ import annotations

from collections.abc import Iterable

from fortimetra.model.verdict import Verdict


def verdict(value: float | None, u: float | None, tolerance: float) -> Verdict:
    """Verdict of a deviation against a symmetric tolerance: unclear where the tolerance lies within the uncertainty.

    >>> verdict(-11.6, 1.4, 12.0), verdict(-9.0, 1.4, 12.0), verdict(15.0, 1.4, 12.0)
    ('unclear', 'inside', 'outside')
    """
    if value is None or u is None:
        return "unclear"
    if abs(value) + u <= tolerance:
        return "inside"
    if abs(value) - u > tolerance:
        return "outside"
    return "unclear"


def corridor_verdict(value: float | None, u: float | None, low: float, high: float) -> Verdict:
    """Verdict of a value that may lie anywhere from low to high.

    >>> corridor_verdict(50.0, 2.0, 40.0, 70.0), corridor_verdict(41.0, 2.0, 40.0, 70.0)
    ('inside', 'unclear')
    """
    if value is None or u is None:
        return "unclear"
    least, most = value - u, value + u
    if low <= least and most <= high:
        return "inside"
    return "outside" if most < low or least > high else "unclear"


def at_least_verdict(value: float, u: float, least: float) -> Verdict:
    """Verdict of a value that has to reach a limit.

    >>> at_least_verdict(4.0, 0.5, 3.0), at_least_verdict(1.0, 0.5, 3.0), at_least_verdict(3.2, 0.5, 3.0)
    ('inside', 'outside', 'unclear')
    """
    if value - u >= least:
        return "inside"
    return "outside" if value + u < least else "unclear"


def together(verdicts: Iterable[Verdict]) -> Verdict:
    """One verdict of several: outside if any is, else unclear if any is; of none: inside."""
    found = set(verdicts)
    for which in ("outside", "unclear"):
        if which in found:
            return which
    return "inside"

"""Results on fixed takes change only with the version of the core: trends and comparisons rest on it.

The takes are played by other makers' sounds (FluidSynth, recorded guitar notes), clean, with mistakes, and as
students send them.
"""

import math

import pytest
from fortimetra import __version__

from benchmarks._fixed import kept, read
from tests.kept import value

VERSION, TAKES = kept()
CHANGED = (
    "results changed: raise the version in core/fortimetra/version.py, say in CHANGELOG.md what changed, and run "
    "./run python -m benchmarks._fixed"
)


def same(was, now, where: str = "") -> list[str]:
    """Where two results differ by more than another processor's rounding."""
    if isinstance(was, dict) and isinstance(now, dict):
        keys = sorted({*was, *now})
        return [d for k in keys for d in same(was.get(k), now.get(k), f"{where} {k}")]
    if isinstance(was, list) and isinstance(now, list) and len(was) == len(now):
        return [d for i, (a, b) in enumerate(zip(was, now, strict=True)) for d in same(a, b, f"{where} {i}")]
    if isinstance(was, float | int) and isinstance(now, float | int):
        near = math.isclose(was, now, rel_tol=2e-3, abs_tol=0.02)
        return [] if near else [f"{where}: {was} → {now}"]
    return [] if was == now else [f"{where}: {was} → {now}"]


def test_the_kept_results_are_of_this_version():
    assert __version__ == VERSION, CHANGED


@pytest.mark.parametrize(("fixed", "was"), TAKES, ids=[fixed.name for fixed, _ in TAKES])
def test_results_change_only_with_the_version(fixed, was):
    now = value("fixed", (fixed.drill, fixed.player, fixed.chain, fixed.guitar), lambda: read(fixed))
    assert not same(was["sound"], now["sound"]), "the takes themselves changed, not the measuring"
    differ = same(was["result"], now["result"])
    assert not differ, CHANGED + ": " + "; ".join(differ[:6])


def test_a_change_of_results_is_noticed():
    _, was = TAKES[0]
    now = {**was["result"], "causes": ["another"]}
    assert same(was["result"], now)

"""Figures of the accuracy report, as SVG: the same numbers make the same file."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path

import matplotlib

matplotlib.use("Agg")
import matplotlib.pyplot as plt
import numpy as np
from numpy.typing import NDArray
from scipy import stats

Values = NDArray[np.float64]
COLOURS = {"straight": "#1b6f8a", "amp": "#b5541c", "phone": "#5a6b2d"}
NAMES = {"straight": "interface", "amp": "amplifier", "phone": "phone"}
POINTS = 160


def save(figure: plt.Figure, path: Path) -> None:
    """Without a date, with stable ids."""
    matplotlib.rcParams["svg.hashsalt"] = "fortimetra"
    figure.tight_layout()
    figure.savefig(path, format="svg", metadata={"Date": None, "Creator": None})
    plt.close(figure)


def _thinned(values: Values) -> tuple[Values, Values]:
    """A cumulative curve by at most POINTS points."""
    found = np.sort(np.abs(values))
    share = np.arange(1, len(found) + 1) / len(found)
    keep = np.unique(np.linspace(0, len(found) - 1, POINTS).astype(int))
    return found[keep], share[keep]


def errors(rows: Mapping[str, Mapping[str, Values]], path: Path, *, unit: str) -> None:
    """Share of values within an error; rows: by reader, then by chain."""
    figure, axis = plt.subplots(figsize=(6.4, 3.4))
    for reader, by_chain in rows.items():
        for chain, values in by_chain.items():
            x, y = _thinned(values)
            own = reader == "fortimetra"
            axis.plot(
                np.maximum(x, 1e-3), 100.0 * y, color=COLOURS[chain], linewidth=2.0 if own else 0.8,
                linestyle="-" if own else {"praat": "--", "yin": ":", "aubio": "-.", "swift-f0": (0, (1, 3))}[reader],
                label=f"{reader}, {NAMES[chain]}",
            )  # fmt: skip
    axis.set_xscale("log")
    axis.set_xlabel(f"error, {unit}")
    axis.set_ylabel("values within it, %")
    axis.grid(visible=True, linewidth=0.3)
    axis.legend(fontsize=6, ncols=2)
    save(figure, path)


def calibration(by_quantity: Mapping[str, Mapping[str, tuple[Values, Values]]], path: Path) -> None:
    """Share of errors within k times the stated uncertainty against what a normal one would have."""
    names = list(by_quantity)
    figure, axes = plt.subplots(2, 3, figsize=(9.0, 5.4), squeeze=False)
    k = np.linspace(0.1, 2.0, 39)
    expected = 100.0 * (2.0 * stats.norm.cdf(1.96 * k) - 1.0)
    for axis, name in zip(axes.ravel(), names, strict=False):
        axis.plot(expected, expected, color="#888888", linewidth=0.8)
        for chain, (error, u) in by_quantity[name].items():
            held = [100.0 * float(np.mean(np.abs(error) <= f * u)) for f in k]
            axis.plot(expected, held, color=COLOURS[chain], label=NAMES[chain])
        axis.axvline(95.0, color="#888888", linewidth=0.5)
        axis.set_title(name, fontsize=9)
        axis.set_xlim(0, 100)
        axis.set_ylim(0, 101)
        axis.set_xlabel("should hold, %", fontsize=8)
        axis.set_ylabel("holds, %", fontsize=8)
    for axis in axes.ravel()[len(names) :]:
        axis.axis("off")
    axes[0, 0].legend(fontsize=7)
    save(figure, path)


def detection(levels_db: Sequence[float], found: Mapping[str, Sequence[float]], path: Path) -> None:
    """Share of ringing strings that are found, by level and chain."""
    figure, axis = plt.subplots(figsize=(6.4, 3.2))
    for chain, shares in found.items():
        axis.plot(levels_db, [100.0 * s for s in shares], marker="o", color=COLOURS[chain], label=NAMES[chain])
    axis.set_xlabel("level of the ringing string against the notes, dB")
    axis.set_ylabel("found, %")
    axis.set_ylim(0, 101)
    axis.grid(visible=True, linewidth=0.3)
    axis.legend(fontsize=8)
    save(figure, path)


def table(values: Values, rows: Sequence[str], columns: Sequence[str], path: Path, *, title: str, most: float) -> None:
    """Shares in per cent as a shaded table; NaN stays empty."""
    figure, axis = plt.subplots(figsize=(1.6 + 0.75 * len(columns), 0.9 + 0.26 * len(rows)))
    axis.imshow(np.nan_to_num(values), cmap="Oranges", vmin=0.0, vmax=most, aspect="auto")
    for i, j in np.argwhere(~np.isnan(values)):
        axis.text(j, i, f"{values[i, j]:.0f}", ha="center", va="center", fontsize=7)
    axis.set_xticks(range(len(columns)), columns, fontsize=7)
    axis.set_yticks(range(len(rows)), rows, fontsize=7)
    axis.set_title(title, fontsize=9)
    save(figure, path)

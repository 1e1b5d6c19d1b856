"""The accuracy report, `docs/accuracy/`: errors against truth, calibration, detection, confusion, decisiveness.

`./run bench report [--seeds 2] [--jobs 2] [--out docs/accuracy]`. FluidSynth's guitars, never the simulated student;
whole drills of all families by clean and faulty players through three chains. A page of Markdown, figures as SVG.
"""

from __future__ import annotations

import argparse
import sys
import time
from collections import Counter, defaultdict
from collections.abc import Callable, Iterable, Sequence
from concurrent.futures import ProcessPoolExecutor
from datetime import UTC, datetime
from pathlib import Path
from typing import TypeVar

import numpy as np
from fortimetra.version import __version__ as CORE_VERSION

from benchmarks import _pictures as pictures
from benchmarks._readings import Reading, Told, told
from benchmarks._rings import LEVELS_DB, Rung, ring_cases, rung
from benchmarks.takes import cases

CHAINS = ("straight", "amp", "phone")
GUITARS = ("clean", "steel")
QUANTITIES = ("onset, ms", "level, dB", "plain pitch, cents", "bend, cents", "vibrato rate, Hz", "vibrato width, cents")
LEAST = 20
Asked = TypeVar("Asked")
Got = TypeVar("Got")


def _run(jobs: int, work: Callable[[Asked], Got | None], given: Sequence[Asked]) -> list[Got]:
    with ProcessPoolExecutor(jobs) as pool:
        return [found for found in pool.map(work, given, chunksize=2) if found is not None]


def _name(chain: str) -> str:
    return pictures.NAMES[chain]


def _sized(errors: Iterable[float]) -> str:
    found = np.abs(np.array(list(errors)))
    return f"{np.median(found):.2f} / {np.percentile(found, 90):.2f}" if len(found) else "–"


def _of(readings: Sequence[Reading], quantity: str, reader: str, chain: str) -> list[Reading]:
    return [r for r in readings if (r.quantity, r.reader, r.chain) == (quantity, reader, chain)]


def errors_table(readings: Sequence[Reading]) -> list[str]:
    """Median and 90 % of the errors, and how often the truth lies within the stated uncertainty."""
    lines = ["| quantity | " + " | ".join(f"{_name(c)} | within ± u | median u" for c in CHAINS) + " |"]
    lines.append("|---" * (1 + 3 * len(CHAINS)) + "|")
    for quantity in QUANTITIES:
        cells = []
        for chain in CHAINS:
            own = _of(readings, quantity, "fortimetra", chain)
            if len(own) < LEAST:
                cells += [f"{len(own)} values", "–", "–"]
                continue
            inside = np.mean([abs(r.error) <= r.covered for r in own])
            cells += [
                f"{_sized(r.error for r in own)} (n {len(own)})", f"{100 * inside:.0f} %",
                f"{np.median([r.u for r in own]):.2f}",
            ]  # fmt: skip
        lines.append(f"| {quantity} | " + " | ".join(cells) + " |")
    return lines


def trackers_table(readings: Sequence[Reading]) -> list[str]:
    """Plain pitch of notes by other readers on the same sound."""
    readers = ["fortimetra", *sorted({r.reader for r in readings} - {"fortimetra"})]
    lines = ["| reader | " + " | ".join(_name(c) for c in CHAINS) + " |", "|---" * (1 + len(CHAINS)) + "|"]
    for reader in readers:
        cells = []
        for chain in CHAINS:
            own = _of(readings, "plain pitch, cents", reader, chain)
            gross = np.mean([abs(r.error) > 50.0 for r in own]) if own else 0.0
            cells.append(f"{_sized(r.error for r in own)}, {100 * gross:.1f} % over 50")
        lines.append(f"| {reader} | " + " | ".join(cells) + " |")
    return lines


def rings_tables(found: Sequence[Rung]) -> tuple[list[str], dict[str, list[float]]]:
    """Of strings that ring, how many are found and on the right string, by level; and false ones a minute."""
    lines = ["| level, dB | " + " | ".join(f"{_name(c)}: found | right string" for c in CHAINS) + " |"]
    lines.append("|---" * (1 + 2 * len(CHAINS)) + "|")
    curves: dict[str, list[float]] = defaultdict(list)
    for level in LEVELS_DB:
        cells = []
        for chain in CHAINS:
            own = [r for r in found if r.case.chain == chain and r.case.level_db == level]
            pairs = [pair for r in own for pair in r.pairs()]
            heard = [(s, said) for s, said in pairs if said]
            curves[chain].append(len(heard) / max(1, len(pairs)))
            right = sum(s in said for s, said in heard)
            cells += [f"{len(heard)} of {len(pairs)}", f"{100 * right / max(1, len(heard)):.0f} %"]
        lines.append(f"| {level:.0f} | " + " | ".join(cells) + " |")
    for chain in CHAINS:
        own = [r for r in found if r.case.chain == chain]
        minutes = sum(r.minutes for r in own)
        covered = [said for r in own for _, said in r.pairs(covered=True)]
        also = (
            f" Of {len(covered)} more strings an octave or a twelfth over what sounds, whose partials are all the "
            f"other's, {sum(map(bool, covered))} were found."
        )
        false = f"\n{_name(chain).capitalize()}: {sum(r.false for r in own)} false rings in {minutes:.0f} minutes."
        lines.append(false + also * bool(covered))
    return lines, dict(curves)


def confusion(found: Sequence[Rung]) -> np.ndarray:
    """Which string was said of each that rang, per cent; the last column: none."""
    counts = np.zeros((6, 7))
    for take in found:
        for string, said in take.pairs():
            for name in said or (7,):
                counts[string - 1, name - 1] += 1.0 / max(1, len(said))
    return np.asarray(100.0 * counts / np.maximum(1.0, counts.sum(axis=1, keepdims=True)))


def decisiveness(takes: Sequence[Told]) -> tuple[list[str], list[str], np.ndarray, list[str]]:
    """Per cent that cannot be told of clean notes, by family and measure, interface; a table by chain."""
    judged: Counter[tuple[str, str, str]] = Counter()
    unclear: Counter[tuple[str, str, str]] = Counter()
    for take in takes:
        if take.case.player == "clean":
            for measure, count, left_open in take.open_by:
                judged[take.case.chain, take.case.family, measure] += count
                unclear[take.case.chain, take.case.family, measure] += left_open
    families = sorted({f for _, f, _ in judged})
    measures = ["pitch", "bend", "vibrato", "timing", "level", "length", "noise"]
    shares = np.array(
        [
            [
                100.0 * unclear["straight", f, m] / judged["straight", f, m] if judged["straight", f, m] else np.nan
                for m in measures
            ]
            for f in families
        ]
    )
    lines = ["| chain | verdicts | cannot tell | " + " | ".join(measures) + " |", "|---" * (3 + len(measures)) + "|"]
    for chain in CHAINS:
        by_measure = {m: [0, 0] for m in measures}
        for (name, _, measure), count in judged.items():
            if name == chain:
                by_measure[measure][0] += count
                by_measure[measure][1] += unclear[name, _, measure]
        whole, left = (sum(v[i] for v in by_measure.values()) for i in (0, 1))
        cells = [f"{100 * v[1] / v[0]:.1f} %" if v[0] else "–" for v in by_measure.values()]
        lines.append(f"| {_name(chain)} | {whole} | {100 * left / max(1, whole):.1f} % | " + " | ".join(cells) + " |")
    return families, measures, shares, lines


def main() -> int:
    """Measure, draw, write."""
    parser = argparse.ArgumentParser(prog="./run bench report")
    parser.add_argument("--seeds", type=int, default=2)
    parser.add_argument("--jobs", type=int, default=2)
    parser.add_argument("--out", type=Path, default=Path("docs/accuracy"))
    options = parser.parse_args()
    began = time.perf_counter()
    wanted = argparse.Namespace(
        seeds=options.seeds, first_seed=0, drills=1, only="", players="clean,faulty", chains=",".join(CHAINS),
        guitars=",".join(GUITARS), uploaded=False,
    )  # fmt: skip
    takes = _run(options.jobs, told, list(cases(wanted)))
    rings = _run(options.jobs, rung, ring_cases(CHAINS, GUITARS))
    readings = [r for take in takes for r in take.readings]
    options.out.mkdir(parents=True, exist_ok=True)
    _draw(readings, options.out)
    ring_lines, curves = rings_tables(rings)
    pictures.detection(LEVELS_DB, curves, options.out / "rings.svg")
    strings = [f"string {s}" for s in range(1, 7)]
    pictures.table(
        confusion(rings), strings, [*strings, "none"], options.out / "strings.svg",
        title="which string is said, % of those that rang", most=100.0,
    )  # fmt: skip
    families, measures, shares, open_lines = decisiveness(takes)
    pictures.table(
        shares,
        families,
        measures,
        options.out / "open.svg",
        title="cannot tell, % of clean notes, interface",
        most=20.0,
    )
    page = _page(takes, readings, ring_lines, open_lines, minutes=(time.perf_counter() - began) / 60.0)
    (options.out / "README.md").write_text(page)
    print(page)
    return 0


def _draw(readings: Sequence[Reading], folder: Path) -> None:
    by_quantity = {}
    for quantity in QUANTITIES:
        by_reader: dict[str, dict[str, np.ndarray]] = defaultdict(dict)
        for reader in sorted({r.reader for r in readings}):
            for chain in CHAINS:
                own = np.array([r.error for r in _of(readings, quantity, reader, chain)])
                if len(own) >= LEAST:
                    by_reader[reader][chain] = own
        name, unit = quantity.split(", ")
        pictures.errors(by_reader, folder / f"{name.replace(' ', '_')}.svg", unit=unit)
        by_quantity[quantity] = {
            chain: (np.array([r.error for r in own]), np.array([r.covered for r in own]))
            for chain in CHAINS
            if len(own := _of(readings, quantity, "fortimetra", chain)) >= LEAST
        }
    pictures.calibration(by_quantity, folder / "calibration.svg")


def _page(
    takes: Sequence[Told], readings: Sequence[Reading], rings: Sequence[str], opened: Sequence[str], *, minutes: float
) -> str:
    """The report's page."""
    alarms = [
        f"{_name(c)} {100 * sum(t.false for t in takes if t.case.chain == c) / max(1, sum(t.clean for t in takes if t.case.chain == c)):.2f} %"
        for c in CHAINS
    ]
    heard = sum(t.minutes for t in takes)
    figures = "\n".join(f"![{q}]({q.split(', ')[0].replace(' ', '_')}.svg)" for q in QUANTITIES)
    parts = [
        "# How exact the measuring is",
        f"Written by `./run bench report` on {datetime.now(UTC):%Y-%m-%d}, core version {CORE_VERSION}, in {minutes:.0f} minutes: "
        f"{len(takes)} takes, {heard:.0f} minutes of whole drills of all families, played by FluidSynth's clean and steel guitars "
        "(Debian's timgm6mb-soundfont) as clean and faulty hands, into an interface, through a driven amplifier in a small room, and "
        "by a phone on a chair (room of 0.4 s, automatic gain, Opus at 32 kbit/s). Nothing here is the simulated student's sound. "
        "How each value is read, and its limits, stand in [measuring.md](../measuring.md); takes that go wrong are in "
        "`./run bench takes`, causes in `./run bench causes`.",
        "## Errors and stated uncertainty",
        "Median / 90 % of the size of the error; *within ± u* should be 95 %: of the errors, those within the stated u and the truth's "
        "own together (as E_n of ISO 13528 has it). A phone's gain changes the volume itself, and a room the width of a vibrato: there "
        "the error is against what was played, not against what is on the recording. What an amplifier's drive makes of volumes is "
        "on the recording, and is held against the same keys alone through the same drive. FluidSynth's pitch goes in whole cents, "
        "and its keys are as high as Praat reads their period by itself at the time (a bend's where it is held: samples drift by a "
        "cent); where their first partial lies elsewhere, half of that is not known. Notes shorter than 0.25 s glide as long as they are read, and have no true pitch here. "
        "Values of notes that were matched to another sound are "
        "not in it (`./run bench takes` counts those).",
        *["\n".join(errors_table(readings))],
        "Pitch of plain notes by general trackers on the same sound and in the same window (cents, median / 90 %):",
        *["\n".join(trackers_table(readings))],
        figures,
        "## Calibration",
        "How many errors lie within a share of the stated uncertainty, against how many should: a curve over the line says the "
        "uncertainty is wider than it need be, one under it that it is too narrow.",
        "![Calibration](calibration.svg)",
        "## Strings that ring",
        "An open string under every third note of four drills, found at the time it rings, whatever its verdict; its "
        "level is its power over that of what is meant to sound, as the guitar plays both alone:",
        "\n".join(rings),
        "![Found by level](rings.svg)\n![Which string](strings.svg)",
        "## What cannot be told",
        "Of notes that were played cleanly, by measure:",
        "\n".join(opened),
        "![By family](open.svg)",
        f"Of clean notes something is judged outside (false alarms): {', '.join(alarms)}.",
    ]
    return "\n\n".join(parts) + "\n"


if __name__ == "__main__":
    sys.exit(main())

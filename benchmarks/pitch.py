"""How well pitch is read: contour, bends, vibrato, and whether the stated uncertainty is true.

Every tracker gets the same sounds; its contour is read by the same windows and the same cycle-by-cycle reader. The
last table is what the product says with its own windows, with uncertainty. `python -m benchmarks.pitch [--quick]
[TRACKER …]`: fewer sounds, only these.
"""

from __future__ import annotations

import sys
import time
from collections import defaultdict
from collections.abc import Callable
from dataclasses import dataclass

import mir_eval
import numpy as np
from fortimetra.hear.contour import track
from fortimetra.hear.inharmonicity import without_stiffness
from fortimetra.hear.notes import HeardNote, segment
from fortimetra.hear.onsets import find_onsets
from fortimetra.measure.bend import measure_bend
from fortimetra.measure.reference import BendReference
from fortimetra.measure.statistics import read_pitch
from fortimetra.measure.turns import find_turns
from fortimetra.measure.vibrato import Swing, VibratoMeasured, evaluate, measure_vibrato

from benchmarks._notes import RATE_HZ, Samples, fluid_notes, pack_notes
from benchmarks._sounds import CONDITIONS, TRUTH_STEP_S, Phrase, TrueNote, corpus, under
from benchmarks._trackers import Track, available

KEYS = (35, 40, 47, 55, 64, 74, 83)
GROSS_CENTS = 50.0
PLAIN_S = (0.06, 0.25)
END_S = 0.05
SLOW = {"pyin", "world"}
Errors = dict[str, list[float]]


def cents(hz: Samples | float, reference: Samples | float) -> Samples:
    """Of a ratio."""
    return 1200.0 * np.log2(np.asarray(hz) / reference)


def median_hz(found: Track, from_s: float, to_s: float) -> float:
    """Of a contour; NaN where it has nothing there."""
    time_s, f0 = found
    part = f0[(time_s >= from_s) & (time_s < to_s) & np.isfinite(f0)]
    return float(np.median(part)) if len(part) else float("nan")


def true_hz(note: TrueNote, from_s: float, to_s: float) -> float:
    """Of the truth, from the note's onset."""
    return float(np.median(note.hz[round(from_s / TRUTH_STEP_S) : round(to_s / TRUTH_STEP_S)]))


@dataclass(frozen=True)
class TrueVibrato:
    """Of the cycles that lie in a region."""

    rate_hz: float
    rate_cv: float
    extent_cents: float
    extent_cv: float
    return_error_cents: float


def true_vibrato(note: TrueNote, region: tuple[float, float], base_hz: float) -> TrueVibrato | None:
    """The true values of the cycles within a region (s from the onset); what the note itself does is in its return."""
    middle = 0.5 * (note.edges_s[1:] + note.edges_s[:-1])
    inside = np.flatnonzero((middle > region[0]) & (middle < region[1]))
    if len(inside) < 2:
        return None
    lengths, widths = np.diff(note.edges_s)[inside], note.widths_cents[inside]
    edges = note.edges_s[inside[0] : inside[-1] + 2]
    own = np.interp(edges, np.arange(len(note.hz)) * TRUTH_STEP_S, note.hz)
    return TrueVibrato(
        1.0 / float(lengths.mean()),
        float(lengths.std(ddof=1) / lengths.mean()),
        float(widths.mean()),
        float(widths.std(ddof=1) / widths.mean()),
        float(np.mean(cents(own, base_hz))),
    )


def read_contour(found: Track, phrase: Phrase, errors: Errors) -> None:
    """What one contour says of a phrase, against the truth."""
    target, bend, vibrato = phrase.notes
    fretted = median_hz(found, target.onset_s + PLAIN_S[0], target.onset_s + PLAIN_S[1])
    if phrase.one_pitch:
        errors["steady"].append(float(cents(fretted, true_hz(target, *PLAIN_S))))
    hold = (bend.hold_from_s, bend.end_s - bend.onset_s - END_S)
    if hold[1] - hold[0] > 0.1:
        reached = median_hz(found, bend.onset_s + hold[0], bend.onset_s + hold[1])
        errors["plateau"].append(
            float(cents(reached, fretted) - cents(true_hz(bend, *hold), true_hz(target, *PLAIN_S)))
        )
    if len(vibrato.widths_cents) >= 4:
        time_s, f0 = found
        inside = (time_s >= vibrato.onset_s + 0.03) & (time_s < vibrato.end_s - 0.03)
        t, c = time_s[inside], f0[inside]
        ok = np.isfinite(c)
        even = np.arange(vibrato.onset_s + 0.03, vibrato.end_s - 0.03, 0.005)
        if np.count_nonzero(ok) > 20:
            base = median_hz(found, vibrato.onset_s + 0.06, vibrato.onset_s + 0.22)
            base = base if np.isfinite(base) else float(np.median(c[ok]))
            own = np.interp(even, t[ok], cents(c[ok], base))
            got = evaluate(find_turns(even, own, np.full(len(even), 0.3)), line="bottom")
            say_vibrato(got, vibrato, errors)
            whole = true_vibrato(vibrato, (0.0, 99.0), 1.0)
            errors["sine extent"].append(sine_extent(even, own, whole.rate_hz) - whole.extent_cents)
        else:
            errors["vibrato lost"].append(1.0)
    grid = np.arange(0.3, phrase.notes[-1].end_s, 0.01)
    truth = phrase.truth(grid)
    voiced = truth > 0
    for note in phrase.notes:  # the first 30 ms are the attack
        voiced &= ~((grid >= note.onset_s - 0.01) & (grid < note.onset_s + 0.03))
    f0 = np.nan_to_num(found[1])
    for tolerance, name in ((50, "RPA 50"), (5, "RPA 5")):
        ref_c, est_c = mir_eval.melody.hz2cents(truth[voiced]), mir_eval.melody.hz2cents(
            mir_eval.melody.resample_melody_series(
                found[0], f0, (f0 > 0).astype(float), grid, kind="linear"
            )[0][voiced]
        )  # fmt: skip
        share = mir_eval.melody.raw_pitch_accuracy(
            np.ones(len(ref_c)), ref_c, (est_c > 0).astype(float), est_c, cent_tolerance=tolerance
        )
        errors[name].append(float(share))
    for note in phrase.notes:
        own = grid[(grid > note.onset_s + 0.06) & (grid < note.end_s - END_S)]
        heard = np.interp(own, found[0][f0 > 0], f0[f0 > 0]) if (f0 > 0).any() else np.full(len(own), np.nan)
        middle = np.median(np.abs(cents(heard, np.maximum(phrase.truth(own), 1.0))))
        errors["gross"].append(float(not middle < GROSS_CENTS))


def say_vibrato(got: VibratoMeasured, note: TrueNote, errors: Errors, base_hz: float | None = None) -> None:
    """Errors of a vibrato that was read; a missed one counts as lost."""
    true = None
    if got.rate_hz is not None:
        base = base_hz or true_hz(note, 0.06, 0.22)
        true = true_vibrato(note, (got.region[0] - note.onset_s, got.region[1] - note.onset_s), base)
    errors["vibrato lost"].append(float(true is None))
    if true is None:
        return
    errors["rate"].append(got.rate_hz - true.rate_hz)
    errors["extent"].append(got.extent_cents - true.extent_cents)
    errors["rate cv"].append(got.rate_cv - true.rate_cv)
    errors["extent cv"].append(got.extent_cv - true.extent_cv)
    errors["return"].append(got.return_error_cents - true.return_error_cents)


def sine_extent(t: Samples, own: Samples, rate_hz: float) -> float:
    """Peak to peak of one sine fitted to the vibrato (what a spectrum would say)."""
    inside = (t >= t[0]) & (t <= t[-1])
    best = 0.0
    for rate in np.arange(0.8 * rate_hz, 1.2 * rate_hz, 0.05):
        design = np.stack(
            (
                np.ones(inside.sum()),
                t[inside],
                np.cos(2 * np.pi * rate * t[inside]),
                np.sin(2 * np.pi * rate * t[inside]),
            ),
            axis=1,
        )
        fit, *_ = np.linalg.lstsq(design, own[inside], rcond=None)
        best = max(best, 2 * float(np.hypot(fit[2], fit[3])))
    return best


def product(phrase: Phrase, sound: Samples, errors: Errors, covered: Errors) -> None:
    """What the product's own measures say, with their uncertainty."""
    mono = sound.astype(np.float32)
    onsets = find_onsets(mono, rate_hz=RATE_HZ)
    contour = track(mono, rate_hz=RATE_HZ, onsets_s=onsets)
    heard = segment(contour, onsets)
    contour = without_stiffness(contour, heard)

    def near(note: TrueNote) -> HeardNote | None:
        found = [h for h in heard if abs(h.onset_s - note.onset_s) < 0.06]
        return found[0] if found else None

    target, bend, vibrato = (near(n) for n in phrase.notes)
    if target is None:
        errors["lost"].append(1.0)
        return
    reading = read_pitch(contour, target.onset_s + PLAIN_S[0], target.onset_s + PLAIN_S[1])
    if reading is None:
        errors["lost"].append(1.0)
        return

    def say(name: str, error: float, u: float) -> None:
        errors[name].append(error)
        covered[name].append(u)

    true_target = true_hz(phrase.notes[0], *PLAIN_S)
    if phrase.one_pitch:
        say("steady", float(cents(reading.hz, true_target)), reading.u_cents)
    errors["lost"].append(float(bend is None) + float(vibrato is None))
    if bend is not None:
        asked = phrase.notes[1].target_cents
        got = measure_bend(
            contour, bend, BendReference(reading.hz, reading.u_cents, "target"), target_cents=asked, already_bent=False
        )
        if got.reached_cents is not None and got.plateau is not None:
            a, b = (p - phrase.notes[1].onset_s for p in got.plateau)
            true = cents(true_hz(phrase.notes[1], a, b), true_target) + asked
            say("bend", got.reached_cents - float(true), got.u_cents or 0.0)
    if vibrato is not None:
        note = phrase.notes[2]
        up = 2.0 ** (phrase.notes[0].target_cents / 1200.0)
        swing = Swing("bottom", reading.hz / up, reading.u_cents)
        got = measure_vibrato(mono, contour, vibrato, swing, rate_hz=RATE_HZ)
        if len(note.widths_cents) >= 4:
            say_vibrato(got, note, errors, true_target / up)
        if len(note.widths_cents) >= 4 and not errors["vibrato lost"][-1]:
            for name, u in (
                ("rate", got.u_rate),
                ("extent", got.u_extent),
                ("rate cv", got.u_rate_cv),
                ("extent cv", got.u_extent_cv),
                ("return", got.u_return),
            ):
                covered[name].append(u)


def spread(values: list[float]) -> str:
    """Median and 90 % of the size of an error."""
    found = np.abs(np.array(values, dtype=float))
    if not len(found):
        return "–"
    found = np.where(np.isfinite(found), found, np.inf)
    return f"{np.median(found):.3g} / {np.sort(found)[min(len(found) - 1, int(0.9 * len(found)))]:.3g}"


def table(head: list[str], rows: list[list[str]]) -> None:
    """Columns, aligned."""
    widths = [max(len(r[i]) for r in [head, *rows]) for i in range(len(head))]
    for row in (head, *rows):
        print(
            "  ".join(
                cell.rjust(width) if i else cell.ljust(width)
                for i, (cell, width) in enumerate(zip(row, widths, strict=True))
            )
        )
    print()


def main(quick: bool, only: list[str]) -> None:
    """Print the tables."""
    phrases = corpus(fluid_notes(KEYS[1::2] if quick else KEYS) + pack_notes(6 if quick else 2))
    trackers = {name: run for name, run in available().items() if not only or name in only}
    seconds = sum(len(p.samples) for p in phrases) / RATE_HZ
    print(f"{len(phrases)} phrases, {seconds:.0f} s, under {len(CONDITIONS)} conditions; errors: median / 90 %\n")
    head = [
        "tracker",
        "condition",
        "steady ct",
        "plateau ct",
        "rate Hz",
        "extent ct",
        "by sine",
        "rate cv",
        "extent cv",
        "return ct",
        "lost",
        "gross",
        "RPA 50",
        "RPA 5",
        "s per s",
    ]
    totals: dict[str, list[Errors]] = defaultdict(list)
    rows = []
    for name, run in trackers.items():
        for condition in CONDITIONS:
            errors, spent, heard = judge_tracker(run, phrases[:: 4 if name in SLOW else 1], condition)
            totals[name].append(errors)
            rows.append([name, condition, *columns(errors), f"{spent / heard:.4f}"])
            print(f"{name}, {condition}: done", file=sys.stderr, flush=True)
    table(head, rows)
    everywhere = []
    for name, parts in totals.items():
        joined: Errors = defaultdict(list)
        for part in parts:
            for key, values in part.items():
                joined[key] += values
        everywhere.append([name, "all", *columns(joined), ""])
    table(head, everywhere)
    say_product(phrases)


def judge_tracker(
    run: Callable[[Samples], Track], phrases: list[Phrase], condition: str
) -> tuple[Errors, float, float]:
    """Errors, seconds spent, seconds of sound."""
    errors: Errors = defaultdict(list)
    spent = heard = 0.0
    for phrase in phrases:
        sound = under(phrase.samples, condition)
        began = time.perf_counter()
        found = run(sound)
        spent += time.perf_counter() - began
        heard += len(sound) / RATE_HZ
        read_contour(found, phrase, errors)
    return errors, spent, heard


def columns(errors: Errors) -> list[str]:
    """A row's figures."""
    by_size = [
        spread(errors[k])
        for k in ("steady", "plateau", "rate", "extent", "sine extent", "rate cv", "extent cv", "return")
    ]
    shares = [
        f"{100 * np.mean(errors[k]):.1f} %" if errors[k] else "–" for k in ("vibrato lost", "gross", "RPA 50", "RPA 5")
    ]
    return by_size + shares


def say_product(phrases: list[Phrase]) -> None:
    """The product's own values and how often the truth lies within their uncertainty."""
    print("What the product says (its own windows), and whether ± u is true\n")
    errors, covered = defaultdict(list), defaultdict(list)
    for condition in CONDITIONS:
        for phrase in phrases:
            product(phrase, under(phrase.samples, condition), errors, covered)
    rows = []
    for name, us in covered.items():
        e, u = np.abs(np.array(errors[name])), np.array(us)
        rows.append(
            [
                name,
                str(len(e)),
                spread(errors[name]),
                f"{np.median(errors[name]):+.3g}",
                f"{100 * np.mean(e <= u):.1f} %",
                f"{np.median(u):.3g}",
                f"{np.median(u) / max(np.median(e), 1e-9):.2f}",
            ]
        )
    table(["value", "n", "median / 90 %", "bias", "within u", "median u", "u / error"], rows)
    print(
        "lost:",
        sum(errors["lost"]),
        "vibrato lost:",
        sum(errors["vibrato lost"]),
        "cycles differ:",
        sum(errors["cycles differ"]),
    )


if __name__ == "__main__":
    main("--quick" in sys.argv, [a for a in sys.argv[1:] if not a.startswith("--")])

"""Which string rings that should not: detection by level and string, false alarms, level, speed, stops and scrapes.

Lines and rings are FluidSynth's guitars and recorded ones other people made, mixed at stated levels (level: power of
the ring against the line while both sound); conditions are those of `_sounds.under`. What FluidSynth and the packs do
not have (stops, scrapes, leaks in chords) is played by the project's own player and says so.
"""

from __future__ import annotations

import argparse
import time
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np
from fortimetra import TakeError, analyse
from fortimetra.drills.library import built_in_drills
from fortimetra.player.faults import Faults, NoteFault, Ring, Scrape
from fortimetra.player.rendering import render
from fortimetra.sound.decode import Take

from benchmarks._lines import HAND_S, OPEN, START_S, Guitar, Played, drill_of, guitars, in_folder, place
from benchmarks._notes import RATE_HZ, Samples
from benchmarks._sounds import under

GUITARS = ("nylon", "steel", "jazz", "clean", "nylon recorded", "acoustic recorded", "electric recorded")
DRIVEN = ("overdriven", "distorted")
# Figures of our own, so that each string has notes beside which it must be silent.
FIGURES = {
    "across": (45, 47, 48, 50, 52, 53, 55, 57, 59, 60, 62, 64, 62, 60, 59, 57, 55, 53, 52, 50, 48, 47),
    "one note": (57,) * 14,
    "high": (64, 67, 69, 71, 72, 71, 69, 67, 64, 67, 69, 72),
}
SPEEDS_NPS = (2.0, 4.0)
LEVELS_DB = (-20.0, -30.0)
LEAST_RING_S = 0.3
# The player's finger lies down in 10 ms and takes 60 dB in 50 ms: 40 dB under the note after so long.
HAND_TAKES_MS = 38.0


@dataclass(frozen=True)
class Job:
    """One take: string 0 is a clean one."""

    guitar: str
    figure: str
    speed: float
    string: int
    level_db: float
    condition: str
    seed: int


@dataclass
class Outcome:
    """What came of it. covered: the product says it cannot hear this string here."""

    job: Job
    seconds: float
    took_s: float
    hit: bool = False
    right: bool = False
    covered: bool = False
    level_error_db: float | None = None
    inside_u: bool | None = None
    others: list[str] = field(default_factory=list)


def a_take(samples: Samples) -> Take:
    """Samples as the product takes them."""
    return Take(samples.astype(np.float32)[None, :], RATE_HZ, "0" * 64)


def ring_of(guitar: Guitar, string: int, seconds: float) -> Samples:
    """An open string alone."""
    note = Played(OPEN[string - 1], 0.0 if guitar.pack else START_S, seconds)
    if guitar.pack is not None:
        return guitar.single(note)
    return guitar.play([note], START_S + seconds + 0.2)[round(START_S * RATE_HZ) : round((START_S + seconds) * RATE_HZ)]


def one(job: Job) -> Outcome | None:
    """Make and judge one take; None where the figure leaves no room for the ring, or the guitar has no such note."""
    rng = np.random.default_rng(job.seed)
    with in_folder() as folder:
        guitar = guitars(Path(folder), [job.guitar])[0]
        keys, slot = FIGURES[job.figure], 1.0 / job.speed
        notes = [
            Played(
                k, round(START_S + i * slot + float(rng.normal(0, HAND_S)), 3), slot - 0.03, float(rng.normal(-5, 2))
            )
            for i, k in enumerate(keys)
        ]
        sound = guitar.play(notes, START_S + len(keys) * slot + 1.0)
        placed = None
        if job.string:
            placed = _rung(guitar, job, notes, slot, rng)
            if placed is None:
                return None
            at_s, ring = placed
            start = round(at_s * RATE_HZ)
            part = sound[start : start + len(ring)].copy()
            ring = ring[: len(part)] * 10 ** (job.level_db / 20) * np.sqrt(np.mean(part**2) / np.mean(ring**2))
            sound[start : start + len(ring)] += ring
    drill = drill_of(keys, job.speed).model_copy(update={"measures": ("noise",)})
    sound = (
        under(sound / np.max(np.abs(sound)), job.condition)
        if job.condition != "clean"
        else sound / np.max(np.abs(sound))
    )
    began = time.perf_counter()
    try:
        found = analyse(a_take(sound), drill=drill)
    except TakeError:
        return None
    outcome = Outcome(job, len(sound) / RATE_HZ, time.perf_counter() - began)
    rings = [e for e in found.noise_events if e.kind in {"open_ring", "bleed", "after_stop"}]
    if placed is None:
        outcome.others = [
            f"{e.kind} {e.string} {e.level_db}" for e in found.noise_events if e.kind in {"open_ring", "scrape", "thud"}
        ]
        return outcome
    at_s, end_s = placed[0], placed[0] + len(ring) / RATE_HZ
    during = [e for e in rings if e.from_s < end_s and e.to_s > at_s]
    right = [e for e in during if e.string == job.string and e.fret == 0]
    outcome.hit, outcome.right = bool(during), bool(right)
    notes_during = [
        n for n in found.notes if n.onset_s is not None and n.end_s is not None and n.onset_s < end_s and n.end_s > at_s
    ]
    outcome.covered = bool(notes_during) and all(
        job.string in (n.noise.hidden_strings if n.noise else ()) for n in notes_during
    )
    outcome.others = [f"{e.kind} {e.string}" for e in found.noise_events if e not in right and e.kind == "open_ring"]
    if right:
        a, b = (round((t - at_s) * RATE_HZ) for t in (max(right[0].from_s, at_s), min(right[0].to_s, end_s)))
        true_db = 10 * np.log10(np.mean(ring[a:b] ** 2) / np.mean(part[a:b] ** 2))
        outcome.level_error_db = float(right[0].level_db - true_db)
        outcome.inside_u = abs(outcome.level_error_db) <= right[0].u
    return outcome


def _rung(
    guitar: Guitar, job: Job, notes: Sequence[Played], slot: float, rng: np.random.Generator
) -> tuple[float, Samples] | None:
    """When the string is set ringing and what it sounds: under notes of other strings, until its own next one."""
    own = [place(n.key)[0] == job.string for n in notes]
    room = [i for i in range(1, len(notes) - 1) if not any(own[i : i + max(1, int(np.ceil(0.8 / slot)))])]
    if not room:
        return None
    first = room[int(rng.integers(len(room)))]
    until = next((j for j in range(first, len(notes)) if own[j]), len(notes))
    seconds = min(float(rng.uniform(0.35, 1.5)), (until - first) * slot - 0.05)
    if seconds < LEAST_RING_S:
        return None
    return notes[first].at_s + float(rng.uniform(0, 0.3)) * slot, ring_of(guitar, job.string, seconds)


def jobs(*, quick: bool) -> Iterator[Job]:
    """Every guitar, figure, speed, string, level and condition; clean takes three times."""
    names = ("steel", "electric recorded") if quick else (*GUITARS, *DRIVEN)
    for n, name in enumerate(names):
        for figure in ("across", "high") if quick else FIGURES:
            for speed in SPEEDS_NPS:
                for condition in ("clean", "noise", "hum", "drive"):
                    for again in range(1 if quick else 3):
                        yield Job(name, figure, speed, 0, 0.0, condition, 1000 * again + 7 * n + int(2 * speed))
                    if condition in {"clean", "drive"}:
                        for string in range(1, 7):
                            for level in LEVELS_DB:
                                yield Job(
                                    name, figure, speed, string, level, condition, 100 * string + 7 * n + int(2 * speed)
                                )


def table(found: Sequence[Outcome], title: str, key: str) -> None:
    """Detection by one property of the takes."""
    print(
        f"\n{title}\n{'':>26} {'takes':>6} {'found':>6} {'string':>7} {'covered':>8} {'missed':>7} "
        f"{'other':>6} {'level dB':>9} {'90 %':>6} {'in u':>5}"
    )
    rung = [o for o in found if o.job.string]
    values = sorted({(o.job.condition, o.job.level_db, getattr(o.job, key)) for o in rung}, key=str)
    for condition, level, value in values:
        own = [o for o in rung if (o.job.condition, o.job.level_db, getattr(o.job, key)) == (condition, level, value)]
        errors = np.array([o.level_error_db for o in own if o.level_error_db is not None])
        told = [o for o in own if not o.covered]
        line = (
            f"{condition:>7} {level:>5.0f} {value!s:>12} {len(own):>6} {np.mean([o.hit for o in own]):>6.2f} "
            f"{np.mean([o.right for o in own]):>7.2f} {np.mean([o.covered and not o.right for o in own]):>8.2f} "
            f"{np.mean([not o.hit for o in told]) if told else 0:>7.2f} {np.mean([len(o.others) for o in own]):>6.2f}"
        )
        if len(errors):
            size, covered = np.abs(errors), [o.inside_u for o in own if o.inside_u is not None]
            line += f" {np.median(size):>9.1f} {np.percentile(size, 90):>6.1f} {np.mean(covered):>5.2f}"
        print(line)


def false_alarms(found: Sequence[Outcome]) -> None:
    """Events in clean takes, every three minutes."""
    clean = [o for o in found if not o.job.string]
    print(f"\nclean playing, events every 3 minutes\n{'':>20} {'minutes':>8} {'events':>7} {'every 3 min':>12}")
    for condition in ("clean", "noise", "hum", "drive"):
        own = [o for o in clean if o.job.condition == condition]
        minutes = sum(o.seconds for o in own) / 60
        events = sum(len(o.others) for o in own)
        print(f"{condition:>20} {minutes:>8.1f} {events:>7} {3 * events / max(minutes, 1e-9):>12.2f}")
    for guitar in sorted({o.job.guitar for o in clean}):
        own = [o for o in clean if o.job.guitar == guitar]
        minutes, events = sum(o.seconds for o in own) / 60, sum(len(o.others) for o in own)
        print(f"{guitar:>20} {minutes:>8.1f} {events:>7} {3 * events / max(minutes, 1e-9):>12.2f}")
    seconds, took = sum(o.seconds for o in found), sum(o.took_s for o in found)
    print(f"whole analysis: {seconds / took:.0f} times real time on one core")


def own_player() -> None:
    """Stops, scrapes and leaks inside chords, by the simulated student."""
    built_in = {d.family: d for d in reversed(built_in_drills())}
    still = {"random_ms": 3.0, "random_db": 0.5, "random_cents": 1.0}
    rng = np.random.default_rng(5)
    errors = []
    for _ in range(12):
        drill = built_in["stop_and_rest"].model_copy(update={"repeats": 1})
        lengths = {e.id: float(rng.uniform(0.8, 1.7)) for e in drill.events if e.notes}
        samples, truth = render(
            drill,
            Faults(**still, seed=int(rng.integers(1000)), notes={k: NoteFault(length=v) for k, v in lengths.items()}),
        )
        found = analyse(Take(samples[None, :], truth.sample_rate_hz, "0" * 64), drill=drill)
        spb = drill.seconds_per_beat
        for note, true in zip(found.notes, truth.notes, strict=True):
            event = next(e for e in drill.events if e.id == note.id)
            due = truth.first_beat_s + (event.beat + event.length) * spb
            if note.noise and note.noise.decay_ms is not None and true.end_s is not None:
                errors.append(note.noise.decay_ms - max(0.0, 1000 * (true.end_s - due) + HAND_TAKES_MS))
    e = np.abs(errors)
    print(
        f"\nstops (own player): {len(e)}, decay against the hand: median {np.median(errors):+.0f} ms, "
        f"|error| 50 % {np.median(e):.0f}, 90 % {np.percentile(e, 90):.0f} ms"
    )
    for family, strings in (("muted_double_stops", (2, 4, 5)), ("mute_check", (1, 4)), ("bottleneck", (2, 4, 5))):
        for level in (-20.0, -26.0):
            hits = right = others = total = covered = 0
            drill = built_in[family].model_copy(update={"repeats": 1})
            for event in [x for x in drill.events if x.notes]:
                for string in strings:
                    if any(n.string == string and not n.muted for n in event.notes):
                        continue
                    ring = Ring(string=string, event=event.id, level_db=level, length_s=0.8)
                    samples, truth = render(drill, Faults(**still, rings=(ring,), seed=total))
                    found = analyse(Take(samples[None, :], truth.sample_rate_hz, "0" * 64), drill=drill)
                    events = [x for x in found.noise_events if x.kind == "open_ring"]
                    own = [x for x in events if x.near == event.id]
                    total += 1
                    hits += bool(own)
                    right += any(x.string == string for x in own)
                    others += len([x for x in events if x.string != string])
                    covered += not own and any(
                        string in n.noise.hidden_strings for n in found.notes if n.id == event.id and n.noise
                    )
            print(
                f"{family} (own player), open string leaking at {level:.0f} dB: {total}, found {hits / total:.2f}, "
                f"string {right / total:.2f}, covered {covered / total:.2f}, others {others}"
            )
    for drive in (0.0, 12.0):
        for level in (-20.0, -25.0):
            drill = built_in["alternate_picking"].model_copy(update={"repeats": 2, "measures": ("noise",)})
            places = [x.id for x in drill.events if x.notes][2:30:4]
            burst = [
                Scrape(event=p, repeat=r, after_s=0.22, level_db=level, length_s=0.12) for p in places for r in (0, 1)
            ]
            samples, truth = render(drill, Faults(**still, scrapes=tuple(burst), drive_db=drive))
            found = analyse(Take(samples[None, :], truth.sample_rate_hz, "0" * 64), drill=drill)
            count = sum(x.kind == "scrape" for x in found.noise_events)
            print(f"scrapes (own player) at {level:.0f} dB, drive {drive:.0f} dB: {count} of {len(burst)}")


def main() -> None:
    """Print the tables."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--quick", action="store_true", help="two guitars, two figures")
    options = parser.parse_args()
    with ProcessPoolExecutor(2) as pool:
        found = [o for o in pool.map(one, list(jobs(quick=options.quick)), chunksize=8) if o is not None]
    print(f"{len(found)} takes, {sum(o.seconds for o in found) / 60:.0f} minutes")
    table(found, "an open string under a line, by speed (notes a second)", "speed")
    table(found, "the same, by string", "string")
    table([replace_guitar(o) for o in found], "the same, over everything", "figure")
    false_alarms(found)
    own_player()


def replace_guitar(outcome: Outcome) -> Outcome:
    """The same under one name."""
    return replace(outcome, job=replace(outcome.job, figure="all"))


if __name__ == "__main__":
    main()

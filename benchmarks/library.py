"""The whole library played by other makers' guitars: what a clean take of each drill is judged as.

Every drill is performed as it is asked (bends, vibratos and slides as exact pitch courses), with the small scatter of a good
hand, on FluidSynth's guitars and, where no pitch has to move, on recorded single notes. What is judged outside is a false
alarm; what is missed was not heard; what is unclear could not be told. `./run bench library [--quick] [--seed N] [--only WORDS]`.
"""

from __future__ import annotations

import argparse
import sys
import tempfile
import time
from collections import Counter, defaultdict
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
import soundfile
from fortimetra import Analysis, Click, Drill, TakeError, analyse, load_take
from fortimetra.drills.library import library
from fortimetra.model.drill import AskedNote

from benchmarks._lines import Guitar, Played, guitars
from benchmarks._notes import RATE_HZ, Samples
from benchmarks._sounds import under
from tests.reference.fluid import GUITARS, Tone, render

START_S, TAIL_S = 1.5, 1.0
HAND_MS, HAND_DB = 5.0, 1.0
RISE_S, SHIFT_S = 0.15, 0.1
MOST_NOTES = 100
SOUNDS_SHARE = 0.97
# A false alarm on more than this share of the notes of clean takes costs a teacher's trust.
MOST_OUTSIDE = 0.01

Course = list[tuple[float, float]]


@dataclass
class Sounding:
    """One stroke and everything that sounds on from it: breakpoints (s after its onset, cents)."""

    key: int
    onset_s: float
    end_s: float
    velocity: int
    channel: int
    bend: Course = field(default_factory=list)
    muted: bool = False


def _bend(asked: AskedNote, seconds: float) -> Course:
    bend = asked.bend
    if bend is None:
        return [(0.0, 0.0)]
    top = bend.middle_cents
    if asked.event.articulation == "repluck":
        return [(0.0, top)]
    if bend.kind in {"prebend", "release"}:
        return [(0.0, top), (0.45 * seconds, top), (0.45 * seconds + RISE_S, 0.0)]
    return [(0.0, 0.0), (0.05, 0.0), (0.05 + RISE_S, top)]


def _vibrato(asked: AskedNote, course: Course, seconds: float, spb: float) -> Course:
    wanted = asked.event.vibrato
    if wanted is None or asked.index:
        return course
    extent = sum(wanted.extent_cents) / 2.0 if wanted.extent_cents else 60.0
    cycles = wanted.cycles_per_beat
    if cycles is not None:
        rates = [c / spb for c in (cycles if isinstance(cycles, tuple) else (cycles,))]
    else:
        rates = [sum(wanted.rate_hz) / 2.0 if wanted.rate_hz else 5.0]
    low = {"bottom": 0.0, "centre": 0.5, "top": 1.0}[wanted.return_line]
    at, base = course[-1]
    begins = at + (0.1 if asked.bend else min(0.2, 0.1 * seconds))
    step = 0.01
    found = [*course, (begins, base)]
    ends = seconds * SOUNDS_SHARE
    phase, now = 0.0, begins
    while now < ends:
        rate = rates[min(len(rates) - 1, int(len(rates) * now / seconds))]
        phase += rate * step
        now += step
        swing = 0.5 - 0.5 * np.cos(2.0 * np.pi * phase) if low != 0.5 else 0.5 * np.sin(2.0 * np.pi * phase)
        found.append((now, base + extent * float(swing if low != 1.0 else -swing)))
    return found


def _slide(from_cents: float, to_cents: float, leaves_s: float, arrives_s: float, *, tube: bool) -> Course:
    """A tube glides; a finger goes from fret to fret, and has the last one on time."""
    if tube:
        return [(leaves_s, from_cents), (arrives_s, to_cents)]
    count = max(1, round(abs(to_cents - from_cents) / 100.0))
    found: Course = [(leaves_s, from_cents)]
    for step in range(count):
        at = leaves_s + (arrives_s - leaves_s) * (step + 1) / count
        cents = [from_cents + (to_cents - from_cents) * k / count for k in (step, step + 1)]
        found += [(at - 0.004, cents[0]), (at, cents[1])]
    return found


def perform(drill: Drill, rng: np.random.Generator) -> list[Sounding]:
    """A clean take."""
    spb = drill.seconds_per_beat
    found: list[Sounding] = []
    on_string: dict[int, Sounding] = {}
    late: dict[str, float] = {}
    for asked in drill.asked():
        event, note = asked.event, asked.note
        place = f"{event.id}@{asked.repeat}"
        late.setdefault(place, float(rng.normal(0.0, HAND_MS / 1000.0)))
        onset = START_S + drill.played_beat(asked.beat) * spb + late[place]
        seconds = (drill.played_beat(asked.beat + event.length) - drill.played_beat(asked.beat)) * spb
        before = on_string.get(note.string)
        if note.muted or note.fret is None:
            continue
        if before is not None:
            before.end_s = min(before.end_s, onset - 0.002)
        if event.articulation == "slide" and before is not None:
            # The same stroke sounds on: the pitch travels, and has arrived on the beat.
            travels = (event.slide.length if event.slide and event.slide.length else SHIFT_S / spb) * spb
            target = 100.0 * (asked.midi - before.key)
            here = onset - before.onset_s
            leaves = max(before.bend[-1][0], here - travels)
            before.bend += _slide(before.bend[-1][1], target, leaves, here, tube=note.finger == "slide")
            course = _vibrato(asked, [(0.0, 0.0)], seconds, spb)
            before.bend += [(here + t, target + c) for t, c in course[1:]]
            before.end_s = onset + seconds * SOUNDS_SHARE
            continue
        course = _vibrato(asked, _bend(asked, seconds), seconds, spb)
        if event.slide is not None and event.slide.from_fret is not None:
            away = 100.0 * (event.slide.from_fret - (event.notes[0].fret or 0))
            takes = (event.slide.length or SHIFT_S / spb) * spb
            course = [(0.0, away), *_slide(away, 0.0, 0.02, takes, tube=note.finger == "slide"), *course[1:]]
        level = float(rng.normal(0.0, HAND_DB))
        velocity = 92 * 10.0 ** (level / 40.0) * (10.0 ** (5.0 / 40.0) if event.accent else 1.0)
        share = 0.5 if event.articulation == "palm_mute" else SOUNDS_SHARE
        sounding = Sounding(
            round(asked.midi), onset, onset + seconds * share, int(np.clip(velocity, 30, 127)), note.string - 1, course
        )
        found.append(sounding)
        on_string[note.string] = sounding
    return found


def shortened(drill: Drill) -> Drill:
    """As often as a minute or so has room for: volume is compared with other notes, so once is too little."""
    once = sum(len(e.notes) for e in drill.events)
    return drill.model_copy(update={"repeats": max(1, min(drill.repeats, MOST_NOTES // max(1, once)))})


def moves(drill: Drill) -> bool:
    """Whether a pitch has to move while it sounds."""
    return any(e.bend or e.vibrato or e.slide for e in drill.events)


def take_of(guitar: Guitar, drill: Drill, rng: np.random.Generator, folder: Path) -> Samples:
    """The sound of a clean take."""
    notes = perform(drill, rng)
    seconds = max(n.end_s for n in notes) + TAIL_S
    if guitar.pack is None:
        tones = [
            Tone(n.key, round(n.onset_s, 3), max(0.03, n.end_s - n.onset_s), tuple(n.bend), n.velocity, n.channel)
            for n in notes
        ]
        path = render(tones, folder, program=GUITARS[guitar.name], rate_hz=RATE_HZ)
        sound = load_take(path).guitar().astype(np.float64)
    else:
        level = [40.0 * np.log10(n.velocity / 127.0) for n in notes]
        sound = guitar.play(
            [Played(n.key, n.onset_s, max(0.03, n.end_s - n.onset_s), v) for n, v in zip(notes, level, strict=True)],
            seconds,
        )
    sound = np.pad(sound, (0, max(0, round(seconds * RATE_HZ) - len(sound))))
    return under(sound / max(1e-9, float(np.abs(sound).max())) * 0.5, "noise")


def judged(sound: Samples, drill: Drill, folder: Path) -> Analysis:
    """The take as the recorder would send it."""
    path = folder / "take.wav"
    soundfile.write(path, sound.astype(np.float32), RATE_HZ)
    click = None
    if drill.tempo is not None:
        click = Click(
            format="fortimetra-click", version=1, source="recorder", bpm=drill.tempo.bpm, first_beat_s=START_S,
            beats_per_bar=drill.tempo.beats_per_bar, latency_ms=12.0, channel=None,
        )  # fmt: skip
    return analyse(path, drill=drill, click=click)


def main() -> int:
    """Print every drill that is not judged clean, and a row for each family and guitar."""
    parser = argparse.ArgumentParser(prog="./run bench library")
    parser.add_argument("--quick", action="store_true", help="one guitar, every third drill")
    parser.add_argument("--seed", type=int, default=5)
    parser.add_argument("--only", default="", help="drills whose title holds this")
    parser.add_argument("--guitars", default="clean,steel,nylon recorded")
    options = parser.parse_args()
    rows: dict[tuple[str, str], Counter[str]] = defaultdict(Counter)
    measures: Counter[str] = Counter()
    spent = heard = 0.0
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        names = ["clean"] if options.quick else options.guitars.split(",")
        players = guitars(folder, names)
        drills = [shortened(b.drill) for b in library() if b.drill.family != "set_up" and options.only in b.drill.title]
        for drill in drills[:: 3 if options.quick else 1]:
            for guitar in players:
                if guitar.pack is not None and moves(drill):
                    continue
                sound = take_of(guitar, drill, np.random.default_rng(options.seed), folder)
                row = rows[drill.family, guitar.name]
                began = time.perf_counter()
                try:
                    found = judged(sound, drill, folder)
                except TakeError as error:
                    row["refused"] += 1
                    print(f"refused  {guitar.name:15} {drill.title}: {error.detail[:90]}", flush=True)
                    continue
                spent, heard = spent + time.perf_counter() - began, heard + len(sound) / RATE_HZ
                s = found.summary
                row.update(
                    takes=1, asked=s.asked, clean=s.clean, outside=s.not_clean, unclear=s.unclear, missed=s.missed,
                    extra=s.extra, causes=len(found.causes),
                )  # fmt: skip
                off = Counter(
                    m for n in found.notes if n.clean == "outside" for m in drill.measures
                    if (part := getattr(n, m)) is not None and part.verdict == "outside"
                )  # fmt: skip
                off.update("slide" for n in found.notes if n.slide is not None and n.slide.verdict == "outside")
                measures.update(off)
                if s.not_clean or s.missed or s.extra > 1:
                    why = ", ".join(f"{k} {v}" for k, v in off.most_common())
                    codes = " ".join(c.code for c in found.causes)
                    print(
                        f"{s.clean:4}/{s.asked:<4} out {s.not_clean:3} unclear {s.unclear:3} missed {s.missed:3} extra {s.extra:3}  "
                        f"{guitar.name:15} {drill.title}  [{why}] {codes}",
                        flush=True,
                    )
    print("\n| family | guitar | takes | notes | clean | outside | unclear | missed | extra | causes named | refused |")
    print("|---|---|---|---|---|---|---|---|---|---|---|")
    total: Counter[str] = Counter()
    for (family, guitar_name), row in sorted(rows.items()):
        total.update(row)
        print(_row(family, guitar_name, row))
    print(_row("all", "", total))
    print("\noutside by measure:", ", ".join(f"{k} {v}" for k, v in measures.most_common()) or "none")
    print(f"{heard / 60:.1f} minutes of sound in {spent:.0f} s")
    share = total["outside"] / max(1, total["asked"])
    print(f"false alarms: {share:.2%} of the notes (at most {MOST_OUTSIDE:.0%})")
    return 0 if share <= MOST_OUTSIDE and not total["refused"] else 1


def _row(family: str, guitar: str, row: Counter[str]) -> str:
    keys = ("takes", "asked", "clean", "outside", "unclear", "missed", "extra", "causes", "refused")
    return f"| {family} | {guitar} | " + " | ".join(str(row[k]) for k in keys) + " |"


if __name__ == "__main__":
    sys.exit(main())

"""Takes as students send them: whole drills of all families × three players × what stands before the recording.

`./run bench takes [--players clean,faulty,messy] [--chains straight,amp,phone] [--guitars clean,steel] [--seeds 3]
[--first-seed 0] [--drills 1] [--only WORDS] [--uploaded] [--verbose] [--jobs 2]`. Sounds are FluidSynth's, of two sound
fonts ("clean", "clean fluid-r3"), and recorded notes of other makers, never the simulated student. Chains are those of
`benchmarks/_chains`, with another maker's amplifier ("tube", "lead") and room ("hall") among them. Printed by chain and
player, then by family: asked notes matched to the right sound within 30 ms; false alarms on notes that are clean; what
cannot be told, by measure; recall and precision of faults; causes named; takes refused.
"""

from __future__ import annotations

import argparse
import sys
import tempfile
import time
import zlib
from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile
from fortimetra import Analysis, Click, Drill, TakeError, analyse
from fortimetra.drills.library import library
from fortimetra.model.analysis import NoteFound

from benchmarks._chains import CHAINS, with_room_sounds
from benchmarks._lines import Guitar, Played, guitars
from benchmarks._notes import RATE_HZ, Samples
from benchmarks._players import PLAYERS, START_S, Performance, Player, Sounding, moves, play
from tests.reference.fluid import Tone, wheel_cents

WITHIN_S = 0.03
# From the end of a note to 20 dB under it, measured on FluidSynth's guitars. Those of another bank are let go as by
# hand (`_notes`).
RELEASE_S = {
    "nylon": 0.126, "steel": 0.062, "jazz": 0.07, "clean": 0.1, "muted": 0.054, "overdriven": 0.054, "distorted": 0.044,
}  # fmt: skip
MOST_NOTES = 60
MEASURES = ("pitch", "bend", "vibrato", "timing", "level", "length", "noise")
# A fault is found where one of these says so; an unheard note is told by its status.
FOUND_BY = {
    "bend": ("bend",),
    "timing": ("timing",),
    "level": ("level",),
    "length": ("length", "level"),
    "noise": ("noise", "length"),
    "wrong": ("pitch", "bend"),
    "missed": (),
}


@dataclass(frozen=True)
class Case:
    """One take to be made and measured."""

    title: str
    family: str
    player: Player
    chain: str
    guitar: str
    seed: int
    clicked: bool = True


def drill_of(title: str) -> Drill:
    """A drill of the library, as often as a short take has room for."""
    drill = next(b.drill for b in library() if b.drill.title == title)
    once = sum(len(e.notes) for e in drill.events)
    return drill.model_copy(update={"repeats": max(1, min(drill.repeats, MOST_NOTES // max(1, once)))})


def _lifts_s(note: Sounding, notes: Sequence[Sounding], guitar: str) -> float:
    """How much earlier a hand lets go, so that the string is quiet where the note should end: FluidSynth's releases
    take RELEASE_S to fall by 20 dB. A string that is struck again, or slurred, is left alone.
    """
    goes_on = any(n.channel == note.channel and abs(n.onset_s - note.end_s) < 0.03 for n in notes)
    lead = 0.0 if goes_on else max(0.0, RELEASE_S.get(guitar, 0.05) - 0.05)
    return min(lead, 0.1 * (note.end_s - note.onset_s))


def sound_of(guitar: Guitar, made: Performance, folder: Path) -> Samples:
    """A performance as loud as it is recorded, before any chain."""
    return recorded(plucked(guitar, made, folder))


def recorded(sound: Samples) -> Samples:
    """A sound as loud as it is recorded: half of full scale at its loudest."""
    return np.asarray(sound / max(1e-9, float(np.abs(sound).max())) * 0.5)


def plucked(guitar: Guitar, made: Performance, folder: Path) -> Samples:
    """A performance as loud as its guitar plays each note alone."""
    notes = made.soundings
    ratio = made.cents / 100.0
    if guitar.pack is None:
        tones = [
            Tone(
                n.key, round(n.onset_s - late, 3), max(0.03, n.end_s - _lifts_s(n, notes, guitar.name) - n.onset_s),
                tuple((t + late * (t > 0.0), wheel_cents(c + made.cents)) for t, c in n.bend),
                guitar.evened(n.key, n.velocity), n.channel,
            )
            for n in notes
            for late in (guitar.late_s(n.key),)
        ]  # fmt: skip
        sound = guitar.rendered(tones)
    else:
        level = [40.0 * np.log10(n.velocity / 127.0) for n in notes]
        played = [
            Played(n.key, n.onset_s, max(0.03, n.end_s - n.onset_s), v) for n, v in zip(notes, level, strict=True)
        ]
        sound = guitar.play(played, made.seconds)
        if ratio:
            # A guitar that is flat as a whole; its tempo is kept by playing it that much quicker first.
            speed = 2.0 ** (ratio / 12.0)
            played = [Played(p.key, p.at_s * speed, p.length_s * speed, p.level_db) for p in played]
            quick = guitar.play(played, made.seconds * speed)
            at = np.arange(round(made.seconds * RATE_HZ)) * speed
            sound = np.interp(at, np.arange(len(quick)), quick)
    return np.pad(sound, (0, max(0, round(made.seconds * RATE_HZ) - len(sound))))


def judged(sound: Samples, drill: Drill, folder: Path, *, clicked: bool = True) -> Analysis:
    """The take as the recorder would send it; clicked: with where the click lies, else as an upload."""
    path = folder / "take.wav"
    peak = max(1.0, float(np.abs(sound).max()) / 0.95)
    soundfile.write(path, (sound / peak).astype(np.float32), RATE_HZ)
    click = None
    if drill.tempo is not None and clicked:
        click = Click(
            format="fortimetra-click", version=1, source="recorder", bpm=drill.tempo.bpm, first_beat_s=START_S,
            beats_per_bar=drill.tempo.beats_per_bar, latency_ms=0.0, channel=None,
        )  # fmt: skip
    return analyse(path, drill=drill, click=click)


def judged_through(guitar: str, made: Performance, drill: Drill, chain: str, rng: np.random.Generator) -> Analysis:
    """A performance on a guitar through a chain, judged. Raises TakeError where it is refused."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        return judged(CHAINS[chain](sound_of(guitar_in(folder, guitar), made, folder), rng), drill, folder)


@dataclass(frozen=True)
class Outcome:
    """What became of one asked note. fault: what was wrong with it, None where it was clean; off: measures that are not
    clean; gone: not heard as what was asked; hit: its fault is found; matched: heard where it was played.
    """

    note: NoteFound
    fault: str | None
    off: frozenset[str]
    gone: bool
    hit: bool
    matched: bool

    def __str__(self) -> str:
        said = "; ".join(
            [f"{m} {getattr(self.note, m).model_dump(exclude_none=True)}" for m in sorted(self.off)]
            or [self.note.status]
        )
        return (
            f"{self.note.id} of repeat {self.note.repeat + 1}, string {self.note.string}, at {self.note.onset_s} s:"
            f" {self.fault or 'clean'}, said {said} {' '.join(self.note.reasons)}"
        )


def outcomes(found: Analysis, made: Performance, drill: Drill) -> Iterator[Outcome]:
    """Of every asked note of a take."""
    slid = {e.id for e in drill.events if e.articulation == "slide"}
    for note in found.notes:
        key = (note.id, note.repeat, note.string or 0)
        true, fault = made.onsets_s.get(key, []), made.faults.get(key)
        if not true and fault != "missed":
            continue
        if fault == "missed":
            matched = note.status == "missed"
        else:
            # What slides from the note before is played where it arrives; a stroke that slides, where it is struck.
            arrives_s = note.slide.arrives_s if note.slide is not None and key[0] in slid else None
            at = note.onset_s if arrives_s is None else arrives_s
            matched = at is not None and min(abs(at - t) for t in true) < WITHIN_S
        off = frozenset(m for m in MEASURES if (p := getattr(note, m)) is not None and p.verdict == "outside")
        gone = note.status in {"missed", "wrong_pitch", "partly_played"}
        hit = gone if fault in {"missed", "wrong"} else fault is not None and bool(off & set(FOUND_BY[fault]))
        hit = hit or (fault == "wrong" and bool(off & {"pitch", "bend"}))
        yield Outcome(note, fault, off, gone, hit, matched)


def counted(found: Analysis, made: Performance, drill: Drill) -> Counter[str]:
    """How many of each there are in a take."""
    row: Counter[str] = Counter(takes=1, causes=len(found.causes))
    for told in outcomes(found, made, drill):
        row["asked"] += 1
        row["matched"] += told.matched
        for measure in drill.measures:
            part = getattr(told.note, measure)
            if part is not None and part.verdict is not None:
                row[f"judged {measure}"] += 1
                row[f"open {measure}"] += part.verdict == "unclear"
        if told.fault is None:
            row["clean"] += 1
            row["false"] += bool(told.off) or told.gone
            row["flags"] += len(told.off) + told.gone
            for measure in told.off:
                row[f"false {measure}"] += 1
            row["false missed"] += told.gone
            continue
        flags = max(1, len(told.off)) if told.off or told.gone else 0
        row["faults"] += 1
        row[f"fault {told.fault}"] += 1
        row["found"] += told.hit
        row[f"found {told.fault}"] += told.hit
        row["flags"] += flags
        row["right flags"] += max(1, len(told.off)) if told.hit else 0
    return row


def wrong(found: Analysis, made: Performance, drill: Drill) -> list[str]:
    """A line for each clean note that is called off, and for each fault that is not found."""
    told = outcomes(found, made, drill)
    return [str(t) for t in told if (t.fault is None and (t.off or t.gone)) or (t.fault is not None and not t.hit)]


_guitars: dict[str, Guitar] = {}


def guitar_in(folder: Path, name: str) -> Guitar:
    """A guitar that writes into a folder; read once a process."""
    if name not in _guitars:
        _guitars[name] = guitars(folder, [name])[0]
    _guitars[name].folder = folder
    return _guitars[name]


def measured(case: Case) -> tuple[Case, Counter[str], float, list[str]]:
    """One case; the last is what is wrong in it, or why it was refused."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        guitar = guitar_in(folder, case.guitar)
        drill = drill_of(case.title)
        rng = np.random.default_rng([case.seed, zlib.crc32(case.title.encode()), PLAYERS.index(case.player)])
        made = play(drill, case.player, rng)
        sound = sound_of(guitar, made, folder)
        if case.player == "messy":
            sound = with_room_sounds(sound, rng, START_S)
        sound = CHAINS[case.chain](sound, rng)
        began = time.perf_counter()
        try:
            found = judged(sound, drill, folder, clicked=case.clicked)
        except TakeError as error:
            asked = sum(not n.muted for e in drill.events for n in e.notes) * drill.repeats
            return case, Counter(refused=1, takes=1, asked=asked, faults=len(made.faults)), 0.0, [error.detail]
        return case, counted(found, made, drill), time.perf_counter() - began, wrong(found, made, drill)


def cases(options: argparse.Namespace) -> Iterator[Case]:
    """Drills of every family in turn, others for each seed."""
    by_family: dict[str, list[Drill]] = defaultdict(list)
    for built in library():
        if built.drill.family != "set_up" and options.only in built.drill.title:
            by_family[built.drill.family].append(built.drill)
    for seed in range(options.first_seed, options.first_seed + options.seeds):
        for family, drills in sorted(by_family.items()):
            for number in range(options.drills):
                drill = drills[(seed * options.drills + number) % len(drills)]
                for player in options.players.split(","):
                    for chain in options.chains.split(","):
                        names = options.guitars.split(",")
                        guitar = names[seed % len(names)]
                        if guitar.endswith("recorded") and moves(drill):
                            guitar = "clean"
                        yield Case(drill.title, family, player, chain, guitar, seed, not options.uploaded)


def _share(part: int, whole: int) -> str:
    return f"{100.0 * part / whole:.1f} %" if whole else "—"


def _row(name: str, row: Counter[str]) -> str:
    return " | ".join(
        [
            f"| {name}", str(row["takes"]), str(row["asked"]), _share(row["matched"], row["asked"]),
            _share(row["false"], row["clean"]), _share(row["found"], row["faults"]),
            _share(row["right flags"], row["flags"]), str(row["causes"]), f"{row['refused']} |",
        ]
    )  # fmt: skip


HEAD = "takes | asked | matched | false alarms | faults found | flags right | causes | refused |\n" + "|---" * 9 + "|"


def main() -> int:
    """Print the tables."""
    parser = argparse.ArgumentParser(prog="./run bench takes")
    parser.add_argument("--players", default=",".join(PLAYERS))
    parser.add_argument("--chains", default="straight,amp,phone")
    parser.add_argument("--guitars", default="clean,steel,nylon recorded")
    parser.add_argument("--seeds", type=int, default=3, help="how many")
    parser.add_argument("--first-seed", type=int, default=0, help="the first of them: others play other drills")
    parser.add_argument("--drills", type=int, default=1, help="drills of each family a seed")
    parser.add_argument("--only", default="", help="drills whose title holds this")
    parser.add_argument("--jobs", type=int, default=2)
    parser.add_argument("--uploaded", action="store_true", help="nothing is known of the click")
    parser.add_argument("--verbose", action="store_true", help="a line for each take, and for each note told wrongly")
    options = parser.parse_args()
    by_chain: dict[tuple[str, str], Counter[str]] = defaultdict(Counter)
    by_family: dict[tuple[str, str], Counter[str]] = defaultdict(Counter)
    spent, why = 0.0, []
    with ProcessPoolExecutor(options.jobs) as pool:
        for case, row, seconds, lines in pool.map(measured, list(cases(options)), chunksize=2):
            by_chain[case.chain, case.player].update(row)
            by_chain[case.chain, "all"].update(row)
            by_family[case.chain, case.family].update(row)
            spent += seconds
            if row["refused"]:
                why.append(f"{case.chain}, {case.player}, {case.title}: {lines[0][:110]}")
            if options.verbose:
                print(_row(f"{case.chain} {case.player} {case.guitar} {case.seed} {case.title}", row))
                print("".join(f"    {line}\n" for line in lines), end="", flush=True)
    print(f"\n| chain, player | {HEAD}")
    for (chain, player), row in sorted(by_chain.items()):
        print(_row(f"{chain}, {player}", row))
    print(f"\n| chain, family | {HEAD}")
    for (chain, family), row in sorted(by_family.items()):
        print(_row(f"{chain}, {family}", row))
    print("\n| chain | measure | judged | cannot tell | false alarms | faults | found |\n|---|---|---|---|---|---|---|")
    for chain in sorted({c for c, _ in by_chain}):
        row = by_chain[chain, "all"]
        for name in (*MEASURES, "missed", "wrong"):
            if row[f"judged {name}"] or row[f"fault {name}"]:
                print(
                    f"| {chain} | {name} | {row[f'judged {name}']}"
                    f" | {_share(row[f'open {name}'], row[f'judged {name}'])}"
                    f" | {row[f'false {name}']} | {row[f'fault {name}']}"
                    f" | {_share(row[f'found {name}'], row[f'fault {name}'])} |"
                )
    for line in why:
        print(f"refused: {line}")
    print(f"measured in {spent:.0f} s")
    return 0


if __name__ == "__main__":
    sys.exit(main())

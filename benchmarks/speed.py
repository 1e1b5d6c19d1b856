"""How long the core takes, and how much memory, against references in the same run. `./run bench speed`.

References: librosa's yin over the same sound for the measuring; 2000 spectra of 4096 samples for the rest; for memory
the decoded samples themselves. Exit status 1 where a limit is passed.
"""

from __future__ import annotations

import io
import subprocess
import sys
import tempfile
from dataclasses import replace
from pathlib import Path

import numpy as np
import soundfile
from fortimetra import TakeError, load_take
from fortimetra.align.match import asked_events
from fortimetra.align.pair import match
from fortimetra.drills.fretted_then_bend import fretted_then_bend
from fortimetra.drills.generator import generate
from fortimetra.drills.library import GENERATORS, built_in_drills
from fortimetra.errors import DrillError
from fortimetra.formats.musicxml_in import read_musicxml
from fortimetra.formats.musicxml_out import drill_to_musicxml
from fortimetra.hear.notes import HeardNote
from fortimetra.model.drill import Drill
from fortimetra.pipeline import analyse
from fortimetra.player.faults import Faults
from fortimetra.player.rendering import render
from fortimetra.sound.decode import Take

from benchmarks._limits import Row, best_ms, spectra, table

RATE_HZ = 48_000
MINUTES = 15


def minute() -> tuple[Take, Drill]:
    """A minute of bends."""
    drill = fretted_then_bend(title="t", string=3, fret=7, repeats=7, bpm=56)
    sound, _ = render(drill, Faults(random_ms=4.0))
    return Take(np.atleast_2d(sound)[:, : 60 * RATE_HZ], RATE_HZ, "0" * 64), drill


def measuring() -> list[Row]:
    """A minute of bends, of picking, of double stops against yin over the same sound."""
    import librosa

    rows = []
    take, drill = minute()
    picked = next(d for d in built_in_drills() if d.family == "alternate_picking").model_copy(update={"repeats": 8})
    chords = next(d for d in built_in_drills() if d.family == "muted_double_stops").model_copy(update={"repeats": 8})
    takes = [("a minute of bends", take, drill)]
    for name, asked in (("a minute of picking", picked), ("a minute of double stops", chords)):
        sound, _ = render(asked, Faults(random_ms=4.0))
        takes.append((name, Take(np.atleast_2d(sound), RATE_HZ, "0" * 64), asked))
    for (name, sound_of, asked), most in zip(takes, (1.5, 2.0, 2.6), strict=True):
        share = 60.0 / sound_of.duration_s
        found, reference = best_ms(
            lambda t=sound_of, d=asked: analyse(t, drill=d),
            lambda t=sound_of: librosa.yin(t.samples[0], fmin=75.0, fmax=1400.0, sr=RATE_HZ, hop_length=256),
            turns=3,
        )
        rows.append(Row(f"{name}, measured and judged", found * share, reference * share, most))
    return rows


def aligning() -> list[Row]:
    """A quarter of an hour of picking, one note in 97 left out and a soft rise after one in seven: which is which."""
    drill = next(d for d in built_in_drills() if d.family == "alternate_picking")
    drill = drill.model_copy(update={"repeats": round(MINUTES * 60 / (drill.length_beats * drill.seconds_per_beat))})
    rng = np.random.default_rng(1)
    heard = []
    for i, event in enumerate(asked_events(drill)):
        onset_s = 1.5 + event.beat * drill.seconds_per_beat + rng.normal(0.0, 0.008)
        midi = event.start_midi
        note = HeardNote(onset_s, onset_s + 0.1, midi, midi, midi, -20.0, "attack", rise_db=12.0, contrast_db=20.0)
        if i % 97:
            heard.append(note)
        if i % 7 == 0:
            heard.append(replace(note, onset_s=onset_s + 0.13, rise_db=1.0, contrast_db=1.0))
    heard.sort(key=lambda n: n.onset_s)
    found, reference = best_ms(lambda: match(heard, drill, first_beat_s=1.5), spectra, turns=3)
    return [Row(f"{len(heard)} heard notes aligned with {len(asked_events(drill))}", found, reference, 15.0)]


def scores() -> list[Row]:
    """MusicXML of 500 notes, out and in; what cannot be read is refused soon."""
    drill = generate(GENERATORS["alternate_picking"], {})
    many = [
        e.model_copy(update={"id": f"{e.id}_{i}", "beat": e.beat + i * drill.length_beats})
        for i in range(16)
        for e in drill.events
    ]
    long = drill.model_copy(update={"events": tuple(many[:500]), "repeats": 1})
    content = drill_to_musicxml(long)
    bomb = b'<?xml version="1.0"?><!DOCTYPE s [<!ENTITY a "' + b"x" * 1000 + b'">]><score-partwise>' + b"&a;" * 10_000

    def refused() -> None:
        try:
            read_musicxml(bomb)
        except DrillError:
            return
        raise AssertionError("a score with entities was read")

    rows = []
    for name, work, most in (
        ("500 notes to MusicXML", lambda: drill_to_musicxml(long), 6.0),
        ("500 notes from MusicXML", lambda: read_musicxml(content), 9.0),
        ("a score with 10,000 entities, refused", refused, 0.1),
    ):
        found, reference = best_ms(work, spectra, turns=3)
        rows.append(Row(name, found, reference, most))
    return rows


def hostile() -> list[Row]:
    """A file that claims three hours, and a megabyte of noise that claims to be FLAC."""
    rows = []
    with tempfile.TemporaryDirectory() as folder:
        out = io.BytesIO()
        soundfile.write(out, np.zeros(8000 * 3600 * 3, dtype=np.int16), 8000, format="FLAC", subtype="PCM_16")
        long = Path(folder) / "long.flac"
        long.write_bytes(out.getvalue())
        noise = Path(folder) / "noise.flac"
        noise.write_bytes(b"fLaC" + np.random.default_rng(1).bytes(1_000_000))
        for name, path, most in (("three hours of silence", long, 2.0), ("a megabyte of noise", noise, 0.3)):

            def refused(path: Path = path) -> None:
                try:
                    load_take(path)
                except TakeError:
                    return
                raise AssertionError(f"{path.name} was read")

            found, reference = best_ms(refused, spectra, turns=3)
            rows.append(Row(f"{name}, refused", found, reference, most))
    return rows


def memory() -> list[Row]:
    """The peak of a process that measures a take of 15 minutes, over that of one that only loads what it needs for
    it.
    """
    took = {n: int(_child(n)) / 1024 for n in ("nothing", "take")}
    samples_mb = MINUTES * 60 * RATE_HZ * 4 / 1e6
    return [
        Row(
            f"{MINUTES} minutes measured, beyond the loaded program",
            took["take"] - took["nothing"],
            samples_mb,
            1.5,
            "MB",
        )
    ]


def _child(what: str) -> str:
    done = subprocess.run(
        [sys.executable, "-m", "benchmarks.speed", "--child", what], capture_output=True, text=True, check=True
    )
    return done.stdout.strip()


def child(what: str) -> None:
    """Print the peak of this process, in kB."""
    drill = fretted_then_bend(title="t", string=3, fret=7, repeats=7, bpm=56)
    if what == "take":
        sound, _ = render(drill, Faults())
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "take.wav"
            with soundfile.SoundFile(path, "w", RATE_HZ, 1, "PCM_24") as file:
                for _ in range(MINUTES):
                    file.write(sound[: 60 * RATE_HZ])
            analyse(path, drill=drill.model_copy(update={"repeats": 7 * MINUTES}))
    else:
        sound, _ = render(drill.model_copy(update={"repeats": 1}), Faults())
        analyse(Take(np.atleast_2d(sound), RATE_HZ, "0" * 64), drill=drill.model_copy(update={"repeats": 1}))
    # Of this program alone: getrusage would carry over the peak of the process that started it.
    status = dict(line.split(":", 1) for line in Path("/proc/self/status").read_text().splitlines())
    print(status["VmHWM"].split()[0])


def main() -> int:
    """Every table; the worst exit status."""
    if "--child" in sys.argv:
        child(sys.argv[-1])
        return 0
    return max(
        table("Measuring, beside librosa's yin over the same sound", measuring()),
        table("Aligning, beside 2000 spectra of 4096 samples", aligning()),
        table("Scores, beside 2000 spectra of 4096 samples", scores()),
        table("Hostile recordings, beside 2000 spectra of 4096 samples", hostile()),
        table("Memory, beside the samples of the take", memory()),
    )


if __name__ == "__main__":
    sys.exit(main())

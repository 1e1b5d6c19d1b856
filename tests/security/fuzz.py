"""Damaging files at random, by a seed: what reads them refuses with an error of ours, and with nothing else.

`./run test tests/security/test_fuzz.py` gives each kind a few seconds; FORTIMETRA_FUZZ_S=600 in front gives each ten
minutes, FORTIMETRA_FUZZ_SEED=7 another course.
"""

from __future__ import annotations

import io
import os
import time
import zipfile
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import av
import numpy as np
import soundfile
from fortimetra import Drill, FortimetraError, load_take
from fortimetra.drills.library import library
from fortimetra.formats.midi import drill_to_midi
from fortimetra.formats.midi_in import read_midi
from fortimetra.formats.musicxml_in import read_musicxml
from fortimetra.formats.musicxml_out import drill_to_musicxml

SECONDS = float(os.environ.get("FORTIMETRA_FUZZ_S", "2"))
SEED = int(os.environ.get("FORTIMETRA_FUZZ_SEED", "20261128"))
RATE_HZ = 16_000


@dataclass(frozen=True)
class Kind:
    """One kind of input. good: files that are read; read: what reads one from a path of an ordinary disk."""

    name: str
    good: tuple[bytes, ...]
    read: Callable[[Path], Any]


@dataclass
class Tally:
    """How often what happened; broken: what should not have, with the input."""

    read: int = 0
    refused: int = 0
    broken: list[tuple[BaseException, bytes]] = field(default_factory=list)


def damaged(content: bytes, rng: np.random.Generator) -> bytes:
    """One of what happens to files: bits, bytes, holes, repeats, ends, zeros, numbers at their ends."""
    data = bytearray(content)
    for _ in range(int(rng.integers(1, 6))):
        if not data:
            break
        at = int(rng.integers(len(data)))
        # Headers are where sizes stand.
        at = at if rng.random() < 0.5 else at % min(len(data), 512)
        length = int(rng.integers(1, 65))
        what = int(rng.integers(7))
        if what == 0:
            data[at] ^= 1 << int(rng.integers(8))
        elif what == 1:
            data[at : at + length] = rng.integers(0, 256, length, dtype=np.uint8).tobytes()
        elif what == 2:
            del data[at : at + length]
        elif what == 3:
            data[at:at] = data[at : at + length]
        elif what == 4:
            del data[at:]
        elif what == 5:
            data[at : at + length] = b"\0" * length
        else:
            data[at : at + 4] = (b"\xff\xff\xff\xff", b"\x7f\xff\xff\xff", b"\xff\xff\xff\x7f", b"\0\0\0\0")[length % 4]
    return bytes(data)


def attack(kind: Kind, folder: Path, *, seconds: float = SECONDS, seed: int = SEED) -> Tally:
    """Read damaged files of a kind for so long."""
    rng = np.random.default_rng([seed, *kind.name.encode()])
    tally, until = Tally(), time.monotonic() + seconds
    path = folder / "damaged"
    while time.monotonic() < until and len(tally.broken) < 5:
        content = damaged(kind.good[int(rng.integers(len(kind.good)))], rng)
        path.write_bytes(content)
        try:
            kind.read(path)
            tally.read += 1
        except FortimetraError as error:
            tally.refused += bool(error.detail)
        except BaseException as error:  # whatever it is, it is the finding
            tally.broken.append((error, content))
    return tally


def kinds() -> list[Kind]:
    """Recordings by format, scores, MIDI, drills."""
    found = [Kind(f"recording {form}", (content,), load_take) for form, content in recordings().items()]
    drills = [b.drill for b in library()[::37]]
    scores = tuple(drill_to_musicxml(d) for d in drills)
    found.append(Kind("score", scores, lambda path: read_musicxml(path.read_bytes())))
    packed = tuple(_mxl(score) for score in scores)
    found.append(Kind("packed score", packed, lambda path: read_musicxml(path.read_bytes())))
    found.append(
        Kind("MIDI", tuple(drill_to_midi(d).content for d in drills), lambda path: read_midi(path.read_bytes()))
    )
    written = tuple(d.model_dump_json(by_alias=True).encode() for d in drills)
    found.append(Kind("drill", written, Drill.read))
    return found


def recordings() -> dict[str, bytes]:
    """Short recordings in every format that is taken."""
    t = np.arange(RATE_HZ // 2) / RATE_HZ
    sound = (0.4 * np.sin(2 * np.pi * 220.0 * t) * np.exp(-3.0 * t)).astype(np.float32)
    found = {}
    for form, subtype in (
        ("WAV", "PCM_16"),
        ("FLAC", "PCM_16"),
        ("AIFF", "PCM_24"),
        ("CAF", "PCM_16"),
        ("OGG", "VORBIS"),
    ):
        out = io.BytesIO()
        soundfile.write(out, sound, RATE_HZ, format=form, subtype=subtype)
        found[form] = out.getvalue()
    for form, codec in (("mp3", "mp3"), ("mp4", "aac"), ("webm", "libopus")):
        found[form] = _coded(sound, form, codec)
    return found


def _coded(sound: np.ndarray[Any, Any], form: str, codec: str) -> bytes:
    out = io.BytesIO()
    with av.open(out, "w", format=form) as container:
        stream = container.add_stream(codec, rate=48_000, layout="mono")
        frame = av.AudioFrame.from_ndarray(np.repeat(sound, 3)[None, :], format="fltp", layout="mono")
        frame.sample_rate = 48_000
        fifo = av.AudioResampler(format=stream.format, layout="mono", rate=48_000, frame_size=960)
        for part in [*fifo.resample(frame), *fifo.resample(None)]:
            for packet in stream.encode(part):
                container.mux(packet)
        for packet in stream.encode(None):
            container.mux(packet)
    return out.getvalue()


def _mxl(score: bytes) -> bytes:
    out = io.BytesIO()
    container = (
        b'<?xml version="1.0"?><container><rootfiles><rootfile full-path="score.musicxml"/></rootfiles></container>'
    )
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        made.writestr("META-INF/container.xml", container)
        made.writestr("score.musicxml", score)
    return out.getvalue()

"""Samples: in memory while they are few, in a file that nothing leads to while they are many.

A quarter of an hour in stereo is 350 MB of samples, and its copies at other rates as much again, of which a stage
looks at a few seconds at a time. In a file the rest is the system's to write out and take back; the file is gone with
the array, and with the process however that ends. Arrays are ordinary ones: nobody has to know where they lie.
"""

from __future__ import annotations

import mmap
import os
import tempfile
import weakref
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from fortimetra.sound.settings import DECODE

Samples = NDArray[np.float32]
BLOCK_FRAMES = 1 << 18  # a block of sound that is worked on at a time: 5 s at 48 kHz, 1 MB

_files: weakref.WeakSet[mmap.mmap] = weakref.WeakSet()


def empty(*shape: int) -> Samples:
    """An array of float32 of this shape to be written to; what is in it before is not told."""
    count = int(np.prod(shape))
    if count <= DECODE.memory_samples:
        return np.empty(shape, np.float32)
    try:
        with tempfile.TemporaryFile(prefix="fortimetra-sound-") as file:
            # Set aside at once: a disk that fills up later would end the process at some write.
            os.posix_fallocate(file.fileno(), 0, 4 * count)
            mapped = mmap.mmap(file.fileno(), 4 * count)
    except OSError:  # no room there, or no such folder
        return np.empty(shape, np.float32)
    _files.add(mapped)
    return np.frombuffer(mapped, np.float32).reshape(shape)


def blocks(count: int, size: int | None = None) -> Iterator[slice]:
    """Parts of so many samples, or of rows of them, in order, none longer than size (BLOCK_FRAMES); what was looked at
    for a part is let go after it.
    """
    size = max(1, BLOCK_FRAMES if size is None else size)
    for first in range(0, count, size):
        yield slice(first, min(count, first + size))
        let_go()


def extremes(samples: Samples) -> tuple[Samples, Samples]:
    """Lowest and highest value of each channel, shape (n_channels,) each; samples: shape (n_channels, n_samples)."""
    low, high = np.full(len(samples), np.inf, np.float32), np.full(len(samples), -np.inf, np.float32)
    for part in blocks(samples.shape[1]):
        np.minimum(low, samples[:, part].min(axis=1), out=low)
        np.maximum(high, samples[:, part].max(axis=1), out=high)
    return low, high


def let_go() -> None:
    """Leave to the system what was looked at of sound that lies in files; looked at again, it is there again."""
    for mapped in list(_files):
        mapped.madvise(mmap.MADV_DONTNEED)


def copied(samples: Samples, *, before: int = 0, after: int = 0) -> Samples:
    """A copy of sound, shape (n_samples,), with so many zeros before and after it."""
    made = empty(before + len(samples) + after)
    made[:before] = made[before + len(samples) :] = 0.0
    for part in blocks(len(samples)):
        made[before + part.start : before + part.stop] = samples[part]
    return made

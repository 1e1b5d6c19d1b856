"""Long sound lies in files: the same numbers, nothing left behind, and memory where there is no disk for it."""

import errno
import gc
import mmap
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import soxr
from fortimetra.drills.fretted_then_bend import fretted_then_bend
from fortimetra.pipeline import analyse
from fortimetra.player.faults import Faults
from fortimetra.sound import decode, samples
from fortimetra.sound.decode import Take, load_take, resampled

from tests.core.sounds import noise
from tests.kept import render

RATE_HZ = 48_000


@pytest.fixture
def long_from(monkeypatch):
    """From so many samples on sound is long; and in blocks of so many."""

    def set_to(count, block=1 << 15):
        for module in (samples, decode):
            monkeypatch.setattr(module, "DECODE", replace(module.DECODE, memory_samples=count))
        monkeypatch.setattr(samples, "BLOCK_FRAMES", block)

    return set_to


def in_file(held):
    base = held
    while isinstance(base, np.ndarray):
        base = base.base
    return isinstance(base.obj if isinstance(base, memoryview) else base, mmap.mmap)


def files():
    """How many files without a name this process has mapped."""
    return sum(line.endswith("(deleted)") for line in Path("/proc/self/maps").read_text().splitlines())


def test_sound_is_in_memory_up_to_its_length_and_in_a_file_beyond(long_from):
    long_from(6_000)
    assert not in_file(samples.empty(6_000))
    assert in_file(samples.empty(6_001))
    assert samples.empty(2, 3_001).shape == (2, 3_001)
    assert in_file(samples.empty(2, 3_001))
    assert not in_file(samples.empty(2, 3_000))


def test_what_is_let_go_is_there_again_and_can_be_written_to(long_from):
    long_from(1_000)
    held = samples.empty(2, 100_000)
    held[:] = noise(4.2, -20.0, rate_hz=RATE_HZ)[:200_000].reshape(2, -1)
    before = held.copy()
    samples.let_go()
    held[0, 5] = 0.5
    samples.let_go()
    before[0, 5] = 0.5
    assert np.array_equal(held, before)


def test_a_file_is_gone_with_its_array(long_from):
    long_from(1_000)
    gc.collect()
    before = files()
    held = samples.empty(100_000)
    part = held[10:20]
    part[:] = 1.0
    assert files() > before
    del held
    assert part.sum() == 10.0
    del part
    gc.collect()
    assert files() == before
    samples.let_go()


def test_where_the_disk_has_no_room_sound_is_in_memory(long_from, monkeypatch):
    long_from(1_000)

    def full(*_):
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(samples.os, "posix_fallocate", full)
    held = samples.empty(5_000)
    held[:] = 1.0
    assert held.sum() == 5_000.0
    assert not in_file(held)


def test_where_there_is_no_folder_for_files_sound_is_in_memory(long_from, monkeypatch, tmp_path):
    long_from(1_000)
    monkeypatch.setattr(samples.tempfile, "tempdir", str(tmp_path / "away"))
    assert not in_file(samples.empty(5_000))


@pytest.mark.parametrize("count", [1, 32_768, 32_769, 100_000])
def test_blocks_are_all_of_a_sound_in_order(long_from, count):
    long_from(1_000)
    parts = list(samples.blocks(count))
    assert np.array_equal(np.concatenate([np.arange(count)[part] for part in parts]), np.arange(count))
    assert max(part.stop - part.start for part in parts) <= 1 << 15


@pytest.mark.parametrize("most", [10**9, 1_000])
def test_a_copy_has_zeros_about_it_and_extremes_are_numpys(long_from, most):
    sound = noise(3.0, -20.0, rate_hz=RATE_HZ)
    long_from(most)
    assert np.array_equal(samples.copied(sound, before=7, after=9), np.pad(sound, (7, 9)))
    both = np.stack([sound, 0.5 * sound])
    low, high = samples.extremes(both)
    assert np.array_equal(low, both.min(axis=1))
    assert np.array_equal(high, both.max(axis=1))


@pytest.mark.parametrize("to_hz", [36_000, 24_000, 12_000, 6_000])
def test_another_rate_made_block_by_block_is_that_made_at_once(long_from, to_hz):
    sound = noise(8.0, -20.0, rate_hz=RATE_HZ)
    at_once = resampled(sound.copy(), from_hz=RATE_HZ, to_hz=to_hz)
    long_from(1_000)
    long = sound.copy()
    found = resampled(long, from_hz=RATE_HZ, to_hz=to_hz)
    assert in_file(found)
    assert np.array_equal(found, at_once)
    assert len(found) == len(soxr.resample(sound, RATE_HZ, to_hz))
    assert resampled(long, from_hz=RATE_HZ, to_hz=to_hz) is found


@pytest.mark.parametrize("channels", [1, 2])
def test_a_long_take_is_measured_as_a_short_one_is(long_from, tmp_path, channels):
    drill = fretted_then_bend(title="t", string=3, fret=7, repeats=2, bpm=66)
    sound, truth = render(drill, Faults(notes={}))
    path = tmp_path / "take.wav"
    decode.soundfile.write(path, np.stack([sound, 0.8 * sound][:channels], axis=1), truth.sample_rate_hz, "FLOAT")
    short = analyse(path, drill=drill)
    long_from(10_000)
    take = load_take(path)
    assert in_file(take.samples)
    assert in_file(take.guitar())
    assert analyse(take, drill=drill) == short
    assert analyse(Take(np.ascontiguousarray(take.samples), take.sample_rate_hz, take.sha256), drill=drill) == short

"""Damaged and forged files: a take, or a TakeError with a sentence; never anything else, never slow."""

import io

import numpy as np
import pytest
import soundfile
from fortimetra import TakeError, load_take

from tests.core.sounds import tone
from tests.core.test_decode import _coded

KINDS = ["wav", "flac", "aiff", "ogg", "opus", "webm", "mp3", "m4a"]
CODECS = {"opus": ("libopus", "ogg"), "webm": ("libopus", "webm"), "mp3": ("mp3", "mp3"), "m4a": ("aac", "mp4")}


@pytest.fixture(scope="module")
def files(tmp_path_factory):
    folder = tmp_path_factory.mktemp("good")
    sound = tone(330.0, 0.6, rate_hz=48_000)
    good = {}
    for kind in KINDS:
        path = folder / f"a.{kind}"
        if kind in CODECS:
            _coded(path, sound, *CODECS[kind])
        else:
            soundfile.write(path, sound, 48_000, **({"format": "OGG", "subtype": "VORBIS"} if kind == "ogg" else {}))
        good[kind] = path.read_bytes()
    return good


def _attempt(path):
    try:
        take = load_take(path)
    except TakeError as error:
        assert error.detail.endswith(".")
        assert len(error.detail) < 400
    else:
        assert np.isfinite(take.samples).all()
        assert 1 <= take.samples.shape[0] <= 2
        assert take.duration_s <= 900


@pytest.mark.parametrize("kind", KINDS)
def test_flipped_bytes_do_no_harm(files, kind, tmp_path):
    rng = np.random.default_rng(KINDS.index(kind))
    path = tmp_path / "a"
    for round_ in range(40):
        content = bytearray(files[kind])
        # Half of the rounds in the header, where sizes and offsets stand.
        reach = min(len(content), 200) if round_ % 2 else len(content)
        for at in rng.integers(0, reach, 1 + round_ // 4):
            content[at] = rng.integers(0, 256)
        path.write_bytes(content)
        _attempt(path)


@pytest.mark.parametrize("kind", KINDS)
def test_a_file_cut_anywhere_does_no_harm(files, kind, tmp_path):
    content = files[kind]
    path = tmp_path / "a"
    for keep in np.unique(np.geomspace(4, len(content) - 1, 25).astype(int)):
        path.write_bytes(content[:keep])
        _attempt(path)


@pytest.mark.parametrize("kind", KINDS)
def test_something_glued_on_or_put_inside_does_no_harm(files, kind, tmp_path):
    content = files[kind]
    middle = len(content) // 2
    other = files["wav" if kind != "wav" else "mp3"]
    for i, forged in enumerate(
        (content + other, content[:middle] + other + content[middle:], content * 3, content[:64] + bytes(50_000))
    ):
        path = tmp_path / str(i)
        path.write_bytes(forged)
        _attempt(path)


def test_a_small_file_that_decodes_to_hours_stops_at_the_limit(tmp_path):
    out = io.BytesIO()
    soundfile.write(out, np.full(8_000 * 3600 * 2, 1e-3, np.float32), 8_000, format="FLAC", subtype="PCM_16")
    path = tmp_path / "bomb.flac"
    path.write_bytes(out.getvalue())
    assert path.stat().st_size < 1_000_000
    with pytest.raises(TakeError) as error:
        load_take(path)
    assert error.value.code == "too_long"

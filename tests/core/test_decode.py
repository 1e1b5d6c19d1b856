"""Recordings of every accepted kind, and every kind of broken one."""

import gc
import struct
import wave

import av
import numpy as np
import pytest
import soundfile
from fortimetra import Limits, TakeError, load_take
from fortimetra.sound import decode

from tests.core.sounds import noise, tone

RATE_HZ = 44_100


@pytest.fixture
def sound():
    return tone(330.0, 1.5, rate_hz=RATE_HZ)


def _wav(path, samples, rate_hz=RATE_HZ, **kind):
    soundfile.write(path, samples, rate_hz, **kind)
    return path


def _coded(path, samples, codec, container, rate_hz=48_000):
    if codec == "libvorbis":
        return _wav(path, samples, rate_hz, format="OGG", subtype="VORBIS")
    with av.open(str(path), "w", format=container) as out:
        stream = out.add_stream(codec, rate=rate_hz)
        stream.layout = "mono"
        frame = av.AudioFrame.from_ndarray(samples[None, :], format="flt", layout="mono")
        frame.sample_rate = rate_hz
        for resampled in av.AudioResampler(
            format=stream.format, layout="mono", rate=rate_hz, frame_size=stream.frame_size or 1024
        ).resample(frame):
            out.mux(stream.encode(resampled))
        out.mux(stream.encode(None))
    return path


@pytest.mark.parametrize(
    ("suffix", "subtype"),
    [("wav", "PCM_16"), ("wav", "PCM_24"), ("wav", "FLOAT"), ("flac", "PCM_24"), ("aiff", "PCM_16")],
)
def test_uncompressed_files_come_back_sample_for_sample(tmp_path, sound, suffix, subtype):
    take = load_take(_wav(tmp_path / f"a.{suffix}", sound, subtype=subtype))
    assert take.sample_rate_hz == RATE_HZ
    assert take.samples.shape == (1, len(sound))
    assert np.max(np.abs(take.samples[0] - sound)) < 2.0**-14


@pytest.mark.parametrize(
    ("codec", "container", "suffix"),
    [
        ("libvorbis", "ogg", "ogg"),
        ("libopus", "ogg", "opus"),
        ("libopus", "webm", "webm"),
        ("mp3", "mp3", "mp3"),
        ("aac", "mp4", "m4a"),
    ],
)
def test_compressed_files_keep_length_and_level(tmp_path, codec, container, suffix):
    sound = tone(330.0, 1.5, rate_hz=48_000)
    take = load_take(_coded(tmp_path / f"a.{suffix}", sound, codec, container))
    assert take.sample_rate_hz == 48_000
    assert take.duration_s == pytest.approx(1.5, abs=0.08)
    middle = take.samples[0, 30_000:40_000]
    assert 20 * np.log10(np.std(middle) / np.std(sound[30_000:40_000])) == pytest.approx(0.0, abs=0.5)


def test_the_name_does_not_matter_the_content_does(tmp_path, sound):
    path = _wav(tmp_path / "a.wav", sound)
    renamed = path.rename(tmp_path / "holiday.mp3")
    assert load_take(renamed).duration_s == pytest.approx(1.5, abs=1e-3)


@pytest.mark.parametrize(("rate", "channels", "subtype"), [(8_000, 1, "PCM_U8"), (192_000, 2, "PCM_24")])
def test_extremes_of_the_contract_are_read(tmp_path, rate, channels, subtype):
    sound = np.stack([tone(330.0, 1.0, rate_hz=rate)] * channels, axis=1)
    take = load_take(_wav(tmp_path / "a.wav", sound, rate, subtype=subtype))
    kept = min(rate, 48_000)
    assert (take.sample_rate_hz, take.samples.shape) == (kept, (channels, kept))
    assert (take.as_recorded.rate_hz if take.as_recorded else take.sample_rate_hz) == rate


def _zero_length_header(path, sound):
    _wav(path, sound, subtype="PCM_16")
    data = bytearray(path.read_bytes())
    at = data.index(b"data")
    data[at + 4 : at + 8] = struct.pack("<I", 0)
    path.write_bytes(data)


def test_header_that_claims_no_sound_is_either_read_whole_or_refused(tmp_path, sound):
    path = tmp_path / "a.wav"
    _zero_length_header(path, sound)
    try:
        take = load_take(path)
    except TakeError as error:
        assert error.code == "empty"
    else:
        assert take.duration_s == pytest.approx(1.5, abs=1e-3)
        assert take.warnings == ("header_without_length",)


def _write_wave(path, rate, channels, frames):
    with wave.open(str(path), "wb") as file:
        file.setnchannels(channels)
        file.setsampwidth(2)
        file.setframerate(rate)
        file.writeframes(b"\x10\x00" * channels * frames)


def _cut(path, sound, keep, **kind):
    _wav(path, sound, **kind)
    path.write_bytes(path.read_bytes()[:keep])


def _nan(path, sound):
    broken = sound.copy()
    broken[1000] = np.nan
    _wav(path, broken, subtype="FLOAT")


BAD = {
    "empty": ("empty", lambda p, s: p.write_bytes(b"")),
    "text": ("not_audio", lambda p, s: p.write_text("Dear teacher, here is my take")),
    "picture": ("not_audio", lambda p, s: p.write_bytes(b"\x89PNG\r\n\x1a\n" + bytes(200))),
    "playlist": ("not_audio", lambda p, s: p.write_text("#EXTM3U\nfile:///etc/passwd\n")),
    "magic only": ("truncated", lambda p, s: p.write_bytes(b"RIFF\x00\x00\x00\x00WAVE")),
    "noise after magic": ("damaged", lambda p, s: p.write_bytes(b"OggS" + bytes(range(256)) * 20)),
    "mp3 magic, no mp3": ("damaged", lambda p, s: p.write_bytes(b"ID3\x04\x00\x00\x00\x00\x00\x00" + b"x" * 4000)),
    "wav cut short": ("truncated", lambda p, s: _cut(p, s, 40_000)),
    "flac cut short": ("truncated", lambda p, s: _cut(p, s, 12_000, format="FLAC")),
    "no samples": ("empty", lambda p, s: _write_wave(p, 44_100, 1, 0)),
    "digital silence": ("silent", lambda p, s: _wav(p, np.zeros(44_100), subtype="PCM_16")),
    "silence with DC": ("silent", lambda p, s: _wav(p, np.full(44_100, 0.2), subtype="PCM_16")),
    "8-bit silence": ("silent", lambda p, s: _wav(p, np.zeros(8_000), 8_000, subtype="PCM_U8")),
    "a click": ("too_short", lambda p, s: _wav(p, s[:2000])),
    "NaN samples": ("not_finite", _nan),
    "4 kHz": ("rate_out_of_range", lambda p, s: _wav(p, s, 4_000)),
    "six channels": ("too_many_channels", lambda p, s: _write_wave(p, 44_100, 6, 44_100)),
}  # fmt: skip


@pytest.mark.parametrize("name", BAD)
def test_unusable_recording_is_refused_with_one_sentence(tmp_path, sound, name):
    code, make = BAD[name]
    path = tmp_path / "take.wav"
    make(path, sound)
    with pytest.raises(TakeError) as error:
        load_take(path)
    assert error.value.code == code
    assert error.value.detail.endswith(".")
    assert "\n" not in error.value.detail


def test_folder_and_missing_file_are_sentences(tmp_path):
    for path in (tmp_path, tmp_path / "none.wav"):
        with pytest.raises(TakeError) as error:
            load_take(path)
        assert error.value.code == "not_found"


def test_three_hours_are_refused_without_decoding_them_all(tmp_path):
    path = tmp_path / "long.flac"
    with soundfile.SoundFile(path, "w", 8_000, 1, format="FLAC") as file:
        block = noise(60.0, -60.0, rate_hz=8_000)
        for _ in range(180):
            file.write(block)
    with pytest.raises(TakeError, match="longer than 15 minutes") as error:
        load_take(path)
    assert error.value.code == "too_long"


def test_limits_are_settings(tmp_path, sound):
    path = _wav(tmp_path / "a.wav", sound)
    with pytest.raises(TakeError, match="at most 0 MB"):
        load_take(path, limits=Limits(max_bytes=1000))
    with pytest.raises(TakeError) as error:
        load_take(path, limits=Limits(max_duration_s=1.0))
    assert error.value.code == "too_long"


def test_stereo_is_measured_where_the_guitar_is(tmp_path, sound):
    quiet = np.zeros_like(sound)
    cases = {
        "left only": (np.stack((sound, quiet)), sound),
        "right only": (np.stack((quiet, sound)), sound),
        "both": (np.stack((sound, sound)), sound),
        "opposite phase": (np.stack((sound, -sound)), sound),
    }
    for name, (channels, wanted) in cases.items():
        take = load_take(_wav(tmp_path / "s.wav", channels.T, subtype="FLOAT"))
        assert np.max(np.abs(take.guitar() - wanted)) < 1e-6, name
    assert np.max(np.abs(take.guitar(click_channel=0) + sound)) < 1e-6


def test_a_take_is_brought_to_a_rate_once_and_forgotten_with_it():
    sound = np.sin(np.arange(48_000) / 10.0).astype(np.float32)
    there = len(decode._brought)
    first = decode.resampled(sound, from_hz=48_000, to_hz=12_000)
    assert decode.resampled(sound, from_hz=48_000, to_hz=12_000) is first
    # Another sound that is alike is another sound.
    assert decode.resampled(sound.copy(), from_hz=48_000, to_hz=12_000) is not first
    del sound
    gc.collect()
    assert len(decode._brought) == there

"""Read a recording of unknown origin into samples, under limits.

Conventions: samples are float32, shape (n_channels, n_samples), full scale ±1. A file is hostile until it is
decoded: its kind is told from its first bytes and only that decoder is opened (never a playlist or a network
protocol), its length is counted while decoding, not believed. A file is used as a whole or refused as a whole.

Nothing measures above half of DECODE.most_rate_hz: higher rates are brought down to it block by block, so that a file's
rate does not decide how much memory it takes. Decoding has a budget of time by what came out of it.
"""

from __future__ import annotations

import hashlib
import struct
import time
import weakref
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

import av
import av.error
import numpy as np
import soundfile
import soxr

from fortimetra.errors import TakeError
from fortimetra.sound.clipping import clipped_fraction
from fortimetra.sound.kind import sniff
from fortimetra.sound.samples import BLOCK_FRAMES, Samples, blocks, empty, extremes, let_go
from fortimetra.sound.settings import DECODE

_SNIFF_BYTES = 16


@dataclass(frozen=True)
class Limits:
    """What is accepted. The defaults are those of the contract."""

    max_bytes: int = 600_000_000
    max_duration_s: float = 900.0
    min_rate_hz: int = 8_000
    max_rate_hz: int = 192_000
    max_channels: int = 2


@dataclass(frozen=True)
class AsRecorded:
    """What a lower rate would hide of a file: its own rate, its peak (full scale 1), its clipped share."""

    rate_hz: int
    peak: float
    clipped_fraction: float


@dataclass(frozen=True)
class Take:
    """A decoded recording.

    samples: float32, shape (n_channels, n_samples), finite, at sample_rate_hz. as_recorded: of a file of a higher rate.
    lossy: its coding may have changed the noise.
    """

    samples: Samples
    sample_rate_hz: int
    sha256: str
    warnings: tuple[str, ...] = field(default=())
    lossy: bool = False
    as_recorded: AsRecorded | None = None

    @property
    def duration_s(self) -> float:
        """Length in seconds."""
        return self.samples.shape[1] / self.sample_rate_hz

    def guitar(self, *, click_channel: int | None = None) -> Samples:
        """The channel, or mean of channels, that is measured.

        The mean, unless one channel carries the click, is far softer than the other, or the two cancel.
        """
        if self.samples.shape[0] == 1:
            return self.samples[0]
        if click_channel is not None:
            return self.samples[1 - click_channel]
        left, right = (mean_square(c) for c in self.samples)
        middle = empty(self.samples.shape[1])
        for part in blocks(len(middle)):
            middle[part] = self.samples[:, part].mean(axis=0, dtype=np.float32)
        softer, louder = sorted((left, right))
        if softer < DECODE.softer_share * louder or mean_square(middle) < DECODE.cancels_share * louder:
            return self.samples[0 if left >= right else 1]
        return middle


def mean_square(x: Samples) -> float:
    """Mean power of a piece of sound, shape (n_samples,); 0 of none."""
    total = 0.0
    for part in blocks(len(x)):
        total += float(np.einsum("i,i->", x[part], x[part], dtype=np.float64))
    return total / max(1, len(x))


def load_take(path: str | Path, *, limits: Limits | None = None) -> Take:
    """Decode WAV, FLAC, AIFF, Ogg (Vorbis, Opus), WebM, MP3, M4A/AAC or CAF.

    Raises TakeError with code not_found, empty, too_large, not_audio, truncated, damaged, too_long, too_short,
    rate_out_of_range, too_many_channels, not_finite or silent.
    """
    limits = limits or Limits()
    path = Path(path)
    try:
        size = path.stat().st_size
        if not path.is_file():
            raise TakeError("not_found", f"{path.name} is not a file; give the recording itself.")
    except OSError as error:
        raise TakeError("not_found", f"{path.name} cannot be opened: {error.strerror}.") from error
    if size == 0:
        raise TakeError("empty", "The file is empty (0 bytes); record or export it again.")
    if size > limits.max_bytes:
        raise TakeError(
            "too_large",
            f"The file has {size / 1e6:.0f} MB; at most {limits.max_bytes / 1e6:.0f} MB are taken. "
            "Export it as FLAC or cut it to the exercise.",
        )
    with path.open("rb") as file:
        digest = hashlib.file_digest(file, "sha256").hexdigest()
        file.seek(0)
        kind = sniff(file.read(_SNIFF_BYTES))
    if kind is None:
        raise TakeError(
            "not_audio",
            "This is not an audio file we can read; send WAV, FLAC, AIFF, OGG, Opus, WebM, MP3 or M4A.",
        )
    warnings: list[str] = []
    plain = kind in {"wav", "aiff", "flac"}
    try:
        kept = _read_plain(path, kind, size, limits, warnings) if plain else _read_coded(path, kind, limits)
    except OSError as error:  # a damaged file sends its reader to places that are not there
        raise _damaged(error) from error
    take = Take(kept.samples, kept.rate, digest, tuple(warnings), lossy=not plain, as_recorded=kept.as_recorded)
    return _checked(take, limits)


class _Kept:
    """What has been decoded: one array that grows, at DECODE.most_rate_hz at most; counts time and length."""

    def __init__(self, file_rate: int, channels: int, limits: Limits, *, promised_s: float) -> None:
        self.file_rate = file_rate
        self.rate = min(file_rate, DECODE.most_rate_hz)
        self.limits = limits
        self._lower = (
            None
            if self.rate == file_rate
            else soxr.ResampleStream(file_rate, self.rate, channels, dtype="float32", quality="HQ")
        )
        seconds = min(max(0.0, promised_s), limits.max_duration_s) + 1.0
        self._held = empty(channels, round(seconds * self.rate))
        self._count = self.file_count = 0
        self._peak = self._clipped = 0.0
        self._began = time.monotonic()

    @property
    def seconds(self) -> float:
        """Decoded so far."""
        return self.file_count / self.file_rate

    def add(self, block: Samples) -> None:
        """A block, shape (n, channels). Raises TakeError where the whole is too long or takes too long to decode."""
        self.file_count += len(block)
        _check_length(self.seconds, self.limits)
        budget_s = DECODE.budget_s + DECODE.budget_s_per_minute * self.seconds / 60.0
        if time.monotonic() - self._began > budget_s:
            raise TakeError(
                "damaged", "The file takes so long to decode that it must be damaged; export it again, as FLAC or WAV."
            )
        if self._lower is None:
            self._put(block)
        elif len(block):
            self._peak = max(self._peak, float(np.max(np.abs(block))))
            self._clipped += clipped_fraction(block.T) * len(block)
            self._put(self._lower.resample_chunk(block))

    def _put(self, block: Samples) -> None:
        end = self._count + len(block)
        if end > self._held.shape[1]:
            more = empty(self._held.shape[0], end + end // 2)
            more[:, : self._count] = self._held[:, : self._count]
            self._held = more
        self._held[:, self._count : end] = block.T
        self._count = end
        let_go()

    def finish(self) -> None:
        """What the filter still holds."""
        if self._lower is not None and self.file_count:
            self._put(self._lower.resample_chunk(np.empty((0, self._held.shape[0]), np.float32), last=True))

    def cut(self, seconds: float) -> None:
        """Leave out what comes later."""
        self._count = min(self._count, round(seconds * self.rate))

    @property
    def as_recorded(self) -> AsRecorded | None:
        """None where nothing was lowered."""
        if self._lower is None:
            return None
        return AsRecorded(self.file_rate, self._peak, self._clipped / max(1, self.file_count))

    @property
    def samples(self) -> Samples:
        """Shape (channels, n)."""
        return self._held[:, : self._count]


def _check_format(rate: int, channels: int, limits: Limits) -> None:
    if not limits.min_rate_hz <= rate <= limits.max_rate_hz:
        raise TakeError(
            "rate_out_of_range",
            f"The sample rate is {rate} Hz; from {limits.min_rate_hz} to {limits.max_rate_hz} Hz can be measured. "
            "Export it at 44100 or 48000 Hz.",
        )
    if not 1 <= channels <= limits.max_channels:
        raise TakeError("too_many_channels", f"The file has {channels} channels; export it as mono or stereo.")


def _check_length(seconds: float, limits: Limits) -> None:
    if seconds > limits.max_duration_s:
        raise TakeError(
            "too_long",
            f"The recording is longer than {limits.max_duration_s / 60:.0f} minutes; cut it to the exercise.",
        )


def _falls_short(found_s: float, promised_s: float) -> bool:
    """Whether less came out of a coded file than it promises, beyond what encoders pad."""
    return found_s < DECODE.promised_share * promised_s - DECODE.padded_s


def _truncated(promised_s: float, found_s: float) -> TakeError:
    return TakeError(
        "truncated",
        f"The file was cut short or is damaged: it promises {promised_s:.1f} s, of which {found_s:.1f} s can be read. "
        "Copy or export it again.",
    )


def _damaged(error: Exception) -> TakeError:
    return TakeError(
        "damaged", f"The file is damaged and cannot be decoded ({str(error).strip()[:120]}); export it again."
    )


# -- WAV, AIFF, FLAC through libsndfile --------------------------------------------------------------


def _read_plain(path: Path, kind: str, size: int, limits: Limits, warnings: list[str]) -> _Kept:
    if kind == "wav":
        _check_wav_header(path, size, warnings)
    kept: _Kept | None = None
    promised = 0
    try:
        with soundfile.SoundFile(path) as file:
            promised = file.frames
            _check_format(file.samplerate, file.channels, limits)
            kept = _Kept(file.samplerate, file.channels, limits, promised_s=promised / file.samplerate)
            while len(block := file.read(BLOCK_FRAMES, dtype="float32", always_2d=True)):
                kept.add(block)
    except soundfile.LibsndfileError as error:
        if kept is not None and (kept.file_count or promised):
            raise _truncated(promised / kept.file_rate, kept.seconds) from error
        raise _damaged(error) from error
    if kept.file_count == 0:
        raise TakeError("empty", "The file holds no sound (0 samples); record or export it again.")
    if 0 < promised < 2**48 and kept.file_count < promised:
        raise _truncated(promised / kept.file_rate, kept.seconds)
    kept.finish()
    return kept


def _check_wav_header(path: Path, size: int, warnings: list[str]) -> None:
    """Compare the length the header claims with the bytes that are there; libsndfile silently takes what it finds."""
    with path.open("rb") as file:
        head = file.read(12)
        order = ">" if head[:4] == b"RIFX" else "<"
        bytes_per_second = 0
        while len(chunk := file.read(8)) == 8:
            name, length = chunk[:4], struct.unpack(order + "I", chunk[4:])[0]
            here = file.tell()
            if name == b"fmt " and length >= 16:
                layout = file.read(16)
                if len(layout) < 16:
                    break
                bytes_per_second = struct.unpack(order + "I", layout[8:12])[0]
            if name == b"data":
                present = size - here
                streamed = length in {0, 0x7FFFF000, 0x7FFFFFFF, 0xFFFFFFFF} or head[:4] == b"RF64"
                if streamed and length == 0 and present > 0:
                    warnings.append("header_without_length")
                elif not streamed and length > present:
                    per_second = bytes_per_second or 1
                    raise _truncated(length / per_second, present / per_second)
                return
            file.seek(here + length + (length & 1))
    raise TakeError("truncated", "The file was cut short: it ends before its sound begins. Copy or export it again.")


# -- everything else through FFmpeg's libraries ------------------------------------------------------


def _read_coded(path: Path, kind: str, limits: Limits) -> _Kept:
    try:
        with path.open("rb") as file, av.open(file, format=kind, mode="r", timeout=DECODE.budget_s) as container:
            if not container.streams.audio:
                raise TakeError("not_audio", "The file holds no sound track; send the recording's sound.")
            stream = container.streams.audio[0]
            if stream.codec_context is None:
                raise TakeError("damaged", "The file does not say how its sound is coded; export it again.")
            _check_format(stream.rate, stream.channels, limits)
            promised_s = (container.duration or 0) / av.time_base
            _check_length(promised_s, limits)
            kept = _Kept(stream.rate, stream.channels, limits, promised_s=promised_s)
            _collect(container, stream, kept)
    except (av.error.FFmpegError, ValueError, MemoryError) as error:
        raise _damaged(error) from error
    if promised_s and _falls_short(kept.seconds, promised_s):
        raise _truncated(promised_s, kept.seconds)
    if kind == "mov" and promised_s:
        kept.cut(promised_s)  # AAC's last frame reaches past the end
    return kept


def _collect(container: av.container.InputContainer, stream: av.AudioStream, kept: _Kept) -> None:
    layout = "mono" if stream.channels == 1 else "stereo"
    planar = av.AudioResampler(format="fltp", layout=layout, rate=kept.file_rate)

    def keep(frames: Iterator[av.AudioFrame]) -> None:
        for frame in frames:
            kept.add(frame.to_ndarray().astype(np.float32, copy=False).T)

    for frame in container.decode(stream):
        keep(iter(planar.resample(frame)))
    keep(iter(planar.resample(None)))
    if kept.file_count == 0:
        raise TakeError("empty", "The file holds no sound; record or export it again.")
    kept.finish()


# -- what every take must be --------------------------------------------------------------------------


def _checked(take: Take, limits: Limits) -> Take:
    samples = take.samples
    if take.duration_s < DECODE.min_duration_s:
        raise TakeError(
            "too_short", f"The recording lasts {take.duration_s * 1000:.0f} ms; there is nothing to measure in it."
        )
    low, high = extremes(samples)  # of anything that is no number, none either
    if not np.isfinite((low, high)).all():
        raise TakeError(
            "not_finite",
            "The file holds samples that are not numbers (NaN or infinite); export it again as 16- or 24-bit.",
        )
    swing = float(np.max(high - low)) / 2.0
    if swing < 10.0 ** (DECODE.silent_dbfs / 20.0):
        raise TakeError(
            "silent",
            f"The recording is silent (nothing above −{-DECODE.silent_dbfs:.0f} dBFS); check the input "
            "and record again.",
        )
    return take


# What a take was brought to, for as long as the take is there: several stages ask for the same rates. Kept by the
# array itself.
_brought: dict[tuple[int, int, int], Samples] = {}
# Rates that are made from another that every take is brought to anyway: a fifth of the work. Half of a rate is made
# from that.
_FROM_HZ = {24_000: 36_000, 18_000: 36_000, 12_000: 24_000}


def resampled(mono: Samples, *, from_hz: int, to_hz: int) -> Samples:
    """Band-limited resampling (soxr, high quality); shape (n_samples,). Not to be written to: others get it, too."""
    if from_hz == to_hz:
        return mono
    let_go()  # another stage begins
    key = (id(mono), from_hz, to_hz)
    there = _brought.get(key)
    if there is not None:
        return there
    own_hz = from_hz if from_hz == 2 * to_hz else min(_FROM_HZ.get(to_hz, from_hz), from_hz)
    sound = mono if own_hz == from_hz else resampled(mono, from_hz=from_hz, to_hz=own_hz)
    made = _brought[key] = _resampled(sound, own_hz, to_hz)
    weakref.finalize(mono, _brought.pop, key, None).atexit = False
    return made


def _resampled(sound: Samples, from_hz: int, to_hz: int) -> Samples:
    """At once where that fits into memory, else block by block: soxr's answer is the same to the last bit."""
    if len(sound) <= DECODE.memory_samples:
        return np.asarray(soxr.resample(sound, from_hz, to_hz, quality="HQ"), dtype=np.float32)
    stream = soxr.ResampleStream(from_hz, to_hz, 1, dtype="float32", quality="HQ")
    made = empty(len(sound) * to_hz // from_hz + BLOCK_FRAMES)
    count = 0
    for part in blocks(len(sound)):
        block = stream.resample_chunk(sound[part], last=part.stop == len(sound))
        made[count : count + len(block)] = block
        count += len(block)
    return made[:count]

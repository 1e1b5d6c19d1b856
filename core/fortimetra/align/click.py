"""The click of a take that nobody told us about: on a channel of its own, or heard with the guitar.

On a channel of its own nothing sounds between the clicks. Heard with the guitar, the count-in gives it away: bursts
that are alike and evenly spaced before the first note; what they sound like is then looked for at every beat (matched
filter). A guitar that plays on every beat is no click: its notes are not alike to the sample.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy import signal

from fortimetra.align.settings import CLICK
from fortimetra.sound.parts import filtered
from fortimetra.sound.samples import Samples
from fortimetra.units import FloatArray

Bright = Samples | FloatArray


@dataclass(frozen=True)
class FoundClick:
    """Clicks on a line: click k stands at first_s + k · spacing_s. times_s: those that were found, shape
    (n_clicks,).
    """

    source: Literal["channel", "audible"]
    times_s: FloatArray
    first_s: float
    spacing_s: float
    per_beat: float
    u_ms: float
    channel: int | None = None

    @property
    def seconds_per_beat(self) -> float:
        """Of a quarter note."""
        return self.spacing_s * self.per_beat


def click_in_channel(samples: Samples, *, rate_hz: int, seconds_per_beat: float) -> FoundClick | None:
    """The channel that carries nothing but a click.

    samples: float32, shape (n_channels, n_samples). None unless exactly one of two channels does.
    """
    if samples.shape[0] != 2:
        return None
    found = []
    for channel in (0, 1):
        times = _bursts(samples[channel], rate_hz)
        line = None if times is None else _line(times, seconds_per_beat)
        if line is not None:
            found.append(_made("channel", line, channel=channel))
    return found[0] if len(found) == 1 else None


def audible_click(mono: Samples, onsets_s: FloatArray, *, rate_hz: int, seconds_per_beat: float) -> FoundClick | None:
    """The click that is heard with the guitar, known by its count-in.

    mono: float32, shape (n_samples,). onsets_s: attacks in the take. None where there is no such count-in, or where too
    few later beats hold the same click.
    """
    sos = signal.butter(4, CLICK.high_pass_hz, "high", fs=rate_hz, output="sos")
    bright = filtered(sos, mono)
    for per_beat in CLICK.per_beat[:2]:
        spacing = seconds_per_beat / per_beat
        for first in range(min(CLICK.count_in_onsets, len(onsets_s))):
            run = _leading_bursts(bright, _even_run(onsets_s, first, spacing), rate_hz)
            if len(run) < CLICK.least_count_in:
                continue
            templates = _templates(bright, run, rate_hz)
            if not templates:
                continue
            line = _followed(bright, templates, run, rate_hz)
            if line is not None:
                return _made("audible", (*line, per_beat))
    return None


def _made(
    source: Literal["channel", "audible"],
    line: tuple[FloatArray, float, float, float, float],
    channel: int | None = None,
) -> FoundClick:
    times, first, spacing, scatter, per_beat = line
    u_ms = CLICK.attack_u_ms + 2000.0 * scatter / np.sqrt(len(times))
    return FoundClick(source, times, first, spacing, per_beat, round(float(u_ms), 2), channel)


def _bursts(channel: Samples, rate: int) -> FloatArray | None:
    """Attacks of bursts in a channel that is silent between them; None for any other sound."""
    step = max(1, rate // 1000)
    count = len(channel) // step
    envelope = np.abs(channel[: count * step].reshape(count, step)).max(axis=1).astype(np.float64)
    top = float(envelope.max(initial=0.0))
    if top < CLICK.least_peak or float(np.median(envelope)) > top * 10.0 ** (-CLICK.silent_under_top_db / 20.0):
        return None
    loud = np.flatnonzero(envelope > top * 10.0 ** (-CLICK.burst_under_top_db / 20.0))
    starts = loud[np.diff(loud, prepend=-len(envelope)) > 1000.0 * CLICK.dead_time_s]
    return np.array([_attack(channel, int(s) * step, rate) for s in starts])


def _attack(channel: Samples, near: int, rate: int) -> float:
    """Where a burst has risen to a share of its peak, s."""
    start = max(0, near - rate // 500)
    part = np.abs(channel[start : near + rate // 100])
    return float(start + np.argmax(part >= CLICK.attack_share * part.max())) / rate


def _line(times: FloatArray, spb: float) -> tuple[FloatArray, float, float, float, float] | None:
    """Evenly spaced times: (those on the line, first, spacing, scatter, clicks a beat)."""
    if len(times) < CLICK.least_clicks:
        return None
    usual = float(np.median(np.diff(times)))
    per_beat = next((n for n in CLICK.per_beat if abs(usual * n / spb - 1.0) < CLICK.tempo_tolerance), None)
    if per_beat is None:
        return None
    number = np.concatenate([[0], np.cumsum(np.round(np.diff(times) / usual))])
    spacing, first = np.polyfit(number, times, 1)
    off = np.abs(times - (first + spacing * number))
    good = off < CLICK.off_line_s
    if np.mean(good) < CLICK.line_share or good.sum() < CLICK.least_clicks:
        return None
    spacing, first = np.polyfit(number[good], times[good], 1)
    scatter = float(np.std(times[good] - (first + spacing * number[good])))
    return times[good], float(first), float(spacing), scatter, per_beat


def _even_run(onsets: FloatArray, first: int, spacing: float) -> FloatArray:
    """Onsets that follow one another at a spacing, from one of them on."""
    run = [float(onsets[first])]
    while True:
        expected = run[-1] + (spacing if len(run) == 1 else run[-1] - run[-2])
        near = float(onsets[np.argmin(np.abs(onsets - expected))])
        if (
            abs(near - expected) > CLICK.even_s + (CLICK.tempo_tolerance * spacing if len(run) == 1 else 0.0)
            or near <= run[-1]
        ):
            return np.array(run)
        run.append(near)


def _templates(bright: Bright, run: FloatArray, rate: int) -> list[FloatArray]:
    """The burst that most of the run are alike to the sample, and the one that differs, an accent; none if none are."""
    length = round(CLICK.template_s * rate)
    reach = round(0.003 * rate)
    cuts = []
    for time in run[:8]:
        start = round(time * rate) - reach
        if start >= 0 and start + length + 2 * reach <= len(bright):
            cuts.append(bright[start : start + length + 2 * reach].astype(np.float64))
    best: list[FloatArray] = []
    others: list[FloatArray] = []
    for own in cuts:
        core = own[reach : reach + length]
        alike, unlike = [], []
        for other in cuts:
            likeness = _likeness(other, core)
            at = int(np.argmax(likeness))
            if likeness[at] >= CLICK.alike:
                alike.append(other[at : at + length])
            else:
                unlike.append(other[reach : reach + length])
        if len(alike) > len(best):
            best, others = alike, unlike
    if len(best) < CLICK.least_count_in - 1:
        return []
    return [np.mean(best, axis=0), *others[:1]]


def _leading_bursts(bright: Bright, run: FloatArray, rate: int) -> FloatArray:
    """The beginning of a run that is over when a plucked string would still sound: the count-in."""
    for place, time in enumerate(run):
        at = round(time * rate)
        after = at + round(CLICK.gone_after_s * rate)
        parts = (bright[at : at + round(0.02 * rate)], bright[after : after + round(0.03 * rate)])
        levels = [float(np.sqrt(np.mean(np.square(part, dtype=np.float64)))) if len(part) else 0.0 for part in parts]
        if 20.0 * np.log10((levels[0] + 1e-9) / (levels[1] + 1e-9)) < CLICK.gone_by_db:
            return run[:place]
    return run


def count_in_of(bright: Bright, times_s: FloatArray, rate: int) -> FloatArray:
    """The clicks before the first note, s, shape (n_clicks,); bright: the sound above CLICK.high_pass_hz; times_s: all
    bursts, shape (n_bursts,).
    """
    return _leading_bursts(bright, times_s, rate)


def _likeness(sound: FloatArray, template: FloatArray) -> FloatArray:
    """Normalised correlation at every place the template fits in, −1 to 1."""
    match = signal.correlate(sound, template, mode="valid", method="auto")
    energy = np.convolve(sound**2, np.ones(len(template)), mode="valid")
    norm = np.sqrt(np.maximum(energy, 1e-20) * float(np.sum(template**2)))
    return np.asarray(match / norm)


def _followed(
    bright: Bright, templates: list[FloatArray], run: FloatArray, rate: int
) -> tuple[FloatArray, float, float, float] | None:
    """The templates looked for at every further click: (times, first, spacing, scatter), or None where it is not
    there.
    """
    spacing = float(np.median(np.diff(run)))
    first = float(run[0])
    attacks = [int(np.argmax(np.abs(t) >= CLICK.attack_share * np.abs(t).max())) for t in templates]
    length = len(templates[0])
    reach = round(CLICK.search_s * rate)
    numbers: list[int] = []
    times: list[float] = []
    total = int((len(bright) / rate - first) / spacing)
    for number in range(total):
        expected = first + spacing * number
        heard = []
        for template, attack in zip(templates, attacks, strict=True):
            start = round(expected * rate) - attack - reach
            part = bright[max(0, start) : start + length + 2 * reach].astype(np.float64)
            if start < 0 or len(part) < length + 2 * reach:
                continue
            likeness = _likeness(part, template)
            at = int(np.argmax(likeness))
            heard.append((float(likeness[at]), (start + at + attack) / rate))
        best = max(heard, default=(0.0, 0.0))
        if best[0] < CLICK.hit:
            continue
        numbers.append(number)
        times.append(best[1])
        if len(numbers) >= CLICK.least_count_in:
            # Two clocks never run quite alike: the line follows what was found.
            spacing, first = (float(v) for v in np.polyfit(numbers, times, 1))
    if len(times) < max(CLICK.least_hits, CLICK.hit_share * total):
        return None
    found: NDArray[np.float64] = np.array(times)
    spacing, first = (float(v) for v in np.polyfit(numbers, found, 1))
    scatter = float(np.std(found - (first + spacing * np.array(numbers))))
    return found, first, spacing, scatter

"""Prepare a recording: decode it, choose the guitar's channel, find the click, measure levels, onsets and the pitch
contour.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from fortimetra.align.click import FoundClick, audible_click, click_in_channel
from fortimetra.align.unclick import without_click
from fortimetra.hear.contour import track
from fortimetra.hear.onsets import Candidates, find_candidates
from fortimetra.hear.recording import Recording
from fortimetra.hear.settings import CONTOUR
from fortimetra.model.context import Click
from fortimetra.model.drill import Drill
from fortimetra.sound.decode import Take, load_take
from fortimetra.sound.levels import measure_levels
from fortimetra.sound.samples import Samples
from fortimetra.units import midi_to_hz

Progress = Callable[[str, float], None]


def prepare(
    take: str | Path | Take, *, drill: Drill | None, click: Click | None, tell: Progress
) -> tuple[Recording, FoundClick | None]:
    """The recording, and the click that was heard in it where the drill has one and the recorder sent none.

    Raises TakeError where it cannot be decoded or is silent.
    """
    tell("decode", 0.0)
    loaded = take if isinstance(take, Take) else load_take(take)
    rate_hz = loaded.sample_rate_hz
    # A click that the recorder sent may bleed into the microphone, too.
    spb = _clicked_spb(drill) if click is None or (click.source == "recorder" and click.channel is None) else None
    heard_click = None
    if spb and click is None:
        heard_click = click_in_channel(loaded.samples, rate_hz=rate_hz, seconds_per_beat=spb)
    mono = loaded.guitar(click_channel=click.channel if click else heard_click.channel if heard_click else None)

    tell("levels", 0.15)
    levels = measure_levels(loaded, mono)

    tell("onsets", 0.25)
    onsets = find_candidates(mono, rate_hz=rate_hz)
    if spb and heard_click is None:
        heard_click, mono, onsets = _unclicked(mono, onsets, rate_hz=rate_hz, spb=spb)

    tell("contour", 0.40)
    contour = track(
        mono, rate_hz=rate_hz, range_hz=_range_hz(drill), onsets_s=onsets.strong_s,
        highest_hz=_highest_hz(drill),
    )  # fmt: skip
    return Recording(loaded, mono, levels, onsets, contour), heard_click


def _unclicked(
    mono: Samples, onsets: Candidates, *, rate_hz: int, spb: float
) -> tuple[FoundClick | None, Samples, Candidates]:
    """The click heard beside the guitar, if any, and the sound and its onsets without it."""
    found = audible_click(mono, onsets.strong_s, rate_hz=rate_hz, seconds_per_beat=spb)
    if found is None:
        return None, mono, onsets
    mono = without_click(mono, found, rate_hz=rate_hz)
    return found, mono, find_candidates(mono, rate_hz=rate_hz)


def _clicked_spb(drill: Drill | None) -> float | None:
    """Seconds per beat of a drill that is played to a click."""
    return drill.seconds_per_beat if drill and drill.tempo and drill.family != "set_up" else None


def _range_hz(drill: Drill | None) -> tuple[float, float]:
    """Where to look for pitches: a fourth under the lowest open string to a fourth over the highest target."""
    if drill is None:
        return CONTOUR.full_range_hz
    lowest = min(drill.open_midi(s + 1) for s in range(len(drill.tuning)))
    return (
        max(35.0, midi_to_hz(lowest - 5, a4_hz=drill.a4_hz)),
        max(CONTOUR.full_range_hz[1], _highest_hz(drill) or 0.0),
    )


def _highest_hz(drill: Drill | None) -> float | None:
    """A seventh over the highest fret that is asked: bends, and notes that are wrong, lie under it."""
    frets = [drill.midi(n) for e in drill.events for n in e.notes] if drill is not None else []
    return midi_to_hz(max(frets) + 10, a4_hz=drill.a4_hz) if drill is not None and frets else None

"""What clean means for a drill, in words and numbers: its tolerances as a student reads them."""

from __future__ import annotations

from fortimetra.model.drill import SLURRED, Drill
from fortimetra.model.tolerance import onset_limit_ms


def clean_means(drill: Drill) -> tuple[str, ...]:
    """A sentence for each thing the drill is judged for."""
    limits = drill.limits()
    found: list[str] = []
    measures = set(drill.measures)
    vibratos = [e.vibrato for e in drill.events if e.vibrato is not None]
    if "bend" in measures:
        found += _of_bends(drill)
    if "vibrato" in measures and vibratos:
        found.append(
            f"Vibrato comes back to its line within {limits['vibrato_return_cents']:g} cents; its waves "
            "differ by no more "
            f"than {100 * limits['vibrato_rate_cv']:.0f} % in time and {100 * limits['vibrato_extent_cv']:.0f} "
            "% in width."
        )
    if "pitch" in measures:
        found.append(f"Plain notes are in tune within {limits['plain_pitch_cents']:g} cents.")
    if "timing" in measures and drill.tempo is not None:
        found.append(f"Notes start within {_onset_ms(drill):.0f} ms of their beat.")
    if "level" in measures:
        found += _of_levels(drill, limits)
    if "length" in measures:
        found.append(
            f"Notes are held as long as written within {100 * limits['length_fraction']:.0f} %, and none "
            "rings more than "
            f"{limits['overlap_ms']:g} ms into the next."
        )
    if "noise" in measures:
        found.append(f"What should be quiet stays {abs(limits['ring_db']):g} dB under the notes.")
        if any(not e.notes for e in drill.events):
            found.append(f"At a rest the sound is gone within {limits['stop_ms']:g} ms.")
    return tuple(found)


def _of_bends(drill: Drill) -> list[str]:
    limits = drill.limits()
    bends = [e.bend for e in drill.events if e.bend is not None]
    if not bends:
        return []
    found = [
        f"Bends arrive within {limits['bend_error_cents']:g} cents of the target and hold still: "
        f"no more waver than {limits['hold_sd_cents']:g} cents."
    ]
    arrives = [b.arrives_beats for b in bends if b.arrives_beats]
    if arrives:
        found.append(
            f"They are there within {max(arrives):g} {'beat' if max(arrives) == 1 else 'beats'} of the stroke."
        )
    if any(b.kind == "unison" for b in bends):
        found.append(f"Unison bends beat no faster than {limits['beat_hz']:g} times a second.")
    return found


def _onset_ms(drill: Drill) -> float:
    """The strictest tolerance of an onset: that of the shortest note."""
    shortest = min(e.length for e in drill.events if e.notes)
    return onset_limit_ms(drill.profile, shortest * drill.seconds_per_beat, drill.tolerances.onset_ms)


def _of_levels(drill: Drill, limits: dict[str, float]) -> list[str]:
    found = [f"Notes are equally loud within {limits['level_db']:g} dB."]
    if any(e.articulation in SLURRED - {"slide"} for e in drill.events):
        found.append(f"Slurred notes are no more than {limits['slur_deficit_db']:g} dB softer than picked ones.")
    if any(e.accent for e in drill.events):
        found.append(f"Accents stand out by at least {limits['accent_lift_db']:g} dB.")
    return found

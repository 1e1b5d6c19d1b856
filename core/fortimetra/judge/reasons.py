"""Why a value is missing or a verdict is "cannot tell": stable codes, each with its sentence."""

from __future__ import annotations

SENTENCES: dict[str, str] = {
    "not_played": "The note was not heard.",
    "wrong_pitch": "Another pitch was played here.",
    "too_short": "The note is too short to be measured.",
    "no_pitch": "No steady pitch could be read here.",
    "no_plateau": "The bend never rests; its highest 20 ms were read instead.",
    "unsteady_hold": "The hold wavers; its middle was read.",
    "no_start": "The beginning of the note could not be read.",
    "chord_not_measured": "Notes sounding together are not measured one by one yet.",
    "kind_not_measured": "This kind of bend is not measured yet.",
    "measure_not_available": "The drill asks for a measure this version does not have yet.",
    "within_uncertainty": "The tolerance lies within the uncertainty of the value.",
    "reference_by_temperament": "No fretted reference was heard; the bend is read against equal temperament.",
    "detuned": "The guitar is out of tune as a whole; the take is measured against itself.",
    "clipped": "The recording is clipped; lower the input level.",
    "clipped_heavily": "So much of the recording is clipped that pitches may be wrong.",
    "low_level": "The recording is very soft; raise the input level.",
    "high_floor": "The noise floor is high; soft faults cannot be heard in it.",
    "low_sample_rate": "The recording has a low sample rate; partials above half of it are missing.",
    "header_without_length": "The file's header states no length; everything after it was read.",
    "no_drill": "No drill was given: notes are listed, nothing is judged.",
}

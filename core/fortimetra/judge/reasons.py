"""Why a value is missing or a verdict is "cannot tell": stable codes, each with its sentence."""

from __future__ import annotations

SENTENCES: dict[str, str] = {
    "not_played": "The note was not heard.",
    "wrong_pitch": "Another pitch was played here.",
    "too_short": "The note is too short to be measured.",
    "no_pitch": "No steady pitch could be read here.",
    "octave_in_doubt": "What was read lies farther from the target than a hand can bend: the octave is in doubt.",
    "no_plateau": "The bend never rests; its highest 20 ms were read instead.",
    "unsteady_hold": "The hold wavers; its middle was read.",
    "no_start": "The beginning of the note could not be read.",
    "chord_note_hidden": "The notes struck with it cover all its partials, so its pitch cannot be read.",
    "chord_note_missing": "This note of the chord is not heard.",
    "chord_unbalanced": "It is not as loud against the notes struck with it as its string usually is in this take.",
    "open_ring": "A string that nobody asked for rings under this note.",
    "pressed": "A string that should be quiet sounds the fret of a finger that lies on it: touched too hard.",
    "bleed": "A note that should have stopped rings on under this one.",
    "rings_after_stop": "It sounds on after the stop.",
    "still_fretted": (
        "What sounds on is the note itself: the fretting finger still holds it and the picking hand does not damp."
    ),
    "fretting_hand_first": "The open string sounds on: the fretting hand left before the picking hand damped.",
    "strings_hidden": (
        "Most of the other strings cannot be heard beside this note: they share its partials, or the floor is too high."
    ),
    "mostly_covered": (
        "Most of this string's partials lie under those of the note; what is left may be something else."
    ),
    "too_short_for_noise": "The note is too short to listen for other strings under it.",
    "floor_too_high": "The floor is too high to hear how the sound goes.",
    "echo_effect": (
        "Notes go on after their string has left them, as in an echo, a reverb or a live room; what "
        "rings on cannot be judged."
    ),
    "other_sounds": (
        "Other pitches sound than a guitar's strings would, as of a backing track or other players; "
        "ringing strings cannot be judged."
    ),
    "read_from_vibrato": "The bend swings from the moment it arrives; its tops were read as what it reaches.",
    "slide_not_followed": "The way of the slide could not be followed from one pitch to the other.",
    "too_few_cycles": "A vibrato needs three cycles to be judged; fewer were heard.",
    "no_release": "The bend was not let down before the note ended.",
    "no_landing": "The note ends before its pitch rests after the release.",
    "one_string": "Only one of the two strings is heard.",
    "pitch_wavers": (
        "Even plainly fretted notes waver, as with a chorus or vibrato effect, or a hand that shakes "
        "every note; pitches are not certain enough to be judged."
    ),
    "no_grid": "There is no click and no tempo to read the time against.",
    "after_a_jump": (
        "The take left the beat before this note and came in elsewhere; it is read against the beat it came in on."
    ),
    "level_not_read": "The note is too short for its level to be read.",
    "nothing_to_compare": "There are too few notes like it to compare its level with.",
    "accents_pressed": (
        "The accents stand out, all alike and by less than asked; drive or automatic gain may have pressed them down."
    ),
    "other_sound": "A cough, a knock, a voice or the like lies over this note; what it may have caused is left open.",
    "hold_drifts": "The bend does not stay where it arrived: its pitch moves by more than 25 cents a second.",
    "cut_short": (
        "Something nobody asked for sounds before half of the note is over; from there on it cannot be followed."
    ),
    "accent_missing": "The accent the drill asks for is not there.",
    "dies": "The note dies before it has sounded for two fifths of its length.",
    "overlap_hidden": "The next note hides whether this one has stopped.",
    "next_is_off": "It sounds into the next note, but that one comes early or is too soft to cover it.",
    "room_rings": "It sounds on for no longer than the room itself rings in this recording.",
    "brief_in_a_room": "It rings for no longer than the room itself does in this recording.",
    "in_a_room": (
        "Recorded by a microphone in a room: volume is compared with the same pitch elsewhere in the take, and "
        "brief rings are left open. Nearer to the guitar, or by cable, more can be told."
    ),
    "rings_on": "The note rings on under the next one.",
    "lost_beat": "A beat was lost or a place jumped; what follows is read against the beat it came in on.",
    "other_tempo": "The tempo played is not the one asked for; evenness is judged at the tempo played.",
    "latency_unknown": "The delay of the sound card is not known, so early and late as a whole cannot be told.",
    "within_uncertainty": "The tolerance lies within the uncertainty of the value.",
    "reference_by_temperament": "No fretted reference was heard; the bend is read against the tuning.",
    "detuned": "The guitar is out of tune as a whole; the take is measured against itself.",
    "clipped": "The recording is clipped; lower the input level.",
    "clipped_heavily": "So much of the recording is clipped that pitches may be wrong.",
    "low_level": "The recording is very soft; raise the input level.",
    "high_floor": "The noise floor is high; soft faults cannot be heard in it.",
    "low_sample_rate": "The recording has a low sample rate; partials above half of it are missing.",
    "header_without_length": "The file's header states no length; everything after it was read.",
    "open_not_heard": "The open string was not heard.",
    "twelfth_not_heard": "The 12th fret was not heard.",
    "twelfth_other_fret": "What was heard is not the octave of the open string.",
    "string_other_pitch": "The string is tuned to something else; it is named, not assumed.",
    "tuning_changed": "The guitar has gone out of tune since its set-up take; record the set-up again.",
    "digital_silence": "The pauses hold no sound at all, so nothing can be told from them.",
    "lossy_coding": "The file's coding changes the noise; a WAV or FLAC recording would tell.",
    "no_pauses": "There are too few silent pauses to tell.",
    "noise_not_heard": "The noise under the notes cannot be heard alone.",
    "no_drill": "No drill was given: notes are listed, nothing is judged.",
}

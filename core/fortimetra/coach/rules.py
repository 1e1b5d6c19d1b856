"""From what was measured to what probably makes it so, and what to try: the rules, as data (`coach/causes` reads them).

A rule names a pattern (what has to be seen), what it says, why, and what to try: by school, and by the strings it is
about. Guitar and recording chain come first: what they explain is not laid to the hand. Texts follow the drill's
families and schools; that they help is common practice, no source.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from fortimetra.coach import patterns_hands as hands
from fortimetra.coach import patterns_pitch as pitch
from fortimetra.coach import patterns_place as place
from fortimetra.coach import patterns_quiet as quiet
from fortimetra.coach import patterns_slurs as slurs
from fortimetra.coach import patterns_time as time
from fortimetra.coach import patterns_wrong as wrong
from fortimetra.coach.evidence import Pattern
from fortimetra.coach.settings import QUIET_CAUSES
from fortimetra.model.tolerance import Measure

Force = Literal["strong", "light"]


@dataclass(frozen=True)
class Try:
    """Something to try; force: only in that school of slurs."""

    text: str
    force: Force | None = None


@dataclass(frozen=True)
class Rule:
    """seen: the pattern. outer: the guitar's or the rig's doing, to be excluded first. families: only there; () is
    everywhere. besides: it says when or where a fault is rather than what, and stands beside what says that.
    """

    code: str
    measure: str
    seen: Pattern
    says: str
    because: str
    tries: tuple[Try, ...]
    families: tuple[str, ...] = ()
    outer: bool = False
    least: int = 2
    besides: bool = False


def _try(*texts: str) -> tuple[Try, ...]:
    return tuple(Try(t) for t in texts)


OUTER: tuple[Rule, ...] = (
    Rule(
        "string_detuned", "pitch", pitch.string_detuned, "One string is out of tune",
        "The same error on every fret of a string is its tuning, not the hand.",
        _try("Tune this string, record the set-up check again, then the drill."), outer=True,
    ),
    Rule(
        "frets_stretch", "pitch", pitch.frets_stretch, "Notes drift out of tune up the neck",
        "An error that grows fret by fret by the same sign is the saddle's or the string's, not the hand's.",
        _try("Record the set-up check: it says which saddle to move, and how far. Old strings do this too."), outer=True,
    ),
    Rule(
        "bends_choke", "bend", pitch.bends_choke, "Bends choke",
        "On a curved fretboard with a low action a bent string meets a higher fret.",
        _try("Work out on the bench how far this guitar bends at this fret; raise the action a little, or bend at another fret."),
        outer=True,
    ),
    Rule(
        "echo_on", "noise", quiet.unclear_by("echo_effect", measure="noise", text="cannot be told because of an echo or a live room."),
        "An echo hides what rings", "What rings on cannot be told from an echo, a reverb or a live room.",
        _try("Record without delay and reverb, close to the microphone or straight into the interface."), outer=True,
    ),
    Rule(
        "floor_high", "noise", quiet.unclear_by("floor_too_high", measure="noise", text="cannot be told over the floor."),
        "The noise floor hides soft faults", "Soft strings lie under the noise of the recording chain.",
        _try("Turn the guitar's volume up and the input down, try another cable, and turn away from screens and transformers."),
        outer=True,
    ),
    Rule(
        "all_late", "timing", time.all_shifted(1), "The whole take lies behind the click",
        "An even delay is first of all the recorder's: its round trip.",
        _try("Measure the round trip in the recorder. If it stays, listen to the click alone for a bar and play a little ahead of it."),
        outer=True,
    ),
    Rule(
        "all_early", "timing", time.all_shifted(-1), "The whole take lies before the click",
        "An even lead is first of all the recorder's: its round trip.",
        _try("Measure the round trip in the recorder. If it stays, wait for the click to sound before the stroke lands."),
        outer=True,
    ),
)  # fmt: skip

PITCH: tuple[Rule, ...] = (
    Rule(
        "bends_change_along", "bend", pitch.bends_change_along, "Bends are off by another amount from place to place",
        "Strings differ in tension, and every fret needs another push.",
        _try("Bend the same place until it is right, then move one fret or one string, and adjust the push before speed."),
        ("bend_ladder", "fretted_then_bend", "free"),
    ),
    Rule(
        "bends_slip", "bend", pitch.bends_slip, "Bends slip off the outer string",
        "Pushed outward, an edge string leaves the neck or the finger.",
        _try("Pull the outer string inward, over the neck; push the others toward the thicker side."),
    ),
    Rule(
        "bends_die", "bend", pitch.bends_die, "Bends die on the way",
        "The finger eases off while it pushes; the guitar itself would choke at that place every time.",
        _try("Keep the pressure down on the fret all the way; let the helping fingers push, so that the bending one can hold."),
    ),
    Rule(
        "bend_flat", "bend", pitch.bends_off(-1), "Bends stop short",
        "Too little push behind the note, or the target is not in the ear.",
        _try(
            "Put two or three fingers behind the note, and turn the wrist instead of pushing the finger.",
            "Play the fretted target, sing it, then bend to it.",
        ),
    ),
    Rule(
        "bend_sharp", "bend", pitch.bends_off(1), "Bends go past",
        "The push is stronger than the target needs.",
        _try("Listen to the fretted target first; bend slowly up to it and stop where the two are one."),
    ),
    Rule(
        "hold_sinks", "bend", pitch.holds_sink, "Held bends sink",
        "Pressure is lost while the note lasts.",
        _try("Keep the helping fingers down until the note ends; squeeze with thumb and fingers against each other."),
    ),
    Rule(
        "hold_wavers", "bend", pitch.holds_waver, "Held bends are not steady",
        "The hand searches for the pitch instead of resting on it.",
        _try("Bend, stop, and hold still for two beats before anything else; the target tone beside it tells."),
    ),
    Rule(
        "prebend_flat", "bend", pitch.bends_off(-1, ("prebend", "release"), "pre-bends"), "Pre-bends start flat",
        "The feel for this string is not there yet: scale length and gauge change it.",
        _try("Bend silently, pick once, correct, and let go; ten times on one fret of this guitar before moving on."),
    ),
    Rule(
        "prebend_sharp", "bend", pitch.bends_off(1, ("prebend", "release"), "pre-bends"), "Pre-bends start sharp",
        "The hand remembers a stiffer string.",
        _try("Bend silently, pick once, correct, and let go; ten times on one fret of this guitar before moving on."),
    ),
    Rule(
        "landing_off", "bend", pitch.landings_off, "Releases do not land on the fretted note",
        "The string is let go of too early, or not all the way.",
        _try("Let it down slowly, as controlled as it went up, and rest on the fretted note."),
    ),
    Rule(
        "unison_under", "bend", pitch.unisons("under"), "Unison bends are not there yet",
        "The beating has not come to rest: the bent string still lies under the steady one.",
        _try("Go on pushing while the beating slows, and stop when it rests."),
    ),
    Rule(
        "unison_past", "bend", pitch.unisons("past"), "Unison bends go past",
        "The beating slowed and quickened again: the bent string went over the steady one.",
        _try("When the beating quickens again, let back a little."),
    ),
    Rule(
        "curl_wide", "bend", pitch.bends_off(1, ("curl",), "curls"), "Curls become half steps",
        "A curl that is too clean a half step is a bend.",
        _try("Only lean on the string; let the finger's weight do it, and mute it at the top."),
    ),
    Rule(
        "curl_narrow", "bend", pitch.bends_off(-1, ("curl",), "curls"), "Curls are hardly there",
        "The pull is too small to be heard as one.",
        _try("Pull a little further, down towards the floor, as the note fades."),
    ),
    Rule(
        "vibrato_never_back", "vibrato", pitch.returns_off("bottom", 1), "The vibrato drifts up",
        "It never comes all the way back down to the fretted note.",
        _try("Slow it down; after every push let the string come to rest on its fretted pitch."),
    ),
    Rule(
        "vibrato_tops_flat", "vibrato", pitch.returns_off("top", -1), "The tops of the vibrato are flat",
        "The string is not pushed back all the way up after each dip.",
        _try("Bend, hold, then only dip a little; push back to the target each time and hear that it is the target."),
    ),
    Rule(
        "vibrato_under_line", "vibrato", pitch.returns_off("centre", -1), "The vibrato lies under its note",
        "Its downward half is wider than its upward half.",
        _try("Rock the hand evenly to both sides of the fretted pitch."),
    ),
    Rule(
        "vibrato_over_line", "vibrato", pitch.returns_off("centre", 1), "The vibrato lies over its note",
        "Its upward half is wider than its downward half.",
        _try("Rock the hand evenly to both sides of the fretted pitch."),
    ),
    Rule(
        "vibrato_dips_uneven", "vibrato", pitch.swings_uneven("extent_cv", "width", bent=True), "The dips are not alike",
        "The hand lets the bend down by another amount each time.",
        _try("The same small dip each time, counted aloud: a little down, all the way back up, and no further."),
    ),
    Rule(
        "vibrato_dips_deep", "vibrato", pitch.vibratos_wide(1, bent=True), "The dips are too deep",
        "The bend is let down instead of dipped.",
        _try("Let it down only as far as can just be heard, and push back at once."),
    ),
    Rule(
        "vibrato_dips_small", "vibrato", pitch.vibratos_wide(-1, bent=True), "The dips are too small",
        "The string is squeezed rather than moved.",
        _try("Let the bend down a little further before it goes back; slower first."),
    ),
    Rule(
        "vibrato_wide", "vibrato", pitch.vibratos_wide(1, bent=False), "The vibrato is wider than asked",
        "The hand moves further than the ear asked for.",
        _try("Halve the movement and keep the time; listen for the smallest swing that still sings."),
    ),
    Rule(
        "vibrato_narrow", "vibrato", pitch.vibratos_wide(-1, bent=False), "The vibrato is narrower than asked",
        "The finger rolls instead of the wrist turning; on stiff strings and near the nut it takes more.",
        _try("Slow and wide first, from the wrist, clearly up and back; then quicker at the same width."),
    ),
    Rule(
        "vibrato_uneven_width", "vibrato", pitch.swings_uneven("extent_cv", "width", bent=False), "The vibrato is uneven in width",
        "The return is not controlled, so every cycle begins elsewhere.",
        _try("Slow and wide first, from the wrist, each cycle alike; then quicker."),
    ),
    Rule(
        "vibrato_uneven_rate", "vibrato", pitch.swings_uneven("rate_cv", "time"), "The vibrato is uneven in time",
        "The motion is not one motion yet.",
        _try("Play it in time: two, then three, then four cycles a click."),
    ),
    Rule(
        "vibrato_fades", "vibrato", pitch.swings_fade, "The vibrato eats the note",
        "Pressure is eased while the string moves.",
        _try("Press as firmly at the bottom of each dip as at the top."),
    ),
    Rule(
        "presses_hard", "pitch", pitch.presses_hard, "Fretted notes are sharp",
        "Pressed harder than it takes, a string is stretched over its fret.",
        _try("Press only until the note stops buzzing, close behind the wire; then a little less."),
    ),
    Rule(
        "wrong_fret", "pitch", wrong.wrong_notes("fret"), "A fret beside is played",
        "The finger lands on the fret next to it, or the figure is remembered otherwise.",
        _try("Say the frets aloud while playing slowly; let every finger stay over its own fret."),
    ),
    Rule(
        "wrong_string", "pitch", wrong.wrong_notes("string"), "The string beside is played",
        "One of the hands is on the next string.",
        _try("Play only the two notes about the change, looking at the picking hand first, then at the other."),
    ),
    Rule(
        "wrong_order", "pitch", wrong.wrong_notes("target"), "Notes of the figure are exchanged",
        "The figure is not in the fingers yet.",
        _try("Play the figure without the click, naming each note, until it goes by itself; then slowly with it."),
    ),
    Rule(
        "wrong_note", "pitch", wrong.wrong_notes("other"), "Other notes are played",
        "The place on the neck is another.",
        _try("Compare the tab with the neck: string and fret of the first note, then of each change."),
    ),
    Rule(
        "slide_behind", "pitch", pitch.slide_off(-1), "The slide stands behind the wire",
        "Flat by about the same amount everywhere: it stands behind the fret wire instead of over it.",
        _try("Look straight down on it: over the wire, not where a finger would press."), ("bottleneck",),
    ),
    Rule(
        "slide_before", "pitch", pitch.slide_off(1), "The slide stands past the wire",
        "Sharp by about the same amount everywhere: it stands past the fret wire.",
        _try("Look straight down on it: over the wire, no further."), ("bottleneck",),
    ),
)  # fmt: skip

TIME: tuple[Rule, ...] = (
    Rule(
        "other_division", "timing", time.other_division, "The line falls into another division of the beat",
        "The hand plays what it knows, and the accents pull it there.",
        _try(
            "Count the asked number aloud on one note with the click, then put the figure on that count.",
            "Accent only the click, not the first note of the figure.",
        ),
    ),
    Rule(
        "eighths_swing", "timing", time.eighths_swing, "Even eighths swing",
        "The second of each two is played late, as in a shuffle.",
        _try("Set the click to eighths for a while; play down and up strokes of one length."),
    ),
    Rule(
        "late_after_shift", "timing", place.late_after_shift, "Late after a change of position",
        "The hand leaves late, or looks for its new place.",
        _try(
            "Only the last note before the shift and the first after it; look at the new fret before leaving.",
            "Let a finger stay on its string and glide along it, without pressure.",
        ),
    ),
    Rule(
        "slurs_hurry", "timing", slurs.slurs_out_of_time(-1), "Slurs hurry",
        "The fingers fall when they are ready instead of on the beat.",
        _try("One note a click at 60, then two, then four, and keep the slurred ones as long as the picked ones."),
    ),
    Rule(
        "slurs_drag", "timing", slurs.slurs_out_of_time(1), "Slurs drag",
        "The finger has too far to go, or waits for strength.",
        _try("Keep the fingers close over their frets; speed rather than weight."),
    ),
    Rule(
        "change_against_stroke", "timing", hands.change_against_stroke, "Late where the pick has to go back over the string",
        "The last stroke before the change ends on the wrong side of its string, and the pick gets caught on it.",
        _try(
            "Play only the last note before the change and the first after it; slant the pick so that this stroke ends above the strings.",
            "Begin the line with the other stroke: if the fault moves, it is the stroke and not the string.",
        ),
    ),
    Rule(
        "late_after_string_change", "timing", time.late_after_string_change, "Late after a change of string",
        "The stroke does not leave the string, so the pick has to get out before it can go on.",
        _try("Practise only the two notes around the change; let the stroke before it end above the strings."),
    ),
    Rule(
        "bend_breaks_rhythm", "timing", time.bend_breaks_rhythm, "The rhythm breaks at the bends",
        "The bend takes the time of the notes after it.",
        _try("Play the line without the bend on the click; then with it, arriving early rather than late."), ("bend_in_scale", "free"),
    ),
    Rule(
        "double_hits", "timing", time.double_hits, "Notes are struck twice",
        "The pick is pushed through two strings, or touches the sounding one on its way back.",
        _try("Less of the pick's tip below the string, and a smaller stroke; slow until each note has one attack."),
    ),
    Rule(
        "rushed_middle", "timing", time.inside_groups(-1), "The strokes are not one motion",
        "The middle strings are rushed.",
        _try("Let the pick fall through the strings in one motion, resting on each before the next."), ("sweep",),
    ),
    Rule(
        "rushes_inside", "timing", time.inside_groups(-1), "Groups are rushed",
        "The first note is placed, the others follow as they fall.",
        _try("Fewer notes a click until the last one has as much time as the first."),
    ),
    Rule(
        "drags_inside", "timing", time.inside_groups(1), "Groups drag",
        "The hand falls behind inside the group and catches up on the click.",
        _try("Slow down to where the last note of each group is on time."),
    ),
    Rule(
        "rushes", "timing", time.tempo_creeps(-1), "The take runs away from the click",
        "The click is not listened to while playing.",
        _try("Count aloud with the click; turn it up, or set it to every other beat."),
    ),
    Rule(
        "drags", "timing", time.tempo_creeps(1), "The take falls behind the click",
        "The tempo is higher than the hand can hold.",
        _try("Take the click down a step and stay there until it is even."),
    ),
    Rule(
        "slurs_drop", "level", time.slurring_drops, "Volume drops when slurring",
        "Slurred notes get less than picked ones.",
        (
            Try("Play the line slurred, then picked, and make the first sound like the second.", "strong"),
            Try("Keep slurs light, but each as light as the next.", "light"),
        ),
    ),
    Rule(
        "weak_finger", "level", hands.weak_finger, "One finger hammers more softly than the others",
        "Daily life does not train the third and the little finger.",
        (
            Try("That finger alone from the open string, about ten times, then in pairs with each of the others.", "strong"),
            Try("Touch the spot with that finger without a sound first, then a light exact hammer-on, about ten times.", "light"),
        ),
    ),
    Rule(
        "pull_hooks", "level", slurs.slurs_loud("pull"), "Pull-offs snap",
        "The finger hooks the string away instead of plucking it a little.",
        _try("Pull less far and more downward; the string should only just be plucked."),
    ),
    Rule(
        "hammer_loud", "level", slurs.slurs_loud("hammer"), "Hammer-ons stand out",
        "The finger falls from too high.",
        _try("Let it fall from a finger's breadth, quick rather than hard."),
    ),
    Rule(
        "over_muted", "level", quiet.over_muted, "Notes are choked",
        "The palm, or a finger that should only touch the others, lies on the played string, too.",
        _try("Bring the side of the hand closer to the bridge, or one string further back; it follows, it does not lead."),
        ("low_string_muting", "mute_check", "stop_and_rest", "long_note_noise", "muted_double_stops"),
    ),
    Rule(
        "hands_apart", "level", time.notes_choke, "The hands are not together",
        "The pick arrives before the finger is down, or the finger leaves too soon: the note is choked.",
        _try("Put the finger down, then pick, slowly; then both at once. Descending figures need it more than ascending ones."),
    ),
    Rule(
        "motion_changes", "level", time.motion_changes, "The motion changes with the tempo",
        "Slow strokes are made with another motion, mostly a bigger one.",
        _try("Play fast first, feel the size of the stroke, and slow down with that same stroke."), ("fastest_run",),
    ),
    Rule(
        "hammer_weak", "level", time.slurs_soft("hammer"), "Hammer-ons are weak",
        "The finger lands softly, or far behind the fret.",
        (
            Try("Strike with the fingertip close behind the fret, from a little height.", "strong"),
            Try("Place the fingertip exactly behind the fret, quick rather than hard.", "light"),
        ),
    ),
    Rule(
        "pull_weak", "level", time.slurs_soft("pull"), "Pull-offs are weak",
        "The finger is lifted instead of pulled down and away.",
        _try("Pull the finger down and away, so that it plucks the string; hold the lower finger ready."),
    ),
    Rule(
        "tap_weak", "level", time.slurs_soft("tap"), "Taps are weak",
        "The tap lands softly, or not behind the wire.",
        _try("Tap close behind the wire and leave with a small pull to the side."),
    ),
    Rule(
        "tap_loud", "level", time.taps_loud, "Taps stand out",
        "The tapping hand strikes harder than the other one plays.",
        _try("Tap from closer; make the fretted notes the measure of loudness."), ("tapping", "free"),
    ),
    Rule(
        "tap_long", "length", time.taps_long, "Taps take too long",
        "The tap is lifted late, and the pull-off after it is rushed.",
        _try("Four even notes on one click, slowly: tap, pull, pull, hammer."), ("tapping", "free"),
    ),
    Rule(
        "accents_missing", "level", time.accents_missing, "Accents are missing",
        "All strokes are alike.",
        _try("Play the group with the first note far too loud, then bring it back."),
    ),
    Rule(
        "accents_creep", "level", time.accents_creep, "Accents creep to the change of string",
        "The stroke that crosses strings is bigger than the others.",
        _try("Keep the groups as they are and put the accent on the click, not on the new string."),
    ),
    Rule(
        "volume_uneven", "level", time.volume_uneven, "Picked notes are not equally loud",
        "Pick depth and grip change from stroke to stroke.",
        _try("One string, one note, eight strokes a bar, until they are one; then the figure again."), least=3,
    ),
    Rule(
        "bleeds", "length", time.sweep_bleeds, "Notes ring into each other",
        "The finger is not rolled or lifted, or the palm lies too open.",
        _try("Roll the finger off each string, or lift it as the next note sounds; bring the palm closer to the bridge."),
    ),
    Rule(
        "notes_short", "length", time.notes_short, "Notes are let go of too early",
        "The finger leaves before the next note is ready.",
        _try("Keep each finger down until the next one sounds."), least=3,
    ),
)  # fmt: skip

_DOUBLE = ("muted_double_stops", "bottleneck")
QUIET: tuple[Rule, ...] = (
    Rule(
        "strings_pressed", "noise", quiet.strings_pressed, "Strings are pressed that should only be touched",
        "A finger that presses frets a note; a barre that presses sounds them all.",
        _try(
            "Touch, do not press: just enough to stop the string. Flatten the finger rather than pushing it.",
            "Strike the shape with only the muting fingers in place: thuds, no pitch.",
        ),
    ),
    Rule(
        "middle_under_slide", "noise", quiet.ringing("between"), "The string in the middle rings",
        "Under a slide nothing stops the string between; an idle finger of the picking hand has to.",
        _try("Leave the picking hand's first finger on the middle string while thumb and second finger pluck the others."),
        ("bottleneck",),
    ),
    Rule(
        "shape_not_held", "level", quiet.shape_not_held, "One note of the shape is not heard",
        "The hand opens or closes on the way, so that a finger misses its fret.",
        _try("Lock the hand in the shape and move it as a whole; strike it only after it has arrived."), _DOUBLE,
    ),
    Rule(
        "behind_slide_rings", "noise", quiet.ringing("below", "above"), "Strings ring beside the slide",
        "No finger lies on the strings behind the slide.",
        _try("Lay the fingers behind the slide on the strings, lightly."), ("bottleneck",),
    ),
    Rule(
        "middle_rings", "noise", quiet.ringing("between"), "The string in the middle rings",
        "Nothing touches the string between the two.",
        _try("Touch it with the idle fingertip, or with the underside of the finger on the lower string."),
    ),
    Rule(
        "outer_rings", "noise", quiet.ringing("above"), "An outer string rings",
        "The finger stands too steep to lie on the next string.",
        _try("Flatten the finger until its underside lies on the string above."), ("muted_double_stops",),
    ),
    Rule(
        "high_strings_ring", "noise", quiet.ringing("above"), "High strings ring",
        "The first finger does not lie on them.",
        _try("Lay the first finger flat across the high strings, lightly."), ("mute_check",),
    ),
    Rule(
        "joint_collapses", "noise", slurs.neighbour_rings_at("hammer"), "The next string rings with the hammer",
        "The end joint gives way, and the flat finger hits its neighbour.",
        _try("Hammer straight down with the tip, the finger arched, the end joint firm."),
        ("finger_pairs", "slur_vs_pick", "legato_cycle", "tapping"),
    ),
    Rule(
        "neighbour_slurred", "noise", quiet.ringing("above"), "The next string rings when slurring",
        "A finger touches it on the way off.",
        _try("Pull off at an angle away from it, or let the underside of the finger rest on it."),
        ("finger_pairs", "slur_vs_pick", "legato_cycle", "tapping"),
    ),
    Rule(
        "neighbours_build_up", "noise", quiet.ringing("above", "below", least_s=QUIET_CAUSES.builds_up_s),
        "Neighbours build up under the long note", "Free strings take up the sound, and nothing damps them.",
        _try("Damp with what is free: the underside of the fretting fingers above, the side of the picking hand below."),
        ("long_note_noise",),
    ),
    Rule(
        "low_strings_ring", "noise", quiet.ringing("below"), "Low strings ring",
        "The picking hand does not lie on them.",
        _try("Let the thumb side of the picking hand follow the strings that are played; a fingertip of the fretting hand can touch the next lower one."),
    ),
    Rule(
        "above_rings", "noise", quiet.ringing("above"), "Higher strings ring",
        "The fretting finger stands too steep to lie on them.",
        _try("Let the underside of the fretting finger lie on the strings above."),
    ),
    Rule(
        "still_fretted", "noise", quiet.stops("still_fretted"), "The note itself sounds on after the stop",
        "The fretting finger holds it, and the picking hand does not damp.",
        _try("Stop with both hands together: palm down as the finger lifts."),
    ),
    Rule(
        "fretting_hand_first", "noise", quiet.stops("fretting_hand_first"), "Open strings sound after the stop",
        "The fretting hand left before the picking hand damped.",
        _try("Palm down first, then lift; keep the fingers on the strings, without pressing."),
    ),
    Rule(
        "stop_late", "noise", quiet.stops("rings_after_stop"), "Stops are late",
        "The hands do not stop together.",
        _try("Play only the stop: one chord, one beat, silence on the next click."),
    ),
    Rule(
        "chord_unequal", "level", quiet.chord_unequal, "Notes of the double stops are not equal",
        "The pick, or the fingers, give one string more.",
        _try("Play both strings with one short motion, and listen for the softer one."),
    ),
    Rule(
        "scrapes", "noise", quiet.scrapes, "Fingers scrape on the windings",
        "The finger keeps its pressure while it moves along the string.",
        _try("Release first, then move; land, then press."), least=3,
    ),
)  # fmt: skip

_BY_MEASURE: tuple[Measure, ...] = ("pitch", "bend", "vibrato", "timing", "level", "length", "noise")
PLACE: tuple[Rule, ...] = (
    Rule(
        "repeats_missing", "pitch", wrong.repeats_missing, "Fewer repeats than asked",
        "The recording ends before the drill does.",
        _try(
            "Play all repeats in one recording, with the rests between them.",
            "If they are too many to stay clean, let the drill ask for fewer.",
        ),
        besides=True,
    ),
    Rule(
        "notes_missing", "pitch", wrong.notes_missing, "Notes are left out at the same place",
        "The figure is shorter in the fingers than on the page.",
        _try("Play that place alone, four or five times, then with one note before and after it."), besides=True,
    ),
    *(
        Rule(
            f"same_note_{measure}", measure, place.always_same_note(measure), "Always the same note",
            "What fails at one place is that place: its finger, its stroke, or what comes before it.",
            _try("Take that note and the one before it out of the figure, four or five times, then one note more on each side."),
        )
        for measure in _BY_MEASURE
    ),
    *(
        Rule(
            f"worse_at_end_{measure}", measure, place.worse_at_end(measure), "It gets worse towards the end",
            "The hand tires, or the ear: what was clean at first goes.",
            _try(
                "Fewer repeats, each of them clean, with a pause between; stop while it is still good.",
                "Shake the hands out at once when they tighten; with pain, numbness or tingling stop for the day.",
            ),
            besides=True,
        )
        for measure in _BY_MEASURE
    ),
)  # fmt: skip

HAND = PITCH + TIME + QUIET
RULES = OUTER + HAND + PLACE

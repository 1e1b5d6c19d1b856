"""What is said while a drill is shown, by family: data for the drill card. Common practice, no source.

Where teachers differ both ways are given; a drill's school decides which of them its card shows. A studio may replace
any of these lines by its own (the server keeps them).
"""

from __future__ import annotations

from dataclasses import dataclass

from fortimetra.model.drill import Family
from fortimetra.player.shown import Shown


@dataclass(frozen=True)
class Wrong:
    """A usual fault: what it is, what it sounds like, and how the simulated student plays it (None: it cannot)."""

    says: str
    sounds: str
    shown: Shown | None = None


@dataclass(frozen=True)
class Silent:
    """A step without sound, before the first note; it takes so many seconds and is not judged."""

    says: str
    seconds: int


@dataclass(frozen=True)
class Teaching:
    """A family's knowledge. Each line is a sentence or two that stand by themselves."""

    purpose: str
    listen: tuple[str, ...]
    fretting: tuple[str, ...]
    picking: tuple[str, ...]
    practise: tuple[str, ...]
    wrong: tuple[Wrong, ...]
    silent: tuple[Silent, ...] = ()
    compare: str = ""


def _bent(cents: float) -> Shown:
    return Shown(cents=cents)


def _late(ms: float) -> Shown:
    return Shown(late_ms=ms)


def _soft(db: float) -> Shown:
    return Shown(slur_db=db)


# -- what many families share ------------------------------------------------------------------------------------

_BEND_HAND = (
    "The ring finger bends; the first and second stand behind it on the same string and push too.",
    "Hook the thumb over the edge as a counter-grip. The wrist turns like a key in a lock and the forearm joins in; the finger joints stay as they are.",
    "Keep just enough contact: too little and the note dies on the way, too much and the hand cramps.",
)
_BEND_PICKING = (
    "One stroke, then leave the string alone: tuck the pick under the second finger.",
    "Lay the side of the thumb on the string below the one that bends, and the first finger on the string above it.",
)
_SLOW = "Four or five times in one place, slowly and clean, before you move on; two to four minutes a day."
_FLAT = Wrong("The bend stops short.", "The held note lies under the target and sounds sour against it.", _bent(-35.0))
_SHARP = Wrong("The bend goes past.", "The note overshoots and hangs over the target.", _bent(30.0))
_SLUR_HAND = (
    "The thumb lies low behind the middle of the neck, the fingers stand arched, close over their frets.",
    "Hammer straight down with the fingertip, close behind the fret wire: speed, not weight. The end joint does not give way.",
    "A pull-off is not a lift: the finger plucks the string down and a little away.",
)
_WEAK = Wrong("The slurred notes are weak.", "Every second note sinks behind the picked one.", _soft(-10.0))
_HURRY = Wrong("The slurs hurry.", "The line bunches up and arrives before the click.", _late(-45.0))
_PICK_HAND = (
    "The stroke comes from the wrist, not from the forearm; the joints of thumb and first finger stay still.",
    "The hand rests lightly and glides along. Hold the pick firmly without clenching, at an angle, so that it slides through.",
)
_LATE = Wrong(
    "Notes come late after the string change.", "The first note on the new string drags behind the click.", _late(55.0)
)
_RING_LOW = Wrong(
    "A low string rings along.", "A deep drone under the line that was not played.", Shown(ring_string=5, ring_db=-14.0)
)
_RING_HIGH = Wrong(
    "A thin string rings along.", "A clear high tone beside the note.", Shown(ring_string=1, ring_db=-16.0)
)
_BELOW = "Set the metronome well below what you can do; go up only when it is clean."

TEACHING: dict[Family, Teaching] = {
    "set_up": Teaching(
        purpose="Shows what belongs to the guitar: its tuning, its intonation, the noise of the recording. Everything played later is read against it.",
        listen=("Tune first, then let every string ring by itself to the end.",),
        fretting=("At the twelfth fret press just hard enough for a clear note, straight down: pressing hard or pulling sideways makes it sharp.",),
        picking=("Pluck each string once, at middle strength, where you usually play.",),
        practise=("Once with every new set of strings, and whenever the guitar sounds off.",),
        wrong=(Wrong("A string was plucked again while it rang.", "A second attack in the middle of the note."),),
        silent=(Silent("Keep both hands on the strings for two seconds: that is how the noise of the room is read.", 2),),
    ),
    "fretted_then_bend": Teaching(
        purpose="Teaches the ear and the hand one bend: fret the target, keep it in your ear, bend to it, and check yourself.",
        listen=("Play the fretted target and sing it. Half and full are pitches, not a bit and a bit more.",),
        fretting=_BEND_HAND,
        picking=_BEND_PICKING,
        practise=(_SLOW, "Then bend without plucking, pluck, and fret the target: that trains the hand’s memory."),
        wrong=(_FLAT, _SHARP, Wrong("The bend sinks while it is held.", "It starts right and goes sour: the pressure eases.")),
        silent=(Silent("Bend up without plucking and let it down again, twice, only by feel.", 10),),
        compare="Play the held bend once with the thumb’s side on the low strings and once without: hear what else sounds.",
    ),
    "bend_ladder": Teaching(
        purpose="Takes one bend along the neck and over the strings: each place needs another push.",
        listen=("Hear the fretted target at every new place before you bend there.",),
        fretting=(*_BEND_HAND, "Low frets and thin strings resist more: change the push, not the ear."),
        picking=_BEND_PICKING,
        practise=("The same place four or five times, then one fret up. Half steps through first, whole steps after.", "Both directions get the same time."),
        wrong=(_FLAT, Wrong("The error grows up the neck.", "Right at the start, more and more off as you climb.", _bent(22.0))),
        silent=(Silent("At each new fret bend once without sound, to feel how stiff it is there.", 5),),
        compare="Let the neighbours ring once on purpose, then damp them: the second is the sound you want.",
    ),
    "prebend": Teaching(
        purpose="The bend is there before the note sounds: only the hand can know how far. Then let it down in tune.",
        listen=("Fret the target and the note below it: the two pitches you travel between.",),
        fretting=(*_BEND_HAND, "Let it down as slowly and as held as it went up, until it rests on the fret."),
        picking=("Bend first, silently; strike when the hand is sure.", "Keep a finger on the string above: it is the first to sound when you bend silently."),
        practise=("Ten times on one fret of this guitar before you move: gauge and scale change the feel.", _SLOW),
        wrong=(Wrong("It starts flat.", "The first sound lies under the target.", _bent(-35.0)), _SHARP, Wrong("The release does not land.", "It comes down past or short of the fretted note.")),
        silent=(Silent("Pre-bend by feel, hold for two seconds, let down. Do not pluck yet.", 10),),
    ),
    "unison_bend": Teaching(
        purpose="Two strings, one note: the bent string meets the steady one. The beating between them tells you without a tuner.",
        listen=("Hear the beating slow down as the two come together, and stop when they are one. If it quickens again you went past.",),
        fretting=("The first finger holds the steady note, the ring finger bends, the second stands behind it.", *_BEND_HAND[1:]),
        picking=("Strike both strings in one short stroke, then keep the others quiet with the side of the thumb.",),
        practise=("Stop just under the unison, hear the beating, then close it. Hold for two beats.", _SLOW),
        wrong=(Wrong("It stops under the unison.", "A slow beating goes on.", _bent(-18.0)), Wrong("It goes past.", "The beating stops and comes back.", _bent(18.0))),
        silent=(Silent("Set both fingers and bend once without sound.", 5),),
        compare="Strike all strings once with damping, once without.",
    ),
    "curl": Teaching(
        purpose="A small bend, audibly sharp and less than a half step, that makes a note speak like a voice.",
        listen=("Hear the plain note, then the half step above it: the curl stays between the two.",),
        fretting=("The first finger may pull down alone; a curl needs no helpers.", "At its top lay the finger back and let the note end: do not let it fall."),
        picking=("Strike and follow at once; the damping hand is ready for the stop.",),
        practise=("Put it into a short rhythm with a bass note, the same size every time.", _SLOW),
        wrong=(Wrong("It becomes a clean half step.", "It sounds like another note, not like an inflection.", _bent(45.0)), Wrong("It rings on after its top.", "The pitch sags back where it should stop.")),
        silent=(Silent("Curl the string without plucking and lay the finger back, ten times: the same small way.", 10),),
        compare="With the stop and without: only the first one is a curl.",
    ),
    "bend_in_scale": Teaching(
        purpose="Bends where music has them: a scale goes on, and one of its notes is reached by bending up to it.",
        listen=("Play the scale plain first. Sing the note you will bend to.",),
        fretting=(*_BEND_HAND, "Move the hand for the bend and back to its place without hurry: the next note waits in the scale."),
        picking=("Keep the stroke even through the bend; the click does not wait.", "The side of the thumb follows the strings you play."),
        practise=("Usual places in a minor box: the fourth up to the fifth, the flat seventh to the root, the second to the minor third.", "The same an octave higher: the frets are narrow there and the touch is another."),
        wrong=(_FLAT, Wrong("The rhythm breaks at the bend.", "The note after the bend comes late.", _late(60.0))),
        silent=(Silent("Go through the scale without sound and set every finger of the bends.", 15),),
        compare="The scale with the low strings damped, then left alone.",
    ),
    "vibrato_fretted": Teaching(
        purpose="A small bend, repeated: the same distance, in the same time, always back to the same line.",
        listen=("Hear the plain note as a line first. The vibrato is a wave drawn on that line.",),
        fretting=("The thumb comes over the edge; the wrist turns, the fingers stay as they are. A second finger may help.", "The string may touch its neighbour and push it along; it stays quiet."),
        picking=("Strike once. Thumb or palm lies on the thick strings, the other fingers on the thin ones.",),
        practise=("Slow and wide first, so that up and back are heard; then quicker; then narrower.", "Count the cycles to the click: one, two, three, four a beat.", _SLOW),
        wrong=(Wrong("The waves are not alike.", "It wobbles: wide and narrow, quick and slow by turns.", Shown(vibrato_cv=0.5)), Wrong("It never comes back.", "The note drifts sharp while it moves.", _bent(25.0))),
        silent=(Silent("Turn the wrist without plucking: only the movement, in time with the click.", 10),),
        compare="Let the neighbours ring once; then lay the fingers down.",
    ),
    "vibrato_bent": Teaching(
        purpose="First a good bend, then let it down a very little and push back all the way: the tops carry the pitch.",
        listen=("Hear the target fretted. Every top of the wave is that pitch.",),
        fretting=(*_BEND_HAND, "The string stays pinned to the fretboard while it moves, or the note fizzles out."),
        picking=_BEND_PICKING,
        practise=("Hold the bend for a beat, then two dips, then four, then as many as the note lasts.", "On the three usual bends of a box."),
        wrong=(Wrong("The tops are flat.", "It hangs under the pitch and never gets back up.", _bent(-28.0)), Wrong("The dips differ.", "A shaking hand instead of a pulse.", Shown(vibrato_cv=0.5))),
        silent=(Silent("Bend, let down a little and push back, ten times, without sound.", 10),),
    ),
    "finger_pairs": Teaching(
        purpose="Makes two fingers equal: what one starts, the other answers as loud and in time.",
        listen=("Pick both notes first. The slurred one should sound as loud; only its attack differs.",),
        fretting=_SLUR_HAND,
        picking=("Only the first note is picked. Then the hand rests: thumb on the thick strings, free fingers on the thin ones.",),
        practise=("About ten a finger and string. Each finger alone from the open string, then 1-2, 1-3, 1-4, 2-3, 2-4, 3-4.", "At 60: one note a click, then two, then four."),
        wrong=(_WEAK, _HURRY, _RING_HIGH),
        silent=(Silent("Aim: let the finger touch its spot and lift again, ten times, without sound.", 15),),
        compare="Lay the first finger flat over the thin strings, then stand it steep: hear what the pull-off wakes.",
    ),
    "slur_vs_pick": Teaching(
        purpose="The same line slurred, then picked: nothing but the attack may change.",
        listen=("Play it picked and keep that volume in your ear.",),
        fretting=_SLUR_HAND,
        picking=("The neck-side pickup tells slurred and picked notes apart best.", *_PICK_HAND[:1]),
        practise=("Change after every bar, then after every beat.", _BELOW),
        wrong=(_WEAK, _HURRY),
        silent=(Silent("Finger the line without sound, as lightly as will hold a note.", 10),),
    ),
    "legato_cycle": Teaching(
        purpose="Groups that do not fit the beat, in even sixteenths: the accents wander, so the fingers must be equal.",
        listen=("Say the group aloud against the click before you play it.",),
        fretting=(*_SLUR_HAND[1:], "Thumb and first finger may press firmly as a lever in fast cycles; the others stay light."),
        picking=("The pick sounds the first note of a string, then hooks under the next and keeps it quiet until it is needed.", "Once the pick is tucked away, thumb and first finger lie on the strings either side."),
        practise=("Slowly until the accent no longer follows the string change.", _BELOW),
        wrong=(Wrong("The accent sticks to the string change.", "A bump at every crossing."), _HURRY, _WEAK),
        silent=(Silent("Both strings without the pick: hammer and pull only, very softly.", 15),),
    ),
    "tapping": Teaching(
        purpose="Four even notes from two hands: tap, pull, pull, hammer.",
        listen=("Count one-e-and-a: all four have the same length.",),
        fretting=("First and little finger stay close over their frets; the first is down before the tap leaves.", "The end joints do not give way."),
        picking=("Tap with the middle finger close behind the fret wire; the pick stays between thumb and first finger.", "Leave by a small pull, a clear twang, not by a lift.", "The side of the hand lies on the thick strings."),
        practise=("One, two, then four notes a click. Quick versions bunch up: go back a step when they do.",),
        wrong=(Wrong("The tapped note stands out.", "One note of four is louder and longer."), _WEAK, _HURRY),
        silent=(Silent("Set the tapping finger on its spot and take it away with the pull, without sound.", 10),),
    ),
    "alternate_picking": Teaching(
        purpose="Strict down and up through a figure, the same volume and time on every string.",
        listen=("Hear the click and the accent on the first of each group before you begin.",),
        fretting=("Fingers stay close over their frets, one a fret; the finger is down when the pick arrives.",),
        picking=(*_PICK_HAND, "Begin down and alternate strictly. A group of three begins its second round with an up-stroke: know where."),
        practise=("Up and down in equal shares.", _BELOW, "Then once as fast as it stays even, and slowly again with that same motion."),
        wrong=(_LATE, Wrong("Two strings are hit at once.", "A double attack at the change."), Wrong("The hands are apart.", "Choked or late notes: the pick is there before the finger.")),
        silent=(Silent("Finger the figure without the pick, in time.", 10),),
        compare="The side of the hand on the thick strings, then lifted.",
    ),
    "fastest_run": Teaching(
        purpose="Finds how fast your stroke stays even. That number is the ceiling of all picking ladders.",
        listen=("Listen for evenness, not for speed.",),
        fretting=("Hold one note; nothing else moves.",),
        picking=(*_PICK_HAND, "Stay loose: a tense grip makes every stroke catch. Stop before the forearm burns."),
        practise=("A few seconds only, with pauses. Then slow down with the same motion: most people change it, and that is the thing to watch.",),
        wrong=(Wrong("The forearm takes over.", "Fast, stiff and uneven; the volume jumps."),),
        silent=(Silent("Move the pick over the strings without touching them, as fast as it stays loose.", 5),),
    ),
    "sweep": Teaching(
        purpose="One motion through the strings, and yet every note has its own place in time.",
        listen=("Hear the chord as single notes: none may ring into the next.",),
        fretting=("Not one barre: each finger rolls or lifts so that its note stops as the next begins.",),
        picking=("Let the pick fall through, resting into the next string, held lightly enough to give.", "The side of the palm rests on the strings that are done."),
        practise=("Two strings first, then three with the pull-off on top, then five.", "After the pull-off begin again with a down-stroke: three ups in a row is the usual mistake.", "The first shape is safe before the next."),
        wrong=(Wrong("The notes ring together.", "A chord instead of single notes.", Shown(ring_string=2, ring_db=-8.0)), Wrong("The middle rushes.", "The inner notes come too soon.", _late(-40.0))),
        silent=(Silent("Roll the fingers through the shape without the pick.", 10),),
        compare="With the palm resting, and without: the second is one blurred chord.",
    ),
    "muted_double_stops": Teaching(
        purpose="Two notes sound, and the strings between and beside them do not.",
        listen=("Play the two notes one after the other, then together: equally loud, exactly together.",),
        fretting=("Lock the hand in its shape and move it whole.", "Touch what must be quiet, do not press: a finger that presses frets a note.", "First finger’s tip or pad quiets the string between and the one outside; the upper finger’s underside the next."),
        picking=("Plucked with thumb and fingers it is punchier; struck through all strings it needs the muting to be complete.", "The side of the thumb lies on the thick strings."),
        practise=("One shape up the neck until the middle string stays silent, then the change of shapes.", _SLOW),
        wrong=(Wrong("The string between rings.", "A third note sits in the middle.", Shown(ring_string=2, ring_db=-12.0)), Wrong("One of the two is weaker.", "It sounds like one note with a shadow.")),
        silent=(Silent("Set the shape, strike only the string between: it should give a thud.", 10),),
        compare="Lift the finger off the middle string once: that chord is what you are avoiding.",
    ),
    "bottleneck": Teaching(
        purpose="Two notes with the slide, in tune without the help of frets, and quiet strings around them.",
        listen=("Fret the note with a finger, then find it with the slide.",),
        fretting=("The slide stands over the fret wire, not behind it, straight across and without pressing.", "The fingers behind it lie lightly on the strings."),
        picking=("Thumb and second finger pluck; the first finger stays on the string between.", "The side of the thumb lies on the thick strings."),
        practise=("Two bars a chord: come into each from just below and stop on the pitch.", _SLOW),
        wrong=(Wrong("Every note is flat by the same amount.", "The slide stands behind the wire.", _bent(-22.0)), Wrong("Strings behind the slide ring.", "A faint wrong chord behind the note.")),
        silent=(Silent("Move the slide to every place of the change without plucking; look at the wire.", 10),),
        compare="With the fingers behind the slide, then lifted.",
    ),
    "mute_check": Teaching(
        purpose="All six strings are struck and only the chord sounds: then the picking hand is free.",
        listen=("One note first, with all six struck: a note and thuds. A thud may be there, a pitch may not.",),
        fretting=("Fret with the print of the first finger, flat and soft over the thinner strings; the others are arched.", "Root on 5: its tip touches 6. Root on 4: its tip touches 5, and the idle second finger lies over 5 and 6."),
        picking=("Strike through freely, from the wrist.",),
        practise=("One note, then two, then three; roots on 6, 5 and 4.", _SLOW),
        wrong=(_RING_HIGH, _RING_LOW, Wrong("The chord itself is choked.", "The notes are dull and short: the mute touches too much.")),
        silent=(Silent("Lay the hand over all strings and strike: six thuds. Then press only the chord.", 10),),
        compare="Strike it once with the first finger standing steep.",
    ),
    "low_string_muting": Teaching(
        purpose="A scale with drive where nothing below it sounds: the side of the thumb follows the strings.",
        listen=("Stop after a note and listen to what is left.",),
        fretting=("On string 6 the fretting hand covers all that is above; its first finger stays flat.",),
        picking=("From string 4 on the side of the thumb lies on 6 and 5, follows inward to 4 and 3, and comes back string by string on the way down.", "Too much of it chokes the played string."),
        practise=("Slowly with drive on; more drive when it stays quiet.", _BELOW),
        wrong=(_RING_LOW, Wrong("The played string is choked.", "Notes are short and dull: the hand lies too far in.")),
        silent=(Silent("Move the thumb’s side over the strings in time, without playing.", 10),),
        compare="Lift the hand for one run: that rumble is what it holds down.",
    ),
    "long_note_noise": Teaching(
        purpose="While a long note sounds the free strings take it up. Damping keeps only the note.",
        listen=("Let it ring once without damping, and listen to the strings around it.",),
        fretting=("The underside of the fretting fingers lies on the strings above.",),
        picking=("After the stroke tuck the pick under the second finger; thumb on the string below, first finger on the string above.",),
        practise=("Without and with, in turn. The difference has to be heard once to be wanted.",),
        wrong=(_RING_LOW, _RING_HIGH),
        silent=(Silent("Practise laying the hand down after a stroke, without sound.", 5),),
        compare="That is what the drill is: one without, one with.",
    ),
    "stop_and_rest": Teaching(
        purpose="Rests are played: the sound ends where the rest begins.",
        listen=("Count the rests aloud with the click.",),
        fretting=("Release the pressure and leave the fingers on the strings: lifting them off makes the strings sound.",),
        picking=("The palm comes down as the fretting hand lets go: both hands stop together.",),
        practise=("Long rests first, then short ones, then off the beat.", _BELOW),
        wrong=(Wrong("The note sounds on into the rest.", "A tail that hangs over."), Wrong("Open strings sound at the stop.", "The fretting hand left first.", _RING_LOW.shown)),
        silent=(Silent("Strike, stop, and listen for two seconds: silence is part of the figure.", 4),),
        compare="Stop with one hand only, then with both.",
    ),
    "slides": Teaching(
        purpose="One finger travels and arrives in tune, on time and still sounding.",
        listen=("Play both notes plain; then slide from one to the other with the click.",),
        fretting=("Keep the pressure while you travel and aim for the wire of the fret, not for the middle.", "Look at where you go, not at the finger."),
        picking=("Only the first note is struck.", "The free fingers keep the neighbours quiet while the hand moves."),
        practise=("Two frets first, then longer ways; the arrival is on the click.", _BELOW),
        wrong=(Wrong("It arrives late.", "The new pitch is there after the click.", _late(55.0)), Wrong("The note dies on the way.", "The finger eased off while it moved.")),
        silent=(Silent("Slide without sound, with the click, and see whether the finger stands at the wire.", 10),),
    ),
    "free": Teaching(
        purpose="A phrase: everything that was practised singly, in the service of the line.",
        listen=("Hear it once from beginning to end before you play.",),
        fretting=("Little movement: fingers stay close over their frets, with a small gap under the palm.",),
        picking=_PICK_HAND,
        practise=("Slow and clean first, up only when it is clean. A technique serves the phrase: never faster than the line wants.", _SLOW),
        wrong=(_LATE, _RING_LOW),
        silent=(Silent("Go through it without sound, finger by finger.", 15),),
        compare="With damping and without.",
    ),
}  # fmt: skip

# Where teachers differ: what a school says instead of, or besides, a family's own lines.
LIGHT_SLURS = (
    "Aim first: touch the spot without sound, then an exact light hammer, about ten times. The finger that stays down does not press harder.",
)
STRONG_SLURS = ("Strike hard until slurred equals picked.",)
OVERLEARN = "Stay at this speed until it is boring: the speed comes by itself."
NOTES_PER_CLICK = "Leave the click where it is and put more notes to it: one, two, three, four."
TEMPO_STEPS = "Raise the tempo a little after three clean takes in a row."
BREAKS = "Take a break at least every 20 to 25 minutes, and stop at once when something hurts."

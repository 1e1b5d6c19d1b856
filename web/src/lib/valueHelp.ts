/** What each value of the sheet is, how exact it is and what it is judged against: two or three sentences each. */
import type { Shown } from "~/api/drills";

export interface ValueHelp {
  /** Its name on the sheet. */
  name: string;
  is: string;
  /** How exact it is, from the benchmarks in docs/measuring.md, and what it is judged against. */
  exact: string;
  /** What the simulated student does to make it heard; none where there is nothing to hear. */
  hear?: Partial<Shown>;
  hearWords?: string;
}

export const VALUES = {
  pitch: {
    name: "Pitch of a plain note",
    is: "How many cents a fretted or open note lies from its pitch, read after it has settled. A hundred cents are one fret.",
    exact:
      "To about a cent on a clean sound. It is judged against the drill’s tuning, moved by what the guitar’s set-up take or its own plain notes say.",
    hear: { cents: -25 },
    hearWords: "25 cents flat",
  },
  bend: {
    name: "Error of a bend",
    is: "How far the held pitch of a bend lies from its target: minus is flat, plus is sharp.",
    exact:
      "To one or two cents. The target is the student’s own fretted note of that pitch where there is one; else the bend’s start plus the interval, and the uncertainty grows.",
    hear: { cents: -30 },
    hearWords: "30 cents flat",
  },
  hold: {
    name: "Hold of a bend",
    is: "How steady the pitch is while it is held: the spread (SD) without its drift, and the drift in cents a second.",
    exact:
      "The spread comes back to a few tenths of a cent on steady tones. A bend that sinks or climbs by more than 25 cents a second is not clean, however well it arrived.",
  },
  beating: {
    name: "Beating of a unison bend",
    is: "How many times a second two strings that should sound one pitch swell against each other.",
    exact:
      "The difference is known to 1.5 cents; under 4 cents its sign is lost. It is judged by the beats, as the ear does.",
  },
  vibrato: {
    name: "Vibrato",
    is: "Its rate, its width from turn to turn, how even both are, and whether it comes back to the note each time.",
    exact:
      "At least three cycles are needed. Rate and width are the player’s voice and are judged only where a drill asks for them; evenness and the return have tolerances. A room makes every swing narrower: two numbers in brackets say how much wider and how much narrower it may really be.",
    hear: { vibrato_cv: 0.4 },
    hearWords: "uneven by 40 %",
  },
  onset: {
    name: "Onset",
    is: "How many milliseconds a note begins before (minus) or after (plus) the click. A slurred note begins in the middle of its step of pitch.",
    exact:
      "Half a millisecond on plucked notes, about 2 on slurs, 10 to 15 on sounds that swell. The tolerance follows the note’s length; without the recorder’s click early and late as a whole cannot be told.",
    hear: { late_ms: 60 },
    hearWords: "60 ms late",
  },
  level: {
    name: "Volume",
    is: "How loud a note begins beside the notes it should equal: those of its own string, played the same way.",
    exact:
      "About 0.3 dB where notes stand alone, more where strings ring into each other: two numbers in brackets say how much louder and how much softer it may really be, for what still rings can only make a note seem louder. An amplifier with drive and a phone’s automatic gain press differences together.",
    hear: { slur_db: -10 },
    hearWords: "slurs 10 dB softer",
  },
  length: {
    name: "Length",
    is: "How much of its time a note sounds: to 20 dB under its own start, or to the next note.",
    exact:
      "To a few percent. Where the next note begins early or late, that is its timing, not this note’s length.",
  },
  overlap: {
    name: "Under the next note",
    is: "How long a note still sounds after the next one has begun on another string.",
    exact: "To about 5 ms on a clean sound; what an echo or the room explains is left open.",
  },
  ring: {
    name: "Strings that ring",
    is: "The loudest string that sounds and should not, in dB beside the wanted note: −20 dB is clearly heard, −40 dB hardly.",
    exact:
      "At −20 dB 98 of 100 are found on a clean sound, at −30 dB 84. “Heard from” says how soft a string would still be noticed here.",
    hear: { ring_string: 6, ring_db: -16 },
    hearWords: "string 6 rings at −16 dB",
  },
  stop: {
    name: "Silent after the stop",
    is: "How long it takes from where a note should end until nothing is heard.",
    exact: "To 12 ms. A room that rings on is not the hand’s and is left open.",
  },
  chord: {
    name: "In its chord",
    is: "Whether a string of a chord is heard, and its share beside that string’s usual share in this take.",
    exact:
      "The upper note of an octave has no partials of its own and is left open. The share is known to about 3 dB.",
  },
  slide: {
    name: "Slide",
    is: "How long it is on its way, whether it keeps its volume, and when it arrives.",
    exact: "The arrival is known to about 5 ms on slides of one string.",
  },
} as const satisfies Record<string, ValueHelp>;

export type ValueKey = keyof typeof VALUES;

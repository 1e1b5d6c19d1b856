/** The handbook in the page. Short pieces: a heading, paragraphs, lists. */

import { holdsWords } from "~/lib/search";

export type Piece = string | { list: readonly string[] };

export interface Chapter {
  id: string;
  title: string;
  /** For whom it is. */
  of: "teacher" | "student" | "both";
  pieces: readonly Piece[];
}

export const CHAPTERS: readonly Chapter[] = [
  {
    id: "desk",
    title: "An evening at the Desk",
    of: "teacher",
    pieces: [
      "Takes wait here in the order they need your ear: those with the most that is not clean come first. The marks show every note of a take in its order: on the line clean, under it flat, early or soft, over it sharp, late or loud.",
      {
        list: [
          "Arrow keys walk through the takes, Enter opens one. On its sheet N goes to the next note that is not clean, Space plays it in context, Enter marks the take as judged and opens the next one.",
          "A selects every take that is clean through; J marks what is selected as judged. That is often half of the evening.",
          "Where you hear it otherwise, say so: M for intentional, X to leave a note out, J for another verdict. The measured value stays beside yours.",
          "A step of a ladder that is ready is offered in the last column; N takes it.",
        ],
      },
      "The likely cause stands on top of a sheet with what to try. Press its number to go through its notes.",
    ],
  },
  {
    id: "first-lesson",
    title: "The first lesson with it",
    of: "teacher",
    pieces: [
      {
        list: [
          "Add the student, and enter the consent to be recorded (for minors that of a parent or guardian).",
          "Describe the guitar and record its set-up take: every open string and its 12th fret. It takes two minutes and makes every later number better, because notes are then read against that guitar’s own tuning.",
          "Choose one drill, not five. Listen to it together, clean and with a fault on the sliders, so that both of you know what a number sounds like.",
          "Record a take. Go through the sheet together: one likely cause, one thing to try.",
          "Assign the drill with its dose in minutes and let the ladder raise the tempo when three takes in a row were clean.",
        ],
      },
    ],
  },
  {
    id: "numbers",
    title: "What ± and “cannot tell” mean",
    of: "both",
    pieces: [
      "Behind every value stands how far it is known: “−12 ± 2 cents” means that the truth lies between −14 and −10 in 19 of 20 cases.",
      "A note is clean where its value lies inside the tolerance with all its uncertainty, and not clean where it lies outside with all of it. In between the honest answer is “cannot tell”. It is no fault and counts as none.",
      "“Cannot tell” has its reason beside it: the note is covered by another string, the room rings on, the sound is driven, the hold never rests. Most reasons have a remedy: record closer, switch effects off, let the note sound longer.",
      "A share such as “92 % (81 to 98)” is of so many notes; of few notes it is known less well. Two takes differ only where the difference is larger than the uncertainty and a fifth of the tolerance.",
    ],
  },
  {
    id: "recording",
    title: "How to record well",
    of: "both",
    pieces: [
      "An interface with a cable is best: nothing but the guitar is heard. Set the gain so that the loudest notes stay under −6 dBFS, switch effects off, and let the page measure the round trip once; then early and late are true to the click.",
      {
        list: [
          "Phone: put it on something firm, half a metre from the strings or the loudspeaker, not in the hand and not on the amplifier. Wear headphones for the click, so that it is not recorded with the guitar.",
          "Amplifier: clean or lightly driven. Drive presses loud and soft together and makes tones of its own, so volume and ringing strings are told less often.",
          "Room: curtains and carpets help. In a room that rings, stops and notes that run into each other stay open.",
          "Headset or laptop microphone: switch off noise suppression and automatic gain where the system lets you; both change the volume of notes.",
          "Begin again as often as you like. Of several tries the last one counts, and talk, coughs and pauses are left out.",
        ],
      },
      "Hearing: with headphones and click keep the level moderate and take pauses.",
    ],
  },
  {
    id: "sheet",
    title: "Reading a take’s sheet",
    of: "both",
    pieces: [
      "Top to bottom: the tab as asked; Tune, each note’s pitch about its own target; Time, each onset against the click; Touch, how loud and how long; Quiet, a stroke where a string rings that should not; the sound itself. Only what the drill is judged for is shown.",
      "The band is the tolerance. What leaves it downward is flat, early or soft; upward sharp, late or loud. Hatched is “cannot tell”.",
      "Stack puts each repeat under the one before: what happens at the same place every time is a habit, what happens once is chance.",
      "What was begun again is drawn lightly and counted apart. Another try can be chosen as the one that counts, and a stretch can be left out.",
    ],
  },
  {
    id: "ladder",
    title: "Steps of a ladder",
    of: "both",
    pieces: [
      "A drill is at a step: a tempo, or so many notes to a click. When three takes in a row are clean (95 % of their notes, nothing off twice in one place) the next step is proposed; after two takes under 80 % the one before.",
      "The rule can be set for each assignment: more takes, a goal, steps by the rule alone. Where something hurts all ladders stand still until the teacher clears it.",
    ],
  },
  {
    id: "today",
    title: "Your practice day",
    of: "student",
    pieces: [
      {
        list: [
          "Today lists your drills with their minutes. Record counts you in and measures the take; Played it only writes the minutes down.",
          "Look at the places to mend, hear one of them, and play the drill again with that one thing in mind.",
          "Short and often beats long and seldom: take a break at least every 20 to 25 minutes.",
          "If it hurts, stop, and press “I stopped: something hurts”. Do not practise through pain, numbness or tingling; see a doctor or physiotherapist.",
        ],
      },
    ],
  },
  {
    id: "class",
    title: "The class at a glance",
    of: "teacher",
    pieces: [
      "On Students each row is a student and each column something that is judged. The figure is the share of notes within tolerance over the last two weeks; the line shows eight weeks. What is surely under 95 % is coloured. Press a figure for the takes behind it.",
      "The fourteen marks are the last two weeks: filled where a take was sent, hollow where only practice was written down.",
    ],
  },
  {
    id: "consent",
    title: "Consent, keeping and deleting",
    of: "teacher",
    pieces: [
      "A recording of a person is personal data. Nothing is kept before the student, or for a minor a parent or guardian, has agreed; the day and the words are kept with it. Consent can be withdrawn, and recordings deleted with it.",
      "On Studio you say for how many months recordings are kept. What was measured stays when a recording goes; everything of a student can be deleted for good. A student can take out everything of theirs.",
    ],
  },
];

/** Chapters of a role that hold every word that was typed, in title or text. */
export function foundChapters(role: "teacher" | "student", text: string): Chapter[] {
  return CHAPTERS.filter(({ of, title, pieces }) => {
    const said = [title, ...pieces.flatMap((piece) => (typeof piece === "string" ? piece : piece.list))];
    return (of === "both" || of === role) && holdsWords(said.join(" "), text);
  });
}

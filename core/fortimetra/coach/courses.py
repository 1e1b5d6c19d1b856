"""Courses: weeks of drills a teacher starts for a student and adapts. Doses, days and when a part counts as done.

Two to four minutes a drill, most days of the week, pairs in equal shares, the easier first (common practice, no
source). The school of speed decides the ladder: in small steps of tempo, by notes to the click, or by staying until
it is effortless.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class CoursePart:
    """A drill of the library for some weeks of a course, both counted from 1. up_bpm: the goal, over the written
    tempo.
    """

    title: str
    first_week: int
    last_week: int
    minutes: float = 3.0
    days: int = 5
    up_bpm: float = 12.0


@dataclass(frozen=True)
class Course:
    """A course. done: in words, what counts as having finished it."""

    name: str
    title: str
    weeks: int
    about: str
    done: str
    parts: tuple[CoursePart, ...]


COURSES: tuple[Course, ...] = (
    Course(
        "bends_2", "Two weeks of bends in tune", 2,
        "One technique, every day a little: the target in the ear, then the same bend up the neck, "
        "then inside a scale.",
        "Each drill clean three times in a row at its goal.",
        (
            CoursePart("String 3: half bend at fret 7", 1, 1, up_bpm=4.0),
            CoursePart("String 3: full bend at fret 7", 1, 2, up_bpm=4.0),
            CoursePart("Bend ladder: string 4, half, frets 5 to 8", 1, 1, up_bpm=4.0),
            CoursePart("Pre-bend and release: string 2, half at fret 8", 2, 2, up_bpm=4.0),
            CoursePart("Unison bend: string 3 up to string 2 at fret 10", 2, 2, 2.0, up_bpm=4.0),
            CoursePart("Bends in A minor pentatonic, position 5", 2, 2, up_bpm=8.0),
        ),
    ),
    Course(
        "vibrato_2", "Two weeks of even vibrato", 2,
        "Slow and wide first, then to the click, then on a bend: always back to the same line.",
        "Each drill clean three times in a row.",
        (
            CoursePart("Vibrato, slow and wide: fret 7, strings 3 2 1", 1, 1, up_bpm=0.0),
            CoursePart("Vibrato to the click, one and two: string 3, fret 7", 1, 2, up_bpm=8.0),
            CoursePart("Vibrato narrow, medium, wide: string 2, fret 8", 2, 2, up_bpm=0.0),
            CoursePart("Vibrato on a full bend: string 2, fret 8", 2, 2, up_bpm=0.0),
        ),
    ),
    Course(
        "lead_8", "Eight weeks to clean lead playing", 8,
        "Slurs and picking in pairs of equal shares, bends and vibrato beside them, damping from the "
        "first week, a lick every two weeks.",
        "The licks of weeks 6 to 8 clean at their tempo.",
        (
            CoursePart("Finger pairs 1-2: string 3, position 5", 1, 2, 2.0),
            CoursePart("Finger pairs all: string 2, position 5", 3, 4, 4.0),
            CoursePart("Alternate picking 1 2 3 4, up: strings 3 and 2, position 5, 2 a click", 1, 4, 2.0, up_bpm=24.0),
            CoursePart(
                "Alternate picking 1 2 3 4, down: strings 3 and 2, position 5, 2 a click", 1, 4, 2.0, up_bpm=24.0
            ),
            CoursePart("String 3: full bend at fret 7", 1, 3, 3.0, up_bpm=4.0),
            CoursePart("Scale over quiet low strings: A minor pentatonic, position 5", 2, 6, 3.0, up_bpm=16.0),
            CoursePart("Vibrato, slow and wide: fret 7, strings 3 2 1", 3, 5, 3.0, up_bpm=0.0),
            CoursePart(
                "Slurs through A minor pentatonic, 2 notes a string, up and down: position 5, 2 a click",
                5,
                8,
                3.0,
                up_bpm=20.0,
            ),
            CoursePart("Bends in A minor pentatonic, position 5", 4, 7, 3.0, up_bpm=8.0),
            CoursePart("Vibrato on a full bend: string 2, fret 8", 6, 8, 3.0, up_bpm=0.0),
            CoursePart("Long bend without and with damping: string 2, fret 10", 5, 6, 2.0, up_bpm=0.0),
            CoursePart("Harbour steps, in A", 1, 2, 3.0),
            CoursePart("Rope and cleat, in A", 3, 4, 3.0),
            CoursePart("Leaning mast, in A", 5, 6, 3.0),
            CoursePart("Squall line, in A", 7, 8, 3.0),
        ),
    ),
    Course(
        "rhythm_4", "Four weeks of rhythm and muting", 4,
        "What must not sound: one note under six struck strings, then two, then riffs with rests, then the palm.",
        "The riffs clean three times in a row, stops included.",
        (
            CoursePart("Mute check: all strings struck, 1 sound, roots on string 6, frets 5", 1, 1, up_bpm=8.0),
            CoursePart("Mute check: all strings struck, 2 sound, roots on string 6, frets 3 5 7 5", 1, 3, up_bpm=12.0),
            CoursePart("Stops: riff on string 6, frets 3 5 6 3 8 6, rests 1.5 0.5 1", 2, 4, up_bpm=16.0),
            CoursePart("Short notes, 50 % of the slot: string 4, frets 5 7 5 8", 1, 2, 2.0, up_bpm=12.0),
            CoursePart("Mute check: all strings struck, 2 sound, roots on string 4, frets 3 5 7 5", 3, 4, up_bpm=12.0),
            CoursePart("Double stops: octaves on 5 and 3, A minor pentatonic, from fret 3", 3, 4, up_bpm=12.0),
            CoursePart("Engine room, in A", 3, 4, 3.0),
            CoursePart("Low tide, in A", 1, 2, 3.0),
        ),
    ),
)  # fmt: skip
BY_NAME = {course.name: course for course in COURSES}

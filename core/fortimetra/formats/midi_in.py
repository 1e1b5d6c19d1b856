"""Standard MIDI Files to a drill: times brought to a grid, bends from the pitch wheel, strings and frets proposed.

After the Standard MIDI Files 1.0 and MIDI 1.0 Detailed Specifications: 120 quarter notes a minute and 4/4 where a
file says nothing, a wheel of ±2 semitones until registered parameter 0 sets another range.
"""

from __future__ import annotations

import io
import re
from collections import Counter
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

import mido

from fortimetra.errors import DrillError
from fortimetra.formats.midi import ASIDE, drill_to_midi
from fortimetra.formats.score_in import (
    CURL_BELOW_CENTS,
    CURL_CENTS,
    Head,
    Imported,
    Report,
    ScoreEvent,
    ScoreNote,
    to_drill,
)
from fortimetra.model.base import MAX_FILE_BYTES
from fortimetra.model.drill import MAX_EVENTS, MAX_FRET, Drill, bar_and_beat
from fortimetra.model.guitar import STANDARD_TUNING, pitch_midi

DEFAULT_US_PER_BEAT = 500_000
DEFAULT_BEND_SEMITONES = 2.0
WHEEL = 8192
DRUM_CHANNEL = 9
MAX_NOTES = 4 * MAX_EVENTS
MAX_MESSAGES = 200_000
# Places a note may be asked at: the beat in 12 and in 16 parts (common practice, no source).
GRID = (12, 16)
MOVED_TOLD_BEATS = 0.04
# So much over the middle of all velocities is an accent (common practice, no source).
ACCENT_VELOCITY = 15
LEAST_BEND_CENTS = 25.0
# Strings of other lengths than asked are played out: what is left of a beat's slot is no rest.
SHORTEST = Fraction(1, 16)
STRING_NAME = re.compile(r"^\s*string\s*([1-8])\b", re.IGNORECASE)


@dataclass
class _Note:
    start: float
    end: float
    number: int
    velocity: int
    channel: int
    cents: list[float] = field(default_factory=list)  # of the wheel: at its start, then every value while it sounds


@dataclass
class _Track:
    name: str
    notes: list[_Note]


@dataclass(frozen=True)
class _File:
    tracks: list[_Track]
    title: str
    us_per_beat: int | None
    beats_per_bar: int


def read_midi(content: bytes) -> Imported:
    """A drill from a MIDI file, with strings and frets proposed where a track or a channel a string does not tell them.

    Raises DrillError(code="score_invalid" | "score_too_large" | "score_too_long" | "off_the_fretboard") with a
    sentence.
    """
    report = Report()
    own = _own(content, report)
    if own is not None:
        return Imported(own, (), ())
    file = _parsed(content, report)
    tracks, strings = _chosen(file, report)
    _not_too_long([n.start for t in tracks for n in t.notes], file.beats_per_bar)
    events = _events([(n, string) for t, string in zip(tracks, strings, strict=True) for n in t.notes], file, report)
    tempo = {"bpm": round(_bpm(file, report), 2), "beats_per_bar": file.beats_per_bar}
    title = next((t for t in (file.title, *(t.name for t in tracks)) if t), "Imported MIDI file")
    return to_drill(events, Head(title, STANDARD_TUNING, 0, file.beats_per_bar, {"tempo": tempo}), report)


def _not_too_long(starts: list[float], beats_per_bar: int) -> None:
    if len(starts) > MAX_NOTES:
        place = bar_and_beat(sorted(starts)[MAX_NOTES], beats_per_bar)
        raise DrillError(
            "score_too_long",
            f"This file has {len(starts)} notes; more than {MAX_NOTES} are not read, and the limit is passed "
            f"at {place}. Take the part that is to be practised.",
        )


def _bpm(file: _File, report: Report) -> float:
    if file.us_per_beat is None:
        report.add("The file has no tempo; 120 bpm counts, as the MIDI standard says")
        return 120.0
    bpm = 60e6 / file.us_per_beat
    if not 20 <= bpm <= 400:
        report.add(f"A tempo of {bpm:.0f} bpm is not possible; 60 bpm is set")
        return 60.0
    return bpm


def _chosen(file: _File, report: Report) -> tuple[list[_Track], list[int | None]]:
    """The tracks to be read, and the string of each; of several that are no strings the longest."""
    tracks = [t for t in file.tracks if t.notes]
    if not tracks:
        raise DrillError("score_invalid", "There are no notes in this MIDI file.")
    strings = _by_string(tracks)
    if strings is not None:
        return tracks, list(strings)
    if len(tracks) > 1:
        kept = max(tracks, key=lambda t: len(t.notes))
        report.add(f"Only one of {len(tracks)} tracks was taken, “{kept.name or 'the longest'}”")
        tracks = [kept]
    return tracks, [None]


def _own(content: bytes, report: Report) -> Drill | None:
    """The drill this program wrote into the file, where the file's notes still are what it plays."""
    if ASIDE.encode() not in content or len(content) > MAX_FILE_BYTES:
        return None
    try:
        file = mido.MidiFile(file=io.BytesIO(content), clip=True)
        text = next(m.text for t in file.tracks for m in t if m.type == "text" and m.text.startswith(ASIDE))
        drill = Drill.model_validate_json(text.removeprefix(ASIDE))
        if _sounding(file) == _sounding(mido.MidiFile(file=io.BytesIO(drill_to_midi(drill).content))):
            return drill
    except (OSError, EOFError, ValueError, IndexError, KeyError, TypeError, AttributeError, StopIteration):
        pass
    report.add("The notes were changed after they were exported; they are read as they are now")
    return None


def _sounding(file: mido.MidiFile) -> list[tuple[float, str]]:
    """Everything that sounds, with its time in beats, and the tempo."""
    found = []
    for track in file.tracks:
        beat = 0.0
        for message in track:
            beat += message.time / file.ticks_per_beat
            if not message.is_meta or message.type == "set_tempo":
                found.append((round(beat, 4), str(message.copy(time=0))))
    return sorted(found)


def _parsed(content: bytes, report: Report) -> _File:
    midi = _opened(content)
    tempos = [m.tempo for t in midi.tracks for m in t if m.type == "set_tempo" and m.tempo > 0]
    if len(set(tempos)) > 1:
        report.add("The tempo changes; the first one is taken for all of it")
    per_bar = _beats_per_bar(midi, report)
    tracks = [_TrackReader(midi.ticks_per_beat, report, per_bar).read(t) for t in midi.tracks]
    title = tracks[0].name if tracks and not tracks[0].notes else ""
    return _File(tracks, title, tempos[0] if tempos else None, per_bar)


def _opened(content: bytes) -> mido.MidiFile:
    if len(content) > MAX_FILE_BYTES:
        raise DrillError("score_too_large", f"A MIDI file has at most {MAX_FILE_BYTES // 1_000_000} MB.")
    if len(content) >= 14 and content[:4] == b"MThd" and content[12] & 0x80:
        raise DrillError(
            "score_invalid",
            "This MIDI file counts film frames instead of beats; export it with beats (ticks per quarter).",
        )
    try:
        midi = mido.MidiFile(file=io.BytesIO(content), clip=True)
    except (OSError, EOFError, ValueError, IndexError, KeyError, TypeError, AttributeError) as error:
        raise DrillError("score_invalid", "This is not a MIDI file, or it is damaged; export it again.") from error
    if midi.ticks_per_beat <= 0:
        raise DrillError("score_invalid", "This MIDI file has no ticks per beat, so its notes have no places.")
    if sum(len(t) for t in midi.tracks) > MAX_MESSAGES:
        raise DrillError("score_too_long", f"This MIDI file has more than {MAX_MESSAGES} events; take a part of it.")
    return midi


def _beats_per_bar(midi: mido.MidiFile, report: Report) -> int:
    meters = [(m.numerator, m.denominator) for t in midi.tracks for m in t if m.type == "time_signature"]
    if not meters:
        return 4
    if len(set(meters)) > 1:
        report.add("The time signature changes; all bars are drawn like the first")
    length = Fraction(4 * meters[0][0], meters[0][1])
    if length.denominator == 1 and 1 <= length <= 16:
        return int(length)
    report.add("Bars of this time signature are no whole number of quarter notes; bars of four beats are drawn")
    return 4


class _TrackReader:
    """One track's messages in their order, with what sounds and where each channel's wheel stands."""

    def __init__(self, ticks: int, report: Report, per_bar: int) -> None:
        self.ticks, self.report, self.per_bar = ticks, report, per_bar
        self.beat = 0.0
        self.name = ""
        self.notes: list[_Note] = []
        self.sounding: dict[tuple[int, int], _Note] = {}
        self.wheel: Counter[int] = Counter()
        self.ranges: dict[int, float] = {}
        self.parameter: dict[int, list[int]] = {}

    def read(self, messages: mido.MidiTrack) -> _Track:
        for message in messages:
            self.beat += message.time / self.ticks
            if message.type == "track_name":
                self.name = self.name or " ".join(message.name.split())[:100]
            elif message.type == "note_on" and message.velocity:
                self._begin(message)
            elif message.type in {"note_off", "note_on"}:
                note = self.sounding.pop((message.channel, message.note), None)
                if note is not None:
                    note.end = self.beat
            elif message.type == "pitchwheel":
                self.wheel[message.channel] = message.pitch
                for (channel, _), note in self.sounding.items():
                    if channel == message.channel:
                        note.cents.append(self._cents(channel))
            elif message.type == "control_change":
                self._control(message)
        for note in self.sounding.values():
            self.report.add(
                "A note without an end is taken to the end of its bar", bar_and_beat(note.start, self.per_bar)
            )
            note.end = (note.start // self.per_bar + 1) * self.per_bar
        return _Track(self.name, self.notes)

    def _cents(self, channel: int) -> float:
        return self.wheel[channel] / WHEEL * self.ranges.get(channel, DEFAULT_BEND_SEMITONES) * 100.0

    def _begin(self, message: mido.Message) -> None:
        if message.channel == DRUM_CHANNEL:
            self.report.add("Drums were left out")
            return
        key = (message.channel, message.note)
        if key in self.sounding:
            self.sounding[key].end = self.beat
        cents = [self._cents(message.channel)]
        self.sounding[key] = _Note(self.beat, self.beat, message.note, message.velocity, message.channel, cents)
        self.notes.append(self.sounding[key])

    def _control(self, message: mido.Message) -> None:
        """Registered parameter 0 sets the wheel's range: semitones (controller 6) and cents (38)."""
        chosen = self.parameter.setdefault(message.channel, [127, 127])
        if message.control in {100, 101}:
            chosen[message.control - 100] = message.value
        elif message.control == 6 and chosen == [0, 0]:
            self.ranges[message.channel] = float(message.value)
        elif message.control == 38 and chosen == [0, 0]:
            semitones = int(self.ranges.get(message.channel, DEFAULT_BEND_SEMITONES))
            self.ranges[message.channel] = semitones + message.value / 100.0


def _by_string(tracks: list[_Track]) -> list[int] | None:
    """The string of each track, where every track is named after one, as this program writes them."""
    found = [STRING_NAME.match(t.name) for t in tracks]
    strings = [int(m.group(1)) for m in found if m]
    return strings if len(strings) == len(tracks) == len(set(strings)) else None


def _snapped(beat: float) -> Fraction:
    return min((Fraction(round(beat * parts), parts) for parts in GRID), key=lambda f: (abs(f - beat), f.denominator))


def _events(notes: list[tuple[_Note, int | None]], file: _File, report: Report) -> list[ScoreEvent]:
    by_start: dict[Fraction, list[tuple[_Note, int | None]]] = {}
    for note, string in notes:
        start = _snapped(note.start)
        if abs(float(start) - note.start) > MOVED_TOLD_BEATS:
            report.add("Notes off the grid were moved to it", bar_and_beat(float(start), file.beats_per_bar))
        by_start.setdefault(start, []).append((note, string))
    velocities = sorted(n.velocity for n, _ in notes)
    loud = velocities[len(velocities) // 2] + ACCENT_VELOCITY
    events: list[ScoreEvent] = []
    starts = sorted(by_start)
    bent: dict[int, tuple[int, bool]] = {}
    for start, following in zip(starts, [*starts[1:], None], strict=True):
        together = by_start[start]
        event = ScoreEvent(start, _length(start, max(n.end for n, _ in together), following))
        place = bar_and_beat(float(start), file.beats_per_bar)
        for note, string in together:
            _add_note(event, note, string, bent, report, place)
            if note.velocity >= loud:
                event.marks["accent"] = True
        _name_together(event)
        events.append(event)
    return events


def _place(note: _Note, string: int | None) -> tuple[int | None, int | None]:
    """String and fret of a note whose file names the string; (None, None) where the string does not reach it."""
    if string is None or string > len(STANDARD_TUNING):
        return string, None
    fret = note.number - round(pitch_midi(STANDARD_TUNING[string - 1]))
    return (string, fret) if 0 <= fret <= MAX_FRET else (None, None)


def _add_note(
    event: ScoreEvent,
    note: _Note,
    string: int | None,
    bent: dict[int, tuple[int, bool]],
    report: Report,
    place: str,
) -> None:
    """bent: by string the fret played last, and whether it was bent; brought up to date."""
    string, fret = _place(note, string)
    if any((n.midi == note.number) or (string is not None and n.string == string) for n in event.notes):
        report.add("Of two notes on one string or of one pitch the second was left out", place)
        return
    bend = _bend(note, report, place)
    single = ScoreNote(float(note.number), string, fret)
    if bend is not None and bend["kind"] == "held":
        again = string is not None and bent.get(string) == (fret, True)
        bend["kind"] = "bend" if again else "prebend"
        if again:
            event.marks["articulation"] = "repluck"
    if bend is not None and not event.marks.get("bend"):
        event.notes.insert(0, single)
        event.marks["bend"] = bend
    else:
        event.notes.append(single)
    if string is not None and fret is not None:
        bent[string] = (fret, bend is not None)


def _name_together(event: ScoreEvent) -> None:
    """What two or more notes at once are: a unison bend, a strum."""
    bend = event.marks.get("bend", {})
    if len(event.notes) == 2 and bend.get("kind") == "bend":
        low, high = event.notes
        if low.midi is not None and high.midi == low.midi + bend["target_cents"] / 100.0:
            bend["kind"] = "unison"
    if len(event.notes) > 2:
        event.marks["articulation"] = "strum"


def _length(start: Fraction, end: float, following: Fraction | None) -> Fraction:
    """To the next note where it sounds nearly so far, else to the nearest place on the grid."""
    most = None if following is None else following - start
    wanted = max(SHORTEST, _snapped(max(0.0, end - float(start))))
    if most is None:
        return Fraction(round(wanted * 4 + Fraction(1, 8)), 4) or SHORTEST
    return most if wanted >= most * Fraction(3, 4) else wanted


def _bend(note: _Note, report: Report, place: str) -> dict[str, Any] | None:
    """A bend from the wheel's course; "held" is one that is up from the start to the end."""
    first, top, last = note.cents[0], max(note.cents), note.cents[-1]
    if min(note.cents) < -LEAST_BEND_CENTS:
        report.add("Pitch bends downward are left out; a string is bent up", place)
    if top < LEAST_BEND_CENTS:
        return None
    whole = round(top / 50.0) * 50.0 or 50.0
    cents = min(500.0, whole if abs(whole - top) <= 5.0 else round(top, 1))
    if first < top / 2:
        if last < top / 2:
            report.add("Of a note that is bent and let down again only the bend is kept", place)
        if cents < CURL_BELOW_CENTS:
            return {"kind": "curl", "target_cents": list(CURL_CENTS)}
        return {"kind": "bend", "target_cents": cents}
    return {"kind": "prebend" if last < top / 2 else "held", "target_cents": cents}

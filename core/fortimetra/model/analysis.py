"""The analysis: what was found. Format `fortimetra-analysis`, version 1.

Signs: sharp, late, loud and long are positive. `u` is the expanded uncertainty (about 95 %) in the unit
of the value beside it. A value that was not asked for or cannot be had is null, with the reason in `reasons`.
"""

from __future__ import annotations

from collections.abc import Collection
from typing import Annotated, Literal

from pydantic import Field

from fortimetra.model.base import Document, Model
from fortimetra.model.context import ClickSource
from fortimetra.model.drill import BendKind
from fortimetra.model.posture import Posture
from fortimetra.model.summary import Summary
from fortimetra.model.verdict import Verdict
from fortimetra.model.word import Place, SaidKind

Status = Literal["played", "missed", "wrong_pitch", "partly_played"]


class Harmonic(Model):
    """One harmonic of the mains that stands out."""

    number: int
    level_dbfs: float


class Hum(Model):
    """Mains hum in the rest of the take; level_dbfs is that of its harmonics together."""

    hz: float
    level_dbfs: float
    harmonics: tuple[Harmonic, ...] = ()


class TakeInfo(Model):
    """The recording itself."""

    sha256: str
    duration_s: float
    sample_rate_hz: int
    channels: int
    peak_dbfs: float
    loudness_lufs: float | None
    noise_floor_dbfs: float
    clipped_fraction: float
    hum: Hum | None
    warnings: tuple[str, ...] = ()


class Grid(Model):
    """The beat grid the timing is read against."""

    source: ClickSource
    bpm: float | None
    first_beat_s: float | None
    u_ms: float | None


class Reference(Model):
    """What the values are relative to."""

    a4_hz: float
    string_offset_cents: tuple[float | None, ...]
    grid: Grid
    offset_source: Annotated[
        Literal["setup", "take", "none"], Field(description="Where the string offsets come from.")
    ] = "none"


class PitchFound(Model):
    """Plain pitch of a note, against equal temperament shifted by the string's own offset."""

    median_hz: float | None
    error_cents: float | None
    u: float | None
    verdict: Verdict | None


class BendFound(Model):
    """One bend. Cents of start, reached and target are relative to the fretted pitch of the bent note."""

    kind: BendKind
    target_cents: float | tuple[float, float]
    reference_hz: float | None
    reference_source: str
    start_cents: float | None
    reached_cents: float | None
    error_cents: float | None
    error_tempered_cents: float | None = None
    u: float | None
    rise_ms: float | None
    overshoot_cents: float | None
    hold_sd_cents: float | None
    hold_drift_cents_per_s: float | None
    plateau: tuple[float, float] | None
    choked: bool | None
    beat_hz: float | None
    difference_cents: float | None
    merge_ms: float | None
    landing_error_cents: float | None
    u_beat: float | None = None
    u_hold_drift: float | None = None
    arrives_ms: Annotated[float | None, Field(description="From the stroke until it holds.")] = None
    u_arrives_ms: float | None = None
    state: Annotated[
        Literal["under", "there", "past"] | None,
        Field(description="Of a unison bend: not there yet, there, or past it; null where it cannot be told."),
    ] = None
    u_landing: float | None = None
    landing: tuple[float, float] | None = None
    verdict: Verdict


class VibratoFound(Model):
    """One vibrato."""

    rate_hz: float | None
    rate_cv: float | None
    extent_cents: float | None
    extent_cv: float | None
    return_error_cents: float | None
    return_sd_cents: float | None
    cycles: int
    shape: Literal["subtle", "medium", "wide"] | None
    fade_db_per_s: float | None
    region: tuple[float, float] | None
    u_rate: float | None
    u_extent: float | None
    u_return: float | None
    u_rate_cv: float | None = None
    u_extent_cv: float | None = None
    u_wider: Annotated[
        float | None,
        Field(
            description="Of versions before 0.5.8: how much wider than extent_cents it may be, where that is more than "
            "u_extent."
        ),
    ] = None
    path_hz: Annotated[
        tuple[float | None, ...],
        Field(description="Where a path of rates is asked: the rate in each share of the note."),
    ] = ()
    verdict: Verdict


class SlideFound(Model):
    """One slide. u: of its times, in ms."""

    travel_ms: float | None
    arrives_s: float | None
    level_change_db: Annotated[float | None, Field(description="After the arrival against before it left.")]
    late_ms: Annotated[float | None, Field(description="Of a slide from a stated fret: later than asked.")]
    u: float | None
    verdict: Verdict


class TimingFound(Model):
    """One onset against the grid."""

    grid_s: float | None
    error_ms: float | None
    u: float | None
    limit_ms: Annotated[float | None, Field(description="The tolerance of this slot.")] = None
    verdict: Verdict


class LevelFound(Model):
    """One note's level."""

    level_db: float | None
    deviation_db: float | None
    u: float | None
    dies: bool | None
    way: Annotated[
        Literal["picked", "palm_muted", "slurred", "slid", "tapped", "together", "accented"] | None,
        Field(description="How it is played."),
    ] = None
    against: Annotated[
        Literal["string", "picked", "take", "neighbours"] | None,
        Field(
            description="What deviation_db is against: notes of the string played alike, its picked notes, notes "
            "of the take played alike, or the unaccented notes around an accent."
        ),
    ] = None
    u_louder: Annotated[
        float | None,
        Field(
            description="How much louder than deviation_db it may be, where that is less than u: what still sounded of "
            "the note before can only have made it seem louder."
        ),
    ] = None
    verdict: Verdict

    @property
    def side(self) -> float | None:
        """Loud is positive, soft negative; a note that dies, or an accent that does not stand out, is soft."""
        return -1.0 if self.dies or self.way == "accented" else self.deviation_db


class LengthFound(Model):
    """One note's length; u of its end in ms."""

    length_ratio: float | None
    overlap_ms: float | None
    u: float | None
    u_overlap_ms: float | None = None
    verdict: Verdict

    @property
    def side(self) -> float:
        """Long is positive, short negative; one of unknown length sounds on."""
        return 1.0 if self.length_ratio is None else self.length_ratio - 1.0


class NoiseFound(Model):
    """What rings during one note, and what is left of it after a stop."""

    worst_ring_db: Annotated[float | None, Field(description="Loudest string that rings; null where none is heard.")]
    string: int | None
    u: float | None
    floor_db: Annotated[
        float | None, Field(description="A string louder than this would have been heard (median over strings).")
    ] = None
    hidden_strings: Annotated[
        tuple[int, ...], Field(description="Strings that cannot be heard beside this note, whatever they do.")
    ] = ()
    decay_ms: Annotated[
        float | None, Field(description="After the stop: until 40 dB under the note, or the floor.")
    ] = None
    u_decay: float | None = None
    stop_verdict: Verdict | None = None
    verdict: Verdict


class ChordFound(Model):
    """One note beside those struck with it. balance_db: louder or softer against them than its string usually is in
    this take.
    """

    present: bool | None
    level_db: Annotated[float | None, Field(description="Against the whole chord.")]
    balance_db: float | None
    u: float | None
    verdict: Verdict


Judged = PitchFound | BendFound | VibratoFound | TimingFound | LevelFound | LengthFound | NoiseFound


def _outside(*parts: Judged | None) -> bool:
    """Whether one of a note's measures is outside tolerance."""
    return any(part is not None and part.verdict == "outside" for part in parts)


class Measured(Model):
    """The verdict on one measure, or on the note as a whole (“clean”), before a teacher's word."""

    measure: str
    verdict: Verdict | None


class NoteFound(Model):
    """One asked note of one repeat, or a heard note where there is no drill."""

    id: str
    repeat: int
    status: Status
    string: int | None
    fret: int | None
    onset_s: float | None
    end_s: float | None
    pitch: PitchFound | None
    bend: BendFound | None
    vibrato: VibratoFound | None
    timing: TimingFound | None
    level: LevelFound | None
    length: LengthFound | None
    noise: NoiseFound | None
    chord: ChordFound | None = None
    slide: SlideFound | None = None
    clean: Verdict | None
    reasons: tuple[str, ...] = ()
    said: Annotated[SaidKind | None, Field(description="What a teacher said of it; null where nobody did.")] = None
    measured: Annotated[
        tuple[Measured, ...], Field(description="Verdicts as measured, where a teacher said otherwise.")
    ] = ()

    @property
    def deviation_cents(self) -> float | None:
        """How far off its pitch it is, where that is its fault: of a bend, of a vibrato's return, of a plain note."""
        if self.bend is not None and self.bend.verdict != "inside":
            return self.bend.error_cents
        if self.vibrato is not None:
            return None
        return None if self.pitch is None else self.pitch.error_cents

    def deviation(self, measures: Collection[str]) -> float | None:
        """Which way it is off, as a signed number of any unit: by its pitch, else its onset, volume or length.

        measures: those the drill asks for. Flat, early, soft and short are negative; None where it is off nothing
        that has a side.
        """
        if not _outside(self.bend, self.vibrato, self.pitch):
            if "timing" in measures and self.timing is not None and _outside(self.timing):
                return self.timing.error_ms
            if "level" in measures and self.level is not None and _outside(self.level):
                return self.level.side
            if "length" in measures and self.length is not None and _outside(self.length):
                return 1.0 if "rings_on" in self.reasons else self.length.side
            if "noise" in measures and _outside(self.noise):
                return None
        return self.deviation_cents


class Extra(Model):
    """A sound nobody asked for that was attacked."""

    onset_s: float
    kind: Literal["extra", "double_hit", "stutter", "restart"]
    near: str | None
    midi: float | None
    level_db: float | None
    said: Literal["meant", "excluded"] | None = None


class NoiseEvent(Model):
    """A sound that should not be there and was not attacked."""

    kind: Literal["open_ring", "pressed", "bleed", "after_stop", "scrape", "thud", "hum", "other"]
    string: int | None
    from_s: float
    to_s: float
    level_db: float
    u: float
    near: str | None
    fret: Annotated[int | None, Field(description="Of the pitch that rings, where a string is known.")] = None
    hz: Annotated[float | None, Field(description="Its first partial.")] = None
    repeat: int | None = None
    verdict: Annotated[Verdict | None, Field(description="Null where it is the rig's, or allowed.")] = None
    reasons: tuple[str, ...] = ()


class AttemptNote(Model):
    """A note of an attempt: which asked event it was, and when it began."""

    id: str
    repeat: int
    at_s: float


class AttemptFound(Model):
    """A passage that was begun again: from which asked event to which of a repeat (from 0), and when it was played."""

    repeat: int
    from_id: str
    to_id: str
    place: Annotated[str, Field(description="Where it begins, in words.")]
    notes: int
    from_s: float
    to_s: float
    heard: Annotated[tuple[AttemptNote, ...], Field(description="Its notes, in order of time.")] = ()


class Cause(Model):
    """A likely cause and the notes it rests on."""

    code: str
    measure: str
    notes: Annotated[tuple[str, ...], Field(description="Ids of the asked events it rests on.")]
    weight: Annotated[float, Field(description="0 to 1: the least share of the notes in question it likely explains.")]
    says: Annotated[str, Field(description="What is off, in the trade's words.")] = ""
    evidence: Annotated[str, Field(description="What was measured that points to it.")] = ""
    because: Annotated[str, Field(description="What probably makes it so.")] = ""
    tries: Annotated[tuple[str, ...], Field(description="What to try, for the drill's school and these strings.")] = ()
    places: Annotated[tuple[Place, ...], Field(description="Every note of every repeat it rests on.")] = ()
    damper: Annotated[str, Field(description="Of strings that ring: whose job they are where they rang most.")] = ""
    posture: Annotated[Posture | None, Field(description="Both hands there.")] = None


class SetupString(Model):
    """One string of a set-up take. Offsets are against its tuned pitch; the 12th fret is against its own open
    string.
    """

    string: int
    name: str
    status: Literal["read", "missing", "other_pitch"]
    open_hz: float | None
    offset_cents: float | None
    u_offset: float | None
    twelfth_hz: float | None
    twelfth_error_cents: float | None
    u_twelfth: float | None
    reasons: tuple[str, ...] = ()


class RigSign(Model):
    """A sign that the recording chain changes the sound. found is null where it cannot be told."""

    found: bool | None
    value_db: float | None
    reason: str | None = None


class Rig(Model):
    """The recording chain of a set-up take."""

    signal_to_noise_db: float | None
    dc_fraction: Annotated[float, Field(description="Mean of the samples, share of full scale.")]
    level_change_db: Annotated[
        float | None, Field(description="Advised change of the input level; null where it is right.")
    ]
    automatic_gain: RigSign
    noise_gate: RigSign


class SetupAdvice(Model):
    """One thing to do, in the order of the list."""

    step: Literal["record_again", "tune", "saddle", "rig"]
    code: str
    string: int | None
    value: float | None
    text: str


class SetupFound(Model):
    """What a set-up take says of guitar and rig."""

    strings: tuple[SetupString, ...]
    common_offset_cents: Annotated[
        float | None, Field(description="Of the whole guitar, where it is out of tune as one.")
    ]
    order: Literal["as_asked", "other"]
    heard_order: tuple[str, ...]
    rig: Rig
    advice: tuple[SetupAdvice, ...]
    usable: Annotated[Literal["yes", "with_care", "no"], Field(description="Whether takes made now can be judged.")]


class Analysis(Document):
    """What was found in one take."""

    format: Literal["fortimetra-analysis"]
    version: Literal[1]
    core_version: Annotated[str, Field(description="Of the algorithms; results of different versions are not mixed.")]
    settings: Annotated[str, Field(description="Digest of all settings of the measuring.")] = ""
    take: TakeInfo
    reference: Reference
    notes: tuple[NoteFound, ...]
    extras: tuple[Extra, ...]
    attempts: Annotated[
        tuple[AttemptFound, ...],
        Field(description="Passages that were broken off and begun again; the last one counts."),
    ] = ()
    noise_events: tuple[NoiseEvent, ...]
    summary: Summary
    causes: tuple[Cause, ...]
    setup: Annotated[SetupFound | None, Field(description="Of a set-up take; null for any other.")] = None
    reasons: tuple[str, ...] = ()

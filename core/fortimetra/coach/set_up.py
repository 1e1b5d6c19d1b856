"""What to do about a set-up take, in the order in which to do it: record again, tune, saddle, rig."""

from __future__ import annotations

from fortimetra.coach.settings import SETUP_ADVICE
from fortimetra.judge.settings import SETUP_JUDGED
from fortimetra.judge.verdict import verdict
from fortimetra.measure.saddle import saddle_shift_mm
from fortimetra.model.analysis import Rig, SetupAdvice, SetupFound
from fortimetra.model.drill import Drill
from fortimetra.model.guitar import Guitar
from fortimetra.sound.levels import Levels
from fortimetra.units import hz_to_midi, midi_to_name

ADJUSTABLE_SADDLES = {"solid", "semi_hollow"}


def advise_set_up(found: SetupFound, *, levels: Levels, drill: Drill, guitar: Guitar | None) -> tuple[SetupAdvice, ...]:
    """Everything there is to do, first things first. guitar: names the saddle's way in mm where it is known."""
    return (*_again(found, levels), *_tune(found, drill), *_saddle(found, guitar), *_rig(levels, found.rig))


def _again(found: SetupFound, levels: Levels) -> list[SetupAdvice]:
    advice = []
    for s in found.strings:
        for code, place in (("open_not_heard", "open"), ("twelfth_not_heard", "at the 12th fret")):
            if code in s.reasons:
                text = f"String {s.string} was not heard {place}. Record the set-up again with it."
                advice.append(SetupAdvice(step="record_again", code=code, string=s.string, value=None, text=text))
        if "twelfth_other_fret" in s.reasons:
            text = f"What came after string {s.string} open is not its 12th fret. Record the set-up again with it."
            advice.append(
                SetupAdvice(step="record_again", code="twelfth_other_fret", string=s.string, value=None, text=text)
            )
    if found.order == "other":
        names = ", ".join(_place(name) for name in found.heard_order)
        text = (
            f"The notes came in another order than asked ({names}); they were told apart by their pitch. "
            "Check that this is what was played."
        )
        advice.append(SetupAdvice(step="record_again", code="other_order", string=None, value=None, text=text))
    if levels.clipped_fraction > SETUP_JUDGED.clipped_fraction:
        lower = -(found.rig.level_change_db or -6.0)
        text = (
            f"{100 * levels.clipped_fraction:.2g} % of the recording is clipped. Lower the input by about "
            f"{lower:.0f} dB and record again."
        )
        advice.append(SetupAdvice(step="record_again", code="clipped", string=None, value=lower, text=text))
    return advice


def _place(event_id: str) -> str:
    return event_id.replace("twelfth", "12th fret of ").replace("open", "open ")


def _tune(found: SetupFound, drill: Drill) -> list[SetupAdvice]:
    tolerance = drill.limits()["plain_pitch_cents"]
    common_cents = found.common_offset_cents or 0.0
    advice = []
    if common_cents:
        text = (
            f"The whole guitar is {_off(common_cents)}. If that is how it is tuned, write it into the guitar’s record; "
            "if not, tune it. Takes made now are read against the guitar as it is."
        )
        advice.append(
            SetupAdvice(step="tune", code="whole_guitar", string=None, value=round(common_cents, 1), text=text)
        )
    for s in found.strings:
        if s.offset_cents is None or s.open_hz is None:
            continue
        rest = s.offset_cents - common_cents
        careful = " Keep the face away from the string while tuning up." if rest < -SETUP_ADVICE.far_up_cents else ""
        if s.status == "other_pitch":
            heard = midi_to_name(hz_to_midi(s.open_hz, a4_hz=drill.a4_hz))
            sounds = "nearest to" if heard == s.name else "near"
            text = (
                f"String {s.string} sounds {_off(s.offset_cents)} of {s.name}, {sounds} {heard}. Tune it, or write its "
                f"tuning into the guitar’s record; until then takes on it are read without an offset.{careful}"
            )
            advice.append(
                SetupAdvice(step="tune", code="other_pitch", string=s.string, value=round(s.offset_cents, 1), text=text)
            )
        elif verdict(rest, s.u_offset, tolerance) == "outside":
            way = "up" if rest < 0 else "down"
            text = f"String {s.string} ({s.name}) is {_off(rest)}: tune it {way}.{careful}"
            advice.append(SetupAdvice(step="tune", code="string_off", string=s.string, value=round(rest, 1), text=text))
    return advice


def _saddle(found: SetupFound, guitar: Guitar | None) -> list[SetupAdvice]:
    advice = []
    for s in found.strings:
        error = s.twelfth_error_cents
        if error is None or verdict(error, s.u_twelfth, SETUP_JUDGED.saddle_cents) != "outside":
            continue
        where = f"String {s.string} is {_off(error)} at its 12th fret against its own open note: not the hand."
        if guitar is not None and guitar.kind not in ADJUSTABLE_SADDLES:
            do = "Its saddle does not move; have a workshop look at nut and saddle, and try new strings first."
        else:
            way = "away from the nut" if error > 0 else "towards the nut"
            shift = f" by about {abs(saddle_shift_mm(error, scale_mm=guitar.scale_mm)):.1f} mm" if guitar else ""
            do = f"With fresh strings, move its saddle {way}{shift}, a little at a time, and tune again."
        advice.append(
            SetupAdvice(step="saddle", code="intonation", string=s.string, value=round(error, 1), text=f"{where} {do}")
        )
    return advice


def _rig(levels: Levels, rig: Rig) -> list[SetupAdvice]:
    advice: list[SetupAdvice] = []

    def add(code: str, value: float | None, text: str) -> None:
        advice.append(SetupAdvice(step="rig", code=code, string=None, value=value, text=text))

    if rig.automatic_gain.found:
        add(
            "automatic_gain",
            rig.automatic_gain.value_db,
            f"The level climbs by {rig.automatic_gain.value_db:.0f} dB in the pauses: something turns the "
            "gain up by itself. "
            "Switch automatic gain off, in the recorder, the system and the interface; volume cannot be "
            "judged with it.",
        )
    if rig.noise_gate.found:
        add(
            "noise_gate",
            rig.noise_gate.value_db,
            f"The noise falls by {rig.noise_gate.value_db:.0f} dB when a note stops: a gate or noise suppression "
            "is on. "
            "Switch it off; it hides what should be heard after a stop and cuts soft notes.",
        )
    change = rig.level_change_db
    if change is not None and levels.clipped_fraction <= SETUP_JUDGED.clipped_fraction:
        add("level", change, f"{'Raise' if change > 0 else 'Lower'} the input by about {abs(change):.0f} dB.")
    if (
        levels.hum is not None
        and rig.signal_to_noise_db is not None
        and rig.signal_to_noise_db < SETUP_JUDGED.poor_signal_to_noise_db
    ):
        add(
            "hum",
            round(levels.hum.level_dbfs, 1),
            f"Hum at {levels.hum.hz:g} Hz, {_db(levels.hum.level_dbfs)} dBFS. Turn away from transformers and screens, "
            "try another cable and socket. Hum that changes when the strings are touched can be a grounding "
            "fault: have it checked by a qualified person.",
        )
    elif rig.signal_to_noise_db is not None and rig.signal_to_noise_db < SETUP_JUDGED.poor_signal_to_noise_db:
        add(
            "floor",
            rig.signal_to_noise_db,
            f"The floor is only {rig.signal_to_noise_db:.0f} dB under a plain note: soft faults cannot be heard in it. "
            "Record in a quieter room, closer to the guitar, or with less drive.",
        )
    if abs(rig.dc_fraction) > SETUP_ADVICE.dc_fraction:
        add(
            "dc",
            rig.dc_fraction,
            f"The recording stands {100 * rig.dc_fraction:+.1f} % off its zero line; pitch does not mind, "
            "but the interface or its driver has a fault.",
        )
    return advice


def _off(cents: float) -> str:
    return f"{abs(cents):.0f} cents {'flat' if cents < 0 else 'sharp'}"


def _db(value: float) -> str:
    return f"{value:.0f}".replace("-", "−")

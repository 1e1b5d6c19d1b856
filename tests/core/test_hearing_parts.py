"""The parts of hearing by themselves, each on sounds whose truth is exact by construction."""

import numpy as np
import pytest
from fortimetra.align.click import FoundClick
from fortimetra.align.extras import double_limit_s, name_extras
from fortimetra.align.match import Match, asked_events
from fortimetra.align.unclick import without_click
from fortimetra.drills.library import built_in_drills
from fortimetra.hear.attack import attacks_near
from fortimetra.hear.crossing import crossing
from fortimetra.hear.notes import HeardNote
from fortimetra.hear.partials import powers_at
from fortimetra.hear.salience import salience
from fortimetra.hear.settings import ATTACK, SALIENCE
from fortimetra.measure.level import note_levels
from fortimetra.measure.overlap import overlap_of

FIRST_HZ, NEXT_HZ = 196.0, 246.94


def tone(hz, from_s, to_s, seconds, *, rate=SALIENCE.rate_hz, partials=12, decay_s=0.8, level=1.0):
    """A plucked string as a sum of decaying partials between two instants, each 6 dB an octave under the first."""
    time = np.arange(round(seconds * rate)) / rate
    k = np.arange(1, min(partials, int(0.45 * rate / hz)) + 1)
    inside = (time >= from_s) & (time < to_s)
    wave = np.sin(2 * np.pi * hz * np.outer(time - from_s, k)) @ (1 / k)
    return level * wave * np.exp(-np.maximum(time - from_s, 0) / decay_s) * inside


def heard(onset_s, midi, *, end_s=None, level=-20.0):
    return HeardNote(onset_s, end_s or onset_s + 0.2, midi, midi, midi, level, "attack")


@pytest.mark.parametrize("at_s", [0.61237, 0.75, 0.8004])
@pytest.mark.parametrize("level", [1.0, 0.3])
def test_an_attack_over_a_ringing_string_is_found_to_the_millisecond(at_s, level):
    rate = ATTACK.rate_hz
    sound = tone(196.0, 0.1, 2.0, 1.5, rate=rate) + tone(293.66, at_s, 2.0, 1.5, rate=rate, level=level)
    sound += 1e-4 * np.random.default_rng(1).standard_normal(len(sound))
    found = attacks_near(sound.astype(np.float32), np.array([at_s + 0.006]), rate_hz=rate)
    assert found.time_s[0] == pytest.approx(at_s, abs=0.0015)
    assert found.contrast_db[0] > 10
    assert abs(found.time_s[0] - at_s) * 1000 <= found.u_ms[0] + 0.5


def test_where_nothing_begins_the_contrast_says_so():
    rate = ATTACK.rate_hz
    sound = tone(196.0, 0.1, 2.0, 1.5, rate=rate) + 1e-4 * np.random.default_rng(1).standard_normal(round(1.5 * rate))
    found = attacks_near(sound.astype(np.float32), np.array([0.7, 0.9, 1.1]), rate_hz=rate)
    assert np.all(found.contrast_db < 3)


@pytest.mark.parametrize("midi", [40, 45, 52, 59, 64, 71])
def test_the_spectrum_after_an_attack_names_the_semitone_under_another_string(midi):
    hz = 440.0 * 2 ** ((midi - 69) / 12)
    sound = tone(146.83, 0.0, 1.0, 1.0, level=0.4) + tone(hz, 0.5, 1.0, 1.0)
    found = salience(
        sound.astype(np.float32),
        np.array([0.5]),
        np.array([np.inf]),
        rate_hz=SALIENCE.rate_hz,
        midi=(37, 76),
        offset_cents=0.0,
    )
    assert found.best_midi(0) == midi
    assert found.misfit(0, float(midi)) == 0.0
    assert found.misfit(0, float(midi + 1)) > 0.1
    assert found.misfit(0, 30.0) > 0.1  # outside what was looked at fits as badly as nothing


@pytest.mark.parametrize("at_s", [0.4, 0.4137, 0.45])
def test_a_slur_crosses_where_one_pitch_gives_way_to_the_other(at_s):
    sound = tone(220.0, 0.1, at_s, 1.0) + tone(246.94, at_s, 1.0, 1.0, level=0.6)
    found = crossing(
        sound.astype(np.float32), rate_hz=SALIENCE.rate_hz, old_hz=[220.0], new_hz=[246.94], from_s=0.3, to_s=0.6
    )
    assert found.clear
    assert found.time_s == pytest.approx(at_s, abs=0.004)
    held = tone(220.0, 0.1, 1.0, 1.0).astype(np.float32)
    none = crossing(held, rate_hz=SALIENCE.rate_hz, old_hz=[220.0], new_hz=[246.94], from_s=0.3, to_s=0.6)
    assert none is None or not none.clear


def test_the_power_at_a_frequency_is_that_of_its_sinusoid():
    time = np.arange(6000) / SALIENCE.rate_hz
    sound = (0.5 * np.cos(2 * np.pi * 300 * time)).astype(np.float32)
    power = powers_at(sound, np.array([1000, 2000]), 1200, np.array([300.0, 400.0]), rate_hz=SALIENCE.rate_hz)
    # Amplitude times half the window's sum: (0.5 · 1200/2 / 2)² for a Hann window.
    assert power[:, 0] == pytest.approx((0.5 * 600 / 2) ** 2, rel=0.01)
    assert np.all(power[:, 1] < 1e-4 * power[:, 0])


@pytest.mark.parametrize("ms", [90, 150, 240])
def test_an_overlap_is_as_long_as_the_old_string_goes_on(ms):
    new_s = 0.5
    sound = tone(FIRST_HZ, 0.1, new_s + ms / 1000, 1.2, decay_s=3.0) + tone(NEXT_HZ, new_s, 1.2, 1.2, decay_s=3.0)
    found = overlap_of(
        sound.astype(np.float32),
        rate_hz=SALIENCE.rate_hz,
        old_hz=FIRST_HZ,
        new_hz=NEXT_HZ,
        old_s=0.1,
        new_s=new_s,
        until_s=1.1,
    )
    assert found.ms == pytest.approx(ms, abs=15)
    assert found.u_ms > 0


def test_an_overlap_of_notes_that_share_all_partials_is_not_guessed():
    sound = (tone(220.0, 0.1, 0.7, 1.2) + tone(110.0, 0.5, 1.2, 1.2)).astype(np.float32)
    times = {"old_s": 0.1, "new_s": 0.5, "until_s": 1.1}
    assert overlap_of(sound, rate_hz=SALIENCE.rate_hz, old_hz=220.0, new_hz=110.0, **times) is None


def test_the_click_goes_and_the_guitar_stays():
    rate = 44_100
    one = np.sin(2 * np.pi * 1500 * np.arange(round(0.03 * rate)) / rate) * np.exp(
        -np.arange(round(0.03 * rate)) / (0.006 * rate)
    )
    guitar = tone(196.0, 2.6, 5.9, 6.0, rate=rate, decay_s=2.0) * 0.3
    clicked = guitar.copy()
    times = np.arange(0.5, 5.6, 0.5)
    for at in times:
        start = round(at * rate)
        clicked[start : start + len(one)] += 0.2 * one
    found = FoundClick("audible", times, 0.5, 0.5, 1.0, 0.1)
    out = without_click(clicked.astype(np.float32), found, rate_hz=rate)
    for at in times:
        part = slice(round(at * rate), round((at + 0.03) * rate))
        before, after = (np.sum((s[part] - guitar[part]) ** 2) for s in (clicked, out))
        assert after < 0.05 * before
    quiet = slice(round(3.2 * rate), round(3.45 * rate))
    assert np.max(np.abs(out[quiet] - guitar[quiet])) < 0.01


def test_extras_have_names():
    drill = next(d for d in built_in_drills() if d.family == "alternate_picking").model_copy(update={"repeats": 1})
    events = asked_events(drill)
    notes = tuple(heard(1.0 + 0.5 * i, e.start_midi) for i, e in enumerate(events))
    between = 1.0 + 0.5 * 4
    cases = {
        "double_hit": (heard(between + 0.04, float("nan")),),
        "stutter": (heard(between + 0.25, events[4].start_midi),),
        "extra": (heard(between + 0.25, events[4].start_midi + 5),),
    }
    for kind, extras in cases.items():
        (named,) = name_extras(Match(events, notes, extras, 0.0), drill)
        assert named.kind == kind
        assert named.near == 4
    # A passage begun and begun again: its first notes, then all of it.
    late = tuple(heard(6.0 + 0.5 * i, e.start_midi) for i, e in enumerate(events))
    begun = tuple(heard(1.0 + 0.5 * i, e.start_midi) for i, e in enumerate(events[:5]))
    assert {n.kind for n in name_extras(Match(events, late, begun, 0.0), drill)} == {"restart"}
    assert double_limit_s(0.1) == pytest.approx(0.04)
    assert double_limit_s(2.0) == pytest.approx(0.06)


def test_levels_are_those_the_notes_were_played_at():
    rate = 44_100
    drill = next(d for d in built_in_drills() if d.family == "fastest_run").model_copy(update={"repeats": 1})
    events = asked_events(drill)[:8]
    gains_db = [0.0, -3.0, 2.0, 0.0, -6.0, 1.0, 0.0, -1.0]
    sound = sum(
        tone(220.0, 0.5 + 0.5 * i, 0.98 + 0.5 * i, 5.0, rate=rate, level=10 ** (g / 20)) for i, g in enumerate(gains_db)
    )
    notes = tuple(heard(0.5 + 0.5 * i, e.start_midi, end_s=0.98 + 0.5 * i) for i, e in enumerate(events))
    found = note_levels(sound.astype(np.float32), Match(events, notes, (), 0.0), rate_hz=rate)
    read = np.array([n.level_db for n in found])
    assert read - read[0] == pytest.approx(np.array(gains_db), abs=0.1)
    assert all(n.against == "string" for n in found)
    assert found[4].deviation_db == pytest.approx(-6.0, abs=1.0)


@pytest.mark.parametrize("rings_on", [False, True])
def test_what_rings_on_makes_a_soft_note_seem_louder_never_softer(rings_on):
    rate = 12_000
    drill = next(d for d in built_in_drills() if d.title.startswith("Alternate picking 1 2 3 4, up: strings 3 and 2"))
    rows = asked_events(drill)[:24]
    # A string's last note, and the first one of the next string, 8 dB softer than its like.
    change = next(i for i in range(1, len(rows)) if rows[i].lead.note.string != rows[i - 1].lead.note.string)
    seconds = 1.0 + 0.5 * len(rows)
    sound = np.zeros(round(rate * seconds))
    for i, event in enumerate(rows):
        at, hz = 0.5 + 0.5 * i, 440.0 * 2.0 ** ((event.start_midi - 69.0) / 12.0)
        ends = at + (0.98 if rings_on and i == change - 1 else 0.5)
        sound += tone(hz, at, ends, seconds, rate=rate, level=10.0 ** (-8.0 / 20.0) if i == change else 1.0)
    notes = tuple(heard(0.5 + 0.5 * i, e.start_midi, end_s=0.98 + 0.5 * i) for i, e in enumerate(rows))
    found = note_levels(sound.astype(np.float32), Match(rows, notes, (), 0.0), rate_hz=rate)[change]
    assert found.deviation_db - found.u_deviation_db <= -8.0 <= found.deviation_db + found.u_louder_db
    # What sounded before is as loud whether it goes on or not: which, the level does not say.
    assert found.u_louder_db < 1.5 < found.u_deviation_db
    assert (found.deviation_db > -7.0) == rings_on

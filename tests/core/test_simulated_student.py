"""The simulated student plays what is asked, and shows each stated fault by its number.

What is measured here is measured by plain numpy, not by this program's own measuring.
"""

import numpy as np
import pytest
from fortimetra.drills.generator import generate
from fortimetra.drills.library import GENERATORS, built_in_drills
from fortimetra.drills.score import Score
from fortimetra.errors import DrillError
from fortimetra.model.drill import DrillNote, Tempo
from fortimetra.model.hand import VibratoAsked
from fortimetra.player.faults import Faults, NoteFault
from fortimetra.player.previews import preview
from fortimetra.player.shown import LEAD_IN_S, Shown, at_tempo, faults_of, times
from fortimetra.player.vibrato import vibrato_of

from tests.kept import render

CLEAR = {"attack_sharp_cents": 0.0, "colour": "none", "sympathetic_db": -120.0, "floor_dbfs": -110.0, "stiffness": 0.0}


def drill_of(*write, bpm=60.0):
    score = Score()
    for one in write:
        one(score)
    return score.drill("t", "free", ("pitch",), {"bpm": bpm})


def level_db(sound, rate, start, end):
    part = sound[int(start * rate) : int(end * rate)]
    return 20 * np.log10(np.sqrt(np.mean(part**2)))


def pitch_hz(sound, rate, start, end, near):
    """The strongest partial near a frequency, by a long FFT with a parabola over its peak."""
    part = sound[int(start * rate) : int(end * rate)]
    spectrum = np.log(np.abs(np.fft.rfft(part * np.hanning(len(part)), 1 << 18)) + 1e-12)
    hz = np.fft.rfftfreq(1 << 18, 1 / rate)
    near_by = np.flatnonzero((hz > near * 0.9) & (hz < near * 1.1))
    peak = near_by[np.argmax(spectrum[near_by])]
    a, b, c = spectrum[peak - 1 : peak + 2]
    return (peak + 0.5 * (a - c) / (a - 2 * b + c)) * rate / (1 << 18)


@pytest.mark.parametrize("line", ["bottom", "top", "centre"])
def test_vibrato_leaves_its_line_and_comes_back_to_it(line):
    asked = VibratoAsked.model_validate({"return": line, "rate_hz": [4, 6], "extent_cents": [50, 70]})
    drill = drill_of(lambda s: s.note(3, 7, 4, vibrato=asked))
    note = next(iter(drill.asked()))
    made = vibrato_of(note, NoteFault(), 4.0, np.random.default_rng(1))
    cents = made.cents(np.linspace(0, 3.5, 20_000))
    low, high = {"bottom": (0, 60), "top": (-60, 0), "centre": (-30, 30)}[line]
    assert cents.min() == pytest.approx(low, abs=0.5)
    assert cents.max() == pytest.approx(high, abs=0.5)
    assert np.diff(made.edges_s) == pytest.approx(0.2)


def test_uneven_vibrato_is_as_uneven_as_stated():
    drill = drill_of(lambda s: s.note(3, 7, 60, vibrato=VibratoAsked.model_validate({"return": "bottom"})), bpm=60.0)
    note = next(iter(drill.asked()))
    made = vibrato_of(note, NoteFault(vibrato_rate_cv=0.2, vibrato_extent_cv=0.3), 60.0, np.random.default_rng(3))
    lengths = np.diff(made.edges_s)
    assert np.std(lengths) / np.mean(lengths) == pytest.approx(0.2, abs=0.04)
    assert np.std(made.extents_cents) / np.mean(made.extents_cents) == pytest.approx(0.3, abs=0.05)


def test_a_soft_slur_is_softer_by_what_is_stated():
    drill = drill_of(lambda s: s.note(3, 5, 1), lambda s: s.note(3, 7, 1, "hammer"))
    levels = []
    for db in (0.0, -9.0):
        sound, truth = render(drill, Faults(peak_dbfs=0, decay_s=3.0, notes={"e2": NoteFault(level_db=db)}, **CLEAR))
        onset = truth.notes[1].onset_s
        rate = truth.sample_rate_hz
        levels.append(level_db(sound, rate, onset, onset + 0.1) - level_db(sound, rate, onset - 0.9, onset - 0.8))
    # The string sounds on under the slur, so that a soft one is not quite as soft as its stroke.
    assert -9.5 < levels[1] - levels[0] < -4.0


def test_a_slide_arrives_on_its_fret_without_a_stroke():
    drill = drill_of(lambda s: s.note(3, 5, 2), lambda s: s.note(3, 7, 2, "slide"))
    sound, truth = render(drill, Faults(**CLEAR))
    rate = truth.sample_rate_hz
    second = truth.notes[1]
    assert pitch_hz(sound, rate, second.onset_s + 0.2, second.onset_s + 1.0, second.hz) == pytest.approx(
        second.hz, rel=3e-4
    )
    before = level_db(sound, rate, second.onset_s - 0.2, second.onset_s - 0.1)
    assert level_db(sound, rate, second.onset_s + 0.1, second.onset_s + 0.2) < before + 1.0


def test_swing_moves_the_second_eighth_and_leaves_triplets():
    tempo = Tempo(bpm=60, swing=0.667)
    assert [round(tempo.swung(b), 3) for b in (0, 0.5, 1, 1.25, 1 / 3, 2 / 3)] == [0, 0.667, 1, 1.333, 0.333, 0.667]
    drill = drill_of(*[lambda s: s.note(3, 5, 0.5)] * 4).model_copy(update={"tempo": tempo})
    _, truth = render(drill, Faults())
    assert [round(n.onset_s - truth.first_beat_s, 3) for n in truth.notes] == [0, 0.667, 1, 1.667]


def test_accents_stand_out_and_what_rings_rings_on():
    drill = drill_of(lambda s: s.note(3, 5, 1, accent=True), lambda s: s.note(3, 5, 1))
    _, truth = render(drill, Faults())
    assert truth.notes[0].level_db - truth.notes[1].level_db >= 4.0  # what the exacting profile asks for
    rings = drill_of(lambda s: s.note(6, 3, 1, let_ring=True), lambda s: s.note(1, 5, 1), lambda s: s.rest(2))
    sound, truth = render(rings, Faults(**CLEAR))
    stopped, _ = render(
        rings.model_copy(update={"events": tuple(e.model_copy(update={"let_ring": False}) for e in rings.events)}),
        Faults(**CLEAR),
    )
    at = truth.first_beat_s + 2.3
    assert level_db(sound, 48_000, at, at + 0.3) > level_db(stopped, 48_000, at, at + 0.3) + 20


def test_muted_strings_thud_and_do_not_sound():
    drill = drill_of(lambda s: s.together([DrillNote(string=5, fret=None, muted=True)], 2, "pick"))
    sound, truth = render(drill, Faults(peak_dbfs=-6, **CLEAR))
    start = truth.first_beat_s
    assert level_db(sound, 48_000, start, start + 0.03) > -30
    assert level_db(sound, 48_000, start + 0.2, start + 0.5) < -80


@pytest.mark.parametrize("drill", built_in_drills()[1::9], ids=lambda d: d.title)
def test_every_drill_can_be_heard(drill):
    sound, rate = preview(drill, Shown())
    where = times(at_tempo(drill, None))
    assert len(sound) / rate >= where.first_beat_s + where.length_beats * where.seconds_per_beat
    assert np.isfinite(sound).all()
    assert np.max(np.abs(sound)) > 0.1


def test_a_shown_fault_is_what_the_slider_says():
    drill = at_tempo(generate(GENERATORS["fretted_then_bend"], {}), None)
    faults = faults_of(drill, Shown(cents=-20, late_ms=30))
    by_id = {e.id: e for e in drill.events}
    assert {f.cents for i, f in faults.notes.items() if by_id[i].bend} == {-20.0}
    assert {f.cents for i, f in faults.notes.items() if not by_id[i].bend} == {0.0}
    assert {f.late_ms for f in faults.notes.values()} == {30.0}
    _, truth = render(drill, faults)
    asked = {e.id: e.bend.middle_cents for e in drill.events if e.bend}
    assert all(n.reached_cents == asked[n.id] - 20 for n in truth.notes if n.id in asked)
    plain = at_tempo(generate(GENERATORS["finger_pairs"], {}), None)
    assert {f.cents for f in faults_of(plain, Shown(cents=12)).notes.values()} == {12.0}
    soft = faults_of(plain, Shown(slur_db=-7)).notes
    assert {soft[e.id].level_db for e in plain.events if e.articulation in {"hammer", "pull"}} == {-7.0}
    assert {soft[e.id].level_db for e in plain.events if e.articulation == "pick"} == {0.0}


def test_a_ringing_string_is_heard_at_its_level():
    drill = drill_of(lambda s: s.note(1, 12, 4))
    clean, rate = preview(drill, Shown())
    ringing, _ = preview(drill, Shown(ring_string=5, ring_db=-20))
    start, end = LEAD_IN_S + 0.5, LEAD_IN_S + 3.0
    spectra = [np.abs(np.fft.rfft(s[int(start * rate) : int(end * rate)])) for s in (clean, ringing)]
    hz = np.fft.rfftfreq(int(end * rate) - int(start * rate), 1 / rate)
    at = (hz > 105) & (hz < 115)  # the open fifth string, A2 = 110 Hz
    assert spectra[1][at].max() > 10 * spectra[0][at].max()


def test_what_lasts_too_long_is_said():
    drill = drill_of(*[lambda s: s.note(3, 5, 4)] * 30, bpm=20.0)
    with pytest.raises(DrillError, match=r"lasts 360 s; up to 180 s can be heard"):
        at_tempo(drill, None)
    assert at_tempo(drill, 60.0).repeats == 1

"""Vibrato, pre-bends and unison bends rendered by FluidSynth from MIDI files with exact pitch-bend values; sources in
fluid.py.

Raw pitch accuracy is mir_eval.melody's (Salamon et al., IEEE Signal Process. Mag. 31(2), 2014), at its own 50 cents
and at 5. Praat's contour (Boersma 1993) is read by the same cycle reader where the two are compared.
"""

import json
import subprocess
import sys

import mir_eval
import numpy as np
import parselmouth
import pytest
from fortimetra import Drill, analyse, load_take
from fortimetra.hear.contour import track
from fortimetra.hear.inharmonicity import without_stiffness
from fortimetra.hear.notes import segment
from fortimetra.hear.onsets import find_onsets
from fortimetra.measure.reference import BendReference
from fortimetra.measure.release import measure_release
from fortimetra.measure.turns import find_turns
from fortimetra.measure.unison import measure_unison
from fortimetra.measure.vibrato import Swing, evaluate, measure_vibrato

from tests.reference.fluid import GUITARS, Tone, bend_word, render, soundfont_cents

# FluidSynth moves its pitch in whole cents, in blocks of 64 samples.
STEP_CENTS = 1.0


def sounding(cents):
    """What a bend of so many cents sounds, by the SoundFont specification."""
    return soundfont_cents(bend_word(cents))


def swing(rate, extent, *, start=0.4, end=2.4, step=0.002):
    """Breakpoints of a vibrato from the bottom."""
    times = np.arange(start, end, step)
    up = extent * (0.5 - 0.5 * np.cos(2 * np.pi * rate * (times - start)))
    return ((0.0, 0.0), *((float(t), float(c)) for t, c in zip(times, up, strict=True)))


def heard(path):
    take = load_take(path)
    mono, rate = take.guitar(), take.sample_rate_hz
    onsets = find_onsets(mono, rate_hz=rate)
    contour = track(mono, rate_hz=rate, onsets_s=onsets)
    notes = segment(contour, onsets)
    return mono, rate, without_stiffness(contour, notes), notes


def nearest(notes, onset_s):
    return min(notes, key=lambda n: abs(n.onset_s - onset_s))


def median_hz(contour, from_s, to_s):
    return float(np.nanmedian(contour.f0_hz[contour.frames(from_s, to_s)]))


@pytest.mark.parametrize("guitar", ["nylon", "steel", "jazz", "clean", "overdriven", "distorted"])
@pytest.mark.parametrize(("rate", "extent"), [(2.0, 120.0), (5.5, 60.0), (7.0, 30.0)])
def test_vibrato_of_another_makers_guitar(guitar, rate, extent, tmp_path):
    tones = [Tone(57, 0.3, 1.0), Tone(57, 1.6, 2.6, swing(rate, extent))]
    mono, hz, contour, notes = heard(render(tones, tmp_path, program=GUITARS[guitar]))
    plain = median_hz(contour, 0.8, 1.2)
    found = measure_vibrato(mono, contour, nearest(notes, 1.6), Swing("bottom", plain), rate_hz=hz)
    assert found.rate_hz == pytest.approx(rate, abs=0.05)
    assert found.extent_cents == pytest.approx(sounding(extent), abs=1.5)
    assert found.return_error_cents == pytest.approx(0.0, abs=2.0)
    assert max(found.rate_cv, found.extent_cv) < 0.04
    # Praat reads the same cycles, if less widely: its window is wider and nothing sets it right.
    pitch = parselmouth.Sound(mono.astype(np.float64), hz).to_pitch_ac(
        time_step=0.005, pitch_floor=75, pitch_ceiling=900, very_accurate=True
    )
    time, f0 = pitch.xs(), pitch.selected_array["frequency"]
    inside = (time > 1.63) & (time < 4.1) & (f0 > 0)
    even = np.arange(1.65, 4.1, 0.005)
    cents = np.interp(even, time[inside], 1200 * np.log2(f0[inside] / plain))
    other = evaluate(find_turns(even, cents, np.full(len(even), 0.2)), line="bottom")
    assert other.rate_hz == pytest.approx(found.rate_hz, abs=0.06)
    assert other.extent_cents == pytest.approx(found.extent_cents, rel=0.12)


@pytest.mark.parametrize("guitar", ["steel", "jazz", "overdriven"])
def test_a_pre_bend_and_its_release(guitar, tmp_path):
    start, landing = 187.0, 9.0
    down = ((0.0, start), (0.8, start), (1.0, landing), (2.2, landing))
    _mono, _hz, contour, notes = heard(
        render([Tone(60, 0.3, 1.2), Tone(60, 1.8, 2.2, down)], tmp_path, program=GUITARS[guitar])
    )
    plain = median_hz(contour, 0.8, 1.4)
    found = measure_release(
        contour, nearest(notes, 1.8), BendReference(plain * 2 ** (200 / 1200), 0.0, "target"), target_cents=200.0
    )
    assert found.reached_cents == pytest.approx(sounding(start), abs=STEP_CENTS + 0.5)
    # What these samples do in their first tenth of a second is theirs: the unbent note starts as sharp.
    sharp = 1200 * np.log2(median_hz(contour, 0.33, 0.42) / plain)
    assert found.start_cents - sharp == pytest.approx(sounding(start), abs=STEP_CENTS + 1.0)
    assert found.landing_error_cents == pytest.approx(sounding(landing), abs=STEP_CENTS + 0.5)
    assert found.rise_ms == pytest.approx(160, abs=25)  # 10 to 90 % of a straight line of 200 ms


@pytest.mark.parametrize("guitar", ["nylon", "steel", "jazz", "clean", "overdriven"])
@pytest.mark.parametrize("difference", [-30.0, -14.0, -7.0, 0.0, 9.0, 22.0])
def test_a_unison_of_two_strings(guitar, difference, tmp_path):
    """Two channels, one bent up from two frets below; no drive over both, as FluidSynth has none."""
    up = ((0.0, 0.0), (0.12, 0.0), (0.32, 200.0 + difference), (2.4, 200.0 + difference))
    tones = [Tone(67, 0.3, 2.4, channel=0), Tone(65, 0.3, 2.4, up, channel=1)]
    take = load_take(render(tones, tmp_path, program=GUITARS[guitar]))
    alone = load_take(render([Tone(67, 0.3, 2.4), Tone(65, 3.0, 2.4)], tmp_path, program=GUITARS[guitar], name="alone"))
    contour = track(alone.guitar(), rate_hz=alone.sample_rate_hz)
    steady, fretted = median_hz(contour, 0.8, 2.2), median_hz(contour, 3.5, 4.9)
    found = measure_unison(
        take.guitar(), rate_hz=take.sample_rate_hz, onset_s=0.3, end_s=2.7, steady_hz=440 * 2 ** (-2 / 12),
        target_cents=200.0, tolerance_hz=2.0,
    )  # fmt: skip
    true = 1200 * np.log2(fretted / steady) + sounding(200.0 + difference)
    assert found.difference_cents is not None, found.reasons
    if abs(true) > 4.0:
        assert found.difference_cents == pytest.approx(true, abs=1.5 + STEP_CENTS)
        assert found.state != ("past" if true < 0 else "under")
    else:
        assert abs(found.difference_cents) == pytest.approx(abs(true), abs=1.5 + STEP_CENTS)
    assert found.beat_hz == pytest.approx(392.0 * abs(2 ** (true / 1200) - 1), abs=0.6)


def test_raw_pitch_accuracy_at_50_and_at_5_cents(tmp_path):
    """Truth from the bends that were sent; the first 60 ms of a note, where pitch settles, are left out at 5 cents."""
    rows = []
    for guitar in ("nylon", "steel", "jazz", "overdriven"):
        tones = [
            Tone(45, 0.3, 1.2),
            Tone(52, 1.8, 1.8, ((0.0, 0.0), (0.3, 0.0), (0.5, 200.0), (1.8, 200.0))),
            Tone(64, 3.9, 2.2, swing(5.0, 80.0, end=2.0)),
            Tone(71, 6.4, 1.0),
        ]
        _mono, _hz, contour, _notes = heard(render(tones, tmp_path, program=GUITARS[guitar]))
        truth = np.zeros_like(contour.time_s)
        for tone in tones:
            inside = (contour.time_s > tone.onset_s + 0.06) & (contour.time_s < tone.onset_s + tone.length_s - 0.03)
            points = np.array(tone.bend)
            bend = np.interp(contour.time_s[inside] - tone.onset_s, points[:, 0], points[:, 1])
            truth[inside] = 440 * 2 ** ((tone.midi - 69) / 12 + np.array([sounding(b) for b in bend]) / 1200)
        voiced = truth > 0
        estimate = np.nan_to_num(contour.f0_hz)[voiced]
        args = (
            np.ones(voiced.sum()), mir_eval.melody.hz2cents(truth[voiced]), (estimate > 0).astype(float),
            mir_eval.melody.hz2cents(estimate),
        )  # fmt: skip
        rows.append([mir_eval.melody.raw_pitch_accuracy(*args, cent_tolerance=tolerance) for tolerance in (50, 5)])
    wide, narrow = np.array(rows).T
    assert wide.min() > 0.995
    # Samples of this font are themselves tuned to a few cents.
    assert np.median(narrow) > 0.9


def sway(*, plain_first: bool) -> Drill:
    plain = {"id": "plain", "beat": 0, "length": 1, "articulation": "pick", "notes": [{"string": 3, "fret": 5}]}
    swings = {
        "id": "sway", "beat": int(plain_first), "length": 3, "articulation": "pick",
        "notes": [{"string": 3, "fret": 5}],
        "vibrato": {"return": "bottom", "rate_hz": [4, 6], "extent_cents": [40, 90]},
    }  # fmt: skip
    return Drill.model_validate({
        "format": "fortimetra-drill", "version": 1, "title": "Sway at the fifth fret", "family": "vibrato_fretted",
        "tuning": ["E4", "B3", "G3", "D3", "A2", "E2"], "tempo": None, "repeats": 1, "profile": "steady",
        "measures": ["pitch", "vibrato"], "events": [plain, swings] if plain_first else [swings],
    })  # fmt: skip


@pytest.mark.parametrize("guitar", ["nylon", "steel", "clean"])
@pytest.mark.parametrize("plain_first", [True, False], ids=["plain first", "by itself"])
@pytest.mark.parametrize(("back", "verdict"), [(0.0, "inside"), (32.0, "outside")])
def test_a_vibrato_comes_back_to_the_students_own_pitch(guitar, plain_first, back, verdict, tmp_path):
    """The guitar is 14 cents sharp at that fret: nobody's vibrato is, unless it comes back to somewhere else."""
    off = 14.0
    course = tuple((t, c + off + back * (t > 0.4)) for t, c in swing(5.0, 65.0))
    tones = [Tone(60, 1.5, 2.8, course)]
    if plain_first:
        tones.insert(0, Tone(60, 0.5, 0.9, ((0.0, off),)))
    found = analyse(load_take(render(tones, tmp_path, program=GUITARS[guitar])), drill=sway(plain_first=plain_first))
    vibrato = found.notes[-1].vibrato
    assert vibrato.return_error_cents == pytest.approx(sounding(back), abs=vibrato.u_return + STEP_CENTS)
    assert vibrato.u_return <= (2.5 if plain_first else 5.5) + 1.0
    assert vibrato.verdict == verdict


def test_the_command_line_gives_complete_results_for_a_foreign_take(tmp_path):
    drill = {
        "format": "fortimetra-drill", "version": 1, "title": "Sway at the fifth fret", "family": "vibrato_fretted",
        "tuning": ["E4", "B3", "G3", "D3", "A2", "E2"], "tempo": None, "repeats": 1, "profile": "steady",
        "measures": ["pitch", "vibrato"],
        "events": [
            {"id": "plain", "beat": 0, "length": 1, "articulation": "pick", "notes": [{"string": 3, "fret": 5}]},
            {"id": "sway", "beat": 1, "length": 3, "articulation": "pick", "notes": [{"string": 3, "fret": 5}],
             "vibrato": {"return": "bottom", "rate_hz": [4, 6], "extent_cents": [40, 90]}},
        ],
    }  # fmt: skip
    file, out = tmp_path / "drill.json", tmp_path / "out.json"
    file.write_text(json.dumps(drill))
    wav = render([Tone(60, 0.5, 0.9), Tone(60, 1.5, 2.8, swing(5.0, 65.0))], tmp_path, program=GUITARS["jazz"])
    subprocess.run(
        [sys.executable, "-m", "fortimetra.cli", "analyse", str(wav), "--drill", str(file), "--out", str(out)],
        check=True, capture_output=True,
    )  # fmt: skip
    note = json.loads(out.read_text())["notes"][1]
    assert note["clean"] == "inside"
    assert note["vibrato"]["rate_hz"] == pytest.approx(5.0, abs=0.05)
    assert note["vibrato"]["extent_cents"] == pytest.approx(sounding(65.0), abs=1.5)
    assert note["vibrato"]["shape"] == "medium"

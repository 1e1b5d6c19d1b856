"""The bench against worked examples and laws from outside the project.

Sources: OpenStax, University Physics 1, chapter on waves (guitar strings of 3.09e-4 and 5.78e-3 kg/m: 427.23 m/s at
56.40 N and 1055 N for the same speed; string of 2 m, 0.006 kg/m, weight of 2 kg: 57.15 m/s, 14.29 Hz), from memory.
ISO 16 (A4 = 440 Hz). Mersenne, Harmonie universelle (1636): f ∝ 1/L, √T, 1/√μ. Makers' charts of plain and wound
strings, from memory: .010 plain at E4 on 25.5 inch about 16.2 lbf, .046 wound at E2 about 17.5 lbf. Fret rule 2^(1/12).
librosa's converters and Praat's pitch tracker as independent readings. Psychometrics: Levitt 1971; a simulated
listener with known noise.
"""

import io

import librosa
import numpy as np
import parselmouth
import pytest
import soundfile
from fortimetra.errors import SignalError
from fortimetra.model.guitar import STANDARD_TUNING, preset
from fortimetra.units import hz_to_cents, midi_to_hz, name_to_midi
from fortimetra.workbench.ear import EAR_KINDS, ear_state, trial_sound
from fortimetra.workbench.pitch import cents_of_beats
from fortimetra.workbench.push import clearance, push_for, pushed
from fortimetra.workbench.registry import CALCULATORS
from fortimetra.workbench.strings import BREAKING_WARNING, body_of, fret_mm, string_body, tension_n
from fortimetra.workbench.targets import target
from fortimetra.workbench.tempo import note_ms
from fortimetra.workbench.tones import RATE_HZ, click_track, plucked, sound_file

LBF = 4.4482216
G = 9.80665


def default(name, **changes):
    calculator = CALCULATORS[name]
    return calculator.compute({i.name: i.default for i in calculator.inputs} | changes)


# -- strings ---------------------------------------------------------------------------------------------


def test_mersenne_gives_the_textbooks_tension():
    # v = 2 L f; the textbook gives speeds.
    assert tension_n(3.09e-4, scale_mm=500.0, hz=427.23) == pytest.approx(56.40, abs=0.01)
    assert tension_n(5.78e-3, scale_mm=500.0, hz=427.23) == pytest.approx(1055.0, abs=0.5)
    assert tension_n(0.006, scale_mm=2000.0, hz=14.29) == pytest.approx(2.0 * G, rel=2e-3)


def test_mersennes_proportions():
    one = tension_n(1e-3, scale_mm=600.0, hz=100.0)
    assert tension_n(1e-3, scale_mm=600.0, hz=200.0) == pytest.approx(4 * one)
    assert tension_n(1e-3, scale_mm=1200.0, hz=100.0) == pytest.approx(4 * one)
    assert tension_n(4e-3, scale_mm=600.0, hz=100.0) == pytest.approx(4 * one)


@pytest.mark.parametrize(
    ("thousandths", "wound", "note", "lbf", "within"),
    [(10, False, "E4", 16.2, 0.02), (13, False, "B3", 15.4, 0.02), (17, False, "G3", 16.6, 0.02),
     (26, True, "D3", 18.4, 0.08), (36, True, "A2", 19.5, 0.08), (46, True, "E2", 17.5, 0.08)],
)  # fmt: skip
def test_tensions_of_a_usual_set_are_those_of_makers_charts(thousandths, wound, note, lbf, within):
    body = string_body(thousandths * 0.0254, make="wound steel" if wound else "plain steel")
    tension = tension_n(body.kg_per_m, scale_mm=647.7, hz=midi_to_hz(name_to_midi(note)))
    assert tension / LBF == pytest.approx(lbf, rel=within)
    assert body.estimated is wound


def test_a_stated_unit_weight_is_believed():
    body = string_body(1.17, make="wound steel", unit_weight_g_per_m=6.8)
    assert (body.kg_per_m, body.estimated) == (0.0068, False)


@pytest.mark.parametrize("kind", ["solid", "semi_hollow", "steel_acoustic", "nylon"])
def test_the_usual_guitars_are_playable(kind):
    guitar = preset(kind)
    for number, string in enumerate(guitar.strings, 1):
        body = body_of(string, kind)
        tension = tension_n(body.kg_per_m, scale_mm=guitar.scale_mm, hz=midi_to_hz(guitar.open_midi(number)))
        assert 30.0 < tension < 160.0
        assert tension / body.core_m2 / 1e6 < 0.8 * body.strength_mpa


def test_a_string_that_would_break_is_warned_about():
    assert BREAKING_WARNING in default("tension", note="C5").warnings
    assert default("tension").warnings == ()


def test_frets_follow_the_rule():
    places = [float(fret_mm(n, scale_mm=650.0)) for n in range(25)]
    assert places[12] == pytest.approx(325.0)
    assert places[24] == pytest.approx(487.5)
    left = 650.0 - np.array(places)
    assert left[:-1] / left[1:] == pytest.approx(np.full(24, 2 ** (1 / 12)))
    # The old rule of 18 is close to, and not the same as, 17.817.
    assert 650.0 / places[1] == pytest.approx(17.817, abs=0.001)


# -- bends ------------------------------------------------------------------------------------------------


def test_a_small_push_is_hookes_law_to_first_order():
    body = string_body(0.43)
    hz, scale = 196.0, 648.0
    rest = tension_n(body.kg_per_m, scale_mm=scale, hz=hz)
    y = 4.0
    stretch = y**2 / 2.0 * (1.0 / (scale / 2.0) + 1.0 / (scale / 2.0)) / scale
    wanted = 600.0 * np.log2(1.0 + body.modulus_pa * body.core_m2 * stretch / rest)
    found = pushed(body, scale_mm=scale, open_hz=hz, fret=12, push_mm=y)
    assert found.cents == pytest.approx(wanted, rel=0.01)


@pytest.mark.parametrize("cents", [50.0, 100.0, 200.0, 300.0])
def test_push_and_cents_are_each_others_inverse(cents):
    body = string_body(0.43)
    found = push_for(body, scale_mm=648.0, open_hz=196.0, fret=7, cents=cents)
    assert pushed(body, scale_mm=648.0, open_hz=196.0, fret=7, push_mm=found.push_mm).cents == pytest.approx(
        cents, abs=0.01
    )


def test_full_bends_take_about_a_centimetre_and_heavier_sets_more_force():
    # A full bend of the third string moves it about to the place of the next but one (common practice, no source).
    light = push_for(string_body(0.43), scale_mm=648.0, open_hz=196.0, fret=7, cents=200.0)
    heavy = push_for(string_body(0.48), scale_mm=648.0, open_hz=196.0, fret=7, cents=200.0)
    assert 7.0 < light.push_mm < 16.0
    assert heavy.force_n > light.force_n
    # At the same gauge and pitch a shorter scale is slacker: it has to go further for the same share of its tension.
    same = default("push", gauge_2=17.0).values
    assert same["force_2_n"] < same["force_n"]


def test_a_flat_fretboard_never_chokes_and_a_round_low_one_does():
    where = {"scale_mm": 648.0, "frets": 22, "strings": 6, "string": 1, "fret": 14}
    flat = [clearance(radius_mm=None, action_mm=1.0, push_mm=p, **where).clearance_mm for p in (0, 10, 25)]
    assert min(flat) > 0
    assert flat[0] == pytest.approx(flat[2], abs=1e-9)
    assert clearance(radius_mm=184.0, action_mm=0.8, push_mm=25.0, **where).clearance_mm < 0
    rooms = [
        clearance(radius_mm=r, action_mm=1.2, push_mm=15.0, **where).clearance_mm for r in (184.0, 241.0, 305.0, 406.0)
    ]
    assert rooms == sorted(rooms)
    higher = [clearance(radius_mm=184.0, action_mm=a, push_mm=15.0, **where).clearance_mm for a in (1.0, 1.5, 2.0)]
    assert higher == sorted(higher)
    assert default("choke", push_mm=30.0).values["says"] == "chokes"


def test_an_intonated_guitar_needs_no_saddle():
    assert default("intonation", twelfth_error_cents=0.0).values["shift_mm"] == 0.0
    shift = default("intonation", twelfth_error_cents=8.0).values["shift_mm"]
    length = 648.0 + shift
    assert hz_to_cents(length / (length - 324.0), reference_hz=2.0) == pytest.approx(-8.0, abs=1e-6)


# -- pitch, beats, tempo -----------------------------------------------------------------------------------


@pytest.mark.parametrize("note", ["E2", "A2", "D3", "G3", "B3", "E4", "F#5", "Bb1"])
def test_the_converter_agrees_with_librosa(note):
    found = default("converter", value=note).values
    assert found["hz"] == pytest.approx(librosa.note_to_hz(note.replace("b", "b")), rel=1e-9)
    back = default("converter", value=str(found["hz"]), given="Hz").values
    assert back["midi"] == pytest.approx(librosa.note_to_midi(note))


@pytest.mark.parametrize("cents", [1.0, 5.0, 10.0, 20.0, -15.0])
def test_beats_are_the_difference_of_the_two_frequencies(cents):
    found = default("beats", amount=cents).values
    assert found["beats_hz"] == pytest.approx(abs(440.0 * 2 ** (cents / 1200) - 440.0))
    if cents > 0:
        assert cents_of_beats(found["beats_hz"], at_hz=440.0) == pytest.approx(cents)


def test_beats_are_heard_where_two_tones_are_added():
    time = np.arange(4 * RATE_HZ) / RATE_HZ
    both = np.sin(2 * np.pi * 440.0 * time) + np.sin(2 * np.pi * 440.0 * 2 ** (10 / 1200) * time)
    # The envelope's dips, counted: zero of the slow cosine twice a period of its own, once a beat.
    envelope = np.abs(np.cos(np.pi * (440.0 * 2 ** (10 / 1200) - 440.0) * time))
    assert np.max(np.abs(both)) <= 2.0
    dips = np.count_nonzero((envelope[1:-1] < envelope[:-2]) & (envelope[1:-1] <= envelope[2:]))
    assert dips / 4.0 == pytest.approx(default("beats").values["beats_hz"], abs=0.26)


def test_equal_speeds_are_equal():
    assert note_ms(60.0, 4) == 250.0
    same = next(t for t in default("tempo").tables if t.title == "The same speed")
    assert {bpm * n for n, bpm in same.rows} == {240.0}


# -- targets and tones --------------------------------------------------------------------------------------


@pytest.mark.parametrize(("string", "fret"), [(s, f) for s in range(1, 7) for f in (2, 7, 12)])
@pytest.mark.parametrize("bend", [100, 200])
def test_every_place_of_a_target_sounds_it(string, fret, bend):
    found = target(STANDARD_TUNING, string=string, fret=fret, bend_cents=bend)
    for place in (*found.partners, *found.open_checks):
        hz = midi_to_hz(name_to_midi(str(STANDARD_TUNING[place.string - 1])) + place.fret)
        assert hz_to_cents(hz, reference_hz=found.hz) == pytest.approx(1200.0 * place.octaves, abs=1e-6)
    assert found.same_string_fret == fret + bend // 100
    assert found.beats[1][1] == pytest.approx(found.hz * (2 ** (10 / 1200) - 1))


def test_string_two_and_string_three_four_frets_higher_are_unisons():
    # Common practice, no source.
    for fret in range(1, 15):
        found = target(STANDARD_TUNING, string=2, fret=fret, bend_cents=0)
        assert (3, fret + 4) in [(p.string, p.fret) for p in found.partners]


def test_a_quarter_tone_has_no_fret():
    found = target(STANDARD_TUNING, string=3, fret=7, bend_cents=50)
    assert (found.same_string_fret, found.partners, found.open_checks) == (None, (), ())
    assert abs(found.cents_off) == pytest.approx(50.0)


@pytest.mark.parametrize("bad", [{"string": 7}, {"fret": 30}, {"bend_cents": 900}, {"bend_cents": -1}])
def test_places_a_guitar_does_not_have_are_named(bad):
    with pytest.raises(SignalError, match=r"String|Fret|Bend"):
        target(STANDARD_TUNING, **{"string": 3, "fret": 7, "bend_cents": 100.0, **bad})


def praat_hz(sound, from_s, to_s, *, near):
    pitch = parselmouth.Sound(sound.astype(np.float64), RATE_HZ).to_pitch_ac(
        time_step=0.01, pitch_floor=0.6 * near, pitch_ceiling=1.6 * near, very_accurate=True
    )
    f0, at = pitch.selected_array["frequency"], pitch.xs()
    return float(np.median(f0[(at > from_s) & (at < to_s) & (f0 > 0)]))


@pytest.mark.parametrize("hz", [82.407, 246.942, 659.255])
def test_reference_tones_are_in_tune_by_praats_reading(hz):
    tone = plucked(hz, 2.0)
    assert hz_to_cents(praat_hz(tone, 0.3, 1.5, near=hz), reference_hz=hz) == pytest.approx(0.0, abs=0.5)


@pytest.mark.parametrize(("bpm", "per_beat"), [(60.0, 1), (93.0, 4), (140.5, 3)])
def test_clicks_start_on_their_sample_in_the_file_that_goes_out(bpm, per_beat):
    track = click_track(bpm=bpm, bars=3, per_beat=per_beat)
    samples, rate = soundfile.read(io.BytesIO(sound_file(track.samples, "flac")))
    assert rate == RATE_HZ
    beats = np.arange(4 * 4) * 60.0 / bpm * RATE_HZ
    for beat in beats:
        at = round(float(beat))
        assert samples[at] > 0.4
        assert at == 0 or abs(samples[at - 1]) < 0.02
    assert track.first_beat_s == pytest.approx(4 * 60.0 / bpm)


# -- the ear check ---------------------------------------------------------------------------------------------


def listener(noise, seed):
    rng = np.random.default_rng(seed)

    def says(difference):
        heard = difference + rng.normal(0.0, noise)
        return "same" if abs(heard) < 0.4 * noise else "over" if heard > 0 else "under"

    return says


@pytest.mark.parametrize("noise", [3.0, 12.0])
def test_a_simulated_listeners_threshold_is_found_within_its_uncertainty(noise):
    # 71 % right: difference - 0.4 noise = 0.545 noise.
    truth = 0.945 * noise
    inside, found, trials = 0, [], []
    for seed in range(60):
        says, said = listener(noise, 100 + seed), []
        while (state := ear_state("pitch", seed=seed, said=said)).result is None:
            said.append(says(state.trial.difference))
        trials.append(len(said))
        if state.result.threshold is not None:
            found.append(state.result.threshold)
            inside += abs(state.result.threshold - truth) <= state.result.u
    assert len(found) >= 55
    assert inside >= 0.9 * len(found)
    assert np.median(found) == pytest.approx(truth, rel=0.2)
    assert max(trials) <= 36


def test_somebody_who_guesses_gets_no_threshold():
    rng = np.random.default_rng(4)
    said = []
    while (state := ear_state("pitch", seed=9, said=said)).result is None:
        said.append(["under", "same", "over"][rng.integers(3)])
    assert state.result.threshold is None
    assert state.result.reason in {"beyond_range", "not_settled"}


def test_trials_follow_from_seed_and_answers_alone():
    said = ["over", "under", "same", "over"]
    assert ear_state("bend", seed=3, said=said) == ear_state("bend", seed=3, said=said)
    assert ear_state("bend", seed=3, said=[]).trial.difference == pytest.approx(40.0, abs=80.1)
    assert [ear_state("pitch", seed=1, said=["over"] * n).trial.difference == 0.0 for n in range(10)] == [False] * 4 + [
        True
    ] + [False] * 4 + [True]


@pytest.mark.parametrize("kind", EAR_KINDS)
def test_a_trial_holds_the_difference_it_says(kind):
    trial = next(
        state.trial for seed in range(9) if (state := ear_state(kind, seed=seed, said=[])).trial.difference > 0
    )
    sound = trial_sound(kind, trial)
    assert 1.5 < len(sound) / RATE_HZ < 4.5
    assert np.max(np.abs(sound)) <= 1.0
    if kind == "level":
        half = round(1.15 * RATE_HZ)
        first, second = (np.sqrt(np.mean(part**2)) for part in (sound[: round(0.9 * RATE_HZ)], sound[half:]))
        assert 20 * np.log10(second / first) == pytest.approx(trial.difference, abs=0.01)
    if kind == "pitch":
        near = midi_to_hz(trial.base_midi)
        first, second = praat_hz(sound, 0.1, 0.8, near=near), praat_hz(sound, 1.3, 1.9, near=near)
        assert hz_to_cents(second, reference_hz=first) == pytest.approx(trial.difference, abs=0.5)

"""Set-up takes of another maker's guitars: offsets against what the synthesiser was told and against Praat.

Sources: FluidSynth with Debian's timgm6mb-soundfont, bends after the SoundFont and MIDI specifications (see fluid.py);
Praat's autocorrelation tracker (Boersma, Proc. Inst. Phonetic Sci. 17, 1993) through praat-parselmouth as an
independent reading of the same sound; ISO 16 for the open strings.
"""

import numpy as np
import parselmouth
import pytest
import soundfile
from fortimetra.drills.set_up import set_up
from fortimetra.units import hz_to_cents, midi_to_hz

from tests.kept import analyse
from tests.reference.fluid import GUITARS, Tone, bend_word, render, soundfont_cents

# Half-way between whole cents by the sound font's rules, so that FluidSynth's whole ones are at most half a cent away.
OFFSETS = {s: c * 128 / 127 for s, c in {1: 8.5, 2: -14.5, 3: 5.5, 4: -9.5, 5: 17.5, 6: -6.5}.items()}
TWELFTH = {s: c * 128 / 127 for s, c in {1: 0.0, 2: 6.0, 3: -4.0, 4: 11.0, 5: 0.0, 6: -8.0}.items()}
OPEN = {1: 64, 2: 59, 3: 55, 4: 50, 5: 45, 6: 40}
CENTS = 1.0


def sounded(cents):
    """What the sound font's rules make of it; FluidSynth then takes one of the two whole cents beside it (see
    fluid.py).
    """
    return soundfont_cents(bend_word(cents))


def tones(offsets, twelfth):
    found, at = [], 2.0
    for string in range(6, 0, -1):
        for midi, cents in (
            (OPEN[string], offsets[string]),
            (OPEN[string] + 12, offsets[string] + twelfth[string]),
        ):
            found.append(Tone(midi, at, 1.6, ((0.0, cents),)))
            at += 2.0
        at += 1.0
    return found


def analysed(program, folder, offsets, twelfth, name):
    path = render(tones(offsets, twelfth), folder, program=program, name=name)
    return path, analyse(path, drill=set_up()).setup


def praat_cents(path, midi, from_s):
    sound = parselmouth.Sound(str(path))
    expected = midi_to_hz(midi)
    pitch = sound.to_pitch_ac(
        time_step=0.005, pitch_floor=expected * 0.7, pitch_ceiling=expected * 1.4, very_accurate=True
    )
    f0, at = pitch.selected_array["frequency"], pitch.xs()
    chosen = f0[(at >= from_s + 0.06) & (at < from_s + 0.25) & (f0 > 0)]
    return hz_to_cents(float(np.median(chosen)), reference_hz=expected)


@pytest.mark.parametrize("guitar", ["nylon", "steel", "jazz", "clean", "overdriven"])
def test_strings_detuned_by_known_cents_come_back_within_one_cent(guitar, tmp_path):
    zero = dict.fromkeys(OPEN, 0.0)
    _path, plain = analysed(GUITARS[guitar], tmp_path, zero, zero, "plain")
    detuned_path, detuned = analysed(GUITARS[guitar], tmp_path, OFFSETS, TWELFTH, "detuned")
    # The sound font's own samples are off by some cents: what counts is what was added.
    for before, after in zip(plain.strings, detuned.strings, strict=True):
        string = before.string
        told = sounded(OFFSETS[string])
        assert after.offset_cents - before.offset_cents == pytest.approx(told, abs=CENTS)
        told_twelfth = sounded(OFFSETS[string] + TWELFTH[string]) - told
        # Two roundings of the synthesiser's meet here.
        assert after.twelfth_error_cents - before.twelfth_error_cents == pytest.approx(told_twelfth, abs=1.5 * CENTS)
    assert detuned.order == "as_asked"
    # Praat averages over partials, which stiff low strings make sharp: the unwound ones are compared.
    at = 17.0
    for string in range(3, 0, -1):
        read = next(s for s in detuned.strings if s.string == string)
        assert read.offset_cents == pytest.approx(praat_cents(detuned_path, OPEN[string], at), abs=CENTS)
        at += 5.0


@pytest.mark.parametrize("mains", [50.0, 60.0])
@pytest.mark.parametrize("dbfs", [-40.0, -50.0, -60.0])
def test_hum_injected_at_a_known_level_comes_back_within_one_db(mains, dbfs, tmp_path):
    path = render(tones(OFFSETS, TWELFTH), tmp_path, program=GUITARS["clean"])
    sound, rate = soundfile.read(path)
    mono = sound.mean(axis=1) if sound.ndim == 2 else sound
    mono *= 0.5 / np.max(np.abs(mono))
    time = np.arange(len(mono)) / rate
    hum = sum(np.sin(2 * np.pi * mains * k * time + k) / k for k in (1, 2, 3, 5))
    hum *= 10 ** (dbfs / 20) / np.sqrt(np.mean(hum**2))
    floor = np.random.default_rng(3).standard_normal(len(mono)) * 10 ** (-75 / 20)
    soundfile.write(path, mono + hum + floor, rate, subtype="PCM_24")
    found = analyse(path, drill=set_up()).take.hum
    assert found.hz == pytest.approx(mains, abs=0.1)
    assert found.level_dbfs == pytest.approx(dbfs, abs=1.0)


@pytest.mark.parametrize("guitar", sorted(GUITARS))
def test_no_false_sign_on_another_makers_guitars(guitar, tmp_path):
    path = render(tones(OFFSETS, TWELFTH), tmp_path, program=GUITARS[guitar])
    sound, rate = soundfile.read(path)
    floor = np.random.default_rng(1).standard_normal(sound.shape) * 10 ** (-70 / 20)
    soundfile.write(path, sound + floor, rate, subtype="PCM_24")
    rig = analyse(path, drill=set_up()).setup.rig
    assert rig.automatic_gain.found is not True
    assert rig.noise_gate.found is not True

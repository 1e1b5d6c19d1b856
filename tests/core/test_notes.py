"""Attacks, slurs and the ends of notes."""

import numpy as np
import pytest
from fortimetra.hear.contour import track
from fortimetra.hear.notes import segment
from fortimetra.hear.onsets import find_onsets

from tests.core.sounds import RATE_HZ, noise, times, tone


def _line(pitches, slot_s=0.4, lead_s=0.3, **kind):
    parts = [np.zeros(round(lead_s * RATE_HZ), np.float32)]
    for hz in pitches:
        note = tone(hz, slot_s, decay_per_s=1.5, **kind)
        note[-480:] *= np.linspace(1, 0, 480, dtype=np.float32)
        parts.append(note)
    sound = np.concatenate([*parts, np.zeros(RATE_HZ // 2, np.float32)])
    return sound + noise(len(sound) / RATE_HZ, -75.0)


def _heard(sound):
    onsets = find_onsets(sound, rate_hz=RATE_HZ)
    return segment(track(sound, rate_hz=RATE_HZ, onsets_s=onsets), onsets)


def test_every_picked_note_is_found_once_at_its_time():
    pitches = [196.0, 220.0, 246.9, 220.0, 220.0, 196.0]
    notes = _heard(_line(pitches))
    assert len(notes) == len(pitches)
    for i, (note, hz) in enumerate(zip(notes, pitches, strict=True)):
        assert note.onset_s == pytest.approx(0.3 + 0.4 * i, abs=0.008)
        assert note.plain_midi == pytest.approx(69 + 12 * np.log2(hz / 440), abs=0.02)
        assert note.kind == "attack"


def test_a_slur_is_a_note_without_an_attack():
    t = times(1.0)
    hz = np.where(t < 0.5, 220.0, 246.94)
    sound = np.concatenate((np.zeros(9600, np.float32), tone(hz, 1.0), np.zeros(9600, np.float32)))
    notes = _heard(sound + noise(1.4, -80.0))
    assert [n.kind for n in notes] == ["attack", "step"]
    assert notes[1].onset_s == pytest.approx(0.7, abs=0.015)


@pytest.mark.parametrize(("rate_hz", "extent"), [(5.0, 60.0), (8.0, 40.0), (2.0, 90.0)])
def test_vibrato_makes_no_notes(rate_hz, extent):
    t = times(2.0)
    sound = tone(330.0 * 2 ** (extent * np.sin(2 * np.pi * rate_hz * t) / 1200), 2.0, decay_per_s=0.2)
    assert len(_heard(np.concatenate((np.zeros(9600, np.float32), sound)))) == 1


def test_a_bend_makes_no_notes():
    t = times(2.0)
    cents = 200 * (0.5 - 0.5 * np.cos(np.pi * np.clip((t - 0.5) / 0.1, 0, 1)))
    sound = tone(330.0 * 2 ** (cents / 1200), 2.0)
    assert len(_heard(np.concatenate((np.zeros(9600, np.float32), sound)))) == 1


def test_stopping_a_note_abruptly_is_no_new_note():
    sound = tone(330.0, 1.0)
    sound[24_000:] *= np.exp(-np.arange(24_000) / 240).astype(np.float32)
    notes = _heard(np.concatenate((np.zeros(9600, np.float32), sound)) + noise(1.2, -80.0))
    assert len(notes) == 1
    assert notes[0].end_s == pytest.approx(0.7, abs=0.05)


def test_nothing_is_heard_in_silence_or_noise():
    for sound in (np.zeros(RATE_HZ, np.float32), noise(2.0, -50.0)):
        assert _heard(sound) == []

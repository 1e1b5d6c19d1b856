"""Runs of another maker's guitars with exact ticks and velocities: onsets, notes, levels, slurs.

Sources: MIDI 1.0 (ticks, velocities); SoundFont 2.04 Technical Specification, 8.4.1 (velocity to attenuation: concave,
40·log10(127/velocity) dB); scores by mir_eval (Raffel et al., Proc. ISMIR, 2014): onsets within 50 ms and the
project's own 25 and 10 ms, notes by onset and pitch within 50 cents. Smallest difference in level heard, about 1 dB;
in time, about 6 ms at these tempi or 2.5 % of slower ones (Jesteadt, Wier & Green, J. Acoust. Soc. Am. 61(1), 1977;
Friberg & Sundberg, J. Acoust. Soc. Am. 98(5), 1995; both from memory): what is read here has to lie well under both.
"""

import mir_eval
import numpy as np
import pytest
from fortimetra import load_take
from fortimetra.model.context import Click
from fortimetra.model.drill import Drill
from fortimetra.model.tolerance import PROFILES, onset_tolerance_ms
from fortimetra.sound.decode import Take

from tests.kept import analyse
from tests.reference.fluid import GUITARS, Tone, render

OPEN = (64, 59, 55, 50, 45, 40)
START_S = 1.0
AUDIBLE = 10.0 ** (-30.0 / 20.0)
SCALE = (45, 47, 48, 50, 52, 53, 55, 57, 59, 60, 62, 64, 62, 60, 59, 57, 55, 53, 52, 50, 48, 47)
SMALLEST_LEVEL_DB, SMALLEST_TIME_MS = 1.0, 6.0


def drill_of(keys, speed, ways=None) -> Drill:
    def where(key):
        string = min((s for s in range(6) if OPEN[s] <= key), key=lambda s: abs(key - OPEN[s] - 5))
        return {"string": string + 1, "fret": key - OPEN[string]}

    events = [
        {
            "id": f"e{i}",
            "beat": i / 4,
            "length": 0.25,
            "articulation": ways[i] if ways else "pick",
            "notes": [where(key)],
        }
        for i, key in enumerate(keys)
    ]
    return Drill.model_validate(
        {
            "format": "fortimetra-drill", "version": 1, "title": "run", "family": "alternate_picking",
            "tuning": ["E4", "B3", "G3", "D3", "A2", "E2"], "tempo": {"bpm": 15.0 * speed},
            "measures": ["timing", "level"], "events": events,
        }
    )  # fmt: skip


def audible_after_s(program, keys, folder) -> dict[int, float]:
    """From the tick to 30 dB under the maximum, each key alone."""
    tones = [Tone(key, 0.5 + 1.5 * i, 1.0) for i, key in enumerate(sorted(set(keys)))]
    take = load_take(render(tones, folder, program=program, name="alone"))
    sound, rate = take.guitar(), take.sample_rate_hz
    found = {}
    for tone in tones:
        part = np.abs(sound[round(tone.onset_s * rate) : round((tone.onset_s + 0.25) * rate)])
        found[tone.midi] = float(np.argmax(part > AUDIBLE * part.max())) / rate
    return found


def run(guitar, speed, folder, *, velocities=None):
    program, slot = GUITARS[guitar], 1.0 / speed
    rng = np.random.default_rng(program)
    ticks = np.round(START_S + slot * np.arange(len(SCALE)) + rng.normal(0, 0.004, len(SCALE)), 3)
    level = np.full(len(SCALE), 100) if velocities is None else velocities
    tones = [Tone(k, float(t), slot - 0.012, velocity=int(v)) for k, t, v in zip(SCALE, ticks, level, strict=True)]
    drill = drill_of(SCALE, speed)
    click = Click(
        format="fortimetra-click", version=1, source="recorder", bpm=15.0 * speed, first_beat_s=START_S, latency_ms=0.0
    )
    found = analyse(render(tones, folder, program=program), drill=drill, click=click)
    after = audible_after_s(program, SCALE, folder)
    return found, np.array([t + after[k] for k, t in zip(SCALE, ticks, strict=True)]), ticks


@pytest.mark.parametrize("speed", [4, 8, 16])
@pytest.mark.parametrize("guitar", ["nylon", "steel", "clean"])
def test_onsets_of_a_run(guitar, speed, tmp_path):
    found, truth, ticks = run(guitar, speed, tmp_path)
    heard = np.array([n.onset_s for n in found.notes if n.onset_s is not None])
    assert found.extras == ()
    for window, least in ((0.05, 0.99), (0.025, 0.97), (0.010, 0.95)):
        assert mir_eval.onset.f_measure(truth, np.sort(heard), window=window)[0] >= least
    errors = [1000 * (n.onset_s - t) for n, t in zip(found.notes, truth, strict=True) if n.onset_s is not None]
    assert abs(np.median(errors)) < 1.0
    assert np.percentile(np.abs(errors), 90) < SMALLEST_TIME_MS
    # The grid is where the ticks are: what is late there is late here, by when the sound font's notes begin.
    late = [n.timing.error_ms for n in found.notes if n.timing]
    played = [1000 * (t - START_S - i / speed) for i, t in enumerate(truth) if found.notes[i].timing]
    assert np.median(np.abs(np.array(late) - np.array(played))) < 1.0
    assert found.summary.timing.jitter_ms == pytest.approx(
        1.4826 * np.median(np.abs(played - np.median(played))), abs=1.5
    )
    assert len(ticks) == found.summary.asked


def test_notes_of_a_run_by_onset_and_pitch(tmp_path):
    found, truth, _ticks = run("clean", 6, tmp_path)
    heard = [(n, n.pitch.median_hz) for n in found.notes if n.onset_s is not None and n.pitch and n.pitch.median_hz]
    spans = np.array([[n.onset_s, max(n.end_s, n.onset_s + 0.01)] for n, _ in heard])
    true_spans = np.stack((truth, truth + 1 / 6 - 0.02), axis=1)
    hz = 440.0 * 2.0 ** ((np.array(SCALE) - 69) / 12.0)
    precision, recall, f, _overlap = mir_eval.transcription.precision_recall_f1_overlap(
        true_spans, hz, spans, np.array([p for _, p in heard]), onset_tolerance=0.05, offset_ratio=None
    )
    assert min(precision, recall, f) > 0.95


@pytest.mark.parametrize("guitar", ["nylon", "steel", "clean"])
def test_levels_follow_velocities(guitar, tmp_path):
    rng = np.random.default_rng(2)
    velocities = rng.integers(70, 120, len(SCALE))
    found, _truth, _ticks = run(guitar, 4, tmp_path, velocities=velocities)
    even, *_ = run(guitar, 4, tmp_path)
    exact = 40.0 * np.log10(velocities / 100.0)
    # Keys of a sound font are not equally loud: each against itself at velocity 100.
    read = np.array([a.level.level_db - b.level.level_db for a, b in zip(found.notes, even.notes, strict=True)])
    off = read - exact
    off -= np.median(off)
    assert np.median(np.abs(off)) < 0.3
    assert np.percentile(np.abs(off), 85) < SMALLEST_LEVEL_DB


def test_slurs_without_an_attack(tmp_path):
    speed, groups = 6.0, [(62, 64, 65, 64)] * 4
    slot, at = 1.0 / speed, START_S
    tones, truth, keys, ways = [], [], [], []
    for group in groups:
        bend = [(0.0, 0.0)]
        for i in range(1, len(group)):
            bend += [(i * slot - 0.004, 100.0 * (group[i - 1] - group[0])), (i * slot, 100.0 * (group[i] - group[0]))]
        bend.append((len(group) * slot - 0.02, 100.0 * (group[-1] - group[0])))
        tones.append(Tone(group[0], round(at, 3), len(group) * slot - 0.012, tuple(bend)))
        truth += [at + i * slot for i in range(len(group))]
        keys += group
        ways += ["pick", "hammer", "hammer", "pull"]
        at += len(group) * slot
    found = analyse(render(tones, tmp_path, program=GUITARS["clean"]), drill=drill_of(keys, speed, ways))
    errors = [
        1000 * (n.onset_s - t)
        for n, t, way in zip(found.notes, truth, ways, strict=True)
        if way != "pick" and n.onset_s is not None
    ]
    assert len(errors) >= 11
    assert np.median(np.abs(errors)) < 5.0
    assert np.percentile(np.abs(errors), 90) < 8.0


def test_tolerances_are_not_finer_than_anybody_hears():
    for profile in PROFILES:
        assert onset_tolerance_ms(profile)[2] >= SMALLEST_TIME_MS
        assert PROFILES[profile]["level_db"] >= SMALLEST_LEVEL_DB


@pytest.mark.parametrize(
    ("per_click", "bpm", "slot_ms"), [(1, 60, 1000), (2, 60, 500), (3, 60, 333.333), (4, 60, 250), (6, 80, 125)]
)
def test_notes_per_click(per_click, bpm, slot_ms):
    # Common practice, no source: at 60 and four notes a click a note lasts 250 ms.
    drill = drill_of((57,), 4).model_copy(
        update={"tempo": drill_of((57,), 4).tempo.model_copy(update={"bpm": float(bpm)})}
    )
    assert 1000.0 * drill.seconds_per_beat / per_click == pytest.approx(slot_ms, abs=0.001)


def doubled(guitar, gap_s, folder, drive_db=None):
    """A run in which every fifth string is struck twice; when, and what was found."""
    rng = np.random.default_rng(GUITARS[guitar])
    tones, twice_s = [], []
    for i, key in enumerate(SCALE):
        at, velocity = round(START_S + 0.25 * i, 3), int(rng.integers(88, 104))
        if gap_s and i % 5 == 2:
            tones += [Tone(key, at, gap_s - 0.002, velocity=velocity - 8)]
            at, length = round(at + gap_s, 3), 0.238 - gap_s
            twice_s.append(at)
        else:
            length = 0.238
        tones.append(Tone(key, at, length, velocity=velocity))
    take = load_take(render(tones, folder, program=GUITARS[guitar]))
    if drive_db is not None:
        sound = take.guitar() / np.max(np.abs(take.guitar()))
        driven = 0.5 * np.tanh(sound * 10.0 ** (drive_db / 20.0)).astype(np.float32)
        take = Take(driven[None, :], take.sample_rate_hz, "0" * 64)
    found = analyse(take, drill=drill_of(SCALE, 4))
    return np.array(twice_s), [e for e in found.extras if e.kind == "double_hit"], found


@pytest.mark.parametrize("gap_s", [0.04, 0.05])
@pytest.mark.parametrize("guitar", ["nylon", "jazz", "clean"])
def test_a_string_struck_twice_is_a_double_hit(guitar, gap_s, tmp_path):
    twice_s, said, found = doubled(guitar, gap_s, tmp_path)
    hit = [any(abs(e.onset_s - t) < 0.03 for e in said) for t in twice_s]
    assert np.mean(hit) >= 0.75
    assert all(np.min(np.abs(twice_s - e.onset_s)) < 0.03 for e in said)
    assert all(n.status == "played" for n in found.notes)


@pytest.mark.parametrize("gap_s", [0.04, 0.05])
def test_so_it_is_where_drive_evens_its_level(gap_s, tmp_path):
    hit = []
    for guitar in ("steel", "jazz", "clean"):
        twice_s, said, found = doubled(guitar, gap_s, tmp_path, drive_db=14.0)
        hit += [any(abs(e.onset_s - t) < 0.03 for e in said) for t in twice_s]
        assert all(np.min(np.abs(twice_s - e.onset_s)) < 0.03 for e in said)
        assert all(n.status == "played" for n in found.notes)
    assert np.mean(hit) >= 0.75


@pytest.mark.parametrize("guitar", ["steel", "jazz", "clean"])
def test_driven_strings_struck_once_are_no_double_hits(guitar, tmp_path):
    _none, said, _found = doubled(guitar, 0.0, tmp_path, drive_db=14.0)
    assert said == []


@pytest.mark.parametrize("guitar", ["nylon", "steel", "jazz", "clean", "overdriven"])
def test_strings_struck_once_are_no_double_hits(guitar, tmp_path):
    _none, said, _found = doubled(guitar, 0.0, tmp_path)
    assert said == []


@pytest.mark.parametrize("guitar", ["steel", "clean", "jazz"])
@pytest.mark.parametrize(("over_s", "verdict"), [(0.18, "outside"), (0.1, "outside"), (0.0, None)])
def test_a_note_that_goes_on_under_the_next_is_bleed(guitar, over_s, verdict, tmp_path):
    """Steady students have 60 ms (common practice, no source)."""
    keys = [55, 62, 57, 64, 55, 62, 57, 64]
    tones = [
        Tone(k, START_S + 0.5 * i, (0.4 + over_s + 0.1 * (over_s > 0)) if i % 4 == 0 else 0.4, channel=i % 4)
        for i, k in enumerate(keys)
    ]
    drill = drill_of(keys, 2).model_copy(update={"measures": ("noise",)})
    found = analyse(render(tones, tmp_path, program=GUITARS[guitar]), drill=drill)
    said = {(e.near, e.verdict) for e in found.noise_events if e.kind == "bleed"}
    assert said == ({("e1", verdict), ("e5", verdict)} if verdict else set())

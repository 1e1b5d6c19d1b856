"""What should be silent and is not: the simulated student, whose every ring, stop and scrape is written down."""

import numpy as np
import pytest
from fortimetra.drills.library import library
from fortimetra.hear.combs import Combs, covered, find, spectra, surroundings
from fortimetra.hear.settings import COMBS
from fortimetra.measure.scrape import scrapes
from fortimetra.model.drill import Drill
from fortimetra.player.faults import Faults, NoteFault, Ring, Scrape

from tests.core.sounds import RATE_HZ, noise, take, tone
from tests.core.test_time_and_touch import built_in, told
from tests.kept import analyse, render

N = NoteFault
STILL = {"random_ms": 3.0, "random_db": 0.5, "random_cents": 1.0}
# The first of every form that asks for silence; `./run bench library` plays all of them on other makers' guitars.
ASKING = list({b.form: b.drill for b in reversed(library()) if "noise" in b.drill.measures}.values())


def line(keys_or_places, *, beats=1.0, bpm=90.0, measures=("noise",), family="free", **changes) -> Drill:
    events, beat = [], 0.0
    for i, place in enumerate(keys_or_places, 1):
        notes = (
            []
            if place is None
            else [{"string": s, "fret": f} for s, f in (place if isinstance(place, list) else [place])]
        )
        events.append(
            {"id": f"e{i}", "beat": beat, "length": beats, "articulation": "pick" if notes else "none", "notes": notes}
        )
        beat += beats
    return Drill.model_validate(
        {
            "format": "fortimetra-drill",
            "version": 1,
            "title": "line",
            "family": family,
            "tuning": ["E4", "B3", "G3", "D3", "A2", "E2"],
            "tempo": {"bpm": bpm},
            "measures": measures,
            "events": events,
        }
        | changes
    )


SCALE = line([(3, 5), (3, 7), (2, 5), (2, 8), (2, 5), (3, 7), (3, 5), (3, 7)])


def kinds(found):
    return [(e.kind, e.string) for e in found.noise_events]


@pytest.mark.parametrize("title", [d.title for d in ASKING])
def test_a_clean_take_has_nothing_outside(title):
    drill = next(d for d in ASKING if d.title == title).model_copy(update={"repeats": 1})
    found, _ = told(drill, Faults(**STILL))
    assert [e for e in found.noise_events if e.verdict == "outside"] == []
    assert found.summary.by_measure["noise"].outside == 0
    assert found.summary.missed == 0


@pytest.mark.parametrize("drive", [0.0, 24.0])
def test_half_a_minute_of_clean_playing_has_no_false_event(drive):
    # How many there are in many minutes is a figure of ./run bench quiet.
    drill = SCALE.model_copy(update={"repeats": 5})
    samples, _ = render(drill, Faults(**STILL, drive_db=drive, seed=4))
    found = analyse(take(samples), drill=drill)
    assert found.take.duration_s > 25
    assert found.noise_events == ()


@pytest.mark.parametrize("string", [4, 5, 6])
@pytest.mark.parametrize("level_db", [-20.0, -28.0])
def test_an_open_string_is_named_with_its_time_and_level(string, level_db):
    ring = Ring(string=string, event="e3", level_db=level_db, length_s=1.2)
    found, truth = told(SCALE, Faults(**STILL, rings=(ring,)))
    (event,) = found.noise_events
    assert (event.kind, event.string, event.fret) == ("open_ring", string, 0)
    start = truth["e3", 0].onset_s
    assert event.from_s == pytest.approx(start, abs=0.15)
    assert event.to_s == pytest.approx(start + 1.2, abs=0.25)
    assert abs(event.level_db - level_db) < 6.0
    assert event.verdict == ("outside" if level_db > -26 else event.verdict)
    rung = {n.id for n in found.notes if n.noise.worst_ring_db is not None}
    assert {"e3", "e4"} <= rung
    assert "e7" not in rung
    # Off in nothing that has a side, whatever its pitch.
    faulty = [n for n in found.notes if n.noise.verdict == "outside"]
    assert {n.deviation(SCALE.measures) for n in faulty} <= {None}


def test_the_tolerance_decides():
    ring = Ring(string=6, event="e3", level_db=-21.0, length_s=1.2)
    found, _ = told(SCALE, Faults(**STILL, rings=(ring,)))
    assert found.noise_events[0].verdict == "outside"
    lax = SCALE.model_copy(update={"profile": "starting"})
    found, _ = told(lax, Faults(**STILL, rings=(ring,)))
    assert found.noise_events[0].verdict == "inside"
    assert "outside" not in {n.noise.verdict for n in found.notes}


def test_a_string_that_shares_every_partial_is_covered_and_said_so():
    # The open fifth string's third partial is the first string's first: 110 · 3 = 330 Hz.
    drill = line([(5, 0)] * 8)
    found, _ = told(drill, Faults(**STILL))
    assert all(1 in n.noise.hidden_strings for n in found.notes[:-1])
    ring = Ring(string=1, event="e3", level_db=-20.0, length_s=1.0)
    found, _ = told(drill, Faults(**STILL, rings=(ring,)))
    assert [e for e in found.noise_events if e.string not in (1,)] == []


def test_a_note_that_rings_on_is_bleed_of_its_own_string():
    drill = line([(4, 7), (3, 4), (2, 5), (3, 4), (4, 7), (3, 4), (2, 5), (3, 4)])
    found, _ = told(drill, Faults(**STILL, notes={"e3": N(length=1.7)}))
    assert ("bleed", 2) in kinds(found)
    (event,) = [e for e in found.noise_events if e.kind == "bleed" and e.string == 2]
    assert (event.fret, event.near, event.verdict) == (5, "e4", "outside")


def test_what_goes_on_only_because_the_next_note_is_early_is_nobodys_bleed():
    drill = line([(4, 7), (3, 4), (2, 5), (3, 4), (4, 7), (3, 4), (2, 5), (3, 4)], measures=("timing", "noise"))
    held = {f"e{i}": N(length=1.0) for i in range(1, 8)}
    found, _ = told(drill, Faults(**STILL, notes=held | {"e4": N(late_ms=-110.0, length=1.0)}))
    (early,) = [n for n in found.notes if n.id == "e4"]
    assert early.timing.verdict == "outside"
    assert "outside" not in {e.verdict for e in found.noise_events if e.kind == "bleed"}
    late, _ = told(drill, Faults(**STILL, notes=held | {"e3": N(length=1.25)}))
    assert {(e.near, e.verdict) for e in late.noise_events if e.kind == "bleed"} == {("e4", "outside")}


def test_a_late_stop_is_measured_and_the_fretting_hand_named():
    drill = line([(5, 5), None, (4, 7), None, (5, 7), None, (4, 5), None], measures=("timing", "noise"))
    found, truth = told(drill, Faults(**STILL, notes={"e3": N(length=1.6)}))
    by_id = {n.id: n for n in found.notes}
    due = by_id["e3"].timing.grid_s + 60 / 90
    expected_ms = 1000 * (truth["e3", 0].end_s - due)
    assert by_id["e3"].noise.decay_ms == pytest.approx(expected_ms, abs=45)
    assert by_id["e3"].noise.stop_verdict == "outside"
    assert {"rings_after_stop", "still_fretted"} <= set(by_id["e3"].reasons)
    assert by_id["e1"].noise.stop_verdict == "inside"
    assert ("after_stop", 4) in kinds(found)


def test_an_open_string_left_by_the_fretting_hand_is_told_apart():
    drill = line([(5, 5), None, (4, 7), None, (5, 7), None, (4, 5), None])
    samples, truth = render(drill, Faults(**STILL))
    rung, _ = render(line([(4, 0)], beats=2.0), Faults(lead_in_s=0.2, peak_dbfs=-14.0))
    at = round(truth.notes[1].end_s * 48_000)
    part = rung[round(0.2 * 48_000) :][: round(0.55 * 48_000)]
    sound = samples.copy()
    sound[at : at + len(part)] += part
    found = analyse(take(sound), drill=drill)
    after = [e for e in found.noise_events if e.kind == "after_stop"]
    assert [(e.string, e.fret) for e in after] == [(4, 0)]
    assert after[0].reasons == ("fretting_hand_first",)


def test_a_scrape_is_told_from_strings_and_a_clean_take_has_none():
    found, _ = told(SCALE, Faults(**STILL, scrapes=(Scrape(event="e2", after_s=0.3, level_db=-18.0),)))
    (event,) = found.noise_events
    assert event.kind == "scrape"
    assert event.string is None
    assert event.near == "e2"
    assert found.extras == ()


def test_hum_is_the_rigs_and_nobodys_fault():
    drill = line([(5, 5), None] * 4)
    found, _ = told(drill, Faults(**STILL, hum_hz=50.0, hum_dbfs=-48.0))
    hum = [e for e in found.noise_events if e.kind == "hum"]
    assert len(hum) == 1
    assert (hum[0].verdict, hum[0].hz) == (None, pytest.approx(50.0, abs=0.3))
    assert found.summary.by_measure["noise"].outside == 0
    assert found.summary.noise.hum_db is not None


def test_a_mute_check_names_the_leaking_string_and_not_the_others():
    drill = built_in("mute_check")
    found, _ = told(drill, Faults(**STILL, rings=(Ring(string=4, event="e3", level_db=-18.0, length_s=1.6),)))
    leaks = [e for e in found.noise_events if e.verdict == "outside"]
    assert [(e.kind, e.string, e.near) for e in leaks] == [("open_ring", 4, "e3")]
    own = {n.string: n for n in found.notes if n.id == "e3"}
    assert own[4].noise.verdict == "outside"
    assert own[4].clean == "outside"
    assert own[3].clean != "outside"


def test_a_chord_note_that_is_not_there_is_missed_and_the_other_stands():
    drill = built_in("muted_double_stops")
    without = drill.model_copy(
        update={
            "events": tuple(
                e if e.id != "e5" else e.model_copy(update={"notes": tuple(n for n in e.notes if n.string != 1)})
                for e in drill.events
            )
        }
    )
    samples, _ = render(without, Faults(**STILL))
    found = analyse(take(samples), drill=drill)
    own = {n.string: n for n in found.notes if n.id == "e5"}
    assert own[1].status == "missed"
    assert own[1].chord.present is False
    assert own[3].chord.present is True
    assert all(n.chord.present for n in found.notes if n.id != "e5" and n.fret is not None)


def test_a_slide_behind_the_fret_wire_is_flat_in_every_note_of_the_double_stop():
    drill = built_in("bottleneck")
    found, _ = told(drill, Faults(**STILL, notes={e.id: N(cents=-24.0) for e in drill.events}))
    errors = [n.pitch.error_cents for n in found.notes if n.pitch and n.pitch.error_cents is not None]
    assert len(errors) >= 14
    assert np.median(errors) == pytest.approx(-24.0, abs=2.5)
    assert all(
        n.pitch.verdict == "outside" for n in found.notes if n.fret is not None and n.pitch.error_cents is not None
    )


def test_a_soft_note_of_a_double_stop_is_told_against_its_string():
    drill = built_in("muted_double_stops")
    soft = drill.model_copy(update={"events": drill.events})
    samples, _ = render(soft, Faults(**STILL))
    found = analyse(take(samples), drill=drill)
    assert all(abs(n.chord.balance_db) < 3.5 for n in found.notes if n.chord and n.chord.balance_db is not None)


def test_through_drive_nobody_weighs_the_strings_of_a_chord():
    drill = line([[(6, 3), (5, 5)], [(6, 5), (5, 7)]] * 4, beats=1.0, measures=("level", "noise"))
    for drive_db in (0.0, 24.0):
        found, _ = told(drill, Faults(**STILL, drive_db=drive_db))
        assert found.summary.noise.driven is (drive_db > 0.0)
        assert {n.clean for n in found.notes} == {"inside"}


def test_a_long_note_shows_what_builds_up_without_damping():
    drill = built_in("long_note_noise")
    found, _ = told(drill, Faults(**STILL, rings=(Ring(string=3, event="e1", level_db=-20.0, length_s=7.0),)))
    undamped, damped = found.notes
    assert (undamped.noise.string, undamped.noise.verdict) == (3, "outside")
    assert (damped.noise.worst_ring_db, damped.noise.verdict) == (None, "inside")


def test_an_echo_is_recognised_and_what_rings_on_is_not_judged():
    drill = line([(2, 5), (2, 8), (2, 7), (2, 10), (2, 8), (2, 5), (2, 7), (2, 8)], beats=1.0, bpm=80)
    samples, _ = render(drill, Faults(**STILL))
    echo = samples.copy()
    for number, share in enumerate((0.3, 0.12), 1):
        shift = round(0.48 * number * 48_000)
        echo[shift:] += share * samples[:-shift]
    found = analyse(take(echo), drill=drill)
    assert "echo_effect" in found.take.warnings
    assert all(e.verdict != "outside" for e in found.noise_events if e.kind in {"bleed", "after_stop"})
    dry = analyse(take(samples), drill=drill)
    assert "echo_effect" not in dry.take.warnings


def test_a_backing_track_is_recognised():
    samples, _ = render(SCALE, Faults(**STILL))
    other = line([[(1, 3), (2, 1), (4, 3)], [(1, 6), (2, 6), (4, 8)]] * 4, beats=1.0, family="free")
    backing, _ = render(other, Faults(seed=8, lead_in_s=0.7))
    count = min(len(samples), len(backing))
    found = analyse(take(samples[:count] + 0.4 * backing[:count]), drill=SCALE)
    assert "other_sounds" in found.take.warnings
    assert {n.noise.verdict for n in found.notes if n.noise} == {"unclear"}
    assert {e.verdict for e in found.noise_events} <= {"unclear", None}
    assert "other_sounds" not in analyse(take(samples), drill=SCALE).take.warnings


def test_intermodulation_of_a_driven_double_stop_is_no_string():
    drill = built_in("muted_double_stops")
    found, _ = told(drill, Faults(**STILL, drive_db=24.0))
    assert found.summary.noise.driven is True
    assert [e for e in found.noise_events if e.verdict == "outside"] == []


@pytest.mark.parametrize(("chord", "string"), [([(6, 8), (5, 10)], 4), ([(6, 3), (5, 5)], 1), ([(5, 3), (4, 5)], 6)])
@pytest.mark.parametrize("rings", [False, True])
def test_a_string_between_the_tones_of_a_driven_fifth_is_found(chord, string, rings):
    # Drive makes tones of a fifth every half of its lower pitch, 49 to 65 Hz: the open string lies between two of them.
    drill = line([chord] * 6, beats=1.0, bpm=90.0, family="stop_and_rest")
    ring = Ring(string=string, event="e3", level_db=-16.0, length_s=0.6)
    found, _ = told(drill, Faults(**STILL, drive_db=24.0, rings=(ring,) if rings else ()))
    assert found.summary.noise.driven is True
    heard = [e for e in found.noise_events if e.kind in {"open_ring", "bleed", "pressed"}]
    assert {e.string for e in heard if e.verdict == "outside"} == ({string} if rings else set())


def test_a_comb_is_found_in_what_is_not_covered_and_nowhere_else():
    time = np.arange(round(0.6 * COMBS.rate_hz)) / COMBS.rate_hz
    sound = np.sin(2 * np.pi * 220 * time) + 0.01 * sum(np.sin(2 * np.pi * 110 * k * time) / k for k in (1, 2, 3, 5))
    windows = spectra(sound.astype(np.float32), np.array([0.1, 0.2]), 0.2)
    mask = covered(windows, np.array([0, 1]), np.array([219.0, 219.0]), np.array([221.0, 221.0]))
    combs = Combs(np.array([110.0, 146.8]), np.full(2, 10.0), np.full(2, COMBS.most_stiffness))
    found = find(windows, combs, mask, np.maximum(surroundings(windows, mask), 1e-9))
    assert found.clear[0, 0, :3].tolist() == [True, False, True]
    # A sinusoid of amplitude a has the power a²/2.
    assert found.power[0, 0, 0] == pytest.approx(0.01**2 / 2, rel=0.1)
    assert found.fit[0, 0].sum() > 25
    assert found.fit[0, 1].sum() < 5


def test_partials_of_a_stiff_string_are_sought_where_fletchers_formula_has_them():
    # f_k = k·f·√(1 + B·k²): Fletcher, J. Acoust. Soc. Am. 36(1), 1964. Low E with B = 1e-4, from memory.
    combs = Combs(np.array([82.41]), np.array([5.0]), np.array([1e-4]))
    first, last = combs.intervals()
    k = np.arange(1, 13)
    for b in (0.0, 5e-5, 1e-4):
        hz = k * 82.41 * np.sqrt(1 + b * k**2)
        bins = hz / (COMBS.rate_hz / 8192)
        used = last[0] >= first[0]
        assert used.sum() >= 8
        assert np.all((bins[used] >= first[0][used] - 1) & (bins[used] <= last[0][used] + 1))


def test_scrapes_need_attacks_to_be_read_against():
    hiss = np.random.default_rng(1).standard_normal(48_000).astype(np.float32) * 1e-3
    assert scrapes(hiss, np.empty(0), [], rate_hz=48_000) == []
    assert scrapes(hiss[:8_000], np.array([0.05]), [], rate_hz=8_000) == []


def test_a_slide_that_is_asked_for_may_rub_and_click_on_its_way():
    sound = tone(220.0, 3.0) + noise(3.0, -70.0)
    for at_s in (1.4, 2.2):
        place = slice(round(at_s * RATE_HZ), round((at_s + 0.1) * RATE_HZ))
        sound[place] += noise(0.1, -38.0) * np.hanning(place.stop - place.start)
    sound[: RATE_HZ // 10] = 0.0

    def begins(*slides_s):
        return [round(s.from_s, 1) for s in scrapes(sound, np.array([0.1]), [], slides_s, rate_hz=RATE_HZ)]

    assert begins() == [1.4, 2.2]
    assert begins((1.38, 1.52)) == [2.2]

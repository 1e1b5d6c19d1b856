"""Slides over several frets and hammer-ons from nowhere, on FluidSynth's guitars through an amplifier and by phone.

Each is heard where it arrives, what the hand passes on its way is held against nobody, and the pitch reached is judged.
"""

import tempfile
from pathlib import Path

import numpy as np
import pytest
from fortimetra import Analysis
from fortimetra.drills.library import library

from benchmarks._chains import CHAINS
from benchmarks._players import Performance, play
from benchmarks.takes import MEASURES, guitar_in, judged, sound_of
from tests.kept import value

SLIDES = "Slides on string 4: frets 7 12 10 5, every second note struck"
SHAPES = "Shapes slid: thirds on 3 and 2, G major, from fret 2"
TAPS = "Tapping: string 3, frets 5 8 and 12, without the pull"
# A room holds the fret before for a while.
WITHIN_S = {"straight": 0.02, "amp": 0.02, "phone": 0.04}


def judged_by(title: str, guitar: str, chain: str, repeats: int) -> tuple[Analysis, Performance]:
    drill = next(b.drill for b in library() if b.drill.title.startswith(title))
    drill = drill.model_copy(update={"repeats": repeats})

    rng = np.random.default_rng(30)
    made = play(drill, "clean", rng)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        sound = CHAINS[chain](sound_of(guitar_in(folder, guitar), made, folder), rng)
        return value("slides over frets", (sound, drill), lambda: judged(sound, drill, folder)), made


@pytest.mark.parametrize("chain", ["straight", "amp", "phone"])
@pytest.mark.parametrize("guitar", ["clean", "steel"])
def test_a_slide_over_frets_is_heard_where_it_arrives(guitar, chain):
    found, made = judged_by(SLIDES, guitar, chain, 2)
    slid = [n for n in found.notes if n.slide is not None]
    assert len(slid) == 8
    for note in slid:
        (arrived_s,) = made.onsets_s[note.id, note.repeat, note.string]
        assert note.slide.arrives_s == pytest.approx(arrived_s, abs=WITHIN_S[chain])
        # On its way it would be 0.1 s earlier a fret.
        assert note.onset_s == pytest.approx(arrived_s, abs=0.06)
        assert note.pitch.verdict == "inside", (note.id, note.repeat, note.reasons)
    off = {
        (n.id, n.repeat, m) for n in found.notes for m in MEASURES if (p := getattr(n, m)) and p.verdict == "outside"
    }
    assert off == set()
    assert [e for e in found.noise_events if e.verdict == "outside"] == []


@pytest.mark.parametrize("chain", ["straight", "amp", "phone"])
@pytest.mark.parametrize("guitar", ["clean", "steel"])
def test_a_shape_that_slides_over_frets_is_heard_where_it_arrives(guitar, chain):
    found, made = judged_by(SHAPES, guitar, chain, 2)
    slid = {e.id for b in library() if b.drill.title == SHAPES for e in b.drill.events if e.articulation == "slide"}
    late_ms = [
        1000.0 * (n.onset_s - made.onsets_s[n.id, n.repeat, n.string][0])
        for n in found.notes
        if n.id in slid and n.onset_s is not None
    ]
    assert len(late_ms) == 12
    assert np.max(np.abs(late_ms)) < 1000.0 * WITHIN_S[chain]


@pytest.mark.parametrize("chain", ["straight", "amp"])
@pytest.mark.parametrize("guitar", ["clean", "steel"])
def test_a_hammer_on_from_nowhere_begins_with_its_own_attack(guitar, chain):
    found, made = judged_by(TAPS, guitar, chain, 2)
    nowhere = [n for n in found.notes if n.fret == 5 and n.id != "e1"]
    assert len(nowhere) > 6
    late_ms = [1000.0 * (n.onset_s - made.onsets_s[n.id, n.repeat, n.string][0]) for n in nowhere]
    assert np.max(np.abs(late_ms)) < 10.0
    assert [n.timing.verdict for n in found.notes if n.timing is not None].count("outside") == 0

"""Stops of another maker's guitars in a hall: let go in time, they are not late because the hall rings on.

The hall is noise that decays by 60 dB in its reverberation time (the definition of ISO 3382), 3 dB under the direct
sound in energy: as a recorder some rows away hears it.
"""

import zlib

import numpy as np
import pytest
from fortimetra.drills.library import library

from benchmarks._chains import straight
from benchmarks._lines import guitars
from benchmarks._notes import RATE_HZ
from benchmarks._players import play
from benchmarks.takes import drill_of, judged, sound_of
from tests.core.sounds import in_a_room
from tests.kept import value

DRILLS = (
    "Curl: string 4, fret 5, 20 to 60 cents, stopped at the top",
    "Mute check: all strings struck, 1 sound, roots on string 6, frets 5",
)


def stops(title, guitar, rt60_s, folder, *, cut=False):
    """Verdicts of the stops of a take that is played cleanly, over an interface or in a hall. cut: where the recording
    was stopped, not even noise follows.
    """

    def make():
        drill = drill_of(title)
        made = play(drill, "clean", np.random.default_rng(zlib.crc32(title.encode())))
        sound = sound_of(guitars(folder, [guitar])[0], made, folder)
        if rt60_s:
            sound = in_a_room(sound, seed=5, rt60_s=rt60_s, rate_hz=RATE_HZ)
        sound = straight(sound, np.random.default_rng(1))
        if cut:
            sound = np.append(sound[: round((made.seconds - 0.3) * RATE_HZ)], np.zeros(RATE_HZ, np.float32))
        found = judged(sound, drill, folder)
        return [n.noise.stop_verdict for n in found.notes if n.noise is not None and n.noise.stop_verdict is not None]

    return value("stops-in-halls", (title, guitar, rt60_s, cut), make)


@pytest.mark.parametrize("guitar", ["clean", "steel"])
@pytest.mark.parametrize("title", DRILLS)
def test_a_stop_in_a_hall_is_not_late_because_the_hall_rings_on(title, guitar, tmp_path):
    assert title in {b.drill.title for b in library()}
    dry = stops(title, guitar, None, tmp_path)
    assert len(dry) >= 4
    assert set(dry) == {"inside"}
    assert "outside" not in stops(title, guitar, 1.1, tmp_path)
    assert "outside" not in stops(title, guitar, 1.1, tmp_path, cut=True)

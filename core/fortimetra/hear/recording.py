"""A recording as it is measured: the guitar's channel, its levels, what begins in it, and its pitch contour."""

from __future__ import annotations

from dataclasses import dataclass

from fortimetra.hear.contour import Contour
from fortimetra.hear.onsets import Candidates
from fortimetra.sound.decode import Take
from fortimetra.sound.levels import Levels
from fortimetra.sound.samples import Samples


@dataclass(frozen=True)
class Recording:
    """mono: the guitar without the click, float32, shape (n_samples,) at rate_hz; onsets: rises of the onset
    detection function.
    """

    take: Take
    mono: Samples
    levels: Levels
    onsets: Candidates
    contour: Contour

    @property
    def rate_hz(self) -> int:
        """Samples a second of `mono`."""
        return self.take.sample_rate_hz

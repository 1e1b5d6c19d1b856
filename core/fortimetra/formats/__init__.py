"""Open formats in and out, one file per format."""

from typing import TYPE_CHECKING

from fortimetra.formats.clicks_csv import clicks_csv
from fortimetra.formats.contour_csv import contour_csv
from fortimetra.formats.curve import Curve
from fortimetra.formats.heard_midi import heard_midi
from fortimetra.formats.jams_file import jams_text
from fortimetra.formats.midi import drill_to_midi
from fortimetra.formats.musicxml_out import drill_to_musicxml
from fortimetra.formats.notes_csv import notes_csv
from fortimetra.formats.text_tab import text_tab
from fortimetra.later import later

if TYPE_CHECKING:
    from fortimetra.formats.midi_in import read_midi
    from fortimetra.formats.musicxml_in import read_musicxml
    from fortimetra.formats.score_in import Imported

# What reads scores weighs the most: a library of 30 MB.
__getattr__ = later(
    __name__,
    {
        "read_midi": "fortimetra.formats.midi_in",
        "read_musicxml": "fortimetra.formats.musicxml_in",
        "Imported": "fortimetra.formats.score_in",
    },
)
__all__ = [
    "Curve",
    "Imported",
    "clicks_csv",
    "contour_csv",
    "drill_to_midi",
    "drill_to_musicxml",
    "heard_midi",
    "jams_text",
    "notes_csv",
    "read_midi",
    "read_musicxml",
    "text_tab",
]

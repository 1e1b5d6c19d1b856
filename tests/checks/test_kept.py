"""What is kept between runs is made anew when what it depends on changes."""

import subprocess
import sys

from tests.kept import CORE, PLAYER, ROOT, digest, sources_of

# The core's own first file gathers everything; without it only what the module itself needs is loaded.
LOADED = f"""
import sys, types
core = types.ModuleType("fortimetra")
core.__path__ = [{str(CORE)!r}]
sys.modules["fortimetra"] = core
import {PLAYER}
print(*(m.__file__ for name, m in sys.modules.items() if name.startswith("fortimetra.")), sep="\\n")
"""


def test_sounds_depend_on_every_file_that_rendering_loads():
    done = subprocess.run([sys.executable, "-c", LOADED], cwd=ROOT, capture_output=True, text=True, check=True)
    loaded = set(done.stdout.split())
    assert str(CORE / "player" / "string.py") in loaded
    assert loaded <= {str(file) for file in sources_of(PLAYER)}


def test_sounds_do_not_depend_on_how_they_are_measured():
    assert not [
        file for file in sources_of(PLAYER) if file.parent.name in {"hear", "align", "measure", "judge", "coach"}
    ]
    assert digest("a take", module=PLAYER) != digest("a take")

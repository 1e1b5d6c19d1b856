"""One running application with the demo data for all browser tests, and a browser that is signed in."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pytest
import soundfile
from fortimetra.drills.fretted_then_bend import fretted_then_bend
from fortimetra.player.faults import Faults, NoteFault

from tests.browser import demo
from tests.browser.chromium import chromium
from tests.browser.pages import Pages
from tests.browser.running import start
from tests.kept import render

DRILL = "String 3: full bend at fret 7"
BEND_CENTS = (-31.0, -12.0, 21.0, 3.0)


@pytest.fixture(scope="session")
def app(tmp_path_factory):
    data = tmp_path_factory.mktemp("demo") / "data"
    demo.copy_to(data)
    running = start(data)
    yield running
    assert running.stop() == 0


@pytest.fixture(scope="session")
def browser():
    with chromium() as driver:
        yield driver


@pytest.fixture
def page(app, browser):
    """Signed in as the demo's teacher, at an address of the application that shows nothing yet: a test opens its
    own.
    """
    page = Pages(browser, app.url)
    page.open("/api/v1/health")
    if not page.fetch("/api/v1/me").get("email"):
        page.open("/")
        page.sign_in("teacher@quayside.example", "harbour-light-evening")
        page.wait(lambda: page.all("tr[data-take]"))
    browser.execute_script("sessionStorage.clear()")  # what an earlier test filtered
    yield page
    browser.get_log("browser")


@pytest.fixture
def desk(page):
    """The Desk of the demo's teacher."""
    page.open("/")
    page.wait(lambda: page.all("tr[data-take]"))
    return page


def _flac(samples, rate=48_000) -> bytes:
    out = io.BytesIO()
    soundfile.write(out, samples, rate, format="FLAC", subtype="PCM_16")
    return out.getvalue()


@pytest.fixture(scope="session")
def recordings(tmp_path_factory) -> dict[str, Path]:
    """Files a teacher might drop: a take with known bends, and several that cannot be measured."""
    folder = tmp_path_factory.mktemp("recordings")
    drill = fretted_then_bend(title="t", string=3, fret=7, repeats=4, bpm=66)
    faults = Faults(notes={f"bend@{r}": NoteFault(cents=c) for r, c in enumerate(BEND_CENTS)})
    sound, _truth = render(drill, faults)
    other, _truth = render(fretted_then_bend(title="t", string=1, fret=12, repeats=2), Faults())
    files = {
        "take.flac": _flac(sound),
        "long.flac": _flac(np.tile(sound, 8)),
        "other.flac": _flac(other),
        "silent.flac": _flac(np.zeros(48_000)),
        "cut.flac": _flac(sound)[:60_000],
        "letter.wav": b"Dear Ines, the dog ate my recording.",
        "empty.wav": b"",
    }
    for name, content in files.items():
        (folder / name).write_bytes(content)
    return {name: folder / name for name in files}

"""Pictures of the main views for the README, from the demo of a running application.

./run python -m tests.browser.pictures [URL]
"""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

import mido
from selenium.webdriver.common.keys import Keys

from tests.browser.chromium import chromium, picture
from tests.browser.pages import Pages

FOLDER = Path(__file__).parents[2] / "docs" / "screenshots"


WRITTEN = "String 2: full bend at fret 8, struck again"
RIFF = (
    (57, 1.0),
    (60, 0.5),
    (62, 0.5),
    (64, 1.0),
    (67, 1 / 3),
    (69, 1 / 3),
    (67, 1 / 3),
    (64, 2.0),
    (62, 1.0),
    (57, 1.0),
)


def slipway_riff() -> mido.MidiFile:
    """A lick of our own, as another program would write it: without a tempo, without places."""
    track = mido.MidiTrack([mido.MetaMessage("track_name", name="Slipway riff")])
    for number, beats in RIFF:
        track += [
            mido.Message("note_on", note=number, velocity=90),
            mido.Message("note_off", note=number, time=round(480 * beats)),
        ]
    return mido.MidiFile(ticks_per_beat=480, tracks=[track])


def main(url: str) -> None:
    """Take them all, 1280 x 800."""
    with chromium() as driver, tempfile.TemporaryDirectory() as folder:
        page = Pages(driver, url)
        page.open("/")
        page.one("input[name=email]")
        page.sign_in("teacher@quayside.example", "harbour-light-evening")
        page.wait(lambda: len(page.all("tr[data-state=measured]")) >= 37, 180)
        picture(driver, FOLDER / "desk.png")
        takes = page.fetch("/api/v1/takes")
        shown = next(t for t in takes if t["student"] == "Oda Vintersee" and t["headline"] == "Bends stop short")
        page.open(f"/takes/{shown['id']}")
        page.sheet()
        page.wait(lambda: page.button("Play note").is_enabled())
        picture(driver, FOLDER / "sheet.png")
        page.one("[data-testid=otherwise] summary").click()
        label = next(f for f in page.all("[data-testid=otherwise] label") if f.text == "Bends")
        driver.find_element("id", label.get_attribute("for")).send_keys("38")
        page.button("Show the effect").click()
        page.one("[data-testid=trial-counts]", 40)
        driver.execute_script("window.scrollTo(0, 0)")
        picture(driver, FOLDER / "trial.png")
        page.button("Leave it as it was").click()
        page.open(f"/compare/{shown['id']}")
        page.one("[data-testid=pair-strips] svg")
        picture(driver, FOLDER / "compare.png")
        picked = next(t for t in takes if t["family"] == "alternate_picking" and t["student"] == "Jory Tamsin")
        page.open(f"/takes/{picked['id']}")
        page.sheet()
        page.wait(lambda: page.button("Play note").is_enabled())
        page.one("[aria-label='Use the dark theme']").click()
        picture(driver, FOLDER / "sheet-dark.png")
        page.one("[aria-label='Use the light theme']").click()
        quiet = next(t for t in takes if t["family"] == "low_string_muting")
        page.open(f"/takes/{quiet['id']}")
        page.sheet()
        page.wait(lambda: page.button("Play note").is_enabled())
        picture(driver, FOLDER / "quiet.png")
        check = next(t for t in takes if t["student"] == "Pell Harroway" and t["family"] == "set_up")
        for name, path, ready in (
            ("set-up", f"/takes/{check['id']}", "[data-testid=notes]"),
            ("guitar", f"/guitars/{check['guitar_id']}", "[data-testid=set-up]"),
            ("student", f"/students/{shown['student_id']}", "main li"),
            ("bench", "/bench/push", "[data-output]"),
            ("targets", "/bench/targets", "[data-testid=target]"),
            ("make-drill", "/drills/new/legato_cycle", "[data-testid=made] svg"),
        ):
            page.open(path)
            page.wait(lambda ready=ready: page.all(ready))
            picture(driver, FOLDER / f"{name}.png")
        wanted = next(d for d in page.fetch("/api/v1/drills") if d["title"] == WRITTEN)
        page.open(f"/drills/{wanted['id']}/write")
        page.one("[data-testid=edit-sheet]").send_keys(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT)
        page.wait(lambda: page.all("[data-testid=event-panel]"))
        picture(driver, FOLDER / "write.png")
        score = Path(folder) / "slipway riff.mid"
        slipway_riff().save(str(score))
        page.open("/drills")
        page.one("input[aria-label='Drill file']").send_keys(str(score))
        page.wait(lambda: page.all("[data-testid=proposed]"), 40)
        picture(driver, FOLDER / "import.png")
        page.button("Throw away").click()
        page.open(f"/record/{shown['drill_id']}")
        page.one("[data-testid=input-check]")
        page.choose("Who plays", "Pell Harroway")
        page.choose("Input", "Simulated sound card (invented sound)")
        page.button("Open the input").click()
        page.button("Measure it").click()
        page.wait(lambda: "Round trip 4" in page.text("[data-testid=latency]"), 30)
        picture(driver, FOLDER / "record.png")
        page.press("r")
        page.wait(lambda: "repeat 1" in page.one("[data-testid=recorder]").get_attribute("textContent"), 20)
        picture(driver, FOLDER / "record-playing.png")
        page.press(" ")
        page.wait(lambda: page.button("Discard this take").is_enabled(), 40)
        page.button("Discard this take").click()
        page.wait(lambda: page.all("[data-testid=input-check]"))
        page.open("/bench/ear")
        page.wait(lambda: page.button("Begin").is_enabled())
        page.button("Begin").click()
        page.wait(lambda: page.all("[data-answered]"))
        picture(driver, FOLDER / "ear.png")
        page.open("/drills")
        page.wait(lambda: page.all("main li"))
        picture(driver, FOLDER / "drills.png")
        page.open(f"/drills/{shown['drill_id']}")
        page.wait(lambda: page.all("main svg"))
        picture(driver, FOLDER / "drill.png")


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8420")

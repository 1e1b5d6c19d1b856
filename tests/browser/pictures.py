"""Pictures of the main views for the README, from the demo of a running application.

./run python -m tests.browser.pictures [URL]
"""

from __future__ import annotations

import io
import sys
import time
from pathlib import Path

from PIL import Image
from selenium.webdriver.common.keys import Keys

from tests.browser.chromium import chromium, picture
from tests.browser.pages import Pages

FOLDER = Path(__file__).parents[2] / "docs" / "screenshots"


WRITTEN = "String 2: full bend at fret 8, struck again"


def shot(page: Pages, name: str) -> None:
    """A picture of a page to which nothing comes any more: parts of it ask for what they show when they are there."""
    asked = "return performance.getEntriesByType('resource').length"
    before = -1
    while before != (before := page.driver.execute_script(asked)):
        page.wait(lambda: not any(p.text.startswith("Loading") for p in page.all("main [role=status]")))
        page.drawn()
        time.sleep(0.5)
    picture(page.driver, FOLDER / f"{name}.png")


# Six families side by side in one picture.
CARDS = ("mute_check", "long_note_noise", "bottleneck", "sweep", "finger_pairs", "muted_double_stops")


def cards(page: Pages) -> None:
    """The cards of six families, at half their size, in one picture."""
    drills = page.fetch("/api/v1/drills")
    whole = Image.new("RGB", (1920, 800))
    for number, family in enumerate(CARDS):
        page.open(f"/drills/{next(d['id'] for d in drills if d['family'] == family)}")
        page.wait(lambda: page.all("[data-testid=card] [data-testid=neck]"))
        page.driver.execute_script("document.querySelector('[data-testid=card]').scrollIntoView()")
        page.drawn()
        one = Image.open(io.BytesIO(page.driver.get_screenshot_as_png())).convert("RGB").resize((640, 400))
        whole.paste(one, (640 * (number % 3), 400 * (number // 3)))
    whole.save(FOLDER / "cards.png", optimize=True)


def main(url: str) -> None:
    """Take them all, 1280 x 800; a student's day as a telephone shows it."""
    with chromium() as driver:
        page = Pages(driver, url)
        page.open("/")
        page.one("input[name=email]")
        page.sign_in("teacher@quayside.example", "harbour-light-evening")
        page.wait(lambda: len(page.all("tr[data-state=measured]")) >= 39)
        # Each row's notes, and its drill's first bar.
        page.wait(lambda: len(page.all("tr[data-take] svg")) >= 2 * 39)
        shot(page, "desk")
        takes = page.fetch("/api/v1/takes")
        shown = next(
            t
            for t in takes
            if t["student"] == "Oda Vintersee"
            and t["headline"] == "Bends stop short"
            and t["drill"].startswith("String 3")
        )
        page.open(f"/takes/{shown['id']}")
        page.sheet()
        page.wait(lambda: page.button("Alone").is_enabled())
        shot(page, "sheet")
        page.open(f"/compare/{shown['id']}")
        page.one("[data-testid=pair-strips] svg")
        shot(page, "compare")
        quiet = next(t for t in takes if t["family"] == "low_string_muting")
        page.open(f"/takes/{quiet['id']}")
        page.sheet()
        page.wait(lambda: page.button("Alone").is_enabled())
        shot(page, "quiet")
        check = next(t for t in takes if t["student"] == "Pell Harroway" and t["family"] == "set_up")
        for name, path, ready in (
            ("set-up", f"/takes/{check['id']}", "[data-testid=notes]"),
            ("students", "/students", "[data-testid=students] tbody button"),
            ("student", f"/students/{shown['student_id']}", "main li"),
            ("bench", "/bench/push", "[data-output]"),
            ("plan", f"/students/{shown['student_id']}/plan", "[data-testid=week]"),
            ("progress", f"/students/{shown['student_id']}/progress/{shown['drill_id']}", "figure"),
            ("logbook", f"/students/{shown['student_id']}/log", "[data-testid=logbook]"),
            ("studio", "/studio", "[data-testid=colleagues]"),
            ("make-drill", "/drills/new/legato_cycle", "[data-testid=made] svg"),
        ):
            page.open(path)
            page.wait(lambda ready=ready: page.all(ready))
            shot(page, name)
        wanted = next(d for d in page.fetch("/api/v1/drills") if d["title"] == WRITTEN)
        page.open(f"/drills/{wanted['id']}/write")
        page.one("[data-testid=edit-sheet]").send_keys(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT)
        page.wait(lambda: page.all("[data-testid=event-panel]"))
        shot(page, "write")
        page.open(f"/record/{shown['drill_id']}")
        page.one("[data-testid=input-check]")
        page.choose("Who plays", "Pell Harroway")
        page.choose("Input", "Simulated sound card (invented sound)")
        page.button("Open the input").click()
        page.button("Measure it").click()
        page.wait(lambda: "Round trip 4" in page.text("[data-testid=latency]"))
        shot(page, "record")
        cards(page)
        page.open("/drills")
        page.wait(lambda: page.all("main details summary"))[2].click()
        shot(page, "drills")
        page.open(f"/students/{shown['student_id']}/sheets")
        page.button("Make a lesson sheet").click()
        page.one("[data-testid=sheet-page]")
        time.sleep(1.5)  # the page inside the page
        shot(page, "lesson-sheet")
    with chromium(width=390, height=844) as driver:
        page = Pages(driver, url)
        page.open("/")
        page.one("input[name=email]")
        page.sign_in("oda@quayside.example", "harbour-light-evening")
        page.one("[data-testid=today]")
        shot(page, "today")


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8420")

"""Pictures of the main views for the README, from the demo of a running application.

./run python -m tests.browser.pictures [URL]
"""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

import numpy as np
import soundfile

from tests.browser.chromium import chromium, picture
from tests.browser.pages import Pages

FOLDER = Path(__file__).parents[2] / "docs" / "screenshots"
DRILL = "String 3: full bend at fret 7"


def main(url: str) -> None:
    """Take them all, 1280 x 800."""
    with chromium() as driver, tempfile.TemporaryDirectory() as folder:
        silent = Path(folder) / "kitchen table.flac"
        soundfile.write(silent, np.zeros(96_000), 48_000)
        page = Pages(driver, url)
        page.open("/")
        page.one("input[name=email]")
        picture(driver, FOLDER / "sign-in.png")
        page.sign_in("teacher@quayside.example", "harbour-light-evening")
        page.wait(lambda: len(page.all("tr[data-state=measured]")) >= 12, 60)
        picture(driver, FOLDER / "desk.png")
        takes = page.fetch("/api/v1/takes")
        shown = next(
            t
            for t in takes
            if t["student"] == "Pell Harroway" and t["family"] != "set_up" and t["summary"]["not_clean"]
        )
        page.open(f"/takes/{shown['id']}")
        page.sheet()
        page.wait(lambda: page.button("Play note").is_enabled())
        picture(driver, FOLDER / "sheet.png")
        page.one("[aria-label='Use the dark theme']").click()
        picture(driver, FOLDER / "sheet-dark.png")
        page.one("[aria-label='Use the light theme']").click()
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
        page.open("/")
        page.wait(lambda: page.all("tr[data-take]"))
        page.hand_over(silent)
        page.choose("Who plays", "Mirren Salk")
        page.choose("Which drill", DRILL)
        picture(driver, FOLDER / "upload.png")
        page.button("Measure it").click()
        page.wait(lambda: page.all("[data-testid=not-measured]"), 40)
        picture(driver, FOLDER / "refused.png")
        page.button("Delete").click()
        page.button("Delete for good").click()
        page.wait(lambda: page.all("tr[data-take]"))


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8420")

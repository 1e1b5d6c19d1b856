"""What the tests of people and of the week share."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

from tests.browser.running import ROOT

PASSWORD = "a lamp over the slipway"


def add_teacher(data: Path, email: str, name: str) -> None:
    """A studio with its first teacher, beside the running application."""
    subprocess.run(
        [sys.executable, str(ROOT / "run"), "manage", "--data", str(data), "create_teacher", "--email", email,
         "--name", name, "--studio", f"Studio of {name}", "--password-stdin"],
        input=PASSWORD + "\n", text=True, check=True, capture_output=True,
    )  # fmt: skip


def field(page, label):
    """The control that a label names."""
    found = page.wait(lambda: next((f for f in page.all("label") if f.text.startswith(label)), None))
    target = found.get_attribute("for")
    control = (
        page.driver.find_element("id", target) if target else found.find_element("css selector", "input, textarea")
    )
    return page.uncovered(control)


def narrow(page):
    """Nothing is wider than a telephone."""
    assert page.driver.execute_script("return document.documentElement.scrollWidth") <= 390

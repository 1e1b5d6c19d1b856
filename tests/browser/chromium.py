"""Headless Chromium the way the tests and the pictures use it."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

from selenium.webdriver import Chrome
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.remote.webelement import WebElement

# Chromium's engine without windows, tabs and menus: a half of the work around a page, a sixth of a start.
BINARY = "/usr/lib/chromium/chromium-headless-shell"
SWITCHES = (
    "--no-sandbox", "--disable-dev-shm-usage", "--disable-gpu", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync", "--hide-scrollbars",
    "--autoplay-policy=no-user-gesture-required", "--force-color-profile=srgb", "--lang=en-GB",
)  # fmt: skip

SHOWN = "return arguments[0].checkVisibility({ opacityProperty: true, visibilityProperty: true })"
TEXT = (
    SHOWN
    + """ ? arguments[0].innerText.replace(/[\\t\\u00a0]/g, " ").split("\\n").map((line) => line.trim())
  .filter(Boolean).join("\\n") : "" """
)


class Element(WebElement):
    """An element whose text and visibility the browser itself tells. What the driver would ask instead walks through
    the page by script, hundreds of times as long.
    """

    @property
    def text(self) -> str:
        return self.parent.execute_script(TEXT, self)

    def is_displayed(self) -> bool:
        return self.parent.execute_script(SHOWN, self)


class Browser(Chrome):
    """Chromium, with elements that answer quickly."""

    _web_element_cls = Element


@contextmanager
def chromium(*, width: int = 1280, height: int = 800, extra: Sequence[str] = ()) -> Iterator[Chrome]:
    """A browser with a fresh profile and a page of exactly width × height."""
    options = Options()
    options.binary_location = BINARY
    # By this name the driver knows that there is no window to ask for.
    options.set_capability("browserName", "chrome-headless-shell")
    with tempfile.TemporaryDirectory(prefix="fortimetra-chromium-", ignore_cleanup_errors=True) as profile:
        for switch in (*SWITCHES, f"--window-size={width},{height}", f"--user-data-dir={profile}", *extra):
            options.add_argument(switch)
        options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
        driver = Browser(options=options, service=Service("/usr/bin/chromedriver"))
        try:
            size(driver, width, height)
            driver.set_script_timeout(180)
            yield driver
        finally:
            driver.quit()


def size(driver: Chrome, width: int, height: int) -> None:
    """Make the page itself width × height; --window-size includes the frame."""
    driver.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride",
        {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False},
    )


def picture(driver: Chrome, path: Path) -> None:
    """A PNG of the page as it is seen."""
    path.parent.mkdir(parents=True, exist_ok=True)
    driver.save_screenshot(str(path))

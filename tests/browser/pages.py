"""What a person does in the page, in the page's own words."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from selenium.common.exceptions import NoSuchElementException, StaleElementReferenceException, TimeoutException
from selenium.webdriver import Chrome
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

# How long a state is waited for before it is said not to come. A busy machine takes its time; a test that passes
# never does.
PATIENCE_S = 180.0
DROP = """
const [name, base64] = arguments;
const bytes = Uint8Array.from(atob(base64), (c) => c.charCodeAt(0));
const transfer = new DataTransfer();
transfer.items.add(new File([bytes], name, { type: "audio/flac" }));
for (const kind of ["dragenter", "dragover", "drop"])
  document.body.dispatchEvent(new DragEvent(kind, { dataTransfer: transfer, bubbles: true, cancelable: true }));
"""
BUTTON = """
return [...document.querySelectorAll("button")].find((b) =>
  b.innerText.trim() === arguments[0] && b.checkVisibility({ opacityProperty: true, visibilityProperty: true }))
"""
FIELD = "return [...document.querySelectorAll('label')].find((l) => l.innerText.trim() === arguments[0])?.control"
HIGHLIGHTED = "return document.querySelector('[role=option][data-highlighted], [role=option][data-selected=true]')"
FOUND = """
const words = arguments[0].toLowerCase().split(" "), options = [...document.querySelectorAll("[role=option]")];
return options.every((o) => words.every((w) => o.innerText.toLowerCase().includes(w))) && options[0]
"""
SEND = (
    "const [method, path, body, done] = arguments;"
    "fetch(path, {method, body: JSON.stringify(body), headers: {'Content-Type': 'application/json',"
    "'X-CSRFToken': document.cookie.match(/csrftoken=([^;]+)/)[1]}}).then((r) => done(r.status))"
)
UNCOVER = """
const box = arguments[0].getBoundingClientRect();
const bar = document.querySelector("[data-testid=bar]")?.getBoundingClientRect();
if (bar && box.bottom > bar.top && !arguments[0].closest("[data-testid=bar]"))
  arguments[0].scrollIntoView({ block: "center" });
"""


class Pages:
    """A signed-in or not yet signed-in browser at one address."""

    def __init__(self, driver: Chrome, url: str) -> None:
        self.driver = driver
        self.url = url

    def open(self, path: str) -> None:
        self.driver.get(self.url + path)

    def wait(self, condition: Callable[[], Any]) -> Any:
        """Until the condition is true; its value. Asked often at first, then less: asking takes a share of the
        machine.
        """
        until, pause = time.monotonic() + PATIENCE_S, 0.03
        while True:
            try:
                if found := condition():
                    return found
            except (StaleElementReferenceException, NoSuchElementException, IndexError):
                pass
            if time.monotonic() > until:
                says = " / ".join(part.text for part in self.all("main"))
                raise TimeoutException(f"not within {PATIENCE_S:g} s, at {self.driver.current_url}: {says[:1500]}")
            time.sleep(pause)
            pause = min(1.0, pause * 1.3)

    def all(self, css: str) -> list[WebElement]:
        return self.driver.find_elements(By.CSS_SELECTOR, css)

    def one(self, css: str) -> WebElement:
        return self.wait(lambda: self.all(css)[0])

    def button(self, text: str) -> WebElement:
        return self.uncovered(self.wait(lambda: self.driver.execute_script(BUTTON, text)))

    def uncovered(self, found: WebElement) -> WebElement:
        """What lies under the bar of a phone is scrolled to, as a thumb would."""
        self.driver.execute_script(UNCOVER, found)
        return found

    def text(self, css: str) -> str:
        return self.one(css).text

    def press(self, *keys: str) -> None:
        ActionChains(self.driver).send_keys(*keys).perform()

    def sign_in(self, email: str, password: str) -> None:
        for name, value in (("email", email), ("password", password)):
            field = self.one(f"input[name={name}]")
            field.clear()
            field.send_keys(value)
        self.one("button[type=submit]").click()

    def enter(self, email: str, password: str = "harbour-light-evening") -> None:
        """The application's first page, signed in."""
        self.open("/")
        self.one("input[name=email]")
        self.sign_in(email, password)
        self.wait(lambda: self.all("nav"))

    def choose(self, label: str, value: str) -> None:
        """Pick from a select by keyboard alone."""
        # Its choices have to arrive; of many of them it becomes another field.
        trigger = self.wait(
            lambda: (found := self.driver.execute_script(FIELD, label)) and found.is_enabled() and found
        )
        trigger.send_keys(Keys.ENTER)
        self.wait(self.highlighted)
        # A long list is searched, and what its words find may be several; a short one is gone through from its top.
        pasted = value if self.all("[cmdk-input]") else ""
        if pasted:
            self.driver.execute_cdp_cmd("Input.insertText", {"text": pasted})
        else:
            self.press(Keys.HOME)
        first = self.wait(lambda: self.driver.execute_script(FOUND, pasted))
        here = self.wait(lambda: (found := self.highlighted()) == first and found)
        while here.text != value:
            before = here
            self.press(Keys.ARROW_DOWN)
            # Two may have one and the same name.
            here = self.wait(lambda before=before: (found := self.highlighted()) != before and found)
        self.press(Keys.ENTER)
        self.wait(lambda: trigger.text == value)

    def highlighted(self) -> WebElement | None:
        """The choice of an open select that Enter would take."""
        return self.driver.execute_script(HIGHLIGHTED)

    def hand_over(self, file: Path) -> None:
        """Give a file to the page as the file chooser would."""
        if not self.all("[data-testid=recording]"):
            self.open("/")
        self.one("[data-testid=recording]").send_keys(str(file))
        self.wait(lambda: file.name in self.text("[role=dialog]"))

    def add(self, file: Path, student: str, drill: str) -> None:
        """Upload a recording from the Desk."""
        self.hand_over(file)
        self.choose("Who plays", student)
        self.choose("Which drill", drill)
        self.button("Measure it").click()

    def sheet(self) -> None:
        """Wait for a take's sheet."""
        self.one("[data-testid=notes]")

    def sentence(self) -> str:
        """The alert that is shown."""
        return self.wait(lambda: self.all("[role=alert]")[0].text)

    def measured(self, wanted: Callable[[dict[str, Any]], bool] = lambda take: True) -> dict[str, Any]:
        """A measured take of the Desk, waiting for the worker if need be."""
        return self.wait(
            lambda: next((t for t in self.fetch("/api/v1/takes") if t["state"] == "measured" and wanted(t)), None)
        )

    def drawn(self) -> None:
        """Wait until the page has drawn what it has: two frames."""
        self.driver.execute_async_script(
            "const done = arguments[0]; requestAnimationFrame(() => requestAnimationFrame(() => done()))"
        )

    def answered(self, path: str) -> int:
        """How many requests to addresses that contain this have been answered since the page was opened."""
        asked = "return performance.getEntriesByType('resource').filter((e) => e.name.includes(arguments[0])).length"
        return self.driver.execute_script(asked, path)

    def fetch(self, path: str) -> Any:
        """JSON of an address of the API, as the signed-in person."""
        return self.driver.execute_async_script(
            "const done = arguments[1]; fetch(arguments[0]).then((r) => r.json()).then(done)", path
        )

    def send(self, method: str, path: str, body: Any) -> None:
        """Have the API do something, as the signed-in person."""
        status = self.driver.execute_async_script(SEND, method, path, body)
        assert status < 300, (path, status)

    def delete(self, path: str) -> None:
        """Delete what an address of the API names, as the signed-in person."""
        self.driver.execute_async_script(
            "const [path, done] = arguments; const csrf = document.cookie.match(/csrftoken=([^;]+)/)[1];"
            "fetch(path, {method: 'DELETE', headers: {'X-CSRFToken': csrf}}).then(() => done())",
            path,
        )

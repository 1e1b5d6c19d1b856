"""The class at a glance, the handbook under its key, recording first and naming later."""

from __future__ import annotations

import pytest
from selenium.webdriver.common.keys import Keys

from tests.browser.chromium import chromium
from tests.browser.conftest import DRILL
from tests.browser.pages import Pages
from tests.browser.test_recorder import fake_sound, microphone  # noqa: F401
from tests.browser.week import PASSWORD, add_teacher, field, narrow


def test_from_a_cell_of_the_class_to_a_takes_sheet(page):
    page.open("/students")
    row = page.wait(lambda: next(iter(page.all("tr[data-student='Oda Vintersee']")), None))
    cell = page.wait(
        lambda: next((b for b in row.find_elements("css selector", "button") if ", bend:" in b.accessible_name), None)
    )
    cell.click()
    page.one("[data-testid=behind] a")
    told = page.fetch("/api/v1/reports/class/takes?student_id=1&skill=bend")["takes"]
    assert [a.text for a in page.all("[data-testid=behind] a")] == [t["drill"] for t in told]
    page.all("[data-testid=behind] a")[0].click()
    page.sheet()
    assert told[0]["take_id"] in page.driver.current_url


def test_the_handbook_opens_at_the_chapter_of_the_page(page):
    page.open("/record")
    page.one("[type=search]")
    page.press(Keys.F1)
    page.one("[data-testid=handbook]")
    assert page.driver.current_url.endswith("/help#recording")
    page.wait(lambda: page.driver.switch_to.active_element.text == "How to record well")


def test_a_drill_page_says_who_plays_it(page):
    drill = next(d for d in page.fetch("/api/v1/drills") if d["title"] == "String 3: full bend at fret 7")
    page.open(f"/drills/{drill['id']}")
    page.wait(lambda: "Oda Vintersee" in page.text("[data-testid=drill-use]"))
    assert "clean up to 66 bpm" in page.text("[data-testid=drill-use]")


def test_a_take_on_a_phone_is_a_list_of_places_first(app, page):
    take = next(t for t in page.fetch("/api/v1/takes") if t["drill"].startswith("Stops: riff"))
    with chromium(width=390, height=844) as driver:
        phone = Pages(driver, app.url)
        phone.open("/")
        phone.one("input[name=email]")
        phone.sign_in("teacher@quayside.example", "harbour-light-evening")
        phone.wait(lambda: phone.all("nav"))
        phone.open(f"/takes/{take['id']}")
        phone.one("[data-testid=mend] li")
        assert "until it is silent" in phone.text("[data-testid=mend]")
        narrow(phone)
        phone.button("Show the full sheet").click()
        phone.one("[data-testid=strips]")
        narrow(phone)


MADE_AT = """
const done = arguments[0], asked = indexedDB.open('fortimetra-unnamed');
asked.onsuccess = () => {
  const all = asked.result.transaction('recordings').objectStore('recordings').getAll();
  all.onsuccess = () => done(all.result[0].madeAt);
};
"""


class Counted:
    """Presses of a person who does not know the page: buttons, choices, lines that are typed."""

    def __init__(self, page):
        self.page, self.presses = page, 0

    def press(self, text):
        self.presses += 1
        self.page.button(text).click()

    def type(self, label, text):
        self.presses += 1
        field(self.page, label).send_keys(text)

    def choose(self, label, value):
        self.presses += 2
        self.page.choose(label, value)


MOST_PRESSES = 16


def test_a_new_teacher_gets_from_an_empty_studio_to_a_judged_take(app, recordings):
    add_teacher(app.data, "first@harbour.example", "First evening")
    with chromium() as driver:
        page = Pages(driver, app.url)
        page.open("/")
        page.one("input[name=email]")
        page.sign_in("first@harbour.example", PASSWORD)
        page.one("[data-testid=first-steps]")
        hand = Counted(page)
        hand.press("Try it with a sample take")
        page.sheet()
        assert "Bends stop short" in page.text("[data-testid=causes]")
        page.open("/")
        hand.press("Remove the sample")
        page.one("[data-testid=first-steps]")
        page.open("/students")
        hand.type("New student", "Edda Quayle")
        hand.press("Add")
        hand.press("Enter consent")
        page.one("[role=dialog]")
        hand.press("Save")
        page.wait(lambda: not page.all("[data-testid=not-agreed]"))
        page.open("/")
        page.one("[data-testid=first-steps]")
        page.hand_over(recordings["take.flac"])
        hand.choose("Who plays", "Edda Quayle")
        hand.choose("Which drill", DRILL)
        hand.press("Measure it")
        page.sheet()
        hand.presses += 1
        page.press(Keys.ENTER)
        page.wait(lambda: page.fetch("/api/v1/takes/desk?show=judged")["total"] == 1)
        assert hand.presses <= MOST_PRESSES


@pytest.mark.usefixtures("app")
def test_a_recording_is_made_first_and_named_later(app, fake_sound):  # noqa: F811
    with microphone(app, fake_sound) as page:
        page.open("/record/free")
        page.one("[data-testid=input-check]")
        page.button("Open the input").click()
        page.wait(lambda: page.one("[data-testid=recorder]").get_attribute("data-stage") == "check")
        page.press("r")
        page.wait(lambda: page.text("[data-testid=elapsed]") >= "0:03")
        page.press(" ")
        page.wait(lambda: page.all("[data-testid=unnamed] li"))
        made = page.driver.execute_async_script(MADE_AT)
        # It is safe in this browser: the page may be closed.
        page.open("/record")
        page.wait(lambda: page.all("[data-testid=unnamed] li"))
        page.button("Say what it is").click()
        page.one("[data-testid=one-of-many]")
        page.choose("Who plays", "Oda Vintersee")
        page.choose("Which drill", "String 3: full bend at fret 7")
        page.button("Measure it").click()
        page.wait(lambda: page.one("[data-testid=one-of-many]").get_attribute("data-state") == "sent")
        page.button("Done").click()
        page.wait(lambda: not page.all("[data-testid=unnamed]"))
        take = next(t for t in page.fetch("/api/v1/takes") if t["original_name"].startswith("take "))
        # It says when it was played, not when it was named, and how it was recorded.
        assert take["played_at"].replace("Z", "+00:00")[:19] == made[:19]
        assert take["capture"]["sample_rate_hz"] == 44_100

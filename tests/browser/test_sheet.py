"""The sheet: from cause to note to sound, from the whole take to one cycle, and on paper."""

from __future__ import annotations

from itertools import pairwise

from selenium.webdriver.common.keys import Keys

from tests.browser.chromium import chromium
from tests.browser.pages import Pages
from tests.browser.sheets import opened, selected, short, unfolded

NO_OUTPUT = """
Object.defineProperty(AudioContext.prototype, 'currentTime', { get: () => 0 });
"""


def test_causes_lead_to_their_notes(page):
    take = opened(page, wanted=short)
    causes = page.fetch(f"/api/v1/takes/{take['id']}/analysis")["analysis"]["causes"]
    unfolded(page)
    shown = page.all("[data-cause]")
    assert [c.get_attribute("data-cause") for c in shown] == [c["code"] for c in causes]
    assert causes[0]["evidence"] in shown[0].text
    assert causes[0]["tries"][0] in shown[0].text
    places = [f"{p['id']}@{p['repeat']}" for p in causes[0]["places"]]
    seen = set()
    for _ in places:
        page.press("1")
        page.wait(lambda: selected(page) in places)
        seen.add(selected(page))
    assert seen == set(places)
    assert "Bends stop short" in page.text("[data-testid=note-cause]")


def test_from_the_whole_take_to_one_cycle(page):
    take = opened(page, "vibrato_fretted", "Mirren Salk", lambda t: True)
    strips = page.one("[data-testid=strips]")
    page.press("0")
    page.wait(
        lambda: page.driver.execute_script("return arguments[0].scrollWidth <= arguments[0].clientWidth + 30", strips)
    )
    assert len(page.all("[data-tile]")) <= 3
    page.press("z")
    page.wait(
        lambda: page.driver.execute_script("return arguments[0].scrollWidth > 2 * arguments[0].clientWidth", strips)
    )
    for _ in range(12):
        page.press("+")
    # A cycle of 5 Hz fills most of the strips, and no more tiles are drawn than are seen.
    seconds = page.fetch(f"/api/v1/takes/{take['id']}/analysis")["analysis"]["take"]["duration_s"]
    px_per_s = page.wait(
        lambda: (w := page.driver.execute_script("return arguments[0].scrollWidth", strips) / seconds) > 4000 and w
    )
    assert px_per_s / 5 > 700
    assert len(page.all("[data-tile]")) <= 5
    page.press("v")
    stacked = page.one("[data-testid=stacked]")
    repeats = {n["repeat"] for n in page.fetch(f"/api/v1/takes/{take['id']}/analysis")["analysis"]["notes"]}
    assert len(stacked.find_elements("css selector", "[data-repeat]")) == len(repeats)
    page.press(Keys.ARROW_DOWN)
    assert page.all("[data-testid=stacked]")


def test_who_zooms_elsewhere_stays_there(page):
    opened(page, "legato_cycle", "Oda Vintersee", lambda t: True)
    strips = page.one("[data-testid=strips]")
    page.press("+", "+")
    page.driver.execute_script("arguments[0].scrollLeft = arguments[0].scrollWidth", strips)
    wide = page.driver.execute_script("return arguments[0].scrollWidth", strips)
    page.press("+")
    page.wait(lambda: page.driver.execute_script("return arguments[0].scrollWidth", strips) > 1.2 * wide)
    assert page.driver.execute_script("return arguments[0].scrollLeft / arguments[0].scrollWidth", strips) > 0.6
    # Another note brings the strips to it.
    page.press(Keys.ARROW_RIGHT)
    page.wait(
        lambda: page.driver.execute_script("return arguments[0].scrollLeft / arguments[0].scrollWidth", strips) < 0.3
    )


def test_scrolling_draws_what_comes_into_sight_and_how_soon_a_key_sounds_is_kept(page):
    # How quick both are is a figure of ./run bench pages.
    opened(page, "legato_cycle", "Oda Vintersee", lambda t: True)
    for _ in range(4):
        page.press("+")
    page.wait(lambda: page.button("Alone").is_enabled())
    strips = page.one("[data-testid=strips]")
    first = page.one("[data-tile]").get_attribute("data-tile")
    page.driver.execute_script("arguments[0].scrollLeft = arguments[0].scrollWidth", strips)
    page.wait(lambda: first not in [t.get_attribute("data-tile") for t in page.all("[data-tile]")])
    page.press("l")
    page.press("p")
    page.wait(lambda: page.button("Alone").get_attribute("aria-pressed") == "true")
    page.press("p")
    assert page.driver.execute_script("return performance.getEntriesByName('key-to-sound').length") == 1


def test_every_way_of_listening(page):
    def line():
        place = page.one(".bg-focus").get_attribute("style").partition("translateX(")[2]
        return float(place.partition("px")[0] or 0.0)

    opened(page, wanted=short)
    page.wait(lambda: page.button("Alone").is_enabled())
    page.press("l")
    page.press("c")
    for key, name in ((Keys.SPACE, "Context"), ("f", "In tune"), ("g", "Repeat 3"), ("b", "Both")):
        page.press(key)
        button = page.button(name)
        page.wait(lambda button=button: button.get_attribute("aria-pressed") == "true")
        # It goes round for as long as it is wanted; the place in the take is shown.
        page.wait(lambda: page.all(".bg-focus") and page.all(".bg-focus")[0].get_attribute("hidden") is None)
        page.press(key)
        page.wait(lambda button=button: button.get_attribute("aria-pressed") == "false")
    page.press(",", ",", ",", ",")
    page.wait(lambda: page.button("25 %").get_attribute("aria-pressed") == "true")
    page.press("p")
    page.wait(lambda: page.button("Alone").get_attribute("aria-pressed") == "true")
    # It goes on at a quarter of the pace: the place in the take moves, and moves back to the note's beginning.
    seen = [line()]
    page.wait(lambda: seen.append(line()) or any(b < a for a, b in pairwise(seen)))
    assert page.button("Alone").get_attribute("aria-pressed") == "true"
    page.press("p")


def test_a_browser_without_sound_says_so_and_the_rest_works(app):
    with chromium() as driver:
        driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": NO_OUTPUT})
        page = Pages(driver, app.url)
        page.open("/")
        page.one("input[name=email]")
        page.sign_in("teacher@quayside.example", "harbour-light-evening")
        page.wait(lambda: page.all("tr[data-take]"))
        opened(page)
        page.wait(lambda: page.button("Alone").is_enabled())
        page.press("p")
        assert "no sound output" in page.sentence()
        first = selected(page)
        page.press(Keys.ARROW_RIGHT)
        page.wait(lambda: selected(page) != first)


def test_the_sheet_prints_with_its_table_and_without_controls(page):
    take = opened(page, wanted=short)
    page.driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"media": "print"})
    try:
        assert not page.one("[data-testid=minimap]").is_displayed()
        assert not page.one("[data-testid=judge]").is_displayed()
        assert page.one("[data-testid=notes]").is_displayed()
        assert page.one("[data-testid=causes]").is_displayed()
        assert len(page.all("tr[data-note]")) == take["summary"]["asked"]
    finally:
        page.driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"media": ""})

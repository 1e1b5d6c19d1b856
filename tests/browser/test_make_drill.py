"""A drill of every family is made in the page; what cannot be played is said; a kept one goes out and comes back."""

import json

import pytest
from selenium.webdriver.common.keys import Keys


def families(page):
    return page.fetch("/api/v1/drills/generators")


def type_over(page, name, text):
    field = page.one(f"input[name={name}]")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(text)


def test_every_figure_shows_its_tab_and_its_examples(page):
    page.open("/drills/new")
    listed = families(page)
    for group in dict.fromkeys(f["group"] for f in listed):
        family = next(f for f in listed if f["group"] == group)

        def named(title=family["title"], group=group):
            summaries = page.all("nav[aria-label=Figures] summary")
            summary = next((s for s in summaries if s.text.lower() == group), None)
            if summary is None:
                return None
            if summary.find_element("xpath", "..").get_attribute("open") is None:
                summary.click()
            return next((a for a in page.all("nav[aria-label=Figures] a") if a.text == title), None)

        page.wait(named).click()
        page.wait(lambda f=family: page.text("[data-testid=make] h1") == f["title"])
        example = page.wait(lambda: page.all("[aria-label='example 2']"))[0]
        example.click()
        page.wait(lambda: page.one("[aria-label='example 2']").get_attribute("aria-pressed") == "true")
        page.wait(lambda: page.all("[data-testid=made] svg text"))
        assert page.button("Keep this drill").is_enabled()
        assert not page.all("[data-level=error]")


def test_a_drill_is_made_kept_exported_and_imported_again(page, tmp_path):
    page.open("/drills/new/bend_ladder")
    page.wait(lambda: page.all("[data-testid=made] svg"))
    type_over(page, "fret", "9")
    type_over(page, "positions", "2")
    title = "Bend ladder: string 4, full, frets 9 to 10"
    page.wait(lambda: page.text("[data-testid=made] h2") == title)
    page.button("Keep this drill").click()
    page.wait(lambda: page.text("h1") == title)
    drill = page.driver.current_url.rsplit("/", 1)[1]
    content = page.fetch(f"/api/v1/drills/{drill}/file")
    file = tmp_path / "ladder.json"
    file.write_text(json.dumps(content))
    page.open("/drills")
    page.one("input[aria-label='Drill file']").send_keys(str(file))
    page.wait(lambda: page.text("h1") == title and not page.driver.current_url.endswith(f"/{drill}"))


@pytest.mark.parametrize(
    ("family", "field", "text", "says"),
    [
        ("bend_ladder", "fret", "99", "Fret: 99 is outside 1 to 21"),
        ("slur_vs_pick", "frets", "five", "write numbers from 0 to 24"),
    ],
)
def test_a_form_that_means_nothing_says_so_and_keeps_nothing(page, family, field, text, says):
    page.open(f"/drills/new/{family}")
    page.wait(lambda: page.all("[data-testid=made] svg"))
    type_over(page, field, text)
    page.wait(lambda: any(says in a.text for a in page.all("[role=alert]")))
    assert not page.button("Keep this drill").is_enabled()


def test_a_bend_too_far_for_a_guitar_is_warned_about(page):
    guitar = next(g for g in page.fetch("/api/v1/guitars") if g["kind"] == "steel_acoustic")
    page.open(f"/drills/new/prebend?guitar={guitar['id']}")
    page.wait(lambda: "comfortable limit" in page.text("[data-level=warning]"))
    assert page.button("Keep this drill").is_enabled()


def test_the_library_is_searched_and_a_drill_is_copied_and_put_away(page):
    page.open("/drills")
    page.wait(lambda: page.all("main li"))
    search = page.one("input[type=search]")
    search.send_keys("fret 8, struck again")
    page.wait(lambda: len(page.all("main li")) == 1)
    title = page.text("main li a")
    page.one("main li a").click()
    page.button("Make a copy").click()
    page.wait(lambda: page.text("h1") == f"{title}, copy")
    page.button("Archive").click()
    page.wait(lambda: page.button("Restore"))
    page.open("/drills")
    page.wait(lambda: page.all("main li"))
    titles = [a.get_attribute("textContent") for a in page.all("main li a")]
    assert title in titles
    assert f"{title}, copy" not in titles
    page.one("input[type=checkbox]").click()
    page.wait(lambda: [a.text for a in page.all("main li a")] == [f"{title}, copy"])

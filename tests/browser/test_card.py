"""The drill card in the page: read, heard, written differently, drawn for the left hand, folded beside a take."""

from __future__ import annotations

from tests.browser.conftest import DRILL
from tests.browser.sheets import unfolded


def the_drill(page, title=DRILL):
    return next(d for d in page.fetch("/api/v1/drills") if d["title"] == title)


def card_of(page, drill):
    page.open(f"/drills/{drill['id']}")
    page.wait(lambda: page.all("[data-testid=card] [data-testid=neck]"))


def test_a_card_says_who_keeps_which_string_quiet_and_draws_it(page):
    card_of(page, the_drill(page))
    assert "Who keeps the strings quiet" in page.text("[data-testid=shapes]")
    words = page.one("[data-testid=neck]").get_attribute("aria-label")
    assert "on string 3, fret" in words
    assert "side of the picking hand's thumb" in words
    assert "Clean means" in page.text("[data-testid=card]")


def test_a_usual_fault_is_heard_from_the_card(page):
    card_of(page, the_drill(page))
    page.wait(lambda: [b for b in page.all("button") if b.text == "Hear it"])[0].click()
    page.wait(lambda: page.one("[data-testid=listen]").get_attribute("data-state") == "playing")
    next(b for b in page.all("[data-testid=wrong] button") if b.text == "Stop").click()
    page.wait(lambda: page.one("[data-testid=listen]").get_attribute("data-state") == "still")


def test_a_teacher_says_it_differently_and_takes_it_back(page):
    drill = the_drill(page)
    card_of(page, drill)
    page.button("Change the text").click()
    page.one("[aria-label='Change: How to practise']").click()
    field = page.one("[data-section=practise] textarea")
    field.clear()
    field.send_keys("Twice before breakfast.")
    page.button("Save").click()
    # What is written stands in the field before it is saved, too.
    page.wait(lambda: "your studio’s words" in page.text("[data-section=practise]"))
    assert "Twice before breakfast." in page.text("[data-section=practise]")
    page.one("[aria-label='Change: How to practise']").click()
    page.button("Back to the standard text").click()
    # A field's text is no text of the page: what the server holds says when it is done.
    page.wait(lambda: all(s["own"] is None for s in page.fetch(f"/api/v1/drills/{drill['id']}/card")["sections"]))
    page.wait(lambda: not page.all("[data-section=practise] textarea"))
    assert "Twice before breakfast." not in page.text("[data-section=practise]")


def test_the_neck_is_drawn_for_the_left_hand_and_stays_so(page):
    drill = the_drill(page)
    card_of(page, drill)
    at = lambda: float(page.one("[data-testid=neck] ellipse").get_attribute("cx"))  # noqa: E731
    right = at()
    page.wait(lambda: [x for x in page.all("label") if "left hand" in x.text])[0].click()
    page.wait(lambda: at() != right)
    left = at()
    assert abs(left + right - 300) < 1
    page.driver.refresh()
    page.wait(lambda: page.all("[data-testid=neck] ellipse"))
    assert at() == left
    page.driver.execute_script("localStorage.removeItem('fortimetra.left-handed')")


def test_the_card_is_folded_beside_a_take_that_is_to_be_recorded(page):
    page.open(f"/record/{the_drill(page)['id']}")
    page.wait(lambda: page.all("[data-testid=card-in-short] summary"))[0].click()
    page.wait(lambda: "Who keeps the strings quiet" in page.text("[data-testid=card-in-short]"))
    assert page.all("[data-testid=card-in-short] [data-testid=neck]")


def test_what_comes_first_leads_to_it(page):
    drill = next(d for d in page.fetch("/api/v1/drills") if d["title"] == "String 2: full bend at fret 13")
    page.open(f"/drills/{drill['id']}")
    first = page.wait(lambda: [a for a in page.all("main a") if a.text.startswith("First: ")])[0]
    title = first.text.removeprefix("First: ")
    first.click()
    page.wait(lambda: page.text("h1") == title)


def test_a_ringing_take_names_the_damper_and_shows_the_hands(page):
    take = page.measured(lambda t: t["headline"] == "High strings ring")
    page.open(f"/takes/{take['id']}")
    page.sheet()
    unfolded(page)
    cause = page.wait(lambda: page.all("[data-testid=damper]"))[0]
    assert "the job of the flat first finger" in cause.text
    page.wait(lambda: [x for x in page.all("summary") if x.text == "Show the hands there"])[0].click()
    page.wait(lambda: page.all("[data-testid=causes] [data-testid=neck]"))

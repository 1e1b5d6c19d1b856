"""The library in the page: sets, partners, deleting, likeness, the figure for a fault, a course begun."""

from __future__ import annotations

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

SET = "/drills/new/alternate_picking?figure=1+3+4&strings=one&groups=2&set-field=position&set-values=5-7"


def type_over(page, label, text):
    field = page.wait(lambda: page.driver.find_elements(By.XPATH, f"//label[text()='{label}']/..//input"))[0]
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(text)


def kept(page):
    page.wait(lambda: "/drills/new" not in page.driver.current_url and page.all("[data-testid=tab]"))
    return int(page.driver.current_url.rsplit("/", 1)[1])


def test_a_set_is_made_of_values_and_kept_as_one_drill(page):
    page.open(SET)
    page.wait(lambda: "3 drills in this set" in page.text("[data-testid=members]"))
    type_over(page, "through, as 5-12 or A, C, D", "5-8")
    page.wait(lambda: "4 drills in this set" in page.text("[data-testid=members]"))
    page.button("Keep this set").click()
    drill = page.fetch(f"/api/v1/drills/{kept(page)}")
    assert [m["title"] for m in drill["content"]["members"]] == [f"position {n}" for n in (5, 6, 7, 8)]
    page.delete(f"/api/v1/drills/{drill['id']}")


@pytest.mark.parametrize(("values", "says"), [("5", "at least two"), ("1-99", "at most 60"), ("20, 21", "position 20")])
def test_a_set_that_cannot_be_says_so(page, values, says):
    page.open(SET)
    page.wait(lambda: page.all("[data-testid=members]"))
    type_over(page, "through, as 5-12 or A, C, D", values)
    page.wait(lambda: any(says in a.text for a in page.all("[role=alert]")))
    assert not page.button("Keep this set").is_enabled()


def test_a_figure_is_kept_with_the_other_way_and_both_are_deleted(page):
    page.open("/drills/new/picking_scale?key=F&position=1&strings=6+5+4")
    page.wait(lambda: page.all("[data-testid=made] svg text"))
    page.wait(lambda: [x for x in page.all("label") if "the other way" in x.text])[0].click()
    page.button("Keep this drill").click()
    up = page.fetch(f"/api/v1/drills/{kept(page)}")
    page.wait(lambda: [a for a in page.all("main a") if a.text.startswith("The other way")])[0].click()
    page.wait(lambda: page.text("h1") == up["partner"]["title"])
    for drill in (up["partner"]["id"], up["id"]):
        page.open(f"/drills/{drill}")
        page.button("Delete").click()
        page.button("Delete it for good").click()
        page.wait(lambda: page.driver.current_url.endswith("/drills"))
        assert not [d for d in page.fetch("/api/v1/drills") if d["id"] == drill]


def test_a_drill_that_was_played_is_not_deleted(page):
    take = page.measured()
    page.open(f"/drills/{take['drill_id']}")
    page.button("Delete").click()
    page.button("Delete it for good").click()
    page.wait(lambda: "archive it instead" in page.sentence())


def test_drills_are_found_like_another_and_for_a_fault(page):
    rows = page.fetch("/api/v1/drills")
    model = next(d for d in rows if d["title"].startswith("Sweep, 3 strings, up"))
    page.open(f"/drills/{model['id']}")
    page.wait(lambda: [a for a in page.all("main a") if a.text.startswith("Like this")])[0].click()
    page.wait(lambda: "Like" in page.text("[data-testid=special]"))
    assert {r["form"] for r in rows if r["title"] in [a.text for a in page.all("main li a")]} == {"sweep"}
    page.open("/drills?for=bend_flat&says=Bends+stay+flat")
    page.wait(lambda: "Bends stay flat" in page.text("[data-testid=special]") and page.all("main li"))
    assert all("end" in a.text for a in page.all("main li a"))


def test_the_library_stands_in_groups_and_opens_what_is_looked_for(page):
    page.open("/drills")
    groups = page.wait(lambda: page.all("[data-testid=group]"))
    assert all(g.get_attribute("open") is None for g in groups)
    page.choose("Needs", "a slide")
    page.wait(lambda: [a.text for a in page.all("main li a")])
    assert all("ottleneck" in a.text for a in page.all("main li a"))


def test_a_course_is_begun_without_what_is_left_out(page):
    student = next(s for s in page.fetch("/api/v1/students") if s["name"].startswith("Mirren"))
    page.open(f"/students/{student['id']}/plan")
    page.button("Begin a course").click()
    page.choose("Course", "Two weeks of bends in tune")
    rows = page.wait(lambda: page.all("[data-testid=parts] label"))
    title = rows[0].text
    rows[0].click()
    page.button("Begin it").click()
    page.wait(lambda: not page.all("[role=dialog]"))
    works_on = page.fetch(f"/api/v1/plans/assignments?student_id={student['id']}")
    begun = [a for a in works_on if a["note"].startswith("Two weeks of bends")]
    assert len(begun) == 5
    assert title not in [a["drill"] for a in begun]

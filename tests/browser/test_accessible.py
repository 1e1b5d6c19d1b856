"""axe-core finds nothing serious on any page, in either theme, and pages are reachable by keyboard."""

from __future__ import annotations

from pathlib import Path

import pytest
from fortimetra.drills.fretted_then_bend import fretted_then_bend
from fortimetra.formats.midi import drill_to_midi
from selenium.webdriver.common.keys import Keys

from tests.browser.chromium import chromium
from tests.browser.conftest import DRILL
from tests.browser.pages import Pages

AXE = (Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js").read_text()
RUN = (
    "const [rules, done] = arguments; const only = rules.length ? {runOnly: rules} : {};"
    "axe.run(document, {resultTypes: ['violations'], ...only}).then((r) => done(r.violations), "
    "(e) => done([{id: String(e), impact: 'critical', nodes: []}]))"
)


def serious(page, *rules: str) -> list[str]:
    """What axe finds, by all its rules or by these."""
    if not page.driver.execute_script("return 'axe' in window"):
        page.driver.execute_script(AXE)
    found = page.driver.execute_async_script(RUN, rules)
    return [
        f"{v['id']}: {v['nodes'][0]['html'][:160] if v['nodes'] else ''}"
        for v in found
        if v["impact"] in {"serious", "critical"}
    ]


@pytest.mark.parametrize(
    "place",
    [
        "desk",
        "drills",
        "drill",
        "students",
        "sheet",
        "dialog",
        "student",
        "guitar",
        "bench",
        "targets",
        "make",
        "write",
        "import",
        "record",
        "compare",
        "said",
        "plan",
        "ladder",
        "progress",
        "one-progress",
        "log",
        "lesson",
        "studio",
        "account",
        "set",
        "course",
        "help",
        "choose-drill",
        "record-first",
        "behind",
    ],
)
def test_nothing_serious_is_found(page, recordings, tmp_path, place):
    page.driver.execute_script("localStorage.setItem('fortimetra.theme', 'light')")
    take = page.measured()
    # Of the demo's student: others send takes of that drill in these tests, too, and one take alone has no line.
    bend = page.measured(lambda t: t["drill"] == DRILL and t["student"].startswith("Oda"))
    path = {
        "desk": "/",
        "drills": "/drills",
        "students": "/students",
        "dialog": "/",
        "bench": "/bench/push",
        "targets": "/bench",
        "make": "/drills/new/sweep",
        "student": f"/students/{take['student_id']}",
        "guitar": f"/guitars/{take['guitar_id']}",
        "drill": f"/drills/{take['drill_id']}",
        "sheet": f"/takes/{take['id']}",
        "write": f"/drills/{take['drill_id']}/write",
        "import": "/drills",
        "record": f"/record/{take['drill_id']}",
        "said": f"/takes/{take['id']}",
        "compare": f"/compare/{bend['id']}",
        "help": "/help",
        "choose-drill": "/record",
        "record-first": "/record/free",
        "behind": "/students",
        "studio": "/studio",
        "account": "/account",
        "set": "/drills/new/alternate_picking?set-field=position&set-values=5-8",
        "course": f"/students/{bend['student_id']}/plan",
        **{name: f"/students/{bend['student_id']}/{name}" for name in ("plan", "progress", "log")},
        "ladder": f"/students/{bend['student_id']}/plan",
        "lesson": f"/students/{bend['student_id']}/sheets",
        "one-progress": f"/students/{bend['student_id']}/progress/{bend['drill_id']}",
    }[place]
    page.open(path)
    page.wait(lambda: page.all("h1"))
    if place in ("sheet", "said"):
        page.sheet()
    if place == "compare":
        page.one("[data-testid=pair-strips]")
    if place == "behind":
        page.wait(lambda: page.all("[data-testid=students] tbody button"))[0].click()
        page.one("[data-testid=behind] a")
    if place == "ladder":
        page.wait(lambda: page.all("[data-testid=step]"))[0].click()
        page.one("[data-testid=ladder-says]")
    if place == "lesson":
        page.button("Make a lesson sheet").click()
        page.one("[data-testid=sheet-page]")
    if place == "one-progress":
        page.one("figure")
    if place == "said":
        page.press("j")
        page.one("[role=dialog]")
    if place == "import":
        score = tmp_path / "t.mid"
        score.write_bytes(drill_to_midi(fretted_then_bend(title="t", string=3, fret=7)).content)
        page.one("input[aria-label='Drill file']").send_keys(str(score))
        page.wait(lambda: page.all("[data-testid=tab]"))
    if place == "dialog":
        page.hand_over(recordings["take.flac"])
    page.wait(lambda: not page.all("main > [role=status]"))
    theme = "return document.documentElement.dataset.theme"
    try:
        assert page.driver.execute_script(theme) == "light"
        assert serious(page) == []
        # The other theme has other colours and nothing else.
        page.driver.execute_script("document.documentElement.dataset.theme = 'dark'")
        page.drawn()
        assert serious(page, "color-contrast") == []
    finally:
        page.driver.execute_script("localStorage.removeItem('fortimetra.theme')")


def test_every_page_of_a_student_has_its_heading_on_a_phone(app):
    with chromium(width=390, height=844) as driver:
        page = Pages(driver, app.url)
        page.enter("oda@quayside.example")
        for path, heading in (
            ("/record", "Record a take"), ("/takes", "Takes"), ("/progress", "Progress"), ("/plan", "Plan"),
            ("/log", "Logbook"), ("/sheets", "Lesson sheets"), ("/drills", "Drills"), ("/account", "Oda Vintersee"),
        ):  # fmt: skip
            page.open(path)
            assert page.wait(lambda: page.all("h1"))[0].text == heading
            assert page.driver.execute_script("return document.documentElement.scrollWidth") <= 390, path


def test_every_control_of_the_desk_is_reached_by_tab(desk):
    page = desk
    wanted = {"Desk", "Drills", "Students", "Add a recording", "Oda Vintersee"}
    reached = set()
    for _ in range(60):
        page.press(Keys.TAB)
        reached.add(page.driver.execute_script("return document.activeElement.textContent.trim()"))
    assert wanted <= reached


def sized(page, width: int, height: int):
    page.driver.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride",
        {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False},
    )


@pytest.mark.parametrize(("width", "height"), [(320, 700), (640, 400)], ids=["narrow-phone", "twice-as-large"])
def test_pages_fit_and_nothing_serious_is_found(page, width, height):
    """320 px is the narrowest phone, 640x400 what a screen of 1280x800 has at 200 % (WCAG 2.2, 1.4.10 and 1.4.4)."""
    take = page.measured(lambda t: t["drill"] == DRILL and t["student"].startswith("Oda"))
    student = f"/students/{take['student_id']}"
    found = []
    try:
        sized(page, width, height)
        for path in (
            "/", "/students", student, f"{student}/plan", f"{student}/progress", f"{student}/log", "/drills",
            f"/drills/{take['drill_id']}", "/record", "/record/free", "/bench", "/studio", "/account", "/help",
            f"/takes/{take['id']}", f"/compare/{take['id']}",
        ):  # fmt: skip
            page.open(path)
            page.wait(lambda: page.all("h1") and not page.all("main [role=status]"))
            wide = page.driver.execute_script("return document.documentElement.scrollWidth")
            found += [f"{path}: {wide} px wide"] if wide > width else []
            found += [f"{path}: {what}" for what in serious(page)]
    finally:
        page.driver.execute_cdp_cmd("Emulation.clearDeviceMetricsOverride", {})
    assert found == []


def test_what_is_pressed_shows_where_the_device_forces_its_colours(desk):
    driver = desk.driver
    shade = "return getComputedStyle(document.querySelector(arguments[0])).backgroundColor"
    try:
        driver.execute_cdp_cmd(
            "Emulation.setEmulatedMedia", {"features": [{"name": "forced-colors", "value": "active"}]}
        )
        pressed = driver.execute_script(shade, "fieldset [aria-pressed=true]")
        assert pressed != driver.execute_script(shade, "fieldset [aria-pressed=false]")
    finally:
        driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": []})

"""A teacher's evening: the Desk by keyboard, the last word, comparing, measuring otherwise, and what goes wrong
meanwhile.
"""

from __future__ import annotations

import json
import subprocess
import sys

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.chromium import chromium
from tests.browser.conftest import DRILL
from tests.browser.pages import Pages
from tests.browser.sheets import counts, opened, selected


def judge(page, ids, judged):
    """By the API: so that a test leaves the Desk as it was."""
    takes = [t for t in page.fetch("/api/v1/takes") if t["id"] in ids]
    page.driver.execute_async_script(
        "const [takes, judged, done] = arguments; const csrf = document.cookie.match(/csrftoken=([^;]+)/)[1];"
        "fetch('/api/v1/takes/judge', {method: 'POST', headers: {'Content-Type': 'application/json', "
        "'X-CSRFToken': csrf},"
        "body: JSON.stringify({takes, judged})}).then((r) => r.json()).then(done)",
        [{"id": t["id"], "word_version": t["word_version"]} for t in takes],
        judged,
    )


@pytest.fixture
def own(page, recordings):
    """A take of one's own that may be changed, its sheet open."""
    page.add(recordings["take.flac"], "Jory Tamsin", DRILL)
    page.sheet()
    take = page.driver.current_url.rsplit("/", 1)[1]
    yield take
    page.delete(f"/api/v1/takes/{take}")


def test_ten_takes_are_judged_by_keyboard_alone(desk):
    page = desk
    page.wait(lambda: len(page.all("tr[data-state=measured]")) >= 12)
    # What other tests sent and could not be measured has no sheet to judge.
    for take in page.fetch("/api/v1/takes"):
        if take["state"] in {"refused", "failed"}:
            page.delete(f"/api/v1/takes/{take['id']}")
    page.open("/")
    page.wait(lambda: len(page.all("tr[data-state=measured]")) >= 12)
    before = {t["id"] for t in page.fetch("/api/v1/takes") if t["judged_at"]}
    keys = 0

    def press(*pressed):
        nonlocal keys
        keys += len(pressed)
        page.press(*pressed)

    press(Keys.ARROW_DOWN)
    press(Keys.ENTER)
    page.sheet()
    seen = []
    for number in range(10):
        here = page.wait(
            lambda: (
                (address := page.driver.current_url.rsplit("/", 1)[1]) not in seen
                and page.all("[data-testid=judge]")
                and page.all("tr[aria-current=true][data-note]")
                and address
            )
        )
        seen.append(here)
        if number % 3 == 0:
            # Look at what is wrong and hear it.
            press("n")
            press(Keys.SPACE)
            press(Keys.SPACE)
        press(Keys.ENTER)
        page.wait(lambda here=here: not page.driver.current_url.endswith(here))
    try:
        judged = {t["id"] for t in page.fetch("/api/v1/takes") if t["judged_at"]} - before
        assert judged == set(seen)
        assert keys <= 40
        page.sheet()
        press("d")
        page.wait(lambda: page.all("[data-testid=desk-words]") and "10 judged" in page.text("[data-testid=desk-words]"))
    finally:
        judge(page, seen, False)


def test_several_are_judged_at_once_and_taken_back(desk):
    page = desk
    page.wait(lambda: len(page.all("tr[data-state=measured]")) >= 12)
    page.press("a")
    picked = page.wait(
        lambda: [r for r in page.all("tr[data-take]") if r.find_element("css selector", "input").is_selected()]
    )
    ids = [r.get_attribute("data-take") for r in picked]
    clean = {
        t["id"]
        for t in page.fetch("/api/v1/takes")
        if t["summary"] and t["summary"]["clean"] == t["summary"]["asked"] and not t["summary"]["extra"]
    }
    assert set(ids) == clean
    page.press("j")
    page.wait(lambda: not ({r.get_attribute("data-take") for r in page.all("tr[data-take]")} & set(ids)))
    assert "judged" in page.text("[role=status]")
    page.press("z")
    page.wait(lambda: set(ids) <= {r.get_attribute("data-take") for r in page.all("tr[data-take]")})


def test_the_desk_is_filtered_and_remembers_it(desk):
    page = desk
    page.choose("Student", "Mirren Salk")
    page.wait(lambda: {r.find_element("css selector", "a").text for r in page.all("tr[data-take]")} == {"Mirren Salk"})
    page.driver.execute_script("document.activeElement.blur()")
    page.press("w")
    page.wait(lambda: "No take fits" in page.text("main"))
    page.open("/")
    page.wait(lambda: "No take fits" in page.text("main"))
    page.button("Show all students and drills").click()
    page.button("To judge").click()
    page.wait(lambda: len(page.all("tr[data-take]")) > 12)


def test_counts_on_the_sheet_are_those_of_the_command_line(page, recordings, tmp_path, own):
    drill = page.fetch(f"/api/v1/takes/{own}/analysis")["drill"]["content"]
    (tmp_path / "drill.json").write_text(json.dumps(drill))
    command = [sys.executable, "-m", "fortimetra.cli", "analyse", str(recordings["take.flac"])]
    told = subprocess.run(
        [*command, "--drill", str(tmp_path / "drill.json")], capture_output=True, text=True, check=True
    )
    summary = json.loads(told.stdout)["summary"]
    names = {"clean": "clean", "not clean": "not_clean", "cannot tell": "unclear", "missed": "missed", "extra": "extra"}
    assert counts(page) == {label: summary[name] for label, name in names.items()}


def test_the_last_word_is_the_teachers(page, own):
    before = counts(page)
    measured = page.text("[data-testid=finding]")
    page.press("m")
    page.wait(lambda: counts(page)["clean"] == before["clean"] + 1)
    assert page.text("[data-testid=finding]") == measured
    assert "intentional, measured not clean" in page.text("[data-testid=inspector]")
    assert "Ines Maravel" in page.text("[data-testid=words]")
    ActionChains(page.driver).key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
    page.wait(lambda: counts(page) == before)
    assert "taken back by Ines Maravel" in page.text("[data-testid=words]")
    # A range by keyboard: this note and the two after it do not count.
    ActionChains(page.driver).key_down(Keys.SHIFT).send_keys(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT).key_up(
        Keys.SHIFT
    ).perform()
    page.wait(lambda: page.text("[data-testid=chosen]") == "3 notes chosen")
    assert page.one("[data-testid=range]")
    page.press("x")
    page.wait(lambda: counts(page).get("excluded") == 3)
    page.press(Keys.ESCAPE)
    page.wait(lambda: not page.all("[data-testid=chosen]"))
    page.press("n")
    page.press("j")
    page.one("[role=dialog]")
    page.press("The harbour band next door was louder")
    page.press(Keys.ENTER)
    page.wait(lambda: not page.all("[role=dialog]"))
    page.wait(lambda: "Judged otherwise: clean: The harbour band" in page.text("[data-testid=words]"))
    page.press("k")
    page.one("[role=dialog]")
    page.press("Listen to the target first", Keys.ENTER)
    page.wait(lambda: "Listen to the target first" in page.text("[data-testid=take-words]"))
    kept = page.fetch(f"/api/v1/takes/{own}/analysis")
    assert [m["mark"]["kind"] for m in kept["marks"]] == ["meant", "excluded", "verdict", "comment"]
    assert kept["analysis"]["summary"]["excluded"] == 3


def test_an_extra_sound_may_be_meant_and_a_comment_is_on_the_take(page):
    opened(page, "alternate_picking", "Jory Tamsin", lambda t: t["summary"]["extra"] == 2)
    page.all("[data-testid=extras] button[aria-label$='is intentional']")[0].click()
    page.wait(lambda: counts(page)["extra"] == 1)
    assert "no: intentional" in page.text("[data-testid=extras]")
    page.button("Comment on the take").click()
    page.one("[role=dialog]")
    page.press("Nice and even", Keys.ENTER)
    said = page.wait(
        lambda: "Nice and even" in page.text("[data-testid=take-words]") and page.text("[data-testid=take-words]")
    )
    assert "the sound at" in said
    assert "the take" in said
    for _ in range(2):
        waiting = len([b for b in page.all("[data-testid=take-words] button") if b.text == "Take back"])
        next(b for b in page.all("[data-testid=take-words] button") if b.text == "Take back").click()
        page.wait(
            lambda waiting=waiting: (
                len([b for b in page.all("[data-testid=take-words] button") if b.text == "Take back"]) < waiting
            )
        )
    assert counts(page)["extra"] == 2


def test_a_tolerance_shows_what_it_does_before_it_is_kept(page, own):
    before = counts(page)
    page.one("[data-testid=otherwise] summary").click()
    label = next(f for f in page.all("[data-testid=otherwise] label") if f.text == "Bends")
    page.driver.find_element("id", label.get_attribute("for")).send_keys("40")
    page.button("Show the effect").click()
    page.one("[data-testid=trial-counts]")
    # It comes into sight by itself, over the strips.
    page.wait(
        lambda: page.driver.execute_script(
            "const b = document.querySelector('[data-testid=trial]').getBoundingClientRect(); return b.top "
            ">= 0 && b.top < innerHeight"
        )
    )
    shown = {c.get_attribute("data-count"): int(c.text) for c in page.all("[data-testid=trial-counts] [data-count]")}
    assert shown["clean/0"] == before["clean"]
    assert shown["clean/1"] > before["clean"]
    assert counts(page) == before
    page.button("Leave it as it was").click()
    page.wait(lambda: not page.all("[data-testid=trial]"))
    page.button("Show the effect").click()
    page.one("[data-testid=trial-counts]")
    page.button("Keep this").click()
    page.wait(lambda: counts(page)["clean"] == shown["clean/1"])


def test_a_note_is_said_to_be_another_sound(page, own):
    first = selected(page)
    page.press("]")
    page.one("[data-testid=trial-counts]")
    # Enter would confirm the take; what is being tried has to be kept or left first.
    page.press(Keys.ENTER)
    page.press(Keys.ESCAPE)
    page.wait(lambda: not page.all("[data-testid=trial]"))
    assert page.fetch(f"/api/v1/takes/{own}")["judged_at"] is None
    page.press("]")
    page.one("[data-testid=trial-counts]")
    page.press("y")
    page.wait(lambda: len(page.fetch(f"/api/v1/takes/{own}/analysis").get("pins", [])) == 1)
    pin = page.fetch(f"/api/v1/takes/{own}/analysis")["pins"][0]
    assert f"{pin['id']}@{pin['repeat']}" == first


def test_another_tab_has_changed_the_take_meanwhile(app, page, own):
    with chromium() as driver:
        second = Pages(driver, app.url)
        second.open("/")
        second.one("input[name=email]")
        second.sign_in("teacher@quayside.example", "harbour-light-evening")
        second.wait(lambda: second.all("tr[data-take]"))
        second.open(f"/takes/{own}")
        second.sheet()
        second.press("x")
        second.wait(lambda: counts(second).get("excluded") == 1)
        # The page shows what was said before the server has it.
        second.wait(lambda: len(second.fetch(f"/api/v1/takes/{own}/analysis")["marks"]) == 1)
    page.press(Keys.ENTER)
    assert "was changed meanwhile" in page.sentence()
    # It stays when the Desk moves on meanwhile and another take comes next.
    next_take = next(t["id"] for t in page.fetch("/api/v1/takes/desk?show=waiting")["rows"] if t["id"] != own)
    judge(page, [next_take], True)
    before = page.answered("/takes/desk")
    page.driver.execute_script("window.dispatchEvent(new Event('visibilitychange'))")
    page.wait(lambda: page.answered("/takes/desk") > before)
    page.drawn()
    assert "was changed meanwhile" in page.sentence()
    judge(page, [next_take], False)
    # What was said there is here now, and what is said here is added to it.
    page.wait(lambda: counts(page).get("excluded") == 1)
    before = page.answered(f"/takes/{own}/marks")
    page.press(Keys.ARROW_RIGHT, "m")
    page.wait(lambda: len(page.fetch(f"/api/v1/takes/{own}/analysis")["marks"]) == 2)
    # The page may not confirm what it has not seen: first it has its own answer.
    page.wait(lambda: page.answered(f"/takes/{own}/marks") > before)
    page.drawn()
    page.press(Keys.ENTER)
    page.wait(lambda: page.fetch(f"/api/v1/takes/{own}")["judged_by"] == "Ines Maravel")


def test_a_take_that_is_deleted_under_review_is_said_to_be_gone(page, recordings):
    page.add(recordings["take.flac"], "Jory Tamsin", DRILL)
    page.sheet()
    take = page.driver.current_url.rsplit("/", 1)[1]
    page.delete(f"/api/v1/takes/{take}")
    page.press("m")
    # By the answer to that, or, where the curves were not there yet, by theirs.
    page.wait(lambda: "may have been deleted" in page.text("main"))
    page.press(Keys.ENTER)
    page.wait(lambda: "is not here any more" in page.text("main") or "changed meanwhile" in page.text("main"))
    page.open(f"/takes/{take}")
    page.wait(lambda: "is not here any more" in page.text("main"))


# Takes of the demo's Oda of this drill.
ODAS = 7


def test_an_earlier_and_a_later_take_side_by_side(page):
    def measured():
        takes = [t for t in page.fetch("/api/v1/takes") if t["original_name"].startswith("demo-take")]
        return [t for t in takes if t["drill"] == DRILL and t["student"] == "Oda Vintersee" and t["summary"]]

    takes = page.wait(lambda: found if len(found := measured()) >= ODAS else None)
    by_day = sorted(takes, key=lambda t: t["played_at"])
    earlier, later = by_day[0], by_day[-1]
    page.open(f"/takes/{later['id']}")
    page.sheet()
    next(a for a in page.all("a") if a.text == "Compare").click()
    page.one("[data-testid=pair-strips]")
    page.open(f"/compare/{later['id']}/{earlier['id']}")
    page.one("[data-testid=pair-strips]")
    told = page.fetch(f"/api/v1/takes/{later['id']}/compare/{earlier['id']}")["comparison"]
    assert f"{told['gained']} notes became clean" in page.text("[data-testid=gained]")
    assert page.all("[data-testid=differs]")  # the bends that are nearer now are shaded in the strip
    page.one("[data-testid=numbers] summary").click()
    rows = {r.get_attribute("data-difference"): r.text for r in page.all("[data-difference]")}
    assert set(rows) == {d["code"] for d in told["overall"]}
    bends = next(d for d in told["overall"] if d["code"] == "bend_error")
    assert bends["clear"]
    assert "better" in rows["bend_error"]
    assert {e.get_attribute("data-lane") for e in page.all("[data-lane]")} >= {"tune/0", "tune/1"}
    # The later take's tolerance is not drawn over the earlier one's line.
    fills = page.driver.execute_script(
        "return [0, 1].map((i) => getComputedStyle("
        "document.querySelector(`[data-lane='tune/${i}'] path[fill='var(--corridor)']`)).fill)"
    )
    assert fills[1] == "rgba(0, 0, 0, 0)" != fills[0]
    page.button("repeat 2").click()
    page.wait(lambda: page.button("repeat 2").get_attribute("aria-pressed") == "true")
    play = page.one("[aria-label='Play the later take, this repeat']")
    page.wait(play.is_enabled)
    play.click()
    page.wait(lambda: play.get_attribute("aria-pressed") == "true")
    play.click()

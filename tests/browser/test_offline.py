"""A student's telephone without a connection: the day is there where it was asked for, and gone after signing out."""

from __future__ import annotations

from urllib.parse import urlsplit

from tests.browser.chromium import chromium
from tests.browser.line import line_to
from tests.browser.pages import Pages
from tests.browser.week import field, narrow

KEPT = """
const done = arguments[arguments.length - 1];
caches.keys().then(async (names) => {
  const urls = [];
  for (const name of names) for (const request of await (await caches.open(name)).keys()) urls.push(request.url);
  done(urls.map((url) => new URL(url).pathname));
});
"""


def kept(page):
    return page.driver.execute_async_script(KEPT)


def at_account(page):
    page.open("/account")
    page.one("section[aria-label='Without a connection'] input")


def test_the_day_and_the_recorder_are_there_without_a_connection(app):
    with chromium(width=390, height=844) as driver, line_to(urlsplit(app.url).port) as line:
        phone = Pages(driver, line.url)
        phone.enter("oda@quayside.example")
        # A day of practice, whichever day of the week it is.
        student = phone.fetch("/api/v1/me")["student_id"]
        phone.send("PUT", f"/api/v1/plans/practice/{student}", {"minutes": [20] * 7, "at": "19:00"})
        phone.open("/")
        phone.one("[data-testid=today] li")
        drills = [e.text for e in phone.all("[data-testid=today] strong")]
        assert kept(phone) == []  # nothing is kept that nobody asked for
        at_account(phone)
        field(phone, "Keep my practice day").click()
        phone.wait(lambda: phone.one("section[aria-label='Without a connection'] input").is_selected())
        narrow(phone)
        phone.open("/")
        phone.one("[data-testid=today] li")
        phone.wait(lambda: "/api/v1/plans/week" in kept(phone))
        stored = kept(phone)
        assert not [path for path in stored if "/takes" in path or "/sound" in path]  # never a recording

        line.cut()
        phone.open("/")
        phone.one("[data-testid=today] li")
        assert [e.text for e in phone.all("[data-testid=today] strong")] == drills
        next(a for a in phone.all("[data-testid=today] a") if a.text == "Record").click()
        phone.one("[data-testid=input-check]")
        phone.wait(lambda: "bpm" in phone.text("[data-testid=recorder]") or phone.all("[data-testid=tab]"))


def test_signing_out_deletes_what_was_kept(app):
    with chromium(width=390, height=844) as driver:
        phone = Pages(driver, app.url)
        phone.enter("oda@quayside.example")
        phone.one("[data-testid=today]")
        at_account(phone)
        field(phone, "Keep my practice day").click()
        phone.wait(lambda: "/api/v1/plans/week" in kept(phone))
        phone.one("[aria-label='Sign out']").click()
        phone.one("input[name=email]")
        phone.wait(lambda: kept(phone) == [] or kept(phone) is None)
        phone.wait(
            lambda: (
                driver.execute_async_script(
                    "navigator.serviceWorker.getRegistrations().then((all) => arguments[0](all.length))"
                )
                == 0
            )
        )

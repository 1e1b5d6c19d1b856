"""Guests, the second step, and strangers, in the real page."""

from __future__ import annotations

from tests.browser.chromium import chromium
from tests.browser.pages import Pages
from tests.browser.week import PASSWORD, add_teacher, field, narrow


def test_a_guest_sends_one_recording_and_a_second_is_refused(app, page, recordings):
    student = next(s["id"] for s in page.fetch("/api/v1/students") if s["name"] == "Oda Vintersee")
    page.open(f"/students/{student}")
    page.choose("One recording without an account, of", "String 3: full bend at fret 7")
    page.button("Make a link").click()
    link = page.wait(lambda: page.one("[data-testid=link]").get_attribute("value"))
    with chromium(width=390, height=844) as driver:
        guest = Pages(driver, app.url)
        guest.open(link.removeprefix(app.url))
        guest.wait(lambda: "asks for one recording" in guest.text("main"))
        narrow(guest)
        guest.one("[data-testid=guest-file]").send_keys(str(recordings["letter.wav"]))
        assert "not an audio file" in guest.sentence()
        guest.one("[data-testid=guest-file]").send_keys(str(recordings["take.flac"]))
        guest.wait(lambda: any(" clean" in e.text for e in guest.all("[data-testid=guest-answer]")))
        guest.open(link.removeprefix(app.url))
        guest.wait(lambda: " clean" in guest.text("[data-testid=guest-answer]"))
        assert not guest.all("[data-testid=guest-file]")
        assert (
            guest.driver.execute_async_script(
                "const done = arguments[0]; fetch('/api/v1/takes').then((r) => done(r.status))"
            )
            == 401
        )


def test_a_guardian_agrees_by_a_guests_link_and_the_teacher_withdraws_it(app, page, recordings):
    name = "Little Vintersee"
    page.open("/students")
    field(page, "New student").send_keys(name)
    page.button("Add").click()
    page.wait(
        lambda: any(name in li.text and "no consent" in li.text for li in page.all("[data-testid=students] tbody tr"))
    )
    page.wait(lambda: next((a for a in page.all("main a") if a.text == name), None)).click()
    page.wait(lambda: "/students/" in page.driver.current_url and name in page.text("[data-testid=not-agreed]"))
    page.choose("One recording without an account, of", "String 3: full bend at fret 7")
    page.button("Make a link").click()
    link = page.wait(lambda: page.one("[data-testid=link]").get_attribute("value"))
    with chromium(width=390, height=844) as driver:
        guest = Pages(driver, app.url)
        guest.open(link.removeprefix(app.url))
        guest.wait(lambda: name in guest.text("[data-testid=agree-to]"))
        assert not guest.all("[data-testid=guest-file]")
        field(guest, f"I am a parent or guardian of {name}").click()
        field(guest, "Your name").send_keys("Runa Holt")
        narrow(guest)
        guest.button("Agree").click()
        guest.one("[data-testid=guest-file]").send_keys(str(recordings["take.flac"]))
        guest.wait(lambda: any(" clean" in e.text for e in guest.all("[data-testid=guest-answer]")))
    page.driver.refresh()
    page.wait(lambda: page.text("[data-testid=agreed]").startswith("Runa Holt, parent or guardian: on this page"))
    page.button("Withdraw").click()
    field(page, "delete all recordings there are").click()
    page.button("Withdraw and delete").click()
    page.wait(lambda: name in page.text("[data-testid=not-agreed]"))
    take = page.wait(lambda: next(t for t in page.fetch("/api/v1/takes") if t["student"] == name))
    page.open(f"/takes/{take['id']}")
    page.wait(lambda: "The recording was deleted" in page.text("[data-testid=recording-deleted]"))
    assert page.one("[data-testid=counts]").text
    assert not page.all("[role=alert]")


def test_a_second_step_is_turned_on_and_asked_for(app, page):
    """In the page, with the codes an app would show."""
    from allauth.mfa.totp.internal.auth import format_hotp_value, hotp_value, yield_hotp_counters_from_time

    email = "second@quayside.example"
    add_teacher(app.data, email, "Second")
    with chromium() as driver:
        one = Pages(driver, app.url)
        one.open("/")
        one.one("input[name=email]")
        one.sign_in(email, PASSWORD)
        one.wait(lambda: one.all("nav"))
        one.open("/account")
        field(one, "Your password, to change it").send_keys(PASSWORD)
        one.button("Go on").click()
        secret = one.wait(lambda: next((p.text for p in one.all("section p.figures") if p.text), None))
        code = format_hotp_value(hotp_value(secret, next(yield_hotp_counters_from_time())))
        field(one, "Code").send_keys(code)
        one.button("Turn it on").click()
        one.wait(lambda: one.text("[data-testid=second-step]").startswith("On"))
        spare = one.wait(lambda: [li.text for li in one.all("section[aria-label='Two-factor sign-in'] li")])
        one.one("[aria-label='Sign out']").click()
        one.one("input[name=email]")
        one.sign_in(email, PASSWORD)
        one.one("input[name=code]").send_keys(spare[0])
        one.button("Go on").click()
        one.wait(lambda: one.all("nav"))


def test_a_strangers_addresses_answer_404(app, page):
    """A colleague of another studio finds nothing of this one, in the page's own words."""
    take = page.measured()
    sheets = page.fetch(f"/api/v1/reports/sheets?student_id={take['student_id']}")
    with chromium() as driver:
        other = Pages(driver, app.url)
        other.open("/")
        other.one("input[name=email]")
        email = "stranger@quayside.example"
        add_teacher(app.data, email, "Stranger")
        other.sign_in(email, PASSWORD)
        other.wait(lambda: other.all("nav"))
        words = ("nothing here for you", "not here any more")
        for path in (
            f"/takes/{take['id']}", f"/students/{take['student_id']}/plan", f"/students/{take['student_id']}/log",
            f"/students/{take['student_id']}/progress", *(f"/sheets/{s['id']}" for s in sheets),
        ):  # fmt: skip
            other.open(path)
            other.wait(lambda: any(w in other.text("main") for w in words))

"""The week between two lessons in the real page: invitation, a student's telephone, the ladder, the lesson sheet; the
archive.
"""

from __future__ import annotations

import base64
import io
import json
import urllib.request
import zipfile
from contextlib import contextmanager

import pytest
import soundfile
from fortimetra.drills.fretted_then_bend import fretted_then_bend
from fortimetra.player.faults import Faults, NoteFault
from pypdf import PdfReader
from selenium.webdriver.common.keys import Keys

from tests.browser.chromium import chromium
from tests.browser.pages import Pages
from tests.browser.running import start
from tests.browser.week import PASSWORD, add_teacher, field, narrow
from tests.kept import render

TITLE = "Two quick bends for the week"
STUDENT, ADDRESS = "Wynn Arkell", "wynn@quayside.example"
BPM = 120
# As the recorder sends a take: the sound, where its click lies, what it came in through.
SEND_TAKE = (
    "const [fields, base64, done] = arguments; const form = new FormData();"
    "for (const [name, value] of Object.entries(fields)) form.set(name, value);"
    "const bytes = Uint8Array.from(atob(base64), (c) => c.charCodeAt(0));"
    "form.set('file', new File([bytes], 'take.wav', {type: 'audio/wav'}));"
    "fetch('/api/v1/takes', {method: 'POST', body: form, headers: {"
    "'X-CSRFToken': document.cookie.match(/csrftoken=([^;]+)/)[1]}}).then((r) => r.json()).then((t) => done(t.id))"
)
LEAD_S = 1.0


def quick_drill():
    return fretted_then_bend(title=TITLE, string=3, fret=7, repeats=2, bpm=BPM).model_copy(
        update={"profile": "starting"}
    )


@pytest.fixture(scope="module")
def played():
    """A take of a student who plays in time and 4 cents flat, as a file."""
    sound, truth = render(quick_drill(), Faults(notes={"bend": NoteFault(cents=-4.0)}, random_ms=0.0, lead_in_s=LEAD_S))
    out = io.BytesIO()
    soundfile.write(out, sound, truth.sample_rate_hz, format="WAV", subtype="PCM_16")
    return out.getvalue()


@contextmanager
def telephone(app):
    """A small browser."""
    with chromium(width=390, height=844) as driver:
        yield Pages(driver, app.url)


def test_from_the_invitation_to_the_lesson_sheet(app, page, played, tmp_path):
    link = invited(page, tmp_path)
    with telephone(app) as phone:
        phone.open(link.removeprefix(app.url))
        phone.wait(lambda: "invites you to practise here" in phone.text("main"))
        field(phone, "E-mail address").send_keys(ADDRESS)
        field(phone, "Password").send_keys(PASSWORD)
        phone.button("Begin").click()
        phone.one("[data-testid=today]")
        narrow(phone)
        student = phone.fetch("/api/v1/me")["student_id"]
        phone.send("PUT", f"/api/v1/plans/practice/{student}", {"minutes": [20] * 7, "at": "19:00"})
        phone.open("/")
        phone.wait(lambda: TITLE in phone.text("[data-testid=today]"))
        assert f"{BPM} bpm" in phone.text("[data-testid=today]")
        next(a for a in phone.all("[data-testid=today] a") if a.text == "Record").click()
        agreed(phone)
        says = play_until_it_moves(phone, student, played)
        assert f"Up to {BPM + 4} bpm: the last 3 takes at {BPM} bpm were clean" in says
        # What was played is one tap from being logged.
        phone.open("/")
        phone.button("Played it").click()
        phone.button("Log it").click()
        phone.wait(lambda: "done" in phone.text("[data-testid=today]"))
        narrow(phone)
        confirmed(page)
        phone.open("/")
        phone.wait(lambda: f"{BPM + 4} bpm" in phone.text("[data-testid=today]"))
        sheet = lesson_sheet(page)
        phone.open(sheet.removeprefix(app.url))
        phone.wait(lambda: STUDENT in phone.text("h1"))
        narrow(phone)


def agreed(phone):
    """Nothing is recorded before the student, here of age, has agreed."""
    phone.wait(lambda: STUDENT in phone.text("[data-testid=agree-to]"))
    narrow(phone)
    assert not phone.all("[data-testid=input-check]")
    field(phone, "I am of age and agree").click()
    phone.button("Agree").click()
    phone.one("[data-testid=input-check]")


def invited(page, tmp_path):
    """The teacher brings the drill, adds the student, assigns it, and has a link."""
    file = tmp_path / "week.json"
    file.write_text(quick_drill().model_dump_json(by_alias=True))
    page.open("/drills")
    page.wait(lambda: page.all("main li"))
    page.one("input[aria-label='Drill file']").send_keys(str(file))
    page.wait(lambda: page.text("h1") == TITLE)
    page.open("/students")
    field(page, "New student").send_keys(STUDENT)
    page.button("Add").click()
    page.wait(lambda: next((a for a in page.all("main a") if a.text == STUDENT), None)).click()
    page.wait(lambda: STUDENT in page.text("h1"))
    page.button(f"Invite {STUDENT}").click()
    link = page.one("[data-testid=link]").get_attribute("value")
    next(a for a in page.all("nav[aria-label=Student] a") if a.text == "Plan").click()
    page.button("Assign a drill").click()
    field(page, "Search").send_keys(TITLE)
    page.wait(lambda: [b for b in page.all("[role=dialog] li button") if TITLE in b.text])[0].click()
    days = field(page, "Days a week")
    days.send_keys(Keys.CONTROL, "a")
    days.send_keys("7")
    page.button("Assign it").click()
    page.wait(lambda: TITLE in page.text("[data-testid=assignments]"))
    assert "nothing was recorded at this step yet" in page.text("[data-testid=says]")
    return link


def play_until_it_moves(phone, student, played):
    """Two takes sent as the recorder sends them, the third recorded here; what the page says of the ladder then."""
    drill = next(d for d in phone.fetch("/api/v1/drills") if d["title"] == TITLE)["id"]
    click = {
        "format": "fortimetra-click", "version": 1, "source": "recorder", "bpm": BPM, "first_beat_s": LEAD_S,
        "beats_per_bar": 4, "latency_ms": 0.0, "channel": None,
    }  # fmt: skip
    capture = {"device": "A box", "sample_rate_hz": 48_000, "processing": [], "gaps": []}
    fields = {"student_id": student, "drill_id": drill, "click": json.dumps(click), "capture": json.dumps(capture)}
    for _ in range(2):
        sent = phone.driver.execute_async_script(SEND_TAKE, fields, base64.b64encode(played).decode())
        phone.measured(lambda t, sent=sent: t["id"] == sent)
    phone.choose("Input", "Simulated sound card (invented sound)")
    phone.button("Open the input").click()
    at(phone, "check")
    phone.press("r")
    at(phone, "kept")
    phone.wait(lambda: phone.one("[data-testid=answer]").get_attribute("data-state") == "measured")
    narrow(phone)
    return phone.wait(lambda: says if "Up to" in (says := phone.text("[data-testid=ladder]")) else None)


def at(phone, stage):
    phone.wait(lambda: phone.one("[data-testid=recorder]").get_attribute("data-stage") == stage)


def confirmed(page):
    """The teacher confirms the step from the Desk."""
    page.open("/")
    step = page.wait(
        lambda: next(
            (r.find_element("css selector", "[data-testid=step]") for r in page.all("tr[data-take]")
             if STUDENT in r.text and r.find_elements("css selector", "[data-testid=step]")), None,
        )
    )  # fmt: skip
    assert step.text == f"Up to {BPM + 4} bpm"
    step.click()
    page.wait(lambda: f"now stands at {BPM + 4} bpm" in page.text("[data-testid=stepped]"))


def lesson_sheet(page):
    """The teacher makes the sheet, writes on it, has the PDF, and shares it; its link."""
    student = next(s["id"] for s in page.fetch("/api/v1/students") if s["name"] == STUDENT)
    page.open(f"/students/{student}/sheets")
    page.button("Make a lesson sheet").click()
    page.one("[data-testid=sheet-page]")
    field(page, "A word for the student").send_keys("Well begun.")
    page.button("Put it on the page").click()
    sheet = page.driver.current_url.rsplit("/", 1)[1]
    page.wait(lambda: page.fetch(f"/api/v1/reports/sheets/{sheet}")["note"] == "Well begun.")
    frame = page.one("[data-testid=sheet-page]")
    page.driver.switch_to.frame(frame)
    page.wait(lambda: "Well begun." in page.text("body"))
    assert TITLE in page.text("body")
    page.driver.switch_to.default_content()
    page.button("Make the PDF").click()
    page.one("[data-testid=pdf]")
    reader = PdfReader(io.BytesIO(download(page, f"/api/v1/reports/sheets/{sheet}/pdf")))
    text = reader.pages[0].extract_text()
    assert len(reader.pages) == 1
    for part in (STUDENT, "Well begun.", TITLE, f"{BPM + 4} bpm"):
        assert part in text
    page.button("A link for the student").click()
    return page.wait(lambda: page.one("[data-testid=link]").get_attribute("value"))


def download(page, path):
    """A file as the signed-in person gets it."""
    cookies = "; ".join(f"{c['name']}={c['value']}" for c in page.driver.get_cookies())
    request = urllib.request.Request(page.url + path, headers={"Cookie": cookies})
    with urllib.request.urlopen(request, timeout=300) as answer:
        return answer.read()


def test_a_studio_taken_out_and_read_in_elsewhere_is_equal(page, tmp_path_factory):
    page.measured()
    page.wait(lambda: page.fetch("/api/v1/takes/desk")["counts"]["unfinished"] == 0)
    page.open("/studio")
    page.one("[data-testid=take-out]")
    taken = download(page, "/api/v1/reports/archive")
    folder = tmp_path_factory.mktemp("elsewhere")
    file = folder / "studio.zip"
    file.write_bytes(taken)
    other = start(folder / "data", "--empty")
    try:
        add_teacher(folder / "data", "new@elsewhere.example", "Ines Maravel")
        with chromium() as driver:
            there = Pages(driver, other.url)
            there.open("/")
            there.one("input[name=email]")
            there.sign_in("new@elsewhere.example", PASSWORD)
            there.wait(lambda: there.all("nav"))
            there.open("/studio")
            letter = folder / "letter.zip"
            letter.write_bytes(b"Dear Ines")
            there.one("[data-testid=archive-file]").send_keys(str(letter))
            assert "Nothing was changed." in there.sentence()
            there.one("[data-testid=archive-file]").send_keys(str(file))
            there.wait(lambda: "are back" in there.text("[data-testid=restored]"))
            assert {s["name"] for s in there.fetch("/api/v1/students")} == {
                s["name"] for s in page.fetch("/api/v1/students")
            }
            again = download(there, "/api/v1/reports/archive")
            ours, theirs = contents(taken), contents(again)
            assert ours.keys() == theirs.keys()
            differs = {name for name in ours if ours[name] != theirs[name]}
            # The leading teacher is who read it in, and that it was is written down.
            assert differs <= {"manifest.json", "tables/users.jsonl", "tables/audit.jsonl"}
            take = there.measured()
            there.open(f"/takes/{take['id']}")
            there.sheet()
    finally:
        assert other.stop() == 0


def contents(archive):
    with zipfile.ZipFile(io.BytesIO(archive)) as file:
        return {name: file.read(name) for name in file.namelist()}


def test_discomfort_rests_every_ladder_until_it_is_cleared(app, page):
    with chromium(width=390, height=844) as driver:
        phone = Pages(driver, app.url)
        phone.enter("oda@quayside.example")
        phone.one("[data-testid=today]")
        phone.button("I stopped: something hurts").click()
        field(phone, "Where, and how").send_keys("left wrist")
        phone.button("Stop here").click()
        phone.wait(lambda: "left wrist" in phone.text("[data-testid=hold]"))
        narrow(phone)
    student = next(s["id"] for s in page.fetch("/api/v1/students") if s["name"] == "Oda Vintersee")
    page.open(f"/students/{student}/plan")
    page.wait(lambda: {a.get_attribute("data-move") for a in page.all("[data-assignment]")} == {"held"})
    page.button("It is over: let the ladders go on").click()
    page.wait(lambda: "held" not in {a.get_attribute("data-move") for a in page.all("[data-assignment]")})
    assert not page.all("[data-testid=hold]")


def test_a_day_is_put_off_and_practice_times_are_kept(page):
    student = next(s["id"] for s in page.fetch("/api/v1/students") if s["name"] == "Jory Tamsin")
    page.open(f"/students/{student}/plan")
    page.one("[data-testid=week]")
    page.one("[aria-label='The week after']").click()
    page.wait(lambda: page.all("h2")[0].text != "This week" and len(page.all("[data-day]")) == 7)
    blocks = {
        d.get_attribute("data-day"): len(d.find_elements("css selector", "li button")) for d in page.all("[data-day]")
    }
    since = next(day for day, count in blocks.items() if count)
    next(d for d in page.all("[data-day]") if d.get_attribute("data-day") == since).find_elements(
        "css selector", "button"
    )[0].click()
    page.button("Leave it out").click()
    page.wait(lambda: not page.all("[role=dialog]"))
    page.wait(
        lambda: (
            len(
                next(d for d in page.all("[data-day]") if d.get_attribute("data-day") == since).find_elements(
                    "css selector", "li button"
                )
            )
            < blocks[since]
        )
    )

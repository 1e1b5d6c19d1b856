"""A new student's guitar, its set-up take, a bend take read against it; and the bench."""

import io
import re

import pytest
import soundfile
from fortimetra.drills.fretted_then_bend import fretted_then_bend
from fortimetra.drills.set_up import set_up
from fortimetra.player.faults import Faults, NoteFault
from selenium.webdriver.common.keys import Keys

from tests.kept import render

DRILL = "String 3: full bend at fret 7"
OFFSETS = (0.0, 0.0, 11.0, 0.0, -8.0, 0.0)
CENTS = 1.0
# Calculator, what is typed, output, what it must say. Worked examples; sources at each.
EXAMPLES = [
    # ISO 16, A4 = 440 Hz.
    ("converter", {"value": "G3"}, "hz", "195.998"),
    # 440 (2^(10/1200) - 1) beats.
    ("beats", {}, "beats_hz", "2.55"),
    # A quarter-note click at 60 with four notes per click: 250 ms (common practice, no source).
    ("tempo", {}, "note_ms", "250.0"),
    # Rule of 2^(1/12): the 12th fret halves the scale.
    ("frets", {"scale_mm": "650"}, "twelfth_mm", "325.00"),
    # OpenStax, University Physics 1, waves on a guitar string: 3.09e-4 kg/m, 56.40 N, 427.23 m/s (from memory).
    ("tension", {"unit_weight": "0.309", "note": "E4", "scale_mm": "648.1"}, "tension_n", "56.4"),
    # (L + c) / (L/2 + c) = 2 * 2^(-5/1200) at L = 648.
    ("intonation", {}, "shift_mm", "1.88"),
    ("push", {"bend_cents": "200"}, "push_mm", "10.9"),
    ("choke", {"radius_mm": "0", "push_mm": "20"}, "says", "sounds"),
]


def flac(path, drill, faults):
    sound, truth = render(drill, faults)
    out = io.BytesIO()
    soundfile.write(out, sound, truth.sample_rate_hz, format="FLAC", subtype="PCM_16")
    path.write_bytes(out.getvalue())
    return path


def field(page, label):
    found = page.wait(lambda: next((x for x in page.all("label") if x.text.strip() == label), None))
    return page.one(f"[id='{found.get_attribute('for')}']")


def type_over(page, element, text):
    element.send_keys(Keys.CONTROL, "a")
    element.send_keys(text)


def test_a_new_students_guitar_is_described_set_up_and_read_against(page, tmp_path):
    set_up_take = flac(
        tmp_path / "set-up.flac",
        set_up(),
        Faults(tuning_offset_cents=OFFSETS, notes={"twelfth2": NoteFault(cents=9.0)}),
    )
    # Without its fretted target in the take: the guitar's own tuning is the reference.
    asked = fretted_then_bend(title="t", string=3, fret=7, repeats=4, bpm=66)
    bends = Faults(
        tuning_offset_cents=OFFSETS, notes={"bend": NoteFault(cents=-20.0), "target": NoteFault(missed=True)}
    )
    bend_take = flac(tmp_path / "bends.flac", asked, bends)

    page.open("/students")
    name = page.one("form input")
    name.send_keys("Hild Orrey")
    page.button("Add").click()
    page.wait(
        lambda: any(
            "Hild Orrey" in li.text and "no consent" in li.text for li in page.all("[data-testid=students] tbody tr")
        )
    )
    page.button("Enter consent").click()
    page.button("Save").click()
    page.wait(lambda: not page.all("[data-testid=not-agreed]"))
    page.wait(lambda: next((a for a in page.all("[data-testid=students] a") if a.text == "Hild Orrey"), None)).click()
    field(page, "New guitar").send_keys("Attic guitar")
    page.button("Add").click()
    page.wait(lambda: page.all("[data-testid=strings]"))
    assert "No set-up take yet" in page.text("main")

    # Described: inches, another first string, a lowered A4; kept.
    page.button("inch").click()
    gauge = page.one("input[id]") and next(
        i for i in page.all("[data-testid=strings] input") if i.get_attribute("value") == "10"
    )
    type_over(page, gauge, "11")
    page.wait(lambda: "88 N" in page.text("[data-testid=strings]"))
    page.button("Save").click()
    page.wait(lambda: "Saved." in page.text("form[aria-label=Description]"))
    guitar = int(page.driver.current_url.rsplit("/", 1)[1])
    assert page.fetch(f"/api/v1/guitars/{guitar}")["description"]["strings"][0]["gauge_mm"] == pytest.approx(0.2794)

    page.hand_over(set_up_take)
    page.button("Measure it").click()
    page.sheet()
    found = page.one("[data-testid=set-up]")
    assert found.find_element("css selector", "[data-usable]").get_attribute("data-usable") == "yes"
    offsets = {
        int(row.get_attribute("data-string")): float(
            re.match(r"[+−]?[\d.]+", row.find_element("css selector", "[data-testid=offset]").text)
            .group()
            .replace("−", "-")
        )
        for row in page.all("[data-string]")
    }
    assert offsets == pytest.approx(dict(enumerate(OFFSETS, 1)), abs=CENTS)
    assert [li.get_attribute("data-code") for li in page.all("[data-code]")] == [
        "string_off",
        "string_off",
        "intonation",
    ]

    page.open("/")
    page.wait(lambda: page.all("tr[data-take]"))
    page.add(bend_take, "Hild Orrey", DRILL)
    page.wait(lambda: "/takes/" in page.driver.current_url)
    page.sheet()
    used = page.one("[data-testid=set-up-used]").text
    assert used.startswith("Read against the set-up take of")
    assert "3 +11" in used or "3 +10." in used
    rows = [r.find_element("css selector", "[data-testid=error]").text for r in page.all("tr[data-note^=bend]")]
    errors = [float(text.split("±")[0].replace("−", "-")) for text in rows]
    assert errors == pytest.approx([-20.0] * 4, abs=CENTS)
    page.open(f"/guitars/{guitar}")
    page.wait(lambda: page.all("[data-testid=set-up]"))


def test_a_set_up_with_a_string_tuned_to_something_else_names_it(page, tmp_path):
    take = flac(
        tmp_path / "odd.flac",
        set_up(),
        Faults(tuning_offset_cents=(0, 0, -100.0, 0, 0, 0), notes={"open5": NoteFault(missed=True)}),
    )
    guitar = next(g for g in page.fetch("/api/v1/guitars") if g["student"] == "Mirren Salk")
    page.open(f"/guitars/{guitar['id']}")
    page.wait(lambda: page.all("[data-testid=strings]"))
    page.hand_over(take)
    page.button("Measure it").click()
    page.sheet()
    said = page.text("[data-testid=set-up]")
    assert "near" in said
    assert "F#3" in said
    assert "String 5 was not heard open" in said
    page.button("Delete").click()
    page.button("Delete for good").click()
    page.wait(lambda: page.all("tr[data-take]"))


def test_an_impossible_gauge_and_a_breaking_string_are_said_where_they_are_typed(page):
    guitar = page.fetch("/api/v1/guitars")[0]
    page.open(f"/guitars/{guitar['id']}")
    page.wait(lambda: page.all("[data-testid=strings]"))
    pitch, gauge = page.all("[data-testid=strings] input")[:2]
    type_over(page, pitch, "B4")
    page.wait(lambda: any("Keep the face away" in a.text for a in page.all("[role=alert]")))
    type_over(page, pitch, "E4")
    type_over(page, gauge, "0")
    page.button("Save").click()
    page.wait(lambda: any("gauge_mm" in a.text for a in page.all("[role=alert]")))
    assert page.fetch(f"/api/v1/guitars/{guitar['id']}")["description"]["strings"][0]["gauge_mm"] > 0.2


@pytest.mark.parametrize(("calculator", "typed", "output", "says"), EXAMPLES, ids=[e[0] for e in EXAMPLES])
def test_calculators_keep_their_worked_examples_and_their_address(page, calculator, typed, output, says):
    page.open(f"/bench/{calculator}")
    page.wait(lambda: page.all("[data-output]"))
    for name, text in typed.items():
        type_over(page, page.one(f"input[name={name}]"), text)
    page.wait(lambda: page.text(f"[data-output={output}]") == says)
    address = page.driver.current_url
    page.open("/bench/targets")
    page.wait(lambda: page.all("[data-testid=target]"))
    page.driver.get(address)
    page.wait(lambda: page.text(f"[data-output={output}]") == says)


def test_nonsense_in_a_calculator_is_said_and_the_page_goes_on(page):
    page.open("/bench/tension?scale_mm=0")
    assert "Scale: 0 is outside 300 to 900 mm" in page.sentence()
    type_over(page, page.one("input[name=scale_mm]"), "648")
    page.wait(lambda: page.all("[data-output=tension_n]"))


def test_a_calculator_is_filled_in_from_a_guitar(page):
    page.open("/bench/tension")
    page.wait(lambda: page.all("[data-output]"))
    guitar = next(g for g in page.fetch("/api/v1/guitars") if g["kind"] == "semi_hollow")
    page.choose("Fill in from a guitar", f"{guitar['name']}, {guitar['student']}")
    page.wait(lambda: page.one("input[name=gauge]").get_attribute("value") == "18")
    assert page.one("input[name=scale_mm]").get_attribute("value") == "628"
    assert page.one("input[name=note]").get_attribute("value") == "G3"


def test_targets_are_found_and_heard(page):
    page.open("/bench/targets?string=2&fret=8&bend=200")
    page.wait(lambda: page.text("[data-testid=target]").startswith("A4"))
    assert "string 1, fret 5" in page.text("[data-testid=targets]")
    assert len(page.all("[data-testid=target-table] tbody tr")) == 22
    page.button("Hear the target").click()
    page.wait(lambda: page.button("Hear the target").get_attribute("aria-pressed") == "true")
    type_over(page, page.one("input[inputmode=numeric]"), "9")
    assert "no string 9" in page.sentence()


def test_an_ear_check_is_taken_by_keyboard_to_its_end(page):
    page.open("/bench/ear")
    page.choose("Who listens", "Mirren Salk")
    page.choose("To what", "Loud and soft")
    page.button("Begin").click()
    for number in range(60):
        if page.wait(lambda n=number: page.all("[data-testid=ear-result]") or page.all(f"[data-answered='{n}']"))[
            0
        ].get_attribute("data-testid"):
            break
        page.press("3")
    assert "trials" in page.text("[data-testid=ear-result]")
    student = next(s for s in page.fetch("/api/v1/students") if s["name"] == "Mirren Salk")
    (kept,) = page.fetch(f"/api/v1/bench/ear-checks?student_id={student['id']}")
    assert kept["finished"]

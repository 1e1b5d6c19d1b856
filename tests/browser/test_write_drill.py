"""A drill is written by keyboard alone, by pointer, kept as one goes on; goes out, comes back; is heard."""

from __future__ import annotations

from pathlib import Path

import mido
import pytest
from fortimetra.drills.fretted_then_bend import fretted_then_bend
from fortimetra.formats.musicxml_out import drill_to_musicxml
from fortimetra.model.drill import Drill
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

FRAMES = """
const [done] = [arguments[arguments.length - 1]];
const board = document.querySelector("[data-testid=edit-sheet]");
const frames = [];
let left = 90;
const turn = (now) => {
  const key = left % 3 === 0 ? "ArrowRight" : String(left % 8);
  board.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true }));
  left -= 1;
  if (left > 0) requestAnimationFrame(turn);
  else done();
};
requestAnimationFrame(turn);
"""


def keys(page, *presses):
    """Keys one after the other; ("ctrl", "z") holds the first."""
    for press in presses:
        if isinstance(press, tuple):
            held = {"ctrl": Keys.CONTROL, "shift": Keys.SHIFT, "alt": Keys.ALT}[press[0]]
            ActionChains(page.driver).key_down(held).send_keys(press[1]).key_up(held).perform()
        else:
            page.press(press)


def kept(page):
    page.wait(lambda: page.one("[data-testid=kept]").get_attribute("data-state") == "kept")


def drill_of(page):
    return page.driver.current_url.split("/drills/")[1].split("/")[0]


def content(page, drill):
    return page.fetch(f"/api/v1/drills/{drill}")["content"]


def sounding(found):
    return [
        (e["beat"], e["articulation"], [(n["string"], n["fret"]) for n in e["notes"]])
        for e in found["events"]
        if e["notes"]
    ]


@pytest.fixture
def empty(page):
    """An empty sheet, ready for keys."""
    page.open("/drills")
    page.wait(lambda: page.all("main li"))
    page.button("Empty sheet").click()
    page.one("[data-testid=edit-sheet]")
    return page


def to_sheet(page):
    """Reach the sheet by the Tab key."""
    for _ in range(60):
        page.press(Keys.TAB)
        if page.driver.switch_to.active_element.get_attribute("data-testid") == "edit-sheet":
            return
    raise AssertionError("the sheet is not reached by Tab")


def test_a_drill_is_written_by_keyboard_alone(empty):
    page = empty
    to_sheet(page)
    keys(page, "9", Keys.ARROW_RIGHT, "7", "b", Keys.ARROW_RIGHT, "5", Keys.ARROW_RIGHT, "7", "h", Keys.ARROW_RIGHT)
    keys(page, "]", "]", "1", "2", Keys.ARROW_RIGHT, "8", "a", Keys.ARROW_RIGHT, "x", Keys.ARROW_UP, "5")
    keys(page, ("shift", Keys.ARROW_LEFT), ("ctrl", "c"), Keys.ESCAPE, ("ctrl", Keys.ARROW_RIGHT), ("ctrl", "v"))
    keys(page, ("ctrl", "z"), ("ctrl", "y"))
    kept(page)
    found = content(page, drill_of(page))
    assert sounding(found)[:4] == [
        (0.0, "pick", [(3, 9)]), (1.0, "pick", [(3, 7)]), (2.0, "pick", [(3, 5)]), (3.0, "hammer", [(3, 7)]),
    ]  # fmt: skip
    asked = {"kind": "bend", "target_cents": 200.0, "reference": found["events"][0]["id"]}
    assert found["events"][1]["bend"].items() >= asked.items()
    triplet = sounding(found)[4:7]
    assert [e[0] for e in triplet] == pytest.approx([4, 4 + 1 / 3, 4 + 2 / 3], abs=1e-5)
    assert [e[2] for e in triplet] == [[(3, 12)], [(3, 8)], [(3, None), (2, 5)]]
    assert sounding(found)[7][0] == 8.0
    Drill.model_validate(found)
    next(b for b in page.all("button") if b.text == "Done").send_keys(Keys.ENTER)
    page.wait(lambda: page.all("[data-testid=listen]") and page.text("h1") == "New drill")


def test_the_place_and_what_does_not_go_are_said(empty):
    page = empty
    page.one("[data-testid=edit-sheet]").send_keys("5")
    page.wait(lambda: page.one("[data-testid=place]").get_attribute("textContent") == "Bar 1, beat 1, string 3: fret 5")
    keys(page, *[("ctrl", Keys.ARROW_DOWN)] * 6)
    page.wait(lambda: "fret -1" in page.text("[data-testid=said]"))
    keys(page, "?")
    page.wait(lambda: "hammer-on" in page.text("[role=dialog]"))
    keys(page, Keys.ESCAPE)


def test_what_cannot_be_played_is_said_as_one_writes(empty):
    page = empty
    page.one("[data-testid=edit-sheet]").send_keys("7", Keys.ARROW_RIGHT, "5", "h")
    page.wait(lambda: "Bar 1, beat 2: a hammer-on from fret 7" in page.text("[data-testid=problems]"))
    page.one("[data-testid=problems] button").click()
    page.wait(lambda: page.one("[data-testid=place]").get_attribute("textContent").startswith("Bar 1, beat 2"))
    page.one("[data-testid=edit-sheet]").send_keys("p")
    page.wait(lambda: not page.all("[data-testid=problems]"))


def test_the_pointer_chooses_places_and_spans(empty):
    page = empty
    board = page.one("[data-testid=edit-sheet] > div")
    cursor = page.one("[data-cursor]")
    start = (cursor.rect["x"] + cursor.rect["width"] / 2, cursor.rect["y"] + cursor.rect["height"] / 2)
    middle = (board.rect["x"] + board.rect["width"] / 2, board.rect["y"] + board.rect["height"] / 2)
    at = lambda dx, dy: (round(start[0] - middle[0] + dx), round(start[1] - middle[1] + dy))  # noqa: E731
    ActionChains(page.driver).move_to_element_with_offset(board, *at(78, 13)).click().perform()
    page.wait(
        lambda: page.one("[data-testid=place]").get_attribute("textContent").startswith("Bar 1, beat 2, string 4")
    )
    ActionChains(page.driver).move_to_element_with_offset(
        board, *at(0, 0)
    ).click_and_hold().move_to_element_with_offset(board, *at(160, 0)).release().perform()
    page.wait(lambda: page.all("[data-testid=selected-span]"))


def test_panels_set_what_keys_set(empty):
    page = empty
    page.one("[data-testid=edit-sheet]").send_keys("9", Keys.ARROW_RIGHT, "7")
    page.choose("Bend", "pre-bend, let down")
    page.choose("Vibrato", "dips below, back up")
    page.choose("Slurs", "light, even")
    page.choose("Speed is gained by", "stay until effortless")
    tempo = next(f for f in page.all("[data-testid=settings] label") if f.text == "Tempo")
    field = page.driver.find_element(By.ID, tempo.get_attribute("for"))
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("96", Keys.TAB)
    kept(page)
    found = content(page, drill_of(page))
    event = next(e for e in found["events"] if e["beat"] == 1.0)
    assert (event["bend"]["kind"], event["vibrato"]["return"]) == ("prebend", "top")
    assert (found["school"]["slur_force"], found["school"]["speed"]) == ("light", "overlearn")
    assert found["tempo"]["bpm"] == 96.0


def test_what_was_not_kept_is_there_again_after_the_page_was_closed(empty):
    page = empty
    address = page.driver.current_url
    page.one("[data-testid=edit-sheet]").send_keys("7")
    page.driver.get("about:blank")
    page.driver.get(address)
    page.wait(lambda: "is here again" in page.text("main"))
    kept(page)
    assert sounding(content(page, drill_of(page))) == [(0.0, "pick", [(3, 7)])]


def test_a_drill_changed_elsewhere_is_not_overwritten(empty):
    page = empty
    drill = drill_of(page)
    page.driver.execute_async_script(
        "const [id, done] = arguments; const c = document.cookie.match(/csrftoken=([^;]+)/)[1];"
        "fetch(`/api/v1/drills/${id}`).then((r) => r.json()).then((d) => fetch(`/api/v1/drills/${id}/content`, "
        "{method: 'PUT',"
        "headers: {'Content-Type': 'application/json', 'X-CSRFToken': c},"
        "body: JSON.stringify({content: {...d.content, title: 'Elsewhere'}, number: d.version})})).then(done)",
        drill,
    )
    page.one("[data-testid=edit-sheet]").send_keys("7")
    page.wait(lambda: "changed elsewhere" in page.text("[data-testid=kept]"))
    assert page.fetch(f"/api/v1/drills/{drill}")["title"] == "Elsewhere"


def test_an_older_version_comes_back(page):
    take = page.measured(lambda t: t["family"] != "set_up")
    drill = take["drill_id"]
    before = content(page, drill)
    page.open(f"/drills/{drill}/write")
    page.one("[data-testid=edit-sheet]").send_keys("4")
    kept(page)
    assert content(page, drill) != before
    page.open(f"/drills/{drill}")
    page.wait(lambda: page.all("[data-testid=versions] summary"))
    page.one("[data-testid=versions] summary").click()
    page.button("Look at it").click()
    page.button("Go back to version 1").click()
    page.wait(lambda: content(page, drill) == before)
    assert page.fetch(f"/api/v1/takes/{take['id']}")["state"] == "measured"


def bring(page, file):
    page.open("/drills")
    page.wait(lambda: page.all("main li"))
    page.one("input[aria-label='Drill file']").send_keys(str(file))


def test_a_drill_goes_out_as_musicxml_and_comes_back(page, tmp_path):
    wanted = next(d for d in page.fetch("/api/v1/drills") if d["family"] == "legato_cycle")
    page.open(f"/drills/{wanted['id']}")
    link = page.wait(lambda: next((a for a in page.all("a") if a.text == "MusicXML"), None)).get_attribute("href")
    text = page.driver.execute_async_script("fetch(arguments[0]).then((r) => r.text()).then(arguments[1])", link)
    file = tmp_path / "legato.musicxml"
    file.write_text(text)
    bring(page, file)
    page.wait(lambda: page.all("[data-testid=tab]"))
    assert "Everything in the file was kept." in page.text("main")
    page.button("Keep this drill").click()
    page.wait(lambda: "/import/" not in page.driver.current_url and page.all("[data-testid=listen]"))
    drill = drill_of(page)
    assert drill != str(wanted["id"])
    assert content(page, drill) == content(page, wanted["id"])


def test_places_of_a_midi_file_are_proposed_and_looked_over(page, tmp_path):
    track = mido.MidiTrack([mido.MetaMessage("track_name", name="Slipway riff")])
    for number in (57, 60, 62, 64):
        track += [mido.Message("note_on", note=number, velocity=90), mido.Message("note_off", note=number, time=480)]
    midi = mido.MidiFile(ticks_per_beat=480, tracks=[track])
    midi.save(str(tmp_path / "slipway.mid"))
    bring(page, tmp_path / "slipway.mid")
    page.wait(lambda: "4 places are a proposal" in page.text("[data-testid=proposed]"))
    assert "no tempo" in page.text("[data-testid=lost]")
    page.button("Keep and write on").click()
    page.one("[data-testid=edit-sheet]")
    assert page.one("h1").get_attribute("textContent") == "Write: Slipway riff"


@pytest.mark.parametrize(
    ("name", "data", "says"),
    [
        ("x.musicxml", b"<html/>", "This is not a MusicXML score"),
        ("x.mid", b"no midi", "not a MusicXML file"),
        ("x.json", b"{}", "Drill is not valid"),
        ("bomb.xml", b'<!DOCTYPE s [<!ENTITY a "b">]><score-partwise>&a;</score-partwise>', "entities"),
    ],
)  # fmt: skip
def test_a_broken_file_ends_in_a_sentence(page, tmp_path, name, data, says):
    before = len(page.fetch("/api/v1/drills"))
    (tmp_path / name).write_bytes(data)
    bring(page, tmp_path / name)
    page.wait(lambda: says in page.text("[role=alert]"))
    assert len(page.fetch("/api/v1/drills")) == before


def test_a_drill_is_heard_and_the_cursor_follows(page):
    page.open("/drills/new/fretted_then_bend")
    page.one("[data-testid=listen]")
    page.button("Listen").click()
    page.wait(lambda: page.one("[data-testid=listen]").get_attribute("data-state") == "playing")
    places = set()
    page.wait(lambda: places.add(page.one("[data-testid=heard-at]").get_attribute("style")) or len(places) > 4)
    page.button("Stop").click()
    page.wait(lambda: page.one("[data-testid=listen]").get_attribute("data-state") == "still")
    page.one("[data-testid=listen] summary").click()
    bends = next(s for s in page.all("[role=slider]"))
    bends.send_keys(Keys.ARROW_LEFT * 20)
    page.wait(lambda: bends.get_attribute("aria-valuetext") == "20 cents flat")
    page.button("Listen with the fault").click()
    page.wait(lambda: page.one("[data-testid=listen]").get_attribute("data-state") == "playing")
    page.button("Listen clean").click()
    page.wait(lambda: page.one("[data-testid=listen]").get_attribute("data-state") == "playing")
    page.button("Stop").click()


def test_the_library_is_found_by_level_tag_and_string(page):
    page.open("/drills")
    page.wait(lambda: page.all("main li"))
    page.choose("Level", "advanced")
    page.choose("Tag", "bends")
    page.wait(lambda: page.all("main li") and all("advanced" in row.text for row in page.all("main li")))
    wanted = [d for d in page.fetch("/api/v1/drills") if d["level"] == 3 and "bends" in d["tags"] and not d["archived"]]
    assert len(page.all("main li")) == len(wanted)
    page.choose("Level", "any")
    page.choose("String", "6")
    page.wait(lambda: not page.all("main li") or "string 6" in page.text("main li").lower())


def test_500_events_take_a_key_in_every_frame_and_are_kept(page, tmp_path):
    base = fretted_then_bend(title="Long one", string=3, fret=7)
    events = [
        {
            "id": f"e{i}",
            "beat": i * 0.25,
            "length": 0.25,
            "articulation": "pick",
            "notes": [{"string": 1 + i % 6, "fret": i % 12}],
        }
        for i in range(500)
    ]
    long = Drill.model_validate(base.model_dump(mode="json") | {"events": events, "family": "free", "repeats": 1})
    file = Path(tmp_path / "long.json")
    file.write_text(long.model_dump_json(by_alias=True))
    bring(page, file)
    page.wait(lambda: page.all("[data-testid=listen]"))
    page.open(f"/drills/{drill_of(page)}/write")
    page.one("[data-testid=edit-sheet]")
    # A key in every frame; how quick the frames are is a figure of ./run bench pages.
    board, before = drill_of(page), len(long.events)
    page.driver.execute_async_script(FRAMES)
    kept(page)
    assert len(content(page, board)["events"]) == before
    assert content(page, board) != long.model_dump(mode="json", by_alias=True)


def test_a_sheet_prints_without_what_is_only_for_the_screen(page):
    wanted = next(d for d in page.fetch("/api/v1/drills") if d["family"] == "legato_cycle")
    page.open(f"/drills/{wanted['id']}")
    page.one("[data-testid=tab]")
    page.driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"media": "print"})
    try:
        assert not page.one("header").is_displayed()
        assert not page.one("[data-testid=listen]").is_displayed()
        assert page.one("[data-testid=tab] svg").is_displayed()
        printed = page.driver.execute_cdp_cmd("Page.printToPDF", {"paperWidth": 8.27, "paperHeight": 11.69})
        assert len(printed["data"]) > 5_000
    finally:
        page.driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"media": ""})


def test_the_file_of_the_page_is_the_cores(page):
    wanted = page.fetch("/api/v1/drills")[3]
    drill = Drill.model_validate(content(page, wanted["id"]))
    text = page.driver.execute_async_script(
        "fetch(arguments[0]).then((r) => r.text()).then(arguments[1])",
        f"/api/v1/drills/{wanted['id']}/file?kind=musicxml",
    )
    assert text == drill_to_musicxml(drill).decode()

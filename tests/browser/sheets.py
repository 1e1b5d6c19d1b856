"""What tests read from a take's sheet."""

from __future__ import annotations


def counts(page) -> dict[str, int]:
    """The counts at the head of a sheet."""
    return {
        c.get_attribute("data-count"): int(c.find_element("css selector", "dd").text)
        for c in page.all("[data-testid=counts] [data-count]")
    }


def opened(page, family="fretted_then_bend", student="Oda Vintersee", wanted=lambda t: t["summary"]["not_clean"]):
    """A sheet of the demo, and its take."""
    take = page.measured(lambda t: t["family"] == family and t["student"] == student and wanted(t))
    page.open(f"/takes/{take['id']}")
    page.sheet()
    return take


def short(take):
    """A take whose bends stop short."""
    return take["headline"] == "Bends stop short"


def selected(page):
    return page.one("tr[aria-current=true][data-note]").get_attribute("data-note")


def unfolded(page):
    """The causes with why and what to try, also where they were read before."""
    for button in page.all("[data-testid=causes] button[aria-expanded=false]"):
        button.click()
    page.wait(lambda: page.all("[data-testid=causes] button[aria-expanded=true]"))

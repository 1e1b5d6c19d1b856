"""How long the pages take in the real application, as ratios to references in the same run. `./run bench pages`.

The application runs on the demo with a crowd beside it (200 students, 20,000 takes). References: for the server, 2000
spectra of 4096 samples in this process; for what a browser draws, a loop of 20 million additions in the same page; for
frames, the time between two of them at 60 a second.
"""

from __future__ import annotations

import subprocess
import sys
import tempfile
import time
from pathlib import Path

from selenium.webdriver.chrome.webdriver import WebDriver

from benchmarks._limits import Row, best_ms, spectra, table
from tests.browser import demo
from tests.browser.chromium import chromium
from tests.browser.pages import Pages
from tests.browser.running import ROOT, Running, start

EMAIL, STUDENT = "teacher@quayside.example", "oda@quayside.example"
LOOP = (
    "const began = performance.now(); let sum = 0; for (let i = 0; i < 2e7; i += 1) sum += i % 7; "
    "return performance.now() - began + 0 * sum;"
)
SCROLL = """
const done = arguments[0], box = document.querySelector('[data-testid=strips]'), frames = [], start = performance.now();
let last = start;
const step = (t) => {
  frames.push(t - last); last = t; box.scrollLeft = (t - start) * 0.9;
  if (t - start < 2500) requestAnimationFrame(step); else done(frames.slice(2));
};
requestAnimationFrame(step);
"""
READY = (
    "const ends = performance.getEntriesByType('resource').filter((e) => /analysis$|curves$/.test(e.name))"
    ".map((e) => e.responseEnd); return performance.getEntriesByName('sheet-ready')[0].startTime - Math.max(...ends)"
)
SLOW_NETWORK = {"offline": False, "downloadThroughput": 200_000, "uploadThroughput": 94_000, "latency": 150}
WATCH_SHIFTS = """
window.moved = 0;
new PerformanceObserver((list) => {
  for (const e of list.getEntries()) if (!e.hadRecentInput) window.moved += e.value;
}).observe({type: 'layout-shift', buffered: true});
"""
# Nothing was asked of the server for a while.
CALM = (
    "return performance.now() - Math.max(...performance.getEntriesByType('resource').map((e) => e.responseEnd)) > 1500"
)
FETCH = (
    "const [path, done] = arguments; const began = performance.now();"
    "fetch(path).then((r) => r.text()).then(() => done(performance.now() - began))"
)
SERVED = (
    ("Desk, 100 rows", "/api/v1/takes/desk?limit=100"),
    ("students", "/api/v1/students"),
    ("newest 100 takes", "/api/v1/takes?limit=100"),
    ("drills", "/api/v1/drills"),
    ("what students need", "/api/v1/plans/needs"),
    ("class at a glance", "/api/v1/reports/class"),
)


def served(page: Pages) -> list[Row]:
    """What the server answers, seen from a browser on the same machine: the best of seven."""
    rows = []
    _, reference = best_ms(lambda: None, spectra)
    for name, path in SERVED:
        found = min(page.driver.execute_async_script(FETCH, path) for _ in range(7))
        # Of 200 students, three times a large class.
        rows.append(Row(name, found, reference, 3.0 if "class" in name else 2.0))
    return rows


def drawn(page: Pages) -> list[Row]:
    """The sheet after its data, and a key until it sounds, against a loop in the same page."""
    take = page.measured(lambda t: t["family"] == "legato_cycle")
    ready, delays = [], []
    for _ in range(3):
        page.open(f"/takes/{take['id']}")
        page.sheet()
        ready.append(page.driver.execute_script(READY))
    for _ in range(4):
        page.press("+")
    page.wait(lambda: page.button("Alone").is_enabled())
    loop = min(page.driver.execute_script(LOOP) for _ in range(3))
    frames = page.driver.execute_async_script(SCROLL)
    page.press("l")
    for _ in range(5):
        page.press("p")
        page.wait(lambda: page.button("Alone").get_attribute("aria-pressed") == "true")
        page.press("p")
    delays = page.driver.execute_script("return performance.getEntriesByName('key-to-sound').map((e) => e.duration)")
    return [
        Row("sheet of 192 notes, after its data", min(ready), loop, 20.0),
        Row("from the key to the sound", sorted(delays)[len(delays) // 2], loop, 4.0),
        Row("a frame while the strips scroll", sum(frames) / len(frames), 1000.0 / 60.0, 2.0),
    ]


def painted(page: Pages, paths: dict[str, str]) -> list[Row]:
    """Until something is seen on a slow telephone (a fourth of this machine's speed, 1.6 Mbit/s, 150 ms each way), with
    nothing kept from before; and what moves meanwhile, in thousandths of the screen (100 count as little: Web Vitals).
    """
    driver, rows = page.driver, []
    driver.execute_cdp_cmd("Network.enable", {})
    driver.execute_cdp_cmd("Network.setCacheDisabled", {"cacheDisabled": True})
    driver.execute_cdp_cmd("Emulation.setCPUThrottlingRate", {"rate": 4})
    driver.execute_cdp_cmd("Network.emulateNetworkConditions", SLOW_NETWORK)
    driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": WATCH_SHIFTS})
    for name, path in paths.items():
        page.open(path)
        page.wait(lambda: page.all("h1") and not page.all("main [role=status]"))
        page.wait(lambda: page.driver.execute_script(CALM))
        first, moved = driver.execute_script(
            "return [performance.getEntriesByName('first-contentful-paint')[0].startTime, window.moved]"
        )
        rows.append(Row(f"{name}: first paint, of a second", first, 1000.0, 1.0))
        rows.append(Row(f"{name}: moved while it loads", 1000 * moved, 100.0, 0.1, unit="‰"))
    return rows


def started(data: Path) -> list[Row]:
    """A second start on a folder that is set up, beside the processes' own imports."""
    began = time.perf_counter()
    subprocess.run([sys.executable, "-c", "import django, celery, ninja, numpy, scipy.signal"], check=True)
    imports = 1000 * (time.perf_counter() - began)
    again = start(data, "--empty")
    assert again.stop() == 0
    return [Row("a second start", 1000 * again.began_s, imports, 20.0)]


def crowd(running: Running, *, students: int = 200, takes: int = 20_000) -> None:
    """Beside the demo's own, for the demo's teacher."""
    subprocess.run(
        [sys.executable, str(ROOT / "run"), "manage", "--data", str(running.data), "load_crowd", EMAIL,
         "--students", str(students), "--takes", str(takes)],
        check=True, capture_output=True,
    )  # fmt: skip


def signed_in(driver: WebDriver, running: Running, email: str) -> Pages:
    """The application's first page, of who has this address."""
    page = Pages(driver, running.url)
    page.enter(email)
    page.wait(lambda: not page.all("main [role=status]"))
    return page


def main() -> int:
    """Every table; the worst exit status."""
    with tempfile.TemporaryDirectory() as folder:
        data = Path(folder) / "data"
        demo.copy_to(data)
        running = start(data)
        try:
            with chromium(width=390, height=844) as driver:
                page = signed_in(driver, running, STUDENT)
                rows = painted(page, {"Today": "/", "a student's recorder": "/record", "Progress": "/progress"})
            with chromium() as driver:
                page = signed_in(driver, running, EMAIL)
                sheet = f"/takes/{page.measured()['id']}"
                rows += painted(page, {"Desk": "/", "Students": "/students", "sheet": sheet, "Record": "/record"})
            status = table("Painted, on a slow telephone", rows)
            with chromium() as driver:
                page = signed_in(driver, running, EMAIL)
                status |= table("Drawn, beside a loop in the page", drawn(page))
                crowd(running)
                status |= table("Served, 20,000 takes, beside 2000 spectra", served(page))
        finally:
            assert running.stop() == 0
        return status | table("Started", started(data))


if __name__ == "__main__":
    sys.exit(main())

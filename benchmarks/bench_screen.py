"""From a key to the picture: a word is nudged in a real browser, against what the server alone takes."""

from __future__ import annotations

import statistics
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from selenium.webdriver.common.keys import Keys
from tests.browser.machine import Browser, Server, open_browser

from benchmarks.bench_edit import ten_series
from benchmarks.measure import Ratio

ROWS = 53_000
STEPS = 12
POINTS, FOLLOWS = 180, 150  # of a projection; milliseconds
# the time from a key to the frame that shows what came of it
WATCH = """
const done = arguments[arguments.length - 1];
const word = document.activeElement;
const before = word.textContent;
const start = performance.now();
const look = () => (word.textContent === before ? requestAnimationFrame(look)
  : requestAnimationFrame(() => setTimeout(() => done(performance.now() - start))));
word.dispatchEvent(new KeyboardEvent("keydown", {key: "ArrowUp", bubbles: true}));
look();
"""


def measure() -> Iterator[Ratio]:
    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder)
        server = Server(home)
        server.start()
        browser = open_browser(home / "profile", home)
        try:
            yield from nudges(browser, server, home)
            yield nudged_projection(browser, server, home)
            yield from opening(browser, server, home)
        finally:
            browser.driver.quit()
            server.kill()


# frames a second while the window is zoomed at every frame, by the wheel
WHEEL = """
const done = arguments[arguments.length - 1];
const chart = document.querySelector(".chart");
const box = chart.getBoundingClientRect();
const at = {bubbles: true, cancelable: true, ctrlKey: true, clientX: box.left + box.width / 2, clientY: box.top + 99};
const frames = 60;
let count = 0;
const start = performance.now();
const turn = () => {
  if (count === frames) return done(1000 * frames / (performance.now() - start));
  chart.dispatchEvent(new WheelEvent("wheel", {...at, deltaY: count++ % 20 < 10 ? -40 : 40}));
  requestAnimationFrame(turn);
};
turn();
"""
FRAMES, SCRIPT_KB = 30, 330


def opening(browser: Browser, server: Server, home: Path) -> Iterator[Ratio]:
    """From the address of a study of 10 × 3,650 points to its chart, reported only; how much script was sent, and how fluently
    the wheel moves the window."""
    path = home / "ten.csv"
    path.write_bytes(ten_series())
    browser.open(f"{server.address}/intake")
    browser.find(".drop")
    browser.all("input[type=file]")[0].send_keys(str(path))
    browser.wait(lambda: browser.all(".begin button"), "read")
    for wave in browser.all(".ask-answers button.wave"):
        wave.click()
    browser.click(".begin button", "Begin")
    browser.find(".chart canvas")
    address = browser.driver.current_url
    taken = []
    for _ in range(3):
        browser.open("about:blank")
        start = time.monotonic()
        browser.open(address)
        browser.find(".chart canvas")
        taken.append(time.monotonic() - start)
    sent = browser.driver.execute_script(
        "return performance.getEntriesByType('resource').filter((e) => e.name.endsWith('.js'))"
        ".reduce((sum, e) => sum + e.encodedBodySize, 0)"
    )
    seconds = statistics.median(taken)
    yield Ratio(
        "a study of 10 × 3,650 points is opened", seconds / 1.5, float("inf"), f"{seconds:.2f} s; reported only"
    )
    yield Ratio(f"script of the bench as sent, of {SCRIPT_KB} kB", sent / 1000 / SCRIPT_KB, 1, f"{sent / 1000:.0f} kB")
    second = statistics.median(browser.driver.execute_async_script(WHEEL) for _ in range(3))
    yield Ratio(
        f"{FRAMES} frames a second, against those while the wheel turns",
        FRAMES / second,
        1,
        f"{second:.0f} frames a second",
    )


def begin(browser: Browser, server: Server, path: Path, stamps: np.ndarray, values: np.ndarray) -> None:
    """A study of one series, on the bench."""
    path.write_text("at,kwh\n" + "".join(f"{at},{v}\n" for at, v in zip(stamps.astype(str), values, strict=True)))
    browser.open(f"{server.address}/intake")
    browser.wait(lambda: browser.driver.find_elements("css selector", "input[type=file]"), "ready")[0].send_keys(
        str(path)
    )
    browser.wait(lambda: browser.all(".begin button"), "read")
    for wave in browser.all(".ask-answers button.wave"):
        wave.click()
    browser.click(".begin button", "Begin")
    browser.find(".chart canvas")


def nudged(browser: Browser, group: str, title: str, words: str) -> list[float]:
    """Milliseconds of each nudge of a word of an entry that is added."""
    browser.driver.execute_script(f"document.querySelector(\"[aria-label='Add to {group}']\").click()")
    browser.click(".ant-dropdown-menu-item", title)
    browser.kept_revision(2)
    browser.driver.execute_script("arguments[0].focus()", browser.word(title.lower(), words))
    return [browser.driver.execute_async_script(WATCH) for _ in range(STEPS)]


def nudged_projection(browser: Browser, server: Server, home: Path) -> Ratio:
    """How far a projection of 180 days goes, which needs no new fit."""
    days = np.datetime64("2026-01-01") + np.arange(POINTS)
    season = 10 * np.sin(np.arange(POINTS) * 2 * np.pi / 7)
    values = (200 + season + np.random.default_rng(5).normal(0, 3, POINTS)).round(1)
    begin(browser, server, home / "days.csv", days, values)
    taken = nudged(browser, "Projection", "Projection", "ahead.count")
    browser.press(Keys.ESCAPE)
    time.sleep(0.2)
    milliseconds = statistics.median(taken)
    name = f"how far a projection of {POINTS} days goes nudged, from key to picture, of {FOLLOWS} ms"
    return Ratio(name, milliseconds / FOLLOWS, 1, f"{milliseconds:.0f} ms, median of {STEPS}")


def nudges(browser: Browser, server: Server, home: Path) -> Iterator[Ratio]:
    stamps = np.datetime64("2020-01-01T00") + np.arange(ROWS).astype("timedelta64[h]")
    values = np.random.default_rng(5).normal(50, 5, ROWS).round(2)
    begin(browser, server, home / "meter.csv", stamps, values)
    taken = nudged(browser, "Readings", "Average", "window.length")
    asked = browser.driver.execute_script(
        "return performance.getEntriesByType('resource').filter((e) => e.name.endsWith('/preview')).map((e) => e.duration)"
    )
    browser.press(Keys.ESCAPE)
    time.sleep(0.2)
    screen, alone = statistics.median(taken), statistics.median(asked)
    detail = f"{screen:.0f} ms from key to picture, of which the server {alone:.0f} ms; median of {STEPS}"
    yield Ratio(f"a nudge at {ROWS:,} rows, screen against server alone", screen / alone, 10, detail)

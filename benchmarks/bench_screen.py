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
            yield opening(browser, server, home)
        finally:
            browser.driver.quit()
            server.kill()


def opening(browser: Browser, server: Server, home: Path) -> Ratio:
    """From the address of a study of 10 × 3,650 points to its chart, and how much script was sent. Reported only."""
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
    detail = f"{seconds:.2f} s (1.5 wished for), {sent / 1000:.0f} kB of script as sent (700 wished for); reported only"
    return Ratio("a study of 10 × 3,650 points is opened", seconds / 1.5, float("inf"), detail)


def nudges(browser: Browser, server: Server, home: Path) -> Iterator[Ratio]:
    stamps = np.datetime64("2020-01-01T00") + np.arange(ROWS).astype("timedelta64[h]")
    values = np.random.default_rng(5).normal(50, 5, ROWS).round(2)
    data = "at,kwh\n" + "".join(f"{at},{v}\n" for at, v in zip(stamps.astype(str), values, strict=True))
    path = home / "meter.csv"
    path.write_text(data)
    browser.open(f"{server.address}/intake")
    browser.wait(lambda: browser.driver.find_elements("css selector", "input[type=file]"), "ready")[0].send_keys(
        str(path)
    )
    browser.wait(lambda: browser.all(".begin button"), "read")
    for wave in browser.all(".ask-answers button.wave"):
        wave.click()
    browser.click(".begin button", "Begin")
    browser.find(".chart canvas")
    browser.driver.execute_script("document.querySelector(\"[aria-label='Add to Readings']\").click()")
    browser.click(".ant-dropdown-menu-item", "Average")
    browser.kept_revision(2)
    word = browser.word("average", "window.length")
    browser.driver.execute_script("arguments[0].focus()", word)
    taken = [browser.driver.execute_async_script(WATCH) for _ in range(STEPS)]
    asked = browser.driver.execute_script(
        "return performance.getEntriesByType('resource').filter((e) => e.name.endsWith('/preview')).map((e) => e.duration)"
    )
    browser.press(Keys.ESCAPE)
    time.sleep(0.2)
    screen, alone = statistics.median(taken), statistics.median(asked)
    detail = f"{screen:.0f} ms from key to picture, of which the server {alone:.0f} ms; median of {STEPS}"
    yield Ratio(f"a nudge at {ROWS:,} rows, screen against server alone", screen / alone, 10, detail)

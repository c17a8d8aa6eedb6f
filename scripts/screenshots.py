"""Refresh docs/screenshots from the demo: make screenshots."""

from __future__ import annotations

import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from selenium.webdriver.common.keys import Keys
from tests.browser.machine import Browser, Server, open_browser

FOLDER = Path(__file__).resolve().parent.parent / "docs" / "screenshots"


def studies(browser: Browser, address: str) -> None:
    browser.open(address)
    browser.find(".card")


def intake(browser: Browser, address: str) -> None:
    browser.open(f"{address}/intake")
    browser.click("button.link", "sailings.csv")
    browser.click("[data-count=unreadable]")


def bench(browser: Browser, address: str) -> None:
    open_study(browser, address, "Outer Isles")
    browser.click("[data-entry=blanks]")


def bench_projection(browser: Browser, address: str) -> None:
    open_study(browser, address, "Outer Isles")
    browser.click(".ant-segmented-item-label", "6 months")
    browser.click("[data-entry=smoothing]")
    browser.hover(".chart", 0.72)


def open_study(browser: Browser, address: str, name: str) -> None:
    browser.open(address)
    browser.click(".card h2 a", name)
    browser.find(".chart canvas")
    browser.press(Keys.NULL)


SHOTS: dict[str, Callable[[Browser, str], None]] = {
    "studies": studies,
    "intake": intake,
    "bench": bench,
    "bench-projection": bench_projection,
}


def main() -> None:
    wanted = sys.argv[1:] or list(SHOTS)
    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder)
        server = Server(home, "demo")
        server.start()
        browser = open_browser(home / "profile", home)
        metrics = {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False}
        browser.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)
        try:
            for name in wanted:
                SHOTS[name](browser, server.address)
                time.sleep(1.2)
                browser.driver.save_screenshot(str(FOLDER / f"{name}.png"))
        finally:
            browser.driver.quit()
            server.kill()


if __name__ == "__main__":
    main()

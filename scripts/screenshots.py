"""Refresh docs/screenshots from the demo: make screenshots."""

from __future__ import annotations

import shutil
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from selenium.common.exceptions import TimeoutException
from selenium.webdriver.common.action_chains import ActionChains
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


def keeping(browser: Browser, address: str) -> None:
    browser.open(f"{address}/keeping")
    browser.click("button", "Back up now")
    browser.find(".keeping-backups td")
    browser.click("button", "Check now")
    browser.find(".keeping-whole")


def bench(browser: Browser, address: str) -> None:
    open_study(browser, address, "Outer Isles, daily")
    browser.click("[data-entry=blanks] .touched")


def bench_projection(browser: Browser, address: str) -> None:
    open_study(browser, address, "Outer Isles, daily")
    browser.click(".ant-segmented-item-label", "6 months")
    browser.click("[data-entry=projection] .touched")
    browser.hover(".chart", 0.72)


def readings(browser: Browser, address: str) -> None:
    open_study(browser, address, "Outer Isles, daily")
    browser.click(".ant-segmented-item-label", "1 year")
    browser.click("[data-entry=mark] .touched")
    browser.press("f")
    browser.find(".follow-up tbody tr")


def years(browser: Browser, address: str) -> None:
    open_study(browser, address, "year over year")
    browser.click("[data-entry=years] .touched")


def values(browser: Browser, address: str) -> None:
    open_study(browser, address, "Outer Isles, daily")
    browser.click(".ant-segmented-item-label", "6 months")
    browser.press("v")
    browser.click(".values-bar .ant-picker input")
    browser.press("2026-10-22", Keys.ENTER)
    browser.find('.values-table tr[aria-selected="true"]')


def judging(browser: Browser, address: str) -> None:
    open_study(browser, address, "Outer Isles, daily")
    browser.click(".ant-segmented-item-label", "Projection")
    waits = "return [...document.querySelectorAll('.candidates')].some((one) => one.innerText.includes('…'))"
    for _ in range(6):
        with suppress(TimeoutException):
            browser.wait(lambda: browser.all(".candidates tbody tr"), "begun")
            browser.wait(lambda: not browser.driver.execute_script(waits), "judged")
            break


def outliers(browser: Browser, address: str) -> None:
    open_study(browser, address, "Outer Isles, daily")
    browser.click("[data-entry=outliers] .touched")
    browser.with_text(".evidence-table h3", "error on held-back periods")


def level_shift(browser: Browser, address: str) -> None:
    open_study(browser, address, "Outer Isles, daily")
    browser.click(".ant-segmented-item-label", "3 years")
    browser.click("[data-entry=shift] .touched")


def strip(browser: Browser, address: str) -> None:
    open_study(browser, address, "Power at the dock")
    canvas = browser.find(".strip canvas")
    # the nine hours without a row
    share = (24 * 11 + 4) / (24 * 61)
    offset = int((share - 0.5) * canvas.size["width"])
    ActionChains(browser.driver).move_to_element_with_offset(canvas, offset, 2).click().perform()
    browser.find(".stretch")


def derived(browser: Browser, address: str) -> None:
    open_study(browser, address, "Ticket income")
    browser.click("[data-entry=derive] .touched")


def picture(browser: Browser, address: str) -> None:
    room(browser, address, "Outer Isles, daily")
    browser.wait(lambda: browser.with_text(".sheet text", "projection"), "projected", 90)
    browser.click(".sheet text", "28-day average")


def new_rows(browser: Browser, address: str) -> None:
    monthly(browser, address)
    browser.click(".study-file")
    browser.click(".came-choose .ant-select")
    browser.click(".ant-select-item", "sailings.csv, received")
    browser.find(".came-counts")
    browser.find(".happened tbody tr")


def said(browser: Browser, address: str) -> None:
    new_rows(browser, address)
    browser.click(".came-take button", "Take them in")
    browser.wait(lambda: browser.find(".study-file").text == "sailings.csv", "taken in")
    browser.click(".study-file")
    browser.click(".new-rows aside a", "What we said")
    browser.find(".said tbody tr")


def monthly(browser: Browser, address: str) -> None:
    browser.open(address)
    browser.click(".card h2 a", "month by month")
    browser.find(".chart canvas")
    browser.wait(lambda: browser.all("[data-entry]") and not browser.all(".entry-work"), "what is worked out elsewhere")


def snapshot(browser: Browser, address: str) -> None:
    room(browser, address, "Upkeep by vessel")
    browser.find("[aria-label='Name of the snapshot']").send_keys("September board")
    browser.click(".snapshots button", "snapshot")
    browser.find(".snapshots a")
    browser.click(".ant-segmented-item-label", "Bench")
    browser.find(".chart canvas")
    browser.driver.execute_script("arguments[0].focus()", browser.find("[data-entry=blanks]"))
    browser.press(" ")
    browser.kept_revision(2)
    browser.click(".ant-segmented-item-label", "Picture")
    browser.click(".snapshots a", "September board")
    browser.find(".changed tbody tr")


def all_series(browser: Browser, address: str) -> None:
    open_study(browser, address, "Every landing")
    browser.click(".ant-segmented-item-label", "All series")
    browser.click(".all-series button", "Carry it out")
    browser.wait(lambda: "as it stands now" in browser.find(".all-series aside").text, "carried out", 300)
    browser.click("[data-entry=together] button", "Sum them")
    browser.wait(lambda: "each as a series" in browser.find(".all-series aside").text, "summed", 120)
    browser.click(".looks button", "level shift")
    browser.click(".series-row:not(.head)")


def room(browser: Browser, address: str, name: str) -> None:
    open_study(browser, address, name)
    browser.click(".ant-segmented-item-label", "Picture")
    browser.find(".sheet svg")


def open_study(browser: Browser, address: str, name: str) -> None:
    browser.open(address)
    browser.click(".card h2 a", name)
    browser.find(".chart canvas")
    browser.wait(lambda: browser.all("[data-entry]") and not browser.all(".entry-work"), "what is worked out elsewhere")
    browser.press(Keys.NULL)


SHOTS: dict[str, Callable[[Browser, str], None]] = {
    "studies": studies,
    "intake": intake,
    "keeping": keeping,
    "bench": bench,
    "bench-projection": bench_projection,
    "readings": readings,
    "years": years,
    "values": values,
    "judging": judging,
    "outliers": outliers,
    "level-shift": level_shift,
    "strip": strip,
    "derived": derived,
    "picture": picture,
    "new-rows": new_rows,
    "said": said,
    "snapshot": snapshot,
    "all-series": all_series,
}


def account(browser: Browser, address: str) -> None:
    """The first page of the account, where there is a program that draws one."""
    if shutil.which("pdftoppm") is None:
        return
    study = next(
        one["study"]["id"]
        for one in browser.answer(f"{address}/api/studies")["studies"]
        if one["study"]["name"].startswith("Outer Isles, daily")
    )
    status, pdf = 202, b""
    while status == 202:
        with urllib.request.urlopen(f"{address}/api/studies/{study}/handover/account.pdf") as answer:
            status, pdf = answer.status, answer.read()
    command = ["pdftoppm", "-r", "80", "-f", "1", "-l", "1", "-png", "-singlefile", "-", str(FOLDER / "account")]
    subprocess.run(command, input=pdf, check=True)


def main() -> None:
    wanted = sys.argv[1:] or [*SHOTS, "account"]
    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder)
        server = Server(home / "zembra-demo", "demo")
        server.start()
        browser = open_browser(home / "profile", home)
        metrics = {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False}
        browser.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)
        try:
            for name in wanted:
                if name == "account":
                    account(browser, server.address)
                    continue
                SHOTS[name](browser, server.address)
                time.sleep(1.2)
                browser.driver.save_screenshot(str(FOLDER / f"{name}.png"))
        finally:
            browser.driver.quit()
            server.kill()


if __name__ == "__main__":
    main()

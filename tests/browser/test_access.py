"""No serious fault of access on any screen, light and dark: axe-core, driven in the browser."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.browser.machine import Browser, Server

AXE = Path(__file__).parents[2] / "frontend" / "node_modules" / "axe-core" / "axe.min.js"
RUN = """
const done = arguments[arguments.length - 1];
axe.run(document, {resultTypes: ["violations"]}).then((found) => done(found.violations
  .filter((one) => one.impact === "serious" || one.impact === "critical")
  .map((one) => `${one.id}: ${one.nodes.slice(0, 4).map((node) => node.html.slice(0, 160)).join(" | ")}`)));
"""


def faults(browser: Browser) -> list[str]:
    # the policy of our pages keeps foreign scripts out: this one comes through the driver
    browser.driver.execute_script(AXE.read_text())
    found: list[str] = browser.driver.execute_async_script(RUN)
    return found


@pytest.mark.parametrize("theme", ["light", "dark"])
def test_no_screen_has_a_serious_fault(browser: Browser, demo: Server, theme: str) -> None:
    browser.open(demo.address)
    browser.driver.execute_script(f"localStorage.setItem('zembra.theme', '{theme}')")
    told: dict[str, list[str]] = {}
    browser.driver.refresh()
    browser.find(".card")
    told["studies"] = faults(browser)
    browser.open(f"{demo.address}/keeping")
    browser.click("button", "Back up now")
    browser.find(".keeping-backups td")
    told["keeping"] = faults(browser)
    browser.open(f"{demo.address}/intake")
    browser.click("button.link", "sailings.csv")
    browser.find(".raw table")
    told["intake"] = faults(browser)
    browser.open(demo.address)
    browser.click(".card h2 a", "Outer Isles, daily passengers")
    browser.find(".chart canvas")
    for tab, key in (("evidence", "e"), ("values", "v"), ("follow-up", "f"), ("note", "t")):
        browser.press(key)
        browser.find(".dock .ant-tabs-tabpane-active, .dock .ant-tabs-content-active")
        told[f"bench, {tab}"] = faults(browser)
    browser.open(f"{browser.driver.current_url}/projection")
    browser.find("[data-entry=judging], .judging-work")
    told["projection"] = faults(browser)
    browser.open(browser.driver.current_url.replace("/projection", "/picture"))
    browser.find(".sheet svg")
    told["picture"] = faults(browser)
    browser.open(browser.driver.current_url.replace("/picture", ""))
    browser.find(".chart canvas")
    browser.press("h")
    browser.find(".handover")
    told["hand over"] = faults(browser)
    browser.open(demo.address)
    browser.click(".card-news a", "Rows wait")
    browser.wait(lambda: browser.all(".came-counts button"), "what came")
    told["new rows"] = faults(browser)
    browser.open(browser.driver.current_url.partition("?")[0])
    browser.find(".watch-pane .calls")
    told["feed and watch"] = faults(browser)
    for page in ("", "outliers"):
        browser.open(f"{demo.address}/manual/{page}")
        browser.find(".manual-text h2")
        told[f"manual, {page}"] = faults(browser)
    browser.driver.execute_script("localStorage.removeItem('zembra.theme')")
    assert {screen: found for screen, found in told.items() if found} == {}

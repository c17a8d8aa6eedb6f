"""A picture handed over as a page: opened from a folder, without a network; pointed at, dragged, read."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.machine import Browser
from tests.help import result_of, smoothing
from zembra.core.dress.model import Headings, Language, Picture
from zembra.core.entries.repairs.blanks import Blanks
from zembra.core.entries.repairs.outliers import Outliers
from zembra.core.figure.dressed import picture_figure
from zembra.core.figure.model import FigureSettings
from zembra.core.handover.report import Section
from zembra.rendering.page import page_html

MOST = 400_000  # bytes besides the numbers
WILD = 'Fewer </script> <img src=x onerror="document.title=1"> & "more"'
ACCOUNT = [
    Section("What was done", ["Set aside <b>much</b>."], ordered=True),
    Section("Warnings", ["One warning."]),
    Section("What came in, and what it is now", ["Outer Isles: 269 came."]),
]


@pytest.fixture(scope="module")
def html() -> str:
    result = result_of("sailings.csv", Outliers(), Blanks(longest=3), smoothing(7))
    picture = Picture(headings=Headings(title=WILD), language=Language(language="German"))
    figure = picture_figure(result, FigureSettings(shown=("Outer Isles", "North Head")), picture)
    return page_html(figure, title=WILD, about="Passengers a day", account=ACCOUNT, foot="From sailings.csv")


def test_it_opens_alone_and_is_read(html: str, browser: Browser, tmp_path: Path) -> None:
    path = tmp_path / "page.html"
    path.write_text(html, encoding="utf-8")
    driver = browser.driver
    driver.get_log("browser")
    driver.execute_cdp_cmd("Network.enable", {})
    offline = {"offline": True, "latency": 0, "downloadThroughput": 0, "uploadThroughput": 0}
    driver.execute_cdp_cmd("Network.emulateNetworkConditions", offline)
    try:
        driver.get(path.as_uri())
        browser.find("#picture svg path")
        assert driver.title == WILD
        assert driver.execute_script("return performance.getEntriesByType('resource').filter((one) => !one.name.startsWith('data:')).length") == 0  # fmt: skip
        fonts = "return document.fonts.check(\"13px 'Source Sans 3'\")"
        browser.wait(lambda: driver.execute_script(fonts), "its own letters")
        picture = browser.find("#picture")
        ActionChains(driver).move_to_element_with_offset(picture, -100, 0).perform()
        browser.wait(lambda: browser.find("#reading").is_displayed(), "what stands there")
        told = browser.find("#reading").text
        assert "Outer Isles" in told
        assert re.search(r"\d", told)
        # the window: all of it, then a part by the strip, by keys and back
        whole = browser.find("#stretch").text
        assert re.search(r"\d\. \w+\.? 20\d\d", whole), "dates are written as in German"
        grip = browser.find('#strip [data-grip="from"]')
        ActionChains(driver).drag_and_drop_by_offset(grip, 300, 0).perform()
        browser.wait(lambda: browser.find("#stretch").text != whole, "a part")
        part = browser.find("#stretch").text
        picture.send_keys("+")
        browser.wait(lambda: browser.find("#stretch").text != part, "closer")
        ActionChains(driver).move_to_element(picture).click_and_hold().move_by_offset(80, 0).release().perform()
        picture.send_keys(Keys.HOME)
        browser.wait(lambda: browser.find("#stretch").text == whole, "all of it again")
        picture.send_keys(Keys.ARROW_LEFT)
        browser.wait(lambda: browser.find("#reading").is_displayed(), "read by keys")
        # the numbers, in the reader's language, and more of them
        rows = len(browser.all("#numbers tbody tr"))
        assert rows == 200
        browser.click("#numbers button")
        browser.wait(lambda: len(browser.all("#numbers tbody tr")) > rows, "more rows")
        assert "Set aside <b>much</b>." in browser.find("ol").text
        assert "ausgenommen" in browser.find("#picture").text
        faults = [line for line in driver.get_log("browser") if line["level"] == "SEVERE"]
        assert faults == []
    finally:
        driver.execute_cdp_cmd("Network.emulateNetworkConditions", {**offline, "offline": False, "downloadThroughput": -1, "uploadThroughput": -1})  # fmt: skip


def test_it_is_small_and_says_that_nothing_leaves_it(html: str) -> None:
    (numbers,) = re.findall(r'<script type="application/json" id="figure">(.*?)</script>', html, re.DOTALL)
    (svg,) = re.findall(r'aria-label="Passengers a day">(<svg.*?</svg>)</div>', html, re.DOTALL)
    assert len(html.encode()) - len(numbers.encode()) - len(svg.encode()) < MOST
    assert "default-src 'none'" in html
    assert "connect-src" not in html
    assert WILD not in html
    assert not re.findall(r'(?:src|href)="(?!data:)', html)

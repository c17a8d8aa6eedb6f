"""Reading a line as an analyst does: trend lines, marks, lines dragged, years, events, another route, a newer file."""

from __future__ import annotations

import csv
import io
from datetime import date, timedelta
from pathlib import Path
from typing import Any

import numpy as np
import pandas as pd
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.machine import Browser, Server

DAYS = 800
FIRST = date(2024, 2, 1)
RNG = np.random.default_rng(5)
ROUTES = {
    name: np.round(
        level + 30 * np.sin(np.arange(DAYS) * 2 * np.pi / 365) + 0.1 * np.arange(DAYS) + RNG.normal(0, 9, DAYS)
    )
    for name, level in (("Harbour Loop", 400), ("North Head", 300))
}
TABLE = pd.DataFrame(ROUTES, index=pd.date_range(FIRST, periods=DAYS))


def written(path: Path, days: int) -> Path:
    rows = ["day,route,riders"]
    for route, values in ROUTES.items():
        rows += [f"{FIRST + timedelta(n)},{route},{values[n]:.0f}" for n in range(days)]
    path.write_text("\n".join(rows) + "\n")
    return path


def begun(browser: Browser, server: Server, folder: Path) -> str:
    browser.hand_in(server.address, written(folder / "routes.csv", DAYS - 60))
    browser.click("button", "Begin the study")
    browser.find(".chart canvas")
    return browser.driver.current_url.rsplit("/", 1)[1]


def add(browser: Browser, section: str, title: str) -> None:
    browser.click(f'[aria-label="Add to {section}"]')
    browser.click(".kind strong", title)
    browser.press(Keys.ESCAPE)


def bench(browser: Browser, server: Server, study: str) -> Any:
    return browser.answer(f"{server.address}/api/studies/{study}")


def test_trend_lines_marks_and_a_dragged_line(browser: Browser, server: Server, tmp_path: Path) -> None:
    study = begun(browser, server, tmp_path)
    # two trend lines, told apart; one is carried on by twelve months
    add(browser, "Readings", "Trend line")
    browser.kept_revision(2)
    add(browser, "Readings", "Trend line")
    browser.kept_revision(3)
    first, second = (entry["id"] for entry in bench(browser, server, study)["entries"][2:4])
    cards = browser.all("[data-entry=trend]")
    assert len(cards) == 2
    cards[1].find_element("css selector", '[data-word="form"]').click()
    browser.click('[role="option"]', "local")
    browser.kept_revision(4)
    browser.wait(
        lambda: len({c["name"] for c in curves(bench(browser, server, study), "Harbour Loop")}) > 1, "two names"
    )
    browser.all("[data-entry=trend]")[0].find_element("css selector", '[data-word="carried"]').click()
    browser.click('[role="option"]', "calendar")
    browser.kept_revision(5)
    drawn = [one for one in curves(bench(browser, server, study), "Harbour Loop") if one["entry"] == first]
    ends = [pd.Timestamp(one["t"][-1], unit="ms") for one in drawn]
    known = TABLE["Harbour Loop"].iloc[: DAYS - 60]
    assert max(ends) > known.index[-1] + pd.DateOffset(months=5)
    slope, _ = np.polyfit(np.arange(len(known)), known, 1)
    browser.click("[data-entry=trend] .touched")
    told = browser.find(".evidence-table").text
    assert f"{slope:.4f}"[:5] in told
    # the other one is removed, and this one stays where it is
    cards = browser.all("[data-entry=trend]")
    cards[1].click()
    cards[1].find_element("css selector", ".entry-more, [aria-label^='What can be done']").click()
    browser.click(".ant-dropdown-menu-item", "Remove")
    browser.kept_revision(6)
    after = [one for one in curves(bench(browser, server, study), "Harbour Loop") if one["entry"] == first]
    assert [one["v"] for one in after] == [one["v"] for one in drawn]
    assert second not in [entry["id"] for entry in bench(browser, server, study)["entries"]]

    # a line held against is dragged, then moved by keys: its sentence follows
    add(browser, "Readings", "Line to hold against")
    browser.kept_revision(7)
    grip = browser.find(".line-grip")
    ActionChains(browser.driver).click_and_hold(grip).move_by_offset(0, -12).release().perform()
    browser.kept_revision(8)
    moved = next(e for e in bench(browser, server, study)["entries"] if e["kind"] == "held")["params"]["at"]["value"]
    assert moved > np.median(known)
    assert f"{moved:g}" in browser.find("[data-entry=held] .sentence").text.replace("\u2009", "").replace("\u202f", "")
    grip = browser.find(".line-grip")
    browser.driver.execute_script("arguments[0].focus()", grip)
    browser.press(Keys.ARROW_DOWN, Keys.ENTER)
    browser.kept_revision(9)
    lower = next(e for e in bench(browser, server, study)["entries"] if e["kind"] == "held")["params"]["at"]["value"]
    assert lower < moved

    # the periods above it, labelled with their distance
    add(browser, "Readings", "Marked periods")
    browser.kept_revision(10)
    points = next(one for one in bench(browser, server, study)["figure"]["shapes"] if one["shape"] == "points")
    over = known[known > lower]
    assert [pd.Timestamp(t, unit="ms") for t in points["t"]] == list(over.index)
    farthest = max(zip(points["v"], points["labels"], strict=True))
    assert float(farthest[1].lstrip("+").replace(" ", "")) == pytest.approx(over.max() - lower, rel=1e-3)


def more_of_the_first(browser: Browser) -> None:
    ActionChains(browser.driver).move_to_element(browser.find(".card h2")).perform()
    browser.click(".card .more")


def curves(view: Any, series: str) -> list[Any]:
    return [one for one in view["figure"]["shapes"] if one["shape"] == "curve" and one["series"] == series]


def test_years_events_and_all_values_copied(browser: Browser, server: Server, tmp_path: Path) -> None:
    study = begun(browser, server, tmp_path)
    add(browser, "Readings", "Years laid over each other")
    browser.kept_revision(2)
    (year,) = [one for one in curves(bench(browser, server, study), "Harbour Loop") if one["name"] == "2025"]
    there = dict(zip((pd.Timestamp(t, unit="ms") for t in year["t"]), year["v"], strict=True))
    assert there[pd.Timestamp("2026-03-04")] == TABLE["Harbour Loop"]["2025-03-04"]
    browser.click('[data-entry="figure"] .more-words')
    browser.choose("figure", "opening", "the newest year")
    browser.kept_revision(3)
    browser.wait(lambda: "2026" in browser.find(".overview").text or True, "narrowed")

    add(browser, "Readings", "Events")
    browser.kept_revision(4)
    browser.click('[data-entry="events"] [data-word="events"]')
    field = browser.find(".typed textarea")
    field.send_keys("2026-02-30, storm")
    browser.with_text(".typed .wrong", "2026-02-30")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("2026-02-16, 2026-02-18, westerly storm\n2026-03-01, regatta")
    browser.with_text(".typed .muted", "2 events understood")
    browser.click(".typed button", "Keep")
    browser.kept_revision(5)
    assert "westerly storm and regatta" in browser.find("[data-entry=events] .sentence").text

    browser.press("v")
    browser.find(".values-table tr[aria-rowindex]")
    browser.driver.execute_cdp_cmd(
        "Browser.grantPermissions", {"permissions": ["clipboardReadWrite", "clipboardSanitizedWrite"]}
    )
    browser.click(".values-bar button", "Copy all")
    browser.with_text(".ant-message", "copied as a table")
    copied = browser.driver.execute_async_script("navigator.clipboard.readText().then(arguments[0])")
    table = pd.read_csv(io.StringIO(copied), sep="\t", index_col=0, parse_dates=True)
    known = TABLE["Harbour Loop"].iloc[: DAYS - 60]
    np.testing.assert_array_equal(table["Harbour Loop"].dropna(), known)
    assert len(table) > len(known)


def test_a_study_is_copied_pointed_at_another_route_and_given_a_newer_file(
    browser: Browser, server: Server, tmp_path: Path
) -> None:
    study = begun(browser, server, tmp_path)
    add(browser, "Readings", "Average")
    browser.kept_revision(2)
    browser.open(server.address)
    more_of_the_first(browser)
    browser.click(".ant-dropdown-menu-item", "Copy the study")
    browser.click(".card h2 a", "copy")
    browser.find(".chart canvas")
    copy = browser.driver.current_url.rsplit("/", 1)[1]
    assert copy != study
    browser.click('[data-entry="source"] [data-word="series"]')
    browser.click(".boxes-list label", "North Head")
    browser.click(".boxes button", "Keep")
    browser.wait(
        lambda: [one["name"] for one in bench(browser, server, copy)["figure"]["series"]] == ["North Head"], "north"
    )
    (average,) = curves(bench(browser, server, copy), "North Head")
    known = TABLE["North Head"].iloc[: DAYS - 60]
    np.testing.assert_allclose(average["v"][-1], known.iloc[-28:].mean())
    # the study it was copied from is as it was
    assert len(bench(browser, server, study)["figure"]["series"]) == 2

    browser.click(".study-file")
    browser.find(".new-rows")
    newer = written(tmp_path / "routes-april.csv", DAYS)
    browser.all(".new-rows input[type=file]")[0].send_keys(str(newer))
    browser.wait(lambda: browser.find(".came-counts button").text.split() == ["60", "new"], "what came")
    if browser.all(".newer-questions"):
        browser.click(".newer-questions .ant-checkbox-wrapper")
    browser.click("button", "Take them in")
    browser.wait(lambda: "routes-april.csv" in browser.find(".study-file").text, "on the newer file")
    (average,) = curves(bench(browser, server, copy), "North Head")
    np.testing.assert_allclose(average["v"][-1], TABLE["North Head"].iloc[-28:].mean())
    browser.click(".topbar-actions button", "Undo")
    browser.wait(lambda: browser.find(".study-file").text == "routes.csv", "back on the first file")

    browser.open(server.address)
    more_of_the_first(browser)
    browser.click(".ant-dropdown-menu-item", "Remove the study")
    browser.wait(lambda: len(browser.all(".card")) == 1, "one study left")
    browser.click("button.link", "bring back")
    browser.wait(lambda: len(browser.all(".card")) == 2, "both again")


def test_a_percentile_line_is_handed_over_with_its_instruction(browser: Browser, demo: Server) -> None:
    browser.open(demo.address)
    browser.click(".card h2 a", "Outer Isles, daily passengers")
    browser.find(".chart canvas")
    browser.press("h")
    path = browser.download(lambda: browser.click(".handover button", "lines.csv"), "lines.csv")
    rows = list(csv.DictReader(io.StringIO(path.read_text())))
    line = {float(row["value"]) for row in rows if row["line"] == "ask the port about these" and row["value"]}
    points = browser.download(lambda: browser.click(".handover button", "points.csv"), "points.csv")
    counted = [
        float(row["counted"])
        for row in csv.DictReader(io.StringIO(points.read_text()))
        if row["series"] == "Outer Isles" and row["counted"]
    ]
    assert list(line) == [pytest.approx(float(np.percentile(counted, 10)))]

"""Outliers, shifts, tails and derived measures as an analyst works on them: by looking while nudging."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterator
from datetime import date, timedelta
from pathlib import Path

import numpy as np
import pandas as pd
import pytest
from scipy import stats
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.machine import Browser, Server

SIZE = 80
SPIKES = {20: 300.0, 50: -250.0}


def values() -> np.ndarray:
    rng = np.random.default_rng(5)
    made = np.round(500 + 1.5 * np.arange(SIZE) + rng.normal(0, 8, SIZE), 1)
    for at, size in SPIKES.items():
        made[at] += size
    return made


def study(browser: Browser, server: Server, folder: Path, cells: np.ndarray) -> None:
    days = [date(2026, 6, 1) + timedelta(n) for n in range(len(cells))]
    path = folder / "landings.csv"
    path.write_text("day,landings\n" + "".join(f"{d},{v}\n" for d, v in zip(days, cells, strict=True)))
    browser.hand_in(server.address, path)
    browser.click("button", "Begin the study")
    browser.kept_revision(1)


def add(browser: Browser, group: str, title: str, revision: int) -> None:
    browser.click(f"[aria-label='Add to {group}']")
    browser.click(".kind", title)
    browser.kept_revision(revision)


def evidence(browser: Browser, title: str) -> list[list[str]]:
    """The rows of a table of evidence, as the screen writes them."""

    def rows() -> list[list[str]] | None:
        for table in browser.all(".evidence-table"):
            if table.find_element("css selector", "h3").text == title:
                found = [
                    [cell.text for cell in row.find_elements("css selector", "td")]
                    for row in table.find_elements("css selector", "tbody tr")
                ]
                return found or None
        return None

    found = browser.wait(rows, title)
    assert isinstance(found, list)
    return found


def touched(browser: Browser, entry: str) -> str:
    return browser.find(f"[data-entry={entry}] .touched").text


def explained(browser: Browser, period: str) -> str:
    """What the card of a stretch says, once it has been told of the period."""
    browser.wait(lambda: period in browser.find(".stretch").text, f"{period} is explained")
    return browser.find(".stretch").text


def handed_over(browser: Browser, name: str) -> list[dict[str, str]]:
    browser.press("h")
    path = browser.download(lambda: browser.click(".handover button", name), name)
    browser.press(Keys.ESCAPE)
    return list(csv.DictReader(io.StringIO(path.read_text())))


def test_nudging_a_threshold_sets_a_point_aside_and_r2_follows(
    browser: Browser, server: Server, tmp_path: Path
) -> None:
    cells = values()
    study(browser, server, tmp_path, cells)
    add(browser, "Readings", "Trend line", 2)
    add(browser, "Repairs", "Outliers", 3)
    browser.choose("outliers", "rule.measure", "units")
    browser.kept_revision(4)
    browser.type_word("outliers", "rule.far", "279")
    browser.kept_revision(5)
    assert touched(browser, "outliers") == "1 set aside"

    def r2(of: np.ndarray) -> str:
        at = np.arange(SIZE)[~np.isnan(of)]
        return f"{stats.linregress(at, of[~np.isnan(of)]).rvalue ** 2:.3f}"

    one, both = cells.copy(), cells.copy()
    one[20] = both[20] = both[50] = np.nan
    assert f"R² {r2(one)}" in touched(browser, "trend")
    word = browser.word("outliers", "rule.far")
    browser.driver.execute_script("arguments[0].focus()", word)
    for _ in range(6):  # down by tens until the second spike goes as well
        browser.press(Keys.ARROW_DOWN)
    browser.wait(lambda: touched(browser, "outliers") == "2 set aside", "the second point goes")
    browser.wait(lambda: f"R² {r2(both)}" in touched(browser, "trend"), "R² follows the key")
    listed = evidence(browser, "What stands out")
    assert [row[1] for row in listed] == ["21 Jun 2026", "21 Jul 2026"]
    effect = evidence(browser, "What it did to the figures")
    assert [row[1] for row in effect] == ["80", "78"]
    browser.press(Keys.ESCAPE)
    browser.wait(lambda: touched(browser, "outliers") == "1 set aside", "Escape takes it back")
    browser.kept_revision(5)

    # a candidate is kept, and a reason noted on it
    browser.click(".evidence-table button", "Keep it")
    browser.kept_revision(6)
    assert touched(browser, "outliers") == "0 set aside"
    browser.click(".evidence-table button", "Treat it again")
    browser.kept_revision(7)
    browser.find("input.reason").send_keys("regatta", Keys.ENTER)
    browser.kept_revision(8)
    points = handed_over(browser, "points.csv")
    assert points[20]["condition"] == "set aside"
    assert points[20]["raw"] == str(cells[20])


def test_a_point_is_picked_in_the_chart_and_taken_back(browser: Browser, server: Server, tmp_path: Path) -> None:
    study(browser, server, tmp_path, values())
    canvas = browser.find(".chart")
    # the first spike: a fifth of the way between the plot's edges
    inner = canvas.size["width"] - 56 - 132
    x = 56 + inner * 20 / (SIZE - 1) - canvas.size["width"] / 2
    ActionChains(browser.driver).move_to_element_with_offset(canvas, round(x), 0).click().perform()
    assert "Row" in explained(browser, "21 Jun 2026")
    browser.click(".stretch button", "Set aside and leave open")
    browser.kept_revision(2)
    assert touched(browser, "outliers") == "1 set aside"
    # another point, from the values: it joins the same entry
    browser.click("[role=tab]", "Values")
    browser.find(".values-table tr[aria-rowindex]")
    browser.driver.execute_script("arguments[0].scrollTop = 49 * 25", browser.find(".values-table"))
    browser.click(".values-table tr", "21 Jul 2026")
    browser.press(Keys.ENTER)
    browser.click(".stretch button", "Set aside and leave open")
    browser.kept_revision(3)
    assert touched(browser, "outliers") == "2 set aside"
    browser.click(".topbar-actions button", "Undo")
    browser.kept_revision(2)
    assert touched(browser, "outliers") == "1 set aside"
    browser.click(".topbar-actions button", "Undo")
    browser.kept_revision(1)
    assert not browser.all("[data-entry=outliers]")


def test_a_running_total_becomes_daily_figures_and_a_weekly_average(
    browser: Browser, server: Server, tmp_path: Path
) -> None:
    rng = np.random.default_rng(6)
    daily = np.round(rng.uniform(50, 90, 60))
    study(browser, server, tmp_path, np.cumsum(daily))
    add(browser, "Repairs", "Derived measure", 2)
    assert browser.word("derive", "what").text == "The figures behind the running total".lower()
    add(browser, "Readings", "Average", 3)
    browser.type_word("average", "window.need", "7")
    browser.kept_revision(4)
    browser.type_word("average", "window.length", "7")
    browser.kept_revision(5)
    points = handed_over(browser, "points.csv")
    assert points[0]["value"] == ""
    np.testing.assert_allclose([float(row["value"]) for row in points[1:]], daily[1:])
    assert float(points[-1]["raw"]) == daily.sum()
    lines = handed_over(browser, "lines.csv")
    weekly = pd.Series(np.append(np.nan, daily[1:])).rolling(7).mean()
    np.testing.assert_allclose([float(row["value"] or "nan") for row in lines], weekly, rtol=1e-9)


def test_a_marked_shift_lets_the_average_start_afresh(browser: Browser, server: Server, tmp_path: Path) -> None:
    cells = np.round(np.where(np.arange(60) < 30, 100.0, 160.0) + np.random.default_rng(1).normal(0, 2, 60), 1)
    study(browser, server, tmp_path, cells)
    add(browser, "Readings", "Average", 2)
    browser.type_word("average", "window.need", "3")
    browser.kept_revision(3)
    browser.type_word("average", "window.length", "10")
    browser.kept_revision(4)
    add(browser, "Repairs", "Level shift, marked", 5)
    assert browser.word("shift", "on").text == "1 Jul 2026"
    browser.type_word("shift", "named", "second boat")
    browser.kept_revision(6)
    browser.click('[data-entry="shift"] [data-word="then"]')
    browser.click(".boxes-list label", "averages and bands start afresh")
    browser.click(".boxes button", "Keep")
    browser.kept_revision(7)
    (row,) = evidence(browser, "Level shift")
    assert 55 < float(row[4]) < 65
    lines = handed_over(browser, "lines.csv")
    average = np.array([float(row["value"] or "nan") for row in lines])
    assert np.isnan(average[30:32]).all()
    assert average[32] == pytest.approx(cells[30:33].mean())
    assert average[29] == pytest.approx(cells[20:30].mean())


def test_entries_that_may_not_be_swapped_say_so(browser: Browser, server: Server, tmp_path: Path) -> None:
    study(browser, server, tmp_path, values())
    add(browser, "Repairs", "Outliers", 2)
    add(browser, "Repairs", "Derived measure", 3)
    browser.choose("derive", "what", "the change from the period before")
    browser.kept_revision(4)
    browser.with_text("[data-entry=outliers]", "order matters")
    # a derived series of its own is drawn with one click, and is no series that could be left out
    browser.choose("derive", "place", "as a series of its own")
    browser.kept_revision(5)
    browser.click('[data-entry="figure"] [data-word="shown"]')
    browser.click(".boxes-list label", "landings, change")
    browser.click(".boxes button", "Keep")
    browser.kept_revision(6)
    assert "Leave" not in browser.find(".figure-bar").text
    browser.click(".figure-bar button", "Draw it")
    browser.kept_revision(7)
    assert browser.word("figure", "shown").text == "landings and landings, change"
    for revision in (6, 5, 4):
        browser.click(".topbar-actions button", "Undo")
        browser.kept_revision(revision)
    browser.hover("[data-entry=outliers]", 0.5)
    browser.click("[data-entry=outliers] .more")
    browser.click(".ant-dropdown-menu-item", "Move down")
    browser.kept_revision(8)
    order = [card.get_attribute("data-entry") for card in browser.all(".ledger article")]
    assert order == ["source", "calendar", "derive", "outliers"]


def test_the_strip_explains_a_stretch_and_offers_what_can_be_done(browser: Browser, demo: Server) -> None:
    browser.open(demo.address)
    browser.click(".card h2 a", "Power at the dock")
    browser.find(".chart canvas")
    browser.choose("blanks", "treatment", "Leave open")
    browser.kept_revision(2)
    browser.driver.execute_script("arguments[0].focus()", browser.find(".strip canvas"))
    hours = (
        24 * 33 + 14
    )  # 3 April, 15:00 by the summer clock, the first of four blank hours; before it the meter was out for nine
    strip = browser.find(".strip canvas")
    share = (hours + 1.5) / (24 * 61 - 1)
    ActionChains(browser.driver).move_to_element_with_offset(
        strip, round((share - 0.5) * strip.size["width"]), 2
    ).click().perform()
    told = explained(browser, "3 Apr 2026, 15:00 summer time")
    assert "4 periods blank" in told
    assert "empty" in told
    browser.click(".stretch button", "Carry the last value on")
    browser.kept_revision(3)
    assert "4 filled" in browser.all("[data-entry=blanks]")[-1].text


def test_stacked_and_step_lines(browser: Browser, demo: Server) -> None:
    browser.open(demo.address)
    browser.click(".card h2 a", "Upkeep by vessel")
    browser.find(".chart canvas")
    browser.choose("figure", "stack", "of what is there")
    browser.kept_revision(2)
    browser.choose("figure", "ends", "all to the last period that every one has reached")
    browser.kept_revision(3)
    browser.choose("figure", "arrangement", "each in a chart of its own")
    browser.kept_revision(4)
    browser.choose("figure", "scale", "a scale of its own each")
    browser.kept_revision(5)
    browser.click('[data-entry="figure"] [data-word="shown"]')
    browser.click(".boxes-all button", "tick none")
    browser.click(".boxes-list label", "Dunlin")
    browser.click(".boxes button", "Keep")
    browser.kept_revision(6)
    assert "3 more series count without being drawn" in browser.find(".figure-bar").text
    browser.click(".figure-bar button", "Leave them out of the study")
    browser.kept_revision(7)
    assert browser.word("source", "series").text == "Dunlin"
    browser.open(demo.address)
    browser.click(".card h2 a", "Contract price of fuel")
    assert browser.word("figure", "shape").text == "in held steps"
    browser.press("h")
    path = browser.download(lambda: browser.click(".handover button", "picture.svg"), ".svg")
    # a held step: across, then straight up or down
    assert "+0.19 (+20 %)" in path.read_text()


def controls(path: str) -> Iterator[tuple[float, float, list[float]]]:
    """Of every cubic piece of an SVG path: where it begins and ends, and its control points, by height."""
    for piece in re.findall(r'd="(M[^"]*C[^"]*)"', path):
        y = None
        for command, numbers in re.findall(r"([MLC])([^MLCZ]*)", piece):
            values = [float(n) for n in re.findall(r"-?[\d.]+(?:e-?\d+)?", numbers)]
            if command != "C":
                y = values[-1]
                continue
            for n in range(0, len(values), 6):
                assert y is not None
                yield y, values[n + 5], [values[n + 1], values[n + 3]]
                y = values[n + 5]


def test_a_curve_never_overshoots_the_data(browser: Browser, server: Server, tmp_path: Path) -> None:
    study(browser, server, tmp_path, np.array([10.0, 10, 80, 10, 12, 60, 61, 5, 5, 90]))
    browser.choose("figure", "shape", "as a curve")
    browser.kept_revision(2)
    browser.press("h")
    path = browser.download(lambda: browser.click(".handover button", "picture.svg"), ".svg")
    pieces = list(controls(path.read_text()))
    assert len(pieces) >= 9
    for start, end, between in pieces:
        # a cubic stays within its control points
        assert min(start, end) - 0.01 <= min(between)
        assert max(between) <= max(start, end) + 0.01


def test_a_stretch_is_chosen_in_the_chart_by_dragging(browser: Browser, server: Server, tmp_path: Path) -> None:
    study(browser, server, tmp_path, values())
    canvas = browser.find(".chart")
    middle = canvas.size["width"] / 2
    inner = canvas.size["width"] - 56 - 132

    def x(place: int) -> int:
        return round(56 + inner * place / (SIZE - 1) - middle)

    chain = ActionChains(browser.driver).key_down(Keys.SHIFT).move_to_element_with_offset(canvas, x(10), 0)
    chain.click_and_hold().move_by_offset(x(14) - x(10), 0).release().key_up(Keys.SHIFT).perform()
    assert "5 periods" in explained(browser, "11 Jun 2026 to 15 Jun 2026")
    browser.click(".stretch button", "Keep but mark")
    browser.kept_revision(2)
    assert touched(browser, "outliers") == "5 marked"

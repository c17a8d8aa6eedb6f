"""Intake of what analysts are handed: workbooks, pasted tables, rows to be left out, ways to be kept."""

from __future__ import annotations

import re
from pathlib import Path

from tests.browser.machine import Browser, Server
from zembra.demo import demo_file


def drop(browser: Browser, server: Server, path: Path) -> None:
    browser.hand_in(server.address, path)
    browser.find(".census")


def count(browser: Browser, key: str) -> int:
    return int(browser.find(f"[data-count={key}] b").text.replace("\u2009", ""))


def test_a_workbook_with_months_across(browser: Browser, demo: Server) -> None:
    browser.open(f"{demo.address}/intake")
    browser.click("button.link", "upkeep_by_month.xlsx")
    browser.find(".census")
    assert browser.word("table", "sheet").text == "By month"
    assert "run across the columns" in browser.find("[data-entry=values]").text
    assert (count(browser, "blank"), count(browser, "unreadable")) == (7, 2)
    browser.click("[data-count=unreadable]")
    assert "“in dock”" in browser.find(".census-rows").text
    # the total is left out, and comes back with one click
    notice = browser.with_text(".notice", "totals")
    assert "left out" in notice.text
    measured = count(browser, "measured")
    browser.click(".notice button", "Keep it")
    browser.wait(lambda: count(browser, "measured") == measured + 22, "the total is a series")
    # the other sheet is another table
    browser.choose("table", "sheet", "By year")
    browser.wait(lambda: browser.word("dates", "form").text == "year", "read anew")
    assert count(browser, "measured") == 16


def test_rows_are_kept_by_conditions(browser: Browser, server: Server, tmp_path: Path) -> None:
    path = tmp_path / "sailings.csv"
    path.write_bytes(demo_file("sailings.csv"))
    drop(browser, server, path)
    everything = count(browser, "measured")
    browser.click("button", "+ keep only some rows")
    browser.type_word("keep.0", "values", "Outer Isles, North Head")
    browser.wait(lambda: count(browser, "measured") < everything * 0.6, "half of the routes")
    assert "rows left out by the conditions" in browser.find(".intake-right").text
    browser.click("[aria-label='Remove this condition']")
    browser.wait(lambda: count(browser, "measured") == everything, "all of them again")


def test_a_pasted_table_is_brought_in(browser: Browser, server: Server) -> None:
    browser.open(f"{server.address}/intake")
    browser.find(".drop")
    table = "day\triders\n" + "".join(f"2026-03-{n:02d}\t{n * 3}\n" for n in range(1, 11))
    browser.driver.execute_script(
        """
        const data = new DataTransfer();
        data.setData("text/plain", arguments[0]);
        document.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true }));
        """,
        table,
    )
    browser.find(".census")
    assert browser.word("table", "delimiter").text == "tabs"
    assert count(browser, "measured") == 10


def test_a_way_of_reading_is_kept_for_the_next_file(browser: Browser, server: Server, tmp_path: Path) -> None:
    rows = "".join(f"0{day}/0{month}/2026;{day + month}\n" for month in (1, 2) for day in range(1, 8))
    first, second = tmp_path / "first.csv", tmp_path / "second.csv"
    first.write_text("day;riders\n" + rows)
    second.write_text("day;riders\n" + rows + "03/03/2026;9\n")
    drop(browser, server, first)
    assert "can be read in two ways" in browser.find(".ask").text
    browser.choose("dates", "form", "month first")
    browser.wait(lambda: browser.word("dates", "form").text == "month first", "read anew")
    browser.click("button", "Keep this way of reading")
    browser.click("button", "Keep it")
    browser.wait(lambda: "Kept: the next file" in browser.find(".ant-message").text, "kept")
    drop(browser, server, second)
    assert browser.word("dates", "form").text == "month first"
    assert "Read the way that was kept" in browser.find(".notice").text


def test_closed_days_are_typed(browser: Browser, server: Server, tmp_path: Path) -> None:
    path = tmp_path / "rota_hours.csv"
    path.write_bytes(demo_file("rota_hours.csv"))
    drop(browser, server, path)
    assert browser.word("calendar", "weekdays").text == "Monday to Friday"
    assert count(browser, "absent") == 9
    browser.word("calendar", "closed")
    browser.click('[data-entry="calendar"] [data-word="closed"]')
    browser.find(".typed textarea").send_keys("2026-04-03, 2026-04-06 and 2026-08-31")
    assert "3 days understood" in browser.find(".typed").text
    browser.click(".typed button", "Keep")
    browser.wait(lambda: count(browser, "absent") == 0, "nothing is missing")


PASTE = """
const data = new DataTransfer();
data.setData('text/html', arguments[0]);
data.setData('text/plain', arguments[1]);
document.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true }));
"""


def test_a_pasted_table_keeps_what_its_merged_cells_say(browser: Browser, server: Server) -> None:
    routes = ("Outer Isles", "North Head")
    rows = [(route, f"2026-{month:02}", 100 * at + month) for at, route in enumerate(routes) for month in range(1, 7)]
    body = "".join(
        f"<tr>{f'<td rowspan=6>{route}</td>' if month.endswith('-01') else ''}<td>{month}</td><td>{value}</td></tr>"
        for route, month, value in rows
    )
    page = f"<table><tr><th>route</th><th>month</th><th>passengers</th></tr>{body}</table>"
    text = "\n".join(f"{route if month.endswith('-01') else ''}\t{month}\t{value}" for route, month, value in rows)
    browser.open(f"{server.address}/intake")
    browser.find(".drop")
    browser.driver.execute_script(PASTE, page, text)
    browser.click("button", "Begin the study")
    browser.find(".chart canvas")
    study = re.findall(r"/studies/(\d+)", browser.driver.current_url)[0]
    points = browser.answer(f"{server.address}/api/studies/{study}")["figure"]["series"]
    assert {one["name"]: one["v"] for one in points} == {
        route: [100.0 * at + month for month in range(1, 7)] for at, route in enumerate(routes)
    }

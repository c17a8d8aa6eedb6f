"""The edges that trip an analyst: an empty home, small and scaled screens, keys, copies, names in the picture."""

from __future__ import annotations

from datetime import date, timedelta
from pathlib import Path
from typing import Any

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.machine import Browser, Server

FIRST = date(2026, 1, 1)
WIDE = "day,Harbour Loop,Dunlin\n" + "".join(
    f"{FIRST + timedelta(n)},{100 + 9 * (n % 7) + n // 3},{400 - n % 5}\n" for n in range(120)
)
# what is cut, lies beyond the screen or on its neighbour
CUT = """const name = document.querySelector('.study-name');
  const button = name.querySelector('button') ?? name;
  return button.scrollWidth - button.clientWidth"""
OVER = """const boxes = [...document.querySelectorAll('.topbar-where > *, .topbar-actions > *')]
    .map((one) => one.getBoundingClientRect()).filter((one) => one.width > 1);
  return boxes.some((a, n) => n && a.left < boxes[n - 1].right - 1)"""
BEYOND = "return document.documentElement.scrollWidth - window.innerWidth"
ROWS_SEEN = """const [box, head, row] = ['.values-table', '.values-table thead', '.values-table tbody tr:not([aria-hidden])']
    .map((one) => document.querySelector(one));
  return (box.clientHeight - head.offsetHeight) / row.offsetHeight"""
STACKED = """const [chart, dock] = ['.chart-pane', '.dock'].map((one) => document.querySelector(one).getBoundingClientRect());
  return chart.bottom - dock.top"""


def begun(browser: Browser, server: Server, folder: Path) -> str:
    path = folder / "routes.csv"
    path.write_text(WIDE)
    browser.hand_in(server.address, path)
    browser.click("button", "Begin the study")
    browser.find(".chart canvas")
    return browser.driver.current_url.rsplit("/", 1)[1]


def screen(browser: Browser, width: int, height: int, scale: float = 1) -> None:
    told = {"width": width, "height": height, "deviceScaleFactor": scale, "mobile": False}
    browser.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", told)


def test_an_empty_home_offers_the_ways_in(browser: Browser, server: Server) -> None:
    browser.open(server.address)
    told = browser.find(".first-hour").text
    for way in ("Drop a table here, or paste one", "Choose a file", "demo file", "What a first hour looks like"):
        assert way in told
    paste = """const data = new DataTransfer(); data.setData('text/plain', arguments[0]);
      document.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true }))"""
    browser.driver.execute_script(paste, WIDE.replace(",", "\t"))
    assert "240" in browser.find(".census").text or "120" in browser.find(".census").text
    browser.open(server.address)
    browser.wait(lambda: "Received, not studied yet" in browser.find(".studies").text, "it is kept")


@pytest.mark.parametrize(
    ("width", "height", "scale"), [(1024, 640, 1), (1280, 800, 1), (853, 533, 1.5), (1920, 1080, 1)]
)
def test_the_bench_fits_the_screen(browser: Browser, demo: Server, width: int, height: int, scale: float) -> None:
    screen(browser, width, height, scale)
    try:
        browser.open(demo.address)
        browser.click(".card h2 a", "Outer Isles, daily passengers")
        browser.find(".chart canvas")
        browser.driver.execute_script("return document.fonts.ready")
        ask = browser.driver.execute_script
        assert ask(CUT) <= 0, "the name of the study is cut"
        assert not ask(OVER), "the top bar lies over itself"
        assert ask(BEYOND) <= 0, "the page scrolls sideways"
        assert ask(STACKED) <= 1, "the chart lies under the dock"
        browser.press("v")
        browser.find(".values-table")
        if height >= 640:
            browser.find(".values-table tbody td")
            assert ask(ROWS_SEEN) >= 8
    finally:
        browser.driver.execute_cdp_cmd("Emulation.clearDeviceMetricsOverride", {})


def test_a_study_is_copied_for_other_columns(browser: Browser, server: Server, tmp_path: Path) -> None:
    study = begun(browser, server, tmp_path)
    browser.click('[data-entry="source"] [data-word="series"]')
    browser.click(".boxes .ant-checkbox-wrapper", "Dunlin")
    browser.click(".boxes button", "Keep")
    browser.kept_revision(2)
    browser.open(server.address)
    ActionChains(browser.driver).move_to_element(browser.find(".card h2")).perform()
    browser.click(".card .more")
    browser.click(".ant-dropdown-menu-item", "Copy it for other columns")
    browser.click(".copy-names .ant-select")
    browser.click_at_rest(".ant-select-item-option", "Harbour Loop")
    browser.click(".ant-modal-footer button", "Copy")
    browser.wait(lambda: browser.driver.current_url.rsplit("/", 1)[1] not in (study, ""), "the copy is opened")
    browser.find(".chart canvas")
    made = browser.driver.current_url.rsplit("/", 1)[1]
    bench: Any = browser.answer(f"{server.address}/api/studies/{made}")
    assert [one["name"] for one in bench["figure"]["series"]] == ["Harbour Loop"]


def test_a_newer_file_of_another_kind_leads_to_its_intake(browser: Browser, server: Server, tmp_path: Path) -> None:
    begun(browser, server, tmp_path)
    other = tmp_path / "sales.csv"
    other.write_text("month,sales\n2026-01,5\n2026-02,7\n2026-03,8\n")
    browser.click(".study-file")
    browser.find(".new-rows")
    browser.all(".new-rows input[type=file]")[0].send_keys(str(other))
    told = browser.find(".otherwise").text
    assert "cannot be read as routes.csv is" in told
    assert "month" in told
    assert "sales.csv" in browser.find(".study-name").text
    # it can be a study of its own as well
    browser.click("button", "Begin the study")
    browser.find(".chart canvas")


def test_trend_lines_are_told_apart_and_say_their_equation(browser: Browser, server: Server, tmp_path: Path) -> None:
    study = begun(browser, server, tmp_path)
    for revision in (2, 3):
        browser.press("a")
        browser.find(".ant-modal input")
        browser.press(*"trend line", Keys.ENTER)
        browser.kept_revision(revision)
    browser.open(f"{server.address}/studies/{study}/picture")
    browser.find(".sheet svg")

    def equations() -> list[Any]:
        return [one for one in browser.all(".sheet text") if one.text.startswith("y =")]

    browser.wait(lambda: len(equations()) == 4, "each equation stands whole")
    assert all("x" in one.text and "…" not in one.text for one in equations())
    assert len({one.get_attribute("fill") for one in equations()}) == 4


def test_an_open_question_is_a_link_to_it(browser: Browser, server: Server, tmp_path: Path) -> None:
    path = tmp_path / "two.csv"
    path.write_text("sold,sailed,riders\n" + "".join(f"2026-01-{n:02d},2026-02-{n:02d},{n}\n" for n in range(1, 20)))
    browser.hand_in(server.address, path)
    browser.find(".ask")
    browser.click("button.link", "question")
    inside = "return Boolean(document.activeElement.closest('.ask'))"
    browser.wait(lambda: browser.driver.execute_script(inside), "the question has the focus")


PUT = """
const [study, change, done] = arguments, url = `/api/studies/${study}`;
fetch(url).then((answer) => answer.json()).then((bench) => {
  const settings = { ...bench.settings, ...(change.pictures ? { pictures: change.pictures } : {}) };
  const entries = [...bench.ledger.entries, ...(change.entries ?? [])];
  return fetch(`${url}/revision`, {
    method: "PUT",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({ base: bench.study.revision, what: "elsewhere", settings, ledger: { ...bench.ledger, entries } }),
  });
}).then((answer) => done(answer.status));
"""


def test_several_edits_that_are_not_taken_all_wait(browser: Browser, server: Server, tmp_path: Path) -> None:
    study = begun(browser, server, tmp_path)
    elsewhere = {"entries": [{"id": "else", "kind": "average", "params": {}}]}
    assert browser.driver.execute_async_script(PUT, study, elsewhere) == 200
    browser.choose("calendar", "absent", "nothing happened, zero")
    assert "is not lost" in browser.find(".trouble").text
    browser.press("a")
    browser.find(".ant-modal input")
    browser.press(*"trend line", Keys.ENTER)
    browser.wait(lambda: "Your 2 edits" in browser.find(".trouble").text, "both wait")
    assert "Trend line" in browser.find(".trouble").text
    browser.click(".trouble button", "Keep my edits over it")
    browser.kept_revision(4)
    assert browser.word("calendar", "absent").text == "nothing happened, zero"
    assert browser.find("[data-entry=trend]")
    assert browser.find("[data-entry=average]")


def test_a_scale_without_numbers_a_halo_and_a_title_of_the_time_axis(
    browser: Browser, server: Server, tmp_path: Path
) -> None:
    study = begun(browser, server, tmp_path)
    browser.open(f"{server.address}/studies/{study}/picture")
    browser.with_text(".sheet text", "300")
    paths = len(browser.all(".sheet path"))
    picture = {
        "left": {"axis": "bare"},
        "time": {"title": "day of sailing"},
        "lines": [{"id": "Dunlin", "halo": "ground"}],
    }
    assert browser.driver.execute_async_script(PUT, study, {"pictures": [picture]}) == 200
    browser.open(f"{server.address}/studies/{study}/picture")
    browser.with_text(".sheet text", "day of sailing")
    assert not [one for one in browser.all(".sheet text") if one.text in ("100", "200", "300")]
    assert len(browser.all(".sheet path")) == paths + 1
    assert "with a halo" in browser.find(".judging-left, .picture-left, aside").text


def test_a_snapshot_hands_its_png_over(browser: Browser, server: Server, tmp_path: Path) -> None:
    study = begun(browser, server, tmp_path)
    browser.open(f"{server.address}/studies/{study}/picture")
    browser.find(".sheet svg")
    browser.click(".snapshots button", "snapshot")
    browser.click(".snapshots a", "snapshot 1")
    browser.find(".snapshot-picture")
    path = browser.download(lambda: browser.click(".picture-buttons a", "picture.png"), ".png")
    assert path.read_bytes()[:8] == b"\x89PNG\r\n\x1a\n"


def test_two_seasons_are_laid_over_each_other_and_verdicts_are_kept(
    browser: Browser, server: Server, tmp_path: Path
) -> None:
    begun(browser, server, tmp_path)
    browser.press("a")
    browser.find(".ant-modal input")
    browser.press(*"projection", Keys.ENTER)
    browser.kept_revision(2)
    browser.click(".ant-segmented-item-label", "Projection")
    browser.wait(lambda: browser.all(".candidates tbody tr"), "begun")
    waits = "return [...document.querySelectorAll('.candidates')].some((one) => one.innerText.includes('…'))"
    browser.wait(lambda: not browser.driver.execute_script(waits), "judged", 200)
    second = """const row = document.querySelectorAll('.candidates')[1].querySelectorAll('tbody tr')[1];
      row.focus(); return row.innerText"""
    length = browser.driver.execute_script(second).split(" days")[0].strip()
    browser.press(" ")
    # the row that is walked to is drawn, the one that was laid beside stays
    browser.driver.execute_script("document.querySelector('.candidates tbody tr').focus()")
    browser.wait(lambda: f"{length} days" in browser.find(".what-it-said svg").text, "laid beside")
    scores = browser.table(".candidates")[1:]
    # another level of the limits changes nothing of the centres: what is known is told at once
    browser.type_word("projection", "levels", "90")
    browser.kept_revision(3)
    browser.wait(lambda: not browser.driver.execute_script(waits), "judged", 200)
    now = browser.table(".candidates")[1:]
    assert len(now) > 3
    assert [one[:2] for one in now] == [one[:2] for one in scores]

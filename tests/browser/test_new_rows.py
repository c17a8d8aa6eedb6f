"""Month by month: bringing in new rows on the screen, against the files themselves."""

from __future__ import annotations

import io
from collections.abc import Callable
from datetime import date
from pathlib import Path
from typing import Any

import numpy as np
import polars as pl

from tests.api.test_feeds import Office, csv_of
from tests.browser.machine import Browser, Server
from zembra.demo import demo_file


def table(name: str) -> pl.DataFrame:
    frame = pl.read_csv(io.BytesIO(demo_file(name)), infer_schema=False)
    return frame.select("day", "route", pl.col("passengers").cast(pl.Float64, strict=False))


def study_of(browser: Browser, demo: Server) -> str:
    browser.open(demo.address)
    browser.find(".card")
    cards: Any = browser.answer(f"{demo.address}/api/studies")["studies"]
    return str(next(card["study"]["id"] for card in cards if "month by month" in card["study"]["name"]))


def counts(browser: Browser) -> list[int]:
    return [int(one.text.split()[0].replace("\u202f", "")) for one in browser.all(".came-counts button")]


def bring(browser: Browser, demo: Server, study: str, was: str, now: str) -> tuple[int, int]:
    """Choose the file that comes next, and hold the counts against the files: (new, revised)."""
    old, new = table(was), table(now)
    both = old.join(new, on=["day", "route"], how="full", suffix="_now", coalesce=True)
    had, has = pl.col("passengers").is_not_null(), pl.col("passengers_now").is_not_null()
    added = both.filter(has & ~had).height
    revised = both.filter(has & had & (pl.col("passengers") != pl.col("passengers_now"))).height
    browser.open(f"{demo.address}/studies/{study}")
    browser.wait(lambda: browser.find(".study-file").text == was, was)
    browser.click(".study-file")
    browser.click(".came-choose .ant-select")
    browser.click(".ant-select-item", f"{now}, received")
    browser.wait(lambda: browser.all(".came-counts button"), "what came")
    assert counts(browser) == [added, revised, 0, 0]
    return added, revised


def check_scores(browser: Browser, demo: Server, study: str, now: pl.DataFrame, provisional: str) -> None:
    """Bias and the share inside, on the screen, against what was projected and what the file says. provisional: the first day
    that is."""
    said: Any = browser.answer(f"{demo.address}/api/studies/{study}")["figure"]["shapes"]
    curve = next(shape for shape in said if shape["shape"] == "curve" and shape["rests"] == "projected")
    band = next(
        shape for shape in said if shape["shape"] == "area" and shape["of"] == curve["id"] and shape["level"] == 80
    )
    # what is provisional has not happened yet
    known = now.filter((pl.col("route") == curve["series"]) & (pl.col("day") < provisional))
    actual = dict(zip(known["day"], known["passengers"], strict=True))
    days = [str(np.datetime64(at, "ms").astype("datetime64[D]")) for at in curve["t"]]
    rows = [
        (actual[day], mean, lower <= actual[day] <= upper)
        for day, mean, lower, upper in zip(days, curve["v"], band["lower"], band["upper"], strict=True)
        if actual.get(day) is not None
    ]
    bias = np.mean([value - mean for value, mean, _ in rows])
    told = browser.with_text(".happened tbody tr", curve["series"]).text.replace("−", "-").split()
    assert float(told[-7]) == float(f"{bias:.3g}")
    assert told[-6:-3] == [str(sum(inside for *_, inside in rows)), "of", str(len(rows))]


def test_month_by_month_is_looked_at_taken_in_and_taken_out_again(browser: Browser, demo: Server) -> None:
    study = study_of(browser, demo)
    browser.open(f"{demo.address}/studies/{study}")
    browser.click(".topbar-actions button", "Undo")
    bring(browser, demo, study, "sailings_to_august.csv", "sailings_to_september.csv")
    check_scores(browser, demo, study, table("sailings_to_september.csv"), "2026-09-26")
    browser.click(".came-take button", "Take them in")
    browser.wait(lambda: browser.find(".study-file").text == "sailings_to_september.csv", "taken in")
    _, revised = bring(browser, demo, study, "sailings_to_september.csv", "sailings.csv")
    # the correction that nobody told of is the only one that no tail foresaw
    assert f"{revised - 1} of the {revised} revised were provisional" in browser.find(".new-rows aside").text
    row = browser.with_text(".came-rows tr", "14 Sep 2026 · Harbour Loop").text.replace("\u202f", "")
    assert "+720" in row

    check_scores(browser, demo, study, table("sailings.csv"), "2026-10-26")
    browser.click(".came-take button", "Take them in")
    browser.wait(lambda: browser.find(".study-file").text == "sailings.csv", "taken in")
    browser.open(f"{demo.address}/studies/{study}/said")
    browser.wait(lambda: len(browser.all(".told-table")) == 3, "what was said")
    each = [row.text for row in browser.all(".told-table:last-of-type tbody tr")]
    assert [text[:11] for text in each] == ["31 Aug 2026", "31 Oct 2026"]
    browser.open(f"{demo.address}/studies/{study}")
    browser.click(".topbar-actions button", "Undo")
    browser.wait(lambda: browser.find(".study-file").text == "sailings_to_september.csv", "taken out again")


def test_a_few_pasted_rows_are_only_what_is_new(browser: Browser, demo: Server) -> None:
    study = study_of(browser, demo)
    browser.open(f"{demo.address}/studies/{study}/new-rows")
    browser.find(".came-choose")
    rows = "day,route,passengers,vehicles\\n2026-10-01,North Head,401,170\\n2026-10-02,North Head,455,190\\n2026-09-30,North Head,390,150"
    browser.driver.execute_script(
        "const data = new DataTransfer(); data.setData('text/plain', arguments[0].replaceAll('\\\\n', '\\n'));"
        "document.dispatchEvent(new ClipboardEvent('paste', {clipboardData: data, bubbles: true}))",
        rows,
    )
    browser.wait(lambda: browser.all(".came-counts button"), "what came")
    assert counts(browser) == [2, 1, 0, 0]
    assert "only what is new" in browser.find(".came-words").text
    browser.click(".came-counts button", "new")
    assert "2 Oct 2026 · North Head" in browser.find(".came-rows").text


def test_a_study_looks_by_itself_and_says_what_needs_a_look(browser: Browser, server: Server, tmp_path: Path) -> None:
    office = Office()
    try:
        path = tmp_path / "counts.csv"
        path.write_bytes(csv_of(office.today))
        browser.hand_in(server.address, path)
        browser.click("button", "Begin the study")
        browser.find(".chart canvas")
        study = browser.driver.current_url.rpartition("/")[2]
        browser.open(f"{server.address}/studies/{study}/new-rows")
        browser.click(".feed-pane .link", "Look somewhere")
        browser.type_word("feed", "source.url", f"{office.address}/counts.csv")
        browser.wait(lambda: "/counts.csv" in browser.find(".feed-pane .sentence").text, "the address is said")
        browser.choose("feed", "often", "every hour")
        browser.wait(lambda: "every hour" in browser.find(".feed-pane .sentence").text, "how often is said")
        office.manners.key = "ebb"
        browser.click(".feed-pane button", "Connect")
        browser.click(".feed-pane button", "Look now")
        browser.wait(lambda: "asks for a key" in browser.find(".feed-pane").text, "what was wrong")
        assert "Nothing was taken in" in browser.find(".feed-pane").text
        browser.choose("feed", "then", "is taken in by itself")
        browser.find(".feed-pane input").send_keys("ebb")
        browser.click(".feed-pane button", "Keep it so")
        browser.wait(lambda: "kept apart" in browser.find(".feed-pane").text, "the key is kept")
        browser.click(".feed-pane button", "Look now")
        browser.wait(lambda: "Nothing new." in browser.find(".feed-pane").text, "nothing new")
        # a watch says what it cannot see, and what it finds
        browser.click("[aria-label='+ add something to watch']")
        browser.click(".ant-dropdown-menu-item", "large revision")
        browser.choose("watch-0", "which", "provisional or not")
        browser.wait(lambda: "Nothing that was watched for." in browser.find(".watch-pane").text, "nothing yet")
        office.today = date(2026, 3, 22)
        browser.click(".feed-pane button", "Look now")
        browser.wait(lambda: "8 new and 20 revised" in browser.find(".feed-pane").text, "what came")
        browser.wait(lambda: "revised by" in browser.find(".watch-pane .calls").text, "what was found")
        browser.open(server.address)
        news = browser.find(".card-news").text
        assert "Rows wait: 8 new and 20 revised (0 foreseen)." in news
        browser.click(".card-news a", "Rows wait")
        browser.wait(lambda: browser.all(".came-counts button"), "what came")
        browser.click(".came-take button", "Take them in")
        browser.find(".chart canvas")
        browser.open(server.address)
        browser.wait(lambda: "Rows wait" not in browser.find(".card").text, "nothing waits")
    finally:
        office.close()


def _next_file(browser: Browser, server: Server, first: Path, second: Path) -> None:
    """A study of one file, and another one brought to its new rows."""
    browser.hand_in(server.address, first)
    browser.click("button", "Begin the study")
    browser.find(".chart canvas")
    study = browser.driver.current_url.rpartition("/")[2]
    browser.open(f"{server.address}/studies/{study}/new-rows")
    browser.find(".came-choose")
    browser.all(".came-choose input[type=file]")[0].send_keys(str(second))


def test_another_kind_of_table_goes_to_intake_and_comes_back(browser: Browser, server: Server, tmp_path: Path) -> None:
    first, second = tmp_path / "counts.csv", tmp_path / "renamed.csv"
    first.write_bytes(csv_of(date(2026, 3, 20)))
    # other numbers under other names: nothing says that they are the same columns
    second.write_bytes(
        _counted(csv_of(date(2026, 3, 22)), lambda count: count * 37 % 1013).replace(
            b"day,route,passengers", b"date,landing,people"
        )
    )
    _next_file(browser, server, first, second)
    told = browser.find(".otherwise").text
    assert "cannot be read as counts.csv is" in told
    assert "day" in told
    browser.click(".otherwise button", "Bring these rows into counts")
    browser.wait(lambda: browser.all(".came-counts button"), "what came")
    assert "Its column people counts as passengers." in browser.find(".came-words").text
    assert [counts(browser)[n] for n in (0, 2, 3)] == [8, 0, 0]
    browser.click(".came-take button", "Take them in")
    browser.wait(lambda: "revision 2" in browser.find(".kept").text, "taken in")


def _counted(rows: bytes, change: Callable[[int], int]) -> bytes:
    """Rows of day, route and count with other counts."""
    head, *lines = rows.decode().splitlines()
    parts = [line.split(",") for line in lines]
    changed = [",".join([day, route, str(change(int(count))) if count else ""]) for day, route, count in parts]
    return "\n".join([head, *changed]).encode()


def test_numbers_in_another_unit_are_asked_about_and_brought_back(
    browser: Browser, server: Server, tmp_path: Path
) -> None:
    first, second = tmp_path / "counts.csv", tmp_path / "thousands.csv"
    first.write_bytes(csv_of(date(2026, 3, 20)))
    second.write_bytes(_counted(csv_of(date(2026, 3, 22)), lambda count: count * 1000))
    _next_file(browser, server, first, second)
    asked = browser.find("[data-question^='rows:scale']").text
    assert "1\u202f000 times what they were" in asked or "1 000 times what they were" in asked
    assert not browser.find(".came-take button").is_enabled()
    browser.click("[data-question^='rows:scale'] button", "bring them back")
    browser.wait(lambda: not browser.all("[data-question^='rows:scale']"), "the question is answered")
    browser.wait(lambda: counts(browser) == [8, 20, 0, 0], "only what was revised is left")
    browser.click(".came-take button", "Take them in")
    browser.wait(lambda: "revision 2" in browser.find(".kept").text, "taken in")

"""Month by month: bringing in new rows on the screen, against the files themselves."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
import polars as pl

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


def test_the_next_month_is_looked_at_taken_in_and_taken_out_again(browser: Browser, demo: Server) -> None:
    study = study_of(browser, demo)
    was, now = (table(name) for name in ("sailings_to_september.csv", "sailings.csv"))
    both = was.join(now, on=["day", "route"], how="full", suffix="_now", coalesce=True)
    had, has = pl.col("passengers").is_not_null(), pl.col("passengers_now").is_not_null()
    new = both.filter(has & ~had).height
    revised = both.filter(has & had & (pl.col("passengers") != pl.col("passengers_now")))

    browser.open(f"{demo.address}/studies/{study}")
    browser.click(".study-file")
    browser.click(".came-choose .ant-select")
    browser.click(".ant-select-item", "sailings.csv, received")
    browser.wait(lambda: browser.all(".came-counts button"), "what came")
    assert counts(browser) == [new, revised.height, 0, 0]
    # the correction that nobody told of is the only one that no tail foresaw
    assert (
        f"{revised.height - 1} of the {revised.height} revised were provisional" in browser.find(".new-rows aside").text
    )
    row = browser.with_text(".came-rows tr", "14 Sep 2026 · Harbour Loop").text.replace("\u202f", "")
    assert "+720" in row

    said: Any = browser.answer(f"{demo.address}/api/studies/{study}")["figure"]["shapes"]
    curve = next(shape for shape in said if shape["shape"] == "curve" and shape["rests"] == "projected")
    band = next(
        shape for shape in said if shape["shape"] == "area" and shape["of"] == curve["id"] and shape["level"] == 80
    )
    # what is provisional has not happened yet
    known = now.filter((pl.col("route") == curve["series"]) & (pl.col("day") < "2026-10-26"))
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

    browser.click(".came-take button", "Take them in")
    browser.wait(lambda: browser.find(".study-file").text == "sailings.csv", "taken in")
    browser.open(f"{demo.address}/studies/{study}/said")
    browser.wait(lambda: len(browser.all(".told-table")) == 2, "what was said")
    each = [row.text for row in browser.all(".told-table:last-of-type tbody tr")]
    assert [text[:11] for text in each] == ["31 Aug 2026", "30 Sep 2026"]
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

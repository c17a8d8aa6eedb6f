"""Judging a projection as an analyst does, from a file to limits that are handed over."""

from __future__ import annotations

import csv
import io
from datetime import date, timedelta
from pathlib import Path

import numpy as np
from scipy import stats
from selenium.webdriver.common.keys import Keys

from tests.browser.machine import Browser, Server

SIZE = 240
LONG = 120  # seconds that fits may take on a machine that does much at once
FIRST = date(2026, 1, 5)
VALUES = np.round(
    500
    + 60 * np.sin(np.arange(SIZE) * 2 * np.pi / 7)
    + np.cumsum(np.random.default_rng(6).normal(0, 2, SIZE))
    + np.random.default_rng(7).normal(0, 9, SIZE),
    1,
)


def test_a_projection_is_judged_taken_and_handed_over(browser: Browser, server: Server, tmp_path: Path) -> None:
    path = tmp_path / "kittiwake.csv"
    path.write_text("day,riders\n" + "".join(f"{FIRST + timedelta(n)},{v}\n" for n, v in enumerate(VALUES)))
    browser.hand_in(server.address, path)
    browser.click("button", "Begin the study")
    browser.find(".chart canvas")
    study = browser.driver.current_url.rsplit("/", 1)[1]

    # the last six months, fourteen days on, limits at three levels
    browser.click("[aria-label='Add to Projection']")
    browser.click(".kind", "Projection")
    browser.kept_revision(2)
    browser.choose("projection", "method", "the last value")
    browser.kept_revision(3)
    browser.type_word("projection", "ahead.count", "14")
    browser.kept_revision(4)
    browser.type_word("projection", "levels", "75, 95, 99")
    browser.kept_revision(5)
    browser.choose("projection", "since", "from the last")
    browser.kept_revision(6)
    browser.wait(lambda: "180 days used" in browser.find("[data-entry=projection]").text, "from 180 days", LONG)
    # what it would have said a week ago is laid over what happened
    browser.type_word("projection", "earlier", "7")
    browser.kept_revision(7)
    browser.wait(
        lambda: any(
            one["name"].startswith("projection as of")
            for one in browser.answer(f"{server.address}/api/studies/{study}")["figure"]["shapes"]
        ),
        "held back",
        LONG,
    )

    # judged on seven days from a few starting points
    browser.click(".ant-segmented-item-label", "Projection")
    browser.find("[data-entry=judging]")
    browser.type_word("judging", "ahead", "7")
    browser.type_word("judging", "starts", "3")
    browser.type_word("judging", "apart", "7")
    browser.wait(lambda: "from 3 starting points, 7 days" in browser.find("[data-entry=judging]").text, "words")
    browser.wait(lambda: browser.all(".candidates tbody tr"), "begun", LONG)
    # nothing is said of what is not judged yet
    beside = "return document.querySelector('.judging-right').innerText"
    assert "it refused here" not in browser.driver.execute_script(beside)
    waits = "return [...document.querySelectorAll('.candidates')].some((one) => one.innerText.includes('…'))"
    browser.wait(lambda: not browser.driver.execute_script(waits), "judged", LONG)
    errors = [float(row[1]) for row in browser.table(".candidates")]
    assert errors == sorted(errors)
    assert len(errors) >= 8
    seasons = "return document.querySelectorAll('.candidates')[1].innerText"
    assert "30 days" in browser.driver.execute_script(seasons)
    row = "return [...document.querySelectorAll('.candidates tr')].find((one) => one.innerText.includes('365 days')).innerText"
    assert "too short" in browser.driver.execute_script(row)
    # the starting points are walked, the charts follow
    before = browser.find(".starts b").text
    browser.driver.execute_script("arguments[0].focus()", browser.find(".starts button.at"))
    browser.press(Keys.ARROW_LEFT)
    browser.wait(lambda: browser.find(".starts b").text != before, "walked")
    # the last season coming again is taken, by keys
    row = browser.with_text(".candidates tbody tr", "Last season")
    browser.driver.execute_script("arguments[0].focus()", row)
    browser.press(Keys.ENTER)
    browser.kept_revision(8)
    browser.wait(
        lambda: "last season coming again" in browser.find("[data-entry=projection]").text, "the sentence says so"
    )

    # the limits handed over are those of the formula
    browser.click(".ant-segmented-item-label", "Bench")
    browser.wait(lambda: "180 days used" in browser.find("[data-entry=projection]").text, "projected", LONG)
    browser.press("h")
    text = browser.download(lambda: browser.click(".handover button", "lines.csv"), "lines.csv").read_text()
    rows = [row for row in csv.DictReader(io.StringIO(text)) if row["line"] == "projection"]
    assert {row["level"] for row in rows} == {"75", "95", "99"}
    part = VALUES[-180:]
    spread = np.sqrt(np.mean((part[7:] - part[:-7]) ** 2)) * np.sqrt(np.arange(14) // 7 + 1)
    share = 1 / 173
    for level in (75, 95, 99):
        half = stats.t.ppf(0.5 + level / 200, 8) * spread * np.sqrt((1 + share) / (1 - share))
        upper = np.array([float(row["upper"]) - float(row["value"]) for row in rows if row["level"] == str(level)])
        factor = upper / half
        np.testing.assert_allclose(factor, factor[0], rtol=1e-6)
        assert factor[0] >= 1 - 1e-9
    np.testing.assert_allclose([float(row["value"]) for row in rows if row["level"] == "95"], np.tile(part[-7:], 2))


def test_a_projection_that_was_stopped_or_took_too_long_says_so(browser: Browser, tmp_path: Path) -> None:
    path = tmp_path / "many.csv"
    names = [f"Landing {n}" for n in range(12)]
    table = np.random.default_rng(8).normal(500, 40, (400, len(names))).round(1)
    rows = [",".join([f"{FIRST + timedelta(n)}", *(str(v) for v in row)]) for n, row in enumerate(table)]
    path.write_text("\n".join([",".join(["day", *names]), *rows]))
    server = Server(tmp_path / "home", entry_seconds=4)
    server.start()
    try:
        browser.hand_in(server.address, path)
        browser.click("button", "Begin the study")
        browser.find(".chart canvas")
        browser.click("[aria-label='Add to Projection']")
        browser.click(".kind", "Projection")
        browser.wait(lambda: "days used" in browser.find("[data-entry=projection]").text, "by the usual", LONG)
        browser.choose("projection", "method", "the mean of five methods")
        browser.click(".entry-work button", "stop")
        note = "[data-entry=projection] .entry-work"
        browser.wait(lambda: browser.find(note).text == "Stopped. Begin again", "stopped", LONG)
        assert "projecting" not in browser.find("[data-entry=projection]").text
        # what was stopped stays so when the page is opened anew
        browser.driver.refresh()
        browser.wait(lambda: browser.find(note).text == "Stopped. Begin again", "still stopped", LONG)
        browser.click(".entry-work button", "Begin again")
        browser.wait(lambda: "projecting" in browser.find(note).text, "begun again")
        told = "Projection is not done within 4 seconds."
        browser.wait(lambda: told in browser.find("[data-entry=projection]").text, "it says what went wrong", LONG)
        assert "projecting" not in browser.find("[data-entry=projection]").text
        browser.find(".entry-work button")
        # an edit that asks for less is begun by itself
        browser.choose("projection", "method", "the last value")
        browser.wait(lambda: "days used" in browser.find("[data-entry=projection]").text, "projected", LONG)
    finally:
        server.kill()


def test_every_series_at_a_glance_and_their_sum(browser: Browser, server: Server, tmp_path: Path) -> None:
    path = tmp_path / "routes.csv"
    few = VALUES[:84]
    grown = few + 4 * np.arange(few.size)
    rows = [f"{FIRST + timedelta(n)},{a},{b}" for n, (a, b) in enumerate(zip(few, grown, strict=True))]
    path.write_text("\n".join(["day,Harbour Loop,North Head", *rows]))
    browser.hand_in(server.address, path)
    browser.click("button", "Begin the study")
    browser.find(".chart canvas")
    browser.click("[aria-label='Add to Projection']")
    browser.click(".kind", "Projection")
    browser.kept_revision(2)
    browser.choose("projection", "method", "the last season coming again")
    browser.kept_revision(3)
    browser.click(".ant-segmented-item-label", "Projection")
    browser.wait(lambda: browser.all(".judging-words .ant-select"), "series", LONG)
    browser.click(".judging-words .ant-select")
    browser.click(".ant-select-item-option", "every series at a glance")
    browser.wait(lambda: "of 2 series want a look" in browser.find(".judging-right").text, "all judged", LONG)
    first, second = browser.all(".every-series tbody tr")
    assert first.text.startswith("North Head")
    assert "has an error of" in first.text
    assert second.text.startswith("Harbour Loop")
    # Enter judges all candidates on a series; the sum stands beside them
    browser.driver.execute_script("arguments[0].focus()", first)
    browser.press(Keys.ENTER)
    browser.wait(lambda: "North Head" in browser.find(".judging-words .ant-select").text, "opened")
    browser.wait(lambda: browser.all(".candidates tbody tr"), "judged", LONG)
    browser.click(".judging-words .ant-select")
    browser.click(".ant-select-item-option", "their sum")
    browser.wait(lambda: browser.with_text(".candidates tbody tr", "Each series projected, then added"), "sum", LONG)

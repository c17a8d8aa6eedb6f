"""All series of a study, on the screen: carried out, counted, found, opened."""

from __future__ import annotations

from pathlib import Path

from tests.api.test_all_series import PLANTED, SERIES, landings
from tests.browser.machine import Browser, Server


def test_what_is_planted_is_found_through_the_counts(browser: Browser, server: Server, tmp_path: Path) -> None:
    path = tmp_path / "landings.csv"
    path.write_bytes(landings())
    browser.hand_in(server.address, path)
    browser.click("button", "Begin the study")
    browser.find(".chart canvas")
    browser.click(".ant-segmented-item", "All series")
    browser.wait(lambda: f"{SERIES} series of the file" in browser.find(".all-series aside").text, "how many there are")
    browser.click(".all-series button", "Carry it out")
    browser.wait(lambda: "as it stands now" in browser.find(".all-series aside").text, "carried out")

    def count(words: str) -> int:
        return int(browser.with_text(".looks button", words).text.split()[-1])

    browser.wait(lambda: count("no newer number") == len(PLANTED["silent"]), "series that stopped")
    assert count("blank or absent") == len(PLANTED["blank"])
    browser.click(".looks button", "blank or absent")
    browser.wait(lambda: len(browser.all(".series-row:not(.head)")) == len(PLANTED["blank"]), "their rows")
    assert f"{len(PLANTED['blank'])} of {SERIES}" in browser.find(".series-bar").text
    names = [row.text.split("\n")[0] for row in browser.all(".series-row:not(.head)")]
    assert sorted(names) == [f"landing {n:02d}" for n in PLANTED["blank"]]
    # the other columns put them in another order, and keys walk through them
    browser.click(".series-row.head button", "series")
    browser.click(".series-row:not(.head)", "landing 20")
    browser.wait(lambda: browser.find(".chosen-series h2").text == "landing 20", "it is drawn")
    browser.find(".series-table").send_keys("\ue015")
    browser.wait(lambda: browser.find(".chosen-series h2").text == "landing 21", "the next one")
    browser.find(".chosen-series svg path")
    browser.click(".chosen-series button", "Open on the bench")
    browser.find(".chart canvas")

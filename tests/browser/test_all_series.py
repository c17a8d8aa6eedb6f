"""All series of a study, on the screen: carried out, counted, found, summed, asked about, opened."""

from __future__ import annotations

from pathlib import Path

from tests.api.test_all_series import PLANTED, SERIES, landings
from tests.browser.machine import Browser, Server
from zembra.demo.landings import planted

ROWS = ".series-table .series-row:not(.head)"
FOUND = {"shifted": "level shift", "stopped": "no newer number", "late": "blank or absent", "far": "newest outside"}
LONG = 300  # seconds that 3 000 projections may take on a machine that does other things


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
    browser.wait(lambda: count(browser, "no newer number") == len(PLANTED["silent"]), "series that stopped")
    browser.click(".looks button", "blank or absent")
    browser.wait(lambda: len(browser.all(ROWS)) == len(PLANTED["blank"]), "their rows")
    assert f"{len(PLANTED['blank'])} of {SERIES}" in browser.find(".series-bar").text
    assert sorted(names(browser)) == [f"landing {n:02d}" for n in PLANTED["blank"]]
    # the other columns put them in another order, and keys walk through them
    browser.click(".series-row.head button", "series")
    browser.click(ROWS, "landing 20")
    browser.wait(lambda: browser.find(".chosen-series h2").text == "landing 20", "it is drawn")
    browser.find(".series-table").send_keys("\ue015")
    browser.wait(lambda: browser.find(".chosen-series h2").text == "landing 21", "the next one")
    browser.find(".chosen-series svg path")
    # a column more, and only what says so in it
    browser.click(".series-bar button", "Columns")
    browser.click('.column-choice[data-column="blank"] label')
    browser.wait(lambda: "blank" in browser.find(".series-row.head").text.split("\n"), "a column more")
    browser.find('.column-choice[data-column="newest"] [aria-label="newest, from"]').send_keys("221\n")
    browser.wait(lambda: names(browser) == ["landing 21"], "one of them is larger")
    browser.find("body").send_keys("\ue00c")
    # asked about, and on the bench's list though the bench does not draw it
    browser.click(".series-bar button", "Put them on the follow-up list")
    browser.wait(lambda: "1 put there" in browser.find(".series-bar").text, "it is on the list")
    browser.click(".series-bar .filtered", "newest from 221")
    browser.wait(lambda: len(browser.all(ROWS)) == len(PLANTED["blank"]), "all of them again")
    browser.click(".chosen-series button", "Open on the bench")
    browser.find(".chart canvas")
    browser.click(".dock [role='tab']", "Follow-up")
    browser.wait(lambda: "all series: blank or absent near the end" in browser.find(".follow-up").text, "it is listed")


def test_the_demo_says_what_needs_a_look_among_three_thousand(browser: Browser, demo: Server) -> None:
    browser.open(demo.address)
    browser.click(".card-text a", "Every landing, every fare")
    browser.find(".chart canvas")
    browser.click(".ant-segmented-item", "All series")
    browser.click(".all-series button", "Carry it out")
    browser.wait(lambda: "as it stands now" in browser.find(".all-series aside").text, "carried out", patience=LONG)
    kinds = planted()
    for kind, look in FOUND.items():
        browser.click(".looks button", look)
        browser.wait(lambda look=look: f"{count(browser, look)} of 3" in browser.find(".series-bar").text, look)
        found = names(browser)
        assert len(found) == count(browser, look)
        assert set(kinds[kind]) <= set(found)
        more = len(found) - len(kinds[kind]) - (len(kinds["stopped"]) if kind == "late" else 0)
        assert more <= 5, (kind, more)
        browser.click(".looks button", look)
    # a landing with a fare that has ended has no sum, until a word says that it counts as nothing
    assert "landing: 500" in browser.find('[data-entry="together"]').text
    browser.click('[data-entry="together"] button', "Sum them")
    browser.wait(lambda: "501" in browser.find('[aria-label="Together"] .looks').text, "sums", patience=LONG)
    browser.click(".looks button", "each as a series")
    browser.wait(lambda: "501 sums" in browser.find(".series-bar").text, "their rows")
    browser.click(ROWS)
    browser.wait(lambda: "projections of its parts add up" in browser.find(".chosen-series").text, "beside each other")


def count(browser: Browser, words: str) -> int:
    return int("".join(browser.with_text(".looks button", words).text.split("\n")[-1].split()))


def names(browser: Browser) -> list[str]:
    """Of all rows, those too that are not drawn yet."""
    found: dict[str, None] = {}
    box = browser.find(".series-table")
    browser.driver.execute_script("arguments[0].scrollTop = 0", box)
    while True:
        browser.wait(lambda: all(row.text != "…" for row in browser.all(ROWS)), "rows")
        before = len(found)
        found |= dict.fromkeys(row.text.split("\n")[0] for row in browser.all(ROWS))
        if len(found) == before:
            return list(found)
        browser.driver.execute_script("arguments[0].scrollTop += arguments[0].clientHeight / 2", box)

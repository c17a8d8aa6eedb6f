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
    newest = {row.text.split("\n")[0]: float(row.text.split("\n")[1]) for row in browser.all(ROWS)}
    larger = max(newest, key=lambda name: newest[name])
    field = browser.find('.column-choice[data-column="newest"] [aria-label="newest, from"]')
    field.send_keys(f"{newest[larger] - 0.1:.1f}\n")
    browser.wait(lambda: names(browser) == [larger], "one of them is larger")
    browser.find("body").send_keys("\ue00c")
    browser.click(".series-bar .filtered", "newest from")
    browser.wait(lambda: len(browser.all(ROWS)) == len(PLANTED["blank"]), "all of them again")
    # all of them summed: one of them has ended, so that the sum has
    browser.click('[data-entry="together"] button', "Sum them")
    browser.click(".looks button", "each as a series")
    browser.wait(lambda: drawn(browser) == ["all series"], "the sum of all")
    browser.click(ROWS, "all series")
    browser.wait(lambda: browser.find(".chosen-series h2").text == "all series", "it is drawn")
    browser.click(".looks button", "each as a series")
    browser.click(".looks button", "blank or absent")
    browser.click(ROWS, "landing 21")
    # asked about, and on the bench's list though the bench does not draw it
    browser.click(".series-bar button", "Put them on the follow-up list")
    browser.wait(lambda: "2 put there" in browser.find(".series-bar").text, "it is on the list")
    browser.click(".chosen-series button", "Open on the bench")
    browser.find(".chart canvas")
    browser.click(".dock [role='tab']", "Follow-up")
    browser.wait(
        lambda: "all series: blank or absent in the newest 14" in browser.find(".follow-up").text, "it is listed"
    )


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
    assert "landing: 500, such as Harbour Loop 001" in browser.find('[data-entry="together"]').text


def count(browser: Browser, words: str) -> int:
    return int("".join(browser.with_text(".looks button", words).text.split("\n")[-1].split()))


COVERED = """
const box = arguments[0].getBoundingClientRect(), group = arguments[0].querySelector('[role=rowgroup]').getBoundingClientRect();
const rows = [...document.querySelectorAll(arguments[1])].map((row) => row.getBoundingClientRect());
const [top, bottom] = [Math.max(box.top, group.top), Math.min(box.bottom, group.bottom)];
return rows.some((row) => row.top <= top + 40) && rows.some((row) => row.bottom >= bottom - 2);
"""
FURTHER = """
const box = arguments[0];
if (box.scrollTop + box.clientHeight >= box.scrollHeight - 2) return false;
box.scrollTop += box.clientHeight / 2;
return true;
"""


def names(browser: Browser) -> list[str]:
    """Of all rows, those too that are not drawn yet."""
    found: dict[str, None] = {}
    box = browser.find(".series-table")
    browser.driver.execute_script("arguments[0].scrollTop = 0", box)
    while True:
        # rows are drawn a moment after they come into sight
        browser.wait(lambda: browser.driver.execute_script(COVERED, box, ROWS) and "…" not in drawn(browser), "rows")
        found |= dict.fromkeys(drawn(browser))
        if not browser.driver.execute_script(FURTHER, box):
            return list(found)


def drawn(browser: Browser) -> list[str]:
    texts: list[str] = browser.driver.execute_script(
        "return [...document.querySelectorAll(arguments[0])].map((row) => row.firstChild.innerText)", ROWS
    )
    return texts

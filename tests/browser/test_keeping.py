"""Where everything is kept, as it is seen: checked, backed up, let go and brought back; and what is told of damage."""

from __future__ import annotations

import sqlite3
import time
import urllib.parse
import urllib.request
import zipfile
from contextlib import closing
from pathlib import Path

from selenium.webdriver.common.keys import Keys

from tests.browser.machine import Browser, Server
from tests.help import daily_csv


def test_keeping_tells_and_does(browser: Browser, demo: Server) -> None:
    path = demo.home / "loose.csv"
    path.write_bytes(daily_csv(list(range(40))))
    browser.hand_in(demo.address, path)
    browser.find("[data-count=measured]")
    browser.open(demo.address)
    browser.click(".topbar a", "Keeping")
    browser.click("button", "Check now")
    browser.wait(lambda: "Everything is whole: 9 files, 9 studies" in browser.find(".keeping-whole").text, "whole")
    browser.click("button", "Back up now")
    name = browser.find(".keeping-backups a").text.removeprefix("backups/")
    assert (demo.home / "backups" / name).stat().st_size > 100_000
    browser.click(".keeping-files button", "remove")
    browser.click(".keeping-files button", "bring back")
    browser.wait(lambda: "received" in browser.find(".keeping-files").text, "brought back")
    kept = browser.download(lambda: browser.click("button", "Export everything"), ".zip")
    with zipfile.ZipFile(kept) as archive:
        assert len([one for one in archive.namelist() if one.startswith("studies/")]) == 9


def test_who_is_in_is_listed_and_can_be_shut_out(browser: Browser, tmp_path: Path) -> None:
    server = Server(tmp_path, key="kittiwake at dawn")
    server.start()
    try:
        browser.open(server.address)
        browser.find("input[name=key]").send_keys("kittiwake at dusk", Keys.ENTER)
        browser.wait(lambda: "not the key" in browser.find("[role=alert]").text, "refused")
        time.sleep(1.1)
        browser.find("input[name=key]").send_keys("kittiwake at dawn", Keys.ENTER)
        browser.find(".first-hour")
        body = urllib.parse.urlencode({"key": "kittiwake at dawn"}).encode()
        with urllib.request.build_opener(urllib.request.HTTPCookieProcessor()).open(
            f"{server.address}/login", body
        ) as told:
            assert told.status == 200
        browser.open(f"{server.address}/keeping")
        browser.wait(lambda: len(browser.all("section[aria-label='Who is in'] tbody tr")) == 2, "two are in")
        browser.click("section[aria-label='Who is in'] button.link", "end it")
        browser.wait(lambda: len(browser.all("section[aria-label='Who is in'] tbody tr")) == 1, "one is in")
        browser.click("button", "Sign out")
        browser.find("input[name=key]")
        browser.open(f"{server.address}/keeping")
        browser.find("input[name=key]")
    finally:
        server.kill()


def test_damage_is_told_and_keeps_nothing_else_from_working(browser: Browser, demo: Server) -> None:
    with closing(sqlite3.connect(demo.home / "zembra.db")) as connection:
        spoilt = "UPDATE dataset SET data = CAST('day,value' AS BLOB) WHERE name = 'fuel_contract.csv'"
        connection.execute(spoilt)
        connection.execute("UPDATE revision SET ledger = '{' WHERE study_id = 2")
        connection.commit()
    browser.open(demo.address)
    told = browser.find(".damaged").text
    assert "Every landing, every fare: revision 1 is not as it was kept" in told
    browser.click(".card h2 a", "Contract price")
    browser.wait(lambda: "are not those that were received" in browser.find(".trouble").text, "altered")
    browser.open(f"{demo.address}/keeping")
    browser.click("button", "Check now")
    told = browser.find(".keeping .damaged").text
    assert "“fuel_contract.csv”: its bytes are not those that were received" in told
    assert "“Every landing, every fare”, revision 1: it cannot be opened" in told
    browser.download(lambda: browser.click("button", "Export everything"), ".zip")
    browser.wait(lambda: "Left out of it" in browser.find("main").text, "what is not whole is left out and named")
    assert "“Every landing, every fare”, revision 1" in browser.find("main").text
    # the others work
    browser.open(demo.address)
    browser.click(".card h2 a", "Upkeep by vessel")
    browser.find(".chart canvas")

"""The manual in the application: found by what one wants to do, opened by a card at its entry, read by keys."""

from __future__ import annotations

from selenium.webdriver.common.keys import Keys

from tests.browser.machine import Browser, Server


def test_it_is_searched_and_walked_and_a_card_opens_its_entry(browser: Browser, demo: Server) -> None:
    browser.open(demo.address)
    browser.find(".cards")
    browser.press("?")
    told = browser.find(".manual-text").text
    assert "A first hour" in told
    assert "On a row of the follow-up list" in told
    assert "open, asked, explained" in told
    field = browser.find('[aria-label^="How do I"]')
    field.send_keys("fade newest")
    browser.wait(lambda: "How do I fade the newest periods?" in browser.find(".manual-found").text, "it is found")
    field.send_keys(Keys.ENTER)
    browser.wait(lambda: "Provisional months" in browser.find(".manual-text h1").text, "its page")
    browser.click(".manual-text .link", "new rows")
    browser.wait(lambda: browser.find(".manual-text h1").text == "New rows", "the page that is linked")
    browser.click(".manual-top .link", "all pages")
    browser.wait(lambda: "Manual" in browser.find(".manual-text h1").text, "all pages")
    field = browser.find('[aria-label^="How do I"]')
    field.send_keys("xyzzy")
    browser.wait(lambda: "Nothing in the manual" in browser.find(".manual-found").text, "nothing is found")
    browser.find("body").send_keys(Keys.ESCAPE)
    browser.wait(lambda: not browser.all(".manual-text"), "it is closed")
    # what an entry is, from its card
    browser.click(".card-text a", "Sailings")
    browser.find(".chart canvas")
    browser.click('[data-entry="outliers"]')
    browser.click('[data-entry="outliers"] .about', "what is this")
    browser.wait(lambda: browser.all('.manual-text [id="outliers-outliers"]'), "its heading")
    heading = browser.find('.manual-text [id="outliers-outliers"]')
    browser.wait(lambda: 0 < heading.rect["y"] < 900, "it is in sight")
    assert "must lie more than six of these away" in browser.find(".manual-text").text


def test_it_has_an_address(browser: Browser, demo: Server) -> None:
    browser.open(f"{demo.address}/manual/statistics#scaled-error")
    heading = browser.find('[id="scaled-error"]')
    browser.wait(
        lambda: browser.driver.execute_script("return arguments[0].getBoundingClientRect().top", heading) < 800, "there"
    )
    assert "MASE" in browser.find(".manual-text").text

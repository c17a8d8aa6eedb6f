"""A Zembra server in a process of its own, and a headless Chromium that drives it as a user would."""

from __future__ import annotations

import json
import multiprocessing
import os
import re
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from dataclasses import dataclass
from multiprocessing import forkserver
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

import pytest
from selenium import webdriver
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import WebDriverWait

from zembra.cli import main
from zembra.service.process_pools import PRELOADED

FLAGS = (
    "--headless --no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking "
    "--disable-component-update --disable-sync --window-size=1280,887"
)
PATIENCE = 120  # seconds; machines that run everything at once are slow


# everything a server imports is imported once, in the process that they are forked from
CONTEXT = multiprocessing.get_context("forkserver")
CONTEXT.set_forkserver_preload(
    [*PRELOADED, "zembra.commands.serve", "zembra.api.app", "zembra.demo.seed", "statsmodels.api", "waitress"]
)


class Server:
    """`zembra serve` (or demo) in a process and on a port of its own.

    by_name: started as a user does, by the command's name, and not forked from a process that is ready. entry_seconds:
    how long a heavy entry may take. key: what is asked for. certificate: with its key, for TLS.
    """

    def __init__(
        self,
        home: Path,
        command: str = "serve",
        *,
        by_name: bool = False,
        upload_mb: int = 2,
        entry_seconds: int = 900,
        key: str = "",
        behind_proxy: bool = False,
        certificate: tuple[Path, Path] | None = None,
    ) -> None:
        self.home = home
        self.command = command
        self.address = ""
        self._certificate = certificate
        self._by_name = by_name
        self.pid = 0
        self._environment = {
            "ZEMBRA_MAX_UPLOAD_MB": str(upload_mb),
            "ZEMBRA_ENTRY_SECONDS": str(entry_seconds),
            "ZEMBRA_KEY": key,
            "ZEMBRA_BEHIND_PROXY": "1" if behind_proxy else "",
        }
        self._wait: Callable[[], object] = lambda: None
        # kept open while it runs, whoever listens: a closed pipe would end it before it is killed
        self._told: object = None

    def launch(self) -> Callable[[], str]:
        """Start it; what is given waits for its first words."""
        words = [self.command, "--port", "0", "--home", str(self.home)]
        if self._certificate:
            words += ["--certificate", str(self._certificate[0]), "--certificate-key", str(self._certificate[1])]
        return self._start_by_name(words) if self._by_name else self._fork(words)

    def start(self) -> None:
        say, told = self.launch(), ""
        # it may say what it does before
        while (found := re.search(r"https?://\S+(?=\s)", told)) is None:
            more = say()
            assert more, f"the server did not say its address: {told!r}"
            told += more
        self.address = found[0]

    def kill(self) -> None:
        """SIGKILL: nothing gets a chance to tidy up."""
        self.end(signal.SIGKILL)

    def end(self, number: int) -> None:
        if self.pid:
            os.kill(self.pid, number)
            self._wait()
            self.pid = 0

    def _start_by_name(self, words: list[str]) -> Callable[[], str]:
        command = [sys.executable, "-m", "zembra.cli", *words]
        process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env={**os.environ, **self._environment})
        assert process.stdout
        self.pid, self._wait, self._told = process.pid, process.wait, process.stdout
        return process.stdout.readline

    def _fork(self, words: list[str]) -> Callable[[], str]:
        ours, theirs = CONTEXT.Pipe()
        forkserver.ensure_running()
        ready = forkserver._forkserver._forkserver_address
        process = CONTEXT.Process(target=_serve, args=(theirs, words, ready, self._environment), daemon=True)
        process.start()
        theirs.close()
        assert process.pid
        self.pid, self._wait, self._told = process.pid, process.join, ours
        return lambda: os.read(ours.fileno(), 500).decode()


def _serve(told: Connection, words: list[str], ready: str, environment: dict[str, str]) -> None:
    """ready: address of the process that the server itself was forked from. Its children are forked there too: a process
    of its own to fork from would import everything once more for every test."""
    forkserver._forkserver._forkserver_address = ready
    forkserver.ensure_running = forkserver._forkserver.ensure_running = lambda: None
    # ends with the tests, and has children nevertheless
    multiprocessing.current_process()._config["daemon"] = False
    os.dup2(told.fileno(), 1)
    os.environ.update(environment)
    sys.stdout = os.fdopen(1, "w")
    raise SystemExit(main(words))


@dataclass
class Browser:
    driver: webdriver.Chrome
    downloads: Path

    def open(self, address: str) -> None:
        self.driver.get(address)

    def wait(self, condition: Callable[[], object], what: str = "", patience: float = PATIENCE) -> object:
        return WebDriverWait(self.driver, patience, poll_frequency=0.1).until(lambda _: _quietly(condition), what)

    def find(self, css: str) -> WebElement:
        found = self.wait(lambda: [e for e in self.driver.find_elements(By.CSS_SELECTOR, css) if e.is_displayed()], css)
        assert isinstance(found, list)
        return found[0]

    def all(self, css: str) -> list[WebElement]:
        return self.driver.find_elements(By.CSS_SELECTOR, css)

    def table(self, css: str) -> list[list[str]]:
        """The cells of a table's rows as they stand, read at once: row by row, some would be gone meanwhile."""
        script = """return [...document.querySelector(arguments[0]).querySelectorAll('tbody tr')]
          .map((row) => [...row.cells].map((cell) => cell.innerText.trim()))"""
        found: list[list[str]] = self.driver.execute_script(script, css)
        return found

    def with_text(self, css: str, text: str) -> WebElement:
        def found() -> WebElement | None:
            return next((e for e in self.all(css) if text in e.text and e.is_displayed()), None)

        element = self.wait(found, f"{css} with {text}")
        assert isinstance(element, WebElement)
        return element

    def click(self, css: str, text: str = "") -> None:
        """Click once the element can be clicked; a re-drawn element is found again. One that is switched off takes a click
        without a word, and does nothing."""

        def clicked() -> bool:
            element = self.with_text(css, text) if text else self.find(css)
            if not element.is_enabled():
                return False
            element.click()
            return True

        self.wait(clicked, f"click {css} {text}")

    def click_at_rest(self, css: str, text: str) -> None:
        """Click once the element stays where it is: what opens moves with the page around it, and a click that is under
        way would hit its neighbour."""
        places: list[object] = [None]

        def rests() -> bool:
            places.append(self.with_text(css, text).rect)
            time.sleep(0.1)
            return places[-1] == places[-2] == self.with_text(css, text).rect

        self.wait(rests, f"{css} {text} at rest")
        self.click(css, text)

    def press(self, *keys: str) -> None:
        ActionChains(self.driver).send_keys(*keys).perform()

    def chord(self, held: str, key: str) -> None:
        ActionChains(self.driver).key_down(held).send_keys(key).key_up(held).perform()

    def hover(self, css: str, share_x: float) -> None:
        element = self.find(css)
        offset = int((share_x - 0.5) * element.size["width"])
        ActionChains(self.driver).move_to_element_with_offset(element, offset, 0).perform()

    def word(self, entry: str, word: str) -> WebElement:
        """A word of a sentence; one that is quiet is opened first."""
        css = f'[data-entry="{entry}"] [data-word="{word}"]'
        self.wait(lambda: self.all(f'[data-entry="{entry}"] .sentence'), entry)
        if not self.all(css):
            more = [
                one for one in self.all(f'[data-entry="{entry}"] .more-words') if one.text.endswith(("word", "words"))
            ]
            if more and "fewer" not in more[0].text:
                more[0].click()
        return self.find(css)

    def choose(self, entry: str, word: str, label: str) -> None:
        """Open a word and choose one of its phrases."""
        self.word(entry, word)
        self.click(f'[data-entry="{entry}"] [data-word="{word}"]')
        self.click_at_rest('[role="option"]', label)

    def type_word(self, entry: str, word: str, text: str) -> None:
        """Open a word, type another value, keep it."""
        self.word(entry, word)
        self.click(f'[data-entry="{entry}"] [data-word="{word}"]')

        def typed() -> bool:
            field = self.find(".typed input")
            field.send_keys(Keys.CONTROL, "a")
            field.send_keys(text, Keys.ENTER)
            return True

        self.wait(typed, f"{word} typed")

    def kept_revision(self, number: int) -> None:
        self.wait(lambda: f"revision {number}" in self.find(".kept").text, f"revision {number}")

    def hand_in(self, address: str, path: Path) -> None:
        """A file given to the intake of a server."""
        self.open(f"{address}/intake")
        self.find(".drop")
        self.all("input[type=file]")[0].send_keys(str(path))

    def answer(self, address: str) -> Any:
        """What the server answers the page, as JSON."""
        script = "const done = arguments[1]; fetch(arguments[0]).then((answer) => answer.text()).then(done)"
        return json.loads(self.driver.execute_async_script(script, address))

    def download(self, click: Callable[[], None], ending: str) -> Path:
        for old in self.downloads.iterdir():
            old.unlink()
        click()

        def arrived() -> Path | None:
            return next((p for p in self.downloads.iterdir() if p.name.endswith(ending) and p.stat().st_size), None)

        path = self.wait(arrived, f"a download that ends in {ending}")
        assert isinstance(path, Path)
        return path


def _quietly(condition: Callable[[], object]) -> object:
    """Elements go stale and are covered while the page re-draws; the next look sees the new ones."""
    try:
        return condition()
    except Exception as error:
        if type(error).__module__.startswith("selenium"):
            time.sleep(0.05)
            return False
        raise


def open_browser(profile: Path, downloads: Path) -> Browser:
    chromium, driver = "/usr/bin/chromium", "/usr/bin/chromedriver"
    if not (shutil.which(chromium) and shutil.which(driver)):
        how = "“make browser” installs Debian's chromium and chromium-driver; ZEMBRA_NO_BROWSER=1 goes without"
        if os.environ.get("ZEMBRA_NO_BROWSER") == "1":
            pytest.skip("there is no browser, and ZEMBRA_NO_BROWSER says to go without")
        pytest.fail(f"There is no browser to test with: {how}.")
    options = webdriver.ChromeOptions()
    options.binary_location = chromium
    for flag in FLAGS.split():
        options.add_argument(flag)
    options.add_argument(f"--user-data-dir={profile}")
    options.add_experimental_option("prefs", {"download.default_directory": str(downloads)})
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    chrome = webdriver.Chrome(options=options, service=Service(driver))
    chrome.set_script_timeout(PATIENCE)
    return Browser(chrome, downloads)

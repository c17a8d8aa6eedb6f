"""Fixtures: an application on a fresh database, and a real server with a browser."""

from __future__ import annotations

import re
import shutil
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient
from hypothesis import settings
from werkzeug.test import TestResponse

from tests.browser.machine import Browser, Server, open_browser
from tests.help import AS_OF, answered
from zembra.api import create_app
from zembra.demo.seed import seed
from zembra.service.application import Application
from zembra.store.database import close_database, open_database
from zembra.store.home import Home

# how long an example takes says nothing about whether it is right
settings.register_profile("zembra", deadline=None, max_examples=60)
settings.load_profile("zembra")


class Patient(FlaskClient):
    """Reads files and new rows to their end, however busy the machine is: what a test says of them is no matter of time."""

    def open(self, *args: Any, **words: Any) -> TestResponse:
        answer = super().open(*args, **words)
        waits = re.fullmatch(r"/api/(datasets|studies/\d+/(new-rows.*|said))", answer.request.path)
        return answered(self, answer) if waits else answer


@pytest.fixture
def client(tmp_path: Path) -> FlaskClient:
    app = create_app(tmp_path / "test.db", lambda: AS_OF, limit_mb=2)
    app.test_client_class = Patient
    return app.test_client()


@pytest.fixture
def server(tmp_path: Path) -> Iterator[Server]:
    running = Server(tmp_path)
    running.start()
    yield running
    running.kill()


@pytest.fixture(scope="session")
def demo_database(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo's database as it is when it is new."""
    home = Home(tmp_path_factory.mktemp("demo"))
    engine = open_database(home.database)
    seed(Application(engine, home))
    close_database(engine)
    return home.database


@pytest.fixture
def demo(tmp_path: Path, demo_database: Path) -> Iterator[Server]:
    """A server with the demo data, on the demo's day."""
    shutil.copy(demo_database, tmp_path / "zembra.db")
    running = Server(tmp_path, "demo")
    running.start()
    yield running
    running.kill()


@pytest.fixture(scope="session")
def shared_browser(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Browser]:
    browser = open_browser(tmp_path_factory.mktemp("profile"), tmp_path_factory.mktemp("downloads"))
    yield browser
    browser.driver.quit()


@pytest.fixture
def browser(shared_browser: Browser) -> Iterator[Browser]:
    """A browser that must not have logged an error by the end of the test."""
    yield shared_browser
    errors = [entry["message"] for entry in shared_browser.driver.get_log("browser") if entry["level"] == "SEVERE"]
    unexpected = [text for text in errors if "Failed to load resource" not in text]
    assert not unexpected

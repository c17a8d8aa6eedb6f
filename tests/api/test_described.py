"""Every address that the application describes: guarded, and true to its description whatever it is asked."""

from __future__ import annotations

import io
import json
import logging
import re
from collections.abc import Iterator
from datetime import date, timedelta
from pathlib import Path

import polars as pl
import pytest
from flask import Flask
from flask.testing import FlaskClient

from tests.api import hostile_ledgers
from tests.api.asking import STUDIES, faults
from tests.api.test_api import begin
from tests.help import AS_OF, answered
from zembra.api import create_app
from zembra.api.description import ADDRESS, WRITTEN
from zembra.api.login_throttle import LoginThrottle

KEY = "mooring-lines-and-fenders"


@pytest.fixture(scope="module")
def application(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Flask]:
    app = create_app(tmp_path_factory.mktemp("described") / "zembra.db", lambda: AS_OF, limit_mb=2)
    for _ in range(STUDIES):
        begin(app.test_client())
    yield app
    app.extensions["zembra"].queue.close()


def addresses() -> list[tuple[str, str]]:
    """(method, path) of everything the application answers, each part of a path that is open set to 1."""
    listed = [
        (method.upper(), re.sub(r"\{[^}]*\}", "1", path))
        for path, methods in json.loads(WRITTEN.read_bytes())["paths"].items()
        for method in methods
    ]
    return [*listed, ("GET", ADDRESS), ("GET", "/"), ("GET", "/studies/1"), ("GET", "/mark.svg"), ("GET", "/api/none")]


def test_nothing_that_is_asked_breaks_the_description(application: Flask) -> None:
    logging.disable(logging.CRITICAL)
    try:
        assert list(faults(application, 6)) == []
    finally:
        logging.disable(logging.NOTSET)


def test_ledgers_that_nobody_would_write_are_run_or_refused(tmp_path: Path) -> None:
    app = create_app(tmp_path / "zembra.db", lambda: AS_OF, limit_mb=2)
    assert list(hostile_ledgers.faults(app, 150)) == []
    app.extensions["zembra"].queue.close()


def test_the_guard_stands_before_every_address(application: Flask) -> None:
    client = application.test_client()
    every = addresses()
    assert len(every) > 60
    for method, path in every:
        elsewhere = client.open(path, method=method, headers={"Host": "evil.example"})
        assert elsewhere.status_code == 403, path
        if method != "GET":
            assert client.open(path, method=method, headers={"Origin": "http://evil.example"}).status_code == 403, path
        headers = client.open(path, method="OPTIONS" if method != "GET" else method).headers
        assert "script-src 'self';" in headers["Content-Security-Policy"], path
        assert headers["X-Content-Type-Options"] == "nosniff", path
        assert headers.get("Content-Type", "").count("charset") <= 1, path


def test_with_a_key_nothing_is_answered_without_it(tmp_path: Path) -> None:
    app = create_app(tmp_path / "zembra.db", lambda: AS_OF, key=KEY)
    stranger, known = app.test_client(), app.test_client()
    shown = [path for method, path in addresses() if stranger.open(path, method=method).status_code != 401]
    assert shown == ["/mark.svg"]
    assert stranger.post("/login", data={"key": "guess"}).status_code == 403
    # a second guess must wait, the right one too
    assert stranger.post("/login", data={"key": KEY}).status_code == 429
    assert stranger.get("/api/studies", headers={"Authorization": f"Bearer {KEY}"}).status_code == 429
    app.extensions["zembra"].queue.close()
    again = create_app(tmp_path / "zembra.db", lambda: AS_OF, key=KEY)
    known = again.test_client()
    for odd in ("//evil.example/x", "/a\nSet-Cookie: x", "/\\evil.example", "//["):
        assert known.post("/login", data={"key": KEY, "onward": odd}).headers["Location"] == "/"
    let_in = known.post("/login", data={"key": KEY, "onward": "//evil.example/x"})
    assert (let_in.status_code, let_in.headers["Location"]) == (303, "/")
    cookie = let_in.headers["Set-Cookie"]
    assert "HttpOnly" in cookie
    assert "SameSite=Strict" in cookie
    assert known.get("/api/studies").status_code == 200
    assert known.delete("/api/studies/1", headers={"Origin": "http://evil.example"}).status_code == 403
    # a cookie of another key, and one that was changed, are worth nothing
    value = cookie.split(";")[0].split("=", 1)[1]
    for wrong in (value[:-2] + "xx", ""):
        forged = again.test_client()
        forged.set_cookie("zembra_login", wrong)
        assert forged.get("/api/studies").status_code == 401
    other = create_app(tmp_path / "zembra.db", lambda: AS_OF, key=KEY + "2").test_client()
    other.set_cookie("zembra_login", value)
    assert other.get("/api/studies").status_code == 401
    token = {"Authorization": f"Bearer {KEY}"}
    assert again.test_client().get("/api/studies", headers=token).status_code == 200
    # sessions are listed, each can be ended; who is in is not made to wait by somebody's guesses
    for _ in range(3):
        again.test_client().post("/login", data={"key": "guess"})
    listed = known.get("/api/keeping").json["sessions"]
    assert [one["here"] for one in listed] == [True, False, False, False, False]
    assert known.delete(f"/api/keeping/sessions/{listed[1]['id']}").status_code == 204
    assert len(known.get("/api/keeping").json["sessions"]) == 4
    assert known.post("/logout").status_code == 303
    assert known.get("/api/studies").status_code == 401
    # what lies in the database is worth nothing as a cookie, and holds no key
    kept = (tmp_path / "zembra.db").read_bytes() + (tmp_path / "zembra.db-wal").read_bytes()
    assert value.encode() not in kept
    assert KEY.encode() not in kept


def test_guesses_wait_longer_each_time_and_lock_nobody_out() -> None:
    now = [0.0]
    guesses = LoginThrottle(lambda: now[0])
    waits = []
    for _ in range(6):
        guesses.wrong("a")
        waits.append(guesses.wait("a"))
        now[0] += waits[-1]
    assert waits == [1, 2, 4, 8, 16, 32]
    assert guesses.wait("b") == 0
    guesses.right("a")
    assert guesses.wait("a") == 0
    # a thousand clients that guess together wait longer each, and one that has not guessed is heard at once
    for n in range(1_000):
        guesses.wrong(f"c{n}")
    assert guesses.wait("c7") > 30
    assert guesses.wait("owner") == 0


@pytest.mark.parametrize(
    ("method", "path", "body"),
    [
        ("GET", f"/api/studies/{2**63}", None),
        ("GET", "/api/studies/" + "1" * 5000, None),
        ("GET", "/api/studies/-1", None),
        ("GET", f"/api/studies/1/figure?start={'1' * 5000}&end=3", None),
        ("POST", "/api/studies/1/undo", f'{{"base": {2**63}}}'),
        ("POST", "/api/studies/1/undo", '{"base": ' + "1" * 5000 + "}"),
        ("PUT", "/api/studies/1/name", "[" * 200_000),
        ("PUT", "/api/studies/1/name", '{"name": ' + "[" * 20_000 + "]" * 20_000 + "}"),
        ("PUT", "/api/studies/1/name", '{"name": "a\\u0000b"}'),
        ("PUT", "/api/studies/1/name", '{"name": "a\\ufffeb"}'),
        ("PUT", "/api/studies/1/name", '{"name": "  "}'),
        ("GET", "/api/studies/" + "x" * 100_000, None),
        ("POST", "/api/studies/1/undo", '{"base": NaN}'),
    ],
)
def test_what_no_number_and_no_text_can_be_is_a_clear_refusal(
    application: Flask, method: str, path: str, body: str | None
) -> None:
    answer = application.test_client().open(path, method=method, data=body, content_type="application/json")
    assert 400 <= answer.status_code < 500
    assert answer.mimetype == "application/problem+json"
    assert answer.json["detail"]


def take(client: FlaskClient, name: str, data: bytes) -> tuple[int, dict[str, object]]:
    answer = answered(client, client.post("/api/datasets", data={"file": (io.BytesIO(data), name)}))
    return answer.status_code, answer.json


def test_parquet_with_columns_that_are_no_cells_is_read_and_they_are_named(application: Flask) -> None:
    days = [date(2026, 1, 1) + timedelta(n) for n in range(30)]
    frame = pl.DataFrame(
        {
            "day": days,
            "riders": [float(n) for n in range(30)],
            "stops": [[n] for n in range(30)],
            "boat": [{"crew": n} for n in range(30)],
            "ticket": [b"\xff\x00"] * 30,
            "late": [timedelta(seconds=-61 * n) for n in range(30)],
        }
    )
    out = io.BytesIO()
    frame.write_parquet(out)
    status, told = take(application.test_client(), "odd.parquet", out.getvalue())
    assert status == 201
    assert told["options"]["columns"] == ["day", "riders", "late"]  # type: ignore[index]
    assert any("stops, boat and ticket" in one["text"] for one in told["notices"])  # type: ignore[attr-defined, index]


def test_numbers_that_cannot_be_added_are_told_as_unreadable(application: Flask) -> None:
    client = application.test_client()
    values = ["1e308", "-1e308", "1e309", *("-3e99", "3e99", "2", "5", "7") * 5]
    data = "day,riders\n" + "".join(f"2026-01-{n:02},{value}\n" for n, value in enumerate(values, 1))
    status, told = take(client, "large.csv", data.encode())
    assert status == 201
    assert {one["key"]: one["count"] for one in told["census"]}["unreadable"] == 3  # type: ignore[attr-defined, index]
    body = {"dataset_id": told["dataset"]["id"], "name": "large", "ledger": told["ledger"]}  # type: ignore[index]
    bench = client.post("/api/studies", json=body).json
    for kind in ("average", "trend", "outliers", "projection", "level_shifts"):
        asked = {"kind": kind, "ledger": bench["ledger"]}
        answer = client.post(f"/api/studies/{bench['study']['id']}/suggestion", json=asked)
        if answer.status_code != 200:
            continue
        ledger = {**bench["ledger"], "entries": [*bench["ledger"]["entries"], {**answer.json["record"], "id": "x"}]}
        edit = {"ledger": ledger, "settings": bench["settings"]}
        assert client.post(f"/api/studies/{bench['study']['id']}/preview", json=edit).status_code == 200, kind

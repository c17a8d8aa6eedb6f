"""Only this machine, by a loopback name and from our own pages; a damaged study is in nobody's way."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from flask.testing import FlaskClient
from sqlmodel import Session, select

from tests.api.test_api import begin
from zembra.api.frontend import PAGES
from zembra.store.tables import Revision


@pytest.mark.parametrize("host", ["evil.example", "127.0.0.1.evil.example", "localhost:9999", "[::1", "10.0.0.5"])
def test_a_foreign_host_is_refused(client: FlaskClient, host: str) -> None:
    answer = client.get("/api/studies", headers={"Host": host})
    assert answer.status_code in (400, 403)


def test_a_foreign_page_changes_nothing(client: FlaskClient) -> None:
    bench = begin(client)
    path = f"/api/studies/{bench['study']['id']}"
    for headers in ({"Origin": "http://evil.example"}, {"Origin": "null"}, {"Sec-Fetch-Site": "cross-site"}):
        assert client.delete(path, headers=headers).status_code == 403
    assert client.get(path).status_code == 200
    assert client.delete(path, headers={"Origin": "http://localhost"}).status_code == 204


def test_pages_may_run_our_scripts_only(client: FlaskClient) -> None:
    headers = client.get("/api/studies").headers
    assert "script-src 'self';" in headers["Content-Security-Policy"]
    assert "frame-ancestors 'none'" in headers["Content-Security-Policy"]
    assert headers["X-Content-Type-Options"] == "nosniff"


def test_one_damaged_study_is_set_apart_and_named(client: FlaskClient) -> None:
    broken, sound = begin(client)["study"]["id"], begin(client)["study"]["id"]
    with Session(client.application.extensions["zembra"].engine) as session:
        revision = session.exec(select(Revision).where(Revision.study_id == broken)).one()
        revision.ledger = '{"format": "zembra.ledger/1", "entries": ['
        session.add(revision)
        session.commit()
    told = client.get("/api/studies").json
    assert [card["study"]["id"] for card in told["studies"]] == [sound]
    assert [one["id"] for one in told["damaged"]] == [broken]
    assert client.get(f"/api/studies/{broken}").status_code == 422


@pytest.mark.parametrize(
    ("text", "status"), [(r"\ud83d", 422), (r"\ude00", 422), (r"\ud83d\ude00", 404), ("plain", 404)]
)
def test_half_a_character_is_refused(client: FlaskClient, text: str, status: int) -> None:
    body = f'{{"name": "{text}"}}'
    answer = client.put("/api/studies/9/name", data=body, content_type="application/json")
    assert answer.status_code == status


APP = Path(__file__).parents[2] / "frontend" / "src" / "app" / "App.tsx"


def test_what_is_no_page_of_ours_is_not_there(client: FlaskClient) -> None:
    assert tuple(re.findall(r'<Route path="(/[^"]*)"', APP.read_text())) == PAGES
    for page in PAGES:
        for address in (re.sub(r":\w+\??", "1", page), re.sub(r"/:\w+\?", "", page).replace(":studyId", "1")):
            if ":" not in address:
                assert client.get(address).status_code == 200, address
    browser = {"Accept": "text/html,application/xhtml+xml"}
    for address in (
        "/healthz", "/metrics", "/studies", "/studies/1/none", "/assets/none.js", "/favicon.ico", "/api/", "/api/none", "/api/studies/1/none",
        "/.env", "/manual/a/b", "/index.php",
    ):  # fmt: skip
        answer = client.get(address)
        assert (answer.status_code, answer.mimetype) == (404, "application/problem+json"), address
        assert client.get(address, headers=browser).status_code == 404, address

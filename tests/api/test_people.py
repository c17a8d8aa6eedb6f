"""A small team shares one home: who did what is taken down, who may only look changes nothing, and no key is told again."""

from __future__ import annotations

import re
import sqlite3
import threading
from contextlib import closing
from io import BytesIO
from pathlib import Path

import pytest
from flask import Flask
from flask.testing import FlaskClient

from tests.api.test_api import begin, with_entry
from tests.api.test_described import addresses
from tests.help import AS_OF, daily_csv, handed_over
from zembra.api import create_app
from zembra.cli import main
from zembra.core.errors import Refusal
from zembra.service.handing import FILES
from zembra.store.actor import acting, read_only
from zembra.store.checking import check_all
from zembra.store.database import close_database, open_database
from zembra.store.people import add_person, remove_person
from zembra.store.transfer import export_home
from zembra.work.queue import Lane


def in_with(app: Flask, key: str) -> FlaskClient:
    client = app.test_client()
    assert client.post("/login", data={"key": key}).status_code == 303
    return client


def test_people_share_a_home(tmp_path: Path) -> None:
    path = tmp_path / "zembra.db"
    engine = open_database(path)
    ann = add_person(engine, "Ann", may_change=True)
    ben = add_person(engine, "Ben", may_change=False)
    app = create_app(path, lambda: AS_OF)
    assert app.test_client().get("/api/studies").status_code == 401
    first, second = in_with(app, ann), in_with(app, ben)
    bench = begin(first)
    study = f"/api/studies/{bench['study']['id']}"
    edited = first.put(f"{study}/revision", json=with_entry(bench, "average")).json
    assert edited["study"]["who"] == "Ann"
    noted = {"series": "riders", "period": "2026-01-05", "note": "fog"}
    listed = first.put(f"{study}/follow-up", json=noted)
    assert listed.status_code in (200, 422)
    # who may look sees all of it, tries words, and changes nothing
    assert second.get(study).json["study"]["who"] == "Ann"
    tried = {"ledger": edited["ledger"], "settings": edited["settings"]}
    assert second.post(f"{study}/preview", json=tried).status_code == 200
    assert second.get(f"{study}/handover/points.csv").status_code in (200, 202)
    for method, address in (
        ("PUT", f"{study}/revision"),
        ("POST", f"{study}/undo"),
        ("DELETE", study),
        ("POST", "/api/keeping/backups"),
    ):
        answer = second.open(address, method=method, json={"base": 2})
        assert answer.status_code == 403
        assert "You may look" in answer.text
    assert second.post("/api/datasets", data={"file": (BytesIO(b"day,v\n2026-01-01,2"), "a.csv")}).status_code == 403
    # everybody sees and ends their own sessions
    (anns,), (bens,) = (client.get("/api/keeping").json["sessions"] for client in (first, second))
    assert (anns["who"], bens["who"]) == ("Ann", "Ben")
    assert first.delete(f"/api/keeping/sessions/{bens['id']}").status_code == 404
    assert second.delete(f"/api/keeping/sessions/{anns['id']}").status_code == 404
    third = in_with(app, ben)
    for session in third.get("/api/keeping").json["sessions"]:
        if session["here"]:
            assert second.delete(f"/api/keeping/sessions/{session['id']}").status_code == 204
    assert third.get("/api/studies").status_code == 401
    # a program says who it is by its key, and does not wait for who guesses at the same address
    for guess in range(5):
        app.test_client().get("/api/studies", headers={"Authorization": f"Bearer guess {guess}"})
    assert app.test_client().get("/api/studies", headers={"Authorization": "Bearer guess"}).status_code == 429
    assert app.test_client().get("/api/studies", headers={"Authorization": f"Bearer {ann}"}).status_code == 200
    by_token = app.test_client().put(f"{study}/name", json={"name": "x"}, headers={"Authorization": f"Bearer {ben}"})
    assert by_token.status_code == 403
    # without a key nothing more is done in the name of whoever asked before
    remove_person(engine, "Ben")
    assert second.get(study).status_code == 401
    app.extensions["zembra"].queue.close()
    assert check_all(engine).whole
    export_home(engine, tmp_path / "all.zip")
    close_database(engine)
    kept = path.read_bytes() + (tmp_path / "all.zip").read_bytes()
    assert not any(key.encode() in kept for key in (ann, ben))


def test_people_are_added_listed_and_taken_off(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    at = ["--home", str(tmp_path)]
    close_database(open_database(tmp_path / "zembra.db"))
    assert main(["people", "list", *at]) == 0
    assert "Nobody" in capsys.readouterr().out
    assert main(["people", "add", "Ann", "--may-look", *at]) == 0
    assert "told this once" in capsys.readouterr().out
    assert main(["people", "add", "Ann", *at]) == 2
    assert "somebody named “Ann” already" in capsys.readouterr().err
    assert main(["people", "list", *at]) == 0
    assert "Ann  may look" in capsys.readouterr().out
    assert main(["people", "remove", "Ann", *at]) == 0
    assert main(["people", "remove", "Ann", *at]) == 2


def test_a_home_that_does_not_know_who_shares_it_any_more_does_not_open(tmp_path: Path) -> None:
    path = tmp_path / "zembra.db"
    close_database(open_database(path))
    with closing(sqlite3.connect(path)) as connection:
        connection.execute("DROP TABLE person")
        connection.commit()
    with pytest.raises(Refusal, match="Who shares the home cannot be read: no such table"):
        create_app(path, lambda: AS_OF)


LOOKING = re.compile(r"/(judging|judging/series|preview|understanding|suggestion|used|check)$|/handover/[^/]+$")


def test_looking_changes_nothing_in_any_table(tmp_path: Path) -> None:
    """By whichever address and method: an owner who only gets, and somebody who may only look and tries all there are."""
    path, key = tmp_path / "zembra.db", "mooring-lines-and-fenders"
    engine = open_database(path)
    ben = add_person(engine, "Ben", may_change=False)
    app = create_app(path, lambda: AS_OF, key=key)
    owner, looker = in_with(app, key), in_with(app, ben)
    bench = begin(owner, daily_csv([100 + n % 7 for n in range(90)]))
    study = f"/api/studies/{bench['study']['id']}"
    bench = owner.put(f"{study}/revision", json=with_entry(bench, "projection")).json
    assert handed_over(owner, f"{study}/snapshots", "POST", json={"name": "now"}).status_code == 201
    source = {"kind": "address", "url": "http://127.0.0.1:9/counts.csv"}
    assert owner.put(f"{study}/feed", json={"words": {"source": source, "often": "hour"}}).status_code == 200
    assert owner.put(f"{study}/watch", json={"watches": [{"kind": "late", "days": 1}]}).status_code == 200
    shared = app.extensions["zembra"]
    preview = {"ledger": bench["ledger"], "settings": bench["settings"]}

    def kept() -> bytes:
        for work in list(shared.queue._works.values()):
            assert work.finished.wait(120)
            # nothing that looking begins wants to write
            assert "Looking changes nothing" not in str(work.failure), work.key
        return b"".join(
            file.read_bytes() for file in sorted(tmp_path.glob("zembra.db*")) if not file.name.endswith("-shm")
        )

    walked = 0
    for client, every in ((owner, False), (looker, True)):
        before = kept()
        for method, address in addresses():
            if method != "GET" and not every:
                continue
            # each file that there is to hand over
            names = FILES if address.endswith("/handover/1") else ["1"]
            for name in names:
                asked = address.removesuffix("1") + name if address.endswith("/handover/1") else address
                answer = client.open(asked, method=method, json=preview if asked.endswith("preview") else None)
                while answer.status_code == 202:
                    answer = client.get(f"/api/work/{answer.json['key']}/answer")
                assert answer.status_code < 500, (method, asked)
                assert b"Looking changes nothing" not in answer.data, (method, asked)
                if method not in ("GET", "HEAD") and not LOOKING.search(asked) and "/api/work/" not in asked:
                    assert answer.status_code in (403, 404, 405), (method, asked)
                assert kept() == before, (method, asked)
                walked += 1
    assert walked > 150
    # and where somebody forgets to ask who asks, it is refused, and not written
    token = read_only.set(True)
    with pytest.raises(Refusal, match="Looking changes nothing"):
        add_person(engine, "Zoe", may_change=True)
    read_only.reset(token)
    # work of others is not theirs to stop, nor to begin again
    gate = threading.Event()
    acting.set("Ann")
    shared.queue.submit("of-ann", Lane.JUDGING, lambda progress: gate.wait(60))
    acting.set("")
    assert looker.delete("/api/work/of-ann").status_code == 403
    assert looker.post("/api/work/of-ann").status_code == 403
    gate.set()
    shared.queue.close()

"""An edit that was confirmed survives SIGKILL, and a restart finds everything; a server that is stopped leaves one file."""

from __future__ import annotations

import random
import signal
import socket
import sqlite3
import threading
import time
import urllib.request
from contextlib import ExitStack, closing, suppress
from http.client import HTTPConnection
from pathlib import Path
from typing import Any

from tests.browser.machine import Server
from tests.help import AS_OF, daily_csv
from tests.kills import Trial, begin, call, upload, with_slow_projection
from zembra.api import create_app


def test_kills_at_random_moments_lose_nothing_that_was_confirmed(tmp_path: Path) -> None:
    trial = Trial(tmp_path, random.Random(1912))
    assert [lost for _ in range(6) for lost in trial.kill_once()] == []
    assert len(trial.confirmed) > 4
    # a busy machine may confirm nothing before it is killed: killed until it has, so that something could be lost
    kills = 0
    while kills < 4 or (trial.taken < 2 and kills < 20):
        assert trial.take_in_once() == []
        kills += 1
    assert trial.taken >= 2
    assert [lost for _ in range(4) for lost in trial.migrate_once()] == []
    assert [lost for what in ("backup", "restore", "export", "import") for lost in trial.carry_once(what)] == []


def test_every_revision_is_there_after_a_kill_and_a_start(tmp_path: Path) -> None:
    """By the command's own name, as a user starts it."""
    server = Server(tmp_path, by_name=True)
    server.start()
    path = begin(server.address)
    bench = call("GET", f"{server.address}{path}")
    entry = {"id": "a", "kind": "average", "params": {"window": {"kind": "periods", "length": 5, "need": 3}}}
    ledger = {**bench["ledger"], "entries": [*bench["ledger"]["entries"], entry]}
    edit = {"base": bench["study"]["revision"], "ledger": ledger, "settings": bench["settings"], "what": "edit"}
    confirmed = call("PUT", f"{server.address}{path}/revision", edit)
    server.kill()
    server.start()
    bench = call("GET", f"{server.address}{path}")
    assert bench["ledger"] == confirmed["ledger"]
    assert call("POST", f"{server.address}{path}/undo", {"base": 2})["study"]["revision"] == 1
    server.kill()


def test_a_stopped_server_leaves_everything_in_one_file(server: Server) -> None:
    path = begin(server.address)
    upload(f"{server.address}/api/datasets", daily_csv(list(range(9000))), "more.csv")
    assert (server.home / "zembra.db-wal").stat().st_size > 0
    server.end(signal.SIGTERM)
    assert [one.name for one in server.home.glob("zembra.db*")] == ["zembra.db"]
    with closing(sqlite3.connect(server.home / "zembra.db")) as copy:
        assert copy.execute("SELECT count(*) FROM dataset").fetchone() == (2,)
    server.start()
    assert call("GET", f"{server.address}{path}")["study"]["name"] == "Killed"


def test_what_is_confirmed_is_on_the_disk(tmp_path: Path) -> None:
    """Without it, edits are lost when the power goes: no kill of a process shows that."""
    engine = create_app(tmp_path / "zembra.db", lambda: AS_OF).extensions["zembra"].engine
    with engine.connect() as connection:
        assert connection.exec_driver_sql("PRAGMA synchronous").scalar_one() == 2  # FULL
        assert connection.exec_driver_sql("PRAGMA journal_mode").scalar_one() == "wal"


def test_no_request_waits_for_a_slow_projection(server: Server) -> None:
    """Eight of them, and a file asked for that needs each; a small thing is asked for meanwhile."""
    told = upload(f"{server.address}/api/datasets", daily_csv([200 + n % 7 * 9 + n % 91 for n in range(1500)]))
    body = {"dataset_id": told["dataset"]["id"], "ledger": told["ledger"]}
    studies = [call("POST", f"{server.address}/api/studies", {**body, "name": f"s{n}"}) for n in range(8)]
    answers: list[int] = []

    def project(bench: dict[str, Any], n: int) -> None:
        path = f"{server.address}/api/studies/{bench['study']['id']}"
        call("PUT", f"{path}/revision", with_slow_projection(bench, 30 + n))
        with urllib.request.urlopen(f"{path}/handover/numbers.xlsx", timeout=60) as answer:
            answers.append(answer.status)

    asked = [threading.Thread(target=project, args=(bench, n)) for n, bench in enumerate(studies)]
    for one in asked:
        one.start()
    assert call("GET", f"{server.address}/api/keeping")["unused"] == []
    for one in asked:
        one.join()
    works = [
        call("GET", f"{server.address}/api/studies/{one['study']['id']}")["entries"][-1]["work"] for one in studies
    ]
    # all have answered, and most are still being worked on
    assert len(answers) == 8
    assert answers.count(202) >= 4
    under_way = [one["key"] for one in works if one is not None]
    assert len(under_way) >= 4
    stopped = [call("DELETE", f"{server.address}/api/work/{key}")["stage"] for key in under_way]
    assert set(stopped) <= {"stopped", "done"}
    assert "stopped" in stopped


def test_half_open_connections_shut_nobody_out(server: Server) -> None:
    host, port = server.address.removeprefix("http://").split(":")
    begin(server.address)
    with ExitStack() as held:
        for n in range(400):
            one = held.enter_context(socket.create_connection((host, int(port)), timeout=120))
            # some say nothing, some begin a request, some a body that never comes
            words = (b"", b"GET / HTTP/1.1\r\nHo", b"POST /api/datasets HTTP/1.1\r\nContent-Length: 900000\r\n\r\nabc")
            one.sendall(words[n % 3])
        for _ in range(5):
            # before those that say nothing are closed
            with urllib.request.urlopen(f"{server.address}/api/studies", timeout=25) as answer:
                assert answer.status == 200


def test_what_is_far_too_large_is_refused_before_it_has_come(server: Server) -> None:
    host, port = server.address.removeprefix("http://").split(":")
    with socket.create_connection((host, int(port)), timeout=120) as one:
        one.sendall(f"POST /api/datasets HTTP/1.1\r\nHost: {host}:{port}\r\nContent-Length: 900000000\r\n\r\n".encode())
        assert b"413" in one.recv(100)
    assert sum(one.stat().st_size for one in (server.home / "incoming").iterdir()) == 0


def test_what_a_kill_leaves_in_the_midst_of_an_upload_goes_at_the_next_start(server: Server) -> None:
    host, port = server.address.removeprefix("http://").split(":")
    (server.home / "incoming" / "file-left").write_bytes(b"day,value")
    with socket.create_connection((host, int(port)), timeout=120) as one:
        one.sendall(b"POST /api/datasets HTTP/1.1\r\nContent-Length: 1900000\r\n\r\n" + b"x" * 1_000_000)
        server.kill()
    server.start()
    assert not any((server.home / "incoming").iterdir())


def test_behind_a_server_with_tls_it_knows_who_asks(tmp_path: Path) -> None:
    server = Server(tmp_path, key="kittiwake at dawn", behind_proxy=True)
    server.start()
    try:
        told = {"X-Forwarded-Proto": "https", "X-Forwarded-Host": "ferry.example", "Origin": "https://ferry.example"}

        def come_in(key: str, client: str) -> tuple[int, str]:
            asked = HTTPConnection(server.address.removeprefix("http://"), timeout=120)
            headers = {**told, "X-Forwarded-For": client, "Content-Type": "application/x-www-form-urlencoded"}
            asked.request("POST", "/login", f"key={key.replace(' ', '+')}", headers)
            answer = asked.getresponse()
            return answer.status, answer.headers.get("Set-Cookie", "")

        assert come_in("a wrong guess", "203.0.113.7")[0] == 403
        assert come_in("kittiwake at dawn", "203.0.113.7")[0] == 429
        # another client is not made to wait for it
        status, cookie = come_in("kittiwake at dawn", "203.0.113.8")
        assert status == 303
        assert "Secure" in cookie
    finally:
        server.kill()


def descendants(root: int) -> set[int]:
    """Processes that come from one, whichever is their parent."""
    parents = {}
    for one in Path("/proc").glob("[0-9]*/stat"):
        with suppress(OSError):
            state = one.read_text().rpartition(")")[2].split()
            parents[int(one.parent.name)] = (int(state[1]), state[0])
    found = {root}
    while more := {pid for pid, (parent, state) in parents.items() if parent in found and state != "Z"} - found:
        found |= more
    return found - {root}


def test_a_stopped_server_takes_its_children_with_it(tmp_path: Path) -> None:
    # of a home whose path is longer than the name of a socket may be
    server = Server(tmp_path / ("a" * 120), by_name=True)
    server.start()
    told = upload(f"{server.address}/api/datasets", daily_csv([200 + n % 7 * 9 + n % 91 for n in range(1500)]))
    body = {"dataset_id": told["dataset"]["id"], "ledger": told["ledger"], "name": "slow"}
    bench = call("POST", f"{server.address}/api/studies", body)
    path = f"/api/studies/{bench['study']['id']}/revision"
    call("PUT", f"{server.address}{path}", with_slow_projection(bench, 30))
    # the process that others are forked from takes its time at first
    for _ in range(600):
        if len(children := descendants(server.pid)) > 2:
            break
        time.sleep(0.1)
    assert len(children) > 2
    server.end(signal.SIGTERM)
    for _ in range(100):
        if not any(Path(f"/proc/{one}").exists() for one in children):
            return
        time.sleep(0.1)
    raise AssertionError("its children are still there")

"""A server that is killed at random moments while it edits, undoes, receives, migrates and backs up."""

from __future__ import annotations

import gzip
import http.client
import json
import random
import shutil
import sqlite3
import threading
import time
import urllib.request
from contextlib import closing, suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from tests.browser.machine import Server
from tests.help import daily_csv
from zembra.store.backups import backups
from zembra.store.checking import check_all
from zembra.store.database import close_database, open_database
from zembra.store.home import Home

KEPT = Path(__file__).parent / "kept"


def call(method: str, url: str, body: object = None) -> Any:
    data = json.dumps(body).encode() if body is not None else None
    request = urllib.request.Request(url, data, {"Content-Type": "application/json"}, method=method)
    with urllib.request.urlopen(request, timeout=60) as answer:
        return json.load(answer)


def upload(url: str, data: bytes, name: str = "r.csv") -> Any:
    mark = "zembra-test-boundary"
    head = f'--{mark}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n\r\n'
    body = head.encode() + data + f"\r\n--{mark}--\r\n".encode()
    headers = {"Content-Type": f"multipart/form-data; boundary={mark}"}
    with urllib.request.urlopen(urllib.request.Request(url, body, headers), timeout=60) as answer:
        told = json.load(answer)
    # what takes its time, as on a server that has just been started, is asked for again
    while "stage" in told:
        time.sleep(0.1)
        told = call("GET", f"{url.removesuffix('/datasets')}/jobs/{told['id']}")
    return told


def begin(address: str) -> str:
    """The path of a new study of sixty days."""
    told = upload(f"{address}/api/datasets", daily_csv(list(range(60))))
    body = {"dataset_id": told["dataset"]["id"], "name": "Killed", "ledger": told["ledger"]}
    return f"/api/studies/{call('POST', f'{address}/api/studies', body)['study']['id']}"


def with_slow_projection(bench: Any, ahead: int) -> dict[str, Any]:
    """The edit that gives a new study a projection that takes its time; another one for every length."""
    words = {"method": {"kind": "arima"}, "ahead": {"kind": "periods", "count": ahead}}
    entries = [*bench["ledger"]["entries"], {"id": "p", "kind": "projection", "params": words}]
    ledger = {**bench["ledger"], "entries": entries}
    return {"base": 1, "ledger": ledger, "settings": bench["settings"], "what": "projected"}


@dataclass
class Trial:
    """What clients were told while a server was killed under them. lost: what was confirmed and is not there."""

    home: Path
    rng: random.Random
    confirmed: dict[int, str] = field(default_factory=dict)
    files: list[str] = field(default_factory=list)

    def kill_once(self) -> list[str]:
        """Start, let clients work, kill at a random moment, and look at what is left."""
        server = Server(self.home)
        server.start()
        over = threading.Event()
        path = next(iter(self._studies(server.address)), None) or begin(server.address)
        clients = [
            threading.Thread(target=self._until, args=(over, work, server.address, path))
            for work in (self._edit, self._undo, self._receive, self._back_up)
        ]
        for client in clients:
            client.start()
        time.sleep(self.rng.uniform(0.3, 1.8))
        server.kill()
        over.set()
        for client in clients:
            client.join()
        return self._lost()

    def migrate_once(self) -> list[str]:
        """Kill a start that brings an old database up to date."""
        folder = self.home / "old"
        shutil.rmtree(folder, ignore_errors=True)
        folder.mkdir()
        home = Home(folder)
        home.database.write_bytes(gzip.decompress((KEPT / "database-0003.db.gz").read_bytes()))
        server = Server(folder)
        server.launch()
        time.sleep(self.rng.uniform(0.0, 0.6))
        server.kill()
        return self._unsound(home)

    def _studies(self, address: str) -> list[str]:
        return [f"/api/studies/{one['study']['id']}" for one in call("GET", f"{address}/api/studies")["studies"]]

    @staticmethod
    def _until(over: threading.Event, work: Any, address: str, path: str) -> None:
        while not over.is_set():
            with suppress(OSError, http.client.HTTPException, ValueError):
                work(address, path)
            over.wait(0.1)  # so that each gets its turn

    def _edit(self, address: str, path: str) -> None:
        bench = call("GET", f"{address}{path}")
        what = f"edit {self.rng.random()}"
        body = {
            "base": bench["study"]["revision"],
            "ledger": bench["ledger"],
            "settings": bench["settings"],
            "what": what,
        }
        told = call("PUT", f"{address}{path}/revision", body)
        self.confirmed[told["study"]["revision"]] = what

    def _undo(self, address: str, path: str) -> None:
        bench = call("GET", f"{address}{path}")
        call("POST", f"{address}{path}/undo", {"base": bench["study"]["revision"]})

    def _receive(self, address: str, _: str) -> None:
        data = daily_csv([self.rng.randrange(1000) for _ in range(300)])
        told = upload(f"{address}/api/datasets", data, f"{self.rng.random()}.csv")
        while "stage" in told:
            told = call("GET", f"{address}/api/jobs/{told['id']}")
        self.files.append(told["dataset"]["sha256"])

    def _back_up(self, address: str, _: str) -> None:
        call("POST", f"{address}/api/keeping/backups")

    def _lost(self) -> list[str]:
        home = Home(self.home)
        with closing(sqlite3.connect(home.database)) as connection:
            revisions = dict(connection.execute("SELECT number, what FROM revision"))
            files = {one for (one,) in connection.execute("SELECT sha256 FROM dataset")}
        lost = [f"revision {number}" for number, what in self.confirmed.items() if revisions.get(number) != what]
        lost += [f"file {one}" for one in self.files if one not in files]
        return lost + self._unsound(home)

    @staticmethod
    def _unsound(home: Home) -> list[str]:
        if not home.database.exists():
            return []
        engine = open_database(home.database)
        found = [f"{one.place}: {one.what}" for one in check_all(engine).findings]
        close_database(engine)
        for backup in backups(home):
            with closing(sqlite3.connect(backup.path)) as connection:
                (told,) = connection.execute("PRAGMA integrity_check").fetchone()
                found += [] if told == "ok" else [f"{backup.path.name}: {told}"]
        return found

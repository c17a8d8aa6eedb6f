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
import zipfile
from contextlib import closing, suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from tests.browser.machine import CONTEXT, Server
from tests.help import daily_csv
from zembra.cli import main
from zembra.store.backups import backups
from zembra.store.checking import check_all, check_file
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
        told = call("GET", f"{url.removesuffix('/datasets')}/work/{told['key']}/answer")
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


def _command(what: str, file: Path, home: Home) -> None:
    assert main([what, str(file), "--home", str(home.folder)]) == 0


def _count(home: Home) -> tuple[int, ...]:
    """Of files, revisions, snapshots and what was taken in."""
    tables = ("dataset", "revision", "snapshot", "taking", "issuedprojection")
    with closing(sqlite3.connect(home.database)) as connection:
        return tuple(connection.execute(f"SELECT count(*) FROM {one}").fetchone()[0] for one in tables)


@dataclass
class Trial:
    """What clients were told while a server was killed under them. lost: what was confirmed and is not there."""

    home: Path
    rng: random.Random
    confirmed: dict[int, str] = field(default_factory=dict)
    files: list[str] = field(default_factory=list)
    snapshots: set[str] = field(default_factory=set)
    taken: int = 0

    def kill_once(self) -> list[str]:
        """Start, let clients work, kill at a random moment, and look at what is left."""
        server = Server(self.home)
        server.start()
        over = threading.Event()
        path = next(iter(self._studies(server.address)), None) or begin(server.address)
        clients = [
            threading.Thread(target=self._until, args=(over, work, server.address, path))
            for work in (self._edit, self._undo, self._receive, self._back_up, self._freeze)
        ]
        for client in clients:
            client.start()
        time.sleep(self.rng.uniform(0.3, 1.8))
        server.kill()
        over.set()
        for client in clients:
            client.join()
        return self._lost()

    def take_in_once(self) -> list[str]:
        """Kill a server that takes new rows in: the study is as it was, or as it is with all of them."""
        server = Server(self.home)
        server.start()
        over = threading.Event()
        path = next(iter(self._studies(server.address)), None) or begin(server.address)
        taking = threading.Thread(target=self._until, args=(over, self._take_in, server.address, path))
        taking.start()
        time.sleep(self.rng.uniform(0.2, 2.0))
        server.kill()
        over.set()
        taking.join()
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

    def carry_once(self, what: str) -> list[str]:
        """Kill one command of those that carry a whole home: the home stays as it was, what it writes is whole or not there,
        and the command does its work the next time."""
        home, out = Home(self.home), self.home / "carried"
        out.mkdir(exist_ok=True)
        written, whole, other = out / what, out / "whole", out / "other"
        if not whole.exists():
            _command("export" if what == "import" else "backup", whole, home)
            begun = open_database(Home(other).database) if what == "import" else None
            if begun is not None:
                close_database(begun)
        words = {"import": (whole, Home(other)), "restore": (whole, home)}.get(what, (written, home))
        ready = CONTEXT.Process(target=_command, args=(what, *words))
        ready.start()
        time.sleep(self.rng.uniform(0.0, 0.7))
        ready.kill()
        ready.join()
        found = self._lost() + (self._unsound(Home(other)) if other.exists() else [])
        if what in ("export", "backup") and written.exists():
            found += self._not_whole(written)
        _command(what, *words)
        found += self._lost() + (self._not_whole(written) if written.exists() else [])
        if what == "import":
            found += self._unsound(Home(other)) + (
                [] if _count(Home(other)) == _count(home) else ["import: not all is there"]
            )
        shutil.rmtree(out)
        return [f"{what}: {one}" for one in found]

    def _not_whole(self, written: Path) -> list[str]:
        """What is wrong with a backup or an export."""
        if not zipfile.is_zipfile(written):
            return [one.what for one in check_file(written).findings]
        new = Home(written.parent / "new")
        _command("import", written, new)
        found = self._unsound(new) + ([] if _count(new) == _count(Home(self.home)) else ["not all is in it"])
        shutil.rmtree(new.folder)
        return found

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
        self.files.append(told["dataset"]["sha256"])

    def _back_up(self, address: str, _: str) -> None:
        call("POST", f"{address}/api/keeping/backups")

    def _freeze(self, address: str, path: str) -> None:
        told = call("POST", f"{address}{path}/snapshots", {"name": "as it is"})
        if "made_at" in told:
            self.snapshots.add(told["made_at"])

    def _take_in(self, address: str, path: str) -> None:
        rows = "\n".join(f"2026-03-{day:02d},{self.rng.randrange(1000)}" for day in range(1, 20))
        name = f"new {self.rng.random()}.csv"
        told = upload(f"{address}/api/datasets", f"day,riders\n{rows}\n".encode(), name)
        bench = call("GET", f"{address}{path}")
        body = {"base": bench["study"]["revision"], "dataset_id": told["dataset"]["id"], "waved": True}
        taken = call("PUT", f"{address}{path}/new-rows", body)
        if "study" in taken:
            self.confirmed[taken["study"]["revision"]] = f"New rows taken in: {name}"
            self.taken += 1

    @staticmethod
    def _half_taken(connection: sqlite3.Connection) -> list[str]:
        """Revisions that took rows in without saying which, and the other way round."""
        made = "SELECT study_id, number, dataset_id FROM revision WHERE what LIKE 'New rows taken in%'"
        said = "SELECT study_id, revision, dataset_id FROM taking"
        return [f"taken in by half: {one}" for one in {*connection.execute(made)} ^ {*connection.execute(said)}]

    def _lost(self) -> list[str]:
        home = Home(self.home)
        with closing(sqlite3.connect(home.database)) as connection:
            revisions = dict(connection.execute("SELECT number, what FROM revision"))
            files = {one for (one,) in connection.execute("SELECT sha256 FROM dataset")}
            (frozen,) = connection.execute("SELECT count(*) FROM snapshot").fetchone()
            half = self._half_taken(connection)
        lost = [f"revision {number}" for number, what in self.confirmed.items() if revisions.get(number) != what]
        lost += [f"file {one}" for one in self.files if one not in files]
        lost += half
        lost += ["a snapshot"] if frozen < len(self.snapshots) else []
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

"""A home at work: thirty people for three minutes, fifty thousand edits of one study, and a server that is killed while its feed takes rows
in."""

from __future__ import annotations

import os
import random
import signal
import statistics
import tempfile
import threading
import time
import urllib.error
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from datetime import date
from functools import partial
from pathlib import Path
from typing import Any

from sqlalchemy import Engine
from tests.browser.machine import Server
from tests.help import AS_OF, daily_csv
from tests.kills import begin, call, upload

from benchmarks.measure import Ratio, seconds
from zembra.api import create_app
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.entries.readings.average import Average
from zembra.core.figure.model import FigureSettings
from zembra.core.intake.bringin import bring_in
from zembra.core.ledger.model import Ledger, record
from zembra.demo.feed.counts import counts_known_on
from zembra.store.checking import check_all
from zembra.store.database import close_database, open_database
from zembra.store.datasets import keep_dataset
from zembra.store.home import Home
from zembra.store.studies import KeptStudy, create_study, edit_study

PEOPLE, FOR = 30, int(os.environ.get("ZEMBRA_BENCH_LOAD_SECONDS", "180"))
EDITS, SAMPLE = 50_000, 500
KILLS = 20
WITHIN = 1.0  # seconds of a small request in the median, with thirty people on two cores
FIRST, LATER = date(2026, 3, 20), date(2026, 3, 24)


def measure() -> Iterator[Ratio]:
    yield from _people()
    yield from _edits()
    yield from _killed_feed()


class _Told:
    """What thirty people were told. faults: answers of an error of the server, and none at all."""

    def __init__(self) -> None:
        self.took: dict[str, list[float]] = {}
        self.faults: list[str] = []
        self._lock = threading.Lock()

    def ask(self, what: str, do: Callable[[], Any]) -> Any:
        started = time.monotonic()
        found, fault = None, ""
        try:
            found = do()
        except urllib.error.HTTPError as error:
            # 422 and 409 are answers: too much to do, somebody was quicker
            fault = f"{what}: {error.code} {error.read()[:200]!r}" if error.code >= 500 else ""
        except OSError as error:
            fault = f"{what}: {type(error).__name__} {error}"
        with self._lock:
            self.took.setdefault(what, []).append(time.monotonic() - started)
            if fault:
                self.faults.append(fault)
        return found


def _people() -> Iterator[Ratio]:
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder))
        server.start()
        told, end = _Told(), time.monotonic() + FOR
        exports: list[int] = []
        try:
            with ThreadPoolExecutor(PEOPLE + 1) as people:
                carried = people.submit(_exports, server.address, told, end, exports)
                list(people.map(lambda n: _at_work(server.address, n, told, end), range(PEOPLE)))
                carried.result()
            memory = _memory_mb(server.pid)
        finally:
            server.end(signal.SIGTERM)
        engine = open_database(Home(Path(folder)).database)
        whole = check_all(engine)
        close_database(engine)
    count = sum(map(len, told.took.values()))
    each = "; ".join(f"{what} {statistics.median(took):.2f} s" for what, took in sorted(told.took.items()))
    yield Ratio(
        f"{PEOPLE} people at work for {FOR} s: errors of the server",
        len(told.faults),
        0,
        f"{count} requests; {told.faults[:2]}",
    )
    yield Ratio(
        f"{PEOPLE} people at work: what is not whole afterwards",
        len(whole.findings),
        0,
        f"{whole.revisions} revisions, {whole.files} files",
    )
    small = statistics.median(told.took["look"])
    yield Ratio(f"{PEOPLE} people at work: a small request, of a second", small / WITHIN, 1, each)
    yield Ratio(
        f"{PEOPLE} people at work: memory of the server, in GB",
        memory / 1000,
        2,
        f"{memory:.0f} MB; {len(exports)} exports meanwhile",
    )


def _at_work(address: str, number: int, told: _Told, end: float) -> None:
    """Somebody with a study of their own who looks, tries, edits, takes back, freezes, hands over and brings in."""
    rng = random.Random(number)
    path = f"{address}{begin(address)}"
    while time.monotonic() < end:
        bench = told.ask("look", lambda: call("GET", path))
        if bench is None:
            continue
        entry = {"id": f"a{rng.randrange(10**6)}", "kind": "average", "params": {}}
        ledger = {**bench["ledger"], "entries": [*bench["ledger"]["entries"][:6], entry]}
        words = {"ledger": ledger, "settings": bench["settings"]}
        told.ask("preview", partial(call, "POST", f"{path}/preview", words))
        edit = {**words, "base": bench["study"]["revision"], "what": "added an average"}
        told.ask("edit", partial(call, "PUT", f"{path}/revision", edit))
        match rng.randrange(6):
            case 0:
                told.ask(
                    "bring in", lambda: upload(f"{address}/api/datasets", daily_csv([rng.random() for _ in range(90)]))
                )
            case 1:
                told.ask("hand over", lambda: call("POST", f"{path}/handover/report.json"))
            case 2:
                told.ask("list", lambda: call("GET", f"{address}/api/studies"))
        time.sleep(rng.uniform(0.2, 1.5))


def _exports(address: str, told: _Told, end: float, exports: list[int]) -> None:
    """Export after export, each followed to its end."""
    while time.monotonic() < end:
        work = told.ask("export", lambda: call("POST", f"{address}/api/keeping/export"))
        while work is not None and work["stage"] in ("waiting", "working") and time.monotonic() < end:
            time.sleep(0.5)
            work = told.ask("look at work", partial(call, "GET", f"{address}/api/work/{work['key']}"))
        if work is not None and work["stage"] == "done":
            exports.append(1)
        time.sleep(5)


def _edits() -> Iterator[Ratio]:
    with tempfile.TemporaryDirectory() as folder:
        home = Home(Path(folder))
        engine = open_database(home.database)
        kept, ledgers = begun(engine)
        before = home.database.stat().st_size
        took = [_edit(engine, kept, ledgers, n) for n in range(EDITS)]
        close_database(engine)
        size = home.database.stat().st_size
        app = create_app(home.database, lambda: AS_OF)
        client = app.test_client()
        opened = seconds(lambda: client.get("/api/studies/1"))
        again = seconds(lambda: client.get("/api/studies/1"))
        undone = seconds(lambda: client.post("/api/studies/1/undo", json={"base": EDITS + 1}))
        app.extensions["zembra"].queue.close()
        checked = seconds(lambda: check_all(app.extensions["zembra"].engine))
    first, last = statistics.median(took[:SAMPLE]), statistics.median(took[-SAMPLE:])
    each = (size - before) / EDITS
    yield Ratio(
        f"an edit after {EDITS:,} of one study, of one at first",
        last / first,
        2,
        f"{last * 1000:.1f} ms against {first * 1000:.1f} ms",
    )
    yield Ratio(
        f"bytes that each of {EDITS:,} edits takes, of 8,000",
        each / 8000,
        1,
        f"{each:.0f} bytes; {size / 1e6:.0f} MB in all",
    )
    yield Ratio(
        f"a study of {EDITS:,} edits opened, of 2 s",
        opened / 2,
        1,
        f"{opened:.2f} s, {again:.2f} s the next time; undone in {undone:.2f} s; checked in {checked:.1f} s",
    )


def begun(engine: Engine) -> tuple[KeptStudy, list[Ledger]]:
    """A study of sixty days, and two ledgers to go from one to the other."""
    data = daily_csv(list(range(60)))
    brought = bring_in(data)
    dataset = keep_dataset(engine, "riders.csv", data, brought.how)
    ledger = first_ledger(brought.observations, brought.how, AS_OF)
    more = ledger.model_copy(update={"entries": (*ledger.entries, record(Average(), "a"))})
    return create_study(engine, "Edited", dataset.id or 0, ledger, FigureSettings(), AS_OF), [more, ledger]


def _edit(engine: Engine, kept: KeptStudy, ledgers: list[Ledger], number: int) -> float:
    ledger = ledgers[number % 2]
    return seconds(lambda: edit_study(engine, kept.study.id or 0, number + 1, ledger, kept.figure, f"edit {number}"))


def _killed_feed() -> Iterator[Ratio]:
    """A feed that takes in by itself, killed at random moments of that: what it took is whole, or not there, and taken the next time."""
    rng, wrong, taken_then = random.Random(34), [], 0
    with tempfile.TemporaryDirectory() as place:
        for kill in range(KILLS):
            folder, drops = Path(place) / f"home-{kill}", Path(place) / f"drops-{kill}"
            folder.mkdir()
            drops.mkdir()
            server = Server(folder)
            server.start()
            told = upload(f"{server.address}/api/datasets", _counts(FIRST), "counts.csv")
            entries = [*told["ledger"]["entries"], {"id": "t", "kind": "provisional", "params": {}}]
            body = {
                "dataset_id": told["dataset"]["id"],
                "name": "Counts",
                "ledger": {**told["ledger"], "entries": entries},
                "as_of": "2026-03-20",
            }
            path = f"{server.address}/api/studies/{call('POST', f'{server.address}/api/studies', body)['study']['id']}"
            source = {"kind": "folder", "folder": str(drops), "pattern": "*.csv"}
            call("PUT", f"{path}/feed", {"words": {"source": source, "then": "itself"}})
            _drop(drops)
            with suppress(OSError):
                threading.Thread(target=_quietly, args=(f"{path}/feed/look",), daemon=True).start()
                time.sleep(rng.uniform(0.05, 1.5))
            server.kill()
            wrong += _left(folder)
            again = Server(folder)
            again.start()
            path = path.replace(server.address, again.address)
            before = call("GET", path)["study"]["revision"]
            taken_then += before > 1
            said = _looked(again.address, f"{path}/feed/look")
            bench = call("GET", path)
            days = len(bench["figure"]["series"][0]["v"])
            if days != (LATER - date(2026, 1, 1)).days and not said.get("file"):
                wrong.append(f"after kill {kill}: {days} days, {said.get('said')}")
            again.end(signal.SIGTERM)
            wrong += _left(folder)
    yield Ratio(
        f"{KILLS} kills of a feed that takes rows in: lost, partial or damaged",
        len(wrong),
        0,
        f"{taken_then} had been taken in before the kill; {wrong[:2]}",
    )


def _counts(today: date) -> bytes:
    rows = [f"{row.day},{row.route},{row.passengers}" for row in counts_known_on(today)]
    return "\n".join(["day,route,passengers", *rows, ""]).encode()


def _drop(drops: Path) -> None:
    file = drops / "counts.csv"
    file.write_bytes(_counts(LATER))
    os.utime(file, (1_700_000_000, 1_700_000_000))


def _quietly(url: str) -> None:
    with suppress(OSError):
        call("POST", url)


def _looked(address: str, url: str) -> Any:
    told = call("POST", url)
    while "stage" in told:
        told = call("GET", f"{address}/api/work/{told['key']}/answer")
    return told


def _left(folder: Path) -> list[str]:
    engine = open_database(Home(folder).database)
    try:
        return [f"{finding.place}: {finding.what}" for finding in check_all(engine).findings]
    finally:
        close_database(engine)


def _memory_mb(process: int) -> float:
    line = next(line for line in Path(f"/proc/{process}/status").read_text().splitlines() if line.startswith("VmHWM"))
    return int(line.split()[1]) / 1000

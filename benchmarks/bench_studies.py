"""Five thousand studies: their list, the first time and later, the start of a server, a backup."""

from __future__ import annotations

import signal
import statistics
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from tests.browser.machine import Server
from tests.help import AS_OF

from benchmarks.bench_load import begun
from benchmarks.measure import Ratio, seconds
from zembra.api import create_app
from zembra.store.backups import Why, keep_backup
from zembra.store.database import close_database, open_database
from zembra.store.home import Home
from zembra.store.studies import create_study

STUDIES = 5_000


def measure() -> Iterator[Ratio]:
    with tempfile.TemporaryDirectory() as folder:
        home = Home(Path(folder))
        engine = open_database(home.database)
        kept, (more, _) = begun(engine)
        for n in range(STUDIES - 1):
            create_study(engine, f"study {n}", kept.dataset_id, more, kept.figure, AS_OF)
        close_database(engine)
        started = seconds(lambda: _start_and_stop(home))
        app = create_app(home.database, lambda: AS_OF)
        client = app.test_client()
        first = seconds(lambda: client.get("/api/studies"))
        while any(card["unfinished"] for card in client.get("/api/studies").json["studies"]):
            time.sleep(1)
        later = statistics.median(seconds(lambda: client.get("/api/studies")) for _ in range(5))
        shared = app.extensions["zembra"]
        shared.queue.close()
        backed_up = seconds(lambda: keep_backup(home, Why.BY_HAND))
        size = home.database.stat().st_size
    yield Ratio(f"the list of {STUDIES:,} studies the first time, of 5 s", first / 5, 1, f"{first:.2f} s")
    yield Ratio(f"the list of {STUDIES:,} studies later, of 5 s", later / 5, 1, f"{later:.2f} s")
    yield Ratio(f"a server on {STUDIES:,} studies started and stopped, of 15 s", started / 15, 1, f"{started:.1f} s")
    yield Ratio(
        f"a backup of {STUDIES:,} studies, of 5 s", backed_up / 5, 1, f"{backed_up:.2f} s for {size / 1e6:.0f} MB"
    )


def _start_and_stop(home: Home) -> None:
    server = Server(home.folder)
    server.start()
    server.end(signal.SIGTERM)

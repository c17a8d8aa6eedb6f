"""What a small request (the catalogue, the list of studies, the bench of a small one) takes of the time it may while
eight slow projections run; and a list of 500 studies, the first time and later."""

from __future__ import annotations

import io
import statistics
import tempfile
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from itertools import chain
from pathlib import Path

from tests.browser.machine import Server
from tests.help import AS_OF, daily_csv
from tests.kills import begin, call, upload, with_slow_projection

from benchmarks.measure import Ratio, seconds
from zembra.api import create_app

SMALL_WITHIN, LIST_WITHIN = 0.5, 0.5  # seconds
TOGETHER_WITHIN = 0.3
SLOW, STUDIES, PEOPLE = 8, 500, 30
THINKS = 0.5  # seconds between two looks of somebody at work


def measure() -> Iterator[Ratio]:
    yield from _while_slow()
    yield from _many_studies()


def _while_slow() -> Iterator[Ratio]:
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder))
        server.start()
        try:
            told = upload(f"{server.address}/api/datasets", daily_csv([200 + n % 7 * 9 + n % 91 for n in range(1500)]))
            body = {"dataset_id": told["dataset"]["id"], "ledger": told["ledger"]}
            quick = begin(server.address)
            for n in range(SLOW):
                bench = call("POST", f"{server.address}/api/studies", {**body, "name": f"slow {n}"})
                path = f"/api/studies/{bench['study']['id']}/revision"
                call("PUT", f"{server.address}{path}", with_slow_projection(bench, 30 + n))
            small = (f"{server.address}/api/catalogue", f"{server.address}/api/studies", f"{server.address}{quick}")

            def at_work(_: int = 0, rounds: int = 8) -> list[float]:
                """What somebody waits who looks at something every moment."""
                took = []
                for _ in range(rounds):
                    took += [seconds(partial(call, "GET", one)) for one in small]
                    time.sleep(THINKS)
                return took

            alone = max(at_work(rounds=40))
            with ThreadPoolExecutor(PEOPLE) as people:
                together = statistics.median(chain.from_iterable(people.map(at_work, range(PEOPLE))))
        finally:
            server.kill()
    yield Ratio("a small request while 8 projections run, of half a second", alone / SMALL_WITHIN, 1, f"{alone:.3f} s")
    yield Ratio(
        f"a small request of {PEOPLE} people while 8 projections run, of 0.3 seconds",
        together / TOGETHER_WITHIN,
        1,
        f"{together:.3f} s in the median",
    )


def _many_studies() -> Iterator[Ratio]:
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as folder:
        database = Path(folder) / "many.db"
        client = create_app(database, lambda: AS_OF).test_client()
        told = client.post("/api/datasets", data={"file": (io.BytesIO(daily_csv(list(range(400)))), "r.csv")}).json
        body = {"dataset_id": told["dataset"]["id"], "ledger": told["ledger"]}
        for n in range(STUDIES):
            client.post("/api/studies", json={**body, "name": f"study {n}"})
        client = create_app(database, lambda: AS_OF).test_client()
        first = seconds(lambda: client.get("/api/studies"))
        while any(one["unfinished"] for one in client.get("/api/studies").json["studies"]):
            time.sleep(0.5)
        took = sorted(seconds(lambda: client.get("/api/studies")) for _ in range(5))[2]
        client.application.extensions["zembra"].queue.close()
    for when, value in (("the first time", first), ("later", took)):
        yield Ratio(f"a list of {STUDIES} studies {when}, of half a second", value / LIST_WITHIN, 1, f"{value:.3f} s")

"""Ten thousand mutated files are brought in: how many server errors, how many half-stored datasets."""

from __future__ import annotations

import io
import logging
import os
import tempfile
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from datetime import date
from multiprocessing import get_context
from pathlib import Path

import numpy as np
from tests.intake.corpus import all_cases

from benchmarks.measure import Ratio
from zembra.api import create_app
from zembra.demo import DEMO_FILES, demo_file
from zembra.store.datasets import dataset, dataset_bytes, datasets

FILES = 10_000
SPICE = [
    b"\x00",
    b'"',
    b"\n",
    b"\r",
    b";",
    b",",
    b"\t",
    b"\xff\xfe",
    b"2026-02-30",
    b"1e999",
    b"nan",
    b"=1+1",
    b"{",
    b"\xe9",
]


def mutated(data: bytes, rng: np.random.Generator) -> bytes:
    """A file with a few bytes changed, cut out, put in or repeated."""
    raw = bytearray(data[:20_000])
    for _ in range(int(rng.integers(1, 8))):
        at = int(rng.integers(0, max(1, len(raw))))
        end = at + int(rng.integers(1, 40))
        match int(rng.integers(0, 6)):
            case 0:
                raw[at : at + 1] = bytes([int(rng.integers(0, 256))])
            case 1:
                del raw[at:end]
            case 2:
                raw[at:at] = SPICE[int(rng.integers(0, len(SPICE)))]
            case 3:
                raw[at:at] = raw[at:end] * 3
            case 4:
                del raw[at:]
            case _:
                other = int(rng.integers(0, max(1, len(raw))))
                raw[at:end] = raw[other : other + 30]
    return bytes(raw)


def trial(job: tuple[int, int]) -> tuple[int, int, int, int]:
    """(files, server errors, datasets that cannot be read again, taken) of one worker's share."""
    seed, count = job
    logging.disable(logging.CRITICAL)
    rng = np.random.default_rng(seed)
    sources = [case.data for case in all_cases()] + [demo_file(name) for name in DEMO_FILES]
    errors = half = taken = 0
    with tempfile.TemporaryDirectory() as folder:
        app = create_app(Path(folder) / "broken.db", lambda: date(2026, 10, 31))
        client = app.test_client()
        for n in range(count):
            data = mutated(sources[int(rng.integers(0, len(sources)))], rng)
            answer = client.post("/api/datasets", data={"file": (io.BytesIO(data), f"{n}.csv")})
            while answer.status_code == 202:
                answer = client.get(f"/api/work/{answer.json['key']}/answer")
            taken += answer.status_code == 201
            errors += answer.status_code >= 500
        engine = app.extensions["zembra"].engine
        kept = datasets(engine)
        for one in kept:
            assert one.id is not None
            whole = dataset(engine, one.id)
            half += not whole.how or whole.size != len(dataset_bytes(engine, one.id))
        half += abs(taken - len(kept))
    return count, errors, half, taken


def measure() -> Iterator[Ratio]:
    workers = os.cpu_count() or 1
    share = FILES // (workers * 4)
    # begun anew: what Polars has begun would not go on in a fork
    with ProcessPoolExecutor(workers, get_context("spawn")) as pool:
        told = list(pool.map(trial, [(seed, share) for seed in range(workers * 4)]))
    files, errors, half, taken = (sum(column) for column in zip(*told, strict=True))
    detail = f"{files} files, {taken} taken, {files - taken} refused"
    yield Ratio("server errors on mutated files", errors, 0, detail)
    yield Ratio("half-stored datasets", half, 0, detail)

"""New rows: comparing them with what is there and making one table of both, against reading the file alone; and opening a study
that took in many files, against one that took in none."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from datetime import date
from pathlib import Path

import numpy as np
from sqlalchemy import Engine

from benchmarks.measure import Ratio, compare
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.figure.model import FigureSettings
from zembra.core.intake.bringin import bring_in
from zembra.core.ledger.run import run
from zembra.core.newrows.changes import Comparison
from zembra.core.newrows.merging import together
from zembra.service.application import Application
from zembra.service.newrows import incoming, take_in
from zembra.store.database import close_database, open_database
from zembra.store.datasets import keep_dataset
from zembra.store.home import Home
from zembra.store.studies import KeptStudy, create_study

SERIES, DAYS, MORE = 1000, 1000, 100
AS_OF = date(2025, 6, 1)
MONTHS = 120


def measure() -> Iterator[Ratio]:
    before = bring_in(_rows("2022-01-01", DAYS, SERIES, 1))
    ledger = first_ledger(before.observations, before.how, AS_OF)
    old = run(before.observations, ledger, AS_OF)
    whole = _rows("2022-01-01", DAYS + MORE, SERIES, 1)
    part = _rows("2024-09-22", MORE + 5, SERIES, 2)
    read = bring_in(whole, before.how)
    came = run(read.observations, ledger, AS_OF)

    def take_whole() -> None:
        compared = Comparison(old.base, came.base)
        assert compared.changes(old.state, compared.guessed_how).any

    name = f"{SERIES * MORE:,} new rows with {SERIES * DAYS:,} again"
    yield compare(
        f"{name}: compared, against reading the file",
        1.5,
        take_whole,
        lambda: bring_in(whole, before.how),
        rounds=3,
    )
    few = bring_in(part, before.how)
    own = run(few.observations, ledger, AS_OF)

    def mixed() -> None:
        compared = Comparison(old.base, own.base)
        compared.changes(old.state, compared.guessed_how)
        together(before, few, compared.guessed_how)

    yield compare(
        f"{SERIES * MORE:,} new rows alone put to {SERIES * DAYS:,}: compared and made one table, against reading all of them",
        1.5,
        mixed,
        lambda: bring_in(whole, before.how),
        rounds=3,
    )
    yield _opened()


def _opened() -> Ratio:
    """A study with many months taken in, against one with none."""
    with tempfile.TemporaryDirectory() as folder:
        home = Home(Path(folder))
        engine = open_database(home.database)
        application = Application(engine, home)
        first = _begun(engine, "one")
        taken = _begun(engine, "other")
        for month in range(MONTHS):
            data = _rows("2022-01-01", 400 + month, 4, 3)
            received = keep_dataset(engine, f"{month}.csv", data, bring_in(data).how)
            result = application.runs.run_whole(taken).result
            found = incoming(application, taken, result, received, None, AS_OF)
            taken = take_in(application, taken, result, found, skip_questions=True, base=taken.study.head)
        plain = _begun(engine, "as long", 400 + MONTHS - 1)
        assert first.study.id is not None

        def opened(kept: KeptStudy) -> None:
            Application(engine, home).runs.run_whole(kept)

        found_ratio = compare(
            f"a study with {MONTHS} files taken in opened, against one with none",
            1.1,
            lambda: opened(taken),
            lambda: opened(plain),
            rounds=9,
        )
        application.queue.close()
        close_database(engine)
        return found_ratio


def _begun(engine: Engine, name: str, days: int = 400) -> KeptStudy:
    data = _rows("2022-01-01", days, 4, 3)
    brought = bring_in(data)
    kept = keep_dataset(engine, f"{name}.csv", data, brought.how)
    assert kept.id is not None
    ledger = first_ledger(brought.observations, brought.how, AS_OF)
    return create_study(engine, name, kept.id, ledger, FigureSettings(), AS_OF)


def _rows(first: str, days: int, series: int, seed: int) -> bytes:
    values = np.random.default_rng(seed).integers(100, 999, (days, series))
    dates = np.datetime64(first) + np.arange(days)
    rows = [f"{day},route {n},{value}" for day, row in zip(dates, values, strict=True) for n, value in enumerate(row)]
    return "\n".join(["day,route,riders", *rows]).encode()

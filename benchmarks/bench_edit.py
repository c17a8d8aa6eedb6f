"""An edit from request to answer, against a plain pandas script: ten series, and a million points."""

from __future__ import annotations

import io
import tempfile
from collections.abc import Callable, Iterator
from datetime import date, timedelta
from pathlib import Path
from typing import Any

import numpy as np
import pandas as pd
from flask.testing import FlaskClient
from scipy import stats

from benchmarks.measure import Ratio, compare
from zembra.api import create_app

SERIES, DAYS = 10, 3650
POINTS = 1_000_000
AS_OF = date(2026, 10, 31)


def ten_series() -> bytes:
    rng = np.random.default_rng(7)
    first = AS_OF - timedelta(DAYS)
    values = rng.normal(900, 60, (DAYS, SERIES)).round(1)
    cells = np.where(rng.random((DAYS, SERIES)) < 0.01, "", values.astype(str))
    rows = (f"{first + timedelta(n)},{','.join(row)}" for n, row in enumerate(cells))
    names = ",".join(f"route {n}" for n in range(SERIES))
    return f"day,{names}\n".encode() + "\n".join(rows).encode() + b"\n"


def a_million() -> bytes:
    rng = np.random.default_rng(8)
    stamps = np.datetime64("2024-01-01T00:00") + np.arange(POINTS).astype("timedelta64[m]")
    values = rng.normal(50, 3, POINTS).round(2).astype(str)
    return b"at,kwh\n" + "\n".join(f"{at},{v}" for at, v in zip(stamps.astype(str), values, strict=True)).encode()


class Study:
    """A study in an application of its own, of which one word is changed again and again."""

    def __init__(self, client: FlaskClient, data: bytes, entries: list[dict[str, Any]]) -> None:
        answer = client.post("/api/datasets", data={"file": (io.BytesIO(data), "bench.csv")})
        while answer.status_code == 202:
            answer = client.get(f"/api/work/{answer.json['key']}/answer")
        told = answer.json
        ledger = {**told["ledger"], "entries": [*told["ledger"]["entries"], *entries]}
        body = {"dataset_id": told["dataset"]["id"], "name": "bench", "ledger": ledger}
        self.client = client
        self.bench = client.post("/api/studies", json=body).json
        self.turn = 0

    def edit(self, word: str, value: Callable[[int], float]) -> None:
        """Keep a change of a word of the last entry: what a user waits for."""
        body = {**self._changed(word, value), "base": self.bench["study"]["revision"], "what": "bench"}
        answer = self.client.put(f"{self._path()}/revision", json=body)
        assert answer.status_code == 200, answer.json
        self.bench["study"]["revision"] += 1

    def preview(self, word: str, value: Callable[[int], float]) -> None:
        answer = self.client.post(f"{self._path()}/preview", json=self._changed(word, value))
        assert answer.status_code == 200, answer.json

    def _path(self) -> str:
        return f"/api/studies/{self.bench['study']['id']}"

    def _changed(self, word: str, value: Callable[[int], float]) -> dict[str, Any]:
        """The ledger with another value of a word of its last entry, a new one at each call."""
        self.turn += 1
        ledger = self.bench["ledger"]
        last = ledger["entries"][-1]
        clause, name = word.split(".")
        words = {**last["params"][clause], name: value(self.turn)}
        changed = {**last, "params": {**last["params"], clause: words}}
        return {
            "settings": self.bench["settings"],
            "ledger": {**ledger, "entries": [*ledger["entries"][:-1], changed]},
        }


def neighbours(series: pd.Series, far: float) -> pd.Series:
    known = series.dropna()
    usual = known.diff().abs().median()
    out = ((known - known.shift()).abs() > far * usual) & ((known - known.shift(-1)).abs() > far * usual)
    return series.mask(out.reindex(series.index, fill_value=False))


def measure() -> Iterator[Ratio]:
    with tempfile.TemporaryDirectory() as folder:
        client = create_app(Path(folder) / "bench.db", lambda: AS_OF).test_client()
        yield from ten(client)
        yield from million(client)


def ten(client: FlaskClient) -> Iterator[Ratio]:
    data = ten_series()
    entries = [
        {"id": "a", "kind": "outliers", "params": {"rule": {"kind": "neighbours", "far": 6}}},
        {"id": "b", "kind": "blanks", "params": {"longest": 3}},
        {"id": "c", "kind": "trend", "params": {}},
        {"id": "d", "kind": "average", "params": {"window": {"kind": "periods", "length": 28, "need": 20}}},
    ]
    study = Study(client, data, entries)

    def script() -> None:
        frame = pd.read_csv(io.BytesIO(data), parse_dates=["day"], index_col="day").asfreq("D")
        for name in frame:
            series = neighbours(frame[name], 6).interpolate(limit=3, limit_area="inside")
            known = series.dropna()
            stats.linregress((known.index - series.index[0]).days, known)
            series.rolling(28, min_periods=20).mean()

    yield compare(
        "edit of 10 series × 3,650 days, kept",
        1,
        lambda: study.edit("window.length", lambda n: 28 + n),
        script,
        rounds=9,
    )


def million(client: FlaskClient) -> Iterator[Ratio]:
    data = a_million()
    series = pd.read_csv(io.BytesIO(data), parse_dates=["at"], index_col="at")["kwh"].asfreq("min")
    average = Study(
        client,
        data,
        [{"id": "a", "kind": "average", "params": {"window": {"kind": "periods", "length": 60, "need": 40}}}],
    )
    yield compare(
        "an average over 1,000,000 points, previewed",
        4,
        lambda: average.preview("window.length", lambda n: 60 + n),
        lambda: series.rolling(60, min_periods=40).mean(),
    )
    outliers = Study(
        client, data, [{"id": "a", "kind": "outliers", "params": {"rule": {"kind": "neighbours", "far": 6}}}]
    )
    yield compare(
        "outliers among 1,000,000 points, previewed",
        4,
        lambda: outliers.preview("rule.far", lambda n: 6 + n / 10),
        lambda: neighbours(series, 6),
    )

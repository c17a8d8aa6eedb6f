"""Previews of ledgers whose words are what nobody would write, on data that nobody would send."""

from __future__ import annotations

import copy
import io
import random
from collections.abc import Iterator
from typing import Any

from flask import Flask

from tests.help import daily_csv
from zembra.core.ledger.registry import kinds
from zembra.core.ledger.schema import kind_example

WORDS: tuple[Any, ...] = (
    None, True, "", " ", "\u0000", "\ud83d\ude00" * 40, "=1+1", "<b>", "x" * 5000, 0, -1, 1, 2, 3.5, 1e-300, 1e308, -1e308,
    10**30, 10_000, 100_000, [], [[]], {}, {"kind": "x"}, [None], "2026-02-30", "9999-12-31", "0001-01-01", "riders", ["riders"],
    [{"series": "riders", "period": "2026-01-05"}], [{"on": "2026-01-05", "name": "storm"}],
)  # fmt: skip
TABLES = (
    daily_csv([n % 7 * 10 + 3 for n in range(90)]),
    daily_csv([5] * 60),
    daily_csv([None] * 20 + [1] + [None] * 20),
    daily_csv([3e99 if n % 2 else -3e99 for n in range(40)]),
    daily_csv([1e-300 * n for n in range(40)]),
    daily_csv([1, 2]),
    b"when,riders\n" + b"".join(b"2026-01-%02dT%02d:07,%d\n" % (1 + n // 5, n % 24, n) for n in range(120)),
    b"year,riders\n" + b"".join(b"%d,%d\n" % (1900 + n, n * n) for n in range(40)),
)


def faults(app: Flask, previews: int, seed: int = 5) -> Iterator[str]:
    """What is told of each preview that ended in an error of the server."""
    client, rng = app.test_client(), random.Random(seed)
    studies = []
    for n, table in enumerate(TABLES):
        told = client.post("/api/datasets", data={"file": (io.BytesIO(table), f"{n}.csv")}).json
        if "dataset" not in told:
            continue
        body = {"dataset_id": told["dataset"]["id"], "name": f"hostile {n}", "ledger": told["ledger"]}
        answer = client.post("/api/studies", json=body)
        if answer.status_code == 201:
            studies.append(answer.json)
    assert len(studies) >= len(TABLES) - 2
    examples = {name: kind_example(kind)[0].model_dump(mode="json") for name, kind in kinds().items() if not kind.once}
    for _ in range(previews):
        bench = rng.choice(studies)
        entries = []
        for k in range(rng.randint(1, 3)):
            kind = rng.choice(list(examples))
            entries.append({"id": f"e{k}", "kind": kind, "params": _spoilt(examples[kind], rng)})
        ledger = {**bench["ledger"], "entries": [*bench["ledger"]["entries"], *entries]}
        path = f"/api/studies/{bench['study']['id']}/preview"
        answer = client.post(path, json={"ledger": ledger, "settings": bench["settings"]})
        if answer.status_code >= 500:
            yield f"{answer.status_code} of {bench['study']['name']}: {entries}"


def _spoilt(params: dict[str, Any], rng: random.Random) -> dict[str, Any]:
    """The words of an entry, with a few of them put wrong."""
    spoilt = copy.deepcopy(params)
    for _ in range(rng.randint(0, 2)):
        at: Any = spoilt
        while isinstance(at, dict) and at:
            key = rng.choice(list(at))
            if isinstance(at[key], dict) and at[key] and rng.random() < 0.7:
                at = at[key]
                continue
            at[key] = copy.deepcopy(rng.choice(WORDS))
            break
    return spoilt

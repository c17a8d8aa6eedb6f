"""A thousand tables as they come, and a thousand rewritten ones: how many are read wrong without a word, or refused."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator
from random import Random

from tests.intake.random_tables import RandomTable, random_table, verdict
from tests.intake.rewritten_tables import rewritten_table

from benchmarks.measure import Ratio

TABLES = 1_000
MOST_REFUSED = 0.01


def measure() -> Iterator[Ratio]:
    yield from _read("tables", random_table)
    yield from _read("rewritten tables", rewritten_table)


def _read(name: str, make: Callable[[Random], RandomTable]) -> Iterator[Ratio]:
    told = {seed: verdict(make(Random(seed))) for seed in range(TABLES)}
    count = Counter(told.values())
    wrong = {seed: said for seed, said in told.items() if said not in ("right", "asked", "refused")}
    detail = (
        f"{count['right']} right, {count['asked']} asked, {count['refused']} refused; {dict(list(wrong.items())[:4])}"
    )
    yield Ratio(f"{name} read wrong without a word", len(wrong), 0, detail)
    yield Ratio(f"{name} refused", count["refused"] / TABLES, MOST_REFUSED, f"{count['refused']} of {TABLES}")

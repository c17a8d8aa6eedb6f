"""A thousand tables as they come, at random: how many are read wrong without a word, and how many are refused."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from random import Random

from tests.intake.random_tables import random_table, verdict

from benchmarks.measure import Ratio

TABLES = 1_000
MOST_REFUSED = 0.01


def measure() -> Iterator[Ratio]:
    told = {seed: verdict(random_table(Random(seed))) for seed in range(TABLES)}
    count = Counter(told.values())
    wrong = {seed: said for seed, said in told.items() if said not in ("right", "asked", "refused")}
    detail = (
        f"{count['right']} right, {count['asked']} asked, {count['refused']} refused; {dict(list(wrong.items())[:4])}"
    )
    yield Ratio("tables read wrong without a word", len(wrong), 0, detail)
    yield Ratio("tables refused", count["refused"] / TABLES, MOST_REFUSED, f"{count['refused']} of {TABLES}")

"""A thousand tables as they come, a thousand rewritten ones and a thousand composed at random: how many are read wrong without a
word, or refused; and right tables with one cell damaged: how many say nothing of it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from random import Random

from tests.intake.composed_tables import composed, damaged, difference, has_a_word, read
from tests.intake.composed_tables import verdict as composed_verdict
from tests.intake.random_tables import random_table, verdict
from tests.intake.rewritten_tables import rewritten_table

from benchmarks.measure import Ratio

TABLES = 1_000
MOST_REFUSED = 0.01


def measure() -> Iterator[Ratio]:
    with ProcessPoolExecutor(mp_context=get_context("spawn")) as pool:
        for name, seen in (
            ("tables", _random),
            ("rewritten tables", _rewritten),
            ("composed tables", _composed),
        ):
            yield from _counted(name, dict(enumerate(pool.map(seen, range(TABLES), chunksize=20))))
        hurt = Counter(pool.map(_damaged, range(TABLES), chunksize=20))
    detail = f"{hurt['said']} of {TABLES - hurt['not right before']} said"
    yield Ratio("cells damaged of which nothing is said", hurt["silent"], 0, detail)


def _random(seed: int) -> str:
    return verdict(random_table(Random(seed)))


def _rewritten(seed: int) -> str:
    return verdict(rewritten_table(Random(seed)))


def _composed(seed: int) -> str:
    return composed_verdict(composed(Random(seed)))


def _damaged(seed: int) -> str:
    rng = Random(seed)
    table = composed(rng, plain=True)
    _, before = read(table.data)
    if difference(before, table.truth):
        return "not right before"
    hurt, row, cell = damaged(table, rng)
    return "said" if has_a_word(hurt, row, cell) else "silent"


def _counted(name: str, told: dict[int, str]) -> Iterator[Ratio]:
    count = Counter(told.values())
    wrong = {seed: said for seed, said in told.items() if said not in ("right", "asked", "refused")}
    detail = (
        f"{count['right']} right, {count['asked']} asked, {count['refused']} refused; {dict(list(wrong.items())[:4])}"
    )
    yield Ratio(f"{name} read wrong without a word", len(wrong), 0, detail)
    yield Ratio(f"{name} refused", count["refused"] / TABLES, MOST_REFUSED, f"{count['refused']} of {TABLES}")

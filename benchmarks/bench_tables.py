"""A thousand tables as they come, a thousand rewritten ones and thousands composed at random: how many are read wrong without a
word, or refused; and right tables with one cell damaged: how many say nothing of it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from random import Random

from tests.intake.composed_tables import composed, damaged, difference, has_a_word, read
from tests.intake.composed_tables import verdict as composed_verdict
from tests.intake.random_tables import RandomTable, random_table, verdict
from tests.intake.rewritten_tables import rewritten_table

from benchmarks.measure import Ratio

TABLES = 1_000
COMPOSED = 2_000
MOST_REFUSED = 0.01


def measure() -> Iterator[Ratio]:
    yield from _read("tables", random_table)
    yield from _read("rewritten tables", rewritten_table)
    with ProcessPoolExecutor(mp_context=get_context("spawn")) as pool:
        found = dict(enumerate(pool.map(_composed, range(COMPOSED), chunksize=20)))
        hurt = Counter(pool.map(_damaged, range(COMPOSED), chunksize=20))
    yield from _counted("composed tables", found, COMPOSED)
    detail = f"{hurt['said']} of {COMPOSED - hurt['not right before']} said"
    yield Ratio("cells damaged of which nothing is said", hurt["silent"], 0, detail)


def _read(name: str, make: Callable[[Random], RandomTable]) -> Iterator[Ratio]:
    yield from _counted(name, {seed: verdict(make(Random(seed))) for seed in range(TABLES)}, TABLES)


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


def _counted(name: str, told: dict[int, str], tables: int) -> Iterator[Ratio]:
    count = Counter(told.values())
    wrong = {seed: said for seed, said in told.items() if said not in ("right", "asked", "refused")}
    detail = (
        f"{count['right']} right, {count['asked']} asked, {count['refused']} refused; {dict(list(wrong.items())[:4])}"
    )
    yield Ratio(f"{name} read wrong without a word", len(wrong), 0, detail)
    yield Ratio(f"{name} refused", count["refused"] / tables, MOST_REFUSED, f"{count['refused']} of {tables}")

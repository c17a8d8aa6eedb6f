"""Tables as they come, at random, are read right or asked about (a thousand of them in `python -m benchmarks tables`)."""

from __future__ import annotations

from dataclasses import replace
from random import Random

import pytest

from tests.intake.random_tables import random_table, verdict
from tests.intake.rewritten_tables import rewritten_table

SEEDS = range(10_000, 10_030)


@pytest.mark.parametrize("seed", SEEDS)
def test_none_is_read_wrong_without_a_word(seed: int) -> None:
    assert verdict(random_table(Random(seed))) in ("right", "asked")


@pytest.mark.parametrize("seed", SEEDS)
def test_no_rewritten_table_is_read_wrong_without_a_word(seed: int) -> None:
    assert verdict(rewritten_table(Random(seed))) in ("right", "asked", "refused")


def test_few_rewritten_tables_are_refused() -> None:
    told = [verdict(rewritten_table(Random(seed))) for seed in SEEDS]
    assert told.count("refused") <= 1
    assert told.count("right") > len(SEEDS) / 2


def test_what_is_wrong_would_be_seen() -> None:
    tables = [random_table(Random(seed)) for seed in SEEDS]
    table = next(one for one in tables if verdict(one) == "right" and len(one.truth) > 1)
    (name, cells), *_ = table.truth.items()
    day = max(cells)
    assert verdict(replace(table, truth={**table.truth, name: {**cells, day: -1.0}})) == f"{name} on {day}"
    assert verdict(replace(table, truth={name: cells})).startswith("series")

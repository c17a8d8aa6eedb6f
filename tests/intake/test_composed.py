"""Tables composed at random, and right ones with one cell damaged (thousands of both in `python -m benchmarks tables`)."""

from __future__ import annotations

from dataclasses import replace
from random import Random

import pytest

from tests.intake.composed_tables import composed, damaged, difference, has_a_word, read, verdict

SEEDS = range(50_000, 50_040)


@pytest.mark.parametrize("seed", SEEDS)
def test_what_nobody_wrote_down_is_read_right_or_asked_about(seed: int) -> None:
    table = composed(Random(seed))
    assert verdict(table) in ("right", "asked"), table.made_of


@pytest.mark.parametrize("seed", SEEDS)
def test_a_damaged_cell_changes_nothing_or_has_a_word(seed: int) -> None:
    rng = Random(seed)
    table = composed(rng, plain=True)
    if verdict(table) == "asked" and difference(read(table.data)[1], table.truth):
        return  # it can be read in two ways before
    hurt, row, cell = damaged(table, rng)
    assert has_a_word(hurt, row, cell), cell


def test_what_is_wrong_would_be_seen() -> None:
    table = next(table for seed in SEEDS if verdict(table := composed(Random(seed))) == "right")
    name, cells = next(iter(table.truth.items()))
    period = max(cells)
    assert f"{name} at {period}" in verdict(replace(table, truth={**table.truth, name: {**cells, period: -1.0}}))

"""Count what came in, with the rows behind each count."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import polars as pl

from zembra.core.arithmetic.arrays import Bools
from zembra.core.calendar.lines import Line, Received
from zembra.core.ledger.state import State

MOST_EXAMPLES = 100


@dataclass(frozen=True, slots=True)
class Example:
    """An example point.

    row: in the file, None if the period has no row
    """

    series: str
    period: str
    row: int | None
    text: str


@dataclass(frozen=True, slots=True)
class CensusCount:
    """A count.

    key: fixed name; meaning: for a reader
    """

    key: str
    label: str
    meaning: str
    count: int
    examples: tuple[Example, ...]


_KINDS: tuple[tuple[str, str, Callable[[Line], Bools]], ...] = (
    ("measured", "periods with a number", lambda line: line.received == Received.MEASURED),
    (
        "blank",
        "periods with a row and nothing in its cell, or a blank word",
        lambda line: line.received == Received.BLANK,
    ),
    ("absent", "expected periods with no row at all", lambda line: line.received == Received.ABSENT),
    (
        "unreadable",
        "cells whose text is no number; never taken for one",
        lambda line: line.received == Received.UNREADABLE,
    ),
    ("zeros", "measured values that are exactly zero", lambda line: line.original == 0),
    ("combined", "periods that several rows share", lambda line: line.row_count > 1),
)


def census(state: State) -> tuple[CensusCount, ...]:
    """Count over all lines of a calendar, and undated rows."""
    frame = state.frame
    counts = [
        _count(key, meaning, [(line, np.flatnonzero(mask(line))) for line in state.lines], state, frame)
        for key, meaning, mask in _KINDS
    ]
    counts.append(
        CensusCount(
            "marked",
            "marked",
            "numbers with a mark of a footnote or an estimate behind them; it stays in the cell text",
            sum(state.observations.marked.values()),
            (),
        )
    )
    undated = state.observations.undated
    counts.append(
        CensusCount(
            "undated",
            "undated",
            "rows left out because their date cell is empty or no date",
            state.observations.undated_count,
            tuple(Example("", "", row.row, row.text) for row in undated[:MOST_EXAMPLES]),
        )
    )
    return tuple(counts)


def _count(
    key: str, meaning: str, found: list[tuple[Line, np.ndarray]], state: State, frame: pl.DataFrame
) -> CensusCount:
    total = sum(int(places.size) for _, places in found)
    examples: list[Example] = []
    if key != "measured":
        for line, places in found:
            few = places[: MOST_EXAMPLES - len(examples)]
            for at, label in zip(few.tolist(), state.grain.labels(line.periods[few]), strict=True):
                first = int(line.first_row[at])
                row = int(frame["row"][first]) if first >= 0 else None
                text = str(frame["text"][first] or "") if first >= 0 else ""
                examples.append(Example(line.name, label, row, text))
    return CensusCount(key, key, meaning, total, tuple(examples))

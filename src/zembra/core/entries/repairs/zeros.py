"""Treat isolated zeros as blanks in series that never come near zero."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.arrays import Bools, Floats
from zembra.core.calendar.lines import Condition, Line
from zembra.core.grammar import Word
from zembra.core.ledger.entry import Group
from zembra.core.ledger.evidence import SERIES, Row, measure, period, table, text
from zembra.core.ledger.lineentry import Account, LineEntry, LineResult, rows_of
from zembra.core.ledger.registry import register
from zembra.core.ledger.state import Offer, State, Study

NEAR_ZERO = 20.0  # percent of the usual value
MOST_LISTED = 300


def doubtful_zeros(values: Floats, near: float) -> Bools:
    """Return a mask of isolated zeros in a series that otherwise stays above `near` percent of its median."""
    zero = values == 0
    others = values[~zero & ~np.isnan(values)]
    if not zero.any() or others.size < 5 or np.abs(others).min() < np.median(np.abs(others)) * near / 100:
        return np.zeros(values.size, dtype=bool)
    beside = np.concatenate(([False], zero[:-1])) | np.concatenate((zero[1:], [False]))
    return np.asarray(zero & ~beside)


def _doubtful(line: Line, near: float) -> Bools:
    """Return a mask of doubtful measured zeros; zeros that the calendar put there were decided."""
    if not (line.original == 0).any():
        return np.zeros(len(line), dtype=bool)
    return doubtful_zeros(np.where(line.condition == Condition.MEASURED, line.value, np.nan), near)


def zeros_offer(state: State) -> tuple[Offer, ...]:
    """Offer to treat doubtful zeros as blanks, if there are any."""
    found = [(line.name, int(_doubtful(line, NEAR_ZERO).sum())) for line in state.lines]
    named = [(name, count) for name, count in found if count]
    if not named:
        return ()
    total = sum(count for _, count in named)
    where = named[0][0] if len(named) == 1 else f"{len(named)} series"
    many = "zeros stand" if total > 1 else "zero stands"
    come = "never comes" if len(named) == 1 else "never come"
    why = f"{total} {many} alone in {where}, which otherwise {come} near zero."
    return (Offer(why, "Treat as blank" + ("s" if total > 1 else ""), "zeros", {}),)


@register
class Zeros(LineEntry):
    kind: ClassVar[str] = "zeros"
    group: ClassVar[Group] = Group.REPAIRS
    title: ClassVar[str] = "Zeros that are blanks"
    hint: ClassVar[str] = "Isolated zeros, in a series that never comes near zero, become open."
    rank: ClassVar[int] = 2

    near: Annotated[float, Field(title="how near zero the series may come", ge=0, le=90), Word(unit="%", step=5)] = (
        NEAR_ZERO
    )
    kept: Annotated[tuple[date, ...], Field(title="days kept as real zeros"), Word(empty="no day")] = ()

    def template(self) -> str:
        return (
            "Take a zero that stands alone for a blank, in {series}, where the series else never comes below {near} "
            "of its usual value; keep {kept} as real."
        )

    def on_line(self, line: Line, study: Study) -> LineResult:
        doubtful = _doubtful(line, self.near)
        kept = [study.grain.period(day) for day in self.kept]
        emptied = doubtful & ~np.isin(line.periods, kept)
        many = int(emptied.sum())
        made = line.marked(emptied, Condition.OPEN, study.entry_id, np.full(len(line), np.nan)) if many else None
        return LineResult(made, touched=many, rows=_listed(line, doubtful, emptied, study))

    def account(self, made: Sequence[LineResult], study: Study) -> Account:
        columns = (SERIES, period("period", "Period"), measure("before", "Before"), measure("after", "After"))
        rows = rows_of(made)[:MOST_LISTED]
        return Account("emptied", (table("Zeros that stand alone", (*columns, text("now", "Now")), rows),))


def _listed(line: Line, doubtful: Bools, emptied: Bools, study: Study) -> tuple[Row, ...]:
    at = np.flatnonzero(doubtful)[:MOST_LISTED]
    labels = study.grain.labels(line.periods[at])
    beside = [
        (float(line.value[n - 1]) if n else None, float(line.value[n + 1]) if n + 1 < len(line) else None) for n in at
    ]
    return tuple(
        (line.name, label, before, after, "blank" if emptied[n] else "kept")
        for n, label, (before, after) in zip(at, labels, beside, strict=True)
    )

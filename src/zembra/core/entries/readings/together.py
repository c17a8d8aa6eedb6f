"""Aggregate several series into one line: mean, median, sum, minimum or maximum."""

from __future__ import annotations

from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.arrays import Floats, Ints, every_of
from zembra.core.arithmetic.rolling import rolling_mean
from zembra.core.arithmetic.windows import fixed_windows
from zembra.core.calendar.lines import Line
from zembra.core.english import upper_first
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice, Word
from zembra.core.ledger.entry import Entry, Group, Needs
from zembra.core.ledger.evidence import count, measure, period, table, text
from zembra.core.ledger.registry import register
from zembra.core.ledger.shapes import TOGETHER, Curve, Shape, shape_id
from zembra.core.ledger.state import Additions, Outcome, State


class Across(Choice):
    MEAN = ("mean", "the mean")
    MEDIAN = ("median", "the middle", "median")
    SUM = ("sum", "the sum", "of those that have a number; how many those are is told")
    MIN = ("min", "the smallest")
    MAX = ("max", "the largest")

    def of(self, values: Floats) -> Floats:
        """Aggregate the rows of a table of series by periods, ignoring NaN; no column is all NaN."""
        if self is Across.MEDIAN:
            return np.asarray(np.nanmedian(values, axis=0))
        if self in (Across.MIN, Across.MAX):
            return np.asarray((np.nanmin if self is Across.MIN else np.nanmax)(values, axis=0))
        total = np.nansum(values, axis=0)
        return np.asarray(total if self is Across.SUM else total / (~np.isnan(values)).sum(axis=0))

    @property
    def noun(self) -> str:
        return self.label.removeprefix("the ")


@register
class Together(Entry):
    kind: ClassVar[str] = "together"
    group: ClassVar[Group] = Group.READINGS
    title: ClassVar[str] = "Line of several series"
    hint: ClassVar[str] = "Mean, middle, sum, smallest or largest of chosen series at each period, as one line."
    rank: ClassVar[int] = 2

    series: Annotated[tuple[str, ...], Field(title="series"), Word(options="lines", empty="every series")] = ()
    how: Annotated[Across, Field(title="what is taken")] = Across.MEAN
    need: Annotated[int, Field(title="series needed", ge=1, le=10_000)] = 1
    over: Annotated[int | None, Field(title="averaged over", ge=2, le=10_000), Word(empty="no window")] = None

    @property
    def needs(self) -> Needs:
        return Needs.ALL if self.how is Across.MEDIAN else Needs.SUMS

    def template(self) -> str:
        window = "averaged over the {over} {@periods} up to and including each" if self.over else "averaged over {over}"
        return f"Take {{how}} of {{series}} together at each {{@period}}, needing {{need}} with a number[, {window}]."

    def apply(self, state: State, entry_id: str) -> Outcome:
        lines = [state.lines[place] for place in state.chosen(self.series)]
        if len(lines) < 2:
            raise Refusal("A line of several series needs two or more.", todo="Choose more series.")
        periods, table_of = side_by_side(lines)
        counted = (~np.isnan(table_of)).sum(axis=0)
        enough = counted >= self.need
        if not enough.any():
            raise Refusal(
                f"At no {state.grain.singular} do {self.need} of these series have a number.", todo="Ask for fewer."
            )
        value = np.full(periods.size, np.nan)
        value[enough] = self.how.of(table_of[:, enough])
        if self.over:
            windows = fixed_windows(periods.size, self.over, self.over - 1)
            value = rolling_mean(value, windows, max(1, self.over * 2 // 3))
        curves = self._drawn(entry_id, lines, periods, value, counted)
        ends = np.array([np.argmin(counted), np.argmax(counted)])
        fewest, most = state.grain.labels(periods[ends])
        known = np.flatnonzero(~np.isnan(value))
        rows = (
            ("Series", len(lines), ""),
            (f"{state.grain.plural.capitalize()} with a number", int(known.size), ""),
            ("Fewest series counted", int(counted.min()), fewest),
            ("Most series counted", int(counted.max()), most),
            *((("Latest", float(value[known[-1]]), state.grain.label(int(periods[known[-1]]))),) if known.size else ()),
        )
        columns = (text("what", ""), measure("number", "Number"), period("at", "At"))
        own = tuple((line.name, int((~np.isnan(line.counted)).sum())) for line in lines)
        return Outcome(
            Additions(shapes=curves),
            int(known.size),
            "points",
            (
                table(upper_first(self._named(lines)), columns, rows),
                table("Of these", (text("series", "Series"), count("with", "With a number")), own),
            ),
        )

    def _named(self, lines: list[Line]) -> str:
        window = f", {self.over} periods" if self.over else ""
        return f"{self.how.noun} of {len(lines)} series{window}"

    def _drawn(
        self, entry_id: str, lines: list[Line], periods: Ints, value: Floats, counted: Ints
    ) -> tuple[Shape, ...]:
        name = self._named(lines)
        line = Curve(
            id=shape_id(entry_id, TOGETHER, "line"),
            entry=entry_id,
            series=TOGETHER,
            name=name,
            kind=self.kind,
            periods=periods,
            value=value,
            pale=counted < counted.max(),
        )
        how_many = Curve(
            id=shape_id(entry_id, TOGETHER, "counted"),
            entry=entry_id,
            series=TOGETHER,
            name=f"{name}, how many counted",
            kind=self.kind,
            periods=periods,
            value=counted.astype(np.float64),
            drawn=False,
        )
        return (line, how_many)


def side_by_side(lines: list[Line]) -> tuple[Ints, Floats]:
    """Return all periods of the lines, and a table of their values, NaN for none."""
    periods = every_of([line.periods for line in lines])
    table_of = np.full((len(lines), periods.size), np.nan)
    for row, line in zip(table_of, lines, strict=True):
        row[np.searchsorted(periods, line.periods)] = line.counted
    return periods, table_of

"""Hold a series against a reference line: a value, a percentile, a target."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.arrays import Bools, runs
from zembra.core.calendar.lines import Line
from zembra.core.entries.readings.clauses.levels import AnyLevel, AtValue
from zembra.core.errors import Refusal
from zembra.core.grammar import Moment, Word
from zembra.core.ledger.entry import Group
from zembra.core.ledger.evidence import SERIES, count, measure, period, table, text
from zembra.core.ledger.lineentry import Account, LineEntry, LineResult, results_in
from zembra.core.ledger.registry import register
from zembra.core.ledger.results import SeriesResult
from zembra.core.ledger.shapes import Curve, Rule, Shape, shape_id
from zembra.core.ledger.state import State, Study

MOST_STRETCHES = 200


@dataclass(frozen=True, slots=True)
class SideStretch:
    """A run of periods on one side of a line.

    first, last: periods
    farthest: the largest distance, signed
    """

    side: str
    first: int
    last: int
    periods: int
    farthest: float


@dataclass(frozen=True, slots=True)
class AgainstLine(SeriesResult):
    """A series compared with a reference line.

    level: its height, None if it varies
    above, below, on: number of periods
    stretches: long runs on one side
    """

    level: float | None
    above: int
    below: int
    on: int
    stretches: tuple[SideStretch, ...]


@register
class HeldLine(LineEntry):
    kind: ClassVar[str] = "held"
    group: ClassVar[Group] = Group.READINGS
    title: ClassVar[str] = "Line to hold against"
    hint: ClassVar[str] = "At a value, a percentile, a mean or a monthly target, with a label of your own."
    rank: ClassVar[int] = 5

    at: Annotated[AnyLevel, Field(title="where it stands", discriminator="kind")] = AtValue()
    named: Annotated[str, Field(title="label", max_length=60), Word(empty="nothing")] = ""
    least: Annotated[int, Field(title="shortest stretch told", ge=1, le=10_000)] = 3
    start: Annotated[Moment | None, Field(title="from"), Word(empty="the beginning")] = None
    end: Annotated[Moment | None, Field(title="to"), Word(empty="the end")] = None

    def template(self) -> str:
        return (
            "Draw a line at {at} of {series}, called {named}[, from {start} to {end}]"
            "[, telling stretches of {least} {@periods} or more]."
        )

    def others(self, state: State, line: Line) -> tuple[Line, ...]:
        return self.at.others(state, line)

    def on_line(self, line: Line, study: Study) -> LineResult:
        inside = study.grain.between(line.periods, self.start, self.end)
        values = np.where(inside, line.counted, np.nan)
        if np.isnan(values).all():
            raise Refusal(f"{line.name} has no number that counts there.", todo="Choose another stretch.")
        height = np.where(inside, self.at.along(values, line, study), np.nan)
        above, below = values > height, values < height
        known = height[~np.isnan(height)]
        level = float(known[0]) if self.at.steady else None
        sides = ((above, "above"), (below, "below"))
        return LineResult(
            shapes=self._drawn(line, height, level, study),
            touched=int(above.sum()),
            result=AgainstLine(
                line.name,
                level,
                int(above.sum()),
                int(below.sum()),
                int((values == height).sum()),
                tuple(run for mask, side in sides for run in self._stretches(line, values - height, mask, side)),
            ),
        )

    def account(self, made: Sequence[LineResult], study: Study) -> Account:
        columns = (
            SERIES,
            measure("level", "Line at"),
            count("above", "Above"),
            count("below", "Below"),
            count("on", "On it"),
        )
        found = results_in(made, AgainstLine)
        each = [(series.series, run) for series in found for run in series.stretches]
        labels = study.grain.labels(np.array([(run.first, run.last) for _, run in each], dtype=np.int64).ravel())
        longest = sorted(
            (
                (series, run.side, labels[2 * n], labels[2 * n + 1], run.periods, run.farthest)
                for n, (series, run) in enumerate(each)
            ),
            key=lambda row: (row[0], row[2]),
        )[:MOST_STRETCHES]
        about = (
            SERIES,
            text("side", "Side"),
            period("first", "From"),
            period("last", "To"),
            count("periods", study.grain.plural.capitalize()),
            measure("farthest", "Farthest from it"),
        )
        stretches = f"Stretches of {self.least} {study.grain.plural} or more"
        rows = [(series.series, series.level, series.above, series.below, series.on) for series in found]
        return Account(
            f"{study.grain.plural} above",
            (table(self.named or "Line to hold against", columns, rows), table(stretches, about, longest)),
        )

    @classmethod
    def suggest(cls, state: State) -> HeldLine:
        values = state.lines[0].counted if state.lines else np.array([np.nan])
        middle = float(np.nanmedian(values)) if (~np.isnan(values)).any() else 100.0
        return cls(at=AtValue(value=float(f"{middle:.3g}")), series=(state.lines[0].name,) if state.lines else ())

    def _drawn(self, line: Line, height: np.ndarray, level: float | None, study: Study) -> tuple[Shape, ...]:
        name = self.named or "line"
        curve = Curve(
            id=shape_id(study.entry_id, line.name, "line"),
            entry=study.entry_id,
            series=line.name,
            name=name,
            kind=self.kind,
            periods=line.periods,
            value=height,
            # a constant line is drawn as a rule across the chart
            drawn=level is None,
        )
        if level is None:
            return (curve,)
        rule = Rule(
            id=shape_id(study.entry_id, line.name, "rule"),
            entry=study.entry_id,
            series=line.name,
            name=name,
            value=level,
        )
        return (rule, curve)

    def _stretches(self, line: Line, away: np.ndarray, mask: Bools, side: str) -> Iterator[SideStretch]:
        """Yield runs of periods on one side; a gap ends a run."""
        for first, end in runs(mask):
            if end - first >= self.least:
                farthest = float(away[first:end][np.argmax(np.abs(away[first:end]))])
                yield SideStretch(side, int(line.periods[first]), int(line.periods[end - 1]), end - first, farthest)

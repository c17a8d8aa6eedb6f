"""Heights of a reference line as words."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.arrays import Floats
from zembra.core.calendar.lines import Line
from zembra.core.entries.shared.derived import on_periods_of
from zembra.core.entries.shared.monthly import Monthly
from zembra.core.entries.shared.others import ColumnByName, SeriesByName
from zembra.core.errors import Refusal
from zembra.core.grammar import Clause, Moment, Word
from zembra.core.ledger.state import State, Study


class Level(Clause):
    """The height of a reference line.

    steady: whether it is the same at every period
    """

    steady: ClassVar[bool] = True

    def of(self, values: Floats, line: Line, study: Study) -> float:
        """Return the height, from the values of the stretch; at least one is known."""
        raise NotImplementedError

    def others(self, state: State, line: Line) -> tuple[Line, ...]:
        """Return other lines that this line depends on. Raises Refusal."""
        return ()

    def along(self, values: Floats, line: Line, study: Study) -> Floats:
        """Return the height at every period. Raises Refusal."""
        return np.full(len(line), self.of(values[~np.isnan(values)], line, study))


class AtValue(Level):
    label: ClassVar[str] = "the value"

    kind: Literal["value"] = "value"
    value: Annotated[float, Field(title="value", allow_inf_nan=False)] = 100.0

    def template(self) -> str:
        return "{self} {value}"

    def along(self, values: Floats, line: Line, study: Study) -> Floats:
        return np.full(len(line), self.value)


class AtPercentile(Level):
    label: ClassVar[str] = "the value below which lie"
    tip: ClassVar[str] = "percentile, linear between neighbours"

    kind: Literal["percentile"] = "percentile"
    share: Annotated[float, Field(title="share that lies below", ge=0, le=100), Word(unit="%", step=5)] = 10.0

    def template(self) -> str:
        return "{self} {share}"

    def of(self, values: Floats, line: Line, study: Study) -> float:
        return float(np.percentile(values, self.share))


class AtMean(Level):
    label: ClassVar[str] = "the mean"

    kind: Literal["mean"] = "mean"
    spreads: Annotated[float, Field(title="spreads from it", ge=-10, le=10), Word(step=0.5)] = 0.0

    def template(self) -> str:
        return "{self}[ and {spreads} standard deviations (n − 1)]"

    def of(self, values: Floats, line: Line, study: Study) -> float:
        spread = float(values.std(ddof=1)) if values.size > 1 and self.spreads else 0.0
        return float(values.mean()) + self.spreads * spread


class AtMedian(Level):
    label: ClassVar[str] = "the median"

    kind: Literal["median"] = "median"

    def of(self, values: Floats, line: Line, study: Study) -> float:
        return float(np.median(values))


class AtSmallest(Level):
    label: ClassVar[str] = "the smallest value"

    kind: Literal["min"] = "min"

    def of(self, values: Floats, line: Line, study: Study) -> float:
        return float(values.min())


class AtLargest(Level):
    label: ClassVar[str] = "the largest value"

    kind: Literal["max"] = "max"

    def of(self, values: Floats, line: Line, study: Study) -> float:
        return float(values.max())


class AtLast(Level):
    label: ClassVar[str] = "the last value"

    kind: Literal["last"] = "last"

    def of(self, values: Floats, line: Line, study: Study) -> float:
        return float(values[-1])


class AtDay(Level):
    label: ClassVar[str] = "the value of"

    kind: Literal["day"] = "day"
    day: Annotated[Moment | None, Field(title="day"), Word(empty="no day yet")] = None

    def template(self) -> str:
        return "{self} {day}"

    def along(self, values: Floats, line: Line, study: Study) -> Floats:
        if self.day is None:
            raise Refusal("No day is given whose value the line stands at.", todo="Choose one.")
        first, last = study.grain.span(self.day)
        there = np.flatnonzero((line.periods >= first) & (line.periods <= last) & ~np.isnan(line.counted))
        if not there.size:
            raise Refusal(f"{line.name} has no number that counts on that day.", todo="Choose another one.")
        return np.full(len(line), float(line.counted[there[0]]))


class ByMonth(Monthly, Level):
    steady: ClassVar[bool] = False

    def along(self, values: Floats, line: Line, study: Study) -> Floats:
        return self.targets(line, study)


class _AtLine(Level):
    """A reference that follows another line."""

    steady: ClassVar[bool] = False

    def along(self, values: Floats, line: Line, study: Study) -> Floats:
        return on_periods_of(line, study.others[0]).countable(provisional=True)


class AtSeries(SeriesByName, _AtLine):
    needed: ClassVar[str] = "for the line"


class AtColumn(ColumnByName, _AtLine):
    tip: ClassVar[str] = "a target that stands beside the numbers"


AnyLevel = (
    AtValue | AtPercentile | AtMean | AtMedian | AtSmallest | AtLargest | AtLast | AtDay | ByMonth | AtSeries | AtColumn
)

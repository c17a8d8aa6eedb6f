"""References that a series is set against."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.arrays import Floats
from zembra.core.calendar.lines import Line
from zembra.core.entries.shared.derived import on_periods_of
from zembra.core.entries.shared.monthly import Monthly
from zembra.core.entries.shared.others import ColumnByName, SeriesByName
from zembra.core.grammar import Clause
from zembra.core.ledger.state import State, Study


class HeldAgainst(Clause):
    @property
    def name(self) -> str:
        """The name of the reference in the name of the result."""
        return "target"

    def others(self, state: State, line: Line) -> tuple[Line, ...]:
        """Return other lines that this line depends on. Raises Refusal."""
        return ()

    def numbers(self, line: Line, study: Study) -> tuple[Floats, tuple[Line, ...]]:
        """Return the reference values on the periods of `line`, and the lines they come from.

        study: `others` holds the reference line, if there is one
        """
        other = on_periods_of(line, study.others[0])
        return other.countable(provisional=True), (other,)


class OtherSeries(SeriesByName, HeldAgainst):
    needed: ClassVar[str] = "to set it against"

    @property
    def name(self) -> str:
        return self.other or "target"


class Target(HeldAgainst):
    label: ClassVar[str] = "the target"

    kind: Literal["number"] = "number"
    number: Annotated[float, Field(title="target", allow_inf_nan=False)] = 100.0

    def template(self) -> str:
        return "{self} {number}"

    def numbers(self, line: Line, study: Study) -> tuple[Floats, tuple[Line, ...]]:
        return np.full(len(line), self.number), ()


class MonthlyTargets(Monthly, HeldAgainst):
    def numbers(self, line: Line, study: Study) -> tuple[Floats, tuple[Line, ...]]:
        return self.targets(line, study), ()


class OtherColumn(ColumnByName, HeldAgainst):
    @property
    def name(self) -> str:
        return self.measure or "target"


Against = OtherSeries | Target | MonthlyTargets | OtherColumn

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
        """What it is called in the name of what comes out."""
        return "target"

    def others(self, state: State, line: Line) -> tuple[Line, ...]:
        """The other lines it needs for this one. Raises Refusal."""
        return ()

    def numbers(self, line: Line, study: Study) -> tuple[Floats, tuple[Line, ...]]:
        """(the numbers set against, the lines that they come from), on the periods of `line`. study.others: the
        line set against, where it is one."""
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

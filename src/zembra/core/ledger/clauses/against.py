"""What a series is set against."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from zembra.core.arrays import Floats
from zembra.core.grammar import Clause, Word
from zembra.core.ledger.clauses.monthly import Monthly
from zembra.core.ledger.derived import on_periods_of
from zembra.core.ledger.state import Study
from zembra.core.lines import Line


class HeldAgainst(Clause):
    @property
    def name(self) -> str:
        """What it is called in the name of what comes out."""
        return "target"

    def numbers(self, line: Line, study: Study) -> tuple[Floats, tuple[Line, ...]]:
        """(the numbers set against, the lines that they come from), on the periods of `line`. study.others: the
        line set against, where it is one."""
        other = on_periods_of(line, study.others[0])
        return other.countable(provisional=True), (other,)


class OtherSeries(HeldAgainst):
    label: ClassVar[str] = "the series"

    kind: Literal["series"] = "series"
    other: Annotated[str | None, Field(title="the other series"), Word(options="lines", empty="none yet")] = None

    def template(self) -> str:
        return "{self} {other}"

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


class OtherColumn(HeldAgainst):
    label: ClassVar[str] = "another column of the file,"

    kind: Literal["measure"] = "measure"
    measure: Annotated[str | None, Field(title="column"), Word(options="measures", empty="none yet")] = None

    def template(self) -> str:
        return "{self} {measure}"

    @property
    def name(self) -> str:
        return self.measure or "target"


Against = OtherSeries | Target | MonthlyTargets | OtherColumn

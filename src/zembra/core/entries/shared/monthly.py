"""A target for each month of the year."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field, field_validator

from zembra.core.arithmetic.arrays import Floats
from zembra.core.calendar.lines import Line
from zembra.core.grammar import Clause
from zembra.core.ledger.state import Study


class Monthly(Clause):
    label: ClassVar[str] = "a target for each month,"
    tip: ClassVar[str] = "twelve numbers, January first"

    kind: Literal["months"] = "months"
    months: Annotated[tuple[float, ...], Field(title="twelve targets, January first")] = (100.0,) * 12

    @field_validator("months")
    @classmethod
    def _a_year(cls, months: tuple[float, ...]) -> tuple[float, ...]:
        if len(months) != 12 or not all(np.isfinite(months)):
            raise ValueError("twelve numbers are needed, January first")
        return months

    def template(self) -> str:
        return "{self} {months}"

    def targets(self, line: Line, study: Study) -> Floats:
        """Return the target of each period."""
        return np.asarray(self.months)[study.grain.months(line.periods)]

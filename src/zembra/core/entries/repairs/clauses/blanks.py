"""Treatments of missing numbers."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.arrays import Bools, Floats
from zembra.core.arithmetic.fills import carried_back, carried_on, interpolated, neighbour_mean, seasonal_usual
from zembra.core.calendar.grain import Unit
from zembra.core.calendar.lines import Condition, Line
from zembra.core.calendar.seasons import even_row
from zembra.core.grammar import Clause, Word
from zembra.core.ledger.state import Study


class BlankFate(Clause):
    """A treatment of missing numbers.

    done: the past participle for its count
    """

    done: ClassVar[str] = "filled"

    def values(self, line: Line, study: Study) -> Floats | None:
        """Return an estimate for each point with NaN for none, or None if nothing is estimated."""
        return None

    def treated(self, line: Line, where: Bools, values: Floats | None, study: Study) -> Line:
        return line.marked(where, Condition.FILLED, study.entry_id, values)


class LeftOpen(BlankFate):
    label: ClassVar[str] = "Leave open"
    tip: ClassVar[str] = "the line stops"
    done: ClassVar[str] = "left open"

    kind: Literal["open"] = "open"

    def treated(self, line: Line, where: Bools, values: Floats | None, study: Study) -> Line:
        return line.marked(where, Condition.OPEN, study.entry_id)


class Bridged(BlankFate):
    label: ClassVar[str] = "Bridge"
    tip: ClassVar[str] = "drawn across, dashed; adds no value"
    done: ClassVar[str] = "bridged"

    kind: Literal["bridge"] = "bridge"

    def treated(self, line: Line, where: Bools, values: Floats | None, study: Study) -> Line:
        return line.marked(where, Condition.OPEN, study.entry_id, bridged=True)


class FilledStraight(BlankFate):
    label: ClassVar[str] = "Fill on a straight line"
    tip: ClassVar[str] = "linear interpolation"

    kind: Literal["straight"] = "straight"

    def values(self, line: Line, study: Study) -> Floats:
        return interpolated(line.counted, line.periods if study.grain.unit is Unit.MOMENT else None)


class CarriedOn(BlankFate):
    label: ClassVar[str] = "Carry the last value on"
    tip: ClassVar[str] = "last observation carried forward"

    kind: Literal["carry-on"] = "carry-on"

    def values(self, line: Line, study: Study) -> Floats:
        return carried_on(line.counted)


class CarriedBack(BlankFate):
    label: ClassVar[str] = "Carry the next value back"
    tip: ClassVar[str] = "next observation carried backward"

    kind: Literal["carry-back"] = "carry-back"

    def values(self, line: Line, study: Study) -> Floats:
        return carried_back(line.counted)


class FilledSeasonal(BlankFate):
    label: ClassVar[str] = "Fill with the seasonal usual"
    tip: ClassVar[str] = "median of the same place of the neighbouring seasons"

    kind: Literal["seasonal"] = "seasonal"
    season: Annotated[int, Field(title="season length", ge=2, le=10_000), Word(usual="season")] = 7
    need: Annotated[int, Field(title="seasons needed", ge=1, le=8)] = 2

    def template(self) -> str:
        return "{self} of {season} {@periods}, needing {need} seasons"

    def values(self, line: Line, study: Study) -> Floats:
        row = even_row(study.expected, line.periods)
        return row.gather(seasonal_usual(row.spread(line.counted), self.season, self.need))


class FilledFromNeighbours(BlankFate):
    label: ClassVar[str] = "Fill with the average of the neighbours"
    tip: ClassVar[str] = "mean within a few periods on either side"

    kind: Literal["neighbours"] = "neighbours"
    reach: Annotated[int, Field(title="how far the neighbours reach", ge=1, le=1000)] = 2

    def template(self) -> str:
        return "{self} within {reach} {@periods}"

    def values(self, line: Line, study: Study) -> Floats:
        return neighbour_mean(line.counted, self.reach)


class FilledFixed(BlankFate):
    label: ClassVar[str] = "Fill with a fixed value"
    tip: ClassVar[str] = "a constant"

    kind: Literal["fixed"] = "fixed"
    value: Annotated[float, Field(title="fixed value", allow_inf_nan=False)] = 0.0

    def template(self) -> str:
        return "{self}, {value}"

    def values(self, line: Line, study: Study) -> Floats:
        return np.full(len(line), self.value)


class CountedZero(BlankFate):
    label: ClassVar[str] = "Count as zero"
    tip: ClassVar[str] = "a zero that is marked as filled"

    kind: Literal["zero"] = "zero"

    def values(self, line: Line, study: Study) -> Floats:
        return np.zeros(len(line))


Treatment = (
    LeftOpen
    | Bridged
    | FilledStraight
    | CarriedOn
    | CarriedBack
    | FilledSeasonal
    | FilledFromNeighbours
    | FilledFixed
    | CountedZero
)

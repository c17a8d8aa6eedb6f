"""Windows of averages and bands as words."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, ClassVar, Literal, Self

import numpy as np
from pydantic import Field, ModelWrapValidatorHandler, PrivateAttr, model_validator

from zembra.core.arithmetic.arrays import Ints, Moments
from zembra.core.arithmetic.windows import Windows, fixed_windows, free_windows
from zembra.core.calendar.grain import COARSENESS, Grain, Unit
from zembra.core.calendar.lines import Line
from zembra.core.calendar.months import CalendarUnit, DayOrLonger, shifted
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice, Clause
from zembra.core.ledger.state import Study


class Reach(Choice):
    TRAILING = ("trailing", "up to and including", "trailing window")
    CENTRED = (
        "centred",
        "centred on",
        "centred window; the mean over an even one reaches one further, with half the weight at both ends",
    )
    LEADING = ("leading", "from each on, starting with", "leading window")

    def before(self, window: int) -> int:
        """Return the number of window periods before the point."""
        return {Reach.TRAILING: window - 1, Reach.CENTRED: window // 2, Reach.LEADING: 0}[self]

    @property
    def lying(self) -> str:
        """A word that distinguishes windows of one length; empty for trailing ones."""
        return {Reach.TRAILING: "", Reach.CENTRED: ", centred", Reach.LEADING: ", from each on"}[self]


OneWay = Literal[Reach.TRAILING, Reach.LEADING]


class AtEnds(Choice):
    """The rule for windows cut at an end of the line or at a level shift."""

    THERE = ("there", "with windows cut at the ends", "of whatever is there; drawn paler")
    FULL = ("full", "only where the window is full")


class WindowClause(Clause):
    def windows(self, line: Line, study: Study) -> Windows:
        """Return a window for each point. Raises Refusal."""
        raise NotImplementedError

    def named(self, period: str, what: str) -> str:
        """Return a short name of the statistic: "28-day average"."""
        raise NotImplementedError

    def size(self, grain: Grain) -> str:
        """Return the size in words: "28 days"."""
        raise NotImplementedError

    @property
    def lowered(self) -> tuple[str, ...]:
        """The warning that fewer values are needed than asked for."""
        return ()


Need = Annotated[int, Field(title="values needed", ge=1, le=10_000)]
Ends = Annotated[AtEnds, Field(title="at the ends")]


class Window(WindowClause):
    label: ClassVar[str] = "counted in periods"

    kind: Literal["periods"] = "periods"
    length: Annotated[int, Field(title="window", ge=2, le=10_000)] = 28
    reach: Annotated[Reach, Field(title="where the window lies")] = Reach.TRAILING
    need: Need = 20
    ends: Ends = AtEnds.THERE

    _asked: int | None = PrivateAttr(None)

    @model_validator(mode="wrap")
    @classmethod
    def _need_fits(cls, data: Any, handler: ModelWrapValidatorHandler[Self]) -> Self:
        """Lower `need` to the length of the window."""
        asked = data.get("need") if isinstance(data, Mapping) else None
        length = data.get("length", cls.model_fields["length"].default) if isinstance(data, Mapping) else None
        if isinstance(asked, int) and isinstance(length, int) and asked > length >= 1:
            made = handler({**data, "need": length})
            made._asked = asked
            return made
        return handler(data)

    def template(self) -> str:
        return "the {length} {@periods} {reach} each {@period}, needing {need} with a number[, {ends}][, {self}]"

    def size(self, grain: Grain) -> str:
        return f"{self.length} {grain.plural}"

    @property
    def lowered(self) -> tuple[str, ...]:
        if self._asked is None:
            return ()
        return (f"{self._asked} of {self.length} cannot be needed: all {self.need} are.",)

    def named(self, period: str, what: str) -> str:
        return f"{self.length}-{period} {what}{self.reach.lying}"

    def windows(self, line: Line, study: Study) -> Windows:
        before = self.reach.before(self.length)
        return fixed_windows(len(line), self.length, before, line.cuts, centred=self.reach is Reach.CENTRED)


class CalendarWindow(WindowClause):
    label: ClassVar[str] = "counted in calendar time"
    tip: ClassVar[str] = "so that February is a month, and a week of hours a week"

    kind: Literal["calendar"] = "calendar"
    length: Annotated[int, Field(title="window", ge=1, le=1000)] = 3
    unit: Annotated[DayOrLonger, Field(title="calendar unit")] = CalendarUnit.MONTH
    reach: Annotated[OneWay, Field(title="where the window lies")] = Reach.TRAILING
    need: Need = 20
    ends: Ends = AtEnds.THERE

    def template(self) -> str:
        return "the {length} {unit} {reach} each {@period}, needing {need} with a number[, {ends}], {self}"

    def size(self, grain: Grain) -> str:
        return f"{self.length} {self.unit.label}"

    def named(self, period: str, what: str) -> str:
        ahead = ", from each on" if self.reach is Reach.LEADING else ""
        return f"{self.length}-{self.unit.value} {what}{ahead}"

    def windows(self, line: Line, study: Study) -> Windows:
        grain = study.grain
        if grain.unit is not Unit.MOMENT and COARSENESS[grain.unit] > COARSENESS[Unit(self.unit.value)]:
            raise Refusal(
                f"{self.size(grain)} hold no {grain.singular}.", todo="Choose a longer window, or count in periods."
            )
        starts = _in_order(grain.days(line.periods))
        ends = starts + 1 if grain.unit is Unit.MOMENT else _in_order(grain.days(line.periods + 1))
        places = np.arange(len(line), dtype=np.int64)
        if self.reach is Reach.TRAILING:
            since = shifted(ends, -self.length, self.unit)
            first: Ints = np.searchsorted(starts, since).astype(np.int64)
            whole = since >= starts[:1] if len(line) else np.zeros(0, dtype=bool)
            return free_windows(first, places + 1, np.asarray(whole), line.cuts)
        until = shifted(starts, self.length, self.unit)
        end: Ints = np.searchsorted(starts, until).astype(np.int64)
        whole = until <= ends[-1:] if len(line) else np.zeros(0, dtype=bool)
        return free_windows(places, end, np.asarray(whole), line.cuts)


def _in_order(wall: Moments) -> Moments:
    """Return local times made monotonic: when the clock is put back, they stand still."""
    return np.maximum.accumulate(wall.astype("datetime64[s]"))


AnyWindow = Window | CalendarWindow


def usual_window(period: str) -> Window:
    """Return the window first offered for a grain."""
    length, need = {"day": (28, 20), "week": (8, 6), "month": (12, 9), "quarter": (4, 3)}.get(period, (5, 3))
    return Window(length=length, need=need)

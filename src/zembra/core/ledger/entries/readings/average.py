"""The moving average."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Annotated, Any, ClassVar, Self

import numpy as np
from pydantic import Field, ModelWrapValidatorHandler, PrivateAttr, model_validator

from zembra.core.arithmetic.windows import moving_average, touches
from zembra.core.arrays import Bools, Floats
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice, Nouns, Word
from zembra.core.ledger.entry import Entry, Group, register
from zembra.core.ledger.state import Outcome, State, Table
from zembra.core.lines import Drawn, Line


class Reach(Choice):
    TRAILING = ("trailing", "up to and including", "trailing window")
    CENTRED = ("centred", "centred on", "centred window; an even window leans one period back")
    LEADING = ("leading", "from each on, starting with", "leading window")

    def before(self, window: int) -> int:
        """How many periods of the window lie before the point."""
        return {Reach.TRAILING: window - 1, Reach.CENTRED: window // 2, Reach.LEADING: 0}[self]


class Tail(Choice):
    """What becomes of the average over provisional periods."""

    STOP = ("stop", "stop")
    FADED = ("faded", "go on faded", "provisional periods are not counted, the line goes on")
    COUNTED = ("counted", "go on faded and count them", "provisional periods are counted")


@register
class Average(Entry):
    kind: ClassVar[str] = "average"
    group: ClassVar[Group] = Group.READINGS
    title: ClassVar[str] = "Moving average"
    hint: ClassVar[str] = "The mean over a window of periods; blanks and set-aside points are not counted."
    rank: ClassVar[int] = 1

    window: Annotated[int, Field(title="window", ge=2, le=10_000)] = 28
    reach: Annotated[Reach, Field(title="where the window lies")] = Reach.TRAILING
    need: Annotated[int, Field(title="values needed", ge=1, le=10_000)] = 20
    series: Annotated[tuple[str, ...], Field(title="series"), Word(options="lines", empty="every series")] = ()
    tail: Annotated[Tail, Field(title="over provisional periods")] = Tail.STOP

    _asked: int | None = PrivateAttr(None)

    @model_validator(mode="wrap")
    @classmethod
    def _need_fits(cls, data: Any, handler: ModelWrapValidatorHandler[Self]) -> Self:
        """No more values can be needed than a window holds: fewer are, and the entry says so."""
        asked = data.get("need") if isinstance(data, Mapping) else None
        window = data.get("window", cls.model_fields["window"].default) if isinstance(data, Mapping) else None
        if isinstance(asked, int) and isinstance(window, int) and asked > window >= 1:
            made = handler({**data, "need": window})
            made._asked = asked
            return made
        return handler(data)

    @property
    def _lowered(self) -> list[str]:
        if self._asked is None:
            return []
        return [f"{self._asked} of {self.window} cannot be needed: all {self.need} are."]

    def template(self) -> str:
        return "Average the {window} {@periods} {reach} each {@period} of {series}, needing {need} with a number[, and {tail} where {@periods} are provisional]."

    def label(self, nouns: Nouns) -> str:
        return f"{self.window}-{nouns['period']} average{self._lying}"

    @property
    def _lying(self) -> str:
        """What tells windows of one length apart; one up to each period is the usual one."""
        return {Reach.TRAILING: "", Reach.CENTRED: ", centred", Reach.LEADING: ", from each on"}[self.reach]

    def apply(self, state: State, by: str) -> Outcome:
        drawn = []
        rows: list[tuple[str, int, int, float | None]] = []
        points = 0
        warnings = self._lowered
        for place in state.chosen(self.series):
            line = state.lines[place]
            mean, faded = self._averaged(line)
            warnings.extend(self._stopped(state, line, mean))
            has = ~np.isnan(mean)
            count = int(has.sum())
            points += count
            last = float(mean[has][-1]) if count else None
            rows.append((line.name, count, int(has.size - count), last))
            drawn.append(Drawn(line.name, self.label(state.nouns), self.kind, by, line.periods, mean, faded=faded))
        if not points:
            raise Refusal(
                f"No {state.grain.singular} has {self.need} numbers within {self.window} {state.grain.plural}.",
                todo="Ask for fewer values, or widen the window.",
            )
        evidence = Table(
            self.label(state.nouns).capitalize(),
            ("Series", "Points", f"Too few of {self.window}", "Latest average"),
            tuple(rows),
        )
        return Outcome(replace(state, drawn=(*state.drawn, *drawn)), points, "points", (evidence,), tuple(warnings))

    def _averaged(self, line: Line) -> tuple[Floats, Bools | None]:
        """(the average, where it is faded)."""
        before, cuts = self.reach.before(self.window), line.cuts
        counts = self.tail is Tail.COUNTED
        mean, _ = moving_average(line.countable(provisional=counts), self.window, before, self.need, cuts)
        if not line.provisional.any():
            return mean, None
        if self.tail is Tail.STOP:
            return np.where(line.provisional, np.nan, mean), None
        return mean, touches(line.provisional, self.window, before, cuts) if counts else line.provisional

    def _stopped(self, state: State, line: Line, mean: Floats) -> list[str]:
        """Why a line that was to go on faded stops all the same."""
        if self.tail is not Tail.FADED:
            return []
        short = np.flatnonzero(line.provisional & np.isnan(mean))
        if not short.size:
            return []
        periods = state.nouns["periods"]
        return [
            f"{line.name} stops at {state.grain.label(int(line.periods[short[0]]))}: from there on fewer than {self.need} "
            f"of {self.window} {periods} count, as provisional ones do not. Needing fewer would let it go on."
        ]

    @classmethod
    def suggest(cls, state: State) -> Average:
        window, need = {"day": (28, 20), "week": (8, 6), "month": (12, 9), "quarter": (4, 3)}.get(
            state.grain.singular, (5, 3)
        )
        return cls(window=window, need=need)

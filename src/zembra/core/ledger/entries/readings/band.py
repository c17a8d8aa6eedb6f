"""A band of standard deviations either side of a moving average, over the same window."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.windows import moving_spread
from zembra.core.errors import Refusal
from zembra.core.grammar import Nouns, Word
from zembra.core.ledger.entries.readings.average import Average, Tail
from zembra.core.ledger.entry import register
from zembra.core.ledger.state import Cell, Outcome, State, Table
from zembra.core.lines import Drawn, Limits


@register
class Band(Average):
    kind: ClassVar[str] = "band"
    title: ClassVar[str] = "Band"
    hint: ClassVar[str] = "Standard deviations either side of a moving average, over the same window."
    rank: ClassVar[int] = 2

    times: Annotated[float, Field(title="standard deviations", gt=0, le=10), Word(step=0.5)] = 2.0

    def template(self) -> str:
        return (
            "Shade {times} standard deviations (n − 1) either side of the average of the {window} {@periods} {reach} each "
            "{@period} of {series}, needing {need} with a number[, and {tail} where {@periods} are provisional]."
        )

    def label(self, nouns: Nouns) -> str:
        return f"{self.window}-{nouns['period']} band{self._lying}"

    def apply(self, state: State, by: str) -> Outcome:
        drawn: list[Drawn] = []
        rows: list[tuple[Cell, ...]] = []
        points = 0
        warnings = self._lowered
        # the coverage of such a band if the spread were normal; what was found stands in Evidence
        level = round(100 * math.erf(self.times / math.sqrt(2)), 1)
        for place in state.chosen(self.series):
            line = state.lines[place]
            mean, faded = self._averaged(line)
            warnings.extend(self._stopped(state, line, mean))
            values = line.countable(provisional=self.tail is Tail.COUNTED)
            spread = moving_spread(values, self.window, self.reach.before(self.window), self.need, line.cuts)
            lower, upper = mean - self.times * spread, mean + self.times * spread
            limits = (Limits(level, lower, upper),)
            drawn.append(
                Drawn(line.name, self.label(state.nouns), self.kind, by, line.periods, mean, limits, faded=faded)
            )
            judged = ~np.isnan(lower) & ~np.isnan(values)
            inside = int(((values >= lower) & (values <= upper))[judged].sum())
            count = int(judged.sum())
            points += count
            rows.append((line.name, count, inside, 100 * inside / count if count else None, level))
        if not points:
            raise Refusal(
                f"No {state.grain.singular} has {max(2, self.need)} numbers within {self.window} {state.grain.plural}.",
                todo="Ask for fewer values, or widen the window.",
            )
        columns = ("Series", "Points judged", "Inside", "Inside, %", "Inside if the spread were normal, %")
        evidence = Table(self.label(state.nouns).capitalize(), columns, tuple(rows))
        return Outcome(replace(state, drawn=(*state.drawn, *drawn)), points, "points", (evidence,), tuple(warnings))

"""Where the lines come from: the measure, the series, and how rows of one period combine."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, ClassVar

from pydantic import Field

from zembra.core.calendar.complete import Combine
from zembra.core.errors import Refusal
from zembra.core.grammar import Word
from zembra.core.intake.observe import EVENTS
from zembra.core.ledger.entry import Entry, Group, register
from zembra.core.ledger.state import Outcome, Selection, State

# Words in a column's name that say its numbers are levels or rates, which must not be added up.
_RATE_WORDS = ("price", "rate", "share", "percent", "%", "ratio", "average", "mean", "temperature", "level", "per ")


@register
class Source(Entry):
    kind: ClassVar[str] = "source"
    group: ClassVar[Group] = Group.SOURCE
    title: ClassVar[str] = "Source"
    hint: ClassVar[str] = "Choose what is measured, which series are in the study, and how rows combine."
    once: ClassVar[bool] = True

    combine: Annotated[Combine, Field(title="how rows of one period combine")] = Combine.SUM
    measure: Annotated[str | None, Field(title="what is measured"), Word(options="measures", empty="the numbers")] = (
        None
    )
    series: Annotated[
        tuple[str, ...], Field(title="series in the study"), Word(options="series", empty="every series")
    ] = ()

    def template(self) -> str:
        return "Each {@period} {combine} {measure} from {@file} for {series}."

    def apply(self, state: State, by: str) -> Outcome:
        measures = state.observations.measures
        measure = self.measure or measures[0]
        if measure not in measures:
            raise Refusal(
                f"The file has no measure named “{measure}”.",
                place=f"the measures are {', '.join(measures)}",
                todo="Choose one of these.",
            )
        known = state.observations.series
        for name in self.series:
            if name not in known:
                raise Refusal(
                    f"The file has no series named “{name}”.",
                    place=f"the series are {', '.join(known[:12])}",
                    todo="Choose one of these.",
                )
        series = self.series or known
        frame = state.observations.frames[measure]
        selection = Selection(measure, series, self.combine.value)
        return Outcome(replace(state, selection=selection), frame.height, "rows")

    @classmethod
    def suggest(cls, state: State) -> Source:
        measure = state.observations.measures[0]
        rate = any(word in measure.lower() for word in _RATE_WORDS)
        if measure == EVENTS:
            return cls(combine=Combine.COUNT, measure=measure)
        return cls(combine=Combine.MEAN if rate else Combine.SUM, measure=measure)

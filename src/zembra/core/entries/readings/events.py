"""Events: named days or stretches, typed or uploaded."""

from __future__ import annotations

from datetime import date
from typing import Annotated, ClassVar

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, model_validator

from zembra.core.arithmetic.arrays import Ints, every_of
from zembra.core.errors import Refusal
from zembra.core.grammar import Word
from zembra.core.ledger.entry import Entry, Group
from zembra.core.ledger.events import Happening
from zembra.core.ledger.evidence import count, measure, period, table, text
from zembra.core.ledger.registry import register
from zembra.core.ledger.shapes import TOGETHER, Flags, shape_id
from zembra.core.ledger.state import Additions, Outcome, State

MOST_EVENTS = 500


class Event(BaseModel):
    """A named day, or named stretch of days."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)

    on: date
    until: date | None = None
    name: Annotated[str, Field(min_length=1, max_length=80)]

    @model_validator(mode="after")
    def _in_order(self) -> Event:
        if self.until is not None and self.until < self.on:
            raise ValueError(f"the event {self.name} ends on {self.until}, before it begins on {self.on}")
        return self


@register
class Events(Entry):
    kind: ClassVar[str] = "events"
    group: ClassVar[Group] = Group.READINGS
    title: ClassVar[str] = "Events"
    hint: ClassVar[str] = "Days or stretches with a name, typed or from a file, as flags at the foot of the chart."
    rank: ClassVar[int] = 0

    events: Annotated[
        tuple[Event, ...],
        Field(title="events: date, until, name", max_length=MOST_EVENTS),
        Word(empty="none yet", type="events"),
    ] = ()

    def template(self) -> str:
        return "Flag these events: {events}."

    def apply(self, state: State, entry_id: str) -> Outcome:
        if not self.events:
            raise Refusal(
                "No event is given.", todo="Type one a line: 2026-03-14, 2026-03-16, storm. Or bring in a file."
            )
        happenings = sorted(self._happening(event, state) for event in self.events)
        flags = Flags(
            id=shape_id(entry_id, TOGETHER, "flags"),
            entry=entry_id,
            series=TOGETHER,
            name="events",
            first=_column([happening.first for happening in happenings]),
            last=_column([happening.last for happening in happenings]),
            names=tuple(happening.name for happening in happenings),
        )
        every = every_of([line.periods for line in state.lines])
        covered = [
            int(np.count_nonzero((every >= happening.first) & (every <= happening.last))) for happening in happenings
        ]
        columns = (
            text("event", "Event"),
            period("first", "From"),
            period("last", "To"),
            count("periods", state.grain.plural.capitalize()),
            *(measure(line.name, f"Mean of {line.name}") for line in state.lines[:4]),
        )
        rows = tuple(
            (
                happening.name,
                *state.grain.labels(_column([happening.first, happening.last])),
                many,
                *(_mean_within(happening, line.periods, line.counted) for line in state.lines[:4]),
            )
            for happening, many in zip(happenings, covered, strict=True)
        )
        outside = [happening.name for happening, many in zip(happenings, covered, strict=True) if not many]
        warnings = (f"No {state.grain.singular} of the study lies within: {', '.join(outside)}.",) if outside else ()
        adds = Additions(shapes=(flags,), events=tuple(happenings))
        return Outcome(adds, sum(covered), state.grain.plural, (table("Events", columns, rows),), warnings=warnings)

    def _happening(self, event: Event, state: State) -> Happening:
        first = state.grain.span(event.on)[0]
        return Happening(first, state.grain.span(event.until or event.on)[1], event.name)


def _column(periods: list[int]) -> Ints:
    return np.array(periods, dtype=np.int64)


def _mean_within(happening: Happening, periods: Ints, values: np.ndarray) -> float | None:
    known = values[(periods >= happening.first) & (periods <= happening.last) & ~np.isnan(values)]
    return float(known.mean()) if known.size else None

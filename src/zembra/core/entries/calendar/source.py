"""Choose the measure and the series, and combine rows of one period."""

from __future__ import annotations

from typing import Annotated, ClassVar

import polars as pl
from pydantic import Field

from zembra.core.calendar.complete import Combine
from zembra.core.calendar.nature import Nature, nature_of
from zembra.core.entries.shared.column import LOOKED_AT, nature_of_measure
from zembra.core.errors import Refusal
from zembra.core.grammar import Word
from zembra.core.intake.observe import EVENTS, Observations
from zembra.core.ledger.entry import Entry, Group
from zembra.core.ledger.registry import register
from zembra.core.ledger.state import Additions, Offer, Outcome, Selection, State

MOST_LOOKED_AT = 400  # columns that are told apart by what they measure


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

    averaged: Annotated[
        tuple[str, ...], Field(title="series that are averaged"), Word(options="series", empty="none")
    ] = ()
    last_of: Annotated[
        tuple[str, ...], Field(title="series of which the last counts"), Word(options="series", empty="none")
    ] = ()

    def template(self) -> str:
        apart = ", but averages {averaged}" if self.averaged else ""
        apart += f"{' and' if apart else ', but'} takes the last of {{last_of}}" if self.last_of else ""
        return f"Each {{@period}} {{combine}} {{measure}} from {{@file}} for {{series}}{apart}."

    def apply(self, state: State, entry_id: str) -> Outcome:
        measures = state.observations.measures
        measure = self.measure or measures[0]
        if measure not in measures:
            raise Refusal(
                f"The file has no measure named “{measure}”.",
                place=f"the measures are {', '.join(measures)}",
                todo="Choose one of these.",
            )
        known = state.observations.series
        for name in (*self.series, *self.averaged, *self.last_of):
            if name not in known:
                raise Refusal(
                    f"The file has no series named “{name}”.",
                    place=f"the series are {', '.join(known[:12])}",
                    todo="Choose one of these.",
                )
        series = self.series or known
        frame = state.observations.frames[measure]
        exceptions = dict.fromkeys(self.averaged, Combine.MEAN) | dict.fromkeys(self.last_of, Combine.LAST)
        selection = Selection(measure, series, self.combine, exceptions)
        offers = self._other_combine(state, measure) if self.combine is Combine.SUM and not exceptions else ()
        return Outcome(Additions(selection=selection), frame.height, "rows", offers=offers)

    def _other_combine(self, state: State, measure: str) -> tuple[Offer, ...]:
        """Warn of a rate or a stock whose rows would be summed."""
        if not _shared(state.observations.frames[measure]):
            return ()
        found = natures(state.observations, measure)
        if len(found) > 1:
            return ()
        (nature,) = found.values()
        if nature.combine is Combine.SUM:
            return ()
        words = {"combine": nature.combine.value}
        sentence = f"{measure} looks like {nature.looks}, which is not added up."
        action = "Average it" if nature.combine is Combine.MEAN else "Take the last"
        return (Offer(sentence, action, self.kind, words, change=True),)

    @classmethod
    def suggest(cls, state: State) -> Source:
        measure = state.observations.measures[0]
        if measure == EVENTS:
            return cls(combine=Combine.COUNT, measure=measure)
        found = natures(state.observations, measure)
        kinds = {nature.combine for nature in found.values()}
        if len(kinds) == 1:
            return cls(combine=kinds.pop(), measure=measure)
        named = {how: tuple(name for name, combine in found.items() if combine.combine is how) for how in kinds}
        return cls(
            combine=Combine.SUM if Combine.SUM in kinds else Combine.MEAN,
            measure=measure,
            averaged=named.get(Combine.MEAN, ()) if Combine.SUM in kinds else (),
            last_of=named.get(Combine.LAST, ()),
        )


def natures(observations: Observations, measure: str) -> dict[str, Nature]:
    """Return what each series of a measure looks like: single columns by their own names, others all alike."""
    frame = observations.frames[measure]
    if not observations.columns or len(observations.columns) < 2:
        return {measure: nature_of_measure(observations, measure)}
    looked_at = observations.series[:MOST_LOOKED_AT]
    some = frame.lazy().filter(pl.col("series") < len(looked_at)).group_by("series", maintain_order=True)
    values = some.agg(pl.col("value").drop_nulls().head(LOOKED_AT)).collect()
    of: dict[int, pl.Series] = dict(zip(values["series"].to_list(), values["value"], strict=True))
    none = frame["value"].head(0)
    return {
        name: nature_of(name, observations.unit_of(measure, name), of.get(n, none).to_numpy())
        for n, name in enumerate(looked_at)
    }


def _shared(frame: pl.DataFrame) -> bool:
    """Return whether rows share a day and a series, and so will be combined on any grain."""
    clock = "wall" if "wall" in frame.columns else "when"
    some = frame.head(LOOKED_AT).select("series", pl.col(clock).dt.truncate("1d"))
    return some.n_unique() < some.height

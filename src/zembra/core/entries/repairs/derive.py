"""Derive a measure from a series: changes, running totals, an index, a share, a logarithm."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.calendar.lines import Line
from zembra.core.entries.repairs.clauses.derivations import PerPeriod, Share, What
from zembra.core.entries.shared.derived import Place, derived, placed
from zembra.core.ledger.entry import Group, Needs
from zembra.core.ledger.evidence import SERIES, count, table
from zembra.core.ledger.lineentry import Account, LineEntry, LineResult, results_in
from zembra.core.ledger.registry import register
from zembra.core.ledger.results import SeriesResult
from zembra.core.ledger.state import Offer, State, Study


@dataclass(frozen=True, slots=True)
class DerivedSeries(SeriesResult):
    """Counts of a derived series.

    known, without, estimated: periods with a value, without one, with an estimate
    offers: other ways to derive it
    """

    known: int
    without: int
    estimated: int
    offers: tuple[Offer, ...]


@register
class Derive(LineEntry):
    kind: ClassVar[str] = "derive"
    group: ClassVar[Group] = Group.REPAIRS
    title: ClassVar[str] = "Derived measure"
    hint: ClassVar[str] = "Changes, running totals and back, an index, a share, a logarithm."
    rank: ClassVar[int] = 7
    repairs: ClassVar[bool] = True
    all_or_none: ClassVar[bool] = True

    what: Annotated[What, Field(title="what is taken", discriminator="kind")] = PerPeriod()
    place: Annotated[Place, Field(title="where it goes")] = Place.IN_PLACE

    def template(self) -> str:
        return "Take {what}, of {series}, {place}."

    @property
    def needs(self) -> Needs:
        return Needs.ALL if isinstance(self.what, Share) else Needs.LINE

    def others(self, state: State, line: Line) -> tuple[Line, ...]:
        return tuple(known for known in state.lines if known is not line) if isinstance(self.what, Share) else ()

    def on_line(self, line: Line, study: Study) -> LineResult:
        found = self.what.of(line, study)
        made = derived(
            line,
            found.values,
            study.entry_id,
            self.what.quantity(line.quantity),
            parents=found.parents,
            also=found.also,
            estimated=found.estimated,
            because=found.because,
        )
        known = int((~np.isnan(found.values)).sum())
        estimated = 0 if found.estimated is None else int(found.estimated.sum())
        name = f"{line.name}, {self.what.name.format(study.grain.singular)}"
        if self.place is Place.IN_PLACE:
            made = replace(made, called=self.what.called(line.drawn_name, study.grain.singular))
        return placed(
            LineResult(
                touched=known,
                warnings=tuple(found.warnings),
                result=DerivedSeries(line.name, known, len(line) - known, estimated, self.what.offers(line)),
            ),
            made,
            self.place,
            name,
        )

    def account(self, made: Sequence[LineResult], study: Study) -> Account:
        columns = (SERIES, count("with", "With a value"), count("without", "Without"), count("estimated", "Estimated"))
        found = results_in(made, DerivedSeries)
        rows = [(series.series, series.known, series.without, series.estimated) for series in found]
        offers = next((series.offers for series in found if series.offers), ())
        return Account("values", (table("Derived", columns, rows),), offers=offers)

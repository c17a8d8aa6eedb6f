"""Level shifts found: where the level of a series steps, how far, and how sure."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field, field_validator

from zembra.core.arithmetic.shifts import FEWEST_YEARS, find_shifts
from zembra.core.calendar.grain import Unit
from zembra.core.calendar.seasons import even_row, usual_season
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice, Word, spoken_date
from zembra.core.ledger.entry import Entry, Group, register
from zembra.core.ledger.follow import SHIFT_COLUMNS, Follow, followed, one_lift, points_per_year, shift_row, signed
from zembra.core.ledger.state import Cell, Offer, Outcome, State, Table
from zembra.core.lines import Mark

MOST_OFFERED = 6


class Size(Choice):
    PERCENT = ("percent", "% of the usual level", "of the median")
    UNITS = ("units", "units")


@register
class Shifts(Entry):
    kind: ClassVar[str] = "shifts"
    group: ClassVar[Group] = Group.REPAIRS
    title: ClassVar[str] = "Level shifts, found"
    hint: ClassVar[str] = "Where a whole series steps up or down and stays there."
    rank: ClassVar[int] = 5
    heavy: ClassVar[bool] = True

    smallest: Annotated[float, Field(title="smallest shift worth noting", ge=0, allow_inf_nan=False)] = 10.0
    size: Annotated[Size, Field(title="how size is measured")] = Size.PERCENT
    shortest: Annotated[int, Field(title="shortest stretch", ge=3, le=10_000)] = 28
    season: Annotated[int | None, Field(title="season length", ge=2, le=10_000), Word(empty="no season")] = 7
    then: Annotated[tuple[Follow, ...], Field(title="what follows"), Word(empty="nothing else follows")] = ()
    series: Annotated[tuple[str, ...], Field(title="series"), Word(options="lines", empty="every series")] = ()

    _one_lift = field_validator("then")(one_lift)

    def template(self) -> str:
        season = "a season of {season} {@periods}" if self.season else "{season}"
        return (
            f"Find level shifts of at least {{smallest}} {{size}} that last {{shortest}} {{@periods}} or more "
            f"in {{series}}, {season} taken off, and mark them; {{then}}."
        )

    def apply(self, state: State, by: str) -> Outcome:
        if state.grain.unit is Unit.MOMENT:
            raise Refusal("Dates as they come have no stretches to compare.", todo="Put them on a calendar first.")
        rows: list[tuple[Cell, ...]] = []
        marks: list[Mark] = []
        offers: list[Offer] = []
        year = points_per_year(state)
        short: list[str] = []
        for place in state.chosen(self.series):
            line = state.lines[place]
            values = line.counted
            known = values[~np.isnan(values)]
            if not known.size:
                continue
            if year and known.size < FEWEST_YEARS * year:
                short.append(line.name)
            least = self.smallest / 100 * abs(float(np.median(known))) if self.size is Size.PERCENT else self.smallest
            row = even_row(state.expected, line.periods)
            for on_row in find_shifts(row.spread(values), self.season, self.shortest, least, year):
                shift = replace(on_row, place=row.place_of(on_row.place))
                rows.append(shift_row(state, line, shift))
                when = state.grain.starts(line.periods[[shift.place]])[0].astype("datetime64[s]").item()
                marks.append(Mark("shift", line.name, int(line.periods[shift.place]), f"shift {signed(shift.size)}"))
                offers.append(
                    Offer(
                        f"{line.name} shifts by {signed(shift.size)} on {spoken_date(when.date())}.",
                        "Decide for this one",
                        "shift",
                        {"on": when.date().isoformat(), "series": [line.name], "season": self.season},
                    )
                )
                line = followed(line, shift, self.then, by)
            state = state.with_line(place, line)
        warnings = (
            (f"Less than one and a half years: a yearly wave may pass for a shift ({', '.join(short[:4])}).",)
            if short and rows
            else ()
        )
        return Outcome(
            replace(state, marks=(*state.marks, *marks)),
            len(rows),
            "found" if len(rows) != 1 else "shift found",
            (Table("Level shifts", SHIFT_COLUMNS, tuple(rows)),),
            warnings,
            tuple(offers[:MOST_OFFERED]) if not self.then else (),
        )

    @classmethod
    def suggest(cls, state: State) -> Shifts:
        shortest = {"day": 28, "hour": 72, "year": 10}.get(state.grain.singular, 8)
        return cls(season=usual_season(state.expected), shortest=shortest)

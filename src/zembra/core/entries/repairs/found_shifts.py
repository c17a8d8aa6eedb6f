"""Find level shifts, and mark them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.arrays import Floats
from zembra.core.arithmetic.shifts import FEWEST_YEARS, find_shifts, least_sure_step
from zembra.core.calendar.grain import Unit
from zembra.core.calendar.lines import Line
from zembra.core.calendar.seasons import even_row, usual_season
from zembra.core.english import number, spoken_date
from zembra.core.entries.repairs.follow import followed, points_per_year
from zembra.core.entries.repairs.shiftresults import DatedShift, SeriesShifts, shift_table
from zembra.core.entries.repairs.shiftwords import ShiftEntry, shift_rule
from zembra.core.entries.shared.changewords import signed
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice
from zembra.core.ledger.entry import Group
from zembra.core.ledger.lineentry import Account, LineResult, results_in
from zembra.core.ledger.registry import register
from zembra.core.ledger.state import Offer, State, Study

MOST_OFFERED = 6
FEW_POINTS = 24  # below which a large step can pass unseen, so that it is said how large
FEWEST = 3  # points of a stretch
LONG = 400  # points from which looking for shifts takes long


class Size(Choice):
    PERCENT = ("percent", "% of the usual level", "of the median")
    UNITS = ("units", "units")


@register
class Shifts(ShiftEntry):
    kind: ClassVar[str] = "shifts"
    group: ClassVar[Group] = Group.REPAIRS
    title: ClassVar[str] = "Level shifts, found"
    hint: ClassVar[str] = "Where a whole series steps up or down and stays there."
    rank: ClassVar[int] = 5

    smallest: Annotated[float, Field(title="smallest shift worth noting", ge=0, allow_inf_nan=False)] = 10.0
    size: Annotated[Size, Field(title="how size is measured")] = Size.PERCENT
    shortest: Annotated[int, Field(title="shortest stretch", ge=FEWEST, le=10_000)] = 28

    def template(self) -> str:
        return (
            f"Find level shifts of at least {{smallest}} {{size}} that last {{shortest}} {{@periods}} or more "
            f"in {{series}}, {self.season_taken} taken off, and mark them; {{then}}."
        )

    def seconds_on(self, line: Line) -> float:
        return math.inf if len(line) > LONG else 0.0

    def on_line(self, line: Line, study: Study) -> LineResult:
        if study.grain.unit is Unit.MOMENT:
            raise Refusal("Dates as they come have no stretches to compare.", todo="Put them on a calendar first.")
        year = points_per_year(study.expected)
        values = line.counted
        known = values[~np.isnan(values)]
        if not known.size:
            return LineResult()
        least = self.smallest / 100 * abs(float(np.median(known))) if self.size is Size.PERCENT else self.smallest
        row = even_row(study.expected, line.periods)
        shifts: list[DatedShift] = []
        made = line
        for on_row in find_shifts(row.spread(values), self.season, self.shortest, least, year):
            shift = replace(on_row, place=row.place_of(on_row.place))
            shifts.append(DatedShift(int(line.periods[shift.place]), shift))
            made = followed(made, shift, self.then, study.entry_id)
        return LineResult(
            None if made is line else made,
            tuple(shift_rule(line, shift.period, f"shift {signed(shift.level.size)}", study) for shift in shifts),
            touched=len(shifts),
            warnings=self._unseen(line, known.size, row.spread(values), bool(shifts), study),
            result=SeriesShifts(line.name, tuple(shifts), bool(year and known.size < FEWEST_YEARS * year)),
        )

    def _unseen(self, line: Line, points: int, values: Floats, found: bool, study: Study) -> tuple[str, ...]:
        """Warn of shifts that cannot be detected in so few points."""
        plural = study.grain.plural
        if points < 2 * self.shortest:
            return (
                f"{line.name}: {points} {plural} with a number hold no two stretches of {self.shortest}, so that no shift can "
                "be seen. Shorten the stretch, or look at Moves.",
            )
        if found or points >= FEW_POINTS:
            return ()
        step = least_sure_step(values, self.season, self.shortest)
        return (
            f"{line.name}: among {points} {plural} only a step of about {number(float(f'{step:.2g}'))} or more is sure; smaller "
            "ones pass unseen here. Moves lists the largest.",
        )

    def account(self, made: Sequence[LineResult], study: Study) -> Account:
        judged = results_in(made, SeriesShifts)
        each = [(found.series, shift) for found in judged for shift in found.shifts]
        short = [found.series for found in judged if found.wave_may_pass]
        warnings = (
            (f"Less than one and a half years: a yearly wave may pass for a shift ({', '.join(short[:4])}).",)
            if short and each
            else ()
        )
        offers = (self._offer(series, shift, study) for series, shift in each[:MOST_OFFERED])
        return Account(
            "found" if len(each) != 1 else "shift found",
            (shift_table("Level shifts", judged, study.grain),),
            warnings,
            () if self.then else tuple(offers),
        )

    def _offer(self, series: str, shift: DatedShift, study: Study) -> Offer:
        when = study.grain.days(np.array([shift.period]))[0].astype("datetime64[s]").item().date()
        sentence = f"{series} shifts by {signed(shift.level.size)} on {spoken_date(when)}."
        words = {"on": when.isoformat(), "series": [series], "season": self.season}
        return Offer(sentence, "Decide for this one", "shift", words)

    @classmethod
    def suggest(cls, state: State) -> Shifts:
        usual = {"day": 28, "hour": 72, "year": 10}.get(state.grain.singular, 8)
        longest = max((int(np.count_nonzero(~np.isnan(line.counted))) for line in state.lines), default=0)
        return cls(season=usual_season(state.expected), shortest=max(FEWEST, min(usual, longest // 4)))

"""Overlay several years of a series on the axis of the newest one."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.arrays import Floats, Ints, values_at
from zembra.core.calendar.grain import COARSENESS, Unit
from zembra.core.calendar.lines import Line
from zembra.core.entries.readings.compared import By, years_before
from zembra.core.errors import Refusal
from zembra.core.grammar import Word
from zembra.core.ledger.entry import Group
from zembra.core.ledger.evidence import SERIES, Row, count, measure, percent, table, text
from zembra.core.ledger.lineentry import Account, LineEntry, LineResult, rows_of
from zembra.core.ledger.registry import register
from zembra.core.ledger.shapes import Curve, shape_id
from zembra.core.ledger.state import State, Study


@register
class Years(LineEntry):
    kind: ClassVar[str] = "years"
    group: ClassVar[Group] = Group.READINGS
    title: ClassVar[str] = "Years laid over each other"
    hint: ClassVar[str] = "The years before on the axis of the newest one, with what each had reached by the same day."
    rank: ClassVar[int] = 7

    years: Annotated[int, Field(title="how many years before", ge=1, le=12)] = 3
    onto: Annotated[int | None, Field(title="year they are laid on", ge=1, le=9999), Word(empty="its newest year")] = (
        None
    )
    by: Annotated[By, Field(title="aligned")] = By.DATE

    def template(self) -> str:
        return "Lay up to {years} years before of {series} over {onto}[, aligned {by}]."

    def on_line(self, line: Line, study: Study) -> LineResult:
        grain = study.grain
        if grain.unit is Unit.MOMENT or COARSENESS[grain.unit] >= COARSENESS[Unit.YEAR]:
            raise Refusal(
                f"{grain.plural.capitalize()} cannot be laid on a year's axis.",
                todo="Put them on days, weeks or months.",
            )
        if self.by is By.WEEKDAY and COARSENESS[grain.unit] > COARSENESS[Unit.WEEK]:
            raise Refusal(f"A {grain.singular} has no weekday.", todo="Align by date.")
        counted = line.counted
        known = line.periods[~np.isnan(counted)]
        if not known.size:
            raise Refusal(f"{line.name} has no number that counts.", todo="Choose another series.")
        newest = self.onto or _year_of(study, int(known[-1]))
        axis = _axis_of(study, newest)
        there = values_at(line.periods, counted, axis)
        curves: list[Curve] = []
        rows: list[Row] = [(line.name, str(newest), *_sums_and_change(there, there))]
        for back in range(1, self.years + 1):
            earlier = values_at(line.periods, counted, years_before(grain, axis, back, self.by))
            if np.isnan(earlier).all():
                continue
            curves.append(
                Curve(
                    id=shape_id(study.entry_id, line.name, f"{back} before"),
                    entry=study.entry_id,
                    series=line.name,
                    name=str(newest - back),
                    kind=self.kind,
                    periods=axis,
                    value=earlier,
                    pale=np.ones(axis.size, dtype=bool),
                    strong=False,
                    beside=True,
                )
            )
            rows.append((line.name, str(newest - back), *_sums_and_change(earlier, there)))
        if not curves:
            raise Refusal(
                f"{line.name} does not reach back to {newest - 1}.", todo="Choose a later year, or another series."
            )
        return LineResult(shapes=tuple(curves), touched=len(curves), rows=tuple(rows))

    def account(self, made: Sequence[LineResult], study: Study) -> Account:
        columns = (
            SERIES,
            text("year", "Year"),
            count("with", f"{study.grain.plural.capitalize()} with a number"),
            measure("sum", "Sum"),
            measure("mean", "Mean"),
            count("both", "Compared"),
            measure("so_far", f"Sum of the same {study.grain.plural}"),
            percent("of_newest", "The newest year against it, %"),
        )
        return Account("years", (table("Years laid over each other", columns, rows_of(made)),))

    @classmethod
    def suggest(cls, state: State) -> Years:
        return cls(series=(state.lines[0].name,) if state.lines else ())


def _year_of(study: Study, period: int) -> int:
    return int(study.grain.days(np.array([period])).astype("datetime64[Y]").astype(np.int64)[0]) + 1970


def _axis_of(study: Study, year: int) -> Ints:
    """Return every expected period of a year, future ones included."""
    try:
        ends = date(year, 1, 1), date(year, 12, 31)
        first, last = study.grain.span(ends[0])[0], study.grain.span(ends[1])[1]
    except (ValueError, OverflowError):
        raise Refusal(f"The year {year} cannot be drawn.", todo="Choose another one.") from None
    every = np.arange(first, last + 1, dtype=np.int64)
    of_year = study.grain.days(every).astype("datetime64[Y]") == np.datetime64(f"{year:04d}")
    axis: Ints = every[study.expected.usual(every) & of_year]
    return axis


def _sums_and_change(
    values: Floats, newest: Floats
) -> tuple[int, float | None, float | None, int, float | None, float | None]:
    """Return count, sum, mean, common count with the newest year, sum over the common periods, and the newest year
    against it in percent.
    """
    known = values[~np.isnan(values)]
    both = ~np.isnan(values) & ~np.isnan(newest)
    there, here = float(values[both].sum()), float(newest[both].sum())
    if not known.size:
        return 0, None, None, 0, None, None
    share = 100 * (here - there) / abs(there) if there and values is not newest else None
    return int(known.size), float(known.sum()), float(known.mean()), int(both.sum()), there, share

"""Fit trend lines, and extend them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.arrays import Floats, Ints
from zembra.core.calendar.lines import Line
from zembra.core.english import number, upper_first, with_article
from zembra.core.entries.readings.clauses.trends import (
    AnyCarry,
    AnyForm,
    CountedFrom,
    Local,
    MedianSlopes,
    NotCarried,
    PercentileLine,
    Straight,
)
from zembra.core.entries.readings.trendlines import (
    Corridor,
    Piece,
    SeriesTrend,
    fitted_piece,
    rough_band,
    steps_per_year,
    trend_rows,
    trend_shapes,
)
from zembra.core.entries.shared.sharedwords import Counting
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice, Moment, Word
from zembra.core.ledger.entry import Group
from zembra.core.ledger.evidence import SERIES, Column, ColumnKind, count, measure, period, table, text
from zembra.core.ledger.lineentry import Account, LineEntry, LineResult, results_in
from zembra.core.ledger.registry import register
from zembra.core.ledger.shapes import Shape
from zembra.core.ledger.state import Study

FAR = 1 / 3  # of its history that a line may be carried on without a word
SLOW = 1500  # points from which the robust line takes long


class Over(Choice):
    ALL = ("all", "over all of it", "from the last level shift that says so on")
    EACH = ("each", "over each stretch between level shifts")


class Around(Choice):
    """The band round a trend line."""

    NONE = ("none", "no band")
    LINE = ("line", "the band in which the line lies", "confidence band")
    NEW = ("new", "the band in which a new value lies", "prediction band")


@register
class Trend(LineEntry):
    kind: ClassVar[str] = "trend"
    group: ClassVar[Group] = Group.READINGS
    title: ClassVar[str] = "Trend line"
    hint: ClassVar[str] = (
        "Straight, curved, robust, local or with a wave; its equation, errors and how far it is carried."
    )
    rank: ClassVar[int] = 3

    form: Annotated[AnyForm, Field(title="form", discriminator="kind")] = Straight()
    start: Annotated[Moment | None, Field(title="from"), Word(empty="the beginning")] = None
    end: Annotated[Moment | None, Field(title="to"), Word(empty="the end")] = None
    over: Annotated[Over, Field(title="over what")] = Over.ALL
    carried: Annotated[AnyCarry, Field(title="how far it is carried", discriminator="kind")] = NotCarried()
    counted_from: Annotated[CountedFrom, Field(title="what x is")] = CountedFrom.ZERO
    around: Annotated[Around, Field(title="band round it")] = Around.NONE
    level: Annotated[float, Field(title="coverage of the band", ge=50, le=99.9), Word(unit="%", step=5)] = 95.0
    provisional: Annotated[Counting, Field(title="provisional periods")] = Counting.NOT

    def template(self) -> str:
        band = " at {level}" if self.around is not Around.NONE else ""
        return (
            "Draw a {form} trend line through {series}, {carried}[, from {start} to {end}][, {over}][, {counted_from}]"
            f"[, {{around}}]{band}[, provisional {{@periods}} {{provisional}}]."
        )

    def seconds_on(self, line: Line) -> float:
        # a slow library, or many pairs
        slow = isinstance(self.form, PercentileLine | Local) or (
            isinstance(self.form, MedianSlopes) and len(line) > SLOW
        )
        return math.inf if slow else 0.0

    def on_line(self, line: Line, study: Study) -> LineResult:
        values = self._values(line, study)
        pieces = [piece for part in self._stretches(line, values) if (piece := self._fitted(line, part, study))]
        if not pieces:
            return LineResult(result=SeriesTrend(line.name, ()))
        shapes: list[Shape] = []
        warnings: list[str] = []
        for n, piece in enumerate(pieces):
            band = None if self.around is Around.NONE else Corridor(self.around is Around.NEW, self.level)
            ends = (
                self.carried.before(piece.first, study) if n == 0 else piece.periods[:0],
                self.carried.periods(piece.first, piece.last, study) if n == len(pieces) - 1 else piece.periods[:0],
            )
            labelled = n == len(pieces) - 1
            shapes.extend(
                trend_shapes(line, piece, self.form.spoken, f"trend {n}", ends, band, study, labelled=labelled)
            )
        if self.around is not Around.NONE:
            warnings.extend(f"{line.name}: {said}" for piece in pieces if (said := rough_band(piece)))
        if self._far(pieces[-1], study):
            warnings.append(f"{line.name}: the line is carried on further than a third of what it rests on.")
        return LineResult(
            shapes=tuple(shapes),
            touched=sum(piece.found.points for piece in pieces),
            warnings=tuple(warnings),
            result=SeriesTrend(line.name, tuple(fitted_piece(piece, study) for piece in pieces)),
        )

    def account(self, made: Sequence[LineResult], study: Study) -> Account:
        if not any(effect.shapes for effect in made):
            raise Refusal(
                "A trend line needs two numbers at two times, and more where it has more to bend.",
                todo="Widen the range, fill blanks, or choose a simpler form.",
            )
        unit = self._counting.unit(study.grain)
        columns = (
            SERIES,
            Column("equation", f"Equation, x in {unit}", ColumnKind.EQUATION),
            period("origin", f"x is {1 if self._counting is CountedFrom.ONE else 0} at"),
            measure("r2", "R²"),
            measure("spread", "Residual spread (n − k)"),
            count("points", "Points"),
            text("space", "R² and spread are of"),
            measure("step", f"Gain a {study.grain.singular}"),
            measure("year", "Gain a year"),
            measure("rho", "Autocorrelation of residuals"),
            measure("widened", "Error of the gain, allowing for it"),
        )
        found = results_in(made, SeriesTrend)
        fits = [(trend.series, piece) for trend in found for piece in trend.pieces]
        terms = [(name, term.name, term.value, term.error) for name, piece in fits for term in piece.terms]
        evidence = [table(self.title, columns, [row for trend in found for row in trend_rows(trend, study.grain)])]
        if terms:
            about = (SERIES, text("term", "Coefficient"), measure("value", "Value"), measure("error", "Standard error"))
            evidence.append(table("Coefficients", about, terms))
        r2 = fits[0][1].r2 if len(fits) == 1 else None
        return Account("points" if r2 is None else f"points, R² {r2:.3f}", tuple(evidence))

    @property
    def _counting(self) -> CountedFrom:
        """The origin of x; a form with a logarithm cannot start at 0."""
        return CountedFrom.ONE if self.form.from_one and self.counted_from is CountedFrom.ZERO else self.counted_from

    def _values(self, line: Line, study: Study) -> Floats:
        values = line.countable(provisional=self.provisional.yes)
        if self.over is Over.ALL:
            values = line.since_begin(values)
        return np.where(study.grain.between(line.periods, self.start, self.end), values, np.nan)

    def _stretches(self, line: Line, values: Floats) -> list[Floats]:
        if self.over is Over.ALL:
            return [values]
        cuts = sorted({*line.afresh, *((line.begin,) if line.begin is not None else ())})
        edges = np.searchsorted(line.periods, np.array(cuts, dtype=np.int64))
        own = np.searchsorted(edges, np.arange(len(line)), side="right")
        return [np.where(own == n, values, np.nan) for n in range(len(cuts) + 1)]

    def _fitted(self, line: Line, values: Floats, study: Study) -> Piece | None:
        known = np.flatnonzero(~np.isnan(values))
        if known.size < 2:
            return None
        first, last = int(line.periods[known[0]]), int(line.periods[known[-1]])
        y = values[known]
        if self.form.above_zero and (y <= 0).any():
            at = known[np.argmax(y <= 0)]
            raise Refusal(
                f"{upper_first(with_article(self.form.name))} has no place for a value of zero or less: {line.name} is {number(float(values[at]))} "
                f"at {study.grain.spoken(int(line.periods[at]))}.",
                todo="Choose another form, or set such values aside.",
            )

        def x_of(periods: Ints) -> Floats:
            x = self._counting.x(periods, first, study.grain)
            # a logarithm of x cannot begin at 0
            return x + 1 if self._counting is CountedFrom.YEARS and self.form.from_one else x

        x = x_of(line.periods[known])
        found = self.form.line(x, y)
        if found is None:
            return None
        steps = 1.0 if self._counting is not CountedFrom.YEARS else steps_per_year(study.grain)
        return Piece(found, first, last, line.periods[known], y - found.at(x), x_of, steps)

    def _far(self, piece: Piece, study: Study) -> bool:
        after = self.carried.periods(piece.first, piece.last, study)
        return bool(after.size and int(after[-1]) - piece.last > FAR * (piece.last - piece.first))

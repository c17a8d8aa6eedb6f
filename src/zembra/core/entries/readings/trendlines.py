"""Draw and tabulate a fitted trend line."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from zembra.core.arithmetic.arrays import Floats, Ints
from zembra.core.arithmetic.correlatederrors import CorrelatedErrors
from zembra.core.arithmetic.correlation import autocorrelation
from zembra.core.arithmetic.trends import Term, TrendLine
from zembra.core.calendar.grain import Grain, Unit
from zembra.core.calendar.lines import Line
from zembra.core.english import number
from zembra.core.ledger.evidence import Row
from zembra.core.ledger.results import SeriesResult
from zembra.core.ledger.shapes import Area, Curve, Rests, Shape, shape_id
from zembra.core.ledger.state import Study

ON = "carried on"
CORRELATED = 0.3  # autocorrelation of residuals from which so few points make a band rough
FEW_FREE = 5.0  # degrees of freedom
A_YEAR = 365.2425 * 86_400  # seconds


@dataclass(frozen=True, slots=True)
class Piece:
    """A trend line over one stretch.

    first, last: periods
    periods, rest: periods of its points, and residuals
    x_of: computes x
    steps: periods in one step of x
    """

    found: TrendLine
    first: int
    last: int
    periods: Ints
    rest: Floats
    x_of: Callable[[Ints], Floats]
    steps: float


@dataclass(frozen=True, slots=True)
class FittedPiece:
    """The fitted numbers of a trend line over one stretch.

    terms: coefficients
    origin: period at which x begins
    r2, spread: of values, or of logarithms if `logs`
    gain, gain_error: slope per period and its error, None if it varies
    autocorrelation: of residuals at lag 1
    """

    equation: str
    terms: tuple[Term, ...]
    origin: int
    r2: float | None
    spread: float | None
    points: int
    logs: bool
    gain: float | None
    gain_a_year: float | None
    autocorrelation: float | None
    gain_error: float | None


@dataclass(frozen=True, slots=True)
class SeriesTrend(SeriesResult):
    """The trend lines of a series, one for each stretch; none if it has too few numbers."""

    pieces: tuple[FittedPiece, ...]


@dataclass(frozen=True, slots=True)
class Corridor:
    """A prediction band (`new`) or confidence band of a trend line.

    level: coverage in percent
    """

    new: bool
    level: float

    @property
    def name(self) -> str:
        return f"{number(self.level)} % {'prediction' if self.new else 'confidence'} band"


def trend_shapes(
    line: Line,
    piece: Piece,
    name: str,
    part: str,
    ends: tuple[Ints, Ints],
    corridor: Corridor | None,
    study: Study,
    *,
    labelled: bool,
) -> list[Shape]:
    """Return the line over its points, and dashed extensions.

    ends: periods before and after
    labelled: whether name and equation stand at its end
    """
    inside = line.periods[(line.periods >= piece.first) & (line.periods <= piece.last)]
    before, after = ends
    r2 = () if piece.found.r2 is None else (f"R² {piece.found.r2:.3f}",)
    label = (name, piece.found.equation, *r2)
    parts = (
        ("", inside, labelled and not after.size),
        (ON, np.concatenate((inside[-1:], after)), labelled),
        ("carried back", np.concatenate((before, inside[:1])), False),
    )
    shapes: list[Shape] = []
    for how, periods, ending in parts:
        if how and periods.size < 2:
            continue
        x = piece.x_of(periods)
        with np.errstate(invalid="ignore", divide="ignore", over="ignore"):
            found = piece.found.at(x)
        curve = Curve(
            id=shape_id(study.entry_id, line.name, f"{part} {how}".strip()),
            entry=study.entry_id,
            series=line.name,
            name=f"{name}{f', {how}' if how else ''}",
            rests=Rests.ESTIMATED if how else Rests.MEASURED,
            kind="trend",
            strong=False,
            periods=periods,
            value=np.where(np.isfinite(found), found, np.nan),
            label=label if ending else (),
            equation=piece.found.equation,
            r2="".join(r2),
            part_of=shapes[0].id if shapes else "",
            runs_on=how == ON,
        )
        shapes.append(curve)
        if corridor is not None and piece.found.correlated is not None and piece.found.design is not None:
            shapes.append(_band(curve, piece.found.design(x), piece.found, piece.found.correlated(), corridor))
    return shapes


def _band(curve: Curve, rows: Floats, found: TrendLine, errors: CorrelatedErrors, corridor: Corridor) -> Area:
    """The t quantile times the standard error of the line, or of a new value, with autocorrelated residuals.

    rows: of the design at the points of the curve
    """
    error = errors.error_at(rows)
    if corridor.new:
        error = np.hypot(error, errors.spread)
    reach = errors.quantile(corridor.level) * error
    if found.logs:
        lower, upper = curve.value * np.exp(-reach), curve.value * np.exp(reach)
    else:
        lower, upper = curve.value - reach, curve.value + reach
    return Area(
        id=f"{curve.id} band",
        entry=curve.entry,
        series=curve.series,
        name=corridor.name,
        rests=curve.rests,
        curve_id=curve.id,
        periods=curve.periods,
        lower=lower,
        upper=upper,
        level=corridor.level,
    )


def rough_band(piece: Piece) -> str:
    """Describe a band that is rough, as few points with autocorrelated residuals tell little of their errors."""
    errors = piece.found.correlated() if piece.found.correlated and piece.found.design else None
    if errors is None or errors.rho < CORRELATED or errors.freedom >= FEW_FREE:
        return ""
    points = piece.found.points
    like = max(2, round(points * (1 - errors.rho) / (1 + errors.rho)))
    return f"residuals hang together, so that {points} points tell as much as {like}; the band round the line is rough."


def steps_per_year(grain: Grain) -> float:
    """Return the number of calendar periods in a year."""
    return A_YEAR / grain.seconds


def fitted_piece(piece: Piece, study: Study) -> FittedPiece:
    """Return the fitted numbers. The error of the slope allows for autocorrelated residuals."""
    found = piece.found
    rho = float(autocorrelation(piece.rest, 1)[0]) if piece.rest.size > 2 else None
    error = next((term.error for term in found.terms if term.name == "b"), None)
    gain = year = widened = None
    if found.slope is not None and study.grain.unit is not Unit.MOMENT:
        gain = found.slope / piece.steps
        year = gain * steps_per_year(study.grain)
        if error is not None and found.correlated is not None:
            widened = error * found.correlated().slope_inflation / piece.steps
    return FittedPiece(
        found.equation,
        found.terms,
        piece.first,
        found.r2,
        found.spread,
        found.points,
        found.logs,
        gain,
        year,
        rho,
        widened,
    )


def trend_rows(result: SeriesTrend, grain: Grain) -> list[Row]:
    """Return a row for each piece: series, equation, origin, R², spread, points, scale, slope per period and year,
    autocorrelation, error of the slope.
    """
    if not result.pieces:
        return [(result.series, "too few numbers", *([None] * 9))]
    return [
        (
            result.series,
            piece.equation,
            grain.label(piece.origin),
            piece.r2,
            piece.spread,
            piece.points,
            "" if piece.r2 is None else f"{'logarithms' if piece.logs else 'values'}, R² round their mean",
            piece.gain,
            piece.gain_a_year,
            piece.autocorrelation,
            piece.gain_error,
        )
        for piece in result.pieces
    ]

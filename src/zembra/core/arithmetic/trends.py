"""Fit trend lines: coefficients, goodness of fit, and values at any place.

A `TrendLine` is what every form gives: a function of x with what is known of its errors.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.arithmetic.correlatederrors import (
    CorrelatedErrors,
    correlated_errors,
    correlated_errors_of_line,
)
from zembra.core.arithmetic.leastsquares import LeastSquaresFit, least_squares, polynomial
from zembra.core.arithmetic.statisticslibrary import unheard_warnings
from zembra.core.english import number

DIGITS = 5


@dataclass(frozen=True, slots=True)
class Term:
    """A coefficient and its standard error, or None."""

    name: str
    value: float
    error: float | None = None


@dataclass(frozen=True, slots=True)
class TrendLine:
    """A fitted trend line.

    at: computes its value at x
    terms: coefficients
    spread: of residuals on the scale of the fit
    error_at: computes its standard error at x, on that scale, with independent residuals
    design: computes rows of the design at x
    correlated: computes its errors with autocorrelated residuals
    logs: whether that scale is ln y
    r2: on that scale about the mean, so that forms are comparable; negative if the line is worse than the mean
    slope: gain per step of x, None if it varies
    """

    at: Callable[[Floats], Floats]
    equation: str
    terms: tuple[Term, ...]
    points: int
    r2: float | None = None
    spread: float | None = None
    error_at: Callable[[Floats], Floats] | None = None
    design: Callable[[Floats], Floats] | None = None
    correlated: Callable[[], CorrelatedErrors] | None = None
    logs: bool = False
    slope: float | None = None

    @classmethod
    def fitted(
        cls,
        fit: LeastSquaresFit,
        x: Floats,
        y: Floats,
        design: Callable[[Floats], Floats],
        at: Callable[[Floats], Floats],
        equation: str,
        terms: tuple[Term, ...],
        *,
        logs: bool = False,
        slope: float | None = None,
        r2: float | None = None,
    ) -> TrendLine:
        """Make a trend line of a least-squares fit.

        y: on the scale of the fit
        design: computes its rows at x
        r2: if that of the fit is not about the mean
        """
        return cls(
            at,
            equation,
            terms,
            fit.points,
            fit.r2 if r2 is None else r2,
            fit.spread,
            lambda x: fit.error_at(design(x)),
            design,
            cache(lambda: _correlated(fit, design(x), y)),
            logs,
            slope,
        )


def _correlated(fit: LeastSquaresFit, rows: Floats, y: Floats) -> CorrelatedErrors:
    return correlated_errors(rows, fit.root, y - rows @ fit.coefficients)


def straight(x: Floats, y: Floats, intercept: float | None = None) -> TrendLine | None:
    """Fit y = a + b x, through `intercept` at x = 0 if given."""
    if intercept is None:
        found = polynomial(x, y, 1)
        if found is None:
            return None
        a, b = found.coefficients.tolist()
        terms = _terms(("a", "b"), found.coefficients, found.errors)
        return TrendLine.fitted(found.fit, x, y, found.design, found.at, _straight_equation(a, b), terms, slope=b)
    fit = least_squares(x[:, None], y - intercept, intercept=False)
    if fit is None:
        return None
    b = float(fit.coefficients[0])
    rest = y - intercept - b * x
    whole = float(((y - y.mean()) ** 2).sum())
    return TrendLine.fitted(
        fit,
        x,
        y - intercept,
        lambda at: at[:, None],
        lambda at: intercept + b * at,
        _straight_equation(intercept, b),
        (Term("a, given", intercept), *_terms(("b",), fit.coefficients, fit.errors)),
        slope=b,
        r2=1 - float(rest @ rest) / whole if whole > 0 else None,
    )


def curved(x: Floats, y: Floats, degree: int) -> TrendLine | None:
    """Fit a polynomial."""
    found = polynomial(x, y, degree)
    if found is None:
        return None
    names = [f"x{_raised(power)}" for power in range(1, degree + 1)]
    terms = _terms(("1", *names), found.coefficients, found.errors)
    parts = zip(found.coefficients.tolist(), ("", *(f" {name}" for name in names)), strict=True)
    return TrendLine.fitted(found.fit, x, y, found.design, found.at, f"y = {_signed_sum(list(parts))}", terms)


def logarithmic(x: Floats, y: Floats) -> TrendLine | None:
    """Fit y = a + b ln x."""
    fit = least_squares(_logs_of(x), y)
    if fit is None:
        return None
    a, b = fit.coefficients.tolist()
    equation = f"y = {_signed_sum([(a, ''), (b, ' ln x')])}"
    terms = _terms(("a", "b"), fit.coefficients, fit.errors)
    return TrendLine.fitted(fit, x, y, _logs_of, lambda at: a + b * np.log(at), equation, terms)


def power(x: Floats, y: Floats) -> TrendLine | None:
    """Fit y = a x^b as ln y = ln a + b ln x."""
    fit = least_squares(_logs_of(x), np.log(y))
    if fit is None:
        return None
    a, b = float(np.exp(fit.coefficients[0])), float(fit.coefficients[1])
    equation = f"y = {_written(a)} x^{_written(b)}"
    terms = _terms(("ln a", "b"), fit.coefficients, fit.errors)
    return TrendLine.fitted(fit, x, np.log(y), _logs_of, lambda at: a * at**b, equation, terms, logs=True)


def exponential(x: Floats, y: Floats) -> TrendLine | None:
    """Fit y = a e^(b x) as ln y = ln a + b x."""
    found = polynomial(x, np.log(y), 1)
    if found is None:
        return None
    ln_a, b = found.coefficients.tolist()
    equation = f"y = {_written(float(np.exp(ln_a)))} e^({_written(b)} x)"
    terms = _terms(("ln a", "b"), found.coefficients, found.errors)
    return TrendLine.fitted(
        found.fit, x, np.log(y), found.design, lambda at: np.exp(found.at(at)), equation, terms, logs=True
    )


def harmonic(x: Floats, y: Floats, length: float, harmonics: int) -> TrendLine | None:
    """Fit y = a + b x plus the first harmonics of a wave of `length` steps."""
    centre, width = (float(x.min()) + float(x.max())) / 2, max(1.0, (float(x.max()) - float(x.min())) / 2)

    def design(at: Floats) -> Floats:
        turns = [2 * np.pi * k * at / length for k in range(1, harmonics + 1)]
        waves = [wave for turn in turns for wave in (np.sin(turn), np.cos(turn))]
        return np.column_stack((np.ones(at.size), (at - centre) / width, *waves))

    fit = least_squares(design(x), y)
    if fit is None:
        return None
    b = float(fit.coefficients[1]) / width
    a = float(fit.coefficients[0]) - b * centre
    pairs = fit.coefficients[2:].reshape(-1, 2)
    sizes = np.hypot(pairs[:, 0], pairs[:, 1])
    terms = [
        Term("a, in the middle", float(fit.coefficients[0]), float(fit.errors[0])),
        Term("b", b, float(fit.errors[1]) / width),
    ]
    for k, ((s, c), (es, ec)) in enumerate(zip(pairs.tolist(), fit.errors[2:].reshape(-1, 2).tolist(), strict=True), 1):
        terms += [Term(f"sin, {k} a turn", s, es), Term(f"cos, {k} a turn", c, ec)]
    waves = f" and a wave of {_written(length)} steps, ±{_written(float(sizes.max(initial=0.0)))}"
    equation = f"{_straight_equation(a, b)}{waves}"
    return TrendLine.fitted(
        fit, x, y, design, lambda at: design(at) @ fit.coefficients, equation, tuple(terms), slope=b
    )


def median_slopes(x: Floats, y: Floats) -> TrendLine:
    """Fit the Theil–Sen line, the median of all pairwise slopes, by SciPy."""
    from scipy import stats

    found = stats.theilslopes(y, x)
    a, b = float(found.intercept), float(found.slope)
    # half of the 95 % interval over its normal width
    error = (float(found.high_slope) - float(found.low_slope)) / (2 * 1.959964)
    return TrendLine(
        lambda at: a + b * at,
        _straight_equation(a, b),
        (Term("a", a), Term("b", b, error)),
        int(x.size),
        correlated=cache(lambda: correlated_errors_of_line(x, y - a - b * x)),
        slope=b,
    )


def percentile_line(x: Floats, y: Floats, share: float) -> TrendLine:
    """Fit a straight line with a share of the points below it: quantile regression, by statsmodels."""
    from statsmodels.regression.quantile_regression import QuantReg

    with unheard_warnings():
        found = QuantReg(y, np.column_stack((np.ones(x.size), x))).fit(q=share)
    (a, b), (ea, eb) = (np.asarray(estimates, dtype=np.float64).tolist() for estimates in (found.params, found.bse))
    return TrendLine(
        lambda at: a + b * at,
        _straight_equation(a, b),
        (Term("a", a, ea), Term("b", b, eb)),
        int(x.size),
        correlated=cache(lambda: correlated_errors_of_line(x, y - a - b * x)),
        slope=b,
    )


def local(x: Floats, y: Floats, share: float, robust: bool) -> Floats:
    """Fit locally weighted lines over a share of the points (Cleveland, 1979), by statsmodels, at each x."""
    from statsmodels.nonparametric.smoothers_lowess import lowess

    with unheard_warnings():
        return np.asarray(lowess(y, x, frac=share, it=3 if robust else 0, return_sorted=False), dtype=np.float64)


def _logs_of(x: Floats) -> Floats:
    """Return columns 1 and ln x."""
    return np.column_stack((np.ones(x.size), np.log(x)))


def _terms(names: tuple[str, ...], values: Floats, errors: Floats) -> tuple[Term, ...]:
    return tuple(Term(*term) for term in zip(names, values.tolist(), errors.tolist(), strict=True))


def _straight_equation(a: float, b: float) -> str:
    return f"y = {_signed_sum([(a, ''), (b, ' x')])}"


def _written(value: float) -> str:
    return number(float(f"{value:.{DIGITS}g}"))


def _signed_sum(terms: list[tuple[float, str]]) -> str:
    """Format a sum with signs: 3 − 2 x + 5 x²."""
    text = ""
    for value, name in terms:
        size = f"{_written(abs(value))}{name}"
        if not text:
            text = f"−{size}" if value < 0 else size
        else:
            text += f" {'−' if value < 0 else '+'} {size}"
    return text


def _raised(power_: int) -> str:
    return "" if power_ == 1 else "".join("⁰¹²³⁴⁵⁶⁷⁸⁹"[int(digit)] for digit in str(power_))

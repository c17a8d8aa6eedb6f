"""Ordinary least squares by orthogonal triangles (QR), refined in longer arithmetic.

The refinement is that of the augmented system of coefficients and residuals together (Björck, 1967), which holds
where the residuals are large too.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from math import comb

import numpy as np

from zembra.core.arrays import Floats

REFINED = 3


@dataclass(frozen=True, slots=True)
class Fit:
    """coefficients, errors: one for each column of the design, errors being standard errors. spread: root of the
    squared residuals over n − k. r2: share of the variance explained, round the mean where the design has an
    intercept and round zero where it has none; None where there is no variance. root: from which the covariance
    of the coefficients is made, spread² · root · rootᵀ."""

    coefficients: Floats
    errors: Floats
    spread: float
    r2: float | None
    points: int
    root: Floats

    @property
    def freedom(self) -> int:
        return self.points - int(self.coefficients.size)

    def error_at(self, rows: Floats) -> Floats:
        """Standard error of the line at rows of a design."""
        return np.asarray(self.spread * np.sqrt(((rows @ self.root) ** 2).sum(axis=1)))


def least_squares(design: np.ndarray, y: Floats, *, intercept: bool = True) -> Fit | None:
    """The fit; None where the columns do not tell coefficients apart. design: n × k without NaN, of doubles or longer
    numbers. intercept: whether the columns hold a constant, so that R² is round the mean."""
    found = _solved(design, y, intercept)
    return found[0] if found else None


def _solved(design: np.ndarray, y: Floats, intercept: bool) -> tuple[Fit, np.ndarray] | None:
    """(the fit, its coefficients as longer numbers)."""
    n, k = design.shape
    if n < k:
        return None
    scale = np.sqrt((design.astype(np.float64) ** 2).sum(axis=0))
    if (scale == 0).any():
        return None
    long_design = design.astype(np.longdouble) / scale
    q, r = np.linalg.qr(long_design.astype(np.float64))
    diagonal = np.abs(np.diag(r))
    if diagonal.min() <= diagonal.max() * np.finfo(np.float64).eps * n:
        return None
    inverse = np.linalg.inv(r)
    long_y = y.astype(np.longdouble)
    scaled = (inverse @ (q.T @ y)).astype(np.longdouble)
    rest = long_y - long_design @ scaled
    for _ in range(REFINED):
        f = (long_y - rest - long_design @ scaled).astype(np.float64)
        g = -(long_design.T @ rest).astype(np.float64)
        along, across = q.T @ f, inverse.T @ g
        scaled = scaled + inverse @ (along - across)
        rest = rest + (f - q @ along + q @ across)
    squares = float(rest @ rest)
    spread = float(np.sqrt(squares / (n - k))) if n > k else 0.0
    away = y - y.mean() if intercept else y
    whole = float(away @ away)
    rounding = (4 * np.finfo(np.float64).eps * float(np.abs(y).max(initial=0.0))) ** 2 * n
    r2 = 1 - squares / whole if whole > rounding else None
    root = inverse / scale[:, None]
    errors = spread * np.sqrt((root * root).sum(axis=1))
    long = scaled / scale
    return Fit(long.astype(np.float64), errors, spread, r2, n, root), long


@dataclass(frozen=True, slots=True)
class PolynomialFit:
    """A polynomial in (x − centre) / width. coefficients, errors: of the powers of x itself, lowest first."""

    fit: Fit
    centre: float
    width: float
    coefficients: Floats
    errors: Floats

    def design(self, x: Floats) -> Floats:
        """Rows for x, for the values and errors of the fit."""
        return powers((x - self.centre) / self.width, int(self.fit.coefficients.size) - 1)

    def at(self, x: Floats) -> Floats:
        return np.asarray(self.design(x) @ self.fit.coefficients)


def powers(x: np.ndarray, degree: int) -> np.ndarray:
    """Columns 1, x, x² … of the numbers' own length."""
    return np.stack([x**power for power in range(degree + 1)], axis=1)


def polynomial(x: Floats, y: Floats, degree: int) -> PolynomialFit | None:
    """Fitted on x centred and scaled to [−1, 1], so that the powers can be told apart; then written out in x."""
    low, high = float(x.min()), float(x.max())
    centre, width = (low + high) / 2, (high - low) / 2 or 1.0
    solved = _solved(powers((x.astype(np.longdouble) - centre) / width, degree), y, intercept=True)
    if solved is None:
        return None
    fit, long = solved
    turn = _written_out(degree, centre, width)
    whole = [Fraction(float(c)) + Fraction(float(c - np.longdouble(float(c)))) for c in long]
    coefficients = np.array([float(sum(t * c for t, c in zip(row, whole, strict=True))) for row in turn])
    exact = np.array([[float(t) for t in row] for row in turn])
    errors = fit.spread * np.sqrt(((exact @ fit.root) ** 2).sum(axis=1))
    return PolynomialFit(fit, centre, width, coefficients, errors)


def _written_out(degree: int, centre: float, width: float) -> list[list[Fraction]]:
    """Row j, column i: the share of x^j in ((x − centre) / width)^i, exactly."""
    c, w = Fraction(centre), Fraction(width)
    return [
        [Fraction(comb(i, j)) * (-c) ** (i - j) / w**i if i >= j else Fraction(0) for i in range(degree + 1)]
        for j in range(degree + 1)
    ]

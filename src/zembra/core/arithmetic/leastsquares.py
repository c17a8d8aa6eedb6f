"""Ordinary least squares by QR decomposition, refined in extended precision.

The refinement is that of the augmented system of coefficients and residuals together (Björck, 1967), which holds
where the residuals are large too. Our own: no installable library holds all certified digits of NIST's hardest sets.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from math import comb

import numpy as np

from zembra.core.arithmetic.arrays import Floats

REFINED = 3  # times at most
EPS = float(np.finfo(np.float64).eps)
MOST_SHARED = 20_000  # points, beyond which nothing is remembered of them
CANCELS = 100  # longer numbers are some 2,000 times as fine as doubles


@dataclass(frozen=True, slots=True)
class LeastSquaresFit:
    """A least-squares fit.

    coefficients, errors: estimates and standard errors, one for each column
    spread: root of the squared residuals over n − k
    r2: explained share of variance, about the mean with an intercept and about zero without; None if there is no
    variance
    root: gives the covariance of the coefficients as spread² · root · rootᵀ
    """

    coefficients: Floats
    errors: Floats
    spread: float
    r2: float | None
    points: int
    root: Floats

    def error_at(self, rows: Floats) -> Floats:
        """Return the standard error of the line at rows of a design."""
        return np.asarray(self.spread * np.sqrt(((rows @ self.root) ** 2).sum(axis=1)))


@dataclass(frozen=True, slots=True)
class _Triangles:
    """The QR decomposition of a design.

    columns: in extended precision, of unit length; scale: their lengths
    q: orthogonal factor; inverse: of the triangle
    """

    columns: np.ndarray
    scale: Floats
    q: Floats
    inverse: Floats

    @property
    def root(self) -> Floats:
        return np.asarray(self.inverse / self.scale[:, None])


def least_squares(design: np.ndarray, y: Floats, *, intercept: bool = True) -> LeastSquaresFit | None:
    """Fit by least squares, or return None if the columns are collinear.

    design: n × k, without NaN, in double or extended precision
    intercept: whether the columns contain a constant, so that R² is about the mean
    """
    made = _triangles(design)
    return _fitted(made, y, intercept)[0] if made else None


def _triangles(design: np.ndarray) -> _Triangles | None:
    n, k = design.shape
    if n < k:
        return None
    scale = np.sqrt((design.astype(np.float64) ** 2).sum(axis=0))
    if (scale == 0).any():
        return None
    columns = design.astype(np.longdouble) / scale
    q, r = np.linalg.qr(columns.astype(np.float64))
    diagonal = np.abs(np.diag(r))
    if diagonal.min() <= diagonal.max() * EPS * n:
        return None
    return _Triangles(columns, scale, q, np.linalg.inv(r))


def _fitted(made: _Triangles, y: Floats, intercept: bool) -> tuple[LeastSquaresFit, np.ndarray]:
    """Return the fit, and its coefficients in extended precision."""
    q, inverse, columns = made.q, made.inverse, made.columns
    n, k = columns.shape
    long_y = y.astype(np.longdouble)
    scaled = (inverse @ (q.T @ y)).astype(np.longdouble)
    rest = long_y - columns @ scaled
    for _ in range(REFINED):
        f = (long_y - rest - columns @ scaled).astype(np.float64)
        g = -(columns.T @ rest).astype(np.float64)
        along, across = q.T @ f, inverse.T @ g
        step = inverse @ (along - across)
        scaled = scaled + step
        rest = rest + (f - q @ along + q @ across)
        # converged: the remaining step is within rounding error
        if (np.abs(step) <= EPS * np.abs(scaled)).all():
            break
    squares = float(rest @ rest)
    spread = float(np.sqrt(squares / (n - k))) if n > k else 0.0
    away = y - y.mean() if intercept else y
    whole = float(away @ away)
    rounding = (4 * EPS * float(np.abs(y).max(initial=0.0))) ** 2 * n
    r2 = 1 - squares / whole if whole > rounding else None
    root = made.root
    errors = spread * np.sqrt((root * root).sum(axis=1))
    long = scaled / made.scale
    return LeastSquaresFit(long.astype(np.float64), errors, spread, r2, n, root), long


@dataclass(frozen=True, slots=True)
class PolynomialFit:
    """A polynomial in (x − centre) / width.

    coefficients, errors: of the powers of x itself, lowest first
    """

    fit: LeastSquaresFit
    centre: float
    width: float
    coefficients: Floats
    errors: Floats

    def design(self, x: Floats) -> Floats:
        """Return design rows for x."""
        degree = int(self.fit.coefficients.size) - 1
        if x.size > MOST_SHARED:
            return powers((x - self.centre) / self.width, degree)
        return _powers_of(np.ascontiguousarray(x).tobytes(), self.centre, self.width, degree)

    def at(self, x: Floats) -> Floats:
        return np.asarray(self.design(x) @ self.fit.coefficients)


def powers(x: np.ndarray, degree: int) -> np.ndarray:
    """Return columns 1, x, x² …, in the precision of x."""
    return np.vander(x, degree + 1, increasing=True)


def polynomial(x: Floats, y: Floats, degree: int) -> PolynomialFit | None:
    """Fit on x scaled to [−1, 1], to avoid collinearity, and expand the coefficients in x."""
    ready = _made_ready(x, degree) if x.size > MOST_SHARED else _ready(np.ascontiguousarray(x).tobytes(), degree)
    if ready is None:
        return None
    fit, long = _fitted(ready.triangles, y, intercept=True)
    errors = fit.spread * np.sqrt(((ready.turn.astype(np.float64) @ fit.root) ** 2).sum(axis=1))
    return PolynomialFit(fit, ready.centre, ready.width, ready.written_out(long), errors)


@dataclass(frozen=True, slots=True)
class _Ready:
    """What depends on x alone.

    turn: row j, column i is the share of x^j in ((x − centre) / width)^i; exact: the same as fractions
    """

    triangles: _Triangles
    centre: float
    width: float
    exact: list[list[Fraction]]
    turn: np.ndarray

    def written_out(self, long: np.ndarray) -> Floats:
        """Expand coefficients of scaled powers to powers of x."""
        terms = self.turn * long
        sums = terms.sum(axis=1)
        # with cancellation of large terms, extended precision is not enough
        if (np.abs(terms).max(axis=1) <= CANCELS * np.abs(sums)).all():
            return np.asarray(sums, dtype=np.float64)
        whole = [Fraction(float(c)) + Fraction(float(c - np.longdouble(float(c)))) for c in long]
        return np.array([float(sum(t * c for t, c in zip(row, whole, strict=True))) for row in self.exact])


# most series of a table have their numbers at the same periods; what long ones need would take much memory
@lru_cache(maxsize=64)
def _powers_of(points: bytes, centre: float, width: float, degree: int) -> Floats:
    found = powers((np.frombuffer(points, dtype=np.float64) - centre) / width, degree)
    found.flags.writeable = False
    return found


@lru_cache(maxsize=64)
def _ready(points: bytes, degree: int) -> _Ready | None:
    return _made_ready(np.frombuffer(points, dtype=np.float64), degree)


def _made_ready(x: Floats, degree: int) -> _Ready | None:
    low, high = float(x.min()), float(x.max())
    centre, width = (low + high) / 2, (high - low) / 2 or 1.0
    triangles = _triangles(powers((x.astype(np.longdouble) - centre) / width, degree))
    if triangles is None:
        return None
    c, w = Fraction(centre), Fraction(width)
    exact = [
        [Fraction(comb(i, j)) * (-c) ** (i - j) / w**i if i >= j else Fraction(0) for i in range(degree + 1)]
        for j in range(degree + 1)
    ]
    turn = np.array([[_long(number) for number in row] for row in exact])
    return _Ready(triangles, centre, width, exact, turn)


def _long(value: Fraction) -> np.longdouble:
    short = float(value)
    return np.longdouble(short) + np.longdouble(float(value - Fraction(short)))

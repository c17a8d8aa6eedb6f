"""Regression with one prior variance for each group of columns, set by the evidence.

MacKay (1992), Bayesian interpolation, Neural Computation 4, with his fixed point for the variances.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from zembra.core.arithmetic.arrays import Floats, Ints

MOST_ROUNDS = 25
SMALLEST = 1e-10  # prior variance over that of the errors, from which a group is taken as without effect
CONVERGED = 1e-3  # change of all variances in a round, relative


@dataclass(frozen=True, slots=True)
class Shrunken:
    """Coefficients with their covariance.

    evidence: logarithm, but for a constant
    variance: of the errors; rest: sum of squared residuals
    """

    coefficients: Floats
    covariance: Floats
    variance: float
    rest: float
    evidence: float


def shrunken(gram: Floats, moment: Floats, square: float, points: int, groups: Sequence[Ints]) -> Shrunken:
    """Return the regression of z on X, from which columns without a prior are projected out.

    gram: X'X, (k, k); moment: X'z; square: z'z
    points: rows, less the columns projected out
    groups: indices of the columns of each prior variance; together all columns

    With D of prior variances, Σ = (X'X/σ² + D⁻¹)⁻¹, β = ΣX'z/σ², γ_g = k_g − tr Σ_gg/τ_g², τ_g² = |β_g|²/γ_g and
    σ² = RSS/(N − Σγ), at most 25 rounds. The log evidence is −½(N ln σ² + RSS/σ² + β'D⁻¹β + ln|I + D^½X'XD^½/σ²|).
    """
    size = moment.size
    own = np.zeros(size, dtype=np.int64)
    for n, group in enumerate(groups):
        own[group] = n
    sizes = np.bincount(own, minlength=len(groups))
    variance = max(square / points, np.finfo(float).tiny)
    # each group begins with the variance that the values have, spread over its columns
    scale = np.maximum(np.diag(gram), np.finfo(float).tiny)
    priors = np.array([variance * points / (scale[group].sum() or 1.0) for group in groups])
    for _ in range(MOST_ROUNDS):
        before = np.append(priors, variance)
        found = _posterior(gram, moment, square, points, variance, priors[own])
        used = sizes - np.bincount(own, np.diag(found.covariance), len(groups)) / priors
        squares = np.bincount(own, found.coefficients**2, len(groups))
        variance = max(found.rest / max(points - float(used.sum()), 1.0), np.finfo(float).tiny)
        floor = SMALLEST * variance * points / scale.mean()
        priors = np.maximum(np.where(used > 1e-9, squares / np.maximum(used, 1e-9), 0.0), floor)
        after = np.append(priors, variance)
        if (np.abs(after - before) <= CONVERGED * before).all():
            break
    return _posterior(gram, moment, square, points, variance, priors[own])


def _posterior(gram: Floats, moment: Floats, square: float, points: int, variance: float, priors: Floats) -> Shrunken:
    root = np.sqrt(priors)
    inner = np.eye(moment.size) + root[:, None] * gram * root / variance
    lower = np.linalg.cholesky(inner)
    half = np.linalg.solve(lower, np.diag(root))
    covariance = half.T @ half
    beta = covariance @ moment / variance
    rest = max(float(square - 2 * beta @ moment + beta @ gram @ beta), 0.0)
    size = 2 * float(np.log(np.diag(lower)).sum())
    evidence = -0.5 * (points * np.log(variance) + rest / variance + float((beta**2 / priors).sum()) + size)
    return Shrunken(beta, covariance, variance, rest, evidence)

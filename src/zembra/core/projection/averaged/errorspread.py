"""The spread of one-step errors: whether it grows with the level, how large it was lately, and how heavy its tails are.

What each part gains on held-back folds stands in docs/projection.md.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Floats
from zembra.core.projection.ahead import t_point

POWERS = np.array([0.0, 0.25, 0.5, 0.75, 1.0])  # of the level that the spread may be proportional to
POWER_PENALTY = 6.0  # log-likelihood that spread in proportion to the level must gain
HALF_LIFE = 0.15  # of the history: age at which an error counts half for the recent spread
PRIOR_ERRORS = 4.0  # recent errors that the spread of the whole history counts for
LARGEST = 5.0  # root mean squares that one error counts for at most
FEWEST_ERRORS = 10  # below which neither recent errors nor tails are looked at
PRIOR_TAIL = 250.0  # errors from which the quantile of the errors themselves counts more than Student's t
PRIOR_FREEDOM, PRIOR_SCALE = 5, 0.945  # of that t: at 80 % as wide as 8 degrees of freedom, wider beyond
TINY = 1e-300


@dataclass(frozen=True, slots=True)
class ErrorSpread:
    """The spread ahead, relative to the root mean square of all errors.

    factor: (ahead, series)
    sizes: by series, absolute standardised errors with root mean square 1; empty where they are too few
    """

    factor: Floats
    sizes: tuple[Floats, ...]

    def tails(self, level: float) -> Floats:
        """Return the standardised half-width at a coverage in percent, by series: the quantile of the errors
        themselves, shrunk towards a scaled Student's t by n² / (n² + PRIOR_TAIL²), as few errors of a fit have short
        tails.
        """
        heavy = PRIOR_SCALE * t_point(level, PRIOR_FREEDOM)
        own = [float(np.quantile(sizes, level / 100)) if sizes.size else heavy for sizes in self.sizes]
        squares = np.array([sizes.size for sizes in self.sizes], dtype=np.float64) ** 2
        return np.asarray((squares * np.array(own) + PRIOR_TAIL**2 * heavy) / (squares + PRIOR_TAIL**2))


def error_spread(errors: Floats, values: Floats, evidence: Bools, centre: Floats) -> ErrorSpread:
    """Return the spread that one-step errors tell of the periods ahead.

    errors, values: (time, series); values minus errors are the fitted levels
    evidence: mask of errors that count
    centre: (ahead, series)

    The standard deviation is taken as proportional to a power of the level. Powers are weighted by the normal
    likelihood, less POWER_PENALTY times the power; series with values at or below zero have power 0. The errors
    standardised by it, uᵢ, give the recent spread: with bᵢ = min(|uᵢ|, 5s)², s their root mean square, and weights
    wᵢ halved each 0.15 n, the factor is √((4 + m q) / (4 + m)), q = (Σwb / Σw) / mean b, m = (Σw)² / Σw².
    """
    lowest = values.min(axis=0)
    positive = lowest > 0
    fitted = np.where(positive, np.maximum(values - errors, lowest), 1.0)
    onward = np.where(positive, np.maximum(centre, lowest), 1.0)
    counts = np.maximum(evidence.sum(axis=0), 1)
    whole = _root_mean_square(errors, evidence)
    logs = np.where(evidence, np.log(fitted), 0.0).sum(axis=0)
    likelihood, factors = [], []
    for power in POWERS:
        even = errors / fitted**power
        spread = _root_mean_square(even, evidence)
        likelihood.append(-counts * np.log(np.maximum(spread, TINY)) - power * (logs + POWER_PENALTY))
        factors.append(spread * _recent_factor(even, evidence) * onward**power)
    weights = np.exp(np.array(likelihood) - np.max(likelihood, axis=0))
    weights /= weights.sum(axis=0)
    factor = (weights[:, None, :] * np.array(factors)).sum(axis=0)
    even = errors / fitted ** (weights * POWERS[:, None]).sum(axis=0)
    return ErrorSpread(
        np.where(whole > 0, factor / np.where(whole > 0, whole, 1.0), 1.0), tuple(_sizes(even, evidence))
    )


def _recent_factor(errors: Floats, evidence: Bools) -> Floats:
    """Return the recent over the whole spread, by series; 1 for few errors."""
    counts = np.maximum(evidence.sum(axis=0), 1)
    clipped = np.where(evidence, np.minimum(errors**2, (LARGEST * _root_mean_square(errors, evidence)) ** 2), 0.0)
    age = np.cumsum(evidence[::-1], axis=0)[::-1] - 1
    weights = np.where(evidence, 0.5 ** (age / (HALF_LIFE * counts)), 0.0)
    total = np.maximum(weights.sum(axis=0), TINY)
    mean = clipped.sum(axis=0) / counts
    recent = (weights * clipped).sum(axis=0) / total / np.where(mean > 0, mean, 1.0)
    effective = total**2 / np.maximum((weights**2).sum(axis=0), TINY)
    factor = np.sqrt((PRIOR_ERRORS + effective * recent) / (PRIOR_ERRORS + effective))
    return np.where((counts >= FEWEST_ERRORS) & (mean > 0), factor, 1.0)


def _sizes(errors: Floats, evidence: Bools) -> Sequence[Floats]:
    found = []
    for column, known in zip(errors.T, evidence.T, strict=True):
        own = np.abs(column[known])
        size = float(np.sqrt(np.mean(own**2))) if own.size >= FEWEST_ERRORS else 0.0
        found.append(own / size if size > 0 else np.zeros(0))
    return found


def _root_mean_square(errors: Floats, evidence: Bools) -> Floats:
    counts = np.maximum(evidence.sum(axis=0), 1)
    return np.asarray(np.sqrt(np.where(evidence, errors**2, 0.0).sum(axis=0) / counts))

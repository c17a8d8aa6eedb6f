"""Errors of least-squares fits whose residuals are autocorrelated.

How often bands and intervals made of them hold stands in docs/manual/statistics.md.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.arithmetic.correlation import autocorrelation

MOST_LAGS = 3
MOST_RHO = 0.97
LEAST_SUM = 0.015  # one minus the sum of the coefficients: nearer to a unit root than that nothing can be estimated
FEWEST_FREE = 2.0


@dataclass(frozen=True, slots=True)
class CorrelatedErrors:
    """The errors of a fit.

    rho: coefficient of the first-order autoregression with the long-run variance of the residuals
    spread: standard deviation of the residuals, corrected for what the fit took off
    freedom: degrees of freedom, as many as independent residuals would leave
    root: gives the covariance of the coefficients as root · rootᵀ
    slope_inflation: standard error of the slope over that with independent residuals
    """

    rho: float
    spread: float
    freedom: float
    root: Floats
    slope_inflation: float

    def error_at(self, rows: Floats) -> Floats:
        """Return the standard error of the line at rows of a design."""
        return np.asarray(np.sqrt(((rows @ self.root) ** 2).sum(axis=1)))

    def quantile(self, level: float) -> float:
        """Return the quantile of Student's t for a coverage in percent."""
        from scipy.special import stdtrit

        return float(stdtrit(self.freedom, 0.5 + level / 200))


def correlated_errors(design: Floats, root: Floats, rest: Floats, least: float = 0.0) -> CorrelatedErrors:
    """Return the errors of a fit with n rows and k columns.

    design: (n, k), the slope in its second column, or in the only one
    root: (k, k), inverse of the triangle of its QR decomposition
    rest: n residuals
    least: of ρ, where it is known from more

    The covariance is (X'X)⁻¹ X'ΩX (X'X)⁻¹ with Ω of a first-order autoregression. Its coefficient ρ gives the ratio of
    long-run variance to variance, (1 + ρ) / (1 − ρ), of an autoregression of order 1 to 3, by Yule and Walker, chosen by
    AICc. The autocorrelations are corrected before for what the fit takes off (as Kendall, 1954, for the mean): with c the
    trace of the hat matrix one off its diagonal, r₁ becomes (n r₁ + c) / (n − 2c), and the others in proportion. Negative
    autocorrelation does not count. The variance is RSS / (n − tr HΩ), and n (1 − ρ) / (1 + ρ) − k the degrees of freedom.
    """
    n, k = design.shape
    orthogonal = design @ root
    rho = max(least, _long_run_rho(rest, float((orthogonal[1:] * orthogonal[:-1]).sum()), k))
    inner = orthogonal.T @ _times_correlations(orthogonal, rho)
    squares = float(rest @ rest)
    spread = float(np.sqrt(squares / max(n - float(np.trace(inner)), 1.0)))
    values, vectors = np.linalg.eigh(inner)
    half = vectors * np.sqrt(np.maximum(values, 0.0))
    freedom = max(n * (1 - rho) / (1 + rho) - k, min(FEWEST_FREE, max(n - k, 1)))
    slope = min(1, k - 1)
    independent = float(np.sqrt(squares / max(n - k, 1)) * np.linalg.norm(root[slope]))
    allowing = spread * root @ half
    inflation = float(np.linalg.norm(allowing[slope])) / independent if independent > 0 else 1.0
    return CorrelatedErrors(rho, spread, freedom, allowing, inflation)


def correlated_errors_of_line(x: Floats, rest: Floats) -> CorrelatedErrors:
    """Return the errors for the residuals of a straight line that is fitted otherwise than by least squares."""
    design = np.column_stack((np.ones(x.size), (x - x.mean()) / (np.ptp(x) or 1.0)))
    return correlated_errors(design, _root(design), rest)


def fitted_with_errors(design: Floats, values: Floats, least: float = 0.0) -> tuple[Floats, CorrelatedErrors]:
    """Fit by least squares; return the coefficients and their errors, as `correlated_errors` does."""
    found, *_ = np.linalg.lstsq(design, values, rcond=None)
    return np.asarray(found), correlated_errors(design, _root(design), values - design @ found, least)


def _root(design: Floats) -> Floats:
    return np.asarray(np.linalg.inv(np.linalg.qr(design)[1]))


def _long_run_rho(rest: Floats, taken: float, columns: int) -> float:
    n = rest.size
    if n - 2 * taken < 2 or n <= columns + MOST_LAGS:
        return 0.0
    found = np.concatenate(([1.0], autocorrelation(rest, min(MOST_LAGS, n - 1))))
    first = min((n * found[1] + taken) / (n - 2 * taken), MOST_RHO)
    missing = (first - found[1]) / (1 - found[1]) if found[1] < 1 else 0.0
    found = found * (1 - missing) + missing
    best, ratio = np.inf, 1.0
    for order in range(1, found.size):
        lags = np.abs(np.subtract.outer(np.arange(order), np.arange(order)))
        ahead = found[1 : order + 1]
        try:
            weights = np.linalg.solve(found[lags], ahead)
        except np.linalg.LinAlgError:
            break
        left = 1 - float(weights @ ahead)
        if left <= 0:
            break
        aicc = n * np.log(left) + 2 * order * n / max(n - order - columns - 1, 1)
        if aicc < best:
            best, ratio = aicc, left / max(1 - float(weights.sum()), LEAST_SUM) ** 2
    return float(np.clip((ratio - 1) / (ratio + 1), 0.0, MOST_RHO))


def _times_correlations(columns: Floats, rho: float) -> Floats:
    """Return Ω times columns, Ωᵢⱼ = ρ^|i − j|."""
    from scipy.signal import lfilter

    forward, backward = (lfilter([1.0], [1.0, -rho], along, axis=0) for along in (columns, columns[::-1]))
    return np.asarray(forward + backward[::-1] - columns)

"""Autocorrelation and the Ljung-Box test. Our own, as importing the library takes a second while a user waits; the tests
compare both."""

from __future__ import annotations

import numpy as np

from zembra.core.arithmetic.arrays import Floats


def autocorrelation(values: Floats, lags: int) -> Floats:
    """Return the autocorrelation at lags 1 to `lags`; zeros for constant values."""
    centred = values - values.mean()
    total = float((centred**2).sum())
    if total <= 0:
        return np.zeros(lags)
    return np.array([float((centred[lag:] * centred[:-lag]).sum()) / total for lag in range(1, lags + 1)])


def ljung_box(left: Floats, lags: int) -> tuple[float, float]:
    """Return the statistic of Ljung and Box (1978), and its p-value."""
    from scipy.special import chdtrc

    rho = autocorrelation(left, lags)
    box = left.size * (left.size + 2) * float((rho**2 / (left.size - np.arange(1, lags + 1))).sum())
    return box, float(chdtrc(lags, box))

"""Autocorrelation and the Ljung-Box test. Our own, as importing the library takes a second while a user waits; the tests
compare both."""

from __future__ import annotations

import numpy as np

from zembra.core.arithmetic.arrays import Floats


def autocorrelation(values: Floats, lags: int) -> Floats:
    """At 1 … lags apart; zero throughout where every value is the same."""
    centred = values - values.mean()
    total = float((centred**2).sum())
    if total <= 0:
        return np.zeros(lags)
    return np.array([float((centred[lag:] * centred[:-lag]).sum()) / total for lag in range(1, lags + 1)])


def ljung_box(left: Floats, lags: int) -> tuple[float, float]:
    """(the statistic over so many lags, the chance of as much by chance) after Ljung and Box (1978)."""
    from scipy.special import chdtrc

    rho = autocorrelation(left, lags)
    box = left.size * (left.size + 2) * float((rho**2 / (left.size - np.arange(1, lags + 1))).sum())
    return box, float(chdtrc(lags, box))

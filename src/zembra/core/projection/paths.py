"""Simulate paths of a projection, to tell the chance of reaching a target by a period."""

from __future__ import annotations

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.projection.ahead import normal_point
from zembra.core.projection.limits import HalfWidth

PATHS = 4000
MOST_NUMBERS = 4_000_000  # of all paths together
SEED = 0


def chances_beyond(
    mean: Floats, half: HalfWidth, target: float, *, upward: bool, responses: Floats
) -> tuple[Floats, Floats]:
    """Return the probability of being beyond a target in each period ahead, and of having been so by then.

    The error j periods ahead is Σ σψᵢ ε by `Projected.responses`; what limits exceed that, for estimation, is one
    persistent error. Without responses, the growth of the limits tells them: ψᵢ² = σ²ᵢ₊₁ − σ²ᵢ, at least zero. The
    side of the target has its own width. The paths are seeded, so that results repeat.
    """
    # slow to import
    from scipy.signal import fftconvolve
    from scipy.special import ndtr

    scale = np.where(mean < target, half.above, half.below) / normal_point(half.level)
    with np.errstate(divide="ignore", invalid="ignore"):
        need = (target - mean) / scale
    # without width the chance is 0 or 1
    certain = np.where((mean >= target) if upward else (mean > target), -np.inf, np.inf)
    need = np.where(scale > 0, need, certain)
    there = ndtr(-need) if upward else ndtr(need)
    spread = np.maximum.accumulate(half.below + half.above) / 2 / normal_point(half.level)
    if responses.size < mean.size:
        responses = np.sqrt(np.diff(spread**2, prepend=0.0))
    left = responses[: mean.size]
    if spread[0] <= 0 or left[0] <= 0:
        return there, np.maximum.accumulate(there)
    of_errors = np.sqrt(np.cumsum(left**2))
    shown = np.minimum(of_errors, spread)
    count = min(PATHS, MOST_NUMBERS // mean.size)
    errors = np.random.default_rng(SEED).standard_normal((mean.size + 1, count // 2))
    errors = np.concatenate((errors, -errors), axis=1)
    paths = fftconvolve(errors[1:], left[:, None], axes=0)[: mean.size] * (shown / of_errors)[:, None]
    paths += np.sqrt(spread**2 - shown**2)[:, None] * errors[0]
    paths /= spread[:, None]
    beyond = paths >= need[:, None] if upward else paths <= need[:, None]
    by_then = np.logical_or.accumulate(beyond, axis=0).mean(axis=1)
    # simulated, so it may differ slightly from the exact value
    return there, np.maximum(by_then, np.maximum.accumulate(there))

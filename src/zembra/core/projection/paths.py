"""Simulate paths of a projection, to tell the chance of reaching a target by a period."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Floats
from zembra.core.projection.ahead import Projected, normal_point
from zembra.core.projection.limits import HalfWidth

PATHS = 4000
MOST_NUMBERS = 4_000_000  # of all paths together
SEED = 0


def chances_beyond(found: Projected, target: float, *, upward: bool) -> tuple[Floats, Floats]:
    """Return the probability of being beyond a target in each period ahead, and of having been so by then.

    An average of models is simulated as a mixture: each path follows one model, drawn by weight, on levels or on
    logarithms, with errors drawn from those of the past. Other methods are told by their limits. The paths are seeded, so
    that results repeat.
    """
    if not found.paths:
        return chances_by_limits(found.mean, found.halves[-1], target, upward=upward)
    widest = found.halves[-1]
    certain = widest.below + widest.above <= 0
    at_once = found.mean >= target if upward else found.mean <= target
    beyond = [
        np.where(certain[:, None], at_once[:, None], paths >= target if upward else paths <= target)
        for paths in _paths_by_model(found)
    ]
    return _shares(np.concatenate(beyond, axis=1))


def _shares(beyond: Bools) -> tuple[Floats, Floats]:
    """Return the share of paths that are beyond in each period, and that were by then."""
    return beyond.mean(axis=1), np.logical_or.accumulate(beyond, axis=0).mean(axis=1)


def _paths_by_model(found: Projected) -> Iterator[Floats]:
    """Yield paths of each model, (ahead, paths)."""
    rng = np.random.default_rng(SEED)
    total = sum(path.weight for path in found.paths)
    # events, seasons and bounds move the centre after the models
    moved = found.mean - sum(path.weight * path.mean for path in found.paths) / total
    reach = int(found.paths[0].steps[-1]) + 1
    most = min(PATHS, MOST_NUMBERS // reach)
    for path in found.paths:
        count = round(most * path.weight / total)
        if not count:
            continue
        shape = (reach, count)
        shocks = rng.choice(path.shocks, shape) if path.shocks.size else rng.standard_normal(shape)
        errors = _accumulated(shocks, path.responses[:reach]) * path.widening[:reach, None]
        own = errors[path.steps]
        base = path.mean[:, None]
        with np.errstate(over="ignore"):
            yield moved[:, None] + (base * np.exp(own) if path.in_logs else base + own)


def _accumulated(shocks: Floats, responses: Floats) -> Floats:
    """Return Σ ψᵢ ε of the shocks so far, (ahead, paths)."""
    # slow to import
    from scipy.signal import fftconvolve

    return np.asarray(fftconvolve(shocks, responses[:, None], axes=0)[: shocks.shape[0]])


def chances_by_limits(mean: Floats, half: HalfWidth, target: float, *, upward: bool) -> tuple[Floats, Floats]:
    """As `chances_beyond`, from a centre and half-widths.

    The error j periods ahead is Σ ψᵢ ε with ψᵢ² = σ²ᵢ₊₁ − σ²ᵢ, at least zero, from the growth of the limits. The side of
    the target has its own width.
    """
    from scipy.special import ndtr

    scale = np.where(mean < target, half.above, half.below) / normal_point(half.level)
    with np.errstate(divide="ignore", invalid="ignore"):
        need = (target - mean) / scale
    # without width the chance is 0 or 1
    certain = np.where((mean >= target) if upward else (mean > target), -np.inf, np.inf)
    need = np.where(scale > 0, need, certain)
    there = ndtr(-need) if upward else ndtr(need)
    spread = np.maximum.accumulate(half.below + half.above) / 2 / normal_point(half.level)
    if spread[0] <= 0:
        return there, np.maximum.accumulate(there)
    count = min(PATHS, MOST_NUMBERS // mean.size)
    shocks = np.random.default_rng(SEED).standard_normal((mean.size, count // 2))
    paths = _accumulated(np.concatenate((shocks, -shocks), axis=1), np.sqrt(np.diff(spread**2, prepend=0.0)))
    paths /= spread[:, None]
    _, by_then = _shares(paths >= need[:, None] if upward else paths <= need[:, None])
    # simulated, so it may differ slightly from the exact value
    return there, np.maximum(by_then, np.maximum.accumulate(there))

"""The result of a projection method: a centre for each period ahead, and half-widths on both sides."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cache

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Floats, Ints
from zembra.core.projection.limits import HalfWidth, Limits

Number = float | str | None
MOST_AHEAD = 3650  # periods
MOST_SHARE = 0.6  # of quantities estimated among the values, beyond which widening no longer grows


@dataclass(frozen=True, slots=True)
class History:
    """What a method is shown. values: in order, without gaps. known: which of them came in; the others were closed for
    the fit only. season: its length, None where there is none. usual: the season of the calendar, which a decomposition
    may still find strong enough where the F test finds none."""

    values: Floats
    known: Bools
    season: int | None = None
    usual: int | None = None

    @property
    def size(self) -> int:
        return int(self.values.size)

    @property
    def points(self) -> int:
        """How many values are evidence."""
        return int(self.known.sum())

    def until(self, place: int) -> History:
        """What was known before a place; gaps after its last value are left away."""
        last = np.flatnonzero(self.known[:place])
        end = int(last[-1]) + 1 if last.size else 0
        return replace(self, values=self.values[:end], known=self.known[:end])


@dataclass(frozen=True, slots=True)
class Projected:
    """mean: one element a period ahead. seasonal: whether it makes use of the season. estimates: the fitted numbers, by
    name. left: one-step errors over the history, NaN where there is none. parts: the methods it is made of. form: what
    to fit again on less of the history. cut: places of values that lay too far from what was expected of them, with
    what was taken instead. responses: what is left of an error of the usual size so many periods after it (σψ), in the unit of the values;
    empty where the method does not say."""

    method: str
    mean: Floats
    halves: tuple[HalfWidth, ...]
    estimates: Mapping[str, Number] = field(default_factory=dict)
    left: Floats = field(default_factory=lambda: np.zeros(0))
    parts: tuple[Projected, ...] = ()
    form: object = None
    seasonal: bool = False
    cut: Mapping[int, float] = field(default_factory=dict)
    responses: Floats = field(default_factory=lambda: np.zeros(0))

    @property
    def limits(self) -> tuple[Limits, ...]:
        return tuple(Limits(half.level, self.mean - half.below, self.mean + half.above) for half in self.halves)

    def widened(self, by: float) -> Projected:
        """With all half-widths times a factor: limits of several levels never cross."""
        return replace(
            self, halves=tuple(HalfWidth(half.level, half.below * by, half.above * by) for half in self.halves)
        )

    def widened_each(self, by: Sequence[float]) -> Projected:
        """With the half-widths of each level times its own factor, none narrower than those of the level before."""
        halves: list[HalfWidth] = []
        for half, factor in zip(self.halves, by, strict=True):
            below, above = half.below * factor, half.above * factor
            if halves:
                below, above = np.maximum(below, halves[-1].below), np.maximum(above, halves[-1].above)
            halves.append(HalfWidth(half.level, below, above))
        return replace(self, halves=tuple(halves))

    def at(self, places: Ints) -> Projected:
        """At some of the periods ahead, the first being 0."""
        halves = tuple(HalfWidth(half.level, half.below[places], half.above[places]) for half in self.halves)
        every = np.array_equal(places, np.arange(places.size))
        return replace(
            self,
            mean=self.mean[places],
            halves=halves,
            parts=tuple(part.at(places) for part in self.parts),
            responses=self.responses if every else np.zeros(0),
        )

    def zero_at(self, places: Bools) -> Projected:
        """With zero, and nothing round it, at some of the periods ahead."""
        halves = tuple(
            HalfWidth(half.level, np.where(places, 0.0, half.below), np.where(places, 0.0, half.above))
            for half in self.halves
        )
        return replace(self, mean=np.where(places, 0.0, self.mean), halves=halves)

    def mapped(self, low: float | None, high: float | None, *, whole: bool) -> Projected:
        """Kept between two numbers, centre and limits, and rounded to whole numbers where these are asked for."""
        floor, top = -np.inf if low is None else low, np.inf if high is None else high
        mean = np.clip(self.mean, floor, top)
        lower_upper = [(np.clip(limit.lower, floor, top), np.clip(limit.upper, floor, top)) for limit in self.limits]
        if whole:
            mean = np.round(mean)
            lower_upper = [(np.floor(lower), np.ceil(upper)) for lower, upper in lower_upper]
        halves = tuple(
            HalfWidth(half.level, mean - lower, upper - mean)
            for half, (lower, upper) in zip(self.halves, lower_upper, strict=True)
        )
        return replace(self, mean=mean, halves=halves)


def for_gaps(found: Projected, history: History) -> Projected:
    """With limits as much wider as gaps are no evidence."""
    return found.widened(float(np.sqrt(history.size / max(1, history.points))))


def normal_halves(spread: Floats, levels: Sequence[float]) -> tuple[HalfWidth, ...]:
    """Of normal errors with a standard deviation for each period ahead."""
    return tuple(
        HalfWidth(level, width, width) for level, width in ((share, normal_point(share) * spread) for share in levels)
    )


def corrected(halves: Sequence[HalfWidth], quantities: int, points: int) -> tuple[HalfWidth, ...]:
    """Half-widths that allow for `quantities` that were estimated from so many `points`.

    A fit's own spread takes what it estimated as given. Times √((1 + u) / (1 − u)) with u = quantities / points, as the
    final prediction error of Akaike (1969) has it.
    """
    by = float(for_estimates(np.array(quantities), np.array(max(1, points))))
    return tuple(HalfWidth(half.level, half.below * by, half.above * by) for half in halves)


def for_estimates(quantities: Floats | Ints, points: Ints) -> Floats:
    """What spreads are multiplied by for quantities that were estimated from so many points, as `corrected` has it."""
    share = np.minimum(quantities / points, MOST_SHARE)
    return np.asarray(np.sqrt((1 + share) / (1 - share)))


def heavy_tailed(halves: Sequence[HalfWidth]) -> tuple[HalfWidth, ...]:
    """With the quantiles of Student's t with 8 degrees of freedom for those of the normal distribution."""
    return tuple(
        HalfWidth(normal.level, normal.below * by, normal.above * by)
        for normal, by in ((half, t_point(half.level) / normal_point(half.level)) for half in halves)
    )


def normal_point(level: float) -> float:
    """How many standard deviations hold a coverage in percent."""
    from statistics import NormalDist

    return NormalDist().inv_cdf(0.5 + level / 200)


@cache
def t_point(level: float, freedom: int = 8) -> float:
    # slow to import
    from scipy.special import stdtrit

    return float(stdtrit(freedom, 0.5 + level / 200))

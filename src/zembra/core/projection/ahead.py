"""The result of a projection method: a centre for each period ahead, and half-widths on both sides."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date
from enum import Enum
from functools import cache

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Floats, Ints, Moments
from zembra.core.projection.limits import HalfWidth, Limits

Number = float | str | None
MOST_AHEAD = 3650  # periods
MOST_SHARE = 0.6  # of quantities estimated among the values, beyond which widening no longer grows


HolidayNames = Callable[[int, int], Mapping[date, str]]


class RowStep(Enum):
    """The length of a period on a row of periods."""

    HOUR = "hour"
    DAY = "day"
    WEEK = "week"


@dataclass(frozen=True, slots=True)
class CalendarRow:
    """The dates of a row of periods, from its first value on.

    key: distinguishes rows
    week: periods per week
    moments_until: returns the first moments, in local time, of so many periods
    place, holidays: whose public holidays are looked at, and their names by day from a year to another one
    """

    key: Hashable
    step: RowStep
    week: int
    moments_until: Callable[[int], Moments]
    place: str = ""
    holidays: HolidayNames | None = None


@dataclass(frozen=True, slots=True)
class History:
    """The history that a method is fitted to.

    values: in order, without gaps
    known: mask of observed values; others were filled for the fit only
    season: season length, or None
    usual: the calendar's season, which a decomposition may find where the F test does not
    calendar: dates, if effects of the calendar may be looked for
    """

    values: Floats
    known: Bools
    season: int | None = None
    usual: int | None = None
    calendar: CalendarRow | None = None

    @property
    def size(self) -> int:
        return int(self.values.size)

    @property
    def points(self) -> int:
        """The number of observed values."""
        return int(self.known.sum())

    def until(self, place: int) -> History:
        """Return the history before an index, without trailing gaps."""
        last = np.flatnonzero(self.known[:place])
        end = int(last[-1]) + 1 if last.size else 0
        return replace(self, values=self.values[:end], known=self.known[:end])


@dataclass(frozen=True, slots=True)
class ModelPath:
    """How one of several models goes on, for simulation.

    weight: among all
    mean: centre, one element per period ahead, in the unit of the values
    responses: effect of a one-sigma error after so many periods (σψ), in that unit or on logarithms
    widening: factor of the errors, one element per period ahead
    shocks: standardised errors; empty for normal ones
    in_logs: whether the model works on logarithms
    steps: positions of the elements of the mean among all periods ahead
    """

    weight: float
    mean: Floats
    responses: Floats
    widening: Floats
    shocks: Floats
    in_logs: bool
    steps: Ints

    def at(self, places: Ints) -> ModelPath:
        """Select elements of the mean."""
        return replace(self, mean=self.mean[places], steps=self.steps[places])


@dataclass(frozen=True, slots=True)
class CalendarEffect:
    """An effect of the calendar, on average over an occasion.

    family, occasion: names
    value, error: in the unit of the values, or of their logarithms if `in_logs`
    """

    family: str
    occasion: str
    value: float
    error: float
    in_logs: bool


@dataclass(frozen=True, slots=True)
class Projected:
    """A projection.

    mean: the centre, one element per period ahead
    seasonal: whether the season is used
    estimates: fitted numbers by name
    left: one-step errors over the history, NaN where undefined
    parts: component projections
    form: the form to refit on less history
    cut: winsorised values by index, with their replacements
    paths: of the models that are averaged; empty for other methods
    effects: of the calendar, that were taken into account
    """

    method: str
    mean: Floats
    halves: tuple[HalfWidth, ...]
    estimates: Mapping[str, Number] = field(default_factory=dict)
    left: Floats = field(default_factory=lambda: np.zeros(0))
    parts: tuple[Projected, ...] = ()
    form: object = None
    seasonal: bool = False
    cut: Mapping[int, float] = field(default_factory=dict)
    paths: tuple[ModelPath, ...] = ()
    effects: tuple[CalendarEffect, ...] = ()

    @property
    def limits(self) -> tuple[Limits, ...]:
        return tuple(Limits(half.level, self.mean - half.below, self.mean + half.above) for half in self.halves)

    def widened(self, by: float) -> Projected:
        """Multiply all half-widths by one factor; limits of several levels never cross."""
        halves = tuple(HalfWidth(half.level, half.below * by, half.above * by) for half in self.halves)
        return replace(self, halves=halves, paths=self._wider_paths(by))

    def _wider_paths(self, by: float) -> tuple[ModelPath, ...]:
        return tuple(replace(path, widening=path.widening * by) for path in self.paths)

    def widened_each(self, by: Sequence[float]) -> Projected:
        """Multiply the half-widths of each level by its own factor, none narrower than those of a lower level."""
        halves: list[HalfWidth] = []
        for half, factor in zip(self.halves, by, strict=True):
            below, above = half.below * factor, half.above * factor
            if halves:
                below, above = np.maximum(below, halves[-1].below), np.maximum(above, halves[-1].above)
            halves.append(HalfWidth(half.level, below, above))
        return replace(self, halves=tuple(halves), paths=self._wider_paths(float(by[-1])))

    def at(self, places: Ints) -> Projected:
        """Select periods ahead, counted from 0."""
        halves = tuple(HalfWidth(half.level, half.below[places], half.above[places]) for half in self.halves)
        return replace(
            self,
            mean=self.mean[places],
            halves=halves,
            parts=tuple(part.at(places) for part in self.parts),
            paths=tuple(path.at(places) for path in self.paths),
        )

    def zero_at(self, places: Bools) -> Projected:
        """Set centre and half-widths to zero at some periods."""
        halves = tuple(
            HalfWidth(half.level, np.where(places, 0.0, half.below), np.where(places, 0.0, half.above))
            for half in self.halves
        )
        return replace(self, mean=np.where(places, 0.0, self.mean), halves=halves)

    def mapped(self, low: float | None, high: float | None, *, whole: bool) -> Projected:
        """Clip centre and limits to two numbers, and round them if asked."""
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
    """Widen the limits by the share of gaps in the history."""
    return found.widened(float(np.sqrt(history.size / max(1, history.points))))


def normal_halves(spread: Floats, levels: Sequence[float]) -> tuple[HalfWidth, ...]:
    """Return half-widths of normal errors with a standard deviation for each period ahead."""
    return tuple(
        HalfWidth(level, width, width) for level, width in ((share, normal_point(share) * spread) for share in levels)
    )


def corrected(halves: Sequence[HalfWidth], quantities: int, points: int) -> tuple[HalfWidth, ...]:
    """Inflate half-widths for `quantities` estimated from `points`, which the fit's own spread ignores: times √((1
    + u) / (1 − u)) with u = quantities / points, the final prediction error of Akaike (1969).
    """
    by = float(for_estimates(np.array(quantities), np.array(max(1, points))))
    return tuple(HalfWidth(half.level, half.below * by, half.above * by) for half in halves)


def for_estimates(quantities: Floats | Ints, points: Ints) -> Floats:
    """Return the factor of `corrected`."""
    share = np.minimum(quantities / points, MOST_SHARE)
    return np.asarray(np.sqrt((1 + share) / (1 - share)))


def heavy_tailed(halves: Sequence[HalfWidth]) -> tuple[HalfWidth, ...]:
    """Replace normal quantiles by those of Student's t with 8 degrees of freedom."""
    return tuple(
        HalfWidth(normal.level, normal.below * by, normal.above * by)
        for normal, by in ((half, t_point(half.level) / normal_point(half.level)) for half in halves)
    )


def normal_point(level: float) -> float:
    """Return the standard deviations that hold a coverage in percent."""
    from statistics import NormalDist

    return NormalDist().inv_cdf(0.5 + level / 200)


@cache
def t_point(level: float, freedom: int = 8) -> float:
    # slow to import
    from scipy.special import stdtrit

    return float(stdtrit(freedom, 0.5 + level / 200))

"""Centres and widths of a band as words."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from zembra.core.arithmetic.arrays import Floats, Ints
from zembra.core.arithmetic.robust import MAD_TO_SD
from zembra.core.arithmetic.rolling import rolling_count, rolling_order, rolling_spread
from zembra.core.arithmetic.windows import Windows
from zembra.core.grammar import Clause, Word

ROUNDING = 1e-9
SIMULATED = 200_000  # points of all samples together
MOST_SIMULATED = 400  # points of a sample, beyond which it is as of the normal distribution
Edges = tuple[Floats, Floats]
Times = Annotated[float, Field(title="how many", gt=0, le=10), Word(step=0.5)]


class Width(Clause):
    """The width of a band.

    rolls: whether its edges depend on the values of the window alone
    """

    rolls: ClassVar[bool] = False

    def usual_share(self, points: Ints) -> Floats | None:
        """Return the expected share (0 to 1) of a window's own points inside, by window size, for normal values
        unless the distribution does not matter. None if unknown.
        """
        return None

    def edges(self, middle: Floats, values: Floats, windows: Windows, need: int, own: bool) -> Edges:
        """Return the lower and the upper edge.

        middle: centre of the band
        own: whether that is the mean of the same windows
        """
        raise NotImplementedError


def _away(middle: Floats, values: Floats, own: bool) -> Floats:
    """Return the values to spread: those of the window, or their distances from the centre."""
    return values if own else values - middle


class Spreads(Width):
    label: ClassVar[str] = "standard deviations"
    tip: ClassVar[str] = "over n − 1, of the numbers in the window"

    kind: Literal["spreads"] = "spreads"
    times: Times = 2.0

    def template(self) -> str:
        return "{times} {self} (n − 1) either side of"

    def usual_share(self, points: Ints) -> Floats:
        """The standardised distance of a point from the mean of its own sample is bounded: its square times n / (n
        − 1)² has a beta distribution with 1/2 and n/2 − 1 (Thompson, 1935).
        """
        # slow to import
        from scipy.special import betainc

        n = np.maximum(points, 2).astype(np.float64)
        share = np.minimum(self.times**2 * n / (n - 1) ** 2, 1.0)
        return np.where(n > 2, betainc(0.5, np.maximum(n / 2 - 1, 1e-9), share), float(self.times**2 >= 0.5))

    def edges(self, middle: Floats, values: Floats, windows: Windows, need: int, own: bool) -> Edges:
        reach = self.times * rolling_spread(_away(middle, values, own), windows, need)
        return middle - reach, middle + reach


class StandardErrors(Width):
    label: ClassVar[str] = "standard errors"
    tip: ClassVar[str] = "of the mean: the standard deviation over the root of how many numbers it is of"

    kind: Literal["errors"] = "errors"
    times: Times = 2.0

    def template(self) -> str:
        return "{times} {self} of the mean either side of"

    def edges(self, middle: Floats, values: Floats, windows: Windows, need: int, own: bool) -> Edges:
        away = _away(middle, values, own)
        reach = self.times * rolling_spread(away, windows, need) / np.sqrt(rolling_count(away, windows, need))
        return middle - reach, middle + reach


class Percentiles(Width):
    label: ClassVar[str] = "from one percentile to another,"
    tip: ClassVar[str] = "of the numbers in the window, linear between neighbours"
    rolls: ClassVar[bool] = True

    kind: Literal["percentiles"] = "percentiles"
    low: Annotated[float, Field(title="lower percentile", ge=0, le=100), Word(unit="%", step=5)] = 10.0
    high: Annotated[float, Field(title="upper percentile", ge=0, le=100), Word(unit="%", step=5)] = 90.0

    @model_validator(mode="after")
    def _ordered(self) -> Percentiles:
        if self.low >= self.high:
            raise ValueError("the lower percentile lies below the upper one")
        return self

    def template(self) -> str:
        return "{self} {low} to {high}, round"

    def usual_share(self, points: Ints) -> Floats:
        """The share of ranks between the two percentiles, whatever the distribution."""
        gaps = np.maximum(points, 1) - 1
        first, last = np.ceil(gaps * self.low / 100 - ROUNDING), np.floor(gaps * self.high / 100 + ROUNDING)
        return np.asarray((last - first + 1) / (gaps + 1))

    def edges(self, middle: Floats, values: Floats, windows: Windows, need: int, own: bool) -> Edges:
        low, high = (
            rolling_order(values, windows, need, "quantile", percent / 100) for percent in (self.low, self.high)
        )
        return low, high


class SmallestToLargest(Width):
    label: ClassVar[str] = "from the smallest to the largest, round"
    rolls: ClassVar[bool] = True

    kind: Literal["range"] = "range"

    def edges(self, middle: Floats, values: Floats, windows: Windows, need: int, own: bool) -> Edges:
        return rolling_order(values, windows, need, "min"), rolling_order(values, windows, need, "max")


class PercentOf(Width):
    label: ClassVar[str] = "percent of it"

    kind: Literal["percent"] = "percent"
    share: Annotated[float, Field(title="how much", gt=0, le=1000), Word(unit="%", step=1)] = 10.0

    def template(self) -> str:
        return "{share} of it ({self}) either side of"

    def edges(self, middle: Floats, values: Floats, windows: Windows, need: int, own: bool) -> Edges:
        reach = np.abs(middle) * self.share / 100
        return middle - reach, middle + reach


class FixedDistance(Width):
    label: ClassVar[str] = "a fixed distance,"

    kind: Literal["distance"] = "distance"
    distance: Annotated[float, Field(title="how far", gt=0, allow_inf_nan=False)] = 100.0

    def template(self) -> str:
        return "{self} {distance}, either side of"

    def edges(self, middle: Floats, values: Floats, windows: Windows, need: int, own: bool) -> Edges:
        return middle - self.distance, middle + self.distance


class ScaledDeviations(Width):
    label: ClassVar[str] = "scaled median deviations"
    tip: ClassVar[str] = "1.4826 times the median absolute deviation from the window's median"

    kind: Literal["mad"] = "mad"
    times: Times = 2.0

    def template(self) -> str:
        return "{times} {self} either side of"

    def usual_share(self, points: Ints) -> Floats:
        shares = {size: _share_within_deviations(self.times, size) for size in np.unique(points).tolist()}
        return np.array([shares[size] for size in points.tolist()])

    def edges(self, middle: Floats, values: Floats, windows: Windows, need: int, own: bool) -> Edges:
        away = _away(middle, values, own)
        reach = self.times * MAD_TO_SD * _deviations(away, windows, need)
        return middle - reach, middle + reach


def _deviations(values: Floats, windows: Windows, need: int) -> Floats:
    """Return the median absolute deviation in each window."""
    found = np.full(values.size, np.nan)
    for at, (first, end) in enumerate(zip(windows.first.tolist(), windows.end.tolist(), strict=True)):
        part = values[first:end]
        part = part[~np.isnan(part)]
        if part.size >= max(1, need):
            found[at] = np.median(np.abs(part - np.median(part)))
    return found


@lru_cache(maxsize=512)
def _share_within_deviations(times: float, size: int) -> float:
    """Simulate how often a normal point lies within so many scaled deviations of its own sample's mean."""
    if size > MOST_SIMULATED:
        return math.erf(times / math.sqrt(2))
    samples = np.random.default_rng(0).standard_normal((SIMULATED // max(1, size), max(1, size)))
    middle = np.median(samples, axis=1, keepdims=True)
    reach = times * MAD_TO_SD * np.median(np.abs(samples - middle), axis=1, keepdims=True)
    return float((np.abs(samples - samples.mean(axis=1, keepdims=True)) <= reach).mean())


AnyWidth = Spreads | StandardErrors | Percentiles | SmallestToLargest | PercentOf | FixedDistance | ScaledDeviations


class Round(Clause):
    pass


class RoundAverage(Round):
    label: ClassVar[str] = "the average"

    kind: Literal["average"] = "average"

    def template(self) -> str:
        return "{self} of"


class RoundReading(Round):
    label: ClassVar[str] = "a reading that is there,"
    tip: ClassVar[str] = "an average, a trend line: when it is edited, the band moves with it"

    kind: Literal["reading"] = "reading"
    reading: Annotated[str | None, Field(title="reading"), Word(options="readings", empty="none yet")] = None

    def template(self) -> str:
        return "{self} {reading}, as the series spreads round it over"


class RoundSeries(Round):
    label: ClassVar[str] = "the series itself"

    kind: Literal["series"] = "series"

    def template(self) -> str:
        return "{self}, by"


AnyRound = RoundAverage | RoundReading | RoundSeries

"""Rolling statistics as words."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field, field_validator

from zembra.core.arithmetic.arrays import Floats
from zembra.core.arithmetic.rolling import (
    exponential_mean,
    rising_mean,
    rolling_count,
    rolling_mean,
    rolling_order,
    rolling_spread,
    rolling_sum,
    weighted_mean,
)
from zembra.core.arithmetic.windows import Windows
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice, Clause, Word


class Taken(Clause):
    """A rolling statistic.

    name: of the result
    windowed: whether it uses a window
    """

    name: ClassVar[str] = "average"
    windowed: ClassVar[bool] = True

    def over(self, values: Floats, windows: Windows, need: int) -> Floats:
        """Return one value per point, NaN where its window holds fewer than `need` values. Raises Refusal."""
        raise NotImplementedError

    @property
    def spoken(self) -> str:
        """The name, with what distinguishes it from others of its kind."""
        return self.name


class PlainMean(Taken):
    label: ClassVar[str] = "Average"
    tip: ClassVar[str] = "simple moving average"

    kind: Literal["mean"] = "mean"

    def over(self, values: Floats, windows: Windows, need: int) -> Floats:
        return rolling_mean(values, windows, need)


class NewestMost(Taken):
    label: ClassVar[str] = "Average, the newest weighing most,"
    tip: ClassVar[str] = "linear weights 1, 2, 3 … from the oldest place to the newest"
    name: ClassVar[str] = "average, newest most"

    kind: Literal["linear"] = "linear"

    def over(self, values: Floats, windows: Windows, need: int) -> Floats:
        return rising_mean(values, windows, need)


class WeightsByHand(Taken):
    label: ClassVar[str] = "Average with weights"
    tip: ClassVar[str] = "weighted moving average"
    name: ClassVar[str] = "weighted average"

    kind: Literal["weights"] = "weights"
    weights: Annotated[
        tuple[float, ...], Field(title="weights, the oldest place first", min_length=2, max_length=500)
    ] = (1.0, 2.0, 3.0)

    @field_validator("weights")
    @classmethod
    def _usable(cls, weights: tuple[float, ...]) -> tuple[float, ...]:
        if not all(0 <= weight < 1e6 for weight in weights) or not any(weights):
            raise ValueError("weights are zero or above, and not all zero")
        return weights

    def template(self) -> str:
        return "{self} {weights}"

    def over(self, values: Floats, windows: Windows, need: int) -> Floats:
        if windows.length != len(self.weights):
            raise Refusal(
                f"{len(self.weights)} weights are given for a window of {windows.length or 'calendar time'}.",
                todo=f"Make the window {len(self.weights)} periods long, or give as many weights as it holds.",
            )
        return weighted_mean(values, windows, need, np.asarray(self.weights))


class Middle(Taken):
    label: ClassVar[str] = "Take the middle of"
    tip: ClassVar[str] = "moving median"
    name: ClassVar[str] = "middle"

    kind: Literal["median"] = "median"

    def over(self, values: Floats, windows: Windows, need: int) -> Floats:
        return rolling_order(values, windows, need, "median")


class SumOf(Taken):
    label: ClassVar[str] = "Add up"
    tip: ClassVar[str] = "moving sum"
    name: ClassVar[str] = "sum"

    kind: Literal["sum"] = "sum"

    def over(self, values: Floats, windows: Windows, need: int) -> Floats:
        return rolling_sum(values, windows, need)


class Smallest(Taken):
    label: ClassVar[str] = "Take the smallest of"
    tip: ClassVar[str] = "moving minimum"
    name: ClassVar[str] = "smallest"

    kind: Literal["min"] = "min"

    def over(self, values: Floats, windows: Windows, need: int) -> Floats:
        return rolling_order(values, windows, need, "min")


class Largest(Taken):
    label: ClassVar[str] = "Take the largest of"
    tip: ClassVar[str] = "moving maximum"
    name: ClassVar[str] = "largest"

    kind: Literal["max"] = "max"

    def over(self, values: Floats, windows: Windows, need: int) -> Floats:
        return rolling_order(values, windows, need, "max")


class CountOf(Taken):
    label: ClassVar[str] = "Count the numbers in"
    tip: ClassVar[str] = "how many periods have a number that counts"
    name: ClassVar[str] = "count"

    kind: Literal["count"] = "count"

    def over(self, values: Floats, windows: Windows, need: int) -> Floats:
        return rolling_count(values, windows, need)


class Divisor(Choice):
    SAMPLE = ("sample", "over n − 1", "standard deviation of a sample")
    POPULATION = ("population", "over n", "standard deviation of a population")


class SpreadOf(Taken):
    label: ClassVar[str] = "Take the spread"
    tip: ClassVar[str] = "moving standard deviation"
    name: ClassVar[str] = "spread"

    kind: Literal["spread"] = "spread"
    divisor: Annotated[Divisor, Field(title="divided by")] = Divisor.SAMPLE

    def template(self) -> str:
        return "{self}, {divisor}, of"

    def over(self, values: Floats, windows: Windows, need: int) -> Floats:
        return rolling_spread(values, windows, need, population=self.divisor is Divisor.POPULATION)


class PercentPoint(Taken):
    label: ClassVar[str] = "Take the value that"
    tip: ClassVar[str] = "moving percentile, linear between neighbours"
    name: ClassVar[str] = "percentile"

    kind: Literal["percentile"] = "percentile"
    share: Annotated[float, Field(title="share that lies below", ge=0, le=100), Word(unit="%", step=5)] = 90.0

    def template(self) -> str:
        return "{self} {share} lie below, of"

    @property
    def spoken(self) -> str:
        return f"{self.share:g} % point"

    def over(self, values: Floats, windows: Windows, need: int) -> Floats:
        return rolling_order(values, windows, need, "quantile", self.share / 100)


class ByWhat(Choice):
    SPAN = ("span", "a span of", "α = 2 / (span + 1)")
    HALF_LIFE = ("half-life", "a half-life of", "the weight halves in so many periods")
    ALPHA = ("alpha", "a newest weight α of", "each step back weighs 1 − α of the one after it")


class AtBlank(Choice):
    PASSED = ("passed", "passed over", "as if the period were not there")
    DECAYS = ("decays", "counting as time that passes", "the weights of what is before fall once more")


class Exponential(Taken):
    label: ClassVar[str] = "Average exponentially"
    tip: ClassVar[str] = "exponentially weighted mean of all so far"
    name: ClassVar[str] = "exponential average"
    windowed: ClassVar[bool] = False

    kind: Literal["exponential"] = "exponential"
    by: Annotated[ByWhat, Field(title="how fast it forgets")] = ByWhat.SPAN
    amount: Annotated[float, Field(title="amount", gt=0, le=100_000)] = 28.0
    need: Annotated[int, Field(title="values needed", ge=1, le=10_000)] = 5
    at_blank: Annotated[AtBlank, Field(title="blanks")] = AtBlank.PASSED

    def template(self) -> str:
        unit = "" if self.by is ByWhat.ALPHA else " {@periods}"
        return f"{{self}} with {{by}} {{amount}}{unit}, up to each {{@period}}, needing {{need}} with a number, blanks {{at_blank}}"

    @property
    def spoken(self) -> str:
        return f"exponential average, {self.by.value.replace('alpha', 'α')} {self.amount:g}"

    @property
    def alpha(self) -> float:
        """The weight of the newest value. Raises Refusal."""
        alpha: float = {
            ByWhat.SPAN: 2 / (self.amount + 1),
            ByWhat.HALF_LIFE: 1 - 0.5 ** (1 / self.amount),
            ByWhat.ALPHA: self.amount,
        }[self.by]
        if not 0 < alpha <= 1:
            raise Refusal(
                f"A newest weight of {alpha:g} is none.", todo="Choose one above 0 and up to 1, or a longer span."
            )
        return alpha

    def along(self, values: Floats, cuts: list[int]) -> Floats:
        """Return the exponentially weighted mean at each point."""
        return exponential_mean(values, self.alpha, self.need, cuts, decays=self.at_blank is AtBlank.DECAYS)


How = (
    PlainMean
    | NewestMost
    | WeightsByHand
    | Exponential
    | Middle
    | SumOf
    | Smallest
    | Largest
    | CountOf
    | SpreadOf
    | PercentPoint
)

"""Forms of trend lines, how far they extend, and the origin of x."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from zembra.core.arithmetic import trends
from zembra.core.arithmetic.arrays import Floats, Ints
from zembra.core.arithmetic.trends import TrendLine
from zembra.core.calendar.grain import Grain, Unit
from zembra.core.calendar.months import CalendarUnit, DayOrLonger
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice, Clause, Moment, Word
from zembra.core.ledger.state import Study

MOST_PAIRED = 4000  # points of which all pairs are looked at
MOST_CARRIED = 20_000


class TrendForm(Clause):
    """The form of a trend line.

    name: of the line
    from_one: whether x must start above zero
    above_zero: whether values must be positive
    """

    name: ClassVar[str]
    from_one: ClassVar[bool] = False
    above_zero: ClassVar[bool] = False

    def line(self, x: Floats, y: Floats) -> TrendLine | None:
        """Fit the line, or return None if the points do not determine it. Raises Refusal."""
        raise NotImplementedError

    @property
    def spoken(self) -> str:
        return self.name


class Straight(TrendForm):
    label: ClassVar[str] = "straight"
    tip: ClassVar[str] = "least squares"
    name: ClassVar[str] = "straight trend"

    kind: Literal["straight"] = "straight"
    intercept: Annotated[
        float | None, Field(title="value where x is 0", allow_inf_nan=False), Word(empty="as it fits")
    ] = None

    def template(self) -> str:
        return "{self}[ (at x = 0: {intercept})]"

    def line(self, x: Floats, y: Floats) -> TrendLine | None:
        return trends.straight(x, y, self.intercept)


class Polynomial(TrendForm):
    label: ClassVar[str] = "polynomial"
    name: ClassVar[str] = "polynomial trend"

    kind: Literal["polynomial"] = "polynomial"
    degree: Annotated[int, Field(title="degree", ge=2, le=6)] = 2

    def template(self) -> str:
        return "{self}, of degree {degree},"

    @property
    def spoken(self) -> str:
        return f"{self.name}, degree {self.degree}"

    def line(self, x: Floats, y: Floats) -> TrendLine | None:
        return trends.curved(x, y, self.degree)


class Logarithmic(TrendForm):
    label: ClassVar[str] = "logarithmic"
    tip: ClassVar[str] = "a + b ln x"
    name: ClassVar[str] = "logarithmic trend"
    from_one: ClassVar[bool] = True

    kind: Literal["logarithmic"] = "logarithmic"

    def line(self, x: Floats, y: Floats) -> TrendLine | None:
        return trends.logarithmic(x, y)


class Power(TrendForm):
    label: ClassVar[str] = "power"
    tip: ClassVar[str] = "a x^b, fitted in logarithms"
    name: ClassVar[str] = "power trend"
    from_one: ClassVar[bool] = True
    above_zero: ClassVar[bool] = True

    kind: Literal["power"] = "power"

    def line(self, x: Floats, y: Floats) -> TrendLine | None:
        return trends.power(x, y)


class Growth(TrendForm):
    label: ClassVar[str] = "exponential"
    tip: ClassVar[str] = "a e^(b x), fitted in logarithms: the same percent each step"
    name: ClassVar[str] = "exponential trend"
    above_zero: ClassVar[bool] = True

    kind: Literal["exponential"] = "exponential"

    def line(self, x: Floats, y: Floats) -> TrendLine | None:
        return trends.exponential(x, y)


class MedianSlopes(TrendForm):
    label: ClassVar[str] = "robust straight"
    tip: ClassVar[str] = "median of the slopes between all pairs (Theil and Sen)"
    name: ClassVar[str] = "robust trend"

    kind: Literal["robust"] = "robust"

    def line(self, x: Floats, y: Floats) -> TrendLine | None:
        if x.size > MOST_PAIRED:
            raise Refusal(
                f"{x.size} points have too many pairs to look at; {MOST_PAIRED} can be.",
                todo="Choose a stretch, or put them on a coarser grain.",
            )
        return trends.median_slopes(x, y) if np.unique(x).size > 1 else None


class PercentileLine(TrendForm):
    label: ClassVar[str] = "percentile"
    tip: ClassVar[str] = "quantile regression: a share of the points lies below it"
    name: ClassVar[str] = "percentile line"

    kind: Literal["percentile"] = "percentile"
    share: Annotated[float, Field(title="share that lies below", gt=0, lt=100), Word(unit="%", step=5)] = 50.0

    def template(self) -> str:
        return "{self}, with {share} below it,"

    @property
    def spoken(self) -> str:
        return f"{self.share:g} % line"

    def line(self, x: Floats, y: Floats) -> TrendLine | None:
        return trends.percentile_line(x, y, self.share / 100) if np.unique(x).size > 1 and x.size > 4 else None


class Robustly(Choice):
    NOT = ("not", "all points weighing alike")
    ROBUST = ("robust", "points far off weighing less", "three robust turns")


class Local(TrendForm):
    label: ClassVar[str] = "local"
    tip: ClassVar[str] = "loess: straight lines through the nearest points, near ones weighing most"
    name: ClassVar[str] = "local trend"

    kind: Literal["local"] = "local"
    span: Annotated[float, Field(title="share of the points each looks at", gt=1, le=100), Word(unit="%", step=5)] = (
        30.0
    )
    robustly: Annotated[Robustly, Field(title="points far off")] = Robustly.NOT

    def template(self) -> str:
        return "{self}, over {span} of the points, {robustly},"

    @property
    def spoken(self) -> str:
        return f"{self.name}, {self.span:g} %"

    def line(self, x: Floats, y: Floats) -> TrendLine | None:
        if x.size * self.span / 100 < 3:
            return None
        found = trends.local(x, y, self.span / 100, self.robustly is Robustly.ROBUST)
        return TrendLine(
            lambda at: np.interp(at, x, found), "no equation: a line of its own at each place", (), int(x.size)
        )


class WithWave(TrendForm):
    label: ClassVar[str] = "straight, with a wave,"
    tip: ClassVar[str] = "harmonic regression: a season of sines and cosines"
    name: ClassVar[str] = "trend with a wave"

    kind: Literal["wave"] = "wave"
    length: Annotated[float, Field(title="length of the wave", ge=2, le=100_000), Word(usual="cycle")] = 7.0
    harmonics: Annotated[int, Field(title="harmonics", ge=1, le=6)] = 2

    def template(self) -> str:
        return "{self} of {length} {@periods}, {harmonics} harmonics,"

    def line(self, x: Floats, y: Floats) -> TrendLine | None:
        return trends.harmonic(x, y, self.length, self.harmonics) if 2 * self.harmonics <= self.length else None


AnyForm = Straight | Polynomial | Logarithmic | Power | Growth | MedianSlopes | PercentileLine | Local | WithWave


class Carried(Clause):
    def periods(self, first: int, last: int, study: Study) -> Ints:
        """Return the periods after the last one that the line extends to. Raises Refusal."""
        return np.zeros(0, dtype=np.int64)

    def before(self, first: int, study: Study) -> Ints:
        """Return the periods before the first one that it extends to."""
        return np.zeros(0, dtype=np.int64)


class NotCarried(Carried):
    label: ClassVar[str] = "as far as its points"

    kind: Literal["not"] = "not"


class CarriedPeriods(Carried):
    label: ClassVar[str] = "carried on"

    kind: Literal["periods"] = "periods"
    on: Annotated[int, Field(title="periods on", ge=0, le=MOST_CARRIED)] = 30
    back: Annotated[int, Field(title="periods back", ge=0, le=MOST_CARRIED)] = 0

    def template(self) -> str:
        return "{self} {on} {@periods}[ and back {back}]"

    def periods(self, first: int, last: int, study: Study) -> Ints:
        return study.expected.following(last, self.on)

    def before(self, first: int, study: Study) -> Ints:
        return _preceding(study, first, self.back)


class CarriedTime(Carried):
    label: ClassVar[str] = "carried on by calendar time,"

    kind: Literal["time"] = "time"
    on: Annotated[int, Field(title="how long", ge=1, le=200)] = 6
    unit: Annotated[DayOrLonger, Field(title="calendar unit")] = CalendarUnit.MONTH

    def template(self) -> str:
        return "{self} {on} {unit}"

    def periods(self, first: int, last: int, study: Study) -> Ints:
        end = study.grain.days(np.array([last + 1]))[0].astype("datetime64[D]")
        span = Grain(Unit.DAY)
        day = span.period(end.item())
        if self.unit.months:
            month = np.datetime64(end, "M") + self.on * self.unit.months
            into = (end - np.datetime64(end, "M").astype("datetime64[D]")).astype(int)
            day = span.period((month.astype("datetime64[D]") + into).item())
        else:
            day += self.on * (7 if self.unit is CalendarUnit.WEEK else 1)
        return _up_to(study, last, int(study.grain.on_clock(span.starts(np.array([day])))[0]) - 1)


class CarriedTo(Carried):
    label: ClassVar[str] = "carried on to"

    kind: Literal["to"] = "to"
    day: Annotated[Moment | None, Field(title="last day"), Word(empty="no day yet")] = None

    def template(self) -> str:
        return "{self} {day}"

    def periods(self, first: int, last: int, study: Study) -> Ints:
        if self.day is None:
            raise Refusal("No day is given that the line is carried on to.", todo="Choose one.")
        return _up_to(study, last, study.grain.span(self.day)[1])


AnyCarry = NotCarried | CarriedPeriods | CarriedTime | CarriedTo


def _up_to(study: Study, last: int, end: int) -> Ints:
    if end - last > MOST_CARRIED:
        raise Refusal(
            f"That is {end - last} {study.grain.plural} on; {MOST_CARRIED} can be drawn.", todo="Carry it less far."
        )
    ahead = np.arange(last + 1, max(last, end) + 1, dtype=np.int64)
    return ahead[study.expected.days(ahead)]


def _preceding(study: Study, first: int, count: int) -> Ints:
    """Return the `count` expected periods before `first`, in order."""
    size = max(1, count * 2 + 14)
    earlier = np.arange(first - size, first, dtype=np.int64)
    earlier = earlier[study.expected.days(earlier)]
    return earlier[earlier.size - count :] if count else earlier[:0]


class CountedFrom(Choice):
    """The origin and unit of x."""

    ZERO = ("zero", "x counting from 0 at its first period")
    ONE = ("one", "x counting from 1 at its first period")
    YEARS = ("years", "x in years from its first period")

    def x(self, periods: Ints, first: int, grain: Grain) -> Floats:
        if self is not CountedFrom.YEARS:
            return (periods - first + (1 if self is CountedFrom.ONE else 0)).astype(np.float64)
        starts = grain.starts(periods).astype("datetime64[s]").astype(np.int64)
        begin = int(grain.starts(np.array([first]))[0].astype("datetime64[s]").astype(np.int64))
        return (starts - begin) / (365.2425 * 86_400)

    def unit(self, grain: Grain) -> str:
        return (
            "years"
            if self is CountedFrom.YEARS
            else ("dates, in seconds" if grain.unit is Unit.MOMENT else grain.plural)
        )

"""Words of the projection: horizon, start of the history, season, scale."""

from __future__ import annotations

from datetime import date
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.arrays import Floats
from zembra.core.arithmetic.season import SURE
from zembra.core.calendar.complete import Expected
from zembra.core.calendar.grain import Unit
from zembra.core.calendar.lines import Line
from zembra.core.calendar.months import CalendarUnit, DayOrLonger, shifted
from zembra.core.calendar.seasons import usual_season
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice, Clause, Word
from zembra.core.ledger.state import Study
from zembra.core.projection.ahead import MOST_AHEAD
from zembra.core.projection.seasonal import season_chance

Coverage = Annotated[float, Field(ge=1, le=99.9)]  # percent


class Ahead(Clause):
    def how_many(self, last: int, study: Study) -> int:
        """Return the number of expected periods after the last number. Raises Refusal."""
        raise NotImplementedError


class AheadPeriods(Ahead):
    label: ClassVar[str] = "on"

    kind: Literal["periods"] = "periods"
    count: Annotated[int, Field(title="how far ahead", ge=1, le=MOST_AHEAD)] = 56

    def template(self) -> str:
        return "{count} {@periods} {self}"

    def how_many(self, last: int, study: Study) -> int:
        return self.count


class AheadTime(Ahead):
    label: ClassVar[str] = "on, by the calendar"

    kind: Literal["time"] = "time"
    count: Annotated[int, Field(title="how far ahead", ge=1, le=1000)] = 3
    unit: Annotated[DayOrLonger, Field(title="calendar unit")] = CalendarUnit.MONTH

    def template(self) -> str:
        return "{count} {unit} {self}"

    def how_many(self, last: int, study: Study) -> int:
        start = study.grain.days(np.array([last])).astype("datetime64[s]")
        end = int(study.grain.on_clock(shifted(start, self.count, self.unit))[0])
        return _counted(last, end, study)


class AheadUntil(Ahead):
    label: ClassVar[str] = "up to"

    kind: Literal["until"] = "until"
    day: Annotated[date | None, Field(title="last day"), Word(empty="no day yet")] = None

    def template(self) -> str:
        return "{self} {day}"

    def how_many(self, last: int, study: Study) -> int:
        if self.day is None:
            raise Refusal("No day is given up to which is projected.", todo="Choose one.")
        return _counted(last, study.grain.span(self.day)[1], study)


class AheadAxis(Ahead):
    label: ClassVar[str] = "as far as the time axis"
    tip: ClassVar[str] = "to the last period that any series reaches"

    kind: Literal["axis"] = "axis"

    def how_many(self, last: int, study: Study) -> int:
        end = max((int(line.periods[-1]) for line in study.others if len(line)), default=last)
        if end <= last:
            raise Refusal(
                f"The time axis ends with the last number, at {study.grain.spoken(last)}.",
                todo="Say how far in periods, by the calendar, or up to a day.",
            )
        return _counted(last, end, study)


def _counted(last: int, end: int, study: Study) -> int:
    """Count the expected periods after `last` up to `end`."""
    if end - last > 20 * MOST_AHEAD:
        raise Refusal(f"That is more than {MOST_AHEAD} {study.grain.plural} ahead.", todo="Choose a nearer end.")
    count = int(study.expected.days(np.arange(last + 1, end + 1, dtype=np.int64)).sum()) if end > last else 0
    if not 1 <= count <= MOST_AHEAD:
        raise Refusal(
            f"There are {count} {study.grain.plural} from the last number to there.",
            todo=f"Choose an end that is 1 to {MOST_AHEAD} {study.grain.plural} ahead.",
        )
    return count


AnyAhead = AheadPeriods | AheadTime | AheadUntil | AheadAxis


class Since(Clause):
    """Where the history starts."""

    def first(self, line: Line, values: Floats, study: Study) -> int:
        """Return the index of the first point that counts. Raises Refusal."""
        return 0


class WholeHistory(Since):
    label: ClassVar[str] = "from the whole history"

    kind: Literal["whole"] = "whole"


class LastPeriods(Since):
    label: ClassVar[str] = "from the last"

    kind: Literal["last"] = "last"
    count: Annotated[int, Field(title="how many periods", ge=2, le=100_000)] = 180

    def template(self) -> str:
        return "{self} {count} {@periods}"

    def first(self, line: Line, values: Floats, study: Study) -> int:
        known = np.flatnonzero(~np.isnan(values))
        return max(0, int(known[-1]) + 1 - self.count) if known.size else 0


class SinceShift(Since):
    label: ClassVar[str] = "from the last level shift on"

    kind: Literal["shift"] = "shift"

    def first(self, line: Line, values: Floats, study: Study) -> int:
        if not line.cuts:
            raise Refusal(
                f"{line.name} has no level shift at which things start afresh.",
                todo="Mark one that averages start afresh at, or take the whole history.",
            )
        return max(line.cuts)


class SinceDay(Since):
    label: ClassVar[str] = "from"

    kind: Literal["day"] = "day"
    day: Annotated[date | None, Field(title="first day"), Word(empty="no day yet")] = None

    def template(self) -> str:
        return "{self} {day} on"

    def first(self, line: Line, values: Floats, study: Study) -> int:
        if self.day is None:
            raise Refusal("No day is given from which the history counts.", todo="Choose one.")
        return int(np.searchsorted(line.periods, study.grain.span(self.day)[0]))


AnySince = WholeHistory | LastPeriods | SinceShift | SinceDay


class InWhat(Choice):
    """The scale on which the method works."""

    VALUES = ("values", "on the values")
    LOGARITHM = ("log", "on their logarithm", "for values above zero; the centre is the median")
    ROOT = ("root", "on their square root", "a power of one half; for values from zero up")

    def there(self, values: Floats) -> Floats:
        """Transform values to the scale of the method. Raises Refusal for values outside its domain."""
        known = values[~np.isnan(values)]
        if self is InWhat.LOGARITHM and np.any(known <= 0):
            raise Refusal("A logarithm needs values above zero.", todo="Project the values themselves.")
        if self is InWhat.ROOT and np.any(known < 0):
            raise Refusal("A square root needs values from zero up.", todo="Project the values themselves.")
        if self is InWhat.VALUES:
            return values
        found: Floats = np.log(values) if self is InWhat.LOGARITHM else np.sqrt(values)
        return found

    def back(self, values: Floats) -> Floats:
        if self is InWhat.ROOT:
            return np.maximum(values, 0.0) ** 2
        return np.exp(values) if self is InWhat.LOGARITHM else values


class LimitsWord(Choice):
    TESTED = (
        "tested", "held against what happened",
        "the method's, allowing for what it estimated; those of single methods are widened where held-back periods ask for it",
    )  # fmt: skip
    LIKE = (
        "like", "held against what happened, in like series where it has too few numbers",
        "of a series with fewer than 27 numbers, as wide as held-back periods of all series with about as many ask for",
    )  # fmt: skip
    OWN = ("own", "as the method has them", "allowing for what it estimated, never widened")
    HELD = (
        "held", "as they have held so far",
        "the method's, so many times as wide: What we said each time tells how many, by projections that were told",
    )  # fmt: skip


class OnClosed(Choice):
    NOTHING = ("nothing", "nothing on closed days")
    ZERO = ("zero", "zero on closed days")


class AtEvents(Choice):
    NOT = ("not", "whatever the events are")
    USUAL = (
        "usual",
        "with the usual effect of events",
        "the mean distance on periods of events of the same name before",
    )


class Rounding(Choice):
    FRACTIONS = ("fractions", "with fractions")
    WHOLE = ("whole", "in whole numbers", "the centre rounded, limits rounded outwards")


class SeasonWords(Clause):
    """The season.

    beside_calendar: whether effects of the calendar beside the season may be looked for
    """

    beside_calendar: ClassVar[bool] = True

    def length(self, values: Floats, expected: Expected) -> int | None:
        """Return the season length for a history with NaN for gaps, or None. Raises Refusal if the history holds
        less than two cycles of a given length.
        """
        return None

    @property
    def lengths(self) -> tuple[int, ...]:
        """Several season lengths that are removed together."""
        return ()

    def usual(self, expected: Expected) -> int | None:
        """Return a season that a decomposition may try where the test finds none."""
        return None


class NoSeason(SeasonWords):
    label: ClassVar[str] = "no season"
    beside_calendar: ClassVar[bool] = False

    kind: Literal["none"] = "none"


class SeasonFound(SeasonWords):
    label: ClassVar[str] = "the season that is found"
    tip: ClassVar[str] = (
        "the length of the calendar whose season dummies pass an F test beside a line and lags of the values, "
        "p < 0.01 for all lengths tried together"
    )

    kind: Literal["found"] = "found"

    def length(self, values: Floats, expected: Expected) -> int | None:
        lengths = [length for length in season_lengths(expected) if values.size >= 2 * length + 1]
        tried = [(season_chance(values, length), length) for length in lengths]
        # each length is one more look (Bonferroni)
        passed = [(chance, length) for chance, length in tried if chance * len(lengths) < SURE]
        return min(passed)[1] if passed else None

    def usual(self, expected: Expected) -> int | None:
        return usual_season(expected)


class SeasonOf(SeasonWords):
    label: ClassVar[str] = "a season of"

    kind: Literal["length"] = "length"
    season: Annotated[int, Field(title="season length", ge=2, le=400), Word(usual="season")] = 7

    def template(self) -> str:
        return "{self} {season} {@periods}"

    def length(self, values: Floats, expected: Expected) -> int | None:
        held_twice(self.season, values, expected)
        return self.season


def held_twice(season: int, values: Floats, expected: Expected) -> None:
    """Raise Refusal if a history is shorter than two full cycles of a season."""
    if values.size < 2 * season:
        plural = expected.grain.plural
        raise Refusal(
            f"A season of {season} {plural} needs two full cycles, {2 * season} {plural}; the history holds {values.size}.",
            todo="Shorten the season, take the season that is found or none, or bring in more history.",
        )


class SeasonsOf(SeasonWords):
    label: ClassVar[str] = "seasons of"
    tip: ClassVar[str] = "taken off one after the other; only where the season is taken off"

    kind: Literal["several"] = "several"
    seasons: Annotated[tuple[float, ...], Field(title="season lengths", min_length=1, max_length=4)] = (7.0, 365.0)

    def template(self) -> str:
        return "{self} {seasons} {@periods}"

    def length(self, values: Floats, expected: Expected) -> int | None:
        held_twice(self.lengths[-1], values, expected)
        return self.lengths[0]

    @property
    def lengths(self) -> tuple[int, ...]:
        lengths = tuple(sorted(int(season) for season in self.seasons))
        if any(not 2 <= length <= 800 for length in lengths):
            raise Refusal("A season holds from 2 to 800 periods.", todo="Give other lengths.")
        return lengths


AnySeason = SeasonFound | NoSeason | SeasonOf | SeasonsOf


def season_lengths(expected: Expected) -> list[int]:
    """Return the candidate season lengths for a calendar: a day of hours, a week, a month, a year."""
    grain = expected.grain
    lengths = [usual_season(expected)]
    if grain.unit in (Unit.MINUTE, Unit.HOUR) and lengths[0]:
        lengths.append(7 * lengths[0])
    elif grain.unit is Unit.DAY and grain.step == 1:
        week = len(expected.weekdays)
        lengths += [2 * week, round(week / 7 * 30.44), round(week / 7 * 365.25)]
    elif grain.unit is Unit.WEEK and grain.step == 1:
        lengths += [4, 13]
    elif grain.unit is Unit.MONTH and grain.step == 1:
        lengths += [3, 6]
    return sorted({length for length in lengths if length and length >= 2})

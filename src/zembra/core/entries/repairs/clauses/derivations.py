"""Derivations of one measure from another."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.arrays import Bools, Codes, Floats, Ints
from zembra.core.arithmetic.totals import before_by, per_period, ratio, running_total, spread_back
from zembra.core.calendar.grain import COARSENESS, Grain, Unit
from zembra.core.calendar.lines import Line, Quantity
from zembra.core.english import listed
from zembra.core.entries.shared.changewords import from_below_zero
from zembra.core.entries.shared.derived import condition_at, least_sure_so_far, on_periods_of
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice, Clause, Moment, Word
from zembra.core.ledger.state import Offer, Study

MOST_TOLD = 4


class Restart(Choice):
    NEVER = ("never", "never starting again")
    YEAR = ("year", "starting again each year")
    MONTH = ("month", "starting again each month")


class Gap(Choice):
    SPREAD = ("spread", "shared evenly", "by the periods of the gap and the one after, marked as filled")
    OPEN = ("open", "left open")


class Correction(Choice):
    """The treatment of a running total that falls without restarting."""

    LEFT = ("left", "stands as it is, below zero")
    SPREAD = ("spread", "is spread back over the time since the total began", "in proportion, marked as filled")
    ASIDE = ("aside", "is left open", "the figure of that period is not known")


@dataclass(frozen=True, slots=True)
class Values:
    """Derived values.

    parents: other lines they depend on
    also: conditions of further points they depend on
    estimated: mask of estimates
    because: reasons for missing values
    """

    values: Floats
    parents: Sequence[Line] = ()
    also: Sequence[Codes] = ()
    estimated: Bools | None = None
    because: Sequence[tuple[Bools, str]] = ()
    warnings: Sequence[str] = ()


class Derivation(Clause):
    """A derivation.

    name: of the derived line, after its series
    """

    name: ClassVar[str]

    def of(self, line: Line, study: Study) -> Values:
        """Return the derived values. Raises Refusal."""
        raise NotImplementedError

    def quantity(self, old: Quantity) -> Quantity:
        """Return what the derived values are."""
        return Quantity(f"{old.name or 'values'}, {self.name}", old.unit)

    def called(self, name: str, period: str) -> str:
        """Return the name of the derived line."""
        return f"{name}, {self.name.format(period)}"

    def offers(self, line: Line) -> tuple[Offer, ...]:
        """Return other parameters that may suit this line."""
        return ()


_TO_DATE = re.compile(
    r"(?i)[\s_,(-]*\b(?:(?:year|month|quarter|season)[\s_-]+)?(?:to[\s_-]+date|so[\s_-]+far|ytd|mtd|qtd)\b\)?"
    r"|\b(?:running|cumulative|cumulated|accumulated|cum)[\s_.-]+(?:total[\s_-]+(?:of[\s_-]+)?|sum[\s_-]+(?:of[\s_-]+)?)?"
)


def without_to_date(name: str) -> str:
    """Return the name of the flow behind a running total: “income to date” becomes “income”."""
    return " ".join(_TO_DATE.sub(" ", name).split()).strip(" ,_-") or name


class PerPeriod(Derivation):
    label: ClassVar[str] = "the figures behind the running total"
    tip: ClassVar[str] = "difference of a cumulative series"
    name: ClassVar[str] = "per {}"

    kind: Literal["per-period"] = "per-period"
    below: Annotated[
        float,
        Field(title="a total below this share of the one before starts again", gt=0, le=100),
        Word(unit="%", step=5),
    ] = 50.0
    gap: Annotated[Gap, Field(title="what came in over a gap")] = Gap.SPREAD
    correction: Annotated[Correction, Field(title="a fall that is no new start")] = Correction.LEFT

    def template(self) -> str:
        return (
            "{self}, starting again below {below} of the value before, what came in over a gap {gap}; a fall that "
            "is no new start {correction}"
        )

    def quantity(self, old: Quantity) -> Quantity:
        return Quantity(without_to_date(old.name), old.unit, True)

    def called(self, name: str, period: str) -> str:
        return without_to_date(name)

    def of(self, line: Line, study: Study) -> Values:
        total = line.countable(provisional=True)
        made = per_period(total, self.below / 100, spread=self.gap is Gap.SPREAD)
        resets = []
        if made.resets.size:
            resets.append(f"{line.name}: the total starts again at {_first(line, made.resets, study)}.")
        if made.corrections.size:
            resets.append(
                f"{line.name}: the total falls without starting again, a correction, at "
                f"{_first(line, made.corrections, study)}; the figure there {self.correction.label}."
            )
        known = np.where(np.isnan(total), -1, np.arange(len(line)))
        before = np.concatenate(([-1], np.maximum.accumulate(known)[:-1])) if len(line) else known
        also = [condition_at(line, before)] if len(line) else []
        if self.correction is Correction.SPREAD:
            made = spread_back(made)
        if self.correction is not Correction.ASIDE:
            return Values(made.values, also=also, estimated=made.estimated, warnings=resets)
        corrected = np.isin(np.arange(total.size), made.corrections)
        return Values(
            np.where(corrected, np.nan, made.values),
            also=also,
            estimated=made.estimated & ~corrected,
            because=((corrected, "the total was corrected"),),
            warnings=resets,
        )

    def offers(self, line: Line) -> tuple[Offer, ...]:
        """Offer other treatments of a falling total, if there is one."""
        if self.correction is not Correction.LEFT:
            return ()
        total = line.countable(provisional=True)
        many = per_period(total, self.below / 100, spread=self.gap is Gap.SPREAD).corrections.size
        if not many:
            return ()
        sentence = f"{line.name} falls {many} time{'s' if many > 1 else ''} without starting again."
        ways = (
            (sentence, "Spread back over the time since", Correction.SPREAD),
            ("The figure there is not known.", "Leave it open", Correction.ASIDE),
        )
        return tuple(
            Offer(why, action, "derive", {"what": self.model_dump(mode="json") | {"correction": way.value}}, True)
            for why, action, way in ways
        )


class RunningTotal(Derivation):
    label: ClassVar[str] = "the running total"
    tip: ClassVar[str] = "cumulative sum"
    name: ClassVar[str] = "running total"

    kind: Literal["total"] = "total"
    restart: Annotated[Restart, Field(title="where the total starts again")] = Restart.YEAR

    def template(self) -> str:
        return "{self}, {restart}"

    def of(self, line: Line, study: Study) -> Values:
        restarts = self._restarts(line, study)
        total = running_total(line.countable(provisional=True), restarts)
        return Values(total, also=[least_sure_so_far(line, restarts)])

    def _restarts(self, line: Line, study: Study) -> Bools:
        if self.restart is Restart.NEVER or not len(line):
            return np.zeros(len(line), dtype=bool)
        grain = study.grain
        span = Grain(Unit(self.restart.value), 1, grain.week_start, grain.year_start)
        if COARSENESS[span.unit] <= COARSENESS[grain.unit] and grain.unit is not Unit.MOMENT:
            raise Refusal(f"A {span.singular} holds no more than one {grain.singular}.", todo="Start again less often.")
        of = span.periods(grain.days(line.periods))
        return np.concatenate(([True], of[1:] != of[:-1]))


class _Changed(Derivation):
    """A change from an earlier point."""

    def of(self, line: Line, study: Study) -> Values:
        values = line.countable(provisional=True)
        earlier, place = self.earlier(line, values)
        return Values(values - earlier, also=[condition_at(line, place)])

    def earlier(self, line: Line, values: Floats) -> tuple[Floats, Ints]:
        """Return the earlier values and their indices, negative for none."""
        before = np.concatenate(([np.nan], values[:-1])) if values.size else values
        return before, np.arange(len(line)) - 1


class Change(_Changed):
    label: ClassVar[str] = "the change from the period before"
    tip: ClassVar[str] = "first difference"
    name: ClassVar[str] = "change"

    kind: Literal["change"] = "change"


class _InPercent(_Changed):
    name: ClassVar[str] = "percent change"

    def quantity(self, old: Quantity) -> Quantity:
        return Quantity(f"{old.name or 'values'}, change", "%")

    def of(self, line: Line, study: Study) -> Values:
        values = line.countable(provisional=True)
        earlier, place = self.earlier(line, values)
        found, zero = ratio(100 * (values - earlier), np.abs(earlier))
        below = int((~np.isnan(values) & (earlier < 0)).sum())
        return Values(
            found,
            also=[condition_at(line, place)],
            because=((zero, "division by zero"),),
            warnings=from_below_zero(line.name, below),
        )


class PercentChange(_InPercent):
    label: ClassVar[str] = "the percent change from the period before"

    kind: Literal["percent"] = "percent"


Lag = Annotated[int, Field(title="how many periods before", ge=1, le=10_000), Word(usual="season")]


def _lagged(line: Line, values: Floats, lag: int) -> tuple[Floats, Ints]:
    at = np.searchsorted(line.periods, line.periods - lag)
    return before_by(values, line.periods, lag), np.where(at < np.arange(len(line)), at, -1)


class LaggedChange(_Changed):
    label: ClassVar[str] = "the change from"
    tip: ClassVar[str] = "seasonal difference"
    name: ClassVar[str] = "change"

    kind: Literal["lagged"] = "lagged"
    lag: Lag = 7

    def template(self) -> str:
        return "{self} {lag} {@periods} before"

    def earlier(self, line: Line, values: Floats) -> tuple[Floats, Ints]:
        return _lagged(line, values, self.lag)


class LaggedPercent(_InPercent):
    label: ClassVar[str] = "the percent change from"
    tip: ClassVar[str] = "year on year and the like"

    kind: Literal["lagged-percent"] = "lagged-percent"
    lag: Lag = 7

    def template(self) -> str:
        return "{self} {lag} {@periods} before"

    def earlier(self, line: Line, values: Floats) -> tuple[Floats, Ints]:
        return _lagged(line, values, self.lag)


class Index(Derivation):
    label: ClassVar[str] = "an index"
    tip: ClassVar[str] = "100 at a date"
    name: ClassVar[str] = "index"

    kind: Literal["index"] = "index"
    base: Annotated[Moment | None, Field(title="where the index is 100"), Word(empty="the first value")] = None

    def template(self) -> str:
        return "{self}, 100 at {base}"

    def quantity(self, old: Quantity) -> Quantity:
        return Quantity(f"{old.name or 'values'}, index", "")

    def of(self, line: Line, study: Study) -> Values:
        values = line.countable(provisional=True)
        place = self._base(line, values, study)
        found, zero = ratio(100 * values, np.full(len(line), float(values[place])))
        also = [condition_at(line, np.full(len(line), place))]
        return Values(found, also=also, because=((zero, "the value at the base is zero"),))

    def _base(self, line: Line, values: Floats, study: Study) -> int:
        known = ~np.isnan(values)
        if self.base is not None:
            first, last = study.grain.span(self.base)
            known &= (line.periods >= first) & (line.periods <= last)
        if not known.any():
            when = "anywhere" if self.base is None else f"at {date.isoformat(self.base)[:10]}"
            raise Refusal(f"{line.name} has no value {when} to set to 100.", todo="Choose another date.")
        return int(np.argmax(known))


class PerDay(Derivation):
    label: ClassVar[str] = "the figure per day in the period"
    name: ClassVar[str] = "per day"

    kind: Literal["per-day"] = "per-day"

    def quantity(self, old: Quantity) -> Quantity:
        return Quantity(f"{old.name or 'values'} per day", old.unit)

    def of(self, line: Line, study: Study) -> Values:
        grain = study.grain
        if grain.seconds < 86_400 or grain.unit is Unit.MOMENT:
            raise Refusal(f"A {grain.singular} is shorter than a day.", todo="Put it on a coarser grain first.")
        starts = grain.starts(line.periods).astype("datetime64[D]").astype(np.int64)
        ends = grain.starts(line.periods + 1).astype("datetime64[D]").astype(np.int64)
        return Values(line.countable(provisional=True) / (ends - starts).astype(np.float64))


class Share(Derivation):
    label: ClassVar[str] = "the share of the total"
    tip: ClassVar[str] = "percent of the sum over series"
    name: ClassVar[str] = "share"

    kind: Literal["share"] = "share"

    def quantity(self, old: Quantity) -> Quantity:
        return Quantity(f"{old.name or 'values'}, share of the total", "%")

    def of(self, line: Line, study: Study) -> Values:
        """Return the share of the total.

        study: `others` holds the other lines of the total
        """
        values = line.countable(provisional=True)
        parents = [on_periods_of(line, other) for other in study.others]
        total = np.sum([values, *(parent.countable(provisional=True) for parent in parents)], axis=0)
        found, zero = ratio(100 * values, total)
        because = ((zero, "the total is zero"), (np.isnan(total), "another series has no number"))
        return Values(found, parents=parents, because=because)


class Logarithm(Derivation):
    label: ClassVar[str] = "the natural logarithm"
    name: ClassVar[str] = "logarithm"

    kind: Literal["log"] = "log"

    def quantity(self, old: Quantity) -> Quantity:
        return Quantity(f"{old.name or 'values'}, natural logarithm", "")

    def of(self, line: Line, study: Study) -> Values:
        values = line.countable(provisional=True)
        low = values <= 0
        found = np.log(np.where(low, np.nan, values))
        return Values(found, because=((low, "no logarithm of zero or less"),))


What = (
    PerPeriod
    | RunningTotal
    | Change
    | PercentChange
    | LaggedChange
    | LaggedPercent
    | Index
    | PerDay
    | Share
    | Logarithm
)


def _first(line: Line, places: Ints, study: Study) -> str:
    """The first few of the periods at `places`, and how many more there are."""
    labels = [study.grain.spoken(int(period)) for period in line.periods[places[:MOST_TOLD]]]
    more = places.size - len(labels)
    return f"{', '.join(labels)} and {more} more" if more else listed(labels)

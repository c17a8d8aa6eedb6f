"""Measures derived from one series: changes, running totals and back, an index, a share, a logarithm."""

from __future__ import annotations

from datetime import date
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.totals import before_by, per_period, ratio, running_total, spread_back
from zembra.core.arrays import Bools, Codes, Floats, Ints
from zembra.core.calendar.grain import COARSENESS, DAY, Grain, Unit
from zembra.core.calendar.seasons import usual_season
from zembra.core.errors import Refusal
from zembra.core.grammar import Moment, Word, listed
from zembra.core.ledger.derived import (
    Place,
    condition_at,
    derived,
    least_sure_so_far,
    on_periods_of,
    placed,
)
from zembra.core.ledger.derivewords import Correction, Gap, Restart, What, quantity_of
from zembra.core.ledger.effect import effect_table
from zembra.core.ledger.entry import Entry, Group, register
from zembra.core.ledger.follow import from_below_zero
from zembra.core.ledger.state import Cell, Offer, Outcome, State, Table
from zembra.core.lines import Line

_NAMES = {
    What.PER_PERIOD: "per {}", What.TOTAL: "running total", What.CHANGE: "change", What.PERCENT: "percent change",
    What.LAGGED: "change", What.LAGGED_PERCENT: "percent change", What.INDEX: "index", What.PER_DAY: "per day",
    What.SHARE: "share", What.LOG: "logarithm",
}  # fmt: skip
MOST_TOLD = 4
_NOTHING: tuple[tuple[Bools, str], ...] = ()


@register
class Derive(Entry):
    kind: ClassVar[str] = "derive"
    group: ClassVar[Group] = Group.REPAIRS
    title: ClassVar[str] = "Derived measure"
    hint: ClassVar[str] = "Changes, running totals and back, an index, a share, a logarithm."
    rank: ClassVar[int] = 7

    what: Annotated[What, Field(title="what is taken")] = What.PER_PERIOD
    below: Annotated[
        float,
        Field(title="a total below this share of the one before starts again", gt=0, le=100),
        Word(unit="%", step=5),
    ] = 50.0
    gap: Annotated[Gap, Field(title="what came in over a gap")] = Gap.SPREAD
    correction: Annotated[Correction, Field(title="a fall that is no new start")] = Correction.LEFT
    restart: Annotated[Restart, Field(title="where the total starts again")] = Restart.YEAR
    lag: Annotated[int, Field(title="how many periods before", ge=1, le=10_000)] = 7
    base: Annotated[Moment | None, Field(title="where the index is 100"), Word(empty="the first value")] = None
    series: Annotated[tuple[str, ...], Field(title="series"), Word(options="lines", empty="every series")] = ()
    place: Annotated[Place, Field(title="where it goes")] = Place.IN_PLACE

    def template(self) -> str:
        more = {
            What.PER_PERIOD: ", starting again below {below} of the value before, what came in over a gap {gap}; a fall that is no new start {correction}",
            What.TOTAL: ", {restart}",
            What.LAGGED: " {lag} {@periods} before",
            What.LAGGED_PERCENT: " {lag} {@periods} before",
            What.INDEX: ", 100 at {base}",
        }.get(self.what, "")
        return f"Take {{what}}{more}, of {{series}}, {{place}}."

    def apply(self, state: State, by: str) -> Outcome:
        before = state.lines
        rows: list[tuple[Cell, ...]] = []
        points = 0
        noticed: list[str] = []
        offers: tuple[Offer, ...] = ()
        for place in state.chosen(self.series):
            line = state.lines[place]
            values, estimated, because = self._values(state, before, line, noticed)
            offers = offers or self._correction_offers(line)
            parents, also = self._made_of(state, before, line)
            made = derived(
                line,
                values,
                by,
                quantity_of(self.what, line.quantity),
                parents=parents,
                also=also,
                estimated=estimated,
                because=because,
            )
            known = int((~np.isnan(values)).sum())
            points += known
            rows.append((line.name, known, int(len(line) - known), 0 if estimated is None else int(estimated.sum())))
            name = f"{line.name}, {_NAMES[self.what].format(state.grain.singular)}"
            state = placed(state, place, made, self.place, name)
        columns = ("Series", "With a value", "Without", "Estimated")
        return Outcome(
            state,
            points,
            "values",
            (Table("Derived", columns, tuple(rows)), *effect_table(before, state)),
            tuple(noticed),
            offers,
        )

    @classmethod
    def suggest(cls, state: State) -> Derive:
        return cls(lag=7 if state.grain == DAY else usual_season(state.expected) or 1)

    def _made_of(self, state: State, lines: tuple[Line, ...], line: Line) -> tuple[list[Line], list[Codes]]:
        """(other lines, conditions of other points) that each value is made from."""
        here = np.arange(len(line))
        if self.what is What.SHARE:
            return [on_periods_of(line, one) for one in lines if one is not line], []
        if self.what is What.TOTAL:
            return [], [least_sure_so_far(line, self._restarts(state, line))]
        if self.what is What.INDEX:
            return [], [
                condition_at(line, np.full(len(line), self._base_place(state, line, line.countable(provisional=True))))
            ]
        if self.what in (What.LAGGED, What.LAGGED_PERCENT):
            at = np.searchsorted(line.periods, line.periods - self.lag)
            return [], [condition_at(line, np.where(at < here, at, -1))]
        if self.what is What.PER_PERIOD:
            known = np.where(np.isnan(line.countable(provisional=True)), -1, here)
            return [], [condition_at(line, np.concatenate(([-1], np.maximum.accumulate(known)[:-1])))] if len(
                line
            ) else []
        return ([], [condition_at(line, here - 1)]) if self.what in (What.CHANGE, What.PERCENT) else ([], [])

    def _values(
        self, state: State, lines: tuple[Line, ...], line: Line, noticed: list[str]
    ) -> tuple[Floats, Bools | None, tuple[tuple[Bools, str], ...]]:
        """(values, which are estimates, why others are missing)."""
        values = line.countable(provisional=True)
        if self.what is What.PER_PERIOD:
            return self._undone(state, line, values, noticed)
        if self.what is What.TOTAL:
            return running_total(values, self._restarts(state, line)), None, _NOTHING
        if self.what is What.INDEX:
            at = self._base(state, line, values)
            found, zero = ratio(100 * values, np.full(len(line), at))
            return found, None, ((zero, "the value at the base is zero"),)
        if self.what is What.PER_DAY:
            return values / self._days(state, line), None, _NOTHING
        if self.what is What.SHARE:
            total = np.sum([on_periods_of(line, one).countable(provisional=True) for one in lines], axis=0)
            found, zero = ratio(100 * values, total)
            return found, None, ((zero, "the total is zero"), (np.isnan(total), "another series has no number"))
        if self.what is What.LOG:
            low = values <= 0
            return np.log(np.where(low, np.nan, values)), None, ((low, "no logarithm of zero or less"),)
        if self.what in (What.LAGGED, What.LAGGED_PERCENT):
            earlier = before_by(values, line.periods, self.lag)
        else:
            earlier = np.concatenate(([np.nan], values[:-1])) if values.size else values
        if self.what in (What.CHANGE, What.LAGGED):
            return values - earlier, None, _NOTHING
        below = int((~np.isnan(values) & (earlier < 0)).sum())
        noticed.extend(from_below_zero(line.name, below))
        found, zero = ratio(100 * (values - earlier), np.abs(earlier))
        return found, None, ((zero, "division by zero"),)

    def _correction_offers(self, line: Line) -> tuple[Offer, ...]:
        """The other ways with a total that falls, where it does and nothing was decided."""
        if self.what is not What.PER_PERIOD or self.correction is not Correction.LEFT:
            return ()
        total = line.countable(provisional=True)
        count = per_period(total, self.below / 100, spread=self.gap is Gap.SPREAD).corrections.size
        if not count:
            return ()
        told = f"{line.name} falls {count} time{'s' if count > 1 else ''} without starting again."
        return (
            Offer(told, "Spread back over the time since", self.kind, {"correction": Correction.SPREAD.value}, True),
            Offer(
                "The figure there is not known.",
                "Leave it open",
                self.kind,
                {"correction": Correction.ASIDE.value},
                True,
            ),
        )

    def _undone(
        self, state: State, line: Line, total: Floats, noticed: list[str]
    ) -> tuple[Floats, Bools, tuple[tuple[Bools, str], ...]]:
        made = per_period(total, self.below / 100, spread=self.gap is Gap.SPREAD)
        if made.resets.size:
            noticed.append(f"{line.name}: the total starts again at {_first(state, line, made.resets)}.")
        if made.corrections.size:
            noticed.append(
                f"{line.name}: the total falls without starting again, a correction, at "
                f"{_first(state, line, made.corrections)}; the figure there {self.correction.label}."
            )
        if self.correction is Correction.SPREAD:
            made = spread_back(made)
        corrected = np.isin(np.arange(total.size), made.corrections)
        if self.correction is Correction.ASIDE:
            return (
                np.where(corrected, np.nan, made.values),
                made.estimated & ~corrected,
                ((corrected, "the total was corrected"),),
            )
        return made.values, made.estimated, _NOTHING

    def _restarts(self, state: State, line: Line) -> Bools:
        if self.restart is Restart.NEVER or not len(line):
            return np.zeros(len(line), dtype=bool)
        span = Grain(Unit(self.restart.value), 1, state.grain.week_start, state.grain.year_start)
        if COARSENESS[span.unit] <= COARSENESS[state.grain.unit] and state.grain.unit is not Unit.MOMENT:
            raise Refusal(
                f"A {span.singular} holds no more than one {state.grain.singular}.", todo="Start again less often."
            )
        of = span.periods(state.grain.starts(line.periods))
        return np.concatenate(([True], of[1:] != of[:-1]))

    def _base(self, state: State, line: Line, values: Floats) -> float:
        return float(values[self._base_place(state, line, values)])

    def _base_place(self, state: State, line: Line, values: Floats) -> int:
        known = ~np.isnan(values)
        if self.base is not None:
            first, last = state.grain.span(self.base)
            known &= (line.periods >= first) & (line.periods <= last)
        if not known.any():
            when = "anywhere" if self.base is None else f"at {date.isoformat(self.base)[:10]}"
            raise Refusal(f"{line.name} has no value {when} to set to 100.", todo="Choose another date.")
        return int(np.argmax(known))

    @staticmethod
    def _days(state: State, line: Line) -> Floats:
        if state.grain.seconds < 86_400 or state.grain.unit is Unit.MOMENT:
            raise Refusal(f"A {state.grain.singular} is shorter than a day.", todo="Put it on a coarser grain first.")
        starts = state.grain.starts(line.periods).astype("datetime64[D]").astype(np.int64)
        ends = state.grain.starts(line.periods + 1).astype("datetime64[D]").astype(np.int64)
        return np.asarray(ends - starts, dtype=np.float64)


def _first(state: State, line: Line, places: Ints) -> str:
    """The first few of the periods at `places`, and how many more there are."""
    labels = state.grain.labels(line.periods[places[:MOST_TOLD]])
    more = places.size - len(labels)
    return f"{', '.join(labels)} and {more} more" if more else listed(labels)

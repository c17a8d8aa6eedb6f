"""Evaluate the watches of a study."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

import numpy as np
import polars as pl

from zembra.core.calendar.grain import Unit
from zembra.core.calendar.lines import Condition, Line
from zembra.core.english import counted, listed, number, spoken_date, spoken_label
from zembra.core.entries.repairs.found_shifts import Shifts
from zembra.core.entries.repairs.shiftresults import SeriesShifts
from zembra.core.entries.shared.changewords import signed
from zembra.core.ledger.results import results_of
from zembra.core.ledger.run import Result
from zembra.core.newrows.changes import Kind, RevisedPeriod, RevisedPeriods
from zembra.core.newrows.issued import Issued
from zembra.core.watching.watchwords import (
    WATCHES,
    AnyWatch,
    OutsideLimits,
    RevisionLarger,
    RowsLate,
    ShiftFound,
    Which,
)

NEAR = 7  # periods that a shift may move as rows come, and be the one that was found


@dataclass(frozen=True, slots=True)
class Found:
    """A finding of a watch.

    kind: of the watch
    period: its label
    text: a sentence
    value: of the period, if any
    """

    kind: str
    series: str
    period: str
    text: str
    value: float | None = None

    @property
    def title(self) -> str:
        """The title of the watch."""
        return next((watch.title for watch in WATCHES if watch.model_fields["kind"].default == self.kind), self.kind)


@dataclass(frozen=True, slots=True)
class Watched:
    """What a watch finds.

    found: current findings
    unsaid: reasons of watches that could not look
    """

    found: tuple[Found, ...]
    unsaid: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Looked:
    """What a watch looks at.

    result: with pending rows, if any
    issued: issued projections, oldest first
    changes: of pending or last taken rows
    today: the real day, whatever the as-of day
    """

    result: Result
    issued: Sequence[Issued]
    changes: RevisedPeriods | None
    today: date


def watched(watches: Sequence[AnyWatch], looked: Looked) -> Watched:
    found: dict[tuple[str, str, str], Found] = {}
    unsaid: list[str] = []
    for watch in watches:
        for said in _FINDERS[type(watch)](watch, looked):
            if isinstance(said, str):
                unsaid.append(said)
            else:
                found.setdefault((said.kind, said.series, said.period), said)
    return Watched(tuple(found.values()), tuple(dict.fromkeys(unsaid)))


def is_same(one: Found, other: Found, result: Result) -> bool:
    """Return whether two findings are the same; a shift may move a little as rows come."""
    if (one.kind, one.series) != (other.kind, other.series):
        return False
    if one.kind != ShiftFound.model_fields["kind"].default:
        return one.period == other.period
    try:
        return abs(result.state.grain.parse(one.period) - result.state.grain.parse(other.period)) <= NEAR
    except ValueError:
        # of another grain than the study has now
        return False


def _newest(line: Line) -> int | None:
    """Return the index of the newest observed, complete value."""
    left_out = np.isin(line.condition, (Condition.PROVISIONAL, Condition.FILLED, Condition.OPEN))
    there = np.flatnonzero(~np.isnan(line.value) & ~left_out)
    return int(there[-1]) if there.size else None


def _outside(watch: OutsideLimits, looked: Looked) -> Iterator[Found | str]:
    grain = looked.result.state.grain
    nothing: list[str] = []
    for line in looked.result.state.lines:
        at = _newest(line) if watch.concerns(line.name) else None
        if at is None:
            continue
        label, value = grain.label(int(line.periods[at])), float(line.value[at])
        limits = _limits_of(looked.issued, line.name, label, watch.level)
        if limits is None:
            nothing.append(line.name)
            continue
        lower, upper, as_of = limits
        if lower <= value <= upper:
            continue
        where = f"below {number(_short(lower))}" if value < lower else f"above {number(_short(upper))}"
        text = (
            f"{line.name}: {number(value)} on {grain.spoken(int(line.periods[at]))} is {where}, the {number(watch.level)} % "
            f"limit that was projected on {spoken_label(as_of)}."
        )
        yield Found(watch.kind, line.name, label, text, value)
    if nothing:
        yield (
            f"No {number(watch.level)} % limits were projected for the newest value of {listed(nothing[:4])}"
            f"{' and others' if len(nothing) > 4 else ''}: whether it is outside cannot be told."
        )


def _limits_of(issued: Sequence[Issued], series: str, label: str, level: float) -> tuple[float, float, str] | None:
    """Return limits and as-of day of the last projection with the period."""
    for told in reversed(issued):
        if not told.frame.height:
            continue
        rows = told.frame.filter(
            (pl.col("series") == series) & (pl.col("period") == label) & ((pl.col("level") - level).abs() < 1e-9)
        )
        if rows.height:
            return float(rows["lower"][0]), float(rows["upper"][0]), told.as_of
    return None


def _late(watch: RowsLate, looked: Looked) -> Iterator[Found | str]:
    # of rows as they come in, whatever grain the ledger puts them on
    expected = looked.result.base.expected
    grain = expected.grain
    if grain.unit is Unit.MOMENT:
        yield "Dates as they come have no period that could be late."
        return
    for line in looked.result.base.lines:
        there = np.flatnonzero(~np.isnan(line.original)) if watch.concerns(line.name) else np.zeros(0, np.int64)
        if not there.size:
            continue
        newest = int(line.periods[there[-1]])
        due = int(expected.following(newest, 1)[0])
        ends = grain.days(np.array([due + 1]))[0].astype("datetime64[D]").item()
        days = (looked.today - ends).days
        if days > watch.days:
            text = (
                f"{line.name}: the newest row is of {grain.spoken(newest)}; the next was due by {spoken_date(ends)}, "
                f"{counted(days, 'day')} ago."
            )
            yield Found(watch.kind, line.name, grain.label(newest), text)


def _shift(watch: ShiftFound, looked: Looked) -> Iterator[Found | str]:
    state = looked.result.state
    reports = [report for report in looked.result.reports if report.kind == Shifts.kind and report.on]
    if not any(report.problem is None and not report.waiting for report in reports):
        yield "No entry of the ledger finds level shifts, so that none can be told of."
        return
    newest = {line.name: int(line.periods[-1]) for line in state.lines if len(line)}
    found = [found for report in reports for found in results_of(report.outcome.results, SeriesShifts)]
    for name, shift in ((known.series, shift) for known in found for shift in known.shifts):
        period, level = shift.period, shift.level
        if not watch.concerns(name) or period <= newest.get(name, period) - watch.last:
            continue
        text = f"{name}: the level shifts by {signed(level.size)} from {state.grain.spoken(period)} on."
        yield Found(watch.kind, name, state.grain.label(period), text, level.after)


def _revision(watch: RevisionLarger, looked: Looked) -> Iterator[Found | str]:
    if looked.changes is None:
        return
    grain = looked.changes.grain
    by_series: dict[str, list[tuple[float, RevisedPeriod]]] = {}
    for row in looked.changes.of(Kind.REVISED):
        if not watch.concerns(row.series) or (row.provisional and watch.which is Which.SURE):
            continue
        assert row.was is not None
        assert row.now is not None
        share = abs(row.now - row.was) / abs(row.was) if row.was else np.inf
        if 100 * share > watch.percent:
            by_series.setdefault(row.series, []).append((share, row))
    for series, revised in by_series.items():
        share, row = max(revised, key=lambda known: (known[0], known[1].period))
        assert row.was is not None
        assert row.now is not None
        more = f"; {counted(len(revised) - 1, 'other value')} too" if len(revised) > 1 else ""
        by = f"by {number(float(f'{100 * share:.3g}'))} %" if np.isfinite(share) else "from nothing"
        text = f"{series}: {grain.spoken(row.period)} was {number(row.was)} and is {number(row.now)} now, revised {by}{more}."
        yield Found(watch.kind, series, grain.label(row.period), text, row.now)


def _short(value: float) -> float:
    return float(f"{value:.4g}")


_FINDERS: dict[type, Callable[[Any, Looked], Iterator[Found | str]]] = {
    OutsideLimits: _outside,
    RowsLate: _late,
    ShiftFound: _shift,
    RevisionLarger: _revision,
}

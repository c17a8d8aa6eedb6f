"""Summarise each series in one row of series.parquet."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from typing import Any

import numpy as np
import polars as pl

from zembra.core.arithmetic.arrays import values_at
from zembra.core.calendar.grain import Grain
from zembra.core.calendar.lines import Condition, Line, Received
from zembra.core.entries.projections.seriesprojection import SeriesProjection
from zembra.core.entries.repairs.found_shifts import Shifts
from zembra.core.entries.repairs.shiftresults import DatedShift, SeriesShifts
from zembra.core.handover.tables import BRIDGED
from zembra.core.ledger.lineentry import RefusedEach
from zembra.core.ledger.results import results_of
from zembra.core.ledger.run import Report, Result
from zembra.core.many.expectations import Expectation, expectations

SPARK = 90  # of the newest periods, that a small chart shows
BITS = 64  # of the newest periods, of which it is told whether they are open

SCHEMA: dict[str, Any] = {
    "series": pl.String,
    "rows": pl.UInt32,
    "first": pl.Date,
    "last": pl.Date,
    "newest": pl.Float64,
    "newest_day": pl.Date,
    "newest_period": pl.String,
    "expected": pl.Float64,
    "lower": pl.Float64,
    "upper": pl.Float64,
    "away": pl.Float64,
    **{condition.word.replace(" ", "_"): pl.UInt32 for condition in Condition},
    BRIDGED: pl.UInt32,
    "blank": pl.UInt32,
    "absent": pl.UInt32,
    "unreadable": pl.UInt32,
    "shared": pl.UInt32,
    "open_bits": pl.UInt64,
    "shifts": pl.UInt32,
    "shift_day": pl.Date,
    "shift_size": pl.Float64,
    "error": pl.Float64,
    "findings": pl.UInt32,
    "refused": pl.String,
    "spark": pl.List(pl.Float32),
    "spark_lower": pl.List(pl.Float32),
    "spark_upper": pl.List(pl.Float32),
}
"""Columns of series.parquet. first, last: days of the first and the last row. newest: the newest number, after repairs; expected, lower, upper:
what the ledger has it expected to be, by its projection held back or by its band; away: how many half-widths of the limits it lies
beyond the middle, above 1 outside. Conditions: how many periods are in each. blank, absent, unreadable: periods as they came in; shared: those that several rows share. open_bits: which of the newest 64 periods
are open, the newest in the lowest bit. shift_day, shift_size: of the last level shift. error: scaled error of the projection on
held-back periods. findings: on the follow-up list. refused: entries that could not be carried out, in words."""


@dataclass
class _About:
    """What entries report about a series."""

    shifts: list[DatedShift] = field(default_factory=list)
    error: float | None = None
    findings: int = 0
    refused: list[str] = field(default_factory=list)


def series_frame(result: Result, names: Sequence[str]) -> pl.DataFrame:
    """Return a row for each series, in order."""
    about = _about(result, names)
    lines = {line.name: line for line in result.state.lines}
    base = {line.name: line for line in result.base.lines}
    expected = expectations(result)
    grain, came_on = result.state.grain, result.base.grain
    rows = [
        _row(name, lines.get(name), base.get(name), about[name], expected.get(name), grain, came_on) for name in names
    ]
    return pl.DataFrame(rows, schema=SCHEMA, orient="row")


def _about(result: Result, names: Iterable[str]) -> dict[str, _About]:
    found = {name: _About() for name in names}
    for report in result.reports:
        for finding in report.outcome.findings:
            if finding.listed and finding.series in found:
                found[finding.series].findings += 1
        for name, why in _refusals(report, found):
            if name in found:
                found[name].refused.append(f"{type(report.entry).title}: {why}")
        for told in results_of(report.outcome.results, SeriesShifts) if report.kind == Shifts.kind else ():
            if told.series in found:
                found[told.series].shifts.extend(told.shifts)
        for projected in results_of(report.outcome.results, SeriesProjection):
            if projected.series in found:
                found[projected.series].error = projected.judged.mase if projected.judged else None
    return found


def _refusals(report: Report, names: Mapping[str, _About]) -> Iterable[tuple[str, str]]:
    """Return (series, reason) where an entry refused."""
    if isinstance(report.problem, RefusedEach):
        return [(name, str(why)) for name, why in report.problem.each]
    if report.problem is not None:
        return [(name, str(report.problem)) for name in names]
    return [(name, str(why)) for name, why in report.outcome.refused]


def _row(
    name: str,
    line: Line | None,
    base: Line | None,
    about: _About,
    expected: Expectation | None,
    grain: Grain,
    came_on: Grain,
) -> tuple[Any, ...]:
    """Return the row of one series.

    came_on: grain of the base, which the ledger may have changed
    """
    if line is None or not len(line):
        nothing = dict.fromkeys(SCHEMA)
        return tuple({**nothing, "series": name, "refused": "; ".join(about.refused)}.values())
    came, came_on = (line, grain) if base is None else (base, came_on)
    there = np.flatnonzero(came.row_count > 0)
    known = np.flatnonzero(~np.isnan(line.value) & (line.condition != Condition.SET_ASIDE))
    newest = int(known[-1]) if known.size else None
    held = _held(line, newest, expected)
    counts = np.bincount(line.condition, minlength=len(Condition))
    bridged = int(np.count_nonzero((line.condition == Condition.OPEN) & line.bridged))
    counts[Condition.OPEN] -= bridged
    open_ = line.condition[::-1][:BITS] == Condition.OPEN
    bits = int(sum(1 << n for n in np.flatnonzero(open_).tolist()))
    shift = max(about.shifts, key=lambda known_shift: known_shift.period, default=None)
    tail = line.periods[-SPARK:]
    return (
        name,
        int(came.row_count.sum()),
        _day(came_on, int(came.periods[there[0]])) if there.size else None,
        _day(came_on, int(came.periods[there[-1]])) if there.size else None,
        None if newest is None else float(line.value[newest]),
        None if newest is None else _day(grain, int(line.periods[newest])),
        None if newest is None else grain.label(int(line.periods[newest])),
        *held,
        *(int(many) for many in counts),
        bridged,
        int(np.count_nonzero(came.received == Received.BLANK)),
        int(np.count_nonzero(came.received == Received.ABSENT)),
        int(np.count_nonzero(came.received == Received.UNREADABLE)),
        int(np.count_nonzero(came.row_count > 1)),
        bits,
        len(about.shifts),
        None if shift is None else _day(grain, shift.period),
        None if shift is None else shift.level.size,
        about.error,
        about.findings,
        "; ".join(about.refused),
        _listed(line.value[-SPARK:]),
        [] if expected is None else _listed(values_at(expected.periods, expected.lower, tail)),
        [] if expected is None else _listed(values_at(expected.periods, expected.upper, tail)),
    )


def _held(line: Line, newest: int | None, expected: Expectation | None) -> tuple[float | None, ...]:
    """Return expected value, limits, and distance in half-widths of the newest number."""
    if newest is None or expected is None:
        return (None,) * 4
    at = line.periods[newest : newest + 1]
    sides = (expected.middle, expected.lower, expected.upper)
    middle, low, high = (float(values_at(expected.periods, side, at)[0]) for side in sides)
    value = float(line.value[newest])
    if np.isnan([middle, low, high]).any():
        return (None,) * 4
    half = high - middle if value > middle else middle - low
    away = abs(value - middle) / half if half > 0 else (0.0 if value == middle else float("inf"))
    return middle, low, high, away


def _day(grain: Grain, period: int) -> date:
    day: date = grain.days(np.array([period]))[0].astype("datetime64[D]").item()
    return day


def _listed(values: np.ndarray) -> list[float | None]:
    return [None if np.isnan(value) else float(value) for value in values]

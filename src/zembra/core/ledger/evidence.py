"""Evidence of an entry: typed tables, small plots, findings.

A finding stands apart from the tables that list it, so that marks, the strip's explanations and lists of
periods to ask about all speak of the same one.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import NamedTuple

import numpy as np

from zembra.core.arithmetic.arrays import Ints

Cell = str | float | int | None
Row = tuple[Cell, ...]


class ColumnKind(StrEnum):
    """The kind of values in a column. PERIOD is the label of a period, P a p-value."""

    TEXT = "text"
    COUNT = "count"
    NUMBER = "number"
    PERCENT = "percent"
    PERIOD = "period"
    SERIES = "series"
    EQUATION = "equation"
    P = "p"


@dataclass(frozen=True, slots=True)
class Column:
    """A column of a table.

    key: its name in reports
    unit: unit of its numbers
    """

    key: str
    title: str
    kind: ColumnKind = ColumnKind.NUMBER
    unit: str = ""


SERIES = Column("series", "Series", ColumnKind.SERIES)


def text(key: str, title: str) -> Column:
    return Column(key, title, ColumnKind.TEXT)


def count(key: str, title: str) -> Column:
    return Column(key, title, ColumnKind.COUNT)


def measure(key: str, title: str, unit: str = "") -> Column:
    return Column(key, title, ColumnKind.NUMBER, unit)


def percent(key: str, title: str) -> Column:
    return Column(key, title, ColumnKind.PERCENT)


def p_value(key: str, title: str) -> Column:
    return Column(key, title, ColumnKind.P)


def period(key: str, title: str) -> Column:
    return Column(key, title, ColumnKind.PERIOD)


class Deed(StrEnum):
    """An action on a row: keep the point all the same, or note a reason."""

    KEEP = "keep"
    NOTE = "note"


class Finding(NamedTuple):
    """A period of a series that an entry reports. A tuple, as there can be tens of thousands.

    period: number on the study's grain
    against: the value it was compared with
    distance: difference from that, in the unit of the series
    state: what became of it: "out", "kept"
    note: a reason that somebody noted
    found_by: name of the finder in lists
    event: name of the event that contains it
    listed: whether it belongs on the follow-up list
    """

    series: str
    period: int
    value: float
    entry: str
    against: float | None = None
    distance: float | None = None
    state: str = ""
    note: str = ""
    found_by: str = ""
    event: str = ""
    listed: bool = False


def periods_of(findings: Iterable[Finding]) -> Ints:
    return np.array([finding.period for finding in findings], dtype=np.int64)


@dataclass(frozen=True, slots=True)
class Table:
    """A table as evidence. Numbers are unformatted; the screen formats them.

    findings: the finding of each row, if rows are findings
    deeds: actions that its rows offer
    """

    title: str
    columns: tuple[Column, ...]
    rows: tuple[Row, ...]
    findings: tuple[Finding | None, ...] = ()
    deeds: tuple[Deed, ...] = ()


class PlotKind(StrEnum):
    POINTS = "points"
    BARS = "bars"
    LINES = "lines"


@dataclass(frozen=True, slots=True)
class Plot:
    """A small chart as evidence.

    x, y: coordinates, equally many
    levels: heights of horizontal rules
    x_title, y_title: axis titles with units
    """

    title: str
    kind: PlotKind
    x_title: str
    y_title: str
    x: tuple[float, ...]
    y: tuple[float | None, ...]
    levels: tuple[float, ...] = ()


Evidence = Table | Plot


def table(title: str, columns: Sequence[Column], rows: Iterable[Row]) -> Table:
    return Table(title, tuple(columns), tuple(rows))

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
    """What stands in a column. PERIOD is a period's label. P is a probability that something is chance."""

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
    """key: its name in reports. unit: of its numbers."""

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
    """What can be done with a row: keep its point all the same, or note a reason for it."""

    KEEP = "keep"
    NOTE = "note"


class Finding(NamedTuple):
    """A period of a series that an entry found worth saying.

    period: its number on the study's grain. against: what the value was held against. distance: from that,
    in the unit of the series. state: what became of it ("out", "kept"). note: a reason noted by hand. found_by:
    how the finder is told in a list. event: the name of the event it falls on. listed: whether it belongs on the
    follow-up list. A tuple, as there can be tens of thousands of them.
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
    """A piece of evidence. A number is given as a number and shown by the screen.

    findings: the finding behind each row, where rows speak of findings. deeds: what can be done with those.
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
    """A small chart as evidence. x, y: as many numbers each. levels: heights at which a rule is drawn.
    x_title, y_title: what they are, with their unit."""

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

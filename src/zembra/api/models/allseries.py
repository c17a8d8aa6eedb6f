"""All series of a study."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, ConfigDict

from zembra.api.models.evidence import SentenceView
from zembra.api.models.work import WorkView


class SeriesColumn(BaseModel):
    """A column of the table.

    kind: number, date or text
    usual: whether it is shown by default
    """

    name: str
    title: str
    tip: str
    kind: str
    usual: bool


class AllSeriesView(BaseModel):
    """The state of a run on all series.

    series: number in the file; known: with results
    revision, as_of: of the last finished run, or null; edited: whether the study changed since
    failed: series that failed
    notes: remarks
    work: the running or last work
    """

    series: int
    known: int
    revision: int | None
    as_of: str | None
    edited: bool
    failed: int
    notes: list[str]
    work: WorkView | None
    columns: list[SeriesColumn]


class LookView(BaseModel):
    """A reason for a look, with its count.

    name: key for queries
    calls: whether action is needed
    """

    name: str
    words: str
    count: int
    calls: bool


class Looks(BaseModel):
    """All reasons."""

    looks: list[LookView]


class SeriesRow(BaseModel):
    """A series.

    cells: of requested columns
    away: distance of the newest number in half-widths
    found: reasons for a look
    """

    series: str
    cells: dict[str, float | str | None]
    away: float | None
    found: list[str]
    spark: list[float | None]
    spark_lower: list[float | None]
    spark_upper: list[float | None]


class SeriesRows(BaseModel):
    total: int
    start: int
    rows: list[SeriesRow]


class DrawnLine(BaseModel):
    """A line of a series.

    lower, upper: its widest limits, or empty
    """

    name: str
    kind: str
    period: list[str]
    value: list[float | None]
    lower: list[float | None]
    upper: list[float | None]


class OneSeries(BaseModel):
    """A series with its lines.

    beside: for sums, the sums of the series' projections, by entry
    """

    series: str
    period: list[str]
    value: list[float | None]
    condition: list[str]
    lines: list[DrawnLine]
    beside: list[DrawnLine]


class Listed(BaseModel):
    """Result.

    listed: series added to the follow-up list; left: those listed already or without a number
    """

    listed: int
    left: int


class NamePartView(BaseModel):
    """A part of names.

    values: number of values; examples: some
    without: series that lack it
    """

    name: str
    values: int
    examples: list[str]
    without: int


class TogetherView(BaseModel):
    """The state of sums.

    sentence: of the last sums, or suggested
    sums: number, null before any
    edited: whether study or run changed since
    notes: remarks
    """

    sentence: SentenceView
    parts: list[NamePartView]
    sums: int | None
    edited: bool
    failed: int
    notes: list[str]
    work: WorkView | None


class TogetherRequest(BaseModel):
    """Request.

    words: of the summing sentence
    """

    model_config = ConfigDict(extra="forbid")

    words: dict[str, Any]

"""All series of a study."""

from __future__ import annotations

from pydantic import BaseModel

from zembra.api.models.work import WorkView


class AllSeriesView(BaseModel):
    """How the study stands with all its series. series: of the file. known: those that can be looked at. revision, as_of: of the last
    run that was finished, null before any; edited: whether the study is another one since. failed: series that could not be carried
    out. notes: what else is to be known. work: the run that is under way, or how it ended."""

    series: int
    known: int
    revision: int | None
    as_of: str | None
    edited: bool
    failed: int
    notes: list[str]
    work: WorkView | None


class LookCounts(BaseModel):
    """How many series there are to look at, by reason."""

    counts: dict[str, int]


class SeriesRow(BaseModel):
    """A series. away: how many half-widths of its limits the newest number lies from what was expected. found: reasons to look."""

    series: str
    newest: float | None
    newest_period: str | None
    expected: float | None
    away: float | None
    shift_size: float | None
    shift_day: str | None
    blank: int | None
    open: int | None
    error: float | None
    refused: str
    found: list[str]
    spark: list[float | None]
    spark_lower: list[float | None]
    spark_upper: list[float | None]


class SeriesRows(BaseModel):
    total: int
    start: int
    rows: list[SeriesRow]


class DrawnLine(BaseModel):
    """Something drawn of a series, on its periods. lower, upper: its widest limits, empty where there are none."""

    name: str
    kind: str
    period: list[str]
    value: list[float | None]
    lower: list[float | None]
    upper: list[float | None]


class OneSeries(BaseModel):
    """A series with the ledger's drawing."""

    series: str
    period: list[str]
    value: list[float | None]
    condition: list[str]
    lines: list[DrawnLine]

"""All series of a study."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, ConfigDict

from zembra.api.models.evidence import SentenceView
from zembra.api.models.work import WorkView


class SeriesColumn(BaseModel):
    """A column that the table can show. kind: number, date or text. usual: whether it is shown at first."""

    name: str
    title: str
    tip: str
    kind: str
    usual: bool


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
    columns: list[SeriesColumn]


class LookView(BaseModel):
    """A reason to look at series, in words, and how many there are. name: by which their rows are asked for. calls: whether something is
    to be done about them."""

    name: str
    words: str
    count: int
    calls: bool


class Looks(BaseModel):
    """Every reason there is."""

    looks: list[LookView]


class SeriesRow(BaseModel):
    """A series. cells: of the columns that are asked for. away: how many half-widths of its limits the newest number lies from what was
    expected. found: reasons to look."""

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
    """Something drawn of a series, on its periods. lower, upper: its widest limits, empty where there are none."""

    name: str
    kind: str
    period: list[str]
    value: list[float | None]
    lower: list[float | None]
    upper: list[float | None]


class OneSeries(BaseModel):
    """A series with the ledger's drawing. beside: of a sum, the sums of what is projected of its parts, by the entry that projects."""

    series: str
    period: list[str]
    value: list[float | None]
    condition: list[str]
    lines: list[DrawnLine]
    beside: list[DrawnLine]


class Listed(BaseModel):
    """listed: how many series were put on the follow-up list; left: those that were there already, or have no number."""

    listed: int
    left: int


class NamePartView(BaseModel):
    """What series can be summed by. values: how many; examples: some of them. without: series that have none."""

    name: str
    values: int
    examples: list[str]
    without: int


class TogetherView(BaseModel):
    """How the study stands with its sums. sentence: of the last that were made, or as they are begun. sums: how many there are, null before
    any. edited: whether the study, or its run, is another one since. notes: what else is to be known."""

    sentence: SentenceView
    parts: list[NamePartView]
    sums: int | None
    edited: bool
    failed: int
    notes: list[str]
    work: WorkView | None


class TogetherRequest(BaseModel):
    """words: of the sentence that says what is summed."""

    model_config = ConfigDict(extra="forbid")

    words: dict[str, Any]

"""Evidence of an entry."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field


class PartView(BaseModel):
    """A piece of a sentence.

    quiet: whether it may be left out
    name: whether it keeps its case
    """

    text: str
    slot: str | None = None
    quiet: bool = False
    name: bool = False


class ColumnView(BaseModel):
    """A column.

    kind: text, count, number, percent, period, series, equation or p
    unit: of its numbers
    """

    key: str
    title: str
    kind: str
    unit: str


class FindingView(BaseModel):
    """A finding.

    at: position
    against: reference value; distance: from it
    state: what became of it
    note: a noted reason
    """

    series: str
    period: str
    at: int
    value: float | None
    against: float | None
    distance: float | None
    state: str
    note: str


class TableView(BaseModel):
    """A table.

    findings: by row, or empty
    deeds: actions on rows
    """

    what: Literal["table"] = "table"
    title: str
    columns: list[ColumnView]
    rows: list[list[str | float | int | None]]
    findings: list[FindingView | None]
    deeds: list[str]


class PlotView(BaseModel):
    """A small chart.

    kind: points, bars or lines
    levels: heights of rules
    """

    what: Literal["plot"] = "plot"
    title: str
    kind: str
    x_title: str
    y_title: str
    x: list[float]
    y: list[float | None]
    levels: list[float]


class EvidenceView(BaseModel):
    """The evidence of an entry."""

    entry: str
    items: list[Annotated[TableView | PlotView, Field(discriminator="what")]]


class SentenceView(BaseModel):
    """A sentence in pieces, with its words."""

    words: dict[str, Any]
    parts: list[PartView]

"""Evidence of an entry."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field


class PartView(BaseModel):
    """quiet: its words stand at what is usual, and it need not be said. name: it stays as it is written, even
    where a sentence begins."""

    text: str
    slot: str | None = None
    quiet: bool = False
    name: bool = False


class ColumnView(BaseModel):
    """kind: text, count, number, percent, period, series, equation or p. unit: of its numbers."""

    key: str
    title: str
    kind: str
    unit: str


class FindingView(BaseModel):
    """A period that an entry found worth saying. at: where it is drawn. against: what its value was held
    against; distance: from that. state: what became of it. note: a reason noted by hand."""

    series: str
    period: str
    at: int
    value: float | None
    against: float | None
    distance: float | None
    state: str
    note: str


class TableView(BaseModel):
    """findings: the one behind each row, empty where rows speak of none. deeds: what can be done with a row."""

    what: Literal["table"] = "table"
    title: str
    columns: list[ColumnView]
    rows: list[list[str | float | int | None]]
    findings: list[FindingView | None]
    deeds: list[str]


class PlotView(BaseModel):
    """A small chart. kind: points, bars or lines. levels: heights of rules."""

    what: Literal["plot"] = "plot"
    title: str
    kind: str
    x_title: str
    y_title: str
    x: list[float]
    y: list[float | None]
    levels: list[float]


class EvidenceView(BaseModel):
    """What an entry shows for what it did."""

    entry: str
    items: list[Annotated[TableView | PlotView, Field(discriminator="what")]]


class SentenceView(BaseModel):
    """A sentence in pieces, with its words as data."""

    words: dict[str, Any]
    parts: list[PartView]

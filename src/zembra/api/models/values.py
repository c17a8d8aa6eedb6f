"""The table of all lines, side by side."""

from __future__ import annotations

from pydantic import BaseModel


class ValueColumn(BaseModel):
    """A line of the values table. id: of the series or the shape. of: the series it belongs to. kind: "series",
    "reading" or "projection"."""

    id: str
    of: str
    name: str
    kind: str


class ValuePage(BaseModel):
    """Periods of the values table, in order. place: where the day that was asked for lies. every: the lines that can be
    its columns. columns: ids of those given. t: where the periods are drawn, milliseconds since 1970 UTC. values: a
    list a column, null for no number. conditions: for each column one letter a period, as the legend of conditions has
    it, a dot where it says nothing. raws: the text of the cell where the point is not plainly measured, else empty.
    places: for each column the places of the periods in its series, -1 for none."""

    total: int
    start: int
    place: int | None
    every: list[ValueColumn]
    columns: list[str]
    periods: list[str]
    t: list[int]
    values: list[list[float | None]]
    conditions: list[str]
    raws: list[list[str]]
    places: list[list[int]]

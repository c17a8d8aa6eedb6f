"""The table of all lines, side by side."""

from __future__ import annotations

from pydantic import BaseModel


class ValueColumn(BaseModel):
    """A line of the values table.

    id: of series or shape
    of: its series
    kind: "series", "reading" or "projection"
    """

    id: str
    of: str
    name: str
    kind: str


class ValuePage(BaseModel):
    """A page of the values table.

    place: index of the requested day
    every: all possible columns
    columns: returned ids
    t: positions in milliseconds since 1970 UTC
    values: by column, null for none
    conditions: letters by column, a dot for none
    raws: cell texts of points not plainly measured
    places: indices in the series, -1 for none
    """

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

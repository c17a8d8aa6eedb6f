"""The description of a figure. A drawing needs nothing else, and a screen and a renderer share it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

Role = Literal["series", "reading", "projection"]
View = Literal["before", "both", "after"]


class FigureSettings(BaseModel):
    """What the analyst decided about the picture; kept with every revision.

    shown: names of the series drawn, None for the first few. view: the lines as received, as
    repaired, or both.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    title: Annotated[str, Field(max_length=200)] = ""
    shown: tuple[str, ...] | None = None
    view: View = "after"


class FigureLimits(BaseModel):
    level: float
    lower: list[float | None]
    upper: list[float | None]


class FigureLine(BaseModel):
    """A line to draw.

    t: period starts, milliseconds since 1970 UTC. v: values, null where there is none. before: the
    values as received, for a series only. c: one letter a point for its condition now: m measured,
    o open, b bridged, f filled, s set aside, a adjusted, p provisional, j projected, r reading.
    r: one letter for what was received: m measured, b blank, a absent, u unreadable.
    colour: place in the series colour order.
    """

    series: str
    name: str
    role: Role
    kind: str
    entry: str
    colour: int
    t: list[int]
    v: list[float | None]
    c: str
    r: str = ""
    before: list[float | None] = Field(default_factory=list)
    limits: list[FigureLimits] = Field(default_factory=list)


class Figure(BaseModel):
    """grain: unit of the time axis. measure: what the value axis counts."""

    title: str
    measure: str
    grain: str
    period: str
    periods: str
    view: View
    as_of: str
    lines: list[FigureLine]

"""The description of a figure. A drawing needs nothing else, and a screen and a renderer share it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field, field_validator

from zembra.core.grammar import Choice, Sentence, Word
from zembra.core.lines import MarkKind

Role = Literal["series", "reading", "projection"]


class View(Choice):
    BEFORE = ("before", "as received")
    BOTH = ("both", "as received and as repaired")
    AFTER = ("after", "as repaired")


class Arrangement(Choice):
    OVERLAID = ("overlaid", "in one chart", "all lines on the same axes")
    STACKED = ("stacked", "stacked on each other", "each series drawn on top of the one before")
    APART = ("apart", "each in a chart of its own", "small multiples")


class Scale(Choice):
    SHARED = ("shared", "one scale for all")
    OWN = ("own", "a scale of its own each")


class Ends(Choice):
    OWN = ("own", "each to its own last value")
    TOGETHER = ("together", "all to the last period that every one has reached")


class Stack(Choice):
    """What becomes of a stack where one of its series has no number."""

    STOP = ("stop", "stopping where one has no number", "a sum is shown only where all of it was counted")
    THERE = ("there", "of what is there, striped where one has no number")
    BRIDGE = ("bridge", "with gaps bridged, striped", "drawn across, from the last number to the next")


class Shape(Choice):
    STRAIGHT = ("straight", "straight", "straight lines between the points")
    HELD = ("held", "in held steps", "a value holds until the next one (step after)")
    EARLY = ("early", "in early steps", "a value is taken at once after the one before (step before)")
    MID = ("mid", "in mid steps", "a value is taken half way between two points")
    CURVE = ("curve", "as a curve", "monotone between points: it never overshoots the data")


class FigureSettings(Sentence):
    """What the analyst decided about the picture; kept with every revision.

    shown: names of the series drawn, empty for the first few. view: the lines as received, as
    repaired, or both.
    """

    title: Annotated[str, Field(max_length=200, title="title")] = ""
    shown: Annotated[
        tuple[str, ...],
        Field(title="series drawn"),
        Word(options="lines", empty="the first series", spoken="shortened"),
    ] = ()
    view: Annotated[View, Field(title="before or after")] = View.AFTER
    arrangement: Annotated[Arrangement, Field(title="arrangement")] = Arrangement.OVERLAID
    scale: Annotated[Scale, Field(title="scale")] = Scale.SHARED
    ends: Annotated[Ends, Field(title="where lines end")] = Ends.OWN
    stack: Annotated[Stack, Field(title="where one of a stack has no number")] = Stack.STOP

    shape: Annotated[Shape, Field(title="how a line runs between points")] = Shape.STRAIGHT

    @field_validator("shown", mode="before")
    @classmethod
    def _none_is_empty(cls, value: object) -> object:
        return () if value is None else value

    def template(self) -> str:
        scale = ", {scale}" if self.arrangement is Arrangement.APART else ""
        # a stack that stops says itself where it ends
        stops = self.arrangement is Arrangement.STACKED and self.stack is Stack.STOP
        stack = ", {stack}" if self.arrangement is Arrangement.STACKED else ""
        return f"Draw {{shown}} {{shape}} {{arrangement}}{scale}{stack}{'' if stops else ', {ends}'}."


class FigureLimits(BaseModel):
    level: float
    lower: list[float | None]
    upper: list[float | None]


class FigureLine(BaseModel):
    """A line to draw.

    t: period starts, milliseconds since 1970 UTC. v: values, null where there is none. before: the
    values as received, for a series only. c: one letter a point for its condition now: m measured,
    o open, b bridged, f filled, s set aside, t set aside and drawn across, a adjusted, p provisional,
    j projected, r reading, q reading that rests on provisional periods.
    r: one letter for what was received: m measured, b blank, a absent, u unreadable.
    colour: place in the series colour order. top, floor, unsure: upper and lower edge of a stacked series,
    null where it is not drawn, and where they rest on a series without a number. points: how many the line has; places: which of
    them these are, where it was thinned, else empty.
    """

    series: str
    name: str
    role: Role
    kind: str
    entry: str
    colour: int
    top: list[float | None] = []
    floor: list[float | None] = []
    unsure: list[bool] = []
    points: int
    places: list[int] = []
    t: list[int]
    v: list[float | None]
    c: str
    r: str = ""
    before: list[float | None] = []
    limits: list[FigureLimits] = []


class FigureMark(BaseModel):
    """Something said at a period: a shift's rule, a move, a note. v: null where it is not at a value."""

    kind: MarkKind
    series: str
    colour: int
    t: int
    v: float | None
    text: str


class Figure(BaseModel):
    """grain: unit of the time axis. measure: what the value axis counts. thinned: whether points were
    left out that a chart of this width cannot show; every stretch keeps its extremes.
    """

    title: str
    measure: str
    grain: str
    period: str
    periods: str
    view: View
    arrangement: Arrangement
    scale: Scale
    shape: Shape
    as_of: str
    lines: list[FigureLine]
    marks: list[FigureMark]
    thinned: bool

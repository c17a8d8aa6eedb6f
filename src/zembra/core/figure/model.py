"""The data of a figure. Screen and renderer draw the same."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field, field_validator

from zembra.core.calendar.months import CalendarUnit, DayOrLonger
from zembra.core.dress.looks import NumberForm, PageView, Stretch, TimeLook
from zembra.core.dress.model import MOST_PICTURES, Headings, Picture
from zembra.core.errors import Refusal
from zembra.core.figure.legend import Sign
from zembra.core.figure.parts.models import AnyShapeView
from zembra.core.figure.parts.series import SeriesView
from zembra.core.grammar import Choice, Sentence, Word


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
    """The rule for a stack where a series has no number."""

    STOP = ("stop", "stopping where one has no number", "a sum is shown only where all of it was counted")
    THERE = ("there", "of what is there, striped where one has no number")
    BRIDGE = ("bridge", "with gaps bridged, striped", "drawn across, from the last number to the next")


class Shape(Choice):
    STRAIGHT = ("straight", "straight", "straight lines between the points")
    HELD = ("held", "in held steps", "a value holds until the next one (step after)")
    EARLY = ("early", "in early steps", "a value is taken at once after the one before (step before)")
    MID = ("mid", "in mid steps", "a value is taken half way between two points")
    CURVE = ("curve", "as a curve", "monotone between points: it never overshoots the data")


class Markers(Choice):
    """Which points get a marker."""

    NONE = ("none", "no marks on points", "a measured point that stands alone shows all the same")
    ODD = ("odd", "marks on what was not plainly measured", "filled, adjusted, set aside")
    MEASURED = ("measured", "marks on measured points")
    ALL = ("all", "marks on all points")


class Opening(Choice):
    """The stretch of time shown by default."""

    ALL = ("all", "all of it")
    NEWEST_YEAR = ("newest-year", "the newest year", "the calendar year of the newest number")
    TWELVE_MONTHS = ("12-months", "the last twelve months")
    SIX_MONTHS = ("6-months", "the last six months")
    THREE_MONTHS = ("3-months", "the last three months")


class ScaleFollows(Choice):
    WINDOW = ("window", "the value scale following what is shown")
    ALL = ("all", "the value scale staying as all of it needs")


class Raw(Choice):
    """Whether series with a reading are drawn."""

    SHOWN = ("shown", "with their own lines")
    HIDDEN = ("hidden", "without the lines that have a reading", "the readings stay; what is hidden still counts")


class FigureSettings(Sentence):
    """The analyst's settings of the figure, kept with every revision, and the pictures.

    shown: names of drawn series, empty for the first few
    view: lines as received, as repaired, or both
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
    markers: Annotated[Markers, Field(title="marks on points")] = Markers.ODD
    raw: Annotated[Raw, Field(title="lines that have a reading")] = Raw.SHOWN
    opening: Annotated[Opening, Field(title="stretch shown at first")] = Opening.ALL
    further: Annotated[int, Field(title="how far the time axis reaches on", ge=0, le=1000)] = 0
    unit: Annotated[DayOrLonger, Field(title="calendar unit")] = CalendarUnit.MONTH
    follows: Annotated[ScaleFollows, Field(title="value scale")] = ScaleFollows.WINDOW
    pictures: Annotated[tuple[Picture, ...], Field(title="pictures", max_length=MOST_PICTURES)] = ()

    @field_validator("shown", mode="before")
    @classmethod
    def _none_is_empty(cls, value: object) -> object:
        return () if value is None else value

    def every_picture(self, title: str) -> tuple[Picture, ...]:
        """Return the pictures, or a default one with this title."""
        return self.pictures or (Picture(name="the whole", headings=Headings(title=title)),)

    def picture_at(self, place: int, title: str) -> Picture:
        """Return a picture by index. Raises Refusal."""
        every = self.every_picture(title)
        if place >= len(every):
            raise Refusal(
                f"There is no picture {place + 1}.", place=f"the study has {len(every)}", todo="Choose one of them."
            )
        return every[place]

    def template(self) -> str:
        scale = ", {scale}" if self.arrangement is Arrangement.APART else ""
        # a stack that stops shows its own end
        stops = self.arrangement is Arrangement.STACKED and self.stack is Stack.STOP
        stack = ", {stack}" if self.arrangement is Arrangement.STACKED else ""
        return (
            f"Draw {{shown}} {{shape}} {{arrangement}}{scale}{stack}{'' if stops else ', {ends}'}"
            "[, {markers}][, {raw}][, showing {opening} at first][, the time axis {further} {unit} further][, {follows}]."
        )


class ScaleView(BaseModel):
    """A value axis.

    name: as shapes refer to it
    title: what it counts, with unit
    kind: linear or log
    low, high: its ends, null for automatic; tight: whether it then begins at the smallest value
    same: whether it equals the first scale
    numbers: whether they are written
    form: their format, null for usual
    below, above: number of values beyond its ends
    """

    name: str
    title: str
    kind: Literal["linear", "log"] = "linear"
    low: float | None = None
    high: float | None = None
    tight: bool = False
    same: bool = False
    grid: bool = True
    line: bool = False
    numbers: bool = True
    form: NumberForm | None = None
    below: int = 0
    above: int = 0


class Figure(BaseModel):
    """A figure as data.

    grain: unit of the time axis
    scales: value axes, first that of the series
    thinned: whether points were left out; every stretch keeps its extremes
    markers, raw, follows: settings
    until: least end of the axis; opens: stretch shown at first; milliseconds since 1970 UTC, or null
    signs: legend of conditions, in order
    page, time: of a picture, null on the bench
    """

    title: str
    scales: list[ScaleView]
    grain: str
    period: str
    periods: str
    view: View
    arrangement: Arrangement
    scale: Scale
    shape: Shape
    markers: Markers
    raw: Raw
    follows: ScaleFollows
    until: int | None
    opens: Stretch | None
    as_of: str
    series: list[SeriesView]
    shapes: list[AnyShapeView]
    signs: list[Sign]
    thinned: bool
    page: PageView | None = None
    time: TimeLook | None = None

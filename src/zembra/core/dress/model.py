"""A picture: what it shows and how it is dressed."""

from __future__ import annotations

import re
from datetime import date
from typing import Annotated, ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator

from zembra.core.calendar.months import CalendarUnit, DayOrLonger
from zembra.core.dress.dresswords import (
    COLOURS,
    EVERY_COLOUR,
    PLACED,
    AxisDrawn,
    Drawn,
    Grid,
    Ground,
    Halo,
    Light,
    MadeFor,
    NamedAt,
    Numbers,
    PointsAt,
    PointShape,
    Role,
    Runs,
    Said,
    Says,
    Shaded,
    Side,
    Stroke,
    Taken,
    TextSize,
    Ticks,
    Together,
    UnitStands,
    ValuesAt,
    Weight,
)
from zembra.core.dress.language import OURS, language_named, own_words
from zembra.core.grammar import Clause, Sentence, Word

MOST_PICTURES = 200
MM = 96 / 25.4  # pixels in a millimetre
_HEX = re.compile(r"#[0-9a-f]{6}")


class Headings(Sentence):
    title: Annotated[str | None, Field(max_length=300, title="title"), Word(empty="none")] = None
    under: Annotated[str | None, Field(max_length=300, title="line under the title"), Word(empty="nothing")] = None

    def template(self) -> str:
        return "Title {title}, under it {under}."


class What(Sentence):
    """What a picture shows.

    shown: names of series, by default those of the bench
    """

    shown: Annotated[
        tuple[str, ...],
        Field(title="series drawn"),
        Word(options="lines", empty="the series of the bench", spoken="shortened"),
    ] = ()

    def template(self) -> str:
        return "Show {shown}."


class Page(Sentence):
    made_for: Annotated[MadeFor, Field(title="what it is made for")] = MadeFor.SLIDE_WIDE
    width: Annotated[float, Field(title="width", ge=30, le=8000)] = 170.0
    height: Annotated[float, Field(title="height", ge=30, le=8000)] = 95.0
    text: Annotated[TextSize, Field(title="text size")] = TextSize.AS_SET
    on: Annotated[Ground, Field(title="ground")] = Ground.WHITE
    light: Annotated[Light, Field(title="light")] = Light.LIGHT

    def template(self) -> str:
        size = " {width} by {height}" if self.made_for in (MadeFor.MILLIMETRES, MadeFor.PIXELS) else ""
        return f"Made for {{made_for}}{size}, text {{text}}, on {{on}}[, {{light}}]."

    @property
    def pixels(self) -> tuple[int, int]:
        """Width and height in pixels of 1/96 inch."""
        sizes = {
            MadeFor.SLIDE_WIDE: (1280.0, 720.0),
            MadeFor.SLIDE: (1024.0, 768.0),
            MadeFor.FULL_WIDTH: (170 * MM, 95 * MM),
            MadeFor.HALF_PAGE: (170 * MM, 120 * MM),
            MadeFor.SQUARE: (900.0, 900.0),
            MadeFor.MILLIMETRES: (self.width * MM, self.height * MM),
            MadeFor.PIXELS: (self.width, self.height),
        }
        width, height = sizes[self.made_for]
        return max(120, min(8000, round(width))), max(90, min(8000, round(height)))


class LineDress(Sentence):
    """The dress of one line.

    id: name of the series, or id of the shape
    role: its role
    """

    id: Annotated[str, Field(max_length=1000)]
    role: Role = Role.SERIES
    drawn: Annotated[Drawn, Field(title="drawn as")] = Drawn.LINE
    weight: Annotated[Weight, Field(title="weight")] = Weight.MIDDLING
    stroke: Annotated[Stroke, Field(title="stroke")] = Stroke.UNBROKEN
    colour: Annotated[str, Field(title="colour"), Word(options="colours")] = COLOURS[0]
    fill: Annotated[float, Field(title="strength of the fill", ge=0, le=100), Word(unit="%", step=5)] = 20.0
    fill_to: Annotated[str | None, Field(title="down to"), Word(options="picture_lines", empty="zero")] = None
    points: Annotated[PointsAt, Field(title="points")] = PointsAt.NONE
    point_shape: Annotated[PointShape, Field(title="shape of points")] = PointShape.ROUND
    values: Annotated[ValuesAt, Field(title="values written at points")] = ValuesAt.NONE
    named: Annotated[NamedAt, Field(title="where its name stands")] = NamedAt.END
    called: Annotated[str | None, Field(max_length=300, title="its name"), Word(empty="by its own name")] = None
    says: Annotated[Says, Field(title="what stands under its name")] = Says.NOTHING
    halo: Annotated[Halo, Field(title="halo")] = Halo.NONE
    side: Annotated[Side, Field(title="scale")] = Side.USUAL
    taken: Annotated[Taken, Field(title="in the picture")] = Taken.IN

    @field_validator("colour")
    @classmethod
    def _known(cls, colour: str) -> str:
        colour = colour.strip().lower()
        if colour not in EVERY_COLOUR and not _HEX.fullmatch(colour):
            raise ValueError("a colour is one of the list, or written like #0f5c63")
        return colour

    def template(self) -> str:
        says = "[, {says}]" if self.role is Role.CURVE else ""
        rest = f"[, {{side}}][, called {{called}}]{says}[, {{halo}}][, {{taken}}]"
        if self.role in PLACED or self.taken is Taken.OUT:
            return "{@line} is {taken}."
        if self.role is Role.AREA:
            return "{@line}: filled in {colour}, {fill} strong[, {taken}]."
        if self.role is Role.RULE:
            return f"{{@line}} is a {{weight}} {{stroke}} line in {{colour}}, named {{named}}{rest}."
        if self.role is Role.PROJECTION:
            return (
                f"{{@line}} is a {{weight}} line of dashes in {{colour}}[, {{values}} written], named {{named}}{rest}."
            )
        look = {
            Drawn.LINE: "{drawn}, {weight} and {stroke}, in {colour}[, {points}]",
            Drawn.POINTS: "{drawn}, {point_shape}, in {colour}",
            Drawn.BARS: "{drawn} in {colour}",
            Drawn.AREA: "{drawn}, its edge {weight} and {stroke}, in {colour}, the fill {fill} strong down to {fill_to}",
        }[self.drawn]
        dots = "[, {points}]" if self.drawn is Drawn.AREA else ""
        shape = (
            ", the points {point_shape}" if self.points is not PointsAt.NONE and self.drawn is not Drawn.POINTS else ""
        )
        return f"{{@line}} is {look}{dots}{shape}[, {{values}} written], named {{named}}{rest}."


class Low(Clause):
    def bound(self) -> float | None:
        """Return the number at which the scale begins, or None for automatic."""
        return None


class FromZero(Low):
    label: ClassVar[str] = "zero"

    kind: Literal["zero"] = "zero"

    def bound(self) -> float | None:
        return 0.0


class AsNeeded(Low):
    label: ClassVar[str] = "as needed"
    tip: ClassVar[str] = "0, unless that is far away"

    kind: Literal["needed"] = "needed"


class FromSmallest(Low):
    label: ClassVar[str] = "the smallest"

    kind: Literal["smallest"] = "smallest"


class FromValue(Low):
    label: ClassVar[str] = "the value"

    kind: Literal["value"] = "value"
    value: Annotated[float, Field(title="value", allow_inf_nan=False)] = 0.0

    def template(self) -> str:
        return "{self} {value}"

    def bound(self) -> float | None:
        return self.value


AnyLow = AsNeeded | FromZero | FromSmallest | FromValue


class HighAsNeeded(Low):
    label: ClassVar[str] = "as high as needed"

    kind: Literal["needed"] = "needed"


class HighValue(FromValue):
    value: Annotated[float, Field(title="value", allow_inf_nan=False)] = 100.0


AnyHigh = HighAsNeeded | HighValue


class ValueScale(Sentence):
    counts: Annotated[
        str | None, Field(max_length=200, title="what it counts"), Word(empty="what the series count")
    ] = None
    unit: Annotated[str | None, Field(max_length=30, title="unit"), Word(empty="no unit")] = None
    unit_stands: Annotated[UnitStands, Field(title="where the unit stands")] = UnitStands.AFTER
    low: Annotated[AnyLow, Field(title="from", discriminator="kind")] = AsNeeded()
    high: Annotated[AnyHigh, Field(title="to", discriminator="kind")] = HighAsNeeded()
    runs: Annotated[Runs, Field(title="how it runs")] = Runs.EVENLY
    numbers: Annotated[Numbers, Field(title="numbers")] = Numbers.FULL
    decimals: Annotated[int | None, Field(title="decimals", ge=0, le=8), Word(empty="as many decimals as needed")] = (
        None
    )
    grid: Annotated[Grid, Field(title="grid lines")] = Grid.LINES
    axis: Annotated[AxisDrawn, Field(title="axis")] = AxisDrawn.NUMBERS

    def template(self) -> str:
        unit = ", in {unit}" + (" {unit_stands}" if self.unit else "")
        decimals = "[, with {decimals} decimals]" if self.decimals is not None else "[, with {decimals}]"
        return (
            f"The left scale{{@on_it}} counts {{counts}}[{unit}], from {{low}} to {{high}}, {{runs}}, numbers {{numbers}}"
            f"{decimals}[, {{grid}}][, {{axis}}]."
        )


class RightScale(ValueScale):
    together: Annotated[Together, Field(title="how it stands to the left one")] = Together.OWN
    hundred_at: Annotated[date | None, Field(title="day of the hundred"), Word(empty="the first day shown")] = None

    def template(self) -> str:
        if self.together is Together.HUNDRED:
            return "The right scale is {together} at {hundred_at}."
        if self.together is Together.EQUAL:
            return "The right scale is {together}."
        said = super().template().removeprefix("The left scale{@on_it} counts")
        return f"The right scale{{@on_it}} is {{together}} and counts{said}"


class Start(Clause):
    pass


class FromFirst(Start):
    label: ClassVar[str] = "the first period"

    kind: Literal["first"] = "first"


class FromDay(Start):
    label: ClassVar[str] = "the day"

    kind: Literal["day"] = "day"
    day: Annotated[date | None, Field(title="first day"), Word(empty="not given yet")] = None

    def template(self) -> str:
        return "{self} {day}"


class LastSo(Start):
    label: ClassVar[str] = "the last"

    kind: Literal["last"] = "last"
    count: Annotated[int, Field(title="how many", ge=1, le=1000)] = 6
    unit: Annotated[DayOrLonger, Field(title="calendar unit")] = CalendarUnit.MONTH

    def template(self) -> str:
        return "{self} {count} {unit} before the last value"


AnyStart = FromFirst | FromDay | LastSo


class End(Clause):
    pass


class ToAll(End):
    label: ClassVar[str] = "the end of all that is drawn"

    kind: Literal["all"] = "all"


class ToLast(End):
    label: ClassVar[str] = "the last value"

    kind: Literal["last"] = "last"


class ToDay(End):
    label: ClassVar[str] = "the day"

    kind: Literal["day"] = "day"
    day: Annotated[date | None, Field(title="last day"), Word(empty="not given yet")] = None

    def template(self) -> str:
        return "{self} {day}"


class Beyond(End):
    label: ClassVar[str] = "beyond the last value by"

    kind: Literal["beyond"] = "beyond"
    count: Annotated[int, Field(title="how many", ge=1, le=1000)] = 2
    unit: Annotated[DayOrLonger, Field(title="calendar unit")] = CalendarUnit.MONTH

    def template(self) -> str:
        return "{self} {count} {unit}"


AnyEnd = ToAll | ToLast | ToDay | Beyond


class TimeAxis(Sentence):
    start: Annotated[AnyStart, Field(title="from", discriminator="kind")] = FromFirst()
    end: Annotated[AnyEnd, Field(title="to", discriminator="kind")] = ToAll()
    ticks: Annotated[Ticks, Field(title="marked")] = Ticks.FIT
    fiscal: Annotated[int, Field(title="first month of the fiscal year", ge=1, le=12)] = 4
    shaded: Annotated[Shaded, Field(title="shaded")] = Shaded.NOTHING
    title: Annotated[str | None, Field(max_length=120, title="title of the time axis"), Word(empty="no title")] = None
    closing: Annotated[
        str | None, Field(max_length=60, title="label where nothing is expected"), Word(empty="no label")
    ] = None

    def template(self) -> str:
        fiscal = " from month {fiscal} on" if self.ticks is Ticks.FISCAL else ""
        closing = "[, and breaks called {closing}]"
        return (
            f"Time runs from {{start}} to {{end}}, marked {{ticks}}{fiscal}[, {{shaded}}][, titled {{title}}]{closing}."
        )


class Notes(Sentence):
    signs: Annotated[Said, Field(title="what stripes and hollow points mean")] = Said.SAID
    as_of: Annotated[Said, Field(title="as-of date")] = Said.SAID
    source: Annotated[str | None, Field(max_length=300, title="source"), Word(empty="none")] = None
    footnote: Annotated[str | None, Field(max_length=500, title="footnote"), Word(empty="none")] = None

    def template(self) -> str:
        return "What stripes and hollow points mean is {signs}, the as-of date {as_of}; source: {source}[, footnote: {footnote}]."


class Language(Sentence):
    """The language of a picture.

    own: translations such as “set aside: verworfen; projected: Prognose”
    """

    language: Annotated[str, Field(title="language", max_length=80), Word(options="languages")] = OURS
    own: Annotated[
        str | None, Field(title="words said otherwise", max_length=4000), Word(empty="no word said otherwise")
    ] = None

    @field_validator("language")
    @classmethod
    def _known(cls, language: str) -> str:
        return language_named(language)

    @field_validator("own")
    @classmethod
    def _of_the_key(cls, own: str | None) -> str | None:
        own_words(own)
        return own

    def template(self) -> str:
        return "Numbers, dates and the words of the key are in {language}[, with {own}]."


class FreeNote(Sentence):
    """A text with a leader line to a point.

    at: milliseconds since 1970 UTC; value: on the left scale
    dx, dy: offset of the text in pixels
    """

    text: Annotated[str, Field(max_length=300, title="text"), Word(empty="nothing yet")] = ""
    at: int = 0
    value: Annotated[float, Field(allow_inf_nan=False)] = 0.0
    dx: Annotated[float, Field(ge=-4000, le=4000)] = 40.0
    dy: Annotated[float, Field(ge=-4000, le=4000)] = -40.0

    def template(self) -> str:
        return "A note says {text}."


class Picture(BaseModel):
    """A picture.

    lines: dressed lines in drawing order; others follow as usual
    alt: description in words, by default generated
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    name: Annotated[str, Field(min_length=1, max_length=120)] = "picture"
    what: What = What()
    headings: Headings = Headings()
    page: Page = Page()
    lines: Annotated[tuple[LineDress, ...], Field(max_length=500)] = ()
    left: ValueScale = ValueScale()
    right: RightScale = RightScale()
    time: TimeAxis = TimeAxis()
    notes: Notes = Notes()
    language: Language = Language()
    free: Annotated[tuple[FreeNote, ...], Field(max_length=100)] = ()
    alt: Annotated[str | None, Field(max_length=3000)] = None

"""The resolved look of a figure, as data for the drawing."""

from __future__ import annotations

from pydantic import BaseModel

from zembra.core.dress.language import Tongue


class Look(BaseModel):
    """How a line is drawn.

    weight: pixels
    dash: name of a stroke
    colour: palette name or #rrggbb
    fill: opacity 0 to 1; fill_to: id of another line, empty for zero
    name: in the picture; under: texts under it
    order: from the back
    halo: whether it has a rim in the background colour
    """

    role: str
    drawn: str
    weight: float
    dash: str
    colour: str
    fill: float
    fill_to: str
    points: str
    point_shape: str
    values: str
    named: str
    name: str
    under: list[str] = []
    side: str
    order: int
    halo: bool = False


class NumberForm(BaseModel):
    """A number format: before + number / divide + after, with fixed decimals, or null for as many as needed.

    decimal, group: its marks
    """

    before: str = ""
    after: str = ""
    divide: float = 1.0
    decimals: int | None = None
    decimal: str = "."
    group: str = "\N{THIN SPACE}"


class Stretch(BaseModel):
    """A stretch of the time axis in milliseconds since 1970 UTC."""

    start: int
    end: int


class TimeLook(BaseModel):
    """The time axis of a picture: ends, ticks, shaded stretches and breaks, in milliseconds since 1970 UTC."""

    start: int
    end: int
    ticks: str
    fiscal: int
    shaded: list[Stretch]
    breaks: list[Stretch]
    closing: str
    title: str = ""


class FreeNoteView(BaseModel):
    text: str
    at: int
    value: float
    dx: float
    dy: float


class PageView(BaseModel):
    """The page of a picture.

    width, height: pixels
    text: size factor
    said: whether the key explains textures
    foot: text at the lower right
    warning: about the scales
    tongue: language, null for English
    """

    width: int
    height: int
    text: float
    ground: str
    dark: bool
    title: str
    under: str
    said: bool
    foot: str
    footnote: str
    warning: str
    notes: list[FreeNoteView]
    tongue: Tongue | None = None

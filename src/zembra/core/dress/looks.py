"""The resolved look of a figure, as data for the drawing."""

from __future__ import annotations

from pydantic import BaseModel

from zembra.core.dress.language import Tongue


class Look(BaseModel):
    """How a line is drawn. weight: pixels. dash: name of a stroke. colour: a name of the palette, or #rrggbb. fill: share
    from 0 to 1; fill_to: id of another line, empty for zero. name: as it stands in the picture; under: what stands under it.
    order: place from the back. halo: whether it has a rim in the colour of the ground."""

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
    """How the numbers of a scale are written: before + number / divide + after, with so many decimals, null for as many
    as are needed. decimal, group: the marks in them."""

    before: str = ""
    after: str = ""
    divide: float = 1.0
    decimals: int | None = None
    decimal: str = "."
    group: str = "\N{THIN SPACE}"


class Stretch(BaseModel):
    """A stretch of the time axis, milliseconds since 1970 UTC."""

    start: int
    end: int


class TimeLook(BaseModel):
    """The time axis of a picture: ends, how it is marked, and stretches that are shaded or break off, each with its
    label; milliseconds since 1970 UTC."""

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
    """width, height: pixels. text: factor. said: whether the meaning of stripes stands below. foot: what stands at the
    lower right. warning: what a reader must know of the scales. tongue: how the reader's language writes, null for as
    Zembra does everywhere."""

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

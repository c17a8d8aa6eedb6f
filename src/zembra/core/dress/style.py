"""A house style: the dress of a picture, kept for other studies."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from zembra.core.dress.dresswords import Role, Together
from zembra.core.dress.model import Language, LineDress, Notes, Page, Picture, RightScale, TimeAxis, ValueScale
from zembra.core.errors import Refusal

FORMAT = "zembra.style/1"
OF_A_LINE = {"id", "role", "called", "fill_to", "taken"}  # what belongs to one line, and to no style
OF_A_SCALE = ("unit_stands", "runs", "numbers", "decimals", "grid", "axis")


class HouseStyle(BaseModel):
    """A house style.

    lines: dresses by role, one for each line in turn; the last one repeats
    """

    model_config = ConfigDict(extra="forbid")

    format: Annotated[str, Field(max_length=40)] = FORMAT
    page: Page = Page()
    left: ValueScale = ValueScale()
    right: RightScale = RightScale()
    time: TimeAxis = TimeAxis()
    notes: Notes = Notes()
    language: Language = Language()
    lines: dict[Role, list[LineDress]] = {}


def style_of(picture: Picture, lines: Sequence[LineDress]) -> HouseStyle:
    """Return the dress of a picture as a style.

    lines: its dressed lines
    """
    by_role: dict[Role, list[LineDress]] = {}
    for line in lines:
        plain = LineDress(id="", role=line.role, **_words(line))
        known = by_role.setdefault(line.role, [])
        if not known or known[-1] != plain:
            known.append(plain)
    return HouseStyle(
        page=picture.page,
        left=ValueScale(**_of(picture.left, OF_A_SCALE), low=picture.left.low),
        right=RightScale(**_of(picture.right, OF_A_SCALE), together=Together.OWN),
        time=TimeAxis(**_of(picture.time, ("ticks", "fiscal", "shaded", "closing"))),
        notes=Notes(**_of(picture.notes, ("signs", "as_of", "footnote"))),
        language=picture.language,
        lines=by_role,
    )


def in_style(picture: Picture, style: HouseStyle, lines: Sequence[LineDress]) -> Picture:
    """Apply a style to a picture; its contents stay.

    lines: its dressed lines
    """
    counted: dict[Role, int] = {}
    dressed = []
    for line in lines:
        dresses = style.lines.get(line.role)
        place = counted.get(line.role, 0)
        counted[line.role] = place + 1
        dressed.append(line.model_copy(update=_words(dresses[min(place, len(dresses) - 1)])) if dresses else line)
    return picture.model_copy(
        update={
            "page": style.page,
            "left": picture.left.model_copy(update={**_of(style.left, OF_A_SCALE), "low": style.left.low}),
            "right": picture.right.model_copy(update=_of(style.right, OF_A_SCALE)),
            "time": picture.time.model_copy(update=_of(style.time, ("ticks", "fiscal", "shaded", "closing"))),
            "notes": picture.notes.model_copy(update=_of(style.notes, ("signs", "as_of", "footnote"))),
            "language": style.language,
            "lines": tuple(dressed),
        }
    )


def parse_style(text: bytes | str) -> HouseStyle:
    """Parse a style from JSON. Raises Refusal."""
    try:
        style = HouseStyle.model_validate_json(text)
    except ValidationError as error:
        first = error.errors()[0]
        where = " › ".join(str(step) for step in first["loc"]) or "the whole file"
        raise Refusal("The house style cannot be read.", place=f"{where}: {first['msg']}") from None
    if style.format != FORMAT:
        raise Refusal(f"The house style is in the form “{style.format}”; this Zembra reads {FORMAT}.")
    return style


def _words(model: LineDress) -> dict[str, Any]:
    return {name: value for name, value in model if name not in OF_A_LINE}


def _of(sentence: BaseModel, names: Sequence[str]) -> Mapping[str, Any]:
    return {name: getattr(sentence, name) for name in names}

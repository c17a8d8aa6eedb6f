"""Draw the picture of a run."""

from __future__ import annotations

from zembra.core.dress.model import Picture
from zembra.core.dress.style import HouseStyle, in_style
from zembra.core.errors import Refusal
from zembra.core.figure.dressed import picture_figure, undressed
from zembra.core.figure.lines import dressed_lines
from zembra.core.figure.model import FigureSettings
from zembra.core.ledger.run import Result
from zembra.rendering.isolated import draw


def picture_of_run(
    result: Result,
    settings: FigureSettings,
    form: str,
    style: HouseStyle | None = None,
    *,
    name: str | None = None,
    times: float = 1.0,
) -> bytes:
    """Return a picture as bytes. Raises Refusal.

    form: svg, png or pdf
    style: a house style
    name: of the picture, by default the first
    times: scale of a PNG
    """
    picture = _named(settings, name, result.state.file_name)
    if style is not None:
        figure = undressed(result, settings, picture)
        lines = [dress for _, dress in dressed_lines(figure, picture)]
        picture = in_style(picture, style, lines)
    figure = picture_figure(result, settings, picture)
    return draw(figure, picture, form, result.state.file_name, times)


def _named(settings: FigureSettings, name: str | None, title: str) -> Picture:
    every = settings.every_picture(settings.title or title)
    if name is None:
        return every[0]
    found = next((picture for picture in every if picture.name == name), None)
    if found is None:
        raise Refusal(
            f"There is no picture named “{name}”.",
            place=f"the pictures are {', '.join(picture.name for picture in every)}",
        )
    return found

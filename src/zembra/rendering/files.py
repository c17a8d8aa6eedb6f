"""Write a dressed picture as SVG, PNG or PDF."""

from __future__ import annotations

from collections.abc import Callable

from zembra.core.dress.model import Picture
from zembra.core.errors import Refusal
from zembra.core.figure.described import described
from zembra.core.figure.model import Figure
from zembra.rendering.engine import picture_svg
from zembra.rendering.image import pdf_of, png_of

Maker = Callable[[Figure, Picture, str, float], bytes]


def alt_of(picture: Picture, figure: Figure) -> str:
    """Return the description of a picture: the analyst's, or a generated one."""
    return picture.alt or described(figure)


def _svg(figure: Figure, picture: Picture, title: str, times: float) -> bytes:
    return picture_svg(figure, about=alt_of(picture, figure), with_fonts=True).encode()


def _png(figure: Figure, picture: Picture, title: str, times: float) -> bytes:
    return png_of(picture_svg(figure), picture.page.pixels, times)


def _pdf(figure: Figure, picture: Picture, title: str, times: float) -> bytes:
    name = picture.headings.title or title
    return pdf_of(picture_svg(figure), picture.page.pixels, title=name, about=alt_of(picture, figure))


_FORMS: dict[str, Maker] = {"svg": _svg, "png": _png, "pdf": _pdf}


def picture_file(figure: Figure, picture: Picture, form: str, title: str, times: float = 2.0) -> bytes:
    """Return a picture as bytes. Raises Refusal.

    figure: dressed
    form: svg, png or pdf
    title: for pictures without one
    times: scale of a PNG
    """
    make = _FORMS.get(form)
    if make is None:
        raise Refusal(f"A picture is a png, an svg or a pdf, not a “{form}”.", todo="Name the file so.")
    return make(figure, picture, title, times)

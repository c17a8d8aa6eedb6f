"""Turn a picture and its sentences into data for a screen."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from pydantic import BaseModel, ConfigDict

from zembra.api.models.evidence import PartView
from zembra.api.views import parts_view
from zembra.core.dress.dresswords import Together
from zembra.core.dress.model import (
    FreeNote,
    Headings,
    Language,
    LineDress,
    Notes,
    Page,
    Picture,
    RightScale,
    TimeAxis,
    ValueScale,
    What,
)
from zembra.core.english import listed
from zembra.core.figure.described import described
from zembra.core.figure.dressed import dressed, names_on, undressed
from zembra.core.figure.lines import dressed_lines
from zembra.core.figure.model import Figure, FigureSettings
from zembra.core.figure.parts.series import SeriesView
from zembra.core.grammar import Nouns, Sentence
from zembra.core.ledger.run import Result

DRESS: dict[str, type[Sentence]] = {
    "headings": Headings, "what": What, "page": Page, "line": LineDress, "left": ValueScale, "right": RightScale,
    "time": TimeAxis, "notes": Notes, "language": Language, "note": FreeNote,
}  # fmt: skip


MOST_ON_A_SCALE = 3  # lines that the sentence of a scale names


class DressView(BaseModel):
    """A sentence of a picture.

    part: which; key: of its line, or index of the note; name: of the line
    """

    part: str
    key: str
    name: str
    parts: list[PartView]
    params: dict[str, Any]


class PictureView(BaseModel):
    """A picture.

    place: index in `names`
    figure: dressed
    alt: description; own: whether it is the analyst's
    lines: names that fills can refer to
    """

    place: int
    names: list[str]
    picture: Picture
    figure: Figure
    sentences: list[DressView]
    lines: list[str]
    alt: str
    own: bool


class PicturePreview(BaseModel):
    """An unsaved picture."""

    model_config = ConfigDict(extra="forbid")

    picture: Picture


def picture_view(
    result: Result, settings: FigureSettings, pictures: tuple[Picture, ...], place: int, picture: Picture
) -> PictureView:
    bare = undressed(result, settings, picture)
    figure = dressed(bare, result, picture)
    lines = dressed_lines(bare, picture)
    sentences = [
        _sentence("headings", picture.headings),
        _sentence("what", picture.what),
        _sentence("page", picture.page),
    ]
    sentences += [_sentence("line", dress, line.key, line.name) for line, dress in lines]
    looks = {
        drawn.name if isinstance(drawn, SeriesView) else drawn.id: drawn.look
        for drawn in (*figure.series, *figure.shapes)
    }
    sides = {side: names_on(side, {key: look for key, look in looks.items() if look}) for side in ("left", "right")}
    two = bool(sides["right"])
    sentences.append(_sentence("left", picture.left, on_it=sides["left"] if two else ()))
    if two or picture.right.together is not Together.OWN:
        sentences.append(_sentence("right", picture.right, on_it=sides["right"]))
    sentences += [
        _sentence("time", picture.time),
        _sentence("notes", picture.notes),
        _sentence("language", picture.language),
    ]
    sentences += [_sentence("note", note, str(n)) for n, note in enumerate(picture.free)]
    # the figure is long: built by the core, it is not validated again
    return PictureView.model_construct(
        place=place,
        names=[drawn.name for drawn in pictures],
        picture=picture,
        figure=figure,
        sentences=sentences,
        lines=[line.name for line, _ in lines if line.role.value in ("series", "curve")],
        alt=picture.alt or described(figure),
        own=picture.alt is not None,
    )


def _sentence(part: str, sentence: Sentence, key: str = "", name: str = "", on_it: Sequence[str] = ()) -> DressView:
    """Return a sentence.

    on_it: lines on the scale, if there are two scales
    """
    named = (
        f", for {listed(list(on_it[:MOST_ON_A_SCALE]))}{' and others' if len(on_it) > MOST_ON_A_SCALE else ''},"
        if on_it
        else ""
    )
    return DressView.model_construct(
        part=part,
        key=key,
        name=name,
        parts=parts_view(sentence, Nouns({"line": name, "on_it": named})),
        params=sentence.model_dump(mode="json"),
    )

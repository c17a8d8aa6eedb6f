"""Keep house styles of pictures, and apply them to others."""

from __future__ import annotations

from typing import Annotated

from flask import Response
from flask_openapi3 import Tag
from pydantic import BaseModel, ConfigDict, Field

from zembra.api.application import application
from zembra.api.models.problem import Problem
from zembra.api.paths import Identifier, Name
from zembra.api.reply import reply
from zembra.api.resource import Resource
from zembra.core.dress.model import MOST_PICTURES, LineDress, Picture
from zembra.core.dress.style import in_style, style_of
from zembra.core.figure.dressed import undressed
from zembra.core.figure.lines import dressed_lines
from zembra.store.studies import KeptStudy, kept_study
from zembra.store.styles import keep_style, kept_style, remove_style, style_names

blueprint = Resource(
    "styles",
    __name__,
    url_prefix="/api/styles",
    abp_tags=[Tag(name="styles")],
    abp_responses={404: Problem, 422: Problem},
)


class StyleList(BaseModel):
    names: list[str]


class StyleQuery(BaseModel):
    name: Name


class PictureRef(StyleQuery):
    """A picture, and the style it gives or takes."""

    model_config = ConfigDict(extra="forbid")

    study_id: Identifier
    place: Annotated[int, Field(ge=0, lt=MOST_PICTURES)] = 0


class StyledPicture(BaseModel):
    picture: Picture


@blueprint.get("", summary="House styles", responses={200: StyleList})
def styles() -> Response:
    return reply(StyleList(names=style_names(application().engine)))


@blueprint.put("", summary="Keep a picture's dress as a house style", responses={200: StyleList})
def keep(body: PictureRef) -> Response:
    kept = kept_study(application().engine, body.study_id)
    picture = kept.figure.picture_at(body.place, kept.study.name)
    keep_style(application().engine, body.name, style_of(picture, _dresses(kept, picture)))
    return styles()  # type: ignore[no-any-return]


@blueprint.post("/used", summary="A picture in a house style, not kept yet", responses={200: StyledPicture})
def used(body: PictureRef) -> Response:
    kept = kept_study(application().engine, body.study_id)
    picture = kept.figure.picture_at(body.place, kept.study.name)
    style = kept_style(application().engine, body.name)
    return reply(StyledPicture(picture=in_style(picture, style, _dresses(kept, picture))))


@blueprint.get("/file", summary="A house style as a file", responses={200: None})
def as_file(query: StyleQuery) -> Response:
    text = kept_style(application().engine, query.name).model_dump_json(indent=2) + "\n"
    headers = {"Content-Disposition": 'attachment; filename="house-style.json"'}
    return Response(text, content_type="application/json", headers=headers)


@blueprint.delete("", summary="Take a house style off", responses={204: None})
def remove(query: StyleQuery) -> Response:
    remove_style(application().engine, query.name)
    return Response(status=204)


def _dresses(kept: KeptStudy, picture: Picture) -> list[LineDress]:
    """Return the dress of every line of a picture."""
    figure = undressed(application().runs.run(kept).result, kept.figure, picture)
    return [dress for _, dress in dressed_lines(figure, picture)]

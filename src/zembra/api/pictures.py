"""List, dress and draw the pictures of a study."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import Tag
from pydantic import Field

from zembra.api.application import application
from zembra.api.models.problem import Problem
from zembra.api.paths import StudyPath
from zembra.api.picturesview import PicturePreview, PictureView, picture_view
from zembra.api.reply import reply
from zembra.api.resource import Resource
from zembra.core.dress.model import MOST_PICTURES, Picture
from zembra.store.studies import KeptStudy, kept_study

blueprint = Resource(
    "pictures",
    __name__,
    url_prefix="/api/studies/<int:study_id>/pictures",
    abp_tags=[Tag(name="pictures")],
    abp_responses={404: Problem, 422: Problem},
)


class PicturePath(StudyPath):
    place: int = Field(ge=0, lt=MOST_PICTURES)


@blueprint.get("/<int:place>", summary="A picture with its sentences", responses={200: PictureView})
def picture(path: PicturePath) -> Response:
    kept = kept_study(application().engine, path.study_id)
    return _view(kept, path.place, kept.figure.picture_at(path.place, kept.study.name))


@blueprint.post("/<int:place>/preview", summary="A picture that is not kept yet", responses={200: PictureView})
def preview(path: PicturePath, body: PicturePreview) -> Response:
    return _view(kept_study(application().engine, path.study_id), path.place, body.picture)


def _view(kept: KeptStudy, place: int, picture: Picture) -> Response:
    result = application().runs.run(kept).result
    return reply(picture_view(result, kept.figure, kept.figure.every_picture(kept.study.name), place, picture))

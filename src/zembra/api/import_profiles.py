"""List, keep and remove import profiles."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import Tag
from pydantic import BaseModel

from zembra.api.application import application
from zembra.api.models.intake import KeepWay, WayList, WayView
from zembra.api.models.problem import Problem
from zembra.api.paths import Identifier
from zembra.api.reply import reply
from zembra.api.resource import Resource
from zembra.store.datasets import dataset
from zembra.store.import_profiles import keep_way, remove_way, ways
from zembra.store.tables import Way

blueprint = Resource(
    "ways", __name__, url_prefix="/api/ways", abp_tags=[Tag(name="ways of reading")],
    abp_responses={404: Problem, 422: Problem},
)  # fmt: skip


class WayPath(BaseModel):
    way_id: Identifier


@blueprint.get("", summary="The ways of reading that are kept", responses={200: WayList})
def all_ways() -> Response:
    return reply(WayList(ways=[_view(way) for way in ways(application().engine)]))


@blueprint.post("", summary="Keep a way of reading", responses={201: WayView})
def keep(body: KeepWay) -> Response:
    kept = dataset(application().engine, body.dataset_id)
    columns = application().readings.of(kept, body.how).table.columns
    return reply(_view(keep_way(application().engine, body.name, columns, body.how, body.ledger)), status=201)


@blueprint.delete("/<int:way_id>", summary="Remove a way of reading", responses={204: None})
def remove(path: WayPath) -> Response:
    remove_way(application().engine, path.way_id)
    return Response(status=204)


def _view(way: Way) -> WayView:
    assert way.id is not None
    return WayView(id=way.id, name=way.name, columns=way.columns.split("\x1f"))

"""Snapshots: a picture, its numbers and its account as they were, and what has changed since."""

from __future__ import annotations

import io
from collections.abc import Callable
from dataclasses import asdict
from typing import Annotated, Literal

import polars as pl
from flask import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, ConfigDict, Field

from zembra.api.context import context
from zembra.api.handover import TYPES, FileQuery, Handed, account_of, plain_name
from zembra.api.models import Problem
from zembra.api.paths import Identifier, StudyPath
from zembra.api.reply import reply
from zembra.core.dress.model import MOST_PICTURES
from zembra.core.handover.changed import Changes, changes
from zembra.core.handover.tables import lines_frame, parquet, points_frame
from zembra.rendering.files import alt_of, picture_file
from zembra.store.snapshots import keep_snapshot, remove_snapshot, snapshot, snapshots
from zembra.store.studies import kept_study
from zembra.store.tables import Snapshot

MOST_TOLD = 200  # periods that differ

blueprint = APIBlueprint(
    "snapshots",
    __name__,
    url_prefix="/api/studies/<int:study_id>/snapshots",
    abp_tags=[Tag(name="snapshots")],
    abp_responses={404: Problem, 422: Problem},
)
File = Literal["picture.svg", "points.parquet", "lines.parquet", "account.pdf", "method-note.txt"]


class SnapshotPath(StudyPath):
    snapshot_id: Identifier


class FilePath(SnapshotPath):
    file: File


class NewSnapshot(BaseModel):
    """picture: its place."""

    model_config = ConfigDict(extra="forbid")

    name: Annotated[str, Field(min_length=1, max_length=120)]
    picture: Annotated[int, Field(ge=0, lt=MOST_PICTURES)] = 0


class SnapshotCard(BaseModel):
    """revision: of the study that it was taken of."""

    id: int
    name: str
    made_at: str
    as_of: str
    revision: int
    alt: str


class SnapshotList(BaseModel):
    snapshots: list[SnapshotCard]


class ChangeView(BaseModel):
    """line: empty for the series itself."""

    series: str
    line: str
    period: str
    was: float | None
    now: float | None
    said: str


class ChangesView(BaseModel):
    """counts: how many periods differ, by how. rows: the first of them."""

    counts: dict[str, int]
    rows: list[ChangeView]


class SnapshotView(BaseModel):
    card: SnapshotCard
    svg: str
    note: str
    points: ChangesView
    lines: ChangesView


@blueprint.get("", summary="Snapshots of a study", responses={200: SnapshotList})
def every(path: StudyPath) -> Response:
    kept_study(context().engine, path.study_id)
    return reply(SnapshotList(snapshots=[_card(one) for one in snapshots(context().engine, path.study_id)]))


@blueprint.post("", summary="Keep a picture as it is now", responses={201: SnapshotCard})
def take(path: StudyPath, body: NewSnapshot) -> Response:
    kept = kept_study(context().engine, path.study_id)
    ran = context().whole(kept)
    of = Handed(kept, ran.result, ran.data, FileQuery(picture=body.picture))
    figure = of.figure(of.picture)
    frozen = Snapshot(
        study_id=path.study_id,
        name=body.name,
        revision=kept.study.head,
        as_of=kept.as_of,
        svg=picture_file(figure, of.picture, "svg", title=kept.study.name).decode(),
        alt=alt_of(of.picture, figure),
        note=of.note,
        points=parquet(points_frame(ran.result)),
        lines=parquet(lines_frame(ran.result)),
        account=account_of(of),
    )
    return reply(_card(keep_snapshot(context().engine, frozen)), 201)


@blueprint.get("/<int:snapshot_id>", summary="A snapshot, and what changed since", responses={200: SnapshotView})
def one(path: SnapshotPath) -> Response:
    found = snapshot(context().engine, path.study_id, path.snapshot_id)
    result = context().whole(kept_study(context().engine, path.study_id)).result

    def since(table: str, frozen: bytes, now: pl.DataFrame) -> ChangesView:
        return _changes(changes(pl.read_parquet(io.BytesIO(frozen)), now, table, MOST_TOLD))

    return reply(
        SnapshotView(
            card=_card(found),
            svg=found.svg,
            note=found.note,
            points=since("points", found.points, points_frame(result)),
            lines=since("lines", found.lines, lines_frame(result)),
        )
    )


_FILES: dict[str, Callable[[Snapshot], str | bytes]] = {
    "picture.svg": lambda one: one.svg,
    "points.parquet": lambda one: one.points,
    "lines.parquet": lambda one: one.lines,
    "account.pdf": lambda one: one.account,
    "method-note.txt": lambda one: one.note,
}


@blueprint.get("/<int:snapshot_id>/<file>", summary="A file of a snapshot", responses={200: None})
def hand_over(path: FilePath) -> Response:
    found = snapshot(context().engine, path.study_id, path.snapshot_id)
    name = f"{plain_name(found.name)}-{found.as_of.isoformat()}-{path.file}"
    return Response(
        _FILES[path.file](found),
        content_type=TYPES[path.file.rpartition(".")[2]],
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )


@blueprint.delete("/<int:snapshot_id>", summary="Take a snapshot off", responses={204: None})
def remove(path: SnapshotPath) -> Response:
    remove_snapshot(context().engine, path.study_id, path.snapshot_id)
    return Response(status=204)


def _card(one: Snapshot) -> SnapshotCard:
    assert one.id is not None
    return SnapshotCard(
        id=one.id,
        name=one.name,
        made_at=one.made_at.isoformat(),
        as_of=one.as_of.isoformat(),
        revision=one.revision,
        alt=one.alt,
    )


def _changes(found: Changes) -> ChangesView:
    return ChangesView(counts=found.counts, rows=[ChangeView(**asdict(row)) for row in found.rows])

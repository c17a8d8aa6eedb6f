"""Take snapshots of a picture with its numbers and account, and list what has changed since."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict
from typing import Annotated

from flask import Response
from flask_openapi3 import Tag
from pydantic import BaseModel, ConfigDict, Field, field_validator

from zembra.api.application import application
from zembra.api.handover import TYPES, FileQuery, begun, handed
from zembra.api.models.problem import Problem
from zembra.api.models.work import WorkView
from zembra.api.paths import Identifier, Name, StudyPath
from zembra.api.reply import reply
from zembra.api.resource import Resource
from zembra.api.waiting import answer_of, answer_of_run
from zembra.core.dress.model import MOST_PICTURES
from zembra.core.handover.changed import ChangedPeriods
from zembra.core.handover.frames import lines_frame, points_frame
from zembra.core.handover.handedfiles import HandedFile
from zembra.core.intake.bringin import Progress
from zembra.core.ledger.digest import digest
from zembra.service.handing import make_snapshot, plain_name
from zembra.service.newrows import keep_told
from zembra.service.reading import read_changes
from zembra.store.errors import NotKept
from zembra.store.snapshots import keep_snapshot, remove_snapshot, restore_snapshot, snapshot, snapshots
from zembra.store.studies import kept_study
from zembra.store.tables import Snapshot

MOST_DIFFERENCES = 200  # periods that differ

blueprint = Resource(
    "snapshots",
    __name__,
    url_prefix="/api/studies/<int:study_id>/snapshots",
    abp_tags=[Tag(name="snapshots")],
    abp_responses={404: Problem, 422: Problem},
)


_FILES: dict[HandedFile, Callable[[Snapshot], str | bytes | None]] = {
    HandedFile.PICTURE_PNG: lambda kept: kept.png,
    HandedFile.PICTURE_SVG: lambda kept: kept.svg,
    HandedFile.POINTS_PARQUET: lambda kept: kept.points,
    HandedFile.LINES_PARQUET: lambda kept: kept.lines,
    HandedFile.ACCOUNT: lambda kept: kept.account,
    HandedFile.METHOD_NOTE: lambda kept: kept.note,
}


class SnapshotPath(StudyPath):
    snapshot_id: Identifier


class FilePath(SnapshotPath):
    file: HandedFile

    @field_validator("file")
    @classmethod
    def _is_kept(cls, file: HandedFile) -> HandedFile:
        if file not in _FILES:
            raise ValueError(f"a snapshot keeps {', '.join(_FILES)}")
        return file


class NewSnapshot(BaseModel):
    """A new snapshot.

    picture: index
    """

    model_config = ConfigDict(extra="forbid")

    name: Name
    picture: Annotated[int, Field(ge=0, lt=MOST_PICTURES)] = 0


class SnapshotCard(BaseModel):
    """A snapshot.

    revision: of the study
    removed: whether it is removed, restorably
    """

    id: int
    name: str
    made_at: str
    as_of: str
    revision: int
    alt: str
    removed: bool


class SnapshotList(BaseModel):
    snapshots: list[SnapshotCard]


class SnapshotView(BaseModel):
    """A snapshot.

    files: available ones
    """

    card: SnapshotCard
    files: list[str]
    svg: str
    note: str
    points: ChangedPeriods
    lines: ChangedPeriods


@blueprint.get("", summary="Snapshots of a study", responses={200: SnapshotList})
def every(path: StudyPath) -> Response:
    kept_study(application().engine, path.study_id)
    return reply(
        SnapshotList(snapshots=[_card(snapshot) for snapshot in snapshots(application().engine, path.study_id)])
    )


@blueprint.post("", summary="Keep a picture as it is now", responses={201: SnapshotCard, 202: WorkView})
def take(path: StudyPath, body: NewSnapshot) -> Response:
    """Take a snapshot in a child process; repeating the request returns it when done."""
    shared = application()
    engine = shared.engine
    kept = kept_study(engine, path.study_id)
    ran = shared.runs.run(kept)
    if (not_yet := answer_of_run(ran)) is not None:
        return not_yet
    of = handed(kept, ran, FileQuery(picture=body.picture))

    def keep(progress: Progress) -> SnapshotCard:
        made = asdict(make_snapshot(of, progress))
        new = Snapshot(study_id=path.study_id, name=body.name, revision=kept.study.head, as_of=kept.as_of, **made)
        card = _card(keep_snapshot(engine, new))
        keep_told(shared, kept, ran.result, f"snapshot “{body.name}”")
        return card

    about = digest("snapshot", body.model_dump_json())
    return answer_of(begun(kept, about, keep, lambda card: reply(card, 201)))


@blueprint.get(
    "/<int:snapshot_id>", summary="A snapshot, and what changed since", responses={200: SnapshotView, 202: WorkView}
)
def one(path: SnapshotPath) -> Response:
    found = snapshot(application().engine, path.study_id, path.snapshot_id)
    ran = application().runs.run(kept_study(application().engine, path.study_id))
    if (not_yet := answer_of_run(ran)) is not None:
        return not_yet
    result = ran.result

    return reply(
        SnapshotView(
            card=_card(found),
            files=[name for name, content in _FILES.items() if content(found) is not None],
            svg=found.svg,
            note=found.note,
            points=read_changes(found.points, points_frame(result), "points", MOST_DIFFERENCES),
            lines=read_changes(found.lines, lines_frame(result), "lines", MOST_DIFFERENCES),
        )
    )


@blueprint.get("/<int:snapshot_id>/<file>", summary="A file of a snapshot", responses={200: None})
def hand_over(path: FilePath) -> Response:
    found = snapshot(application().engine, path.study_id, path.snapshot_id)
    content = _FILES[path.file](found)
    if content is None:
        raise NotKept(f"“{found.name}” was taken before snapshots kept a {path.file}.")
    name = f"{plain_name(found.name)}-{found.as_of.isoformat()}-{path.file}"
    return Response(
        content,
        content_type=TYPES[path.file.form],
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )


@blueprint.delete("/<int:snapshot_id>", summary="Take a snapshot off; it can be brought back", responses={204: None})
def remove(path: SnapshotPath) -> Response:
    remove_snapshot(application().engine, path.study_id, path.snapshot_id)
    return Response(status=204)


@blueprint.post("/<int:snapshot_id>/restore", summary="Bring a snapshot back", responses={204: None})
def restore(path: SnapshotPath) -> Response:
    restore_snapshot(application().engine, path.study_id, path.snapshot_id)
    return Response(status=204)


def _card(snapshot: Snapshot) -> SnapshotCard:
    assert snapshot.id is not None
    return SnapshotCard(
        id=snapshot.id,
        name=snapshot.name,
        made_at=snapshot.made_at.isoformat(),
        as_of=snapshot.as_of.isoformat(),
        revision=snapshot.revision,
        alt=snapshot.alt,
        removed=snapshot.removed_at is not None,
    )

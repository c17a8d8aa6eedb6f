"""Hand over files of a study: the picture, the numbers, the account, or one package of all."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Annotated, Any

from flask import Response
from flask_openapi3 import Tag
from pydantic import BaseModel, Field

from zembra.api.application import application
from zembra.api.models.problem import Problem
from zembra.api.models.work import WorkView
from zembra.api.paths import StudyPath
from zembra.api.resource import Resource
from zembra.api.waiting import answer_of, answer_of_run
from zembra.core.dress.model import MOST_PICTURES
from zembra.core.handover.handedfiles import HandedFile
from zembra.core.intake.bringin import Progress
from zembra.core.ledger.digest import digest
from zembra.service.handing import Handed, file_name, make_file
from zembra.service.newrows import keep_told
from zembra.service.runs import StudyRun
from zembra.store.actor import read_only
from zembra.store.datasets import dataset_bytes
from zembra.store.notes import kept_notes
from zembra.store.studies import KeptStudy, kept_study
from zembra.store.watching import called_for
from zembra.work.queue import Lane, Stage, Work

blueprint = Resource(
    "handover",
    __name__,
    url_prefix="/api/studies/<int:study_id>/handover",
    abp_tags=[Tag(name="handover")],
    abp_responses={404: Problem, 422: Problem},
)
TYPES = {
    "png": "image/png",
    "svg": "image/svg+xml",
    "pdf": "application/pdf",
    "html": "text/html; charset=utf-8",
    "pptx": "application/vnd.openxmlformats-officedocument.presentationml.presentation",
    "csv": "text/csv; charset=utf-8",
    "txt": "text/plain; charset=utf-8",
    "json": "application/json",
    "zip": "application/zip",
    "parquet": "application/vnd.apache.parquet",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
}


class FilePath(StudyPath):
    file: HandedFile


class FileQuery(BaseModel):
    """Query.

    picture: index
    times: scale of a PNG
    received: whether packages include the received file
    """

    picture: Annotated[int, Field(ge=0, lt=MOST_PICTURES)] = 0
    times: Annotated[float, Field(ge=0.25, le=4)] = 2.0
    received: bool = True


@blueprint.get("/<file>", summary="A file as it would be handed over", responses={200: None, 202: WorkView})
def show(path: FilePath, query: FileQuery) -> Response:
    """Return the file, made in a child process once the study has run."""
    return _file(path, query)


@blueprint.post("/<file>", summary="Hand a file over", responses={200: None, 202: WorkView})
def hand_over(path: FilePath, query: FileQuery) -> Response:
    """Return the file, and store the projection as issued, to score it when new rows come."""
    return _file(path, query)


def _file(path: FilePath, query: FileQuery) -> Response:
    kept = kept_study(application().engine, path.study_id)
    ran = application().runs.run(kept)
    if (not_yet := answer_of_run(ran)) is not None:
        return not_yet
    of = handed(kept, ran, query)
    if query.received and path.file is HandedFile.EVERYTHING:
        of = replace(of, received=dataset_bytes(application().engine, kept.dataset_id))
    headers = {"Content-Disposition": f'attachment; filename="{file_name(of, path.file)}"'}

    def answer(made: str | bytes) -> Response:
        return Response(made, content_type=TYPES[path.file.form], headers=headers)

    shared = application()

    def make(progress: Progress) -> str | bytes:
        made = make_file(of, path.file, progress)
        if not read_only.get():
            keep_told(shared, kept, ran.result, "handed over")
        return made

    about = digest(path.file, query.model_dump_json(), repr(of.noted), repr(of.called), str(read_only.get()))
    return answer_of(begun(kept, about, make, answer))


def handed(kept: KeptStudy, ran: StudyRun, query: FileQuery) -> Handed:
    assert kept.study.id is not None
    return Handed(
        name=kept.study.name,
        as_of=kept.as_of,
        ledger=kept.ledger,
        settings=kept.figure,
        result=ran.result,
        file=ran.data.name,
        sha256=ran.data.sha256,
        noted=kept_notes(application().engine, kept.study.id).noted,
        called=called_for(application().engine, kept.study.id),
        place=query.picture,
        times=query.times,
    )


def begun(kept: KeptStudy, about: str, do: Callable[[Progress], object], answer: Callable[[Any], Response]) -> Work:
    """Return work on a file of a revision, restarted if stopped."""
    queue = application().queue
    key = digest("hand over", str(kept.study.id), str(kept.study.head), about)
    known = queue.get(key)
    if known is not None and known.stage is Stage.STOPPED:
        known = queue.again(key)
    return known or queue.submit(key, Lane.HANDING, do, answer=answer)

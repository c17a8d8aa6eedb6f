"""Preview new rows of a study, take them in, and list earlier projections."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import Tag
from pydantic import BaseModel, ValidationError

from zembra.api.application import application
from zembra.api.models.bench import BenchView
from zembra.api.models.newrows import (
    DifferenceView,
    EverySaidView,
    KnownFile,
    KnownFiles,
    KnownRequest,
    NewRowsView,
    RowsRequest,
    TakeRequest,
    UnlikeView,
)
from zembra.api.models.problem import Problem
from zembra.api.models.work import WorkView
from zembra.api.newrowsview import new_rows_view, said_view
from zembra.api.paths import Identifier, StudyPath
from zembra.api.reply import reply
from zembra.api.resource import Resource
from zembra.api.views import bench_view
from zembra.api.waiting import PATIENCE, answer_of_run
from zembra.core.errors import Refusal
from zembra.core.ledger.model import first_fault
from zembra.core.newrows.takingwords import TakingHow
from zembra.service.newrows import Incoming, as_known_on, incoming, known_files, reading_difference, take_in
from zembra.service.runs import StudyRun
from zembra.store.datasets import dataset
from zembra.store.errors import Stale
from zembra.store.notes import kept_notes
from zembra.store.studies import KeptStudy, kept_study
from zembra.store.takings import issued_projections

blueprint = Resource(
    "new rows",
    __name__,
    url_prefix="/api/studies/<int:study_id>",
    abp_tags=[Tag(name="new rows")],
    abp_responses={404: Problem, 409: Problem, 422: Problem},
)


class FileQuery(BaseModel):
    dataset_id: Identifier


@blueprint.post("/new-rows/preview", summary="What new rows would change", responses={200: NewRowsView, 202: WorkView})
def look(path: StudyPath, body: RowsRequest) -> Response:
    kept = kept_study(application().engine, path.study_id)
    ran = application().runs.run(kept, patience=PATIENCE)
    if (not_yet := answer_of_run(ran)) is not None:
        return not_yet
    found = _incoming(kept, ran, body)
    noted = kept_notes(application().engine, path.study_id).noted
    return reply(new_rows_view(kept, ran.result, found, noted))


@blueprint.put("/new-rows", summary="Take new rows in", responses={200: BenchView, 202: WorkView})
def take(path: StudyPath, body: TakeRequest) -> Response:
    kept = kept_study(application().engine, path.study_id)
    if kept.study.head != body.base:
        raise Stale(kept.study.head, kept.revision.what)
    ran = application().runs.run(kept, patience=PATIENCE)
    if (not_yet := answer_of_run(ran)) is not None:
        return not_yet
    found = _incoming(kept, ran, body)
    edited = take_in(application(), kept, ran.result, found, skip_questions=body.waved, base=body.base)
    return reply(bench_view(edited, application().runs.run(edited), edited.ledger, edited.figure))


@blueprint.get("/new-rows/difference", summary="How a file is read otherwise", responses={200: DifferenceView})
def difference(path: StudyPath, query: FileQuery) -> Response:
    kept = kept_study(application().engine, path.study_id)
    last, differs = reading_difference(application(), kept, dataset(application().engine, query.dataset_id))
    unlike = [UnlikeView(was=sentence.was, now=sentence.now) for sentence in differs]
    return reply(DifferenceView(study=kept.study.name, last=last.name, differs=unlike))


@blueprint.get("/said", summary="What the study said, and what happened", responses={200: EverySaidView, 202: WorkView})
def said(path: StudyPath) -> Response:
    kept = kept_study(application().engine, path.study_id)
    ran = application().runs.run(kept, patience=PATIENCE)
    if (not_yet := answer_of_run(ran)) is not None:
        return not_yet
    issued = issued_projections(application().engine, path.study_id, kept.study.head)
    return reply(said_view(ran.result, issued))


@blueprint.get("/known", summary="The files that the study stood on", responses={200: KnownFiles})
def known(path: StudyPath) -> Response:
    kept = kept_study(application().engine, path.study_id)
    files = known_files(application(), kept)
    return reply(
        KnownFiles(
            files=[
                KnownFile(file=standing.file, as_of=standing.as_of.isoformat(), now=standing.now) for standing in files
            ]
        )
    )


@blueprint.put("/known", summary="The study as it was known on a day", responses={200: BenchView})
def go_back(path: StudyPath, body: KnownRequest) -> Response:
    kept = kept_study(application().engine, path.study_id)
    edited = as_known_on(application(), kept, body.day, body.base)
    return reply(bench_view(edited, application().runs.run(edited), edited.ledger, edited.figure))


def _incoming(kept: KeptStudy, ran: StudyRun, body: RowsRequest) -> Incoming:
    try:
        how = None if body.how is None else TakingHow.model_validate(body.how)
    except ValidationError as error:
        raise Refusal(f"How the rows are taken cannot be read: {first_fault(error)}") from None
    return incoming(
        application(), kept, ran.result, dataset(application().engine, body.dataset_id), how, body.as_of, body.read
    )

"""Receive files, and tell how they were read."""

from __future__ import annotations

import secrets
from dataclasses import replace
from datetime import date
from functools import partial
from pathlib import Path, PurePath

from flask import Response
from flask_openapi3 import FileStorage, Tag
from pydantic import BaseModel, Field

from zembra.api.application import application
from zembra.api.incoming import taken
from zembra.api.models.datasets import DatasetList, DemoFile, DemoFiles
from zembra.api.models.intake import AnswerRequest, NoticeView, Understanding, UnderstandRequest
from zembra.api.models.problem import Problem
from zembra.api.models.work import WorkView
from zembra.api.paths import DatasetPath
from zembra.api.reply import reply
from zembra.api.resource import Resource
from zembra.api.views import dataset_view, understanding
from zembra.api.waiting import answer_of
from zembra.core.asking.ask import every_question
from zembra.core.asking.closing import closed
from zembra.core.asking.question import find
from zembra.core.entries.calendar.start import first_ledger, suggested_as_of
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import BroughtIn, Progress
from zembra.core.intake.howread import HowRead, TableHow, ValueKind
from zembra.core.ledger.model import Ledger
from zembra.core.ledger.run import Result
from zembra.demo import DEMO_FILES, demo_file
from zembra.service.reading import read_file
from zembra.store.datasets import dataset, dataset_bytes, datasets, keep_dataset
from zembra.store.import_profiles import signature, ways
from zembra.store.seals import seal_of
from zembra.store.tables import Dataset, Way
from zembra.work.queue import Lane

blueprint = Resource(
    "datasets",
    __name__,
    url_prefix="/api",
    abp_tags=[Tag(name="datasets")],
    abp_responses={404: Problem, 413: Problem, 422: Problem},
)


class DemoPath(BaseModel):
    name: str


class Upload(BaseModel):
    file: FileStorage = Field(description="the table, as received")


@blueprint.get("/datasets", summary="All files received", responses={200: DatasetList})
def received() -> Response:
    return reply(DatasetList(datasets=[dataset_view(dataset) for dataset in datasets(application().engine)]))


@blueprint.post("/datasets", summary="Bring in a file", responses={201: Understanding, 202: WorkView})
def receive(form: Upload) -> Response:
    name = PurePath((form.file.filename or "").replace("\\", "/")).name or "pasted table"
    return _receive(name[:200], taken(form.file, application().home))


@blueprint.get("/demo-files", summary="The demo files that ship with Zembra", responses={200: DemoFiles})
def demo_files() -> Response:
    return reply(DemoFiles(files=[DemoFile(name=name, about=about) for name, about in DEMO_FILES.items()]))


@blueprint.post("/demo-files/<name>", summary="Bring in a demo file", responses={201: Understanding})
def receive_demo(path: DemoPath) -> Response:
    if path.name not in DEMO_FILES:
        raise Refusal(f"There is no demo file named “{path.name}”.", place=f"the files are {', '.join(DEMO_FILES)}")
    return _receive(path.name, demo_file(path.name))


@blueprint.post(
    "/datasets/<int:dataset_id>/understanding",
    summary="What was understood of a kept file, read another way if asked",
    responses={200: Understanding},
)
def understand_again(path: DatasetPath, body: UnderstandRequest) -> Response:
    return reply(_understand(dataset(application().engine, path.dataset_id), body))


def _receive(name: str, file: Path | bytes) -> Response:
    """Read an upload in the background; small ones are answered at once.

    file: temporary file, deleted afterwards
    """
    shared = application()
    engine = shared.engine
    remembered = ways(engine)

    def work(progress: Progress) -> int:
        # read before it is kept: a refused or cancelled file leaves nothing behind
        data = file if isinstance(file, bytes) else file.read_bytes()
        brought = read_file(data, progress=progress)
        way = _fitting(remembered, brought)
        how = HowRead.model_validate_json(way.how) if way else brought.how
        progress("keeping the file", 0.95)
        kept = keep_dataset(engine, name, data, how, lambda: progress("writing the file to the disk", 0.99))
        assert kept.id is not None
        shared.readings.keep(kept, brought, understood=True)
        return kept.id

    def release() -> None:
        if isinstance(file, Path):
            file.unlink(missing_ok=True)

    key = secrets.token_hex(8)
    return answer_of(shared.queue.submit(key, Lane.READING, work, answer=_understood, release=release))


def _understood(dataset_id: int) -> Response:
    """Return a fresh reading with questions, unless an import profile matches."""
    kept = dataset(application().engine, dataset_id)
    way = _fitting(ways(application().engine), application().readings.of(kept))
    return reply(_understand(kept, UnderstandRequest()) if way is None else _by_way(kept, way), status=201)


def _fitting(remembered: list[Way], brought: BroughtIn) -> Way | None:
    """Return the newest intact import profile that matches the columns."""
    fit = (way for way in remembered if way.columns == signature(brought.table.columns))
    return next((way for way in fit if way.seal == seal_of(way)), None)


def _by_way(kept: Dataset, way: Way) -> Understanding:
    body = UnderstandRequest(how=HowRead.model_validate_json(way.how), ledger=Ledger.model_validate_json(way.ledger))
    try:
        understood = _understand(kept, body)
    except Refusal as refusal:
        understood = _understand(kept, UnderstandRequest())
        return understood.model_copy(
            update={
                "notices": [
                    NoticeView(text=f"The kept way “{way.name}” does not fit this file: {refusal.what}"),
                    *understood.notices,
                ]
            }
        )
    return understood.model_copy(
        update={"notices": [NoticeView(text=f"Read the way that was kept as “{way.name}”."), *understood.notices]}
    )


def _understand(kept: Dataset, body: UnderstandRequest) -> Understanding:
    brought = _read_again(kept, body.how, table_how=body.table, kind=body.kind, sheet=body.sheet)
    brought, ledger, result = _begun(kept, brought, body.ledger, body.as_of)
    if body.answer is not None:
        brought, ledger, result = _closed(kept, brought, ledger, result, body.answer, body.as_of)
    return understanding(kept, brought, ledger, result)


_Begun = tuple[BroughtIn, Ledger, Result]


def _begun(kept: Dataset, brought: BroughtIn, ledger: Ledger | None, as_of: date | None) -> _Begun:
    """Run the first ledger of a file.

    as_of: None to suggest
    """
    today = application().today()
    ledger = ledger or first_ledger(brought.observations, brought.how, today)
    ledger = ledger.model_copy(update={"intake": brought.how})
    result = application().runs.carry_out(brought, ledger, as_of or today, kept.name)
    suggested = suggested_as_of(result.state, today)
    if as_of is None and suggested != today:
        result = application().runs.carry_out(brought, ledger, suggested, kept.name)
    return brought, ledger, result


def _closed(
    kept: Dataset, brought: BroughtIn, ledger: Ledger, result: Result, wanted: AnswerRequest, as_of: date | None
) -> _Begun:
    """Return the reading after a question is answered, skipped or reopened."""
    if wanted.again:
        still = tuple(earlier for earlier in brought.how.settled if earlier.key != wanted.key)
        return _begun(kept, replace(brought, how=brought.how.model_copy(update={"settled": still})), ledger, as_of)
    question = find(every_question(brought, result), wanted.key)
    if wanted.answer is not None and wanted.answer >= len(question.answers):
        raise Refusal("That question has no such answer.", todo="Choose one of those that are shown.")
    answer = None if wanted.answer is None else question.answers[wanted.answer]
    brought, begun = closed(question, answer, brought, ledger, partial(_read_again, kept))
    return _begun(kept, brought, begun, as_of)


def _read_again(
    kept: Dataset,
    how: HowRead | None = None,
    *,
    table_how: TableHow | None = None,
    kind: ValueKind | None = None,
    sheet: str | None = None,
) -> BroughtIn:
    """Read a stored file with given settings, or with some of them fixed."""
    if how is None and (table_how or kind or sheet):
        assert kept.id is not None
        data = dataset_bytes(application().engine, kept.id)
        return read_file(data, table_how=table_how, kind=kind, sheet=None if table_how else sheet)
    return application().readings.of(kept, how)

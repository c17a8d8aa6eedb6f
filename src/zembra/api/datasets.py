"""Receiving files and saying what was understood of them."""

from __future__ import annotations

from pathlib import PurePath

from flask import Response
from flask_openapi3 import APIBlueprint, FileStorage, Tag
from pydantic import BaseModel, Field

from zembra.api.context import context
from zembra.api.models import DemoFile, DemoFiles, Problem, Understanding, UnderstandRequest
from zembra.api.reply import reply
from zembra.api.views import understanding
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import bring_in
from zembra.core.intake.howread import HowRead
from zembra.core.ledger.model import Ledger
from zembra.core.ledger.run import run
from zembra.core.ledger.start import first_ledger
from zembra.demo import DEMO_FILES, demo_file
from zembra.store.datasets import dataset, keep_dataset
from zembra.store.tables import Dataset

blueprint = APIBlueprint(
    "datasets",
    __name__,
    url_prefix="/api",
    abp_tags=[Tag(name="datasets")],
    abp_responses={404: Problem, 413: Problem, 422: Problem},
)


class DatasetPath(BaseModel):
    dataset_id: int


class DemoPath(BaseModel):
    name: str


class Upload(BaseModel):
    file: FileStorage = Field(description="the table, as received")


@blueprint.post("/datasets", summary="Bring in a file", responses={201: Understanding})
def receive(form: Upload) -> Response:
    name = PurePath((form.file.filename or "").replace("\\", "/")).name or "pasted table"
    return _receive(name[:200], form.file.read())


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
    return reply(_understand(dataset(context().engine, path.dataset_id), body.how, body.ledger))


def _receive(name: str, data: bytes) -> Response:
    # read before it is kept: a refused file leaves nothing behind
    brought = bring_in(data)
    kept = keep_dataset(context().engine, name, data, brought.how)
    return reply(_understand(kept, None, None), status=201)


def _understand(kept: Dataset, how: HowRead | None, ledger: Ledger | None) -> Understanding:
    brought = context().brought_in(kept, how)
    if ledger is None:
        ledger = first_ledger(brought.observations, brought.how, context().today())
    ledger = ledger.model_copy(update={"intake": brought.how})
    result = run(brought.observations, ledger, context().today(), file_name=kept.name)
    return understanding(kept, brought, ledger, result)

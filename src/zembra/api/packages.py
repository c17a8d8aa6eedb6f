"""A study that was handed over whole, brought back."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import FileStorage, Tag
from pydantic import BaseModel, Field

from zembra.api.application import application
from zembra.api.models.bench import StudyView
from zembra.api.models.problem import Problem
from zembra.api.reply import reply
from zembra.api.resource import Resource
from zembra.api.views import study_view
from zembra.core.errors import Refusal
from zembra.core.ledger.model import checked
from zembra.service.reading import read_file, read_package
from zembra.service.runs import how_read
from zembra.store.datasets import datasets, keep_dataset
from zembra.store.notes import keep_note
from zembra.store.studies import create_study
from zembra.store.tables import Dataset

blueprint = Resource(
    "packages",
    __name__,
    url_prefix="/api/packages",
    abp_tags=[Tag(name="packages")],
    abp_responses={413: Problem, 422: Problem},
)


class Upload(BaseModel):
    file: FileStorage = Field(description="everything of a study, zipped")


@blueprint.post("", summary="Bring back a study that was handed over whole", responses={201: StudyView})
def bring_back(form: Upload) -> Response:
    package = read_package(form.file.read())
    study, rows = package.study, package.data
    ledger = checked(study.ledger)
    engine = application().engine
    if rows is not None:
        brought = read_file(rows, ledger.intake)
    else:
        here = _known(study.file, study.sha256)
        brought = application().readings.of(here, how_read(ledger, here))
    # what cannot be run is refused before anything is made of it
    start = ledger.start
    application().runs.carry_out(brought, start, study.as_of, study.file)
    if rows is not None:
        here = keep_dataset(engine, study.file[:200] or "received file", rows, brought.how)
    assert here.id is not None
    kept = create_study(engine, study.name, here.id, ledger, study.figure, study.as_of)
    assert kept.study.id is not None
    for noted in study.notes:
        keep_note(engine, kept.study.id, noted)
    return reply(study_view(kept, here, kept.as_of), 201)


def _known(name: str, sha256: str) -> Dataset:
    """The received file that is here already. Raises Refusal."""
    known = next((dataset for dataset in datasets(application().engine) if dataset.sha256 == sha256), None)
    if known is None:
        raise Refusal(
            "The package does not hold the received file, and it is not here either.",
            place=f"{name}, SHA-256 {sha256}",
            todo="Hand the study over with its file, or bring that in first.",
        )
    return known

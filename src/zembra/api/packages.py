"""A study that was handed over whole, brought back."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint, FileStorage, Tag
from pydantic import BaseModel, Field

from zembra.apart import read_apart
from zembra.api.context import context
from zembra.api.models import Problem, StudyView
from zembra.api.reply import reply
from zembra.api.views import study_view
from zembra.core.errors import Refusal
from zembra.core.handover.package import unpacked
from zembra.core.ledger.model import checked
from zembra.core.ledger.run import run
from zembra.store.datasets import datasets, keep_dataset
from zembra.store.notes import keep_note
from zembra.store.studies import create_study
from zembra.store.tables import Dataset

blueprint = APIBlueprint(
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
    package = unpacked(form.file.read())
    study = package.study
    ledger = checked(study.ledger)
    data = _file(study.file, study.sha256, package.data)
    brought = context().brought_in(data, ledger.intake)
    # what cannot be run is refused before anything is made of it
    run(brought.observations, ledger.model_copy(update={"entries": ledger.entries[:2]}), study.as_of)
    assert data.id is not None
    kept = create_study(context().engine, study.name, data.id, ledger, study.figure, study.as_of)
    assert kept.study.id is not None
    for noted in study.notes:
        keep_note(context().engine, kept.study.id, noted)
    return reply(study_view(kept, data, kept.as_of), 201)


def _file(name: str, sha256: str, data: bytes | None) -> Dataset:
    """The received file: the one that goes along, or the one that is here already. Raises Refusal."""
    engine = context().engine
    if data is not None:
        return keep_dataset(engine, name[:200] or "received file", data, read_apart(data).how)
    known = next((one for one in datasets(engine) if one.sha256 == sha256), None)
    if known is None:
        raise Refusal(
            "The package does not hold the received file, and it is not here either.",
            place=f"{name}, SHA-256 {sha256}",
            todo="Hand the study over with its file, or bring that in first.",
        )
    return known

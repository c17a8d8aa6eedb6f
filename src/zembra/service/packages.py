"""Open packages as studies."""

from __future__ import annotations

from zembra.core.errors import Refusal
from zembra.core.intake.bringin import Progress
from zembra.core.ledger.model import checked
from zembra.service.application import Application
from zembra.service.reading import read_file, read_package
from zembra.service.runs import how_read
from zembra.store.datasets import dataset, datasets, keep_dataset
from zembra.store.notes import keep_notes
from zembra.store.studies import KeptStudy, create_study
from zembra.store.tables import Dataset


def bring_back(application: Application, data: bytes, progress: Progress) -> tuple[KeptStudy, Dataset]:
    """Store the study and file of a package. Raises Refusal, and then stores nothing."""
    package = read_package(data)
    study, rows = package.study, package.data
    ledger = checked(study.ledger)
    engine = application.engine
    if rows is not None:
        brought = read_file(rows, ledger.intake, progress=progress)
    else:
        here = _known(application, study.file, study.sha256)
        brought = application.readings.of(here, how_read(ledger, here))
    # refuse what cannot run before doing anything
    application.runs.carry_out(brought, ledger.start, study.as_of, study.file)
    progress("keeping the study", 0.95)
    if rows is not None:
        here = keep_dataset(engine, study.file[:200] or "received file", rows, brought.how)
    assert here.id is not None
    kept = create_study(engine, study.name, here.id, ledger, study.figure, study.as_of)
    assert kept.study.id is not None
    if study.notes:
        keep_notes(engine, kept.study.id, study.notes)
    return kept, dataset(engine, here.id)


def _known(application: Application, name: str, sha256: str) -> Dataset:
    """Return the received file if it is stored already. Raises Refusal."""
    known = next((dataset for dataset in datasets(application.engine) if dataset.sha256 == sha256), None)
    if known is None:
        raise Refusal(
            "The package does not hold the received file, and it is not here either.",
            place=f"{name}, SHA-256 {sha256}",
            todo="Hand the study over with its file, or bring that in first.",
        )
    return known

"""Run a study's ledger on all series of its file, kept in the home."""

from __future__ import annotations

import json
import shutil
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import polars as pl

from zembra.core.entries.calendar.source import Source
from zembra.core.intake.bringin import Progress
from zembra.core.ledger.digest import digest
from zembra.core.ledger.model import Ledger, needed_packages
from zembra.service.application import Application
from zembra.service.many.drive import ManyRequest, ManyRun, run_many
from zembra.service.many.table import known_rows
from zembra.service.process_pools import MANY
from zembra.service.runs import how_read
from zembra.store.datasets import dataset, dataset_bytes
from zembra.store.studies import KeptStudy, kept_study
from zembra.store.whole import whole_file
from zembra.work.queue import Lane, Work

ABOUT, OUT = "about.json", "out"


@dataclass(frozen=True, slots=True)
class AllSeriesState:
    """The state of a study's run on all series.

    about: of the last finished run, or None
    work: the running one
    edited: whether the study changed since
    known: number of series with results
    """

    about: dict[str, Any] | None
    work: Work | None
    edited: bool
    known: int


def begin(application: Application, study_id: int) -> Work:
    """Start a run on all series. Raises Busy, NotKept."""
    kept_study(application.engine, study_id)
    return begun(application, _key(study_id), lambda progress: _run(application, study_id, progress))


def begun(application: Application, key: str, do: Callable[[Progress], ManyRun]) -> Work:
    """Return running work, or start it. Raises Busy."""
    under_way = application.queue.get(key)
    if under_way is not None and under_way.under_way:
        return under_way
    application.queue.forget(key)
    return application.queue.submit(key, Lane.MANY, do, answer=lambda ran: ran)


def state_of(application: Application, kept: KeptStudy) -> AllSeriesState:
    folder = folder_of(application, kept)
    about = told_of(folder)
    work = application.queue.get(_key(kept.study.id or 0))
    known = known_rows(folder / OUT)
    count = 0 if known is None else known.select(pl.len()).collect().item()
    return AllSeriesState(about, work, about is not None and about.get("of") != digest_of_study(kept), int(count))


def told_of(folder: Path) -> dict[str, Any] | None:
    """Return what is stored of the last finished run, or None."""
    try:
        about: dict[str, Any] = json.loads((folder / ABOUT).read_text())
    except (OSError, ValueError):
        return None
    return about


def tell_of(folder: Path, about: dict[str, Any]) -> None:
    with whole_file(folder / ABOUT) as beside:
        beside.write_text(json.dumps(about, ensure_ascii=False))


def out_of(application: Application, kept: KeptStudy) -> Path:
    """Return the results folder of a study's run."""
    return folder_of(application, kept) / OUT


def _run(application: Application, study_id: int, progress: Progress) -> ManyRun:
    kept = kept_study(application.engine, study_id)
    data = dataset(application.engine, kept.dataset_id)
    folder = folder_of(application, kept)
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    file = folder / "rows" / Path(data.name).name
    progress("reading the file", 0.0)
    _put(application, kept.dataset_id, data.sha256, file)
    ledger = _for_all(kept.ledger.model_copy(update={"intake": how_read(kept.ledger, data)}))
    ran = run_many(ManyRequest([file], ledger, kept.as_of, folder / OUT), MANY, progress)
    about = {
        "of": digest_of_study(kept),
        "revision": kept.study.head,
        "as_of": kept.as_of.isoformat(),
        "series": ran.series,
        "again": ran.again,
        "failed": len(ran.failed),
        "lost": len(ran.lost),
        "refused": [f"{entry}: {why}" for entry, why in ran.refused],
        "notes": list(ran.notes),
    }
    tell_of(folder, about)
    return ran


def _put(application: Application, dataset_id: int, sha256: str, file: Path) -> None:
    """Write the received file beside its results."""
    mark = file.parent / ".sha256"
    if file.exists() and mark.exists() and mark.read_text() == sha256:
        return
    with whole_file(file) as beside:
        beside.write_bytes(dataset_bytes(application.engine, dataset_id))
    mark.write_text(sha256)


def _for_all(ledger: Ledger) -> Ledger:
    """Select all series of the file, whichever the bench draws."""
    entries = (
        item.model_copy(update={"params": {**item.params, "series": []}}) if item.kind == Source.kind else item
        for item in ledger.entries
    )
    return ledger.model_copy(update={"entries": tuple(entries)})


def digest_of_study(kept: KeptStudy) -> str:
    """Return the digest of all that results depend on, without recorded units."""
    ledger = _for_all(kept.ledger).model_dump_json(exclude={"entries": {"__all__": {"counted_in"}}})
    return digest(ledger, kept.as_of.isoformat(), str(kept.dataset_id), *needed_packages(kept.ledger))


def folder_of(application: Application, kept: KeptStudy) -> Path:
    """Return the folder of a study's results, by number and creation time, as numbers of erased studies are reused."""
    return application.home.folder / "many" / f"{kept.study.id}-{kept.study.created_at:%Y%m%d%H%M%S%f}"


def forget(application: Application, study_id: int) -> None:
    """Delete the results of an erased study."""
    for folder in (application.home.folder / "many").glob(f"{study_id}-*"):
        shutil.rmtree(folder, ignore_errors=True)


def _key(study_id: int) -> str:
    return f"all series {study_id}"

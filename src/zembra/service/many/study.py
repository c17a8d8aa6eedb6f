"""The ledger of a study carried out on every series of its file: begun, kept in the home, asked about."""

from __future__ import annotations

import json
import shutil
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import polars as pl

from zembra.core.errors import Refusal
from zembra.core.intake.bringin import Progress
from zembra.core.ledger.digest import digest
from zembra.core.ledger.entries.calendar.source import Source
from zembra.core.ledger.model import Ledger
from zembra.core.many.looks import Near, counts_of, looks_of, tagged
from zembra.service.application import Application
from zembra.service.children import MANY
from zembra.service.many.drive import Asked, Ran, run_many
from zembra.service.many.work import part_file
from zembra.service.runs import how_read
from zembra.store.datasets import dataset, dataset_bytes
from zembra.store.studies import Kept, kept_study
from zembra.store.whole import whole_file
from zembra.work.queue import Lane, Work

ABOUT = "about.json"
DRAWN = 2_000  # newest points of a series that are drawn


@dataclass(frozen=True, slots=True)
class State:
    """How a study stands with all its series. about: of the last run that was finished, None before any. work: the run that is
    under way. edited: whether the study is another one since. known: series that can be looked at."""

    about: dict[str, object] | None
    work: Work | None
    edited: bool
    known: int


def begin(application: Application, study_id: int) -> Work:
    """Carry the ledger out on all series, as the study stands now. Raises Busy, NotKept."""
    kept_study(application.engine, study_id)
    under_way = application.queue.get(_key(study_id))
    if under_way is not None and under_way.under_way:
        return under_way
    application.queue.forget(_key(study_id))

    def do(progress: Progress) -> Ran:
        return _run(application, study_id, progress)

    return application.queue.submit(_key(study_id), Lane.MANY, do, answer=lambda ran: ran)


def state_of(application: Application, kept: Kept) -> State:
    folder = _folder(application, kept)
    try:
        about = json.loads((folder / ABOUT).read_text())
    except (OSError, ValueError):
        about = None
    work = application.queue.get(_key(kept.study.id or 0))
    known = _frame(folder)
    count = 0 if known is None else known.select(pl.len()).collect().item()
    return State(about, work, about is not None and about.get("of") != _digest(kept), int(count))


@dataclass(frozen=True, slots=True)
class Wanted:
    """Which rows are asked for. look: one of the things to look at, empty for all. find: a part of the name. by, descending: the
    column they are put in order by."""

    look: str = ""
    find: str = ""
    by: str = "series"
    descending: bool = False
    start: int = 0
    count: int = 100


def counts(application: Application, kept: Kept, near: Near) -> dict[str, int]:
    """How many series there are to look at for each reason. Raises Refusal."""
    return counts_of(_known(application, kept), near)


def rows(application: Application, kept: Kept, wanted: Wanted, near: Near) -> tuple[int, pl.DataFrame]:
    """(how many there are, some of them). Raises Refusal."""
    found = _chosen(application, kept, wanted, near)
    count = found.select(pl.len()).collect().item()
    ordered = found.sort(wanted.by, "series", descending=[wanted.descending, False], nulls_last=True)
    return int(count), ordered.slice(wanted.start, wanted.count).collect()


def every_row(application: Application, kept: Kept, wanted: Wanted, near: Near) -> pl.DataFrame:
    """All of them, to hand over. Raises Refusal."""
    found = _chosen(application, kept, wanted, near).sort(
        wanted.by, "series", descending=[wanted.descending, False], nulls_last=True
    )
    return (
        found.drop("spark", "spark_lower", "spark_upper", "open_bits")
        .with_columns(pl.col("found").list.join(", "))
        .collect()
    )


def points_and_lines(application: Application, kept: Kept, series: str) -> tuple[pl.DataFrame, pl.DataFrame]:
    """The newest points of a series, and what was drawn there. Raises Refusal."""
    found = _known(application, kept).filter(pl.col("series") == series).select("part").collect()
    if not found.height or found["part"][0] is None:
        raise Refusal(f"There are no results for “{series}”.", todo="Carry the ledger out on all series.")
    out = _folder(application, kept) / "out"
    points, lines = (
        pl.scan_parquet(part_file(out, kind, found["part"][0])).filter(pl.col("series") == series).collect()
        for kind in ("points", "lines")
    )
    points = points.tail(DRAWN)
    first = points["period"][0] if points.height else ""
    return points, lines.filter(pl.col("period") >= first)


def _chosen(application: Application, kept: Kept, wanted: Wanted, near: Near) -> pl.LazyFrame:
    every = tagged(_known(application, kept), near)
    if wanted.look:
        looks = looks_of(near)
        if wanted.look not in looks:
            raise Refusal(f"There is nothing to look at called “{wanted.look}”.", place=", ".join(looks))
        every = every.filter(looks[wanted.look])
    if wanted.find.strip():
        every = every.filter(
            pl.col("series").str.to_lowercase().str.contains(wanted.find.strip().lower(), literal=True)
        )
    if wanted.by not in every.collect_schema().names():
        raise Refusal(f"There is no column “{wanted.by}”.")
    return every


def _run(application: Application, study_id: int, progress: Progress) -> Ran:
    kept = kept_study(application.engine, study_id)
    data = dataset(application.engine, kept.dataset_id)
    folder = _folder(application, kept)
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    file = folder / "rows" / Path(data.name).name
    progress("reading the file", 0.0)
    _put(application, kept.dataset_id, data.sha256, file)
    ledger = _for_all(kept.ledger.model_copy(update={"intake": how_read(kept.ledger, data)}))
    ran = run_many(Asked([file], ledger, kept.as_of, folder / "out"), MANY, progress)
    about = {
        "of": _digest(kept),
        "revision": kept.study.head,
        "as_of": kept.as_of.isoformat(),
        "series": ran.series,
        "again": ran.again,
        "failed": len(ran.failed),
        "lost": len(ran.lost),
        "refused": [f"{entry}: {why}" for entry, why in ran.refused],
        "notes": list(ran.notes),
    }
    with whole_file(folder / ABOUT) as beside:
        beside.write_text(json.dumps(about, ensure_ascii=False))
    return ran


def _put(application: Application, dataset_id: int, sha256: str, file: Path) -> None:
    """The file as it was received, beside what comes of it."""
    mark = file.parent / ".sha256"
    if file.exists() and mark.exists() and mark.read_text() == sha256:
        return
    with whole_file(file) as beside:
        beside.write_bytes(dataset_bytes(application.engine, dataset_id))
    mark.write_text(sha256)


def _for_all(ledger: Ledger) -> Ledger:
    """With every series of the file, whichever the bench draws."""
    entries = (
        item.model_copy(update={"params": {**item.params, "series": []}}) if item.kind == Source.kind else item
        for item in ledger.entries
    )
    return ledger.model_copy(update={"entries": tuple(entries)})


def _digest(kept: Kept) -> str:
    """Of all that results depend on; which periods numbers were set for is a remark."""
    ledger = _for_all(kept.ledger).model_dump_json(exclude={"entries": {"__all__": {"counted_in"}}})
    return digest(ledger, kept.as_of.isoformat(), str(kept.dataset_id))


def _folder(application: Application, kept: Kept) -> Path:
    """By when the study was begun too: the number of one that was removed for good may be given to another."""
    return application.home.folder / "many" / f"{kept.study.id}-{kept.study.created_at:%Y%m%d%H%M%S%f}"


def forget(application: Application, study_id: int) -> None:
    """What came of a study that is removed for good."""
    for folder in (application.home.folder / "many").glob(f"{study_id}-*"):
        shutil.rmtree(folder, ignore_errors=True)


def _key(study_id: int) -> str:
    return f"all series {study_id}"


def _known(application: Application, kept: Kept) -> pl.LazyFrame:
    found = _frame(_folder(application, kept))
    if found is None:
        raise Refusal("The ledger was not carried out on all series yet.", todo="Carry it out.")
    return found


def _frame(folder: Path) -> pl.LazyFrame | None:
    """Rows of the last run, or of the parts that are done of the first one."""
    whole = folder / "out" / "series.parquet"
    if whole.exists():
        return pl.scan_parquet(whole)
    parts: Sequence[Path] = sorted((folder / "out" / ".work" / "series").glob("part-*.parquet"))
    if not parts:
        return None
    frames = [pl.scan_parquet(file).with_columns(part=pl.lit(int(file.stem[5:]), dtype=pl.UInt32)) for file in parts]
    return pl.concat(frames)

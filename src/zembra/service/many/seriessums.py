"""Sum all series of a study by names or columns, and run the ledger on the sums."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import polars as pl
from pydantic import ValidationError

from zembra.core.calendar.complete import Combine
from zembra.core.english import counted
from zembra.core.entries.calendar.source import Source
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import Progress
from zembra.core.intake.grid import frame_table
from zembra.core.intake.howread import HowRead, Names
from zembra.core.intake.joining import folded, series_texts
from zembra.core.ledger.digest import digest
from zembra.core.ledger.model import Ledger, entry_of
from zembra.core.many.nameparts import groups_by, name_parts
from zembra.core.many.summing import (
    SUM,
    Summed,
    SumWords,
    going_on,
    ledger_of_sums,
    part_of_sums,
    projected_parts,
    sum_of_projections,
    sums_of,
)
from zembra.service.application import Application
from zembra.service.many.drive import ManyRequest, ManyRun, run_many
from zembra.service.many.parts import Parts, kept_parts
from zembra.service.many.study import OUT, begun, digest_of_study, folder_of, state_of, tell_of, told_of
from zembra.service.many.work import DonePart, done_parts, part_file
from zembra.service.process_pools import MANY
from zembra.service.runs import how_read
from zembra.store.datasets import dataset
from zembra.store.studies import KeptStudy, kept_study
from zembra.store.whole import whole_file
from zembra.work.queue import Work

TOGETHER = "together"
PARTS_OF_NAMES = "parts.parquet"
OF_PROJECTIONS = "of_projections.parquet"
MOST_COLUMNS = 12  # of the file, that are looked at for what series are summed by
EXAMPLES = 3


@dataclass(frozen=True, slots=True)
class PartOfNames:
    """A part of names to sum by.

    values: number of values; examples: some
    without: series that lack it
    """

    name: str
    values: int
    examples: tuple[str, ...]
    without: int


@dataclass(frozen=True, slots=True)
class Sums:
    """The state of a study's sums.

    words: of the last sums, or suggested
    about: of these, or None
    edited: whether study or run changed since
    parts: parts of names, none before the first run
    """

    words: SumWords
    about: dict[str, Any] | None
    work: Work | None
    edited: bool
    parts: tuple[PartOfNames, ...]


def sums_state(application: Application, kept: KeptStudy) -> Sums:
    folder = _folder(application, kept)
    about = told_of(folder)
    work = application.queue.get(_key(kept.study.id or 0))
    parts: tuple[PartOfNames, ...] = ()
    if told_of(folder_of(application, kept)) is not None:
        table = _parts_of_names(application, kept)
        parts = tuple(_told(table, name) for name in table.columns[1:])
    words = SumWords(by=tuple(part.name for part in parts[:1]))
    if about is not None:
        try:
            words = SumWords.model_validate(about["words"])
        except (KeyError, ValidationError):
            about = None
    edited = about is not None and about["of"] != _of(application, kept, words)
    return Sums(words, about, work, edited, parts)


def begin_sums(application: Application, study_id: int, words: SumWords) -> Work:
    """Start summing, and run the ledger on the sums. Raises Busy, NotKept, Refusal."""
    kept = kept_study(application.engine, study_id)
    state = state_of(application, kept)
    if state.about is None or state.edited:
        raise Refusal(
            "The ledger as it stands was not carried out on all series yet, which is what is summed.",
            todo="Carry it out on all of them.",
        )
    known = {part.name for part in sums_state(application, kept).parts}
    for name in words.by:
        if name not in known:
            raise Refusal(f"Series have no part “{name}”.", place=", ".join(sorted(known)), todo="Choose one of these.")
    return begun(application, _key(study_id), lambda progress: _run(application, study_id, words, progress))


def sums_out(application: Application, kept: KeptStudy) -> Path:
    """Return the results folder of sums."""
    return _folder(application, kept) / OUT


@dataclass(frozen=True, slots=True)
class OfProjections:
    """The sum of the projections of a sum's series, to compare with the projection of the sum.

    entry: of the projection
    """

    entry: str
    period: list[str]
    value: list[float]


def of_projections(application: Application, kept: KeptStudy, name: str) -> list[OfProjections]:
    file = _folder(application, kept) / OF_PROJECTIONS
    if not file.exists():
        return []
    own = pl.scan_parquet(file).filter(pl.col(SUM) == name).collect()
    return [
        OfProjections(str(entry), rows["period"].to_list(), rows["value"].to_list())
        for (entry,), rows in own.partition_by("entry", as_dict=True, maintain_order=True).items()
    ]


def _run(application: Application, study_id: int, words: SumWords, progress: Progress) -> ManyRun:
    kept = kept_study(application.engine, study_id)
    folder, out = _folder(application, kept), folder_of(application, kept) / OUT
    progress("adding up", 0.0)
    table = _parts_of_names(application, kept)
    groups = groups_by(table, words.by)
    done = done_parts(out)
    if not groups.height or not done:
        raise Refusal(
            "No two series have these parts of their names in common.", todo="Sum by fewer of them, or by others."
        )
    grain = done[0].grain
    summed = [part_of_sums(points, groups, grain) for points in _frames(out, "points", done)]
    rows = sums_of(summed, words, grain)
    going = going_on(summed, words)
    folder.mkdir(parents=True, exist_ok=True)
    file = folder / "sums.parquet"
    with whole_file(file) as beside:
        rows.write_parquet(beside)
    _beside(folder, out, done, summed, going, words)
    ledger = ledger_of_sums(kept.ledger, grain)
    ran = run_many(ManyRequest([file], ledger, kept.as_of, folder / OUT), MANY, progress)
    about = {
        "of": _of(application, kept, words),
        "words": words.model_dump(mode="json"),
        "sums": ran.series,
        "failed": len(ran.failed),
        "notes": _notes(table, words, kept.ledger),
    }
    tell_of(folder, about)
    return ran


def _beside(
    folder: Path, out: Path, done: list[DonePart], summed: list[Summed], going: pl.DataFrame, words: SumWords
) -> None:
    """Return the sums of the series' projections."""
    given = [projected_parts(lines, going) for lines in _frames(out, "lines", done)]
    found = [part for part in given if part.height]
    file = folder / OF_PROJECTIONS
    file.unlink(missing_ok=True)
    if found:
        with whole_file(file) as beside:
            sum_of_projections(found, going, words).sort("entry", SUM, "period").write_parquet(beside)


def _frames(out: Path, kind: str, done: list[DonePart]) -> Iterator[pl.DataFrame]:
    """Yield the frames of each part, without lines that entries added."""
    for part in done:
        yield (
            pl.scan_parquet(part_file(out, kind, part.part)).filter(pl.col("series").is_in(list(part.names))).collect()
        )


def _notes(table: pl.DataFrame, words: SumWords, ledger: Ledger) -> list[str]:
    """Return remarks on the sums."""
    said = []
    apart = table.filter(pl.any_horizontal(pl.col(name).is_null() for name in words.by)).height if words.by else 0
    if apart:
        said.append(
            f"{counted(apart, 'series', 'series')} have other parts in their names, and are in no sum that goes by them."
        )
    source = next((entry_of(item) for item in ledger.entries if item.kind == Source.kind), None)
    if isinstance(source, Source) and source.combine in (Combine.MEAN, Combine.MEDIAN):
        said.append("Rows of one period are averaged, as of a rate: what is summed may mean nothing.")
    return said


def _parts_of_names(application: Application, kept: KeptStudy) -> pl.DataFrame:
    """Return a row per series with its parts, computed once per run."""
    folder = folder_of(application, kept)
    data = dataset(application.engine, kept.dataset_id)
    how = how_read(kept.ledger, data)
    of = digest(str((told_of(folder) or {}).get("of")), data.sha256, how.model_dump_json(exclude={"settled"}))
    file, mark = folder / TOGETHER / PARTS_OF_NAMES, folder / TOGETHER / ".of"
    if file.exists() and mark.exists() and mark.read_text() == of:
        return pl.read_parquet(file)
    names = [name for part in done_parts(folder / OUT) for name in part.names]
    columns = () if how.series.column is None else (how.series.column, *how.series.more)
    table = name_parts(names, columns)
    before = kept_parts(folder / OUT / ".work" / "rows")
    if before is not None and columns:
        table = _with_columns(table, before[1], how)
    with whole_file(file) as beside:
        table.write_parquet(beside)
    mark.write_text(of)
    return table


def _with_columns(table: pl.DataFrame, parts: Parts, how: HowRead) -> pl.DataFrame:
    """Add columns of the file that are constant within each series."""
    files = [str(file) for part in range(parts.count) for file in parts.files(part)]
    scan = pl.scan_parquet(files)
    series = [how.series.column, *how.series.more]
    taken = {*series, how.dates.column, *how.dates.more, *how.values.columns}
    others = [name for name in scan.collect_schema().names() if name not in taken and name not in table.columns]
    for name in others[:MOST_COLUMNS]:
        # more values than series means that it varies within one
        rows = scan.select(*series, name).unique().head(table.height + 1).collect(engine="streaming")
        if rows.height > table.height:
            continue
        texts = series_texts(frame_table(rows), how.series.model_copy(update={"names": Names.WRITTEN}))
        if texts is None:
            continue
        fold = how.series.names is Names.FOLDED
        key = pl.Series("key", [folded(text) if fold else text.strip() for text in texts.fill_null("").to_list()])
        said = pl.DataFrame({"key": key, name: rows[name].str.strip_chars()}).unique()
        if said["key"].n_unique() < said.height or said[name].n_unique() in (1, said.height):
            continue
        keyed = table.with_columns(
            key=pl.Series([folded(text) if fold else text for text in table["series"].to_list()], dtype=pl.String)
        )
        table = keyed.join(said, on="key", how="left", maintain_order="left").drop("key")
    return table


def _told(table: pl.DataFrame, name: str) -> PartOfNames:
    values = table[name].drop_nulls().unique().sort()
    return PartOfNames(name, values.len(), tuple(values.head(EXAMPLES).to_list()), table[name].null_count())


def _of(application: Application, kept: KeptStudy, words: SumWords) -> str:
    """Return the digest of all that sums depend on."""
    run = told_of(folder_of(application, kept)) or {}
    return digest(digest_of_study(kept), str(run.get("of")), words.model_dump_json())


def _folder(application: Application, kept: KeptStudy) -> Path:
    return folder_of(application, kept) / TOGETHER


def _key(study_id: int) -> str:
    return f"sums of series {study_id}"

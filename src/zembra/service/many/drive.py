"""Drive a run on very many series: start, resume, collect."""

from __future__ import annotations

import json
import time
from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace
from datetime import UTC, date, datetime
from pathlib import Path
from typing import Any

import polars as pl

from zembra.core.asking.ask import open_questions
from zembra.core.english import number
from zembra.core.entries.readings.together import Together
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import Progress
from zembra.core.intake.howread import HowRead
from zembra.core.ledger.digest import digest
from zembra.core.ledger.model import Ledger, entry_of, needed_packages
from zembra.core.ledger.run import run as carry_out
from zembra.core.many.part import EntryDone, summed
from zembra.core.many.plan import Plan, needs_ends, planned
from zembra.core.many.seriesrow import SCHEMA
from zembra.core.many.wholefile import WholeFile, counted_over, questions_of
from zembra.core.projection.likeseries import LikeSeries
from zembra.service.many.charts import keep_charts
from zembra.service.many.given import PART_MB, ends_of_all, names_of_series, rows_of_targets, what_like_series_say
from zembra.service.many.parts import ABOUT, Parts, put_into_parts
from zembra.service.many.rows import Rows, digest_of, sample, table_how
from zembra.service.many.sums import summed_lines
from zembra.service.many.work import PartLost, PartReport, PartTask, do_part, known_before, part_file
from zembra.service.reading import read_file
from zembra.store.whole import whole_file
from zembra.version import __version__
from zembra.work.executor import Executor, TaskLimits

TRIES = 3  # of a part whose worker ends unexpectedly
BEGUN = 0.02  # of the whole, while rows are put into parts
FORM = "5"  # of what is kept of a part
FIRST_ESTIMATE = 3  # parts that are done before it is said how long the rest takes


@dataclass(frozen=True, slots=True)
class ManyRequest:
    """A run to do.

    as_of: the as-of day
    out: folder of the results
    """

    files: Sequence[Path]
    ledger: Ledger
    as_of: date
    out: Path


@dataclass(frozen=True, slots=True)
class ManyRun:
    """The outcome of a run.

    again: series processed now; the others were cached
    failed: series that failed, with reasons
    lost: parts that failed, with reasons
    refused: entries that need all series at once
    notes: further remarks
    whole: counts over the whole file
    unasked: questions it would raise
    """

    series: int
    again: int
    parts: int
    rows: int
    failed: tuple[tuple[str, str], ...]
    lost: tuple[tuple[int, str], ...]
    refused: tuple[tuple[str, str], ...]
    entries: tuple[EntryDone, ...]
    notes: tuple[str, ...]
    whole: WholeFile
    unasked: tuple[str, ...]


def run_many(asked: ManyRequest, executor: Executor, tell: Progress) -> ManyRun:
    """Run a ledger on all series of some files, reusing an earlier run. Raises Refusal.

    tell: reports progress in words and as a share
    """
    (asked.out / ".work").mkdir(parents=True, exist_ok=True)
    try:
        return _run(asked, executor, tell)
    except PartLost:
        # the stored partition is unusable; partition again
        (_rows_folder(asked) / ABOUT).unlink(missing_ok=True)
        return _run(asked, executor, tell)


def _run(asked: ManyRequest, executor: Executor, tell: Progress) -> ManyRun:
    ledger = asked.ledger
    cut = ledger.intake.table if ledger.intake else table_how(asked.files[0])
    files = [Rows(path, cut) for path in asked.files]
    read = read_file(sample(asked.files[0], cut), ledger.intake, table_how=cut)
    how = read.how
    begun = carry_out(read.observations, ledger.start, asked.as_of, file_name=asked.files[0].name)
    unasked = tuple(question.full_text for question in open_questions(read, begun, of_sample=True))
    notes: list[str] = []
    tell("putting the rows into parts", BEGUN)
    about = digest(*(f"{path.name} {digest_of(path)}" for path in asked.files))
    names = names_of_series(files, how, read.observations.series)
    parts = put_into_parts(
        files, how, names, about, _rows_folder(asked), lambda rows: tell(f"{number(rows)} rows are in parts", BEGUN)
    )
    ends = ends_of_all(parts, how, executor) if needs_ends(ledger) else None
    off: set[str] = set()
    while True:
        plan = planned(_without(ledger, off), ends)
        reports, lost = _done(asked, parts, how, plan, executor, tell)
        # an all-or-none entry takes none if some refuse
        passed = {name for part in reports.values() for name in part.passed} - off
        # an entry without results in any part would draw empty lines
        done = summed(part.entries for part in reports.values())
        nothing = {entry.id: entry.nothing for entry in done if entry.nothing and not entry.did}
        if not passed and not nothing:
            break
        off |= passed | set(nothing)
        if passed:
            notes.append(
                f"{', '.join(sorted(passed))}: takes all series or none, and could not take some; it was left out."
            )
        notes.extend(f"{entry}: {why} It was left out." for entry, why in sorted(nothing.items()))
    every = _put_together(asked.out, parts, plan, reports)
    whole = counted_over(every, sum(part.undated for part in reports.values()))
    grain = next((part.grain for part in reports.values() if part.grain), None)
    ran = ManyRun(
        series=sum(part.series for part in reports.values()),
        again=sum(part.again for part in reports.values()),
        parts=parts.count,
        rows=parts.rows,
        failed=tuple(failed for part in reports.values() for failed in part.failed),
        lost=tuple(lost),
        refused=tuple((entry, str(why)) for entry, why in plan.refused),
        entries=tuple(done),
        notes=tuple(notes),
        whole=whole,
        unasked=(*unasked, *questions_of(whole, how, grain)),
    )
    _report(asked, ran)
    return ran


def _rows_folder(asked: ManyRequest) -> Path:
    return asked.out / ".work" / "rows"


def _without(ledger: Ledger, off: set[str]) -> Ledger:
    entries = (item.model_copy(update={"on": item.on and item.id not in off}) for item in ledger.entries)
    return ledger.model_copy(update={"entries": tuple(entries)})


def _done(
    asked: ManyRequest, parts: Parts, how: HowRead, plan: Plan, executor: Executor, tell: Progress
) -> tuple[dict[int, PartReport], list[tuple[int, str]]]:
    """Return the reports of parts, and failed parts with reasons. A part whose worker dies is retried."""
    targets = rows_of_targets(parts, how, plan.targets, asked.out)
    key = digest(
        __version__,
        FORM,
        *needed_packages(plan.ledger),
        pl.__version__,
        plan.ledger.model_dump_json(),
        how.model_dump_json(exclude={"settled"}),
        asked.as_of.isoformat(),
        *plan.targets,
        digest_of(targets) if targets else "",
    )
    file_name = asked.files[0].name
    first = [
        PartTask(parts, part, how, plan, asked.as_of, file_name, key, asked.out, targets, {})
        for part in range(parts.count)
        if parts.files(part)
    ]
    pooled_limits: dict[str, LikeSeries] = {}
    if plan.pooled_limits:
        tell("asking like series how wide limits are to be", BEGUN)
        pooled_limits = what_like_series_say(first, executor)
    key = digest(key, repr(pooled_limits))
    reports: dict[int, PartReport] = {}
    todo = []
    for task in (replace(first_task, key=key, pooled_limits=pooled_limits) for first_task in first):
        known = known_before(task)
        if known is None:
            todo.append(task)
        else:
            reports[task.part] = known
    why: dict[int, str] = {}
    begun = time.monotonic()
    count = len(first)
    for _ in range(TRIES):
        left: list[PartTask] = []
        results = executor.map(
            do_part,
            [(task,) for task in todo],
            name="a part of the series",
            limits=TaskLimits(memory_mb=PART_MB),
            each_by_itself=True,
        )
        for place, result in results:
            task = todo[place]
            if isinstance(result, PartLost):
                raise result
            if isinstance(result, PartReport):
                reports[task.part] = result
                tell(_progress(reports, count, time.monotonic() - begun), len(reports) / count)
            elif isinstance(result, OSError):
                # retrying does not empty a full disk
                raise Refusal(
                    f"Results cannot be written: {result.strerror or result}.", place=str(asked.out)
                ) from None
            else:
                why[task.part] = str(result)
                left.append(task)
        todo = left
        if not todo:
            break
    return reports, [(task.part, why[task.part]) for task in todo]


def _progress(reports: dict[int, PartReport], count: int, seconds: float) -> str:
    series = sum(part.series for part in reports.values())
    said = f"{number(series)} series are done, {number(len(reports))} of {number(count)} parts"
    if FIRST_ESTIMATE <= len(reports) < count:
        rest = seconds / len(reports) * (count - len(reports))
        said += (
            f"; about {number(round(rest))} s to go" if rest < 90 else f"; about {number(round(rest / 60))} min to go"
        )
    return said


def _put_together(out: Path, parts: Parts, plan: Plan, reports: dict[int, PartReport]) -> pl.DataFrame:
    """Write series.parquet of all parts and lines of several series; return the former."""
    frames = [
        pl.read_parquet(part_file(out, "series", part)).with_columns(part=pl.lit(part, dtype=pl.UInt32))
        for part in sorted(reports)
    ]
    failed = [failed for part in reports.values() for failed in part.failed]
    every = pl.concat(frames, how="diagonal") if frames else pl.DataFrame(schema={**SCHEMA, "part": pl.UInt32})
    if failed:
        names, why = zip(*failed, strict=True)
        lost = pl.DataFrame({"series": names, "refused": why}, schema={"series": pl.String, "refused": pl.String})
        every = pl.concat([every, lost], how="diagonal")
    _clear(out, reports)
    every = every.sort("series")
    with whole_file(out / "series.parquet") as beside:
        every.write_parquet(beside, compression="zstd", row_group_size=10_000)
    keep_charts(out, every)
    made = []
    for entry in plan.sums:
        files = [part_file(out, f"sums-{entry}", part) for part in sorted(reports)]
        found = [pl.read_parquet(file) for file in files if file.exists()]
        grain = next((part.grain for part in reports.values() if part.grain), None)
        if found and grain:
            item = next(item for item in plan.ledger.entries if item.id == entry)
            words = entry_of(item.model_copy(update={"on": True}))
            assert isinstance(words, Together)
            made.append(summed_lines(pl.concat(found), words, entry, grain))
    if made:
        with whole_file(out / "lines" / "together.parquet") as beside:
            pl.concat(made).write_parquet(beside)
    return every


def _clear(out: Path, reports: dict[int, PartReport]) -> None:
    """Delete results of parts that no longer exist."""
    for kind in ("points", "lines", "series"):
        there = {part_file(out, kind, part) for part in reports}
        for file in part_file(out, kind, 0).parent.glob("part-*.parquet"):
            if file not in there:
                file.unlink()
    for file in (out / ".work" / "done").glob("part-*.json"):
        if int(file.stem[5:]) not in reports:
            file.unlink()
    (out / "lines" / "together.parquet").unlink(missing_ok=True)


def _report(asked: ManyRequest, ran: ManyRun) -> None:
    about: dict[str, Any] = {
        "zembra": __version__,
        "made_at": datetime.now(UTC).isoformat(timespec="seconds"),
        "files": [path.name for path in asked.files],
        "as_of": asked.as_of.isoformat(),
        **{name: getattr(ran, name) for name in ("series", "parts", "rows")},
        "counted": asdict(ran.whole),
        "entries": [asdict(entry) for entry in ran.entries],
        "not_carried_out": [{"series": series, "why": why} for series, why in ran.failed],
        "parts_lost": [{"part": part, "why": why} for part, why in ran.lost],
        "need_all_series": [{"entry": entry, "why": why} for entry, why in ran.refused],
        "notes": list(ran.notes),
        "unanswered": list(ran.unasked),
    }
    with whole_file(asked.out / "report.json") as beside:
        beside.write_text(json.dumps(about, ensure_ascii=False, indent=2))

"""Process one part: read it, run the ledger on what changed, write the results."""

from __future__ import annotations

import hashlib
import logging
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import asdict, dataclass
from datetime import date
from pathlib import Path
from typing import Any

import numpy as np
import polars as pl

from zembra.core.calendar.budget import Budget
from zembra.core.calendar.grain import Grain, Unit
from zembra.core.errors import Refusal
from zembra.core.intake.grid import frame_table
from zembra.core.intake.howread import HowRead
from zembra.core.intake.observe import Observations, observe
from zembra.core.intake.table import TextTable
from zembra.core.ledger.digest import digest
from zembra.core.ledger.model import entry_of
from zembra.core.many.part import EntryDone, PartDone, carry_out_part, few_in_part, held_back_in_part, of_series, summed
from zembra.core.many.plan import Plan
from zembra.core.many.seriesrow import SCHEMA
from zembra.core.projection.likeseries import HeldBack, LikeSeries
from zembra.service.many.parts import Parts
from zembra.store.sealedjson import digest_of_file, read_sealed, write_sealed
from zembra.store.whole import whole_file
from zembra.work.executor import Report

BUDGET = Budget(points=50_000_000, bytes=8_000_000_000)  # of the series of a part, which are few
RESULTS = ("points", "lines", "series")
AGAIN = "The rows are put into parts again."
log = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class PartTask:
    """One part of a run.

    key: digest of everything results depend on but the rows
    out: folder of the run
    targets: file with rows that every part needs, or None
    pooled_limits: of short series, by projection
    """

    parts: Parts
    part: int
    how: HowRead
    plan: Plan
    as_of: date
    file_name: str
    key: str
    out: Path
    targets: Path | None
    pooled_limits: Mapping[str, LikeSeries]


@dataclass(frozen=True, slots=True)
class PartReport:
    """The report of a part.

    series, again: number of series, and of those processed now
    failed: (name, reason)
    passed: all-or-none entries that some series refused
    grain: None if no series is in the study
    undated: rows without a date
    """

    series: int
    again: int
    failed: tuple[tuple[str, str], ...]
    entries: tuple[EntryDone, ...]
    passed: tuple[str, ...]
    grain: Grain | None
    undated: int


class PartLost(Refusal):
    """The rows of a part changed on disk."""


@dataclass(frozen=True, slots=True)
class PartEnds:
    """The first and last day of each series of a part, if any."""

    first: tuple[date, ...]
    last: tuple[date, ...]


def ends_of(_: Report, parts: Parts, part: int, how: HowRead) -> PartEnds:
    """Return the ends of the series of a part. Raises Refusal."""
    observations = observe(_table(parts, part), parts.how(part, how))
    found = [
        frame.group_by("series").agg(pl.col("when").min().alias("low"), pl.col("when").max().alias("high"))
        for frame in observations.frames.values()
    ]
    days = pl.concat(found).group_by("series").agg(pl.col("low").min().dt.date(), pl.col("high").max().dt.date())
    return PartEnds(tuple(days["low"].to_list()), tuple(days["high"].to_list()))


def few_of(_: Report, task: PartTask) -> dict[str, list[str]]:
    """Return short series by projection with pooled limits. Raises Refusal."""
    observations = observe(_table(task.parts, task.part), task.parts.how(task.part, task.how))

    def found() -> dict[str, list[str]]:
        given = _with_targets(observations, task)
        return few_in_part(given, task.plan, task.as_of, observations.series, budget=BUDGET)

    few: dict[str, list[str]] = _known_again(task, "few", digest(task.key, *_told_apart(observations)), found)
    return few


def held_back_of(_: Report, task: PartTask, asked: Mapping[str, Collection[str]]) -> dict[str, list[HeldBack]]:
    """Return backtest errors of sampled series. Raises Refusal."""
    observations = observe(_table(task.parts, task.part), task.parts.how(task.part, task.how))
    every = {name for names in asked.values() for name in names}
    names = [name for name in observations.series if name in every]
    if not names:
        return {}
    own = of_series(observations, names)
    by = sorted(f"{entry} {' '.join(sorted(set(names) & set(chosen)))}" for entry, chosen in asked.items())

    def found() -> dict[str, list[tuple[int, list[list[float]]]]]:
        held_back = held_back_in_part(_with_targets(own, task), task.plan, task.as_of, asked, budget=BUDGET)
        return {entry: [(held.points, held.away.tolist()) for held in every] for entry, every in held_back.items()}

    held_back = _known_again(task, "held_back", digest(task.key, *_told_apart(own), *by), found)
    return {entry: [HeldBack(points, np.array(away)) for points, away in every] for entry, every in held_back.items()}


def _told_apart(observations: Observations) -> list[str]:
    return [f"{name} {of}" for name, of in _digests(observations).items()]


def _known_again(task: PartTask, kind: str, key: str, find: Callable[[], Any]) -> Any:
    """Cache a result of a part by key."""
    file = task.out / ".work" / kind / f"part-{task.part:04d}.json"
    known = read_sealed(file)
    if known is not None and known["key"] == key:
        return known["found"]
    found = find()
    write_sealed(file, {"key": key, "found": found})
    return found


def known_before(task: PartTask) -> PartReport | None:
    """Return the report of an earlier run if the part's files are unchanged, without reading them. Raises PartLost."""
    before = _kept(task)
    return (
        _told(before, again=0)
        if before is not None and before["rows"] == _checked_digest(task.parts, task.part)
        else None
    )


def do_part(_: Report, task: PartTask) -> PartReport:
    """Process a part, and write its results atomically. Raises Refusal if its rows are unreadable."""
    before = _kept(task)
    how = task.parts.how(task.part, task.how)
    table = _table(task.parts, task.part)
    observations = observe(table, how)
    digests = _digests(observations)
    if before is not None and (before["digests"], before["undated"]) == (digests, observations.undated_count):
        return _told(before, again=0)
    changed = list(digests)
    if before is not None:
        changed = [name for name, of in digests.items() if before["digests"].get(name) != of]
    done, failed = _carried_out(observations, task, changed)
    entries = [asdict(entry) for entry in summed(part.entries for part in done)]
    known = before or {"failed": (), "entries": entries, "passed": (), "grain": None}
    stay = set(digests) - set(changed)
    if before is not None and _unsure(before, stay, set(digests), entries):
        changed, stay = list(digests), set()
        done, failed = _carried_out(observations, task, changed)
        entries = [asdict(entry) for entry in summed(part.entries for part in done)]
    _write(task, done, stay)
    about = {
        "key": task.key,
        "digests": digests,
        "rows": task.parts.digests[task.part],
        "failed": [*failed, *((name, why) for name, why in known["failed"] if name in stay)],
        "entries": _with_those_before(known["entries"], entries) if stay else entries,
        "passed": sorted(
            {name for part in done for name in _passed(part, task)} | set(known["passed"] if stay else ())
        ),
        "grain": asdict(done[0].grain) if done else known["grain"],
        "undated": observations.undated_count,
        "results": _results(task),
    }
    write_sealed(_about_file(task), about)
    return _told(about, again=len(changed))


def _with_those_before(
    known: Sequence[Mapping[str, Any]], entries: Sequence[Mapping[str, Any]]
) -> list[dict[str, Any]]:
    """Return entry reports of a part that is partly unchanged; counts are known for whole parts only, so they
    become unknown.
    """
    did = {entry["id"] for entry in entries if entry["did"]}
    unknown = {"touched": None, "refused": None}
    return [{**entry, **unknown, "did": entry["did"] or entry["id"] in did} for entry in known]


def _unsure(before: Mapping[str, Any], stay: set[str], there: set[str], entries: Sequence[Mapping[str, Any]]) -> bool:
    """Return whether an entry's earlier result may come only from series that changed or are gone."""
    others = set(before["digests"]) - stay
    gone = bool(others - there)
    did = {entry["id"] for entry in before["entries"] if entry["did"]}
    did_now = {entry["id"] for entry in entries if entry["did"]}
    tried = {entry["id"] for entry in entries if entry["nothing"] or entry["refused"]}
    return bool(others) and bool((did - did_now) if gone else (did & tried) - did_now)


def _checked_digest(parts: Parts, part: int) -> str:
    """Return the digest of unchanged rows. Raises PartLost."""
    try:
        found = parts.digest(part)
    except OSError as error:
        raise PartLost(f"Part {part} cannot be read: {error}.", todo=AGAIN) from None
    if found != parts.digests[part]:
        raise PartLost(f"Part {part} is not as it was written.", todo=AGAIN)
    return found


def _table(parts: Parts, part: int) -> TextTable:
    """Read the rows of a part. Raises PartLost."""
    _checked_digest(parts, part)
    try:
        return frame_table(parts.cells(part))
    except (OSError, pl.exceptions.PolarsError) as error:
        raise PartLost(f"Part {part} cannot be read: {error}.", todo=AGAIN) from None


def _carried_out(
    observations: Observations, task: PartTask, names: Sequence[str]
) -> tuple[list[PartDone], list[tuple[str, str]]]:
    """Run the ledger on series, and return results and failures. What fails together is retried in halves, so that
    a bad series fails alone.
    """
    if not names:
        return [], []
    try:
        done = _together(observations, task, names)
    except Exception as error:
        if len(names) == 1:
            if not isinstance(error, Refusal):
                log.exception("%s could not be carried out", names[0])
            said = str(error) if isinstance(error, Refusal) else f"{type(error).__name__}: {error}"
            return [], [(names[0], said)]
        half = len(names) // 2
        first, second = (_carried_out(observations, task, part) for part in (names[:half], names[half:]))
        return [*first[0], *second[0]], [*first[1], *second[1]]
    return ([] if done is None else [done]), []


def _together(observations: Observations, task: PartTask, names: Sequence[str]) -> PartDone | None:
    own = _with_targets(of_series(observations, names), task)
    return carry_out_part(
        own, task.plan, task.as_of, names, file_name=task.file_name, pooled_limits=task.pooled_limits, budget=BUDGET
    )


def _with_targets(own: Observations, task: PartTask) -> Observations:
    return own if task.targets is None else _beside(own, observe(frame_table(pl.read_parquet(task.targets)), task.how))


def _beside(own: Observations, targets: Observations) -> Observations:
    """Add the targets, if they are not there."""
    more = [name for name in targets.series if name not in own.series]
    if not more:
        return own
    shifted = of_series(targets, more)
    frames = {}
    for measure, frame in own.frames.items():
        theirs = shifted.frames[measure].with_columns(
            series=(pl.col("series") + len(own.series)).cast(pl.UInt32), row=pl.col("row") + frame.height
        )
        frames[measure] = pl.concat([frame, theirs.select(frame.columns)], how="vertical")
    return Observations(
        frames,
        (*own.series, *more),
        (),
        0,
        0,
        f"{own.digest} {targets.digest}",
        own.zone,
        own.units,
        (*own.columns, *more) if own.columns else (),
        own.said,
    )


def _digests(observations: Observations) -> dict[str, str]:
    """Return the digest of each series' rows in received order."""
    found: dict[str, int] = {}
    for measure, frame in observations.frames.items():
        kept = frame.select(pl.exclude("row"))
        rows = frame.select("series").with_columns(
            hash=kept.hash_rows(seed=7), at=pl.int_range(pl.len(), dtype=pl.UInt64).over("series")
        )
        sums = rows.group_by("series").agg(
            pl.col("hash").sum().alias("all"),
            # where a row stands counts too
            (pl.col("hash").xor(pl.col("at") * 0x9E3779B97F4A7C15)).hash(seed=11).sum().alias("order"),
            pl.len(),
        )
        for code, *parts in sums.iter_rows():
            name = observations.series[code]
            found[name] = _mixed(found.get(name, 0), measure, parts)
    return {name: f"{found.get(name, 0):x}" for name in observations.series}


def _mixed(so_far: int, measure: str, parts: Sequence[int]) -> int:
    text = f"{so_far} {measure} {' '.join(map(str, parts))}"
    return int.from_bytes(hashlib.blake2b(text.encode(), digest_size=12).digest())


def _passed(done: PartDone, task: PartTask) -> list[str]:
    """Return all-or-none entries that some of these series refuse."""
    takers = {
        item.id for item in task.plan.ledger.entries if item.on and getattr(type(entry_of(item)), "all_or_none", False)
    }
    return [entry.id for entry in done.entries if entry.id in takers and entry.refused]


def _write(task: PartTask, done: Sequence[PartDone], stay: set[str]) -> None:
    """Write new results and those of unchanged series."""
    for kind in RESULTS:
        file = part_file(task.out, kind, task.part)
        frames = [getattr(part, kind) for part in done]
        if stay and file.exists():
            frames.insert(0, pl.read_parquet(file).filter(pl.col("series").is_in(list(stay))))
        frame = pl.concat(frames, how="vertical") if frames else pl.DataFrame(schema=SCHEMA if kind == "series" else {})
        _write_frame(file, frame)
    for entry in task.plan.sums:
        frames = [part.sums[entry] for part in done if entry in part.sums]
        if frames:
            _write_frame(part_file(task.out, f"sums-{entry}", task.part), pl.concat(frames))


def _write_frame(file: Path, frame: pl.DataFrame) -> None:
    with whole_file(file) as beside:
        frame.write_parquet(beside, compression="lz4", statistics=False)


def part_file(out: Path, kind: str, part: int) -> Path:
    """Return the path of a part's results.

    kind: "points", "lines", or what is combined at the end
    """
    folder = out / kind if kind in ("points", "lines") else out / ".work" / kind
    return folder / f"part-{part:04d}.parquet"


def _about_file(task: PartTask) -> Path:
    return task.out / ".work" / "done" / f"part-{task.part:04d}.json"


def _kept(task: PartTask) -> dict | None:  # type: ignore[type-arg]
    """Return the stored report of a part, if its key and results match."""
    about: dict[str, object] | None = read_sealed(_about_file(task))
    # lines of several series are stored apart
    if about is None or about["key"] != task.key or task.plan.sums:
        return None
    return about if about["results"] == _results(task) else None


def _results(task: PartTask) -> dict[str, str]:
    """Return digests of its result files, empty if missing."""
    try:
        return {kind: digest_of_file(part_file(task.out, kind, task.part)) for kind in RESULTS}
    except OSError:
        return {}


def _told(about: dict, again: int) -> PartReport:  # type: ignore[type-arg]
    return PartReport(
        len(about["digests"]),
        again,
        tuple((str(name), str(why)) for name, why in about["failed"]),
        tuple(EntryDone(**entry) for entry in about["entries"]),
        tuple(about["passed"]),
        _grain(about["grain"]) if about["grain"] else None,
        about["undated"],
    )


@dataclass(frozen=True, slots=True)
class DonePart:
    """A finished part: number, own series, grain of their lines."""

    part: int
    names: tuple[str, ...]
    grain: Grain


def done_parts(out: Path) -> list[DonePart]:
    """Return finished parts in order, without those outside the study."""
    found = []
    for file in sorted((out / ".work" / "done").glob("part-*.json")):
        about = read_sealed(file)
        if about and about["grain"]:
            found.append(DonePart(int(file.stem[5:]), tuple(about["digests"]), _grain(about["grain"])))
    return found


def _grain(kept: dict[str, Any]) -> Grain:
    return Grain(**{**kept, "unit": Unit(kept["unit"])})

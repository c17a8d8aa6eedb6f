"""Run a ledger on one part of very many series."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from itertools import chain

import numpy as np
import polars as pl

from zembra.core.calendar.budget import USUAL, Budget
from zembra.core.calendar.grain import Grain
from zembra.core.entries.projections.likelimits import held_back_each
from zembra.core.entries.projections.projectedhistory import those_shown
from zembra.core.entries.projections.projection import Projection
from zembra.core.entries.projections.seriesprojection import SeriesProjection
from zembra.core.entries.readings.together import side_by_side
from zembra.core.grammar import Nouns
from zembra.core.handover.frames import lines_frame, points_frame
from zembra.core.intake.observe import Observations
from zembra.core.ledger.lineentry import RefusedEach
from zembra.core.ledger.memo import Memo
from zembra.core.ledger.model import entry_of
from zembra.core.ledger.results import results_of
from zembra.core.ledger.run import Report, Result, run
from zembra.core.ledger.state import PartOfLines, Study
from zembra.core.many.plan import Plan, for_part, narrowed_to, prefix
from zembra.core.many.seriesrow import series_frame
from zembra.core.projection.likeseries import FEW, HeldBack, LikeSeries
from zembra.core.speaking import parts

MEMORY = 400_000_000  # bytes of what entries made, where lines are looked at in the midst of a ledger


@dataclass(frozen=True, slots=True)
class EntryDone:
    """What an entry did in a part.

    touched: points changed or used; refused: series that refused; both None if only some series were run again
    problem: why it ran on no series
    did: whether it gave any result
    nothing: why it gave none in some part
    """

    id: str
    kind: str
    sentence: str
    touched: int | None
    refused: int | None
    problem: str
    did: bool
    nothing: str


@dataclass(frozen=True, slots=True)
class PartDone:
    """The result of a part.

    points, lines, series: of its own series
    sums: by entry, a row per period: period (number), total, smallest, largest, counted
    grain: of all lines at the end
    """

    points: pl.DataFrame
    lines: pl.DataFrame
    series: pl.DataFrame
    sums: dict[str, pl.DataFrame]
    entries: tuple[EntryDone, ...]
    grain: Grain


def few_in_part(
    observations: Observations, plan: Plan, as_of: date, names: Sequence[str], *, budget: Budget = USUAL
) -> dict[str, list[str]]:
    """Return short series by projection with pooled limits. Raises Refusal."""
    ledger = for_part(plan.ledger, observations.series)
    found: dict[str, list[str]] = {}
    for entry, _ in plan.pooled_limits if ledger is not None else ():
        assert ledger is not None
        before = run(observations, prefix(ledger, entry), as_of, budget=budget, part=PartOfLines()).state
        projection = entry_of(next(item for item in ledger.entries if item.id == entry))
        assert isinstance(projection, Projection)
        chosen = [before.lines[place] for place in before.chosen(projection.series)]
        study = Study(before.expected, as_of, entry, events=before.events)
        own = set(names)
        found[entry] = [
            line.name
            for line in chosen
            if line.name in own
            and any(shown.history.points < FEW for shown in those_shown(projection.shown, [(line, study)]))
        ]
    return found


def held_back_in_part(
    observations: Observations,
    plan: Plan,
    as_of: date,
    asked: Mapping[str, Collection[str]],
    *,
    budget: Budget = USUAL,
) -> dict[str, list[HeldBack]]:
    """Return backtest errors of the sampled series, by projection with pooled limits. Raises Refusal."""
    ledger = for_part(plan.ledger, observations.series)
    found: dict[str, list[HeldBack]] = {}
    for entry, names in asked.items() if ledger is not None else ():
        assert ledger is not None
        only = [name for name in observations.series if name in names]
        if only:
            narrowed = narrowed_to(ledger, entry, only)
            report = run(observations, narrowed, as_of, budget=budget, part=PartOfLines()).reports[-1]
            found[entry] = [told for _, told in held_back_each(results_of(report.outcome.results, SeriesProjection))]
    return found


def carry_out_part(
    observations: Observations,
    plan: Plan,
    as_of: date,
    names: Sequence[str],
    *,
    file_name: str,
    pooled_limits: Mapping[str, LikeSeries] | None = None,
    budget: Budget = USUAL,
) -> PartDone | None:
    """Run the ledger of a plan on some series and the targets, or return None if none of them is in the study.
    Raises Refusal.

    names: the part's own series
    pooled_limits: limits of short series, by projection
    """
    ledger = for_part(plan.ledger, observations.series)
    if ledger is None:
        return None
    memo = Memo(MEMORY) if plan.sums else None
    own = set(names)
    sums = {}
    for entry in plan.sums:
        before = run(
            observations,
            prefix(ledger, entry),
            as_of,
            file_name=file_name,
            memo=memo,
            budget=budget,
            part=PartOfLines(),
        )
        chosen = getattr(entry_of(next(item for item in plan.ledger.entries if item.id == entry)), "series", ())
        lines = [
            line
            for line in before.state.lines
            if line.name in own and (not chosen or line.name in chosen) and len(line)
        ]
        if lines:
            periods, table = side_by_side(lines)
            sums[entry] = pl.DataFrame(
                {
                    "period": periods,
                    "total": np.nansum(table, axis=0),
                    # no number among them where none has one
                    "smallest": np.fmin.reduce(table, axis=0),
                    "largest": np.fmax.reduce(table, axis=0),
                    "counted": (~np.isnan(table)).sum(axis=0),
                }
            ).with_columns(pl.col("smallest", "largest").fill_nan(None))
    result = run(
        observations,
        ledger,
        as_of,
        file_name=file_name,
        memo=memo,
        budget=budget,
        part=PartOfLines(pooled_limits or {}),
    )
    result = _said_as_of_all(result, plan)
    known = set(observations.series)
    # lines beside a target are reported by the part of the target
    of_targets = of_series(observations, sorted(known - own)) if known - own else None
    theirs = (
        run(of_targets, ledger, as_of, file_name=file_name, budget=budget, part=PartOfLines()).state.lines
        if of_targets
        else ()
    )
    foreign = (known - own) | {line.name for line in theirs if line.name not in known}
    mine = [line.name for line in result.state.lines if line.name not in foreign]
    points, drawn = points_frame(result), lines_frame(result)
    if foreign:
        points, drawn = (frame.filter(pl.col("series").is_in(mine)) for frame in (points, drawn))
    entries = tuple(_done(report) for report in result.reports)
    return PartDone(points, drawn, series_frame(result, mine), sums, entries, result.state.grain)


def _said_as_of_all(result: Result, plan: Plan) -> Result:
    """Return reports with the sentences of the whole ledger, as a part knows its own series only."""
    whole = {item.id: item for item in plan.ledger.entries}
    readings = {f"reading {entry}": name for entry, name in result.readings.items()}

    def said(report: Report) -> Report:
        item = whole[report.id]
        entry = entry_of(item)
        if not item.on or entry == report.entry or type(entry).once:
            return report
        words = {**result.state.nouns.words, **readings, **report.outcome.nouns}
        return replace(report, parts=tuple(parts(entry, Nouns(words))))

    return replace(result, reports=tuple(said(report) for report in result.reports))


def of_series(observations: Observations, names: Sequence[str]) -> Observations:
    """Select the rows of some series."""
    if list(names) == list(observations.series):
        return observations
    codes = {name: n for n, name in enumerate(observations.series)}
    places = pl.DataFrame(
        {"series": [codes[name] for name in names], "place": range(len(names))},
        schema={"series": pl.UInt32, "place": pl.UInt32},
    )
    frames = {
        measure: frame.join(places, on="series", how="inner", maintain_order="left")
        .with_columns(series=pl.col("place"))
        .drop("place")
        for measure, frame in observations.frames.items()
    }
    return Observations(
        frames,
        tuple(names),
        (),
        0,
        0,
        f"{observations.digest} {len(names)} {names[0]}",
        observations.zone,
        observations.units,
        tuple(name for name in observations.columns if name in names),
        observations.said,
    )


def summed(each: Iterable[Sequence[EntryDone]]) -> list[EntryDone]:
    """Add up what entries did in several parts."""
    found: dict[str, EntryDone] = {}
    for entry in chain.from_iterable(each):
        before = found.get(entry.id)
        found[entry.id] = (
            entry
            if before is None
            else replace(
                before,
                touched=_sum(before.touched, entry.touched),
                refused=_sum(before.refused, entry.refused),
                problem=before.problem or entry.problem,
                did=before.did or entry.did,
                nothing=before.nothing or entry.nothing,
            )
        )
    return list(found.values())


def _sum(one: int | None, other: int | None) -> int | None:
    return None if one is None or other is None else one + other


def _done(report: Report) -> EntryDone:
    problem = report.problem
    refused = len(problem.each) if isinstance(problem, RefusedEach) else len(report.outcome.refused)
    return EntryDone(
        report.id,
        report.kind,
        report.sentence,
        report.outcome.touched,
        refused,
        "" if problem is None or isinstance(problem, RefusedEach) else str(problem),
        report.on and problem is None and not report.outcome.nothing,
        report.outcome.nothing,
    )

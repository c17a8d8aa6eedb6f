"""Turn new rows into data for their screens."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
import polars as pl

from zembra.api.models.newrows import (
    ChangedPeriod,
    EntryChange,
    EverySaidView,
    FollowUpChange,
    IssuedScores,
    LimitsView,
    NewRowsView,
    OpenQuestion,
    ReachView,
    RowsAnswer,
    SaidLine,
    ScoreView,
    ToldSeries,
)
from zembra.api.views import finite, parts_view
from zembra.core.arithmetic.arrays import values_at
from zembra.core.calendar.complete import Expected
from zembra.core.calendar.grain import Grain
from zembra.core.calendar.lines import Condition, Line
from zembra.core.figure.build import shown_names
from zembra.core.figure.parts.base import milliseconds
from zembra.core.ledger.registry import kinds
from zembra.core.ledger.run import Report, Result
from zembra.core.newrows.changes import Kind, RevisedPeriod, RevisedPeriods
from zembra.core.newrows.issued import Issued, Score, by_ahead, scored, widening_so_far
from zembra.core.study.afterrows import ItemChange, found_change, items_changed
from zembra.core.study.followup import Item, Noted
from zembra.service.newrows import Incoming, as_told
from zembra.store.studies import KeptStudy

MOST_ROWS = 500  # of a kind, that are listed
MOST_SERIES = 12  # that are drawn
MOST_FOUND = 4  # periods that an entry finds now, that are named


def new_rows_view(kept: KeptStudy, before: Result, found: Incoming, noted: Sequence[Noted]) -> NewRowsView:
    grain = before.state.grain
    changes = found.changes or RevisedPeriods()
    issued = as_told(kept, before)
    after = found.result
    scores = scored([issued], after.state.lines, grain) if found.changes is not None else []
    refused_before = {report.id for report in before.problems}
    return NewRowsView(
        file=found.received.name,
        size=found.received.size,
        as_of=found.as_of.isoformat(),
        as_read=found.came.how.table == (kept.ledger.intake.table if kept.ledger.intake else None),
        renamed=dict(found.names),
        how=found.how.model_dump(mode="json"),
        parts=parts_view(found.how, after.state.nouns),
        counts={kind.value: count for kind, count in changes.counts.items()},
        rows=[_changed(row, changes.grain) for kind in Kind for row in changes.of(kind, MOST_ROWS)],
        new_series=list(changes.new_series),
        lost_series=list(changes.lost_series),
        foreseen=changes.foreseen,
        # it counts periods of the rows, but the offered entry counts those of the study
        tail=changes.tail if changes.grain == grain else None,
        periods=grain.plural,
        unlike=""
        if found.changes is not None
        else "The file lies on another calendar than the study: nothing can be compared.",
        entries=[_entry(report, before.reports, grain) for report in after.reports],
        followups=[_followup(item, change) for item, change in items_changed(before, after, noted, changes)],
        scores=[score_view(score) for score in scores if score.points],
        scored_as_of=kept.as_of.isoformat(),
        series=_told_series(before, after, [issued], shown_names(before, kept.figure)),
        misfits=[f"{report.sentence} {report.problem}" for report in after.problems if report.id not in refused_before],
        questions=[
            OpenQuestion(
                key=question.key,
                title=question.title,
                text=question.text,
                answers=[
                    RowsAnswer(label=answer.label, read=read, how=how.model_dump(mode="json"))
                    for answer, read, how in found.answered(question)
                ],
            )
            for question in found.questions
        ],
    )


def said_view(result: Result, every_issued: Sequence[Issued]) -> EverySaidView:
    grain, lines = result.state.grain, result.state.lines
    names = list(
        dict.fromkeys(name for issued in every_issued for name in issued.frame["series"].unique(maintain_order=True))
    )
    return EverySaidView(
        series=_told_series(result, result, every_issued, names),
        issued=[
            IssuedScores(
                revision=issued.revision,
                as_of=issued.as_of,
                why=issued.why,
                scores=[score_view(score) for score in scored([issued], lines, grain)],
            )
            for issued in every_issued
        ],
        together=[score_view(score) for score in scored(every_issued, lines, grain)],
        periods=grain.plural,
        by_ahead=[
            ReachView(
                first=reach.first,
                last=reach.last,
                points=reach.points,
                error=finite(reach.error),
                inside=list(reach.inside),
            )
            for reach in by_ahead(every_issued, lines, grain)
        ],
        wider=widening_so_far(every_issued, lines, grain),
    )


def score_view(score: Score) -> ScoreView:
    return ScoreView(
        series=score.series,
        points=score.points,
        error=finite(score.error),
        naive=finite(score.naive),
        bias=finite(score.bias),
        inside=[(level, many, 100 * chance) for level, many, chance in score.inside],
    )


def _changed(row: RevisedPeriod, grain: Grain) -> ChangedPeriod:
    return ChangedPeriod(
        kind=row.kind.value,
        series=row.series,
        period=grain.label(row.period),
        was=finite(row.was),
        now=finite(row.now),
        provisional=row.provisional,
    )


def _entry(report: Report, before: Iterable[Report], grain: Grain) -> EntryChange:
    was = next((earlier for earlier in before if earlier.id == report.id), None)
    change = found_change(was, report)
    return EntryChange(
        id=report.id,
        title=kinds()[report.kind].title if report.kind in kinds() else report.kind,
        sentence=report.sentence,
        what=report.outcome.touched_what,
        before=None if was is None or was.problem else was.outcome.touched,
        now=None if report.problem or report.waiting else report.outcome.touched,
        problem=str(report.problem) if report.problem else "",
        refused=bool(report.problem) and was is not None and not was.problem,
        found=[f"{grain.spoken(period)} · {series}" for series, period in change.found[:MOST_FOUND]],
        found_count=len(change.found),
        lost_count=change.lost,
    )


def _followup(item: Item, change: ItemChange) -> FollowUpChange:
    return FollowUpChange(
        series=item.series,
        period=item.period,
        note=item.note,
        state=item.state.value,
        found_by=list(item.found_by),
        now=change.value,
    )


def _told_series(
    before: Result, after: Result, every_issued: Sequence[Issued], names: Sequence[str]
) -> list[ToldSeries]:
    was = {line.name: line for line in before.state.lines}
    now = {line.name: line for line in after.state.lines}
    expected = after.state.expected
    found = []
    for name in [name for name in names if name in now][:MOST_SERIES]:
        periods = np.union1d(was[name].periods, now[name].periods) if name in was else now[name].periods
        found.append(
            ToldSeries(
                series=name,
                t=milliseconds(periods, expected),
                unfinished=_unfinished(now[name], expected),
                was=_values(was.get(name), periods),
                now=_values(now[name], periods),
                said=[line for issued in every_issued if (line := _said(issued, name, expected)) is not None],
            )
        )
    return found


def _unfinished(line: Line, expected: Expected) -> int | None:
    provisional = line.periods[line.condition == Condition.PROVISIONAL]
    return milliseconds(provisional[:1], expected)[0] if provisional.size else None


def _values(line: Line | None, periods: np.ndarray) -> list[float | None]:
    if line is None:
        return [None] * periods.size
    return [finite(value) for value in values_at(line.periods, line.value, periods).tolist()]


def _said(issued: Issued, series: str, expected: Expected) -> SaidLine | None:
    part = issued.frame.filter(pl.col("series") == series) if issued.frame.height else issued.frame
    if not part.height:
        return None
    levels = part["level"].unique().sort().to_list()
    own = {level: part.filter(pl.col("level") == level).sort("ahead") for level in levels}
    first = own[levels[0]]
    periods = np.array([expected.grain.parse(label) for label in first["period"]], dtype=np.int64)
    return SaidLine(
        revision=issued.revision,
        as_of=issued.as_of,
        why=issued.why,
        t=milliseconds(periods, expected),
        mean=[finite(value) for value in first["mean"].to_list()],
        limits=[
            LimitsView(
                level=level,
                lower=[finite(value) for value in rows["lower"].to_list()],
                upper=[finite(value) for value in rows["upper"].to_list()],
            )
            for level, rows in own.items()
        ],
    )

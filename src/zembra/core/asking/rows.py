"""Ask about rows: duplicates, mostly missing periods, events or not."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np
import polars as pl

from zembra.core.asking.evidence import FileEvidence
from zembra.core.asking.measures import measures_nothing
from zembra.core.asking.question import Answer, AnswerReach, Question
from zembra.core.calendar.complete import Combine
from zembra.core.calendar.grain import Grain, Unit, completeness, detect_grain
from zembra.core.calendar.lines import Received
from zembra.core.calendar.sensible import sensible_grain
from zembra.core.english import listed
from zembra.core.entries.calendar.source import Source, natures
from zembra.core.entries.shared.periodwords import Periods
from zembra.core.intake.dateforms import DateForm
from zembra.core.intake.dateparts import part_column
from zembra.core.intake.detect import codes_like, numbers_rows, telling_apart
from zembra.core.intake.howread import ValueKind
from zembra.core.intake.rowdates import row_moments

MOST_ABSENT = 0.5
DOUBLED = "doubled:"  # begins the key of the question about rows that stand twice
FEW_PERIODS = 8  # below this, gaps are seen at a glance
MOST_OFFERED = 6


def row_questions(seen: FileEvidence) -> Iterator[Question]:
    if seen.how.values.kind is ValueKind.EVENTS:
        yield _events(seen)
        return
    doubled = list(_doubled(seen))
    yield from doubled
    if not doubled:
        yield from _shared(seen)
    yield from _too_fine(seen)
    yield from _absent(seen)
    yield from _zero_ends(seen)


def _events(seen: FileEvidence) -> Question:
    others = [name for name in seen.table.columns if name not in (seen.how.dates.column, seen.how.series.column)]
    return Question(
        "events",
        AnswerReach.TABLE,
        "No column holds numbers.",
        "Is each row something that happened, to be counted?",
        (Answer("count the rows"),),
        (),
        tuple(others[:4]),
    )


def _doubled(seen: FileEvidence) -> Iterator[Question]:
    """Ask about rows at the end that repeat earlier rows, as in a concatenated file."""
    table = seen.table
    if not seen.down or not seen.sharing()[0]:
        return
    again = table.cells.select(pl.struct(pl.all()).is_first_distinct()).to_series()
    first = int(again.arg_true()[-1]) + 1
    count = table.height - first
    shared = sum(int((line.row_count - 1).clip(min=0).sum()) for line in seen.lines)
    each = shared // max(1, count)
    if not count or count * max(1, each) != shared:
        return
    rows = tuple(table.row_number(at) for at in range(first, min(table.height, first + 4)))
    last = table.row_number(table.height - 1)
    said = f"rows {rows[0]} to {last} stand" if count > 1 else f"row {last} stands"
    yield Question(
        # of this file alone: what was answered of another one does not close it
        f"{DOUBLED}{rows[0]}-{last}:{seen.brought.observations.digest[:12]}",
        AnswerReach.SERIES,
        f"The last {said} in the table a second time.",
        "Every cell is the same. Do they count twice?",
        (
            Answer("take them once", {}, {"source": {"combine": Combine.FIRST.value}}),
            Answer("add them up", {}, {"source": {"combine": Combine.SUM.value}}),
        ),
        rows,
        tuple(name for name in (seen.how.dates.column, seen.how.series.column) if name),
    )


def _shared(seen: FileEvidence) -> Iterator[Question]:
    """Ask about duplicate periods outside of transactions."""
    total, rows, period = seen.sharing()
    if total and seen.down and _transactions(seen):
        yield from _combining(seen, total, rows)
        return
    if not total or (seen.down and measures_nothing(seen)):
        return
    how = seen.how
    names = (how.series.column, *how.series.more) if how.series.column else ()
    same = {name: seen.texts(name, rows)[0] for name in names if name in seen.table.columns} if rows else {}
    alike = seen.down and _repeated(seen, rows)
    sentence = f"{total} period{'s are' if total > 1 else ' is'} shared by several rows."
    named = [f"{column} “{value}”" for column, value in same.items()]
    where = f"Rows {listed([str(n) for n in rows[:4]])} are all {listed([period, *named])}."
    answers = list(_apart(seen)) if seen.down else []
    no_series = []
    if seen.down and how.series.column:
        no_series.append(Answer(f"{how.series.column} names no series", {"series": {"column": None, "more": []}}))
    usual = Source.model_validate(
        next(item.entry for item in seen.result.reports if item.kind == "source").model_dump()
    )
    ways = {
        Combine.SUM: "add them up", Combine.MEAN: "average them", Combine.LAST: "take the last", Combine.FIRST: "take the first",
    }  # fmt: skip
    order = [usual.combine, *(way for way in ways if way is not usual.combine)]
    if alike:
        order = [Combine.FIRST, Combine.SUM]
    for combine in order:
        if combine in ways:
            label = "they repeat each other: take one" if alike and combine is Combine.FIRST else ways[combine]
            answers.append(Answer(label, {}, {"source": {"combine": combine.value}}))
    answers = [*answers[: MOST_OFFERED - len(no_series)], *no_series]
    yield Question(
        f"shared:{how.dates.column}:{','.join(how.dates.more)}:{','.join(names)}",
        AnswerReach.SERIES,
        sentence,
        f"{where} What tells them apart?" if len(answers) > 3 else f"{where} What becomes of them?",
        tuple(answers[:MOST_OFFERED]),
        rows,
        tuple(name for name in (how.dates.column, *how.dates.more, *names) if name),
    )


def _combining(seen: FileEvidence, total: int, rows: tuple[int, ...]) -> Iterator[Question]:
    """Ask how several rows a period combine if they do not add up."""
    measure = seen.result.base.selection.measure if seen.result.base.selection else ""
    found = natures(seen.brought.observations, measure)
    nature = found.get(measure)
    if nature is None or nature.combine is Combine.SUM:
        return
    ways = {Combine.MEAN: "average them", Combine.LAST: "take the last", Combine.SUM: "add them up"}
    order = [nature.combine, *(way for way in ways if way is not nature.combine)]
    periods = seen.state.grain.plural
    shown = listed([f"“{text}”" for text in seen.texts(measure, rows)]) if measure in seen.table.columns else ""
    yield Question(
        f"combine:{measure}",
        AnswerReach.MEASURE,
        f"{measure} looks like {nature.looks}, and {total} {periods} have several rows.",
        f"Rows {listed([str(n) for n in rows])} have {shown} for one {seen.state.grain.singular}. What becomes of them?",
        tuple(Answer(ways[combine], {}, {"source": {"combine": combine.value}}) for combine in order),
        rows,
        (measure,) if measure in seen.table.columns else (),
    )


def _repeated(seen: FileEvidence, rows: tuple[int, ...]) -> bool:
    places = seen.table.numbers.is_in(list(rows)).arg_true()
    return seen.table.cells[places.to_list()].n_unique() == 1 if len(rows) > 1 else False


def _transactions(seen: FileEvidence) -> bool:
    """Return whether rows are transactions: irregular numbers a period, with distinct texts or times of day."""
    counts = np.concatenate([line.row_count[line.row_count > 0] for line in seen.lines]) if seen.lines else np.zeros(0)
    if counts.size < 3:
        return False
    taken = {seen.how.dates.column, *seen.how.dates.more, *seen.how.values.columns}
    names = [name for name in seen.table.columns if name not in taken]
    # a column that only counts the rows says nothing of them
    own = any(
        seen.table.cells[name].n_unique() == seen.table.height and not numbers_rows(seen.table.cells[name])
        for name in names
    )
    uneven = float(counts.std()) > 0.25 * float(counts.mean())
    return uneven and float(counts.mean()) > 1.2 and own


def _apart(seen: FileEvidence) -> Iterator[Answer]:
    """Return what would distinguish the rows: part of the date, or a series column."""
    how, table = seen.how, seen.table
    taken = {how.dates.column, *how.dates.more, how.series.column, *how.series.more}
    rest = [name for name in table.columns if name not in taken]
    if how.dates.form is DateForm.YEAR:
        for part, form in (
            ("month", DateForm.YEAR_MONTH),
            ("quarter", DateForm.YEAR_QUARTER),
            ("week", DateForm.YEAR_WEEK),
        ):
            column = part_column(table, part, list(taken - {None}))  # type: ignore[arg-type]
            if column:
                words = {"column": how.dates.column, "more": [column], "form": form.value}
                yield Answer(f"{column} belongs to the date", {"dates": words})
    moments = row_moments(table, how.dates).when
    moments = pl.Series(
        seen.state.grain.periods(moments.fill_null(strategy="forward").to_numpy().astype("datetime64[s]"))
    )
    naming = [
        name for name in rest
        if table.cells[name].n_unique() > 1 and (name not in how.values.columns or codes_like(table, name))
    ]  # fmt: skip
    for names in telling_apart(table, moments, naming, how.series)[:3]:
        both = (*((how.series.column, *how.series.more) if how.series.column else ()), *names)
        left = [name for name in how.values.columns if name not in names]
        if left:
            label = f"{listed(list(names))} name{'s' if len(names) == 1 else ''} series"
            yield Answer(
                label, {"series": {"column": both[0], "more": list(both[1:])}, "values": {"columns": left}},
            )  # fmt: skip


def _too_fine(seen: FileEvidence) -> Iterator[Question]:
    """Ask about a grain beyond the budget or nearly empty; a coarser one is used."""
    moments = seen.state.frame["when"].unique().to_numpy().astype("datetime64[s]")
    fine, series = detect_grain(moments), len(seen.brought.observations.series)
    if sensible_grain(fine, moments, series, seen.state.budget) == fine:
        return
    ends = fine.periods(np.array([moments.min(), moments.max()]))
    points = int(ends[1] - ends[0] + 1) * series
    here = Periods.of(seen.state.grain)
    coarse = [
        size for size in (Periods.HOUR, Periods.DAY, Periods.WEEK, Periods.MONTH, Periods.MOMENT) if size is not here
    ]
    why = "more than one run holds" if points > seen.state.budget.points else "nearly all without a row"
    yield Question(
        f"fine:{fine.unit.value}:{fine.step}",
        AnswerReach.CALENDAR,
        f"In {fine.plural} that would be {points:,} points of all series together, {why}.",
        f"They are taken as {here.label.lower()}. On which calendar are the numbers?",
        (
            Answer(f"{here.label.lower()}, as they are"),
            *(Answer(size.label.lower(), {}, {"calendar": {"grain": size.value}}) for size in coarse),
        ),
        (),
        tuple(name for name in (seen.how.dates.column, *seen.how.dates.more) if name),
    )


def _absent(seen: FileEvidence) -> Iterator[Question]:
    """Ask about a grain with over half of the periods absent."""
    periods = sum(len(line) for line in seen.lines)
    absent = seen.count(Received.ABSENT)
    if periods < FEW_PERIODS or absent <= MOST_ABSENT * periods:
        return
    grain = seen.state.grain
    moments = seen.state.frame["when"].unique().to_numpy().astype("datetime64[s]")
    answers = [Answer(f"{grain.plural}, as they are", {}, {})]
    for other, share in _other_grains(grain, moments):
        answers.append(
            Answer(f"{other.label.lower()}: {share:.0%} there", {}, {"calendar": {"grain": other.value}}),
        )  # fmt: skip
    answers.append(Answer("dates as they come", {}, {"calendar": {"grain": Periods.MOMENT.value}}))
    line = max(seen.lines, key=lambda line: int(np.count_nonzero(line.received == Received.ABSENT)))
    first = int(np.flatnonzero(line.received == Received.ABSENT)[0])
    yield Question(
        f"absent:{grain.unit.value}:{grain.step}",
        AnswerReach.CALENDAR,
        f"{absent} of {periods} {grain.plural} have no row.",
        f"The first is {grain.spoken(int(line.periods[first]))} of {line.name}. On which calendar are the numbers?",
        tuple(answers[:MOST_OFFERED]),
        (),
        tuple(name for name in (seen.how.dates.column, *seen.how.dates.more) if name),
    )


def _zero_ends(seen: FileEvidence) -> Iterator[Question]:
    """Ask where zeros end: at each series' last row, or at the last of any."""
    calendar = next(report for report in seen.result.reports if report.kind == "calendar")
    wider = next((offer for offer in calendar.outcome.offers if offer.change and "span" in offer.params), None)
    if wider is None:
        return
    yield Question(
        "zero-ends",
        AnswerReach.CALENDAR,
        wider.why,
        "Did nothing happen there, or was it not counted yet, or no longer?",
        (
            Answer("nothing happened: zero", {}, {"calendar": dict(wider.params)}),
            Answer("it was not counted: each series to its own rows"),
        ),
    )


def _other_grains(grain: Grain, moments: np.ndarray) -> list[tuple[Periods, float]]:
    """Return calendars with most periods present, fullest first; coarser ones may merge rows."""
    found = []
    for size in Periods:
        if size is Periods.MOMENT:
            continue
        other = Grain(size.unit, size.step)
        if other.step > 1:
            other = replace(
                other, phase=int(replace(other, step=1).periods(moments.min(keepdims=True))[0]) % other.step
            )
        if (other.unit, other.step) == (grain.unit, grain.step):
            continue
        share = completeness(other, moments)
        alone = np.unique(other.periods(moments)).size / np.unique(moments).size
        if share > MOST_ABSENT and (alone > 0.9 or other.step == 1) and other.unit is not Unit.MOMENT:
            found.append((alone, share, size))
    found.sort(key=lambda item: (-round(item[0], 1), -item[1]))
    return [(size, share) for _, share, size in found[:3]]

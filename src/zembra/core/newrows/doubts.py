"""Ask a question about each difference between new and old rows that may be a mistake."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

import numpy as np

from zembra.core.asking.question import Answer, Question
from zembra.core.calendar.grain import Unit, detect_grain
from zembra.core.english import counted, listed, number
from zembra.core.intake.bringin import BroughtIn
from zembra.core.intake.detect import may_be_measured, numbers_rows
from zembra.core.intake.howread import ValueKind
from zembra.core.intake.joining import folded
from zembra.core.newrows.changes import Kind, RevisedPeriods
from zembra.core.newrows.numberdoubts import (
    FEWEST,
    MOST_AGREE,
    Pair,
    common_factor,
    moved_numbers,
    new_sizes,
    paired_series,
    scaled_numbers,
    share_agreeing,
    swapped_series,
)
from zembra.core.newrows.sides import MOST_NAMED, TableSide, asked, named
from zembra.core.newrows.takingwords import NoLonger, TakingHow

COARSER = 2.5  # times as long
MUCH_GONE = 0.1  # of the numbers of a series


def rows_questions(
    before: TableSide,
    came: TableSide,
    brought: BroughtIn,
    changes: RevisedPeriods | None,
    how: TakingHow,
    names: Mapping[str, str],
    *,
    said: bool,
) -> tuple[Question, ...]:
    """Return the open questions about new rows.

    came: in the terms of the study; brought: as read
    changes: the differences, None if the calendars differ
    names: names in the study, by renamed columns; said: whether a person confirmed them
    """
    closed = {question.key for question in brought.how.settled}
    found = list(_calendar(before, came, changes))
    if changes is not None:
        pairs = paired_series(before.lines, came.lines)
        swapped = list(swapped_series(before, came))
        found += swapped
        if not swapped:
            factors = {pair.name: by for pair in pairs if (by := common_factor(pair.was, pair.now)) is not None}
            rest = [pair for pair in pairs if pair.name not in factors]
            found += scaled_numbers(pairs, factors)
            found += [*moved_numbers(before, came, pairs), *new_sizes(rest, whole=not factors)]
        found += [
            *_blank(changes),
            *_doubled(before, came),
            *_names(before, came, changes, brought, how),
            *_gone(before, changes, how),
        ]
        found += _reordered(before, came, brought, pairs)
    found += [*_units(before, came), *(() if said else _renamed(names)), *_new_columns(before, brought, names)]
    return tuple(question for question in found if question.key not in closed)


def _calendar(before: TableSide, came: TableSide, changes: RevisedPeriods | None) -> Iterator[Question]:
    """Ask about coarser rows, or rows on another calendar."""
    own = [detect_grain(_moments(side)) for side in (before, came) if _moments(side).size >= FEWEST]
    coarser = (
        len(own) == 2 and Unit.MOMENT not in (own[0].unit, own[1].unit) and own[1].seconds >= COARSER * own[0].seconds
    )
    if coarser:
        yield asked(
            "grain",
            f"What came has numbers by {own[1].singular}, the study by {own[0].singular}.",
            f"Each would stand at the first {own[0].singular} of its {own[1].singular}. Is that meant?",
        )
    elif changes is None:
        yield asked(
            "calendar",
            "What came lies on another calendar than the study.",
            f"It is by {came.grain.singular}, the study by {before.grain.singular}: nothing can be compared. Does it take the place of all?",
            Answer("it takes the place of all"),
        )


def _moments(side: TableSide) -> np.ndarray:
    frame = next(iter(side.observations.frames.values()))
    return frame["when"].drop_nulls().unique().sort().to_numpy().astype("datetime64[s]")


def _blank(changes: RevisedPeriods) -> Iterator[Question]:
    found = changes.of_kind.get(Kind.BLANK)
    if found is None or found.period.size < FEWEST:
        return
    per_series = np.bincount(found.series, minlength=len(changes.names))
    names = [changes.names[n] for n in np.flatnonzero(per_series)]
    yield asked(
        f"blank:{found.period.size}",
        f"{counted(int(found.period.size), 'number')} of {named(names)} would be blank now.",
        "A row came for them, and no number in it that can be read. Was the file written in another way?",
        Answer("keep the numbers that were there", taking={"blank": "stay"}),
        Answer("they are blank now"),
    )


def _doubled(before: TableSide, came: TableSide) -> Iterator[Question]:
    """Ask about periods with several rows, where there were none before."""
    if any(bool((line.row_count > 1).any()) for line in before.lines):
        return
    doubled = [(line, np.flatnonzero(line.row_count > 1)) for line in came.lines]
    doubled = [(line, at) for line, at in doubled if at.size]
    if not doubled:
        return
    total = sum(int(at.size) for _, at in doubled)
    line, at = doubled[0]
    yield asked(
        f"doubled:{total}",
        f"{counted(total, came.grain.singular)} {'have' if total > 1 else 'has'} more than one row, which none had so far.",
        f"The first is {came.grain.spoken(int(line.periods[at[0]]))} of {line.name}: {number(float(line.original[at[0]]))} from "
        f"{int(line.row_count[at[0]])} rows together. Did rows come twice?",
    )


def _names(
    before: TableSide, came: TableSide, changes: RevisedPeriods, brought: BroughtIn, how: TakingHow
) -> Iterator[Question]:
    """Ask about new and missing series, and likely renames."""
    new, lost = changes.new_series, changes.lost_series
    if not (lost or new):
        return
    # new rows may lack some series
    missing = lost or tuple(line.name for line in before.lines if line.name not in {line.name for line in came.lines})
    known = {line.name: line for line in before.lines}
    answers: list[Answer] = []
    alike: list[tuple[str, str]] = []
    for name in new[:MOST_NAMED]:
        line = next(line for line in came.lines if line.name == name)
        same = [old for old in missing if share_agreeing(known[old], line, 0) >= MOST_AGREE]
        alike += [(name, old) for old in same[:1]]
        offered = same or [old for old in missing if folded(old) == folded(name)] or missing[:MOST_NAMED]
        answers += [_called(brought, ((name, old),), f"{name} is {old}") for old in offered[:MOST_NAMED]]
    if len(alike) > 1:
        answers.insert(0, _called(brought, tuple(alike), listed([f"{name} is {old}" for name, old in alike])))
    gone = sum(row.series in lost for row in changes.of(Kind.GONE)) if lost else 0
    said = [f"{named(new)} {'are' if len(new) > 1 else 'is'} new"] if new else []
    said += [f"{named(lost)} {'are' if len(lost) > 1 else 'is'} gone, with {counted(gone, 'number')}"] if lost else []
    said += [f"{named(missing)} {'have' if len(missing) > 1 else 'has'} no row"] if new and missing and not lost else []
    text = "Is it a series of the study under another name?" if new and missing else "Is that meant?"
    if alike:
        text = f"{listed([f'{name} has the numbers that {old} had' for name, old in alike])}. Is it the same series?"
    elif lost and how.gone is NoLonger.GO:
        text += " What is gone would no longer be in the study."
    label = "they are new" if len(new) > 1 else "it is new" if new else "they go" if len(lost) > 1 else "it goes"
    yield asked(f"names:{','.join(new)}:{','.join(lost)}", f"{'; '.join(said)}.", text, *answers[:6], Answer(label))


def _called(brought: BroughtIn, names: Sequence[tuple[str, str]], label: str) -> Answer:
    texts = [*brought.how.series.called, *(f"{new} = {old}" for new, old in names)]
    return Answer(label, {"series": {"called": texts}})


def _reordered(before: TableSide, came: TableSide, brought: BroughtIn, pairs: Sequence[Pair]) -> Iterator[Question]:
    """Ask about reordered columns without overlapping rows: nothing confirms their names."""
    how = brought.how
    if (
        how.values.kind is not ValueKind.COLUMNS
        or how.series.column is not None
        or any(pair.was.size for pair in pairs)
    ):
        return
    names = [pair.name for pair in pairs]
    was, now = ([name for name in columns if name in names] for columns in (before.columns(), came.columns()))
    if was == now or sorted(was) != sorted(now):
        return
    yield asked(
        f"order:{','.join(now)}",
        f"The columns stand in another order than before: {named(now)}, and were {named(was)}.",
        "None of the numbers was there before, so that nothing shows whether the names stand over their own columns. Do they?",
        Answer("they do"),
    )


def _gone(before: TableSide, changes: RevisedPeriods, how: TakingHow) -> Iterator[Question]:
    """Ask about a whole table that lacks many old numbers."""
    found = changes.of_kind.get(Kind.GONE)
    if found is None or not found.period.size or how.gone is NoLonger.STAY:
        return
    kept = [n for n, name in enumerate(changes.names) if name not in changes.lost_series]
    numbers = {line.name: int((~np.isnan(line.original)).sum()) for line in before.lines}
    counts = np.bincount(found.series, minlength=len(changes.names))
    much = [n for n in kept if counts[n] > max(1, MUCH_GONE * numbers.get(changes.names[n], 0))]
    if not much:
        return
    total = int(counts[much].sum())
    yield asked(
        f"gone:{total}",
        f"{counted(total, 'number')} of {named([changes.names[n] for n in much])} that {'were' if total > 1 else 'was'} there {'are' if total > 1 else 'is'} not in it.",
        "Does the table hold the newest periods only?",
        Answer("keep what was there", taking={"gone": NoLonger.STAY.value}),
        Answer("they go"),
    )


def _units(before: TableSide, came: TableSide) -> Iterator[Question]:
    """Ask about a changed unit or currency."""
    was, now = before.observations.units, came.observations.units
    known = {*before.observations.measures, *before.observations.series}
    names = [name for name in {**now, **was} if name in known and was.get(name, "") != now.get(name, "")]
    if not names:
        return
    first = names[0]
    yield asked(
        f"units:{','.join(names)}",
        f"The numbers of {named(names)} are in {now.get(first) or 'no unit'} now, and were in {was.get(first) or 'no unit'}.",
        "Are they the same measure?",
    )


def _renamed(names: Mapping[str, str]) -> Iterator[Question]:
    if not names:
        return
    shown = list(names.items())
    yield asked(
        f"renamed:{','.join(f'{new}>{old}' for new, old in shown)}",
        f"{listed([f'{new} is taken for {old}' for new, old in shown[:MOST_NAMED]])}.",
        "The columns have other names than in the study. Are they the same?",
        Answer("they are the same"),
    )


def _new_columns(before: TableSide, came: BroughtIn, names: Mapping[str, str]) -> Iterator[Question]:
    """Ask about new columns of numbers."""
    how, table = came.how, came.table
    if how.values.kind is not ValueKind.COLUMNS or how.series.column is not None:
        return
    used = {how.dates.column, *how.dates.more, *how.values.columns, *names}
    unused = [name for name in table.columns if name not in used]
    known = set(before.columns()) if unused else set()
    new = [
        name for name in unused
        if name not in known and _holds_numbers(came, name)
    ]  # fmt: skip
    if not new:
        return
    yield asked(
        f"columns:{','.join(new)}",
        f"{named(new)} {'are new columns' if len(new) > 1 else 'is a new column'} of numbers.",
        "Are they series of the study?" if len(new) > 1 else "Is it a series of the study?",
        Answer("take them in" if len(new) > 1 else "take it in", {"values": {"columns": [*how.values.columns, *new]}}),
        Answer("leave them out" if len(new) > 1 else "leave it out"),
    )


def _holds_numbers(brought: BroughtIn, name: str) -> bool:
    cells = brought.table.cells[name]
    return may_be_measured(cells) and not numbers_rows(cells)

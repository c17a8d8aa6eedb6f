"""What came held against what is there, before anything is taken: each difference that may be a mistake is a question."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.asking.question import Answer, Question, Reach
from zembra.core.calendar.grain import Grain, Unit, detect_grain
from zembra.core.calendar.lines import Line
from zembra.core.english import counted, listed, number
from zembra.core.intake.bringin import BroughtIn
from zembra.core.intake.detect import may_be_measured, numbers_rows
from zembra.core.intake.howread import ValueKind
from zembra.core.intake.joining import folded
from zembra.core.intake.observe import Observations
from zembra.core.ledger.run import Result
from zembra.core.newrows.changes import Changes, Kind
from zembra.core.newrows.words import NoLonger, TakingHow

KEY = "rows:"  # begins the keys of these questions: an answer holds for one file, not for the next
FEWEST = 3  # numbers that are there on both sides
MOST_AGREE = 0.75  # of the numbers: the newest are often revised
SAME = 1e-6  # of a number
ALIKE = 5e-3  # of a factor: numbers are rounded when they are written in another unit
FAR = 5.0  # times as large as the largest number so far, or as small as the smallest
FEWEST_FOR_SIZE = 6  # numbers of a series that tell its size
MOST_SHIFTED = 40  # periods
COARSER = 2.5  # times as long
MUCH_GONE = 0.1  # of the numbers of a series
MOST_NAMED = 4


@dataclass(frozen=True, slots=True)
class Side:
    """The study as it was, or what came. lines: as they came, on one calendar where both have one. columns: of its table."""

    observations: Observations
    lines: Sequence[Line]
    grain: Grain
    columns: Callable[[], Sequence[str]]


def side_of(brought: BroughtIn, result: Result) -> Side:
    return Side(brought.observations, result.base.lines, result.base.grain, lambda: brought.table.columns)


def rows_questions(
    before: Side,
    came: Side,
    brought: BroughtIn,
    changes: Changes | None,
    how: TakingHow,
    names: Mapping[str, str],
    *,
    said: bool,
) -> tuple[Question, ...]:
    """The open questions about what came. came: in the words of the study; brought: as it was read. changes: period by
    period, None where the two lie on two calendars. names: of the study, by other names of what came; said: whether a person said that they are."""
    closed = {question.key for question in brought.how.settled}
    found = list(_calendar(before, came, changes))
    if changes is not None:
        pairs = _pairs(before.lines, came.lines)
        swapped = list(_swapped(before, came))
        found += swapped
        if not swapped:
            scaled = {pair.name: factor for pair in pairs if (factor := _factor(pair.was, pair.now)) is not None}
            rest = [pair for pair in pairs if pair.name not in scaled]
            found += [*_scaled(pairs, scaled), *_moved(before, came, pairs), *_new_sizes(rest, whole=not scaled)]
        found += [
            *_blank(changes),
            *_doubled(before, came),
            *_names(before, came, changes, brought, how),
            *_gone(before, changes, how),
        ]
        found += _reordered(before, came, brought, pairs)
    found += [*_units(before, came), *(() if said else _renamed(names)), *_new_columns(before, brought, names)]
    return tuple(question for question in found if question.key not in closed)


def _asked(key: str, title: str, text: str, *answers: Answer) -> Question:
    return Question(f"{KEY}{key}"[:300], Reach.TABLE, title, text, answers or (AS_THEY_ARE,))


AS_THEY_ARE = Answer("take them as they are")


def _named(names: Sequence[str]) -> str:
    more = f" and {len(names) - MOST_NAMED} more" if len(names) > MOST_NAMED else ""
    return listed(list(names[:MOST_NAMED])) + more if not more else ", ".join(names[:MOST_NAMED]) + more


def _calendar(before: Side, came: Side, changes: Changes | None) -> Iterator[Question]:
    """Rows that come at longer steps than those of the study, or that cannot be put on its calendar."""
    own = [detect_grain(_moments(side)) for side in (before, came) if _moments(side).size >= FEWEST]
    coarser = (
        len(own) == 2 and Unit.MOMENT not in (own[0].unit, own[1].unit) and own[1].seconds >= COARSER * own[0].seconds
    )
    if coarser:
        yield _asked(
            "grain",
            f"What came has numbers by {own[1].singular}, the study by {own[0].singular}.",
            f"Each would stand at the first {own[0].singular} of its {own[1].singular}. Is that meant?",
        )
    elif changes is None:
        yield _asked(
            "calendar",
            "What came lies on another calendar than the study.",
            f"It is by {came.grain.singular}, the study by {before.grain.singular}: nothing can be compared. Does it take the place of all?",
            Answer("it takes the place of all"),
        )


def _moments(side: Side) -> np.ndarray:
    frame = next(iter(side.observations.frames.values()))
    return frame["when"].drop_nulls().unique().sort().to_numpy().astype("datetime64[s]")


@dataclass(frozen=True, slots=True)
class _Pair:
    """A series on both sides. was, now: at the periods where both have a number. new: the numbers that came for others."""

    name: str
    was: Floats
    now: Floats
    before: Floats
    new: Floats


def _pairs(before: Sequence[Line], came: Sequence[Line]) -> list[_Pair]:
    known = {line.name: line for line in before}
    return [_paired(line.name, known[line.name], line) for line in came if line.name in known and len(known[line.name])]


def _paired(name: str, old: Line, new: Line) -> _Pair:
    _, at_old, at_new = np.intersect1d(old.periods, new.periods, assume_unique=True, return_indices=True)
    was, now = old.original[at_old], new.original[at_new]
    both = ~(np.isnan(was) | np.isnan(now))
    fresh = ~np.isnan(new.original)
    fresh[at_new[~np.isnan(was)]] = False
    return _Pair(name, was[both], now[both], old.original[~np.isnan(old.original)], new.original[fresh])


def _scaled(pairs: Sequence[_Pair], scaled: Mapping[str, float]) -> Iterator[Question]:
    """Numbers that are all so many times as large as they were: another unit, another mark, another sign. scaled: by series
    so many times."""
    found: dict[float, list[str]] = {}
    for name, factor in scaled.items():
        found.setdefault(factor, []).append(name)
    for factor, names in found.items():
        whole = len(names) == len(pairs)
        example = next(pair for pair in pairs if pair.name == names[0])
        said = "the opposite of what they were" if factor == -1 else f"{_times(factor)} what they were"
        answers = []
        if whole and factor > 0:
            answers.append(
                Answer(
                    "the same as before in another unit: bring them back",
                    {"values": {"times": [f"no text = {1 / factor:.12g}"]}},
                )
            )
        yield _asked(
            f"scale:{factor:.6g}:{','.join(names)}",
            f"The numbers{'' if whole else f' of {_named(names)}'} that were there are {said}.",
            f"{number(float(example.was[-1]))} became {number(float(example.now[-1]))}. Did the unit change, or how numbers are written?",
            *answers,
            AS_THEY_ARE,
        )


def _times(factor: float) -> str:
    if factor >= 1 or factor < 0:
        return f"{number(_rounded(factor))} times"
    return f"1/{number(_rounded(1 / factor))} of"


def _rounded(factor: float) -> float:
    nearest = float(f"{factor:.0e}")
    return nearest if abs(nearest / factor - 1) < ALIKE else float(f"{factor:.4g}")


def _factor(was: Floats, now: Floats) -> float | None:
    """What nearly all numbers were multiplied by; None where that is 1, or where it is not one factor."""
    some = (was != 0) & (now != 0)
    if int(some.sum()) < FEWEST or some.sum() < MOST_AGREE * was.size:
        return None
    ratios = now[some] / was[some]
    middle = float(np.median(ratios))
    if abs(middle - 1) <= ALIKE or not np.isfinite(middle):
        return None
    if float(np.mean(np.abs(ratios / middle - 1) <= ALIKE)) < MOST_AGREE or np.unique(was[some]).size < 2:
        return None
    return _rounded(middle)


def _moved(before: Side, came: Side, pairs: Sequence[_Pair]) -> Iterator[Question]:
    """The same numbers at other periods: hours of another clock, days that were cut at another hour."""
    known = {line.name: line for line in before.lines}
    votes: dict[int, int] = {}
    for line in came.lines:
        old = known.get(line.name)
        if old is None:
            continue
        shift = _shift(old, line)
        if shift:
            votes[shift] = votes.get(shift, 0) + 1
    if not votes:
        return
    shift, count = max(votes.items(), key=lambda item: item[1])
    if count * 2 < len(pairs):
        return
    grain = before.grain
    steps = counted(abs(shift), grain.singular)
    yield _asked(
        f"moved:{shift}",
        f"The numbers that were there stand {steps} {'later' if shift > 0 else 'earlier'} now.",
        "Are the times those of another clock, or the dates of another day? As they are, each number would be counted at another period.",
    )


def _shift(old: Line, new: Line) -> int:
    """By how many periods the numbers of a series moved; 0 where they did not."""
    here = _agreeing(old, new, 0)
    if here >= 0.5:
        return 0
    best, best_share = 0, 0.0
    for shift in (*range(1, MOST_SHIFTED + 1), *range(-MOST_SHIFTED, 0)):
        share = _agreeing(old, new, shift)
        if share > best_share:
            best, best_share = shift, share
    return best if best_share >= MOST_AGREE else 0


def _agreeing(old: Line, new: Line, shift: int) -> float:
    """The share of the numbers of both that agree when the old ones are moved."""
    _, at_old, at_new = np.intersect1d(old.periods + shift, new.periods, assume_unique=True, return_indices=True)
    was, now = old.original[at_old], new.original[at_new]
    both = ~(np.isnan(was) | np.isnan(now))
    if int(both.sum()) < 2 * FEWEST or np.unique(was[both]).size < FEWEST:
        return 0.0
    return float(np.mean(_same(was[both], now[both])))


def _same(a: Floats, b: Floats) -> np.ndarray:
    return np.abs(a - b) <= SAME * np.maximum(np.abs(a), 1e-12)


def _swapped(before: Side, came: Side) -> Iterator[Question]:
    """Series whose numbers are those that another series had."""
    known = {line.name: line for line in before.lines}
    found = []
    for line in came.lines:
        own = known.get(line.name)
        if own is None or _agreeing(own, line, 0) >= 0.5:
            continue
        other = next(
            (name for name, old in known.items() if name != line.name and _agreeing(old, line, 0) >= MOST_AGREE), None
        )
        if other is not None:
            found.append((line.name, other))
    if found:
        yield _asked(
            f"swapped:{','.join(name for name, _ in found)}",
            f"{listed([f'{name} has the numbers that {other} had' for name, other in found[:MOST_NAMED]])}.",
            "Have the names changed places?",
        )


def _new_sizes(pairs: Sequence[_Pair], *, whole: bool) -> Iterator[Question]:
    """New numbers that are far larger or smaller than any of their series so far, or on the other side of zero; and series
    that seem to have changed places in the new periods."""
    far = []
    for pair in pairs:
        sizes = np.abs(pair.before[pair.before != 0])
        new = np.abs(pair.new[pair.new != 0])
        if sizes.size < FEWEST_FOR_SIZE or not new.size:
            continue
        above, below = bool((new > FAR * sizes.max()).all()), bool((new < sizes.min() / FAR).all())
        turned = bool((pair.before > 0).all() and (pair.new < 0).all()) or bool(
            (pair.before < 0).all() and (pair.new > 0).all()
        )
        if above or below or turned:
            far.append((pair, "on the other side of zero" if turned else "far larger" if above else "far smaller"))
    for said in dict.fromkeys(said for _, said in far):
        own = [pair for pair, why in far if why == said]
        first = own[0]
        yield _asked(
            f"size:{said}:{','.join(pair.name for pair in own)}",
            f"The new numbers of {_named([pair.name for pair in own])} are {said} than any before."
            if "far" in said
            else f"The new numbers of {_named([pair.name for pair in own])} are {said}.",
            f"{first.name} was between {number(float(first.before.min()))} and {number(float(first.before.max()))}; now it is "
            f"{number(float(first.new[-1]))}. Did the unit change, or how numbers are written?",
            *_back_in_unit(own, whole and len(own) == len(pairs)),
            AS_THEY_ARE,
        )


def _back_in_unit(pairs: Sequence[_Pair], whole: bool) -> list[Answer]:
    """The power of ten that brings new numbers back to the size of those before, where there is one for all."""
    if not whole:
        return []
    ratios = [float(np.median(np.abs(pair.new[pair.new != 0])) / np.median(np.abs(pair.before))) for pair in pairs]
    powers = {round(float(np.log10(ratio))) for ratio in ratios if ratio > 0}
    if len(powers) != 1 or (power := powers.pop()) not in (-6, -3, -2, 2, 3, 6):
        return []
    words = {"values": {"times": [f"no text = {10.0**-power:.12g}"]}}
    return [
        Answer(f"in another unit: {'divide' if power > 0 else 'multiply'} them by {number(10.0 ** abs(power))}", words)
    ]


def _blank(changes: Changes) -> Iterator[Question]:
    found = changes.of_kind.get(Kind.BLANK)
    if found is None or found.period.size < FEWEST:
        return
    per_series = np.bincount(found.series, minlength=len(changes.names))
    names = [changes.names[n] for n in np.flatnonzero(per_series)]
    yield _asked(
        f"blank:{found.period.size}",
        f"{counted(int(found.period.size), 'number')} of {_named(names)} would be blank now.",
        "A row came for them, and no number in it that can be read. Was the file written in another way?",
        Answer("keep the numbers that were there", taking={"blank": "stay"}),
        Answer("they are blank now"),
    )


def _doubled(before: Side, came: Side) -> Iterator[Question]:
    """Periods of one series that several rows share now, where none did."""
    if any(bool((line.row_count > 1).any()) for line in before.lines):
        return
    doubled = [(line, np.flatnonzero(line.row_count > 1)) for line in came.lines]
    doubled = [(line, at) for line, at in doubled if at.size]
    if not doubled:
        return
    total = sum(int(at.size) for _, at in doubled)
    line, at = doubled[0]
    yield _asked(
        f"doubled:{total}",
        f"{counted(total, came.grain.singular)} {'have' if total > 1 else 'has'} more than one row, which none had so far.",
        f"The first is {came.grain.spoken(int(line.periods[at[0]]))} of {line.name}: {number(float(line.original[at[0]]))} from "
        f"{int(line.row_count[at[0]])} rows together. Did rows come twice?",
    )


def _names(before: Side, came: Side, changes: Changes, brought: BroughtIn, how: TakingHow) -> Iterator[Question]:
    """Series that are new, and those that are there no more; with those that may be the same under another name."""
    new, lost = changes.new_series, changes.lost_series
    if not (lost or new):
        return
    # of new rows alone, a series may be one of those that have none
    missing = lost or tuple(line.name for line in before.lines if line.name not in {line.name for line in came.lines})
    known = {line.name: line for line in before.lines}
    answers: list[Answer] = []
    alike: list[tuple[str, str]] = []
    for name in new[:MOST_NAMED]:
        line = next(line for line in came.lines if line.name == name)
        same = [old for old in missing if _agreeing(known[old], line, 0) >= MOST_AGREE]
        alike += [(name, old) for old in same[:1]]
        offered = same or [old for old in missing if folded(old) == folded(name)] or missing[:MOST_NAMED]
        answers += [_called(brought, ((name, old),), f"{name} is {old}") for old in offered[:MOST_NAMED]]
    if len(alike) > 1:
        answers.insert(0, _called(brought, tuple(alike), listed([f"{name} is {old}" for name, old in alike])))
    gone = sum(row.series in lost for row in changes.of(Kind.GONE)) if lost else 0
    said = [f"{_named(new)} {'are' if len(new) > 1 else 'is'} new"] if new else []
    said += [f"{_named(lost)} {'are' if len(lost) > 1 else 'is'} gone, with {counted(gone, 'number')}"] if lost else []
    said += (
        [f"{_named(missing)} {'have' if len(missing) > 1 else 'has'} no row"] if new and missing and not lost else []
    )
    text = "Is it a series of the study under another name?" if new and missing else "Is that meant?"
    if alike:
        text = f"{listed([f'{name} has the numbers that {old} had' for name, old in alike])}. Is it the same series?"
    elif lost and how.gone is NoLonger.GO:
        text += " What is gone would no longer be in the study."
    label = "they are new" if len(new) > 1 else "it is new" if new else "they go" if len(lost) > 1 else "it goes"
    yield _asked(f"names:{','.join(new)}:{','.join(lost)}", f"{'; '.join(said)}.", text, *answers[:6], Answer(label))


def _called(brought: BroughtIn, names: Sequence[tuple[str, str]], label: str) -> Answer:
    texts = [*brought.how.series.called, *(f"{new} = {old}" for new, old in names)]
    return Answer(label, {"series": {"called": texts}})


def _reordered(before: Side, came: Side, brought: BroughtIn, pairs: Sequence[_Pair]) -> Iterator[Question]:
    """Columns in another order, over rows of which none was there before: nothing says that the names stand over their own."""
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
    yield _asked(
        f"order:{','.join(now)}",
        f"The columns stand in another order than before: {_named(now)}, and were {_named(was)}.",
        "None of the numbers was there before, so that nothing shows whether the names stand over their own columns. Do they?",
        Answer("they do"),
    )


def _gone(before: Side, changes: Changes, how: TakingHow) -> Iterator[Question]:
    """A whole table that lacks many of the numbers that were there."""
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
    yield _asked(
        f"gone:{total}",
        f"{counted(total, 'number')} of {_named([changes.names[n] for n in much])} that {'were' if total > 1 else 'was'} there {'are' if total > 1 else 'is'} not in it.",
        "Does the table hold the newest periods only?",
        Answer("keep what was there", taking={"gone": NoLonger.STAY.value}),
        Answer("they go"),
    )


def _units(before: Side, came: Side) -> Iterator[Question]:
    """A unit or currency that stands with the numbers, and was another one or none so far."""
    was, now = before.observations.units, came.observations.units
    known = {*before.observations.measures, *before.observations.series}
    names = [name for name in {**now, **was} if name in known and was.get(name, "") != now.get(name, "")]
    if not names:
        return
    first = names[0]
    yield _asked(
        f"units:{','.join(names)}",
        f"The numbers of {_named(names)} are in {now.get(first) or 'no unit'} now, and were in {was.get(first) or 'no unit'}.",
        "Are they the same measure?",
    )


def _renamed(names: Mapping[str, str]) -> Iterator[Question]:
    if not names:
        return
    shown = list(names.items())
    yield _asked(
        f"renamed:{','.join(f'{new}>{old}' for new, old in shown)}",
        f"{listed([f'{new} is taken for {old}' for new, old in shown[:MOST_NAMED]])}.",
        "The columns have other names than in the study. Are they the same?",
        Answer("they are the same"),
    )


def _new_columns(before: Side, came: BroughtIn, names: Mapping[str, str]) -> Iterator[Question]:
    """Columns of numbers that the study does not know."""
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
    yield _asked(
        f"columns:{','.join(new)}",
        f"{_named(new)} {'are new columns' if len(new) > 1 else 'is a new column'} of numbers.",
        "Are they series of the study?" if len(new) > 1 else "Is it a series of the study?",
        Answer("take them in" if len(new) > 1 else "take it in", {"values": {"columns": [*how.values.columns, *new]}}),
        Answer("leave them out" if len(new) > 1 else "leave it out"),
    )


def _holds_numbers(brought: BroughtIn, name: str) -> bool:
    cells = brought.table.cells[name]
    return may_be_measured(cells) and not numbers_rows(cells)


def same_numbers(old: Line, new: Line) -> bool:
    """Whether two series have the same numbers at the periods that both have."""
    return _agreeing(old, new, 0) >= MOST_AGREE

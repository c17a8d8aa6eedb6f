"""Compare new numbers with old ones for changed units, marks, signs, clocks and places."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from zembra.core.arithmetic.arrays import Floats, Ints
from zembra.core.asking.question import Answer, Question
from zembra.core.calendar.lines import Line
from zembra.core.english import counted, listed, number
from zembra.core.newrows.sides import AS_THEY_ARE, MOST_NAMED, TableSide, asked, named

FEWEST = 3  # numbers that are there on both sides
MOST_AGREE = 0.75  # of the numbers: the newest are often revised
SAME = 1e-6  # of a number
ALIKE = 5e-3  # of a factor: numbers are rounded when they are written in another unit
FAR = 5.0  # times as large as the largest number so far, or as small as the smallest
FEWEST_FOR_SIZE = 6  # numbers of a series that tell its size
MOST_SHIFTED = 40  # periods
LOOKED_AT = 60  # series whose numbers differ, that are sought among others or at other periods


@dataclass(frozen=True, slots=True)
class Pair:
    """A series on both sides.

    was, now: values at common periods
    new: values of new periods
    """

    name: str
    was: Floats
    now: Floats
    before: Floats
    new: Floats


def paired_series(before: Sequence[Line], came: Sequence[Line]) -> list[Pair]:
    known = {line.name: line for line in before}
    return [_paired(line.name, known[line.name], line) for line in came if line.name in known and len(known[line.name])]


def _meeting(old: Ints, new: Ints, shift: int = 0) -> tuple[Ints, Ints]:
    """Return indices of common periods after a shift of the old ones."""
    if not old.size or not new.size:
        return np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64)
    first = int(old[0]) + shift
    if int(old[-1] - old[0]) == old.size - 1 and int(new[-1] - new[0]) == new.size - 1:
        # every period from the first to the last is there
        low = max(first, int(new[0]))
        count = max(0, min(first + old.size, int(new[0]) + new.size) - low)
        at = np.arange(count)
        return at + (low - first), at + (low - int(new[0]))
    _, at_old, at_new = np.intersect1d(old + shift, new, assume_unique=True, return_indices=True)
    return at_old, at_new


def _paired(name: str, old: Line, new: Line) -> Pair:
    at_old, at_new = _meeting(old.periods, new.periods)
    was, now = old.original[at_old], new.original[at_new]
    both = ~(np.isnan(was) | np.isnan(now))
    fresh = ~np.isnan(new.original)
    fresh[at_new[~np.isnan(was)]] = False
    return Pair(name, was[both], now[both], old.original[~np.isnan(old.original)], new.original[fresh])


def scaled_numbers(pairs: Sequence[Pair], scaled: Mapping[str, float]) -> Iterator[Question]:
    """Ask about numbers that all changed by one factor: another unit, decimal mark or sign.

    scaled: factor by series
    """
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
        yield asked(
            f"scale:{factor:.6g}:{','.join(names)}",
            f"The numbers{'' if whole else f' of {named(names)}'} that were there are {said}.",
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


def common_factor(was: Floats, now: Floats) -> float | None:
    """Return the factor between nearly all numbers, or None if it is 1 or not unique."""
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


def moved_numbers(before: TableSide, came: TableSide, pairs: Sequence[Pair]) -> Iterator[Question]:
    """Ask about equal numbers at shifted periods: another clock, or another start of day."""
    known = {line.name: line for line in before.lines}
    votes: dict[int, int] = {}
    for line in came.lines[:LOOKED_AT]:
        old = known.get(line.name)
        if old is None:
            continue
        shift = _shift(old, line)
        if shift:
            votes[shift] = votes.get(shift, 0) + 1
    if not votes:
        return
    shift, count = max(votes.items(), key=lambda item: item[1])
    if count * 2 < min(len(pairs), LOOKED_AT):
        return
    grain = before.grain
    steps = counted(abs(shift), grain.singular)
    yield asked(
        f"moved:{shift}",
        f"The numbers that were there stand {steps} {'later' if shift > 0 else 'earlier'} now.",
        "Are the times those of another clock, or the dates of another day? As they are, each number would be counted at another period.",
    )


def _shift(old: Line, new: Line) -> int:
    """Return the shift of a series in periods, or 0."""
    here = share_agreeing(old, new, 0)
    if here >= 0.5:
        return 0
    best, best_share = 0, 0.0
    for shift in (*range(1, MOST_SHIFTED + 1), *range(-MOST_SHIFTED, 0)):
        share = share_agreeing(old, new, shift)
        if share > best_share:
            best, best_share = shift, share
    return best if best_share >= MOST_AGREE else 0


def share_agreeing(old: Line, new: Line, shift: int) -> float:
    """Return the share of common numbers that agree after a shift."""
    at_old, at_new = _meeting(old.periods, new.periods, shift)
    was, now = old.original[at_old], new.original[at_new]
    both = ~(np.isnan(was) | np.isnan(now))
    if int(both.sum()) < 2 * FEWEST or np.unique(was[both]).size < FEWEST:
        return 0.0
    return float(np.mean(_same(was[both], now[both])))


def _same(a: Floats, b: Floats) -> np.ndarray:
    return np.abs(a - b) <= SAME * np.maximum(np.abs(a), 1e-12)


def swapped_series(before: TableSide, came: TableSide) -> Iterator[Question]:
    """Ask about series that hold each other's numbers."""
    known = {line.name: line for line in before.lines}
    lines = [line for line in before.lines if len(line)]
    unlike = [line for line in came.lines if line.name in known and share_agreeing(known[line.name], line, 0) < 0.5]
    if not lines or not unlike:
        return
    ends = min(int(line.periods[0]) for line in lines), max(int(line.periods[-1]) for line in lines)
    some = np.unique(np.linspace(*ends, LOOKED_AT).astype(np.int64))
    # a series with the numbers of another one has any of them at its period
    holding: dict[tuple[int, float], list[str]] = {}
    for line in lines:
        for place in _numbers_at(line, some):
            holding.setdefault(place, []).append(line.name)
    found = []
    for line in unlike:
        votes = Counter(name for place in _numbers_at(line, some) for name in holding.get(place, ()))
        likely = [name for name, _ in votes.most_common(MOST_NAMED) if name != line.name]
        other = next((name for name in likely if share_agreeing(known[name], line, 0) >= MOST_AGREE), None)
        if other is not None:
            found.append((line.name, other))
    if found:
        yield asked(
            f"swapped:{','.join(name for name, _ in found)}",
            f"{listed([f'{name} has the numbers that {other} had' for name, other in found[:MOST_NAMED]])}.",
            "Have the names changed places?",
        )


def _numbers_at(line: Line, periods: Ints) -> list[tuple[int, float]]:
    """Return the (period, number) pairs of a series."""
    there, at, _ = np.intersect1d(line.periods, periods, assume_unique=True, return_indices=True)
    values = line.original[at]
    return [
        (period, value) for period, value in zip(there.tolist(), values.tolist(), strict=True) if not math.isnan(value)
    ]


def new_sizes(pairs: Sequence[Pair], *, whole: bool) -> Iterator[Question]:
    """Ask about new numbers of another magnitude or sign, and about series that seem swapped."""
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
        yield asked(
            f"size:{said}:{','.join(pair.name for pair in own)}",
            f"The new numbers of {named([pair.name for pair in own])} are {said} than any before."
            if "far" in said
            else f"The new numbers of {named([pair.name for pair in own])} are {said}.",
            f"{first.name} was between {number(float(first.before.min()))} and {number(float(first.before.max()))}; now it is "
            f"{number(float(first.new[-1]))}. Did the unit change, or how numbers are written?",
            *_back_in_unit(own, whole and len(own) == len(pairs)),
            AS_THEY_ARE,
        )


def _back_in_unit(pairs: Sequence[Pair], whole: bool) -> list[Answer]:
    """Return the power of ten that restores the magnitude, if one fits all."""
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

"""Make a line of derived values, with conditions that follow from its sources."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Codes, Floats, Ints, found_at
from zembra.core.calendar.lines import REASON_MARK, Condition, Line, Quantity, Received
from zembra.core.grammar import Choice
from zembra.core.ledger.lineentry import LineResult


class Place(Choice):
    """Where a derived line goes."""

    IN_PLACE = ("in-place", "in its place")
    BESIDE = ("beside", "as a series of its own")


def derived(
    line: Line,
    values: Floats,
    entry_id: str,
    quantity: Quantity,
    *,
    parents: Sequence[Line] = (),
    also: Sequence[Codes] = (),
    estimated: Bools | None = None,
    because: Sequence[tuple[Bools, str]] = (),
) -> Line:
    """Return `line` with derived values. The condition of a point is that of its least certain source.

    quantity: what the values are
    parents: other lines on the same periods
    also: conditions of further source points
    estimated: mask of values that are estimates
    because: reasons for missing values
    """
    parts = [line, *parents]
    conditions = [*(part.condition for part in parts), *also]
    blank = np.isnan(values)

    def any_is(condition: Condition) -> Bools:
        return np.asarray(np.any([part == condition for part in conditions], axis=0))

    filled = any_is(Condition.FILLED) if estimated is None else any_is(Condition.FILLED) | estimated
    condition = np.full(len(line), Condition.MEASURED, dtype=np.uint8)
    condition[any_is(Condition.ADJUSTED)] = Condition.ADJUSTED
    condition[filled] = Condition.FILLED
    condition[any_is(Condition.PROVISIONAL)] = Condition.PROVISIONAL
    condition[blank] = Condition.OPEN
    received = np.maximum.reduce([part.received for part in parts])
    made = replace(
        line,
        value=values,
        quantity=quantity,
        received=received,
        condition=condition,
        bridged=np.zeros(len(line), dtype=bool),
        entry=np.ones(len(line), dtype=np.uint8),
        entries=(line.entries[0], entry_id),
    )
    for where, why in because:
        at = np.asarray(where & blank)
        if at.any():
            made = made.marked(at, Condition.OPEN, f"{entry_id}{REASON_MARK}{why}")
    return made


# from the surest to the least sure
_SURENESS = (
    Condition.MEASURED,
    Condition.OPEN,
    Condition.SET_ASIDE,
    Condition.ADJUSTED,
    Condition.FILLED,
    Condition.PROVISIONAL,
)
_RANK = np.array([_SURENESS.index(condition) for condition in Condition], dtype=np.uint8)


def least_sure_so_far(line: Line, restarts: Bools) -> Codes:
    """Return for each point the condition of the least certain point since the last restart."""
    rank = _RANK[line.condition]
    starts = np.flatnonzero(np.concatenate(([True], restarts[1:]))) if len(line) else np.zeros(0, dtype=np.int64)
    worst = [np.maximum.accumulate(part) for part in np.split(rank, starts[1:])]
    return np.array(_SURENESS, dtype=np.uint8)[np.concatenate(worst)] if len(line) else line.condition


def condition_at(line: Line, places: Ints) -> Codes:
    """Return the condition of the point at each index; measured for negative indices."""
    return np.where(places < 0, np.uint8(Condition.MEASURED), line.condition[np.maximum(places, 0)]).astype(np.uint8)


def placed(made: LineResult, line: Line, where: Place, name: str) -> LineResult:
    """Put a derived line in the place of its source, or beside the others as `name`."""
    if where is Place.IN_PLACE:
        return replace(made, line=line)
    nothing = np.full(len(line), -1, dtype=np.int64)
    # it was not received: nothing of it stands in the file
    own = replace(line, name=name, original=line.value, first_row=nothing, row_count=np.zeros_like(line.row_count))
    return replace(made, beside=(own,))


def on_periods_of(line: Line, other: Line) -> Line:
    """Return `other` on the periods of `line`; periods it lacks are absent."""
    inside, same = found_at(other.periods, line.periods)

    def spread(values: np.ndarray, empty: float) -> np.ndarray:
        out = np.full(len(line), empty, dtype=values.dtype)
        out[same] = values[inside[same]]
        return out

    return replace(
        other,
        periods=line.periods,
        value=spread(other.value, np.nan),
        original=spread(other.original, np.nan),
        received=spread(other.received, Received.ABSENT),
        condition=spread(other.condition, Condition.OPEN),
        entry=spread(other.entry, 0),
        bridged=spread(other.bridged, False),
        first_row=spread(other.first_row, -1),
        row_count=spread(other.row_count, 0),
    )

"""What can be done for just a few neighbouring periods of one series."""

from __future__ import annotations

from typing import Any

import numpy as np

from zembra.core.calendar.seasons import usual_season
from zembra.core.ledger.entries.repairs.blanks import Blanks, Missing, Treatment
from zembra.core.ledger.entries.repairs.marked_shift import Shift
from zembra.core.ledger.entries.repairs.outliers import Outliers
from zembra.core.ledger.entries.repairs.provisional import Newest, Provisional
from zembra.core.ledger.outlierwords import Rule, Then
from zembra.core.ledger.state import Offer, State
from zembra.core.lines import Condition, Line

MOST_PICKED = 400
_FOR_NOTHING = (
    Treatment.OPEN, Treatment.BRIDGE, Treatment.STRAIGHT, Treatment.CARRY_ON, Treatment.SEASONAL, Treatment.ZERO,
)  # fmt: skip


def stretch_offers(state: State, line: Line, first: int, last: int) -> tuple[Offer, ...]:
    """Entries that act on the periods at places `first` to `last` of a line, and on nothing else."""
    starts = state.grain.starts(line.periods[[first, last]])
    ends = [str(one.astype("datetime64[m]" if state.grain.seconds < 86_400 else "datetime64[D]")) for one in starts]
    bounds: dict[str, Any] = {"series": [line.name], "start": ends[0], "end": ends[1]}
    if bool(np.all(line.condition[first : last + 1] == Condition.OPEN)):
        common = {
            **bounds,
            "longest": None,
            "season": usual_season(state.expected) or 7,
            "classes": [one.value for one in Missing],
        }
        return tuple(
            Offer(one.tip, f"{one.label}", Blanks.kind, {**common, "treatment": one.value}) for one in _FOR_NOTHING
        )
    return (*_picking(state, line, first, last), *_from_here(line, ends[0], first))


def _picking(state: State, line: Line, first: int, last: int) -> tuple[Offer, ...]:
    """Setting aside, replacing or marking values by hand."""
    at = np.arange(first, min(last + 1, first + MOST_PICKED))
    at = at[~np.isnan(line.counted[at])]
    if not at.size:
        return ()
    points = [{"series": line.name, "period": label} for label in state.grain.labels(line.periods[at])]
    return tuple(
        Offer(one.tip, one.label, Outliers.kind, {"rule": Rule.HAND.value, "then": one.value, "points": points})
        for one in (Then.OPEN, Then.BRIDGE, Then.STRAIGHT, Then.MARK)
    )


def _from_here(line: Line, start: str, first: int) -> tuple[Offer, ...]:
    """What begins at the first of the periods."""
    series = [line.name]
    shift = Offer("the level steps here", "Mark a level shift", Shift.kind, {"on": start, "series": series})
    rule = {"rule": Newest.SINCE.value, "since": start, "series": series}
    tail = Offer("from here on not all is in yet", "Provisional from here on", Provisional.kind, rule)
    return (*((shift,) if first > 0 else ()), tail)

"""What can be done for just a few neighbouring periods of one series."""

from __future__ import annotations

from typing import Any

import numpy as np

from zembra.core.ledger.entries.blanks import USUAL_SEASONS, Blanks, Treatment
from zembra.core.ledger.state import Offer, State
from zembra.core.lines import Condition, Line

_FOR_NOTHING = (
    Treatment.OPEN, Treatment.BRIDGE, Treatment.STRAIGHT, Treatment.CARRY_ON, Treatment.SEASONAL, Treatment.ZERO,
)  # fmt: skip


def stretch_offers(state: State, line: Line, first: int, last: int) -> tuple[Offer, ...]:
    """Entries that act on the periods at places `first` to `last` of a line, and on nothing else."""
    starts = state.grain.starts(line.periods[[first, last]])
    ends = [str(one.astype("datetime64[m]" if state.grain.seconds < 86_400 else "datetime64[D]")) for one in starts]
    bounds: dict[str, Any] = {"series": [line.name], "start": ends[0], "end": ends[1]}
    if bool(np.all(line.condition[first : last + 1] == Condition.OPEN)):
        common = {**bounds, "longest": None, "season": USUAL_SEASONS.get(state.grain.singular, 7)}
        return tuple(
            Offer(one.tip, f"{one.label}", Blanks.kind, {**common, "treatment": one.value}) for one in _FOR_NOTHING
        )
    return ()

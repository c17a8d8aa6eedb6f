"""List what can be done for a few neighbouring periods of one series."""

from __future__ import annotations

from typing import Any

import numpy as np

from zembra.core.calendar.lines import Condition, Line
from zembra.core.calendar.seasons import usual_season
from zembra.core.entries.repairs.blanks import Blanks, Missing
from zembra.core.entries.repairs.clauses.blanks import (
    BlankFate,
    Bridged,
    CarriedOn,
    CountedZero,
    FilledSeasonal,
    FilledStraight,
    LeftOpen,
)
from zembra.core.entries.repairs.clauses.newest import EverySince
from zembra.core.entries.repairs.clauses.outliers import (
    OnlyMarked,
    OutlierFate,
    PickedByHand,
    ReplacedStraight,
    SetAside,
    SetAsideBridged,
)
from zembra.core.entries.repairs.marked_shift import Shift
from zembra.core.entries.repairs.outliers import Outliers
from zembra.core.entries.repairs.provisional import Provisional
from zembra.core.grammar import Point
from zembra.core.ledger.state import Offer, State

MOST_PICKED = 400
_BY_HAND: tuple[type[OutlierFate], ...] = (SetAside, SetAsideBridged, ReplacedStraight, OnlyMarked)


def stretch_offers(state: State, line: Line, first: int, last: int) -> tuple[Offer, ...]:
    """Offer entries that act on the points `first` to `last` of a line only."""
    starts = state.grain.starts(line.periods[[first, last]])
    ends = [str(start.astype("datetime64[m]" if state.grain.seconds < 86_400 else "datetime64[D]")) for start in starts]
    bounds: dict[str, Any] = {"series": [line.name], "start": ends[0], "end": ends[1]}
    if bool(np.all(line.condition[first : last + 1] == Condition.OPEN)):
        season = usual_season(state.expected) or 7
        fates: tuple[BlankFate, ...] = (
            LeftOpen(), Bridged(), FilledStraight(), CarriedOn(), FilledSeasonal(season=season), CountedZero(),
        )  # fmt: skip
        common = {**bounds, "longest": None, "classes": [missing.value for missing in Missing]}
        return tuple(
            Offer(fate.tip, fate.label, Blanks.kind, {**common, "treatment": fate.model_dump(mode="json")})
            for fate in fates
        )
    return (*_picking(state, line, first, last), *_from_here(line, ends[0], first))


def _picking(state: State, line: Line, first: int, last: int) -> tuple[Offer, ...]:
    """Offer to set aside, replace or mark values by hand."""
    at = np.arange(first, min(last + 1, first + MOST_PICKED))
    at = at[~np.isnan(line.counted[at])]
    if not at.size:
        return ()
    points = tuple(Point(series=line.name, period=label) for label in state.grain.labels(line.periods[at]))
    rule = PickedByHand(points=points).model_dump(mode="json")
    return tuple(
        Offer(kind.tip, kind.label, Outliers.kind, {"rule": rule, "then": kind().model_dump(mode="json")})
        for kind in _BY_HAND
    )


def _from_here(line: Line, start: str, first: int) -> tuple[Offer, ...]:
    """Offer entries that begin at the first of the periods."""
    series = [line.name]
    shift = Offer("the level steps here", "Mark a level shift", Shift.kind, {"on": start, "series": series})
    rule = EverySince.model_validate({"since": start}).model_dump(mode="json")
    words = {"rule": rule, "series": series}
    tail = Offer("from here on not all is in yet", "Provisional from here on", Provisional.kind, words)
    return (*((shift,) if first > 0 else ()), tail)

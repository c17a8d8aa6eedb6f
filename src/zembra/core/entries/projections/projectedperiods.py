"""Compute the periods that a projection covers, and those its method steps along."""

from __future__ import annotations

import numpy as np

from zembra.core.arithmetic.arrays import Ints
from zembra.core.entries.projections.clauses.projected import AnyAhead, OnClosed
from zembra.core.entries.projections.seriesprojection import Shown
from zembra.core.ledger.state import Study
from zembra.core.projection.ahead import Projected


def periods_ahead(ahead: AnyAhead, closed: OnClosed, shown: Shown, study: Study) -> tuple[Ints, Ints]:
    """Return the projected periods, and the row of periods that the method steps along."""
    wanted = study.expected.following(shown.last, ahead.how_many(shown.last, study))
    if closed is OnClosed.ZERO:
        every = np.arange(int(wanted[0]), int(wanted[-1]) + 1, dtype=np.int64)
        wanted = every[study.expected.usual(every)]
    onward = np.arange(int(shown.periods[-1]) + 1, int(wanted[-1]) + 1, dtype=np.int64)
    return wanted, onward[study.expected.usual(onward)]


def on_wanted(found: Projected, onward: Ints, wanted: Ints, closed: OnClosed, study: Study) -> Projected:
    """Select the projected periods from the row of periods."""
    projected = found.at(np.searchsorted(onward, wanted))
    return projected.zero_at(~study.expected.days(wanted)) if closed is OnClosed.ZERO else projected

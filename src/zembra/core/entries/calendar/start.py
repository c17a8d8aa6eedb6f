"""Create the first ledger of a new study."""

from __future__ import annotations

from datetime import date, timedelta

import numpy as np

from zembra.core.calendar.grain import Unit
from zembra.core.entries.calendar.calendar import Calendar
from zembra.core.entries.calendar.source import Source
from zembra.core.intake.howread import HowRead
from zembra.core.intake.observe import Observations
from zembra.core.ledger.model import Ledger, record
from zembra.core.ledger.state import State

LONG = timedelta(days=31)


def suggested_as_of(state: State, today: date) -> date:
    """Return the as-of day for a new study: today, or the end of data that ended more than a month and more than
    two periods ago. A dated row counts as happened, whatever its cells hold.

    state: after the calendar entry
    """
    ends = [int(line.periods[came[-1]]) for line in state.lines if (came := np.flatnonzero(line.row_count > 0)).size]
    if not ends:
        return today
    end = state.grain.days(np.array([max(ends), max(ends) + 1])).astype("datetime64[D]")
    last: date = (end[0] if state.grain.unit is Unit.MOMENT else max(end[0], end[1] - np.timedelta64(1, "D"))).item()
    usual = timedelta(seconds=0 if state.grain.unit is Unit.MOMENT else state.grain.seconds)
    return last if today - last > max(LONG, 2 * usual) else today


def first_ledger(observations: Observations, how: HowRead, as_of: date) -> Ledger:
    """Return a ledger of the detected source and calendar."""
    state = State(observations, as_of)
    return Ledger(
        intake=how,
        entries=(record(Source.suggest(state), "source"), record(Calendar.suggest(state), "calendar")),
    )

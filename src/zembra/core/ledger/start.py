"""The ledger a new study starts with."""

from __future__ import annotations

from datetime import date

from zembra.core.intake.howread import HowRead
from zembra.core.intake.observe import Observations
from zembra.core.ledger.entries.calendar import Calendar
from zembra.core.ledger.entries.source import Source
from zembra.core.ledger.model import Ledger, record
from zembra.core.ledger.state import State


def first_ledger(observations: Observations, how: HowRead, as_of: date) -> Ledger:
    """Source and calendar as detected; nothing repaired, nothing read."""
    state = State(observations, as_of)
    return Ledger(
        intake=how,
        entries=(record(Source.suggest(state), "source"), record(Calendar.suggest(state), "calendar")),
    )

"""What readings over a moving window have in common."""

from __future__ import annotations

from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.windows import moving_average, touches
from zembra.core.arrays import Bools, Floats
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice
from zembra.core.ledger.clauses.windows import Window, usual_window
from zembra.core.ledger.entry import Group
from zembra.core.ledger.lineentry import LineEntry
from zembra.core.ledger.state import State, Study
from zembra.core.lines import Line


class Tail(Choice):
    """What becomes of a reading over provisional periods."""

    STOP = ("stop", "stop")
    FADED = ("faded", "go on faded", "provisional periods are not counted, the line goes on")
    COUNTED = ("counted", "go on faded and count them", "provisional periods are counted")


class Windowed(LineEntry):
    group: ClassVar[Group] = Group.READINGS

    window: Annotated[Window, Field(title="window")] = Window()
    tail: Annotated[Tail, Field(title="over provisional periods")] = Tail.STOP

    @property
    def about_tail(self) -> str:
        """The part of the template that says what happens over provisional periods."""
        return "[, and {tail} where {@periods} are provisional]"

    def averaged(self, line: Line) -> tuple[Floats, Bools | None]:
        """(the average, where it is faded)."""
        window, cuts = self.window, line.cuts
        counts = self.tail is Tail.COUNTED
        values = line.countable(provisional=counts)
        mean, _ = moving_average(values, window.length, window.before, window.need, cuts)
        if not line.provisional.any():
            return mean, None
        if self.tail is Tail.STOP:
            return np.where(line.provisional, np.nan, mean), None
        touched = touches(line.provisional, window.length, window.before, cuts) if counts else line.provisional
        return mean, touched

    def stopped(self, line: Line, mean: Floats, study: Study) -> tuple[str, ...]:
        """Why a line that was to go on faded stops all the same."""
        if self.tail is not Tail.FADED:
            return ()
        short = np.flatnonzero(line.provisional & np.isnan(mean))
        if not short.size:
            return ()
        window, when = self.window, study.grain.label(int(line.periods[short[0]]))
        return (
            f"{line.name} stops at {when}: from there on fewer than {window.need} of {window.length} "
            f"{study.grain.plural} count, as provisional ones do not. Needing fewer would let it go on.",
        )

    def too_few(self, need: int, study: Study) -> Refusal:
        """What is said where no window has enough numbers."""
        return Refusal(
            f"No {study.grain.singular} has {need} numbers within {self.window.length} {study.grain.plural}.",
            todo="Ask for fewer values, or widen the window.",
        )

    @classmethod
    def suggest(cls, state: State) -> Windowed:
        return cls(window=usual_window(state.grain.singular))

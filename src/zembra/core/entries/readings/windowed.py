"""The common base of rolling readings."""

from __future__ import annotations

from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.arrays import Bools, Floats
from zembra.core.arithmetic.windows import Windows
from zembra.core.calendar.lines import Line
from zembra.core.entries.readings.clauses.windows import AnyWindow, AtEnds, Window, usual_window
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice
from zembra.core.ledger.entry import Group
from zembra.core.ledger.lineentry import LineEntry
from zembra.core.ledger.state import State, Study


class Tail(Choice):
    """The rule for a reading over provisional periods."""

    STOP = ("stop", "stop")
    FADED = ("faded", "go on faded", "provisional periods are not counted, the line goes on")
    COUNTED = ("counted", "go on faded and count them", "provisional periods are counted")


class Windowed(LineEntry):
    group: ClassVar[Group] = Group.READINGS

    window: Annotated[AnyWindow, Field(title="window", discriminator="kind")] = Window()
    tail: Annotated[Tail, Field(title="over provisional periods")] = Tail.STOP

    @property
    def about_tail(self) -> str:
        """The part of the template about provisional periods."""
        return "[, and {tail} where {@periods} are provisional]"

    def counted(self, line: Line) -> Floats:
        """Return the values that count."""
        return line.countable(provisional=self.tail is Tail.COUNTED)

    def ended(self, line: Line, found: Floats, windows: Windows | None) -> tuple[Floats, Bools | None]:
        """Return the values up to their end, and a mask of faded points.

        windows: their windows
        """
        if windows is not None and self.window.ends is AtEnds.FULL:
            found = np.where(windows.whole, found, np.nan)
        if not line.provisional.any():
            return found, None
        if self.tail is Tail.STOP:
            return np.where(line.provisional, np.nan, found), None
        if self.tail is Tail.COUNTED and windows is not None:
            return found, np.asarray(windows.counts(line.provisional) > 0)
        return found, line.provisional

    def stopped(self, line: Line, found: Floats, study: Study) -> tuple[str, ...]:
        """Explain why a line stops although it was to continue faded."""
        if self.tail is not Tail.FADED:
            return ()
        short = np.flatnonzero(line.provisional & np.isnan(found))
        if not short.size:
            return ()
        need, when = self.window.need, study.grain.spoken(int(line.periods[short[0]]))
        return (
            f"{line.name} stops at {when}: from there on fewer than {need} of {self.window.size(study.grain)} "
            "count, as provisional ones do not. Needing fewer would let it go on.",
        )

    def too_few(self, need: int, study: Study) -> Refusal:
        """Return the refusal for windows without enough numbers."""
        return Refusal(
            f"No {study.grain.singular} has {need} numbers within {self.window.size(study.grain)}.",
            todo="Ask for fewer values, or widen the window.",
        )

    @classmethod
    def suggest(cls, state: State) -> Windowed:
        return cls(window=usual_window(state.grain.singular))

"""Compute a series relative to another one or to a target: difference, ratio, percent."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.arrays import Bools, Floats
from zembra.core.arithmetic.totals import ratio
from zembra.core.calendar.lines import Line, Quantity
from zembra.core.entries.repairs.clauses.against import Against, OtherSeries, Target
from zembra.core.entries.shared.derived import Place, derived, placed
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice
from zembra.core.ledger.entry import Group
from zembra.core.ledger.evidence import SERIES, count, table
from zembra.core.ledger.lineentry import Account, LineEntry, LineResult, rows_of
from zembra.core.ledger.registry import register
from zembra.core.ledger.state import State, Study


class How(Choice):
    DIFFERENCE = ("difference", "the difference")
    RATIO = ("ratio", "the ratio")
    PERCENT = ("percent", "percent of it")


@register
class SetAgainst(LineEntry):
    kind: ClassVar[str] = "against"
    group: ClassVar[Group] = Group.REPAIRS
    title: ClassVar[str] = "Set against"
    hint: ClassVar[str] = "Another series, a target or a column: difference, ratio, percent of."
    rank: ClassVar[int] = 8
    repairs: ClassVar[bool] = True
    all_or_none: ClassVar[bool] = True

    against: Annotated[Against, Field(title="what it is set against", discriminator="kind")] = Target()
    how: Annotated[How, Field(title="how")] = How.DIFFERENCE
    place: Annotated[Place, Field(title="where it goes")] = Place.BESIDE

    def template(self) -> str:
        return "Set {series} against {against}: take {how}, {place}."

    def works_on(self, line: Line) -> bool:
        return not (isinstance(self.against, OtherSeries) and line.name == self.against.other)

    def others(self, state: State, line: Line) -> tuple[Line, ...]:
        return self.against.others(state, line)

    def on_line(self, line: Line, study: Study) -> LineResult:
        theirs, parents = self.against.numbers(line, study)
        mine = line.countable(provisional=True)
        values, zero = self._compared(mine, theirs)
        blank: list[tuple[Bools, str]] = [
            (zero, "division by zero"),
            (np.isnan(mine), f"{line.name} has no number"),
            (np.isnan(theirs), "what it is set against has no number"),
        ]
        made = derived(line, values, study.entry_id, self._quantity(line), parents=parents, because=blank)
        known = int((~np.isnan(values)).sum())
        rows = ((line.name, known, len(line) - known, int(zero.sum())),)
        return placed(LineResult(touched=known, rows=rows), made, self.place, f"{line.name}, {self._named()}")

    def account(self, made: Sequence[LineResult], study: Study) -> Account:
        if not made:
            raise Refusal("A series set against itself says nothing.", todo="Choose another one.")
        columns = (
            SERIES,
            count("with", "With a value"),
            count("blank", "Blank"),
            count("zero", "Of these divisions by zero"),
        )
        return Account("values", (table("Set against", columns, rows_of(made)),))

    @classmethod
    def suggest(cls, state: State) -> SetAgainst:
        if len(state.lines) > 1:
            return cls(series=(state.lines[0].name,), against=OtherSeries(other=state.lines[1].name))
        values = state.lines[0].counted if state.lines else np.array([np.nan])
        middle = float(np.nanmedian(values)) if (~np.isnan(values)).any() else 100.0
        return cls(against=Target(number=float(f"{middle:.3g}")))

    def _compared(self, mine: Floats, theirs: Floats) -> tuple[Floats, Bools]:
        """Return the comparison, and a mask of divisions by zero."""
        if self.how is How.DIFFERENCE:
            return mine - theirs, np.zeros(mine.size, dtype=bool)
        return ratio(mine * (100 if self.how is How.PERCENT else 1), theirs)

    def _quantity(self, line: Line) -> Quantity:
        old = line.quantity
        if self.how is How.DIFFERENCE:
            return Quantity(f"{old.name or line.name} {self._named()}", old.unit)
        unit = "%" if self.how is How.PERCENT else ""
        return Quantity(f"{old.name or line.name}, {self._named()}", unit)

    def _named(self) -> str:
        other = self.against.name
        return {How.DIFFERENCE: f"over {other}", How.RATIO: f"to {other}", How.PERCENT: f"percent of {other}"}[self.how]

"""Words that name another line: a series of the study or a column of the file."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from zembra.core.calendar.lines import Line
from zembra.core.entries.shared.column import column_of
from zembra.core.errors import Refusal
from zembra.core.grammar import Clause, Word
from zembra.core.ledger.state import State


class SeriesByName(Clause):
    """A series by its name.

    needed: its purpose, for the refusal if none is chosen
    """

    label: ClassVar[str] = "the series"
    needed: ClassVar[str]

    kind: Literal["series"] = "series"
    other: Annotated[str | None, Field(title="the other series"), Word(options="lines", empty="none yet")] = None

    def template(self) -> str:
        return "{self} {other}"

    def others(self, state: State, line: Line) -> tuple[Line, ...]:
        if self.other is None:
            raise Refusal(f"No series is chosen {self.needed}.", todo="Choose one.")
        return (state.lines[state.chosen((self.other,))[0]],)


class ColumnByName(Clause):
    label: ClassVar[str] = "another column of the file,"

    kind: Literal["measure"] = "measure"
    measure: Annotated[str | None, Field(title="column"), Word(options="other_columns", empty="none yet")] = None

    def template(self) -> str:
        return "{self} {measure}"

    def others(self, state: State, line: Line) -> tuple[Line, ...]:
        return (column_of(state, line.name, self.measure),)

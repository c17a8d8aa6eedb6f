"""What a ledger's entries hand from one to the next, and what each reports."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date
from typing import Any

import polars as pl

from zembra.core.arrays import Ints
from zembra.core.calendar.complete import Absent, Combine, Expected, Range, complete, moments_for
from zembra.core.calendar.grain import DAY, Grain
from zembra.core.errors import Refusal
from zembra.core.grammar import Nouns
from zembra.core.intake.observe import Observations
from zembra.core.lines import Drawn, Line, Mark

Cell = str | float | int | None


@dataclass(frozen=True, slots=True)
class RowKey:
    """The point a row of evidence speaks of, so that it can be kept or given a reason."""

    series: str
    period: str
    kept: bool = False
    reason: str = ""


@dataclass(frozen=True, slots=True)
class Table:
    """A piece of evidence. A number is given as a number and shown by the screen.

    keys: the point behind each row, where rows speak of points.
    """

    title: str
    columns: tuple[str, ...]
    rows: tuple[tuple[Cell, ...], ...]
    keys: tuple[RowKey | None, ...] = ()


@dataclass(frozen=True, slots=True)
class Offer:
    """Something that may be wanted, with why, done by one click.

    params: the words of an entry to add; with `change` they are words of the offering entry itself.
    """

    why: str
    action: str
    kind: str
    params: Mapping[str, Any]
    change: bool = False


@dataclass(frozen=True, slots=True)
class Selection:
    """What the source entry chose: which measure and series, and how rows of one period combine.

    exceptions: series whose rows combine in another way.
    """

    measure: str
    series: tuple[str, ...]
    combine: Combine
    exceptions: Mapping[str, Combine] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Completing:
    """How the calendar entry puts observations onto periods, for entries that need another measure."""

    expected: Expected
    span: Range
    absent: Callable[[str], Absent]
    by: str

    def complete(
        self, frame: pl.DataFrame, names: Sequence[str], combine: Combine, exceptions: Mapping[str, Combine]
    ) -> list[Line]:
        moments = moments_for(frame, self.expected.grain)
        return complete(moments, names, self.expected, self.span, combine, self.absent, self.by, exceptions)


@dataclass(frozen=True, slots=True)
class State:
    """The study after some entries. Never changed in place."""

    observations: Observations
    as_of: date
    file_name: str = "the file"
    expected: Expected = field(default_factory=lambda: Expected(DAY))
    selection: Selection | None = None
    lines: tuple[Line, ...] = ()
    drawn: tuple[Drawn, ...] = ()
    marks: tuple[Mark, ...] = ()
    calendar: Completing | None = None

    @property
    def grain(self) -> Grain:
        return self.expected.grain

    @property
    def frame(self) -> pl.DataFrame:
        """The observations of the chosen measure."""
        measure = self.selection.measure if self.selection else next(iter(self.observations.frames))
        return self.observations.frames[measure]

    def following(self, period: int, count: int) -> Ints:
        """The next `count` expected periods after `period`."""
        return self.expected.following(period, count)

    @property
    def nouns(self) -> Nouns:
        period = self.grain.singular
        article = "an" if period == "hour" else "a"
        words = {"period": period, "periods": self.grain.plural, "a_period": f"{article} {period}"}
        return Nouns({**words, "file": self.file_name})

    def chosen(self, series: tuple[str, ...] | None) -> list[int]:
        """Places in `lines` of the named series; all where none is named. Raises Refusal."""
        if not series:
            return list(range(len(self.lines)))
        names = [line.name for line in self.lines]
        missing = [name for name in series if name not in names]
        if missing:
            raise Refusal(
                f"There is no series named “{missing[0]}” in this study.",
                place=f"the series are {', '.join(names[:12])}",
                todo="Choose one of these.",
            )
        return [names.index(name) for name in series]

    def with_line(self, place: int, line: Line) -> State:
        return replace(self, lines=(*self.lines[:place], line, *self.lines[place + 1 :]))


@dataclass(frozen=True, slots=True)
class Outcome:
    """What one entry did.

    touched: how many points it changed or used, and `touched_what` says which ("filled", "days").
    """

    state: State
    touched: int = 0
    touched_what: str = ""
    evidence: tuple[Table, ...] = ()
    warnings: tuple[str, ...] = ()
    offers: tuple[Offer, ...] = ()

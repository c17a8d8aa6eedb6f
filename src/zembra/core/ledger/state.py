"""The state that entries pass on, and the outcome that each reports."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date
from typing import Any

import numpy as np
import polars as pl

from zembra.core.calendar.budget import USUAL, Budget
from zembra.core.calendar.complete import Absent, Combine, Expected, Range, complete, moments_for
from zembra.core.calendar.grain import DAY, Grain
from zembra.core.calendar.lines import Line
from zembra.core.errors import Refusal
from zembra.core.grammar import Nouns
from zembra.core.intake.observe import Observations
from zembra.core.ledger.events import Happening
from zembra.core.ledger.evidence import Evidence, Finding
from zembra.core.ledger.results import SeriesResult
from zembra.core.ledger.shapes import Shape


@dataclass(frozen=True, slots=True)
class Offer:
    """A suggestion that one click accepts.

    why: the reason
    params: parameters of the entry to add; with `change`, new parameters of the offering entry
    """

    why: str
    action: str
    kind: str
    params: Mapping[str, Any]
    change: bool = False


@dataclass(frozen=True, slots=True)
class Selection:
    """The measure and series that the source entry selects.

    combine: how rows of one period combine
    exceptions: series whose rows combine in another way
    """

    measure: str
    series: tuple[str, ...]
    combine: Combine
    exceptions: Mapping[str, Combine] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Completing:
    """How the calendar entry completes observations, for entries that need another measure."""

    expected: Expected
    span: Range
    absent: Callable[[str], Absent]
    entry_id: str

    def complete(
        self, frame: pl.DataFrame, names: Sequence[str], combine: Combine, exceptions: Mapping[str, Combine]
    ) -> list[Line]:
        moments = moments_for(frame, self.expected.grain)
        return complete(moments, names, self.expected, self.span, combine, self.absent, self.entry_id, exceptions)


@dataclass(frozen=True, slots=True)
class Study:
    """What an entry may know besides its line.

    entry_id: id of the entry
    others: other lines that it asked for
    earlier: shapes of the entries that it refers to, for this line or for several together
    events: events of earlier entries
    """

    expected: Expected
    as_of: date
    entry_id: str
    others: tuple[Line, ...] = ()
    earlier: tuple[Shape, ...] = ()
    events: tuple[Happening, ...] = ()

    @property
    def grain(self) -> Grain:
        return self.expected.grain

    @property
    def nouns(self) -> Nouns:
        return Nouns(nouns_of(self.grain))


def nouns_of(grain: Grain) -> dict[str, str]:
    """Return the words for periods of a grain."""
    article = "an" if grain.singular == "hour" else "a"
    return {"period": grain.singular, "periods": grain.plural, "a_period": f"{article} {grain.singular}"}


@dataclass(frozen=True, slots=True)
class PartOfLines:
    """Marks a state that holds only part of very many lines: an entry without results here may have some elsewhere.

    pooled: by entry id, what all parts together told the entry; each entry knows the class of its own
    """

    pooled: Mapping[str, object] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class State:
    """The study after some entries. Immutable.

    part: None if it holds all lines
    """

    observations: Observations
    as_of: date
    file_name: str = "the file"
    expected: Expected = field(default_factory=lambda: Expected(DAY))
    selection: Selection | None = None
    lines: tuple[Line, ...] = ()
    shapes: tuple[Shape, ...] = ()
    events: tuple[Happening, ...] = ()
    calendar: Completing | None = None
    budget: Budget = USUAL
    part: PartOfLines | None = None

    @property
    def grain(self) -> Grain:
        return self.expected.grain

    @property
    def frame(self) -> pl.DataFrame:
        """The observations of the selected measure."""
        measure = self.selection.measure if self.selection else next(iter(self.observations.frames))
        return self.observations.frames[measure]

    @property
    def nouns(self) -> Nouns:
        return Nouns({**nouns_of(self.grain), "file": self.file_name})

    def chosen(self, series: tuple[str, ...] | None) -> list[int]:
        """Return the indices of the named lines, or of all if none is named. Raises Refusal."""
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


@dataclass(frozen=True, slots=True)
class Additions:
    """What one entry adds to a state. It holds nothing that was drawn before, so that the cache does not keep old
    drawings.

    selection, expected, calendar, lines: their values after the entry, None if unchanged
    """

    selection: Selection | None = None
    expected: Expected | None = None
    calendar: Completing | None = None
    lines: tuple[Line, ...] | None = None
    shapes: tuple[Shape, ...] = ()
    events: tuple[Happening, ...] = ()

    def arrays(self) -> Iterator[np.ndarray]:
        """Return all arrays, whose bytes the memo counts."""
        for line in self.lines or ():
            yield from line.arrays()
        for shape in self.shapes:
            yield from shape.arrays()

    def onto(self, state: State) -> State:
        """Return the state after the entry."""
        return replace(
            state,
            selection=state.selection if self.selection is None else self.selection,
            expected=state.expected if self.expected is None else self.expected,
            calendar=state.calendar if self.calendar is None else self.calendar,
            lines=state.lines if self.lines is None else self.lines,
            shapes=(*state.shapes, *self.shapes),
            events=(*state.events, *self.events),
        )


@dataclass(frozen=True, slots=True)
class Outcome:
    """What one entry did.

    touched: number of points changed or used; touched_what: which ("filled", "days")
    nouns: words for its sentence
    refused: names of lines that it skipped, with reasons
    results: typed results, one for each line
    nothing: why the lines of a part gave no result, where other parts may give some
    """

    adds: Additions = Additions()
    touched: int = 0
    touched_what: str = ""
    evidence: tuple[Evidence, ...] = ()
    findings: tuple[Finding, ...] = ()
    warnings: tuple[str, ...] = ()
    offers: tuple[Offer, ...] = ()
    nouns: Mapping[str, str] = field(default_factory=dict)
    refused: tuple[tuple[str, Refusal], ...] = ()
    results: tuple[SeriesResult, ...] = ()
    nothing: str = ""

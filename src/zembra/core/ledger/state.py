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
    entry_id: str

    def complete(
        self, frame: pl.DataFrame, names: Sequence[str], combine: Combine, exceptions: Mapping[str, Combine]
    ) -> list[Line]:
        moments = moments_for(frame, self.expected.grain)
        return complete(moments, names, self.expected, self.span, combine, self.absent, self.entry_id, exceptions)


@dataclass(frozen=True, slots=True)
class Study:
    """What an entry knows besides the line it works on.

    entry_id: the entry's id. others: the other lines that it asked for. earlier: what the entries that it refers to
    drew of this line, or of several together. events: those told before it.
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
    """What periods are called on a grain."""
    article = "an" if grain.singular == "hour" else "a"
    return {"period": grain.singular, "periods": grain.plural, "a_period": f"{article} {grain.singular}"}


@dataclass(frozen=True, slots=True)
class PartOfLines:
    """Said of a study whose lines are a part of very many: what comes to nothing on them may come to something on others.

    pooled: by entry, what all parts together told it. Each entry knows the class of its own.
    """

    pooled: Mapping[str, object] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class State:
    """The study after some entries. Never changed in place. part: None where it has all lines."""

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
        """The observations of the chosen measure."""
        measure = self.selection.measure if self.selection else next(iter(self.observations.frames))
        return self.observations.frames[measure]

    @property
    def nouns(self) -> Nouns:
        return Nouns({**nouns_of(self.grain), "file": self.file_name})

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


@dataclass(frozen=True, slots=True)
class Additions:
    """What one entry adds to a state, never the state itself: what was drawn before it is not its business, and would be
    remembered with it. selection, expected, calendar, lines: all of them after the entry, None where they stay."""

    selection: Selection | None = None
    expected: Expected | None = None
    calendar: Completing | None = None
    lines: tuple[Line, ...] | None = None
    shapes: tuple[Shape, ...] = ()
    events: tuple[Happening, ...] = ()

    def arrays(self) -> Iterator[np.ndarray]:
        """The arrays it holds, whose bytes the memo counts."""
        for line in self.lines or ():
            yield from line.arrays()
        for shape in self.shapes:
            yield from shape.arrays()

    def onto(self, state: State) -> State:
        """The state after the entry."""
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

    touched: how many points it changed or used, and `touched_what` says which ("filled", "days"). nouns: words that its
    sentence takes from what came of it. refused: names of lines that it passed over, with why. results: what it found out about each line.
    nothing: why nothing came of the lines of a part, which were taken all the same: it may be that something comes of others.
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

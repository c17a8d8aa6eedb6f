"""The base class of entries that work on one line at a time.

What such an entry makes of a line depends on the line, on its own words and on the `Study`, and on nothing
else: it can be remembered for that line alone, and made in another process.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Annotated, Any, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.calendar.lines import Line
from zembra.core.errors import Refusal
from zembra.core.grammar import Word
from zembra.core.ledger.effect import effect_table
from zembra.core.ledger.entry import Entry
from zembra.core.ledger.evidence import Evidence, Finding, Row
from zembra.core.ledger.packagefailed import PackageFailed
from zembra.core.ledger.results import R, SeriesResult, results_of
from zembra.core.ledger.shapes import TOGETHER, Shape
from zembra.core.ledger.state import Additions, Offer, Outcome, State, Study


@dataclass(frozen=True, slots=True)
class LineResult:
    """What an entry made of one line.

    line: the changed line, or None
    beside: additional lines
    touched: number of points changed or used
    rows: rows of the entry's table
    result: the typed result, from which tables and other views are made
    """

    line: Line | None = None
    shapes: tuple[Shape, ...] = ()
    beside: tuple[Line, ...] = ()
    touched: int = 0
    rows: tuple[Row, ...] = ()
    findings: tuple[Finding, ...] = ()
    warnings: tuple[str, ...] = ()
    offers: tuple[Offer, ...] = ()
    result: SeriesResult | None = None

    def arrays(self) -> Iterator[np.ndarray]:
        """Return all arrays, whose bytes the memo counts."""
        for item in (*(() if self.line is None else (self.line,)), *self.shapes, *self.beside):
            yield from item.arrays()


@dataclass(frozen=True, slots=True)
class Account:
    """The account of an entry for all its lines.

    touched: None for the sum over lines
    nouns: words for the sentence of the entry
    """

    touched_what: str
    evidence: tuple[Evidence, ...] = ()
    warnings: tuple[str, ...] = ()
    offers: tuple[Offer, ...] = ()
    touched: int | None = None
    nouns: Mapping[str, str] = field(default_factory=dict)


def results_in(made: Sequence[LineResult], kind: type[R]) -> list[R]:
    """Return the results of one class."""
    return results_of((effect.result for effect in made), kind)


def rows_of(made: Sequence[LineResult]) -> list[Row]:
    """Return the rows of all lines."""
    return [row for effect in made for row in effect.rows]


# what an entry makes of a line, why it refuses, or None where that is still being worked out
RunOnLine = Callable[["LineEntry", Line, Study], LineResult | Refusal | None]


def directly(entry: LineEntry, line: Line, study: Study) -> LineResult | Refusal:
    """Run the entry on a line here and now."""
    try:
        return entry.on_line(line, study)
    except PackageFailed:
        raise
    except Refusal as refusal:
        return refusal


class RefusedEach(Refusal):
    """Raised when every line refuses, with the message of the first.

    each: name and reason of every line
    """

    def __init__(self, each: Sequence[tuple[str, Refusal]]) -> None:
        first = each[0][1]
        super().__init__(first.what, place=first.place, todo=first.todo)
        self.each = tuple(each)


TOGETHER_AT_ONCE = 32  # lines that are made ready at once


class LineEntry(Entry):
    """An entry that processes the chosen lines one by one.

    repairs: whether it changes lines, so that evidence shows the effect on figures
    passed_over: how the refusal of one line among others is worded
    all_or_none: whether one refusal stops the entry, because processed and unprocessed lines must not be mixed
    """

    repairs: ClassVar[bool] = False
    all_or_none: ClassVar[bool] = False
    passed_over: ClassVar[str] = "is passed over"

    series: Annotated[tuple[str, ...], Field(title="series"), Word(options="lines", empty="every series")] = ()

    def on_line(self, line: Line, study: Study) -> LineResult:
        """Process one line. Pure. Raises Refusal if that is impossible for this line."""
        raise NotImplementedError

    def account(self, made: Sequence[LineResult], study: Study) -> Account:
        """Summarise the results of all lines. Raises Refusal if there is nothing to report."""
        raise NotImplementedError

    def make_ready(self, each: Sequence[tuple[Line, Study]]) -> None:
        """Precompute what is faster for several lines at once, with identical numbers."""

    def after_all_lines(self, done: Sequence[LineResult], state: State, entry_id: str) -> Sequence[LineResult]:
        """Adjust the results once those of all lines are known. Lines must not change here."""
        return done

    def works_on(self, line: Line) -> bool:
        """Return whether a chosen line is processed at all."""
        return True

    def others(self, state: State, line: Line) -> tuple[Line, ...]:
        """Return other lines that this line depends on. Raises Refusal."""
        return ()

    def refers_to(self) -> tuple[str, ...]:
        """Return the ids of entries whose shapes are needed."""
        return ()

    def seconds_on(self, line: Line) -> float:
        """Estimate the run time for a line. 0 for fast entries, infinity for work that always runs in the
        background.
        """
        return 0.0

    def words_for(self, series: str) -> dict[str, Any]:
        """Return the parameters that matter for one series, as JSON data. Equal parameters give equal results."""
        return self.model_dump(mode="json", exclude={"series"})

    def apply(self, state: State, entry_id: str, carry: RunOnLine = directly) -> Outcome:
        """Return what this entry adds. Raises Refusal if no line can be processed.

        entry_id: id of the entry
        carry: runs the entry on one line
        """
        lines = list(state.lines)
        beside: list[Line] = []
        done: list[LineResult] = []
        refused: list[tuple[str, Refusal]] = []
        waiting = False
        each = list(self._each(state, entry_id))
        for number, (place, line, study) in enumerate(each):
            # parts have no cache, so common work is done for several lines at once
            if state.part and number % TOGETHER_AT_ONCE == 0:
                self.make_ready([(near, seen) for _, near, seen in each[number : number + TOGETHER_AT_ONCE]])
            made = carry(self, line, study)
            if made is None:
                waiting = True
            elif isinstance(made, Refusal):
                refused.append((line.name, made))
            else:
                done.append(made)
                lines[place] = line if made.line is None else made.line
                beside.extend(made.beside)
        if refused and ((not done and not waiting) or self.all_or_none):
            raise RefusedEach(refused)
        done = list(self.after_all_lines(done, state, entry_id)) if not waiting else done
        nothing = ""
        try:
            account = self.account(done, Study(state.expected, state.as_of, entry_id, events=state.events))
        except Refusal as refusal:
            if waiting:
                return Outcome()
            if state.part is None:
                raise
            account, nothing = Account(""), str(refusal)
        for further in beside:
            lines.append(replace(further, name=_free_name(further.name, lines)))
        shapes = tuple(shape for made in done for shape in made.shapes)
        effect = effect_table(state.lines, lines, state.grain) if self.repairs else ()
        passed = (f"{name} {self.passed_over}. {why}" for name, why in refused)
        return Outcome(
            Additions(lines=tuple(lines), shapes=shapes),
            sum(made.touched for made in done) if account.touched is None else account.touched,
            account.touched_what,
            (*account.evidence, *effect),
            tuple(finding for made in done for finding in made.findings),
            (*passed, *(said for made in done for said in made.warnings), *account.warnings),
            (*(offer for made in done for offer in made.offers), *account.offers),
            account.nouns,
            tuple(refused),
            tuple(made.result for made in done if made.result is not None),
            nothing,
        )

    def _each(self, state: State, entry_id: str) -> Iterator[tuple[int, Line, Study]]:
        """Yield the index, the line and its study for each line to process."""
        earlier = _by_series(state, self.refers_to())
        for place in state.chosen(self.series):
            line = state.lines[place]
            if self.works_on(line):
                drew = (*earlier.get(TOGETHER, ()), *earlier.get(line.name, ()))
                yield (
                    place,
                    line,
                    Study(state.expected, state.as_of, entry_id, self.others(state, line), drew, state.events),
                )


def _by_series(state: State, entries: tuple[str, ...]) -> dict[str, tuple[Shape, ...]]:
    found: dict[str, tuple[Shape, ...]] = {}
    for shape in state.shapes if entries else ():
        if shape.entry in entries:
            found[shape.series] = (*found.get(shape.series, ()), shape)
    return found


def _free_name(wanted: str, lines: Sequence[Line]) -> str:
    taken = {line.name for line in lines}
    return next(name for n in range(1, len(taken) + 2) if (name := wanted if n == 1 else f"{wanted} {n}") not in taken)

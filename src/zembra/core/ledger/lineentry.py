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

    line: the line after it, None where it changed nothing. beside: further lines made from it.
    touched: how many points it changed or used. rows: of the entry's table. result: what it found out, from which the
    account of all lines and other readers take it.
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
        """The arrays it holds, whose bytes the memo counts."""
        for item in (*(() if self.line is None else (self.line,)), *self.shapes, *self.beside):
            yield from item.arrays()


@dataclass(frozen=True, slots=True)
class Account:
    """The account of what an entry made of all lines. touched: None for what it touched of each together. nouns: what the
    sentence of the entry says of what came of it."""

    touched_what: str
    evidence: tuple[Evidence, ...] = ()
    warnings: tuple[str, ...] = ()
    offers: tuple[Offer, ...] = ()
    touched: int | None = None
    nouns: Mapping[str, str] = field(default_factory=dict)


def results_in(made: Sequence[LineResult], kind: type[R]) -> list[R]:
    """What it found out about each line, of one class."""
    return results_of((effect.result for effect in made), kind)


def rows_of(made: Sequence[LineResult]) -> list[Row]:
    """The rows of all lines, as one table has them."""
    return [row for effect in made for row in effect.rows]


# what an entry makes of a line, why it refuses, or None where that is still being worked out
RunOnLine = Callable[["LineEntry", Line, Study], LineResult | Refusal | None]


def directly(entry: LineEntry, line: Line, study: Study) -> LineResult | Refusal:
    """Make it here and now."""
    try:
        return entry.on_line(line, study)
    except PackageFailed:
        raise
    except Refusal as refusal:
        return refusal


class RefusedEach(Refusal):
    """No line can be worked on, as the first of them says. each: name and why, of every line that refuses."""

    def __init__(self, each: Sequence[tuple[str, Refusal]]) -> None:
        first = each[0][1]
        super().__init__(first.what, place=first.place, todo=first.todo)
        self.each = tuple(each)


TOGETHER_AT_ONCE = 32  # lines that are made ready at once


class LineEntry(Entry):
    """An entry that works on chosen lines, one by one.

    repairs: whether it changes lines, so that its evidence says what that did to the figures. passed_over:
    how a line is told that it refuses while it takes others. all_or_none: whether it then takes none, as
    lines that were and were not worked on would stand side by side.
    """

    repairs: ClassVar[bool] = False
    all_or_none: ClassVar[bool] = False
    passed_over: ClassVar[str] = "is passed over"

    series: Annotated[tuple[str, ...], Field(title="series"), Word(options="lines", empty="every series")] = ()

    def on_line(self, line: Line, study: Study) -> LineResult:
        """What it makes of a line. Pure. Raises Refusal where it can make nothing of this one."""
        raise NotImplementedError

    def account(self, made: Sequence[LineResult], study: Study) -> Account:
        """The account of all lines. Raises Refusal where that is nothing."""
        raise NotImplementedError

    def make_ready(self, each: Sequence[tuple[Line, Study]]) -> None:
        """What is quicker for several lines at once than for one after the other, with the same numbers."""

    def after_all_lines(self, done: Sequence[LineResult], state: State, entry_id: str) -> Sequence[LineResult]:
        """What was made of each line, once that of all is known: no line is changed here, nor made."""
        return done

    def works_on(self, line: Line) -> bool:
        """Whether a chosen line is worked on at all."""
        return True

    def others(self, state: State, line: Line) -> tuple[Line, ...]:
        """The other lines that it needs for this one. Raises Refusal."""
        return ()

    def refers_to(self) -> tuple[str, ...]:
        """Ids of the entries whose shapes it needs."""
        return ()

    def seconds_on(self, line: Line) -> float:
        """About how long it takes on this line, where that is worth counting; without end where it is always done
        elsewhere."""
        return 0.0

    def words_for(self, series: str) -> dict[str, Any]:
        """The words that matter for one series, as data: with the same ones it makes the same of its line."""
        return self.model_dump(mode="json", exclude={"series"})

    def apply(self, state: State, entry_id: str, carry: RunOnLine = directly) -> Outcome:
        """What this entry adds. entry_id: its id. Raises Refusal where no line can be worked on."""
        lines = list(state.lines)
        beside: list[Line] = []
        done: list[LineResult] = []
        refused: list[tuple[str, Refusal]] = []
        waiting = False
        each = list(self._each(state, entry_id))
        for number, (place, line, study) in enumerate(each):
            # of a part nothing is remembered: what lines have in common is made at once
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
        """(its place, a line that is worked on, what is seen with it)."""
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

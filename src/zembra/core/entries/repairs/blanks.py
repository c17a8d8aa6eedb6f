"""Treat missing numbers: break the line, bridge it, or estimate."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.arrays import Bools, Floats
from zembra.core.arithmetic.fills import inner_gaps
from zembra.core.calendar.lines import Line, Received
from zembra.core.english import upper_first
from zembra.core.entries.repairs.clauses.blanks import FilledStraight, Treatment
from zembra.core.grammar import Choice, Moment, Word
from zembra.core.ledger.entry import Group
from zembra.core.ledger.evidence import SERIES, count, table
from zembra.core.ledger.lineentry import Account, LineEntry, LineResult, results_in
from zembra.core.ledger.registry import register
from zembra.core.ledger.results import SeriesResult
from zembra.core.ledger.state import Offer, State, Study


class Missing(Choice):
    BLANK = ("blank", "blank", "a row with an empty cell or a blank word")
    ABSENT = ("absent", "absent", "a period with no row")
    UNREADABLE = ("unreadable", "unreadable", "a cell whose text is no number")


@dataclass(frozen=True, slots=True)
class TreatedBlanks(SeriesResult):
    """Missing numbers of a series.

    treated, left: number of periods
    unreadable: those left because of a text that is no number
    """

    treated: int
    left: int
    unreadable: int


@register
class Blanks(LineEntry):
    kind: ClassVar[str] = "blanks"
    group: ClassVar[Group] = Group.REPAIRS
    title: ClassVar[str] = "Blanks"
    hint: ClassVar[str] = "Leave blanks open, bridge them, fill them, or count them as zero."
    rank: ClassVar[int] = 1
    repairs: ClassVar[bool] = True

    treatment: Annotated[Treatment, Field(title="what happens", discriminator="kind")] = FilledStraight()
    classes: Annotated[tuple[Missing, ...], Field(title="which kinds of nothing", min_length=1)] = tuple(Missing)
    longest: Annotated[int | None, Field(title="longest run", ge=1, le=100_000), Word(empty="any number of")] = 3
    start: Annotated[Moment | None, Field(title="from"), Word(empty="the beginning")] = None
    end: Annotated[Moment | None, Field(title="to"), Word(empty="the end")] = None

    def template(self) -> str:
        return (
            "{treatment}: {classes} {@periods}, in runs of up to {longest} {@periods}, in {series}"
            "[, from {start} to {end}]."
        )

    def on_line(self, line: Line, study: Study) -> LineResult:
        where, values = self._where(line, study)
        touched = int(where.sum())
        left = int((line.missing & ~where).sum())
        unread = 0
        if Missing.UNREADABLE not in self.classes:
            unread = int((line.missing & (line.nothing == Received.UNREADABLE)).sum())
        return LineResult(
            self.treatment.treated(line, where, values, study) if touched else None,
            touched=touched,
            result=TreatedBlanks(line.name, touched, left, unread),
        )

    def account(self, made: Sequence[LineResult], study: Study) -> Account:
        done = self.treatment.done
        columns = (SERIES, count("done", upper_first(done)), count("left", "Not touched"))
        found = results_in(made, TreatedBlanks)
        rows = [(blanks.series, blanks.treated, blanks.left) for blanks in found]
        offers = self._unreadable_offer(sum(blanks.unreadable for blanks in found))
        return Account(done, (table("Where there was no number", columns, rows),), offers=offers)

    def _unreadable_offer(self, many: int) -> tuple[Offer, ...]:
        """Offer to treat unreadable cells too; their text may hide a number, so nobody assumes it."""
        if not many:
            return ()
        they, have, are = ("they are", "cells have", "are") if many > 1 else ("it is", "cell has", "is")
        sentence = f"{many} {have} a text that is no number, and {are} left as {they}."
        words = {"classes": [*(class_.value for class_ in self.classes), Missing.UNREADABLE.value]}
        return (Offer(sentence, "Do the same with unreadable ones", self.kind, words, change=True),)

    @classmethod
    def suggest(cls, state: State) -> Blanks:
        return cls(classes=(Missing.BLANK, Missing.ABSENT))

    def _where(self, line: Line, study: Study) -> tuple[Bools, Floats | None]:
        """Return a mask of the points to treat, and their values. Points without an estimate are left out."""
        wanted = np.isin(line.nothing, [Received[kind.name] for kind in self.classes])
        where = line.missing & wanted & inner_gaps(line.counted, self.longest)
        where &= study.grain.between(line.periods, self.start, self.end)
        values = self.treatment.values(line, study) if where.any() else None
        return (where, None) if values is None else (where & ~np.isnan(values), values)

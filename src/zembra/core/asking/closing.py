"""Apply an answer to how a file is read."""

from __future__ import annotations

from dataclasses import replace
from typing import Protocol

from zembra.core.asking.question import Answer, Question, answered_entries, settled
from zembra.core.intake.bringin import BroughtIn
from zembra.core.intake.howread import HowRead, TableHow
from zembra.core.ledger.model import Ledger


class ReadAgain(Protocol):
    """Reads the same file with other settings, or with detected ones."""

    def __call__(
        self, how: HowRead | None = None, *, table_how: TableHow | None = None, sheet: str | None = None
    ) -> BroughtIn: ...


def closed(
    question: Question, answer: Answer | None, brought: BroughtIn, ledger: Ledger, read_again: ReadAgain
) -> tuple[BroughtIn, Ledger | None]:
    """Close a question; return the file as read, and the first entries or None for the usual ones. A None answer
    skips it. Raises Refusal.
    """
    how = settled(question, brought.how, answer)
    if answer is None or not answer.reads_anew:
        return replace(brought, how=how), answered_entries(ledger, answer) if answer else ledger
    if "table" in answer.how:
        # another table has other columns: the rest is guessed anew
        sheet = answer.how["table"].get("sheet")
        again = read_again(table_how=None if sheet else how.table, sheet=sheet)
        return replace(again, how=again.how.model_copy(update={"settled": how.settled})), None
    return read_again(how), None

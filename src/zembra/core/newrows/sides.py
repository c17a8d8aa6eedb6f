"""The old and the new side of a comparison, before new rows are accepted."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from zembra.core.asking.question import Answer, AnswerReach, Question
from zembra.core.calendar.grain import Grain
from zembra.core.calendar.lines import Line
from zembra.core.english import listed
from zembra.core.intake.bringin import BroughtIn
from zembra.core.intake.observe import Observations
from zembra.core.ledger.run import Result

KEY = "rows:"  # begins the keys of these questions: an answer holds for one file, not for the next
MOST_NAMED = 4


@dataclass(frozen=True, slots=True)
class TableSide:
    """The old or the new side of a comparison.

    lines: on a common calendar if there is one
    columns: of its table
    """

    observations: Observations
    lines: Sequence[Line]
    grain: Grain
    columns: Callable[[], Sequence[str]]


def side_of(brought: BroughtIn, result: Result) -> TableSide:
    return TableSide(brought.observations, result.base.lines, result.base.grain, lambda: brought.table.columns)


def asked(key: str, title: str, text: str, *answers: Answer) -> Question:
    return Question(f"{KEY}{key}"[:300], AnswerReach.TABLE, title, text, answers or (AS_THEY_ARE,))


AS_THEY_ARE = Answer("take them as they are")


def named(names: Sequence[str]) -> str:
    more = f" and {len(names) - MOST_NAMED} more" if len(names) > MOST_NAMED else ""
    return listed(list(names[:MOST_NAMED])) + more if not more else ", ".join(names[:MOST_NAMED]) + more

"""Ask all questions about a file, and close them."""

from __future__ import annotations

from zembra.core.asking.beside import beside_questions
from zembra.core.asking.dates import date_questions
from zembra.core.asking.evidence import FileEvidence
from zembra.core.asking.measures import measure_questions
from zembra.core.asking.names import name_questions
from zembra.core.asking.question import Question
from zembra.core.asking.rows import row_questions
from zembra.core.asking.tables import table_questions
from zembra.core.asking.unlike import unlike_questions
from zembra.core.intake.bringin import BroughtIn
from zembra.core.ledger.run import Result


def every_question(brought: BroughtIn, result: Result, *, of_sample: bool = False) -> tuple[Question, ...]:
    """Return all questions, the most far-reaching first, closed ones included.

    result: run of the first ledger
    of_sample: whether only some rows are read, so that missing or duplicate rows are unknown
    """
    seen = FileEvidence(brought, result)
    found = [
        *table_questions(seen), *date_questions(seen), *name_questions(seen), *(() if of_sample else row_questions(seen)), *measure_questions(seen),
        *beside_questions(seen), *unlike_questions(seen),
    ]  # fmt: skip
    return tuple(sorted(found, key=lambda question: question.reach))


def plain_questions(brought: BroughtIn, result: Result) -> tuple[Question, ...]:
    """Return open questions with an obvious first answer, which is applied and reported."""
    closed = {question.key for question in brought.how.settled}
    return tuple(
        question for question in every_question(brought, result) if question.plain and question.key not in closed
    )


def open_questions(brought: BroughtIn, result: Result, *, of_sample: bool = False) -> tuple[Question, ...]:
    """Return questions that await an answer.

    of_sample: as in `every_question`
    """
    closed = {question.key for question in brought.how.settled}
    return tuple(
        question
        for question in every_question(brought, result, of_sample=of_sample)
        if question.key not in closed and not question.plain
    )

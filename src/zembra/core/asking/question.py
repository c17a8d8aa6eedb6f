"""A question about a file, its answers, and the effect of each."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from enum import IntEnum
from typing import Any

from zembra.core.errors import Refusal
from zembra.core.intake.howread import HowRead, KeepHow, RowTest, Settled
from zembra.core.ledger.model import Ledger

Patch = Mapping[str, Mapping[str, Any]]


class AnswerReach(IntEnum):
    """How much depends on the answer; the most far-reaching question comes first."""

    TABLE = 0
    DATES = 1
    SERIES = 2
    MEASURE = 3
    NUMBERS = 4
    CALENDAR = 5


@dataclass(frozen=True, slots=True)
class Answer:
    """An answer.

    label: the click
    how: settings it changes, by sentence
    entries: words of first entries it changes, by kind
    keep: conditions it adds
    taking: words of merging it changes. Without any, nothing changes.
    """

    label: str
    how: Patch = field(default_factory=dict)
    entries: Patch = field(default_factory=dict)
    keep: tuple[KeepHow, ...] = ()
    taking: Mapping[str, Any] = field(default_factory=dict)

    @property
    def reads_anew(self) -> bool:
        return bool(self.how or self.keep)


@dataclass(frozen=True, slots=True)
class Question:
    """A question.

    key: stable for the same doubt
    title, text: observation and question
    rows, columns: where
    plain: whether the first answer, which changes nothing, is obvious and only reported
    """

    key: str
    reach: AnswerReach
    title: str
    text: str
    answers: tuple[Answer, ...]
    rows: tuple[int, ...] = ()
    columns: tuple[str, ...] = ()
    plain: bool = False

    @property
    def full_text(self) -> str:
        """Observation and question as one text."""
        return f"{self.title} {self.text}".strip()


def leave_out(what: str, column: str, texts: Iterable[str]) -> Answer:
    """Return an answer that excludes rows with these texts in a column."""
    without = KeepHow(column=column, test=RowTest.NOT_ONE_OF, values=tuple(dict.fromkeys(texts)))
    return Answer(f"leave {what} out", keep=(without,))


def settled(question: Question, how: HowRead, answer: Answer | None) -> HowRead:
    """Return the settings with a question closed; None skips it. Raises Refusal for inconsistent settings."""
    closed = Settled(key=question.key, question=question.full_text[:600], answer=answer.label[:300] if answer else None)
    kept = tuple(earlier for earlier in how.settled if earlier.key != question.key)
    changed: dict[str, Any] = {"settled": [earlier.model_dump() for earlier in (*kept, closed)]}
    base = how.model_dump(mode="json")
    for sentence, words in (answer.how if answer else {}).items():
        changed[sentence] = {**base[sentence], **words}
    if answer is not None and answer.keep:
        changed["keep"] = [*how.keep, *answer.keep]
    return HowRead.model_validate({**base, **changed})


def answered_entries(ledger: Ledger, answer: Answer) -> Ledger:
    """Apply an answer to the first entries of a ledger."""
    changed = tuple(
        item.model_copy(update={"params": {**item.params, **answer.entries[item.kind]}})
        if item.kind in answer.entries
        else item
        for item in ledger.entries
    )
    return ledger.model_copy(update={"entries": changed})


def find(questions: tuple[Question, ...], key: str) -> Question:
    for question in questions:
        if question.key == key:
            return question
    raise Refusal("That question is no longer asked.", todo="Look at what is asked now.")

"""Read a file or a data frame, and answer its questions."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from functools import partial
from pathlib import Path
from typing import Any

import polars as pl

from zembra.core.asking import question as asking
from zembra.core.asking.ask import open_questions
from zembra.core.asking.closing import closed
from zembra.core.entries.calendar.start import first_ledger, suggested_as_of
from zembra.core.errors import Refusal
from zembra.core.grammar import Nouns
from zembra.core.intake.bringin import BroughtIn, bring_in
from zembra.core.intake.foreign import guarded
from zembra.core.intake.formats import detect_table
from zembra.core.intake.howread import HowRead, TableHow
from zembra.core.ledger.model import Ledger as CoreLedger
from zembra.core.ledger.run import Result
from zembra.core.ledger.run import run as carry_out
from zembra.core.speaking import plain
from zembra.interface.frames import frame_bytes, is_frame
from zembra.interface.html import listed, titled


@dataclass(frozen=True, slots=True)
class Question:
    """Something that can be read in two ways.

    key: its name in `answers`
    answers: texts to choose from, in full or by a unique part; None skips the question
    """

    key: str
    text: str
    answers: tuple[str, ...]


class Reading:
    """A file as read.

    as_of: the as-of day of the study
    """

    def __init__(
        self, data: bytes, brought: BroughtIn, begun: CoreLedger | None, name: str, as_of: date | None
    ) -> None:
        self._data, self._brought, self.name = data, brought, name
        today = as_of or date.today()
        self._begun = (begun or first_ledger(brought.observations, brought.how, today)).model_copy(
            update={"intake": brought.how}
        )
        result = self._carried(today)
        if as_of is None and (suggested := suggested_as_of(result.state, today)) != today:
            today, result = suggested, self._carried(suggested)
        self.as_of, self._result = today, result

    @classmethod
    def by(cls, reading: Reading, ledger: CoreLedger) -> Reading:
        """Return the same rows, read as a ledger says. Raises Refusal."""
        brought = _read(reading._data, ledger.intake)
        begun = ledger.start if ledger.start.entries else None
        return cls(reading._data, brought, begun, reading.name, reading.as_of)

    def _carried(self, day: date) -> Result:
        return carry_out(self._brought.observations, self._begun, day, file_name=self.name)

    @property
    def questions(self) -> tuple[Question, ...]:
        """Open questions, the most far-reaching first."""
        return tuple(
            Question(question.key, question.full_text, tuple(answer.label for answer in question.answers))
            for question in self._asked
        )

    @property
    def _asked(self) -> tuple[asking.Question, ...]:
        return open_questions(self._brought, self._result)

    @property
    def sentences(self) -> tuple[str, ...]:
        """How the file was read, in words."""
        return tuple(plain(sentence, Nouns()) for sentence in self._brought.how.sentences().values())

    @property
    def notices(self) -> tuple[str, ...]:
        """What was left out or guessed."""
        return tuple(notice.text for notice in self._brought.notices)

    @property
    def series(self) -> tuple[str, ...]:
        return self._brought.observations.series

    @property
    def frame(self) -> pl.DataFrame:
        """All rows: measure, series, when, value; value is null where a cell holds no number."""
        names = pl.DataFrame(
            {"series": list(range(len(self.series))), "name": list(self.series)},
            schema={"series": pl.UInt32, "name": pl.String},
        )
        parts = [
            rows.join(names, on="series", how="left", maintain_order="left").select(
                pl.lit(measure).alias("measure"),
                pl.col("name").alias("series"),
                "when",
                pl.col("value").cast(pl.Float64).fill_nan(None),
            )
            for measure, rows in self._brought.observations.frames.items()
        ]
        return pl.concat(parts)

    def answered(self, answers: Mapping[str, str | None]) -> Reading:
        """Return a new reading with questions answered by key, or by the beginning of a key. Raises Refusal for an
        unknown answer or question.
        """
        reading, left = self, dict(answers)
        while left:
            found = next(
                ((key, asked) for asked in reading._asked for key in left if _names(key, asked.key)),
                None,
            )
            if found is None:
                asked = ", ".join(f"“{question.key}”" for question in reading._asked) or "nothing"
                raise Refusal(f"Nothing is asked called “{next(iter(left))}”.", place=f"what is asked is {asked}")
            key, question = found
            reading = reading._closed(question, _answer(question, left.pop(key)))
        return reading

    def _closed(self, question: asking.Question, answer: asking.Answer | None) -> Reading:
        brought, begun = closed(question, answer, self._brought, self._begun, partial(_read, self._data))
        return Reading(self._data, brought, begun, self.name, self.as_of)

    def _repr_html_(self) -> str:
        asked = [f"{question.text} ({'; '.join(question.answers)})" for question in self.questions]
        bodies = [listed(self.sentences, ordered=False)]
        if asked:
            bodies.append(titled("What can be read in two ways", listed(asked, ordered=False)))
        return titled(f"{self.name}: {len(self.series)} series", *bodies)

    def __repr__(self) -> str:
        return f"<Reading of {self.name}: {len(self.series)} series, {len(self.questions)} questions>"


def read(
    source: Any,
    *,
    answers: Mapping[str, str | None] | None = None,
    sheet: str | None = None,
    as_of: date | None = None,
    name: str | None = None,
) -> Reading:
    """Read a table. Raises Refusal.

    source: a path, bytes, or a data frame (Polars, pandas, anything with the Arrow interface)
    answers: answers to questions, by key
    sheet: of a workbook
    as_of: the as-of day; by default the end of the data if they end long before today
    """
    if isinstance(source, str | Path):
        path = Path(source)
        try:
            data = path.read_bytes()
        except OSError as error:
            raise Refusal(f"The file cannot be read: {error.strerror or error}.", place=str(path)) from None
        called = path.name
    elif isinstance(source, bytes | bytearray | memoryview):
        data, called = bytes(source), "the file"
    elif is_frame(source):
        data, called = frame_bytes(source), "the frame"
    else:
        raise Refusal(f"A {type(source).__name__} is no table.", todo="Give a path, the bytes of a file, or a frame.")
    brought = _read(data, sheet=sheet)
    reading = Reading(data, brought, None, name or called, as_of)
    return reading.answered(answers) if answers else reading


def _read(
    data: bytes, how: HowRead | None = None, *, table_how: TableHow | None = None, sheet: str | None = None
) -> BroughtIn:
    def work() -> BroughtIn:
        return bring_in(data, how, table_how=table_how if sheet is None else detect_table(data, sheet))

    brought: BroughtIn = guarded("received", work)
    return brought


def _names(given: str, key: str) -> bool:
    return key == given or key.startswith(f"{given}:")


def _answer(question: asking.Question, said: str | None) -> asking.Answer | None:
    if said is None:
        return None
    exact = [answer for answer in question.answers if answer.label == said]
    near = exact or [answer for answer in question.answers if said.lower() in answer.label.lower()]
    if len(near) != 1:
        raise Refusal(
            f"“{said}” is {'no answer' if not near else 'more than one answer'} to: {question.full_text}",
            place=", ".join(f"“{answer.label}”" for answer in question.answers),
            todo="Say one of these.",
        )
    return near[0]

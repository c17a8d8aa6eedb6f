"""How a file was read."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field

from zembra.api.models.bench import EntryView, Options
from zembra.api.models.datasets import DatasetView
from zembra.api.models.evidence import PartView
from zembra.api.paths import Identifier, Name
from zembra.core.figure.model import Figure
from zembra.core.intake.howread import HowRead, TableHow, ValueKind
from zembra.core.ledger.model import Ledger


class ExampleView(BaseModel):
    series: str
    period: str
    row: int | None
    text: str


class CountView(BaseModel):
    key: str
    label: str
    meaning: str
    count: int
    examples: list[ExampleView]


class IntakeSentence(BaseModel):
    """A sentence.

    name: the part of `how`
    """

    name: str
    parts: list[PartView]
    params: dict[str, Any]


class RawRows(BaseModel):
    """The first rows as received.

    roles: by column: date, series, number or none
    numbers: of the rows
    """

    columns: list[str]
    roles: list[str]
    numbers: list[int]
    cells: list[list[str | None]]
    height: int


class NoticeView(BaseModel):
    """Something left out.

    change: words of the table sentence that `action` changes
    """

    text: str
    action: str | None = None
    change: dict[str, Any] = Field(default_factory=dict)


class QuestionView(BaseModel):
    """A question.

    key: its name
    answers: choices
    rows, columns: where
    answer: given answer; waved: skipped
    plain: obvious, so that the first answer applies
    """

    key: str
    title: str
    text: str
    answers: list[str]
    rows: list[int]
    columns: list[str]
    closed: bool
    answer: str | None
    plain: bool


class AnswerRequest(BaseModel):
    """Answer.

    key: of the question
    answer: index, null to skip; `again` reopens it
    """

    model_config = ConfigDict(extra="forbid")

    key: Annotated[str, Field(max_length=300)]
    answer: Annotated[int | None, Field(ge=0, le=50)] = None
    again: bool = False


class Understanding(BaseModel):
    dataset: DatasetView
    how: HowRead
    sentences: list[IntakeSentence]
    ledger: Ledger
    entries: list[EntryView]
    options: Options
    questions: list[QuestionView]
    notices: list[NoticeView]
    rows: RawRows
    census: list[CountView]
    figure: Figure
    as_of: str


class UnderstandRequest(BaseModel):
    """Request.

    how: None to guess, with `table`, `kind` or sheet fixed if given
    ledger: None for fresh first entries
    as_of: None to suggest
    """

    model_config = ConfigDict(extra="forbid")

    how: HowRead | None = None
    table: TableHow | None = None
    sheet: str | None = None
    kind: ValueKind | None = None
    ledger: Ledger | None = None
    answer: AnswerRequest | None = None
    as_of: date | None = None


class KeepWay(BaseModel):
    """An import profile for files with the same columns."""

    model_config = ConfigDict(extra="forbid")

    name: Name
    dataset_id: Identifier
    how: HowRead
    ledger: Ledger


class WayView(BaseModel):
    id: int
    name: str
    columns: list[str]


class WayList(BaseModel):
    ways: list[WayView]

"""A study on the bench: its entries, and edits of them."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field

from zembra.api.models.catalogue import ChoiceView
from zembra.api.models.evidence import EvidenceView, PartView, TableView
from zembra.api.models.work import WorkView
from zembra.api.paths import Identifier
from zembra.core.figure.model import Figure, FigureSettings
from zembra.core.ledger.model import Ledger, Record


class OfferView(BaseModel):
    """A suggestion.

    why: observation; action: the click
    params: of an entry to add, or, with `change`, of the offering entry
    """

    why: str
    action: str
    kind: str
    params: dict[str, Any]
    change: bool = False


class ProblemView(BaseModel):
    what: str
    place: str | None
    todo: str | None


class EntryView(BaseModel):
    """An entry of a run.

    waiting: whether some lines are deferred; work: in progress
    """

    id: str
    kind: str
    group: str
    title: str
    on: bool
    params: dict[str, Any]
    parts: list[PartView]
    touched: int
    touched_what: str
    warnings: list[str]
    offers: list[OfferView]
    problem: ProblemView | None
    waiting: bool
    work: WorkView | None = None


class StudyView(BaseModel):
    """A study.

    what, who: change and author of its revision
    """

    id: int
    name: str
    revision: int
    what: str
    who: str
    changed_at: str
    can_undo: bool
    can_redo: bool
    as_of: str
    dataset_id: Identifier
    file: str
    sha256: str


class Options(BaseModel):
    """Choices for words.

    lines: series of the study
    other_columns: number columns by name
    """

    lines: list[str]
    series: list[str]
    measures: list[str]
    other_columns: list[str]
    columns: list[str]
    sheets: list[str]


class BenchView(BaseModel):
    """The bench.

    evidence: of the requested entry
    usual: figures for new clauses, such as "season"
    readings: entries that drew something
    """

    study: StudyView
    ledger: Ledger
    settings: FigureSettings
    entries: list[EntryView]
    figure: Figure
    figure_parts: list[PartView]
    options: Options
    usual: dict[str, int]
    readings: list[ChoiceView]
    warnings: list[str]
    evidence: EvidenceView | None = None


class PreviewRequest(BaseModel):
    """Preview.

    nudged: id of the entry being changed
    looking: id of the entry whose evidence is shown
    window: shown stretch in milliseconds since 1970 UTC, to thin lines
    """

    model_config = ConfigDict(extra="forbid")

    ledger: Ledger
    settings: FigureSettings
    nudged: str | None = None
    looking: str | None = None
    as_of: date | None = None
    window: tuple[int, int] | None = None


class EditRequest(BaseModel):
    """Edit.

    base: revision it is based on
    what: the change in words
    as_of: new day, or null
    """

    model_config = ConfigDict(extra="forbid")

    base: Identifier
    ledger: Ledger
    settings: FigureSettings
    what: Annotated[str, Field(max_length=300)] = ""
    as_of: date | None = None


class MoveRequest(BaseModel):
    model_config = ConfigDict(extra="forbid")

    base: Identifier


class SuggestRequest(BaseModel):
    """Request an entry as first offered after `ledger`."""

    model_config = ConfigDict(extra="forbid")

    kind: str
    ledger: Ledger


class Suggestion(BaseModel):
    record: Record


class OrderView(BaseModel):
    """Order.

    matters: ids of entries whose result changes when swapped with the next
    """

    matters: list[str]


class EffectView(BaseModel):
    """Effect.

    tables: evidence from a second run without the entry
    waiting: whether it is not done yet
    """

    tables: list[TableView]
    waiting: bool


class PointRow(BaseModel):
    """A point.

    row: first row in the file, or null
    at: position in milliseconds since 1970 UTC
    """

    period: str
    at: int
    row: int | None
    raw: str
    value: float | None
    received: str
    condition: str
    reason: str


class StretchView(BaseModel):
    """Neighbouring periods of a series, and entries for just these."""

    series: str
    title: str
    rows: list[PointRow]
    offers: list[OfferView]

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
    """Something that may be wanted. why: what was noticed; action: what the click does. params: words of
    an entry to add or, with `change`, of the entry that offers it."""

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
    """An entry in a run: its sentence in pieces and what it did. waiting: it is not carried out on all lines yet;
    work: what is under way for that."""

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
    """what, who: the change that its revision is, and who of several people made it."""

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
    """The lists that words are taken from. lines: the series that are in the study. other_columns: of numbers, by their
    names as written."""

    lines: list[str]
    series: list[str]
    measures: list[str]
    other_columns: list[str]
    columns: list[str]
    sheets: list[str]


class BenchView(BaseModel):
    """evidence: of the entry that was asked for with a preview. usual: figures that new clauses take up, the usual
    "season". readings: entries that drew something, for words that speak of one."""

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
    """nudged: id of the entry whose word is being changed right now. looking: id of the entry whose evidence is
    looked at. window: the stretch of time that is shown, milliseconds since 1970 UTC; a long line is thinned to it.
    """

    model_config = ConfigDict(extra="forbid")

    ledger: Ledger
    settings: FigureSettings
    nudged: str | None = None
    looking: str | None = None
    as_of: date | None = None
    window: tuple[int, int] | None = None


class EditRequest(BaseModel):
    """base: the revision the edit was made on. what: the change in words. as_of: another day, None for none."""

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
    """An entry of a kind, as first offered after the entries of `ledger`."""

    model_config = ConfigDict(extra="forbid")

    kind: str
    ledger: Ledger


class Suggestion(BaseModel):
    record: Record


class OrderView(BaseModel):
    """matters: ids of entries that give another result when swapped with the next one."""

    matters: list[str]


class EffectView(BaseModel):
    """tables: evidence that needs a second run of the ledger, without the entry. waiting: it is not done yet."""

    tables: list[TableView]
    waiting: bool


class PointRow(BaseModel):
    """row: number of the first row of the file that fell into the period, null for none. at: where the
    period is drawn, milliseconds since 1970 UTC."""

    period: str
    at: int
    row: int | None
    raw: str
    value: float | None
    received: str
    condition: str
    reason: str


class StretchView(BaseModel):
    """Neighbouring periods of one series: their cells, and what can be done for just these."""

    series: str
    title: str
    rows: list[PointRow]
    offers: list[OfferView]

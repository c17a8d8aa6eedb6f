"""Bodies of requests and answers. The TypeScript types are generated from these."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from zembra.api.paths import Identifier, Name
from zembra.core.figure.model import Figure, FigureSettings
from zembra.core.followup import State
from zembra.core.intake.howread import HowRead, TableHow, ValueKind
from zembra.core.ledger.model import Ledger, Record
from zembra.core.summary import StudySummary


class Problem(BaseModel):
    """RFC 9457 problem details. place: where; todo: what to do; head: the revision a stale study is at."""

    type: str
    title: str
    status: int
    detail: str
    place: str | None = None
    todo: str | None = None
    head: int | None = None
    what: str | None = None


class ChoiceView(BaseModel):
    value: str
    label: str
    tip: str


class SlotView(BaseModel):
    """An editable word. clauses: what it may hold where it is a clause. usual: which figure of the study a new
    clause takes for it."""

    name: str
    type: str
    title: str
    minimum: float | None
    maximum: float | None
    step: float | None
    unit: str | None
    options: str | None
    empty: str | None
    usual: str | None
    choices: list[ChoiceView]
    clauses: list[ClauseView]


class ClauseView(BaseModel):
    """A small sentence that a word may hold. params: its words as first offered, its kind among them."""

    kind: str
    label: str
    tip: str
    words: list[SlotView]
    params: dict[str, Any]


class KindView(BaseModel):
    """An entry kind. words: its slots by name. defaults: its parameters as first offered."""

    kind: str
    group: str
    title: str
    hint: str
    once: bool
    words: list[SlotView]


class FixedOptions(BaseModel):
    """Lists that words are taken from, the same for every file and study. places: whose public holidays are
    known. colours: by name."""

    zones: list[str]
    places: list[str]
    colours: list[str]


class Catalogue(BaseModel):
    """Everything a screen needs to render any sentence. intake: the sentences of how a file was read; dress: those of a
    picture."""

    entries: list[KindView]
    intake: dict[str, list[SlotView]]
    figure: list[SlotView]
    judging: list[SlotView]
    dress: dict[str, list[SlotView]]
    options: FixedOptions


class PartView(BaseModel):
    """quiet: its words stand at what is usual, and it need not be said. name: it stays as it is written, even
    where a sentence begins."""

    text: str
    slot: str | None = None
    quiet: bool = False
    name: bool = False


class ColumnView(BaseModel):
    """kind: text, count, number, percent, period, series, equation or p. unit: of its numbers."""

    key: str
    title: str
    kind: str
    unit: str


class FindingView(BaseModel):
    """A period that an entry found worth saying. at: where it is drawn. against: what its value was held
    against; distance: from that. state: what became of it. note: a reason noted by hand."""

    series: str
    period: str
    at: int
    value: float | None
    against: float | None
    distance: float | None
    state: str
    note: str


class TableView(BaseModel):
    """findings: the one behind each row, empty where rows speak of none. deeds: what can be done with a row."""

    what: Literal["table"] = "table"
    title: str
    columns: list[ColumnView]
    rows: list[list[str | float | int | None]]
    findings: list[FindingView | None]
    deeds: list[str]


class PlotView(BaseModel):
    """A small chart. kind: points, bars or lines. levels: heights of rules."""

    what: Literal["plot"] = "plot"
    title: str
    kind: str
    x_title: str
    y_title: str
    x: list[float]
    y: list[float | None]
    levels: list[float]


class EvidenceView(BaseModel):
    """What an entry shows for what it did."""

    entry: str
    items: list[Annotated[TableView | PlotView, Field(discriminator="what")]]


class WorkView(BaseModel):
    """Work in the background. stage: waiting, working, done, stopped or failed. told: what it is doing. share:
    how far, 0 to 1. failure: what went wrong. notices: what is to be said of what it gave."""

    key: str
    stage: str
    told: str
    share: float
    failure: str | None
    notices: list[str]


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


class StudyCard(StudySummary):
    """A study in the list."""

    study: StudyView


class DatasetView(BaseModel):
    id: int
    name: str
    size: int
    sha256: str
    received_at: str


class DatasetList(BaseModel):
    datasets: list[DatasetView]


class DamagedStudy(BaseModel):
    """A study whose newest revision cannot be read. why: what is wrong with it. dataset_id: the file that a new study
    can be begun from."""

    id: int
    name: str
    why: str
    dataset_id: int | None


class RemovedStudy(BaseModel):
    id: int
    name: str
    removed_at: str


class StudyList(BaseModel):
    """damaged: set apart, named, and in nobody's way. removed: can be brought back, or removed for good."""

    studies: list[StudyCard]
    damaged: list[DamagedStudy]
    removed: list[RemovedStudy]
    unused: list[DatasetView]


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
    """name: the part of `how` the sentence speaks of."""

    name: str
    parts: list[PartView]
    params: dict[str, Any]


class RawRows(BaseModel):
    """The first rows as received. roles: per column, date, series, number or none. numbers: of the rows."""

    columns: list[str]
    roles: list[str]
    numbers: list[int]
    cells: list[list[str | None]]
    height: int


class NoticeView(BaseModel):
    """Something left out of the file. change: words of the table sentence that `action` changes."""

    text: str
    action: str | None = None
    change: dict[str, Any] = Field(default_factory=dict)


class QuestionView(BaseModel):
    """Something of the file that can be read in two ways. key: names it. answers: what one click says.
    rows, columns: what of the file shows it. answer: what it was closed with; waved: closed without one. plain: so plain
    that it is only told, with the first answer taken.
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
    """key: of the question. answer: place of the answer in its list, null to wave it through; `again` opens
    a closed question."""

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
    """how None asks Zembra to guess again, with `table`, `kind` or only the sheet settled if given; ledger
    None starts the first two entries afresh; as_of None suggests a day."""

    model_config = ConfigDict(extra="forbid")

    how: HowRead | None = None
    table: TableHow | None = None
    sheet: str | None = None
    kind: ValueKind | None = None
    ledger: Ledger | None = None
    answer: AnswerRequest | None = None
    as_of: date | None = None


class JobView(BaseModel):
    """A file being read. share: how far, 0 to 1."""

    id: str
    stage: str
    share: float


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


class KeepWay(BaseModel):
    """A way of reading to keep for the next file with the same columns."""

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


class DemoFile(BaseModel):
    name: str
    about: str


class DemoFiles(BaseModel):
    files: list[DemoFile]


class NewStudy(BaseModel):
    """as_of: the day the study believes it is; None for the one Zembra suggests."""

    model_config = ConfigDict(extra="forbid")

    dataset_id: Identifier
    name: Name
    ledger: Ledger
    as_of: date | None = None


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


class RenameRequest(BaseModel):
    model_config = ConfigDict(extra="forbid")

    name: Name


class CopyRequest(BaseModel):
    """names: of the series of the study, with the series or columns that a copy takes instead."""

    model_config = ConfigDict(extra="forbid")

    names: Annotated[dict[str, str], Field(max_length=200)] = {}


class SuggestRequest(BaseModel):
    """An entry of a kind, as first offered after the entries of `ledger`."""

    model_config = ConfigDict(extra="forbid")

    kind: str
    ledger: Ledger


class Suggestion(BaseModel):
    record: Record


class ValueColumn(BaseModel):
    """A line of the values table. id: of the series or the shape. of: the series it belongs to. kind: "series",
    "reading" or "projection"."""

    id: str
    of: str
    name: str
    kind: str


class ValuePage(BaseModel):
    """Periods of the values table, in order. place: where the day that was asked for lies. every: the lines that can be its columns. columns: ids of those
    given. t: where the periods are drawn, milliseconds since 1970 UTC. values: a list a column, null for no
    number. conditions: for each column one letter a period, as the legend of conditions has it, a dot where it says
    nothing. raws: the text of the cell where the point is not plainly measured, else empty. places: for each column the places of the periods in its series, -1 for none."""

    total: int
    start: int
    place: int | None
    every: list[ValueColumn]
    columns: list[str]
    periods: list[str]
    t: list[int]
    values: list[list[float | None]]
    conditions: list[str]
    raws: list[list[str]]
    places: list[list[int]]


class NewerFile(BaseModel):
    """Another file for a study. as_of: the day the study then believes it is, None for the suggested one. waved:
    whether open questions about the file are waved through."""

    model_config = ConfigDict(extra="forbid")

    base: Identifier
    dataset_id: Identifier
    as_of: date | None = None
    waved: bool = False


class OpenQuestion(BaseModel):
    title: str
    text: str


class SeriesChange(BaseModel):
    """A series now and with the other file. first, last: labels of its periods with a number; added: periods that
    have a number only there; gone: only here; changed: another number there."""

    series: str
    first: str
    last: str
    first_then: str
    last_then: str
    added: int
    gone: int
    changed: int


class NewerFileView(BaseModel):
    """What another file would make of the study. misfits: entries that no longer fit, with why. questions: open
    ones about the file."""

    file: str
    as_of: str
    series: list[SeriesChange]
    new_series: list[str]
    lost_series: list[str]
    misfits: list[str]
    questions: list[OpenQuestion]


class OrderView(BaseModel):
    """matters: ids of entries that give another result when swapped with the next one."""

    matters: list[str]


class EffectView(BaseModel):
    """tables: evidence that needs a second run of the ledger, without the entry. waiting: it is not done yet."""

    tables: list[TableView]
    waiting: bool


class FollowUpItem(BaseModel):
    """A period to ask about. at: where it is drawn, null where the study has no such period any more. found_by: what
    put it there. gone: why it stands there although nothing finds it now."""

    series: str
    period: str
    at: int | None
    value: float | None
    distance: float | None
    found_by: list[str]
    note: str
    state: State
    who: str
    changed: str
    gone: str


class FollowUpView(BaseModel):
    """The list, newest first, with how many are in each state."""

    items: list[FollowUpItem]
    open: int
    asked: int
    explained: int
    can_undo: bool
    can_redo: bool


class NoteRequest(BaseModel):
    """What is noted of a period; what is not given stays. by_hand: put it on the list."""

    model_config = ConfigDict(extra="forbid")

    series: Annotated[str, Field(max_length=500)]
    period: Annotated[str, Field(max_length=40)]
    note: Annotated[str | None, Field(max_length=500)] = None
    state: State | None = None
    who: Annotated[str | None, Field(max_length=60)] = None
    by_hand: bool = False

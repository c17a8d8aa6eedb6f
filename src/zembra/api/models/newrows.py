"""New rows of a study."""

from __future__ import annotations

from datetime import date
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict

from zembra.api.models.evidence import PartView
from zembra.api.paths import Identifier
from zembra.core.intake.howread import HowRead


class RowsRequest(BaseModel):
    """New rows.

    how: words of merging, None to guess
    as_of: new day, None to suggest
    read: settings, None for as last time
    """

    model_config = ConfigDict(extra="forbid")

    dataset_id: Identifier
    how: dict[str, Any] | None = None
    as_of: date | None = None
    read: HowRead | None = None


class TakeRequest(RowsRequest):
    """Request.

    base: revision they were previewed on
    waved: skip open questions
    """

    base: Identifier
    waved: bool = False


class RowsAnswer(BaseModel):
    """An answer.

    read, how: settings of reading and merging
    """

    label: str
    read: HowRead
    how: dict[str, Any]


class OpenQuestion(BaseModel):
    """A question.

    answers: none for questions about the merged table, which can only be skipped
    """

    key: str
    title: str
    text: str
    answers: list[RowsAnswer]


class ChangedPeriod(BaseModel):
    """A period that differs.

    period: label
    was, now: null for no number
    provisional: whether it was incomplete
    """

    kind: Literal["new", "revised", "gone", "blank"]
    series: str
    period: str
    was: float | None
    now: float | None
    provisional: bool


class EntryChange(BaseModel):
    """An entry before and with new rows.

    before: null if it could not run; problem: why it cannot now, refused: whether it could before
    found: first new findings of `found_count`; lost_count: findings that disappear
    """

    id: str
    title: str
    sentence: str
    what: str
    before: int | None
    now: int | None
    problem: str
    refused: bool
    found: list[str]
    found_count: int
    lost_count: int


class FollowUpChange(BaseModel):
    """A follow-up item.

    now: "new", "explained by the new number" or "as before"
    """

    series: str
    period: str
    note: str
    state: str
    found_by: list[str]
    now: str


class ScoreView(BaseModel):
    """Scores of a series.

    error, naive: scaled errors of the projection and of the seasonal naive forecast
    inside: points by level in percent, and the p-value in percent
    """

    series: str
    points: int
    error: float | None
    naive: float | None
    bias: float | None
    inside: list[tuple[float, int, float]]


class LimitsView(BaseModel):
    level: float
    lower: list[float | None]
    upper: list[float | None]


class SaidLine(BaseModel):
    """An issued projection.

    t: milliseconds since 1970 UTC
    """

    revision: int
    as_of: str
    why: str
    t: list[int]
    mean: list[float | None]
    limits: list[LimitsView]


class ToldSeries(BaseModel):
    """A series before and now on common periods, with earlier projections.

    unfinished: moment from which it is provisional, or null
    """

    series: str
    t: list[int]
    unfinished: int | None
    was: list[float | None]
    now: list[float | None]
    said: list[SaidLine]


class NewRowsView(BaseModel):
    """A preview of new rows.

    how: the sentence of merging
    counts: differences by kind; rows: the first of each
    foreseen: revisions of provisional periods; tail: number of newest periods that must be provisional to cover
    most revisions
    as_read: whether it is read as last time; renamed: names in the study of renamed columns
    misfits: entries that no longer run
    unlike: why nothing can be compared, or empty
    periods: their noun
    """

    file: str
    size: int
    as_of: str
    as_read: bool
    renamed: dict[str, str]
    how: dict[str, Any]
    parts: list[PartView]
    counts: dict[str, int]
    rows: list[ChangedPeriod]
    new_series: list[str]
    lost_series: list[str]
    foreseen: int
    tail: int | None
    periods: str
    unlike: str
    entries: list[EntryChange]
    followups: list[FollowUpChange]
    scores: list[ScoreView]
    scored_as_of: str
    series: list[ToldSeries]
    misfits: list[str]
    questions: list[OpenQuestion]


class UnlikeView(BaseModel):
    """A sentence of reading of the last file and of this one, or empty."""

    was: str
    now: str


class DifferenceView(BaseModel):
    """How a file is read differently from the last one."""

    study: str
    last: str
    differs: list[UnlikeView]


class KnownFile(BaseModel):
    """A file the study stood on.

    as_of: day it became known
    now: whether it is current
    """

    file: str
    as_of: str
    now: bool


class KnownFiles(BaseModel):
    files: list[KnownFile]


class KnownRequest(BaseModel):
    model_config = ConfigDict(extra="forbid")

    base: Identifier
    day: date


class ReachView(BaseModel):
    """Scores over a range of horizons.

    inside: points by level in percent
    """

    first: int
    last: int
    points: int
    error: float | None
    inside: list[tuple[float, int]]


class EverySaidView(BaseModel):
    """All issued projections with actual values and scores.

    wider: factor that limits would have needed, by entry
    periods: their noun
    """

    series: list[ToldSeries]
    issued: list[IssuedScores]
    together: list[ScoreView]
    periods: str
    by_ahead: list[ReachView]
    wider: dict[str, float]


class IssuedScores(BaseModel):
    revision: int
    as_of: str
    why: str
    scores: list[ScoreView]

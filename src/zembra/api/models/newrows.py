"""New rows of a study."""

from __future__ import annotations

from datetime import date
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict

from zembra.api.models.evidence import PartView
from zembra.api.paths import Identifier
from zembra.core.intake.howread import HowRead


class RowsRequest(BaseModel):
    """A file with new rows. how: words of the sentence of how they are taken, None for what they look like. as_of: the day
    the study then believes it is, None for the suggested one. read: how the file is read, None for as the last one was."""

    model_config = ConfigDict(extra="forbid")

    dataset_id: Identifier
    how: dict[str, Any] | None = None
    as_of: date | None = None
    read: HowRead | None = None


class TakeRequest(RowsRequest):
    """base: the revision they were looked at on. waved: whether open questions about the file are waved through."""

    base: Identifier
    waved: bool = False


class RowsAnswer(BaseModel):
    """What one click says. read, how: how the file is then read, and its rows are taken."""

    label: str
    read: HowRead
    how: dict[str, Any]


class OpenQuestion(BaseModel):
    """answers: none where the whole table that the study would stand on is asked about, which can only be waved through."""

    key: str
    title: str
    text: str
    answers: list[RowsAnswer]


class ChangedPeriod(BaseModel):
    """A period that differs. period: its label. was, now: null for no number. provisional: whether it was taken to be not
    complete."""

    kind: Literal["new", "revised", "gone", "blank"]
    series: str
    period: str
    was: float | None
    now: float | None
    provisional: bool


class EntryChange(BaseModel):
    """What an entry does before and with the new rows. before: null for an entry that could not be carried out; problem: why
    it cannot be now, refused: whether it could before. found: the first periods that it finds now and did not, of `found_count`;
    lost_count: how many it finds no longer."""

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
    """A line of the follow-up list. now: what becomes of it: "new", "explained by the new number" or "as before"."""

    series: str
    period: str
    note: str
    state: str
    found_by: list[str]
    now: str


class ScoreView(BaseModel):
    """How a projection did of a series. error, naive: scaled, its own and of the last season coming again. inside: per level
    in percent how many points were, and the chance in percent of so few if the limits were right."""

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
    """A projection as it was told. t: milliseconds since 1970 UTC."""

    revision: int
    as_of: str
    why: str
    t: list[int]
    mean: list[float | None]
    limits: list[LimitsView]


class ToldSeries(BaseModel):
    """A series as first told and as told now, on the same periods, and what the projection before said. unfinished: from
    which moment on it is provisional, null for never."""

    series: str
    t: list[int]
    unfinished: int | None
    was: list[float | None]
    now: list[float | None]
    said: list[SaidLine]


class NewRowsView(BaseModel):
    """What new rows would make of a study. how: the sentence in pieces, its words as data. counts: of changed periods by
    kind; rows: the first of each. foreseen: how many of the revised ones were provisional; tail: how many of the newest
    periods would have to be to cover most revisions. as_read: whether the file is read as the last one was; renamed: what its columns are
    called in the study, where that is another name. misfits:
    entries that cannot be carried out any more, with why. unlike: why periods cannot be compared, empty where they can. periods: what they are called."""

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
    """A sentence on reading: of the last file, and of what came. Empty for none."""

    was: str
    now: str


class DifferenceView(BaseModel):
    """In what a file is read otherwise than the last one of a study."""

    study: str
    last: str
    differs: list[UnlikeView]


class KnownFile(BaseModel):
    """A file that the study stood on. as_of: the day from which on it was known. now: whether it stands on it."""

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
    """How all of it did, from so many to so many periods ahead. inside: per level in percent how many points were."""

    first: int
    last: int
    points: int
    error: float | None
    inside: list[tuple[float, int]]


class EverySaidView(BaseModel):
    """All that a study said: per series what happened and every projection that it stood by, with how each did. wider: by entry,
    how many times as wide its limits would have to be to have held. periods: what they are called."""

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

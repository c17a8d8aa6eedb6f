"""The tables as SQLModel classes. Alembic migrations in `migrations` create and change them.

seal: a digest of the row, made by `zembra.store.seals` whenever it is written.
"""

from __future__ import annotations

from datetime import UTC, date, datetime

from sqlalchemy import Column, LargeBinary, UniqueConstraint
from sqlmodel import Field, SQLModel

from zembra.store.types import Day, Moment


def now() -> datetime:
    return datetime.now(UTC)


class Dataset(SQLModel, table=True):
    """One received file, byte for byte. how: JSON of core HowRead. removed_at: when it was taken off, to be brought back
    or removed for good."""

    id: int | None = Field(default=None, primary_key=True)
    name: str
    sha256: str = Field(index=True)
    size: int
    data: bytes = Field(sa_column=Column(LargeBinary, nullable=False))
    how: str
    received_at: datetime = Field(default_factory=now, sa_type=Moment)
    removed_at: datetime | None = Field(default=None, sa_type=Moment)
    seal: str = ""


class Study(SQLModel, table=True):
    """head: number of the revision the study is at. removed_at: when it was taken off the list, to be brought back
    or removed for good."""

    id: int | None = Field(default=None, primary_key=True)
    name: str
    head: int = 1
    created_at: datetime = Field(default_factory=now, sa_type=Moment)
    changed_at: datetime = Field(default_factory=now, sa_type=Moment)
    removed_at: datetime | None = Field(default=None, sa_type=Moment)
    seal: str = ""


class Revision(SQLModel, table=True):
    """One state of a study: its dataset, as-of date, ledger and figure. Never changed once written.

    parent: number of the revision it was made from; None for the first. what: the change in words. who: made it, of
    several people; empty for the owner.
    """

    __table_args__ = (UniqueConstraint("study_id", "number"),)

    id: int | None = Field(default=None, primary_key=True)
    study_id: int = Field(foreign_key="study.id", index=True)
    number: int
    parent: int | None = None
    dataset_id: int = Field(foreign_key="dataset.id")
    as_of: date = Field(sa_type=Day)
    ledger: str
    figure: str
    what: str
    who: str = ""
    made_at: datetime = Field(default_factory=now, sa_type=Moment)
    seal: str = ""


class Way(SQLModel, table=True):
    """A kept way of reading. columns: what files it fits. how, ledger: JSON of core models."""

    id: int | None = Field(default=None, primary_key=True)
    name: str = Field(unique=True)
    columns: str
    how: str
    ledger: str
    kept_at: datetime = Field(default_factory=now, sa_type=Moment)
    seal: str = ""


class Note(SQLModel, table=True):
    """One step in what was noted of a period; the newest that holds is what is noted.

    standing: "holds", "undone", or "left" where another step was taken after it was undone.
    """

    id: int | None = Field(default=None, primary_key=True)
    study_id: int = Field(foreign_key="study.id", index=True)
    series: str
    period: str
    note: str = ""
    state: str = "open"
    who: str = ""
    by_hand: bool = False
    found_by: str = ""
    value: float | None = None
    distance: float | None = None
    standing: str = "holds"
    made_at: datetime = Field(default_factory=now, sa_type=Moment)
    seal: str = ""


class JudgedResult(SQLModel, table=True):
    """What judging gave, so that it comes at once when it is asked for again. key: digest of all that it depends on.
    view: JSON as the API tells it."""

    id: int | None = Field(default=None, primary_key=True)
    study_id: int = Field(foreign_key="study.id", index=True)
    key: str = Field(unique=True)
    view: str
    made_at: datetime = Field(default_factory=now, sa_type=Moment)


class Style(SQLModel, table=True):
    """A house style. words: JSON of core HouseStyle."""

    id: int | None = Field(default=None, primary_key=True)
    name: str = Field(unique=True)
    words: str
    kept_at: datetime = Field(default_factory=now, sa_type=Moment)
    seal: str = ""


class Snapshot(SQLModel, table=True):
    """A frozen copy of a picture, its numbers and its account; never changed once written.

    revision: of the study it was taken of. svg: with its fonts inside. points, lines: Parquet. account: PDF.
    png: None where it was taken before these were kept. removed_at: as of a study.
    """

    id: int | None = Field(default=None, primary_key=True)
    study_id: int = Field(foreign_key="study.id", index=True)
    name: str
    revision: int
    as_of: date = Field(sa_type=Day)
    svg: str
    alt: str
    note: str
    points: bytes = Field(sa_column=Column(LargeBinary, nullable=False))
    lines: bytes = Field(sa_column=Column(LargeBinary, nullable=False))
    account: bytes = Field(sa_column=Column(LargeBinary, nullable=False))
    png: bytes | None = Field(default=None, sa_column=Column(LargeBinary))
    made_at: datetime = Field(default_factory=now, sa_type=Moment)
    removed_at: datetime | None = Field(default=None, sa_type=Moment)
    seal: str = ""


class Taking(SQLModel, table=True):
    """New rows that became part of a study. revision: number of the one that took them in. before_id, received_id: the
    files that it stood on and that came; dataset_id: the file that it stands on since, which is what came where that took
    the place of all. words: JSON of core TakingHow; how: JSON of core HowRead, as what came was read."""

    id: int | None = Field(default=None, primary_key=True)
    study_id: int = Field(foreign_key="study.id", index=True)
    revision: int
    before_id: int = Field(foreign_key="dataset.id")
    received_id: int = Field(foreign_key="dataset.id")
    dataset_id: int = Field(foreign_key="dataset.id")
    words: str
    how: str
    made_at: datetime = Field(default_factory=now, sa_type=Moment)
    seal: str = ""


class IssuedProjection(SQLModel, table=True):
    """The projections of a revision, as they were told then. why: on which occasion they were kept. numbers: Parquet, as core
    `issued_frame` has it."""

    __table_args__ = (UniqueConstraint("study_id", "revision"),)

    id: int | None = Field(default=None, primary_key=True)
    study_id: int = Field(foreign_key="study.id", index=True)
    revision: int
    as_of: date = Field(sa_type=Day)
    why: str
    numbers: bytes = Field(sa_column=Column(LargeBinary, nullable=False))
    made_at: datetime = Field(default_factory=now, sa_type=Moment)
    seal: str = ""


class Feed(SQLModel, table=True):
    """Where a study's new rows come from. words: JSON of core FeedHow; the key is not among them. private: whether somebody
    typed an address of this machine or of a private network. cursor: where the last look got to, as the source has it.
    looked_at, due_at: the last look and the next one. tries: how many looks failed in a row. said: what the last one gave;
    trouble: what was wrong with it. received_id: rows that wait for a decision; digest: of the last that came."""

    study_id: int = Field(foreign_key="study.id", primary_key=True)
    words: str
    private: bool = False
    cursor: str = ""
    looked_at: datetime | None = Field(default=None, sa_type=Moment)
    due_at: datetime | None = Field(default=None, sa_type=Moment)
    tries: int = 0
    said: str = ""
    trouble: str = ""
    received_id: int | None = Field(default=None, foreign_key="dataset.id")
    digest: str = ""
    seal: str = ""


class WatchOf(SQLModel, table=True):
    """What a study watches. words: JSON of core WatchWords. token: of the address of its feed of news. private: as of Feed,
    for the address that is told. looked: digest of all that was looked at last; unsaid: JSON of what could not be."""

    study_id: int = Field(foreign_key="study.id", primary_key=True)
    words: str
    token: str = Field(unique=True)
    private: bool = False
    looked: str = ""
    unsaid: str = "[]"
    seal: str = ""


class WatchFinding(SQLModel, table=True):
    """Something a watch found. kind, series, period, text, value: as core Found. gone_at: since when it holds no more."""

    id: int | None = Field(default=None, primary_key=True)
    study_id: int = Field(foreign_key="study.id", index=True)
    kind: str
    series: str
    period: str
    text: str
    value: float | None = None
    found_at: datetime = Field(default_factory=now, sa_type=Moment)
    gone_at: datetime | None = Field(default=None, sa_type=Moment)
    seal: str = ""


class Telling(SQLModel, table=True):
    """That somebody is told of a finding, once. way: "mail:…" or "post:…". gone: that it holds no more. due_at: when it is
    tried next; told_at: when it was told. trouble: why it could not be."""

    __table_args__ = (UniqueConstraint("finding_id", "way", "gone"),)

    id: int | None = Field(default=None, primary_key=True)
    finding_id: int = Field(foreign_key="watchfinding.id", index=True)
    way: str
    gone: bool = False
    tries: int = 0
    due_at: datetime = Field(default_factory=now, sa_type=Moment)
    told_at: datetime | None = Field(default=None, sa_type=Moment)
    trouble: str = ""
    seal: str = ""


class Summary(SQLModel, table=True):
    """What the list of studies says of a study, so that it need not be run for that. key: digest of all that it depends
    on. view: JSON of core StudySummary."""

    study_id: int = Field(foreign_key="study.id", primary_key=True)
    key: str
    view: str


class Mark(SQLModel, table=True):
    """How often something was kept, one row. identity: of this database, whatever file it lies in."""

    id: int | None = Field(default=None, primary_key=True)
    identity: str
    commits: int = 0


class Tally(SQLModel, table=True):
    """How many rows of a sealed table were kept. name: of the table."""

    name: str = Field(primary_key=True)
    rows: int


class Gap(SQLModel, table=True):
    """Something that had been confirmed and was not there any more. confirmed, found: how often something had been kept,
    and how often the database knew of. accepted_at: when somebody took note."""

    id: int | None = Field(default=None, primary_key=True)
    found_at: datetime = Field(default_factory=now, sa_type=Moment)
    confirmed: int
    found: int
    accepted_at: datetime | None = Field(default=None, sa_type=Moment)
    seal: str = ""


class Login(SQLModel, table=True):
    """A session of a browser that came in with the key. token_hash: SHA-256 of what its cookie holds. key_hash: of the
    key it came in with, so that another key ends it. agent: what the browser says it is. seen_at: to the hour."""

    id: int | None = Field(default=None, primary_key=True)
    token_hash: str = Field(unique=True)
    key_hash: str
    agent: str = ""
    made_at: datetime = Field(default_factory=now, sa_type=Moment)
    seen_at: datetime = Field(default_factory=now, sa_type=Moment)
    seal: str = ""


class Person(SQLModel, table=True):
    """Somebody who shares the home. key_hash: SHA-256 of their key, which is random. may_change: or only look."""

    id: int | None = Field(default=None, primary_key=True)
    name: str = Field(unique=True)
    key_hash: str = Field(unique=True)
    may_change: bool = True
    added_at: datetime = Field(default_factory=now, sa_type=Moment)
    seal: str = ""

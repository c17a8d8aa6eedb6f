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
    """One received file.

    how: JSON of HowRead
    removed_at: when it was removed, restorably
    """

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
    """A study.

    head: number of its current revision
    removed_at: when it was removed, restorably
    """

    id: int | None = Field(default=None, primary_key=True)
    name: str
    head: int = 1
    created_at: datetime = Field(default_factory=now, sa_type=Moment)
    changed_at: datetime = Field(default_factory=now, sa_type=Moment)
    removed_at: datetime | None = Field(default=None, sa_type=Moment)
    seal: str = ""


class Revision(SQLModel, table=True):
    """One state of a study: dataset, as-of date, ledger, figure. Immutable.

    parent: number of the revision before, None for the first
    what: the change in words
    who: its author, empty for the owner
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
    """An import profile.

    columns: of matching files
    how, ledger: JSON
    """

    id: int | None = Field(default=None, primary_key=True)
    name: str = Field(unique=True)
    columns: str
    how: str
    ledger: str
    kept_at: datetime = Field(default_factory=now, sa_type=Moment)
    seal: str = ""


class Note(SQLModel, table=True):
    """One step of notes on a period; the newest valid one counts.

    standing: "holds", "undone", or "left" if another step followed the undo
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
    """A cached judging result.

    key: digest of its inputs
    view: JSON of the response
    """

    id: int | None = Field(default=None, primary_key=True)
    study_id: int = Field(foreign_key="study.id", index=True)
    key: str = Field(unique=True)
    view: str
    made_at: datetime = Field(default_factory=now, sa_type=Moment)


class Style(SQLModel, table=True):
    """A house style.

    words: JSON of HouseStyle
    """

    id: int | None = Field(default=None, primary_key=True)
    name: str = Field(unique=True)
    words: str
    kept_at: datetime = Field(default_factory=now, sa_type=Moment)
    seal: str = ""


class Snapshot(SQLModel, table=True):
    """A frozen copy of a picture, its numbers and account. Immutable.

    revision: of the study
    svg: with fonts
    points, lines: Parquet
    account: PDF
    png: None in old ones
    removed_at: as in Study
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
    """Rows that were taken in.

    revision: that took them in
    before_id, received_id: earlier and received file; dataset_id: the merged file, or the received one
    words: JSON of TakingHow; how: JSON of HowRead for the received file
    """

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
    """Projections of a revision as issued.

    why: the occasion
    numbers: Parquet of `issued_frame`
    """

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
    """The feed of a study.

    words: JSON of FeedHow, without the key
    private: whether a local or private address was entered
    cursor: where the last fetch ended
    looked_at, due_at: last and next fetch
    tries: consecutive failures
    said: outcome of the last fetch; trouble: its error
    received_id: waiting rows; digest: of the last received
    """

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
    """The watches of a study.

    words: JSON of WatchWords
    token: of its news feed
    private: as in Feed, for notifications
    looked: digest of the last inputs; unsaid: JSON of what could not be evaluated
    """

    study_id: int = Field(foreign_key="study.id", primary_key=True)
    words: str
    token: str = Field(unique=True)
    private: bool = False
    looked: str = ""
    unsaid: str = "[]"
    seal: str = ""


class WatchFinding(SQLModel, table=True):
    """A finding of a watch, as core Found.

    gone_at: since when it no longer holds
    """

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
    """A notification of a finding.

    way: "mail:…" or "post:…"
    gone: whether it tells that the finding no longer holds
    due_at: next try; told_at: when delivered
    trouble: last error
    """

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
    """A cached summary of a study.

    key: digest of its inputs
    view: JSON of StudySummary
    """

    study_id: int = Field(foreign_key="study.id", primary_key=True)
    key: str
    view: str


class Mark(SQLModel, table=True):
    """The commit counter, one row.

    identity: of this database
    """

    id: int | None = Field(default=None, primary_key=True)
    identity: str
    commits: int = 0


class Tally(SQLModel, table=True):
    """The row count of a sealed table.

    name: of the table
    """

    name: str = Field(primary_key=True)
    rows: int


class Gap(SQLModel, table=True):
    """Lost commits.

    confirmed, found: counted commits, and those in the database
    accepted_at: when acknowledged
    """

    id: int | None = Field(default=None, primary_key=True)
    found_at: datetime = Field(default_factory=now, sa_type=Moment)
    confirmed: int
    found: int
    accepted_at: datetime | None = Field(default=None, sa_type=Moment)
    seal: str = ""


class Login(SQLModel, table=True):
    """A browser session.

    token_hash: SHA-256 of its cookie
    key_hash: of the key it logged in with, so that a new key ends it
    agent: user agent
    seen_at: to the hour
    """

    id: int | None = Field(default=None, primary_key=True)
    token_hash: str = Field(unique=True)
    key_hash: str
    agent: str = ""
    made_at: datetime = Field(default_factory=now, sa_type=Moment)
    seen_at: datetime = Field(default_factory=now, sa_type=Moment)
    seal: str = ""


class Person(SQLModel, table=True):
    """A person who shares the home.

    key_hash: SHA-256 of the random key
    may_change: whether they may write
    """

    id: int | None = Field(default=None, primary_key=True)
    name: str = Field(unique=True)
    key_hash: str = Field(unique=True)
    may_change: bool = True
    added_at: datetime = Field(default_factory=now, sa_type=Moment)
    seal: str = ""

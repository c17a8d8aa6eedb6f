"""The registry of all tables: seals, checks, exports and removals go by it.

SEALED: kept; each row has a seal, and how many rows there are is counted. REBUILT: worked out again where it is missing or does not fit.
FORGOTTEN: begun anew.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property
from typing import Any

from sqlalchemy import inspect
from sqlmodel import SQLModel

from zembra.core.dress.style import parse_style
from zembra.core.feeds.feedwords import FeedHow
from zembra.core.figure.model import FigureSettings
from zembra.core.intake.howread import HowRead
from zembra.core.ledger.model import opened
from zembra.core.newrows.takingwords import TakingHow
from zembra.core.watching.watchwords import WatchWords
from zembra.store.tables import (
    Dataset,
    Feed,
    Gap,
    IssuedProjection,
    JudgedResult,
    Login,
    Mark,
    Note,
    Person,
    Revision,
    Snapshot,
    Study,
    Style,
    Summary,
    Taking,
    Tally,
    Telling,
    WatchFinding,
    WatchOf,
    Way,
)


class Fate(StrEnum):
    SEALED = "sealed"
    REBUILT = "rebuilt"
    FORGOTTEN = "forgotten"


@dataclass(frozen=True, slots=True)
class ColumnReading:
    """How a column is parsed.

    what: the message if it cannot be
    """

    column: str
    read: Callable[[str], object]
    what: str


@dataclass(frozen=True)
class TableEntry:
    """A table.

    noun, nouns: names of its rows
    readings: columns to parse
    by_digest: columns sealed by a digest in another column
    carried: whether exports contain it
    """

    table: type[SQLModel]
    fate: Fate
    noun: str
    nouns: str
    readings: tuple[ColumnReading, ...] = ()
    by_digest: frozenset[str] = frozenset()
    carried: bool = False

    @property
    def name(self) -> str:
        return str(self.table.__tablename__)

    @cached_property
    def key(self) -> str:
        """The primary key."""
        return str(inspect(self.table).primary_key[0].name)

    @cached_property
    def sealed(self) -> tuple[str, ...]:
        """The sealed columns, in order."""
        aside = {"id", "seal", *self.by_digest}
        return tuple(column.name for column in inspect(self.table).columns if column.name not in aside)

    @property
    def of_study(self) -> bool:
        return "study_id" in inspect(self.table).columns


_ROWS: tuple[tuple[Any, ...], ...] = (
    (
        Dataset, Fate.SEALED, "file", "files", (ColumnReading("how", HowRead.model_validate_json, "how it is read cannot be read"),),
        frozenset({"data"}), True,
    ),
    (Study, Fate.SEALED, "study", "studies", (), frozenset(), True),
    (
        Revision, Fate.SEALED, "revision", "revisions",
        (
            ColumnReading("ledger", opened, "it cannot be opened"),
            ColumnReading("figure", FigureSettings.model_validate_json, "it cannot be opened"),
        ),
        frozenset(), True,
    ),
    (Note, Fate.SEALED, "note", "notes", (), frozenset(), True),
    (Snapshot, Fate.SEALED, "snapshot", "snapshots", (), frozenset(), True),
    (
        Taking, Fate.SEALED, "taking in of new rows", "takings in of new rows",
        (
            ColumnReading("words", TakingHow.model_validate_json, "its words cannot be read"),
            ColumnReading("how", HowRead.model_validate_json, "how it was read cannot be read"),
        ),
        frozenset(), True,
    ),
    (IssuedProjection, Fate.SEALED, "projection as it was told", "projections as they were told", (), frozenset(), True),
    (Style, Fate.SEALED, "house style", "house styles", (ColumnReading("words", parse_style, "it cannot be read"),), frozenset(), True),
    (
        Way, Fate.SEALED, "way of reading", "ways of reading",
        (ColumnReading("how", HowRead.model_validate_json, "it cannot be read"), ColumnReading("ledger", opened, "it cannot be read")),
        frozenset(), True,
    ),
    (
        Feed, Fate.SEALED, "feed", "feeds", (ColumnReading("words", FeedHow.model_validate_json, "it cannot be read"),),
        frozenset(), True,
    ),
    (
        WatchOf, Fate.SEALED, "watch", "watches", (ColumnReading("words", WatchWords.model_validate_json, "it cannot be read"),),
        frozenset(), True,
    ),
    (WatchFinding, Fate.SEALED, "finding", "findings"),
    (Telling, Fate.SEALED, "telling", "tellings"),
    (Person, Fate.SEALED, "person", "people"),
    (Login, Fate.SEALED, "session", "sessions"),
    (Gap, Fate.SEALED, "gap", "gaps"),
    (JudgedResult, Fate.REBUILT, "judged projection", "judged projections"),
    (Summary, Fate.REBUILT, "summary", "summaries"),
    (Mark, Fate.FORGOTTEN, "mark", "marks"),
    (Tally, Fate.FORGOTTEN, "count of rows", "counts of rows"),
)  # fmt: skip
EVERY = tuple(TableEntry(*row) for row in _ROWS)
KEPT: dict[type[SQLModel], TableEntry] = {kept.table: kept for kept in EVERY}
SEALED: tuple[TableEntry, ...] = tuple(kept for kept in EVERY if kept.fate is Fate.SEALED)

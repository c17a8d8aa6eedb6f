"""Looking whether all that is kept is whole: the database, the received files, every revision and what stands beside."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Iterator, Mapping
from contextlib import closing
from dataclasses import dataclass
from datetime import date, datetime
from pathlib import Path
from typing import Any

from pydantic import ValidationError
from sqlalchemy import Engine, exc, inspect
from sqlmodel import Session, SQLModel

from zembra.core.dress.style import parse_style
from zembra.core.errors import Refusal
from zembra.core.figure.model import FigureSettings
from zembra.core.intake.bringin import sha256
from zembra.core.intake.howread import HowRead
from zembra.core.ledger.model import first_fault, opened
from zembra.core.newrows.words import TakingHow
from zembra.store.database import one_moment
from zembra.store.mark import gaps
from zembra.store.seals import SEALED, RawRow, raw_rows
from zembra.store.tables import Dataset, IssuedProjection, Note, Revision, Snapshot, Study, Style, Taking, Way
from zembra.store.types import Day, Moment

RESTORE = "Put a backup back with zembra restore, or bring the file in again."
ANEW = "Take it off and keep it anew."
ALTERED = "it is not as it was kept"


@dataclass(frozen=True, slots=True)
class Finding:
    """Something that is not whole. place: what it is of."""

    place: str
    what: str
    todo: str


@dataclass(frozen=True, slots=True)
class Checked:
    """What was looked at, and what was found wrong."""

    files: int
    studies: int
    revisions: int
    findings: tuple[Finding, ...]

    @property
    def whole(self) -> bool:
        return not self.findings


Progress = Callable[[str, float], None]


def check_all(engine: Engine, progress: Progress = lambda doing, share: None) -> Checked:
    """Every page, checksum, seal, revision and kept word. Reads all there is: seconds for every gigabyte."""
    with one_moment(engine) as session:
        raw: Any = session.connection().connection.dbapi_connection
        return _checked(raw, tuple(_of_gaps(session)), progress)


def check_file(path: Path) -> Checked:
    """The same of a database that lies in a file of its own, such as a backup."""
    try:
        with closing(sqlite3.connect(f"{path.resolve().as_uri()}?mode=ro", uri=True)) as connection:
            return _checked(connection, (), lambda doing, share: None)
    except sqlite3.Error as error:
        return Checked(0, 0, 0, (Finding("the database", f"it cannot be read: {error}", RESTORE),))


def fault_of(table: type[SQLModel], row: RawRow) -> str:
    """What is wrong with a row; empty where it is whole."""
    for column in inspect(table).columns:
        value = row.values.get(column.name)
        if isinstance(value, bytes) and (fault := _unreadable(_python_type(column.type), value)):
            return f"its {column.name.replace('_', ' ')} {fault}"
    if table is Dataset and (not isinstance(row.values["data"], bytes) or _digest(row) != row.values["sha256"]):
        return "its bytes are not those that were received"
    for name, read, what in _READ.get(table, ()):
        if fault := _fault(read, row.values[name].decode() if row.values[name] else ""):
            return f"{what}: {fault}"
    return "" if row.whole else ALTERED


def _checked(raw: sqlite3.Connection, found: tuple[Finding, ...], progress: Progress) -> Checked:
    progress("looking at the database", 0.05)
    findings = [*found, *_of_database(raw)]
    headless = _headless(raw)
    studies: Mapping[int, str] = {}
    counts: dict[type[SQLModel], int] = {}
    # the names of studies are told of what belongs to them
    for n, table in enumerate(sorted(SEALED, key=lambda table: table is not Study)):
        progress(f"looking at every {NOUNS[table]}", 0.3 + 0.7 * n / len(SEALED))
        rows: dict[int, str] = {}
        try:
            for row in raw_rows(raw, table):
                rows[row.number] = _name(row)
                if table is Study and row.number in headless:
                    fault = f"revision {row.values['head']} is not there"
                    findings.append(Finding(_place(table, row, studies), fault, RESTORE))
                elif fault := fault_of(table, row):
                    findings.append(Finding(_place(table, row, studies), fault, _todo(table)))
        except sqlite3.Error as error:
            findings.append(Finding(f"the table “{table.__tablename__}”", f"it cannot be read: {error}", RESTORE))
        counts[table] = len(rows)
        studies = rows if table is Study else studies
    return Checked(counts[Dataset], counts[Study], counts[Revision], tuple(findings))


NOUNS: dict[type[SQLModel], str] = {
    Dataset: "file",
    Study: "study",
    Revision: "revision",
    Note: "note",
    Snapshot: "snapshot",
    Taking: "taking in of new rows",
    IssuedProjection: "projection as it was told",
    Style: "house style",
    Way: "way of reading",
}
_Read = tuple[str, Callable[[str], object], str]
_READ: dict[type[SQLModel], tuple[_Read, ...]] = {
    Dataset: (("how", HowRead.model_validate_json, "how it is read cannot be read"),),
    Revision: (
        ("ledger", opened, "it cannot be opened"),
        ("figure", FigureSettings.model_validate_json, "it cannot be opened"),
    ),
    Taking: (
        ("words", TakingHow.model_validate_json, "its words cannot be read"),
        ("how", HowRead.model_validate_json, "how it was read cannot be read"),
    ),
    Style: (("words", parse_style, "it cannot be read"),),
    Way: (("how", HowRead.model_validate_json, "it cannot be read"), ("ledger", opened, "it cannot be read")),
}


def _of_database(raw: sqlite3.Connection) -> Iterator[Finding]:
    try:
        wrong = [str(row[0]) for row in raw.execute("PRAGMA integrity_check(20)")]
        if wrong != ["ok"]:
            yield Finding("the database", f"it is damaged: {wrong[0]}", RESTORE)
        for table, row, parent, _ in raw.execute("PRAGMA foreign_key_check"):
            yield Finding(f"{table} {row}", f"the {parent} it belongs to is not there", RESTORE)
    except sqlite3.Error as error:
        yield Finding("the database", f"it is damaged: {error}", RESTORE)


def _of_gaps(session: Session) -> Iterator[Finding]:
    try:
        for gap in gaps(session):
            yield Finding(
                "the database",
                f"of what had been confirmed, the last {gap.confirmed - gap.found} changes were not there any more when it was "
                f"opened at {gap.found_at:%Y-%m-%d %H:%M} UTC: its log was cut, or it was moved away from it",
                "Put the log back beside it while nothing runs, look at the backups with zembra check --backups, or take note "
                "of it with zembra check --accept.",
            )
    except (exc.DatabaseError, ValueError) as error:
        yield Finding("the database", f"what went missing cannot be told: {error}", RESTORE)


def _headless(raw: sqlite3.Connection) -> frozenset[int]:
    """The studies that are at a revision which is not there."""
    query = (
        "SELECT study.id FROM study LEFT JOIN revision ON revision.study_id = study.id AND "
        "revision.number = study.head WHERE revision.id IS NULL"
    )
    try:
        return frozenset(number for (number,) in raw.execute(query))
    except sqlite3.Error:
        return frozenset()  # that the tables cannot be read is told of them


def _python_type(kind: Any) -> type[object]:
    """What a column's values are in Python; SQLModel lays types of its own round some of SQLAlchemy's."""
    own = isinstance(kind, (Moment, Day)) or not hasattr(kind, "impl")
    found: type[object] = (kind if own else kind.impl).python_type
    return found


def _unreadable(kind: type[object], value: bytes) -> str:
    """kind: of Python, that a column is read as."""
    if kind is bytes:
        return ""
    try:
        text = value.decode()
    except UnicodeDecodeError:
        return "is no text any more"
    try:
        if kind is datetime or kind is date:
            kind.fromisoformat(text)
        elif kind is not str:
            return f"is “{text[:40]}”"
    except ValueError:
        return f"is no date: “{text[:40]}”"
    return ""


def _digest(row: RawRow) -> bytes:
    return sha256(row.values["data"]).encode()


def _name(row: RawRow) -> str:
    name = row.values.get("name", b"")
    return name.decode(errors="replace") if isinstance(name, bytes) else ""


def _place(table: type[SQLModel], row: RawRow, studies: Mapping[int, str]) -> str:
    noun, own = NOUNS[table], _name(row)
    if table in (Style, Way):
        return f"{noun} “{own}”"
    study = row.values.get("study_id")
    if study is None:
        return f"{noun} {row.number}, “{own}”"
    of = f"study {study}, “{studies[study]}”" if study in studies else f"study {study}"
    number = row.values["number"] if table is Revision else row.number
    return f"{of}, {noun} {number}" + (f", “{own}”" if own else "")


def _todo(table: type[SQLModel]) -> str:
    if table is Revision:
        return "Undo reaches the revisions before it; a backup may hold it whole."
    return ANEW if table in (Style, Way) else RESTORE


def _fault(read: Callable[[str], object], text: str) -> str:
    try:
        read(text)
    except ValidationError as error:
        return first_fault(error)
    except Refusal as refusal:
        return refusal.what
    except ValueError as error:
        return str(error)
    return ""

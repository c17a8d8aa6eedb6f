"""Check that all data is intact: the database, files, revisions, and what lies beside."""

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

from zembra.core.errors import Refusal
from zembra.core.intake.bringin import sha256
from zembra.core.ledger.model import first_fault
from zembra.store.database import newest_schema, one_moment
from zembra.store.mark import gaps
from zembra.store.registry import EVERY, KEPT, SEALED, Fate, TableEntry
from zembra.store.seals import RawRow, raw_rows
from zembra.store.tables import Dataset, Person, Revision, Study, Style, Way
from zembra.store.tally import miscounted
from zembra.store.types import Day, Moment

RESTORE = "Put a backup back with zembra restore, or bring the file in again."
ANEW = "Take it off and keep it anew."
ALTERED = "it is not as it was kept"


@dataclass(frozen=True, slots=True)
class CheckFinding:
    """A defect.

    place: what it concerns
    """

    place: str
    what: str
    todo: str


@dataclass(frozen=True, slots=True)
class Checked:
    """What was checked, and the defects."""

    files: int
    studies: int
    revisions: int
    findings: tuple[CheckFinding, ...]

    @property
    def whole(self) -> bool:
        return not self.findings


Progress = Callable[[str, float], None]


def check_all(engine: Engine, progress: Progress = lambda doing, share: None) -> Checked:
    """Check every page, checksum, seal, revision and setting. Reads everything: seconds per gigabyte."""
    with one_moment(engine) as session:
        raw: Any = session.connection().connection.dbapi_connection
        return _checked(raw, tuple(_of_gaps(session)), progress)


def check_file(path: Path) -> Checked:
    """Check a database file, such as a backup."""
    try:
        with closing(sqlite3.connect(f"{path.resolve().as_uri()}?mode=ro", uri=True)) as connection:
            return _checked(connection, (), lambda doing, share: None)
    except sqlite3.Error as error:
        return Checked(0, 0, 0, (CheckFinding("the database", f"it cannot be read: {error}", RESTORE),))


def fault_of(table: type[SQLModel], row: RawRow) -> str:
    """Return what is wrong with a row, or empty."""
    for column in inspect(table).columns:
        value = row.values.get(column.name)
        if isinstance(value, bytes) and (fault := _unreadable(_python_type(column.type), value)):
            return f"its {column.name.replace('_', ' ')} {fault}"
    if table is Dataset and (not isinstance(row.values["data"], bytes) or _digest(row) != row.values["sha256"]):
        return "its bytes are not those that were received"
    for reading in KEPT[table].readings:
        if fault := _fault(reading.read, row.values[reading.column].decode() if row.values[reading.column] else ""):
            return f"{reading.what}: {fault}"
    return "" if row.whole else ALTERED


def _checked(raw: sqlite3.Connection, found: tuple[CheckFinding, ...], progress: Progress) -> Checked:
    progress("looking at the database", 0.05)
    findings = [*found, *_of_database(raw)]
    headless = _headless(raw)
    studies: Mapping[int, str] = {}
    counts: dict[type[SQLModel], int] = {}
    # the names of studies are told of what belongs to them
    there = _tables(raw)
    findings += [_missing(kept) for kept in EVERY if there is not None and kept.name not in there]
    findings += _of_counts(raw) if there is not None else ()
    for n, kept in enumerate(sorted(SEALED, key=lambda kept: kept.table is not Study)):
        table = kept.table
        counts[table] = 0
        if not _is_sealed(raw, kept):
            continue
        progress(f"looking at every {kept.noun}", 0.3 + 0.7 * n / len(SEALED))
        rows: dict[int, str] = {}
        try:
            for row in raw_rows(raw, table):
                rows[row.number] = _name(row)
                if table is Study and row.number in headless:
                    fault = f"revision {row.values['head']} is not there"
                    findings.append(CheckFinding(_place(table, row, studies), fault, RESTORE))
                elif fault := fault_of(table, row):
                    findings.append(CheckFinding(_place(table, row, studies), fault, _todo(table)))
        except sqlite3.Error as error:
            findings.append(CheckFinding(f"the table “{kept.name}”", f"it cannot be read: {error}", RESTORE))
        counts[table] = len(rows)
        studies = rows if table is Study else studies
    return Checked(counts[Dataset], counts[Study], counts[Revision], tuple(findings))


def _of_database(raw: sqlite3.Connection) -> Iterator[CheckFinding]:
    try:
        wrong = [str(row[0]) for row in raw.execute("PRAGMA integrity_check(20)")]
        if wrong != ["ok"]:
            yield CheckFinding("the database", f"it is damaged: {wrong[0]}", RESTORE)
        for table, row, parent, _ in raw.execute("PRAGMA foreign_key_check"):
            yield CheckFinding(f"{table} {row}", f"the {parent} it belongs to is not there", RESTORE)
    except sqlite3.Error as error:
        yield CheckFinding("the database", f"it is damaged: {error}", RESTORE)


def _tables(raw: sqlite3.Connection) -> frozenset[str] | None:
    """Return the tables, or None for an older schema."""
    try:
        names = frozenset(_text(name) for (name,) in raw.execute("SELECT name FROM sqlite_master WHERE type = 'table'"))
        schema = raw.execute("SELECT version_num FROM alembic_version").fetchone()
    except sqlite3.Error:
        return None  # which is told of the database
    return names if schema and _text(schema[0]) == newest_schema() else None


def _is_sealed(raw: sqlite3.Connection, kept: TableEntry) -> bool:
    """Return whether a table has seals; in older schemas not all have."""
    columns = {_text(column[1]) for column in raw.execute(f"PRAGMA table_info({kept.name})")}
    return "seal" in columns


def _missing(kept: TableEntry) -> CheckFinding:
    todo = RESTORE if kept.fate is Fate.SEALED else "Put a backup back with zembra restore."
    return CheckFinding(f"the table “{kept.name}”", "it is not there", todo)


def _of_counts(raw: sqlite3.Connection) -> Iterator[CheckFinding]:
    try:
        for name, counted, there in miscounted(raw):
            kept = next(kept for kept in SEALED if kept.name == name)
            few = f"of {counted} {kept.nouns if counted != 1 else kept.noun} that were kept {there} are there"
            yield CheckFinding(f"the table “{name}”", few, RESTORE)
    except sqlite3.Error as error:
        yield CheckFinding("the table “tally”", f"how many rows were kept cannot be told: {error}", RESTORE)


def _text(value: str | bytes) -> str:
    return value.decode(errors="replace") if isinstance(value, bytes) else value


def _of_gaps(session: Session) -> Iterator[CheckFinding]:
    try:
        for gap in gaps(session):
            yield CheckFinding(
                "the database",
                f"of what had been confirmed, the last {gap.confirmed - gap.found} changes were not there any more when it was "
                f"opened at {gap.found_at:%Y-%m-%d %H:%M} UTC: its log was cut, or it was moved away from it",
                "Put the log back beside it while nothing runs, look at the backups with zembra check --backups, or take note "
                "of it with zembra check --accept.",
            )
    except (exc.DatabaseError, ValueError) as error:
        yield CheckFinding("the database", f"what went missing cannot be told: {error}", RESTORE)


def _headless(raw: sqlite3.Connection) -> frozenset[int]:
    """Return studies whose head revision is missing."""
    query = (
        "SELECT study.id FROM study LEFT JOIN revision ON revision.study_id = study.id AND "
        "revision.number = study.head WHERE revision.id IS NULL"
    )
    try:
        return frozenset(number for (number,) in raw.execute(query))
    except sqlite3.Error:
        return frozenset()  # that the tables cannot be read is told of them


def _python_type(kind: Any) -> type[object]:
    """Return the Python type of a column; SQLModel wraps some types."""
    own = isinstance(kind, (Moment, Day)) or not hasattr(kind, "impl")
    found: type[object] = (kind if own else kind.impl).python_type
    return found


def _unreadable(kind: type[object], value: bytes) -> str:
    """Return the unreadable values of a column.

    kind: its Python type
    """
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
    noun, own = KEPT[table].noun, _name(row)
    if table in (Style, Way, Person):
        return f"{noun} “{own}”"
    study = row.values.get("study_id")
    if study is None:
        return f"{noun} {row.number}, “{own}”" if own else f"{noun} {row.number}"
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

"""Looking whether all that is kept is whole: the database, the received files, every revision and what stands beside."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from pydantic import ValidationError
from sqlalchemy import Engine, exc
from sqlmodel import Session, SQLModel, col, select

from zembra.core.dress.style import parse_style
from zembra.core.errors import Refusal
from zembra.core.figure.model import FigureSettings
from zembra.core.intake.bringin import sha256
from zembra.core.intake.howread import HowRead
from zembra.core.ledger.model import first_fault, opened
from zembra.store.tables import Dataset, Revision, Study, Style, Way

RESTORE = "Put a backup back with zembra restore, or bring the file in again."


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


def check_all(engine: Engine, progress: Callable[[str, float], None] = lambda told, share: None) -> Checked:
    """Every page, checksum, revision and kept word. Reads all there is: seconds for every gigabyte."""
    findings: list[Finding] = []
    with Session(engine) as session:
        progress("looking at the database", 0.05)
        findings += _of_database(session)
        try:
            files = list(session.exec(select(Dataset.id)))
            studies = list(session.exec(select(Study)))
            revisions = list(session.exec(select(Revision.id)))
            for n, identifier in enumerate(files):
                progress("looking at the received files", 0.3 + 0.4 * n / len(files))
                findings += _of_file(session, identifier)
            for n, number in enumerate(revisions):
                progress("opening every revision", 0.7 + 0.3 * n / len(revisions))
                findings += _of_revision(session, number)
            findings += _of_heads(session, studies)
            findings += _of_words(session)
        except exc.DatabaseError as error:
            findings.append(Finding("the database", f"it cannot be read on: {error.orig}", RESTORE))
            return Checked(0, 0, 0, tuple(findings))
    return Checked(len(files), len(studies), len(revisions), tuple(findings))


def _of_database(session: Session) -> Iterator[Finding]:
    try:
        wrong = [str(row[0]) for row in session.connection().exec_driver_sql("PRAGMA integrity_check(20)")]
        if wrong != ["ok"]:
            yield Finding("the database", f"it is damaged: {wrong[0]}", RESTORE)
        for table, row, parent, _ in session.connection().exec_driver_sql("PRAGMA foreign_key_check"):
            yield Finding(f"{table} {row}", f"the {parent} it belongs to is not there", RESTORE)
    except exc.DatabaseError as error:
        yield Finding("the database", f"it is damaged: {error.orig}", RESTORE)


def _of_file(session: Session, identifier: int | None) -> Iterator[Finding]:
    found = session.get_one(Dataset, identifier)
    place = f"file {identifier}, “{found.name}”"
    if not isinstance(found.data, bytes) or sha256(found.data) != found.sha256:
        yield Finding(place, "its bytes are not those that were received", RESTORE)
    if fault := _fault(HowRead.model_validate_json, found.how):
        yield Finding(place, f"how it is read cannot be read: {fault}", "Bring the file in again.")
    session.expunge(found)  # its bytes need not stay


def _of_revision(session: Session, number: int | None) -> Iterator[Finding]:
    found = session.get_one(Revision, number)
    fault = _fault(opened, found.ledger) or _fault(FigureSettings.model_validate_json, found.figure)
    if fault:
        study = session.get(Study, found.study_id)
        name = f", “{study.name}”" if study else ""
        yield Finding(
            f"study {found.study_id}{name}, revision {found.number}",
            f"it cannot be opened: {fault}",
            "Undo reaches the revisions before it; a backup may hold it whole.",
        )
    session.expunge(found)


def _of_heads(session: Session, studies: list[Study]) -> Iterator[Finding]:
    for study in studies:
        query = select(Revision.id).where(Revision.study_id == study.id, Revision.number == study.head)
        if session.exec(query).first() is None:
            yield Finding(f"study {study.id}, “{study.name}”", f"revision {study.head} is not there", RESTORE)


def _of_words(session: Session) -> Iterator[Finding]:
    kept: tuple[tuple[str, type[SQLModel], Callable[[str], object], str], ...] = (
        ("house style", Style, parse_style, "words"),
        ("way of reading", Way, HowRead.model_validate_json, "how"),
    )
    for noun, table, read, column in kept:
        for one in session.exec(select(table).order_by(col(table.name))):  # type: ignore[attr-defined]
            if fault := _fault(read, getattr(one, column)):
                yield Finding(f"{noun} “{one.name}”", f"it cannot be read: {fault}", "Take it off and keep it anew.")  # type: ignore[attr-defined]


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

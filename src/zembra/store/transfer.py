"""Export all data to a zip of JSON and files, and import it into another home.

docs/reliability.md describes the form. A newer Zembra reads it; an older one says that it cannot.
"""

from __future__ import annotations

import contextlib
import json
import secrets
import zipfile
import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError
from sqlalchemy import Engine
from sqlmodel import Session, SQLModel, col, select

from zembra.core.errors import Refusal
from zembra.core.feeds.feedwords import FeedHow
from zembra.core.handover.handedfiles import HandedFile
from zembra.core.intake.bringin import sha256
from zembra.core.ledger.model import first_fault
from zembra.core.watching.watchwords import WatchWords
from zembra.store.checking import ALTERED
from zembra.store.database import one_moment
from zembra.store.home import ONLY_OUR_FILES
from zembra.store.registry import KEPT
from zembra.store.seals import seal_before, seal_of
from zembra.store.tables import (
    Dataset,
    Feed,
    IssuedProjection,
    Note,
    Revision,
    Snapshot,
    Study,
    Style,
    Taking,
    WatchOf,
    Way,
)
from zembra.store.whole import whole_file
from zembra.version import __version__

NUMBER = 1
FORMAT = "zembra.home/"
ABOUT = "home.json"
MOST_BYTES = 20_000_000_000  # that an export may unpack to
MOST_OF_A_FILE = 1_000_000_000  # bytes of a received file, or of a part of a snapshot
MOST_JSON = 200_000_000  # bytes of JSON
_PARTS = {"svg": HandedFile.PICTURE_SVG, "note": HandedFile.METHOD_NOTE, "points": HandedFile.POINTS_PARQUET, "lines": HandedFile.LINES_PARQUET, "account": HandedFile.ACCOUNT, "png": HandedFile.PICTURE_PNG}  # fmt: skip
_TEXTS = ("svg", "note")
_EVER = ("revisions", "notes", "snapshots")  # parts of a study that every export has
_OF_A_STUDY = (*_EVER, "takings", "issued")
Row = TypeVar("Row", bound=SQLModel)


@dataclass(frozen=True, slots=True)
class TransferCounts:
    """The outcome of a transfer.

    known: existing studies, left unchanged
    left_out: damaged items, as sentences
    """

    files: int
    studies: int
    known: int = 0
    left_out: tuple[str, ...] = ()


def export_home(engine: Engine, to: Path) -> TransferCounts:
    """Export files, studies with revisions, notes and snapshots, styles and import profiles of one moment as one
    atomic zip. Damaged items are left out and named. Raises OSError.
    """
    left_out: list[str] = []
    with (
        whole_file(to, ONLY_OUR_FILES) as beside,
        zipfile.ZipFile(beside, "w", zipfile.ZIP_DEFLATED) as archive,
        one_moment(engine) as session,
    ):
        files = [
            number
            for number in session.exec(select(Dataset.id).order_by(col(Dataset.id)))
            if _export_file(archive, session, number, left_out)
        ]
        studies = list(session.exec(select(Study.id).order_by(col(Study.id))))
        carried = sum(_export_study(archive, session, number, frozenset(files), left_out) for number in studies)
        for table, name in ((Style, "styles.json"), (Way, "ways.json")):
            rows = _whole_rows(session, select(table.id), table, left_out)
            archive.writestr(name, _json([_dumped(row) for row in rows]))
        about = {"format": f"{FORMAT}{NUMBER}", "zembra": __version__, "made_at": datetime.now(UTC).isoformat()}
        archive.writestr(ABOUT, _json({**about, "left_out": left_out}))
    return TransferCounts(len(files), carried, left_out=tuple(left_out))


def import_home(engine: Engine, source: Path, *, all_or_nothing: bool = False) -> TransferCounts:
    """Import an export. Damaged items are left out and named. Raises Refusal, OSError.

    all_or_nothing: refuse instead
    """
    try:
        with zipfile.ZipFile(source) as archive, Session(engine) as session:
            _check_form(archive)
            # concurrent imports see all or nothing, so that common studies are imported once
            session.connection().exec_driver_sql("BEGIN IMMEDIATE")
            carried = _imported(archive, session)
            if carried.left_out and all_or_nothing:
                raise Refusal(
                    f"The export is not whole: {carried.left_out[0]}",
                    place=str(source),
                    todo="Nothing was brought in. Without --all-or-nothing the rest of it is.",
                )
            session.commit()
            return carried
    except (zipfile.BadZipFile, zlib.error, NotImplementedError, RuntimeError, EOFError) as error:
        # broken, of an unknown method, or encrypted
        raise Refusal(f"The export cannot be read: {error}.", place=str(source), todo="Export it again.") from None


def _whole_rows(session: Session, numbers: Any, table: type[Row], left_out: list[str], of: str = "") -> list[Row]:
    """Return intact rows, and name the others."""
    found: list[Row] = []
    for number in session.exec(numbers).all():
        place = f"{of}{KEPT[table].noun} {number}"
        try:
            row = session.get_one(table, number)
        except Refusal as refusal:
            left_out.append(f"{place}: {refusal.what}")
            continue
        before = seal_before(session.connection(), row) if isinstance(row, Revision) else ""
        if row.seal == seal_of(row, before):  # type: ignore[attr-defined]
            found.append(row)
        else:
            left_out.append(f"{place}: {ALTERED}.")
    return found


def _export_file(archive: zipfile.ZipFile, session: Session, number: int | None, left_out: list[str]) -> bool:
    rows = _whole_rows(session, select(Dataset.id).where(Dataset.id == number), Dataset, left_out)
    for row in rows:
        if not isinstance(row.data, bytes) or sha256(row.data) != row.sha256:
            left_out.append(f"file {number}, “{row.name}”: its bytes are not those that were received.")
            return False
        archive.writestr(f"files/{number}.json", _json(_dumped(row, "data")))
        archive.writestr(f"files/{number}", row.data)
        session.expunge(row)
    return bool(rows)


def _export_study(
    archive: zipfile.ZipFile, session: Session, number: int | None, files: frozenset[int | None], left_out: list[str]
) -> bool:
    """Export a study; return whether anything could be."""
    rows = _whole_rows(session, select(Study.id).where(Study.id == number), Study, left_out)
    if not rows:
        return False
    (study,) = rows
    of = f"study {number}, “{study.name}”, "

    def whole(table: type[Row]) -> list[Row]:
        numbers = select(table.id).where(table.study_id == number).order_by(table.id)  # type: ignore[attr-defined]
        return _whole_rows(session, numbers, table, left_out, of)

    revisions = []
    for row in whole(Revision):
        if row.dataset_id in files:
            revisions.append(row)
        else:
            left_out.append(f"{of}revision {row.number}: file {row.dataset_id}, which it stands on, is left out.")
    if not revisions:
        left_out.append(f"{of}all of it: no revision of it is whole.")
        return False
    dumped = _dumped(study)
    if study.head not in {revision.number for revision in revisions}:
        dumped["head"] = max(revision.number for revision in revisions)
        left_out.append(f"{of}revision {study.head}, where it stood: it stands at revision {dumped['head']}.")

    def whole_one(table: type[Feed] | type[WatchOf]) -> str | None:
        """Return the settings of a feed or watch, without results and keys."""
        numbers = select(table.study_id).where(table.study_id == number)
        return next((row.words for row in _whole_rows(session, numbers, table, left_out, of)), None)

    snapshots, issued = whole(Snapshot), whole(IssuedProjection)
    connection = session.connection()
    dumped |= {
        "revisions": [
            {**_dumped(revision, "study_id"), "before": seal_before(connection, revision)} for revision in revisions
        ],
        "notes": [_dumped(row, "study_id") for row in whole(Note)],
        "feed": whole_one(Feed),
        "watch": whole_one(WatchOf),
        "takings": [_dumped(row, "study_id") for row in whole(Taking) if _files_of(row) <= files],
        "issued": [{**_dumped(row, "study_id", "numbers"), "file": f"issued/{row.id}.parquet"} for row in issued],
        "snapshots": [{**_dumped(row, "study_id", *_PARTS), "folder": f"snapshots/{row.id}"} for row in snapshots],
    }
    archive.writestr(f"studies/{number}.json", _json(dumped))
    for projection in issued:
        archive.writestr(f"issued/{projection.id}.parquet", projection.numbers)
    for snapshot in snapshots:
        for column, name in _PARTS.items():
            if (content := getattr(snapshot, column)) is not None:
                archive.writestr(f"snapshots/{snapshot.id}/{name}", content)
        session.expunge(snapshot)
    return True


def _files_of(taking: Taking) -> set[int | None]:
    return {taking.before_id, taking.received_id, taking.dataset_id}


def _check_form(archive: zipfile.ZipFile) -> None:
    if ABOUT not in archive.namelist():
        raise Refusal("This is no export of a home.", place=f"there is no {ABOUT} in it")
    form = _read(archive, ABOUT).get("format", "")
    number = str(form).removeprefix(FORMAT)
    if not str(form).startswith(FORMAT) or not number.isdecimal():
        raise Refusal(f"The export is in the form “{form}”, which Zembra does not know.")
    if int(number) > NUMBER:
        raise Refusal(
            f"The export was written by a newer Zembra, in the form {form}; this one reads up to {FORMAT}{NUMBER}.",
            todo="Use the newer Zembra.",
        )
    if sum(member.file_size for member in archive.infolist()) > MOST_BYTES:
        raise Refusal(f"The export unpacks to more than {MOST_BYTES // 1_000_000_000} GB.")
    for member in archive.infolist():
        most = MOST_JSON if member.filename.endswith(".json") else MOST_OF_A_FILE
        if member.file_size > most:
            raise Refusal(f"A part of the export unpacks to more than {most // 1_000_000} MB.", place=member.filename)


def _imported(archive: zipfile.ZipFile, session: Session) -> TransferCounts:
    names = archive.namelist()
    left_out: list[str] = [f"{entry}" for entry in _read(archive, ABOUT).get("left_out", ())]
    files: dict[int, int] = {}
    for name in _members(names, "files/"):
        with _named(left_out, name):
            number = int(name.removeprefix("files/").removesuffix(".json"))
            files[number] = _import_file(archive, session, name)
    there = {(entry.name, entry.created_at) for entry in session.exec(select(Study))}
    studies: list[bool] = []
    for name in _members(names, "studies/"):
        with _named(left_out, name), session.begin_nested():
            studies.append(_import_study(archive, session, name, files, there, left_out))
    for table, name in ((Style, "styles.json"), (Way, "ways.json")):
        with _named(left_out, name):
            for content in _read(archive, name):
                with _named(left_out, name):
                    _import_named(session, table, content, name)
    return TransferCounts(len(files), sum(studies), len(studies) - sum(studies), tuple(left_out))


@contextlib.contextmanager
def _named(left_out: list[str], place: str) -> Iterator[None]:
    """Name an unreadable item, and continue."""
    try:
        yield
    except Refusal as refusal:
        left_out.append(f"{refusal.place or place}: {refusal.what}")
    except (KeyError, zipfile.BadZipFile, zlib.error, NotImplementedError, RuntimeError, EOFError) as error:
        left_out.append(f"{place}: it is not whole: {error}")


def _members(names: list[str], folder: str) -> list[str]:
    found = [name for name in names if name.startswith(folder) and name.endswith(".json")]
    return sorted(
        (name for name in found if name[len(folder) : -5].isdecimal()), key=lambda name: int(name[len(folder) : -5])
    )


def _import_file(archive: zipfile.ZipFile, session: Session, name: str) -> int:
    data = archive.read(name.removesuffix(".json"))
    dataset = _sealed_row(Dataset, {**_read(archive, name), "data": data}, name)
    if sha256(data) != dataset.sha256:
        raise Refusal(f"The file “{dataset.name}” in the export is not as it was received.", place=name)
    known = session.exec(
        select(Dataset.id).where(Dataset.sha256 == dataset.sha256, Dataset.name == dataset.name)
    ).first()
    return known or _added(session, dataset)


def _import_study(
    archive: zipfile.ZipFile,
    session: Session,
    name: str,
    files: dict[int, int],
    there: set[tuple[str, datetime]],
    left_out: list[str],
) -> bool:
    content = _read(archive, name)
    if not isinstance(content, dict):
        raise Refusal("The export cannot be read: that is no study.", place=name)
    parts: dict[str, list[dict[str, Any]]] = {
        part: content.pop(part) if part in _EVER else content.pop(part, []) for part in _OF_A_STUDY
    }
    feed, watch = content.pop("feed", None), content.pop("watch", None)
    # under its old number, with which its parts are sealed
    was = int(name.removeprefix("studies/").removesuffix(".json"))
    study = _row(Study, content, name)
    of = f"{name}, “{study.name}”"
    if (study.name, study.created_at) in there:
        return False
    revisions = []
    for revision in parts["revisions"]:
        with _named(left_out, f"{of}, revision {revision.get('number')}"):
            row = _sealed_row(Revision, {**revision, "study_id": was}, of, revision.get("before", ""))
            row.dataset_id = files[row.dataset_id]
            revisions.append(row)
    if not revisions:
        raise Refusal("no revision of it is whole.", place=of)
    if study.head not in {revision.number for revision in revisions}:
        left_out.append(f"{of}: revision {study.head}, where it stood, is not whole; it stands at the one before.")
        study.head = max(revision.number for revision in revisions)
    number = _added(session, study)
    rows: list[Revision | Note | Snapshot | Taking | IssuedProjection] = [
        *sorted(revisions, key=lambda revision: revision.number)
    ]
    for note in parts["notes"]:
        with _named(left_out, f"{of}, a note"):
            rows.append(_sealed_row(Note, {**note, "study_id": was}, of))
    for snapshot in parts["snapshots"]:
        with _named(left_out, f"{of}, snapshot “{snapshot.get('name')}”"):
            rows.append(_import_snapshot(archive, snapshot, was, of))
    for taking in parts["takings"]:
        with _named(left_out, f"{of}, what revision {taking.get('revision')} took in"):
            made = _sealed_row(Taking, {**taking, "study_id": was}, of)
            made.before_id, made.received_id, made.dataset_id = (
                files[number] for number in (made.before_id, made.received_id, made.dataset_id)
            )
            rows.append(made)
    for issued in parts["issued"]:
        with _named(left_out, f"{of}, the projection of revision {issued.get('revision')}"):
            numbers = archive.read(issued.pop("file"))
            rows.append(_sealed_row(IssuedProjection, {**issued, "numbers": numbers, "study_id": was}, of))
    for part in rows:
        part.study_id = number
        session.add(part)
        # one after the other: each revision is sealed with the one before it
        session.flush()
    with _named(left_out, f"{of}, where it looks for new rows"):
        # local addresses mean another machine after an import, so they must be entered again
        _add_words(session, FeedHow, feed, lambda words: Feed(study_id=number, words=words))
    with _named(left_out, f"{of}, what it watches"):
        token = secrets.token_urlsafe(24)
        _add_words(session, WatchWords, watch, lambda words: WatchOf(study_id=number, words=words, token=token))
    return True


def _add_words(session: Session, model: type[BaseModel], words: object, row: Callable[[str], SQLModel]) -> None:
    """Add settings. Raises Refusal if they are invalid."""
    if words is None:
        return
    try:
        read = model.model_validate_json(str(words))
    except ValidationError as error:
        raise Refusal(f"it cannot be read: {first_fault(error)}") from None
    session.add(row(read.model_dump_json()))
    session.flush()


def _import_snapshot(archive: zipfile.ZipFile, values: dict[str, Any], study: int, place: str) -> Snapshot:
    folder = values.pop("folder")
    # an older snapshot may have no PNG
    there_are = {column: f"{folder}/{part}" for column, part in _PARTS.items()}
    content = {
        column: archive.read(part)
        for column, part in there_are.items()
        if column != "png" or part in archive.namelist()
    }
    texts = {column: content[column].decode(errors="replace") for column in _TEXTS}
    return _sealed_row(Snapshot, {**values, **content, **texts, "study_id": study}, place)


def _import_named(session: Session, table: type[Style | Way], content: dict[str, Any], place: str) -> None:
    """Import a named item; a different one with the same name gets another name."""
    row = _sealed_row(table, content, place)
    known = session.exec(select(table).where(table.name == row.name)).first()
    if known is not None:
        if _dumped(known, "kept_at") == _dumped(row, "kept_at"):
            return
        row.name = f"{row.name}, brought in"
        if session.exec(select(table).where(table.name == row.name)).first() is not None:
            return
    session.add(row)
    session.flush()


def _sealed_row(table: type[Row], content: dict[str, Any], place: str, before: str = "") -> Row:
    """Return an intact row; old exports have no seals. Raises Refusal."""
    row = _row(table, content, place)
    if content.get("seal") and content["seal"] != seal_of(row, before):
        raise Refusal(f"{ALTERED}.", place="")
    return row


def _row(table: type[Row], content: dict[str, Any], place: str) -> Row:
    """Parse an exported row. Raises Refusal."""
    try:
        return table.model_validate(content)
    except ValidationError as error:
        raise Refusal(f"The export cannot be read: {first_fault(error)}", place=place) from None


def _added(session: Session, row: Dataset | Study) -> int:
    session.add(row)
    session.flush()
    assert row.id is not None
    return row.id


def _dumped(row: SQLModel, *without: str) -> dict[str, Any]:
    return row.model_dump(mode="json", exclude={"id", *without})


def _json(content: object) -> str:
    return json.dumps(content, ensure_ascii=False, indent=1)


def _read(archive: zipfile.ZipFile, name: str) -> Any:
    try:
        return json.loads(archive.read(name))
    except ValueError:
        raise Refusal("The export cannot be read: that is no JSON.", place=name) from None

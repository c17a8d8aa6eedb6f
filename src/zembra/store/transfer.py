"""Everything that is kept, carried into another home: one zip of JSON and of files as they are.

docs/reliability.md describes the form. A newer Zembra reads it; an older one says that it cannot.
"""

from __future__ import annotations

import json
import zipfile
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, TypeVar

from pydantic import ValidationError
from sqlalchemy import Engine
from sqlmodel import Session, SQLModel, col, select

from zembra import __version__
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import sha256
from zembra.core.ledger.model import first_fault
from zembra.store.database import one_moment
from zembra.store.home import ONLY_OUR_FILES
from zembra.store.tables import Dataset, Note, Revision, Snapshot, Study, Style, Way
from zembra.store.whole import whole_file

NUMBER = 1
FORMAT = "zembra.home/"
ABOUT = "home.json"
MOST_BYTES = 20_000_000_000  # that an export may unpack to
_PARTS = {"svg": "picture.svg", "note": "method-note.txt", "points": "points.parquet", "lines": "lines.parquet", "account": "account.pdf", "png": "picture.png"}  # fmt: skip
_TEXTS = ("svg", "note")
Row = TypeVar("Row", bound=SQLModel)


@dataclass(frozen=True, slots=True)
class Carried:
    """How much was carried over. known: studies that were there already and were left as they are."""

    files: int
    studies: int
    known: int = 0


def export_home(engine: Engine, to: Path) -> Carried:
    """All files, studies with their revisions, notes and snapshots, house styles and ways of reading, as one zip that is
    there whole or not at all. Raises OSError."""
    with (
        whole_file(to, ONLY_OUR_FILES) as beside,
        zipfile.ZipFile(beside, "w", zipfile.ZIP_DEFLATED) as archive,
        one_moment(engine) as session,
    ):
        about = {"format": f"{FORMAT}{NUMBER}", "zembra": __version__, "made_at": datetime.now(UTC).isoformat()}
        archive.writestr(ABOUT, _json(about))
        files = list(session.exec(select(Dataset.id)))
        for number in files:
            _export_file(archive, session, number)
        studies = list(session.exec(select(Study).order_by(col(Study.id))))
        for study in studies:
            _export_study(archive, session, study)
        archive.writestr("styles.json", _json([_dumped(one) for one in session.exec(select(Style))]))
        archive.writestr("ways.json", _json([_dumped(one) for one in session.exec(select(Way))]))
    return Carried(len(files), len(studies))


def import_home(engine: Engine, source: Path) -> Carried:
    """Add what an export holds to what is there: all of it or nothing. Raises Refusal, OSError."""
    try:
        with zipfile.ZipFile(source) as archive, Session(engine) as session:
            _check_form(archive)
            carried = _imported(archive, session)
            session.commit()
            return carried
    except zipfile.BadZipFile as error:
        raise Refusal(f"The export cannot be read: {error}.", place=str(source), todo="Export it again.") from None
    except KeyError as error:
        raise Refusal(
            f"The export is not whole: {error.args[0]}.", place=str(source), todo="Export it again."
        ) from None


def _export_file(archive: zipfile.ZipFile, session: Session, number: int | None) -> None:
    one = session.get_one(Dataset, number)
    archive.writestr(f"files/{number}.json", _json(_dumped(one, "data")))
    archive.writestr(f"files/{number}", one.data)
    session.expunge(one)


def _export_study(archive: zipfile.ZipFile, session: Session, study: Study) -> None:
    def of_study(table: type[Row]) -> list[Row]:
        of = select(table).where(table.study_id == study.id)  # type: ignore[attr-defined]
        return list(session.exec(of.order_by(table.id)))  # type: ignore[attr-defined]

    snapshots = of_study(Snapshot)
    told = {
        **_dumped(study),
        "revisions": [_dumped(one, "study_id") for one in of_study(Revision)],
        "notes": [_dumped(one, "study_id") for one in of_study(Note)],
        "snapshots": [{**_dumped(one, "study_id", *_PARTS), "folder": f"snapshots/{one.id}"} for one in snapshots],
    }
    archive.writestr(f"studies/{study.id}.json", _json(told))
    for one in snapshots:
        for column, name in _PARTS.items():
            if (content := getattr(one, column)) is not None:
                archive.writestr(f"snapshots/{one.id}/{name}", content)
        session.expunge(one)


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
    if sum(one.file_size for one in archive.infolist()) > MOST_BYTES:
        raise Refusal(f"The export unpacks to more than {MOST_BYTES // 1_000_000_000} GB.")


def _imported(archive: zipfile.ZipFile, session: Session) -> Carried:
    names = archive.namelist()
    files = {name: _import_file(archive, session, name) for name in _members(names, "files/")}
    numbers = {int(name.removeprefix("files/").removesuffix(".json")): one for name, one in files.items()}
    there = {(one.name, one.created_at.replace(tzinfo=None)) for one in session.exec(select(Study))}
    studies = [_import_study(archive, session, name, numbers, there) for name in _members(names, "studies/")]
    for table, name in ((Style, "styles.json"), (Way, "ways.json")):
        for told in _read(archive, name):
            _import_named(session, table, told, name)
    return Carried(len(files), sum(studies), len(studies) - sum(studies))


def _members(names: list[str], folder: str) -> list[str]:
    found = [name for name in names if name.startswith(folder) and name.endswith(".json")]
    return sorted(
        (name for name in found if name[len(folder) : -5].isdecimal()), key=lambda name: int(name[len(folder) : -5])
    )


def _import_file(archive: zipfile.ZipFile, session: Session, name: str) -> int:
    data = archive.read(name.removesuffix(".json"))
    one = _row(Dataset, {**_read(archive, name), "data": data}, name)
    if sha256(data) != one.sha256:
        raise Refusal(f"The file “{one.name}” in the export is not as it was received.", place=name)
    known = session.exec(select(Dataset.id).where(Dataset.sha256 == one.sha256, Dataset.name == one.name)).first()
    return known or _added(session, one)


def _import_study(
    archive: zipfile.ZipFile, session: Session, name: str, files: dict[int, int], there: set[tuple[str, datetime]]
) -> bool:
    told = _read(archive, name)
    parts: dict[str, list[dict[str, Any]]] = {one: told.pop(one) for one in ("revisions", "notes", "snapshots")}
    study = _row(Study, told, name)
    if (study.name, study.created_at.replace(tzinfo=None)) in there:
        return False
    number = _added(session, study)
    for revision in parts["revisions"]:
        row = _row(Revision, {**revision, "study_id": number, "dataset_id": files[revision["dataset_id"]]}, name)
        session.add(row)
    for note in parts["notes"]:
        session.add(_row(Note, {**note, "study_id": number}, name))
    for snapshot in parts["snapshots"]:
        folder = snapshot.pop("folder")
        # an older snapshot may have no PNG
        there_are = {column: f"{folder}/{part}" for column, part in _PARTS.items()}
        content = {
            column: archive.read(part)
            for column, part in there_are.items()
            if column != "png" or part in archive.namelist()
        }
        texts = {column: content[column].decode() for column in _TEXTS}
        session.add(_row(Snapshot, {**snapshot, **content, **texts, "study_id": number}, name))
    return True


def _import_named(session: Session, table: type[Style | Way], told: dict[str, Any], place: str) -> None:
    """What is there under the same name stays; another one under that name comes beside it."""
    one = _row(table, told, place)
    known = session.exec(select(table).where(table.name == one.name)).first()
    if known is not None:
        if _dumped(known, "kept_at") == _dumped(one, "kept_at"):
            return
        one.name = f"{one.name}, brought in"
        if session.exec(select(table).where(table.name == one.name)).first() is not None:
            return
    session.add(one)
    session.flush()


def _row(table: type[Row], told: dict[str, Any], place: str) -> Row:
    """A row as an export tells it. Raises Refusal."""
    try:
        return table.model_validate(told)
    except ValidationError as error:
        raise Refusal(f"The export cannot be read: {first_fault(error)}", place=place) from None


def _added(session: Session, one: Dataset | Study) -> int:
    session.add(one)
    session.flush()
    assert one.id is not None
    return one.id


def _dumped(one: SQLModel, *without: str) -> dict[str, Any]:
    return one.model_dump(mode="json", exclude={"id", *without})


def _json(told: object) -> str:
    return json.dumps(told, ensure_ascii=False, indent=1)


def _read(archive: zipfile.ZipFile, name: str) -> Any:
    try:
        return json.loads(archive.read(name))
    except ValueError:
        raise Refusal("The export cannot be read: that is no JSON.", place=name) from None

"""Store datasets."""

from __future__ import annotations

import contextlib
from collections.abc import Callable

from sqlalchemy import ColumnElement, Engine
from sqlalchemy.orm import defer
from sqlmodel import Session, col, select

from zembra.core.errors import Refusal
from zembra.core.intake.bringin import sha256
from zembra.core.intake.howread import HowRead
from zembra.store.errors import Altered, NotKept
from zembra.store.seals import seal_of
from zembra.store.tables import Dataset, Feed, Revision, Study, Taking, now


def keep_dataset(
    engine: Engine, name: str, data: bytes, how: HowRead, last_word: Callable[[], None] = lambda: None
) -> Dataset:
    """Store a file. Equal bytes under the same name are stored once, and restored if removed.

    last_word: called before the commit; what it raises rolls back
    """
    digest = sha256(data)
    with Session(engine, expire_on_commit=False) as session:
        known = session.exec(select(Dataset).where(Dataset.sha256 == digest, Dataset.name == name)).first()
        if known:
            known.removed_at = None
            session.commit()
            return known
        dataset = Dataset(name=name, sha256=digest, size=len(data), data=data, how=how.model_dump_json())
        session.add(dataset)
        session.flush()
        last_word()
        session.commit()
        return dataset


def dataset(engine: Engine, identifier: int) -> Dataset:
    """Return a dataset without its bytes. Raises NotKept."""
    with Session(engine, expire_on_commit=False) as session:
        found = session.get(Dataset, identifier, options=[defer(Dataset.data)])  # type: ignore[arg-type]
        if found is None:
            raise NotKept(f"There is no dataset {identifier}.")
        if found.seal != seal_of(found):
            raise Altered(found.name)
        return found


def dataset_bytes(engine: Engine, identifier: int) -> bytes:
    """Return the file as received. Raises NotKept, and Altered if its bytes changed."""
    with Session(engine) as session:
        query = select(Dataset.name, Dataset.sha256, Dataset.data).where(Dataset.id == identifier)
        found = session.exec(query).first()
    if found is None:
        raise NotKept(f"There is no dataset {identifier}.")
    name, digest, data = found
    if not isinstance(data, bytes) or sha256(data) != digest:
        raise Altered(name)
    return data


def datasets(engine: Engine) -> list[Dataset]:
    """Return all datasets that are not removed, without bytes, newest first."""
    return _every(engine, col(Dataset.removed_at).is_(None))


def unused_datasets(engine: Engine) -> list[Dataset]:
    """Return datasets without revisions, that are not waiting."""
    waiting = select(Feed.received_id).where(col(Feed.received_id).is_not(None))
    used = (select(Revision.dataset_id), select(Taking.received_id), waiting)
    unused = (col(Dataset.id).not_in(numbers) for numbers in used)
    return _every(engine, col(Dataset.removed_at).is_(None), *unused)


def removed_datasets(engine: Engine) -> list[Dataset]:
    return _every(engine, col(Dataset.removed_at).is_not(None))


def remove_dataset(engine: Engine, identifier: int) -> None:
    """Remove a file, restorably. Raises NotKept, and Refusal if a study uses it."""
    with Session(engine) as session:
        found = _at(session, identifier, removed=False)
        stands = select(Study.name).join(Revision).where(Revision.dataset_id == identifier)
        came = select(Study.name).join(Taking).where(Taking.received_id == identifier)
        study = session.exec(stands).first() or session.exec(came).first()
        if study is not None:
            raise Refusal(f"The study “{study}” stands on “{found.name}”.", todo="Remove that study for good first.")
        if session.exec(select(Feed.study_id).where(Feed.received_id == identifier)).first() is not None:
            raise Refusal(f"“{found.name}” waits to be taken in.", todo="Take it in, or leave it, first.")
        found.removed_at = now()
        session.commit()


def restore_dataset(engine: Engine, identifier: int) -> None:
    """Restore a removed file. Raises NotKept."""
    with Session(engine) as session:
        _at(session, identifier, removed=True).removed_at = None
        session.commit()


def erase_dataset(engine: Engine, identifier: int) -> None:
    """Delete a removed file for good. Raises NotKept."""
    with Session(engine) as session:
        session.delete(_at(session, identifier, removed=True))
        session.commit()


def _every(engine: Engine, *which: ColumnElement[bool]) -> list[Dataset]:
    query = select(Dataset).where(*which).order_by(col(Dataset.id).desc()).options(defer(Dataset.data))  # type: ignore[arg-type]
    with Session(engine, expire_on_commit=False) as session:
        try:
            return list(session.exec(query))
        except Refusal:
            # one that cannot be read does not hide the others; zembra check names it
            found: list[Dataset] = []
            for number in session.exec(select(Dataset.id).where(*which).order_by(col(Dataset.id).desc())).all():
                with contextlib.suppress(Refusal):
                    found += session.exec(query.where(Dataset.id == number))
            return found


def _at(session: Session, identifier: int, *, removed: bool) -> Dataset:
    found = session.get(Dataset, identifier, options=[defer(Dataset.data)])  # type: ignore[arg-type]
    if found is None or (found.removed_at is not None) is not removed:
        raise NotKept(f"There is no {'removed ' if removed else ''}file {identifier}.")
    return found

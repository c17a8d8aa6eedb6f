"""Store studies and their revisions.

Revisions are only ever added. Undo and redo move the study's head along them, so they reach back to
the first revision and survive a restart.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from datetime import date
from typing import Any

from pydantic import ValidationError
from sqlalchemy import Engine, func, update
from sqlalchemy.orm import aliased
from sqlmodel import Session, SQLModel, col, delete, select

from zembra.core.english import listed
from zembra.core.errors import Refusal
from zembra.core.figure.model import FigureSettings
from zembra.core.ledger.model import Ledger, first_fault, opened
from zembra.core.study.renaming import renamed_figure, renamed_ledger, renamed_text
from zembra.store.actor import acting
from zembra.store.errors import Damaged, NotKept, Stale
from zembra.store.registry import EVERY
from zembra.store.seals import resealed, seal_before, seal_of
from zembra.store.tables import (
    Revision,
    Study,
    Telling,
    WatchFinding,
    now,
)


@dataclass(frozen=True, slots=True)
class KeptStudy:
    """A study at its head."""

    study: Study
    revision: Revision
    ledger: Ledger
    figure: FigureSettings
    can_redo: bool

    @property
    def dataset_id(self) -> int:
        return self.revision.dataset_id

    @property
    def as_of(self) -> date:
        return self.revision.as_of

    @property
    def can_undo(self) -> bool:
        return self.revision.parent is not None


def create_study(
    engine: Engine, name: str, dataset_id: int, ledger: Ledger, figure: FigureSettings, as_of: date
) -> KeptStudy:
    with Session(engine, expire_on_commit=False) as session:
        study = Study(name=name)
        session.add(study)
        session.flush()
        assert study.id is not None
        session.add(_revision(study.id, 1, None, dataset_id, as_of, ledger, figure, "Study begun"))
        session.commit()
        return _kept(session, study)


def kept_study(engine: Engine, identifier: int) -> KeptStudy:
    """Return a study at its head. Raises NotKept."""
    with Session(engine, expire_on_commit=False) as session:
        return _kept(session, _study(session, identifier))


@dataclass(frozen=True, slots=True)
class KeptStudies:
    """All studies at their heads, last changed first; damaged and removed ones separately."""

    studies: tuple[KeptStudy, ...]
    damaged: tuple[Damaged, ...]
    removed: tuple[Study, ...] = ()


def kept_studies(engine: Engine) -> KeptStudies:
    read: list[KeptStudy] = []
    damaged: list[Damaged] = []
    removed: list[Study] = []
    with Session(engine, expire_on_commit=False) as session:
        at_head = (col(Revision.study_id) == Study.id) & (col(Revision.number) == Study.head)
        earlier = aliased(Revision)
        before = select(earlier.seal).where(earlier.study_id == Study.id, earlier.number < Study.head)
        seal = before.order_by(col(earlier.number).desc()).limit(1).scalar_subquery()
        heads = select(Study, Revision, seal).join(Revision, at_head, isouter=True)
        heads = heads.order_by(col(Study.changed_at).desc())
        ahead = select(Revision.study_id).join(Study).where(Revision.parent == Study.head).distinct()
        can_redo = set(session.exec(ahead))
        found: list[_Head]
        try:
            found = list(session.exec(heads))
        except Refusal:
            found, damaged = _one_by_one(session, heads)
        for study, revision, sealed in found:
            if study.removed_at is not None:
                removed.append(study)
                continue
            try:
                read.append(_read(study, revision, sealed or "", study.id in can_redo))
            except Damaged as error:
                damaged.append(error)
    return KeptStudies(tuple(read), tuple(damaged), tuple(removed))


# a study, where it stands, and the seal of the revision before that
_Head = tuple[Study, Revision | None, str | None]


def _one_by_one(session: Session, heads: Any) -> tuple[list[_Head], list[Damaged]]:
    """Read studies one by one, if some are damaged."""
    found: list[_Head] = []
    damaged: list[Damaged] = []
    for number, name in session.exec(select(Study.id, Study.name)).all():
        try:
            found += session.exec(heads.where(Study.id == number))
        except Refusal as refusal:
            damaged.append(Damaged(number or 0, name, refusal.what))
    return found, damaged


def rename_study(engine: Engine, identifier: int, name: str) -> KeptStudy:
    with Session(engine, expire_on_commit=False) as session:
        study = _study(session, identifier)
        study.name = name
        session.add(study)
        session.commit()
        return _kept(session, study)


def copy_study(engine: Engine, identifier: int) -> KeptStudy:
    """Copy a study."""
    kept = kept_study(engine, identifier)
    return create_study(engine, f"{kept.study.name}, copy", kept.dataset_id, kept.ledger, kept.figure, kept.as_of)


def copy_for_columns(engine: Engine, identifier: int, names: Mapping[str, str]) -> KeptStudy:
    """Copy a study to other series or columns.

    names: new names by old ones
    """
    kept = kept_study(engine, identifier)
    name = renamed_text(kept.study.name, names)
    name = name if name != kept.study.name else f"{name}, for {listed(list(names.values())[:2])}"
    ledger, figure = renamed_ledger(kept.ledger, names), renamed_figure(kept.figure, names)
    return create_study(engine, name[:200], kept.dataset_id, ledger, figure, kept.as_of)


def remove_study(engine: Engine, identifier: int) -> None:
    """Remove a study, restorably. Raises NotKept."""
    with Session(engine) as session:
        study = _study(session, identifier)
        study.removed_at = now()
        session.add(study)
        session.commit()


def restore_study(engine: Engine, identifier: int) -> KeptStudy:
    """Restore a study. Raises NotKept."""
    with Session(engine, expire_on_commit=False) as session:
        study = _study(session, identifier, removed=True)
        study.removed_at = None
        session.add(study)
        session.commit()
        return _kept(session, study)


def erase_study(engine: Engine, identifier: int) -> None:
    """Delete a study with revisions and notes for good; its dataset stays. Raises NotKept."""
    with Session(engine) as session:
        study = _study(session, identifier, removed=True)
        found = select(WatchFinding.id).where(WatchFinding.study_id == identifier)
        session.exec(delete(Telling).where(col(Telling.finding_id).in_(found)))
        for kept in EVERY:
            if kept.of_study:
                table: Any = kept.table
                session.exec(delete(table).where(table.study_id == identifier))
        session.flush()
        session.delete(study)
        session.commit()


def edit_study(
    engine: Engine,
    identifier: int,
    base: int,
    ledger: Ledger,
    figure: FigureSettings,
    what: str,
    as_of: date | None = None,
    dataset_id: int | None = None,
    beside: Callable[[int], Iterable[SQLModel]] = lambda number: (),
) -> KeptStudy:
    """Add a revision on `base`, and move the head to it. Raises Stale, NotKept.

    as_of, dataset: None keeps those of `base`
    beside: rows stored in the same transaction, by revision number
    """
    with Session(engine, expire_on_commit=False) as session:
        newest = session.exec(select(func.max(Revision.number)).where(Revision.study_id == identifier)).one()
        number = (newest or 0) + 1
        before = _at(session, _study(session, identifier))
        _move_head(session, identifier, base, number)
        as_of = as_of or before.as_of
        made = _revision(identifier, number, base, dataset_id or before.dataset_id, as_of, ledger, figure, what)
        session.add(made)
        session.add_all(beside(number))
        session.commit()
        # there is no later revision
        return KeptStudy(_study(session, identifier), made, ledger, figure, can_redo=False)


def undo_study(engine: Engine, identifier: int, base: int) -> KeptStudy:
    """Move the head to the previous revision, if any. Raises Stale, NotKept."""
    with Session(engine, expire_on_commit=False) as session:
        at = _at(session, _study(session, identifier))
        _move_head(session, identifier, base, at.parent or at.number)
        session.commit()
        return _kept(session, _study(session, identifier))


def redo_study(engine: Engine, identifier: int, base: int) -> KeptStudy:
    """Move the head to the newest following revision, if any."""
    with Session(engine, expire_on_commit=False) as session:
        study = _study(session, identifier)
        _move_head(session, identifier, base, _redo_target(session, study) or study.head)
        session.commit()
        return _kept(session, _study(session, identifier))


def _move_head(session: Session, identifier: int, base: int, number: int) -> None:
    """Compare and set in one statement, so that only one of two concurrent edits succeeds."""
    while True:
        study = _study(session, identifier)
        if study.head != base:
            raise Stale(study.head, _at(session, study).what)
        to: dict[str, Any] = {"head": number, "changed_at": now()}
        to["seal"] = resealed(study, changed=to)
        # compare the seal, as somebody may just have renamed it
        same = (col(Study.id) == identifier, col(Study.head) == base, col(Study.seal) == study.seal)
        if session.execute(update(Study).where(*same).values(**to)).rowcount:  # type: ignore[attr-defined]
            return
        session.rollback()


def _study(session: Session, identifier: int, *, removed: bool = False) -> Study:
    """Return a study.

    removed: whether it must be a removed one
    """
    study = session.get(Study, identifier, populate_existing=True)
    if study is None or (study.removed_at is not None) is not removed:
        raise NotKept(f"There is no {'removed ' if removed else ''}study {identifier}.")
    return study


def _at(session: Session, study: Study) -> Revision:
    query = select(Revision).where(Revision.study_id == study.id, Revision.number == study.head)
    return _there(study, session.exec(query).first())


def _there(study: Study, found: Revision | None) -> Revision:
    if found is None:
        raise Damaged(study.id or 0, study.name, f"revision {study.head} is not there.")
    return found


def _redo_target(session: Session, study: Study) -> int | None:
    query = select(func.max(Revision.number)).where(Revision.study_id == study.id, Revision.parent == study.head)
    return session.exec(query).one()


def _kept(session: Session, study: Study) -> KeptStudy:
    """Return a study at its head. Raises Damaged."""
    at = _at(session, study)
    return _read(study, at, seal_before(session.connection(), at), _redo_target(session, study) is not None)


def _read(study: Study, found: Revision | None, before: str, can_redo: bool) -> KeptStudy:
    """Read a revision.

    before: seal of the previous one
    """
    revision = _there(study, found)
    if study.seal != seal_of(study):
        raise Damaged(study.id or 0, study.name, "what is kept of it is not as it was kept.", revision.dataset_id)
    if revision.seal != seal_of(revision, before):
        why = f"revision {revision.number} is not as it was kept."
        raise Damaged(study.id or 0, study.name, why, revision.dataset_id)
    try:
        ledger = opened(revision.ledger)
        figure = FigureSettings.model_validate_json(revision.figure)
    except (ValidationError, Refusal) as error:
        why = first_fault(error) if isinstance(error, ValidationError) else error.what
        why = f"revision {revision.number} cannot be read. {why}"
        raise Damaged(study.id or 0, study.name, why, revision.dataset_id) from None
    return KeptStudy(study, revision, ledger, figure, can_redo)


def _revision(
    study_id: int,
    number: int,
    parent: int | None,
    dataset_id: int,
    as_of: date,
    ledger: Ledger,
    figure: FigureSettings,
    what: str,
) -> Revision:
    return Revision(
        study_id=study_id,
        number=number,
        parent=parent,
        dataset_id=dataset_id,
        as_of=as_of,
        ledger=ledger.model_dump_json(),
        figure=figure.model_dump_json(),
        what=what,
        who=acting.get(),
    )

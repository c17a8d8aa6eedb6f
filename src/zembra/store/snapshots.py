"""Store snapshots."""

from __future__ import annotations

from sqlalchemy import Engine
from sqlalchemy.orm import defer
from sqlmodel import Session, col, select

from zembra.core.errors import Refusal
from zembra.store.errors import NotKept
from zembra.store.seals import seal_of
from zembra.store.tables import Snapshot, now


def keep_snapshot(engine: Engine, snapshot: Snapshot) -> Snapshot:
    with Session(engine, expire_on_commit=False) as session:
        session.add(snapshot)
        session.commit()
        return snapshot


def snapshots(engine: Engine, study_id: int) -> list[Snapshot]:
    """Return the snapshots of a study without large columns, newest first, and the removed ones."""
    heavy = (Snapshot.svg, Snapshot.note, Snapshot.points, Snapshot.lines, Snapshot.account, Snapshot.png)
    query = select(Snapshot).where(Snapshot.study_id == study_id).order_by(col(Snapshot.id).desc())
    with Session(engine, expire_on_commit=False) as session:
        return list(session.exec(query.options(*(defer(column) for column in heavy))))  # type: ignore[arg-type]


def snapshot(engine: Engine, study_id: int, identifier: int) -> Snapshot:
    """Return a snapshot. Raises NotKept."""
    with Session(engine, expire_on_commit=False) as session:
        found = _at(session, study_id, identifier, removed=False)
        if found.seal != seal_of(found):
            raise Refusal(
                f"The snapshot “{found.name}” is not as it was kept; nothing is shown of it.",
                todo="Put a backup back with zembra restore, or take it anew.",
            )
        return found


def remove_snapshot(engine: Engine, study_id: int, identifier: int) -> None:
    """Remove a snapshot, restorably. Raises NotKept."""
    with Session(engine) as session:
        _at(session, study_id, identifier, removed=False).removed_at = now()
        session.commit()


def restore_snapshot(engine: Engine, study_id: int, identifier: int) -> None:
    """Restore a snapshot. Raises NotKept."""
    with Session(engine) as session:
        _at(session, study_id, identifier, removed=True).removed_at = None
        session.commit()


def _at(session: Session, study_id: int, identifier: int, *, removed: bool) -> Snapshot:
    found = session.get(Snapshot, identifier)
    if found is None or found.study_id != study_id or (found.removed_at is not None) is not removed:
        raise NotKept(f"There is no {'removed ' if removed else ''}snapshot {identifier} of this study.")
    return found

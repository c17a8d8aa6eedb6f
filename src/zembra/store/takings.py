"""Store rows taken in, and issued projections."""

from __future__ import annotations

import contextlib
import io

import polars as pl
from sqlalchemy import Engine
from sqlalchemy.exc import IntegrityError
from sqlmodel import Session, col, select

from zembra.core.newrows.issued import Issued
from zembra.store.errors import Damaged
from zembra.store.seals import seal_of
from zembra.store.tables import IssuedProjection, Revision, Study, Taking


def taking_of(engine: Engine, study_id: int, dataset_id: int) -> Taking | None:
    """Return how a study came to stand on a file, or None if it began on it. Raises Damaged."""
    with Session(engine, expire_on_commit=False) as session:
        query = select(Taking).where(Taking.study_id == study_id, Taking.dataset_id == dataset_id)
        found = session.exec(query.order_by(col(Taking.id).desc())).first()
        if found is not None and found.seal != seal_of(found):
            raise _damaged(session, study_id, f"what revision {found.revision} took in is not as it was kept.")
        return found


def issued_projections(engine: Engine, study_id: int, revision: int) -> list[Issued]:
    """Return projections of a revision and its ancestors, oldest first. Raises Damaged."""
    with Session(engine) as session:
        query = select(IssuedProjection).where(
            IssuedProjection.study_id == study_id, col(IssuedProjection.revision) <= revision
        )
        found = []
        for kept in session.exec(query.order_by(col(IssuedProjection.revision))):
            if kept.seal != seal_of(kept):
                raise _damaged(session, study_id, f"the projection of revision {kept.revision} is not as it was kept.")
            frame = pl.read_parquet(io.BytesIO(kept.numbers))
            found.append(Issued(kept.revision, kept.as_of.isoformat(), kept.why, frame))
        return found


def revisions_behind(engine: Engine, study_id: int, head: int) -> list[Revision]:
    """Return a revision and its ancestors, newest first. Raises Damaged."""
    with Session(engine, expire_on_commit=False) as session:
        found = {
            revision.number: revision
            for revision in session.exec(select(Revision).where(Revision.study_id == study_id))
        }
        behind: list[Revision] = []
        at: int | None = head
        while at is not None:
            if at not in found:
                raise _damaged(session, study_id, f"revision {at} is not there.")
            behind.append(found[at])
            at = found[at].parent
        return behind


def is_issued(engine: Engine, study_id: int, revision: int) -> bool:
    with Session(engine) as session:
        query = select(IssuedProjection.id).where(
            IssuedProjection.study_id == study_id, IssuedProjection.revision == revision
        )
        return session.exec(query).first() is not None


def keep_issued(engine: Engine, row: IssuedProjection) -> None:
    """Store a projection, unless the revision has one."""
    with Session(engine) as session, contextlib.suppress(IntegrityError):
        session.add(row)
        session.commit()


def _damaged(session: Session, study_id: int, why: str) -> Damaged:
    study = session.get(Study, study_id)
    return Damaged(study_id, study.name if study else "", why)

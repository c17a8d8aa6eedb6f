"""Cache judging results of studies, across restarts."""

from __future__ import annotations

from sqlalchemy import Engine
from sqlalchemy.dialects.sqlite import insert
from sqlmodel import Session, col, delete, select

from zembra.store.seals import sealed
from zembra.store.tables import JudgedResult, now

MOST_KEPT = 40  # of one study; the oldest go first


def judged(engine: Engine, key: str) -> str | None:
    """Return the cached JSON of a key, or nothing if it was altered."""
    with Session(engine) as session:
        seal, _, view = (
            session.exec(select(JudgedResult.view).where(JudgedResult.key == key)).first() or ""
        ).partition("\n")
    return view if view and seal == sealed([view]) else None


def keep_judged(engine: Engine, study_id: int, key: str, view: str) -> None:
    with Session(engine) as session:
        row = insert(JudgedResult).values(study_id=study_id, key=key, view=f"{sealed([view])}\n{view}", made_at=now())
        session.exec(row.on_conflict_do_update(index_elements=["key"], set_={"view": row.excluded.view}))
        mine = select(JudgedResult.id).where(JudgedResult.study_id == study_id)
        too_many = session.exec(mine.order_by(col(JudgedResult.id).desc()).offset(MOST_KEPT)).all()
        session.exec(delete(JudgedResult).where(col(JudgedResult.id).in_(too_many)))
        session.commit()

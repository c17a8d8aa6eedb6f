"""Store notes on periods, with an undo history of their own."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import Engine
from sqlmodel import Session, col, select

from zembra.core.study.followup import Noted, State
from zembra.store.actor import acting
from zembra.store.errors import Damaged, NotKept
from zembra.store.seals import seal_of
from zembra.store.tables import Note, Study, now

HOLDS, UNDONE, LEFT = "holds", "undone", "left"


@dataclass(frozen=True)
class NewestNotes:
    """The newest note of each period."""

    noted: tuple[Noted, ...]
    can_undo: bool
    can_redo: bool


def kept_notes(engine: Engine, study_id: int) -> NewestNotes:
    """Return the notes of a study. Raises Damaged if one was altered."""
    with Session(engine) as session:
        return _notes(session, study_id)


def keep_notes(engine: Engine, study_id: int, every: Sequence[Noted]) -> NewestNotes:
    """Add notes as one step. Raises NotKept, and Damaged if an older one was altered."""
    with Session(engine) as session:
        if session.get(Study, study_id) is None:
            raise NotKept(f"There is no study {study_id}.")
        for row in session.exec(select(Note).where(Note.study_id == study_id, Note.standing == UNDONE)):
            row.standing = LEFT
        at = now()
        session.add_all(
            Note(
                study_id=study_id,
                series=noted.series,
                period=noted.period,
                note=noted.note,
                state=noted.state.value,
                who=noted.who or acting.get(),
                by_hand=noted.by_hand,
                found_by=noted.found_by,
                value=noted.value,
                distance=noted.distance,
                made_at=at,
            )
            for noted in every
        )
        session.commit()
        return _notes(session, study_id)


def undo_note(engine: Engine, study_id: int) -> NewestNotes:
    """Undo the newest step, if any."""
    return _moved(engine, study_id, HOLDS, UNDONE, newest=True)


def redo_note(engine: Engine, study_id: int) -> NewestNotes:
    """Redo the oldest undone step."""
    return _moved(engine, study_id, UNDONE, HOLDS, newest=False)


def _moved(engine: Engine, study_id: int, standing: str, then: str, *, newest: bool) -> NewestNotes:
    with Session(engine) as session:
        order = col(Note.id).desc() if newest else col(Note.id)
        row = session.exec(
            select(Note).where(Note.study_id == study_id, Note.standing == standing).order_by(order)
        ).first()
        if row is not None:
            # notes made together are one step
            step = select(Note).where(Note.study_id == study_id, Note.standing == standing, Note.made_at == row.made_at)
            for note in session.exec(step).all():
                note.standing = then
            session.commit()
        return _notes(session, study_id)


def _notes(session: Session, study_id: int) -> NewestNotes:
    rows = list(session.exec(select(Note).where(Note.study_id == study_id).order_by(col(Note.id))))
    for row in rows:
        if row.seal != seal_of(row):
            study = session.get(Study, study_id)
            raise Damaged(study_id, study.name if study else "", f"note {row.id} is not as it was kept.")
    newest = {(row.series, row.period): row for row in rows if row.standing == HOLDS}
    noted = tuple(
        Noted(
            row.series,
            row.period,
            row.note,
            State(row.state),
            row.who,
            row.by_hand,
            row.found_by,
            row.value,
            row.distance,
            row.made_at.isoformat(timespec="seconds"),
        )
        for row in newest.values()
        if row.by_hand or row.note or row.state != State.OPEN or row.who
    )
    standings = {row.standing for row in rows}
    return NewestNotes(noted, HOLDS in standings, UNDONE in standings)

"""Store import profiles for files of the same kind."""

from __future__ import annotations

from sqlalchemy import Engine
from sqlmodel import Session, col, select

from zembra.core.intake.howread import HowRead
from zembra.core.ledger.model import Ledger
from zembra.store.errors import NotKept
from zembra.store.tables import Way


def keep_way(engine: Engine, name: str, columns: tuple[str, ...], how: HowRead, ledger: Ledger) -> Way:
    """Store how a file was read and its first entries; an equal name is replaced."""
    with Session(engine, expire_on_commit=False) as session:
        way = session.exec(select(Way).where(Way.name == name)).first() or Way(name=name, columns="", how="", ledger="")
        way.columns = signature(columns)
        way.how = how.model_dump_json()
        way.ledger = ledger.model_dump_json()
        session.add(way)
        session.commit()
        return way


def ways(engine: Engine) -> list[Way]:
    with Session(engine, expire_on_commit=False) as session:
        return list(session.exec(select(Way).order_by(col(Way.id).desc())))


def remove_way(engine: Engine, identifier: int) -> None:
    """Delete an import profile. Raises NotKept."""
    with Session(engine) as session:
        way = session.get(Way, identifier)
        if way is None:
            raise NotKept(f"There is no way of reading {identifier}.")
        session.delete(way)
        session.commit()


def signature(columns: tuple[str, ...]) -> str:
    """Return what matching files have in common: their columns in order."""
    return "\x1f".join(columns)

"""Store house styles."""

from __future__ import annotations

from sqlalchemy import Engine
from sqlmodel import Session, col, select

from zembra.core.dress.style import HouseStyle, parse_style
from zembra.store.errors import NotKept
from zembra.store.tables import Style


def keep_style(engine: Engine, name: str, style: HouseStyle) -> None:
    """Store a style; an equal name is replaced."""
    with Session(engine) as session:
        kept = session.exec(select(Style).where(Style.name == name)).first() or Style(name=name, words="")
        kept.words = style.model_dump_json()
        session.add(kept)
        session.commit()


def style_names(engine: Engine) -> list[str]:
    with Session(engine) as session:
        return list(session.exec(select(Style.name).order_by(col(Style.name))))


def kept_style(engine: Engine, name: str) -> HouseStyle:
    """Return a style by name. Raises NotKept."""
    with Session(engine) as session:
        return parse_style(_named(session, name).words)


def remove_style(engine: Engine, name: str) -> None:
    """Delete a style. Raises NotKept."""
    with Session(engine) as session:
        session.delete(_named(session, name))
        session.commit()


def _named(session: Session, name: str) -> Style:
    kept = session.exec(select(Style).where(Style.name == name)).first()
    if kept is None:
        raise NotKept(f"There is no house style “{name}”.")
    return kept

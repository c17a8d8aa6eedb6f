"""Datasets in the store."""

from __future__ import annotations

from collections.abc import Callable

from sqlalchemy import Engine
from sqlalchemy.orm import defer
from sqlmodel import Session, col, select

from zembra.core.intake.bringin import sha256
from zembra.core.intake.howread import HowRead
from zembra.store.errors import NotKept
from zembra.store.tables import Dataset


def keep_dataset(
    engine: Engine, name: str, data: bytes, how: HowRead, last_word: Callable[[], None] = lambda: None
) -> Dataset:
    """Keep a file's bytes; the same bytes under the same name are kept once.

    last_word: called when all is written and nothing is kept yet; what it raises takes it all back.
    """
    digest = sha256(data)
    with Session(engine, expire_on_commit=False) as session:
        known = session.exec(select(Dataset).where(Dataset.sha256 == digest, Dataset.name == name)).first()
        if known:
            return known
        dataset = Dataset(name=name, sha256=digest, size=len(data), data=data, how=how.model_dump_json())
        session.add(dataset)
        session.flush()
        last_word()
        session.commit()
        return dataset


def dataset(engine: Engine, identifier: int) -> Dataset:
    """The dataset without its bytes: see `dataset_bytes`. Raises NotKept."""
    with Session(engine, expire_on_commit=False) as session:
        found = session.get(Dataset, identifier, options=[defer(Dataset.data)])  # type: ignore[arg-type]
        if found is None:
            raise NotKept(f"There is no dataset {identifier}.")
        return found


def dataset_bytes(engine: Engine, identifier: int) -> bytes:
    """The file as received. Raises NotKept."""
    with Session(engine) as session:
        found = session.exec(select(Dataset.data).where(Dataset.id == identifier)).first()
        if found is None:
            raise NotKept(f"There is no dataset {identifier}.")
        return found


def datasets(engine: Engine) -> list[Dataset]:
    """All datasets without their bytes, newest first."""
    with Session(engine, expire_on_commit=False) as session:
        query = select(Dataset).options(defer(Dataset.data)).order_by(col(Dataset.id).desc())  # type: ignore[arg-type]
        return list(session.exec(query))

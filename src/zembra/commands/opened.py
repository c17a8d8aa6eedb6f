"""Open the home that a command works on."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from sqlalchemy import Engine, exc

from zembra.core.errors import Refusal
from zembra.store.database import check_readable, close_database, newest_schema, open_database
from zembra.store.home import Home
from zembra.store.readonlycopy import readable
from zembra.store.studies import KeptStudy, kept_studies


@contextmanager
def opened_home(home: Home) -> Iterator[Engine]:
    """Open the database of a home, possibly in use. Raises Refusal."""
    if not home.database.exists():
        raise Refusal(f"There is no database at {home.database}.", todo="Say where with --home, or start Zembra once.")
    with readable(home) as database, opened_database(Home(database.parent, database.name)) as engine:
        yield engine


def study_named(engine: Engine, name: str) -> KeptStudy:
    """Return a study by name or number. Raises Refusal."""
    studies = kept_studies(engine).studies
    found = next((study for study in studies if name in (study.study.name, str(study.study.id))), None)
    if found is None:
        raise Refusal(
            f"There is no study “{name}”.",
            place=f"the studies are {', '.join(study.study.name for study in studies)}",
        )
    return found


@contextmanager
def opened_database(home: Home) -> Iterator[Engine]:
    """Open or create a database; an existing one must be current."""
    if home.database.exists() and check_readable(home.database) != newest_schema():
        raise Refusal("The database is that of an older Zembra.", todo="Start Zembra once: it brings it up to date.")
    engine = open_database(home.database)
    try:
        yield engine
    except exc.DatabaseError as error:
        raise Refusal(
            f"The database does not do what is asked of it: {error.orig}.", place=str(home.database)
        ) from None
    finally:
        close_database(engine)

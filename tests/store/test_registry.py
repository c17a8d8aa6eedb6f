"""Every table there is has a fate, and what is sealed is missed and noticed whichever row or column of it is hurt."""

from __future__ import annotations

import shutil
import sqlite3
from contextlib import closing
from datetime import timedelta
from pathlib import Path
from typing import Any

import pytest
from sqlalchemy import Engine, inspect
from sqlmodel import Session, SQLModel, select

from tests.help import AS_OF
from tests.store.test_keeping import filled, rows, spoil
from tests.store.test_rot import opened, reading
from zembra.core.feeds.feedwords import FeedHow
from zembra.core.newrows.takingwords import TakingHow
from zembra.core.study.followup import Noted, State
from zembra.core.watching.watchwords import WatchWords
from zembra.store.checking import check_all, check_file
from zembra.store.database import close_database, open_database
from zembra.store.home import Home
from zembra.store.import_profiles import keep_way
from zembra.store.logins import begin_login, login_of
from zembra.store.notes import keep_notes
from zembra.store.people import add_person, person_with
from zembra.store.registry import EVERY, KEPT, SEALED, Fate, TableEntry
from zembra.store.snapshots import keep_snapshot
from zembra.store.studies import erase_study, kept_study, remove_study
from zembra.store.tables import Feed, Gap, IssuedProjection, Login, Snapshot, Taking, Telling, WatchFinding, WatchOf
from zembra.store.transfer import export_home, import_home


def fill_every(engine: Engine) -> str:
    """Have a row in every sealed table at least; the key of somebody who may look."""
    kept = kept_study(engine, 1)
    keep_notes(engine, 1, [Noted("value", "2026-01-02", "fog", State.OPEN)])
    keep_way(engine, "as ever", ("day", "value"), reading(engine), kept.ledger)
    frozen: dict[str, Any] = dict.fromkeys(("points", "lines", "account", "png"), b"frozen")
    told = dict.fromkeys(("svg", "alt", "note"), "frozen")
    keep_snapshot(engine, Snapshot(study_id=1, name="June", revision=1, as_of=AS_OF, **told, **frozen))
    key = add_person(engine, "Ben", may_change=False)
    begin_login(engine, key, "a browser")
    words = TakingHow().model_dump_json()
    how = reading(engine).model_dump_json()
    with Session(engine) as session:
        files = {"before_id": 1, "received_id": 1, "dataset_id": 1}
        session.add(Taking(study_id=1, revision=1, words=words, how=how, **files))
        session.add(IssuedProjection(study_id=1, revision=1, as_of=AS_OF, why="now", numbers=b"frozen"))
        session.add(Feed(study_id=1, words=FeedHow().model_dump_json()))
        session.add(WatchOf(study_id=1, words=WatchWords().model_dump_json(), token="low tide"))
        finding = WatchFinding(study_id=1, kind="late", series="value", period="2026-01-02", text="late")
        session.add(finding)
        session.flush()
        session.add(Telling(finding_id=finding.id or 0, way="mail:a@b.example"))
        gap = Gap(confirmed=2, found=1)
        gap.accepted_at = gap.found_at
        session.add(gap)
        session.commit()
    return key


@pytest.fixture(scope="module")
def original(tmp_path_factory: pytest.TempPathFactory) -> tuple[Home, str]:
    home = filled(tmp_path_factory.mktemp("every"))
    with opened(home) as engine:
        key = fill_every(engine)
    return home, key


@pytest.fixture
def home(original: tuple[Home, str], tmp_path: Path) -> Home:
    shutil.copy(original[0].database, tmp_path / "zembra.db")
    return Home(tmp_path)


def test_no_table_and_no_column_is_left_out(home: Home) -> None:
    with opened(home) as engine:
        there = {table: {column["name"] for column in inspect(engine).get_columns(table)} for table in inspect(engine).get_table_names()}  # fmt: skip
        tables = SQLModel.metadata.tables
        assert set(there) - {"alembic_version"} == set(tables) == {kept.name for kept in EVERY}
        assert len(EVERY) == len(KEPT)
        for kept in EVERY:
            assert there[kept.name] == set(tables[kept.name].columns.keys())
            assert ("seal" in there[kept.name]) == (kept.fate is Fate.SEALED), kept.name
        assert check_all(engine).whole
    assert check_file(home.database).whole
    assert all(rows(home.database)[kept.name] for kept in SEALED)


@pytest.mark.parametrize("kept", EVERY, ids=lambda kept: kept.name)
def test_a_table_that_is_dropped_is_missed(home: Home, kept: TableEntry) -> None:
    with closing(sqlite3.connect(home.database)) as connection:
        connection.execute("PRAGMA foreign_keys=OFF")
        connection.execute(f"DROP TABLE {kept.name}")
        connection.commit()
    found = check_file(home.database).findings
    assert f"the table “{kept.name}”" in [one.place for one in found]


@pytest.mark.parametrize("kept", SEALED, ids=lambda kept: kept.name)
def test_whatever_is_altered_or_deleted_of_it_is_found(home: Home, kept: TableEntry) -> None:
    whole = home.database.read_bytes()
    for column in kept.sealed:
        value = (
            "coalesce({0}, 0) + 1"
            if column.endswith("_id") or column in ("number", "head", "size")
            else "X'2d31' || coalesce({0}, '')"
        )
        with closing(sqlite3.connect(home.database)) as connection:
            connection.execute("PRAGMA foreign_keys=OFF")
            connection.execute(f"UPDATE {kept.name} SET {column} = {value.format(column)}")
            connection.commit()
        found = [one.place for one in check_file(home.database).findings]
        assert any(kept.noun in place or place.startswith(kept.name) for place in found), (kept.name, column, found)
        home.database.write_bytes(whole)
    spoil(home.database, f"DELETE FROM {kept.name}")
    assert f"the table “{kept.name}”" in [one.place for one in check_file(home.database).findings]


def test_what_zembra_itself_removes_is_not_missed(home: Home) -> None:
    with opened(home) as engine:
        remove_study(engine, 1)
        erase_study(engine, 1)
        assert check_all(engine).whole
    told = rows(home.database)
    assert not [kept.name for kept in SEALED if kept.of_study and told[kept.name]]


def test_what_is_carried_is_carried(home: Home, tmp_path: Path) -> None:
    with opened(home) as engine:
        assert export_home(engine, tmp_path / "all.zip").left_out == ()
    other = Home(tmp_path / "other")
    other.make()
    engine = open_database(other.database)
    import_home(engine, tmp_path / "all.zip")
    assert check_all(engine).whole
    close_database(engine)
    here, there = rows(home.database), rows(other.database)
    assert {kept.name for kept in SEALED if kept.carried} == {kept.name for kept in SEALED if there[kept.name]}
    assert all(len(here[kept.name]) == len(there[kept.name]) for kept in SEALED if kept.carried)


def test_whoever_was_given_rights_in_the_database_does_not_come_in(original: tuple[Home, str], home: Home) -> None:
    key = original[1]
    with opened(home) as engine:
        token = begin_login(engine, key, "")
        assert person_with(engine, key)
        assert login_of(engine, token, "")
    spoil(home.database, "UPDATE person SET may_change = 1")
    with opened(home) as engine:
        assert person_with(engine, key) is None
        assert login_of(engine, token, "") is None


def test_sessions_that_ended_are_no_loss(home: Home) -> None:
    with opened(home) as engine, Session(engine) as session:
        login = session.exec(select(Login)).first()
        assert login is not None
        login.made_at -= timedelta(days=60)
        session.commit()
        begin_login(engine, "another key", "")
        assert check_all(engine).whole

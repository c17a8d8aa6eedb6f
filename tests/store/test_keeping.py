"""A home: locked, backed up, put back, checked, carried elsewhere; and what is told where something is wrong with it."""

from __future__ import annotations

import gzip
import json
import os
import shutil
import sqlite3
import stat
import threading
import zipfile
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing
from datetime import UTC, datetime, timedelta
from io import BytesIO
from pathlib import Path
from typing import Any

import pytest
from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, event
from sqlmodel import Session

from tests.help import AS_OF, daily_csv
from zembra.api import create_app
from zembra.cli import main
from zembra.core.errors import Refusal
from zembra.core.intake.howread import HowRead
from zembra.service.application import Application
from zembra.store import studies
from zembra.store.backups import KEPT, Why, back_up, back_up_daily, backups, keep_backup, restore
from zembra.store.checking import check_all
from zembra.store.database import check_readable, close_database, open_database
from zembra.store.datasets import (
    dataset,
    dataset_bytes,
    keep_dataset,
    remove_dataset,
    removed_datasets,
    unused_datasets,
)
from zembra.store.errors import Altered, Stale
from zembra.store.home import Home, usual_home
from zembra.store.housekeeping import erase_long_removed, give_back, keep_house, space_of
from zembra.store.leftovers import clear_old_exports
from zembra.store.studies import KeptStudy, edit_study, kept_studies, kept_study, remove_study
from zembra.store.tables import Style
from zembra.store.transfer import export_home, import_home

NOON = datetime(2026, 11, 20, 12, tzinfo=UTC)


def filled(folder: Path) -> Home:
    """A home with two files and a study on one of them."""
    home = Home(folder)
    app = create_app(home.database, lambda: AS_OF)
    client = app.test_client()
    for name, first in (("sailings.csv", 40), ("spare.csv", 900)):
        data = daily_csv(list(range(first, first + 30)))
        told = client.post("/api/datasets", data={"file": (BytesIO(data), name)}).json
        if name == "sailings.csv":
            body = {"dataset_id": told["dataset"]["id"], "name": "Harbour Loop", "ledger": told["ledger"]}
            bench = client.post("/api/studies", json=body).json
            client.post(f"/api/studies/{bench['study']['id']}/snapshots", json={"name": "before the winter"})
    with Session(app.extensions["zembra"].engine) as session:
        session.add(Style(name="board", words="{}"))
        session.commit()
    shared: Application = app.extensions["zembra"]
    shared.queue.close()
    close_database(shared.engine)
    return home


@pytest.fixture(scope="module")
def original(tmp_path_factory: pytest.TempPathFactory) -> Home:
    return filled(tmp_path_factory.mktemp("original"))


@pytest.fixture
def home(original: Home, tmp_path: Path) -> Home:
    shutil.copy(original.database, tmp_path / "zembra.db")
    return Home(tmp_path)


def rows(path: Path) -> dict[str, list[tuple[object, ...]]]:
    """Everything a database holds, read by SQLite's own module."""
    with closing(sqlite3.connect(path)) as connection:
        names = [one for (one,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
        return {name: connection.execute(f"SELECT * FROM {name} ORDER BY 1").fetchall() for name in names}


def spoil(path: Path, statement: str) -> None:
    with closing(sqlite3.connect(path)) as connection:
        connection.execute(statement)
        connection.commit()


def test_a_home_is_its_owners_and_one_servers(home: Home, monkeypatch: pytest.MonkeyPatch) -> None:
    fresh = Home(home.folder / "new")
    with fresh.locked("zembra serve"):
        assert stat.S_IMODE(fresh.folder.stat().st_mode) == 0o700
        with pytest.raises(Refusal, match="in use: zembra serve, process"), fresh.locked("zembra restore"):
            pass
    close_database(open_database(fresh.database))
    assert stat.S_IMODE(fresh.database.stat().st_mode) == 0o600
    assert not fresh.database.with_name("zembra.db-wal").exists()
    monkeypatch.delenv("ZEMBRA_HOME", raising=False)
    monkeypatch.setenv("XDG_DATA_HOME", "/data")
    assert usual_home().folder == Path("/data/zembra")
    monkeypatch.setenv("ZEMBRA_HOME", "/kept")
    assert usual_home("zembra-demo").folder == Path("/kept")


def test_a_backup_is_the_whole_database_while_somebody_writes(home: Home) -> None:
    before = rows(home.database)
    with closing(sqlite3.connect(home.database)) as writer:
        writer.execute("BEGIN IMMEDIATE")
        writer.execute("UPDATE study SET name = 'not yet'")
        made = keep_backup(home, Why.BY_HAND)
        writer.rollback()
    assert rows(made.path) == before
    assert stat.S_IMODE(made.path.stat().st_mode) == 0o600
    assert [one.path for one in backups(home)] == [made.path]


def test_one_backup_a_day_and_the_last_few_stay(home: Home) -> None:
    made = [back_up_daily(home, NOON + timedelta(hours=8 * n)) for n in range(3 * (KEPT + 3))]
    assert sum(one is not None for one in made) == KEPT + 3
    kept = backups(home)
    assert len(kept) == KEPT
    assert kept[0].made_at == NOON + timedelta(days=KEPT + 2)


def test_a_backup_is_put_back_and_what_was_there_stays(home: Home) -> None:
    made = keep_backup(home, Why.BY_HAND)
    spoil(home.database, "UPDATE study SET name = 'later'")
    later, wanted = rows(home.database), rows(made.path)
    aside = restore(home, made.path)
    assert rows(home.database) == wanted
    assert aside is not None
    assert rows(aside) == later


def test_a_database_copied_with_its_log_is_put_back_with_it(home: Home, tmp_path: Path) -> None:
    copied = tmp_path / "copied" / "zembra.db"
    copied.parent.mkdir()
    with closing(sqlite3.connect(home.database)) as connection:
        connection.execute("PRAGMA journal_mode=WAL")
        connection.execute("PRAGMA wal_autocheckpoint=0")
        connection.execute("UPDATE study SET name = 'in the log'")
        connection.commit()
        for ending in ("", "-wal"):
            shutil.copy(f"{home.database}{ending}", f"{copied}{ending}")
    restore(home, copied)
    with closing(sqlite3.connect(home.database)) as connection:
        assert connection.execute("SELECT name FROM study").fetchone() == ("in the log",)


def test_housekeeping_goes_on_after_any_error_and_says_so(home: Home, monkeypatch: pytest.MonkeyPatch) -> None:
    app = create_app(home.database, lambda: AS_OF)
    shared = app.extensions["zembra"]

    def broken(*_: object) -> None:
        raise ZeroDivisionError("a fault of ours")

    monkeypatch.setattr("zembra.store.housekeeping.back_up_daily", broken)
    shared.housekeeper.keep()
    assert app.test_client().get("/api/keeping").json["trouble"] == "a fault of ours"
    monkeypatch.undo()
    shared.housekeeper.keep()
    assert app.test_client().get("/api/keeping").json["trouble"] == ""
    assert backups(home)


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (b"", "empty: 0 bytes"),
        (b"day,value\n" * 900, "no database of Zembra's"),
        (b"SQLite format 3\0" * 300, "damaged"),
    ],
)
def test_what_cannot_be_opened_is_told_and_left(home: Home, content: bytes, said: str) -> None:
    made = keep_backup(home, Why.BY_HAND)
    home.database.write_bytes(content)
    with pytest.raises(Refusal, match=said):
        open_database(home.database)
    with pytest.raises(Refusal, match=said):
        back_up(home.database, home.folder / "copy.db")
    assert home.database.read_bytes() == content
    aside = restore(home, made.path)
    assert aside is not None
    assert aside.read_bytes() == content
    assert len(kept_studies(open_database(home.database)).studies) == 1


def test_a_newer_database_is_left_to_the_newer_zembra(home: Home) -> None:
    spoil(home.database, "UPDATE alembic_version SET version_num = '9999'")
    with pytest.raises(Refusal, match="newer Zembra"):
        open_database(home.database)
    with pytest.raises(Refusal, match="newer Zembra"):
        restore(Home(home.folder / "other"), home.database)


def test_a_migration_is_preceded_by_a_backup(tmp_path: Path) -> None:
    home = Home(tmp_path)
    home.database.write_bytes(gzip.decompress((Path("tests/kept") / "database-0003.db.gz").read_bytes()))
    before = rows(home.database)
    close_database(open_database(home.database, lambda: keep_backup(home, Why.MIGRATION)))
    (made,) = backups(home)
    assert made.why is Why.MIGRATION
    assert rows(made.path) == before
    assert rows(home.database) != before
    close_database(open_database(home.database, lambda: pytest.fail("nothing is to be migrated")))


@pytest.mark.parametrize(
    ("statement", "place"),
    [
        ("UPDATE dataset SET data = CAST('day,value' AS BLOB) WHERE id = 2", "file 2, “spare.csv”"),
        ("UPDATE revision SET ledger = '{'", "study 1, “Harbour Loop”, revision 1"),
        ("UPDATE study SET head = 7", "study 1, “Harbour Loop”"),
        ("UPDATE style SET words = '{\"page\": 3}'", "house style “board”"),
        ("DELETE FROM dataset WHERE id = 1", "revision 1"),
    ],
)
def test_what_is_not_whole_is_found_and_named(
    home: Home, statement: str, place: str, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main(["check", "--home", str(home.folder)]) == 0
    spoil(home.database, statement)
    assert main(["check", "--home", str(home.folder)]) == 1
    assert place in capsys.readouterr().err
    found = check_all(open_database(home.database))
    assert found.findings[0].place == place
    # a file that is not there is missed in the count too
    assert len(found.findings) == (2 if statement.startswith("DELETE") else 1)


def test_a_page_of_the_database_that_is_gone_is_found(home: Home) -> None:
    size = home.database.stat().st_size
    with home.database.open("r+b") as file:
        file.seek(size // 2)
        file.write(b"\xff" * (size // 4))
    told = check_all(open_database(home.database)) if _opens(home) else None
    assert told is None or not told.whole


def _opens(home: Home) -> bool:
    try:
        open_database(home.database)
    except Refusal:
        return False
    return True


def test_altered_bytes_are_never_read_as_what_was_received(home: Home) -> None:
    spoil(home.database, "UPDATE dataset SET data = CAST('day,value' AS BLOB) WHERE id = 1")
    with pytest.raises(Altered):
        dataset_bytes(open_database(home.database), 1)
    client = create_app(home.database, lambda: AS_OF).test_client()
    assert client.get("/api/studies").status_code == 200
    for address in ("/api/studies/1", "/api/studies/1/handover/method-note.txt", "/api/studies/1/handover/points.csv"):
        answer = client.get(address)
        assert (answer.status_code, answer.json["type"]) == (422, "/problems/altered")


def test_files_and_studies_go_for_good_after_thirty_days_and_their_space_with_them(home: Home) -> None:
    engine = open_database(home.database)
    large = keep_dataset(
        engine, "large.csv", b"day,value\n" + b"x" * 40_000_000, HowRead.model_validate_json(dataset(engine, 1).how)
    )
    assert large.id is not None
    with pytest.raises(Refusal, match="Harbour Loop"):
        remove_dataset(engine, 1)
    remove_dataset(engine, large.id)
    remove_study(engine, 1)
    assert [one.name for one in unused_datasets(engine)] == ["spare.csv"]
    assert [one.name for one in removed_datasets(engine)] == ["large.csv"]
    today = datetime.now(UTC)
    assert erase_long_removed(engine, today + timedelta(days=29)) == 0
    keep_house(home, engine, today + timedelta(days=31))
    assert removed_datasets(engine) == []
    assert kept_studies(engine).removed == ()
    assert home.database.stat().st_size < 5_000_000
    assert space_of(home, engine).free == 0
    give_back(engine)


def test_everything_is_carried_into_another_home(home: Home, tmp_path: Path) -> None:
    source = open_database(home.database)
    export_home(source, tmp_path / "all.zip")
    with zipfile.ZipFile(tmp_path / "all.zip") as archive:
        assert archive.testzip() is None
        assert json.loads(archive.read("home.json"))["format"] == "zembra.home/1"
        assert archive.read("files/1") == dataset_bytes(source, 1)
    other = Home(tmp_path / "other")
    engine = open_database(other.database)
    carried = import_home(engine, tmp_path / "all.zip")
    assert (carried.files, carried.studies, carried.known) == (2, 1, 0)
    ours, theirs = rows(home.database), rows(other.database)
    assert {name for name in ours if ours[name] != theirs[name]} <= {"summary", "judgedresult", "mark"}
    # once more changes nothing
    assert import_home(engine, tmp_path / "all.zip").known == 1
    assert rows(other.database) == theirs
    assert check_all(engine).whole


@pytest.mark.parametrize(
    ("member", "text", "said"),
    [
        ("home.json", '{"format": "zembra.home/2"}', "newer Zembra"),
        ("home.json", '{"format": "other/1"}', "does not know"),
        ("studies/1.json", '{"name": 3}', "not whole: 'revisions'"),
        ("files/1", "day,value", "not as it was received"),
        ("styles.json", "[{]", "no JSON"),
    ],
)
def test_an_export_that_is_not_whole_changes_nothing(
    home: Home, tmp_path: Path, member: str, text: str, said: str
) -> None:
    export_home(open_database(home.database), tmp_path / "all.zip")
    with zipfile.ZipFile(tmp_path / "all.zip") as whole, zipfile.ZipFile(tmp_path / "bad.zip", "w") as bad:
        for name in whole.namelist():
            bad.writestr(name, text if name == member else whole.read(name))
    other = Home(tmp_path / "other")
    engine = open_database(other.database)
    before = rows(other.database)
    with pytest.raises(Refusal, match=said):
        import_home(engine, tmp_path / "bad.zip", all_or_nothing=True)
    assert rows(other.database) == before


def test_the_commands_back_up_restore_export_and_import(
    home: Home, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    at = ["--home", str(home.folder)]
    assert main(["backup", str(tmp_path / "b.db"), *at]) == 0
    assert main(["export", str(tmp_path / "all.zip"), *at]) == 0
    assert main(["import", str(tmp_path / "all.zip"), "--home", str(tmp_path / "new")]) == 0
    assert rows(tmp_path / "new" / "zembra.db")["study"] == rows(home.database)["study"]
    assert main(["restore", str(tmp_path / "b.db"), *at]) == 0
    assert main(["restore", *at]) == 0
    assert "before-restore" in capsys.readouterr().out
    with home.locked("zembra serve"):
        assert main(["restore", str(tmp_path / "b.db"), *at]) == 2
        assert main(["serve", "--port", "0", *at]) == 2
    assert "in use: zembra serve" in capsys.readouterr().err
    assert main(["check", "--home", str(tmp_path / "nowhere")]) == 2


def test_a_full_disk_and_a_read_only_one_are_told_and_nothing_is_lost(home: Home) -> None:
    app = create_app(home.database, lambda: AS_OF)
    client, engine = app.test_client(), app.extensions["zembra"].engine
    before = rows(home.database)
    for pragma, said in (("max_page_count = 1", "disk is full"), ("query_only = ON", "only be read")):

        def set_pragma(connection: sqlite3.Connection, _: object, told: str = pragma) -> None:
            connection.execute(f"PRAGMA {told}")

        engine.dispose()
        event.listen(engine, "connect", set_pragma)
        data = {"file": (BytesIO(daily_csv(list(range(20_000)))), "more.csv")}
        answer = client.post("/api/datasets", data=data)
        event.remove(engine, "connect", set_pragma)
        assert (answer.status_code, answer.json["type"]) == (503, "/problems/database")
        assert said in answer.json["detail"]
        assert rows(home.database) == before


def test_a_migration_that_is_broken_off_leaves_the_database_as_it_was(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """As a kill in the middle of it would: the tables it had made are gone with it, and the next start makes them."""
    home = Home(tmp_path)
    home.database.write_bytes(gzip.decompress((Path("tests/kept") / "database-0003.db.gz").read_bytes()))
    upgrade = command.upgrade

    def broken_off(config: Config, _: str) -> None:
        upgrade(config, "0006")
        raise KeyboardInterrupt

    monkeypatch.setattr("zembra.store.database.command.upgrade", broken_off)
    with pytest.raises(KeyboardInterrupt):
        open_database(home.database)
    with closing(sqlite3.connect(home.database)) as connection:
        tables = {name for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    assert "revision" in tables
    assert "note" not in tables
    assert check_readable(home.database) == "0003"
    monkeypatch.undo()
    engine = open_database(home.database)
    assert check_all(engine).findings == ()
    close_database(engine)


def test_others_reach_a_home_with_a_key_only(
    home: Home, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    at = ["--port", "0", "--home", str(home.folder)]
    for host in ("0.0.0.0", "192.168.7.7", "::", "ferry.example"):
        assert main(["serve", "--host", host, *at]) == 2
        assert "others could reach Zembra" in capsys.readouterr().err
    monkeypatch.setenv("ZEMBRA_BEHIND_PROXY", "1")
    assert main(["serve", *at]) == 2
    assert "Behind another server" in capsys.readouterr().err
    monkeypatch.setenv("ZEMBRA_KEY", "aaaaaaaaaaaabb")
    assert main(["serve", *at]) == 2
    assert "repeats a few letters" in capsys.readouterr().err
    monkeypatch.delenv("ZEMBRA_BEHIND_PROXY")
    monkeypatch.setenv("ZEMBRA_KEY", "short")
    assert main(["serve", *at]) == 2
    assert "too short" in capsys.readouterr().err
    monkeypatch.setenv("ZEMBRA_PORT", "none")
    assert main(["serve", "--home", str(home.folder)]) == 2
    assert "“none” is not a whole number above zero. Where: ZEMBRA_PORT" in capsys.readouterr().err
    monkeypatch.delenv("ZEMBRA_PORT")
    monkeypatch.setenv("ZEMBRA_MAX_UPLOAD_MB", "much")
    monkeypatch.delenv("ZEMBRA_KEY")
    assert main(["serve", *at]) == 2
    assert "“much” is not a whole number" in capsys.readouterr().err


def test_exports_that_nobody_fetched_go_after_a_day(home: Home) -> None:
    old, fresh = home.folder / ".export-old.zip", home.folder / ".export-fresh.zip"
    part = home.folder / "..export-old.zip.part"
    for file in (old, fresh, part):
        file.write_bytes(b"PK")
    for file in (old, part):
        os.utime(file, (NOON.timestamp() - 90_000, NOON.timestamp() - 90_000))
    os.utime(fresh, (NOON.timestamp(), NOON.timestamp()))
    clear_old_exports(home, NOON)
    assert (old.exists(), part.exists(), fresh.exists()) == (False, False, True)


def test_of_two_edits_on_one_revision_only_one_is_taken(home: Home, monkeypatch: pytest.MonkeyPatch) -> None:
    """The other one comes at the worst moment: when this one has looked which revision is the newest."""
    engine = open_database(home.database)
    before = kept_study(engine, 1)
    seal, busy = studies.resealed, threading.Lock()

    def meanwhile(*given: Any, **named: Any) -> str:
        if busy.acquire(blocking=False):
            with ThreadPoolExecutor(1) as other:
                other.submit(edit, engine, before, "theirs").result()
        return seal(*given, **named)

    monkeypatch.setattr(studies, "resealed", meanwhile)
    with pytest.raises(Stale):
        edit(engine, before, "mine")
    assert kept_study(engine, 1).revision.what == "theirs"
    close_database(engine)


def edit(engine: Engine, kept: KeptStudy, what: str) -> KeptStudy:
    return edit_study(engine, 1, kept.revision.number, kept.ledger, kept.figure, what)

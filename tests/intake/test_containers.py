"""Arrow, SQLite and archives of several tables: made by others' writers, read as the same table as CSV; broken ones refused in words."""

from __future__ import annotations

import io
import random
import sqlite3
import zipfile
from contextlib import suppress
from pathlib import Path

import pyarrow as pa
import pyarrow.csv
import pyarrow.feather
import pyarrow.ipc
import pytest
from flask.testing import FlaskClient

from tests.api.test_api import bring_in as handed_in
from zembra.core.asking.ask import open_questions
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.errors import Refusal
from zembra.core.intake import sqlitefile
from zembra.core.intake.bringin import BroughtIn, bring_in
from zembra.core.intake.formats import detect_table
from zembra.core.intake.howread import FileForm
from zembra.core.ledger.run import run
from zembra.demo import AS_OF, demo_file

SAILINGS = demo_file("sailings.csv")
TABLE = pyarrow.csv.read_csv(
    io.BytesIO(SAILINGS), convert_options=pyarrow.csv.ConvertOptions(column_types={"passengers": pa.string()})
)


def numbers(brought: BroughtIn) -> list[tuple[object, ...]]:
    (frame,) = [frame for name, frame in brought.observations.frames.items() if name == "passengers"]
    return frame.select("series", "when", "value").rows()


def arrow(stream: bool) -> bytes:
    out = io.BytesIO()
    with (pa.ipc.new_stream if stream else pa.ipc.new_file)(out, TABLE.schema) as writer:
        writer.write_table(TABLE)
    return out.getvalue()


def sqlite(tmp_path: Path) -> bytes:
    path = tmp_path / "ferry.db"
    database = sqlite3.connect(path)
    database.execute("create table crew (name text, photo blob)")
    database.execute("insert into crew values ('Ada', x'00ff')")
    database.execute("create table sailings (day text, route text, passengers text, vehicles integer)")
    database.executemany("insert into sailings values (?, ?, ?, ?)", [tuple(row.values()) for row in TABLE.to_pylist()])
    database.execute(
        'create view "busy days" as select day, passengers as p, passengers as p from sailings where vehicles > 40'
    )
    database.execute(
        "create view endless as with recursive n(x) as (select 1 union all select x + 1 from n) select x from n"
    )
    database.commit()
    database.close()
    return path.read_bytes()


def archive(**files: bytes) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as zipped:
        for name, data in files.items():
            zipped.writestr(name.replace("__", "."), data)
    return out.getvalue()


def feather() -> bytes:
    out = io.BytesIO()
    pyarrow.feather.write_feather(TABLE, out, compression="lz4")
    return out.getvalue()


def test_the_same_table_comes_out_of_each(tmp_path: Path) -> None:
    plain = numbers(bring_in(SAILINGS))
    zipped = archive(readme__pdf=b"%PDF-", notes__txt=b"nothing to see\n", sailings__csv=SAILINGS)
    for data, form in (
        (arrow(stream=False), FileForm.ARROW),
        (arrow(stream=True), FileForm.ARROW),
        (feather(), FileForm.ARROW),
        (sqlite(tmp_path), FileForm.SQLITE),
        (zipped, FileForm.ARCHIVE),
    ):
        brought = bring_in(data)
        assert brought.how.table.form is form
        assert numbers(brought) == plain


def test_tables_are_offered_like_sheets(tmp_path: Path) -> None:
    data = sqlite(tmp_path)
    brought = bring_in(data)
    assert brought.how.table.sheet == "sailings"
    assert brought.table.sheets == ("crew", "sailings", "busy days", "endless")
    ledger = first_ledger(brought.observations, brought.how, AS_OF)
    asked = open_questions(brought, run(brought.observations, ledger, AS_OF))
    assert any("more tables with a table" in question.title for question in asked)
    other = bring_in(data, table_how=detect_table(data, "busy days"))
    assert other.table.columns == ("day", "p", "p:1")
    with pytest.raises(Refusal, match="has no table named “deck”"):
        bring_in(data, table_how=detect_table(data, "deck"))


def test_nothing_is_written_nothing_else_is_reached_and_it_ends(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "sly.db"
    database = sqlite3.connect(path)
    database.execute("create table sailings (day text, riders integer)")
    database.execute("insert into sailings values ('2026-01-01', 3)")
    database.execute("create view sly as select load_extension('/tmp/x') as day")
    database.commit()
    database.close()
    data = path.read_bytes()
    with pytest.raises(Refusal, match="SQLite file cannot be read"):
        bring_in(data, table_how=detect_table(data, "sly"))
    with monkeypatch.context() as patched:
        patched.setattr(sqlitefile, "MOST_STEPS", 3_000_000)
        endless = sqlite(tmp_path)
        with pytest.raises(Refusal, match="interrupted"):
            bring_in(endless, table_how=detect_table(endless, "endless"))
    assert path.read_bytes() == data


@pytest.mark.parametrize("seed", range(12))
def test_broken_ones_are_refused_in_words(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, seed: int) -> None:
    rng = random.Random(seed)
    monkeypatch.setattr(sqlitefile, "MOST_STEPS", 3_000_000)
    for whole in (arrow(stream=False), feather(), sqlite(tmp_path), archive(a__csv=SAILINGS, b__csv=SAILINGS)):
        data = bytearray(whole)
        if rng.random() < 0.5:
            data = data[: rng.randrange(4, len(data))]
        for _ in range(rng.randrange(1, 40)):
            data[rng.randrange(len(data))] = rng.randrange(256)
        # read all the same, or refused: nothing else may be raised
        with suppress(Refusal):
            bring_in(bytes(data))


def test_an_archive_in_an_archive_and_one_without_tables() -> None:
    inner = archive(a__csv=SAILINGS, b__csv=SAILINGS)
    with pytest.raises(Refusal, match="inside another file is not read"):
        bring_in(archive(one__bin=inner, two__bin=inner))
    with pytest.raises(Refusal, match="holds no table"):
        bring_in(archive(a__pdf=b"%PDF-", b__png=b"\x89PNG"))


def test_they_are_handed_in(client: FlaskClient, tmp_path: Path) -> None:
    for name, data in (("ferry.db", sqlite(tmp_path)), ("sailings.feather", feather())):
        told = handed_in(client, data, name).json
        assert told["dataset"]["name"] == name
        assert len(told["options"]["series"]) == 4

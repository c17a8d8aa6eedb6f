"""What comes from anywhere is read under one budget: packages, bodies of JSON, frozen numbers; and nothing of it stays."""

from __future__ import annotations

import gc
import io
import os
import zipfile
from collections.abc import Callable
from pathlib import Path

import polars as pl
import pytest
from flask.testing import FlaskClient
from sqlmodel import Session

from tests.api.test_api import begin
from tests.help import AS_OF, answered, daily_csv
from zembra.api import create_app
from zembra.service.application import Application
from zembra.store.home import Home
from zembra.store.leftovers import clear_leftovers
from zembra.store.tables import Snapshot


def zipped(members: dict[str, bytes], times: int = 1) -> bytes:
    """times: how often the content of each is repeated."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in members.items():
            with archive.open(name, "w") as member:
                for _ in range(times):
                    member.write(content)
    return out.getvalue()


def peak_of(work: Callable[[], object]) -> int:
    """Bytes that this process took more than before while it worked."""
    gc.collect()
    Path("/proc/self/clear_refs").write_text("5")
    before = memory("VmRSS")
    work()
    return memory("VmHWM") - before


def memory(name: str) -> int:
    line = next(one for one in Path("/proc/self/status").read_text().splitlines() if one.startswith(name))
    return int(line.split()[1]) * 1024


def encrypted() -> bytes:
    data = bytearray(zipped({"study.json": b"{}"}))
    for at, name in ((6, b"PK\x03\x04"), (8, b"PK\x01\x02")):
        place = data.index(name) + at
        data[place] |= 1
    return bytes(data)


def unknown_method() -> bytes:
    data = bytearray(zipped({"study.json": b"{}"}))
    for at, name in ((8, b"PK\x03\x04"), (10, b"PK\x01\x02")):
        place = data.index(name) + at
        data[place : place + 2] = b"\x63\x00"
    return bytes(data)


def broken_deflate() -> bytes:
    data = bytearray(zipped({"study.json": bytes(range(256)) * 40}))
    place = data.index(b"study.json") + 12
    data[place : place + 40] = b"\xff" * 40
    return bytes(data)


PACKAGES = {
    "no archive": b"PK\x03\x04 nothing",
    "another archive": zipped({"a.txt": b"a"}),
    "encrypted": encrypted(),
    "of an unknown method": unknown_method(),
    "with a broken member": broken_deflate(),
    "a list of lists": zipped({"study.json": b"[[],[]],[" * 100_000}, 300),
    "deeply nested": zipped({"study.json": b"[" * 1_000_000}),
    "a number of a million digits": zipped({"study.json": b'{"format": ' + b"9" * 1_000_000 + b"}"}),
}


@pytest.mark.parametrize("name", PACKAGES)
def test_a_hostile_package_is_refused_in_a_sentence(client: FlaskClient, name: str) -> None:
    answers = []

    def send() -> None:
        answers.append(
            answered(client, client.post("/api/packages", data={"file": (io.BytesIO(PACKAGES[name]), "study.zip")}))
        )

    assert peak_of(send) < 100_000_000
    assert answers[0].status_code == 422, answers[0].data[:300]
    assert "Traceback" not in answers[0].text


HEAVY = b'{"a": [' + b"[[]]," * 2_400_000 + b"[]]}"
LONG = b'{"a": "' + b"x" * 17_000_000 + b'"}'


@pytest.mark.parametrize(
    ("body", "status", "said"),
    [
        (HEAVY, 422, "more than 256 MB of memory"),
        (LONG, 413, "17 MB"),
        (b'{"name": "' + b"x" * 1_500_000 + b'"}', 422, "dataset id"),
    ],
    ids=["heavy", "long", "only large"],
)
def test_a_large_body_is_weighed_before_it_is_taken(tmp_path: Path, body: bytes, status: int, said: str) -> None:
    client = create_app(tmp_path / "zembra.db", lambda: AS_OF, limit_mb=60).test_client()
    answers = []

    def send() -> None:
        answers.append(client.post("/api/studies", data=body, content_type="application/json"))

    assert peak_of(send) < 100_000_000
    assert answers[0].status_code == status
    assert said in answers[0].text


def test_frozen_numbers_that_ask_for_gigabytes_are_refused(client: FlaskClient) -> None:
    bench = begin(client)
    study = bench["study"]["id"]
    shared: Application = client.application.extensions["zembra"]
    out = io.BytesIO()
    pl.select(
        pl.repeat("riders", 40_000_000).alias("series"), pl.repeat("2026-01-01", 40_000_000).alias("period")
    ).write_parquet(out, compression="zstd")
    told = dict.fromkeys(("svg", "alt", "note"), "x")
    with Session(shared.engine) as session:
        session.add(
            Snapshot(
                study_id=study,
                name="bomb",
                revision=1,
                as_of=AS_OF,
                points=out.getvalue(),
                lines=b"x",
                account=b"x",
                **told,
            )
        )
        session.commit()
    answers = []
    assert peak_of(lambda: answers.append(client.get(f"/api/studies/{study}/snapshots/1"))) < 200_000_000
    assert answers[0].status_code == 422
    assert "snapshot" in answers[0].text


def test_nothing_of_a_refused_file_stays(tmp_path: Path) -> None:
    app = create_app(tmp_path / "zembra.db", lambda: AS_OF, limit_mb=60)
    client = app.test_client()
    shared: Application = app.extensions["zembra"]
    heavy = b"\x00" + os.urandom(1_000) * 25_000

    for _ in range(2):
        client.post("/api/datasets", data={"file": (io.BytesIO(heavy), "noise.csv")})
    gc.collect()
    before = memory("VmRSS")
    for _ in range(6):
        answer = client.post("/api/datasets", data={"file": (io.BytesIO(heavy), "noise.csv")})
        assert answer.status_code == 422
    gc.collect()
    assert memory("VmRSS") - before < 2 * len(heavy)
    assert not any(Home(tmp_path).incoming.iterdir())
    shared.queue.close()


def test_leftovers_of_kills_go_and_nothing_else(tmp_path: Path) -> None:
    home = Home(tmp_path)
    ours = (".zembra.db.17.new", ".export-ab.zip", ".zembra.db.part", "incoming/file-x", "backups/.zembra-1.db.part")
    theirs = (
        "zembra.db",
        "notes.txt",
        ".hidden",
        "my.part",
        "backups/zembra-000001-2026-01-01T000000-daily.db",
        "a.zip",
    )
    for name in (*ours, *theirs):
        (tmp_path / name).parent.mkdir(exist_ok=True)
        (tmp_path / name).write_bytes(daily_csv([1, 2]))
    assert clear_leftovers(home) == len(ours)
    assert [name for name in theirs if (tmp_path / name).exists()] == list(theirs)
    assert not [name for name in ours if (tmp_path / name).exists()]

"""Handing over pictures, numbers and the account: each file read back by somebody else's reader."""

from __future__ import annotations

import csv
import hashlib
import io
import json
import re
import struct
import zipfile
from collections.abc import Iterator
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

import openpyxl
import polars as pl
import pytest
from defusedxml.ElementTree import fromstring
from flask.testing import FlaskClient
from pypdf import PdfReader

from tests.api.test_api import begin
from tests.help import AS_OF, FIRST, answered, handed_over
from zembra.api.app import create_app

DAYS = 50
ROUTES = ("Harbour Loop", "=1+1")


def rows() -> bytes:
    told = ["day," + ",".join(ROUTES)]
    told += [f"{FIRST + timedelta(n)},{'' if n == 9 else 100 + n % 7 * 5},{n * 2}" for n in range(DAYS)]
    return "\n".join(told).encode()


def study(client: FlaskClient, picture: dict[str, Any] | None = None) -> tuple[str, dict[str, Any]]:
    """A study with an average, a projection and a picture; its address and its bench."""
    bench = begin(client, rows())
    address = f"/api/studies/{bench['study']['id']}"
    entries = [
        {"id": "fill", "kind": "blanks"},
        {"id": "avg", "kind": "average", "params": {"window": {"kind": "periods", "length": 7, "need": 5}}},
        {
            "id": "ahead",
            "kind": "projection",
            "params": {
                "series": ["Harbour Loop"],
                "method": {"kind": "last-season"},
                "ahead": {"kind": "periods", "count": 7},
            },
        },
    ]
    ledger = {**bench["ledger"], "entries": [*bench["ledger"]["entries"], *entries]}
    settings = {**bench["settings"], "pictures": [picture] if picture else []}
    body = {"base": bench["study"]["revision"], "ledger": ledger, "settings": settings, "what": "made"}
    answer = client.put(f"{address}/revision", json=body)
    assert answer.status_code == 200, answer.json
    return address, answer.json


def handed(client: FlaskClient, address: str, name: str, query: str = "") -> bytes:
    answer = handed_over(client, f"{address}/handover/{name}{query}")
    assert answer.status_code == 200, answer.json
    return bytes(answer.data)


def fonts_of(resources: Any) -> Iterator[str]:
    """Names of the fonts that a page takes, and of those of what it is made of."""
    for one in resources.get("/Font", {}).values():
        yield one.get_object()["/BaseFont"].split("+")[-1]
    for one in resources.get("/XObject", {}).values():
        yield from fonts_of(one.get_object().get("/Resources", {}))


PAGE = {"made_for": "px", "width": 640, "height": 360}
PICTURE = {"name": "board <slide>", "headings": {"title": "Two routes & more", "under": None}, "page": PAGE}


def test_png_svg_and_pdf_are_pictures_of_the_sheet(client: FlaskClient) -> None:
    address, _ = study(client, PICTURE)
    png = handed(client, address, "picture.png", "?times=3")
    assert png[:8] == b"\x89PNG\r\n\x1a\n"
    assert struct.unpack(">II", png[16:24]) == (1920, 1080)
    answer = handed_over(client, f"{address}/handover/picture.svg")
    assert re.search(r'filename="[a-z0-9-]+-\d{4}-\d\d-\d\d-picture\.svg"', answer.headers["content-disposition"])
    root = fromstring(answer.data)
    told = [one.text for one in root.iter("{http://www.w3.org/2000/svg}text")]
    assert "Two routes & more" in told
    assert "Projected, not measured" in root.find("{http://www.w3.org/2000/svg}desc").text
    assert b"font/woff2;base64" in answer.data
    reader = PdfReader(io.BytesIO(handed(client, address, "picture.pdf")))
    (page,) = reader.pages
    assert [round(float(one)) for one in page.mediabox[2:]] == [480, 270]
    assert "Two routes & more" in page.extract_text()
    assert reader.metadata.title == "Two routes & more"
    fonts = set(fonts_of(page["/Resources"]))
    assert fonts
    assert fonts <= {"SourceSans3-Regular", "SourceSans3-SemiBold", "SourceSerif4-SemiBold"}
    assert handed_over(client, f"{address}/handover/picture.png?picture=5").status_code == 422
    assert handed_over(client, f"{address}/handover/picture.png?times=99").status_code == 422


def test_the_workbook_holds_true_dates_and_numbers_and_nothing_that_runs(client: FlaskClient) -> None:
    address, _ = study(client)
    book = openpyxl.load_workbook(io.BytesIO(handed(client, address, "numbers.xlsx")))
    assert book.sheetnames == ["Points", "Readings and projections", "Evidence", "Follow-up", "Chart", "Method note"]
    points = list(book["Points"].iter_rows(min_row=2, values_only=True))
    harbour = [row for row in points if row[0] == "Harbour Loop"]
    assert [row[1] for row in harbour] == [
        datetime.combine(FIRST + timedelta(n), datetime.min.time()) for n in range(DAYS)
    ]
    expected = [100 + n % 7 * 5 for n in range(DAYS)]
    assert [row[3] for row in harbour if row[5] == "measured"] == [v for n, v in enumerate(expected) if n != 9]
    assert harbour[9][2] is None
    assert harbour[9][5] == "filled"
    filled = book["Points"].cell(row=2 + [row[1] for row in points].index(harbour[9][1]), column=6)
    assert filled.fill.patternType is not None
    assert book["Points"].freeze_panes == "A2"
    assert book["Points"].auto_filter.ref
    cells = [cell for sheet in book for row in sheet.iter_rows() for cell in row]
    assert {cell.data_type for cell in cells} <= {"s", "n", "d"}
    assert any(cell.value == "=1+1" and cell.data_type == "s" for cell in cells)
    lines = list(book["Readings and projections"].iter_rows(min_row=2, values_only=True))
    levels = {row[7] for row in lines if row[2] == "projection"}
    assert levels == {80, 95}
    projected = [row[4] for row in lines if row[2] == "projection" and row[7] == 80]
    assert projected == [expected[DAYS - 7 + n] for n in range(7)]


def test_parquet_and_csv_hold_the_same_numbers(client: FlaskClient) -> None:
    address, _ = study(client)
    frame = pl.read_parquet(io.BytesIO(handed(client, address, "points.parquet")))
    told = list(csv.DictReader(io.StringIO(handed(client, address, "points.csv").decode())))
    assert frame["value"].to_list() == [float(row["value"]) if row["value"] else None for row in told]
    assert set(frame["series"]) == set(ROUTES)
    lines = pl.read_parquet(io.BytesIO(handed(client, address, "lines.parquet")))
    assert lines.schema["upper"] == pl.Float64


def test_the_account_is_read_without_zembra(client: FlaskClient) -> None:
    address, bench = study(client, PICTURE)
    reader = PdfReader(io.BytesIO(handed(client, address, "account.pdf")))
    assert 1 <= len(reader.pages) <= 3
    text = " ".join(" ".join(page.extract_text().split()) for page in reader.pages)
    assert bench["study"]["sha256"] in text.replace(" ", "")
    for entry in bench["entries"]:
        said = "".join(part["text"] for part in entry["parts"])
        assert said[1:40].replace(" ", "") in text.replace(" ", "")
    assert "What came in, and what it is now" in text


def test_everything_zipped_makes_the_same_study_elsewhere(client: FlaskClient, tmp_path: Path) -> None:
    address, _ = study(client, PICTURE)
    note = {
        "series": "Harbour Loop",
        "period": str(FIRST),
        "note": "asked the port",
        "state": "asked",
        "who": "Ada",
        "by_hand": True,
    }
    assert client.put(f"{address}/follow-up", json=note).status_code == 200
    data = handed(client, address, "everything.zip")
    assert data == handed(client, address, "everything.zip")
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        about = json.loads(archive.read("datapackage.json"))
        for resource in about["resources"]:
            content = archive.read(resource["path"])
            assert resource["hash"] == f"sha256:{hashlib.sha256(content).hexdigest()}"
            head = next(csv.reader(io.StringIO(content.decode())))
            assert [one["name"] for one in resource["schema"]["fields"]] == head
        (received,) = (name for name in archive.namelist() if name.startswith("received/"))
        assert archive.read(received) == rows()
    elsewhere = create_app(tmp_path / "other.db", lambda: AS_OF).test_client()
    answer = answered(elsewhere, elsewhere.post("/api/packages", data={"file": (io.BytesIO(data), "everything.zip")}))
    assert answer.status_code == 201, answer.json
    there = f"/api/studies/{answer.json['id']}"
    for name in ("points.csv", "lines.csv", "picture.svg", "follow-up.csv", "ledger.json"):
        ours, theirs = handed(client, address, name), handed(elsewhere, there, name)
        if name == "follow-up.csv":  # when it was noted is told too
            ours, theirs = (b"\n".join(line.rsplit(b",", 2)[0] for line in one.splitlines()) for one in (ours, theirs))
        assert ours == theirs, name
    # without the received file it needs that file to be there
    light = handed(client, address, "everything.zip", "?received=false")
    empty = create_app(tmp_path / "empty.db", lambda: AS_OF).test_client()
    refused = answered(empty, empty.post("/api/packages", data={"file": (io.BytesIO(light), "e.zip")}))
    assert refused.status_code == 422
    assert "not here either" in refused.json["detail"]
    assert (
        answered(elsewhere, elsewhere.post("/api/packages", data={"file": (io.BytesIO(light), "e.zip")})).status_code
        == 201
    )


@pytest.mark.parametrize("data", [b"", b"PK\x03\x04 no zip", b"day,value\n2026-01-01,3\n"])
def test_what_is_no_package_is_refused(client: FlaskClient, data: bytes) -> None:
    answer = answered(client, client.post("/api/packages", data={"file": (io.BytesIO(data), "x.zip")}))
    assert answer.status_code == 422


def test_a_changed_package_is_refused(client: FlaskClient) -> None:
    address, _ = study(client)
    out = io.BytesIO()
    with (
        zipfile.ZipFile(io.BytesIO(handed(client, address, "everything.zip"))) as old,
        zipfile.ZipFile(out, "w") as new,
    ):
        for one in old.namelist():
            content = old.read(one)
            new.writestr(one, content + b"\n2027-01-01,1,1" if one.startswith("received/") else content)
    answer = answered(client, client.post("/api/packages", data={"file": (io.BytesIO(out.getvalue()), "x.zip")}))
    assert answer.status_code == 422
    assert "not the one" in answer.json["detail"]


def test_a_snapshot_stays_and_tells_what_changed_since(client: FlaskClient) -> None:
    address, bench = study(client, PICTURE)
    taken = handed_over(client, f"{address}/snapshots", "POST", json={"name": "September board"}).json
    before = handed_over(client, f"{address}/snapshots/{taken['id']}").json
    assert before["points"]["counts"] == {}
    assert before["lines"]["counts"] == {}
    ledger = bench["ledger"]
    entries = [one for one in ledger["entries"] if one["id"] != "fill"]
    body = {
        "base": bench["study"]["revision"], "ledger": {**ledger, "entries": entries}, "settings": bench["settings"],
        "what": "no fill",
    }  # fmt: skip
    assert client.put(f"{address}/revision", json=body).status_code == 200
    after = handed_over(client, f"{address}/snapshots/{taken['id']}").json
    assert after["svg"] == before["svg"]
    (changed,) = after["points"]["rows"]
    assert (changed["period"], changed["was"], changed["now"]) == (str(FIRST + timedelta(9)), 110, None)
    assert changed["said"] == "was filled, is open"
    # averages that counted the estimate changed with it
    assert after["lines"]["counts"]["another value"] >= 7
    assert [one["name"] for one in client.get(f"{address}/snapshots").json["snapshots"]] == ["September board"]
    frozen = pl.read_parquet(io.BytesIO(client.get(f"{address}/snapshots/{taken['id']}/points.parquet").data))
    assert frozen.filter(pl.col("condition") == "filled").height == 1
    assert client.delete(f"{address}/snapshots/{taken['id']}").status_code == 204
    assert client.get(f"{address}/snapshots/{taken['id']}").status_code == 404


def test_a_house_style_is_kept_and_used_by_another_study(client: FlaskClient) -> None:
    dress = {**PICTURE, "lines": [{"id": "Harbour Loop", "colour": "#123456", "weight": "heavy"}]}
    _, bench = study(client, dress)
    _, there = study(client)
    style = {"name": "ours", "study_id": bench["study"]["id"], "place": 0}
    assert client.put("/api/styles", json=style).json == {"names": ["ours"]}
    used = client.post("/api/styles/used", json={**style, "study_id": there["study"]["id"]}).json["picture"]
    assert used["page"]["made_for"] == "px"
    assert next(one for one in used["lines"] if one["id"] == "Harbour Loop")["colour"] == "#123456"
    assert used["headings"]["title"] != PICTURE["headings"]
    assert json.loads(client.get("/api/styles/file?name=ours").data)["format"] == "zembra.style/1"
    assert client.post("/api/styles/used", json={**style, "name": "gone"}).status_code == 404
    assert client.delete("/api/styles?name=ours").status_code == 204
    assert client.get("/api/styles").json == {"names": []}


def test_previews_keep_nothing_and_refuse_what_is_no_dress(client: FlaskClient) -> None:
    address, _ = study(client, PICTURE)
    shown = client.get(f"{address}/pictures/0").json
    picture = {**shown["picture"], "page": {**PAGE, "on": "paper"}}
    preview = client.post(f"{address}/pictures/0/preview", json={"picture": picture}).json
    assert preview["figure"]["page"]["ground"] == "paper"
    assert client.get(f"{address}/pictures/0").json == shown
    bad = {**picture, "lines": [{"id": "x", "colour": "javascript:alert(1)"}]}
    assert client.post(f"{address}/pictures/0/preview", json={"picture": bad}).status_code == 422
    assert client.get(f"{address}/pictures/7").status_code == 422


HOSTILE = (
    "<script>alert(1)</script>",
    "=cmd()",
    "\u202eخط",
    "🚢 ferry",
    "x" * 300,
    "#let a = [",
    "../../etc/passwd",
    "a\u0007b",
)


def test_hostile_names_pass_through_every_file(client: FlaskClient) -> None:
    head = ",".join(["day", *(f'"{name}"' for name in HOSTILE)])
    told = [
        head,
        *(f"{FIRST + timedelta(n)},{','.join(str(n % 7 + k) for k in range(len(HOSTILE)))}" for n in range(40)),
    ]
    bench = begin(client, "\n".join(told).encode())
    address = f"/api/studies/{bench['study']['id']}"
    names = [one["name"] for one in client.get(address).json["figure"]["series"]]
    series = {"series": names[:1], "ahead": {"kind": "periods", "count": 5}, "method": {"kind": "last-season"}}
    ledger = {
        **bench["ledger"],
        "entries": [*bench["ledger"]["entries"], {"id": "p", "kind": "projection", "params": series}],
    }
    picture = {
        "name": HOSTILE[0], "headings": {"title": HOSTILE[2], "under": HOSTILE[5]}, "what": {"shown": list(names)},
        "notes": {"source": HOSTILE[1], "footnote": HOSTILE[0]}, "alt": HOSTILE[5] + HOSTILE[2],
    }  # fmt: skip
    body = {
        "base": 1, "ledger": ledger, "settings": {**bench["settings"], "pictures": [picture]}, "what": HOSTILE[0],
    }  # fmt: skip
    assert client.put(f"{address}/revision", json=body).status_code == 200
    client.put(f"{address}/name", json={"name": HOSTILE[6]})
    fromstring(handed(client, address, "picture.svg"))
    for name in ("picture.pdf", "account.pdf"):
        reader = PdfReader(io.BytesIO(handed(client, address, name)))
        assert "/JavaScript" not in str(reader.trailer["/Root"])
    assert "<script>alert(1)</script>" in PdfReader(io.BytesIO(handed(client, address, "account.pdf"))).pages[
        -1
    ].extract_text().replace(" ", "").replace("\n", "")
    book = openpyxl.load_workbook(io.BytesIO(handed(client, address, "numbers.xlsx")))
    assert {cell.data_type for sheet in book for row in sheet.iter_rows() for cell in row} <= {"s", "n", "d"}
    for row in csv.reader(io.StringIO(handed(client, address, "points.csv").decode())):
        assert not row[0].startswith("=")
    with zipfile.ZipFile(io.BytesIO(handed(client, address, "everything.zip"))) as archive:
        for name in archive.namelist():
            assert ".." not in name
            assert not name.startswith("/")
    answer = handed_over(client, f"{address}/handover/picture.png")
    assert re.fullmatch(r'attachment; filename="[a-z0-9.-]+"', answer.headers["content-disposition"])

"""Every file that is handed over is opened by somebody else's reader; a new kind of file without one fails here."""

from __future__ import annotations

import io
import json
import sqlite3
import zipfile
from collections.abc import Callable
from contextlib import closing
from pathlib import Path
from xml.etree import ElementTree

import frictionless
import jsonschema
import openpyxl
import pandas as pd
import polars as pl
import pptx
import pypdf
import pytest
from bs4 import BeautifulSoup
from flask.testing import FlaskClient
from matplotlib import image
from pptx.enum.shapes import MSO_SHAPE_TYPE

from tests.api.test_api import begin
from tests.help import handed_over
from zembra.core.handover.handedfiles import HandedFile
from zembra.demo.studies import STUDIES

SCHEMA = json.loads(Path("docs/ledger.schema.json").read_text())


def svg(data: bytes) -> None:
    drawing = ElementTree.fromstring(data)
    assert drawing.tag.endswith("svg")
    assert float(drawing.attrib["width"].removesuffix("px")) > 100


def png(data: bytes) -> None:
    pixels = image.imread(io.BytesIO(data))
    assert pixels.shape[0] > 100
    assert pixels.std() > 0.01  # something is drawn


def pdf(data: bytes) -> None:
    document = pypdf.PdfReader(io.BytesIO(data))
    assert document.pages[0].extract_text().strip()


def workbook(data: bytes) -> None:
    book = openpyxl.load_workbook(io.BytesIO(data))
    assert all(sheet.max_row >= 1 for sheet in book)
    formulas = [cell for sheet in book for row in sheet.iter_rows() for cell in row if cell.data_type == "f"]
    assert formulas == []


def table(data: bytes) -> None:
    assert list(pd.read_csv(io.BytesIO(data)).columns)


def columns(data: bytes) -> None:
    assert pl.read_parquet(io.BytesIO(data)).width > 3


def text(data: bytes) -> None:
    assert "Average" in data.decode()


def ledger(data: bytes) -> None:
    jsonschema.Draft202012Validator(SCHEMA).validate(json.loads(data))


def report(data: bytes) -> None:
    told = json.loads(data, parse_constant=pytest.fail)
    assert {"entries", "warnings", "as_of"} <= set(told)


def package(data: bytes) -> None:
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        assert archive.testzip() is None
        for name in archive.namelist():
            if name.endswith((".svg", ".png")):
                READERS[f"picture.{name[-3:]}"](archive.read(name))


def slides(data: bytes) -> None:
    deck = pptx.Presentation(io.BytesIO(data))
    assert len(deck.slides) > 0
    for slide in deck.slides:
        (drawn,) = [shape for shape in slide.shapes if shape.has_chart or shape.shape_type == MSO_SHAPE_TYPE.PICTURE]
        if drawn.has_chart:
            assert any(value is not None for plot in drawn.chart.plots for one in plot.series for value in one.values)
        else:
            png(drawn.image.blob)


def page(data: bytes) -> None:
    read = BeautifulSoup(data, "html.parser")
    told = json.loads(read.select_one("script[type='application/json']").string)  # type: ignore[union-attr,arg-type]
    assert told["series"]
    assert read.select("ol li")
    svg(str(read.select_one("#picture svg")).encode())


READERS: dict[str, Callable[[bytes], None]] = {
    "picture.png": png, "picture.svg": svg, "picture.pdf": pdf, "points.csv": table, "lines.csv": table,
    "points.parquet": columns, "lines.parquet": columns, "numbers.xlsx": workbook, "report.json": report,
    "method-note.txt": text, "account.pdf": pdf, "follow-up.csv": table, "follow-up.xlsx": workbook,
    "ledger.json": ledger, "slides.pptx": slides, "picture.pptx": slides, "picture.html": page, "everything.zip": package,
}  # fmt: skip


def test_every_file_is_read_by_another_reader(client: FlaskClient, tmp_path: Path) -> None:
    assert set(READERS) == set(HandedFile)
    bench = begin(client)
    path = f"/api/studies/{bench['study']['id']}"
    words = {"window": {"kind": "periods", "length": 7, "need": 5}}
    entries = [*bench["ledger"]["entries"], {"id": "a", "kind": "average", "params": words}]
    edit = {
        "base": 1,
        "ledger": {**bench["ledger"], "entries": entries},
        "settings": bench["settings"],
        "what": "averaged",
    }
    assert client.put(f"{path}/revision", json=edit).status_code == 200
    for name, read in READERS.items():
        answer = handed_over(client, f"{path}/handover/{name}")
        assert answer.status_code == 200, answer.text
        read(answer.data)
    # the package's tables hold what its descriptor says, by the reader of the form's own makers
    with zipfile.ZipFile(io.BytesIO(answer.data)) as archive:
        archive.extractall(tmp_path / "package")
    told = frictionless.validate(str(tmp_path / "package" / "datapackage.json"))
    assert told.valid, told.flatten(["title", "fieldName", "message"])


def test_every_file_of_a_snapshot_is_read_too(client: FlaskClient) -> None:
    path = f"/api/studies/{begin(client)['study']['id']}/snapshots"
    taken = handed_over(client, path, "POST", json={"name": "before"})
    assert taken.status_code == 201
    files = handed_over(client, f"{path}/{taken.json['id']}").json["files"]
    assert {"picture.png", "picture.svg", "points.parquet", "lines.parquet", "account.pdf"} <= set(files)
    for name in (set(files) - {"method-note.txt"}) & READERS.keys():
        READERS[name](client.get(f"{path}/{taken.json['id']}/{name}").data)
    assert client.delete(f"{path}/{taken.json['id']}").status_code == 204
    assert client.get(f"{path}/{taken.json['id']}").status_code == 404
    assert client.post(f"{path}/{taken.json['id']}/restore").status_code == 204
    assert handed_over(client, f"{path}/{taken.json['id']}").json["card"]["name"] == "before"


def test_the_ledgers_of_the_demo_are_of_the_published_form(demo_database: Path) -> None:
    with closing(sqlite3.connect(demo_database)) as connection:
        ledgers = [text for (text,) in connection.execute("SELECT ledger FROM revision")]
    # the one that is kept month by month has taken rows in
    assert len(ledgers) == len(STUDIES) + 2
    for one in ledgers:
        ledger(one.encode())

"""Files that lie about themselves, end too soon or hold what no table holds: small ones, of every form that is taken."""

from __future__ import annotations

import gzip
import io
import struct
import zipfile
import zlib
from collections.abc import Callable, Mapping

import polars as pl

from tests.intake.hostile import ROWS, stretched, workbook

TABLE = f"day,value\n{ROWS}".encode()
SHEET = "xl/worksheets/sheet1.xml"
OPEN_DOCUMENT = (
    '<?xml version="1.0"?><office:document-content xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" '
    'xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0" xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0">'
    '<office:body><office:spreadsheet><table:table table:name="A">{rows}</table:table></office:spreadsheet></office:body>'
    "</office:document-content>"
)

MANIFEST = (
    '<?xml version="1.0"?><manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0">'
    '<manifest:file-entry manifest:full-path="/" manifest:media-type="application/vnd.oasis.opendocument.spreadsheet"/>'
    "</manifest:manifest>"
)


def zipped(members: Mapping[str, bytes], method: int = zipfile.ZIP_DEFLATED) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", method) as archive:
        for name, data in members.items():
            archive.writestr(name, data)
    return out.getvalue()


def patched(data: bytes, at: bytes, offset: int, new: bytes) -> bytes:
    """Bytes replaced at an offset from every place where a signature stands."""
    told = bytearray(data)
    place = data.find(at)
    while place >= 0:
        told[place + offset : place + offset + len(new)] = new
        place = data.find(at, place + 1)
    return bytes(told)


def deflate_broken(data: bytes) -> bytes:
    start = data.index(b"a.csv") + 5
    return data[:start] + b"\xff" * 20 + data[start + 20 :]


def with_member(name: str, change: Callable[[str], str], of: bytes) -> bytes:
    """A workbook in which one member is another."""
    with zipfile.ZipFile(io.BytesIO(of)) as old:
        return zipped(
            {one: change(old.read(one).decode()).encode() if one == name else old.read(one) for one in old.namelist()}
        )


def open_document(rows: str) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        archive.writestr("content.xml", OPEN_DOCUMENT.format(rows=rows), zipfile.ZIP_DEFLATED)
        archive.writestr("META-INF/manifest.xml", MANIFEST)
    return out.getvalue()


def parquet(frame: pl.DataFrame | None = None) -> bytes:
    out = io.BytesIO()
    (pl.read_csv(TABLE) if frame is None else frame).write_parquet(out)
    return out.getvalue()


def one_cell(value: str, rest: str = "") -> str:
    return f'<table:table-row{rest}><table:table-cell office:value-type="string"><text:p>{value}</text:p></table:table-cell></table:table-row>'


def _footer(data: bytes, length: int) -> bytes:
    return data[:-8] + struct.pack("<I", length) + b"PAR1"


LOCKED, METHOD = 6, 8  # where the flags and the method stand after the signature of a member
BROKEN: dict[str, Callable[[], bytes]] = {
    "an archive that is encrypted": lambda: patched(
        patched(zipped({"a.csv": TABLE}), b"PK\x03\x04", LOCKED, b"\x01"), b"PK\x01\x02", LOCKED + 2, b"\x01"
    ),
    "an archive of an unknown method": lambda: patched(
        patched(zipped({"a.csv": TABLE}), b"PK\x03\x04", METHOD, b"\x63"), b"PK\x01\x02", METHOD + 2, b"\x63"
    ),
    "an archive whose deflate is broken": lambda: deflate_broken(zipped({"a.csv": TABLE})),
    "an archive cut off": lambda: zipped({"a.csv": TABLE})[:-40],
    "an archive of nothing": lambda: zipped({}),
    "an archive in an archive in an archive": lambda: zipped({"a.zip": zipped({"b.zip": zipped({"c.csv": TABLE})})}),
    "an archive of 20,000 members": lambda: zipped({f"{n}.csv": b"" for n in range(20_000)}),
    "an archive that points out of itself": lambda: zipped({"../../etc/cron.d/a.csv": TABLE}),
    "an archive that says another size": lambda: patched(zipped({"a.csv": TABLE}), b"PK\x01\x02", 24, b"\x05\x00\x00\x00"),
    "a gzip cut off": lambda: gzip.compress(TABLE)[:-20],
    "a gzip of a gzip": lambda: gzip.compress(gzip.compress(TABLE)),
    "a gzip with another checksum": lambda: patched(gzip.compress(TABLE), struct.pack("<I", zlib.crc32(TABLE)), 0, b"abcd"),
    "a workbook cut off": lambda: workbook()[:2_000],
    "a workbook whose sheet is no XML": lambda: with_member(SHEET, lambda _: "day,value", workbook()),
    "a workbook whose sheet is not there": lambda: with_member("xl/workbook.xml", lambda told: told.replace("rId1", "rId9"), workbook()),
    "a workbook with a string that is not there": lambda: with_member(
        SHEET, lambda told: told.replace('t="inlineStr"><is><t>7</t></is>', 't="s"><v>999999999</v>'), workbook()
    ),
    "a workbook with a row of minus one": lambda: with_member(SHEET, lambda told: told.replace('r="A2"', 'r="A-1"'), workbook()),
    "a workbook that names a file of the machine": lambda: with_member(
        SHEET,
        lambda told: '<!DOCTYPE a [<!ENTITY b SYSTEM "file:///etc/hostname">]>' + told.replace("<t>7</t>", "<t>&b;</t>"),
        workbook(),
    ),
    "a workbook of the years before with a password": lambda: b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1" + b"\x00" * 4_000,
    "an open document of a billion rows": lambda: open_document(one_cell("day") + one_cell("1", ' table:number-rows-repeated="1000000000"')),
    "an open document of a billion columns": lambda: open_document(
        one_cell("day").replace("<table:table-cell", '<table:table-cell table:number-columns-repeated="1000000000"')
    ),
    "Parquet of its magic only": lambda: b"PAR1" * 2,
    "Parquet cut off": lambda: parquet()[:-30],
    "Parquet whose end is longer than it": lambda: _footer(parquet(), 2**31 - 1),
    "Parquet of lists": lambda: parquet(pl.DataFrame({"day": ["2026-01-01"] * 3, "value": [[1, 2], [3], None]})),
    "Parquet of bytes": lambda: parquet(pl.DataFrame({"day": ["2026-01-01"], "value": [b"\xff\xfe"]})),
    "JSON that ends too soon": lambda: b'[{"day": "2026-01-01", "value": 1}, {"day": ',
    "JSON of what is no number": lambda: b'[{"day": "2026-01-01", "value": NaN}, {"day": "2026-01-02", "value": 1e999}]',
    "JSON of half a letter": lambda: b'[{"day": "2026-01-01", "value": "\\ud800"}, {"day": "2026-01-02", "value": 2}]',
    "JSON that says a name twice": lambda: b'[{"day": "2026-01-01", "day": "2026-01-02", "value": 1}]',
    "JSON of JSON": lambda: b'{"a":' * 400 + b"1" + b"}" * 400,
    "a page of tables in tables": lambda: b"<table><tr><td>" * 5_000 + b"1" + b"</td></tr></table>" * 5_000,
    "a page with a cell over a billion columns": lambda: b"<table><tr><th colspan=1000000000>day</th></tr><tr><td>1</td></tr></table>",
    "a page with a cell over a billion rows": lambda: b"<table>"
    + b"<tr><th rowspan=1000000000>day</th><th>value</th></tr>" + b"<tr><td>1</td></tr>" * 5 + b"</table>",
    "nothing": lambda: b"",
    "a mark of its encoding and nothing else": lambda: b"\xff\xfe",
    "half a letter of two bytes": lambda: TABLE.decode().encode("utf-16")[:-1],
    "letters of four bytes": lambda: TABLE.decode().encode("utf-32"),
    "bytes of nothing": lambda: b"\x00" * 100_000,
    "a table with a byte of nothing in it": lambda: TABLE.replace(b"2026-01-05,5", b"2026-01-05,5\x00"),
    "a quote that never ends": lambda: TABLE.replace(b"2026-01-05,5", b'2026-01-05,"5'),
    "a quote too many, and another later": lambda: TABLE.replace(b"2026-01-05,5", b'2026-01-05,"5').replace(b"-20,20", b'-20,20"'),
    "quotes only": lambda: b'"' * 9_999,
    "blank lines only": lambda: b"\n" * 200_000,
    "numbers beyond all numbers": lambda: TABLE.replace(b",5\n", b",1e999\n"),
    "days beyond all calendars": lambda: TABLE.replace(b"2026-01-05", b"99999-01-05").replace(b"2026-01-06", b"0000-00-00"),
    "letters that turn the line round": lambda: TABLE.replace(b"value", "\u202eeulav".encode()),
    "formulas": lambda: TABLE.replace(b",5\n", b",=cmd|' /C calc'!A0\n"),
    "an entity that grows": lambda: stretched(
        "content.xml",
        b'<?xml version="1.0"?><!DOCTYPE a [<!ENTITY a "' + b"a" * 1_000 + b'"><!ENTITY b "' + b"&a;" * 1_000 + b'"><!ENTITY c "'
        + b"&b;" * 1_000 + b'">]><a>&c;</a>',
        0, b"", open_document(one_cell("1")),
    ),
}  # fmt: skip

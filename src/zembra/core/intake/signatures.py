"""Magic bytes of file formats."""

from __future__ import annotations

GZIP, ZIP = b"\x1f\x8b", b"PK\x03\x04"
PARQUET = b"PAR1"
ARROW_FILE, ARROW_STREAM, FEATHER_BEFORE = b"ARROW1", b"\xff\xff\xff\xff", b"FEA1"
SQLITE = b"SQLite format 3\x00"
OLD_WORKBOOK = b"\xd0\xcf\x11\xe0"
EVERY = (GZIP, ZIP, PARQUET, ARROW_FILE, ARROW_STREAM, FEATHER_BEFORE, SQLITE, OLD_WORKBOOK)


def first_letter(data: bytes) -> bytes:
    """Return the first byte of a text after byte order mark and blanks, or nothing."""
    return data[:4096].lstrip(b"\xef\xbb\xbf \t\r\n")[:1]

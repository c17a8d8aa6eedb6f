"""Read large files in pieces, each as the whole file would be read."""

from __future__ import annotations

import glob
import gzip
import hashlib
import io
import random
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import IO

import polars as pl

from zembra.core.errors import Refusal
from zembra.core.intake.columnar import cells_of
from zembra.core.intake.foreign import guarded
from zembra.core.intake.formats import detect_table, file_form, read_table
from zembra.core.intake.grid import frame_table
from zembra.core.intake.howread import Encoding, FileForm, Headings, LeftOut, TableHow
from zembra.core.intake.table import TextTable
from zembra.service.reading import read_file

PIECE = 48_000_000  # bytes of text that are read at once
ROWS = 2_000_000  # rows of Parquet that are
WHOLE = 150_000_000  # bytes of a file that is read in one go, where it cannot be read in pieces
SAMPLE_PIECES = 12  # places of a file that a sample is taken from, beside its begin and its end
SAMPLE_BYTES = 400_000  # of each
SAMPLE_ROWS = 8_000
BYTES_OF_A_ROW = 32  # of text, about
ENDINGS = (".csv", ".csv.gz", ".tsv", ".tsv.gz", ".txt", ".txt.gz", ".parquet", ".pq")


def files_of(named: str) -> list[Path]:
    """Return a file, the files of a folder, or those of a pattern, by name. Raises Refusal."""
    path = Path(named)
    if path.is_dir():
        found = sorted(file for file in path.iterdir() if file.is_file() and file.name.lower().endswith(ENDINGS))
    elif path.is_file():
        found = [path]
    else:
        found = sorted(Path(name) for name in glob.glob(named) if Path(name).is_file())
    if not found:
        raise Refusal(
            "There is no such file, and no folder with tables.",
            place=named,
            todo=f"Tables end in {', '.join(ENDINGS)}.",
        )
    return found


@dataclass(frozen=True, slots=True)
class Rows:
    """The rows of one file.

    how: how it is cut into cells
    """

    path: Path
    how: TableHow

    @property
    def about_how_many(self) -> int:
        """Return the number of rows of Parquet, or an estimate from the size of a text."""
        if self.how.form is FileForm.PARQUET:
            return int(guarded("Parquet", lambda: pl.scan_parquet(self.path).select(pl.len()).collect().item()))
        with self.path.open("rb") as file:
            packed = file.read(2) == b"\x1f\x8b"
        return self.path.stat().st_size // (BYTES_OF_A_ROW // 4 if packed else BYTES_OF_A_ROW)

    def pieces(self) -> Iterator[TextTable]:
        """Yield all rows in pieces. Raises Refusal."""
        if self.how.form is FileForm.PARQUET:
            yield from _slices(self.path, ROWS)
        elif _in_pieces(self.how):
            yield from _texts(self.path, self.how)
        else:
            yield _whole(self.path, self.how)


def table_how(path: Path) -> TableHow:
    """Detect how a file is cut into cells. Raises Refusal."""
    with path.open("rb") as file:
        head = file.read(SAMPLE_BYTES)
    if file_form(head) is FileForm.PARQUET:
        return TableHow(form=FileForm.PARQUET)
    return detect_table(_sample_text(path, random.Random(0)))


def sample(path: Path, how: TableHow) -> bytes:
    """Sample rows deterministically from the start, the end and between, as a small file. Raises Refusal."""
    rng = random.Random(path.name)
    if how.form is FileForm.PARQUET:
        return _sample_rows(path, rng)
    return _sample_text(path, rng) if _in_pieces(how) else _read(path)


def digest_of(path: Path) -> str:
    """Return the digest of a file, read in pieces."""
    found = hashlib.sha256()
    with path.open("rb") as file:
        while piece := file.read(PIECE):
            found.update(piece)
    return found.hexdigest()


def _in_pieces(how: TableHow) -> bool:
    """Return whether each piece of a text, with the header, is a table like the whole."""
    return (
        how.form is FileForm.TEXT
        and how.encoding is not Encoding.UTF16
        and how.header_row >= 1
        and how.header_rows == 1
        and how.comments is None
        and how.units_row is LeftOut.KEPT
        and how.headings is Headings.ROW
        and not how.first_row
        and not how.last_row
    )


def _slices(path: Path, rows: int) -> Iterator[TextTable]:
    scan = pl.scan_parquet(path)
    count = guarded("Parquet", lambda: scan.select(pl.len()).collect().item())
    for start in range(0, count, rows):
        yield frame_table(guarded("Parquet", cells_of(scan.slice(start, rows)).collect))


def _texts(path: Path, how: TableHow) -> Iterator[TextTable]:
    piece_how = how.model_copy(update={"skip_last": 0, "header_row": 1})
    with _opened(path) as file:
        head = _header(file, how.header_row)
        left = b""
        while True:
            read = file.read(PIECE)
            body = left + read
            end = len(body) if not read else _cut(body)
            if not read and how.skip_last:
                end = _before_last(body, how.skip_last)
            # the buffer exceeds the number of lines that may be skipped at the end
            elif read and how.skip_last:
                end = min(end, _before_last(body, how.skip_last + 1))
            if end > 0 and body[:end].strip():
                yield read_table(head + body[:end], piece_how)
            if not read:
                return
            left = body[end:]


def _header(file: IO[bytes], row: int) -> bytes:
    for _ in range(row - 1):
        file.readline()
    head = file.readline()
    return head if head.endswith(b"\n") else head + b"\n"


def _cut(body: bytes) -> int:
    """Return the position after the last unquoted line end, or 0."""
    end = body.rfind(b"\n") + 1
    while end > 0 and body.count(b'"', 0, end) % 2:
        end = body.rfind(b"\n", 0, end - 1) + 1
    return end


def _before_last(body: bytes, lines: int) -> int:
    """Return where the last lines of a text start."""
    end = len(body.rstrip(b"\r\n"))
    for _ in range(lines):
        end = body.rfind(b"\n", 0, end)
        if end < 0:
            return 0
    return end + 1


def _opened(path: Path) -> IO[bytes]:
    with path.open("rb") as file:
        packed = file.read(2) == b"\x1f\x8b"
    return gzip.open(path) if packed else path.open("rb")  # type: ignore[return-value]


def _read(path: Path) -> bytes:
    if path.stat().st_size > WHOLE:
        raise Refusal(
            f"The file has more than {WHOLE // 1_000_000} MB, and cannot be read in pieces.",
            place=path.name,
            todo="Save it as CSV with one row of names, or as Parquet.",
        )
    return path.read_bytes()


def _whole(path: Path, how: TableHow) -> TextTable:
    return read_file(_read(path), table_how=how).table


def _sample_text(path: Path, rng: random.Random) -> bytes:
    """Sample whole lines without duplicates; of compressed text only the start."""
    with _opened(path) as file:
        head = file.read(SAMPLE_BYTES)
        size = path.stat().st_size
        small = size <= SAMPLE_BYTES * (2 + SAMPLE_PIECES)
        if isinstance(file, gzip.GzipFile) or small:
            rest = file.read() if small else file.read(SAMPLE_BYTES)
            whole = head + rest
            return whole if small else whole[: whole.rfind(b"\n") + 1]
        parts = [head[: head.rfind(b"\n") + 1]]
        # one place of each stretch, so that they do not meet
        stretch = (size - 2 * SAMPLE_BYTES) // SAMPLE_PIECES
        length = min(stretch, SAMPLE_BYTES // 4)
        for n in range(SAMPLE_PIECES):
            file.seek(SAMPLE_BYTES + n * stretch + rng.randrange(stretch - length + 1))
            part = file.read(length)
            parts.append(part[part.find(b"\n") + 1 : part.rfind(b"\n") + 1])
        file.seek(size - SAMPLE_BYTES)
        part = file.read()
        parts.append(part[part.find(b"\n") + 1 :])
    return b"".join(parts)


def _sample_rows(path: Path, rng: random.Random) -> bytes:
    scan = pl.scan_parquet(path)
    count = guarded("Parquet", lambda: scan.select(pl.len()).collect().item())
    if count <= 2 * SAMPLE_ROWS * SAMPLE_PIECES:
        return path.read_bytes()
    stretch = (count - 2 * SAMPLE_ROWS) // SAMPLE_PIECES
    between = (SAMPLE_ROWS + n * stretch + rng.randrange(stretch - SAMPLE_ROWS + 1) for n in range(SAMPLE_PIECES))
    places = [0, *between, count - SAMPLE_ROWS]
    parts: Sequence[pl.DataFrame] = [scan.slice(at, SAMPLE_ROWS).collect() for at in places]
    out = io.BytesIO()
    pl.concat(parts).write_parquet(out)
    return out.getvalue()

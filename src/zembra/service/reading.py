"""Read untrusted input (files, packages, frozen numbers, large bodies) in a child process with one budget."""

from __future__ import annotations

import contextlib
import io
import json
from collections.abc import Callable
from typing import TYPE_CHECKING, Any, TypeVar

from zembra.core.intake.bringin import BroughtIn, Progress, bring_in, quiet
from zembra.core.intake.foreign import guarded
from zembra.core.intake.formats import detect_table, file_form
from zembra.core.intake.howread import FileForm, HowRead, TableHow, ValueKind
from zembra.core.intake.signatures import EVERY, first_letter
from zembra.service.process_pools import READING
from zembra.settings import settings
from zembra.work.executor import EndReason, Report, TaskLimits, advised, run_watched

if TYPE_CHECKING:
    import polars as pl

    from zembra.core.handover.changed import ChangedPeriods
    from zembra.core.handover.package import Unpacked

Result = TypeVar("Result")
SMALL = 20_000_000  # bytes of plain text that are read without a child: what it needs is bounded by that
JSON_MB = 256  # of memory that a body of JSON may need
_HARMLESS = (FileForm.TEXT, FileForm.FIXED)
_TODO = {
    EndReason.MEMORY: "Cut it, save it as CSV, or raise ZEMBRA_READER_MEMORY_MB and start Zembra again.",
    EndReason.TIME: "Cut it, save it as CSV, or raise ZEMBRA_READER_SECONDS and start Zembra again.",
}


def read_file(
    data: bytes,
    how: HowRead | None = None,
    *,
    table_how: TableHow | None = None,
    kind: ValueKind | None = None,
    sheet: str | None = None,
    progress: Progress = quiet,
) -> BroughtIn:
    """Run `bring_in`, in a child process unless the file is small plain text. Raises Refusal.

    sheet: table to read
    """
    words: dict[str, Any] = {"table_how": table_how, "kind": kind}
    if sheet is None and len(data) <= SMALL and is_plain_text(data):
        return bring_in(data, how, progress=progress, **words)
    return _read("the file", _read_file, data, how, sheet, words, progress=progress)


def read_package(data: bytes) -> Unpacked:
    """Open a package in a child process. Raises Refusal."""
    return _read("the package", _unpack, data)


def read_changes(frozen: bytes, now: pl.DataFrame, table: str, most: int) -> ChangedPeriods:
    """Compare frozen numbers, which may come from anywhere, in a child process. Raises Refusal."""
    return _read("the snapshot's numbers", _compare, frozen, now, table, most)


def check_json_memory(body: bytes) -> None:
    """Raise Refusal if parsing JSON would need too much memory; invalid JSON is reported elsewhere."""
    _read("what was sent", _parse, body, megabytes=JSON_MB)


def is_plain_text(data: bytes) -> bool:
    """Return whether a file is text that needs no foreign reader."""
    if data.startswith(EVERY) or first_letter(data) in (b"{", b"[", b"<"):
        return False
    return file_form(data) in _HARMLESS


def _read(
    what: str,
    function: Callable[..., Result],
    *task: Any,
    progress: Progress = quiet,
    megabytes: int | None = None,
) -> Result:
    now = settings()
    limits = TaskLimits(memory_mb=megabytes or now.reader_memory_mb, seconds=now.reader_seconds)
    doing = f"reading {what}"
    with advised(_TODO):
        return run_watched(READING, function, *task, name=doing, limits=limits, step=(doing, 0.1), progress=progress)


def _read_file(report: Report, data: bytes, how: HowRead | None, sheet: str | None, words: dict[str, Any]) -> BroughtIn:
    def read() -> BroughtIn:
        if sheet is not None:
            words["table_how"] = detect_table(data, sheet)
        return bring_in(data, how, progress=lambda *step: report("progress", step), **words)

    found: BroughtIn = guarded("received", read)
    return found


def _unpack(_: Report, data: bytes) -> Unpacked:
    from zembra.core.handover.package import unpacked

    found: Unpacked = guarded("received", lambda: unpacked(data))
    return found


def _compare(_: Report, frozen: bytes, now: pl.DataFrame, table: str, most: int) -> ChangedPeriods:
    import polars as pl

    from zembra.core.handover.changed import changes

    found: ChangedPeriods = guarded(
        "snapshot's", lambda: changes(pl.read_parquet(io.BytesIO(frozen)), now, table, most)
    )
    return found


def _parse(_: Report, body: bytes) -> None:
    with contextlib.suppress(ValueError, RecursionError):
        json.loads(body)

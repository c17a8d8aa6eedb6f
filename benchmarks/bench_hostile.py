"""Small files that ask for gigabytes: how long each keeps a server, of the seconds it may, and what memory that takes."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from tests.browser.machine import Server
from tests.intake.broken import BROKEN
from tests.intake.hostile import HOSTILE
from tests.kills import upload

from benchmarks.measure import Ratio

REFUSED_WITHIN, STRAY_WITHIN = 5.0, 3.0  # seconds
MOST_MB = 1_000


def measure() -> Iterator[Ratio]:
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder), upload_mb=150)
        server.start()
        try:
            peaks = []
            for name, make in HOSTILE.items():
                data = make()
                began = time.monotonic()
                told = _brought_in(server.address, data)
                took = time.monotonic() - began
                within = STRAY_WITHIN if name.startswith("a stray") else REFUSED_WITHIN
                peaks.append(_peak_mb(server.pid))
                yield Ratio(f"{name}, of {within:g} seconds", took / within, 1, f"{took:.2f} s: {told[:90]}")
            slowest, where, refused = 0.0, "", 0
            for name, make in BROKEN.items():
                began = time.monotonic()
                refused += _brought_in(server.address, make()) != "read"
                slowest, where = max((slowest, where), (time.monotonic() - began, name))
                peaks.append(_peak_mb(server.pid))
            detail = f"{len(BROKEN)} files, {refused} refused and the others read; {slowest:.2f} s: {where}"
            yield Ratio(
                f"the slowest of files that lie, of {REFUSED_WITHIN:g} seconds", slowest / REFUSED_WITHIN, 1, detail
            )
            yield Ratio("peak memory of the server, of a gigabyte", max(peaks) / MOST_MB, 1, f"{max(peaks):.0f} MB")
        finally:
            server.kill()


def _brought_in(address: str, data: bytes) -> str:
    try:
        upload(f"{address}/api/datasets", data)
    except OSError as error:
        return error.read().decode()[60:] if hasattr(error, "read") else str(error)
    return "read"


def _peak_mb(pid: int) -> float:
    status = Path(f"/proc/{pid}/status").read_text()
    return int(status.split("VmHWM:")[1].split()[0]) / 1024

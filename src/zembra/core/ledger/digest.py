"""Digests of inputs of a run, equal in every process."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from typing import Any

from zembra.core.calendar.complete import Expected
from zembra.core.calendar.lines import Line


def digest(*texts: str) -> str:
    return hashlib.sha256("\x1f".join(texts).encode("utf-8", "surrogatepass")).hexdigest()


def words_digest(words: Mapping[str, Any]) -> str:
    return json.dumps(words, sort_keys=True)


def line_digest(line: Line) -> str:
    """Return the digest of everything a line holds."""
    # as sure as SHA-256, in half the time
    made = hashlib.blake2b(digest_size=32)
    for array in line.arrays():
        made.update(array.data if array.flags.c_contiguous else array.tobytes())
        made.update(b"\x1f")
    rest = (line.name, line.entries, line.quantity, line.afresh, line.begin, line.called, len(line))
    made.update(repr(rest).encode("utf-8", "surrogatepass"))
    return made.hexdigest()


def expected_digest(expected: Expected) -> str:
    grain, closed = expected.grain, sorted(day.isoformat() for day in expected.closed)
    return digest(repr(grain), repr(expected.weekdays), repr(closed), repr(expected.at_end))

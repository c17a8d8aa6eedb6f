"""Write CSV that spreadsheets read as text and numbers, never as formulas."""

from __future__ import annotations

import csv
import io
import math
import re
from collections.abc import Iterable, Sequence

# What spreadsheets take for the start of a formula.
_FORMULA = re.compile(r"^[=+\-@\t\r]")
_NUMBER = re.compile(r"^[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?$")


def safe(text: str) -> str:
    """Escape a text cell that a spreadsheet might run as a formula with an apostrophe. Numbers and a lone dash stay."""
    if _FORMULA.match(text) and text != "-" and not _NUMBER.match(text):
        return f"'{text}"
    return text


def written(value: float | None) -> str:
    """Return the shortest text that reads back as the same number; empty for None."""
    if value is None or math.isnan(value):
        return ""
    text = repr(float(value))
    return text[:-2] if text.endswith(".0") else text


def csv_text(header: Sequence[str], rows: Iterable[Sequence[str]]) -> str:
    """Return RFC 4180 text with \\n line ends."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(header)
    writer.writerows(rows)
    return out.getvalue()

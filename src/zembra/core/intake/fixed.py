"""Read text in fixed-width or space-separated columns."""

from __future__ import annotations

import io
import re
from collections import Counter

from zembra.core.errors import Refusal

LOOKED_AT = 200
# a line under the names, as clients of databases draw it
_RULE = re.compile(r"^\s*[-=]{2,}(?:\s+[-=]{2,})+\s*$")


def in_columns(text: str) -> bool:
    """Return whether lines are space-separated columns: equal word counts, or aligned gaps."""
    lines = [line for line in text.splitlines()[:LOOKED_AT] if line.strip() and not line.lstrip().startswith("#")]
    if len(lines) < 3:
        return False
    if any(map(_RULE.match, lines[:10])):
        return True
    words = Counter(len(line.split()) for line in lines[1:])
    count, rows = words.most_common(1)[0]
    even = count >= 2 and rows >= 0.9 * (len(lines) - 1)
    wide = sum("  " in line.strip() for line in lines)
    numbers = sum(any(word[:1].isdigit() for word in line.split()) for line in lines[1:])
    return numbers >= 0.8 * (len(lines) - 1) and (even or wide >= 0.8 * len(lines))


def fixed_rows(text: str) -> list[list[str]]:
    """Return words of each line if counts are equal, else cells cut at columns without letters."""
    lines = text.splitlines()
    ruled = next((line for line in lines[:LOOKED_AT] if _RULE.match(line)), None)
    if ruled is not None:
        spans = [match.span() for match in re.finditer(r"[-=]+", ruled)]
        starts = [start for start, _ in spans]
        cut = list(zip(starts, [*starts[1:], None], strict=True))
        return [
            [line[start:end].strip() for start, end in cut] if len(line) > starts[1] else [line.strip()]
            for line in lines
            if line is not ruled
        ]
    words = [line.split() for line in lines]
    counts = {len(row) for row in words if row}
    if len(counts) == 1:
        return words
    import pandas as pd

    try:
        # infer columns from all lines, so that later long names are not cut
        frame = pd.read_fwf(
            io.StringIO(text), header=None, dtype=str, keep_default_na=False, infer_nrows=len(lines) or 1,
            skip_blank_lines=False,
        )  # fmt: skip
    except (ValueError, pd.errors.ParserError, pd.errors.EmptyDataError) as error:
        raise Refusal(f"The text cannot be cut into columns: {str(error)[:100]}.") from None
    return [[str(cell) for cell in row] for row in frame.itertuples(index=False)]

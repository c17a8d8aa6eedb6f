"""Run every benchmark and print its ratio and the most it may be. Exit status 1 where one is over.

What was measured goes into docs/performance.md; names of some, such as `edit tables`, run just those, and the rows of the
others stay as they were measured last.
"""

from __future__ import annotations

import os
import re
import sys
from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from importlib import import_module
from pathlib import Path
from pkgutil import iter_modules

from benchmarks.measure import Ratio

TABLE = Path(__file__).parents[1] / "docs" / "performance.md"
# what a bench that is over its bar is bounded by
BOUNDED = {
    "edit": "Of 30 ms, 20 tell the bench (36,500 points as JSON), 8 run, and 6 keep the edit, of which seals and the mark are one.",
    "ledger": "Of 2 ms, 0.4 are the average itself; the rest reads, checks and says six entries.",
    "intake": "A million rows are looked at for what a plain script is told: which columns are dates and how they are written, "
    "decimals, tables under each other, encodings. Each look through 28 MB takes 4 to 18 ms. Of some 280 ms (by cProfile) 75 are "
    "Polars cutting the text, 30 finding out that no table stands under another, 50 dates, 45 names and numbers, 30 marks and what "
    "is told of numbers, 50 the run; of 300 columns 50 go into taking rows from all over each column.",
    "many": "The trend line is the heaviest of the five entries, some 0.3 ms a line as it is refined in longer arithmetic; to be a "
    "fifth of the run, all five would have to be alike.",
}
ROW = re.compile(r"\| (?:ok|\*\*OVER\*\*) \| (\w+) \|")


def main() -> int:
    wanted = sys.argv[1:]
    modules = [one.name for one in iter_modules([str(Path(__file__).parent)])]
    names = [one.removeprefix("bench_") for one in modules if one.startswith("bench_")]
    measured = _measured()
    holds = True
    for name in names:
        if wanted and name not in wanted:
            continue
        rows = []
        for ratio in import_module(f"benchmarks.bench_{name}").measure():
            print(ratio.told(), flush=True)
            rows.append(_row(name, ratio))
            holds = holds and ratio.holds
        if rows:
            measured[name] = rows
            _write({one: measured[one] for one in names if one in measured}, names)
    return 0 if holds else 1


def _row(bench: str, one: Ratio) -> str:
    said = one.detail.replace("|", "/")
    state = "ok" if one.holds else "**OVER**"
    day = f"{datetime.now(UTC):%d %b %Y}"
    return f"| {state} | {bench} | {one.name} | {one.value:.3g} | {one.most:g} | {said} | {day} |"


def _measured() -> dict[str, list[str]]:
    """The rows of the table as it is, by their bench."""
    found: dict[str, list[str]] = {}
    for line in TABLE.read_text().splitlines() if TABLE.exists() else []:
        if row := ROW.match(line):
            found.setdefault(row[1], []).append(line)
    return found


def _write(rows: Mapping[str, Sequence[str]], names: Sequence[str]) -> None:
    """rows: of the benches that were ever run here. names: of all of them."""
    never = [name for name in names if name not in rows]
    TABLE.write_text(
        "\n".join(
            [
                "# Performance",
                "",
                f"Written by `make bench` on {os.cpu_count()} cores. A time is told as a ratio to that of a plain script in the "
                "same run, with both times; what is counted, such as files that are misread, as its number. "
                + (f"Not run since this table is kept: {', '.join(never)}." if never else "Every bench has been run."),
                "",
                "| | Bench | What | Is | At most | Measured | On |",
                "|---|---|---|---:|---:|---|---|",
                *(row for some in rows.values() for row in some),
                *_bounds(rows),
            ]
        )
        + "\n"
    )


def _bounds(rows: Mapping[str, Sequence[str]]) -> list[str]:
    over = [name for name, some in rows.items() if name in BOUNDED and any("**OVER**" in row for row in some)]
    return (
        ["", "What bounds those that are over:", "", *(f"- `{name}`: {BOUNDED[name]}" for name in over)] if over else []
    )


if __name__ == "__main__":
    raise SystemExit(main())

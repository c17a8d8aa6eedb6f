"""Run every benchmark and print its ratio and the most it may be. Exit status 1 where one is over.

What was measured goes into docs/performance.md; names of some, such as `edit tables`, run just those, and the rows of the
others stay as they were measured last.
"""

from __future__ import annotations

import os
import re
import sys
from collections.abc import Iterable
from datetime import UTC, datetime
from importlib import import_module
from pathlib import Path
from pkgutil import iter_modules

from benchmarks.measure import Ratio

TABLE = Path(__file__).parents[1] / "docs" / "performance.md"
ROW = re.compile(r"\| (?:ok|\*\*OVER\*\*) \| (\w+) \|")


def main() -> int:
    wanted = sys.argv[1:]
    every = [one.name.removeprefix("bench_") for one in iter_modules([str(Path(__file__).parent)])]
    names = [name for name in every if Path(__file__).with_name(f"bench_{name}.py").exists()]
    holds = True
    for name in names:
        if wanted and name not in wanted:
            continue
        rows = []
        for ratio in import_module(f"benchmarks.bench_{name}").measure():
            assert isinstance(ratio, Ratio)
            print(ratio.told(), flush=True)
            rows.append(_row(name, ratio))
            holds = holds and ratio.holds
        if rows:
            others = [line for line in _rows_measured() if (found := ROW.match(line)) and found[1] in names]
            _write([*(line for line in others if f"| {name} |" not in line), *rows], names)
    return 0 if holds else 1


def _row(bench: str, one: Ratio) -> str:
    said = one.detail.replace("|", "/")
    state = "ok" if one.holds else "**OVER**"
    day = f"{datetime.now(UTC):%d %b %Y}"
    return f"| {state} | {bench} | {one.name} | {one.value:.3g} | {one.most:g} | {said} | {day} |"


def _rows_measured() -> list[str]:
    return TABLE.read_text().splitlines() if TABLE.exists() else []


def _write(rows: Iterable[str], names: list[str]) -> None:
    """rows: of all benches that were ever run here, in the order of their names."""
    by_name = {name: [row for row in rows if f"| {name} |" in row] for name in names}
    never = [name for name in names if not by_name[name]]
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
                *(row for name in names for row in by_name[name]),
            ]
        )
        + "\n"
    )


if __name__ == "__main__":
    raise SystemExit(main())

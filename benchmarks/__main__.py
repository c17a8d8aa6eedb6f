"""Run every benchmark and print its ratio and the most it may be. Exit status 1 where one is over.

A run of all of them writes its table to docs/performance.md; names of some, such as `edit tables`, run just those.
"""

from __future__ import annotations

import os
import sys
from collections.abc import Sequence
from datetime import UTC, datetime
from importlib import import_module
from pathlib import Path
from pkgutil import iter_modules

from benchmarks.measure import Ratio

TABLE = Path(__file__).parents[1] / "docs" / "performance.md"


def main() -> int:
    wanted = sys.argv[1:]
    ratios: list[tuple[str, Ratio]] = []
    for module in iter_modules([str(Path(__file__).parent)]):
        name = module.name.removeprefix("bench_")
        if name == module.name or (wanted and name not in wanted):
            continue
        for ratio in import_module(f"benchmarks.{module.name}").measure():
            assert isinstance(ratio, Ratio)
            print(ratio.told(), flush=True)
            ratios.append((name, ratio))
    if not wanted:
        TABLE.write_text(as_page(ratios))
    return 0 if all(ratio.holds for _, ratio in ratios) else 1


def as_page(ratios: Sequence[tuple[str, Ratio]]) -> str:
    over = [ratio.name for _, ratio in ratios if not ratio.holds]
    lines = [
        "# Performance",
        "",
        f"Written by `make bench` on {datetime.now(UTC):%d %b %Y}, {os.cpu_count()} cores. A time is told as a ratio to that of a "
        "plain script in the same run; what is counted, such as files that are misread, as its number. "
        f"{'Over its bar: ' + '; '.join(over) if over else 'Nothing is over its bar'}.",
        "",
        "| | Bench | What | Is | At most | Measured |",
        "|---|---|---|---:|---:|---|",
        *(
            f"| {'ok' if one.holds else '**OVER**'} | {bench} | {one.name} | {one.value:.3g} | {one.most:g} "
            f"| {one.detail.replace('|', '/')} |"
            for bench, one in ratios
        ),
    ]
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    raise SystemExit(main())

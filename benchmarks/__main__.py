"""Run every benchmark and print its ratio and the most it may be. Exit status 1 where one is over."""

from __future__ import annotations

import sys
from importlib import import_module
from pathlib import Path
from pkgutil import iter_modules

from benchmarks.measure import Ratio


def main() -> int:
    wanted = sys.argv[1:]
    over = False
    for module in iter_modules([str(Path(__file__).parent)]):
        if not module.name.startswith("bench_") or (wanted and module.name.removeprefix("bench_") not in wanted):
            continue
        for ratio in import_module(f"benchmarks.{module.name}").measure():
            assert isinstance(ratio, Ratio)
            print(ratio.told(), flush=True)
            over = over or not ratio.holds
    return 1 if over else 0


if __name__ == "__main__":
    raise SystemExit(main())

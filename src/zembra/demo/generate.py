"""Write the demo files into demo/data: python -m zembra.demo.generate [--check]."""

from __future__ import annotations

import sys
from collections.abc import Callable
from pathlib import Path

from zembra.demo.sailings import sailings_csv

FILES: dict[str, Callable[[], bytes]] = {"sailings.csv": sailings_csv}


def main() -> int:
    """Write, or with --check compare and name the files that differ."""
    folder = Path(__file__).parent / "data"
    stale = []
    for name, make in FILES.items():
        path, data = folder / name, make()
        if "--check" in sys.argv:
            if not path.exists() or path.read_bytes() != data:
                stale.append(name)
        else:
            path.write_bytes(data)
    if stale:
        print(f"demo files that are not what the generator makes: {', '.join(stale)}")
    return 1 if stale else 0


if __name__ == "__main__":
    raise SystemExit(main())

"""`python -m zembra` is `zembra`."""

from __future__ import annotations

from zembra.cli import main

if __name__ == "__main__":
    raise SystemExit(main())

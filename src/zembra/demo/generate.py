"""The demo files and what makes them. scripts/generate.py writes them and checks that they are current."""

from __future__ import annotations

from collections.abc import Callable

from zembra.demo.sailings import sailings_csv

FILES: dict[str, Callable[[], bytes]] = {"sailings.csv": sailings_csv}

"""What can be set from outside, by variables of the environment."""

from __future__ import annotations

import os
from dataclasses import dataclass

from zembra.core.budget import Budget
from zembra.core.errors import Refusal


@dataclass(frozen=True, slots=True)
class Settings:
    """upload_mb: the largest file taken. run: what one run may hold; run_seconds, entry_seconds: how long a run and a
    heavy entry may take."""

    upload_mb: int
    run: Budget
    run_seconds: int
    entry_seconds: int


def settings() -> Settings:
    """As the environment says now. Raises Refusal for what is no number."""
    usual = Budget()
    return Settings(
        upload_mb=_number("ZEMBRA_MAX_UPLOAD_MB", 150),
        run=Budget(
            points=_number("ZEMBRA_MOST_POINTS", usual.points),
            bytes=_number("ZEMBRA_MOST_RUN_MB", usual.bytes // 1_000_000) * 1_000_000,
        ),
        run_seconds=_number("ZEMBRA_RUN_SECONDS", 120),
        entry_seconds=_number("ZEMBRA_ENTRY_SECONDS", 900),
    )


def _number(name: str, usual: int) -> int:
    told = os.environ.get(name, "")
    if not told:
        return usual
    if not told.isdecimal() or not int(told):
        raise Refusal(f"“{told}” is not a whole number above zero.", place=name)
    return int(told)

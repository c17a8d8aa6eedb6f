"""Format changes and steps."""

from __future__ import annotations

from zembra.core.english import number


def signed(size: float) -> str:
    """Format a step with its sign: +165, −12.5."""
    rounded = round(size) if abs(size) >= 20 else float(f"{size:.2g}")
    return f"{'+' if rounded >= 0 else ''}{number(rounded)}"


def from_below_zero(name: str, count: int) -> list[str]:
    """Warn of percent changes from negative values."""
    if not count:
        return []
    return [f"{name}: {count} changes start below zero; their percent is of the size of that value, without its sign."]

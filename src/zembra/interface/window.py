"""`Window` as it is written by hand, with positional arguments."""

from __future__ import annotations

from zembra.core.entries.readings.clauses import windows


def Window(
    length: int = 28,
    need: int = 20,
    *,
    reach: windows.Reach = windows.Reach.TRAILING,
    ends: windows.AtEnds = windows.AtEnds.THERE,
) -> windows.Window:
    """Return a window counted in periods.

    need: number of values it must contain
    """
    return windows.Window(length=length, need=need, reach=reach, ends=ends)

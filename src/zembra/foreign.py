"""Run third-party entry kinds in child processes, within the budget of a run."""

from __future__ import annotations

import os
from collections.abc import Callable
from functools import cache
from typing import Any

from zembra.core.ledger.packagefailed import SWITCH_OFF, PackageFailed
from zembra.settings import settings
from zembra.work.executor import TaskEnded, TaskLimits
from zembra.work.warm import WarmChildren


@cache
def _children() -> WarmChildren:
    return WarmChildren(max(2, os.cpu_count() or 1), ["zembra.foreignchild"])


def carry_out(name: str, function: Callable[..., Any], *args: Any, slow: bool = False) -> Any:
    """The runner for `zembra.core.ledger.isolation.isolate_with`."""
    now = settings()
    limits = TaskLimits(seconds=now.entry_seconds if slow else now.package_seconds, resident_mb=now.most_run_mb)
    try:
        return _children().call(function, *args, name=name, limits=limits)
    except TaskEnded as ended:
        raise PackageFailed(ended.what, todo=SWITCH_OFF) from None

"""What only some systems have, behind names that all can call: limits of memory, many open files, forking from a ready process.

Zembra is made for Linux and tested there. Where the system has no such limits a child may take what memory it wants, and a child that
is not forked begins slower; docs/settings.md says so.
"""

from __future__ import annotations

import multiprocessing
import os
import sys
import threading
import webbrowser
from collections.abc import Sequence
from multiprocessing.context import ForkServerContext, SpawnContext
from pathlib import Path

try:
    import resource
except ModuleNotFoundError:  # not on Windows
    resource = None  # type: ignore[assignment]

FORKS = sys.platform != "win32"
STATM = Path("/proc/self/statm")  # pages of memory that this process has


def children_context(preload: Sequence[str] = ()) -> ForkServerContext | SpawnContext:
    """How children are begun: forked from a process that has imported what is to be preloaded, or anew."""
    if not FORKS:
        return multiprocessing.get_context("spawn")
    context = multiprocessing.get_context("forkserver")
    if preload:
        context.set_forkserver_preload(list(preload))
    return context


def make_ready() -> None:
    """Have the process that children are forked from ready before the first of them is needed."""
    if FORKS:
        from multiprocessing import forkserver

        forkserver.ensure_running()


def open_browser(address: str) -> None:
    """The browser of who sits before a screen; one that would take over a terminal is none."""
    if not has_screen():
        return
    # it may say a thing or two, and take its time
    threading.Thread(target=webbrowser.open, args=(address,), daemon=True).start()


def has_screen() -> bool:
    if sys.platform in ("win32", "darwin"):
        return True
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")) and sys.stdout.isatty()


def limit_memory(megabytes: int) -> None:
    """So much more than this process has now, and no file of its memory where it ends unexpectedly."""
    if resource is None or not STATM.exists():
        return
    mapped = int(STATM.read_text().split()[0]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (mapped + megabytes * 1024 * 1024,) * 2)
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def allow_open_files(most: int) -> None:
    """As many open files, if the system gives them."""
    if resource is None:
        return
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    wanted = most if hard == resource.RLIM_INFINITY else min(hard, most)
    if soft < wanted:
        resource.setrlimit(resource.RLIMIT_NOFILE, (wanted, hard))

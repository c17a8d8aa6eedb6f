"""Platform-specific calls behind one interface: memory limits, open files, forking from a ready process.

Zembra is made for Linux and tested there. Where the system has no such limits a child may take what memory it wants, and a child that
is not forked begins slower; docs/settings.md says so.
"""

from __future__ import annotations

import multiprocessing
import os
import select
import signal
import sys
import threading
import webbrowser
from collections.abc import Sequence
from multiprocessing.context import ForkServerContext, SpawnContext
from pathlib import Path

try:
    import fcntl
    import resource
except ModuleNotFoundError:  # not on Windows
    fcntl = resource = None  # type: ignore[assignment]

FORKS = sys.platform != "win32"
STATM = Path("/proc/self/statm")  # pages of memory that this process has


def children_context(preload: Sequence[str] = ()) -> ForkServerContext | SpawnContext:
    """Return the multiprocessing context: fork server with preloaded modules, or spawn."""
    if not FORKS:
        return multiprocessing.get_context("spawn")
    context = multiprocessing.get_context("forkserver")
    if preload:
        context.set_forkserver_preload(list(preload))
    return context


def make_ready() -> None:
    """Start the fork server before the first child."""
    if FORKS:
        from multiprocessing import forkserver

        forkserver.ensure_running()


def open_browser(address: str) -> None:
    """Open a graphical browser; one that would take over a terminal is not used."""
    if not has_screen():
        return
    # in a thread, as browsers print messages and take their time
    threading.Thread(target=webbrowser.open, args=(address,), daemon=True).start()


def has_screen() -> bool:
    if sys.platform in ("win32", "darwin"):
        return True
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")) and sys.stdout.isatty()


def limit_memory(megabytes: int) -> None:
    """Limit the memory beyond current use, and disable core dumps."""
    if resource is None or not STATM.exists():
        return
    mapped = int(STATM.read_text().split()[0]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (mapped + megabytes * 1024 * 1024,) * 2)
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def end_with_parent(lifeline: int) -> None:
    """Kill this process when the other end of a pipe is closed, which happens when its holder dies.

    lifeline: the read end, which no other process has
    """
    if fcntl is None or not hasattr(fcntl, "F_SETSIG"):
        threading.Thread(target=_end_when_closed, args=(lifeline,), daemon=True).start()
        return
    # the kernel sends it (fcntl(2), signal-driven I/O), as a thread would not run while native code holds the GIL
    fcntl.fcntl(lifeline, fcntl.F_SETSIG, signal.SIGKILL)
    fcntl.fcntl(lifeline, fcntl.F_SETOWN, os.getpid())
    fcntl.fcntl(lifeline, fcntl.F_SETFL, fcntl.fcntl(lifeline, fcntl.F_GETFL) | os.O_ASYNC)
    if select.select([lifeline], [], [], 0)[0]:  # it was closed before
        os._exit(1)


def _end_when_closed(lifeline: int) -> None:
    os.read(lifeline, 1)
    os._exit(1)


def end_after(seconds: float) -> None:
    """Kill this process after a time; 0 cancels. Does nothing on Windows."""
    if hasattr(signal, "setitimer"):
        signal.signal(signal.SIGALRM, signal.SIG_DFL)
        signal.setitimer(signal.ITIMER_REAL, seconds)


def resident_mb(process: int) -> float:
    """Return the resident memory of a process in MB, 0 if unknown."""
    try:
        pages = int(Path(f"/proc/{process}/statm").read_text().split()[1])
    except (OSError, IndexError, ValueError):
        return 0.0
    return pages * resource.getpagesize() / 1_000_000


def allow_open_files(most: int) -> None:
    """Raise the limit of open files, if possible."""
    if resource is None:
        return
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    wanted = most if hard == resource.RLIM_INFINITY else min(hard, most)
    if soft < wanted:
        resource.setrlimit(resource.RLIMIT_NOFILE, (wanted, hard))

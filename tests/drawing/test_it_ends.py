"""A process that has drawn ends: the engine has threads of its own, which must not wait for a Python that is gone."""

from __future__ import annotations

import subprocess
import sys

PROCESSES = 8  # of twelve, one did not end
DRAW = "from zembra.rendering.engine import warm_up; warm_up()"


def test_processes_that_have_drawn_end() -> None:
    begun = [subprocess.Popen([sys.executable, "-c", DRAW]) for _ in range(PROCESSES)]
    try:
        assert [process.wait(90) for process in begun] == [0] * PROCESSES
    finally:
        for process in begun:
            process.kill()

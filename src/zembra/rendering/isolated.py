"""Draw pictures in a warm child process: native code may crash, hang or grow, and then only that picture fails."""

from __future__ import annotations

from functools import cache

from zembra.core.dress.model import Picture
from zembra.core.figure.model import Figure
from zembra.rendering.extra import check_installed
from zembra.rendering.files import picture_file
from zembra.work.executor import EndReason, TaskLimits, advised
from zembra.work.warm import WarmChildren

SECONDS, RESIDENT_MB = 300, 4096
LIMITS = TaskLimits(seconds=SECONDS, resident_mb=RESIDENT_MB)
TODO = {
    EndReason.MEMORY: "Show fewer series, or a shorter stretch.",
    EndReason.TIME: "Show fewer series, or a shorter stretch.",
    EndReason.KILLED: "Try again.",
    EndReason.FAULT: "Try again; the numbers are not touched by it.",
}


@cache
def _children() -> WarmChildren:
    return WarmChildren(1, ["zembra.rendering.ready"])


def warm_up() -> None:
    """Start the child before the first picture. Raises Refusal."""
    check_installed("Pictures")
    _children().warm_up()


def draw(figure: Figure, picture: Picture, form: str, title: str, times: float) -> bytes:
    """Run `picture_file` in another process. Raises Refusal."""
    check_installed("Pictures")
    with advised(TODO):
        return _children().call(
            picture_file, figure, picture, form, title, times, name="drawing the picture", limits=LIMITS
        )

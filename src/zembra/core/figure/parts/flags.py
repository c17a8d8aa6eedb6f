"""Named days and stretches."""

from __future__ import annotations

from typing import Literal

from zembra.core.figure.parts.base import Canvas, ShapeView
from zembra.core.ledger.shapes import Flags


class FlagsView(ShapeView):
    """Named days and stretches.

    first, last: positions in milliseconds since 1970 UTC
    """

    shape: Literal["flags"] = "flags"
    first: list[int]
    last: list[int]
    names: list[str]


def flags_view(flags: Flags, canvas: Canvas) -> FlagsView:
    return FlagsView.model_construct(
        **canvas.about(flags),
        shape="flags",
        first=canvas.milliseconds(flags.first),
        last=canvas.milliseconds(flags.last),
        names=list(flags.names),
    )

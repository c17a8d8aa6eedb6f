"""Place the names of lines beside the chart of a slide."""

from __future__ import annotations

import math
from typing import Any

from zembra.core.handover.nativechart import NativeChart
from zembra.core.handover.slidexml import C, sub

LETTER = 8.2  # pixels of one in a name at a line's end
LINE, LETTERS = 21, 17  # pixels of one, and what fits into it
WRAPPED = 0.2  # share of the chart's width that suites give a name before they break it
LEFT, PLOT_TOP, PLOT_HIGH = 0.07, 0.03, 0.87  # shares of the chart's width and height


def plot_width(of: NativeChart, width: int) -> float:
    """Return the share of the width for the plot.

    width: of the chart in pixels
    """
    longest = max((len(text) for column in of.columns for text in column.name.split("\n")), default=0)
    room = min(WRAPPED, (longest * LETTER + 16) / width)
    return 1 - LEFT - room - (LEFT if of.has_right_scale else 0)


def moved_names(of: NativeChart, height: int, wide: float) -> dict[int, tuple[float, float]]:
    """Return offsets of names so that none overlap: by column, to the right and down, as shares of the chart.

    height: of the chart in pixels
    wide: share of the plot
    """
    wanted = []
    for n, column in enumerate(of.columns):
        ends = of.ranges[1 if column.right else 0]
        value = column.value[column.named_at] if column.name else None
        if ends is None or value is None:
            continue
        lines = sum(max(1, math.ceil(len(text) / LETTERS)) for text in column.name.split("\n"))
        at = PLOT_TOP * height + (1 - ends.share(value)) * PLOT_HIGH * height
        wanted.append((at, lines * LINE, n, wide * (1 - _along(of, column.named_at))))
    wanted.sort()
    placed: list[float] = []
    for n, (at, high, *_) in enumerate(wanted):
        before = placed[-1] + (wanted[n - 1][1] + high) / 2 if placed else -math.inf
        placed.append(max(at, before))
    # back into the chart from below, where there are too many at its foot
    floor = height - LINE / 2
    for n in range(len(placed) - 1, -1, -1):
        placed[n] = min(placed[n], floor)
        floor = placed[n] - (wanted[n][1] + (wanted[n - 1][1] if n else 0)) / 2
    return {n: (right, (to - at) / height) for (at, _, n, right), to in zip(wanted, placed, strict=True)}


def _along(of: NativeChart, row: int) -> float:
    """Return the relative position of a row on the time axis, 0 to 1."""
    if of.dates:
        return (of.dates[row] - of.dates[0]).days / max(1, (of.dates[-1] - of.dates[0]).days)
    return (row + 0.5) / len(of.labels)


def move_name(label: Any, by: tuple[float, float]) -> None:
    """Move a label to the right and down, as shares of the chart."""
    layout = label.makeelement(f"{C}layout", {})
    manual = sub(layout, "manualLayout")
    for name, share in zip("xy", by, strict=True):
        sub(manual, name, val=f"{share:.4f}")
    label.find(f"{C}idx").addnext(layout)
    _without_leaders(label.getparent())


def _without_leaders(labels: Any) -> None:
    """Remove leader lines, which would look like lines of the chart."""
    known = "{CE6537A1-D6FC-4f65-9D91-7224C49458BB}"
    c15 = "http://schemas.microsoft.com/office/drawing/2012/chart"
    more = sub(labels, "extLst")
    extension = more.makeelement(f"{C}ext", {"uri": known}, nsmap={"c15": c15})
    extension.append(extension.makeelement(f"{{{c15}}}showLeaderLines", {"val": "0"}))
    more.append(extension)

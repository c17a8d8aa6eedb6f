"""The common fields of all shapes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from pydantic import BaseModel

from zembra.core.arithmetic.arrays import Bools, Floats, Ints
from zembra.core.calendar.complete import Expected
from zembra.core.dress.looks import Look
from zembra.core.figure.thin import MOST_POINTS, kept_places
from zembra.core.ledger.shapes import Rests, Shape


class ShapeView(BaseModel):
    """Common fields of shapes.

    id: stable across runs
    colour: index of the series colour
    scale: name of its scale
    look: its dress, null for usual
    """

    id: str
    entry: str
    series: str
    name: str
    scale: str
    rests: Rests
    colour: int
    look: Look | None = None


@dataclass
class Canvas:
    """What converts shapes to data: positions of periods, colours, and the window for thinning.

    kept: indices of kept points, by curve id
    """

    expected: Expected
    colours: Mapping[str, int]
    window: tuple[int, int] | None = None
    kept: dict[str, Ints | None] = field(default_factory=dict)
    thinned: bool = False

    def about(self, shape: Shape) -> dict[str, Any]:
        return {
            "id": shape.id,
            "entry": shape.entry,
            "series": shape.series,
            "name": shape.name,
            "scale": shape.scale,
            "rests": shape.rests,
            "colour": self.colours.get(shape.series, 0),
        }

    def milliseconds(self, periods: Ints) -> list[int]:
        return milliseconds(periods, self.expected)

    def keep(self, key: str, values: Floats, periods: Ints, odd: Bools) -> slice | Ints:
        """Return indices of the points worth drawing, with one more on either side of the window."""
        if key not in self.kept:
            self.kept[key] = self._worth_drawing(values, periods, odd)
        places = self.kept[key]
        if places is None:
            return slice(None)
        self.thinned = True
        return places

    def _worth_drawing(self, values: Floats, periods: Ints, odd: Bools) -> Ints | None:
        if periods.size <= MOST_POINTS:
            return None
        first, end = 0, int(periods.size)
        if self.window:
            low, high = np.array(self.window, dtype="datetime64[ms]").astype("datetime64[s]")
            ends = self.expected.grain.periods(np.array([low, high]))
            first = max(0, int(np.searchsorted(periods, ends[0])) - 1)
            end = min(end, int(np.searchsorted(periods, ends[1], side="right")) + 1)
        return kept_places(values, odd, first, end)


def milliseconds(periods: Ints, expected: Expected) -> list[int]:
    """Return where periods are drawn: at their first or last day."""
    grain = expected.grain
    seconds = grain.starts(periods).astype(np.int64)
    if expected.at_end:
        seconds = grain.starts(periods + 1).astype(np.int64) - min(86_400, int(grain.seconds))
    found: list[int] = (seconds * 1000).tolist()
    return found


def numbers(values: Floats) -> list[float | None]:
    """Convert to a JSON list; NaN and infinities become null."""
    boxed = values.astype(object)
    boxed[~np.isfinite(values)] = None
    listed: list[float | None] = boxed.tolist()
    return listed

"""Shapes that entries draw over time, in data units.

Each has an id that is the same in every run, the entry that made it, the series it belongs to, the scale it
stands on, what it rests on, and a name.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, fields
from enum import StrEnum
from functools import cache
from types import UnionType
from typing import Any, Union, get_args, get_origin, get_type_hints

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Floats, Ints, values_at

VALUES = "values"  # the scale of the series itself
TOGETHER = ""  # stands where a series would, for what belongs to several together


class Rests(StrEnum):
    """What a shape is based on."""

    MEASURED = "measured"
    ESTIMATED = "estimated"
    PROVISIONAL = "provisional"
    PROJECTED = "projected"


# what a hint of an array is made of: numpy has an alias of its own for it where Python has such aliases (3.12)
_ARRAYS = {np.ndarray, get_origin(Floats)}


@cache
def _fields_of_arrays(kind: type) -> tuple[str, ...]:
    """Return the array fields of a shape class. Cached, as it is asked for every shape of every run."""
    hints = get_type_hints(kind)
    return tuple(
        field.name for field in fields(kind) if _ARRAYS & {get_origin(part) for part in _parts(hints[field.name])}
    )


def _parts(hint: Any) -> tuple[Any, ...]:
    """Return the members of a union, or the type itself."""
    return get_args(hint) if get_origin(hint) in (UnionType, Union) else (hint,)


@dataclass(frozen=True, slots=True, kw_only=True)
class Shape:
    id: str
    entry: str
    series: str
    name: str
    scale: str = VALUES
    rests: Rests = Rests.MEASURED

    def arrays(self) -> Iterator[np.ndarray]:
        """Return all arrays, whose bytes the memo counts."""
        kind: Any = type(self)  # a class is hashable, whatever mypy makes of its own hash
        for name in _fields_of_arrays(kind):
            value = getattr(self, name)
            if value is not None:
                yield value


@dataclass(frozen=True, slots=True, kw_only=True)
class Curve(Shape):
    """A line over time, one value per period, NaN for none.

    kind: its kind in lines.csv
    faded: where it depends on provisional periods
    pale: where it depends on fewer values than it should
    drawn: False for numbers that are handed over but not drawn
    held_back_error: mean absolute backtest error of a projection
    label: lines of text at its end, by default its name
    equation, r2: texts of a fitted line
    part_of: id of the curve that it extends; runs_on: whether forward in time
    strong: whether it stands out more than its series
    beside: whether it is another series for comparison, and no reading
    """

    kind: str
    periods: Ints
    value: Floats
    faded: Bools | None = None
    pale: Bools | None = None
    drawn: bool = True
    held_back_error: float | None = None
    label: tuple[str, ...] | None = None
    equation: str = ""
    r2: str = ""
    part_of: str = ""
    runs_on: bool = False
    strong: bool = True
    beside: bool = False

    def at(self, periods: Ints) -> Floats:
        """Return the values at some periods, NaN where it is not drawn."""
        return values_at(self.periods, self.value, periods)


@dataclass(frozen=True, slots=True, kw_only=True)
class Area(Shape):
    """The area between two edges, NaN where it is open.

    curve_id: id of the curve it surrounds
    level: nominal coverage in percent, or None
    tested: number of periods, from the first, on which it was backtested; None if there is nothing to test
    """

    curve_id: str
    periods: Ints
    lower: Floats
    upper: Floats
    level: float | None = None
    tested: int | None = None

    def at(self, periods: Ints) -> tuple[Floats, Floats]:
        """Return the lower and upper edge at some periods, NaN where it is open."""
        return values_at(self.periods, self.lower, periods), values_at(self.periods, self.upper, periods)


@dataclass(frozen=True, slots=True, kw_only=True)
class Rule(Shape):
    """A straight rule: vertical at a period, or horizontal at a value. The other field is None."""

    period: int | None = None
    value: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Span(Shape):
    """A stretch of time.

    first, last: periods
    """

    first: int
    last: int


class Beside(StrEnum):
    """Where the label of a point is placed."""

    SIDE = "side"
    ABOVE = "above"
    BELOW = "below"


@dataclass(frozen=True, slots=True, kw_only=True)
class Points(Shape):
    """Marked periods with labels, empty for none.

    urgent: whether they ask for attention
    """

    periods: Ints
    value: Floats
    labels: tuple[str, ...]
    beside: tuple[Beside, ...]
    urgent: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class Flags(Shape):
    """Named days and stretches at the bottom of the chart.

    first, last: periods
    """

    first: Ints
    last: Ints
    names: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Bars(Shape):
    """Bars from zero, NaN for none."""

    periods: Ints
    value: Floats


def shape_id(entry: str, series: str, part: str) -> str:
    return f"{entry}/{series}/{part}"

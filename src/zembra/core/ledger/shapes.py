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
    """What a shape rests on."""

    MEASURED = "measured"
    ESTIMATED = "estimated"
    PROVISIONAL = "provisional"
    PROJECTED = "projected"


# what a hint of an array is made of: numpy has an alias of its own for it where Python has such aliases (3.12)
_ARRAYS = {np.ndarray, get_origin(Floats)}


@cache
def _fields_of_arrays(kind: type) -> tuple[str, ...]:
    """Asked for at every shape of every run, while a kind has the same ones for ever."""
    hints = get_type_hints(kind)
    return tuple(
        field.name for field in fields(kind) if _ARRAYS & {get_origin(part) for part in _parts(hints[field.name])}
    )


def _parts(hint: Any) -> tuple[Any, ...]:
    """What a field may be: itself, or each side of an alternative."""
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
        """The arrays it holds, whose bytes the memo counts."""
        kind: Any = type(self)  # a class is hashable, whatever mypy makes of its own hash
        for name in _fields_of_arrays(kind):
            value = getattr(self, name)
            if value is not None:
                yield value


@dataclass(frozen=True, slots=True, kw_only=True)
class Curve(Shape):
    """A line over time: value, NaN where there is none, one element per period.

    faded: where it rests on provisional periods. pale: where it rests on less than it should. kind: what it is, as
    it stands in lines.csv. drawn: False for numbers that are handed over and not drawn. held_back_error: mean absolute error of a projection on
    held-back periods. label: what stands at its end, a line each; the name where nothing is
    given. equation, r2: words of a line that was fitted. part_of: id of the curve that it carries on or back; runs_on: whether on. strong: whether
    it is read before the series it belongs to. beside: whether it is a series laid beside it, and no reading of it.
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
        """The values at some periods, NaN where it is not drawn."""
        return values_at(self.periods, self.value, periods)


@dataclass(frozen=True, slots=True, kw_only=True)
class Area(Shape):
    """What lies between two edges, NaN where it is open. curve_id: id of the curve that it is round. level: its
    coverage in percent, None where it claims none. tested: on how many of its periods, from the first on, it was held
    against what happened; None where there is nothing to test."""

    curve_id: str
    periods: Ints
    lower: Floats
    upper: Floats
    level: float | None = None
    tested: int | None = None

    def at(self, periods: Ints) -> tuple[Floats, Floats]:
        """Its (lower, upper) edge at some periods, NaN where it is open."""
        return values_at(self.periods, self.lower, periods), values_at(self.periods, self.upper, periods)


@dataclass(frozen=True, slots=True, kw_only=True)
class Rule(Shape):
    """A straight rule across the chart: upright at a period, or level at a value; the other one is None."""

    period: int | None = None
    value: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Span(Shape):
    """A stretch of time from its first to its last period."""

    first: int
    last: int


class Beside(StrEnum):
    """Where the label of a point stands: at its side, or where the line does not run."""

    SIDE = "side"
    ABOVE = "above"
    BELOW = "below"


@dataclass(frozen=True, slots=True, kw_only=True)
class Points(Shape):
    """Periods picked out, with a label each, empty for none. urgent: whether they ask for attention."""

    periods: Ints
    value: Floats
    labels: tuple[str, ...]
    beside: tuple[Beside, ...]
    urgent: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class Flags(Shape):
    """Days and stretches with a name each, at the foot of the chart. first, last: periods."""

    first: Ints
    last: Ints
    names: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Bars(Shape):
    """A bar from zero to a value at each period, NaN for none."""

    periods: Ints
    value: Floats


def shape_id(entry: str, series: str, part: str) -> str:
    return f"{entry}/{series}/{part}"

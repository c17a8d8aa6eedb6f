"""Limits of a projection, as edges and as half-widths."""

from __future__ import annotations

from dataclasses import dataclass

from zembra.core.arithmetic.arrays import Floats


@dataclass(frozen=True, slots=True)
class HalfWidth:
    """Half-widths below and above the centre, at one coverage level in percent."""

    level: float
    below: Floats
    above: Floats


@dataclass(frozen=True, slots=True)
class Limits:
    """Lower and upper limits at one coverage level in percent."""

    level: float
    lower: Floats
    upper: Floats

    def around(self, mean: Floats) -> HalfWidth:
        """Return the half-widths about a centre."""
        return HalfWidth(self.level, mean - self.lower, self.upper - mean)

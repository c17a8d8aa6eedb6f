"""Limits of a projection."""

from __future__ import annotations

from dataclasses import dataclass

from zembra.core.arithmetic.arrays import Floats


@dataclass(frozen=True, slots=True)
class Limits:
    """Lower and upper limits at one coverage level, in percent."""

    level: float
    lower: Floats
    upper: Floats

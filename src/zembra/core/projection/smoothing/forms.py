"""The forms of exponential smoothing."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import product

import numpy as np

from zembra.core.arithmetic.arrays import Floats


@dataclass(frozen=True, slots=True)
class Form:
    """Error A or M; trend N or A; season N, A or M."""

    error: str
    trend: str
    season: str
    damped: bool = False

    def __str__(self) -> str:
        return f"({self.error}, {self.trend}{'d' if self.damped else ''}, {self.season})"

    @property
    def weights(self) -> tuple[bool, bool, bool, bool]:
        """Which of α, β, γ and φ it has."""
        return True, self.trend != "N", self.season != "N", self.damped


def possible_forms(history: Floats, season: int | None) -> list[Form]:
    """Return the forms worth comparing. Multiplicative ones need positive values; a multiplicative season with
    additive errors is left out, as its variance can be infinite (Hyndman et al. 2008, 4.3).
    """
    positive = bool(np.all(history > 0))
    errors = ("A", "M") if positive else ("A",)
    seasons: tuple[str, ...] = ("N",)
    if season and history.size >= 2 * season:
        seasons = ("N", "A", "M") if positive else ("N", "A")
    trends = (("N", False), ("A", False), ("A", True))
    return [
        Form(error, trend, seasonal, damped)
        for error, (trend, damped), seasonal in product(errors, trends, seasons)
        if not (error == "A" and seasonal == "M")
    ]

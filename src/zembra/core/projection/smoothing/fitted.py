"""A fitted form of exponential smoothing."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.projection.smoothing.forms import Form
from zembra.core.projection.smoothing.recursion import Begin, Path, Weights


@dataclass(frozen=True, slots=True)
class Fit:
    """A form fitted to a history.

    weights, begin, path: of one column
    season: 1 for none
    aicc: corrected Akaike criterion
    tried: (form, AICc) of every form compared, best first
    """

    form: Form
    season: int
    history: Floats
    weights: Weights
    begin: Begin
    path: Path
    aicc: float
    estimated: int
    tried: tuple[tuple[str, float], ...] = ()

    @property
    def errors(self) -> Floats:
        """One-step errors in the unit of the values."""
        return np.asarray(self.history - self.path.means[:, 0])

    @property
    def relative_errors(self) -> Floats:
        """One-step errors as the form defines them: relative if multiplicative."""
        return np.asarray(self.errors / self.path.means[:, 0]) if self.form.error == "M" else self.errors

    @property
    def residual_spread(self) -> float:
        """The residual standard error; relative if errors are multiplicative."""
        freedom = max(1, self.history.size - self.estimated)
        return float(np.sqrt(np.sum(self.relative_errors**2) / freedom))

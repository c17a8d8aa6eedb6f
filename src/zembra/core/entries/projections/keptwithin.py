"""Clip a projection to a floor and a ceiling, round it to whole numbers, and describe what that changes."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from zembra.core.english import counted, number
from zembra.core.ledger.state import Study
from zembra.core.projection.ahead import Projected

MUCH = 0.05  # of the sum of the centre, that rounding may change before it is said


@dataclass(frozen=True, slots=True)
class Bounds:
    """Bounds of a projection.

    floor, ceiling: as the sentence gives them, or None
    never_below_zero: whether no value ever was
    whole: whether to round to whole numbers
    """

    floor: float | None
    ceiling: float | None
    never_below_zero: bool
    whole: bool

    @property
    def low(self) -> float | None:
        return 0.0 if self.floor is None and self.never_below_zero else self.floor

    def keep(self, found: Projected) -> Projected:
        return found.mapped(self.low, self.ceiling, whole=self.whole)

    def said(self, before: Projected, after: Projected, study: Study) -> Iterator[str]:
        """Describe what the bounds change beyond clipping limits."""
        for edge, name in ((self.low, "below"), (self.ceiling, "above")):
            if edge is None:
                continue
            beyond = before.mean < edge if name == "below" else before.mean > edge
            flat = beyond & np.all([half.below + half.above == 0 for half in after.halves], axis=0)
            if flat.any():
                many = counted(int(flat.sum()), study.grain.singular, study.grain.plural)
                why = "" if edge == self.floor or name == "above" else ", as no value ever was"
                yield (
                    f"never {name} {number(edge)}{why}, it has no limits for {many}: all that the method says of them "
                    f"lies {name}."
                )
        kept = np.clip(
            before.mean, -np.inf if self.low is None else self.low, np.inf if self.ceiling is None else self.ceiling
        )
        was, now = float(kept.sum()), float(after.mean.sum())
        if self.whole and abs(now - was) > MUCH * max(abs(was), 1e-300):
            yield (
                f"whole numbers make the sum of the projection {number(now)} where the method says "
                f"{number(float(f'{was:.4g}'))}."
            )

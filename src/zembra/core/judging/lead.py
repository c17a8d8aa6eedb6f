"""Whether a candidate does better than the projection as it is by more than chance."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.judging.verdict import Verdict

MORE_THAN_CHANCE = "more than chance"
CHANCE = 0.05  # below which a lead is more than chance


def lead_over(own: Verdict, other: Verdict, actual: Sequence[Floats]) -> tuple[int, int, float]:
    """(on how many starting points the other comes nearer, of how many that both have, the chance of as many or more where
    neither is better): a sign test on the mean absolute errors of each starting point, whose errors go wrong together.

    actual: what happened, by starting point, NaN where that is not known.
    """
    from scipy.special import bdtrc

    pairs = [
        (error, mine)
        for mine_said, said, held in zip(own.folds, other.folds, actual, strict=True)
        if mine_said is not None and said is not None
        for error, mine in [(_error(said.mean, held), _error(mine_said.mean, held))]
        if error != mine and not np.isnan(error)
    ]
    better = sum(error < mine for error, mine in pairs)
    return better, len(pairs), float(bdtrc(better - 1, len(pairs), 0.5)) if better else 1.0


def lead_said(own: Verdict, other: Verdict, actual: Sequence[Floats]) -> str:
    """In words, of a candidate with the smaller error; nothing of any other."""
    if own.score is None or other.score is None or other.score.mae >= own.score.mae:
        return ""
    better, points, chance = lead_over(own, other, actual)
    how = MORE_THAN_CHANCE if chance < CHANCE else "which chance does often"
    return f"nearer than as it is on {better} of {points} starting points, {how}"


def _error(said: Floats, held: Floats) -> float:
    known = ~np.isnan(held)
    return float(np.abs(said - held)[known].mean()) if known.any() else float("nan")

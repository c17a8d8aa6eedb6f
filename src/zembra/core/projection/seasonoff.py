"""Remove one or several seasons by robust STL, and smooth the rest."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.errors import Refusal
from zembra.core.projection.ahead import History, Number, Projected, corrected
from zembra.core.projection.seasonal import STL_WINDOW, cycled
from zembra.core.projection.smoothing.fit import smooth
from zembra.core.projection.smoothing.forms import possible_forms
from zembra.core.projection.smoothing.methods import estimated
from zembra.core.projection.smoothing.smoothingahead import carried_on

ROUNDS = 6  # of robustness weights; more change little and take as much longer


def season_taken_off(
    history: History, ahead: int, levels: Sequence[float], seasons: Sequence[int] = (), *, quick: bool = False
) -> Projected:
    """Project a history without its season, and add the season back. Raises Refusal.

    seasons: lengths in ascending order, by default that of the history
    quick: skip robustness weights, for backtests
    """
    lengths = sorted(set(seasons)) or ([history.season] if history.season else [])
    if not lengths:
        raise Refusal("There is no season to take off.", todo="Give its length, or choose another method.")
    short = next((length for length in lengths if history.size < 2 * length + 1), None)
    if short is not None:
        raise Refusal(
            f"A season of {short} needs more than {2 * short} values; there are {history.size}.",
            todo="Shorten the season.",
        )
    rest, cycle = _without(history.values, lengths, ahead, robust=not quick)
    fit = smooth(rest, None, ahead, None, [form for form in possible_forms(rest, None) if form.error == "A"])
    centre, halves = carried_on(fit, ahead, levels)
    estimates: dict[str, Number] = {
        "Seasons": ", ".join(str(length) for length in lengths),
        "Form of the rest": str(fit.form),
        "Level weight α": float(fit.weights.alpha[0]),
        "Residual spread": fit.residual_spread,
    }
    quantities = estimated(fit.form, None)
    return Projected(
        "season taken off",
        centre + cycle,
        corrected(halves, quantities, history.points),
        estimates,
        fit.errors,
        seasonal=True,
    )


def _without(values: Floats, lengths: Sequence[int], ahead: int, *, robust: bool) -> tuple[Floats, Floats]:
    """Return the values without seasons, and the seasons ahead, by robust STL for one length after another: MSTL
    (Bandara, Hyndman and Bergmeir, 2021) with two rounds.
    """
    from statsmodels.tsa.seasonal import STL

    parts = [np.zeros(values.size) for _ in lengths]
    for _ in range(2 if len(lengths) > 1 else 1):
        for n, length in enumerate(lengths):
            others = np.sum([part for k, part in enumerate(parts) if k != n], axis=0)
            found = STL(values - others, period=length, seasonal=STL_WINDOW, robust=robust).fit(
                outer_iter=ROUNDS if robust else 0
            )
            parts[n] = np.asarray(found.seasonal, dtype=np.float64)
    onward = np.sum([cycled(part[-length:], ahead) for part, length in zip(parts, lengths, strict=True)], axis=0)
    return values - np.sum(parts, axis=0), np.asarray(onward, dtype=np.float64)

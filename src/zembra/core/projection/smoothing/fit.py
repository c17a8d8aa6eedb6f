"""Fit exponential smoothing: the best form, or a given one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import lru_cache

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.errors import Refusal
from zembra.core.projection.smoothing.estimate import LONGEST_ESTIMATED, estimated_with_states
from zembra.core.projection.smoothing.fitted import Fit
from zembra.core.projection.smoothing.forms import Form, possible_forms
from zembra.core.projection.smoothing.recursion import path_along
from zembra.core.projection.smoothing.search import searched
from zembra.core.projection.smoothing.smoothingahead import carried_on
from zembra.core.projection.wholehistory import FEWEST_POINTS

MOST_REMEMBERED = 32
MOST_TRIED = 4  # forms that are fitted in full, where those before them run away
RUN_AWAY = 10  # times the range ever seen


def smooth(
    history: Floats, season: int | None, ahead: int, form: Form | None = None, offered: Sequence[Form] | None = None
) -> Fit:
    """Fit a form. Without one, compare the offered forms by AICc with heuristic states, and fit the best that does
    not run away over the horizon. Raises Refusal if the history is too short or the form cannot be fitted.

    history: without NaN
    """
    _check(history, season, form)
    if form is not None:
        return _full(history.tobytes(), season, form)
    forms = list(offered or possible_forms(history, season))
    tried = _compared(history.tobytes(), season, tuple(forms))
    best: tuple[float, Fit] | None = None
    for chosen, _ in tried[:MOST_TRIED]:
        fit = replace(
            _full(history.tobytes(), season, chosen), tried=tuple((str(compared), aicc) for compared, aicc in tried)
        )
        far = _runs_away(fit, ahead)
        # a form that runs away over the horizon is not chosen where another one does not; if all do, the least bad
        if best is None or far < best[0]:
            best = (far, fit)
        if far <= RUN_AWAY:
            break
    if best is None:
        raise Refusal("No form of exponential smoothing could be fitted.", todo="Bring in more history.")
    return best[1]


# how far a history is carried on and with which limits needs no new fit: the last few are remembered


@lru_cache(maxsize=MOST_REMEMBERED)
def _compared(values: bytes, season: int | None, forms: tuple[Form, ...]) -> list[tuple[Form, float]]:
    history = np.frombuffer(values)
    _, misfits = searched(history[:, None], forms, season or 1)
    aiccs = [
        _aicc(float(misfit), sum(form.weights) + 1, history.size) for form, misfit in zip(forms, misfits, strict=True)
    ]
    found = [(form, aicc) for form, aicc in zip(forms, aiccs, strict=True) if np.isfinite(aicc)]
    return sorted(found, key=lambda pair: pair[1])


@lru_cache(maxsize=MOST_REMEMBERED)
def _full(values: bytes, season: int | None, form: Form) -> Fit:
    history = np.frombuffer(values)
    length = season if season is not None and form.season != "N" else 1
    weights, begin, misfit = estimated_with_states(history, form, length)
    if not np.isfinite(misfit):
        raise Refusal(
            f"Exponential smoothing of the form {form} could not be fitted.",
            todo="Shorten the season or choose another form.",
        )
    quantities = sum(form.weights) + 1
    if length <= LONGEST_ESTIMATED:
        quantities += 1 + (form.trend != "N") + (length if form.season != "N" else 0)
    path = path_along(history[:, None], weights, begin, factor=form.season == "M")
    aicc = _aicc(misfit, quantities, history.size)
    return Fit(form, length, history, weights, begin, path, aicc, quantities - 1)


def _aicc(misfit: float, quantities: int, points: int) -> float:
    """Return the AICc.

    quantities: number of parameters, the error variance among them
    """
    minus_twice = points * (np.log(2 * np.pi) + 1 + misfit)
    room = points - quantities - 1
    return float(minus_twice + 2 * quantities + (2 * quantities * (quantities + 1) / room if room > 0 else np.inf))


def _runs_away(fit: Fit, ahead: int) -> float:
    """Return how far projection and limits leave the observed range, in ranges; infinite if undefined."""
    mean, halves = carried_on(fit, ahead, (95.0,))
    low, high = float(fit.history.min()), float(fit.history.max())
    ends = np.concatenate([mean, mean - halves[0].below, mean + halves[0].above])
    if not np.isfinite(ends).all():
        return float("inf")
    return max(low - float(ends.min()), float(ends.max()) - high, 0.0) / (high - low)


def _check(history: Floats, season: int | None, form: Form | None) -> None:
    if history.size < FEWEST_POINTS:
        raise Refusal(
            f"A projection needs at least {FEWEST_POINTS} values; there are {history.size}.",
            todo="Bring in more history, or fill blanks.",
        )
    if np.ptp(history) == 0:
        raise Refusal("Every value is the same: there is nothing to fit.", todo="Draw a line at that value instead.")
    if form is None:
        return
    if "M" in (form.error, form.season) and not np.all(history > 0):
        raise Refusal(
            f"The form {form} is multiplicative, and not every value is above zero.",
            place=f"the smallest value is {history.min():g}",
            todo="Choose additive errors and an additive season.",
        )
    if form.season != "N" and (not season or history.size < 2 * season):
        raise Refusal(
            f"A season of {season} needs at least {2 * (season or 1)} values; there are {history.size}.",
            todo="Shorten the season or choose none.",
        )

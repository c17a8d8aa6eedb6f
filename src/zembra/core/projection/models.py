"""The default projection: an average of many ARIMA models, on levels and on logarithms."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import replace
from threading import Lock

import numpy as np

from zembra.core.errors import Refusal
from zembra.core.projection.ahead import History, Number, Projected
from zembra.core.projection.averaged.average import FEWEST, Averaged, AveragedForecast, ahead_of
from zembra.core.projection.averaged.farvalues import averaged
from zembra.core.projection.averaged.forms import forms_for
from zembra.core.projection.averaged.shownmodels import ShownModel, shown_models
from zembra.core.projection.limits import HalfWidth
from zembra.core.projection.shortseason import ShortSeason, short_season

MOST_REMEMBERED = 40  # histories, of at most about 1 MB each
MOST_TOGETHER = 32  # histories that are fitted side by side
KEPT_FROM = 250  # values from which backtests with the weights of the whole history are hardly too kind


def average_of_models(
    history: History, ahead: int, levels: Sequence[float], refit_from: Projected | None = None
) -> Projected:
    """Project by the average of many ARIMA models. Raises Refusal.

    refit_from: the projection of the whole history, of which `history` is the beginning; a long history keeps its
    estimates, so that backtests cost almost nothing
    """
    _check(history)
    if refit_from is not None and isinstance(refit_from.form, Averaged):
        found = refit_from.form
        return _projected(found, ahead_of(found, ahead, history.size), levels)
    season = short_season(history)
    return _made(FITTED.of(_without(history, season)), history, season, ahead, levels)


def _without(history: History, season: ShortSeason | None) -> History:
    return season.taken_off(history) if season else history


class _Fitted:
    """A cache of recent fits: another horizon or level needs no new fit."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._found: OrderedDict[tuple[bytes, bytes, int | None], Averaged] = OrderedDict()

    def of(self, history: History) -> Averaged:
        key = self._key(history)
        with self._lock:
            if key in self._found:
                self._found.move_to_end(key)
                return self._found[key]
        (found,) = _averaged_each([history])
        self.add([history], [found])
        return found

    def add(self, histories: Sequence[History], fitted: Sequence[Averaged]) -> None:
        with self._lock:
            self._found.update(zip(map(self._key, histories), fitted, strict=True))
            while len(self._found) > MOST_REMEMBERED:
                self._found.popitem(last=False)

    def clear(self) -> None:
        with self._lock:
            self._found.clear()

    @staticmethod
    def _key(history: History) -> tuple[bytes, bytes, int | None]:
        return history.values.tobytes(), history.known.tobytes(), history.season


FITTED = _Fitted()


def fit_side_by_side(histories: Sequence[History]) -> None:
    """Fit histories of one length at once, which is faster, with bit-identical numbers, and cache the fits. At most
    MOST_TOGETHER; those that cannot be fitted refuse later, one by one.
    """
    alike: dict[object, list[History]] = {}
    for history in histories[:MOST_TOGETHER]:
        if history.size >= FEWEST:
            rest = _without(history, short_season(history))
            alike.setdefault((rest.size, _models_of(rest)), []).append(rest)
    for members in alike.values():
        if len(members) > 1:
            FITTED.add(members, _averaged_each(members))


def average_of_models_each(
    histories: Sequence[tuple[History, int]], levels: Sequence[float]
) -> list[Projected | Refusal]:
    """Project many histories, each by its own horizon; those with the same season and models at once."""
    found: list[Projected | Refusal] = [Refusal("There is nothing to project.")] * len(histories)
    seasons = [short_season(history) for history, _ in histories]
    rests = [_without(history, season) for (history, _), season in zip(histories, seasons, strict=True)]
    alike: dict[object, list[int]] = {}
    for n, rest in enumerate(rests):
        try:
            _check(rest)
        except Refusal as refusal:
            found[n] = refusal
            continue
        alike.setdefault(_models_of(rest), []).append(n)
    for members in alike.values():
        for start in range(0, len(members), MOST_TOGETHER):
            part = members[start : start + MOST_TOGETHER]
            for n, fit in zip(part, _averaged_each([rests[n] for n in part]), strict=True):
                history, ahead = histories[n]
                found[n] = _made(fit, history, seasons[n], ahead, levels)
    return found


def _models_of(history: History) -> tuple[object, ...]:
    """Return what histories that are fitted side by side have in common."""
    fits_season = history.season is None or history.size >= history.season + 3
    return history.season, fits_season, forms_for(history.points, history.season)


def _check(history: History) -> None:
    if history.size < FEWEST:
        raise Refusal(f"The average of many models needs at least {FEWEST} values; there are {history.size}.")


def _averaged_each(histories: Sequence[History]) -> list[Averaged]:
    """Return the fits of histories with the same models, in order."""
    sizes = np.array([history.size for history in histories])
    values = np.empty((int(sizes.max()), sizes.size))
    counts = np.zeros(values.shape, dtype=bool)
    for n, history in enumerate(histories):
        values[: history.size, n], values[history.size :, n] = history.values, history.values[-1]
        counts[: history.size, n] = history.known
    found: dict[int, Averaged] = {}
    for numbers, part in averaged(values, counts, histories[0].season, sizes):
        for place, number in enumerate(numbers):
            found[int(number)] = part.of(np.array([place])).until(int(sizes[number]))
    return [found[n] for n in range(len(histories))]


def _made(
    found: Averaged, history: History, season: ShortSeason | None, ahead: int, levels: Sequence[float]
) -> Projected:
    said = ahead_of(found, ahead)
    made = _projected(found, said, levels, shown_models(found, said))
    made = season.added(made, history.size) if season else made
    return made if season is None and history.size >= KEPT_FROM else replace(made, form=None)


def _projected(
    found: Averaged, said: AveragedForecast, levels: Sequence[float], models: Sequence[ShownModel] = ()
) -> Projected:
    centre = said.centre[:, 0]
    halves = []
    for level in levels:
        lower, upper = said.limits(level)
        halves.append(HalfWidth(level, centre - lower[:, 0], upper[:, 0] - centre))
    errors = found.errors[:, 0]
    cut = np.flatnonzero(found.cut[:, 0])
    values = found.values[:, 0] * found.scale[0]
    estimates: dict[str, Number] = {
        "Share of the logarithms": float(found.share[0]),
        "Mean number of quantities estimated": float(found.levels.parameters[0]),
        "Residual spread": float(np.sqrt(np.nanmean(errors**2))),
    }
    if cut.size:
        estimates["Values cut"] = float(cut.size)
    return Projected(
        "average of many models",
        centre,
        tuple(halves),
        estimates,
        errors,
        tuple(model.told for model in models),
        form=found,
        seasonal=any(model.told.seasonal for model in models),
        cut={int(place): float(values[place]) for place in cut},
        paths=tuple(model.path for model in models),
    )

"""The default projection: an average of many ARIMA models, on levels and on logarithms."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from threading import Lock

import numpy as np

from zembra.core.errors import Refusal
from zembra.core.projection.ahead import History, Number, Projected
from zembra.core.projection.averaged.average import FEWEST, Averaged, AveragedForecast, ahead_of
from zembra.core.projection.averaged.farvalues import averaged
from zembra.core.projection.averaged.forms import forms_for
from zembra.core.projection.averaged.shownmodels import ShownModel, shown_models
from zembra.core.projection.limits import HalfWidth
from zembra.core.projection.takenoff import TakenOff, taken_off

MOST_REMEMBERED = 40  # histories, of at most about 1 MB each
MOST_TOGETHER = 32  # histories that are fitted side by side
KEPT_FROM = 100  # values from which weights of the whole history make backtests at most some two points too kind


def average_of_models(
    history: History, ahead: int, levels: Sequence[float], refit_from: Projected | None = None
) -> Projected:
    """Project by the average of many ARIMA models. Raises Refusal.

    refit_from: the projection of the whole history, of which `history` is the beginning; a long history keeps its
    estimates, so that backtests cost almost nothing
    """
    _check(history)
    kept = refit_from.form if refit_from is not None else None
    # of a very long history the beginning was not fitted
    if isinstance(kept, KeptFit) and (not kept.off.first or history.size - kept.off.first >= KEPT_FROM):
        said = ahead_of(kept.averaged, ahead, history.size - kept.off.first)
        return kept.off.added(_projected(kept.averaged, said, levels), history.size)
    return _made(FITTED.of(history), history.size, ahead, levels)


@dataclass(frozen=True, slots=True)
class KeptFit:
    """The fit of a history.

    off: what was taken off before; averaged: of the rest
    """

    averaged: Averaged
    off: TakenOff


class _Fitted:
    """A cache of recent fits: another horizon or level needs no new fit."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._found: OrderedDict[tuple[object, ...], KeptFit] = OrderedDict()

    def of(self, history: History) -> KeptFit:
        key = self._key(history)
        with self._lock:
            if key in self._found:
                self._found.move_to_end(key)
                return self._found[key]
        (found,) = _fitted_each([taken_off(history)])
        self.add([history], [found])
        return found

    def add(self, histories: Sequence[History], fitted: Sequence[KeptFit]) -> None:
        with self._lock:
            self._found.update(zip(map(self._key, histories), fitted, strict=True))
            while len(self._found) > MOST_REMEMBERED:
                self._found.popitem(last=False)

    def clear(self) -> None:
        with self._lock:
            self._found.clear()

    @staticmethod
    def _key(history: History) -> tuple[object, ...]:
        calendar = history.calendar.key if history.calendar else None
        return history.values.tobytes(), history.known.tobytes(), history.season, history.usual, calendar


FITTED = _Fitted()


def fit_side_by_side(histories: Sequence[History]) -> None:
    """Fit histories of one length at once, which is faster, with bit-identical numbers, and cache the fits. At most
    MOST_TOGETHER; those that cannot be fitted refuse later, one by one.
    """
    alike: dict[object, list[tuple[History, TakenOff]]] = {}
    for history in histories[:MOST_TOGETHER]:
        with suppress(Refusal):
            _check(history)
            off = taken_off(history)
            alike.setdefault((history.size, _models_of(off.rest)), []).append((history, off))
    for members in alike.values():
        if len(members) > 1:
            FITTED.add([history for history, _ in members], _fitted_each([off for _, off in members]))


def average_of_models_each(
    histories: Sequence[tuple[History, int]], levels: Sequence[float]
) -> list[Projected | Refusal]:
    """Project many histories, each by its own horizon; those with the same season and models at once."""
    found: list[Projected | Refusal] = [Refusal("There is nothing to project.")] * len(histories)
    every: dict[int, TakenOff] = {}
    alike: dict[object, list[int]] = {}
    for n, (history, _) in enumerate(histories):
        try:
            _check(history)
            every[n] = taken_off(history)
        except Refusal as refusal:
            found[n] = refusal
            continue
        alike.setdefault(_models_of(every[n].rest), []).append(n)
    for members in alike.values():
        for start in range(0, len(members), MOST_TOGETHER):
            part = members[start : start + MOST_TOGETHER]
            for n, fit in zip(part, _fitted_each([every[n] for n in part]), strict=True):
                found[n] = _made(fit, histories[n][0].size, histories[n][1], levels)
    return found


def _models_of(history: History) -> tuple[object, ...]:
    """Return what histories that are fitted side by side have in common."""
    fits_season = history.season is None or history.size >= history.season + 3
    return history.season, fits_season, forms_for(history.points, history.season)


def _check(history: History) -> None:
    if history.size < FEWEST:
        raise Refusal(f"The average of many models needs at least {FEWEST} values; there are {history.size}.")


def _fitted_each(offs: Sequence[TakenOff]) -> list[KeptFit]:
    """Return the fits of rests with the same models, in order."""
    rests = [off.rest for off in offs]
    sizes = np.array([rest.size for rest in rests])
    values = np.empty((int(sizes.max()), sizes.size))
    counts = np.zeros(values.shape, dtype=bool)
    for n, rest in enumerate(rests):
        values[: rest.size, n], values[rest.size :, n] = rest.values, rest.values[-1]
        counts[: rest.size, n] = rest.known
    found: dict[int, Averaged] = {}
    for numbers, part in averaged(values, counts, rests[0].season, sizes):
        for place, number in enumerate(numbers):
            found[int(number)] = part.of(np.array([place])).until(int(sizes[number]))
    return [KeptFit(found[n], off) for n, off in enumerate(offs)]


def _made(fit: KeptFit, size: int, ahead: int, levels: Sequence[float]) -> Projected:
    said = ahead_of(fit.averaged, ahead)
    made = fit.off.added(_projected(fit.averaged, said, levels, shown_models(fit.averaged, said)), size)
    return replace(
        made,
        form=fit if fit.off.season is None and size >= KEPT_FROM else None,
        effects=fit.off.effects.told() if fit.off.effects else (),
    )


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
        seasonal=any(model.told.seasonal for model in models),
        cut={int(place): float(values[place]) for place in cut},
        paths=tuple(model.path for model in models),
    )

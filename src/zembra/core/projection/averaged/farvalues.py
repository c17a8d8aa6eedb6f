"""Winsorise values far from their one-step forecast, unless the series stays there."""

from __future__ import annotations

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Floats, Ints
from zembra.core.arithmetic.robust import MAD_TO_SD
from zembra.core.projection.averaged.average import Averaged, ahead_of, average_fitted
from zembra.core.projection.averaged.errors import chosen
from zembra.core.projection.averaged.forms import ArimaForm, forms_for

FAR = 5.0  # robust deviations beyond which an error is cut
MOST_FAR = 0.1  # share of points beyond which such errors are no outliers
MOST_CUTS = 4  # rounds
HUGE = 100.0  # times what its neighbours differ by: no fit is made with such a value
BESIDE = 2  # neighbours on each side
CUT_BEFORE = 1.5  # times as far, for an error that was cut already
ROUNDING = 1e-9  # of values about 1
AFTER = 5  # values after a far one that tell whether the series stays there
STAYS = 0.5  # share of its distance that is left in them, from which it does


def averaged(
    values: Floats, counts: Bools, season: int | None, sizes: Ints | None = None
) -> list[tuple[Ints, Averaged]]:
    """Return parts: series indices and their fits. Far errors are winsorised and those series fitted again,
    repeatedly where a huge error hid others. The newest value is compared with a forecast that does not know it, as
    a fit bends towards it.

    values: (time, series), no gaps, at least FEWEST, not constant
    counts: mask of observed values
    sizes: length of each series if unequal; after its end the last value is repeated as unobserved
    """
    ends = np.full(values.shape[1], values.shape[0]) if sizes is None else sizes
    if season is not None and ends.min() < season + 3:
        season = None
    forms = forms_for(int(counts.sum(axis=0).min()), season)
    cut, newest_cut, steps = (np.zeros(values.shape, dtype=bool) for _ in range(3))
    values = values.copy()
    for series, end in enumerate(ends):
        _pull_in_huge(values[:end, series], cut[:end, series])
    for column in np.flatnonzero(_newest_moves_far(values, counts, season, ends)):
        newest = int(ends[column]) - 1
        instead = _newest_instead(values[: newest + 1, [column]], counts[: newest + 1, [column]], forms, season)
        if instead is None:
            steps[newest, column] = True
        elif instead != values[newest, column]:
            newest_cut[newest, column], values[newest, column] = True, instead
    return _far_cut(values, counts & ~newest_cut, cut | newest_cut, steps, forms, season, ends)


def _pull_in_huge(values: Floats, cut: Bools) -> None:
    """Pull single values, which lie so far from their neighbours that they would swamp every fit, to HUGE times what the
    neighbours differ by, in place. The newest value has too few neighbours, and is looked at apart.
    """
    size, wide = values.size, 2 * BESIDE + 1
    if size <= wide:
        return
    own = np.arange(size - 1)
    first = np.clip(own - BESIDE, 0, size - wide)
    window = first[:, None] + np.arange(wide)
    beside = values[window[window != own[:, None]].reshape(-1, wide - 1)]
    middle = np.median(beside, axis=1)
    most = HUGE * np.maximum(np.ptp(beside, axis=1), np.median(np.abs(np.diff(values))))
    away = values[:-1] - middle
    huge = np.flatnonzero((np.abs(away) > most) & (most > 0))
    values[huge] = middle[huge] + np.sign(away[huge]) * most[huge]
    cut[huge] = True


def _far_cut(
    values: Floats,
    counts: Bools,
    cut: Bools,
    steps: Bools,
    forms: tuple[ArimaForm, ...],
    season: int | None,
    ends: Ints,
) -> list[tuple[Ints, Averaged]]:
    """As `averaged`.

    cut: values winsorised before
    steps: far values at which the series is known to stay; new ones are added
    """
    own = np.arange(values.shape[0])[:, None] < ends
    # one row per series, so that its sum does not depend on the others
    scale = np.ascontiguousarray(np.where(own, np.abs(values), 0.0).T).sum(axis=1) / ends
    series = np.arange(values.shape[1])
    found = average_fitted(values / scale, counts, scale, cut, forms, season, ends)
    done: list[tuple[Ints, Averaged]] = []
    for _ in range(MOST_CUTS):
        near, far, stays = _near(found, chosen(steps, series), season, ends)
        steps[:, series] |= stays
        again = np.flatnonzero(far.any(axis=0))
        if not again.size:
            break
        rest = np.flatnonzero(~far.any(axis=0))
        if rest.size:
            done.append((series[rest], found.of(rest)))
        cut = chosen(found.cut | far, again)
        series, before, ends = series[again], found.of(again), ends[again]
        found = average_fitted(chosen(near, again), before.counts, before.scale, cut, forms, season, ends)
    return [*done, (series, found)]


def _near(found: Averaged, steps: Bools, season: int | None, ends: Ints) -> tuple[Floats, Bools, Bools]:
    """Return the winsorised values, where they are, and far values at which the series stays.

    steps: values that are not winsorised
    """
    errors = found.errors / found.scale
    with np.errstate(invalid="ignore"):
        middle = np.nan_to_num(np.nanmedian(np.abs(errors), axis=0))
        most = FAR * MAD_TO_SD * middle
        # winsorised values lie slightly beyond the threshold of later checks
        far = np.abs(errors) > np.maximum(np.where(found.cut, CUT_BEFORE, 1.0) * most, ROUNDING)
    many = (far | found.cut).sum(axis=0) >= MOST_FAR * found.counts.sum(axis=0)
    far &= ~many & (middle > 0) & ~steps
    stays = np.zeros(far.shape, dtype=bool)
    for place, column in zip(*np.nonzero(far & ~found.cut), strict=True):
        own = found.values[: ends[column], column]
        stays[place, column] = _stays(own, int(place), float(errors[place, column]), season)
    far &= ~stays
    excess = np.where(far, np.abs(errors) - most, 0.0) * np.sign(np.nan_to_num(errors))
    return found.values - np.nan_to_num(excess), far, stays


def _stays(values: Floats, place: int, error: float, season: int | None) -> bool:
    """Return whether a series stays at a far value, so that it is a step and no error: by how far later values lie
    from earlier ones, a season or a few places before, beyond what is usual over that distance.
    """
    lag = season or AFTER + 1
    after = np.arange(max(place + 1, lag), min(place + lag, place + 1 + AFTER, values.size))
    if not after.size:
        return False
    usual = float(np.median(values[lag:] - values[:-lag]))
    return abs(float(np.median(values[after] - values[after - lag])) - usual) > STAYS * abs(error)


def _newest_moves_far(values: Floats, counts: Bools, season: int | None, ends: Ints) -> Bools:
    """Return whether the newest value of each series lies far from the previous one and from the one a season
    before, so that it is worth a forecast.
    """
    far = counts.sum(axis=0) > 1 / MOST_FAR
    for lag in {1, season or 1}:
        moves = np.abs(values[lag:] - values[:-lag])
        for column in np.flatnonzero(far):
            own = moves[: ends[column] - lag, column]
            far[column] = own.size > 1 and own[-1] > FAR * MAD_TO_SD * np.median(own[:-1])
    return np.asarray(far)


def _newest_instead(values: Floats, counts: Bools, forms: tuple[ArimaForm, ...], season: int | None) -> float | None:
    """Return what replaces the newest value: itself if it lies near its forecast, or None if it does not but
    earlier far values were mostly steps.
    """
    before, newest = values[:-1], float(values[-1, 0])
    if np.ptp(before) == 0:
        return newest
    cut, steps = np.zeros(before.shape, dtype=bool), np.zeros(before.shape, dtype=bool)
    ((_, found),) = _far_cut(before, counts[:-1], cut, steps, forms, season, np.array([before.shape[0]]))
    errors = np.abs(found.errors[~np.isnan(found.errors)])
    away = newest - float(ahead_of(found, 1).centre[0, 0])
    most = FAR * MAD_TO_SD * float(np.median(errors))
    if abs(away) <= most or most <= ROUNDING * found.scale[0] or np.mean(errors > most) >= MOST_FAR:
        return newest
    if steps.any() and steps.sum() >= found.cut.sum():
        return None
    return newest - float(np.sign(away)) * (abs(away) - most)

"""Find level shifts: where they are, how large, and how sure.

A season and a yearly wave are taken off, breaks are proposed by a kernel change-point search (ruptures), and each is
tested against its neighbourhood: a straight line with a step, its error widened for
autocorrelation. The least sure break is dropped and the rest tested again until all hold. The test
allows for how many places were looked at. Rates of false alarm: docs/level-shifts.md.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.arithmetic.correlatederrors import fitted_with_errors
from zembra.core.arithmetic.fills import interpolated
from zembra.core.arithmetic.robust import MAD_TO_SD
from zembra.core.arithmetic.rolling import rolling_mean, rolling_middle
from zembra.core.arithmetic.windows import fixed_windows

CLIP = 4.0  # residuals beyond so many scaled deviations are pulled in, so that two spikes are no shift
MOST_ALARMS = 0.05  # chance of a false alarm in a series, by the approximation the test uses
MOST_CORRELATED = 0.97
LOOKS = 12.0  # looks a shortest stretch: a step is chosen among many, and a wave fitted beside it
HARMONICS = 3
FEWEST_YEARS = 1.5
MOST_TURNS = 5


@dataclass(frozen=True, slots=True)
class LevelShift:
    """A level shift.

    place: index of the first point after it
    before, after: mean levels on both sides
    size, low, high: the step and its 95 % interval
    sure: 1 minus the probability that a series without shifts shows one like it
    """

    place: int
    before: float
    after: float
    size: float
    low: float
    high: float
    sure: float


def find_shifts(
    values: Floats, season: int | None, shortest: int, smallest: float, year: float | None = None
) -> list[LevelShift]:
    """Return shifts of at least `smallest` units, with stretches of at least `shortest` points.

    values: NaN for gaps, which are interpolated for the search only
    season: points per season
    year: points per year, if a yearly wave may be present
    """
    known = np.flatnonzero(~np.isnan(values))
    if known.size < 2 * shortest:
        return []
    first = int(known[0])
    history = interpolated(values[first : int(known[-1]) + 1])
    level = clipped(without_season(history, season), shortest)
    if not year or level.size < FEWEST_YEARS * year:
        found = holding(level, proposed(level, shortest), shortest, smallest)
    else:
        found = _beside_a_wave(level, year, shortest, smallest)
    return [replace(place, place=place.place + first) for place in found]


def _beside_a_wave(level: Floats, year: float, shortest: int, smallest: float) -> list[LevelShift]:
    """Separate shifts from a yearly wave in turns, each estimated without the other. The first turn takes the step
    that explains most beside the wave, so that the wave does not absorb it.
    """
    places = [_likeliest_step(level, year, shortest)]
    found: list[LevelShift] = []
    for _ in range(MOST_TURNS):
        flat = level - yearly_wave(level, year, places)
        found = holding(flat, proposed(flat, shortest), shortest, smallest)
        if [shift.place for shift in found] == places:
            break
        places = [shift.place for shift in found]
    return found


def _wave_columns(size: int, year: float) -> Floats:
    """Return design columns: cosines and sines of the harmonics, a constant, a trend."""
    at = np.arange(size)
    angles = [2 * np.pi * n * at / year for n in range(1, HARMONICS + 1)]
    waves = [part for angle in angles for part in (np.cos(angle), np.sin(angle))]
    return np.column_stack([*waves, np.ones(size), at / size])


def _likeliest_step(level: Floats, year: float, shortest: int) -> int:
    """Return the step that lowers the squared error of wave and trend most, over all places."""
    basis, _ = np.linalg.qr(_wave_columns(level.size, year))
    rest = level - basis @ (basis.T @ level)
    # of the step that begins at each place: its part outside the wave, and what it explains there
    after = np.cumsum(rest[::-1])[::-1]
    inside = np.cumsum(basis[::-1], axis=0)[::-1]
    outside = np.arange(level.size, 0, -1) - (inside**2).sum(axis=1)
    gain = after**2 / np.maximum(outside, 1e-9 * level.size)
    return shortest + int(np.argmax(gain[shortest : level.size - shortest]))


def least_sure_step(values: Floats, season: int | None, shortest: int) -> float:
    """Estimate how large a step in the middle of a series must be for `find_shifts` to report it.

    values: NaN for gaps
    """
    from scipy.special import stdtrit

    known = np.flatnonzero(~np.isnan(values))
    level = without_season(interpolated(values[int(known[0]) : int(known[-1]) + 1]), season)
    noise = MAD_TO_SD * float(np.median(np.abs(np.diff(level)))) / np.sqrt(2)
    size = min(level.size, 8 * shortest)
    at = np.arange(size)
    design = np.column_stack([np.ones(size), at >= size // 2, at - size / 2])
    looks = max(1.0, LOOKS * level.size / shortest)
    alone = 1 - (1 - MOST_ALARMS) ** (1 / looks)
    reach = float(stdtrit(max(2.0, size - 3), 1 - alone / 2))
    return float(reach * noise * np.sqrt(np.linalg.inv(design.T @ design)[1, 1]))


def measured_shift(
    values: Floats, at: int, season: int | None, stretch: int, year: float | None = None
) -> LevelShift | None:
    """Measure a shift at a given place over up to four stretches on either side; None for fewer than two numbers
    before or after.
    """
    known = np.flatnonzero(~np.isnan(values))
    if known.size < 4 or known[1] >= at or known[-2] < at:
        return None
    first = int(known[0])
    history = interpolated(values[first : int(known[-1]) + 1])
    level = clipped(without_season(history, season), stretch)
    if year:
        level = level - yearly_wave(level, year, [at - first])
    places = [at - first]
    return replace(_tested(level, places[0], places, stretch, _correlation_beside(level, places)), place=at)


def holding(level: Floats, places: list[int], shortest: int, smallest: float) -> list[LevelShift]:
    """Return the candidate breaks that pass when tested together."""
    while places:
        rho = _correlation_beside(level, places)
        tested = [_tested(level, at, places, shortest, rho) for at in places]
        weakest = min(range(len(tested)), key=lambda n: (tested[n].sure, abs(tested[n].size)))
        worst = min(tested, key=lambda shift: abs(shift.size)) if smallest else tested[weakest]
        if tested[weakest].sure < 1 - MOST_ALARMS:
            del places[weakest]
        elif abs(worst.size) < smallest:
            places.remove(worst.place)
        else:
            return tested
    return []


def yearly_wave(level: Floats, year: float, places: Sequence[int]) -> Floats:
    """Fit a yearly wave of three harmonics together with a trend and steps at `places`. Zero for less than one and
    a half years, where it cannot be told from a shift.
    """
    if level.size < FEWEST_YEARS * year:
        return np.zeros(level.size)
    columns = _wave_columns(level.size, year)
    at = np.arange(level.size)
    steps = [(at >= place).astype(np.float64) for place in places]
    design = np.column_stack([columns, *steps])
    found, *_ = np.linalg.lstsq(design, level, rcond=None)
    waves = 2 * HARMONICS
    return np.asarray(columns[:, :waves] @ found[:waves])


def proposed(level: Floats, shortest: int) -> list[int]:
    """Return candidate breaks by KernelCPD with a linear kernel and a penalty per break."""
    from ruptures import KernelCPD

    if level.size < 2 * shortest:
        return []
    noise = _noise(level, shortest)
    if noise == 0 or not np.ptp(level):
        return []
    search = KernelCPD(kernel="linear", min_size=max(2, shortest)).fit(level.reshape(-1, 1))
    breaks = search.predict(pen=2 * noise**2 * np.log(level.size))
    return [int(at) for at in breaks[:-1]]


def without_season(history: Floats, season: int | None) -> Floats:
    """Remove the usual seasonal pattern: medians of the distance from a rolling mean over one season."""
    if not season or history.size < 2 * season:
        return history
    weights = np.ones(season + 1 - season % 2)
    if season % 2 == 0:
        weights[[0, -1]] = 0.5
    weights /= weights.sum()
    half = weights.size // 2
    padded = np.concatenate((np.full(half, history[0]), history, np.full(half, history[-1])))
    rest = history - np.convolve(padded, weights, mode="valid")
    place = np.arange(history.size) % season
    pattern = np.array([np.median(rest[place == n]) for n in range(season)])
    flat: Floats = history - (pattern - pattern.mean())[place]
    return flat


def clipped(level: Floats, shortest: int) -> Floats:
    """Winsorise values far from their local median, as a spike is no shift."""
    middle, _ = rolling_middle(level, min(2 * shortest + 1, level.size | 1))
    rest = level - middle
    reach = CLIP * MAD_TO_SD * float(np.median(np.abs(rest - np.median(rest))))
    return np.asarray(middle + np.clip(rest, -reach, reach)) if reach > 0 else level


def _noise(level: Floats, shortest: int) -> float:
    """Estimate the noise without shifts and wave, as the least of three estimates: a slow mean leaves half of a
    large shift, a slow median only waves, and a slow mean beside the likeliest shift nothing of that shift.
    """
    width = 2 * shortest + 1
    windows = fixed_windows(level.size, width, width // 2)
    middle, _ = rolling_middle(level, min(width, level.size | 1))
    beside = level - _one_step(level, shortest)
    rests = (level - rolling_mean(level, windows, 1), level - middle, beside - rolling_mean(beside, windows, 1))
    return min(_long_run_spread(rest) for rest in rests)


def _one_step(level: Floats, shortest: int) -> Floats:
    """Return the best step between two means, as a column that is zero before it."""
    before = np.arange(shortest, level.size - shortest + 1)
    total = np.cumsum(level)
    first, second = total[before - 1] / before, (total[-1] - total[before - 1]) / (level.size - before)
    best = int(np.argmax(before * (level.size - before) * (second - first) ** 2))
    return np.where(np.arange(level.size) >= before[best], second[best] - first[best], 0.0)


def _long_run_spread(rest: Floats) -> float:
    """Return the long-run standard deviation of AR(1) noise: its spread over one minus its autocorrelation."""
    return float(rest.std()) / (1 - _correlation(rest))


def _correlation(rest: Floats) -> float:
    """Return the lag-1 autocorrelation, corrected for small-sample bias (Kendall 1954)."""
    centred = rest - rest.mean()
    square = float(centred @ centred)
    if square == 0 or rest.size < 4:
        return 0.0
    rho = float(centred[1:] @ centred[:-1]) / square
    return float(np.clip(rho + (1 + 4 * rho) / rest.size, 0.0, MOST_CORRELATED))


def _correlation_beside(level: Floats, places: Sequence[int]) -> float:
    """Return ρ of the whole level beside steps at all places and a straight line."""
    at = np.arange(level.size)
    design = np.column_stack([np.ones(level.size), at / level.size, *((at >= place) * 1.0 for place in places)])
    return fitted_with_errors(design, level)[1].rho


def _tested(level: Floats, at: int, places: Sequence[int], shortest: int, rho: float) -> LevelShift:
    """Fit a step at `at` with a straight line to its neighbourhood, bounded by the next breaks.

    rho: least autocorrelation of the residuals; few points alone show too little of it
    """
    from scipy.special import stdtr

    reach = 4 * shortest
    low = max([0, at - reach, *(place for place in places if place < at)])
    high = min([level.size, at + reach, *(place for place in places if place > at)])
    part = level[low:high]
    step = (np.arange(low, high) >= at).astype(np.float64)
    # the slope keeps a trend from passing as a step
    slope = np.arange(part.size) - part.size / 2
    design = np.column_stack([np.ones(part.size), step, slope])
    found, errors = fitted_with_errors(design, part, rho)
    error = float(np.linalg.norm(errors.root[1]))
    size = float(found[1])
    half = errors.quantile(95) * error
    alone = 2 * float(stdtr(errors.freedom, -abs(size) / error)) if error > 0 else 0.0
    looks = max(1.0, LOOKS * level.size / shortest)
    sure = float((1 - min(1.0, alone)) ** looks)
    before, after = part[step == 0], part[step == 1]
    return LevelShift(at, float(before.mean()), float(after.mean()), size, size - half, size + half, sure)

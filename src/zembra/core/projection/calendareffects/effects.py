"""Estimate effects of the calendar beside the first season, keep those that earn their place, and take them off."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Floats, Ints
from zembra.core.arithmetic.robust import MAD_TO_SD
from zembra.core.projection.ahead import CalendarEffect, CalendarRow
from zembra.core.projection.calendareffects.columns import (
    FEWEST,
    YEAR,
    Family,
    families,
    free_columns,
    lags_of,
    occasions,
    year_columns,
)
from zembra.core.projection.calendareffects.publicholidays import names_in
from zembra.core.projection.calendareffects.shrunken import Shrunken, shrunken

LEAST_GAIN = 3.0  # log evidence that a family must add
LITTLE_GAIN = 0.5  # below which families are dropped together
YEAR_GAIN = 4.0  # log evidence by which a start that knows the year must be better
FAR = 5.0  # robust spreads beyond which errors are cut before the autoregression is fitted anew
SLOW_PAIRS = 3  # of the year, that are taken off before the autoregression of the second start
POINTS_A_LAG = 8


@dataclass(frozen=True, slots=True)
class CalendarEffects:
    """What the calendar explains, in the values or in their logarithms.

    families: that are kept, with the columns that the history shows
    fitted: over the history, with mean 0
    in_logs: whether the effects are of logarithms
    holidays: names of the public holidays in the history
    """

    row: CalendarRow
    holidays: tuple[str, ...]
    families: tuple[SeenFamily, ...]
    fitted: Floats
    middle: Floats
    coefficients: Floats
    covariance: Floats
    in_logs: bool

    @property
    def names(self) -> tuple[str, ...]:
        return tuple(family.name for family in self.families)

    def at(self, start: int, count: int) -> tuple[Floats, Floats]:
        """Return effects and their standard errors of `count` periods from an index."""
        moments = self.row.moments_until(start + count)[start:]
        each = {family.name: family for family in families(self.row, moments, self.holidays)}
        columns = np.concatenate([family.of(each[family.name]) for family in self.families], axis=1)
        away = columns - self.middle
        error = np.sqrt(np.maximum(np.einsum("tk,kl,tl->t", away, self.covariance, away), 0.0))
        return np.asarray(away @ self.coefficients), np.asarray(error)

    def told(self) -> tuple[CalendarEffect, ...]:
        """Return each effect on average over its occasions, for people to read."""
        found = []
        first = 0
        history = self.row.moments_until(self.fitted.size)
        for seen in self.families:
            own = slice(first, first + sum(int(mask.sum()) for mask in seen.seen))
            first = own.stop
            for occasion, moments in occasions(self.row, seen.name, history, self.holidays):
                family = next(one for one in families(self.row, moments, self.holidays) if one.name == seen.name)
                away = seen.of(family).mean(axis=0) - self.middle[own]
                value = float(away @ self.coefficients[own])
                error = float(np.sqrt(max(away @ self.covariance[own, own] @ away, 0.0)))
                found.append(CalendarEffect(seen.name, occasion, value, error, self.in_logs))
        return tuple(found)


@dataclass(frozen=True, slots=True)
class SeenFamily:
    """The columns of a family that a history shows.

    seen: masks, by bracket
    """

    name: str
    seen: tuple[Bools, ...]

    def of(self, family: Family) -> Floats:
        return np.concatenate([part[:, seen] for part, seen in zip(family.brackets, self.seen, strict=True)], axis=1)


@dataclass(frozen=True, slots=True)
class _Design:
    """Columns over the history.

    free: without a prior; slow: these and the first waves of the year
    names: of the families; columns: of all of them that are not zero throughout
    brackets: index of a family and the indices of its columns, for each prior variance
    """

    free: Floats
    slow: Floats
    names: tuple[str, ...]
    columns: Floats
    brackets: tuple[tuple[int, Ints], ...]
    lags: Ints

    def of(self, chosen: Sequence[int]) -> list[Ints]:
        """Return the brackets of some families."""
        return [bracket for n, bracket in self.brackets if n in chosen]


@dataclass(frozen=True, slots=True)
class _Kept:
    """Families that are kept, by index, and their regression on some of the columns."""

    chosen: tuple[int, ...]
    columns: Ints
    found: Shrunken | None
    evidence: float
    fit: Floats


def calendar_effects(values: Floats, row: CalendarRow) -> CalendarEffects | None:
    """Return the effects that are kept, or None."""
    size = values.size
    lags = lags_of(row.step, row.week)
    if size < FEWEST[row.step] or np.ptp(values) == 0:
        return None
    lags = lags[lags < size / POINTS_A_LAG]
    moments = row.moments_until(size)
    names = names_in(row.holidays, moments) if row.holidays else ()
    each = families(row, moments, names)
    seen = tuple(
        SeenFamily(family.name, tuple(np.asarray(part.any(axis=0)) for part in family.brackets)) for family in each
    )
    free = free_columns(row.step, moments)
    slow = np.column_stack((free, year_columns(moments, SLOW_PAIRS)))
    columns = np.concatenate([own.of(family) for own, family in zip(seen, each, strict=True)], axis=1)
    design = _Design(free, slow, tuple(family.name for family in each), columns, _brackets(seen), lags)
    in_logs = _logs_fit_better(values, design)
    kept = _selected(np.log(values) if in_logs else values, design)
    if kept.found is None:
        return None
    return CalendarEffects(
        row,
        names,
        tuple(seen[n] for n in kept.chosen),
        kept.fit - kept.fit.mean(),
        columns[:, kept.columns].mean(axis=0),
        kept.found.coefficients,
        kept.found.covariance,
        in_logs,
    )


def _brackets(each: Sequence[SeenFamily]) -> tuple[tuple[int, Ints], ...]:
    sizes = [(n, int(mask.sum())) for n, family in enumerate(each) for mask in family.seen]
    ends = np.cumsum([size for _, size in sizes]).tolist()
    return tuple((n, np.arange(end - size, end)) for (n, size), end in zip(sizes, ends, strict=True) if size)


def _logs_fit_better(values: Floats, design: _Design) -> bool:
    if values.min() <= 0:
        return False
    logs = np.log(values)
    on_levels, on_logs = (
        -0.5 * series.size * np.log(max(_mean_square_error(series, design), 1e-300)) for series in (values, logs)
    )
    return bool(on_logs - logs.sum() > on_levels)


def _mean_square_error(series: Floats, design: _Design) -> float:
    rest = _without(series, design.free)
    weights = _autoregression(rest, design.lags)
    return float(np.mean(_filtered(rest, weights, design.lags) ** 2))


def _selected(series: Floats, design: _Design) -> _Kept:
    found = _refined(series, design, _autoregression(_without(series, design.free), design.lags))
    year = design.names.index(YEAR) if YEAR in design.names else None
    if year is not None and year not in found.chosen:
        # an autoregression of raw values swallows the year
        again = _refined(series, design, _autoregression(_without(series, design.slow), design.lags))
        if year in again.chosen and again.evidence > found.evidence + YEAR_GAIN:
            return again
    return found


def _refined(series: Floats, design: _Design, weights: Floats) -> _Kept:
    """Select families, fit the autoregression to what they leave, and select once more."""
    found = _backward(series, design, weights)
    rest = _without(series - found.fit, design.free)
    errors = _filtered(rest, weights, design.lags)
    most = FAR * MAD_TO_SD * float(np.median(np.abs(errors)))
    near = rest.copy()
    near[-errors.size :] -= errors - np.clip(errors, -most, most)
    return _backward(series, design, _autoregression(near, design.lags))


def _backward(series: Floats, design: _Design, weights: Floats) -> _Kept:
    """Drop families while one of them adds too little evidence."""
    basis = _basis(_filtered(design.free, weights, design.lags))
    target = _filtered(series, weights, design.lags)
    target = target - basis @ (basis.T @ target)
    points = target.size - basis.shape[1]
    square = float(target @ target)
    nothing = np.zeros(0, dtype=np.int64)
    none = _Kept(
        (), nothing, None, -0.5 * (points * np.log(max(square / points, 1e-300)) + points), np.zeros(series.size)
    )
    columns = _filtered(design.columns, weights, design.lags)
    columns = columns - basis @ (basis.T @ columns)
    gram, moment = columns.T @ columns, columns.T @ target

    def fitted(chosen: Sequence[int]) -> Shrunken:
        mine = design.of(chosen)
        at = np.concatenate(mine)
        starts = np.cumsum([0, *(bracket.size for bracket in mine)])
        groups = [np.arange(a, b) for a, b in pairwise(starts)]
        return shrunken(gram[np.ix_(at, at)], moment[at], square, points, groups)

    chosen = list(range(len(design.names)))
    found = fitted(chosen)
    while chosen:
        without = {n: [k for k in chosen if k != n] for n in chosen}
        losses = {n: found.evidence - (fitted(rest).evidence if rest else none.evidence) for n, rest in without.items()}
        least = min(losses, key=losses.__getitem__)
        if losses[least] >= LEAST_GAIN:
            break
        chosen = [n for n in chosen if n != least and losses[n] >= LITTLE_GAIN]
        if not chosen:
            return none
        found = fitted(chosen)
    mine = np.concatenate(design.of(chosen))
    fit = np.asarray(design.columns[:, mine] @ found.coefficients)
    return _Kept(tuple(chosen), mine, found, found.evidence, fit)


def _basis(columns: Floats) -> Floats:
    """Return an orthonormal basis, without columns that filtering made collinear."""
    left, sizes, _ = np.linalg.svd(columns, full_matrices=False)
    return np.asarray(left[:, sizes > 1e-9 * sizes[0]])


def _without(series: Floats, columns: Floats) -> Floats:
    basis = _basis(columns)
    return np.asarray(series - basis @ (basis.T @ series))


def _autoregression(rest: Floats, lags: Ints) -> Floats:
    """Return least-squares weights of a series with mean zero."""
    table = np.column_stack([rest[lags[-1] - lag : rest.size - lag] for lag in lags])
    weights, *_ = np.linalg.lstsq(table, rest[lags[-1] :], rcond=None)
    return np.asarray(weights)


def _filtered(values: Floats, weights: Floats, lags: Ints) -> Floats:
    """Return one-step errors of the autoregression, along the first axis."""
    longest = int(lags[-1])
    found = values[longest:].copy()
    for weight, lag in zip(weights, lags, strict=True):
        found -= weight * values[longest - lag : values.shape[0] - lag]
    return found

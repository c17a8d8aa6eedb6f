"""Average many ARIMA models, weighted by fit, on levels and on logarithms.

The weights are those of Akaike (Burnham and Anderson, 2002) with ΔAICc over 8 in the place of 2, so that more than the best
counts; what is estimated widens the limits as the final prediction error of Akaike (1969) has it. How well it holds stands in
docs/projection.md.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Floats, Ints
from zembra.core.projection.ahead import for_estimates, t_point
from zembra.core.projection.averaged.arimaahead import means_ahead, responses_to_errors
from zembra.core.projection.averaged.errors import CONSTANT, Models, chosen, deviations
from zembra.core.projection.averaged.errorspread import ErrorSpread, error_spread
from zembra.core.projection.averaged.fitting import Fits, first_counted, fitted
from zembra.core.projection.averaged.forms import ArimaForm

FEWEST = 4
WEIGHT_TEMPERATURE = 8.0
LEAST_WEIGHT = 1e-3
WIDEST_RATIO = 1e9  # of the largest value to the smallest, up to which logarithms are taken
NEARLY_ALL = 0.99  # share of the logarithms from which limits are theirs
EXACT = 1e-20  # square of an error, of values about 1, that is rounding


@dataclass(frozen=True, slots=True)
class ScaleFits:
    """Fits on levels or on logarithms.

    fits: of models with weight, those of a series adjacent, each series at least once
    weights: summing to 1 by series
    errors: averaged, (time, series)
    parameters: weighted mean number, by series
    """

    fits: Fits
    weights: Floats
    errors: Floats
    parameters: Floats
    _responses: dict[int, Floats] = field(default_factory=dict, init=False, compare=False)
    _apart: list[Floats] = field(default_factory=list, init=False, compare=False)

    def responses(self, ahead: int) -> Floats:
        """Return ψ weights as `responses_to_errors` does; they do not depend on the origin."""
        if ahead not in self._responses:
            self._responses[ahead] = responses_to_errors(self.fits.models, self.fits.parameters, ahead)
        return self._responses[ahead]

    def growth(self, ahead: int) -> Floats:
        """Return the growth of one-step errors, √Σ ψᵢ², (ahead, model)."""
        return np.asarray(np.sqrt(np.cumsum(self.responses(ahead) ** 2, axis=0)))

    @property
    def deviations(self) -> Floats:
        """Each model's differences minus its constant, cached."""
        if not self._apart:
            self._apart.append(deviations(self.fits.models, self.fits.parameters[:, CONSTANT]))
        return self._apart[0]

    def of(self, series: Ints) -> ScaleFits:
        """Select series by ascending indices."""
        own = np.flatnonzero(np.isin(self.fits.models.series, series))
        models = self.fits.models.at(own)
        renumbered = Models(
            np.searchsorted(series, models.series),
            models.forms,
            models.kinds,
            {name: chosen(table, series) for name, table in models.differenced.items()},
            models.season,
        )
        return ScaleFits(
            replace(self.fits.at(own), models=renumbered),
            self.weights[own],
            chosen(self.errors, series),
            self.parameters[series],
        )

    def until(self, size: int) -> ScaleFits:
        """Restrict to the values before an index."""
        models = self.fits.models
        kept = replace(models, differenced={name: table[:size] for name, table in models.differenced.items()})
        return replace(
            self, fits=replace(self.fits, models=kept, errors=self.fits.errors[:size]), errors=self.errors[:size]
        )


@dataclass(frozen=True, slots=True)
class Averaged:
    """An average of ARIMA models.

    values: (time, series), divided by `scale`, with far errors winsorised as `cut` lists
    counts: mask of observed values
    levels, logarithms: fits on each; share: of the logarithms, by series
    counted: first index whose errors count
    """

    values: Floats
    counts: Bools
    scale: Floats
    cut: Bools
    levels: ScaleFits
    logarithms: ScaleFits | None
    share: Floats
    counted: int

    def of(self, series: Ints) -> Averaged:
        """Select series by ascending indices."""
        return Averaged(
            chosen(self.values, series),
            chosen(self.counts, series),
            self.scale[series],
            chosen(self.cut, series),
            self.levels.of(series),
            self.logarithms.of(series) if self.logarithms else None,
            self.share[series],
            self.counted,
        )

    def evidence(self, size: int) -> Bools:
        """Return the mask of errors that count, before an index."""
        found = self.counts[:size].copy()
        found[: self.counted] = False
        return found

    def until(self, size: int) -> Averaged:
        """Restrict to the values before an index."""
        if size == self.values.shape[0]:
            return self
        return replace(
            self,
            values=self.values[:size],
            counts=self.counts[:size],
            cut=self.cut[:size],
            levels=self.levels.until(size),
            logarithms=self.logarithms.until(size) if self.logarithms else None,
        )

    @property
    def errors(self) -> Floats:
        """Return one-step errors in the unit of the values, NaN where they do not count; (time, series)."""
        found = self.levels.errors
        if self.logarithms is not None:
            found = (1 - self.share) * found + self.share * _as_levels(self.values, self.logarithms.errors)
        found = np.where(self.counts, found * self.scale, np.nan)
        found[: self.counted] = np.nan
        return found


@dataclass(frozen=True, slots=True)
class AveragedForecast:
    """A forecast, arrays (ahead, series) in the unit of the values.

    spread: one standard deviation
    of_errors: tails of the errors of levels
    log_centre, log_spread: of logarithms, which set the limits of series in `by_logarithms`
    widening, log_widening: what the errors of the fit are multiplied by, as it had to estimate and errors change
    """

    centre: Floats
    spread: Floats
    of_errors: ErrorSpread
    log_centre: Floats
    log_spread: Floats
    by_logarithms: Bools
    widening: Floats
    log_widening: Floats

    def limits(self, level: float) -> tuple[Floats, Floats]:
        """Return lower and upper limits at a coverage in percent."""
        width = self.of_errors.tails(level) * self.spread
        lower, upper = self.centre - width, self.centre + width
        if self.by_logarithms.any():
            by = t_point(level)
            with np.errstate(over="ignore"):
                low, high = (np.exp(self.log_centre + sign * by * self.log_spread) for sign in (-1, 1))
            lower, upper = np.where(self.by_logarithms, low, lower), np.where(self.by_logarithms, high, upper)
        # the averaged centre may lie outside the limits of one scale
        return np.minimum(lower, self.centre), np.maximum(upper, self.centre)


def ahead_of(found: Averaged, ahead: int, origin: int | None = None) -> AveragedForecast:
    """Forecast from `origin`, by default the end, with the estimates of the whole history."""
    at = found.values.shape[0] if origin is None else origin
    points = np.maximum(found.counts[:at].sum(axis=0), 1)
    growth = 1 + np.arange(1, ahead + 1)[:, None] / points
    centre, spread = _said(found.levels, found.values, found, ahead, at)
    widening = for_estimates(found.levels.parameters, points) * growth
    shape = centre.shape
    log_centre, log_spread, log_widening = np.zeros(shape), np.zeros(shape), np.ones(shape)
    by_logarithms = np.zeros(shape[1], dtype=bool)
    if found.logarithms is not None:
        log_centre, log_spread = _said(found.logarithms, _logarithms(found.values)[0], found, ahead, at)
        log_widening = for_estimates(found.logarithms.parameters, points) * growth
        log_spread = log_spread * log_widening
        with np.errstate(over="ignore", invalid="ignore"):
            mixed = (1 - found.share) * centre + found.share * np.exp(log_centre)
        centre = np.where((found.share > 0) & np.isfinite(mixed), mixed, centre)
        by_logarithms = found.share > NEARLY_ALL
    of_errors = error_spread(found.levels.errors[:at], found.values[:at], found.evidence(at), centre)
    widening = widening * of_errors.factor
    return AveragedForecast(
        centre * found.scale,
        spread * widening * found.scale,
        of_errors,
        log_centre + np.log(found.scale),
        log_spread,
        by_logarithms,
        widening,
        log_widening,
    )


def average_fitted(
    values: Floats,
    counts: Bools,
    scale: Floats,
    cut: Bools,
    forms: tuple[ArimaForm, ...],
    season: int | None,
    ends: Ints,
) -> Averaged:
    """Fit series with the same forms.

    values, counts, scale, cut: as in Averaged
    ends: length of each series
    """
    if values.shape[1] == 1:
        # sums along one column and along several differ in the last digit: alone a series is fitted as beside others
        alone = average_fitted(
            values.repeat(2, axis=1), counts.repeat(2, axis=1), scale.repeat(2), cut.repeat(2, axis=1),
            forms, season, ends.repeat(2),
        )  # fmt: skip
        return alone.of(np.array([0]))
    first = first_counted(forms, season or 1)
    levels = _side(values, counts, forms, season, first, ends)
    logs, fit = _logarithms(values)
    logarithms, share = None, np.zeros(values.shape[1])
    if fit.any():
        logarithms = _side(logs, counts, forms, season, first, ends)
        evidence = counts.astype(np.float64)
        evidence[:first] = 0.0
        on_levels = (levels.errors**2 * evidence).sum(axis=0)
        on_logs = (_as_levels(values, logarithms.errors) ** 2 * evidence).sum(axis=0)
        total = on_levels + on_logs
        share = np.where(fit & (total > 0), on_levels / np.where(total > 0, total, 1.0), 0.0)
        # if levels fit exactly, logarithms get no weight
        share = np.where(on_levels <= EXACT * evidence.sum(axis=0), 0.0, share)
    return Averaged(values, counts, scale, cut, levels, logarithms, share, first)


def _side(
    values: Floats, counts: Bools, forms: tuple[ArimaForm, ...], season: int | None, first: int, ends: Ints
) -> ScaleFits:
    fits = fitted(values, counts, forms, season, ends)
    series = values.shape[1]
    used = np.maximum(counts[first:].sum(axis=0), 1)[:, None]
    parameters = np.array([form.parameters for form in forms], dtype=np.float64)
    squares = np.maximum(fits.squares.reshape(series, len(forms)), EXACT * used)
    aicc = used * np.log(squares / used) + 2 * parameters * used / np.maximum(1, used - parameters - 1)
    weights = np.exp(-(aicc - aicc.min(axis=1, keepdims=True)) / WEIGHT_TEMPERATURE)
    weights[~np.isfinite(weights)] = 0.0
    weights /= weights.sum(axis=1, keepdims=True)
    weights[weights < LEAST_WEIGHT] = 0.0
    weights /= weights.sum(axis=1, keepdims=True)
    errors = np.einsum("tsf,sf->ts", fits.errors.reshape(-1, series, len(forms)), weights)
    counting = np.flatnonzero(weights.reshape(-1))
    return ScaleFits(fits.at(counting), weights.reshape(-1)[counting], errors, (weights * parameters).sum(axis=1))


def _said(side: ScaleFits, values: Floats, found: Averaged, ahead: int, origin: int) -> tuple[Floats, Floats]:
    """Return centre and spread, each (ahead, series)."""
    models, parameters, errors = side.fits.models, side.fits.parameters, side.fits.errors
    weight = side.weights
    evidence = chosen(found.counts[:origin], models.series).astype(np.float64)
    evidence[: found.counted] = 0.0
    spread = np.sqrt((errors[:origin] ** 2 * evidence).sum(axis=0) / np.maximum(evidence.sum(axis=0), 1))
    means = means_ahead(models, parameters, side.deviations, values, errors, origin, ahead)
    widths = side.growth(ahead) * spread
    begins = np.searchsorted(models.series, np.arange(values.shape[1]))
    return np.add.reduceat(means * weight, begins, axis=1), np.add.reduceat(widths * weight, begins, axis=1)


def _logarithms(values: Floats) -> tuple[Floats, Bools]:
    """Return logarithms, zeros for series without, and a mask of series with them."""
    low, high = values.min(axis=0), values.max(axis=0)
    fit = (low > 0) & (high < WIDEST_RATIO * np.where(low > 0, low, 1.0))
    return np.log(np.where(fit, values, 1.0)), fit


def _as_levels(values: Floats, errors: Floats) -> Floats:
    """Convert errors of logarithms to the unit of the values."""
    with np.errstate(over="ignore"):
        return np.asarray(values * -np.expm1(-errors))

"""Projection methods as words of a sentence."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from zembra.core.calendar.closed import named_holidays, place_named
from zembra.core.entries.projections.clauses.smoothingforms import ErrorForm, SeasonForm, TrendForm
from zembra.core.entries.readings.clauses.trends import (
    Growth,
    Logarithmic,
    MedianSlopes,
    Polynomial,
    Power,
    Straight,
    WithWave,
)
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice, Clause, Word
from zembra.core.projection.ahead import History, Number, Projected, for_gaps, heavy_tailed
from zembra.core.projection.arima import arima
from zembra.core.projection.backtest import NOT_FITTED, Fold, fold_back, judged
from zembra.core.projection.intermittent import croston, tsb
from zembra.core.projection.lead import lead_of, mean_error
from zembra.core.projection.lineseason import line_and_season
from zembra.core.projection.models import average_of_models, average_of_models_each, fit_side_by_side
from zembra.core.projection.percentile import percentile_line
from zembra.core.projection.plain import drift, last_season, last_value
from zembra.core.projection.seasonoff import season_taken_off
from zembra.core.projection.several import mean_of, mean_of_five
from zembra.core.projection.smoothing.forms import Form
from zembra.core.projection.smoothing.methods import smoothed
from zembra.core.projection.theta import theta
from zembra.core.projection.trendseason import trend_and_season

Levels = Sequence[float]


SHORT = 0.03  # seconds


@dataclass(frozen=True, slots=True)
class Fitting:
    """What a method is fitted to.

    seasons: several seasons to remove together
    refit_from: the fit to the whole history, whose form is reused
    """

    history: History
    ahead: int
    levels: Levels
    seasons: Sequence[int] = ()
    refit_from: Projected | None = None


class Method(Clause):
    """A projection method.

    tails: whether limits get the tails of Student's t
    widened: whether backtests may widen the limits
    seconds, seconds_a_point: estimated run time with backtests, infinite for slow methods
    knows_gaps: whether it fits observed values only; otherwise limits are widened for gaps
    keeps: whether backtests keep weights that were estimated on the whole history
    """

    tails: ClassVar[bool] = True
    widened: ClassVar[bool] = True
    seconds: ClassVar[float] = math.inf
    seconds_a_point: ClassVar[float] = 0.0
    knows_gaps: ClassVar[bool] = False
    keeps: ClassVar[bool] = False

    def made(self, to: Fitting) -> Projected:
        """Return the projection as a component of other methods, with limits of normal errors. Raises Refusal."""
        raise NotImplementedError

    def for_gaps(self, found: Projected, history: History) -> Projected:
        """Widen the limits for gaps in the history."""
        return found if self.knows_gaps else for_gaps(found, history)

    def project(
        self,
        history: History,
        ahead: int,
        levels: Levels,
        seasons: Sequence[int] = (),
        refit_from: Projected | None = None,
    ) -> Projected:
        """Return the projection with limits. Raises Refusal.

        refit_from: the projection of the whole history, whose form is reused
        """
        made = self.made(Fitting(history, ahead, levels, seasons, refit_from))
        return replace(made, halves=heavy_tailed(made.halves)) if self.tails else made

    def fit_each(self, histories: Sequence[History]) -> None:
        """Fit several histories at once where that is faster, with identical numbers."""

    def project_each(
        self,
        histories: Sequence[tuple[History, int]],
        levels: Levels,
        seasons: Sequence[int] = (),
        refit_from: Projected | None = None,
    ) -> list[Projected | Refusal]:
        """Project many histories, each by its own horizon; as `project`, with refusals in their places."""
        found: list[Projected | Refusal] = []
        for history, ahead in histories:
            try:
                found.append(self.project(history, ahead, levels, seasons, refit_from))
            except Refusal as refusal:
                found.append(refusal)
            except NOT_FITTED:
                found.append(Refusal("It could not be fitted."))
        return found


class BeforeNow(Choice):
    """The default method when a ledger was written."""

    NOW = ("now", "as it is now")
    FIVE = ("five", "the mean of five methods until now")


class CalendarWord(Choice):
    """Effects of the calendar beside the season: the year of days and weeks, the week of hours."""

    FOUND = ("found", "with the effects of the calendar that are found")
    NONE = ("none", "without effects of the calendar")


class UsualMean(Method):
    label: ClassVar[str] = "the average of many models"
    tip: ClassVar[str] = "some thirty ARIMA models on levels and on logarithms, weighed by AICc; see docs/projection.md"
    tails: ClassVar[bool] = False
    # measured: held-back periods make its limits no better
    widened: ClassVar[bool] = False
    seconds: ClassVar[float] = 0.03
    seconds_a_point: ClassVar[float] = 1.5e-4
    knows_gaps: ClassVar[bool] = True
    keeps: ClassVar[bool] = True

    kind: Literal["usual"] = "usual"
    calendar: Annotated[CalendarWord, Field(title="effects of the calendar")] = CalendarWord.FOUND
    holidays: Annotated[
        str | None,
        Field(title="country, or part of one, whose public holidays may have effects"),
        Word(options="places", empty="no place"),
    ] = None
    before: Annotated[BeforeNow, Field(title="what it was")] = BeforeNow.NOW

    def template(self) -> str:
        return "{self}[, {calendar}][, with public holidays of {holidays}][, {before}]"

    def made(self, to: Fitting) -> Projected:
        return average_of_models(self._shown(to.history), to.ahead, to.levels, to.refit_from)

    def _shown(self, history: History) -> History:
        row = history.calendar
        if row is None or self.calendar is CalendarWord.NONE:
            return replace(history, calendar=None)
        if self.holidays is None:
            return history
        place = place_named(self.holidays)
        row = replace(row, key=(row.key, place), place=place, holidays=partial(named_holidays, place))
        return replace(history, calendar=row)

    def project_each(
        self,
        histories: Sequence[tuple[History, int]],
        levels: Levels,
        seasons: Sequence[int] = (),
        refit_from: Projected | None = None,
    ) -> list[Projected | Refusal]:
        if refit_from is not None and refit_from.form is not None:
            return super().project_each(histories, levels, seasons, refit_from)
        return average_of_models_each([(self._shown(history), ahead) for history, ahead in histories], levels)

    def fit_each(self, histories: Sequence[History]) -> None:
        fit_side_by_side([self._shown(history) for history in histories])


class FiveMethods(Method):
    label: ClassVar[str] = "the mean of five methods"
    tip: ClassVar[str] = (
        "smoothing, smoothing of logarithms, theta, damped trend, line with season; see docs/projection.md"
    )
    tails: ClassVar[bool] = False

    kind: Literal["five"] = "five"

    def made(self, to: Fitting) -> Projected:
        return mean_of_five(to.history, to.ahead, to.levels, to.refit_from)


class LastValue(Method):
    label: ClassVar[str] = "the last value going on"
    seconds: ClassVar[float] = SHORT

    kind: Literal["last"] = "last"

    def made(self, to: Fitting) -> Projected:
        return last_value(to.history, to.ahead, to.levels)


class LastSeason(Method):
    label: ClassVar[str] = "the last season coming again"
    tip: ClassVar[str] = "seasonal naive: the same day last week"
    seconds: ClassVar[float] = SHORT

    kind: Literal["last-season"] = "last-season"

    def made(self, to: Fitting) -> Projected:
        return last_season(to.history, to.ahead, to.levels)


class Drift(Method):
    label: ClassVar[str] = "the last value with drift"
    tip: ClassVar[str] = "random walk with drift"
    seconds: ClassVar[float] = SHORT

    kind: Literal["drift"] = "drift"

    def made(self, to: Fitting) -> Projected:
        return drift(to.history, to.ahead, to.levels)


class BySmoothing(Method):
    label: ClassVar[str] = "exponential smoothing"
    tip: ClassVar[str] = "the form with the lowest corrected Akaike criterion, AICc"

    seconds: ClassVar[float] = 0.1
    seconds_a_point: ClassVar[float] = 4e-4
    keeps: ClassVar[bool] = True

    kind: Literal["smoothing"] = "smoothing"

    def made(self, to: Fitting) -> Projected:
        return smoothed(to.history, to.ahead, to.levels, refit_from=to.refit_from)


class SmoothingByHand(Method):
    label: ClassVar[str] = "exponential smoothing, its form named by hand,"

    seconds: ClassVar[float] = 0.05
    seconds_a_point: ClassVar[float] = 2e-4
    keeps: ClassVar[bool] = True

    kind: Literal["smoothing-by-hand"] = "smoothing-by-hand"
    error: Annotated[ErrorForm, Field(title="errors")] = ErrorForm.ADDITIVE
    trend: Annotated[TrendForm, Field(title="trend")] = TrendForm.DAMPED
    seasonality: Annotated[SeasonForm, Field(title="season")] = SeasonForm.ADDITIVE

    def template(self) -> str:
        return "{self} with {error} errors, {trend} trend and {seasonality} season"

    def made(self, to: Fitting) -> Projected:
        seasonal = self.seasonality.value if to.history.season else "N"
        form = Form(self.error.value, self.trend.value[0], seasonal, self.trend is TrendForm.DAMPED)
        return smoothed(to.history, to.ahead, to.levels, form, to.refit_from)


class Theta(Method):
    label: ClassVar[str] = "the theta method"

    kind: Literal["theta"] = "theta"

    def made(self, to: Fitting) -> Projected:
        return theta(to.history, to.ahead, to.levels)


class SeasonOff(Method):
    label: ClassVar[str] = "the season taken off and the rest smoothed"
    tip: ClassVar[str] = "robust STL, one season after the other"

    kind: Literal["season-off"] = "season-off"

    def made(self, to: Fitting) -> Projected:
        return season_taken_off(to.history, to.ahead, to.levels, to.seasons, quick=to.refit_from is not None)


class NewestLine(Clause):
    label: ClassVar[str] = "straight, over the newest seasons"
    tip: ClassVar[str] = "least squares over the last six seasons, at least 20 points"

    kind: Literal["newest"] = "newest"


class LineSeason(Method):
    label: ClassVar[str] = "a line and the season"
    tip: ClassVar[str] = "a trend line of any form, season dummies, and a last error that fades"

    kind: Literal["line"] = "line"
    form: Annotated[
        NewestLine | Straight | Polynomial | Logarithmic | Power | Growth | MedianSlopes | WithWave,
        Field(title="form of the line", discriminator="kind"),
    ] = NewestLine()

    def template(self) -> str:
        return "{self} (the line {form})"

    def made(self, to: Fitting) -> Projected:
        form = self.form
        if isinstance(form, NewestLine):
            return line_and_season(to.history, to.ahead, to.levels)
        return trend_and_season(to.history, to.ahead, to.levels, form.line, form.spoken, above_zero=form.above_zero)


class ByPercentileLine(Method):
    label: ClassVar[str] = "the line below which lie"
    tip: ClassVar[str] = "quantile regression on time, carried on"

    kind: Literal["percentile"] = "percentile"
    share: Annotated[float, Field(title="share that lies below", gt=0, lt=100), Word(unit="%", step=5)] = 50.0

    def template(self) -> str:
        return "{self} {share}"

    def made(self, to: Fitting) -> Projected:
        return percentile_line(to.history, to.ahead, to.levels, self.share)


class Autoregressive(Method):
    label: ClassVar[str] = "an autoregressive model with season"
    tip: ClassVar[str] = "ARIMA, the order by AICc over a small grid"

    kind: Literal["arima"] = "arima"

    def made(self, to: Fitting) -> Projected:
        return arima(to.history, to.ahead, to.levels, None if to.refit_from is None else to.refit_from.form)  # type: ignore[arg-type]


class HowOften(Choice):
    TSB = ("tsb", "with its chance at every period", "Teunter, Syntetos and Babai")
    CROSTON = ("croston", "with the time between demands", "Croston, corrected by Syntetos and Boylan")


class Intermittent(Method):
    label: ClassVar[str] = "intermittent demand"
    tails: ClassVar[bool] = False

    kind: Literal["intermittent"] = "intermittent"
    how: Annotated[HowOften, Field(title="how it is counted")] = HowOften.TSB

    def template(self) -> str:
        return "{self} {how}"

    def made(self, to: Fitting) -> Projected:
        return (tsb if self.how is HowOften.TSB else croston)(to.history, to.ahead, to.levels)


class Named(Choice):
    """Methods by name, for means and choices."""

    USUAL = ("usual", "the average of many models")
    FIVE = ("five", "the mean of five methods")
    LAST = ("last", "last value")
    LAST_SEASON = ("last-season", "last season")
    DRIFT = ("drift", "drift")
    SMOOTHING = ("smoothing", "exponential smoothing")
    THETA = ("theta", "theta")
    SEASON_OFF = ("season-off", "season taken off")
    LINE = ("line", "straight line and season")
    PERCENTILE = ("percentile", "middle line")
    ARIMA = ("arima", "autoregressive")

    @property
    def method(self) -> Method:
        return _NAMED[self.value]()


_NAMED: dict[str, Callable[[], Method]] = {
    "usual": UsualMean,
    "five": FiveMethods,
    "last": LastValue,
    "last-season": LastSeason,
    "drift": Drift,
    "smoothing": BySmoothing,
    "theta": Theta,
    "season-off": SeasonOff,
    "line": LineSeason,
    "percentile": ByPercentileLine,
    "arima": Autoregressive,
}


class MeanOf(Method):
    label: ClassVar[str] = "the mean of"
    tails: ClassVar[bool] = False

    kind: Literal["mean"] = "mean"
    methods: Annotated[tuple[Named, ...], Field(title="methods", min_length=2)] = (
        Named.SMOOTHING,
        Named.THETA,
        Named.LINE,
    )

    def template(self) -> str:
        return "{self} {methods}"

    def made(self, to: Fitting) -> Projected:
        def part(method: Named, n: int) -> Projected:
            again = to.refit_from.parts[n] if to.refit_from is not None and n < len(to.refit_from.parts) else None
            return method.method.made(replace(to, refit_from=again))

        makers = [lambda named=named, n=n: part(named, n) for n, named in enumerate(self.methods)]
        return mean_of(makers, "mean of chosen methods")


class BestOf(Method):
    label: ClassVar[str] = "the best on held-back periods of"
    tip: ClassVar[str] = "the smallest mean absolute error over eight starting points"
    tails: ClassVar[bool] = False

    kind: Literal["best"] = "best"
    methods: Annotated[tuple[Named, ...], Field(title="methods", min_length=2)] = (
        Named.USUAL, Named.LAST_SEASON, Named.SMOOTHING, Named.THETA, Named.LINE,
    )  # fmt: skip

    def template(self) -> str:
        return "{self} {methods}"

    def made(self, to: Fitting) -> Projected:
        def project(named: Named, history: History, ahead: int, refit_from: Projected | None = None) -> Projected:
            return named.method.project(history, ahead, to.levels, to.seasons, refit_from)

        if to.refit_from is not None:
            chosen = next(method for method in self.methods if method.label == to.refit_from.estimates["Chosen"])
            return project(chosen, to.history, to.ahead, to.refit_from.parts[0])
        scored: list[tuple[float, Named, Projected]] = []
        held_back: dict[Named, Sequence[Fold]] = {}
        refused: Refusal | None = None
        for named in self.methods:
            try:
                whole = project(named, to.history, to.ahead)
            except Refusal as refusal:
                refused = refusal
                continue
            again = partial(named.method.project_each, levels=to.levels, seasons=to.seasons, refit_from=whole)
            folds = fold_back(to.history, to.ahead, again)
            held_back[named] = folds
            found = judged(folds, to.history)
            scored.append((found.mae if found else float("inf"), named, whole))
        if not scored:
            raise refused or Refusal("No method could be fitted.", todo="Bring in more history.")
        _, best, whole = min(scored, key=lambda item: item[0])
        estimates: dict[str, Number] = {
            "Chosen": best.label,
            **_lead_of_best(best, held_back),
            **{f"Mean error held back, {named.label}": score for score, named, _ in scored},
        }
        return replace(whole, estimates={**estimates, **whole.estimates}, parts=(whole,))


def _lead_of_best(best: Named, held_back: Mapping[Named, Sequence[Fold]]) -> dict[str, Number]:
    """Return the lead of the chosen method over the average of many models, if that was tried too."""
    if best is Named.USUAL or not held_back.get(Named.USUAL):
        return {}
    errors = {
        named: {fold.start: mean_error(fold.said.mean, fold.actual) for fold in held_back[named]}
        for named in (best, Named.USUAL)
    }
    starts = sorted(errors[best].keys() & errors[Named.USUAL].keys())
    size = held_back[best][0].actual.size
    own, usual = (np.array([errors[named][start] for start in starts]) for named in (best, Named.USUAL))
    lead = lead_of(
        own,
        usual,
        [np.arange(start, start + size) for start in starts],
        len(held_back) - 1,
    )
    return {"Lead": lead.said(Named.USUAL.label)} if lead else {}


AnyMethod = (
    UsualMean
    | FiveMethods
    | BySmoothing
    | SmoothingByHand
    | Theta
    | SeasonOff
    | LineSeason
    | ByPercentileLine
    | Autoregressive
    | Intermittent
    | LastValue
    | LastSeason
    | Drift
    | MeanOf
    | BestOf
)

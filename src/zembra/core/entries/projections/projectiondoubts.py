"""Warn of reasons to doubt a projection."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from zembra.core.arithmetic.correlation import autocorrelation, ljung_box
from zembra.core.arithmetic.season import SURE
from zembra.core.english import listed, number
from zembra.core.entries.projections.calendarleft import calendar_doubt
from zembra.core.entries.projections.seriesprojection import FEW_AFTER_SHIFT, SeriesProjection
from zembra.core.ledger.state import Study
from zembra.core.projection.ahead import Projected
from zembra.core.projection.backtest import chance_range
from zembra.core.projection.seasonal import STRENGTH, season_chance

FEW_SEASONS = 4
FEW_POINTS = 10
MANY_GAPS = 0.2
FAR_OUT = 6.0  # times the usual move, as the rule for outliers has it
ROUNDING = 1e-9  # of the largest value
MOST_CUT = 3  # values that are named
LEFT_OVER = 0.01  # chance below which what is left over is taken to have a pattern


def doubts(projected: SeriesProjection, study: Study) -> Iterator[str]:
    """Yield reasons to doubt a projection."""
    plural, series, history, season = study.grain.plural, projected.series, projected.history, projected.history.season
    if history.points < FEW_POINTS:
        yield f"{series}: only {history.points} {plural} have a number. Below {FEW_POINTS}, limits are guesswork."
    if season and history.points < FEW_SEASONS * season:
        full = history.points // season
        yield (
            f"{series}: the history holds {full} full seasons of {season} {plural}. "
            f"Below {FEW_SEASONS}, a season can hardly be told from chance."
        )
    if projected.shown.shifted_lately:
        yield (
            f"{series}: the level shifted within the last {season or FEW_AFTER_SHIFT} {plural}: "
            "little is known of the new level."
        )
    if season and history.points >= 2 * season + 1 and season_chance(history.values, season) >= SURE:
        strong = _strengths(projected.found)
        more = (
            f" The strength of {number(round(max(strong), 2))} below says how much a decomposition takes off, which it finds in "
            "chance too."
            if strong
            else ""
        )
        without = (
            ""
            if projected.found.seasonal
            else f" {projected.found.method[:1].upper()}{projected.found.method[1:]} goes without it."
        )
        yield (
            f"{series}: its values differ no more between the {season} {plural} of such a season than chance has it "
            f"(F test).{without}{more}"
        )
    elif season and not projected.found.seasonal:
        yield f"{series}: {projected.found.method} goes without the season of {season} {plural}."
    missing = 1 - history.points / max(1, history.size)
    if missing > MANY_GAPS:
        yield (
            f"{series}: {100 * missing:.0f} % of the history are gaps, closed for the fit only. They are no evidence."
        )
    yield from _cut(projected, study)
    low, high = float(history.values.min()), float(history.values.max())
    known = projected.found.mean
    beyond = ROUNDING * max(abs(low), abs(high))
    if projected.found.estimates.get("Chosen") is None and (known.min() < low - beyond or known.max() > high + beyond):
        yield f"{series}: the projection leaves the range of what was ever seen, {number(round(low, 4))} to {number(round(high, 4))}."
    yield from (f"{series}: {said}" for said in projected.kept_within)
    yield from _left_over(projected)
    yield from calendar_doubt(projected, study)
    if projected.judged is not None:
        for level, inside in projected.judged.inside:
            fewest, _ = chance_range(level, projected.judged.draws, projected.judged.points)
            if inside < fewest:
                share = 100 * inside / projected.judged.points
                widened = projected.factor and projected.factor > 1
                more = f" All were widened {projected.factor:.2f} times." if widened else ""
                yield f"{series}: limits at {number(level)} % held {share:.0f} % of held-back {plural}.{more}"


def _cut(projected: SeriesProjection, study: Study) -> Iterator[str]:
    """Describe values that were winsorised."""
    cut = projected.found.cut
    move = np.abs(np.diff(projected.history.values))
    usual = float(np.median(move)) if move.size > 3 else 0.0
    if projected.history.size - 1 not in cut and usual > 0 and move[-1] > FAR_OUT * usual:
        yield (
            f"{projected.series}: the last value is {move[-1] / usual:.0f} usual moves from the one before it, and counts in full."
        )
    if not cut:
        return
    newest = sorted(cut, reverse=True)[:MOST_CUT]
    said = [
        f"{rounded(float(projected.history.values[place]))} of {study.grain.spoken(int(projected.shown.periods[place]))} "
        f"counts as {number(float(f'{cut[place]:.4g}'))}"
        for place in newest
    ]
    more = f", and {len(cut) - len(said)} more" if len(cut) > len(said) else ""
    yield (
        f"{projected.series}: far from what was expected one {study.grain.singular} before, so that less of it counts for the "
        f"projection: {listed(said)}{more}."
    )


def _strengths(found: Projected) -> list[float]:
    """Return the strengths of the seasons that the method and its components removed."""
    strengths = [projected_by.estimates.get(STRENGTH) for projected_by in (found, *found.parts)]
    return [strength for strength in strengths if isinstance(strength, float) and strength > 0]


def _left_over(projected: SeriesProjection) -> Iterator[str]:
    """Describe autocorrelation that is left in the residuals."""
    left = projected.found.left[~np.isnan(projected.found.left)]
    if left.size < 20 or float(left.std()) <= ROUNDING * float(np.abs(projected.history.values).max()):
        return
    lags = (
        min(10, left.size // 5)
        if projected.history.season is None
        else min(2 * projected.history.season, left.size // 5)
    )
    box, chance = ljung_box(left, lags)
    if chance < LEFT_OVER:
        lag = 1 + int(np.argmax(np.abs(autocorrelation(left, lags))))
        yield (
            f"{projected.series}: what the method left over still hangs together, most at {lag} apart "
            f"(Ljung–Box {box:.3g} over {lags}, p below {LEFT_OVER:g})."
        )


def rounded(value: float) -> str:
    """Format a number for a sentence."""
    return number(float(f"{value:.6g}"))

"""Report a projection: its shapes, fitted numbers, backtest scores and warnings."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from zembra.core.arithmetic.arrays import Ints
from zembra.core.arithmetic.correlation import autocorrelation, ljung_box
from zembra.core.arithmetic.season import SURE
from zembra.core.english import counted, listed, number
from zembra.core.ledger.evidence import SERIES, Row, Table, measure, percent, table, text
from zembra.core.ledger.results import SeriesResult
from zembra.core.ledger.shapes import Area, Curve, Rests, Shape, shape_id
from zembra.core.ledger.state import Study
from zembra.core.projection.ahead import History, Projected
from zembra.core.projection.backtest import BacktestScores, Fold, chance_range
from zembra.core.projection.likeseries import HeldBack, LikeStep
from zembra.core.projection.seasonal import STRENGTH, season_chance

FEW_SEASONS = 4
FEW_POINTS = 10
FEW_AFTER_SHIFT = 10  # periods after a level shift below which little is known, where there is no season
MANY_GAPS = 0.2
FAR_OUT = 6.0  # times the usual move, as the rule for outliers has it
ROUNDING = 1e-9  # of the largest value
MOST_CUT = 3  # values that are named
LEFT_OVER = 0.01  # chance below which what is left over is taken to have a pattern


@dataclass(frozen=True, slots=True)
class Shown:
    """What a method is shown of a series. periods: the row of the history. last: the last period with a number that
    counts. smallest: of the values. gaps: periods without a number between others; closed: days not expected between
    them. effects: of events, by name. shift: the period of the last level shift."""

    history: History
    periods: Ints
    last: int
    smallest: float
    gaps: int
    closed: int
    effects: tuple[tuple[str, float], ...]
    shift: int | None = None

    @property
    def shifted_lately(self) -> bool:
        """Whether less than a season has passed since the last level shift."""
        since = self.history.season or FEW_AFTER_SHIFT
        return self.shift is not None and int(np.count_nonzero(self.periods >= self.shift)) < since


@dataclass(frozen=True, slots=True)
class OfFew:
    """The projection of a series that has too few numbers of its own to say how wide its limits should be. found: with the method's own
    limits, before its bounds; onward: its periods, along which the method goes. held_back: what was held back of it, which was not fitted
    with."""

    found: Projected
    onward: Ints
    held_back: HeldBack


@dataclass(frozen=True, slots=True)
class SeriesProjection(SeriesResult):
    """One series' projection with what is needed to report it. shown: what the method was shown; history: the same in
    the unit of the series. effects: of events on what is projected, by name. tested: on how many of the projected periods,
    from the first on, limits were held against what happened. kept_within: what a floor, a ceiling or whole numbers do to it,
    in words. before: what another usual method said of the first period,
    where the ledger is older than the method. few: of one that has too few numbers, where like series are asked; pooled_limits: what
    these said."""

    found: Projected
    shown: Shown
    history: History
    periods: Ints
    folds: tuple[Fold, ...]
    judged: BacktestScores | None
    factor: float | None
    effects: tuple[tuple[str, float], ...]
    tested: int
    kept_within: tuple[str, ...] = ()
    before: float | None = None
    few: OfFew | None = None
    pooled_limits: LikeStep | None = None


def projected_shapes(projected: SeriesProjection, study: Study, kind: str, before: str = "") -> Iterator[Shape]:
    """The curve and the areas of a projection. before: the label of the period after which it was made, for one that
    was held back."""
    part = "projection held back" if before else "projection"
    name = f"projection as of {before}" if before else "projection"
    curve = Curve(
        id=shape_id(study.entry_id, projected.series, part),
        entry=study.entry_id,
        series=projected.series,
        name=name,
        rests=Rests.PROJECTED,
        kind=kind,
        periods=projected.periods,
        value=projected.found.mean,
        held_back_error=projected.judged.mae if projected.judged and not before else None,
        label=(name,)
        if before or projected.tested >= projected.periods.size
        else (name, _limits_tested(projected, study)),
    )
    yield curve
    for limits in projected.found.limits:
        yield Area(
            id=shape_id(study.entry_id, projected.series, f"{part} limits {limits.level:g}"),
            entry=study.entry_id,
            series=projected.series,
            name=f"{number(limits.level)} % limits",
            rests=Rests.PROJECTED,
            curve_id=curve.id,
            periods=projected.periods,
            lower=limits.lower,
            upper=limits.upper,
            level=limits.level,
            tested=projected.tested,
        )


def rounded(value: float) -> str:
    """A number as sentences say it."""
    return number(float(f"{value:.6g}"))


def _limits_tested(projected: SeriesProjection, study: Study) -> str:
    """What stands at the end of a projection whose limits were not tested all the way."""
    if not projected.tested:
        return "limits untested"
    return f"limits tested {projected.tested} {study.grain.singular if projected.tested == 1 else study.grain.plural} ahead"


def tested_periods(folds: Sequence[Fold], onward: Ints, wanted: Ints) -> int:
    """How many of the wanted periods are no farther ahead than what was held back and is known. onward: the row of periods
    that the method goes along."""
    far = max((int(np.flatnonzero(~np.isnan(fold.actual))[-1]) + 1 for fold in folds), default=0)
    return int(np.searchsorted(wanted, onward[far - 1], side="right")) if far else 0


def how_far_tested(done: Sequence[SeriesProjection], study: Study, *, kept: bool = False) -> str:
    """How far the limits were held against what happened, in words. kept: whether looking back kept what was estimated
    on the whole history."""
    tested = [projected for projected in done if projected.tested]
    untested = [projected.series for projected in done if not projected.tested]
    if not tested:
        return "untested, as the history is too short to hold any back"
    least, most = (pick(projected.tested for projected in tested) for pick in (min, max))
    counted = study.grain.singular if most == 1 else study.grain.plural
    far = f"{least}" if least == most else f"{least} to {most}"
    every = all(projected.tested >= projected.periods.size for projected in tested)
    reach = "tested all the way" if every else f"tested as far as {far} {counted} ahead, untested beyond"
    said = f"{reach}{_inside(tested, study, kept=kept)}"
    return f"{said}, but not at all for {listed(untested[:3])}" if untested else said


def _inside(tested: Sequence[SeriesProjection], study: Study, *, kept: bool) -> str:
    """How often the narrowest limits held on what was held back."""
    scores = [projected.judged for projected in tested if projected.judged is not None]
    if not scores:
        return ""
    level = scores[0].inside[0][0]
    inside, points = sum(score.inside[0][1] for score in scores), sum(score.points for score in scores)
    how = "looking back with the same weights, " if kept else ""
    held = study.grain.plural if kept else f"held-back {study.grain.plural}"
    return f" ({how}{number(inside)} of {number(points)} {held} lay inside {number(level)} %)"


def what_was_fitted(done: Sequence[SeriesProjection], study: Study) -> Table:
    """Every fitted number, so that anybody could compute it again."""
    names = list(dict.fromkeys(name for projected in done for name in projected.found.estimates))
    rows: list[Row] = [
        ("Method", *(projected.found.method for projected in done)),
        (
            "Season",
            *(_season_of(projected, study) for projected in done),
        ),
        *((name, *(projected.found.estimates.get(name) for projected in done)) for name in names),
        (f"{study.grain.plural.capitalize()} used", *(projected.history.points for projected in done)),
        ("Gaps closed for the fit only", *(projected.shown.gaps for projected in done)),
        ("Closed days passed over", *(projected.shown.closed for projected in done)),
    ]
    if any(projected.effects for projected in done):
        effects = list(dict.fromkeys(name for projected in done for name, _ in projected.effects))
        rows += [
            (f"Usual effect of {name}", *(dict(projected.effects).get(name) for projected in done)) for name in effects
        ]
    return table(
        "What was fitted",
        (text("what", ""), *(measure(projected.series, projected.series) for projected in done)),
        rows,
    )


def _season_of(projected: SeriesProjection, study: Study) -> str:
    """The season of the history, and whether the method makes use of it."""
    if projected.history.season is None:
        return (
            "none that is sure; some of the methods take off what a decomposition finds"
            if projected.found.seasonal
            else "none"
        )
    said = f"{projected.history.season} {study.grain.plural}"
    return said if projected.found.seasonal else f"{said}, which this method goes without here"


def how_it_did(done: Sequence[SeriesProjection], study: Study) -> Table:
    levels = [half.level for half in done[0].found.halves]
    columns = (
        SERIES,
        text("held", "Held back"),
        measure("mae", "Mean error"),
        percent("wape", "Error %"),
        measure("mase", "Scaled error"),
        measure("bias", "Bias"),
        *(text(f"in_{level:g}", f"In {number(level)} %, by chance") for level in levels),
        *(measure(f"score_{level:g}", f"Interval score {number(level)} %") for level in levels),
        measure("by", "Limits widened by"),
    )
    rows: list[Row] = []
    for projected in done:
        found = projected.judged
        if found is None:
            rows.append((projected.series, "untested: too short to hold back", *([None] * (len(columns) - 2))))
            continue
        inside = []
        for level, many in found.inside:
            low, high = chance_range(level, found.starts, found.points)
            inside.append(f"{many} of {found.points}, {low} to {high}")
        points = counted(found.starts, "starting point")
        held = f"{projected.folds[0].actual.size} {study.grain.plural} from {points}"
        scores = (found.mae, found.wape, found.mase, found.bias)
        rows.append(
            (projected.series, held, *scores, *inside, *(score for _, score in found.interval), projected.factor)
        )
    return table("How it did on held-back periods", columns, rows)


def parts_of_the_mean(done: Sequence[SeriesProjection]) -> tuple[Table, ...]:
    """The fitted numbers of the methods that a mean is of."""
    rows: list[Row] = []
    for projected in done:
        for part in projected.found.parts:
            estimates = "; ".join(
                f"{name} {_short(value)}" for name, value in part.estimates.items() if value is not None
            )
            rows.append((projected.series, part.method, float(part.mean[0]), float(part.mean[-1]), estimates))
    if not rows:
        return ()
    columns = (
        SERIES,
        text("method", "Method"),
        measure("first", "First"),
        measure("last", "Last"),
        text("told", "Fitted"),
    )
    return (table("The methods it is the mean of", columns, rows),)


def doubts(projected: SeriesProjection, study: Study) -> Iterator[str]:
    """Why it should be believed less, in words."""
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
    if projected.judged is not None:
        for level, inside in projected.judged.inside:
            fewest, _ = chance_range(level, projected.judged.starts, projected.judged.points)
            if inside < fewest:
                share = 100 * inside / projected.judged.points
                widened = projected.factor and projected.factor > 1
                more = f" All were widened {projected.factor:.2f} times." if widened else ""
                yield f"{series}: limits at {number(level)} % held {share:.0f} % of held-back {plural}.{more}"


def _cut(projected: SeriesProjection, study: Study) -> Iterator[str]:
    """Which values lay too far from what was expected of them to count in full."""
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
    """How strong a season the method and its parts took off."""
    strengths = [projected_by.estimates.get(STRENGTH) for projected_by in (found, *found.parts)]
    return [strength for strength in strengths if isinstance(strength, float) and strength > 0]


def _left_over(projected: SeriesProjection) -> Iterator[str]:
    """Whether what the method left over still has a season or a drift."""
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


def _short(value: float | str) -> str:
    return value if isinstance(value, str) else f"{value:.4g}"

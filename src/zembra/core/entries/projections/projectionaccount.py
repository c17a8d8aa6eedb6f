"""Tabulate the fits and backtest scores of projections."""

from __future__ import annotations

import math
from collections.abc import Sequence

from zembra.core.english import counted, listed, number
from zembra.core.entries.projections.seriesprojection import SeriesProjection
from zembra.core.ledger.evidence import SERIES, Row, Table, measure, percent, table, text
from zembra.core.ledger.state import Study
from zembra.core.projection.ahead import t_point
from zembra.core.projection.backtest import chance_range, noticed
from zembra.core.projection.shortseason import SHARE


def how_far_tested(done: Sequence[SeriesProjection], study: Study) -> str:
    """Describe how far the limits were backtested."""
    tested = [projected for projected in done if projected.tested]
    untested = [projected.series for projected in done if not projected.tested]
    if not tested:
        return f"{_taken_into_account(done)}untested, as the history is too short to hold any back"
    least, most = (pick(projected.tested for projected in tested) for pick in (min, max))
    counted = study.grain.singular if most == 1 else study.grain.plural
    far = f"{least}" if least == most else f"{least} to {most}"
    every = all(projected.tested >= projected.periods.size for projected in tested)
    reach = "tested all the way" if every else f"tested as far as {far} {counted} ahead, untested beyond"
    said = f"{_taken_into_account(done)}{reach}{_inside(tested, study)}"
    return f"{said}, but not at all for {listed(untested[:3])}" if untested else said


def _taken_into_account(done: Sequence[SeriesProjection]) -> str:
    """Describe the effects of the calendar that were found."""
    names = list(dict.fromkeys(effect.family for projected in done for effect in projected.found.effects))
    return f"{listed(names)} taken into account, " if names else ""


def _inside(tested: Sequence[SeriesProjection], study: Study) -> str:
    """Describe how often held-back values lay inside the narrowest limits."""
    scores = [projected.judged for projected in tested if projected.judged is not None]
    if not scores:
        return ""
    level = scores[0].inside[0][0]
    inside, points = sum(score.inside[0][1] for score in scores), sum(score.points for score in scores)
    kept = any(projected.weights_kept for projected in tested)
    # such counts are kinder than those of fits that knew nothing of the future
    how = f"looking back with weights fitted to these {study.grain.plural} too, " if kept else ""
    held = study.grain.plural if kept else f"held-back {study.grain.plural}"
    return f" ({how}{number(inside)} of {number(points)} {held} lay inside {number(level)} %)"


def what_was_fitted(done: Sequence[SeriesProjection], study: Study) -> tuple[Table, ...]:
    """Tabulate every fitted number, so that anybody can recompute the projection, and the effects of the calendar."""
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
    fitted = table(
        "What was fitted",
        (text("what", ""), *(measure(projected.series, projected.series) for projected in done)),
        rows,
    )
    return (fitted, *_effects_of_the_calendar(done))


def _season_of(projected: SeriesProjection, study: Study) -> str:
    """Describe the season, and whether the method uses it."""
    if SHARE in projected.found.estimates:
        season = projected.shown.history.season or projected.shown.history.usual
        return f"{season} {study.grain.plural}, as means of few cycles"
    if projected.history.season is None:
        return (
            "none that is sure; some of the methods take off what a decomposition finds"
            if projected.found.seasonal
            else "none"
        )
    said = f"{projected.history.season} {study.grain.plural}"
    return said if projected.found.seasonal else f"{said}, which this method goes without here"


def _effects_of_the_calendar(done: Sequence[SeriesProjection]) -> tuple[Table, ...]:
    """Tabulate the effects of the calendar with their 95 % intervals; those of logarithms in percent."""
    rows: list[Row] = []
    for projected in done:
        for effect in projected.found.effects:
            reach = t_point(95.0) * effect.error
            edges = [effect.value, effect.value - reach, effect.value + reach]
            if effect.in_logs:
                edges = [100 * math.expm1(edge) for edge in edges]
            unit = "%" if effect.in_logs else "units of the values"
            rows.append((projected.series, effect.family, effect.occasion, *edges, unit))
    if not rows:
        return ()
    columns = (
        SERIES,
        text("family", "Effect"),
        text("occasion", "At"),
        measure("value", "Above or below the mean"),
        measure("low", "95 % interval from"),
        measure("high", "to"),
        text("unit", "In"),
    )
    return (table("Effects of the calendar", columns, rows),)


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
        text("noticed", "A shortfall would be noticed"),
    )
    rows: list[Row] = []
    for projected in done:
        found = projected.judged
        if found is None:
            rows.append((projected.series, "untested: too short to hold back", *([None] * (len(columns) - 2))))
            continue
        inside = []
        for level, many in found.inside:
            low, high = chance_range(level, found.draws, found.points)
            inside.append(f"{many} of {found.points}, {low} to {high}")
        points = counted(found.starts, "starting point")
        held = f"{projected.folds[0].actual.size} {study.grain.plural} from {points}"
        scores = (found.mae, found.wape, found.mase, found.bias)
        noticed_from = listed(
            [f"{noticed(level, found.draws):.0f} % at {number(level)} %" for level, _ in found.inside]
        )
        interval = (score for _, score in found.interval)
        rows.append(
            (projected.series, held, *scores, *inside, *interval, projected.factor, f"where limits hold {noticed_from}")
        )
    return table("How it did on held-back periods", columns, rows)


def parts_of_the_mean(done: Sequence[SeriesProjection]) -> tuple[Table, ...]:
    """Tabulate the fits of the averaged methods."""
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


def _short(value: float | str) -> str:
    return value if isinstance(value, str) else f"{value:.4g}"

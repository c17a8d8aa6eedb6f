"""Set the limits of short series from the pooled backtest errors of similar series."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace

from zembra.core.arithmetic.arrays import Ints
from zembra.core.english import number
from zembra.core.entries.projections.projectedshapes import projected_shapes
from zembra.core.entries.projections.projectiondoubts import doubts
from zembra.core.entries.projections.seriesprojection import OfFew, SeriesProjection, Shown
from zembra.core.ledger.evidence import Row, Table, count, measure, table, text
from zembra.core.ledger.lineentry import LineResult
from zembra.core.ledger.state import Study
from zembra.core.projection.ahead import History, Projected
from zembra.core.projection.backtest import Fold, judged
from zembra.core.projection.likeseries import HeldBack, LikeSeries, asked_of, held_back, learned

Keep = Callable[[Projected, Ints, Ints, Shown, Study], tuple[Projected, tuple[str, ...]]]


def like_series(done: Sequence[SeriesProjection], levels: Sequence[float]) -> LikeSeries:
    """Learn from all series what limits the short ones need."""
    return learned([told for _, told in held_back_each(done)], levels)


def of_few(found: Projected, onward: Ints, folds: Sequence[Fold], history: History) -> OfFew:
    """Return a projection of a short series.

    folds: backtest folds, each fitted anew
    """
    return OfFew(found, onward, held_back(folds, history.points))


def held_back_each(done: Sequence[SeriesProjection]) -> Iterator[tuple[str, HeldBack]]:
    """Yield series and backtest errors, in units of the method's own limits, of the short series that are sampled."""
    names = asked_of([seen.series for seen in done if seen.few is not None])
    for seen in done:
        if seen.series in names and seen.few is not None:
            yield seen.series, seen.few.held_back


def widened_as(seen: SeriesProjection, told: LikeSeries, keep: Keep, study: Study) -> SeriesProjection:
    """Return the projection with pooled limits, or the same object if they do not apply.

    keep: applies the bounds
    """
    step = told.of(seen.history.points) if seen.few is not None else None
    if step is None or seen.few is None:
        return seen
    wide = seen.few.found.widened_each(step.factors)
    found, said = keep(wide, seen.few.onward, seen.periods, seen.shown, study)
    folds = tuple(replace(fold, said=fold.said.widened_each(step.factors)) for fold in seen.folds)
    score = judged(folds, seen.history)
    return replace(seen, found=found, kept_within=said, pooled_limits=step, folds=folds, judged=score, factor=None)


def as_like_series(
    done: Sequence[LineResult], told: LikeSeries, keep: Keep, study: Study, kind: str
) -> list[LineResult]:
    """Return the results with pooled limits.

    kind: of the entry
    """
    return [_made_as(made, told, keep, study, kind) for made in done]


def _made_as(made: LineResult, told: LikeSeries, keep: Keep, study: Study, kind: str) -> LineResult:
    assert isinstance(made.result, SeriesProjection)
    seen = widened_as(made.result, told, keep, study)
    if seen is made.result:
        return made
    shapes = tuple(projected_shapes(seen, study, kind))
    # the held-back projection stays
    return replace(
        made, shapes=(*shapes, *made.shapes[len(shapes) :]), warnings=tuple(doubts(seen, study)), result=seen
    )


def by_like_series(done: Sequence[SeriesProjection], levels: Sequence[float], study: Study) -> tuple[Table, ...]:
    """Tabulate the pooled limits by number of values."""
    steps = sorted({seen.pooled_limits for seen in done if seen.pooled_limits is not None}, key=lambda step: step.least)
    if not steps:
        return ()
    columns = (
        text("known", f"{study.grain.plural.capitalize()} with a number"),
        count("for", "Series whose limits go by it"),
        count("series", "Like series"),
        count("held", f"Held-back {study.grain.plural}"),
        *(measure(f"by_{level:g}", f"{number(level)} % limits, times as wide") for level in levels),
    )
    rows: list[Row] = [
        (
            f"{step.least} to {step.most}",
            sum(seen.pooled_limits == step for seen in done),
            step.series,
            step.numbers,
            *step.factors,
        )
        for step in steps
    ]
    return (table("Limits by like series", columns, rows),)

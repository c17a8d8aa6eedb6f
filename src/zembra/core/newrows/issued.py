"""Keep issued projections as numbers, and score them against the actuals that came later."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
import polars as pl

from zembra.core.arithmetic.arrays import Floats, Ints, values_at
from zembra.core.calendar.grain import Grain
from zembra.core.calendar.lines import Condition, Line
from zembra.core.calendar.seasons import usual_season
from zembra.core.entries.projections.seriesprojection import SeriesProjection
from zembra.core.ledger.results import results_of
from zembra.core.ledger.run import Result
from zembra.core.projection.ahead import normal_point
from zembra.core.projection.backtest import draws_of, mean_square, widening_by

_NUMBERS = ("mean", "last_season", "scale")


def issued_frame(result: Result) -> pl.DataFrame:
    """Return all projections of a run, one row for each series, period and level. Empty if there are none.

    Columns: entry, series, period (label), ahead (from 1), mean, level, lower, upper, last_season (the seasonal
    naive forecast), scale (mean absolute seasonal step of the history).
    """
    lines = {line.name: line for line in result.state.lines}
    season = usual_season(result.state.expected) or 1
    parts = []
    for report in result.reports:
        for projected in results_of(report.outcome.results, SeriesProjection):
            if projected.series not in lines:
                continue
            ahead = projected.periods.size
            naive, scale = last_season(lines[projected.series], ahead, season)
            labels = result.state.grain.labels(projected.periods)
            parts += [
                pl.DataFrame(
                    {
                        "entry": report.id,
                        "series": projected.series,
                        "period": labels,
                        "ahead": np.arange(1, ahead + 1),
                        "mean": projected.found.mean,
                        "level": limits.level,
                        "lower": limits.lower,
                        "upper": limits.upper,
                        "last_season": naive,
                        "scale": scale,
                    }
                )
                for limits in projected.found.limits
            ]
    return pl.concat(parts) if parts else pl.DataFrame()


def last_season(line: Line, ahead: int, season: int) -> tuple[Floats, float]:
    """Return the seasonal naive forecast, and the mean absolute seasonal step."""
    known = line.counted[~np.isnan(line.counted)]
    step = season if known.size > season else 1
    if not known.size:
        return np.full(ahead, np.nan), float("nan")
    scale = float(np.abs(known[step:] - known[:-step]).mean()) if known.size > step else float("nan")
    return known[known.size - step :][np.arange(ahead) % step], scale


@dataclass(frozen=True, slots=True)
class Issued:
    """A projection as it was issued.

    revision: of the study
    as_of: the as-of day
    why: the occasion
    frame: as `issued_frame` returns it
    """

    revision: int
    as_of: str
    why: str
    frame: pl.DataFrame


@dataclass(frozen=True, slots=True)
class Score:
    """The score of issued projections of a series.

    error, naive: mean absolute scaled errors of the projection and of the seasonal naive forecast, None if nothing
    is known yet
    bias: mean error, positive if the projection was too low
    inside: (level, points inside, chance of so few if the limits were right)
    """

    series: str
    points: int
    error: float | None
    naive: float | None
    bias: float | None
    inside: tuple[tuple[float, int, float], ...]


def actuals_for(lines: Iterable[Line], grain: Grain, frame: pl.DataFrame) -> Floats:
    """Return the actual values for the periods of a frame, NaN if unknown. Estimates do not count."""
    by_name = {line.name: line for line in lines}
    found = np.full(frame.height, np.nan)
    for (name,), part in frame.with_row_index("row").group_by(["series"], maintain_order=True):
        line = by_name.get(str(name))
        if line is None:
            continue
        values = np.where(line.condition == Condition.FILLED, np.nan, line.counted)
        found[part["row"].to_numpy()] = values_at(line.periods, values, _periods(grain, part["period"].to_list()))
    return found


def _periods(grain: Grain, labels: Sequence[str]) -> Ints:
    known = {label: grain.parse(label) for label in set(labels)}
    return np.array([known[label] for label in labels], dtype=np.int64)


def scored(issued: Sequence[Issued], lines: Sequence[Line], grain: Grain) -> list[Score]:
    """Score issued projections together, by series. Points of one projection fail together, so they count as one
    draw.
    """
    frame = _with_actual(issued, lines, grain)
    if frame is None:
        return []
    return [_score(str(name), part) for (name,), part in frame.group_by(["series"], maintain_order=True)]


@dataclass(frozen=True, slots=True)
class HorizonScore:
    """The score of issued projections over a range of horizons.

    first, last: periods ahead
    error: mean absolute scaled error
    inside: points inside, by level
    """

    first: int
    last: int
    points: int
    error: float | None
    inside: tuple[tuple[float, int], ...]


def by_ahead(issued: Sequence[Issued], lines: Sequence[Line], grain: Grain) -> list[HorizonScore]:
    """Score all series together, in thirds of the horizon."""
    known = _known(issued, lines, grain)
    if known is None:
        return []
    far = int(known["ahead"].max())  # type: ignore[arg-type]
    ends = sorted({max(1, round(far * part / 3)) for part in (1, 2, 3)})
    found = []
    for first, last in zip([1, *(end + 1 for end in ends[:-1])], ends, strict=True):
        part = known.filter(pl.col("ahead").is_between(first, last))
        if not part.height:
            continue
        levels = part["level"].unique().sort().to_list()
        narrowest = part.filter(pl.col("level") == levels[0])
        away = (narrowest["actual"] - narrowest["mean"]).abs().to_numpy() / narrowest["scale"].to_numpy()
        inside = tuple((level, _held(part.filter(pl.col("level") == level))) for level in levels)
        found.append(HorizonScore(first, last, narrowest.height, _mean(away), inside))
    return found


def widening_so_far(issued: Sequence[Issued], lines: Sequence[Line], grain: Grain) -> dict[str, float]:
    """Return by entry the factor that issued limits would have needed, each projection of a series counting once."""
    known = _known(issued, lines, grain)
    squares: dict[str, list[float]] = {}
    periods: dict[str, set[tuple[str, str]]] = {}
    points: dict[str, int] = {}
    for (entry, series, _), part in (
        known.group_by(["entry", "series", "draw"], maintain_order=True) if known is not None else ()
    ):
        narrowest = part.filter(pl.col("level") == part["level"].min())
        away = (narrowest["actual"] - narrowest["mean"]).to_numpy()
        width = np.where(away < 0, narrowest["mean"] - narrowest["lower"], narrowest["upper"] - narrowest["mean"])
        width = width / normal_point(float(narrowest["level"][0]))
        square = mean_square(away[width > 0] / width[width > 0])
        if square is not None:
            squares.setdefault(str(entry), []).append(square)
            periods.setdefault(str(entry), set()).update((str(series), period) for period in narrowest["period"])
            points[str(entry)] = points.get(str(entry), 0) + narrowest.height
    return {
        entry: widening_by(found, draws_of(len(found), len(periods[entry]), points[entry]))
        for entry, found in squares.items()
    }


def _known(issued: Sequence[Issued], lines: Sequence[Line], grain: Grain) -> pl.DataFrame | None:
    """Return the issued rows whose actuals are known, or None."""
    frame = _with_actual(issued, lines, grain)
    known = None if frame is None else frame.filter(pl.col("actual").is_not_nan())
    return known if known is not None and known.height else None


def _with_actual(issued: Sequence[Issued], lines: Sequence[Line], grain: Grain) -> pl.DataFrame | None:
    """Return all issued rows with actuals and an index of their projection (`draw`), or None."""
    told = [kept.frame.with_columns(draw=pl.lit(n)) for n, kept in enumerate(issued) if kept.frame.height]
    if not told:
        return None
    frame = pl.concat(told)
    return frame.with_columns(actual=pl.Series(actuals_for(lines, grain, frame)))


def _held(rows: pl.DataFrame) -> int:
    return rows.filter((pl.col("actual") >= pl.col("lower")) & (pl.col("actual") <= pl.col("upper"))).height


def _score(series: str, part: pl.DataFrame) -> Score:
    known = part.filter(pl.col("actual").is_not_nan())
    levels = part["level"].unique().sort().to_list()
    first = known.filter(pl.col("level") == levels[0])
    if not first.height:
        return Score(series, 0, None, None, None, tuple((level, 0, 1.0) for level in levels))
    actual = first["actual"].to_numpy()
    mean, naive, scale = (first[name].to_numpy() for name in _NUMBERS)
    draws = draws_of(first["draw"].n_unique(), first["period"].n_unique(), first.height)
    inside = []
    for level in levels:
        own = known.filter(pl.col("level") == level)
        held = _held(own)
        inside.append((level, held, _chance(held / own.height if own.height else 1.0, draws, level)))
    return Score(
        series,
        first.height,
        _mean(np.abs(actual - mean) / scale),
        _mean(np.abs(actual - naive) / scale),
        _mean(actual - mean),
        tuple(inside),
    )


def _mean(values: Floats) -> float | None:
    known = values[np.isfinite(values)]
    return float(known.mean()) if known.size else None


def _chance(share: float, draws: int, level: float) -> float:
    """Return the probability of such a share or a smaller one among so many draws."""
    # slow to import
    from scipy.special import bdtr

    return float(bdtr(int(np.floor(share * draws + 1e-9)), draws, level / 100))

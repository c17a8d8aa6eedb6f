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
from zembra.core.projection.backtest import mean_square, widening_by

_NUMBERS = ("mean", "last_season", "scale")


def issued_frame(result: Result) -> pl.DataFrame:
    """Every projection of a run, one row a series, period and level of limits.

    Columns: entry, series, period (its label), ahead (1 for the first), mean, level, lower, upper, last_season (the value a
    season before, which a projection has to better), scale (the mean absolute step of a season until then). Empty where the
    run projects nothing.
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
    """(the last season of a line coming again, the mean absolute step of a season)."""
    known = line.counted[~np.isnan(line.counted)]
    step = season if known.size > season else 1
    if not known.size:
        return np.full(ahead, np.nan), float("nan")
    scale = float(np.abs(known[step:] - known[:-step]).mean()) if known.size > step else float("nan")
    return known[known.size - step :][np.arange(ahead) % step], scale


@dataclass(frozen=True, slots=True)
class Issued:
    """A projection that was told. revision: of the study. as_of: the day. why: on which occasion it was kept. frame: as
    `issued_frame` has it."""

    revision: int
    as_of: str
    why: str
    frame: pl.DataFrame


@dataclass(frozen=True, slots=True)
class Score:
    """How what was told of a series did. error, naive: mean absolute errors over the usual step, its own and of the last
    season coming again; None where nothing is known yet. bias: mean error, above zero where it said too little. inside: per
    level (level, how many points, the chance of so few or fewer if the limits were right)."""

    series: str
    points: int
    error: float | None
    naive: float | None
    bias: float | None
    inside: tuple[tuple[float, int, float], ...]


def actuals_for(lines: Iterable[Line], grain: Grain, frame: pl.DataFrame) -> Floats:
    """What happened in the periods of a frame, NaN where that is not known: numbers that came in and count."""
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
    """Of all of these together, by series in the order in which they were told. Points of one projection go wrong together:
    for the chance of a share they are one draw."""
    frame = _with_actual(issued, lines, grain)
    if frame is None:
        return []
    return [_score(str(name), part) for (name,), part in frame.group_by(["series"], maintain_order=True)]


@dataclass(frozen=True, slots=True)
class HorizonScore:
    """How what was told did, so far ahead. first, last: periods ahead. error: mean absolute, over the usual step. inside: per
    level how many points were."""

    first: int
    last: int
    points: int
    error: float | None
    inside: tuple[tuple[float, int], ...]


def by_ahead(issued: Sequence[Issued], lines: Sequence[Line], grain: Grain) -> list[HorizonScore]:
    """Of all series together, in thirds of the periods that have happened."""
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
    """By entry, how many times as wide its limits would have to be, by what happened to all that were told: as held-back periods
    ask for it, what was told of a series at once counting once."""
    known = _known(issued, lines, grain)
    squares: dict[str, list[float]] = {}
    for (entry, _, _), part in (
        known.group_by(["entry", "series", "draw"], maintain_order=True) if known is not None else ()
    ):
        narrowest = part.filter(pl.col("level") == part["level"].min())
        away = (narrowest["actual"] - narrowest["mean"]).to_numpy()
        width = np.where(away < 0, narrowest["mean"] - narrowest["lower"], narrowest["upper"] - narrowest["mean"])
        width = width / normal_point(float(narrowest["level"][0]))
        square = mean_square(away[width > 0] / width[width > 0])
        if square is not None:
            squares.setdefault(str(entry), []).append(square)
    return {entry: widening_by(found) for entry, found in squares.items()}


def _known(issued: Sequence[Issued], lines: Sequence[Line], grain: Grain) -> pl.DataFrame | None:
    """All that was told of what has happened by now; None where that is nothing."""
    frame = _with_actual(issued, lines, grain)
    known = None if frame is None else frame.filter(pl.col("actual").is_not_nan())
    return known if known is not None and known.height else None


def _with_actual(issued: Sequence[Issued], lines: Sequence[Line], grain: Grain) -> pl.DataFrame | None:
    """All that was told, with what happened and which of the projections it is of (`draw`); None where nothing was."""
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
    draws = first["draw"].n_unique()
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
    """Of so small a share or a smaller one, of as many draws as there were projections."""
    # slow to import
    from scipy.special import bdtr

    return float(bdtr(int(np.floor(share * draws + 1e-9)), draws, level / 100))

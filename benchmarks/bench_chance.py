"""Whether what is said of chance comes true in simulation: seasons in noise, bands of trend lines, limits of growth, backtests,
targets; and what a season of few cycles gains on the trials."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from functools import partial

import numpy as np
import polars as pl
from scipy.signal import lfilter

from benchmarks.folds import HELD, TOO_MUCH, TRIALS, Fold
from benchmarks.measure import Ratio
from zembra.core.arithmetic.trends import straight
from zembra.core.calendar.complete import Expected
from zembra.core.calendar.grain import Grain, Unit
from zembra.core.entries.projections.clauses.projected import SeasonFound
from zembra.core.projection.ahead import History
from zembra.core.projection.backtest import fold_back, judged
from zembra.core.projection.models import average_of_models, average_of_models_each
from zembra.core.projection.paths import chances_beyond

SEED = 2026
LEVELS = (80.0, 95.0)
SERIES = 300
NOISES = ("white", "walk", "counts", "autoregression", "moving average")
LOOKED_AT = ((Unit.DAY, 180), (Unit.MONTH, 60), (Unit.WEEK, 160), (Unit.HOUR, 400))
WEIGHTS = {"independent": (1.0,), "ρ = 0.3": (1.0, -0.3), "ρ = 0.6": (1.0, -0.6), "ρ = 0.8": (1.0, -0.8)}
PROCESSES = ("white", "lognormal", "walk", "growing walk", "autoregression")
FUTURES, FAR = 2000, 24
GROWTH = ((0.03, 150), (0.03, 80), (0.01, 150))


def measure() -> Iterator[Ratio]:
    with ProcessPoolExecutor() as pool:
        yield from _seasons(pool)
        yield from _trend_lines(pool)
        yield from _growth(pool)
        yield from _backtests(pool)
        yield from _targets(pool)
        yield from _few_cycles(pool)


def noise(kind: str, size: int, rng: np.random.Generator) -> np.ndarray:
    drawn = rng.standard_normal(size + 50)
    if kind == "walk":
        return np.asarray(300 + np.cumsum(2 * drawn[50:]))
    if kind == "counts":
        return rng.poisson(4, size).astype(float)
    if kind == "autoregression":
        drawn = lfilter([1.0], [1.0, -0.6], drawn)
    elif kind == "moving average":
        drawn = lfilter([1.0, 0.7], [1.0], drawn)
    return np.asarray(100 + 5 * drawn[50:])


def _season(unit: Unit, kind: str, size: int, seed: int) -> bool:
    values = noise(kind, size, np.random.default_rng([SEED, seed]))
    return SeasonFound().length(values, Expected(Grain(unit))) is not None


def _seasons(pool: ProcessPoolExecutor) -> Iterator[Ratio]:
    for unit, size in LOOKED_AT:
        shares = {
            kind: float(np.mean(list(pool.map(partial(_season, unit, kind, size), range(SERIES), chunksize=20))))
            for kind in NOISES
        }
        worst = max(shares, key=shares.__getitem__)
        detail = f"most of {worst}; {SERIES} series each of {', '.join(NOISES)}, {size} values"
        yield Ratio(f"seasons found in noise, {unit.value}s, share", shares[worst], 0.03, detail)


def _line_holds(weights: Sequence[float], size: int, seed: int) -> tuple[float, bool]:
    drawn = lfilter([1.0], weights, np.random.default_rng([SEED, seed]).standard_normal(size + 100))[100:]
    x = np.arange(float(size))
    line = straight(x, drawn)
    assert line is not None
    assert line.correlated is not None
    assert line.design is not None
    errors = line.correlated()
    reach = errors.quantile(95)
    within = np.abs(line.at(x)) <= reach * errors.error_at(line.design(x))
    gain = abs(line.terms[1].value) <= reach * float(line.terms[1].error or 0) * errors.slope_inflation
    return float(within.mean()), gain


def _trend_lines(pool: ProcessPoolExecutor) -> Iterator[Ratio]:
    for size in (30, 60, 200):
        for name, weights in WEIGHTS.items():
            held = np.mean(list(pool.map(partial(_line_holds, weights, size), range(SERIES), chunksize=20)), axis=0)
            yield Ratio(
                f"95 % bands of a line through {size} points, {name}: shortfall in points",
                float(max(95 - 100 * held.min(), 0)),
                7.0 if size == 30 else 5.0,
                f"the band holds {100 * held[0]:.1f} %, the gain {100 * held[1]:.1f} %, of {SERIES}",
            )


def _grows(rate: float, size: int, seed: int) -> list[float]:
    drawn = np.random.default_rng([SEED, seed]).normal(rate, 0.05, size + 12)
    values = 100 * np.exp(np.cumsum(drawn))
    found = average_of_models(_history(values[:size]), 12, LEVELS)
    held = values[size:]
    return [float(np.mean((limits.lower <= held) & (held <= limits.upper))) for limits in found.limits]


def _growth(pool: ProcessPoolExecutor) -> Iterator[Ratio]:
    for rate, size in GROWTH:
        inside = 100 * np.mean(list(pool.map(partial(_grows, rate, size), range(SERIES // 2), chunksize=10)), axis=0)
        yield Ratio(
            f"limits of {size} values that grow by {rate:.0%}: shortfall in points",
            float(max(80 - inside[0], 95 - inside[1], 0)),
            5.0,
            f"inside {inside[0]:.1f} / {inside[1]:.1f} % of 12 periods",
        )


def _history(values: np.ndarray, usual: int | None = None) -> History:
    return History(values, np.ones(values.size, dtype=bool), None, usual)


def _backtest(kind: str, size: int, seed: int) -> tuple[float, float] | None:
    values = noise(kind, size + 8, np.random.default_rng([SEED, seed]))
    history = _history(values[:size])
    whole = average_of_models(history, 8, LEVELS)

    def again(parts: Sequence[tuple[History, int]]) -> list[object]:
        if whole.form is None:
            return list(average_of_models_each(parts, LEVELS))
        return [average_of_models(part, ahead, LEVELS, whole) for part, ahead in parts]

    found = judged(fold_back(history, 8, again), history)  # type: ignore[arg-type]
    limits, held = whole.limits[0], values[size:]
    came = float(np.mean((limits.lower <= held) & (held <= limits.upper)))
    return None if found is None else (found.inside[0][1] / found.points, came)


def _backtests(pool: ProcessPoolExecutor) -> Iterator[Ratio]:
    for size in (40, 100, 260):
        told = [
            pair
            for kind in ("white", "walk", "autoregression")
            for pair in pool.map(partial(_backtest, kind, size), range(SERIES // 5), chunksize=5)
            if pair is not None
        ]
        said, came = 100 * np.mean(told, axis=0)
        yield Ratio(
            f"backtests of {size} values: points by which too many lie inside 80 % limits",
            float(max(said - came, 0)),
            4.0,
            f"{said:.1f} % looking back, {came:.1f} % of what came, {len(told)} series",
        )


def _futures(kind: str, size: int, rng: np.random.Generator) -> tuple[np.ndarray, np.ndarray]:
    """A history, and what may come of the same process."""
    drawn, ahead = rng.standard_normal(size + 50), rng.standard_normal((FAR, FUTURES))
    if "walk" in kind:
        past = np.cumsum(drawn)[50:]
        onward = past[-1] + np.cumsum(ahead, axis=0)
        past, onward = past - past[0], onward - past[0]
        return (
            (200 + 3 * past, 200 + 3 * onward) if kind == "walk" else (np.exp(5 + past / 20), np.exp(5 + onward / 20))
        )
    if kind == "autoregression":
        past = lfilter([1.0], [1.0, -0.7], drawn)[50:]
        onward = lfilter([1.0], [1.0, -0.7], ahead, axis=0, zi=np.full((1, FUTURES), 0.7 * past[-1]))[0]
    else:
        past, onward = drawn[50:], ahead
    return (
        (np.exp(5 + 0.4 * past), np.exp(5 + 0.4 * onward))
        if kind == "lognormal"
        else (100 + 7 * past, 100 + 7 * onward)
    )


def _target(kind: str, size: int, seed: int) -> tuple[float, float] | None:
    values, onward = _futures(kind, size, np.random.default_rng([SEED, seed]))
    target = float(np.quantile(onward[FAR // 2], 0.93))
    if values[-1] >= target:
        return None
    found = average_of_models(_history(values), FAR, LEVELS)
    _, by_then = chances_beyond(found, target, upward=True)
    return float(by_then[-1]), float((onward >= target).any(axis=0).mean())


def _targets(pool: ProcessPoolExecutor) -> Iterator[Ratio]:
    for kind in PROCESSES:
        for size in (60, 200):
            pairs = [pair for pair in pool.map(partial(_target, kind, size), range(SERIES // 4), chunksize=5) if pair]
            said, true = 100 * np.mean(pairs, axis=0)
            yield Ratio(
                f"chance of a target by a period, {kind}, {size} values: points off",
                float(abs(said - true)),
                12.0,
                f"{said:.0f} % said, {true:.0f} % true, {FAR} periods ahead, {len(pairs)} series",
            )


def _folds_of_few_cycles() -> Iterator[Fold]:
    if not TRIALS.exists():
        return
    for _, part in pl.read_csv(TRIALS).group_by("set", "series", maintain_order=True):
        values = part.sort("t")["value"].to_numpy().astype(float)
        season = int(part["season"][0])
        if season < 2 or (values.min() > 0 and values.max() > TOO_MUCH * values.min()):
            continue
        held = min(HELD.get(season, 8), season)
        for size in (2 * season + 1, 3 * season + 1, 4 * season):
            for first in (0, values.size - size - held):
                if 0 <= first <= values.size - size - held:
                    yield Fold(season, values[first : first + size], values[first + size : first + size + held])


def _error(looked: bool, fold: Fold) -> float:
    """looked: whether the usual season is looked for"""
    history = _history(fold.history, fold.season if looked else None)
    found = average_of_models(history, fold.held.size, LEVELS)
    return float(np.mean(np.abs(found.mean - fold.held))) / fold.scale


def _few_cycles(pool: ProcessPoolExecutor) -> Iterator[Ratio]:
    folds = list(_folds_of_few_cycles())
    if not folds:
        yield Ratio("the trials are not there: not measured", 0, 0, "")
        return
    beside, without = (
        float(np.mean(list(pool.map(partial(_error, looked), folds, chunksize=10)))) for looked in (True, False)
    )
    yield Ratio(
        "two to four cycles: error with the season of few cycles against none",
        beside / without,
        0.7,
        f"scaled error {beside:.3f} against {without:.3f}, {len(folds)} folds of the trials",
    )

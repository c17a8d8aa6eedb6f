"""How near the usual projection comes and how often its limits hold, on held-back folds, against the mean of five methods, single
ones, and the automatic methods of a compiled library where that is installed (`make compare`)."""

from __future__ import annotations

import time
import warnings
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from functools import partial

import numpy as np

from benchmarks.folds import Fold, folds_of_trials, seeded_folds
from benchmarks.measure import Ratio
from zembra.core.errors import Refusal
from zembra.core.ledger.clauses.methods import BySmoothing, FiveMethods, LineSeason, Theta, UsualMean
from zembra.core.projection.ahead import History
from zembra.core.projection.seasonal import has_season

LEVELS = (80.0, 95.0)
SEED, COUNT = 2026, 6
OURS = {"usual": UsualMean, "five methods": FiveMethods, "smoothing": BySmoothing, "theta": Theta, "line": LineSeason}
LIBRARY = ("AutoETS", "AutoARIMA", "AutoTheta")
MEAN, HALF = "mean of the library's three", "usual on the same half"
INSIDE = ((0.78, 0.84), (0.94, 0.96))
Said = tuple[np.ndarray, list[tuple[np.ndarray, np.ndarray]]]


@dataclass
class Score:
    """inside: per level and held-back point. interval: scores per level, error: both over the scale. cpu: seconds."""

    points: int
    inside: np.ndarray
    interval: np.ndarray
    error: float
    cpu: float
    errors: np.ndarray  # over the scale, a held-back point each


def measure() -> Iterator[Ratio]:
    for name, folds in (("trials", folds_of_trials()), ("seeded", seeded_folds(SEED, COUNT))):
        if not folds:
            yield Ratio("the trials are not there: not measured", 0, 0, "")
            continue
        scores = {arm: _scores(partial(_by_ours, arm), folds) for arm in OURS}
        if _library_is_there():
            # its automatic ARIMA takes a second a fold: of a fair half
            half = folds[::2]
            scores |= _library_scores(half)
            scores[HALF] = _scores(partial(_by_ours, "usual"), half)
        for arm, found in scores.items():
            yield Ratio(f"{name}, {arm}", _mean(found, "error"), float("inf"), _row(found))
        yield from _by_ahead(name, scores["usual"])
        yield from _bars(name, scores)


def _by_ahead(name: str, usual: list[Score]) -> Iterator[Ratio]:
    """Of the first, the middle and the last third of the periods ahead."""
    for n, part in enumerate(("first", "middle", "last")):
        errors, inside = [], []
        for score in usual:
            third = np.array_split(np.arange(score.errors.size), 3)[n]
            errors.append(score.errors[third])
            inside.append(score.inside[:, third])
        shares = 100 * np.concatenate(inside, axis=1).mean(axis=1)
        error = float(np.concatenate(errors).mean())
        detail = f"scaled error; inside {shares[0]:.1f} / {shares[1]:.1f} %"
        yield Ratio(f"{name}, usual, the {part} third of the periods ahead", error, float("inf"), detail)


def _bars(name: str, scores: dict[str, list[Score]]) -> Iterator[Ratio]:
    usual = scores["usual"]
    if name != "trials":
        five = scores["five methods"]
        yield Ratio(f"{name}, error against five methods", _mean(usual, "error") / _mean(five, "error"), 1.0, "")
        return
    for some, which in (("all", usual), ("30 to 100 points", [one for one in usual if 30 <= one.points <= 100])):
        inside = np.concatenate([one.inside for one in which], axis=1).mean(axis=1)
        for level, share, (low, high) in zip(LEVELS, inside, INSIDE, strict=True):
            yield Ratio(
                f"{name}, limits at {level:g} %, {some}: shortfall or excess",
                1 + max(low - share, share - high, 0),
                1.0,
                f"inside {100 * share:.1f} %, {low:.0%} to {high:.0%} wanted",
            )
    if HALF in scores:
        same = scores[HALF]
        arms = (*LIBRARY, MEAN)
        best = min(_mean(scores[arm], "error") for arm in arms)
        yield Ratio(f"{name}, error against the best of the library", _mean(same, "error") / best, 0.97, "")
        for n, level in enumerate(LEVELS):
            least = min(_interval(scores[arm], n) for arm in arms)
            ratio = _interval(same, n) / least
            yield Ratio(f"{name}, interval score at {level:g} % against the best of the library", ratio, 0.92, "")


def _row(found: list[Score]) -> str:
    inside = 100 * np.concatenate([one.inside for one in found], axis=1).mean(axis=1)
    scores = " / ".join(f"{_interval(found, n):.2f}" for n in range(len(LEVELS)))
    cpu = 1000 * float(np.mean([one.cpu for one in found]))
    return (
        f"scaled error; inside {inside[0]:.1f} / {inside[1]:.1f} %, interval {scores}, {cpu:.0f} ms, {len(found)} folds"
    )


def _mean(found: list[Score], name: str) -> float:
    return float(np.mean([getattr(one, name) for one in found]))


def _interval(found: list[Score], level: int) -> float:
    return float(np.mean([one.interval[level] for one in found]))


def _scores(say: Callable[[Fold], Said | None], folds: list[Fold]) -> list[Score]:
    with ProcessPoolExecutor() as pool:
        return [score for score in pool.map(partial(_score, say), folds, chunksize=8) if score is not None]


def _library_scores(folds: list[Fold]) -> dict[str, list[Score]]:
    """Of each of its methods and of their mean."""
    found: dict[str, list[Score]] = {arm: [] for arm in (*LIBRARY, MEAN)}
    with ProcessPoolExecutor() as pool:
        for scores in pool.map(_score_library, folds, chunksize=4):
            for arm, score in scores.items():
                found[arm].append(score)
    return found


def _score_library(fold: Fold) -> dict[str, Score]:
    warnings.simplefilter("ignore")
    said: dict[str, Said] = {}
    taken: dict[str, float] = {}
    for arm in LIBRARY:
        begun = time.process_time()
        said[arm] = _by_library(arm, fold)
        taken[arm] = time.process_time() - begun
    centre = np.mean([found[0] for found in said.values()], axis=0)
    edges = [
        tuple(np.mean([found[1][n][side] for found in said.values()], axis=0) for side in (0, 1))
        for n in range(len(LEVELS))
    ]
    said[MEAN] = centre, [(lower, upper) for lower, upper in edges]
    taken[MEAN] = sum(taken.values())
    return {arm: _scored(fold, found, taken[arm]) for arm, found in said.items()}


def _score(say: Callable[[Fold], Said | None], fold: Fold) -> Score | None:
    warnings.simplefilter("ignore")
    begun = time.process_time()
    said = say(fold)
    cpu = time.process_time() - begun
    return None if said is None else _scored(fold, said, cpu)


def _scored(fold: Fold, said: Said, cpu: float) -> Score:
    centre, edges = said
    inside, interval = [], []
    for level, (lower, upper) in zip(LEVELS, edges, strict=True):
        inside.append((fold.held >= lower) & (fold.held <= upper))
        missed = np.maximum(lower - fold.held, 0) + np.maximum(fold.held - upper, 0)
        interval.append(float((upper - lower + 2 / (1 - level / 100) * missed).mean()) / fold.scale)
    errors = np.abs(fold.held - centre) / fold.scale
    return Score(fold.history.size, np.array(inside), np.array(interval), float(errors.mean()), cpu, errors)


def _by_ours(arm: str, fold: Fold) -> Said | None:
    values = fold.history
    # as the entry shows it: a season counts where it is found, and may be looked for where it is usual
    season = fold.season if fold.season > 1 and has_season(values, fold.season) else None
    shown = History(values, np.ones(values.size, dtype=bool), season, fold.season if fold.season > 1 else None)
    try:
        found = OURS[arm]().project(shown, fold.held.size, LEVELS)
    except Refusal:
        return None
    found = found.mapped(0.0 if values.min() >= 0 else None, None, whole=False)
    return found.mean, [(limits.lower, limits.upper) for limits in found.limits]


def _library_is_there() -> bool:
    from importlib.util import find_spec

    return find_spec("statsforecast") is not None


def _by_library(arm: str, fold: Fold) -> Said:
    from statsforecast import models

    model = getattr(models, arm)(season_length=fold.season)
    said = model.forecast(y=fold.history, h=fold.held.size, level=[int(level) for level in LEVELS])
    edges = [(np.asarray(said[f"lo-{level:g}"]), np.asarray(said[f"hi-{level:g}"])) for level in LEVELS]
    return np.asarray(said["mean"]), edges

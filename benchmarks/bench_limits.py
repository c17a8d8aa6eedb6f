"""How near the usual projection comes and how often its limits hold, on held-back folds, against the mean of five methods, single
ones, and the automatic methods of a compiled library where that is installed (`make compare`)."""

from __future__ import annotations

import time
import warnings
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from benchmarks.folds import Fold, folds_of_trials, seeded_folds
from benchmarks.measure import Ratio
from zembra.core.entries.projections.clauses.methods import BySmoothing, FiveMethods, LineSeason, Theta, UsualMean
from zembra.core.errors import Refusal
from zembra.core.projection.ahead import History, normal_point
from zembra.core.projection.averaged.average import ahead_of
from zembra.core.projection.averaged.farvalues import averaged
from zembra.core.projection.seasonal import has_season

LEVELS = (80.0, 95.0)
SEED, COUNT = 2026, 6
OURS = {"usual": UsualMean, "five methods": FiveMethods, "smoothing": BySmoothing, "theta": Theta, "line": LineSeason}
SIDES = ("usual, levels alone", "usual, logarithms alone")
LIBRARY = ("AutoETS", "AutoARIMA", "AutoTheta")
MEAN, HALF = "mean of the library's three", "usual on the same half"
INSIDE = ((0.78, 0.84), (0.94, 0.96))
SMOOTH = ((1.8, -0.83), (1.6, -0.68), (1.9, -0.92))
SMOOTH_POINTS, SMOOTH_SERIES, SMOOTH_AHEAD = (60, 100, 180, 365), 12, 10
LENGTHS = {"below 30 points": (0, 29), "30 to 100 points": (30, 100), "more": (101, 10**9)}
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
        scores |= {side: _scores(partial(_by_side, side == SIDES[1]), folds) for side in SIDES}
        if _library_is_there():
            # its automatic ARIMA takes a second a fold: of a fair half
            half = folds[::2]
            scores |= _library_scores(half)
            scores[HALF] = _scores(partial(_by_ours, "usual"), half)
        for arm, found in scores.items():
            yield Ratio(f"{name}, {arm}", _mean(found, "error"), float("inf"), _row(found))
        yield from _by_length(name, {arm: scores[arm] for arm in ("usual", *LIBRARY) if arm in scores})
        for arm in ("usual", *LIBRARY):
            if arm in scores:
                yield from _by_ahead(f"{name}, {arm}", scores[arm])
        yield from _bars(name, scores)
    yield from _smooth()


def _smooth() -> Iterator[Ratio]:
    """On nearly pure autoregressions of order two: how wide limits are, against those of who knows the model."""
    from scipy.signal import lfilter

    rng = np.random.default_rng(SEED)
    wide: list[list[float]] = []
    for points in SMOOTH_POINTS:
        for model in SMOOTH:
            polynomial = [1.0, -model[0], -model[1]]
            unity = np.eye(1, SMOOTH_AHEAD)[0]
            spread = np.sqrt(np.cumsum(lfilter([1.0], polynomial, unity) ** 2))
            for _ in range(SMOOTH_SERIES):
                values = lfilter([1.0], polynomial, rng.normal(0, 1, points + 300))[300:] + 100
                shown = History(values, np.ones(points, dtype=bool))
                found = UsualMean().project(shown, SMOOTH_AHEAD, LEVELS)
                wide.append([float((half.above / (normal_point(half.level) * spread)).mean()) for half in found.halves])
    sizes = f"{SMOOTH_POINTS[0]} to {SMOOTH_POINTS[-1]} points"
    for level, ratio in zip(LEVELS, np.mean(wide, axis=0), strict=True):
        yield Ratio(
            f"smooth autoregressions of {sizes}: width of {level:g} % limits against who knows the model",
            float(ratio),
            1.5,
            f"{len(wide)} series",
        )


def _by_length(name: str, scores: dict[str, list[Score]]) -> Iterator[Ratio]:
    """By how many numbers there were to go by."""
    for said, (least, most) in LENGTHS.items():
        for arm, found in scores.items():
            part = [score for score in found if least <= score.points <= most]
            if part:
                yield Ratio(f"{name}, {arm}, {said}", _mean(part, "error"), float("inf"), _row(part))


def _by_ahead(name: str, found: list[Score]) -> Iterator[Ratio]:
    """Of the first, the middle and the last third of the periods ahead."""
    for n, part in enumerate(("first", "middle", "last")):
        errors, inside = [], []
        for score in found:
            third = np.array_split(np.arange(score.errors.size), 3)[n]
            errors.append(score.errors[third])
            inside.append(score.inside[:, third])
        shares = 100 * np.concatenate(inside, axis=1).mean(axis=1)
        error = float(np.concatenate(errors).mean())
        detail = f"scaled error; inside {shares[0]:.1f} / {shares[1]:.1f} %"
        yield Ratio(f"{name}, the {part} third of the periods ahead", error, float("inf"), detail)


def _bars(name: str, scores: dict[str, list[Score]]) -> Iterator[Ratio]:
    usual = scores["usual"]
    if name != "trials":
        five = scores["five methods"]
        yield Ratio(f"{name}, error against five methods", _mean(usual, "error") / _mean(five, "error"), 1.0, "")
        return
    for some, which in (("all", usual), ("30 to 100 points", [score for score in usual if 30 <= score.points <= 100])):
        inside = np.concatenate([score.inside for score in which], axis=1).mean(axis=1)
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
    inside = 100 * np.concatenate([score.inside for score in found], axis=1).mean(axis=1)
    scores = " / ".join(f"{_interval(found, n):.2f}" for n in range(len(LEVELS)))
    cpu = 1000 * float(np.mean([score.cpu for score in found]))
    return (
        f"scaled error; inside {inside[0]:.1f} / {inside[1]:.1f} %, interval {scores}, {cpu:.0f} ms, {len(found)} folds"
    )


def _mean(found: list[Score], name: str) -> float:
    return float(np.mean([getattr(score, name) for score in found]))


def _interval(found: list[Score], level: int) -> float:
    return float(np.mean([score.interval[level] for score in found]))


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
    # as the entry shows it: a season may be looked for where it is usual
    shown = History(
        values, np.ones(values.size, dtype=bool), _season_found(fold), fold.season if fold.season > 1 else None
    )
    try:
        found = OURS[arm]().project(shown, fold.held.size, LEVELS)
    except Refusal:
        return None
    found = found.mapped(0.0 if values.min() >= 0 else None, None, whole=False)
    return found.mean, [(limits.lower, limits.upper) for limits in found.limits]


def _season_found(fold: Fold) -> int | None:
    """A season counts where it is found."""
    return fold.season if fold.season > 1 and has_season(fold.history, fold.season) else None


def _by_side(logarithms: bool, fold: Fold) -> Said | None:
    """The models on levels or on logarithms alone, where there are some."""
    every = np.ones((fold.history.size, 1), dtype=bool)
    ((_, found),) = averaged(fold.history[:, None], every, _season_found(fold))
    if found.logarithms is None:
        found = replace(found, share=np.zeros(1))
    else:
        found = replace(found, share=np.full(1, float(logarithms)))
    said = ahead_of(found, fold.held.size)
    floor = 0.0 if fold.history.min() >= 0 else -np.inf
    edges = [[np.maximum(edge[:, 0], floor) for edge in said.limits(level)] for level in LEVELS]
    return np.maximum(said.centre[:, 0], floor), [(lower, upper) for lower, upper in edges]


def _library_is_there() -> bool:
    from importlib.util import find_spec

    return find_spec("statsforecast") is not None


def _by_library(arm: str, fold: Fold) -> Said:
    from statsforecast import models

    model = getattr(models, arm)(season_length=fold.season)
    said = model.forecast(y=fold.history, h=fold.held.size, level=[int(level) for level in LEVELS])
    edges = [(np.asarray(said[f"lo-{level:g}"]), np.asarray(said[f"hi-{level:g}"])) for level in LEVELS]
    return np.asarray(said["mean"]), edges

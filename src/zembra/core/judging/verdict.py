"""Verdicts on candidates: what each would have said from every starting point, and how right that was."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from zembra.core.arithmetic.arrays import Floats, Ints
from zembra.core.calendar.lines import Line
from zembra.core.errors import Refusal
from zembra.core.judging.asked import Asked, Judgeable, Start, Then
from zembra.core.judging.candidates import Candidate, SeasonTried, candidates, seasons_tried
from zembra.core.judging.sums import added, left_together
from zembra.core.ledger.digest import digest
from zembra.core.ledger.entries.projections.projection import Projection
from zembra.core.ledger.state import Study
from zembra.core.projection.ahead import History, Projected
from zembra.core.projection.backtest import Fold, Judged, chance_range, judged

_NOT_FITTED = (ValueError, np.linalg.LinAlgError, ZeroDivisionError)


@dataclass(frozen=True, slots=True)
class ByAhead:
    """Over all starting points, so many periods ahead. inside: share, per level."""

    ahead: int
    points: int
    error: float
    inside: tuple[tuple[float, float], ...]


@dataclass(frozen=True, slots=True)
class Verdict:
    """folds: per starting point what it would have said, None where it refused. score: None where it never could. left:
    its errors one step ahead over the history, at `left_periods`. refused: why."""

    key: str
    score: Judged | None
    chance: tuple[tuple[float, int, int], ...]
    by_ahead: tuple[ByAhead, ...]
    folds: tuple[Projected | None, ...]
    left: Floats
    left_periods: Ints
    refused: str = ""


@dataclass(frozen=True, slots=True)
class Bench:
    """What is judged, and where. season: of the entry as it is; errors are scaled by it, so that candidates with other
    seasons can be compared."""

    candidates: list[Candidate]
    seasons: list[SeasonTried]
    judgeable: Judgeable
    study: Study
    starts: list[Start]
    season: int | None

    @property
    def line(self) -> Line:
        return self.judgeable.line

    @property
    def every(self) -> list[Candidate]:
        return [*self.candidates, *(season.candidate for season in self.seasons if season.candidate)]


def bench_of(asked: Asked) -> Bench:
    """What is judged, with its starting points. Raises Refusal."""
    then = Then.before_entry(asked)
    judgeable, study, entry = then.judgeable(asked.series), then.study, then.entry
    starts = then.starting_points(asked.series)
    season = entry.shown(judgeable.line, study).history.season
    every = candidates(entry, of_sum=len(asked.series) > 1)
    seasons = seasons_tried(entry, judgeable.line, study, asked.judging.seasons)
    return Bench(every, seasons, judgeable, study, starts, season)


def verdict_key(asked: Asked, bench: Bench, candidate: Candidate) -> str:
    """The same for the same candidate on the same held-back periods with errors on the same scale, whatever words the
    projection has that offered it."""
    *before, last = asked.ledger.entries
    words = asked.judging.model_dump_json(include={"ahead", "starts", "apart"})
    rest = asked.ledger.model_copy(update={"entries": tuple(before)}).model_dump_json()
    own = candidate.entry.model_dump_json()
    about = (asked.observations.digest, rest, last.id, *asked.series, asked.as_of.isoformat(), words, own)
    return digest(*about, str(candidate.each), repr(bench.season))


def judge(candidate: Candidate, bench: Bench, tell: Callable[[], None]) -> Verdict:
    """How a candidate did on the held-back periods. tell: called after each starting point."""
    folds: list[Projected | None] = []
    refused = ""
    starts = bench.starts
    for start in starts:
        try:
            folds.append(_said(candidate, start))
        except Refusal as refusal:
            refused = str(refusal)
            folds.append(None)
        except _NOT_FITTED:
            folds.append(None)
        tell()
    left, left_periods, history = _left_over(candidate, bench)
    made = [(start, said) for start, said in zip(starts, folds, strict=True) if said is not None]
    if not made or history is None:
        return Verdict(
            candidate.key, None, (), (), tuple(folds), left, left_periods, refused or "It could not be fitted."
        )
    place = {int(period): n for n, period in enumerate(left_periods)}
    as_folds = [Fold(place.get(start.period, history.size), said, start.actual) for start, said in made]
    score = judged(as_folds, replace(history, season=bench.season))
    assert score is not None
    chance = tuple((level, *chance_range(level, score.starts, score.points)) for level, _ in score.inside)
    return Verdict(candidate.key, score, chance, _by_ahead(as_folds, score), tuple(folds), left, left_periods, refused)


def _said(candidate: Candidate, start: Start) -> Projected:
    """Of the held-back periods, from what was known at a starting point."""
    if candidate.each:
        return added([_of_line(candidate.entry, line, start) for line in start.known.parts])
    return _of_line(candidate.entry, start.known.line, start)


def _of_line(entry: Projection, line: Line, start: Start) -> Projected:
    shown = entry.shown(line, start.study)
    onward = np.arange(int(shown.periods[-1]) + 1, int(start.periods[-1]) + 1, dtype=np.int64)
    onward = onward[start.study.expected.usual(onward)]
    return entry.said_of(shown, onward.size).at(np.searchsorted(onward, start.periods))


def _left_over(candidate: Candidate, bench: Bench) -> tuple[Floats, Ints, History | None]:
    """(errors one step ahead, their periods, the history in the unit of the series; None where it cannot be fitted)."""
    try:
        left, periods, history = _left_of(candidate.entry, bench.line, bench.study)
        if candidate.each:
            parts = [_left_of(candidate.entry, line, bench.study) for line in bench.judgeable.parts]
            left = left_together([(at, values) for values, at, _ in parts], periods)
    except (Refusal, *_NOT_FITTED):
        return np.zeros(0), np.zeros(0, dtype=np.int64), None
    return left, periods, history


def _left_of(entry: Projection, line: Line, study: Study) -> tuple[Floats, Ints, History]:
    shown = entry.shown(line, study)
    found = entry.method.project(shown.history, 1, entry.levels, entry.season.lengths)
    left = found.left if found.left.size == shown.periods.size else np.full(shown.periods.size, np.nan)
    return left, shown.periods, replace(shown.history, values=entry.on.back(shown.history.values))


def _by_ahead(folds: Sequence[Fold], score: Judged) -> tuple[ByAhead, ...]:
    actual = np.array([fold.actual for fold in folds])
    said = np.array([fold.said.mean for fold in folds])
    scale = score.mae / score.mase if score.mase else 1.0
    limits = [fold.said.limits for fold in folds]
    within = []
    for k, half in enumerate(folds[0].said.halves):
        lower = np.array([limit[k].lower for limit in limits])
        upper = np.array([limit[k].upper for limit in limits])
        within.append((half.level, (actual >= lower) & (actual <= upper)))
    found = []
    for n in range(actual.shape[1]):
        known = ~np.isnan(actual[:, n])
        if not known.any():
            continue
        inside = tuple((level, float(held[known, n].mean())) for level, held in within)
        error = float(np.abs(actual[:, n] - said[:, n])[known].mean()) / scale
        found.append(ByAhead(n + 1, int(known.sum()), error, inside))
    return tuple(found)

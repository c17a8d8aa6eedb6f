"""Backtest each candidate from every starting point, and score it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from zembra.core.arithmetic.arrays import Floats, Ints
from zembra.core.calendar.lines import Line
from zembra.core.entries.projections.projection import Projection
from zembra.core.entries.projections.seriesprojection import Shown
from zembra.core.errors import Refusal
from zembra.core.judging.asked import Judgeable, JudgingRequest, LedgerBefore, StartingPoint
from zembra.core.judging.candidates import Candidate, SeasonTried, candidates, seasons_tried
from zembra.core.judging.sums import added, left_together
from zembra.core.ledger.digest import digest
from zembra.core.ledger.state import Study
from zembra.core.projection.ahead import History, Projected
from zembra.core.projection.backtest import NOT_FITTED, BacktestScores, Fold, chance_range, judged
from zembra.core.projection.lead import Lead, lead_of, mean_error


@dataclass(frozen=True, slots=True)
class ByAhead:
    """Scores by horizon over all starting points.

    inside: share by level
    """

    ahead: int
    points: int
    error: float
    inside: tuple[tuple[float, float], ...]


@dataclass(frozen=True, slots=True)
class Verdict:
    """The verdict on a candidate.

    folds: by starting point, None where it refused
    score: None if it always refused
    left: one-step errors over the history at `left_periods`
    refused: reason
    """

    key: str
    score: BacktestScores | None
    chance: tuple[tuple[float, int, int], ...]
    by_ahead: tuple[ByAhead, ...]
    folds: tuple[Projected | None, ...]
    left: Floats
    left_periods: Ints
    refused: str = ""


@dataclass(frozen=True, slots=True)
class Bench:
    """What is judged, and from where.

    season: of the entry; errors are scaled by it, so that candidates with other seasons are comparable
    """

    candidates: list[Candidate]
    seasons: list[SeasonTried]
    judgeable: Judgeable
    study: Study
    starts: list[StartingPoint]
    season: int | None

    @property
    def line(self) -> Line:
        return self.judgeable.line

    @property
    def every(self) -> list[Candidate]:
        return [*self.candidates, *(season.candidate for season in self.seasons if season.candidate)]


def bench_of(asked: JudgingRequest) -> Bench:
    """Return the line and its starting points. Raises Refusal."""
    then = LedgerBefore.before_entry(asked)
    judgeable, study, entry = then.judgeable(asked.series), then.study, then.entry
    starts = then.starting_points(asked.series)
    season = entry.shown(judgeable.line, study).history.season
    every = candidates(entry, of_sum=len(asked.series) > 1)
    # search only in what was known before the held-back periods
    seasons = seasons_tried(entry, starts[0].known.line, starts[0].study, asked.judging.seasons)
    return Bench(every, seasons, judgeable, study, starts, season)


def verdict_key(asked: JudgingRequest, bench: Bench, candidate: Candidate) -> str:
    """Return a cache key: the same candidate on the same held-back periods and scale, whatever projection offered
    it.
    """
    *before, last = asked.ledger.entries
    words = asked.judging.model_dump_json(include={"ahead", "starts", "apart"})
    rest = asked.ledger.model_copy(update={"entries": tuple(before)}).model_dump_json()
    own = candidate.entry.model_dump_json()
    about = (asked.observations.digest, rest, last.id, *asked.series, asked.as_of.isoformat(), words, own)
    return digest(*about, str(candidate.each), repr(bench.season))


def judge(candidate: Candidate, bench: Bench, tell: Callable[[], None]) -> Verdict:
    """Backtest a candidate.

    tell: called after each starting point
    """
    starts = bench.starts
    said = _said(candidate, starts)
    for _ in starts:
        tell()
    folds = tuple(None if isinstance(found, Refusal) else found for found in said)
    refused = next((str(found) for found in said if isinstance(found, Refusal)), "")
    left, left_periods, history = _left_over(candidate, bench)
    made = [(start, said) for start, said in zip(starts, folds, strict=True) if said is not None]
    if not made or history is None:
        return Verdict(candidate.key, None, (), (), folds, left, left_periods, refused or "It could not be fitted.")
    place = {int(period): n for n, period in enumerate(left_periods)}
    as_folds = [Fold(place.get(start.period, history.size), said, start.actual) for start, said in made]
    score = judged(as_folds, replace(history, season=bench.season))
    assert score is not None
    chance = tuple((level, *chance_range(level, score.draws, score.points)) for level, _ in score.inside)
    return Verdict(candidate.key, score, chance, _by_ahead(as_folds, score), folds, left, left_periods, refused)


AS_IT_IS = "the projection as it is"


def lead_over(own: Verdict, other: Verdict, bench: Bench) -> Lead | None:
    """Return the lead of a candidate over the entry itself, or None if its error is not smaller."""
    errors, others = (
        np.array(
            [
                np.nan if said is None else mean_error(said.mean, start.actual)
                for said, start in zip(verdict.folds, bench.starts, strict=True)
            ]
        )
        for verdict in (other, own)
    )
    return lead_of(errors, others, [start.periods for start in bench.starts], len(bench.every) - 1)


def _said(candidate: Candidate, starts: Sequence[StartingPoint]) -> list[Projected | Refusal]:
    """Project the held-back periods from each starting point."""
    lines = [start.known.parts if candidate.each else (start.known.line,) for start in starts]
    said = iter(
        _of_lines(candidate.entry, [(line, start) for own, start in zip(lines, starts, strict=True) for line in own])
    )
    found: list[Projected | Refusal] = []
    for own in lines:
        parts = [next(said) for _ in own]
        refused = next((part for part in parts if isinstance(part, Refusal)), None)
        whole = [part for part in parts if not isinstance(part, Refusal)]
        found.append(refused or (added(whole) if candidate.each else whole[0]))
    return found


def _of_lines(entry: Projection, each: Sequence[tuple[Line, StartingPoint]]) -> list[Projected | Refusal]:
    found: list[Projected | Refusal] = [Refusal("It could not be fitted.")] * len(each)
    shown: dict[int, tuple[Shown, Ints]] = {}
    for n, (line, start) in enumerate(each):
        try:
            seen = entry.shown(line, start.study)
        except Refusal as refusal:
            found[n] = refusal
            continue
        onward = np.arange(int(seen.periods[-1]) + 1, int(start.periods[-1]) + 1, dtype=np.int64)
        shown[n] = seen, onward[start.study.expected.usual(onward)]
    said = entry.said_of([(seen, onward.size) for seen, onward in shown.values()])
    for (n, (_, onward)), projected in zip(shown.items(), said, strict=True):
        periods = each[n][1].periods
        found[n] = projected if isinstance(projected, Refusal) else projected.at(np.searchsorted(onward, periods))
    return found


def _left_over(candidate: Candidate, bench: Bench) -> tuple[Floats, Ints, History | None]:
    """Return one-step errors, their periods, and the history in the unit of the series, or None if it cannot be
    fitted.
    """
    try:
        left, periods, history = _left_of(candidate.entry, bench.line, bench.study)
        if candidate.each:
            parts = [_left_of(candidate.entry, line, bench.study) for line in bench.judgeable.parts]
            left = left_together([(at, values) for values, at, _ in parts], periods)
    except (Refusal, *NOT_FITTED):
        return np.zeros(0), np.zeros(0, dtype=np.int64), None
    return left, periods, history


def _left_of(entry: Projection, line: Line, study: Study) -> tuple[Floats, Ints, History]:
    shown = entry.shown(line, study)
    found = entry.method.project(shown.history, 1, entry.levels, entry.season.lengths)
    left = found.left if found.left.size == shown.periods.size else np.full(shown.periods.size, np.nan)
    return left, shown.periods, replace(shown.history, values=entry.on.back(shown.history.values))


def _by_ahead(folds: Sequence[Fold], score: BacktestScores) -> tuple[ByAhead, ...]:
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

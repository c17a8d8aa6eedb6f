"""Turn verdicts on candidate projections into data for a screen."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
from pydantic import BaseModel

from zembra.api.models.evidence import PartView
from zembra.api.views import parts_view
from zembra.core.arithmetic.arrays import Floats
from zembra.core.arithmetic.correlation import autocorrelation, ljung_box
from zembra.core.calendar.complete import Expected
from zembra.core.entries.projections.projection import Projection
from zembra.core.figure.parts.base import milliseconds, numbers
from zembra.core.judging.asked import JudgingRequest
from zembra.core.judging.candidates import OWN, Candidate
from zembra.core.judging.everyseries import SeriesVerdict
from zembra.core.judging.verdict import AS_IT_IS, Bench, Verdict, lead_over
from zembra.core.projection.ahead import Projected

MOST_LAGS = 30


class LevelView(BaseModel):
    """Held-back points inside limits of a level: count, percent, and the range by chance."""

    level: float
    inside: int
    share: float
    low: int
    high: int
    score: float


class AheadView(BaseModel):
    """Scores at a horizon.

    error: scaled
    inside: share by level
    """

    ahead: int
    error: float
    inside: list[float]


class SaidView(BaseModel):
    """The projection from a starting point.

    edges: limits by level
    """

    mean: list[float | None]
    edges: list[list[list[float | None]]]


class LeftView(BaseModel):
    """One-step errors.

    rho: autocorrelation from lag 1; bound: twice its standard error
    box, chance: Ljung–Box over `lags`
    by_weekday, by_month: means from Monday and January, or null
    """

    t: list[int]
    v: list[float | None]
    rho: list[float]
    bound: float
    box: float | None
    chance: float | None
    lags: int
    by_weekday: list[float | None]
    by_month: list[float | None]


class CandidateView(BaseModel):
    """A candidate.

    params: changed parameters
    done: whether it is judged
    lead: comparison with the entry in words, empty for larger errors; leads: whether it is significant
    said: by starting point, null where it refused
    """

    key: str
    name: str
    params: dict[str, Any]
    own: bool
    done: bool
    refused: str
    lead: str = ""
    leads: bool = False
    mase: float | None = None
    mae: float | None = None
    wape: float | None = None
    smape: float | None = None
    bias: float | None = None
    points: int = 0
    levels: list[LevelView] = []
    by_ahead: list[AheadView] = []
    said: list[SaidView | None] = []
    left: LeftView | None = None


class SeasonView(BaseModel):
    """A season length, null for none.

    candidate: key, null if the history is too short
    """

    name: str
    length: int | None
    strength: float | None
    chance: float | None
    cycles: int | None
    candidate: str | None


class StartView(BaseModel):
    """A starting point.

    t: held-back periods, milliseconds since 1970 UTC
    actual: actual values
    """

    label: str
    t: list[int]
    actual: list[float | None]


class JudgedView(BaseModel):
    """The verdicts.

    series: empty for the sum of all
    t, v: the series
    """

    entry: str
    series: str
    names: list[str]
    judging: dict[str, Any]
    parts: list[PartView]
    period: str
    periods: str
    grain: str
    levels: list[float]
    t: list[int]
    v: list[float | None]
    starts: list[StartView]
    candidates: list[CandidateView]
    seasons: list[SeasonView]


class SeriesShareView(BaseModel):
    """Coverage.

    share: points inside in percent
    short: fewer than chance allows
    """

    level: float
    share: float
    short: bool


class SeriesJudgedView(BaseModel):
    """The verdict on one series.

    error: scaled
    best: best candidate
    reasons: why it needs a look
    """

    series: str
    points: int
    starts: int
    error: float | None
    wape: float | None
    best: str
    best_params: dict[str, Any]
    best_error: float | None
    inside: list[SeriesShareView]
    reasons: list[str]
    refused: str


class EverySeriesView(BaseModel):
    """Verdicts on all series.

    of: number of series
    rows: finished ones, most urgent first
    """

    entry: str
    judging: dict[str, Any]
    parts: list[PartView]
    of: int
    periods: str
    levels: list[float]
    rows: list[SeriesJudgedView]


def every_series_view(asked: JudgingRequest, entry: Projection, rows: Sequence[SeriesVerdict]) -> EverySeriesView:
    return EverySeriesView.model_construct(
        entry=asked.ledger.entries[-1].id,
        judging=asked.judging.model_dump(),
        parts=parts_view(asked.judging, asked.study.nouns),
        of=len(asked.series),
        periods=asked.study.grain.plural,
        levels=list(entry.levels),
        rows=[_series_row(verdict) for verdict in sorted(rows, key=lambda verdict: verdict.rank)],
    )


def _series_row(verdict: SeriesVerdict) -> SeriesJudgedView:
    return SeriesJudgedView.model_construct(
        series=verdict.series,
        points=verdict.points,
        starts=verdict.starts,
        error=verdict.error,
        wape=verdict.wape,
        best=verdict.best.name if verdict.best else "",
        best_params=dict(verdict.best.params) if verdict.best else {},
        best_error=verdict.best_error,
        inside=[
            SeriesShareView.model_construct(level=level, share=share, short=short)
            for level, share, short in verdict.inside
        ],
        reasons=list(verdict.reasons),
        refused=verdict.refused,
    )


def judged_view(
    asked: JudgingRequest,
    entry: Projection,
    names: list[str],
    bench: Bench | None,
    done: Mapping[str, Verdict],
) -> JudgedView:
    """Convert verdicts.

    bench: None while it is computed
    """
    grain = asked.study.grain
    return JudgedView.model_construct(
        entry=asked.ledger.entries[-1].id,
        series=asked.series[0] if len(asked.series) == 1 else "",
        names=names,
        judging=asked.judging.model_dump(),
        parts=parts_view(asked.judging, asked.study.nouns),
        period=grain.singular,
        periods=grain.plural,
        grain=grain.unit.value,
        levels=list(entry.levels),
        **_of_bench(bench, done),
    )


def _of_bench(bench: Bench | None, done: Mapping[str, Verdict]) -> dict[str, Any]:
    if bench is None:
        return {"t": [], "v": [], "starts": [], "candidates": [], "seasons": []}
    expected, plural = bench.study.expected, bench.study.grain.plural
    return {
        "t": milliseconds(bench.line.periods, expected),
        "v": numbers(bench.line.value),
        "starts": [
            StartView.model_construct(
                label=start.label, t=milliseconds(start.periods, expected), actual=numbers(start.actual)
            )
            for start in bench.starts
        ],
        "candidates": [_with_lead(candidate, done, bench, expected) for candidate in bench.every],
        "seasons": [
            SeasonView(
                name="none" if season.length is None else f"{season.length} {plural}",
                length=season.length,
                strength=season.strength,
                chance=season.chance,
                cycles=season.cycles,
                candidate=season.candidate.key if season.candidate else None,
            )
            for season in bench.seasons
        ],
    }


def _with_lead(candidate: Candidate, done: Mapping[str, Verdict], bench: Bench, expected: Expected) -> CandidateView:
    found, own = done.get(candidate.key), done.get(OWN)
    view = _candidate(candidate, found, expected)
    if found is None or own is None or candidate.key == OWN:
        return view
    lead = lead_over(own, found, bench)
    return view.model_copy(update={"lead": lead.said(AS_IT_IS), "leads": lead.sure}) if lead else view


def _candidate(candidate: Candidate, found: Verdict | None, expected: Expected) -> CandidateView:
    about: dict[str, Any] = {
        "key": candidate.key,
        "name": candidate.name,
        "params": dict(candidate.params),
        "own": candidate.key == OWN,
    }
    if found is None or found.score is None:
        return CandidateView(**about, done=found is not None, refused=found.refused if found else "")
    score = found.score
    view = CandidateView(**about, done=True, refused=found.refused)
    return view.model_copy(
        update={
            "mase": score.mase,
            "mae": score.mae,
            "wape": score.wape,
            "smape": score.smape,
            "bias": score.bias,
            "points": score.points,
            "levels": [
                LevelView(level=level, inside=many, share=100 * many / score.points, low=low, high=high, score=interval)
                for (level, many), (_, low, high), (_, interval) in zip(
                    score.inside, found.chance, score.interval, strict=True
                )
            ],
            "by_ahead": [
                AheadView(ahead=row.ahead, error=row.error, inside=[share for _, share in row.inside])
                for row in found.by_ahead
            ],
            "said": [_said(said) for said in found.folds],
            "left": _left(found, expected),
        }
    )


def _said(said: Projected | None) -> SaidView | None:
    if said is None:
        return None
    edges = [[numbers(limit.lower), numbers(limit.upper)] for limit in said.limits]
    return SaidView.model_construct(mean=numbers(said.mean), edges=edges)


def _left(found: Verdict, expected: Expected) -> LeftView | None:
    known = ~np.isnan(found.left)
    left = found.left[known]
    if left.size < 3:
        return None
    periods = found.left_periods[known]
    lags = min(MOST_LAGS, left.size // 3)
    box, chance = ljung_box(left, lags) if float(left.std()) > 0 else (None, None)
    grain = expected.grain
    weekdays = grain.weekdays(periods) if grain.seconds <= 86_400 else None
    months = grain.months(periods) if grain.seconds < 80 * 86_400 else None
    return LeftView.model_construct(
        t=milliseconds(periods, expected),
        v=numbers(left),
        rho=autocorrelation(left, lags).tolist(),
        bound=float(1.96 / np.sqrt(left.size)),
        box=box,
        chance=chance,
        lags=lags,
        by_weekday=_means(left, weekdays, 7),
        by_month=_means(left, months, 12),
    )


def _means(left: Floats, places: np.ndarray | None, count: int) -> list[float | None]:
    if places is None:
        return []
    return [float(left[places == n].mean()) if (places == n).any() else None for n in range(count)]

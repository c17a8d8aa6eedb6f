"""Judging a projection: candidates on the same held-back periods, each shown only what was known then."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date
from typing import Annotated, Any

import numpy as np
import polars as pl
from pydantic import Field

from zembra.core.arrays import Floats, Ints
from zembra.core.calendar.complete import Expected
from zembra.core.calendar.grain import Grain
from zembra.core.errors import Refusal
from zembra.core.grammar import Sentence
from zembra.core.intake.observe import Observations
from zembra.core.ledger.clauses.methods import Named
from zembra.core.ledger.clauses.projected import NoSeason, SeasonOf, season_lengths
from zembra.core.ledger.entries.projections.projection import Projection
from zembra.core.ledger.model import Ledger, entry_of
from zembra.core.ledger.run import Result, run
from zembra.core.ledger.state import Study
from zembra.core.lines import Line
from zembra.core.projection.ahead import History, Projected
from zembra.core.projection.backtest import Fold, Judged, chance_range, judged
from zembra.core.projection.seasonal import season_chance, taken_off

LONGEST = 400
OWN = "own"


class Judging(Sentence):
    """How much is held back, and from where."""

    ahead: Annotated[int, Field(title="how many are held back", ge=1, le=400)] = 28
    starts: Annotated[int, Field(title="starting points", ge=1, le=40)] = 8
    apart: Annotated[int, Field(title="how far apart", ge=1, le=400)] = 14

    def template(self) -> str:
        return "Judge by holding back {ahead} {@periods} from {starts} starting points, {apart} {@periods} apart."


@dataclass(frozen=True, slots=True)
class Candidate:
    """key: the same in every run. params: words of the projection that differ from the entry's."""

    key: str
    name: str
    entry: Projection
    params: Mapping[str, Any] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class SeasonTried:
    """length: None for no season. strength: by decomposition. chance: that it comes without a season. cycles: full ones
    in the history. candidate: the entry with it, None where the history is too short."""

    length: int | None
    strength: float | None
    chance: float | None
    cycles: int | None
    candidate: Candidate | None = None


@dataclass(frozen=True, slots=True)
class Start:
    """A starting point. period: the first that is held back. known: the line as it was known then, as the entries
    before the projection made it; study: what else was known."""

    period: int
    label: str
    known: Line
    study: Study
    periods: Ints
    actual: Floats


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
class Asked:
    """All that judging needs; can be sent to another process."""

    observations: Observations
    ledger: Ledger
    entry: str
    series: str
    as_of: date
    file_name: str
    judging: Judging
    study: Study

    def bench(self) -> Bench:
        """Raises Refusal."""
        entry, line, study, starts = starting_points(
            self.observations, self.ledger, self.entry, self.series, self.as_of, self.file_name, self.judging
        )
        season = entry.shown(line, study).history.season
        return Bench(candidates(entry), seasons_tried(entry, line, study), line, study, starts, season)

    def verdicts(self, share: tuple[int, int], tell: Callable[[float], None]) -> tuple[Bench, dict[str, Verdict]]:
        """(what is judged, the verdicts on every `share[1]`th candidate from `share[0]` on). tell: how far it is, 0 to
        1. Raises Refusal."""
        bench = self.bench()
        mine = bench.every[share[0] :: share[1]]
        steps = len(mine) * len(bench.starts)
        done = 0

        def step() -> None:
            nonlocal done
            done += 1
            tell(done / steps)

        return bench, {one.key: judge(one, bench, step) for one in mine}


@dataclass(frozen=True, slots=True)
class Bench:
    """What is judged, and where. season: of the entry as it is; errors are scaled by it, so that candidates with other
    seasons can be compared."""

    candidates: list[Candidate]
    seasons: list[SeasonTried]
    line: Line
    study: Study
    starts: list[Start]
    season: int | None

    @property
    def every(self) -> list[Candidate]:
        return [*self.candidates, *(one.candidate for one in self.seasons if one.candidate)]


def usual_judging(entry: Projection, line: Line, study: Study) -> Judging:
    """As first offered: as far as is projected, at most a fifth of the history, as many starting points as it holds."""
    shown = entry.shown(line, study)
    far = entry.ahead.how_many(shown.last, study)
    held = int(np.clip(min(far, shown.history.size // 5), 1, 28))
    season = shown.history.season or 1
    room = shown.history.size - held - max(2 * season + 1, shown.history.size // 3)
    apart = max(1, min(held // 2 or 1, room // 7))
    return Judging(ahead=held, starts=8, apart=apart)


def candidates(entry: Projection) -> list[Candidate]:
    """The entry's own words, other methods with its season, and the first of them with other seasons."""
    own = Candidate(OWN, f"{_upper(entry.method.label)} (as it is)", entry)
    methods = [
        Candidate(
            f"method {one.value}",
            _upper(one.label),
            entry.model_copy(update={"method": one.method}),
            {"method": one.method.model_dump(mode="json")},
        )
        for one in Named
        if one is not Named.ARIMA and one.method != entry.method
    ]
    return [own, *methods]


def seasons_tried(entry: Projection, line: Line, study: Study) -> list[SeasonTried]:
    """The lengths of the calendar and those found in the data, and none."""
    shown = entry.shown(line, study)
    values = shown.history.values
    tried: list[SeasonTried] = []
    for length in sorted({*season_lengths(study.expected), *found_lengths(values)}):
        cycles = shown.history.points // length
        if values.size < 2 * length + 1 or length > LONGEST:
            tried.append(SeasonTried(length, None, None, cycles))
            continue
        words = SeasonOf(season=length)
        one = Candidate(
            f"season {length}",
            f"{length} {study.grain.plural}",
            entry.model_copy(update={"season": words}),
            {"season": words.model_dump(mode="json")},
        )
        chance = season_chance(values, length)
        tried.append(SeasonTried(length, taken_off(values, length)[2], chance, cycles, one))
    none = entry.model_copy(update={"season": NoSeason()})
    words_none = {"season": NoSeason().model_dump(mode="json")}
    return [*tried, SeasonTried(None, None, None, None, Candidate("season none", "none", none, words_none))]


def found_lengths(values: Floats, most: int = 3) -> list[int]:
    """Lengths at which the differenced values are most like themselves: local maxima of the autocorrelation beyond twice
    its standard error."""
    steps = np.diff(values)
    if steps.size < 20:
        return []
    rho = autocorrelation(steps, min(400, steps.size // 3))
    bound = 2 / np.sqrt(steps.size)
    peaks = [
        lag
        for lag in range(2, rho.size)
        if rho[lag - 1] > bound and rho[lag - 1] > rho[lag - 2] and rho[lag - 1] >= rho[lag]
    ]
    peaks.sort(key=lambda lag: -rho[lag - 1])
    found: list[int] = []
    for lag in peaks:
        # a multiple of a length that is there says nothing new
        if not any(lag % one == 0 for one in found):
            found.append(lag)
    return found[:most]


def autocorrelation(values: Floats, lags: int) -> Floats:
    """At 1 … lags apart."""
    centred = values - values.mean()
    total = float((centred**2).sum())
    if total <= 0:
        return np.zeros(lags)
    return np.array([float((centred[lag:] * centred[:-lag]).sum()) / total for lag in range(1, lags + 1)])


def starting_points(
    observations: Observations,
    ledger: Ledger,
    entry_id: str,
    series: str,
    as_of: date,
    file_name: str,
    judging: Judging,
) -> tuple[Projection, Line, Study, list[Start]]:
    """(the entry, its line, what it knows besides, the starting points, the oldest first).

    For each the whole ledger before the entry is carried out on what had come in by then. Raises Refusal.
    """
    place = next((n for n, one in enumerate(ledger.entries) if one.id == entry_id), None)
    entry = entry_of(ledger.entries[place]) if place is not None else None
    if place is None or not isinstance(entry, Projection):
        raise Refusal("There is no projection to judge.", todo="Add one on the bench.")
    before = ledger.model_copy(update={"entries": ledger.entries[:place]})
    now = run(observations, before, as_of, file_name=file_name)
    line = _line(now, series)
    study = _study(now, entry_id)
    shown = entry.shown(line, study)
    grain, expected = study.grain, study.expected
    counted = dict(zip(line.periods.tolist(), line.countable(provisional=entry.provisional.yes).tolist(), strict=True))
    starts: list[Start] = []
    for back in range(judging.starts):
        first = shown.periods.size - judging.ahead - back * judging.apart
        if first < max(5, 2 * (shown.history.season or 1) + 1):
            break
        held = shown.periods[first : first + judging.ahead]
        then = run(
            _until(observations, grain, int(held[0])),
            before,
            _day_before(grain, int(held[0]), as_of),
            file_name=file_name,
        )
        known = next((one for one in then.state.lines if one.name == series), None)
        if known is None:
            continue
        actual = np.array([counted.get(int(one), np.nan) for one in held])
        if np.isnan(actual).all():
            continue
        label = grain.label(int(held[0]))
        starts.append(Start(int(held[0]), label, known, _study(then, entry_id, expected), held, actual))
    if not starts:
        raise Refusal("The history is too short to hold that much back.", todo="Hold back less.")
    return entry, line, study, starts[::-1]


def judge(candidate: Candidate, bench: Bench, tell: Callable[[], None]) -> Verdict:
    """tell: called after each starting point."""
    folds: list[Projected | None] = []
    refused = ""
    starts = bench.starts
    for one in starts:
        try:
            folds.append(_said(candidate.entry, one))
        except Refusal as refusal:
            refused = str(refusal)
            folds.append(None)
        except (ValueError, np.linalg.LinAlgError, ZeroDivisionError):
            folds.append(None)
        tell()
    left, left_periods, history = _left_over(candidate.entry, bench.line, bench.study)
    made = [(one, said) for one, said in zip(starts, folds, strict=True) if said is not None]
    if not made or history is None:
        return Verdict(
            candidate.key, None, (), (), tuple(folds), left, left_periods, refused or "It could not be fitted."
        )
    place = {int(period): n for n, period in enumerate(left_periods)}
    as_folds = [Fold(place.get(one.period, history.size), said, one.actual) for one, said in made]
    score = judged(as_folds, replace(history, season=bench.season))
    assert score is not None
    chance = tuple((level, *chance_range(level, score.starts, score.points)) for level, _ in score.inside)
    return Verdict(candidate.key, score, chance, _by_ahead(as_folds, score), tuple(folds), left, left_periods, refused)


def _said(entry: Projection, start: Start) -> Projected:
    """Of the held-back periods, from what was known at a starting point."""
    shown = entry.shown(start.known, start.study)
    onward = np.arange(int(shown.periods[-1]) + 1, int(start.periods[-1]) + 1, dtype=np.int64)
    onward = onward[start.study.expected.usual(onward)]
    return entry.said_of(shown, onward.size).at(np.searchsorted(onward, start.periods))


def _left_over(entry: Projection, line: Line, study: Study) -> tuple[Floats, Ints, History | None]:
    try:
        shown = entry.shown(line, study)
        found = entry.method.project(shown.history, 1, entry.levels, entry.season.lengths)
    except (Refusal, ValueError, np.linalg.LinAlgError, ZeroDivisionError):
        return np.zeros(0), np.zeros(0, dtype=np.int64), None
    told = replace(shown.history, values=entry.on.back(shown.history.values))
    left = found.left if found.left.size == shown.periods.size else np.full(shown.periods.size, np.nan)
    return left, shown.periods, told


def _by_ahead(folds: Sequence[Fold], score: Judged) -> tuple[ByAhead, ...]:
    actual = np.array([one.actual for one in folds])
    said = np.array([one.said.mean for one in folds])
    scale = score.mae / score.mase if score.mase else 1.0
    found = []
    for n in range(actual.shape[1]):
        known = ~np.isnan(actual[:, n])
        if not known.any():
            continue
        inside = []
        for k, half in enumerate(folds[0].said.halves):
            lower = np.array([one.said.limits[k].lower[n] for one in folds])
            upper = np.array([one.said.limits[k].upper[n] for one in folds])
            within = (actual[:, n] >= lower) & (actual[:, n] <= upper)
            inside.append((half.level, float(within[known].mean())))
        error = float(np.abs(actual[:, n] - said[:, n])[known].mean()) / scale
        found.append(ByAhead(n + 1, int(known.sum()), error, tuple(inside)))
    return tuple(found)


def ljung_box(left: Floats, lags: int) -> tuple[float, float]:
    """(the statistic over so many lags, the chance of as much by chance) after Ljung and Box (1978)."""
    from scipy.special import chdtrc

    rho = autocorrelation(left, lags)
    box = left.size * (left.size + 2) * float((rho**2 / (left.size - np.arange(1, lags + 1))).sum())
    return box, float(chdtrc(lags, box))


def _until(observations: Observations, grain: Grain, period: int) -> Observations:
    """What had come in before a period."""
    start = grain.starts(np.array([period])).astype("datetime64[ms]")[0].item()
    frames = {name: frame.filter(pl.col("when") < start) for name, frame in observations.frames.items()}
    return replace(observations, frames=frames, digest=f"{observations.digest} before {period}")


def _day_before(grain: Grain, period: int, as_of: date) -> date:
    day = (grain.days(np.array([period])).astype("datetime64[D]") - np.timedelta64(1, "D"))[0].item()
    return min(as_of, day) if isinstance(day, date) else as_of


def _line(result: Result, series: str) -> Line:
    line = next((one for one in result.state.lines if one.name == series), None)
    if line is None:
        raise Refusal(f"There is no series named “{series}” in this study.")
    return line


def _study(result: Result, by: str, expected: Expected | None = None) -> Study:
    return Study(expected or result.state.expected, result.state.as_of, by, events=result.state.events)


def _upper(text: str) -> str:
    return text[:1].upper() + text[1:]

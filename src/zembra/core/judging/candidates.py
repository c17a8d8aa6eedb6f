"""List candidates: the projection as it is, other methods, other seasons."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.arithmetic.correlation import autocorrelation
from zembra.core.calendar.lines import Line
from zembra.core.english import upper_first
from zembra.core.entries.projections.clauses.methods import Named
from zembra.core.entries.projections.clauses.projected import NoSeason, SeasonOf, season_lengths
from zembra.core.entries.projections.projection import Projection
from zembra.core.ledger.state import Study
from zembra.core.projection.seasonal import season_chance, taken_off

LONGEST = 400
OWN = "own"
AT_ONCE = (Named.LAST, Named.LAST_SEASON, Named.DRIFT, Named.LINE)
QUICK = (Named.LAST, Named.LAST_SEASON, Named.DRIFT, Named.THETA, Named.LINE)


@dataclass(frozen=True, slots=True)
class Candidate:
    """A candidate.

    key: stable across runs
    params: parameters that differ from the entry's
    each: whether to project each part of a sum and add the projections
    """

    key: str
    name: str
    entry: Projection
    params: Mapping[str, Any] = field(default_factory=dict)
    each: bool = False

    @property
    def at_once(self) -> bool:
        """Whether it is fast to judge."""
        return any(self.entry.method == named.method for named in AT_ONCE)


@dataclass(frozen=True, slots=True)
class SeasonTried:
    """A season length, None for no season.

    strength: by decomposition
    chance: p-value
    cycles: full cycles in the history
    candidate: the entry with it, None if the history is too short
    """

    length: int | None
    strength: float | None
    chance: float | None
    cycles: int | None
    candidate: Candidate | None = None


def own_words(entry: Projection) -> Candidate:
    """Return the entry as it is, as a candidate."""
    return Candidate(OWN, f"{upper_first(entry.method.label)} (as it is)", entry)


def candidates(entry: Projection, *, of_sum: bool = False) -> list[Candidate]:
    """Return the entry itself and other methods with its season.

    of_sum: also project the parts of a sum
    """
    each = Candidate("each", "Each series projected, then added", entry, each=True)
    others = [_by(entry, named) for named in Named if named is not Named.ARIMA and named.method != entry.method]
    return [own_words(entry), *((each,) if of_sum else ()), *others]


def quick_candidates(entry: Projection) -> list[Candidate]:
    """Return the entry itself and fast methods, for many series."""
    return [own_words(entry), *(_by(entry, named) for named in QUICK if named.method != entry.method)]


def seasons_tried(entry: Projection, line: Line, study: Study, own: Sequence[int] = ()) -> list[SeasonTried]:
    """Return season lengths of the calendar, of the data and of the analyst, and none.

    line: as far as it may be looked at
    """
    shown = entry.shown(line, study)
    values = shown.history.values
    tried: list[SeasonTried] = []
    for length in sorted({*season_lengths(study.expected), *found_lengths(values), *own}):
        cycles = shown.history.points // length
        if values.size < 2 * length + 1 or length > LONGEST:
            tried.append(SeasonTried(length, None, None, cycles))
            continue
        words = SeasonOf(season=length)
        candidate = Candidate(
            f"season {length}",
            f"{length} {study.grain.plural}",
            entry.model_copy(update={"season": words}),
            {"season": words.model_dump(mode="json")},
        )
        chance = season_chance(values, length)
        tried.append(SeasonTried(length, taken_off(values, length)[2], chance, cycles, candidate))
    none = entry.model_copy(update={"season": NoSeason()})
    words_none = {"season": NoSeason().model_dump(mode="json")}
    return [*tried, SeasonTried(None, None, None, None, Candidate("season none", "none", none, words_none))]


def found_lengths(values: Floats, most: int = 3) -> list[int]:
    """Return local maxima of the autocorrelation of differences beyond twice its standard error."""
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
        # skip multiples of lengths already found
        if not any(lag % length == 0 for length in found):
            found.append(lag)
    return found[:most]


def _by(entry: Projection, candidate: Named) -> Candidate:
    return Candidate(
        f"method {candidate.value}",
        upper_first(candidate.label),
        entry.model_copy(update={"method": candidate.method}),
        {"method": candidate.method.model_dump(mode="json")},
    )

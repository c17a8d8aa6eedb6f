"""What new rows change, period by period."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from zembra.core.calendar.grain import Grain
from zembra.core.calendar.lines import Condition, Line
from zembra.core.newrows.words import Taken, TakingHow

COVERED = 0.95  # of the revisions, that the tail that is offered would have covered
MOSTLY = 0.5  # of the periods that were there, from which on a file is the whole table again


class Kind(StrEnum):
    """New: a number where there was none. Revised: another one. Gone: no row any more. Blank: a row without a number now."""

    NEW = "new"
    REVISED = "revised"
    GONE = "gone"
    BLANK = "blank"


@dataclass(frozen=True, slots=True)
class Change:
    """A period that differs. was, now: None for no number. provisional: whether it was taken to be not complete. back: how
    many periods it lay before the last number of its series, that one being 1."""

    kind: Kind
    series: str
    period: int
    was: float | None
    now: float | None
    provisional: bool = False
    back: int = 0


@dataclass(frozen=True, slots=True)
class Changes:
    """rows: by series and period. new_series, lost_series: names."""

    rows: tuple[Change, ...]
    new_series: tuple[str, ...]
    lost_series: tuple[str, ...]

    @property
    def counts(self) -> dict[Kind, int]:
        found = Counter(row.kind for row in self.rows)
        return {kind: found[kind] for kind in Kind}

    def of(self, kind: Kind) -> list[Change]:
        return [row for row in self.rows if row.kind is kind]

    @property
    def foreseen(self) -> int:
        """How many of the revised periods were provisional."""
        return sum(row.provisional for row in self.of(Kind.REVISED))

    @property
    def tail(self) -> int | None:
        """How many of the newest periods would have had to be provisional to cover most of the revisions; None for none."""
        back = sorted(row.back for row in self.of(Kind.REVISED))
        return back[math.ceil(COVERED * len(back)) - 1] if back else None


def what_changed(before: Sequence[Line], told: Sequence[Line], came: Sequence[Line], how: TakingHow) -> Changes:
    """before: lines as they came onto the calendar until now; told: the same after the ledger's repairs, which say what was
    provisional; came: lines of what came, on the same grain."""
    now = {line.name: line for line in came}
    conditions = {line.name: line for line in told}
    rows: list[Change] = []
    for line in before:
        other = now.get(line.name)
        if other is not None:
            rows += _of_series(line, conditions.get(line.name, line), other, how)
    known = {line.name for line in before}
    for line in came:
        if line.name not in known:
            rows += [
                Change(Kind.NEW, line.name, int(line.periods[place]), None, float(line.original[place]))
                for place in np.flatnonzero(~np.isnan(line.original))
            ]
    return Changes(
        tuple(rows),
        tuple(line.name for line in came if line.name not in known),
        tuple(line.name for line in before if line.name not in now) if how.taken is Taken.WHOLE else (),
    )


def _of_series(line: Line, told: Line, other: Line, how: TakingHow) -> list[Change]:
    periods = np.union1d(line.periods, other.periods)
    was, now = _on(line.periods, line.original, periods), _on(other.periods, other.original, periods)
    # a row came for a period unless nothing did
    came = np.zeros(periods.size, dtype=bool)
    came[np.searchsorted(periods, other.periods)] = other.row_count > 0
    had, has = ~np.isnan(was), ~np.isnan(now)
    kinds = (
        (Kind.NEW, has & ~had),
        (Kind.REVISED, has & had & (was != now)),
        (Kind.BLANK, had & ~has & came),
        (Kind.GONE, had & ~has & ~came & (how.taken is Taken.WHOLE)),
    )
    provisional = set(told.periods[told.condition == Condition.PROVISIONAL].tolist())
    numbered = periods[had]
    found = []
    for kind, where in kinds:
        for place in np.flatnonzero(where):
            period = int(periods[place])
            found.append(
                Change(
                    kind,
                    line.name,
                    period,
                    float(was[place]) if had[place] else None,
                    float(now[place]) if has[place] else None,
                    period in provisional,
                    int(numbered.size - np.searchsorted(numbered, period)) if had[place] else 0,
                )
            )
    return sorted(found, key=lambda change: change.period)


def _on(own: np.ndarray, values: np.ndarray, periods: np.ndarray) -> np.ndarray:
    found = np.full(periods.size, np.nan)
    found[np.searchsorted(periods, own)] = values
    return found


def guessed_how(before: Sequence[Line], came: Sequence[Line], grain: Grain) -> TakingHow:
    """Whether what came is the whole table again: it has most of the periods with a number that were there."""
    had = {(line.name, period) for line in before for period in line.periods[line.row_count > 0].tolist()}
    has = {(line.name, period) for line in came for period in line.periods[line.row_count > 0].tolist()}
    whole = not had or len(had & has) >= MOSTLY * len(had)
    return TakingHow(taken=Taken.WHOLE if whole else Taken.MORE)

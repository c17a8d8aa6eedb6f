"""Compare old and new rows period by period."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Floats, Ints
from zembra.core.calendar.grain import DAY, Grain
from zembra.core.calendar.lines import Condition, Line
from zembra.core.ledger.state import State
from zembra.core.newrows.takingwords import NoLonger, Taken, TakingHow

COVERED = 0.95  # of the revisions, that the tail that is offered would have covered
DENSE = 8  # times as many places as there are periods, up to which they are looked up in one table
MOSTLY = 0.5  # of the periods that were there, from which on a file is the whole table again


class Kind(StrEnum):
    """How a period differs: a number where there was none, another number, no row any more, or a row without a
    number.
    """

    NEW = "new"
    REVISED = "revised"
    GONE = "gone"
    BLANK = "blank"


@dataclass(frozen=True, slots=True)
class RevisedPeriod:
    """A period that differs.

    was, now: None for no number
    provisional: whether the ledger took it for incomplete
    back: distance from the last number of its series, which has 1
    """

    kind: Kind
    series: str
    period: int
    was: float | None
    now: float | None
    provisional: bool = False
    back: int = 0


@dataclass(frozen=True, slots=True)
class RevisedPeriods:
    """All periods that differ.

    names: of all series
    of_kind: periods by kind, ordered by series and period
    new_series, lost_series: names
    grain: of the periods, as the rows came in, whatever grain the ledger uses
    """

    names: tuple[str, ...] = ()
    of_kind: Mapping[Kind, Differing] = field(default_factory=dict)
    new_series: tuple[str, ...] = ()
    lost_series: tuple[str, ...] = ()
    grain: Grain = DAY

    @property
    def counts(self) -> dict[Kind, int]:
        return {kind: self.of_kind[kind].period.size if kind in self.of_kind else 0 for kind in Kind}

    @property
    def any(self) -> bool:
        return any(self.counts.values())

    @property
    def rows(self) -> list[RevisedPeriod]:
        return [row for kind in Kind for row in self.of(kind)]

    def of(self, kind: Kind, most: int | None = None) -> list[RevisedPeriod]:
        """Return the periods of a kind, at most the last `most`."""
        found = self.of_kind.get(kind)
        if found is None:
            return []
        first = 0 if most is None else max(0, found.period.size - most)
        columns = (found.series, found.period, found.was, found.now, found.provisional, found.back)
        return [
            RevisedPeriod(
                kind,
                self.names[series],
                period,
                None if math.isnan(was) else was,
                None if math.isnan(now) else now,
                provisional,
                back,
            )
            for series, period, was, now, provisional, back in zip(
                *(column[first:].tolist() for column in columns), strict=True
            )
        ]

    @property
    def foreseen(self) -> int:
        """The number of revised periods that were provisional."""
        found = self.of_kind.get(Kind.REVISED)
        return 0 if found is None else int(found.provisional.sum())

    @property
    def tail(self) -> int | None:
        """The number of newest periods that must be provisional to cover most revisions, or None."""
        found = self.of_kind.get(Kind.REVISED)
        if found is None or not found.back.size:
            return None
        return int(np.sort(found.back)[math.ceil(COVERED * found.back.size) - 1])


@dataclass(frozen=True, slots=True)
class Differing:
    """Periods of one kind as arrays.

    series: indices of names
    was, now: NaN for no number
    """

    series: Ints
    period: Ints
    was: Floats
    now: Floats
    provisional: Bools
    back: Ints


@dataclass(frozen=True, slots=True)
class _Side:
    """All periods of all series in one table.

    key: ascending, equal for equal series and period, less than `size`
    """

    size: int
    series: Ints
    period: Ints
    key: Ints
    value: Floats
    came: Bools  # whether a row came for the period


class Comparison:
    """Compare old and new lines on one calendar."""

    def __init__(self, before: State, came: State) -> None:
        self._before, self._came, self._grain = before.lines, came.lines, before.grain
        self._names, (self._old, self._new) = _sides(before.lines, came.lines)
        # where the periods of what was there stand in what came
        self._in_new = _places(self._new.key, self._old.key, self._old.size)

    @property
    def guessed_how(self) -> TakingHow:
        """The likely way to merge: replace everything if the new table has most of the old periods."""
        shared = int((self._row_came() & self._old.came).sum())
        whole = shared >= MOSTLY * int(self._old.came.sum())
        if not whole:
            return TakingHow(taken=Taken.MORE)
        # a rolling table: periods before its first are left out, and not deleted
        return TakingHow(gone=NoLonger.STAY) if self._rolls() else TakingHow()

    def _rolls(self) -> bool:
        """Return whether all missing periods lie before the first new one."""
        if not self._new.key.size:
            return False
        row_came = self._row_came()
        told = np.isin(self._old.series, np.unique(self._new.series))
        missing = self._old.came & ~row_came & told
        return bool(missing.any()) and int(self._old.period[missing].max()) < int(
            self._new.period[self._new.came].min()
        )

    def changes(self, repaired: State, how: TakingHow) -> RevisedPeriods:
        """Return the differences.

        repaired: the old state after repairs, which tells what was provisional
        how: how the rows are merged
        """
        names, old, new = self._names, self._old, self._new
        provisional = _provisional(names, old, self._grain, repaired)
        had, has = ~np.isnan(old.value), ~np.isnan(new.value)
        now = _values_at(new.value, self._in_new)
        was = np.full(new.key.size, np.nan)
        met = self._in_new >= 0
        was[self._in_new[met]] = old.value[met]
        lost = had & np.isnan(now)
        back = _back(old, had)

        def from_old(where: Bools) -> Differing:
            at = np.flatnonzero(where)
            return Differing(old.series[at], old.period[at], old.value[at], now[at], provisional[at], back[at])

        fresh = np.flatnonzero(has & np.isnan(was))
        nothing = np.zeros(fresh.size, dtype=np.int64)
        row_came = self._row_came()
        found = {
            Kind.NEW: Differing(
                new.series[fresh], new.period[fresh], was[fresh], new.value[fresh], nothing.astype(bool), nothing
            ),
            Kind.REVISED: from_old(had & ~np.isnan(now) & (old.value != now)),
            Kind.GONE: from_old(lost & ~row_came & (how.taken is Taken.WHOLE)),
            Kind.BLANK: from_old(lost & row_came),
        }
        known, has_now = {line.name for line in self._before}, {line.name for line in self._came}
        return RevisedPeriods(
            names,
            found,
            tuple(line.name for line in self._came if line.name not in known),
            tuple(line.name for line in self._before if line.name not in has_now) if how.taken is Taken.WHOLE else (),
            self._grain,
        )

    def _row_came(self) -> Bools:
        met = self._in_new >= 0
        met[met] = self._new.came[self._in_new[met]]
        return met


def _values_at(values: Floats, places: Ints) -> Floats:
    """Return values by index, NaN for negative indices."""
    found = np.full(places.size, np.nan)
    met = places >= 0
    found[met] = values[places[met]]
    return found


def _sides(before: Sequence[Line], came: Sequence[Line]) -> tuple[tuple[str, ...], tuple[_Side, _Side]]:
    names = tuple(dict.fromkeys([*(line.name for line in before), *(line.name for line in came)]))
    place = {name: n for n, name in enumerate(names)}
    periods = [line.periods for line in (*before, *came) if len(line)]
    low = min((int(part[0]) for part in periods), default=0)
    width = max((int(part[-1]) for part in periods), default=0) - low + 1

    def side(lines: Sequence[Line]) -> _Side:
        ordered = sorted(lines, key=lambda line: place[line.name])
        series = np.repeat([place[line.name] for line in ordered], [len(line) for line in ordered]).astype(np.int64)
        period = _joined([line.periods for line in ordered], np.int64)
        return _Side(
            len(names) * width,
            series,
            period,
            series * width + (period - low),
            _joined([line.original for line in ordered], np.float64),
            _joined([line.row_count > 0 for line in ordered], np.bool_),
        )

    return names, (side(before), side(came))


def _joined(parts: Sequence[np.ndarray], kind: type[np.generic]) -> np.ndarray:
    return np.concatenate(parts) if parts else np.zeros(0, dtype=kind)


def _places(among: Ints, wanted: Ints, size: int) -> Ints:
    """Return the index of each of `wanted` in the ascending `among`, -1 if missing.

    size: exceeds all of them
    """
    if size <= DENSE * (among.size + wanted.size):
        table = np.full(size, -1, dtype=np.int64)
        table[among] = np.arange(among.size)
        return table[wanted]
    if not among.size:
        return np.full(wanted.size, -1, dtype=np.int64)
    at = np.minimum(np.searchsorted(among, wanted), among.size - 1)
    return np.where(among[at] == wanted, at, -1)


def _provisional(names: tuple[str, ...], old: _Side, grain: Grain, repaired: State) -> Bools:
    """Return which old periods were provisional.

    grain: of the old periods; the repaired lines may be on another one
    """
    place = {name: n for n, name in enumerate(names)}
    found = np.zeros(old.key.size, dtype=bool)
    begin, end = repaired.grain.touched_by(grain, old.period)
    for line in repaired.lines:
        own = line.periods[line.condition == Condition.PROVISIONAL]
        if not own.size or line.name not in place:
            continue
        part = slice(*np.searchsorted(old.series, (place[line.name], place[line.name] + 1)))
        found[part] |= np.searchsorted(own, end[part], "right") > np.searchsorted(own, begin[part])
    return found


def _back(old: _Side, had: Bools) -> Ints:
    """Return how many numbers of its series stand at a point or after it."""
    total = np.concatenate(([0], np.cumsum(had)))
    ends = np.cumsum(np.bincount(old.series)) if old.series.size else old.series
    return np.asarray(total[ends[old.series]] - total[:-1])

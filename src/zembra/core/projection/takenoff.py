"""What is taken off a history before the average of many models works on it, and added back: effects of the calendar, and
the season of few cycles."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from zembra.core.arithmetic.arrays import Floats, Moments
from zembra.core.projection.ahead import CalendarRow, History, ModelPath, Projected, normal_point
from zembra.core.projection.calendareffects.effects import CalendarEffects, calendar_effects
from zembra.core.projection.limits import HalfWidth
from zembra.core.projection.shortseason import ShortSeason, short_season

MOST_GAPS = 0.05  # share of the history without a value, up to which effects of the calendar are looked for
MOST_VALUES = 6000  # older ones add time and no accuracy
MOST_SEASONS = 8  # of which more values are taken where a season is long
EFFECTS = "Effects of the calendar"


@dataclass(frozen=True, slots=True)
class TakenOff:
    """What is taken off a history.

    rest: the history without it
    first: index of the first value that counts
    """

    rest: History
    first: int = 0
    effects: CalendarEffects | None = None
    season: ShortSeason | None = None

    def added(self, found: Projected, start: int) -> Projected:
        """Add to the projection of a history of `start` values, of the rest, what was taken off."""
        start -= self.first
        if self.season is not None:
            found = self.season.added(found, start)
        if self.effects is not None:
            found = _with_effects(found, self.effects, start)
        if not self.first:
            return found
        left = np.concatenate((np.full(self.first, np.nan), found.left))
        return replace(found, left=left, cut={place + self.first: value for place, value in found.cut.items()})


def taken_off(history: History) -> TakenOff:
    """Return what is taken off a history, and the rest."""
    history, first = _newest(history)
    effects = None
    if history.calendar is not None and history.size - history.points <= MOST_GAPS * history.size:
        effects = calendar_effects(history.values, history.calendar)
    if effects is not None:
        values = history.values / np.exp(effects.fitted) if effects.in_logs else history.values - effects.fitted
        history = replace(history, values=values)
    rest = replace(history, calendar=None)
    season = short_season(rest)
    return TakenOff(season.taken_off(rest) if season else rest, first, effects, season)


def _newest(history: History) -> tuple[History, int]:
    """Return the newest values of a very long history, from an observed one on, and the index of the first."""
    first = max(0, history.size - max(MOST_VALUES, MOST_SEASONS * (history.season or history.usual or 1)))
    if not first:
        return history, 0
    first += int(np.argmax(history.known[first:]))
    row = history.calendar
    if row is not None:
        row = replace(row, key=(row.key, first), moments_until=partial(_moments_from, row, first))
    return replace(history, values=history.values[first:], known=history.known[first:], calendar=row), first


def _moments_from(row: CalendarRow, first: int, count: int) -> Moments:
    return row.moments_until(first + count)[first:]


def _with_effects(found: Projected, effects: CalendarEffects, start: int) -> Projected:
    """Add effects, and widen the half-widths by their errors, as independent of those of the models."""
    onward, error = effects.at(start, found.mean.size)
    fitted = effects.fitted[:start]
    factor = np.exp(onward) if effects.in_logs else np.ones(onward.size)
    added = np.zeros(onward.size) if effects.in_logs else onward
    mean = found.mean * factor + added
    error = error * np.abs(mean) if effects.in_logs else error
    back = np.exp(fitted) if effects.in_logs else np.ones(start)
    return replace(
        found,
        mean=mean,
        halves=tuple(_wider(half, factor, error) for half in found.halves),
        estimates={**found.estimates, EFFECTS: _named(effects)},
        left=found.left * back if found.left.size == start else found.left,
        parts=tuple(replace(part, mean=part.mean * factor + added) for part in found.parts),
        cut={
            place: float(value * back[place] + (0 if effects.in_logs else fitted[place]))
            for place, value in found.cut.items()
            if place < start
        },
        paths=tuple(_scaled(path, factor) for path in found.paths),
    )


def _wider(half: HalfWidth, factor: Floats, error: Floats) -> HalfWidth:
    own = normal_point(half.level) * error
    return HalfWidth(half.level, np.hypot(half.below * factor, own), np.hypot(half.above * factor, own))


def _scaled(path: ModelPath, factor: Floats) -> ModelPath:
    """Multiply a path; on logarithms the errors stay."""
    widening = path.widening if path.in_logs else path.widening * factor
    return replace(path, mean=path.mean * factor, widening=widening)


def _named(effects: CalendarEffects) -> str:
    return f"{', '.join(effects.names)}{', of the logarithms' if effects.in_logs else ''}"

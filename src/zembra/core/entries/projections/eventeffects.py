"""Estimate the usual effect of past events of one name, to project the next ones."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Floats, Ints
from zembra.core.ledger.events import Happening, event_names
from zembra.core.projection.ahead import Projected
from zembra.core.projection.wholehistory import FEWEST_POINTS, whole_history

Effects = tuple[tuple[str, float], ...]


def usual_effects(
    values: Floats, periods: Ints, events: Sequence[Happening], season: Callable[[Floats], int | None]
) -> tuple[Effects, Bools]:
    """Return the mean effect of each event by name, and a mask of the periods with events. The effect is the
    distance from the value that would fill a gap there.

    season: gives the season length of a row of periods without the events
    """
    nowhere = np.zeros(values.size, dtype=bool)
    names = np.array(event_names(events, periods), dtype=object)
    at_events = np.asarray((names != "") & ~np.isnan(values))
    without = np.where(at_events, np.nan, values)
    known = np.flatnonzero(~np.isnan(without))
    if not at_events.any() or known.size < FEWEST_POINTS:
        return (), nowhere
    inside = np.zeros(values.size, dtype=bool)
    inside[known[0] : known[-1] + 1] = True
    at_events &= inside
    usual, _ = whole_history(without, season(without[known[0] : known[-1] + 1]))
    away = np.full(values.size, np.nan)
    away[inside] = values[inside] - usual
    effects = {name: float(away[at_events & (names == name)].mean()) for name in dict.fromkeys(names[at_events])}
    return tuple(effects.items()), at_events


def with_effects(
    found: Projected, onward: Ints, effects: Effects, events: Sequence[Happening]
) -> tuple[Projected, Effects]:
    """Return the projection with the effects of known future events, and the effects used."""
    known = dict(effects)
    names = event_names(events, onward)
    added = np.array([known.get(name, 0.0) for name in names])
    used = tuple((name, known[name]) for name in dict.fromkeys(names) if name in known)
    return replace(found, mean=found.mean + added), used

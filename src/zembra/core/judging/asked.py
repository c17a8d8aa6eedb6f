"""The request to judge a projection: its settings, its data and its starting points."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from datetime import date
from typing import Annotated

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.arrays import Floats, Ints, values_at
from zembra.core.calendar.budget import USUAL, Budget
from zembra.core.calendar.complete import Expected, moments_for
from zembra.core.calendar.grain import Grain
from zembra.core.calendar.lines import Line
from zembra.core.entries.projections.projection import Projection
from zembra.core.entries.readings.events import Events
from zembra.core.errors import Refusal
from zembra.core.grammar import Sentence, Word
from zembra.core.intake.observe import Observations
from zembra.core.judging.sums import sum_of
from zembra.core.ledger.entry import Group
from zembra.core.ledger.model import Ledger, entry_of
from zembra.core.ledger.run import Result, run
from zembra.core.ledger.state import State, Study

FEWEST_BEFORE = 5  # periods before a starting point
NEARLY = 0.75  # of what would be held back, that is enough


SeasonLength = Annotated[int, Field(ge=2, le=400)]


class Judging(Sentence):
    """The settings of judging: horizon and starting points.

    seasons: lengths to try beside those of the calendar and of the data
    """

    ahead: Annotated[int, Field(title="how many are held back", ge=1, le=400)] = 28
    starts: Annotated[int, Field(title="starting points", ge=1, le=40)] = 8
    apart: Annotated[int, Field(title="how far apart", ge=1, le=400)] = 14
    seasons: Annotated[
        tuple[SeasonLength, ...],
        Field(title="season lengths of your own", max_length=8),
        Word(empty="no season of your own"),
    ] = ()

    def template(self) -> str:
        return (
            "Judge by holding back {ahead} {@periods} from {starts} starting points, {apart} {@periods} apart, trying "
            "{seasons} too."
        )


@dataclass(frozen=True, slots=True)
class JudgingRequest:
    """Everything that judging needs, picklable.

    ledger: ends with the projection
    series: one, or several to judge as a sum
    """

    observations: Observations
    ledger: Ledger
    series: tuple[str, ...]
    as_of: date
    file_name: str
    judging: Judging
    study: Study
    budget: Budget = USUAL


@dataclass(frozen=True, slots=True)
class Judgeable:
    """The line to judge, possibly a sum.

    parts: the lines that `line` is the sum of, or itself
    """

    line: Line
    parts: tuple[Line, ...]

    @classmethod
    def of(cls, lines: tuple[Line, ...]) -> Judgeable:
        return cls(lines[0] if len(lines) == 1 else sum_of(lines), lines)


@dataclass(frozen=True, slots=True)
class StartingPoint:
    """A starting point.

    period: the first one held back
    known: the line as known then, after the entries before the projection; study: what else was known
    """

    period: int
    label: str
    known: Judgeable
    study: Study
    periods: Ints
    actual: Floats


@dataclass
class LedgerBefore:
    """Runs the ledger before a projection, today and as of earlier periods."""

    asked: JudgingRequest
    entry: Projection
    before: Ledger
    now: Result
    _earlier: dict[int, Result] = field(default_factory=dict)

    @classmethod
    def before_entry(cls, asked: JudgingRequest) -> LedgerBefore:
        """Run the ledger up to the projection. Raises Refusal."""
        *entries, last = asked.ledger.entries
        entry = entry_of(last)
        assert isinstance(entry, Projection)
        before = asked.ledger.model_copy(update={"entries": tuple(entries)})
        now = run(asked.observations, before, asked.as_of, file_name=asked.file_name, budget=asked.budget)
        return cls(asked, entry, before, now)

    @property
    def by(self) -> str:
        return self.asked.ledger.entries[-1].id

    @property
    def study(self) -> Study:
        return study_of(self.now.state, self.by)

    def judgeable(self, series: tuple[str, ...]) -> Judgeable:
        """Return the line to judge. Raises Refusal."""
        found = _named(self.now, series)
        if found is None:
            raise Refusal(f"There is no series named “{series[0]}” in this study.")
        return Judgeable.of(found)

    def starting_points(self, series: tuple[str, ...]) -> list[StartingPoint]:
        """Return the starting points, oldest first. Raises Refusal."""
        judging = self.asked.judging
        line, study = self.judgeable(series).line, self.study
        shown = self.entry.shown(line, study)
        counts = line.countable(provisional=self.entry.provisional.yes)
        starts: list[StartingPoint] = []
        for back in range(judging.starts):
            first = shown.periods.size - judging.ahead - back * judging.apart
            if first < max(FEWEST_BEFORE, 2 * (shown.history.season or 1) + 1):
                break
            held = shown.periods[first : first + judging.ahead]
            then = self._before(int(held[0]))
            known = _named(then, series)
            actual = values_at(line.periods, counts, held)
            if known is None or np.isnan(actual).all():
                continue
            label = study.grain.label(int(held[0]))
            about = study_of(then.state, self.by, study.expected)
            starts.append(StartingPoint(int(held[0]), label, Judgeable.of(known), about, held, actual))
        if not starts:
            raise Refusal("The history is too short to hold that much back.", todo="Hold back less.")
        return starts[::-1]

    def _before(self, period: int) -> Result:
        """Run the ledger on what had come in before a period."""
        found = self._earlier.get(period)
        if found is None:
            grain = self.now.state.grain
            found = run(
                _until(self.asked.observations, grain, period),
                self.before,
                _day_before(grain, period, self.asked.as_of),
                file_name=self.asked.file_name,
                budget=self.asked.budget,
            )
            self._earlier[period] = found
        return found


def what_it_rests_on(ledger: Ledger, place: int) -> Ledger:
    """Return the ledger up to a projection without readings, which change no line; events stay."""
    unread = (Group.READINGS, Group.PROJECTIONS)
    before = [
        entry
        for entry in ledger.entries[:place]
        if type(entry_of(entry)).group not in unread or entry.kind == Events.kind
    ]
    return ledger.model_copy(update={"entries": (*before, ledger.entries[place])})


def study_of(state: State, by: str, expected: Expected | None = None) -> Study:
    """Return the study of a projection.

    expected: if it differs from the state's
    """
    return Study(expected or state.expected, state.as_of, by, others=state.lines, events=state.events)


def usual_judging(entry: Projection, line: Line, study: Study) -> Judging:
    """Suggest the settings: the projected horizon, at most a fifth of the history, and eight starting points
    without common periods where the history allows.
    """
    shown = entry.shown(line, study)
    far = entry.ahead.how_many(shown.last, study)
    held = int(np.clip(min(far, shown.history.size // 5), 1, 28))
    season = shown.history.season or 1
    room = shown.history.size - held - max(2 * season + 1, shown.history.size // 3)
    apart = max(1, min(held, room // 7))
    # hold back slightly less if starting points then share no period
    return Judging(ahead=apart if apart >= NEARLY * held else held, starts=8, apart=apart)


def _named(result: Result, series: tuple[str, ...]) -> tuple[Line, ...] | None:
    """Return the lines of these names, or None if one is missing."""
    by_name = {line.name: line for line in result.state.lines}
    return tuple(by_name[name] for name in series) if all(name in by_name for name in series) else None


def _until(observations: Observations, grain: Grain, period: int) -> Observations:
    """Return the observations before a period."""
    start = grain.starts(np.array([period])).astype("datetime64[ms]")[0].item()
    # in local time, as days are local
    frames = {
        name: frame.filter(moments_for(frame, grain)["when"] < start) for name, frame in observations.frames.items()
    }
    return replace(observations, frames=frames, digest=f"{observations.digest} before {period}")


def _day_before(grain: Grain, period: int, as_of: date) -> date:
    day = (grain.days(np.array([period])).astype("datetime64[D]") - np.timedelta64(1, "D"))[0].item()
    return min(as_of, day) if isinstance(day, date) else as_of

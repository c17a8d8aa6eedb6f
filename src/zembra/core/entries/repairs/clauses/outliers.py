"""Outlier rules and treatments."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, model_validator

from zembra.core.arithmetic.arrays import Bools, Floats
from zembra.core.arithmetic.fills import interpolated, seasonal_usual
from zembra.core.arithmetic.outliers import (
    OutlierScores,
    away_from_middle,
    away_from_neighbours,
    away_from_season,
    away_from_trend,
    beyond_fence,
    outside_limits,
    picked,
    usual_move,
)
from zembra.core.arithmetic.regression import steps_since
from zembra.core.calendar.grain import Unit
from zembra.core.calendar.lines import Condition, Line
from zembra.core.calendar.seasons import even_row
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice, Clause, Point, Word
from zembra.core.ledger.state import Study


class Measure(Choice):
    UNITS = ("units", "units", "in units of the series")
    PERCENT = ("percent", "%", "percent of what it is compared with")
    TIMES = ("times", "times the usual move", "multiples of the median size of a move")


class FromTrend(Choice):
    TIMES = ("times", "times the residual spread")
    PERCENT = ("percent", "% of it")


class Side(Choice):
    BOTH = ("both", "up or down")
    UP = ("up", "up")
    DOWN = ("down", "down")

    @property
    def up(self) -> bool:
        return self is not Side.DOWN

    @property
    def down(self) -> bool:
        return self is not Side.UP


class Ends(Choice):
    NOT = ("not", "not judged", "the first and the last number have one neighbour only")
    JUDGED = ("judged", "judged by their only neighbour")


class Reason(BaseModel):
    """A reason in the analyst's words, shown on the chart."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)

    point: Point
    text: Annotated[str, Field(max_length=120)]


class OutlierRule(Clause):
    """An outlier rule."""

    def judge(self, line: Line, study: Study) -> OutlierScores:
        """Return which values of a line are outliers. Raises Refusal."""
        raise NotImplementedError


Far = Annotated[float, Field(title="how far", gt=0, allow_inf_nan=False)]
WhichSide = Annotated[Side, Field(title="which side")]


class FromNeighbours(OutlierRule):
    label: ClassVar[str] = "away from both neighbours"
    tip: ClassVar[str] = "from the previous and the next measured value"

    kind: Literal["neighbours"] = "neighbours"
    far: Far = 6.0
    measure: Annotated[Measure, Field(title="how far is measured")] = Measure.TIMES
    side: WhichSide = Side.BOTH
    ends: Annotated[Ends, Field(title="first and last number")] = Ends.NOT

    def template(self) -> str:
        space = "" if self.measure is Measure.PERCENT else " "
        return f"more than {{far}}{space}{{measure}} {{self}}, {{side}}[, ends {{ends}}]"

    def judge(self, line: Line, study: Study) -> OutlierScores:
        values = line.counted
        far = self.far * (usual_move(values) if self.measure is Measure.TIMES else 1)
        percent, ends = self.measure is Measure.PERCENT, self.ends is Ends.JUDGED
        return away_from_neighbours(values, far, percent=percent, ends=ends, up=self.side.up, down=self.side.down)


class FromTrendLine(OutlierRule):
    label: ClassVar[str] = "away from the trend line"
    tip: ClassVar[str] = "residual of a least-squares line"

    kind: Literal["trend"] = "trend"
    far: Far = 3.0
    far_in: Annotated[FromTrend, Field(title="how far is measured")] = FromTrend.TIMES
    side: WhichSide = Side.BOTH

    def template(self) -> str:
        return "more than {far} {far_in} {self}, {side}"

    def judge(self, line: Line, study: Study) -> OutlierScores:
        x = steps_since(line.periods, int(line.periods[0]) if len(line) else 0)
        percent = self.far_in is FromTrend.PERCENT
        return away_from_trend(line.counted, x, self.far, percent=percent, up=self.side.up, down=self.side.down)


class FromMiddle(OutlierRule):
    label: ClassVar[str] = "away from the rolling middle"
    tip: ClassVar[str] = "Hampel identifier: rolling median, scaled MAD"

    kind: Literal["middle"] = "middle"
    far: Far = 6.0
    window: Annotated[int, Field(title="window", ge=3, le=2001)] = 15
    side: WhichSide = Side.BOTH

    def template(self) -> str:
        return "more than {far} scaled deviations {self} of {window} {@periods}, {side}"

    def judge(self, line: Line, study: Study) -> OutlierScores:
        return away_from_middle(line.counted, self.window, self.far, up=self.side.up, down=self.side.down)


class BeyondFence(OutlierRule):
    label: ClassVar[str] = "beyond the quartile fence"
    tip: ClassVar[str] = "quartiles and multiples of their distance"

    kind: Literal["fence"] = "fence"
    far: Far = 3.0
    side: WhichSide = Side.BOTH

    def template(self) -> str:
        return "more than {far} quartile distances {self}, {side}"

    def judge(self, line: Line, study: Study) -> OutlierScores:
        return beyond_fence(line.counted, self.far, up=self.side.up, down=self.side.down)


class FromSeason(OutlierRule):
    label: ClassVar[str] = "away from the seasonal pattern"
    tip: ClassVar[str] = "residual of a seasonal-trend decomposition, STL"

    kind: Literal["season"] = "season"
    far: Far = 4.0
    season: Annotated[int, Field(title="season length", ge=2, le=10_000), Word(usual="season")] = 7
    side: WhichSide = Side.BOTH

    def template(self) -> str:
        return "more than {far} times the local spread {self} of {season} {@periods}, {side}"

    def judge(self, line: Line, study: Study) -> OutlierScores:
        if study.grain.unit is Unit.MOMENT:
            raise Refusal("Dates as they come have no season.", todo="Choose another rule.")
        row = even_row(study.expected, line.periods)
        found = away_from_season(row.spread(line.counted), self.season, self.far, up=self.side.up, down=self.side.down)
        out = np.isin(row.at, np.flatnonzero(found.out))
        return OutlierScores(out, row.gather(found.expected), row.gather(found.nearest))


class OutsideLimits(OutlierRule):
    label: ClassVar[str] = "outside given limits"

    kind: Literal["limits"] = "limits"
    low: Annotated[float | None, Field(title="lower limit", allow_inf_nan=False), Word(empty="no limit")] = None
    high: Annotated[float | None, Field(title="upper limit", allow_inf_nan=False), Word(empty="no limit")] = None

    @model_validator(mode="after")
    def _ordered(self) -> OutsideLimits:
        if self.low is not None and self.high is not None and self.low > self.high:
            raise ValueError("the lower limit lies above the upper one")
        return self

    def template(self) -> str:
        return "{self}, {low} to {high}"

    def judge(self, line: Line, study: Study) -> OutlierScores:
        return outside_limits(line.counted, self.low, self.high)


class PickedByHand(OutlierRule):
    label: ClassVar[str] = "picked by hand"
    tip: ClassVar[str] = "chosen in the chart, the strip or the table"

    kind: Literal["hand"] = "hand"
    points: Annotated[tuple[Point, ...], Field(title="points picked"), Word(empty="none yet")] = ()

    def template(self) -> str:
        return "{self}: {points}"

    def judge(self, line: Line, study: Study) -> OutlierScores:
        chosen = frozenset(study.grain.parse(point.period) for point in self.points if point.series == line.name)
        return picked(line.counted, line.periods, chosen, irregular=study.grain.unit is Unit.MOMENT)


class OutlierFate(Clause):
    """A treatment of outliers.

    done: the past participle for its count
    """

    done: ClassVar[str] = "set aside"

    def treated(self, line: Line, out: Bools, judged: OutlierScores, study: Study) -> Line:
        """Return the line with the points of the mask `out` treated."""
        return line.marked(out, Condition.SET_ASIDE, study.entry_id)


class _Replaced(OutlierFate):
    done: ClassVar[str] = "replaced"

    def instead(self, line: Line, rest: Floats, study: Study) -> Floats:
        """Return estimates from the rest of the line."""
        raise NotImplementedError

    def treated(self, line: Line, out: Bools, judged: OutlierScores, study: Study) -> Line:
        values = self.instead(line, np.where(out, np.nan, line.counted), study)
        has = out & ~np.isnan(values)
        # without an estimate the outlier is set aside
        filled = line.marked(has, Condition.FILLED, study.entry_id, values)
        return filled.marked(out & ~has, Condition.SET_ASIDE, study.entry_id)


class SetAside(OutlierFate):
    label: ClassVar[str] = "Set aside and leave open"
    tip: ClassVar[str] = "kept, shown hollow, not counted; the line stops"

    kind: Literal["open"] = "open"


class SetAsideBridged(OutlierFate):
    label: ClassVar[str] = "Set aside and bridge"
    tip: ClassVar[str] = "kept, shown hollow, not counted; drawn across"

    kind: Literal["bridge"] = "bridge"

    def treated(self, line: Line, out: Bools, judged: OutlierScores, study: Study) -> Line:
        return line.marked(out, Condition.SET_ASIDE, study.entry_id, bridged=True)


class ReplacedStraight(_Replaced):
    label: ClassVar[str] = "Replace with the straight line"
    tip: ClassVar[str] = "linear interpolation, marked as filled"

    kind: Literal["straight"] = "straight"

    def instead(self, line: Line, rest: Floats, study: Study) -> Floats:
        return interpolated(rest, line.periods if study.grain.unit is Unit.MOMENT else None)


class ReplacedSeasonal(_Replaced):
    label: ClassVar[str] = "Replace with the seasonal usual"
    tip: ClassVar[str] = "median of the neighbouring seasons, marked as filled"

    kind: Literal["seasonal"] = "seasonal"
    season: Annotated[int, Field(title="season length", ge=2, le=10_000), Word(usual="season")] = 7

    def template(self) -> str:
        return "{self} of {season} {@periods}"

    def instead(self, line: Line, rest: Floats, study: Study) -> Floats:
        row = even_row(study.expected, line.periods)
        return row.gather(seasonal_usual(row.spread(rest), self.season))


class PulledIn(OutlierFate):
    label: ClassVar[str] = "Pull in to the limit"
    tip: ClassVar[str] = "the nearest value that would not stand out, marked as adjusted"
    done: ClassVar[str] = "pulled in"

    kind: Literal["limit"] = "limit"

    def treated(self, line: Line, out: Bools, judged: OutlierScores, study: Study) -> Line:
        return line.marked(out & ~np.isnan(judged.nearest), Condition.ADJUSTED, study.entry_id, judged.nearest)


class OnlyMarked(OutlierFate):
    label: ClassVar[str] = "Keep but mark"
    tip: ClassVar[str] = "counts as measured"
    done: ClassVar[str] = "marked"

    kind: Literal["mark"] = "mark"

    def treated(self, line: Line, out: Bools, judged: OutlierScores, study: Study) -> Line:
        return line


Rule = FromNeighbours | FromTrendLine | FromMiddle | BeyondFence | FromSeason | OutsideLimits | PickedByHand
Fate = SetAside | SetAsideBridged | ReplacedStraight | ReplacedSeasonal | PulledIn | OnlyMarked

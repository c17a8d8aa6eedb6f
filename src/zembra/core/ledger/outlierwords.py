"""Rules for outliers, how far is measured, and what happens to them."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from zembra.core.grammar import Choice, Point


class Rule(Choice):
    NEIGHBOURS = ("neighbours", "away from both neighbours", "from the previous and the next measured value")
    TREND = ("trend", "away from the trend line", "residual of a least-squares line")
    MIDDLE = ("middle", "away from the rolling middle", "Hampel identifier: rolling median, scaled MAD")
    FENCE = ("fence", "beyond the quartile fence", "quartiles and multiples of their distance")
    SEASON = ("season", "away from the seasonal pattern", "residual of a seasonal-trend decomposition, STL")
    LIMITS = ("limits", "outside given limits")
    HAND = ("hand", "picked by hand", "chosen in the chart, the strip or the table")


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


class Ends(Choice):
    NOT = ("not", "not judged", "the first and the last number have one neighbour only")
    JUDGED = ("judged", "judged by their only neighbour")


class Then(Choice):
    OPEN = ("open", "Set aside and leave open", "kept, shown hollow, not counted; the line stops")
    BRIDGE = ("bridge", "Set aside and bridge", "kept, shown hollow, not counted; drawn across")
    STRAIGHT = ("straight", "Replace with the straight line", "linear interpolation, marked as filled")
    SEASONAL = ("seasonal", "Replace with the seasonal usual", "median of the neighbouring seasons, marked as filled")
    LIMIT = ("limit", "Pull in to the limit", "the nearest value that would not stand out, marked as adjusted")
    MARK = ("mark", "Keep but mark", "counts as measured")


class Reason(BaseModel):
    """Why a point is what it is, in the analyst's words; shown on the chart."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    point: Point
    text: Annotated[str, Field(max_length=120)]

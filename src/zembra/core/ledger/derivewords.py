"""What can be derived from a series, and how."""

from __future__ import annotations

from zembra.core.grammar import Choice
from zembra.core.lines import Quantity


class What(Choice):
    PER_PERIOD = ("per-period", "the figures behind the running total", "difference of a cumulative series")
    TOTAL = ("total", "the running total", "cumulative sum")
    CHANGE = ("change", "the change from the period before", "first difference")
    PERCENT = ("percent", "the percent change from the period before")
    LAGGED = ("lagged", "the change from", "seasonal difference")
    LAGGED_PERCENT = ("lagged-percent", "the percent change from", "year on year and the like")
    INDEX = ("index", "an index", "100 at a date")
    PER_DAY = ("per-day", "the figure per day in the period")
    SHARE = ("share", "the share of the total", "percent of the sum over series")
    LOG = ("log", "the natural logarithm")


class Restart(Choice):
    NEVER = ("never", "never starting again")
    YEAR = ("year", "starting again each year")
    MONTH = ("month", "starting again each month")


class Gap(Choice):
    SPREAD = ("spread", "shared evenly", "by the periods of the gap and the one after, marked as filled")
    OPEN = ("open", "left open")


class Correction(Choice):
    """What becomes of a total that falls without starting again."""

    LEFT = ("left", "stands as it is, below zero")
    SPREAD = ("spread", "is spread back over the time since the total began", "in proportion, marked as filled")
    ASIDE = ("aside", "is left open", "the figure of that period is not known")


def quantity_of(what: What, old: Quantity) -> Quantity:
    """What the numbers of a derived line are."""
    name = old.name or "values"
    unit, flow = old.unit, False
    if what is What.PER_PERIOD:
        return Quantity(old.name, unit, True)
    told = {
        What.TOTAL: f"{name}, running total", What.INDEX: f"{name}, index", What.PER_DAY: f"{name} per day",
        What.SHARE: f"{name}, share of the total", What.LOG: f"{name}, natural logarithm",
    }.get(what, f"{name}, change")  # fmt: skip
    if what in (What.PERCENT, What.LAGGED_PERCENT, What.SHARE):
        unit = "%"
    elif what in (What.INDEX, What.LOG):
        unit = ""
    return Quantity(told, unit, flow)

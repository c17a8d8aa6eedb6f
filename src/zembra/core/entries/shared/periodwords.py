"""Words for units, weekdays and months."""

from __future__ import annotations

from zembra.core.calendar.grain import Grain, Unit
from zembra.core.grammar import Choice


class Periods(Choice):
    MINUTE = ("minute", "Minutes", "grain: one minute")
    MINUTE_2 = ("2-minute", "Two minutes", "grain: two minutes")
    MINUTE_5 = ("5-minute", "Five minutes", "grain: five minutes")
    MINUTE_10 = ("10-minute", "Ten minutes", "grain: ten minutes")
    MINUTE_15 = ("15-minute", "Quarter hours", "grain: fifteen minutes")
    MINUTE_20 = ("20-minute", "Twenty minutes", "grain: twenty minutes")
    MINUTE_30 = ("30-minute", "Half hours", "grain: thirty minutes")
    HOUR = ("hour", "Hours", "grain: one hour")
    HOUR_2 = ("2-hour", "Two hours", "grain: two hours")
    HOUR_3 = ("3-hour", "Three hours", "grain: three hours")
    HOUR_4 = ("4-hour", "Four hours", "grain: four hours")
    HOUR_6 = ("6-hour", "Six hours", "grain: six hours")
    HOUR_8 = ("8-hour", "Eight hours", "grain: eight hours")
    HOUR_12 = ("12-hour", "Half days", "grain: twelve hours")
    DAY = ("day", "Days", "grain: one day")
    DAY_2 = ("2-day", "Every second day", "grain: two days")
    DAY_5 = ("5-day", "Five days", "grain: five days")
    DAY_8 = ("8-day", "Eight days", "grain: eight days")
    DAY_10 = ("10-day", "Ten days", "grain: ten days")
    WEEK = ("week", "Weeks", "grain: seven days")
    WEEK_2 = ("2-week", "Two weeks", "grain: fourteen days")
    WEEK_4 = ("4-week", "Four weeks", "grain: twenty-eight days")
    MONTH = ("month", "Months", "grain: one month")
    MONTH_2 = ("2-month", "Two months", "grain: two months")
    QUARTER = ("quarter", "Quarters", "grain: three months")
    MONTH_4 = ("4-month", "Four months", "grain: four months")
    MONTH_6 = ("6-month", "Half-years", "grain: six months")
    YEAR = ("year", "Years", "grain: twelve months")
    YEAR_2 = ("2-year", "Every second year", "grain: two years")
    YEAR_4 = ("4-year", "Every fourth year", "grain: four years")
    YEAR_5 = ("5-year", "Five years", "grain: five years")
    YEAR_10 = ("10-year", "Ten years", "grain: ten years")
    MOMENT = ("moment", "Dates as they come", "no calendar: nothing is expected, so nothing is absent")

    @property
    def unit(self) -> Unit:
        return Unit(self.value.split("-")[-1])

    @property
    def step(self) -> int:
        return int(self.value.split("-")[0]) if "-" in self.value else 1

    @classmethod
    def of(cls, grain: Grain) -> Periods:
        return cls(grain.unit.value if grain.step == 1 else f"{grain.step}-{grain.unit.value}")


class Weekday(Choice):
    MONDAY = ("mon", "Monday")
    TUESDAY = ("tue", "Tuesday")
    WEDNESDAY = ("wed", "Wednesday")
    THURSDAY = ("thu", "Thursday")
    FRIDAY = ("fri", "Friday")
    SATURDAY = ("sat", "Saturday")
    SUNDAY = ("sun", "Sunday")


class Month(Choice):
    JANUARY = ("1", "January")
    FEBRUARY = ("2", "February")
    MARCH = ("3", "March")
    APRIL = ("4", "April")
    MAY = ("5", "May")
    JUNE = ("6", "June")
    JULY = ("7", "July")
    AUGUST = ("8", "August")
    SEPTEMBER = ("9", "September")
    OCTOBER = ("10", "October")
    NOVEMBER = ("11", "November")
    DECEMBER = ("12", "December")


class Drawn(Choice):
    START = ("start", "start")
    END = ("end", "end")


ALL_WEEK = tuple(Weekday)

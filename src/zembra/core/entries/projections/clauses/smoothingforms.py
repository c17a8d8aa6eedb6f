"""Words for the forms of exponential smoothing."""

from __future__ import annotations

from zembra.core.grammar import Choice


class ErrorForm(Choice):
    ADDITIVE = ("A", "additive", "errors add to the level")
    MULTIPLICATIVE = ("M", "multiplicative", "errors grow with the level; needs values above zero")


class TrendForm(Choice):
    NONE = ("N", "no")
    ADDITIVE = ("A", "an additive")
    DAMPED = ("Ad", "a damped", "an additive trend that levels off")


class SeasonForm(Choice):
    NONE = ("N", "no")
    ADDITIVE = ("A", "an additive", "the season adds to the level")
    MULTIPLICATIVE = ("M", "a multiplicative", "the season scales with the level; needs values above zero")

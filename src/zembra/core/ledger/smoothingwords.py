"""Forms of exponential smoothing, and who names them."""

from __future__ import annotations

from zembra.core.grammar import Choice


class FormBy(Choice):
    AICC = ("aicc", "the form that fits best", "lowest corrected Akaike criterion, AICc")
    HAND = ("hand", "a form named by hand")


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

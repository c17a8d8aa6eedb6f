"""Forms of exponential smoothing, and who names them."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from zembra.core.grammar import Choice, Clause
from zembra.core.projection.smoothing import Form


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


class SmoothingForm(Clause):
    def form(self, season: int | None) -> Form | None:
        """The form to fit, None where it is to be found."""
        return None


class BestForm(SmoothingForm):
    label: ClassVar[str] = "the form that fits best"
    tip: ClassVar[str] = "lowest corrected Akaike criterion, AICc"

    kind: Literal["aicc"] = "aicc"


class FormByHand(SmoothingForm):
    label: ClassVar[str] = "a form named by hand"

    kind: Literal["hand"] = "hand"
    error: Annotated[ErrorForm, Field(title="errors")] = ErrorForm.ADDITIVE
    trend: Annotated[TrendForm, Field(title="trend")] = TrendForm.DAMPED
    seasonality: Annotated[SeasonForm, Field(title="season")] = SeasonForm.ADDITIVE

    def template(self) -> str:
        return "{self} with {error} errors, {trend} trend and {seasonality} season"

    def form(self, season: int | None) -> Form | None:
        seasonal = self.seasonality.value if season else "N"
        return Form(self.error.value, self.trend.value[0], seasonal, self.trend is TrendForm.DAMPED)


FormWords = BestForm | FormByHand

"""Orders of the ARIMA models that are averaged."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

FEW, SOME = 10, 25  # points below which fewer forms are tried
FULL_SEASONS = 3  # and two more points, that seasonal forms need


@dataclass(frozen=True, slots=True)
class ArimaForm:
    """Orders (p, d, q), with a mean or drift if it has a constant.

    seasonal: times (0, 1, 1) at the season
    """

    p: int
    d: int
    q: int
    constant: bool = False
    seasonal: bool = False

    @property
    def parameters(self) -> int:
        """The number of estimated parameters, the error variance among them."""
        return self.p + self.q + self.seasonal + self.constant + 1

    def __str__(self) -> str:
        base = f"({self.p},{self.d},{self.q}){' with a constant' if self.constant else ''}"
        return f"{base} by season" if self.seasonal else base


def _forms(words: str, *, seasonal: bool = False) -> tuple[ArimaForm, ...]:
    return tuple(
        ArimaForm(int(word[0]), int(word[1]), int(word[2]), word.endswith("c"), seasonal) for word in words.split()
    )


_PLAIN = _forms("000c 100c 200c 101c 010 011 110 111 210 012 211 212 010c 011c 110c 111c 021 121 022")
_SEASONAL = _forms("000c 100c 200c 101c 100 010 011 110 111 210 012 211 212", seasonal=True)
_LONG = ArimaForm(2, 1, 2)


@lru_cache(maxsize=512)
def forms_for(points: int, season: int | None) -> tuple[ArimaForm, ...]:
    """Return the forms that so many points can distinguish."""
    most = 2 if points < FEW else 3 if points < SOME else 4
    plain = [
        form for form in _PLAIN
        if form.p + form.d + form.q + form.constant <= most or (form == _LONG and points >= SOME)
    ]  # fmt: skip
    by_season = season is not None and points >= FULL_SEASONS * season + 2
    return (*plain, *(_SEASONAL if by_season else ()))

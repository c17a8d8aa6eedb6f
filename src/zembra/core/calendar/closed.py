"""Closed days: public holidays of a country, by the holidays package."""

from __future__ import annotations

from datetime import date
from functools import lru_cache

from zembra.core.errors import Refusal


@lru_cache
def countries() -> list[str]:
    """Two-letter codes (ISO 3166-1) of the countries whose public holidays are known."""
    import holidays

    return sorted(code for code in holidays.list_supported_countries(include_aliases=False))


@lru_cache(maxsize=64)
def public_holidays(country: str, first_year: int, last_year: int) -> frozenset[date]:
    """The public holidays of a country in a range of years. Raises Refusal for an unknown country."""
    import holidays

    try:
        found = holidays.country_holidays(country, years=range(first_year, last_year + 1))
    except NotImplementedError:
        raise Refusal(
            f"No public holidays are known for “{country}”.", todo="Choose another country, or type the closed days."
        ) from None
    return frozenset(found)

"""Public holidays as closed days, by the holidays package."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date
from functools import lru_cache

from zembra.core.errors import Refusal


@lru_cache(maxsize=1)
def _places() -> dict[str, tuple[str, str | None]]:
    """Return (ISO 3166-1 code, subdivision) by name: "Germany", "Germany, Bayern". Subdivisions are named as in the
    package.
    """
    import holidays
    from babel import Locale

    names = Locale("en").territories
    found: dict[str, tuple[str, str | None]] = {}
    for code, parts in holidays.list_supported_countries(include_aliases=False).items():
        country = str(names.get(code, code))
        found[country] = (code, None)
        if parts:
            aliases = getattr(holidays.country_holidays(code), "subdivisions_aliases", {})
            name_of = {part: name for name, part in aliases.items()}
            found |= {f"{country}, {name_of.get(part, part)}": (code, part) for part in parts}
    return dict(sorted(found.items()))


def holiday_places() -> list[str]:
    """Return the names of places with known public holidays."""
    return list(_places())


def place_named(text: str) -> str:
    """Return the name of a place given by ISO code ("DE", "DE-BY"); any other text unchanged."""
    if len(text) > 6 or text != text.upper():
        return text
    code, _, part = text.partition("-")
    wanted = (code, part or None)
    return next((name for name, place in _places().items() if place == wanted), text)


def public_holidays(place: str, first_year: int, last_year: int) -> frozenset[date]:
    """Return the public holidays of a place in a range of years. Raises Refusal for an unknown place."""
    return frozenset(named_holidays(place, first_year, last_year))


@lru_cache(maxsize=64)
def named_holidays(place: str, first_year: int, last_year: int) -> Mapping[date, str]:
    """Return the names of the public holidays of a place in a range of years. Raises Refusal for an unknown place."""
    import holidays

    known = _places().get(place_named(place))
    if known is None:
        raise Refusal(
            f"No public holidays are known for “{place}”.", todo="Choose another place, or type the closed days."
        )
    code, part = known
    return dict(holidays.country_holidays(code, subdiv=part, years=range(first_year, last_year + 1)))

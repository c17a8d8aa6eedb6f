"""Months in words, in the languages of Unicode's locale data (the babel package)."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from functools import cache, lru_cache

MOST_WORDS = 40
# looked at first: most tables are in one of these, and loading every language takes a second
_COMMON = (
    "en", "de", "fr", "es", "it", "nl", "pt", "sv", "da", "nb", "fi", "pl", "cs", "sk", "hu", "ro", "hr", "sl", "sr",
    "bg", "ru", "uk", "el", "tr", "et", "lv", "lt", "is", "ga", "cy", "ca", "eu", "gl", "id", "ms", "vi", "he", "ar",
    "ja", "af", "sw", "sq", "az", "bs", "mk", "fo", "lb", "fil",
)  # fmt: skip
# short forms in wide use that the locale data do not list
_ALSO = {"sept": 9, "mrz": 3, "maerz": 3, "okt": 10, "dez": 12, "fevr": 2, "fev": 2, "aout": 8, "dec": 12}


def month_numbers(words: Iterable[str]) -> Mapping[str, int]:
    """Month numbers of the words that name months, keyed by the words in lower case.

    One language is to know them all where there is one: “listopad” is November in Polish and October
    in Croatian. Otherwise each word is taken as the first language that knows it has it.
    """
    wanted = frozenset(_plain(word) for word in words)
    if not wanted:
        return {}
    found = _among(wanted, _COMMON)
    # what is plain ASCII and in none of these is hardly a month at all
    if len(found) < len(wanted) <= MOST_WORDS and not all(word.isascii() for word in wanted):
        found = _among(wanted, _COMMON + _others())
    return found


def names_month(text: str) -> bool:
    plain = text.strip(" .")
    return plain.isalpha() and bool(month_numbers([plain]))


def _plain(word: str) -> str:
    return word.lower().strip(" .")


def _among(wanted: frozenset[str], languages: tuple[str, ...]) -> dict[str, int]:
    best: dict[str, int] = {}
    for language in languages:
        names = _names(language)
        known = {word: names[word] for word in wanted if word in names}
        if len(known) == len(wanted):
            return known
        best = {**known, **best}
    return {**{word: _ALSO[word] for word in wanted if word in _ALSO}, **best}


@cache
def _names(language: str) -> Mapping[str, int]:
    """Wide and short names, as they stand in a date and alone (genitive and nominative)."""
    from babel import Locale, UnknownLocaleError

    try:
        months = Locale.parse(language).months
    except (UnknownLocaleError, ValueError):
        return {}
    found: dict[str, int] = {}
    for use in ("format", "stand-alone"):
        for width in ("wide", "abbreviated"):
            for number, name in months[use][width].items():
                found.setdefault(_plain(name), int(number))
    # data of Latin scripts are often typed without their accents
    return {**{_unaccented(name): number for name, number in found.items()}, **found}


def _unaccented(text: str) -> str:
    import unicodedata

    return "".join(c for c in unicodedata.normalize("NFD", text) if not unicodedata.combining(c))


@lru_cache(maxsize=1)
def _others() -> tuple[str, ...]:
    from babel.localedata import locale_identifiers

    return tuple(sorted(name for name in locale_identifiers() if "_" not in name and name not in _COMMON))

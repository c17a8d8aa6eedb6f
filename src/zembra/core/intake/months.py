"""Month names in the languages of Unicode's locale data."""

from __future__ import annotations

import json
import unicodedata
from collections.abc import Iterable, Mapping
from functools import cache, lru_cache
from itertools import islice
from pathlib import Path

MOST_WORDS = 40
# looked at first: most tables are in one of these
COMMON = (
    "en", "de", "fr", "es", "it", "nl", "pt", "sv", "da", "nb", "fi", "pl", "cs", "sk", "hu", "ro", "hr", "sl", "sr",
    "bg", "ru", "uk", "el", "tr", "et", "lv", "lt", "is", "ga", "cy", "ca", "eu", "gl", "id", "ms", "vi", "he", "ar",
    "ja", "af", "sw", "sq", "az", "bs", "mk", "fo", "lb", "fil",
)  # fmt: skip
# short forms in wide use that the locale data do not list
_ALSO = {"sept": 9, "mrz": 3, "maerz": 3, "okt": 10, "dez": 12, "fevr": 2, "fev": 2, "aout": 8, "dec": 12}
# written by scripts/monthnames.py
_NAMES = Path(__file__).with_name("month_names.json")


def month_numbers(words: Iterable[str]) -> Mapping[str, int]:
    """Return month numbers of words, keyed in lower case. If possible one language explains all, as “listopad” is
    November in Polish and October in Croatian; otherwise the first language that knows each word.
    """
    wanted = frozenset(plain(word) for word in words)
    if not wanted:
        return {}
    found = _among(wanted, islice(_languages(), len(COMMON)))
    # an ASCII word in none of these is hardly a month
    if len(found) < len(wanted) <= MOST_WORDS and not all(word.isascii() for word in wanted):
        found = _among(wanted, _languages())
    return found


def names_month(text: str) -> bool:
    word = text.strip(" .")
    return word.isalpha() and bool(month_numbers([word]))


def plain(word: str) -> str:
    """Normalise a word for lookup."""
    return word.lower().strip(" .")


@cache
def month_words() -> frozenset[str]:
    """Return month names of all languages."""
    return frozenset(word for names in _languages() for word in names)


@lru_cache(maxsize=5_000)
def without_accents(word: str) -> str:
    return "".join(letter for letter in unicodedata.normalize("NFD", word) if not unicodedata.combining(letter))


def _among(wanted: frozenset[str], languages: Iterable[Mapping[str, int]]) -> dict[str, int]:
    best: dict[str, int] = {}
    accents = not all(word.isascii() for word in wanted)
    for names in languages:
        known = {word: names[word] for word in wanted if word in names}
        if accents and len(known) < len(wanted):
            # accents are often left out, or set in another way; one language is to know all words then
            bare = {without_accents(name): number for name, number in names.items()}
            if all(without_accents(word) in bare for word in wanted):
                return {word: bare[without_accents(word)] for word in wanted}
        if len(known) == len(wanted):
            return known
        best = {**known, **best}
    return {**{word: _ALSO[word] for word in wanted if word in _ALSO}, **best}


@cache
def _languages() -> tuple[Mapping[str, int], ...]:
    """Return the words of each language, common ones first."""
    return tuple(json.loads(_NAMES.read_text(encoding="utf-8")).values())

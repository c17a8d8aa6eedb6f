"""Months in words, in every language of Unicode's locale data (the babel package).

They are written out once: to load all languages takes a second and fifty megabytes of every process that reads dates.
"""

from __future__ import annotations

import json
import unicodedata

from babel import Locale, UnknownLocaleError
from babel.localedata import locale_identifiers

from zembra.core.intake.months import COMMON, plain


def month_names() -> str:
    """JSON: by language, the common ones first, the number of the month that each of its words names."""
    others = sorted(name for name in locale_identifiers() if "_" not in name and name not in COMMON)
    names = {language: _names(language) for language in (*COMMON, *others)}
    lines = (
        f"{json.dumps(language)}: {json.dumps(found, ensure_ascii=False)}" for language, found in names.items() if found
    )
    return "{\n" + ",\n".join(lines) + "\n}\n"


def _names(language: str) -> dict[str, int]:
    """Wide and short names, as they stand in a date and alone (genitive and nominative)."""
    try:
        months = Locale.parse(language).months
    except (UnknownLocaleError, ValueError):
        return {}
    found: dict[str, int] = {}
    for use in ("format", "stand-alone"):
        for width in ("wide", "abbreviated"):
            for number, name in months[use][width].items():
                found.setdefault(plain(name), int(number))
    # data of Latin scripts are often typed without their accents
    return {**{_unaccented(name): number for name, number in found.items()}, **found}


def _unaccented(text: str) -> str:
    return "".join(c for c in unicodedata.normalize("NFD", text) if not unicodedata.combining(c))

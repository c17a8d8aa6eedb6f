"""Write numbers, dates and fixed texts of a picture in the reader's language."""

from __future__ import annotations

import re
from collections.abc import Mapping
from datetime import date
from functools import lru_cache

from pydantic import BaseModel

from zembra.core.dress.phrases import EVERY_PHRASE, PHRASES
from zembra.core.english import spoken_date

OURS = "English"
NARROW = "\N{THIN SPACE}"
MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
_DAY = re.compile(rf"\b(?:(\d{{1,2}}) )?({'|'.join(MONTHS)}) (\d{{4}})\b")
_NUMBER = re.compile(r"(?<![\w.,-])\d+(?:[\u2009\u202f\xa0 ]\d{3})*(?:\.\d+)?(?![\w.]*\d)")
_GROUPS = re.compile(r"[\u2009\u202f\xa0 ]")
SAMPLE_DAY, SAMPLE_YEAR = 27, 2222  # that no pattern writes of itself


class Tongue(BaseModel):
    """How the drawing writes in a language other than English.

    decimal, group: number marks
    months: of a year; days: of each month, with {d} for the day; quarters; dates, year_months, year_quarters with
    {y} for the year
    words: translations by English text
    """

    decimal: str
    group: str
    months: list[str]
    days: list[str]
    quarters: list[str]
    dates: list[str]
    year_months: list[str]
    year_quarters: list[str]
    words: dict[str, str]


@lru_cache(maxsize=1)
def languages() -> dict[str, str]:
    """Return language codes by English name: English, translated ones, others."""
    from babel import Locale, localedata

    names = Locale("en").languages
    known = {str(names[code]): code for code in localedata.locale_identifiers() if code in names and code != "en"}
    ours = {str(names[code]): code for code in PHRASES}
    return {OURS: "", **ours, **dict(sorted(known.items()))}


def language_named(text: str) -> str:
    """Return the English name of a language given by name or code. Raises ValueError."""
    if text == OURS:
        return OURS  # the usual case needs no list, which takes a moment to load
    wanted = text.strip().casefold()
    for name, code in languages().items():
        if wanted in (name.casefold(), code.casefold().replace("_", "-"), code.casefold()) and wanted:
            return name
    raise ValueError("a language is one of the list, such as German, or its code, such as de")


def own_words(text: str | None) -> dict[str, str]:
    """Parse translations such as “set aside: verworfen; projected: Prognose”. Raises ValueError."""
    found: dict[str, str] = {}
    for pair in re.split(r"[;\n]", text or ""):
        if not pair.strip():
            continue
        english, colon, said = pair.partition(":")
        known = next((phrase for phrase in EVERY_PHRASE if phrase.casefold() == english.strip().casefold()), None)
        if known is None or not colon or not said.strip():
            raise ValueError(
                f"“{pair.strip()}” is not written like “set aside: verworfen”, or is no word of the key; these are "
                f"{', '.join(phrase for phrase in EVERY_PHRASE if '{' not in phrase)}"
            )
        found[known] = said.strip()
    return found


class Speech:
    """Writes for a reader.

    language: English name
    own: the user's translations
    """

    def __init__(self, language: str = OURS, own: str | None = None) -> None:
        self.code = "" if language == OURS else languages()[language_named(language)]
        self._words: Mapping[str, str] = {**PHRASES.get(self.code.split("_")[0], {}), **own_words(own)}

    def say(self, english: str, *, one: str = "", **fill: object) -> str:
        """Translate a phrase.

        one: the English text for n = 1
        """
        said = self._words.get(english)
        if said is None:
            said = one if one and fill.get("n") == 1 else english
        return said.format(**fill) if fill else said

    def day(self, day: date) -> str:
        return self._dated("yMMMd", day) if self.code else spoken_date(day)

    def span(self, least: int, most: int, unit: str, one: str, many: str) -> str:
        """Format “6 to 12 months”.

        unit: as Babel names it; one, many: in English
        """
        far = f"{least}" if least == most else f"{least} to {most}"
        if not self.code:
            return f"{far} {one if most == 1 else many}"
        from babel.units import format_unit

        said = format_unit(most, f"duration-{unit}", locale=self.code)
        if "duration-" in said:  # it has no word for it
            return f"{far} {one if most == 1 else many}"
        return said if least == most else f"{least}\N{EN DASH}{said}"

    def rewritten(self, text: str) -> str:
        """Rewrite numbers and dates in a text that Zembra wrote."""
        if not self.code:
            return text
        decimal, group = self.marks()

        def number(found: re.Match[str]) -> str:
            whole, point, rest = found[0].partition(".")
            return _GROUPS.sub(group, whole) + (decimal + rest if point else "")

        def when(found: re.Match[str]) -> str:
            day = date(int(found[3]), MONTHS.index(found[2]) + 1, int(found[1] or 1))
            return self._dated("yMMMd" if found[1] else "yMMM", day)

        return _DAY.sub(when, _NUMBER.sub(number, text))

    def tongue(self) -> Tongue | None:
        """Return what the drawing needs, or None for English."""
        if not self.code and not self._words:
            return None
        decimal, group = self.marks()
        firsts = [date(SAMPLE_YEAR, month, SAMPLE_DAY) for month in range(1, 13)]
        if not self.code:
            months, days = list(MONTHS), [f"{{d}} {month}" for month in MONTHS]
            quarters = [f"Q{n}" for n in range(1, 5)]
            of_years = [f"{{y}} Q{n}" for n in range(1, 5)]
            dates = [f"{{d}} {month} {{y}}" for month in MONTHS]
            year_months = [f"{month} {{y}}" for month in MONTHS]
        else:
            from babel.dates import format_date

            months = [format_date(day, "MMM", locale=self.code) for day in firsts]

            def pattern(skeleton: str, day: date) -> str:
                return self._dated(skeleton, day).replace(str(SAMPLE_YEAR), "{y}").replace(str(SAMPLE_DAY), "{d}")

            days = [pattern("MMMd", day) for day in firsts]
            dates = [pattern("yMMMd", day) for day in firsts]
            year_months = [pattern("yMMM", day) for day in firsts]
            quarters = [format_date(day, "QQQ", locale=self.code) for day in firsts[::3]]
            of_years = [pattern("yQQQ", day) for day in firsts[::3]]
        return Tongue(
            decimal=decimal,
            group=group,
            months=months,
            days=days,
            quarters=quarters,
            dates=dates,
            year_months=year_months,
            year_quarters=of_years,
            words=dict(self._words),
        )

    def _dated(self, skeleton: str, day: date) -> str:
        from babel.dates import format_date, format_skeleton

        try:
            return str(format_skeleton(skeleton, day, locale=self.code))
        except KeyError:
            # few small languages have no such pattern
            return str(format_date(day, "medium", locale=self.code))

    def marks(self) -> tuple[str, str]:
        """Return the decimal and the thousands mark."""
        if not self.code:
            return ".", NARROW
        from babel.numbers import get_decimal_symbol, get_group_symbol

        group = get_group_symbol(self.code, numbering_system="latn")
        # spaces in numbers are narrow everywhere in a picture
        return get_decimal_symbol(self.code, numbering_system="latn"), NARROW if group.isspace() else group

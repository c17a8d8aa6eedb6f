"""Respell dates that no format matches: other scripts and eras, ranges, words around a date.

Only cells that no form reads are respelled. Of a range the first day counts.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from datetime import date
from functools import lru_cache

from zembra.core.intake.months import month_numbers
from zembra.core.intake.numbercell import SCRIPT_DIGITS

# signs of two years that are one: what is added to a year of the calendar to have it in the common one
BUDDHIST = -543
_ERAS = {
    "令和": 2018,
    "平成": 1988,
    "昭和": 1925,
    "大正": 1911,
    "民國": 1911,
    "民国": 1911,
    "R": 2018,
    "H": 1988,
    "S": 1925,
}
_DIGITS = str.maketrans({letter: str(n % 10) for n, letter in enumerate(SCRIPT_DIGITS)})
_HAN = str.maketrans("〇零一二三四五六七八九", "00123456789")
_THAI = re.compile(r"[\u0e01-\u0e5b]")
_ORDINALS = {
    "first": 1, "second": 2, "third": 3, "fourth": 4, "erstes": 1, "zweites": 2, "drittes": 3, "viertes": 4, "premier": 1,
    "deuxième": 2, "troisième": 3, "quatrième": 4, "primer": 1, "segundo": 2, "tercer": 3, "cuarto": 4,
}  # fmt: skip
_BEFORE = re.compile(
    r"(?i)(?:(?:w/[ceb]|wc|we|wb|week (?:commencing|beginning|starting|ending|ended|of|to)|(?:month|quarter|year|period) (?:ended|ending|to)"
    r"|(?:12|3|6) months (?:to|ended)|as (?:of|at)|to|bis|stand|per|am)[:. ]\s*)"
)
_L = r"[^\W\d_]"


def _in_era(match: re.Match[str]) -> str:
    year = 1 if match[2] == "元" else int(match[2])
    return f"{_ERAS[match[1]] + year}年"


def _short_era(match: re.Match[str]) -> str:
    return f"{_ERAS[match[1]] + int(match[2])}-{int(match[3]):02d}"


def _iso_day(match: re.Match[str]) -> str:
    try:
        return date.fromisocalendar(int(match[1]), int(match[2]), int(match[3])).isoformat()
    except ValueError:
        return match[0]


def _short_week(match: re.Match[str]) -> str:
    return f"20{match[2]}-W{int(match[1]):02d}"


def _part(match: re.Match[str]) -> str:
    number = match[1].lower()
    letter = "H" if re.match(r"(?i)h|s", match[2]) else "Q"
    return f"{letter}{_ORDINALS.get(number, number)} {match[3]}"


def _first_day(match: re.Match[str]) -> str:
    """Add the year to the first day of a range; the previous year if its month is later."""
    first, second, year = match[1].strip(), match[2].strip(), int(match[3])
    months = [_month_in(end) for end in (first, second)]
    if re.fullmatch(rf"{_L}+\.?", first) and not all(months):
        return match[0]
    earlier = all(months) and months[0] > months[1]
    return f"{first.rstrip(',')} {year - earlier}"


def _month_in(text: str) -> int:
    if dotted := re.fullmatch(r"\d{1,2}\.(\d{1,2})\.?", text):
        return int(dotted[1])
    word = re.search(rf"{_L}{{3,}}", text)
    return month_numbers([word[0]]).get(word[0].lower(), 0) if word else 0


_DAY = r"(?:\d{4}-\d{2}-\d{2}|\d{4}/\d{1,2}/\d{1,2}|\d{1,2}[./]\d{1,2}[./]\d{2,4}|\d{8}|\d{1,2} [^\W\d_]+\.? \d{4}|[^\W\d_]+\.? \d{1,2}, \d{4})"
_RULES: tuple[tuple[re.Pattern[str], Callable[[re.Match[str]], str]], ...] = (
    (re.compile(r"^([RHS])(\d{1,2})\.(0?[1-9]|1[0-2])$"), _short_era),
    (re.compile(r"^(\d{4})-?W(\d{2})-?([1-7])$"), _iso_day),
    (re.compile(r"^(?i:kw|wk|w|week|sem\.?|uke|v\.?)[ .]?(\d{1,2})[/' \-]+(\d{2})$"), _short_week),
    (
        re.compile(
            rf"^(\d|{_L}+)(?:st|nd|rd|th|er|\.)? (half(?:[ -]?year)?|halbjahr|semestre|semester|quarter|quartal|trimestre)(?: of)? (\d{{4}})$",
            re.IGNORECASE,
        ),
        _part,
    ),
    (re.compile(rf"^({_DAY}) ?(?:/|to|bis|au|al|–|—|-| - ) ?{_DAY}$"), lambda match: match[1]),
    # 2–8 Dec 2024
    (re.compile(rf"^(\d{{1,2}}) ?[-–] ?\d{{1,2}}( {_L}+\.? \d{{4}})$"), lambda match: match[1] + match[2]),
    # Dec 2–8, 2024
    (re.compile(rf"^({_L}+\.? \d{{1,2}}) ?[-–] ?\d{{1,2}}(, \d{{4}})$"), lambda match: match[1] + match[2]),
    # 02.12.–08.12.2024
    (
        re.compile(r"^(\d{1,2}\.\d{1,2}\.) ?[-–] ?(\d{1,2}\.\d{1,2}\.)(\d{4})$"),
        lambda match: _first_day(match).replace(" ", ""),
    ),
    # 28 Jan – 3 Feb 2025, Jan 28 – Feb 3, 2025, Jan–Mar 2025
    (
        re.compile(
            rf"^(\d{{1,2}} {_L}+\.?|{_L}+\.?(?: \d{{1,2}})?) ?[-–/] ?(\d{{1,2}} {_L}+\.?|{_L}+\.?(?: \d{{1,2}})?),? (\d{{4}})$"
        ),
        _first_day,
    ),
)


_RANGES = tuple(pattern for pattern, _ in _RULES[4:])


@lru_cache(maxsize=20_000)
def respelled(text: str) -> str:
    """Respell a date for a known format, or return it unchanged."""
    said = text.strip()
    if not said.isascii():
        said = _in_ascii(said)
    said = _BEFORE.sub("", said, count=1) if _BEFORE.match(said) else said
    for pattern, made in _RULES:
        match = pattern.match(said)
        if match is not None:
            return made(match)
    return said


def _in_ascii(text: str) -> str:
    thai = bool(_THAI.search(text))
    said = text.translate(_DIGITS)
    said = re.sub(r"(令和|平成|昭和|大正|民國|民国)\s?(\d{1,3}|元)年", _in_era, said)
    said = said.replace("년", "年").replace("월", "月").replace("일", "日").replace("年 ", "年").replace("月 ", "月")
    if "年" in said and re.search("[〇零一二三四五六七八九十]", said):
        said = re.sub(r"[〇零一二三四五六七八九十]+", _han_number, said)
    if thai:
        named = re.match(r"^([\u0e01-\u0e4e.]+)\s?(\d{4})$", said)
        if named and (month := month_numbers([named[1]]).get(named[1].lower().strip(" ."))):
            said = f"{named[2]}-{month:02d}"
        said = re.sub(r"\b(2[4-6]\d{2})\b", lambda year: str(int(year[1]) + BUDDHIST), said)
    return said


def _han_number(match: re.Match[str]) -> str:
    """Convert Chinese numerals: 二〇二五 is 2025, 十二 is 12."""
    if "十" not in match[0]:
        return match[0].translate(_HAN)
    tens, ones = match[0].split("十", 1)
    return str(int(tens.translate(_HAN) or 1) * 10 + int(ones.translate(_HAN) or 0))


def respelled_how(text: str) -> str | None:
    """Describe what respelling assumed, or return None."""
    plain = text.strip()
    if _THAI.search(plain) and re.search(r"2[4-6]\d{2}", plain.translate(_DIGITS)):
        return "Years are of the Buddhist calendar, 543 ahead of the common one."
    if re.search("令和|平成|昭和|大正|民國|民国", plain) or re.fullmatch(r"[RHS]\d{1,2}\.\d{1,2}", plain):
        return "Years are of an era, and are read as those of the common calendar."
    if any(pattern.match(plain) for pattern in _RANGES):
        return "Dates are from one day to another, or one month; each counts at the first."
    return None

"""Words that may stand beside a number: currencies, magnitudes, units, footnotes, qualifiers."""

from __future__ import annotations

import re
from enum import Enum
from functools import cache

CURRENCY_SIGNS = (
    "US$", "A$", "C$", "NZ$", "HK$", "S$", "R$", "$", "€", "£", "¥", "₹", "₽", "₩", "₺", "₴", "₪", "₫", "฿", "₱", "₦", "₸", "₡",
    "zł", "Kčs", "Kč", "Sk", "kr.", "kr", "Ft", "lei", "лв.", "лв", "руб.", "руб", "р.", "Rs.", "Rs", "Fr.", "円", "元", "원", "￥",
)  # fmt: skip
CURRENCY_CODES = (
    "USD", "EUR", "GBP", "CHF", "JPY", "SEK", "NOK", "DKK", "ISK", "PLN", "CZK", "HUF", "RON", "BGN", "RSD", "TRY", "RUB", "UAH",
    "CAD", "AUD", "NZD", "MXN", "BRL", "ARS", "CLP", "COP", "PEN", "CNY", "RMB", "HKD", "SGD", "KRW", "TWD", "THB", "IDR", "MYR",
    "PHP", "VND", "INR", "PKR", "BDT", "LKR", "ZAR", "NGN", "KES", "EGP", "MAD", "AED", "SAR", "QAR", "KWD", "ILS", "KZT", "GEL",
)  # fmt: skip

# a size by itself, whatever the column holds
_THOUSAND, _MILLION, _BILLION = 1e3, 1e6, 1e9
SIZES = {
    "k": _THOUSAND, "tsd": _THOUSAND, "tsd.": _THOUSAND, "thousand": _THOUSAND, "thou": _THOUSAND, "tys.": _THOUSAND, "tys": _THOUSAND,
    "tis.": _THOUSAND, "тыс.": _THOUSAND, "тыс": _THOUSAND, "千": _THOUSAND,
    "万": 1e4, "萬": 1e4, "만": 1e4, "lakh": 1e5, "lakhs": 1e5, "lac": 1e5, "crore": 1e7, "crores": 1e7, "億": 1e8, "亿": 1e8, "억": 1e8,
    "M": _MILLION, "mn": _MILLION, "mn.": _MILLION, "mio": _MILLION, "mio.": _MILLION, "mln": _MILLION, "mln.": _MILLION, "mil.": _MILLION,
    "million": _MILLION, "millions": _MILLION, "millionen": _MILLION, "млн": _MILLION, "млн.": _MILLION,
    "bn": _BILLION, "bn.": _BILLION, "billion": _BILLION, "billions": _BILLION, "mrd": _BILLION, "mrd.": _BILLION, "mld": _BILLION,
    "mld.": _BILLION, "md": _BILLION, "mia": _BILLION, "mia.": _BILLION, "mlrd": _BILLION, "млрд": _BILLION, "млрд.": _BILLION, "trn": 1e12,
}  # fmt: skip
# a size where a currency or another size says that sizes are meant; else a unit: metres, kelvin, litres, tonnes
SIZES_BESIDE_OTHERS = {
    "m": _MILLION, "K": _THOUSAND, "B": _BILLION, "T": 1e12, "t": 1e12, "L": 1e5, "Cr": 1e7, "Cr.": 1e7, "MM": _MILLION,
}  # fmt: skip
_CASE_COUNTS = {"k", "M", "md"}  # short enough to be something else in other letters

# units of one thing, each as so many of the first
FAMILIES = (
    {"kg": 1.0, "g": 0.001, "t": 1000.0, "lb": 0.45359237, "lbs": 0.45359237, "mg": 1e-6},
    {"m": 1.0, "km": 1000.0, "cm": 0.01, "mm": 0.001, "mi": 1609.344, "ft": 0.3048, "in": 0.0254},
    {"l": 1.0, "L": 1.0, "ml": 0.001, "cl": 0.01, "hl": 100.0, "m³": 1000.0, "m3": 1000.0},
    {"B": 1.0, "KB": 1024.0, "kB": 1024.0, "MB": 1024.0**2, "GB": 1024.0**3, "TB": 1024.0**4},
    {"Wh": 1.0, "kWh": 1e3, "MWh": 1e6, "GWh": 1e9, "TWh": 1e12},
    {"W": 1.0, "kW": 1e3, "MW": 1e6, "GW": 1e9},
    {"s": 1.0, "sec": 1.0, "min": 60.0, "h": 3600.0, "hrs": 3600.0, "ms": 0.001},
    {"%": 1.0, "‰": 0.1, "bp": 0.01, "bps": 0.01, "": 100.0},
)


class Standing(Enum):
    """How certain a number is, by the word beside it."""

    PROVISIONAL = "provisional"
    ESTIMATED = "estimated"
    FORECAST = "a forecast"
    REVISED = "revised"
    FLAGGED = "flagged"


_STANDING = {
    Standing.PROVISIONAL: "p|pr|pv|prov|provisional|prelim|preliminary|vorl|vorläufig|provisoire|provisorio",
    Standing.ESTIMATED: "e|est|estimate|estimated|geschätzt|ca|approx|about|~|≈",
    Standing.FORECAST: "f|fc|fcst|forecast|proj|projected",
    Standing.REVISED: "r|rev|revised|rv",
    Standing.FLAGGED: "[bcdsuzn]",
}
_STANDINGS = tuple((standing, re.compile(rf"(?i)(?:{words})\.?")) for standing, words in _STANDING.items())
CREDIT = re.compile(r"(?i)(?:cr|dr|credit|debit)\.?")
_LENGTH = r"(?:[kcdm]?m|ft|in|yd)[23]"  # of which a digit is the power
UNIT = re.compile(
    rf"[°µμ]?(?:{_LENGTH}(?!\w)|[^\W\d_]{{1,12}}[²³]?)\.?(?:/\d{{0,3}}(?:{_LENGTH}(?!\w)|[^\W\d_]{{1,8}}[²³]?))?"
)


@cache
def size_of(word: str, *, among_sizes: bool) -> float | None:
    """Return the factor of a magnitude word, or None.

    among_sizes: whether a currency or another magnitude occurs in the column
    """
    if among_sizes and word in SIZES_BESIDE_OTHERS:
        return SIZES_BESIDE_OTHERS[word]
    if word in SIZES:
        return SIZES[word]
    lower = word.lower()
    return SIZES.get(lower) if lower not in _CASE_COUNTS and word not in SIZES_BESIDE_OTHERS else None


@cache
def standing_of(word: str) -> Standing | None:
    """Return the certainty that a word or letter expresses."""
    return next((standing for standing, words in _STANDINGS if words.fullmatch(word)), None)


def factors_to(unit: str, units: tuple[str, ...]) -> dict[str, float] | None:
    """Return factors that convert units to `unit`, or None if they are incompatible."""
    for family in FAMILIES:
        if unit in family and all(other in family for other in units):
            return {other: family[other] / family[unit] for other in units if other != unit}
    return None


def is_currency(unit: str) -> bool:
    """Return whether a unit is a currency, possibly per something (€/l)."""
    money = unit.partition("/")[0]
    return money in CURRENCY_SIGNS or money in CURRENCY_CODES


def is_known_unit(unit: str) -> bool:
    """Return whether a unit is empty, a currency, or of a known family."""
    return is_currency(unit) or any(unit in family for family in FAMILIES)

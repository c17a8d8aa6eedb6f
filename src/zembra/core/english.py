"""English words for counts, lists, articles, numbers and dates."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import date, datetime

_LABEL = re.compile(r"^(\d{4})-(\d{2})(?:-(\d{2}))?(?:T(\d{2}:\d{2}))?([+-]\d{2}:\d{2})?$")
_PART_LABEL = re.compile(r"^(\d{4}(?:/\d{2})?)-([QW]\d+)$")
_VOWEL = re.compile(r"(?i)^\s*(?:[aeio]|u(?!ni|se|ti)|8|11\b|18\b|hour|honest)")


def counted(count: int, noun: str, many: str = "") -> str:
    """Return “1 row”, “3 rows”."""
    return f"{number(count)} {noun if count == 1 else many or f'{noun}s'}"


def listed(words: Sequence[str]) -> str:
    """Return 'a', 'a and b', 'a, b and c'."""
    if len(words) < 2:
        return "".join(words)
    return f"{', '.join(words[:-1])} and {words[-1]}"


def number(value: float) -> str:
    """Format a number for reading: grouped thousands, no needless decimals, a true minus sign."""
    text = f"{value:,.10g}" if abs(value) < 1e10 else f"{value:,.0f}"
    return text.replace(",", " ").replace("-", "−", 1) if text.startswith("-") else text.replace(",", " ")


def spoken_date(day: date | datetime) -> str:
    return f"{day.day} {day:%b %Y}{day:, %H:%M}" if isinstance(day, datetime) else f"{day.day} {day:%b %Y}"


def spoken_label(label: str) -> str:
    """Format the label of a period for sentences: 2026-03-14 becomes 14 Mar 2026."""
    day = _LABEL.match(label)
    if day:
        month = date(2000, int(day[2]), 1)
        said = f"{f'{int(day[3])} ' if day[3] else ''}{month:%b} {day[1]}"
        return f"{said}, {day[4]}{' summer time' if day[5] else ''}" if day[4] else said
    part = _PART_LABEL.match(label)
    return f"{part[2].replace('W', 'week ')} {part[1]}" if part else label


def upper_first(text: str) -> str:
    """Capitalise the first letter only."""
    return text[:1].upper() + text[1:]


def article(noun: str) -> str:
    """Return “a” or “an”, by pronunciation."""
    return "an" if _VOWEL.match(noun) else "a"


def with_article(noun: str) -> str:
    """Return “a linear trend”, “an exponential trend”."""
    return f"{article(noun)} {noun}"

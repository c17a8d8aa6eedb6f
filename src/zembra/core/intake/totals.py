"""Recognise total rows and columns by their first word."""

from __future__ import annotations

import re

import polars as pl

# in the languages tables often come in; up to two words may stand before ("Grand total", "2015 total")
_WORDS = (
    "total", "totals", "totale", "totali", "totaal", "totalt", "totais", "totales", "totaux", "subtotal", "subtotals", "subtotaal",
    "sous-total", "sub-total", "sum", "sums", "summe", "summa", "somme", "somma", "suma", "soma", "gesamt", "insgesamt",
    "zwischensumme", "gesamtsumme", "razem", "ogółem", "ogolem", "łącznie", "lacznie", "celkem", "součet", "soucet", "mezisoučet",
    "spolu", "összesen", "osszesen", "yhteensä", "i alt", "ialt", "parziale", "toplam", "итого", "всего", "average", "averages",
    "mean", "durchschnitt", "mittelwert", "moyenne", "promedio", "media", "média", "gemiddelde", "średnia", "průměr",
)  # fmt: skip


def _pattern(letter: str) -> str:
    """letter: the class of letters, which the two engines write in their own way. "Average fare" names a measure: behind
    the word may stand a date, a number or nothing."""
    behind = rf"(?:[\s:.,()\-/–]|\d|{letter}{{1,12}}\.?\s*\d{{2,4}})*"
    return rf"(?i)^\W*(?:\d{{2,4}}\W+|(?:{letter}|\.)+\s+){{0,2}}(?:{'|'.join(_WORDS)}){behind}$"


TOTALS = _pattern(r"\p{L}")
_TOTALS = re.compile(_pattern(r"[^\W\d_]"))


def is_total(text: str) -> bool:
    """Whether a text says that its row or column adds up others."""
    return bool(_TOTALS.match(text.strip()))


def without_totals(cells: pl.Series) -> pl.Series:
    """The filled cells of a column, without those that say that their row adds up others."""
    filled = cells.drop_nulls()
    return filled.filter(~filled.str.strip_chars().str.contains(TOTALS))

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
    """Return the pattern of total words. "Average fare" names a measure: only a date, number or nothing may follow
    the word.

    letter: the class of letters in the syntax of the engine
    """
    behind = rf"(?:[\s:.,()\-/–]|\d|{letter}{{1,12}}\.?\s*\d{{2,4}})*"
    return rf"(?i)^\W*(?:\d{{2,4}}\W+|(?:{letter}|\.)+\s+){{0,2}}(?:{'|'.join(_WORDS)}){behind}$"


TOTALS = _pattern(r"\p{L}")
_TOTALS = re.compile(_pattern(r"[^\W\d_]"))


def is_total(text: str) -> bool:
    """Return whether a text names a total."""
    return bool(_TOTALS.match(text.strip()))


def without_totals(cells: pl.Series) -> pl.Series:
    """Return filled cells that name no total."""
    filled = cells.drop_nulls()
    return filled.filter(~filled.str.strip_chars().str.contains(TOTALS))

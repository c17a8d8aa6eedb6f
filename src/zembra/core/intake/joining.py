"""Join dates and names that are spread over several columns."""

from __future__ import annotations

import re
import unicodedata
from collections import Counter
from collections.abc import Sequence

import polars as pl

from zembra.core.intake.dateforms import DateForm
from zembra.core.intake.dates import forms_like, read_dates
from zembra.core.intake.howread import DatesHow, Down, HowRead, Names, SeriesHow, TimesHow
from zembra.core.intake.table import TextTable

FEWEST_ACROSS = 3
_NAME_YEAR = re.compile(r"(?<![\d.,])(?:1[5-9]|20|21)\d{2}(?![\d.,])")
_BETWEEN = re.compile(r"[\s_\u2010-\u2015\u2212-]+")


def joined(columns: Sequence[pl.Series], between: str = " ") -> pl.Series:
    """Concatenate the texts of each row; empty if one is."""
    frame = pl.DataFrame({str(n): column.str.strip_chars() for n, column in enumerate(columns)})
    return frame.select(pl.concat_str(pl.all(), separator=between)).to_series()


def filled_down(cells: pl.Series, down: Down) -> pl.Series:
    return cells if down is Down.OWN else cells.forward_fill()


def date_texts(table: TextTable, how: DatesHow) -> pl.Series:
    """Return the date text of each row."""
    assert how.column is not None
    first = filled_down(table.cells[how.column], how.down)
    if not how.more or how.times is not TimesHow.WRITTEN:
        return first
    # whole numbers often come from a workbook or a program with a decimal point of their own
    parts = [first, *(filled_down(table.cells[name], how.down) for name in how.more)]
    return joined([part.str.strip_chars().str.replace(r"^(\d+)\.0+$", "$1") for part in parts])


def series_texts(table: TextTable, how: SeriesHow) -> pl.Series | None:
    """Return the series name of each row, or None without such a column."""
    if how.column is None:
        return None
    texts = filled_down(table.cells[how.column], how.down)
    if how.more:
        parts = [texts, *(filled_down(table.cells[name], how.down) for name in how.more)]
        texts = joined([part.fill_null("(no name)") for part in parts], ", ")
    if how.called:
        texts = texts.str.strip_chars().replace(how.renamed)
    if how.names is Names.WRITTEN:
        return texts
    usual = {name: names[0] for names in alike_names(texts) for name in names[1:]}
    return texts.str.strip_chars().replace(usual)


def alike_names(texts: pl.Series) -> list[list[str]]:
    """Group names that differ in case, spaces and dashes only, the most frequent first."""
    written = texts.str.strip_chars().drop_nulls().rename("name").to_frame().group_by("name", maintain_order=True).len()
    alike: dict[str, list[str]] = {}
    for name in written.sort("len", descending=True, maintain_order=True)["name"]:
        alike.setdefault(folded(name), []).append(name)
    return [names for names in alike.values() if len(names) > 1]


def folded(name: str) -> str:
    """Normalise case, spaces and dashes."""
    return _BETWEEN.sub(" ", unicodedata.normalize("NFKC", name).casefold()).strip()


def periods_across(table: TextTable, how: HowRead) -> list[str]:
    """Return the columns named by periods, or by parts of dates."""
    if how.dates.column is None:
        found = period_columns(table.columns, how.dates.form)
        names = found[1] if found else []
    else:
        taken = {how.dates.column, *how.dates.more, how.series.column, *how.series.more}
        names = [name for name in table.columns if name not in taken]
        # hours that run across are named one by one
        if how.dates.times is TimesHow.WRITTEN:
            names = parts_of_date(names, how.dates.form)
    return [name for name in names if not how.values.columns or name in how.values.columns]


_BESIDE = ("2024 {}", "{} 2024", "1 {}", "{} 1", "Jan {}")


def parts_of_date(names: Sequence[str], form: DateForm) -> list[str]:
    """Return column names that form a date with a year, month or quarter beside them."""
    tried = pl.Series([beside.format(name) for name in names for beside in _BESIDE], dtype=pl.String)
    makes = read_dates(tried, form).is_not_null().to_list()
    return [name for n, name in enumerate(names) if any(makes[n * len(_BESIDE) : (n + 1) * len(_BESIDE)])]


def period_columns(
    names: Sequence[str], form: DateForm | None = None, *, fewest: int = FEWEST_ACROSS
) -> tuple[DateForm, list[str]] | None:
    """Return format and columns whose names are periods; None for fewer than `fewest`."""
    best: tuple[DateForm, list[str]] | None = None
    looks: Counter[DateForm] = Counter()
    for name in names:
        looks.update(forms_like(name) - {DateForm.SERIAL, DateForm.EPOCH, DateForm.DECIMAL_YEAR})
    for form_tried in [form] if form else [form_tried for form_tried in DateForm if looks[form_tried] >= fewest]:
        moments = read_dates(pl.Series(list(names), dtype=pl.String), form_tried)
        hits = [name for name, moment in zip(names, moments, strict=True) if moment is not None]
        if len(hits) >= (1 if form else fewest) and (best is None or len(hits) > len(best[1])):
            best = (form_tried, hits)
    return best


def stem(name: str) -> str:
    """Return a column name without its year."""
    return " ".join(_NAME_YEAR.sub(" ", name).replace("_", " ").split()).strip(" -:,")


def years_in_names(table: TextTable) -> list[str]:
    """Return columns named by a word and a year, each word with the same three or more years."""
    years: dict[str, dict[str, str]] = {}
    for name in table.columns:
        found = _NAME_YEAR.findall(name)
        if len(found) == 1 and (word := stem(name)):
            years.setdefault(word, {}).setdefault(found[0], name)
    good = [columns for columns in years.values() if len(columns) >= FEWEST_ACROSS]
    if not good or any(columns.keys() != good[0].keys() for columns in good):
        return []
    return [name for columns in good for name in columns.values()]

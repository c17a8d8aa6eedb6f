"""Find the date columns of a table, and their format."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import polars as pl

from zembra.core.calendar.grain import Unit, completeness, detect_grain
from zembra.core.calendar.lines import Received
from zembra.core.errors import Refusal
from zembra.core.intake.dateforms import RIVALS, DateForm
from zembra.core.intake.dateparts import (
    DAY_FORMS,
    MOST_WITH_TOTALS,
    PARTS,
    dates_in_parts,
    part_column,
    whole_numbers,
    written_once,
)
from zembra.core.intake.dates import fitting_forms, read_dates
from zembra.core.intake.howread import DatesHow
from zembra.core.intake.numbers import Writing, detect_decimal, read_cells
from zembra.core.intake.numberwords import is_known_unit
from zembra.core.intake.plain import plain_columns
from zembra.core.intake.table import TextTable
from zembra.core.intake.totals import without_totals

# words of a column's name that speak for dates, in the languages tables often come in
_SPEAKS = re.compile(
    r"(?i)(?:^|[^a-z])(date|dates|yearweek|yearmonth|yearquarter|day|days|weekday|wochentag|time|times|timestamp|datetime|month|months|year|years|yr|quarter|qtr|period|week|"
    r"when|epoch|ts|as.?of|datum|tag|jahr|monat|zeit|zeitpunkt|woche|quartal|fecha|d[ií]a|mes|a[nñ]o|semana|hora|"
    r"ann[eé]e|mois|jour|semaine|trimestre|data|ano|giorno|anno|mese|rok|m[ií]esi[aą]c|dato|[aå]r|m[aå]ned|dag|vecka|"
    r"maand|jaar|date.?time|unix|index|дата|год|месяц|okres|per[ií]odo|p[ée]riode|zeitraum|dzie[nń]|datu?m|m[eě]s[ií]c|"
    r"kwarta[lł]|[cč]tvrtlet[ií]|tydzie[nń]|hónap|[ée]v|kuukausi|vuosi|ay|y[iı]l)(?:$|[^a-z])"
)
EVEN = 0.6  # share of the periods of a grain that must be there for dates to be on it


@dataclass(frozen=True, slots=True)
class DateColumn:
    """A candidate date column.

    weight: likelihood, about 0 to 1
    forms: all formats that fit
    """

    weight: float
    how: DatesHow
    share: float
    forms: tuple[tuple[DateForm, float], ...]


@dataclass(frozen=True, slots=True)
class FoundDates:
    """The likeliest dates.

    others: other candidate columns
    rivals: formats that read every cell as other, equally regular dates
    """

    how: DatesHow
    others: tuple[DatesHow, ...] = ()
    rivals: tuple[DateForm, ...] = ()


def speaks_of_dates(name: str) -> bool:
    return bool(_SPEAKS.search(name))


def find_dates(table: TextTable, plain: frozenset[str] | None = None) -> FoundDates:
    """Find date columns and alternatives. Raises Refusal if there is none.

    plain: columns that cannot be dates, see `plain_columns`
    """
    plain = plain_columns(table) if plain is None else plain
    found = [candidate for name in table.columns if name not in plain for candidate in _candidates(table, name)]
    found = found or [candidate for name in table.columns for candidate in _short(table, name)]
    if not found:
        early = next(
            (name for name in table.columns if PARTS["year"].match(name) and _mostly_early(table.cells[name])), None
        )
        if early is not None:
            raise Refusal(
                f"The years in {early} begin before 1500, the first that Zembra reads.",
                place=f"row {table.row_number(0)}: {_sample(table.cells[early])}",
                todo="Leave out the rows before 1500.",
            )
        _refuse_other_calendars(table)
        first = "; ".join(f"{name}: {_sample(table.cells[name])}" for name in table.columns[:6])
        raise Refusal(
            "No column holds dates.",
            place=f"row {table.row_number(0)}: {first}",
            todo="One column must hold dates, such as 2026-03-14, 14/03/2026, Mar 2026 or 2026-Q1.",
        )
    best = max(found, key=lambda candidate: candidate.weight)
    parts = dates_in_parts(table, best.how)
    if parts is not None:
        return FoundDates(parts)
    form, rivals = decided(table.cells[best.how.column or ""], best.how.form, best.forms)
    how = best.how.model_copy(update={"form": form})
    others = tuple(
        candidate.how for candidate in found
        if candidate.how.column != how.column and candidate.share >= 0.9 and (not candidate.how.form.bare or _names_years(candidate.how))
        and not _same_dates(table, candidate.how, how)
    )  # fmt: skip
    return FoundDates(how, others, rivals)


_HIJRI = r"^\s*1[34]\d{2}[-/.](?:0?[1-9]|1[0-2])(?:[-/.](?:0?[1-9]|[12]\d|3[01]))?\s*$"
_BUDDHIST = r"^\s*(?:2[45]\d{2}[-/.](?:0?[1-9]|1[0-2])(?:[-/.]\d{1,2})?|\d{1,2}[-/.]\d{1,2}[-/.]2[45]\d{2})\s*$"


def _refuse_other_calendars(table: TextTable) -> None:
    """Raise Refusal for dates of unsupported calendars, by name."""
    for name in table.columns:
        cells = table.cells[name].drop_nulls()
        if not cells.len():
            continue
        for pattern, calendar in ((_HIJRI, "the Hijri or the Jalali calendar"), (_BUDDHIST, "the Buddhist calendar")):
            if cells.str.contains(pattern).all():
                raise Refusal(
                    f"The dates in {name} look like those of {calendar}, which are not read.",
                    place=f"row {table.row_number(0)}: “{cells[0]}”",
                    todo="Write them in the common calendar and bring the file in again.",
                )


def _names_years(how: DatesHow) -> bool:
    return how.form is DateForm.YEAR and bool(PARTS["year"].match(how.column or ""))


def _same_dates(table: TextTable, a: DatesHow, b: DatesHow) -> bool:
    """Return whether two columns hold the same dates, one perhaps coarser."""
    first, second = (read_dates(table.cells[reading.column or ""], reading.form) for reading in (a, b))
    coarse = [
        pl.DataFrame({"a": first.dt.truncate(size), "b": second.dt.truncate(size)}).drop_nulls()
        for size in ("1y", "1d")
    ]
    return bool((coarse[1]["a"] == coarse[1]["b"]).all()) or (
        not a.form.timed and a.form not in DAY_FORMS and bool((coarse[0]["a"] == coarse[0]["b"]).all())
    )


def _candidates(table: TextTable, name: str) -> list[DateColumn]:
    cells = table.cells[name]
    forms = fitting_forms(cells)
    filled = 1 - cells.null_count() / table.height
    made = []
    for form, share in forms:
        if form.bare and not _bare_speaks(table, name, form):
            continue
        weight = share * (0.5 + 0.5 * filled) + (0.05 if speaks_of_dates(name) else 0)
        if form in (DateForm.YEAR, DateForm.FISCAL) and PARTS["year"].match(name):
            weight += 0.01
        if form.bare:
            weight -= 0.3
        elif form.timed:
            weight += 0.002
        made.append(DateColumn(weight, DatesHow(column=name, form=form), share, tuple(forms)))
        break  # the forms come best first
    return made


def _short(table: TextTable, name: str) -> list[DateColumn]:
    """Find dates so short that only the column's name reveals them: year 63, month 1/86, date 800102."""
    cells = table.cells[name].drop_nulls().str.strip_chars()
    named = {
        DateForm.SHORT_YEAR: bool(PARTS["year"].match(name)),
        DateForm.SHORT_MONTH: speaks_of_dates(name) and bool(cells.str.contains(r"[/.\-](3[2-9]|[4-9]\d)$").any()),
        DateForm.SHORT_COMPACT: speaks_of_dates(name),
    }
    for form, speaks in named.items():
        if speaks and cells.len() >= 3 and read_dates(cells, form).null_count() == 0 and cells.n_unique() > 1:
            return [DateColumn(0.5, DatesHow(column=name, form=form), 1.0, ((form, 1.0),))]
    return []


def _bare_speaks(table: TextTable, name: str, form: DateForm) -> bool:
    """Return whether plain numbers are dates by more than their look: by name and plausible range, or by regular
    steps.
    """
    cells = table.cells[name].drop_nulls()
    cells = without_totals(cells) if cells.len() <= MOST_WITH_TOTALS else cells
    if not cells.len():
        return False
    moments = read_dates(cells, form).drop_nulls()
    if moments.len() < 0.95 * cells.len():
        return False
    years = moments.dt.year()
    lowest, highest = int(years.min()), int(years.max())  # type: ignore[arg-type]
    if form in (DateForm.SERIAL, DateForm.EPOCH) and not (lowest >= 1950 and highest <= 2060):
        return False
    if highest - lowest > 700:
        return False
    named = speaks_of_dates(name)
    if form is DateForm.COMPACT_WEEK and not PARTS["week"].match(name):
        return False
    if named and form in (
        DateForm.YEAR,
        DateForm.COMPACT,
        DateForm.COMPACT_MONTH,
        DateForm.COMPACT_TIME,
        DateForm.COMPACT_WEEK,
    ):
        return True
    # repeated dates are the rule in tables of several series: only the distinct ones must be even
    distinct = moments.unique().sort().to_numpy().astype("datetime64[s]")
    if (
        form is DateForm.YEAR
        and (written_once(table.cells[name]) or name == table.columns[0])
        and _has_part(table, name)
    ):
        return True
    if distinct.size < 2:
        return named
    grain = detect_grain(distinct)
    even = grain.unit is not Unit.MOMENT and completeness(grain, distinct) >= EVEN
    if named:
        return even or form in (DateForm.DECIMAL_YEAR,) or (form is DateForm.EPOCH and _rising(moments))
    first = name == table.columns[0]
    unnamed = not name.strip() or name.startswith("column ")
    if form is DateForm.YEAR:
        return even and (first or unnamed) and distinct.size >= 3
    return even and (first or unnamed) and distinct.size >= 3 and completeness(grain, distinct) >= 0.9


def _has_part(table: TextTable, year: str) -> bool:
    return any(part_column(table, part, [year], beside_year=True) for part in ("month", "quarter"))


def _rising(moments: pl.Series) -> bool:
    gaps = moments.diff().drop_nulls()
    return bool((gaps.dt.total_milliseconds() >= 0).all())


def decided(
    cells: pl.Series, form: DateForm, forms: Sequence[tuple[DateForm, float]]
) -> tuple[DateForm, tuple[DateForm, ...]]:
    """Return the format, and others that fit equally. A reading with a grain beats one without; otherwise the first
    wins and the rest is asked about.

    forms: see `fitting_forms`
    """
    full = dict(forms)
    family = next((rivals for rivals in RIVALS if form in rivals), ())
    together = [rival for rival in family if full.get(rival, 0) >= full.get(form, 0) - 1e-9 and rival in full]
    if form is DateForm.ISO_MONTH and full.get(DateForm.DECIMAL_YEAR, 0) == full[form]:
        together = [form, DateForm.DECIMAL_YEAR]
    if len(together) < 2:
        return form, ()
    readings = {rival: read_dates(cells, rival) for rival in together}
    scores = {rival: regular(moments) for rival, moments in readings.items()}
    best = max(together, key=lambda rival: scores[rival])
    close = [
        rival for rival in together
        if rival is not best and not _far_behind(scores[rival], scores[best])
        and bool((readings[rival] != readings[best]).fill_null(False).any())
    ]  # fmt: skip
    return best, tuple(close)


def _far_behind(score: float, best: float) -> bool:
    """Return whether a reading is much less regular than the best."""
    return (best >= 0.9 and score < EVEN) or (best >= EVEN and score < 0.25 * best)


def regular(moments: pl.Series) -> float:
    """Return the completeness of dates on their grain, 0 without one."""
    distinct = moments.drop_nulls().unique().sort().to_numpy().astype("datetime64[s]")
    if distinct.size < 3:
        return 0.0
    grain = detect_grain(distinct)
    if grain.unit is Unit.MOMENT:
        return 0.0
    whole = completeness(grain, distinct)
    day = moments.drop_nulls().dt.day()
    if grain.unit is Unit.MONTH and not (day.n_unique() == 1 or int(day.min() or 0) >= 27):  # type: ignore[arg-type]
        whole /= 2  # one date a month, on any day of it, may be chance
    steps = np.diff(moments.drop_nulls().to_numpy().astype("datetime64[s]")).astype(np.int64)
    # the newest row may come first
    in_order = max(float(np.mean(steps >= 0)), float(np.mean(steps <= 0)))
    return whole * (0.5 + 0.5 * in_order)


def _mostly_early(cells: pl.Series) -> bool:
    """Return whether a column holds years, some before the first supported one."""
    return whole_numbers(cells, 1, 2200) and float(cells.drop_nulls().cast(pl.Float64, strict=False).min() or 0) < 1500  # type: ignore[arg-type]


def _sample(cells: pl.Series) -> str:
    filled = cells.drop_nulls()
    return f"“{str(filled[0])[:24]}”" if filled.len() else "empty"


def numeric_share(cells: pl.Series) -> float:
    """Return the share of numbers among filled cells, without words for blanks."""
    sample = cells.drop_nulls().head(500)
    read = read_cells(sample, Writing(detect_decimal(sample)))
    words = {said.beside.unit for said in read.said.get(0, ()) if said.beside and not is_known_unit(said.beside.unit)}
    if len(words) > 1:
        return 0.0  # a number before several words is part of a name: "4000 Sales"
    received = read.received.filter(read.received != Received.BLANK)
    return float((received == Received.MEASURED).mean() or 0.0) if received.len() else 0.0  # type: ignore[arg-type]

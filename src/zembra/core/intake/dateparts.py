"""Join year, month, day and time from columns of their own."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence

import numpy as np
import polars as pl

from zembra.core.intake.dateforms import DateForm
from zembra.core.intake.dates import read_dates
from zembra.core.intake.hours import hours_beside
from zembra.core.intake.howread import DatesHow, Down, HourSays
from zembra.core.intake.joining import date_texts, filled_down
from zembra.core.intake.months import month_numbers
from zembra.core.intake.plain import columns_like
from zembra.core.intake.table import TextTable
from zembra.core.intake.totals import without_totals

PARTS = {
    "year": re.compile(
        r"(?i)^(?:.*[^a-z])?(year|yr|yyyy|jahr|a[nñ]o|ann[eé]e|ano|anno|rok|[aå]r|jaar|[ée]v|vuosi|y[iı]l|год)(?:[^a-z].*)?$"
    ),
    "month": re.compile(
        r"(?i)^(?:.*[^a-z])?(month|mon|mm|mo|monat|mes|mois|m[eê]s|mese|maand|m[aå]ned|m[aå]nad|mnth|mth|miesi[aą]c|m[eě]s[ií]c|hónap|kuukausi|ay|месяц)(?:[^a-z].*)?$"
    ),
    "quarter": re.compile(
        r"(?i)^(?:.*[^a-z])?(quarter|qtr|q|quartal|trimestre|kwartaal|kvartal|kw?art|kw|kwarta[lł]|[cč]tvrtlet[ií]|квартал)(?:[^a-z].*)?$"
    ),
    "week": re.compile(
        r"(?i)^(?:.*[^a-z])?(week|year.?week|wk|iso.?week|woche|kw|semaine|semana|uke|vecka)(?:[^a-z].*)?$"
    ),
    "day": re.compile(r"(?i)^(?:.*[^a-z])?(day|dd|dom|tag|d[ií]a|jour|giorno|dag|dzie[nń]|den)(?:[^a-z].*)?$"),
    "hour": re.compile(r"(?i)^(?:.*[^a-z])?(hour|hr|hh|stunde|hora|heure|uur|ora|godzina|hodina|timme)(?:[^a-z].*)?$"),
    "minute": re.compile(r"(?i)^(?:.*[^a-z])?(minute|min)(?:[^a-z].*)?$"),
}

# what a part says of itself whatever its column is named: Q01, M12
_CODED = {
    "quarter": r"^\s*(?:(?i:q|qtr |quarter |kw\.? ?|t)(?:0?[1-4]|I{1,3}|IV)|(?:[1-4]\.?|I{1,3}|IV) ?(?i:q|kw\.?|quarter|quartal|kwarta[lł]|trimestre|[cč]tvrtlet[ií]|t))\s*$",
    "month": r"^\s*(?i:m)(?:0?[1-9]|1[0-2])\s*$",
}

DAY_FORMS = (
    DateForm.ISO_DAY, DateForm.SLASH_YMD, DateForm.DAY_FIRST, DateForm.MONTH_FIRST, DateForm.NAMED_DAY, DateForm.COMPACT,
    DateForm.SHORT_YMD,
)  # fmt: skip

_DURATION = re.compile(
    r"(?i)duration|elapsed|lasted|length|took|dauer|durée|duree|duraci|durata|czas trwania|tijdsduur|laufzeit"
)

_CLOCK_NAME = re.compile(
    r"(?i)(?:^|[^a-z])(?:time|clock|hour|at|start|departure|arrival|zeit|uhr|uhrzeit|hora|heure|ora|tijd|czas|godzina)(?:$|[^a-z])"
)

FEWEST_STEPS = 10  # from one time to the next within a date

_CLOCK = r"^\d{1,2}:\d{2}(:\d{2}(\.\d+)?)?\s*([AaPp]\.?[Mm]\.?)?$"

MOST_WITH_TOTALS = 50_000  # cells: a longer column is not looked through for rows that add up others

_WITH_TIME = {
    DateForm.ISO_DAY: DateForm.ISO_TIME, DateForm.SLASH_YMD: DateForm.ISO_TIME, DateForm.DAY_FIRST: DateForm.DAY_FIRST_TIME,
    DateForm.MONTH_FIRST: DateForm.MONTH_FIRST_TIME, DateForm.NAMED_DAY: DateForm.NAMED_TIME,
    DateForm.COMPACT: DateForm.COMPACT_TIME,
}  # fmt: skip


def parts_said(table: TextTable, how: DatesHow, columns: Sequence[str]) -> list[str]:
    """Return integer columns that repeat year, month or day of the date."""
    named = [(name, part) for name in columns for part, pattern in PARTS.items() if pattern.match(name)]
    if not named or how.column is None:
        return []
    moments = read_dates(date_texts(table, how), how.form)
    found = []
    for name, part in named:
        if part == "minute":
            continue
        said = table.cells[name].str.strip_chars().cast(pl.Float64, strict=False).cast(pl.Int64)
        there = {
            "year": moments.dt.year(), "month": moments.dt.month(), "quarter": moments.dt.quarter(), "week": moments.dt.week(),
            "day": moments.dt.day(), "hour": moments.dt.hour(),
        }[part]  # fmt: skip
        weekday = [(moments.dt.weekday() + shift) % 7 for shift in range(7)] if part == "day" else []
        choices = [there, *weekday, *(column + 1 for column in weekday)] + (
            [moments.dt.ordinal_day()] if part == "day" else []
        )
        if said.null_count() < said.len() and any(bool((said == choice).fill_null(True).all()) for choice in choices):
            found.append(name)
    return found


def written_once(cells: pl.Series) -> bool:
    """Return whether a column is filled like merged cells."""
    empty = cells.null_count()
    return bool(empty) and cells[0] is not None and empty >= cells.len() * 0.2


def whole_numbers(cells: pl.Series, low: int, high: int) -> bool:
    """Return whether every filled cell is an integer within bounds."""
    filled = cells.drop_nulls()
    if not filled.len():
        return False
    numbers = filled.str.strip_chars().cast(pl.Float64, strict=False)
    return not numbers.null_count() and bool(
        ((numbers >= low) & (numbers <= high) & (numbers == numbers.floor())).all()
    )


def part_column(table: TextTable, part: str, taken: Sequence[str], *, beside_year: bool = False) -> str | None:
    """Find the column of months or quarters by name and content.

    beside_year: whether it follows a year column, so that its name may be missing
    """
    limits = {"month": (1, 12), "quarter": (1, 4), "week": (1, 53), "day": (1, 31), "hour": (0, 24), "minute": (0, 59)}
    for name in table.columns:
        if name in taken:
            continue
        cells = table.cells[name]
        first = str(cells.first() or "")
        if first[:1].isdigit() and "." in first and not PARTS[part].match(name):
            continue  # a number with a fraction is no part of a date
        if cells.len() <= MOST_WITH_TOTALS:
            cells = without_totals(cells)
        if part == "month" and _month_names(cells):
            return name
        if (
            part in _CODED
            and cells.null_count() < cells.len()
            and bool(cells.drop_nulls().str.contains(_CODED[part]).all())
        ):
            return name
        speaks = PARTS[part].match(name) or (beside_year and name.startswith("column "))
        if speaks and whole_numbers(cells.str.replace(r"^(?i:w|wk|week|q) ?", ""), *limits[part]):
            return name
    return None


def _month_names(cells: pl.Series) -> bool:
    words = cells.drop_nulls().str.strip_chars().unique().to_list()
    if not 1 <= len(words) <= 24 or not all(re.fullmatch(r"[^\W\d_]{2,}\.?", word) for word in words):
        return False
    return len(month_numbers(words)) == len(words)


def dates_in_parts(table: TextTable, how: DatesHow) -> DatesHow | None:
    """Read dates whose parts stand in several columns."""
    column = how.column or ""
    made: DatesHow | None = None
    once = written_once(table.cells[column])
    if how.form in (DateForm.YEAR, DateForm.FISCAL):
        month = part_column(table, "month", [column], beside_year=once)
        day = part_column(table, "day", [column, month or ""]) if month else None
        hour = part_column(table, "hour", [column, month or "", day or ""]) if day else None
        quarter = None if month else part_column(table, "quarter", [column], beside_year=once)
        week = None if month or quarter else part_column(table, "week", [column])
        if month and day and how.form is DateForm.YEAR:
            more = (month, day, hour) if hour else (month, day)
            made = DatesHow(column=column, more=more, form=DateForm.YEAR_MONTH_DAY, hours=_hours_say(table, hour))
        elif month:
            made = DatesHow(column=column, more=(month,), form=DateForm.YEAR_MONTH)
        elif quarter and how.form is DateForm.YEAR:
            made = DatesHow(column=column, more=(quarter,), form=DateForm.YEAR_QUARTER)
        elif week and how.form is DateForm.YEAR:
            made = DatesHow(column=column, more=(week,), form=DateForm.YEAR_WEEK)
        if made is not None:
            made = _in_its_years(table, made, once)
    elif how.form in DAY_FORMS:
        clock = next(
            (
                name for name in _like_clocks(table)
                if name != column and not _lasts(table, name, column) and table.cells[name].null_count() < table.height / 2
                and bool(table.cells[name].drop_nulls().str.strip_chars().str.contains(_CLOCK).all())
            ),
            None,
        )  # fmt: skip
        if clock and how.form in _WITH_TIME:
            made = DatesHow(column=column, more=(clock,), form=_WITH_TIME[how.form])
        elif clock is None:
            days = read_dates(table.cells[column], how.form)
            found = hours_beside(table, days, [column])
            if found is not None:
                name, times, says = found
                return DatesHow(column=column, more=(name,), form=how.form, times=times, hours=says)
            hour = part_column(table, "hour", [column])
            if hour and how.form in (DateForm.ISO_DAY, DateForm.SLASH_YMD, DateForm.COMPACT):
                made = DatesHow(column=column, more=(hour,), form=DateForm.DAY_HOUR, hours=_hours_say(table, hour))
    if made is None:
        return None
    read = read_dates(date_texts(table, made), made.form)
    alone = read_dates(filled_down(table.cells[column], made.down), how.form)
    # parts must parse wherever the first does, and add information
    return (
        made
        if read.null_count() <= alone.null_count() + table.height // 20 and read.n_unique() > alone.n_unique()
        else None
    )


def _in_its_years(table: TextTable, how: DatesHow, once: bool) -> DatesHow:
    """Fill empty years, and find the first month of the year from the order of rows."""
    if once:
        how = how.model_copy(update={"down": Down.ABOVE})
    if how.form is not DateForm.YEAR_MONTH:
        return how
    months = read_dates(date_texts(table, how), how.form).dt.month()
    years = filled_down(table.cells[how.column or ""], how.down).str.strip_chars()
    frame = pl.DataFrame({"year": years, "month": months, "block": years.rle_id()}).drop_nulls()
    runs = [run["month"].to_numpy() for _, run in frame.group_by("block", maintain_order=True)]
    first = first_month([run if run.size < 2 or run[1] != (run[0] - 2) % 12 + 1 else run[::-1] for run in runs])
    if first == 1:
        return how
    if once and not bool(years.drop_nulls().str.contains(r"\D").any()):
        return how.model_copy(update={"down": Down.COUNTED})
    return how.model_copy(update={"year_begins": first})


def first_month(runs: Sequence[np.ndarray]) -> int:
    """Return the first month of the year: 1, unless some year continues from December to January."""
    over = [run for run in runs if bool(np.any(np.diff(run) < 0)) and run.size > 1]
    if not over:
        return 1
    starts = Counter(int(run[0]) for run in over)
    return starts.most_common(1)[0][0]


def _lasts(table: TextTable, name: str, dates: str) -> bool:
    """Return whether times are durations, by name or by their disorder within a date."""
    if _DURATION.search(name):
        return True
    if _CLOCK_NAME.search(name):
        return False
    times = table.cells[name].str.strip_chars().str.to_lowercase()
    steps = pl.DataFrame({"date": table.cells[dates], "time": times.str.zfill(8)}).with_columns(
        same=pl.col("date") == pl.col("date").shift(1), up=pl.col("time") >= pl.col("time").shift(1)
    ).filter(pl.col("same") & ~times.str.contains("[ap]"))  # fmt: skip
    if steps.height < FEWEST_STEPS:
        return False
    up = float(steps["up"].mean())  # type: ignore[arg-type]
    return 0.25 < up < 0.75


def _hours_say(table: TextTable, hour: str | None) -> HourSays:
    """Hours 1 to 24 are named by their end."""
    if hour is None:
        return HourSays.BEGINS
    numbers = set(table.cells[hour].drop_nulls().str.strip_chars().cast(pl.Float64, strict=False).unique().to_list())
    return HourSays.ENDS if 24.0 in numbers and 0.0 not in numbers else HourSays.BEGINS


def _like_clocks(table: TextTable) -> list[str]:
    """Return columns whose first rows are times of day."""
    return columns_like(table.cells.head(20), rf"^\s*(?:{_CLOCK.strip('^$')})\s*$")

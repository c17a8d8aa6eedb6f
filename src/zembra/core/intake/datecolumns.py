"""Which columns of a table hold its dates, and how they are written."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import polars as pl

from zembra.core.calendar.grain import Unit, completeness, detect_grain
from zembra.core.calendar.lines import Received
from zembra.core.errors import Refusal
from zembra.core.intake.dateforms import RIVALS, DateForm
from zembra.core.intake.dates import fitting_forms, read_dates
from zembra.core.intake.howread import DatesHow, Down, HourSays
from zembra.core.intake.joining import date_texts, filled_down
from zembra.core.intake.months import month_numbers
from zembra.core.intake.numbers import detect_decimal, read_numbers
from zembra.core.intake.plain import columns_like, plain_columns
from zembra.core.intake.table import TextTable
from zembra.core.intake.totals import without_totals

# words of a column's name that speak for dates, in the languages tables often come in
_SPEAKS = re.compile(
    r"(?i)(?:^|[^a-z])(date|dates|day|days|weekday|wochentag|time|times|timestamp|datetime|month|months|year|years|yr|quarter|qtr|period|week|"
    r"when|epoch|ts|as.?of|datum|tag|jahr|monat|zeit|zeitpunkt|woche|quartal|fecha|d[ií]a|mes|a[nñ]o|semana|hora|"
    r"ann[eé]e|mois|jour|semaine|trimestre|data|ano|giorno|anno|mese|rok|m[ií]esi[aą]c|dato|[aå]r|m[aå]ned|dag|vecka|"
    r"maand|jaar|date.?time|unix|index|дата|год|месяц|okres|per[ií]odo|p[ée]riode|zeitraum|dzie[nń]|datu?m|m[eě]s[ií]c|"
    r"kwarta[lł]|[cč]tvrtlet[ií]|tydzie[nń]|hónap|[ée]v|kuukausi|vuosi|ay|y[iı]l)(?:$|[^a-z])"
)
_PARTS = {
    "year": re.compile(
        r"(?i)^(?:.*[^a-z])?(year|yr|yyyy|jahr|a[nñ]o|ann[eé]e|ano|anno|rok|[aå]r|jaar|[ée]v|vuosi|y[iı]l|год)(?:[^a-z].*)?$"
    ),
    "month": re.compile(
        r"(?i)^(?:.*[^a-z])?(month|mon|mm|mo|monat|mes|mois|m[eê]s|mese|maand|m[aå]ned|m[aå]nad|mnth|mth|miesi[aą]c|m[eě]s[ií]c|hónap|kuukausi|ay|месяц)(?:[^a-z].*)?$"
    ),
    "quarter": re.compile(
        r"(?i)^(?:.*[^a-z])?(quarter|qtr|q|quartal|trimestre|kwartaal|kvartal|kw?art|kw|kwarta[lł]|[cč]tvrtlet[ií]|квартал)(?:[^a-z].*)?$"
    ),
    "week": re.compile(r"(?i)^(?:.*[^a-z])?(week|wk|iso.?week|woche|kw|semaine|semana|uke|vecka)(?:[^a-z].*)?$"),
    "day": re.compile(r"(?i)^(?:.*[^a-z])?(day|dd|dom|tag|d[ií]a|jour|giorno|dag|dzie[nń]|den)(?:[^a-z].*)?$"),
    "hour": re.compile(r"(?i)^(?:.*[^a-z])?(hour|hr|hh|stunde|hora|heure|uur|ora|godzina|hodina|timme)(?:[^a-z].*)?$"),
    "minute": re.compile(r"(?i)^(?:.*[^a-z])?(minute|min)(?:[^a-z].*)?$"),
}
# what a part says of itself whatever its column is named: Q01, M12
_CODED = {
    "quarter": r"^\s*(?:(?i:q|qtr |quarter |kw\.? ?|t)(?:0?[1-4]|I{1,3}|IV)|(?:[1-4]\.?|I{1,3}|IV) ?(?i:q|kw\.?|quarter|quartal|kwarta[lł]|trimestre|[cč]tvrtlet[ií]|t))\s*$",
    "month": r"^\s*(?i:m)(?:0?[1-9]|1[0-2])\s*$",
}
_DAYS = (
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
EVEN = 0.6  # share of the periods of a grain that must be there for dates to be on it
_WITH_TIME = {
    DateForm.ISO_DAY: DateForm.ISO_TIME, DateForm.SLASH_YMD: DateForm.ISO_TIME, DateForm.DAY_FIRST: DateForm.DAY_FIRST_TIME,
    DateForm.MONTH_FIRST: DateForm.MONTH_FIRST_TIME, DateForm.NAMED_DAY: DateForm.NAMED_TIME,
    DateForm.COMPACT: DateForm.COMPACT_TIME,
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Candidate:
    """A column that could hold the dates. weight: how likely, about 0 to 1. forms: all that fit it."""

    weight: float
    how: DatesHow
    share: float
    forms: tuple[tuple[DateForm, float], ...]


@dataclass(frozen=True, slots=True)
class FoundDates:
    """The likeliest dates. others: further columns that could be them. rivals: forms that read every cell
    too and give other dates, none of them likelier by its steps."""

    how: DatesHow
    others: tuple[DatesHow, ...] = ()
    rivals: tuple[DateForm, ...] = ()


def speaks_of_dates(name: str) -> bool:
    return bool(_SPEAKS.search(name))


def find_dates(table: TextTable, plain: frozenset[str] | None = None) -> FoundDates:
    """Raises Refusal where no column holds dates. plain: columns that can be none, see `plain_columns`."""
    plain = plain_columns(table) if plain is None else plain
    found = [candidate for name in table.columns if name not in plain for candidate in _candidates(table, name)]
    found = found or [one for name in table.columns for one in _short(table, name)]
    if not found:
        early = next(
            (name for name in table.columns if _PARTS["year"].match(name) and _mostly_early(table.cells[name])), None
        )
        if early is not None:
            raise Refusal(
                f"The years in {early} begin before 1500, the first that Zembra reads.",
                place=f"row {table.row_number(0)}: {_sample(table.cells[early])}",
                todo="Leave out the rows before 1500.",
            )
        first = "; ".join(f"{name}: {_sample(table.cells[name])}" for name in table.columns[:6])
        raise Refusal(
            "No column holds dates.",
            place=f"row {table.row_number(0)}: {first}",
            todo="One column must hold dates, such as 2026-03-14, 14/03/2026, Mar 2026 or 2026-Q1.",
        )
    best = max(found, key=lambda one: one.weight)
    parts = _in_parts(table, best.how)
    if parts is not None:
        return FoundDates(parts)
    form, rivals = decided(table.cells[best.how.column or ""], best.how.form, best.forms)
    how = best.how.model_copy(update={"form": form})
    others = tuple(
        one.how for one in found
        if one.how.column != how.column and one.share >= 0.9 and (not one.how.form.bare or _names_years(one.how))
        and not _same_dates(table, one.how, how)
    )  # fmt: skip
    return FoundDates(how, others, rivals)


def _names_years(how: DatesHow) -> bool:
    return how.form is DateForm.YEAR and bool(_PARTS["year"].match(how.column or ""))


def parts_said(table: TextTable, how: DatesHow, columns: Sequence[str]) -> list[str]:
    """Columns of whole numbers that say the year, month, day… of the rows' date over again."""
    named = [(name, part) for name in columns for part, pattern in _PARTS.items() if pattern.match(name)]
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
        choices = [there, *weekday, *(one + 1 for one in weekday)] + (
            [moments.dt.ordinal_day()] if part == "day" else []
        )
        if said.null_count() < said.len() and any(bool((said == choice).fill_null(True).all()) for choice in choices):
            found.append(name)
    return found


def _same_dates(table: TextTable, a: DatesHow, b: DatesHow) -> bool:
    """Whether two columns tell the same, one perhaps more coarsely."""
    first, second = (read_dates(table.cells[one.column or ""], one.form) for one in (a, b))
    coarse = [
        pl.DataFrame({"a": first.dt.truncate(size), "b": second.dt.truncate(size)}).drop_nulls()
        for size in ("1y", "1d")
    ]
    return bool((coarse[1]["a"] == coarse[1]["b"]).all()) or (
        not a.form.timed and a.form not in _DAYS and bool((coarse[0]["a"] == coarse[0]["b"]).all())
    )


def _candidates(table: TextTable, name: str) -> list[Candidate]:
    cells = table.cells[name]
    forms = fitting_forms(cells)
    filled = 1 - cells.null_count() / table.height
    made = []
    for form, share in forms:
        if form.bare and not _bare_speaks(table, name, form):
            continue
        weight = share * (0.5 + 0.5 * filled) + (0.05 if speaks_of_dates(name) else 0)
        if form in (DateForm.YEAR, DateForm.FISCAL) and _PARTS["year"].match(name):
            weight += 0.01
        if form.bare:
            weight -= 0.3
        elif form.timed:
            weight += 0.002
        made.append(Candidate(weight, DatesHow(column=name, form=form), share, tuple(forms)))
        break  # the forms come best first
    return made


def _short(table: TextTable, name: str) -> list[Candidate]:
    """Dates so short that nothing but the column's name says they are: year 63, month 1/86, date 800102."""
    cells = table.cells[name].drop_nulls().str.strip_chars()
    named = {
        DateForm.SHORT_YEAR: bool(_PARTS["year"].match(name)),
        DateForm.SHORT_MONTH: speaks_of_dates(name) and bool(cells.str.contains(r"[/.\-](3[2-9]|[4-9]\d)$").any()),
        DateForm.SHORT_COMPACT: speaks_of_dates(name),
    }
    for form, speaks in named.items():
        if speaks and cells.len() >= 3 and read_dates(cells, form).null_count() == 0 and cells.n_unique() > 1:
            return [Candidate(0.5, DatesHow(column=name, form=form), 1.0, ((form, 1.0),))]
    return []


def _bare_speaks(table: TextTable, name: str, form: DateForm) -> bool:
    """Whether more than the look of plain numbers speaks for dates: the column's name and a plausible
    span, or steps as even as no measured numbers have."""
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
    if named and form in (DateForm.YEAR, DateForm.COMPACT, DateForm.COMPACT_MONTH, DateForm.COMPACT_TIME):
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


def written_once(cells: pl.Series) -> bool:
    """Whether a column is filled at its top and then now and then, as merged cells are."""
    empty = cells.null_count()
    return bool(empty) and cells[0] is not None and empty >= cells.len() * 0.2


def _has_part(table: TextTable, year: str) -> bool:
    return any(part_column(table, part, [year], beside_year=True) for part in ("month", "quarter"))


def _rising(moments: pl.Series) -> bool:
    gaps = moments.diff().drop_nulls()
    return bool((gaps.dt.total_milliseconds() >= 0).all())


def decided(
    cells: pl.Series, form: DateForm, forms: Sequence[tuple[DateForm, float]]
) -> tuple[DateForm, tuple[DateForm, ...]]:
    """(the form, others that read the column just as well). A reading that has a grain wins over one
    that has none; where both have one, or neither, the first stands and the rest are asked about.

    forms: the fitting ones, see `fitting_forms`.
    """
    full = dict(forms)
    family = next((rivals for rivals in RIVALS if form in rivals), ())
    together = [one for one in family if full.get(one, 0) >= full.get(form, 0) - 1e-9 and one in full]
    if form is DateForm.ISO_MONTH and full.get(DateForm.DECIMAL_YEAR, 0) == full[form]:
        together = [form, DateForm.DECIMAL_YEAR]
    if len(together) < 2:
        return form, ()
    readings = {one: read_dates(cells, one) for one in together}
    scores = {one: regular(moments) for one, moments in readings.items()}
    best = max(together, key=lambda one: scores[one])
    close = [
        one for one in together
        if one is not best and not _far_behind(scores[one], scores[best])
        and bool((readings[one] != readings[best]).fill_null(False).any())
    ]  # fmt: skip
    return best, tuple(close)


def _far_behind(score: float, best: float) -> bool:
    """Whether a reading of the dates is so much less regular than the best one that nobody would hold it for true."""
    return (best >= 0.9 and score < EVEN) or (best >= EVEN and score < 0.25 * best)


def regular(moments: pl.Series) -> float:
    """How complete the dates are on the grain they have; nothing for dates that have none."""
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


def whole_numbers(cells: pl.Series, low: int, high: int) -> bool:
    """Whether every filled cell is a whole number within limits."""
    filled = cells.drop_nulls()
    if not filled.len():
        return False
    numbers = filled.str.strip_chars().cast(pl.Float64, strict=False)
    return not numbers.null_count() and bool(
        ((numbers >= low) & (numbers <= high) & (numbers == numbers.floor())).all()
    )


def part_column(table: TextTable, part: str, taken: Sequence[str], *, beside_year: bool = False) -> str | None:
    """The column that holds the months, quarters… of the dates: by its name and what is in it. beside_year: whether it
    stands beside a year that is written once, so that a column without a name will do."""
    limits = {"month": (1, 12), "quarter": (1, 4), "week": (1, 53), "day": (1, 31), "hour": (0, 24), "minute": (0, 59)}
    for name in table.columns:
        if name in taken:
            continue
        cells = table.cells[name]
        first = str(cells.first() or "")
        if first[:1].isdigit() and "." in first and not _PARTS[part].match(name):
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
        speaks = _PARTS[part].match(name) or (beside_year and name.startswith("column "))
        if speaks and whole_numbers(cells.str.replace(r"^(?i:w|wk|week|q) ?", ""), *limits[part]):
            return name
    return None


def _month_names(cells: pl.Series) -> bool:
    words = cells.drop_nulls().str.strip_chars().unique().to_list()
    if not 1 <= len(words) <= 24 or not all(re.fullmatch(r"[^\W\d_]{2,}\.?", word) for word in words):
        return False
    return len(month_numbers(words)) == len(words)


def _in_parts(table: TextTable, how: DatesHow) -> DatesHow | None:
    """A date whose year or day stands in `how`'s column and its rest in others."""
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
    elif how.form in _DAYS:
        clock = next(
            (
                name for name in _like_clocks(table)
                if name != column and not _lasts(table, name, column) and table.cells[name].null_count() < table.height / 2
                and bool(table.cells[name].drop_nulls().str.strip_chars().str.contains(_CLOCK).all())
            ),
            None,
        )  # fmt: skip
        hour = None if clock else part_column(table, "hour", [column])
        if clock and how.form in _WITH_TIME:
            made = DatesHow(column=column, more=(clock,), form=_WITH_TIME[how.form])
        elif hour and how.form in (DateForm.ISO_DAY, DateForm.SLASH_YMD, DateForm.COMPACT):
            made = DatesHow(column=column, more=(hour,), form=DateForm.DAY_HOUR, hours=_hours_say(table, hour))
    if made is None:
        return None
    read = read_dates(date_texts(table, made), made.form)
    alone = read_dates(filled_down(table.cells[column], made.down), how.form)
    # the parts must read wherever the first does, and tell more than it does
    return (
        made
        if read.null_count() <= alone.null_count() + table.height // 20 and read.n_unique() > alone.n_unique()
        else None
    )


def _in_its_years(table: TextTable, how: DatesHow, once: bool) -> DatesHow:
    """With what an empty cell of the year means, and the month that years begin with, as the order of the rows tells."""
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
    """The month that years begin with, by the months of each in their order; 1 unless one of them goes on from December
    to January."""
    over = [run for run in runs if bool(np.any(np.diff(run) < 0)) and run.size > 1]
    if not over:
        return 1
    starts = Counter(int(run[0]) for run in over)
    return starts.most_common(1)[0][0]


def _lasts(table: TextTable, name: str, dates: str) -> bool:
    """Whether times are how long something took: the name says so, or they go up and down within a date at random."""
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
    """Hours that run from 1 to 24 are named by their end."""
    if hour is None:
        return HourSays.BEGINS
    numbers = set(table.cells[hour].drop_nulls().str.strip_chars().cast(pl.Float64, strict=False).unique().to_list())
    return HourSays.ENDS if 24.0 in numbers and 0.0 not in numbers else HourSays.BEGINS


def _like_clocks(table: TextTable) -> list[str]:
    """Columns whose first rows hold nothing but times of day."""
    return columns_like(table.cells.head(20), rf"^\s*(?:{_CLOCK.strip('^$')})\s*$")


def _mostly_early(cells: pl.Series) -> bool:
    """Whether a column holds years, some of them before the first that is read."""
    return whole_numbers(cells, 1, 2200) and float(cells.drop_nulls().cast(pl.Float64, strict=False).min() or 0) < 1500  # type: ignore[arg-type]


def _sample(cells: pl.Series) -> str:
    filled = cells.drop_nulls()
    return f"“{str(filled[0])[:24]}”" if filled.len() else "empty"


def numeric_share(cells: pl.Series) -> float:
    """The share of the filled cells (blank words apart) that are numbers; 0 where none is filled."""
    sample = cells.drop_nulls().head(500)
    _, received = read_numbers(sample, detect_decimal(sample))
    said = received.filter(received != Received.BLANK)
    return float((said == Received.MEASURED).mean() or 0.0) if said.len() else 0.0  # type: ignore[arg-type]

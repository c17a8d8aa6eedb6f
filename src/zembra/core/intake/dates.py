"""Parse dates. A format is chosen for a whole column, or asked for; libraries that guess cell by cell read one column in
two ways."""

from __future__ import annotations

import re
from datetime import date
from functools import lru_cache

import polars as pl

from zembra.core.intake.dateforms import MARK, PATTERNS, SOUGHT, DateForm, compiled
from zembra.core.intake.months import month_numbers
from zembra.core.intake.respelling import respelled
from zembra.core.intake.totals import without_totals

# every way of writing takes 1500 to 2200 for a year; days since 1970
_FIRST, _LAST = ((date(*day) - date(1970, 1, 1)).days for day in ((1500, 1, 1), (2200, 12, 31)))
LOOKED_AT = 80  # cells that tell which forms are worth trying
MOST_LOOKED_AT = 20_000
MOST_RESPELLED = 100_000  # different texts
SERIAL_DAY_ZERO = pl.date(1899, 12, 30)  # day 60 of the workbook count is a leap day that never was
_ROMAN = {"I": 1, "II": 2, "III": 3, "IV": 4}
# the pattern in the spelling of Python, which has no classes of Unicode letters
_MARK = re.compile(MARK.replace(r"\p{L}", r"[^\W\d_]"))
_EPOCH_PARTS = {"seconds": 1_000, "milli": 1, "micro": 0.001, "nano": 0.000001}
# minutes that the clocks of named zones are ahead of UTC
_ZONES = {
    "Z": 0, "UTC": 0, "GMT": 0, "WET": 0, "WEST": 60, "BST": 60, "CET": 60, "CEST": 120, "MEZ": 60, "MESZ": 120, "EET": 120, "EEST": 180,
    "EST": -300, "EDT": -240, "CST": -360, "CDT": -300, "MST": -420, "MDT": -360, "PST": -480, "PDT": -420,
}  # fmt: skip
_DECIMAL_SLACK = 0.005  # of a year: fractions of months are written with two or three digits


def read_dates(cells: pl.Series, form: DateForm) -> pl.Series:
    """Parse a text column to Datetime in milliseconds, null where a cell does not match. Distinct texts are parsed
    once. Times with an offset keep their local time. Footnote marks behind a date are ignored.
    """
    if form is DateForm.ISO_DAY:
        plain = cells.str.to_date("%Y-%m-%d", strict=False)
        if plain.null_count() == cells.null_count() and _days_are_read(plain):
            return plain.cast(pl.Datetime("ms"))
    if (read := _all_alike(cells, form)) is not None:
        return read
    # a repeated text is the rule in long tables: read each once and spread it
    distinct = cells.drop_nulls().unique(maintain_order=True)
    if distinct.len() * 2 > cells.len():
        return _read(cells, form)
    return _read(distinct, form).gather(cells.cast(pl.Enum(distinct)).to_physical())


# dates that are all as long as these say are read in one go
_LIKE = {
    DateForm.ISO_TIME: (("%Y-%m-%d %H:%M:%S", 19), ("%Y-%m-%dT%H:%M:%S", 19), ("%Y-%m-%d %H:%M", 16), ("%Y-%m-%dT%H:%M", 16)),
    DateForm.DAY_FIRST_TIME: (("%d/%m/%Y %H:%M", 16), ("%d.%m.%Y %H:%M", 16), ("%d/%m/%Y %H:%M:%S", 19), ("%d.%m.%Y %H:%M:%S", 19)),
    DateForm.MONTH_FIRST_TIME: (("%m/%d/%Y %H:%M", 16), ("%m/%d/%Y %H:%M:%S", 19)),
    DateForm.DAY_FIRST: (("%d/%m/%Y", 10), ("%d.%m.%Y", 10), ("%d-%m-%Y", 10)),
    DateForm.MONTH_FIRST: (("%m/%d/%Y", 10),),
    DateForm.SLASH_YMD: (("%Y/%m/%d", 10), ("%Y.%m.%d", 10)),
}  # fmt: skip
FEWEST_ALIKE = 2_000  # cells: fewer are read as fast one by one


def _all_alike(cells: pl.Series, form: DateForm) -> pl.Series | None:
    """Parse a long column of identically formatted cells, or return None."""
    if form not in _LIKE or cells.len() < FEWEST_ALIKE:
        return None
    lengths = cells.str.len_bytes()
    low, high = lengths.min(), lengths.max()
    if low != high:
        return None
    for written, length in _LIKE[form]:
        if length != low or cells.head(1).str.to_datetime(written, strict=False).null_count():
            continue
        read = cells.str.to_datetime(written, strict=False, time_unit="ms")
        if read.null_count() == cells.null_count() and _days_are_read(read.dt.date()):
            return read
    return None


def _days_are_read(days: pl.Series) -> bool:
    # as numbers: some of them may be no dates of Python
    known = days.drop_nulls().to_physical()
    return not known.len() or (known.to_numpy().min() >= _FIRST and known.to_numpy().max() <= _LAST)


def _read(cells: pl.Series, form: DateForm) -> pl.Series:
    texts = cells.str.strip_chars()
    moments = _read_plain(texts, form)
    lost = moments.is_null() & texts.is_not_null()
    if lost.any():
        at = lost.arg_true()
        marked = texts.gather(at)
        some = marked.str.contains(MARK)
        if some.any():
            again = _read_plain(marked.str.replace(MARK, "$1$2"), form)
            moments = moments.scatter(at, pl.select(pl.when(some).then(again)).to_series())
        moments = _respelled(texts, moments, form)
    return moments


def _respelled(texts: pl.Series, moments: pl.Series, form: DateForm) -> pl.Series:
    """Add the moments of cells that need respelling."""
    lost = (moments.is_null() & texts.is_not_null()).arg_true()
    said = texts.gather(lost)
    distinct = said.unique(maintain_order=True).head(MOST_RESPELLED).to_list()
    other = {text: plain for text in distinct if (plain := respelled(text)) != text}
    if not other:
        return moments
    return moments.scatter(lost, _read_plain(said.replace(other), form))


def _read_plain(texts: pl.Series, form: DateForm) -> pl.Series:
    groups = texts.str.extract_groups(PATTERNS[form]).struct.unnest()
    names = groups.columns

    def has(part: str) -> list[str]:
        return [name for name in names if re.fullmatch(rf"{part}\d+", name)]

    def part(*parts: str) -> pl.Expr:
        return pl.coalesce(*(pl.col(name).replace("", None) for expression in parts for name in has(expression)))

    if form is DateForm.SERIAL:
        days = part("serial").cast(pl.Float64)
        when = SERIAL_DAY_ZERO.cast(pl.Datetime("ms")) + pl.duration(
            milliseconds=(days * 86_400_000).round().cast(pl.Int64)
        )
        return groups.select(when.dt.round("1s")).to_series()
    if form is DateForm.EPOCH:
        parts = [(part(name).cast(pl.Int64) * factor).cast(pl.Int64) for name, factor in _EPOCH_PARTS.items()]
        return groups.select(pl.from_epoch(pl.coalesce(*parts), time_unit="ms").cast(pl.Datetime("ms"))).to_series()
    if form is DateForm.DECIMAL_YEAR:
        return _decimal_years(groups.select(part("dec").str.replace(",", ".", literal=True)).to_series())
    year = _full_year(part("y").cast(pl.Int32))
    if form in (DateForm.ISO_WEEK, DateForm.YEAR_WEEK, DateForm.COMPACT_WEEK):
        iso = pl.format("{}-{}-1", year.cast(pl.String), part("w").str.zfill(2))
        return groups.select(
            pl.when(year.is_not_null()).then(iso).str.to_date("%G-%V-%u", strict=False).cast(pl.Datetime("ms"))
        ).to_series()
    if form is DateForm.FISCAL:
        until = part("until").cast(pl.Int32)
        follows = until.is_null() | (until % 100 == (year + 1) % 100)
        year = pl.when(follows).then(year)
    month: pl.Expr = pl.lit(1)
    day: pl.Expr = pl.lit(1)
    if form is DateForm.FISCAL:
        # 2025/26 always contains the end of 2025; FY2026 names one year only
        month, day = (pl.when(part("until").is_null()).then(1).otherwise(last) for last in (12, 31))
    if has("q"):
        number = part("q").replace_strict(_ROMAN, default=part("q").cast(pl.Int32, strict=False), return_dtype=pl.Int32)
        month = number * 3 - 2
    elif has("h"):
        month = part("h").cast(pl.Int32) * 6 - 5
    elif has("b") or has("m"):
        choices = []
        if has("b"):
            words = groups.select(part("b").str.to_lowercase()).to_series()
            known = month_numbers(words.drop_nulls().unique().to_list())
            choices.append(part("b").str.to_lowercase().replace_strict(known, default=None, return_dtype=pl.Int32))
        if has("m"):
            choices.append(part("m").cast(pl.Int32))
        month = pl.coalesce(*choices)
    if has("d"):
        day = part("d").cast(pl.Int32)
    hour, minute, second = (part(n).cast(pl.Int32).fill_null(0) if has(n) else pl.lit(0) for n in ("H", "M", "S"))
    hour = _on_24_hours(hour, part("ap").str.to_lowercase().str.slice(0, 1)) if has("ap") else hour
    midnight = (hour == 24) & (minute == 0) & (second == 0)
    hour = pl.when(midnight).then(0).otherwise(hour)
    if form is DateForm.YEAR_MONTH_DAY or form is DateForm.YEAR_MONTH:
        day = day.fill_null(1)
    text = pl.format("{}-{}-{} {}:{}:{}", *(e.cast(pl.String) for e in (year, month, day, hour, minute, second)))
    return groups.select(
        pl.when(year.is_not_null()).then(text).str.to_datetime("%Y-%m-%d %H:%M:%S", strict=False, time_unit="ms")
        + pl.duration(days=midnight.cast(pl.Int64))
    ).to_series()


def _on_24_hours(hour: pl.Expr, half: pl.Expr) -> pl.Expr:
    """Convert to 24 hours: 12 AM is midnight, 11 PM is 23, 13 PM stays 13."""
    return (
        pl.when((half == "a") & (hour == 12)).then(0).when((half == "p") & (hour < 12)).then(hour + 12).otherwise(hour)
    )


def _decimal_years(texts: pl.Series) -> pl.Series:
    """Parse fractional years as months: 1949.083 is February 1949. Every fraction must be a whole month within half
    a hundredth of a year; otherwise nothing is read.
    """
    value = texts.cast(pl.Float64, strict=False)
    months = (value * 12).round()
    if bool((((months / 12 - value).abs()) > _DECIMAL_SLACK).any()):
        return pl.repeat(None, texts.len(), dtype=pl.Datetime("ms"), eager=True)
    whole = months.cast(pl.Int64)
    return pl.select(pl.datetime(whole // 12, whole % 12 + 1, 1, time_unit="ms").alias("when")).to_series()


def offsets_of(cells: pl.Series, form: DateForm) -> pl.Series | None:
    """Return the UTC offset of each cell as Duration, or None if the format has none."""
    if "?P<off" not in PATTERNS[form] or _all_alike(cells, form) is not None:
        return None
    groups = cells.str.strip_chars().str.extract_groups(PATTERNS[form]).struct.unnest()
    said = [pl.col(name).replace("", None) for name in groups.columns if name.startswith("off")]
    plain = groups.select(pl.coalesce(*said)).to_series()
    if plain.null_count() == plain.len():
        return None
    named = plain.replace_strict(_ZONES, default=None, return_dtype=pl.Int64)
    plain = plain.str.replace(":", "", literal=True).str.pad_end(5, "0")
    minutes = plain.str.slice(1, 2).cast(pl.Int64, strict=False) * 60 + plain.str.slice(3, 2).cast(
        pl.Int64, strict=False
    )
    minutes = minutes * pl.select(pl.when(plain.str.starts_with("-")).then(-1).otherwise(1)).to_series()
    minutes = pl.select(pl.coalesce(named, minutes)).to_series()
    return (minutes * 60_000).cast(pl.Duration("ms"))


def four_digits(cells: pl.Series) -> bool:
    """Return whether any cell has four digits in a row."""
    return any(bool(some.str.contains(r"\d{4}").any()) for some in (cells.head(LOOKED_AT), cells))


def _full_year(year: pl.Expr) -> pl.Expr:
    """Complete two-digit years: 36 to 99 are 19xx, as few tables reach more than ten years ahead."""
    return pl.when(year < 36).then(year + 2000).when(year < 100).then(year + 1900).otherwise(year)


_NAMED = frozenset({DateForm.NAMED_DAY, DateForm.NAMED_TIME, DateForm.NAMED_MONTH})


@lru_cache(maxsize=20_000)
def forms_like(text: str) -> frozenset[DateForm]:
    """Return the formats that match a single text, without checking the calendar."""
    return _like(text.strip()) or _like(respelled(text))


def _like(plain: str) -> frozenset[DateForm]:
    found = frozenset(form for form in SOUGHT if compiled(form).match(plain))
    if found & _NAMED and not any(month_numbers([word]) for word in re.findall(r"[^\W\d_]{2,}", plain)):
        return found - _NAMED
    return found


def _worth_trying(texts: pl.Series, most: int) -> list[DateForm]:
    """Return the formats that match some sampled texts, with or without a footnote mark."""
    few = texts.gather_every(max(1, texts.len() // most)).to_list()
    seen: set[DateForm] = set()
    for text in few:
        seen |= forms_like(text) or forms_like(_MARK.sub(r"\1\2", text.strip()))
    return [form for form in DateForm if form in seen]


def fitting_forms(cells: pl.Series, share: float = 0.5) -> list[tuple[DateForm, float]]:
    """Return formats that parse at least `share` of the filled cells, in order of DateForm."""
    order = list(DateForm)
    some = cells.gather_every(max(1, cells.len() // MOST_LOOKED_AT))
    texts = some.drop_nulls().unique(maintain_order=True).str.strip_chars()
    texts = without_totals(texts.filter(texts != ""))
    if texts.len() == 0:
        return []
    # what most cells are shows in a few of them; a long column of plain numbers is not looked through
    forms = _worth_trying(texts, LOOKED_AT if share >= 0.5 else 5 * LOOKED_AT)
    sample = texts if texts.len() <= 600 else pl.concat([texts.head(300), texts.tail(300)])
    found = []
    for form in forms:
        fits = 1 - _read(sample, form).null_count() / sample.len()
        if fits >= share:
            found.append((form, fits))
    return sorted(found, key=lambda item: (-item[1], order.index(item[0])))

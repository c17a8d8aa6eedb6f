"""How dates are written, and reading them."""

from __future__ import annotations

import re

import polars as pl

from zembra.core.grammar import Choice


class DateForm(Choice):
    ISO_DAY = ("iso-day", "year-month-day", "2026-03-14")
    ISO_TIME = ("iso-time", "year-month-day and time", "2026-03-14T07:00")
    SLASH_YMD = ("slash-ymd", "year/month/day", "2026/03/14")
    COMPACT = ("compact", "year month day in eight digits", "20260314")
    DAY_FIRST = ("day-first", "day first", "14/03/2026")
    MONTH_FIRST = ("month-first", "month first", "03/14/2026")
    DAY_FIRST_TIME = ("day-first-time", "day first, and time", "14/03/2026 07:00")
    MONTH_FIRST_TIME = ("month-first-time", "month first, and time", "03/14/2026 07:00")
    ISO_MONTH = ("iso-month", "year-month", "2026-03")
    ISO_WEEK = ("iso-week", "ISO week", "2026-W11")
    QUARTER = ("quarter", "year and quarter", "2026-Q1, Q1 26")
    NAMED_DAY = ("named-day", "day, month in words, year", "14 Mar 2026")
    NAMED_MONTH = ("named-month", "month in words, year", "Mar 2026")
    YEAR = ("year", "year", "2026")
    SERIAL = ("serial", "workbook day numbers", "46095 is 14 Mar 2026")
    MONTH_YEAR = ("month-year", "month/year in digits", "03/2026")
    EPOCH = ("epoch", "seconds since 1970", "1773446400")

    @property
    def timed(self) -> bool:
        """Whether the form tells the time of day on some clock."""
        return self in (DateForm.ISO_TIME, DateForm.DAY_FIRST_TIME, DateForm.MONTH_FIRST_TIME)


# Month names and their usual short forms in English, German, French, Spanish, Italian, Dutch,
# Portuguese and Swedish. A dot after a short form is allowed everywhere.
_MONTHS = (
    "january jan januar janvier janv enero ene gennaio gen januari janeiro",
    "february feb februar février fevrier févr fevr fév febrero febbraio februari fevereiro fev",
    "march mar märz marz mrz maerz mars marzo maart mrt março marco",
    "april apr avril avr abril abr aprile",
    "may mai mayo maggio mag mei maio maj",
    "june jun juni juin junio giugno giu junho",
    "july jul juli juillet juil julio luglio lug julho",
    "august aug août aout agosto ago augustus augusti",
    "september sep sept septembre septiembre settembre set setembro",
    "october oct oktober okt octobre octubre ottobre ott outubro out",
    "november nov novembre noviembre novembro",
    "december dec dezember dez décembre decembre déc diciembre dic dicembre dezembro",
)
_MONTH_NUMBERS = {name: n for n, names in enumerate(_MONTHS, 1) for name in names.split()}
_MONTH_PATTERN = "|".join(sorted(_MONTH_NUMBERS, key=len, reverse=True))

_PATTERNS = {
    DateForm.ISO_DAY: r"^(?P<y>\d{4})-(?P<m>\d{1,2})-(?P<d>\d{1,2})(?:[T ]00:00(?::00(?:\.0+)?)?)?$",
    DateForm.ISO_TIME: (
        r"^(?P<y>\d{4})-(?P<m>\d{1,2})-(?P<d>\d{1,2})[T ](?P<H>\d{1,2}):(?P<M>\d{2})"
        r"(?::(?P<S>\d{2})(?:[.,]\d+)?)?\s?(?P<off>Z|[+-]\d{2}:?\d{2})?$"
    ),
    DateForm.SLASH_YMD: r"^(?P<y>\d{4})[/.](?P<m>\d{1,2})[/.](?P<d>\d{1,2})$",
    DateForm.COMPACT: r"^(?P<y>(?:19|20)\d{2})(?P<m>0[1-9]|1[0-2])(?P<d>[0-3]\d)$",
    DateForm.DAY_FIRST: r"^(?P<d>\d{1,2})[/.\-](?P<m>\d{1,2})[/.\-](?P<y>\d{4}|\d{2})$",
    DateForm.MONTH_FIRST: r"^(?P<m>\d{1,2})[/.\-](?P<d>\d{1,2})[/.\-](?P<y>\d{4}|\d{2})$",
    DateForm.DAY_FIRST_TIME: (
        r"^(?P<d>\d{1,2})[/.\-](?P<m>\d{1,2})[/.\-](?P<y>\d{4}|\d{2}),?\s+(?P<H>\d{1,2}):(?P<M>\d{2})(?::(?P<S>\d{2}))?\s*(?P<ap>[AaPp]\.?[Mm]\.?)?$"
    ),
    DateForm.MONTH_FIRST_TIME: (
        r"^(?P<m>\d{1,2})[/.\-](?P<d>\d{1,2})[/.\-](?P<y>\d{4}|\d{2}),?\s+(?P<H>\d{1,2}):(?P<M>\d{2})(?::(?P<S>\d{2}))?\s*(?P<ap>[AaPp]\.?[Mm]\.?)?$"
    ),
    DateForm.ISO_MONTH: r"^(?P<y>\d{4})[-/](?P<m>0?[1-9]|1[0-2])$",
    DateForm.ISO_WEEK: r"^(?:(?P<y>\d{4})[- ]?[Ww](?P<w>\d{1,2})|[Ww](?:eek )?(?P<w2>\d{1,2})[ /\-](?P<y2>\d{4}))$",
    DateForm.QUARTER: (
        r"^(?:(?P<y>\d{4})[ \-/]?[Qq](?P<q>[1-4])|[Qq](?P<q2>[1-4])[ \-/]?'?(?P<y2>\d{4}|\d{2})"
        r"|(?P<q3>[1-4])[Qq][ \-/]?'?(?P<y3>\d{4}|\d{2}))$"
    ),
    DateForm.MONTH_YEAR: r"^(?P<m>0?[1-9]|1[0-2])[/.\-](?P<y>\d{4})$",
    DateForm.NAMED_DAY: (
        rf"(?i)^(?:(?:[a-z]{{2,9}}\.?,? )?(?P<d>\d{{1,2}})(?:st|nd|rd|th|\.)?[ \-/]?(?:de )?(?P<b>{_MONTH_PATTERN})\.?[ \-/,]*(?:de )?(?P<y>\d{{4}}|\d{{2}})"
        rf"|(?:[a-z]{{2,9}}\.?,? )?(?P<b2>{_MONTH_PATTERN})\.? (?P<d2>\d{{1,2}})(?:st|nd|rd|th)?,? (?P<y2>\d{{4}}))$"
    ),
    DateForm.NAMED_MONTH: (
        rf"(?i)^(?:(?P<b>{_MONTH_PATTERN})\.?[ \-/']*(?:de )?(?P<y>\d{{4}}|\d{{2}})|(?P<y2>\d{{4}})[ \-/](?P<b2>{_MONTH_PATTERN})\.?)$"
    ),
    DateForm.YEAR: r"^(?P<y>(?:1[6-9]|20|21)\d{2})$",
    DateForm.SERIAL: r"^(?P<serial>[1-9]\d{4}(?:\.\d+)?)$",
    DateForm.EPOCH: r"^(?P<epoch>[1-9]\d{8,9})(?:\.\d+)?$|^(?P<ms>[1-9]\d{11,12})$",
}

LOOKED_AT = 80  # cells that tell which forms are worth trying
MOST_LOOKED_AT = 50_000
SERIAL_DAY_ZERO = pl.date(1899, 12, 30)  # day 60 of the workbook count is a leap day that never was


def read_dates(cells: pl.Series, form: DateForm) -> pl.Series:
    """The moments a text column names, Datetime in seconds, null where a cell is not of that form.

    Distinct texts are read once. A time with an offset is kept as the clock on the wall showed it.
    """
    if form is DateForm.ISO_DAY:
        plain = cells.str.to_date("%Y-%m-%d", strict=False)
        if plain.null_count() == cells.null_count():
            return plain.cast(pl.Datetime("ms"))
    # a repeated text is the rule in long tables: read each once and spread it
    distinct = cells.drop_nulls().unique(maintain_order=True)
    if distinct.len() * 2 > cells.len():
        return _read(cells, form)
    return _read(distinct, form).gather(cells.cast(pl.Enum(distinct)).to_physical())


def _read(cells: pl.Series, form: DateForm) -> pl.Series:
    texts = cells.str.strip_chars()
    groups = texts.str.extract_groups(_PATTERNS[form]).struct.unnest()
    got = set(groups.columns)

    def part(*names: str) -> pl.Expr:
        return pl.coalesce(*(pl.col(name).replace("", None) for name in names if name in got))

    if form is DateForm.SERIAL:
        days = part("serial").cast(pl.Float64)
        when = SERIAL_DAY_ZERO.cast(pl.Datetime("ms")) + pl.duration(
            milliseconds=(days * 86_400_000).round().cast(pl.Int64)
        )
        return groups.select(when.dt.round("1s")).to_series()
    if form is DateForm.EPOCH:
        seconds = part("epoch").cast(pl.Int64).fill_null(part("ms").cast(pl.Int64) // 1000)
        return groups.select(pl.from_epoch(seconds, time_unit="s").cast(pl.Datetime("ms"))).to_series()
    year = _full_year(part("y", "y2", "y3").cast(pl.Int32))
    if form is DateForm.ISO_WEEK:
        iso = pl.format("{}-{}-1", year.cast(pl.String), part("w", "w2").str.zfill(2))
        return groups.select(
            pl.when(year.is_not_null()).then(iso).str.to_date("%G-%V-%u", strict=False).cast(pl.Datetime("ms"))
        ).to_series()
    month = pl.lit(1)
    day: pl.Expr = pl.lit(1)
    if form is DateForm.QUARTER:
        month = part("q", "q2", "q3").cast(pl.Int32) * 3 - 2
    elif "b" in got:
        month = part("b", "b2").str.to_lowercase().replace_strict(_MONTH_NUMBERS, default=None, return_dtype=pl.Int32)
    elif "m" in got:
        month = part("m").cast(pl.Int32)
    if "d" in got:
        day = part("d", "d2").cast(pl.Int32)
    hour, minute, second = (part(n).cast(pl.Int32).fill_null(0) if n in got else pl.lit(0) for n in ("H", "M", "S"))
    text = pl.format("{}-{}-{} {}:{}:{}", *(e.cast(pl.String) for e in (year, month, day, hour, minute, second)))
    wall = groups.select(
        pl.when(year.is_not_null()).then(text).str.to_datetime("%Y-%m-%d %H:%M:%S", strict=False, time_unit="ms")
    ).to_series()
    return _on_one_clock(wall, groups["off"]) if "off" in got else wall


def _on_one_clock(wall: pl.Series, offsets: pl.Series) -> pl.Series:
    """Where the offset changes within the column, everything on its smallest one (standard time).

    An hour that the clocks repeat is then two hours, and one that they skip is not missing.
    """
    plain = offsets.str.replace("Z", "+0000", literal=True).str.replace(":", "", literal=True)
    minutes = plain.str.slice(1, 2).cast(pl.Int64) * 60 + plain.str.slice(3, 2).cast(pl.Int64)
    minutes = minutes * pl.select(pl.when(plain.str.starts_with("-")).then(-1).otherwise(1)).to_series()
    if minutes.n_unique() < 2 or minutes.null_count():
        return wall
    late = (minutes - minutes.min()).cast(pl.Int64) * 60_000
    return wall - late.cast(pl.Duration("ms"))


def to_standard_time(moments: pl.Series, zone: str, groups: pl.Series | None) -> pl.Series:
    """Wall-clock moments of a place to its standard time all year round.

    Of an hour that the clocks repeat, the second row of the same group is the later one; a moment
    that the clocks skip becomes null. groups: what tells the series of the rows apart.
    """
    frame = pl.DataFrame(
        {"when": moments, "group": groups if groups is not None else pl.repeat(0, moments.len(), eager=True)}
    )
    turn = pl.col("when").cum_count().over("when", "group")
    ambiguous = pl.when(turn == 1).then(pl.lit("earliest")).otherwise(pl.lit("latest"))
    local = pl.col("when").dt.replace_time_zone(zone, ambiguous=ambiguous, non_existent="null")
    return frame.select(
        (local.dt.convert_time_zone("UTC").dt.replace_time_zone(None)) + local.dt.base_utc_offset()
    ).to_series()


def _full_year(year: pl.Expr) -> pl.Expr:
    """Two-digit years: 69 to 99 are of the last century, as POSIX has it."""
    return pl.when(year < 69).then(year + 2000).when(year < 100).then(year + 1900).otherwise(year)


_COMPILED = {form: re.compile(pattern) for form, pattern in _PATTERNS.items()}


def forms_like(text: str) -> set[DateForm]:
    """The forms a single text looks like; whether it is a day of the calendar is not checked."""
    return {form for form, pattern in _COMPILED.items() if pattern.match(text.strip())}


def _worth_trying(texts: pl.Series) -> list[DateForm]:
    """The forms that any of a few texts from all over a column looks like."""
    few = texts.gather_every(max(1, texts.len() // LOOKED_AT)).drop_nulls().to_list()
    seen = set().union(*(forms_like(text) for text in few))
    return [form for form in DateForm if form in seen]


def fitting_forms(cells: pl.Series, share: float = 0.5) -> list[tuple[DateForm, float]]:
    """The forms that read at least `share` of the filled cells, best first, in the order of DateForm."""
    order = list(DateForm)
    common = share >= 0.5
    # what most cells are shows in a few of them; a long column of plain numbers is not looked through
    forms = _worth_trying(cells) if common and cells.len() > LOOKED_AT else order
    some = cells.gather_every(max(1, cells.len() // MOST_LOOKED_AT)) if forms else cells.head(0)
    texts = some.drop_nulls().unique(maintain_order=True).str.strip_chars()
    texts = texts.filter(texts != "")
    if texts.len() == 0:
        return []
    sample = texts if texts.len() <= 3000 else pl.concat([texts.head(1500), texts.tail(1500)])
    found = []
    for form in forms:
        fits = 1 - _read(sample, form).null_count() / sample.len()
        if fits >= share:
            found.append((form, fits))
    return sorted(found, key=lambda item: (-item[1], order.index(item[0])))

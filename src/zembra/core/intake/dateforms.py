"""The date formats, with a pattern for each."""

from __future__ import annotations

import re
from functools import cache

from zembra.core.grammar import Choice


class DateForm(Choice):
    """The date formats, in order of preference."""

    ISO_DAY = ("iso-day", "year-month-day", "2026-03-14")
    SLASH_YMD = ("slash-ymd", "year/month/day", "2026/03/14")
    ISO_TIME = ("iso-time", "year-month-day and time", "2026-03-14T07:00, 2026/03/14 07:00")
    COMPACT = ("compact", "year month day in eight digits", "20260314")
    COMPACT_TIME = ("compact-time", "year month day and time without separators", "20260314T0700")
    DAY_FIRST = ("day-first", "day first", "14/03/2026")
    MONTH_FIRST = ("month-first", "month first", "03/14/2026")
    SHORT_YMD = ("short-ymd", "short year first", "26-03-14")
    DAY_FIRST_TIME = ("day-first-time", "day first, and time", "14/03/2026 07:00")
    MONTH_FIRST_TIME = ("month-first-time", "month first, and time", "03/14/2026 07:00")
    ISO_MONTH = ("iso-month", "year-month", "2026-03, 2026M03")
    ISO_WEEK = ("iso-week", "ISO week", "2026-W11, week 11/2026")
    QUARTER = ("quarter", "year and quarter", "2026-Q1, Q1 26, 2026:1")
    HALF = ("half", "year and half-year", "2026-H1, H1 26")
    FISCAL = ("fiscal", "fiscal year", "FY2026, 2026/27")
    NAMED_DAY = ("named-day", "day, month in words, year", "14 Mar 2026, Mar-14-2026")
    NAMED_TIME = ("named-time", "day, month in words, year, and time", "14 Mar 2026 07:00")
    NAMED_MONTH = ("named-month", "month in words, year", "Mar 2026")
    YEAR_MONTH = ("year-month", "a year and a month, two numbers", "2026 and 3")
    YEAR_QUARTER = ("year-quarter", "a year and a quarter, two numbers", "2026 and 1")
    YEAR_WEEK = ("year-week", "a year and an ISO week, two numbers", "2026 and 11")
    YEAR_MONTH_DAY = ("year-month-day", "a year, a month and a day", "2026, 3 and 14")
    DAY_HOUR = ("day-hour", "a day and an hour", "2026-03-14 and 7")
    YEAR = ("year", "year", "2026")
    MONTH_YEAR = ("month-year", "month/year in digits", "03/2026")
    COMPACT_MONTH = ("compact-month", "year month in six digits", "202603")
    COMPACT_WEEK = ("compact-week", "year and ISO week in six digits", "202611")
    DECIMAL_YEAR = ("decimal-year", "years with a fraction", "1949.083 is Feb 1949")
    SHORT_YEAR = ("short-year", "years of two digits", "63 is 1963")
    SHORT_MONTH = ("short-month", "month and year of two digits", "1/86 is Jan 1986")
    SHORT_COMPACT = ("short-compact", "year month day in six digits", "800102")
    SERIAL = ("serial", "workbook day numbers", "46095 is 14 Mar 2026")
    NAME_YEAR = ("name-year", "a year in a longer name", "riders2026, 2026_riders")
    EPOCH = ("epoch", "seconds, or parts of them, since 1970", "1773446400")

    @property
    def timed(self) -> bool:
        """Whether it includes a local time of day."""
        return self in _TIMED

    @property
    def in_utc(self) -> bool:
        """Whether it counts from a fixed moment."""
        return self is DateForm.EPOCH

    def coarser_than(self, other: DateForm) -> bool:
        """Return whether it names longer periods than another one."""
        return _COARSENESS.get(self, 0) > _COARSENESS.get(other, 0)

    @property
    def bare(self) -> bool:
        """Whether a plain number can match it."""
        return self in _BARE


# days and times are of the finest
_COARSENESS = {
    DateForm.ISO_WEEK: 1, DateForm.YEAR_WEEK: 1, DateForm.COMPACT_WEEK: 1, DateForm.ISO_MONTH: 2, DateForm.NAMED_MONTH: 2,
    DateForm.YEAR_MONTH: 2, DateForm.MONTH_YEAR: 2, DateForm.COMPACT_MONTH: 2, DateForm.QUARTER: 3, DateForm.YEAR_QUARTER: 3,
    DateForm.HALF: 4, DateForm.YEAR: 5, DateForm.FISCAL: 5,
}  # fmt: skip
_TIMED = (
    DateForm.ISO_TIME, DateForm.DAY_FIRST_TIME, DateForm.MONTH_FIRST_TIME, DateForm.NAMED_TIME, DateForm.COMPACT_TIME,
    DateForm.DAY_HOUR,
)  # fmt: skip
_BARE = (
    DateForm.COMPACT, DateForm.COMPACT_TIME, DateForm.COMPACT_MONTH, DateForm.COMPACT_WEEK, DateForm.YEAR, DateForm.SERIAL, DateForm.EPOCH,
    DateForm.DECIMAL_YEAR, DateForm.SHORT_YEAR, DateForm.SHORT_MONTH, DateForm.SHORT_COMPACT,
)  # fmt: skip
# so short that they are tried only where a column's name says what it holds
SHORT = (DateForm.SHORT_YEAR, DateForm.SHORT_MONTH, DateForm.SHORT_COMPACT)
# not looked for in cells: SHORT, and what only stands in the names of columns
SOUGHT = tuple(form for form in DateForm if form not in (*SHORT, DateForm.NAME_YEAR))
# readings of which a column may allow two, so that its steps must tell
RIVALS = (
    (DateForm.DAY_FIRST, DateForm.MONTH_FIRST, DateForm.SHORT_YMD),
    (DateForm.DAY_FIRST_TIME, DateForm.MONTH_FIRST_TIME),
    (DateForm.ISO_MONTH, DateForm.FISCAL, DateForm.QUARTER),
)

_PIECES = {
    "y4": r"(?P<y>(?:1[5-9]|2[01])\d{2}|2200)",
    "y2": r"(?P<y>\d{2})",
    "y": r"'?(?P<y>(?:1[5-9]|2[01])\d{2}|2200|\d{2})",
    "m": r"(?P<m>0?[1-9]|1[0-2])",
    "mm": r"(?P<m>0[1-9]|1[0-2])",
    "d": r"(?P<d>\d{1,2})",
    "dd": r"(?P<d>[0-3]\d)",
    "q": r"(?P<q>0?[1-4]|IV|I{1,3})",
    "quarter": r"(?:\.|st|nd|rd|th|er?|ème|º|°|ª)? ?(?i:q|kw\.?|quartal|quarter|trimestre|trim\.?|tri\.?|kwartaal|kvartal|kwarta[lł]|[cč]tvrtlet[ií]|negyed[eé]v|nelj[aä]nnes)",
    "fy": r"(?i:fy|fiscal year|fiscal)[ \-]?{y}(?:[/\-–](?:\d{2}|\d{4}))?",
    "span": r"{y4}[/\-–](?:\d{2}|\d{4})",
    "h": r"(?P<h>[12])",
    "w": r"(?P<w>[0-5]?\d)",
    "b": r"(?P<b>[^\W\d_][^\W\d_]+)\.?",
    "weekday": r"(?:[^\W\d_]{2,10}\.?,? )?",
    "time": r"(?P<H>\d{1,2})(?::(?P<M>\d{2})(?::(?P<S>\d{2})(?:[.,]\d+)?)?)?\s*(?P<ap>[AaPp]\.?[Mm]\.?)?\s?{off}",
    "off": r"(?:(?P<off>Z|UTC|GMT|WES?T|BST|CES?T|MES?Z|EES?T|[ECMP][SD]T|[+-]\d{2}:?\d{2}|[+-]\d{2})(?:\[[^\]]*\])?)?(?:\s\([^)]*\))?",
    "clock": r"(?P<H>\d{1,2}):(?P<M>\d{2})(?::(?P<S>\d{2})(?:[.,]\d+)?)?\s*(?P<ap>[AaPp]\.?[Mm]\.?)?\s?{off}",
}
# each form: one of several writings, in the pieces above
_WRITINGS: dict[DateForm, tuple[str, ...]] = {
    DateForm.ISO_DAY: (r"{weekday}{y4}-{m}-{d}(?:[T ]00:00(?::00(?:\.0+)?)?)?", r"{y4}年{m}月{d}日"),
    DateForm.SLASH_YMD: (r"{weekday}{y4}[/.]{m}[/.]{d}\.?", r"{y4} {mm} {dd}"),
    DateForm.ISO_TIME: (r"{y4}[-/.]{m}[-/.]{d}(?:(?:T|,? +){clock})?", r"{y4}-{m}-{d}T(?P<H>\d{1,2}){off}"),
    DateForm.COMPACT: (r"{y4}{mm}{dd}",),
    DateForm.COMPACT_TIME: (
        r"{y4}{mm}{dd}[T ]?(?P<H>\d{2})(?P<M>\d{2})(?P<S>\d{2})?{off}",
        r"{y4}{mm}{dd}[T ](?P<H>\d{2})(?::(?P<M>\d{2})(?::(?P<S>\d{2}))?)?{off}",
    ),
    DateForm.DAY_FIRST: (r"{weekday}{d}[/.\-]{m}[/.\-]{y}\.?", r"{d}\. {m}\. {y}"),
    DateForm.MONTH_FIRST: (r"{weekday}{m}[/.\-]{d}[/.\-]{y}",),
    DateForm.SHORT_YMD: (r"{y2}[/.\-]{m}[/.\-]{d}",),
    DateForm.DAY_FIRST_TIME: (r"{d}[/.\-]{m}[/.\-]{y}(?:(?:T|,?\s+){clock})?",),
    DateForm.MONTH_FIRST_TIME: (r"{m}[/.\-]{d}[/.\-]{y}(?:(?:T|,?\s+){clock})?",),
    DateForm.ISO_MONTH: (r"{y4}[-/.]{m}", r"{y4}[- ]?[Mm]{m}", r"{y4}年{m}月"),
    DateForm.ISO_WEEK: (
        r"{y4}[- ]?[Ww]{w}(?:-1)?",
        r"(?i:w|week|wk|kw|semaine|sem\.?|uke|v\.?|vecka)[ .]?{w}(?:, | of |[ /\-]){y4}",
        r"{y4}[ ,/\-]+(?i:week|wk|kw|semaine|uke|vecka)[ .]?{w}",
    ),
    DateForm.QUARTER: (
        r"{y4}[ \-/.:]?(?i:q|qtr|quarter|kv)\.? ?{q}",
        r"{y4}[ \-/]?(?i:t) ?{q}",
        r"{y4}[:\-](?P<q>I{1,3}|IV)",
        r"{y4}:(?P<q>0?[1-4])",
        r"{y4}\.(?P<q>[1-4])",
        r"(?i:q|qtr|quarter|t|kv)\.? ?{q}[ \-/.,]*{y}",
        r"{q}(?i:q)[ \-/]?{y}",
        r"(?P<q>I{1,3}|IV)[ /\-]{y4}",
        r"{q}{quarter}[ ,/.\-]*(?i:de |do |of |r\. ?)?{y}",
        r"(?i:kw|kwartał|quartal|quarter|trimestre|trim|kvartal|čtvrtletí)\.? ?{q}[ ,/.\-]*(?i:de |do |of )?{y}",
        r"{y4}\.?[ ,/\-]*{q}{quarter}",
        r"{q}[TtKk][ \-/]?{y}",
    ),
    DateForm.HALF: (r"{y4}[ \-/]?(?:[HhSs]){h}", r"(?:[HhSs]){h}[ \-/]?{y}", r"{h}[Hh][ \-/]?{y}"),
    DateForm.FISCAL: (
        r"(?i:fy|fiscal year|fiscal)[ \-]?{y}(?:[/\-–](?P<until>\d{2}|\d{4}))?",
        r"{y4}[/\-–](?P<until>\d{2}|\d{4})",
    ),
    DateForm.NAMED_DAY: (
        r"{weekday}{d}(?:st|nd|rd|th|er|º|\.)?[ \-/.]*(?:de |of )?{b}[ \-/,.']*(?:de |del )?{y}",
        r"{weekday}{b}[ \-/]{d}(?:st|nd|rd|th)?,?[ \-/]{y4}",
        r"{y4}[ \-/]{b}[ \-/]{d}",
    ),
    DateForm.NAMED_TIME: (
        r"{weekday}{d}[ \-/.]*{b}[ \-/,.]*{y4}(?:(?:T|,? +|:){clock})?",
        r"{weekday}{b}[ \-/]{d},?[ \-/]{y4}(?:,? +{clock})?",
    ),
    DateForm.NAMED_MONTH: (r"{b}[ \-/',.]*(?:de |of )?{y}", r"{y4}\.?[ \-/,]*{b}"),
    DateForm.YEAR_MONTH: (
        r"{y4} (?i:m)?{m}", r"(?i:m)?{m} {y4}", r"{y4} {b}", r"{b} {y4}", r"{fy} (?i:m)?{m}", r"{fy} {b}",
        r"{b} {fy}", r"{span} (?i:m)?{m}", r"{span} {b}", r"{b} {span}",
    ),
    DateForm.YEAR_QUARTER: (
        r"{y4} (?i:q|qtr |quarter |kw\.? ?|t)?{q}", r"(?i:q|qtr |quarter |kw\.? ?|t)?{q} {y4}", r"{y4} {q}{quarter}",
        r"{q}{quarter} {y4}",
    ),
    DateForm.YEAR_WEEK: (r"{y4} (?i:w|week |wk )?{w}", r"(?i:w|week |wk )?{w} {y4}"),
    DateForm.YEAR_MONTH_DAY: (r"{y4} {m} {d}(?: {time})?", r"{y4} {b} {d}(?: {time})?", r"{d} {m} {y4}(?: {time})?"),
    DateForm.DAY_HOUR: (
        r"{y4}[-/.]{m}[-/.]{d} {time}",
        r"{y4}{mm}{dd} {time}",
    ),
    DateForm.YEAR: (r"{y4}(?:\.0+)?", r"{y4}年"),
    DateForm.MONTH_YEAR: (r"{m}[/.\-]{y4}",),
    DateForm.COMPACT_MONTH: (r"{y4}{mm}",),
    DateForm.COMPACT_WEEK: (r"{y4}(?P<w>0[1-9]|[1-4]\d|5[0-3])",),
    DateForm.DECIMAL_YEAR: (r"(?P<dec>(?:1[5-9]|2[01])\d{2}(?:[.,]\d+)?)",),
    DateForm.SHORT_YEAR: (r"{y2}",),
    DateForm.NAME_YEAR: (r"(?:.*[^\d.,])?(?P<y>(?:1[5-9]|20|21)\d{2})(?:[^\d.,].*)?",),
    DateForm.SHORT_MONTH: (r"{m}[/.\-]{y2}",),
    DateForm.SHORT_COMPACT: (r"{y2}{mm}{dd}",),
    DateForm.SERIAL: (r"(?P<serial>[1-9]\d{4}(?:\.\d+)?)",),
    DateForm.EPOCH: (
        r"(?P<seconds>[1-9]\d{8,9})(?:\.\d+)?", r"(?P<milli>[1-9]\d{11,12})(?:\.0+)?", r"(?P<micro>[1-9]\d{14,15})",
        r"(?P<nano>[1-9]\d{17,18})",
    ),
}  # fmt: skip
_PIECE = re.compile(r"\{([a-z][a-z0-9]*)\}")
_GROUP = re.compile(r"\(\?P<(\w+)>")


def _pattern(writings: tuple[str, ...]) -> str:
    """Join the patterns of all variants; repeated groups are numbered: y0, y1…"""
    alternatives = []
    for n, writing in enumerate(writings):
        said = writing
        while _PIECE.search(said):
            said = _PIECE.sub(lambda piece: _PIECES.get(piece[1], piece[0].replace("{", "\0")), said)
        said = said.replace("\0", "{")
        alternatives.append(_GROUP.sub(lambda group, n=n: f"(?P<{group[1]}{n}>", said))  # type: ignore[misc]
    return f"^(?:{'|'.join(alternatives)})$"


PATTERNS = {form: _pattern(writings) for form, writings in _WRITINGS.items()}


@cache
def compiled(form: DateForm) -> re.Pattern[str]:
    """Compile on first use, as all together take longer than a small file."""
    return re.compile(PATTERNS[form])


# what stands behind a date: a footnote, or that its number is provisional, revised, estimated, a forecast, a budget, actual
MARK = r"(\d|\p{L}\.?)\s*(?:\*{1,3}|[†‡§¹²³⁴])$|(\d) ?(?:\([prefsPREFAB]\)|[prefsPREFAB])$"
